package gather_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// completer answers what a text is completed by, and notes what it was asked.
type completer struct {
	mu    sync.Mutex
	asked []string
	of    func(text string) []string
}

func (c *completer) Suggest(_ context.Context, text string, _ market.Locale) ([]string, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.asked = append(c.asked, text)
	return c.of(text), nil
}

// beside is an engine that shows a question beside its results.
type beside struct{ *studytest.Fake }

func (b beside) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := b.Fake.Search(ctx, q, in, depth)
	r.Related = []string{"Is " + q + " worth it?"}
	return r, err
}

// sky is a study whose suggestions a completer answers.
func sky(t *testing.T, c *completer) (*study.Study, niches.Niche) {
	t.Helper()
	return studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Suggest, o.Market.Search = c, beside{&studytest.Fake{}}
	})
}

// TestEachWay asks what it says it asks, at the cost that was estimated, and what comes says how it was found.
func TestEachWay(t *testing.T) {
	for _, w := range gather.Ways {
		if w.Way == gather.Near { // which is for gaps alone
			continue
		}
		c := &completer{of: func(text string) []string { return []string{text + " x", "kit for moon filter " + text[:1]} }}
		s, n := sky(t, c)
		plan := gather.Plan{Seeds: []string{"moon filter"}, Ways: []gather.Way{w.Way}}
		e, err := s.Gathering.Estimate(ctx, n, plan)
		if err != nil {
			t.Fatal(err)
		}
		j, err := s.Gathering.Gather(ctx, n, plan)
		v := studytest.Finish(t, s, j, err)
		if v.State != jobs.Done || v.Failed != 0 {
			t.Errorf("%s: %+v", w.Way, v)
		}
		results := 0
		if w.Way == gather.Related {
			results = 1
		}
		if got := len(c.asked) + results; got != e.Lookups-1 { // the demand of the seed is one more
			t.Errorf("%s: asked %d times, and estimated %d", w.Way, got, e.Lookups-1)
		}
		wants := map[gather.Way]string{gather.Letters: "moon filter q", gather.Digits: "moon filter 7",
			gather.Questions: "how moon filter", gather.Prepositions: "moon filter without",
			gather.Comparisons: "alternative to moon filter", gather.Between: "moon q"}
		if want := wants[w.Way]; want != "" && !slices.Contains(c.asked, want) {
			t.Errorf("%s: %q was not asked: %q", w.Way, want, c.asked)
		}
		b, _ := s.Ideas.Table(ctx, n)
		if w.Way == gather.Related && len(b.Named("is moon filter worth it")) != 1 {
			t.Error("the question beside the results is no idea")
		}
		if w.Way == gather.Between && (len(b.Named("moon q x")) != 0 || len(b.Named("kit for moon filter m")) != 1) {
			t.Error("between: what lacks a word of the seed is an idea, or what holds all is none")
		}
	}
}

// TestSeedsWithGaps: what stands before the first gap is asked about, and what fits is kept; near ones where wanted.
func TestSeedsWithGaps(t *testing.T) {
	brings := []string{"can you see saturn with binoculars", "can you see the rings of saturn with binoculars",
		"can you see saturn", "seeing saturn with binoculars", "can you see with binoculars"}
	for _, near := range []bool{false, true} {
		c := &completer{of: func(string) []string { return brings }}
		s, n := sky(t, c)
		seeds, ignored, err := gather.ReadSeeds("Can you see * with  binoculars?\n* vs telescope\n*\n* *")
		if err != nil || len(seeds) != 1 || seeds[0] != "can you see * with binoculars" || len(ignored) != 3 {
			t.Fatalf("%q, %+v, %v", seeds, ignored, err)
		}
		plan := gather.Plan{Seeds: seeds, Ways: []gather.Way{gather.Letters}}
		if near {
			plan.Ways = append(plan.Ways, gather.Near)
		}
		j, err := s.Gathering.Gather(ctx, n, plan)
		studytest.Finish(t, s, j, err)
		if !slices.Contains(c.asked, "can you see") || !slices.Contains(c.asked, "can you see q") || len(c.asked) != 27 {
			t.Errorf("asked %q", c.asked)
		}
		b, _ := s.Ideas.Table(ctx, n)
		want := 2
		if near {
			want = 4 // what holds all words that say something
		}
		if b.Len() != want || len(b.Named(brings[:2]...)) != 2 || len(b.Named(brings[2])) != 0 {
			t.Errorf("near %v: %d ideas", near, b.Len())
		}
	}
}

// TestWordsNobodyWants: ideas that hold one never come, whatever brings them, and the words stay with the niche.
func TestWordsNobodyWants(t *testing.T) {
	c := &completer{of: func(text string) []string { return []string{text + " jobs", text + " near me", text + " map"} }}
	s, n := sky(t, c)
	to := n
	to.Unwanted = "Jobs,  near me ,jobs\n"
	n, _, err := s.Results.ChangeFrom(ctx, n, to)
	if err != nil || n.Unwanted != "jobs, near me" {
		t.Fatalf("%q, %v", n.Unwanted, err)
	}
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}})
	studytest.Finish(t, s, j, err)
	b, _ := s.Ideas.Table(ctx, n)
	if len(b.Named("moon jobs", "moon near me")) != 0 || len(b.Named("moon map")) != 1 {
		t.Errorf("%d ideas", b.Len())
	}
	again, _ := s.Niches.Get(ctx, n.ID)
	if again.Unwanted != n.Unwanted {
		t.Errorf("kept as %q", again.Unwanted)
	}
	to.Unwanted = strings.Repeat("word ,", 10) + strings.Repeat("x", 3000)
	var wrong *input.Error
	if _, _, err := s.Results.ChangeFrom(ctx, n, to); !errors.As(err, &wrong) {
		t.Errorf("too many words: %v", err)
	}
}

// TestRounds: what comes back is grown in turn, within the look-ups that are allowed, until nothing new comes; only
// what passes the sieve is.
func TestRounds(t *testing.T) {
	chain := func(text string) []string { // "moon" brings "moon 1" and "moon bad", that "moon 1 2" …
		if n := len(strings.Fields(text)); n < 4 {
			return []string{fmt.Sprintf("%s %d", text, n), text + " bad"}
		}
		return nil
	}
	for _, c := range []struct {
		rounds, most int
		through      sieve.Sieve
		asked        []string
	}{
		{1, 0, sieve.Sieve{}, []string{"moon"}},
		{2, 50, sieve.Sieve{}, []string{"moon", "moon 1", "moon bad"}},
		{2, 2, sieve.Sieve{}, []string{"moon", "moon bad"}}, // which is searched more
		{10, 50, sieve.Sieve{Filters: []sieve.Filter{sieve.Holding(sieve.ByLacking, "bad")}},
			[]string{"moon", "moon 1", "moon 1 2", "moon 1 2 3"}},
	} {
		f := &completer{of: chain}
		s, n := sky(t, f)
		plan := gather.Plan{Seeds: []string{"moon"}, Rounds: c.rounds, Most: c.most, Through: c.through}
		e, err := s.Gathering.Estimate(ctx, n, plan)
		if err != nil {
			t.Fatal(err)
		}
		j, err := s.Gathering.Gather(ctx, n, plan)
		v := studytest.Finish(t, s, j, err)
		slices.Sort(f.asked)
		if v.State != jobs.Done || v.Done != v.Total || !slices.Equal(f.asked, c.asked) {
			t.Errorf("%d rounds: asked %q instead of %q; %+v", c.rounds, f.asked, c.asked, v)
		}
		if c.rounds > 1 && (len(f.asked) > c.most || e.Lookups < len(f.asked)) {
			t.Errorf("%d rounds: asked %d times, estimated %d, allowed %d", c.rounds, len(f.asked), e.Lookups, c.most)
		}
		seeds, _ := s.Niches.Seeds(ctx, n.ID)
		if len(seeds) != len(c.asked) {
			t.Errorf("%d rounds: seeds are %+v", c.rounds, seeds)
		}
	}
	s, n := sky(t, &completer{of: chain})
	var wrong *input.Error
	for _, plan := range []gather.Plan{{Seeds: []string{"moon"}, Rounds: 11, Most: 5},
		{Seeds: []string{"moon"}, Rounds: 2},
		{Seeds: []string{"moon"}, Rounds: -1}, {Seeds: []string{"moon"}, Rounds: 2, Most: 1e9},
		{Seeds: []string{"moon"}, Rounds: 2, Most: 20, Ways: gather.Usual}} {
		if _, err := s.Gathering.Gather(ctx, n, plan); !errors.As(err, &wrong) {
			t.Errorf("%+v: %v", plan, err)
		}
	}
}

// TestRoundsGoOn where they were when they are paused, and nothing is asked twice.
func TestRoundsGoOn(t *testing.T) {
	var once sync.Once
	held := make(chan bool)
	f := &completer{}
	var s *study.Study
	var n niches.Niche
	var job jobs.Job
	f.of = func(text string) []string {
		if text == "moon 1" {
			once.Do(func() { close(held) })
		}
		if len(strings.Fields(text)) > 4 {
			return nil
		}
		return []string{text + " 1"}
	}
	s, n = sky(t, f)
	job, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Rounds: 6, Most: 50})
	if err != nil {
		t.Fatal(err)
	}
	<-held
	if err := s.Jobs.Pause(ctx, n.ID, job.ID); err != nil {
		t.Fatal(err)
	}
	if err := s.Jobs.Wait(ctx, job.ID); err != nil {
		t.Fatal(err)
	}
	err = s.Jobs.Resume(ctx, n.ID, job.ID)
	if v := studytest.Finish(t, s, job, err); v.State != jobs.Done || v.Done != v.Total {
		t.Errorf("%+v", v)
	}
	seen := map[string]int{}
	for _, text := range f.asked {
		if seen[text]++; seen[text] > 1 {
			t.Errorf("%q was asked twice", text)
		}
	}
	if len(f.asked) != 5 {
		t.Errorf("asked %q", f.asked)
	}
}

// TestOriginsAreNamed: each way that says how an idea came has a name of its own in the sieve.
func TestOriginsAreNamed(t *testing.T) {
	for _, kind := range []string{ideas.FromPreposition, ideas.FromComparison, ideas.FromBetween, ideas.FromRelated,
		ideas.FromPattern} {
		if v := sieve.FoundIn.Named(kind); !v.Known {
			t.Errorf("%s is not known", kind)
		}
	}
	if gather.Lacks("xx") == "" || gather.Lacks("de") != "" {
		t.Error("which languages lack words")
	}
}

// searchedFor knows the searches of some phrases, and says nothing of others.
type searchedFor struct {
	*studytest.Fake
	asked atomic.Int64
}

func (d *searchedFor) Demand(c context.Context, phrases []string, in market.Locale) (map[string]demand.Series, error) {
	d.asked.Add(int64(len(phrases)))
	return d.Fake.Demand(c, slices.DeleteFunc(slices.Clone(phrases), func(p string) bool {
		return !strings.HasSuffix(p, "for kids")
	}), in)
}

// TestCrossing keeps what is searched, asks once, says where it came from, and keeps all where that is wanted.
func TestCrossing(t *testing.T) {
	d := &searchedFor{Fake: &studytest.Fake{}}
	s, n := studytest.Begin(t, d.Fake, func(o *studytest.Setup) { o.Market.Demand = d })
	lists := []string{"Moon map\n\nstar wheel\nmoon map", "kids\nadults"}
	c, err := gather.ReadCrossing("", lists, "for", false, false)
	if err != nil {
		t.Fatal(err)
	}
	e, err := s.Gathering.EstimateCrossing(ctx, n, c)
	if err != nil || e.Lookups != 1 || e.Micros != 400 {
		t.Errorf("%+v, %v", e, err)
	}
	j, err := s.Gathering.Cross(ctx, n, c)
	if done := studytest.Finish(t, s, j, err); done.Found != 2 || d.asked.Load() != 4 {
		t.Errorf("%+v, %d asked", done, d.asked.Load())
	}
	b := studytest.Must(s.Ideas.Table(ctx, n))
	if b.Len() != 2 || studytest.Named(b, "star wheel for kids") == 0 {
		t.Errorf("%d ideas", b.Len())
	}
	from := sieve.Sieve{Filters: []sieve.Filter{sieve.Choosing(sieve.BySource, ideas.FromCrossing),
		sieve.Choosing(sieve.ByBranch, "moon map … × kids …")}}
	if got := b.Pass(from).Count; got != 2 {
		t.Errorf("%d on the crossing's branch", got)
	}
	c, err = gather.ReadCrossing("can you see * with *", []string{"saturn", "binoculars"}, "", false, true)
	if err != nil {
		t.Fatal(err)
	}
	j, err = s.Gathering.Cross(ctx, n, c)
	if done := studytest.Finish(t, s, j, err); done.Found != 1 {
		t.Errorf("%+v", done)
	}
	for _, bad := range [][]string{{"", "x"}, {"a"}, {"a\n🔭", "b"}, {strings.Repeat("w\n", 3), ""}} {
		var wrong *input.Error
		if _, err := gather.ReadCrossing("", bad, "", false, false); !errors.As(err, &wrong) {
			t.Errorf("%q: %v", bad, err)
		}
	}
	var long strings.Builder
	for i := range 400 {
		fmt.Fprintln(&long, "w", i)
	}
	_, err = gather.ReadCrossing("", []string{long.String(), long.String(), long.String()}, "", false, false)
	if err == nil || !strings.Contains(err.Error(), "64000000 phrases") {
		t.Errorf("millions: %v", err)
	}
}

// TestIdeasWithTheSameResults: what answers the same need in other words is told by the results that both have.
func TestIdeasWithTheSameResults(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	founds := studytest.Must(s.Ideas.Founds(ctx, n))
	b := studytest.Must(s.Ideas.Table(ctx, n))
	some, said := 0, 0
	for phrase := range ids {
		o := studytest.Must(s.Gathering.OtherWords(ctx, n, phrase))
		for _, term := range o.Titles {
			if said++; term.Pages < 2 || strings.Contains(phrase, term.Phrase) {
				t.Errorf("titles for %s: %+v", phrase, term)
			}
		}
		mine := founds.Of[studytest.Named(b, phrase)].Results
		for _, other := range o.Same {
			some++
			shared := 0
			for _, page := range founds.Of[other.ID].Results {
				if slices.Contains(mine, page) {
					shared++
				}
			}
			if shared < 3 || other.Phrase == phrase {
				t.Errorf("%s and %s share %d", phrase, other.Phrase, shared)
			}
		}
	}
	if some == 0 {
		t.Error("no ideas share results")
	}
	t.Log(said, "phrases in titles")
}

// TestAKeptGathering: it is kept with its settings, asked anew each time, says what is new, and is done once a week,
// however many programs look.
func TestAKeptGathering(t *testing.T) {
	more := ""
	c := &completer{}
	c.of = func(text string) []string { return []string{text + " kit", text + " map" + more} }
	now := time.Date(2026, 3, 1, 9, 0, 0, 0, time.UTC)
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Suggest = c
		o.Now = func() time.Time { return now }
	})
	k, err := s.Gathering.Keep(ctx, n, " Sky\nfirst ", gather.Plan{Seeds: []string{"moon"}}, true)
	if err != nil || k.Name != "Sky first" || !k.RunAt.IsZero() {
		t.Fatal(k, err)
	}
	run := func(want int) {
		t.Helper()
		k = studytest.Must(s.Gathering.KeptOne(ctx, n, k.ID))
		if err := s.Jobs.Wait(ctx, k.Job); err != nil {
			t.Fatal(err)
		}
		if list, all, err := s.Gathering.New(ctx, n, k); err != nil || all != want || len(list) != want {
			t.Errorf("%d new, want %d: %v", all, want, err)
		}
	}
	due := func(want int) {
		t.Helper()
		if begun, err := s.Gathering.Due(ctx); err != nil || begun != want {
			t.Errorf("%d begun, want %d: %v", begun, want, err)
		}
	}
	due(1)
	run(3)
	due(0)
	more = " new"
	if e := studytest.Must(s.Gathering.Estimate(ctx, n, k.Plan)); e.Fresh != 0 {
		t.Errorf("%d answers are counted on that are not used", e.Fresh)
	}
	now = now.Add(gather.Week)
	due(1)
	run(1) // the answers of a week ago would have been fresh
	if err := s.Gathering.SetWeekly(ctx, n, k.ID, false); err != nil {
		t.Error(err)
	}
	now = now.Add(2 * gather.Week)
	due(0)
	old := k
	j, err := s.Gathering.Rerun(ctx, n, k)
	studytest.Finish(t, s, j, err)
	if _, err := s.Gathering.Rerun(ctx, n, old); err == nil {
		t.Error("two that saw the same run both did the next one")
	}
	for _, away := range []bool{true, false} {
		if err := s.Gathering.RemoveKept(ctx, n, k.ID, away); err != nil {
			t.Error(err)
		}
		if left := studytest.Must(s.Gathering.Kept(ctx, n)); len(left) == 1 == away {
			t.Errorf("%d are left", len(left))
		}
	}
	if err := s.Gathering.SetWeekly(ctx, niches.Niche{ID: 99}, k.ID, true); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("of another niche: %v", err)
	}
}

// TestRoundsEndAtAPrice: no further round begins once so much is spent, and what is looked up is told before.
func TestRoundsEndAtAPrice(t *testing.T) {
	lookups := func(price int64) int {
		t.Helper()
		c := &completer{of: func(text string) []string { return []string{text + " a", text + " b"} }}
		s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
			o.Market.Suggest = c
			o.Prices[ask.Suggestions], o.Prices[ask.Demand] = 1000, 0
		})
		plan := gather.Plan{Seeds: []string{"moon"}, Rounds: 8, Most: 200, Price: price}
		j, err := s.Gathering.Gather(ctx, n, plan)
		studytest.Finish(t, s, j, err)
		return len(c.asked)
	}
	if got := lookups(9000); got < 5 || got > 9 {
		t.Errorf("%d lookups of 0.001 for 0.009", got)
	}
	if got := lookups(1000); got != 1 {
		t.Errorf("%d lookups where the first round took it all", got)
	}
	if got := lookups(0); got < 100 {
		t.Errorf("%d lookups without a price", got)
	}
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	var wrong *input.Error
	if _, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Price: -1}); !errors.As(err, &wrong) {
		t.Error(err)
	}
	for text, want := range map[string]int64{"": 0, "0.50": 500_000, "$2": 2_000_000} {
		if got, err := s.Ask.ReadMoney(text); err != nil || got != want {
			t.Errorf("%q: %d, %v", text, got, err)
		}
	}
	for _, text := range []string{"much", "-1", "EUR 3"} {
		if _, err := s.Ask.ReadMoney(text); !errors.As(err, &wrong) {
			t.Errorf("%q: %v", text, err)
		}
	}
	list, all := gather.Plan{Seeds: []string{"moon"}, Ways: []gather.Way{gather.Letters}}.Sample("en", 20)
	if all != 27 || len(list) != 20 || list[0] != "moon" {
		t.Errorf("%d of %d: %q", len(list), all, list)
	}
}

// TestClickedWithoutAPage: phrases that were clicked, and whose words no title of my pages holds, are told.
func TestClickedWithoutAPage(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	text := "Query,Clicks,Impressions,Position\nmoon maps for kids,4,90,14\nsextant polish,9,300,3\nstar wheel,0,50,40\n"
	if _, err := s.Imports.Take(ctx, n, "report", strings.NewReader(text)); err != nil {
		t.Fatal(err)
	}
	pages := []store.OwnPage{{NicheID: n.ID, URL: "http://mine.example/a", Title: "A Moon Map for Every Kid"}}
	if err := st.SaveOwnPages(ctx, n.ID, pages); err != nil {
		t.Fatal(err)
	}
	r := studytest.Must(s.Gathering.Reported(ctx, n))
	if r.All != 3 || !r.PagesKnown || len(r.Near) != 1 || len(r.Unthought) != 3 || len(r.Pageless) != 1 ||
		r.Pageless[0].Phrase != "sextant polish" {
		t.Errorf("%d, near %d, unthought %d, pageless %d", r.All, len(r.Near), len(r.Unthought), len(r.Pageless))
	}
	imports := studytest.Must(s.Imports.Imports(ctx, n.ID, 5))
	newer := "Query,Clicks,Impressions,Position\nsextant polish,1,3,30\n"
	if _, err := s.Imports.Take(ctx, n, "newer", strings.NewReader(newer)); err != nil {
		t.Fatal(err)
	}
	latest := studytest.Must(s.Imports.Imports(ctx, n.ID, 5))
	if len(latest) != len(imports)+1 {
		t.Fatal(latest)
	}
	place := func() float64 {
		t.Helper()
		b := studytest.Must(s.Ideas.Table(ctx, n))
		at, _ := b.Table.Find(studytest.Named(b, "sextant polish"))
		x, _ := b.Table.Number(at, sieve.MyPlace)
		return x
	}
	if got := place(); got != 30 {
		t.Errorf("the latest report says 30, and it is %v", got)
	}
	if _, err := s.Imports.Undo(ctx, n.ID, latest[0].Batch); err != nil {
		t.Fatal(err)
	}
	if got := place(); got != 3 {
		t.Errorf("what the report before said holds again: 3, and it is %v", got)
	}
}
