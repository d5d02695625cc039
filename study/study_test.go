package study

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
)

var ctx = context.Background()

// fake is an outside world of a few lines, that can fail.
type fake struct {
	down    atomic.Bool // no source answers
	asked   atomic.Int64
	slow    time.Duration
	refuses string // phrases that hold this are refused
}

func (f *fake) answer(ctx context.Context, about string) error {
	f.asked.Add(1)
	select {
	case <-time.After(f.slow):
	case <-ctx.Done():
		return ctx.Err()
	}
	if f.down.Load() {
		return &market.Error{Source: "the fake", Trouble: market.Unreachable, Err: errors.New("it is down")}
	}
	if f.refuses != "" && strings.Contains(about, f.refuses) {
		return &market.Error{Source: "the fake", Trouble: market.Refused, Err: errors.New("not that")}
	}
	return nil
}

func (f *fake) Suggest(ctx context.Context, q string, _ market.Locale) ([]string, error) {
	return []string{q + " one", q + " TWO", "shared idea", "🔭"}, f.answer(ctx, q)
}

func (f *fake) Demand(ctx context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for i, p := range phrases {
		if p != "shared idea" {
			out[p] = demand.Series{Counts: []demand.Count{{Month: 24310, Searches: 100 + i}},
				CPC: demand.Cost{Micros: 500000, Currency: "USD"}, Competition: 0.5}
		}
	}
	return out, f.answer(ctx, strings.Join(phrases, " "))
}

func (f *fake) Search(ctx context.Context, q string, _ market.Locale, depth int) (market.Results, error) {
	r := market.Results{Engine: "fake", Total: 5000}
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1,
			URL: fmt.Sprintf("http://site%d.example/%d", i, len(q)), Title: "About " + q})
	}
	if depth > 2 {
		r.Organic[2].URL = "http://mine.example/page"
	}
	return r, f.answer(ctx, q)
}

func (f *fake) Fetch(ctx context.Context, url string) (market.Fetched, error) {
	if strings.Contains(url, "site7") {
		return market.Fetched{}, &market.Error{Source: "site7.example", Trouble: market.Unreachable,
			Err: errors.New("it is broken")}
	}
	return market.Fetched{URL: url, ContentType: "text/html",
		Body: []byte("<title>A page</title><main><h1>x</h1>" + strings.Repeat("word ", 500))}, nil
}

func (f *fake) Links(ctx context.Context, url string) (market.LinkList, error) {
	return market.LinkList{Total: 1, Links: []links.Link{{From: "http://site1.example/", To: url}}}, f.answer(ctx, url)
}

func (f *fake) Graph(ctx context.Context) (links.SiteGraph, error) {
	return links.SiteGraph{Names: []string{"site0.example", "site1.example", "mine.example"},
		Edges: []links.Edge{{From: 0, To: 1}, {From: 2, To: 1}}}, f.answer(ctx, "graph")
}

// setup is what a test may say of a study: its settings, and the clock of its data file.
type setup struct {
	Options
	Now func() time.Time
}

func newStudy(t *testing.T, f *fake, path string, change func(*setup)) (*Study, *store.Store) {
	o := setup{Options: Options{Prices: map[Question]int64{AskResults: 2000, AskLinks: 1000, AskDemand: 100}},
		Now: time.Now}
	if change != nil {
		change(&o)
	}
	st, err := store.Open(path, o.Now)
	if err != nil {
		t.Fatal(err)
	}
	s := New(st, Market{Suggest: f, Demand: f, Search: f, Pages: f, Links: f,
		Names: map[Question]string{AskDemand: "the fake", AskResults: "fake"}}, o.Options)
	t.Cleanup(func() { s.Close(); st.Close() })
	return s, st
}

func begin(t *testing.T, f *fake, change func(*setup)) (*Study, Niche) {
	s, _ := newStudy(t, f, filepath.Join(t.TempDir(), "d.db"), change)
	n, err := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "us", Language: "en",
		OwnSite: "https://www.mine.example/blog"})
	if err != nil {
		t.Fatal(err)
	}
	return s, n
}

func finish(t *testing.T, s *Study, j Job, err error) Job {
	if err == nil {
		err = s.WaitJob(ctx, j.ID)
	}
	if err != nil {
		t.Fatal(err)
	}
	v, err := s.Job(ctx, j.NicheID, j.ID)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func gather(t *testing.T, s *Study, n Niche, seeds ...string) Job {
	j, err := s.Gather(ctx, n, GatherPlan{Seeds: seeds, Letters: true, Questions: true})
	return finish(t, s, j, err)
}

func TestCheckNiche(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	if n.OwnSite != "mine.example" || n.Country != "US" || n.Currency != "USD" || n.Fit != difficulty.WellMade {
		t.Errorf("niche %+v", n)
	}
	good := Niche{Name: "x", Country: "DE", Language: "de"}
	for field, change := range map[string]func(*Niche){
		"name": func(n *Niche) { n.Name = "  " }, "country": func(n *Niche) { n.Country = "Moon" },
		"language": func(n *Niche) { n.Language = "xx1" }, "site": func(n *Niche) { n.OwnSite = "not a domain" },
		"links": func(n *Niche) { n.PlannedLinks = -1 }, "fit": func(n *Niche) {
			n.Fit = 101
		}, "standing": func(n *Niche) { n.LinkStanding = 5 },
	} {
		bad := good
		change(&bad)
		var input *InputError
		if _, err := s.CheckNiche(bad); !errors.As(err, &input) || input.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	if _, err := s.CreateNiche(ctx, Niche{Name: "SKY", Country: "US", Language: "en"}); err == nil {
		t.Error("two niches have one name")
	}
	if de, err := s.CheckNiche(good); err != nil || de.Currency != "EUR" {
		t.Errorf("Germany pays in %s, %v", de.Currency, err)
	}
}

func TestGather(t *testing.T) {
	f := &fake{}
	s, n := begin(t, f, nil)
	v := gather(t, s, n, "moon")
	if v.State != store.Done || v.Total != 1+26+14+1 || v.Done != v.Total {
		t.Fatalf("job %+v", v)
	}
	b, _ := s.Board(ctx, n)
	if want := 1 + 2*41 + 1; b.Len() != want { // the seed, two for each question, one shared
		t.Errorf("%d ideas, want %d", b.Len(), want)
	}
	story := tell(t, s, n, ideaNamed(b, "shared idea"))
	if story.Idea.Value(sieve.Searches).Known || !strings.Contains(story.Idea.DemandError, "no figures") {
		t.Errorf("an idea the source does not know: %+v", story.Idea)
	}
	if got := sieve.FoundIn.NameOf(story.Idea.Value(sieve.FoundIn)); len(story.Origins) != 41 ||
		got != "completion, letter, question" {
		t.Errorf("an idea found in 41 ways remembers %d: %s", len(story.Origins), got)
	}
	before := f.asked.Load()
	if gather(t, s, n, "moon"); f.asked.Load() != before {
		t.Errorf("%d fresh answers were asked for again", f.asked.Load()-before)
	}
}

func ideaNamed(b Board, phrase string) uint {
	if ids := b.Named(phrase); len(ids) > 0 {
		return ids[0]
	}
	return 0
}

// tell is the story of an idea as it is now.
func tell(t testing.TB, s *Study, n Niche, id uint) Story {
	b, err := s.Board(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	story, err := s.Story(ctx, n, b, id)
	if err != nil {
		t.Fatal(err)
	}
	return story
}

// export writes what a sieve leaves.
func export(t testing.TB, s *Study, n Niche, by sieve.Sieve, format string) string {
	b, err := s.Board(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	f, err := FormatNamed(format)
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	if err := s.Export(ctx, &out, b, by, f); err != nil {
		t.Fatal(err)
	}
	return out.String()
}

func TestReadSeeds(t *testing.T) {
	for _, bad := range []string{"", " \n\n", "🔭", strings.Repeat("a", 10000), "\u202e",
		strings.Repeat("seed of many words\n", 1) + strings.Repeat("x\ny\n", 0) + "\xff"} {
		seeds, ignored, err := ReadSeeds(bad)
		if err == nil && len(ignored) == 0 {
			t.Errorf("%.20q is taken as %q", bad, seeds)
		}
	}
	many := ""
	for i := range MostSeeds + 1 {
		many += fmt.Sprintf("seed %d\n", i)
	}
	if _, _, err := ReadSeeds(many); err == nil {
		t.Error("more seeds than allowed are taken")
	}
	if seeds, ignored, err := ReadSeeds("Moon\r\nמפת כוכבים\n<b>x</b>\n🔭\nmoon"); err != nil ||
		len(seeds) != 3 || len(ignored) != 1 || ignored[0].Line != 4 {
		t.Errorf("%q, %+v, %v", seeds, ignored, err)
	}
}

// TestSourceStopsInTheMiddle: what was fetched is kept, the job says so, and goes on.
func TestSourceStopsInTheMiddle(t *testing.T) {
	f := &fake{slow: 3 * time.Millisecond}
	s, n := begin(t, f, nil)
	j, err := s.Gather(ctx, n, GatherPlan{Seeds: []string{"moon", "mars"}, Letters: true, Questions: true})
	if err != nil {
		t.Fatal(err)
	}
	for f.asked.Load() < 20 {
		time.Sleep(time.Millisecond)
	}
	f.down.Store(true)
	v := finish(t, s, j, nil)
	if v.State != store.Stopped || !strings.Contains(v.Message, "the fake cannot be reached") || v.Done == 0 ||
		v.Done == v.Total {
		t.Fatalf("stopped job: %+v", v)
	}
	b, _ := s.Board(ctx, n)
	if b.Len() == 0 {
		t.Error("nothing was kept")
	}
	f.down.Store(false)
	if err := s.GoOn(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = finish(t, s, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after going on: %+v", v)
	}
}

// TestJoinedAskingFails: who joins an asking begun before the source came back asks again.
func TestJoinedAskingFails(t *testing.T) {
	s, _ := begin(t, &fake{}, nil)
	begun, fail := make(chan bool), make(chan bool)
	first := make(chan error)
	go func() {
		_, err := ask(ctx, s, AskResults, "key", func(context.Context) (int, error) {
			close(begun)
			<-fail
			return 0, &market.Error{Trouble: market.Unreachable, Err: errors.New("it is down"), Charge: market.Free}
		})
		first <- err
	}()
	<-begun
	go func() { time.Sleep(20 * time.Millisecond); close(fail) }()
	got, err := ask(ctx, s, AskResults, "key", func(context.Context) (int, error) { return 7, nil })
	if err != nil || got.Value != 7 {
		t.Errorf("%+v, %v", got, err)
	}
	if err := <-first; err == nil {
		t.Error("the first asking did not fail")
	}
}

// TestTakenUpAfterTheEnd: a job of a program that ended is taken up by the next.
func TestTakenUpAfterTheEnd(t *testing.T) {
	f := &fake{slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := newStudy(t, f, path, nil)
	n, _ := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "US", Language: "en"})
	j, _ := s.Gather(ctx, n, GatherPlan{Seeds: []string{"moon"}, Letters: true})
	for f.asked.Load() < 8 {
		time.Sleep(time.Millisecond)
	}
	s.Close()
	if v, _ := st.Job(ctx, j.ID); v.State != store.Running {
		t.Fatalf("the interrupted job is %s", v.State)
	}
	done, _ := st.Progress(ctx, j.ID)
	next, _ := newStudy(t, f, path, nil)
	next.Watch()
	for range 1000 {
		if v, _ := next.Job(ctx, n.ID, j.ID); v.State == store.Done {
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
	f := &fake{slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := newStudy(t, f, path, nil)
	n, _ := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "US", Language: "en"})
	next, _ := newStudy(t, f, path, nil)
	j, err := s.Gather(ctx, n, GatherPlan{Seeds: []string{"moon"}, Letters: true})
	if v := finish(t, next, j, err); v.State != store.Done || v.Done != v.Total {
		t.Errorf("while the other works: %+v", v)
	}
	j, _ = s.Gather(ctx, n, GatherPlan{Seeds: []string{"mars"}, Letters: true})
	s.Close()
	row, _ := st.Job(ctx, j.ID)
	if held, err := st.Claim(ctx, row, "killed"); !held || err != nil {
		t.Fatal(held, err)
	}
	if v := finish(t, next, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after the other was killed: %+v", v)
	}
}

func TestPauseAndCancel(t *testing.T) {
	f := &fake{slow: 4 * time.Millisecond}
	s, n := begin(t, f, nil)
	j, _ := s.Gather(ctx, n, GatherPlan{Seeds: []string{"moon"}, Letters: true})
	if err := s.PauseJob(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v, _ := s.Job(ctx, n.ID, j.ID); v.State != store.Paused {
		t.Errorf("paused job is %s", v.State)
	}
	s.GoOn(ctx, n.ID, j.ID)
	s.CancelJob(ctx, n.ID, j.ID)
	if v, _ := s.Job(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("cancelled job is %s", v.State)
	}
	s.GoOn(ctx, n.ID, j.ID)
	if v, _ := s.Job(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("a cancelled job went on: %s", v.State)
	}
	if _, err := s.Job(ctx, n.ID+1, j.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("a job of another niche: %v", err)
	}
}

func TestJudge(t *testing.T) {
	f := &fake{refuses: "refused"}
	s, n := begin(t, f, nil)
	s.Import(ctx, n, "list", strings.NewReader("star chart\nrefused phrase\nmoon map"))
	b, _ := s.Board(ctx, n)
	ids := []uint{ideaNamed(b, "star chart"), ideaNamed(b, "refused phrase"), ideaNamed(b, "moon map")}
	e, err := s.EstimateJudge(ctx, n, ids)
	if err != nil || e.Lookups != 3+3*20 || e.Micros != 3*2000+30*1000 {
		t.Errorf("estimate %+v, %v", e, err)
	}
	j, err := s.Judge(ctx, n, ids, false)
	v := finish(t, s, j, err)
	if v.State != store.Done || v.Failed != 1 || v.Found != 2 || v.CostMicros > e.Micros || v.CostMicros == 0 {
		t.Errorf("job %+v", v)
	}
	// Two of the three have results at hand, each with one page that could not be had.
	if e, err := s.EstimateJudge(ctx, n, ids); err != nil || e.Kept != 2 || e.Lookups != 1+20+2 {
		t.Errorf("estimate of what is left %+v, %v", e, err)
	}
	story := tell(t, s, n, ids[0])
	ev := story.Evidence
	if ev == nil || len(ev.Reading.Entries) != 10 || len(ev.Verdict.Holds) != 9 || len(ev.MyPages) != 1 ||
		!ev.MineKnown {
		t.Fatalf("evidence %+v", ev)
	}
	if bad := ev.Reading.Entries[7]; !strings.Contains(bad.PageError, "it is broken") || !bad.Fit.Partial {
		t.Errorf("the page that could not be read: %+v", bad)
	}
	if story := tell(t, s, n, ids[1]); story.Evidence != nil ||
		!strings.Contains(story.Idea.JudgeError, "not that") {
		t.Errorf("the refused idea: %+v", story.Idea)
	}
	before := f.asked.Load()
	j, err = s.Judge(ctx, n, ids[:1], false)
	if finish(t, s, j, err); f.asked.Load() != before {
		t.Error("what is at hand was asked again")
	}
	j, err = s.Judge(ctx, n, ids[:1], true)
	if finish(t, s, j, err); f.asked.Load() != before+1+10+1 { // results, ten pages' links, the graph
		t.Errorf("asking again asked %d questions", f.asked.Load()-before)
	}
	was := reach(story)
	asked := f.asked.Load()
	n.PlannedLinks = 10
	_, job, err := s.ChangeNiche(ctx, n)
	if err != nil || job == nil || job.Brings != "reckoned anew" {
		t.Fatalf("job %+v, %v", job, err)
	}
	if v := finish(t, s, *job, nil); v.State != Done || v.Found != 2 {
		t.Errorf("reckoning anew: %+v", v)
	}
	if now := reach(tell(t, s, n, ids[0])); now <= was || f.asked.Load() != asked {
		t.Errorf("ten links planned: reach %v, was %v", now, was)
	}
}

func TestBudgetAndMissingSource(t *testing.T) {
	s, n := begin(t, &fake{}, func(o *setup) { o.Budget = 30_000 })
	s.Import(ctx, n, "list", strings.NewReader("a b\nc d e\nf g h i\nj"))
	b, _ := s.Board(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, -1)
	j, err := s.Judge(ctx, n, ids, false)
	if v := finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "budget of $0.03") ||
		v.CostMicros > 30_000 {
		t.Errorf("job %s: %s, cost %d", v.State, v.Message, v.CostMicros)
	}
	s.market.Search = nil
	j, err = s.Judge(ctx, n, ids, false)
	if v := finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "--results") {
		t.Errorf("job %s: %s", v.State, v.Message)
	}
}

func TestImportAndExport(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	rep, err := s.Import(ctx, n, "phrases.csv",
		strings.NewReader("phrase,searches,cpc\nBest Moon Map,120,0.5\nbest moon map,7,\n🔭,1,\nmars,x,\nunder ten,<10,\n"))
	if err != nil || rep.Added != 2 || rep.Merged != 1 || len(rep.Problems) != 2 {
		t.Fatalf("report %+v, %v", rep, err)
	}
	if _, err := s.Import(ctx, n, "x", strings.NewReader(" \n")); err == nil {
		t.Error("an empty list is taken")
	}
	b, _ := s.Board(ctx, n)
	s.Decide(ctx, n.ID, []uint{ideaNamed(b, "best moon map")}, sieve.Kept)
	out := export(t, s, n, sieve.Sieve{Meshes: []sieve.Mesh{sieve.OnlyDecided(sieve.Kept)}}, "csv")
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || len(rows) != 2 || rows[1][0] != "best moon map" || rows[1][2] != "120" || rows[1][4] != "0.50" ||
		!strings.HasSuffix(out, "\r\n") {
		t.Errorf("CSV %q, %v", out, err)
	}
	var records []map[string]any
	out = export(t, s, n, sieve.Sieve{Down: true}, "json")
	if err := json.Unmarshal([]byte(out), &records); err != nil || len(records) != 2 || records[0]["difficulty"] != nil ||
		records[0]["searches"] != 120.0 || records[1]["under_floor"] != true {
		t.Errorf("JSON %s, %v", out, err)
	}
	if out = export(t, s, n, sieve.Sieve{}, "table"); !strings.Contains(out, "<10") {
		t.Errorf("table %s", out)
	}
	if _, err := FormatNamed("pdf"); err == nil {
		t.Error("an unknown format is written")
	}
}

func TestHarmless(t *testing.T) {
	for _, cell := range []string{"=1+1", "+1", "-1", "@x", "\tx", "\r=1"} {
		if got := Harmless(cell); got != "'"+cell {
			t.Errorf("%q is written as %q", cell, got)
		}
	}
	if Harmless("best telescope") != "best telescope" || Harmless("") != "" {
		t.Error("plain text is changed")
	}
}

func TestBoardFollowsOtherPrograms(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := newStudy(t, &fake{}, path, nil)
	n, _ := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "US", Language: "en"})
	if b, _ := s.Board(ctx, n); b.Len() != 0 {
		t.Fatal("a new niche has ideas")
	}
	other, _ := newStudy(t, &fake{}, path, nil)
	other.Import(ctx, n, "x", strings.NewReader("one\ntwo\nthree words here"))
	b, _ := s.Board(ctx, n)
	if b.Len() != 3 {
		t.Fatalf("%d ideas are seen", b.Len())
	}
	other.Decide(ctx, n.ID, []uint{ideaNamed(b, "two")}, sieve.Dropped)
	b, _ = s.Board(ctx, n)
	open := sieve.Sieve{Meshes: []sieve.Mesh{sieve.NotDropped()}}
	if b.Pass(open).Count != 2 || b.Len() != 3 {
		t.Error("another program's decision is not seen")
	}
	stops, found := b.LetThrough("Two", open)
	if !found || len(stops) != 1 || open.Meshes[stops[0].At].By != sieve.ByDecision ||
		!stops[0].Out {
		t.Errorf("why not: %+v %v", stops, found)
	}
	undone, _ := s.Undo(ctx, n.ID)
	if !strings.Contains(undone.Says, "Dropping “two”") || len(undone.Ideas) != 1 {
		t.Errorf("undo says %+v", undone)
	}
	if undone, _ := s.Undo(ctx, n.ID); undone.Says != "" {
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
		if got := Money(c.micros, c.code); got != c.want {
			t.Errorf("Money(%d, %s) = %q, want %q", c.micros, c.code, got, c.want)
		}
	}
}
