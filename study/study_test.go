package study_test

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/files"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

func TestCheckNiche(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	if n.OwnSite != "mine.example" || n.Country != "US" || n.Currency != "USD" || n.Fit != difficulty.WellMade {
		t.Errorf("niche %+v", n)
	}
	good := niches.Niche{Name: "x", Country: "DE", Language: "de"}
	for field, change := range map[string]func(*niches.Niche){
		"name": func(n *niches.Niche) { n.Name = "  " }, "country": func(n *niches.Niche) { n.Country = "Moon" },
		"language": func(n *niches.Niche) { n.Language = "xx1" }, "site": func(n *niches.Niche) { n.OwnSite = "not a domain" },
		"links": func(n *niches.Niche) { n.PlannedLinks = -1 }, "fit": func(n *niches.Niche) {
			n.Fit = 101
		}, "standing": func(n *niches.Niche) { n.LinkStanding = 5 },
	} {
		bad := good
		change(&bad)
		var invalid *input.Error
		if _, err := s.Niches.Check(bad); !errors.As(err, &invalid) || invalid.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	if _, err := s.Niches.Create(ctx, niches.Niche{Name: "SKY", Country: "US", Language: "en"}); err == nil {
		t.Error("two niches have one name")
	}
	if de, err := s.Niches.Check(good); err != nil || de.Currency != "EUR" {
		t.Errorf("Germany pays in %s, %v", de.Currency, err)
	}
}

func TestGather(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	v := studytest.Gather(t, s, n, "moon")
	if v.State != store.Done || v.Total != 1+26+14+1 || v.Done != v.Total {
		t.Fatalf("job %+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if want := 1 + 2*41 + 1; b.Len() != want { // the seed, two for each question, one shared
		t.Errorf("%d ideas, want %d", b.Len(), want)
	}
	story := studytest.Tell(t, s, n, studytest.Named(b, "shared idea"))
	if story.Idea.Value(sieve.Searches).Known || !strings.Contains(story.Idea.DemandError, "no figures") {
		t.Errorf("an idea the source does not know: %+v", story.Idea)
	}
	if got := sieve.FoundIn.NameOf(story.Idea.Value(sieve.FoundIn)); len(story.Origins) != 41 ||
		got != "completion, letter, question" {
		t.Errorf("an idea found in 41 ways remembers %d: %s", len(story.Origins), got)
	}
	before := f.Asked.Load()
	if studytest.Gather(t, s, n, "moon"); f.Asked.Load() != before {
		t.Errorf("%d fresh answers were asked for again", f.Asked.Load()-before)
	}
}

func TestReadSeeds(t *testing.T) {
	for _, bad := range []string{"", " \n\n", "🔭", strings.Repeat("a", 10000), "\u202e",
		strings.Repeat("seed of many words\n", 1) + strings.Repeat("x\ny\n", 0) + "\xff"} {
		seeds, ignored, err := gather.ReadSeeds(bad)
		if err == nil && len(ignored) == 0 {
			t.Errorf("%.20q is taken as %q", bad, seeds)
		}
	}
	many := ""
	for i := range gather.MostSeeds + 1 {
		many += fmt.Sprintf("seed %d\n", i)
	}
	if _, _, err := gather.ReadSeeds(many); err == nil {
		t.Error("more seeds than allowed are taken")
	}
	if seeds, ignored, err := gather.ReadSeeds("Moon\r\nמפת כוכבים\n<b>x</b>\n🔭\nmoon"); err != nil ||
		len(seeds) != 3 || len(ignored) != 1 || ignored[0].Line != 4 {
		t.Errorf("%q, %+v, %v", seeds, ignored, err)
	}
}

// TestSourceStopsInTheMiddle: what was fetched is kept, the job says so, and goes on.
func TestSourceStopsInTheMiddle(t *testing.T) {
	f := &studytest.Fake{Slow: 3 * time.Millisecond}
	s, n := studytest.Begin(t, f, nil)
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon", "mars"}, Letters: true, Questions: true})
	if err != nil {
		t.Fatal(err)
	}
	for f.Asked.Load() < 20 {
		time.Sleep(time.Millisecond)
	}
	f.Down.Store(true)
	v := studytest.Finish(t, s, j, nil)
	if v.State != store.Stopped || !strings.Contains(v.Message, "the fake cannot be reached") || v.Done == 0 ||
		v.Done == v.Total {
		t.Fatalf("stopped job: %+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if b.Len() == 0 {
		t.Error("nothing was kept")
	}
	f.Down.Store(false)
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = studytest.Finish(t, s, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after going on: %+v", v)
	}
}

// TestJoinedAskingFails: who joins an asking begun before the source came back asks again.
func TestJoinedAskingFails(t *testing.T) {
	s, _ := studytest.Begin(t, &studytest.Fake{}, nil)
	begun, fail := make(chan bool), make(chan bool)
	first := make(chan error)
	go func() {
		_, err := ask.Ask(ctx, s.Ask, ask.Results, "key", func(context.Context) (int, error) {
			close(begun)
			<-fail
			return 0, &market.Error{Trouble: market.Unreachable, Err: errors.New("it is down"), Charge: market.Free}
		})
		first <- err
	}()
	<-begun
	go func() { time.Sleep(20 * time.Millisecond); close(fail) }()
	got, err := ask.Ask(ctx, s.Ask, ask.Results, "key", func(context.Context) (int, error) { return 7, nil })
	if err != nil || got.Value != 7 {
		t.Errorf("%+v, %v", got, err)
	}
	if err := <-first; err == nil {
		t.Error("the first asking did not fail")
	}
}

// TestTakenUpAfterTheEnd: a job of a program that ended is taken up by the next.
func TestTakenUpAfterTheEnd(t *testing.T) {
	f := &studytest.Fake{Slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, f, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	j, _ := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Letters: true})
	for f.Asked.Load() < 8 {
		time.Sleep(time.Millisecond)
	}
	s.Close()
	if v, _ := st.Job(ctx, j.ID); v.State != store.Running {
		t.Fatalf("the interrupted job is %s", v.State)
	}
	done, _ := st.Progress(ctx, j.ID)
	next, _ := studytest.Open(t, f, path, nil)
	next.Jobs.Watch()
	for range 1000 {
		if v, _ := next.Jobs.Get(ctx, n.ID, j.ID); v.State == store.Done {
			if v.Done != v.Total || done.Done == 0 || done.Done == done.Total {
				t.Errorf("job %+v, was at %+v", v, done)
			}
			return
		}
		time.Sleep(5 * time.Millisecond)
	}
	t.Error("the job was not taken up")
}

// TestWaitedForElsewhere: who waits for a job waits also while another program works on
// it, and goes on with it when that one was killed.
func TestWaitedForElsewhere(t *testing.T) {
	t.Parallel()
	f := &studytest.Fake{Slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, f, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	next, _ := studytest.Open(t, f, path, nil)
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Letters: true})
	if v := studytest.Finish(t, next, j, err); v.State != store.Done || v.Done != v.Total {
		t.Errorf("while the other works: %+v", v)
	}
	j, _ = s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"mars"}, Letters: true})
	s.Close()
	row, _ := st.Job(ctx, j.ID)
	if held, err := st.Claim(ctx, row, "killed"); !held || err != nil {
		t.Fatal(held, err)
	}
	if v := studytest.Finish(t, next, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after the other was killed: %+v", v)
	}
}

func TestPauseAndCancel(t *testing.T) {
	f := &studytest.Fake{Slow: 4 * time.Millisecond}
	s, n := studytest.Begin(t, f, nil)
	j, _ := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Letters: true})
	if err := s.Jobs.Pause(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Paused {
		t.Errorf("paused job is %s", v.State)
	}
	s.Jobs.Resume(ctx, n.ID, j.ID)
	s.Jobs.Cancel(ctx, n.ID, j.ID)
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("cancelled job is %s", v.State)
	}
	s.Jobs.Resume(ctx, n.ID, j.ID)
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("a cancelled job went on: %s", v.State)
	}
	if _, err := s.Jobs.Get(ctx, n.ID+1, j.ID); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("a job of another niche: %v", err)
	}
}

func TestJudge(t *testing.T) {
	f := &studytest.Fake{Refuses: "refused"}
	s, n := studytest.Begin(t, f, nil)
	s.Ideas.Import(ctx, n, "list", strings.NewReader("star chart\nrefused phrase\nmoon map"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := []uint{studytest.Named(b, "star chart"), studytest.Named(b, "refused phrase"), studytest.Named(b, "moon map")}
	e, err := s.Results.Estimate(ctx, n, results.Top(), ids)
	if err != nil || e.Lookups != 3+3*20 || e.Micros != 3*2000+30*1000 {
		t.Errorf("estimate %+v, %v", e, err)
	}
	j, err := s.Results.LookUp(ctx, n, ids, false)
	v := studytest.Finish(t, s, j, err)
	if v.State != store.Done || v.Failed != 1 || v.Found != 2 || v.CostMicros > e.Micros || v.CostMicros == 0 {
		t.Errorf("job %+v", v)
	}
	// Two of the three have results at hand, each with one page that could not be had.
	if e, err := s.Results.Estimate(ctx, n, results.Top(), ids); err != nil || e.Fresh != 2 || e.Lookups != 1+20+2 {
		t.Errorf("estimate of what is left %+v, %v", e, err)
	}
	story := studytest.Tell(t, s, n, ids[0])
	ev := story.Evidence
	if ev == nil || len(ev.Reading.Entries) != 10 || len(ev.Verdict.Holds) != 9 || len(ev.MyPages) != 1 ||
		!ev.MineKnown {
		t.Fatalf("evidence %+v", ev)
	}
	if bad := ev.Reading.Entries[7]; !strings.Contains(bad.PageError, "it is broken") || !bad.Fit.Partial {
		t.Errorf("the page that could not be read: %+v", bad)
	}
	if story := studytest.Tell(t, s, n, ids[1]); story.Evidence != nil ||
		!strings.Contains(story.Idea.JudgeError, "not that") {
		t.Errorf("the refused idea: %+v", story.Idea)
	}
	before := f.Asked.Load()
	j, err = s.Results.LookUp(ctx, n, ids[:1], false)
	if studytest.Finish(t, s, j, err); f.Asked.Load() != before {
		t.Error("what is at hand was asked again")
	}
	j, err = s.Results.LookUp(ctx, n, ids[:1], true)
	if studytest.Finish(t, s, j, err); f.Asked.Load() != before+1+10+1 { // results, ten pages' links, the graph
		t.Errorf("asking again asked %d questions", f.Asked.Load()-before)
	}
	was := studytest.Reach(story)
	asked := f.Asked.Load()
	n.PlannedLinks = 10
	_, job, err := s.Results.ChangeNiche(ctx, n)
	if err != nil || job == nil || job.Brings != "reckoned anew" {
		t.Fatalf("job %+v, %v", job, err)
	}
	if v := studytest.Finish(t, s, *job, nil); v.State != jobs.Done || v.Found != 2 {
		t.Errorf("reckoning anew: %+v", v)
	}
	if now := studytest.Reach(studytest.Tell(t, s, n, ids[0])); now <= was || f.Asked.Load() != asked {
		t.Errorf("ten links planned: reach %v, was %v", now, was)
	}
}

func TestBudgetAndMissingSource(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Budget = 30_000 })
	s.Ideas.Import(ctx, n, "list", strings.NewReader("a b\nc d e\nf g h i\nj"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, -1)
	j, err := s.Results.LookUp(ctx, n, ids, false)
	if v := studytest.Finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "budget of $0.03") ||
		v.CostMicros > 30_000 {
		t.Errorf("job %s: %s, cost %d", v.State, v.Message, v.CostMicros)
	}
	s, n = studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Search = nil })
	s.Ideas.Import(ctx, n, "list", strings.NewReader("a b"))
	b, _ = s.Ideas.Table(ctx, n)
	j, err = s.Results.LookUp(ctx, n, b.Pass(sieve.Sieve{}).IDs(0, -1), false)
	if v := studytest.Finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "--results") {
		t.Errorf("job %s: %s", v.State, v.Message)
	}
}

func TestImportAndExport(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	rep, err := s.Ideas.Import(ctx, n, "phrases.csv",
		strings.NewReader("phrase,searches,cpc\nBest Moon Map,120,0.5\nbest moon map,7,\n🔭,1,\nmars,x,\nunder ten,<10,\n"))
	if err != nil || rep.Added != 2 || rep.Merged != 1 || len(rep.Problems) != 2 {
		t.Fatalf("report %+v, %v", rep, err)
	}
	if _, err := s.Ideas.Import(ctx, n, "x", strings.NewReader(" \n")); err == nil {
		t.Error("an empty list is taken")
	}
	b, _ := s.Ideas.Table(ctx, n)
	s.Ideas.Decide(ctx, n.ID, []uint{studytest.Named(b, "best moon map")}, sieve.Kept)
	out := studytest.Export(t, s, n, sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}}, "csv")
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || len(rows) != 2 || rows[1][0] != "best moon map" || rows[1][2] != "120" || rows[1][4] != "0.50" ||
		!strings.HasSuffix(out, "\r\n") {
		t.Errorf("CSV %q, %v", out, err)
	}
	var records []map[string]any
	out = studytest.Export(t, s, n, sieve.Sieve{Down: true}, "json")
	if err := json.Unmarshal([]byte(out), &records); err != nil || len(records) != 2 || records[0]["difficulty"] != nil ||
		records[0]["searches"] != 120.0 || records[1]["under_floor"] != true {
		t.Errorf("JSON %s, %v", out, err)
	}
	if out = studytest.Export(t, s, n, sieve.Sieve{}, "table"); !strings.Contains(out, "<10") {
		t.Errorf("table %s", out)
	}
	if _, err := files.FormatNamed("pdf"); err == nil {
		t.Error("an unknown format is written")
	}
}

func TestHarmless(t *testing.T) {
	for _, cell := range []string{"=1+1", "+1", "-1", "@x", "\tx", "\r=1"} {
		if got := files.Harmless(cell); got != "'"+cell {
			t.Errorf("%q is written as %q", cell, got)
		}
	}
	if files.Harmless("best telescope") != "best telescope" || files.Harmless("") != "" {
		t.Error("plain text is changed")
	}
}

func TestBoardFollowsOtherPrograms(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := studytest.Open(t, &studytest.Fake{}, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if b, _ := s.Ideas.Table(ctx, n); b.Len() != 0 {
		t.Fatal("a new niche has ideas")
	}
	other, _ := studytest.Open(t, &studytest.Fake{}, path, nil)
	other.Ideas.Import(ctx, n, "x", strings.NewReader("one\ntwo\nthree words here"))
	b, _ := s.Ideas.Table(ctx, n)
	if b.Len() != 3 {
		t.Fatalf("%d ideas are seen", b.Len())
	}
	other.Ideas.Decide(ctx, n.ID, []uint{studytest.Named(b, "two")}, sieve.Dropped)
	b, _ = s.Ideas.Table(ctx, n)
	open := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}
	if b.Pass(open).Count != 2 || b.Len() != 3 {
		t.Error("another program's decision is not seen")
	}
	stops, found := b.LetThrough("Two", open)
	if !found || len(stops) != 1 || open.Filters[stops[0].At].By != sieve.ByDecision ||
		!stops[0].Out {
		t.Errorf("why not: %+v %v", stops, found)
	}
	undone, _ := s.Ideas.Undo(ctx, n.ID)
	if !strings.Contains(undone.Says, "Dropping “two”") || len(undone.Ideas) != 1 {
		t.Errorf("undo says %+v", undone)
	}
	if undone, _ := s.Ideas.Undo(ctx, n.ID); undone.Says != "" {
		t.Errorf("undo of nothing says %q", undone.Says)
	}
}

func TestMoney(t *testing.T) {
	for _, c := range []struct {
		micros int64
		code   string
		want   string
	}{{470000, "USD", "$0.47"}, {0, "USD", "$0.00"}, {2000, "USD", "$0.002"}, {500, "USD", "$0.0005"},
		{12_345_678, "EUR", "€12.35"}, {120_000_000, "JPY", "¥120"}, {1_000_000, "???", "1.00 ???"}} {
		if got := money.Text(c.micros, c.code); got != c.want {
			t.Errorf("Money(%d, %s) = %q, want %q", c.micros, c.code, got, c.want)
		}
	}
}
