package study

import (
	"context"
	"errors"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
)

// TestCancelledElsewhere: a job that another program works on heeds what is said here, stops
// spending, and does not end as done.
func TestCancelledElsewhere(t *testing.T) {
	f := &fake{slow: 10 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := newStudy(t, f, path, nil)
	n, _ := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "US", Language: "en"})
	other, _ := newStudy(t, f, path, nil)
	for state, say := range map[string]func(context.Context, uint, uint) error{store.Cancelled: other.CancelJob,
		store.Paused: other.PauseJob} {
		j, err := s.Gather(ctx, n, GatherPlan{Seeds: []string{state, "x " + state, "y " + state, "z " + state}, Letters: true,
			Questions: true})
		if err != nil {
			t.Fatal(err)
		}
		if err := say(ctx, n.ID, j.ID); err != nil {
			t.Fatal(err)
		}
		time.Sleep(2 * glance)
		asked := f.asked.Load()
		time.Sleep(2 * glance)
		v, _ := s.Job(ctx, n.ID, j.ID)
		if v.State != state || f.asked.Load() != asked || v.Done == v.Total {
			t.Errorf("%s elsewhere it is %s, %d of %d done, and asks on: %d", state, v.State, v.Done, v.Total,
				f.asked.Load()-asked)
		}
	}
}

// TestAClockSetBack strands no job of a killed program, and “go on” goes on.
func TestAClockSetBack(t *testing.T) {
	f := &fake{}
	path := filepath.Join(t.TempDir(), "d.db")
	var back atomic.Int64
	clock := func(o *setup) { o.Now = func() time.Time { return time.Now().Add(-time.Duration(back.Load())) } }
	s, st := newStudy(t, f, path, clock)
	n, _ := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "US", Language: "en"})
	killed := store.Job{NicheID: n.ID, Kind: gatherJob, Title: "Look up searches", State: store.Running, Params: "{}",
		Owner: "killed"}
	if err := st.CreateJob(ctx, &killed, encode([]step{{Demand: true}})); err != nil {
		t.Fatal(err)
	}
	back.Store(int64(1000 * time.Hour))
	if v := finish(t, s, Job{ID: killed.ID, NicheID: n.ID}, nil); v.State != Done {
		t.Errorf("the killed job is %s", v.State)
	}
	st.SetJob(ctx, killed.ID, store.Paused, "paused")
	st.Claim(ctx, store.Job{ID: killed.ID}, "killed again") // and never given back
	s.Watch()
	if err := s.GoOn(ctx, n.ID, killed.ID); err != nil {
		t.Fatal(err)
	}
	if v := finish(t, s, Job{ID: killed.ID, NicheID: n.ID}, nil); v.State != Done {
		t.Errorf("gone on with, it is %s", v.State)
	}
}

// TestInDoubt: a question that was put for money by a program that was killed is not put again
// until the user says so, and what it may have cost is neither forgotten nor counted twice.
func TestInDoubt(t *testing.T) {
	f := &fake{}
	s, n := begin(t, f, func(o *setup) { o.Budget = 1_000_000 })
	s.Import(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Board(ctx, n)
	key := s.resultsKey("star chart", n.locale())
	if _, err := s.charge(ctx, AskResults, key); err != nil { // and then the program is killed
		t.Fatal(err)
	}
	j, err := s.Judge(ctx, n, b.Named("star chart"), false)
	v := finish(t, s, j, err)
	if v.State != Done || v.Failed != 1 || !strings.Contains(v.Failures[0].Error, "nobody knows whether $0.002 was paid") {
		t.Fatalf("%+v", v)
	}
	if !v.Lacks() {
		t.Error("what was held back cannot be tried again")
	}
	if spent, _ := s.store.SpentSince(ctx, s.midnight()); spent != 2000 {
		t.Errorf("spent %d", spent)
	}
	if err := s.GoOn(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = finish(t, s, j, nil); v.Failed != 0 || v.CostMicros != 2000+10*1000 {
		t.Errorf("after the user's word: %+v", v)
	}
	if spent, _ := s.store.SpentSince(ctx, s.midnight()); spent != 2*2000+10*1000 {
		t.Errorf("spent %d in all", spent)
	}
}

// TestAskedAgainCosts: asking again replaces the answers, and the day's sum forgets none of them.
func TestAskedAgainCosts(t *testing.T) {
	s, n := begin(t, &fake{}, func(o *setup) { o.Budget = 30_000 })
	s.Import(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Board(ctx, n)
	for i := range 4 {
		j, err := s.Judge(ctx, n, b.Named("star chart"), true)
		v := finish(t, s, j, err)
		if want := map[bool]string{true: Done, false: Stopped}[i < 2]; v.State != want {
			t.Errorf("time %d: %s, %s", i, v.State, v.Message)
		}
	}
	if spent, _ := s.store.SpentSince(ctx, s.midnight()); spent > 30_000 || spent < 24_000 {
		t.Errorf("spent %d of 30,000", spent)
	}
}

// broken answers demand with what no reader can read, so often.
type broken struct {
	fake
	times atomic.Int64
}

func (b *broken) Demand(ctx context.Context, p []string, in market.Locale) (map[string]demand.Series, error) {
	if b.times.Add(-1) >= 0 {
		return nil, &market.Error{Source: "the fake", Trouble: market.Malformed, Err: errors.New("no JSON")}
	}
	return b.fake.Demand(ctx, p, in)
}

// TestFiguresThatFailed are asked for again, when somebody goes on and when they are looked up
// anew; one bad answer holds up no other.
func TestFiguresThatFailed(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	f := &broken{}
	s.market.Demand = f
	var list strings.Builder
	for i := range 250 {
		list.WriteString("moon map " + strings.Repeat("x", 1+i%9) + " " + string(rune('a'+i/9)) + "\n")
	}
	s.Import(ctx, n, "list", strings.NewReader(list.String()))
	f.times.Store(1)
	j, err := s.GatherDemand(ctx, n)
	v := finish(t, s, j, err)
	left, _ := s.Undemanded(ctx, n.ID)
	if v.State != Done || v.Failed != 1 || left != 100 {
		t.Fatalf("%+v; %d are without figures", v, left)
	}
	f.times.Store(1)
	if err := s.GoOn(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	finish(t, s, j, nil)
	if left, _ := s.Undemanded(ctx, n.ID); left != 100 {
		t.Errorf("%d are without figures", left)
	}
	j, err = s.GatherDemand(ctx, n)
	if finish(t, s, j, err); f.times.Load() != -1 {
		t.Errorf("asked %d times", f.times.Load())
	}
	if left, _ := s.Undemanded(ctx, n.ID); left != 0 {
		t.Errorf("%d are without figures still", left)
	}
}

// TestSuggestionsThatFailed and are tried again are followed by the searches of what they bring.
func TestSuggestionsThatFailed(t *testing.T) {
	f := &fake{refuses: "moon k"}
	s, n := begin(t, f, nil)
	j := gather(t, s, n, "moon")
	if j.Failed != 1 || j.Message != "done but for 1 of 36" && !strings.HasPrefix(j.Message, "done but for 1 of") {
		t.Fatalf("%+v", j)
	}
	f.refuses = ""
	if err := s.GoOn(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	finish(t, s, j, nil)
	b, _ := s.Board(ctx, n)
	for _, p := range []string{"moon k one", "moon k two"} {
		if idea := tell(t, s, n, ideaNamed(b, p)).Idea; !idea.Value(sieve.Searches).Known {
			t.Errorf("%s has no searches: %s", p, idea.DemandError)
		}
	}
}

// TestNothingIsShortlyBelieved: an answer that says there is nothing is asked for again after a day.
func TestNothingIsShortlyBelieved(t *testing.T) {
	now := time.Now()
	s, n := begin(t, &fake{}, func(o *setup) { o.Now = func() time.Time { return now } })
	for text, answer := range map[string][]string{"full": {"one"}, "empty": {}} {
		fetched := 0
		for range 2 {
			ask(ctx, s, AskSuggest, localeKey(n.locale(), text), func(context.Context) ([]string, error) {
				fetched++
				return answer, nil
			})
			now = now.Add(25 * time.Hour)
		}
		if want := map[string]int{"full": 1, "empty": 2}[text]; fetched != want {
			t.Errorf("%s: asked %d times", text, fetched)
		}
	}
}
