package ask_test

import (
	"context"
	"errors"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// TestInDoubt: a question that was put for money by a program that was killed is not put again
// until the user says so, and what it may have cost is neither forgotten nor counted twice.
func TestInDoubt(t *testing.T) {
	f := &studytest.Fake{}
	path, budget := filepath.Join(t.TempDir(), "d.db"), func(o *studytest.Setup) { o.Budget = 1_000_000 }
	s, _ := studytest.Open(t, f, path, budget)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Ideas.Table(ctx, n)
	key := s.Ask.ResultsKey("star chart", n.Locale(), 0)
	other, st := studytest.Open(t, f, path, budget)
	if _, err := other.Ask.Charge(ctx, ask.Results, key); err != nil {
		t.Fatal(err)
	}
	other.Close()
	st.Close() // the other program is killed
	j, err := s.Results.LookUp(ctx, n, b.Named("star chart"), false)
	v := studytest.Finish(t, s, j, err)
	if v.State != jobs.Done || v.Failed != 1 || !strings.Contains(v.Failures[0].Error,
		"under $0.01 may have been charged") {
		t.Fatalf("%+v", v)
	}
	if !v.Lacks() {
		t.Error("what was held back cannot be tried again")
	}
	if spent := today(t, s); spent != 2000 {
		t.Errorf("spent %d", spent)
	}
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = studytest.Finish(t, s, j, nil); v.Failed != 0 || v.CostMicros != 2000+10*1000 {
		t.Errorf("after the user's word: %+v", v)
	}
	if spent := today(t, s); spent != 2*2000+10*1000 {
		t.Errorf("spent %d in all", spent)
	}
}

// TestTheOtherProgramIsWaitedFor: what somebody who is alive asks is nobody's doubt, and is paid once.
func TestTheOtherProgramIsWaitedFor(t *testing.T) {
	f := &studytest.Fake{Slow: 30 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := studytest.Open(t, f, path, nil)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map\nmoon globe"))
	b, _ := s.Ideas.Table(ctx, n)
	other, _ := studytest.Open(t, f, path, nil)
	var wg sync.WaitGroup
	ended := make([]jobs.Job, 2)
	for i, one := range []*study.Study{s, other} {
		wg.Go(func() {
			j, err := one.Results.LookUp(ctx, n, b.Named("star chart", "moon map", "moon globe"), false)
			ended[i] = studytest.Finish(t, one, j, err)
		})
	}
	wg.Wait()
	alone, m := studytest.Begin(t, f, nil)
	alone.Imports.Take(ctx, m, "list", strings.NewReader("star chart\nmoon map\nmoon globe"))
	mine, _ := alone.Ideas.Table(ctx, m)
	j, err := alone.Results.LookUp(ctx, m, mine.Named("star chart", "moon map", "moon globe"), false)
	once := studytest.Finish(t, alone, j, err).CostMicros
	var micros int64
	for _, v := range ended {
		if v.Failed != 0 || v.Done != 3 || v.Doubts != 0 {
			t.Errorf("%+v", v)
		}
		micros += v.CostMicros
	}
	if micros != once || today(t, s) != once {
		t.Errorf("paid %d, %d today, and once is %d", micros, today(t, s), once)
	}
}

// late is a source whose turn comes when somebody else has just asked.
type late struct {
	*studytest.Fake
	meanwhile func()
}

func (l late) Turn(ctx context.Context) (context.Context, error) {
	l.meanwhile()
	return ctx, nil
}

// TestNobodyPaysForWhatIsThere: an answer that another program kept while one waited for one's turn is taken.
func TestNobodyPaysForWhatIsThere(t *testing.T) {
	f := &studytest.Fake{}
	path := filepath.Join(t.TempDir(), "d.db")
	other, _ := studytest.Open(t, f, path, nil)
	in := market.Locale{Country: "US", Language: "en"}
	ask := func(s *study.Study) {
		t.Helper()
		if _, err := s.Ask.Results(ctx, "star chart", in, 0); err != nil {
			t.Fatal(err)
		}
	}
	s, _ := studytest.Open(t, f, path, func(o *studytest.Setup) {
		o.Market.Search = late{f, func() { ask(other) }}
	})
	ask(s)
	if asked, spent := f.Asked.Load(), today(t, s); asked != 1 || spent != 2000 {
		t.Errorf("asked %d times, for %d", asked, spent)
	}
}

// TestAskedAgainCosts: asking again replaces the answers, and the day's sum forgets none of them.
func TestAskedAgainCosts(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Budget = 30_000 })
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Ideas.Table(ctx, n)
	for i := range 4 {
		j, err := s.Results.LookUp(ctx, n, b.Named("star chart"), true)
		v := studytest.Finish(t, s, j, err)
		want := jobs.Stopped
		if i < 2 {
			want = jobs.Done
		}
		if v.State != want {
			t.Errorf("time %d: %s, %s", i, v.State, v.Message)
		}
	}
	if spent := today(t, s); spent > 30_000 || spent < 24_000 {
		t.Errorf("spent %d of 30,000", spent)
	}
}

// broken answers demand with what no reader can read, so often.
type broken struct {
	studytest.Fake
	times atomic.Int64
}

func (b *broken) Demand(ctx context.Context, p []string, in market.Locale) (map[string]demand.Series, error) {
	if b.times.Add(-1) >= 0 {
		return nil, &market.Error{Source: "the fake", Trouble: market.Malformed, Err: errors.New("no JSON")}
	}
	return b.Fake.Demand(ctx, p, in)
}

// TestFiguresThatFailed are asked for again, when somebody goes on and when they are looked up
// anew; one bad answer holds up no other.
func TestFiguresThatFailed(t *testing.T) {
	t.Parallel()
	f := &broken{}
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Demand = f })
	var list strings.Builder
	for i := range 250 {
		list.WriteString("moon map " + strings.Repeat("x", 1+i%9) + " " + string(rune('a'+i/9)) + "\n")
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader(list.String()))
	f.times.Store(1)
	j, err := s.Gathering.LookUpSearches(ctx, n)
	v := studytest.Finish(t, s, j, err)
	left, _ := s.Ideas.Undemanded(ctx, n.ID)
	if v.State != jobs.Done || v.Failed != 1 || left != 100 {
		t.Fatalf("%+v; %d are without figures", v, left)
	}
	f.times.Store(1)
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, j, nil)
	if left, _ := s.Ideas.Undemanded(ctx, n.ID); left != 100 {
		t.Errorf("%d are without figures", left)
	}
	j, err = s.Gathering.LookUpSearches(ctx, n)
	if studytest.Finish(t, s, j, err); f.times.Load() != -1 {
		t.Errorf("asked %d times", f.times.Load())
	}
	if left, _ := s.Ideas.Undemanded(ctx, n.ID); left != 0 {
		t.Errorf("%d are without figures still", left)
	}
}

// TestSuggestionsThatFailed and are tried again are followed by the searches of what they bring.
func TestSuggestionsThatFailed(t *testing.T) {
	f := &studytest.Fake{Refuses: "moon k"}
	s, n := studytest.Begin(t, f, nil)
	j := studytest.Gather(t, s, n, "moon")
	if j.Failed != 1 || !strings.HasPrefix(j.Message, "1 of ") || !strings.HasSuffix(j.Message, " failed") {
		t.Fatalf("%+v", j)
	}
	f.Refuses = ""
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, j, nil)
	b, _ := s.Ideas.Table(ctx, n)
	for _, p := range []string{"moon k one", "moon k two"} {
		if idea := studytest.Tell(t, s, n, studytest.Named(b, p)).Idea; !idea.Value(sieve.Searches).Known {
			t.Errorf("%s has no searches: %s", p, idea.DemandError)
		}
	}
}

// TestNothingIsShortlyBelieved: an answer that says there is nothing is asked for again after a day.
func TestNothingIsShortlyBelieved(t *testing.T) {
	now := time.Now()
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Now = func() time.Time { return now } })
	for text, answer := range map[string][]string{"full": {"one"}, "empty": {}} {
		fetched := 0
		for range 2 {
			ask.Ask(ctx, s.Ask, ask.Suggestions, ask.LocaleKey(n.Locale(), text), func(context.Context) ([]string, error) {
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

// today is what was spent today by the ledger.
func today(t *testing.T, s *study.Study) int64 {
	f, err := s.Figures(ctx)
	if err != nil {
		t.Fatal(err)
	}
	return f.Today
}
