// Package studytest is what tests of the study begin with: an outside world of a few lines, a study over it, and
// what is done in most of them. Each helper ends the test when it fails.
package studytest

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/ideatable"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/files"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

var ctx = context.Background()

// Fake is an outside world of a few lines, that can fail.
type Fake struct {
	Down    atomic.Bool // no source answers
	Asked   atomic.Int64
	Slow    time.Duration
	Refuses string // phrases that hold this are refused
}

// Answer is the error that an answer about something comes with, if any.
func (f *Fake) Answer(ctx context.Context, about string) error {
	f.Asked.Add(1)
	select {
	case <-time.After(f.Slow):
	case <-ctx.Done():
		return ctx.Err()
	}
	if f.Down.Load() {
		return &market.Error{Source: "the fake", Trouble: market.Unreachable, Err: errors.New("it is down")}
	}
	if f.Refuses != "" && strings.Contains(about, f.Refuses) {
		return &market.Error{Source: "the fake", Trouble: market.Refused, Err: errors.New("not that")}
	}
	return nil
}

// Suggest implements market.Suggester.
func (f *Fake) Suggest(ctx context.Context, q string, _ market.Locale) ([]string, error) {
	return []string{q + " one", q + " TWO", "shared idea", "🔭"}, f.Answer(ctx, q)
}

// Demand implements market.Demander.
func (f *Fake) Demand(ctx context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for i, p := range phrases {
		if p != "shared idea" {
			out[p] = demand.Series{Counts: []demand.Count{{Month: 24310, Searches: 100 + i}},
				CPC: demand.Cost{Micros: 500000, Currency: "USD"}, Competition: 0.5}
		}
	}
	return out, f.Answer(ctx, strings.Join(phrases, " "))
}

// Search implements market.Searcher.
func (f *Fake) Search(ctx context.Context, q string, _ market.Locale, depth int) (market.Results, error) {
	r := market.Results{Engine: "fake", Total: 5000}
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1,
			URL: fmt.Sprintf("http://site%d.example/%d", i, len(q)), Title: "About " + q})
	}
	if depth > 2 {
		r.Organic[2].URL = "http://mine.example/page"
	}
	return r, f.Answer(ctx, q)
}

// Fetch implements market.Fetcher.
func (f *Fake) Fetch(ctx context.Context, url string) (market.Fetched, error) {
	if strings.Contains(url, "site7") {
		return market.Fetched{}, &market.Error{Source: "site7.example", Trouble: market.Unreachable,
			Err: errors.New("it is broken")}
	}
	return market.Fetched{URL: url, ContentType: "text/html",
		Body: []byte("<title>A page</title><main><h1>x</h1>" + strings.Repeat("word ", 500))}, nil
}

// Links implements market.Linker.
func (f *Fake) Links(ctx context.Context, url string) (market.LinkList, error) {
	return market.LinkList{Total: 1, Links: []links.Link{{From: "http://site1.example/", To: url}}}, f.Answer(ctx, url)
}

// Graph implements market.Linker.
func (f *Fake) Graph(ctx context.Context) (links.SiteGraph, error) {
	return links.SiteGraph{Names: []string{"site0.example", "site1.example", "mine.example"},
		Edges: []links.Edge{{From: 0, To: 1}, {From: 2, To: 1}}}, f.Answer(ctx, "graph")
}

// Setup is what a test may say of a study: its settings, and the clock of its data file.
type Setup struct {
	study.Options
	Market ask.Market
	Now    func() time.Time
}

// Open opens a study over a data file and a fake, of which change may say otherwise.
func Open(t testing.TB, f *Fake, path string, change func(*Setup)) (*study.Study, *store.Store) {
	o := Setup{Options: study.Options{Options: ask.Options{Depth: difficulty.FirstPage, Prices: map[ask.Question]int64{
		ask.Results: 2000, ask.Links: 1000, ask.Demand: 100}}},
		Market: ask.Market{Suggest: f, Demand: f, Search: f, Pages: f, Links: f,
			Names: map[ask.Question]string{ask.Demand: "the fake", ask.Results: "fake"}},
		Now: time.Now}
	if change != nil {
		change(&o)
	}
	st, err := store.Open(path, o.Now)
	if err != nil {
		t.Fatal(err)
	}
	s := study.New(st, o.Market, o.Options)
	t.Cleanup(func() { s.Close(); st.Close() })
	return s, st
}

// Begin opens a study over an empty data file with a niche.
func Begin(t testing.TB, f *Fake, change func(*Setup)) (*study.Study, niches.Niche) {
	s, _, n := BeginWith(t, f, change)
	return s, n
}

// BeginWith is Begin that hands out the data file, too.
func BeginWith(t testing.TB, f *Fake, change func(*Setup)) (*study.Study, *store.Store, niches.Niche) {
	s, st := Open(t, f, filepath.Join(t.TempDir(), "d.db"), change)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en",
		OwnSite: "https://www.mine.example/blog"})
	if err != nil {
		t.Fatal(err)
	}
	return s, st, n
}

// Finish waits for a job, and is how it ended.
func Finish(t testing.TB, s *study.Study, j jobs.Job, err error) jobs.Job {
	if err == nil {
		err = s.Jobs.Wait(ctx, j.ID)
	}
	if err != nil {
		t.Fatal(err)
	}
	v, err := s.Jobs.Get(ctx, j.NicheID, j.ID)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// Gather gathers from seeds in all ways.
func Gather(t *testing.T, s *study.Study, n niches.Niche, seeds ...string) jobs.Job {
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: seeds, Ways: gather.Usual})
	return Finish(t, s, j, err)
}

// Named is the ID of an idea of a table; 0 when it is not there.
func Named(b ideas.Table, phrase string) uint {
	if ids := b.Named(phrase); len(ids) > 0 {
		return ids[0]
	}
	return 0
}

// Tell is the story of an idea as it is now.
func Tell(t testing.TB, s *study.Study, n niches.Niche, id uint) results.Story {
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	story, err := s.Results.Story(ctx, n, b, id)
	if err != nil {
		t.Fatal(err)
	}
	return story
}

// Reach is what my site's standing comes to for an idea.
func Reach(st results.Story) float64 { return st.Idea.Value(sieve.Reach).Number }

// Export writes what a sieve leaves.
func Export(t testing.TB, s *study.Study, n niches.Niche, by sieve.Sieve, format string) string {
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	f, err := files.FormatNamed(format)
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	if err := s.Files.Export(ctx, &out, b, by, f); err != nil {
		t.Fatal(err)
	}
	return out.String()
}

// Crowded is a niche with so many ideas that are looked up: needs of a few wordings each, whose tens share
// most of their pages.
func Crowded(b *testing.B, ideas int) (*study.Study, niches.Niche) {
	b.Helper()
	path := b.TempDir() + "/d.db"
	if kept := os.Getenv("CROWD"); kept != "" { // make measure shows it in a browser
		if err := store.Remove(kept); err != nil {
			b.Fatal(err)
		}
		path = kept
	}
	st, err := store.Open(path, time.Now)
	if err != nil {
		b.Fatal(err)
	}
	s := study.New(st, ask.Market{}, study.Options{})
	b.Cleanup(func() { s.Close(); st.Close() })
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Crowd", Country: "us", Language: "en", VisitMicros: 50_000})
	if err != nil {
		b.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(17, 17))
	now := st.Now()
	var finds []store.Find
	for i := range ideas {
		searches := 1 + rng.IntN(5000)
		need := i / 3
		finds = append(finds, store.Find{Idea: store.Idea{Phrase: fmt.Sprintf("need%d words %d", need, i), Words: 3,
			VariantKey: fmt.Sprint(i), Searches: &searches, DemandAt: &now, ClickShare: 0.1, ClickShareLow: 0.05,
			ClickShareHigh: 0.2,
			Article:        "how-to", Footholds: 3}, Origin: store.Origin{Kind: "list", Query: "q"}})
	}
	if _, err := st.AddIdeas(ctx, n.ID, finds); err != nil {
		b.Fatal(err)
	}
	all, err := s.Ideas.Table(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	var list []store.Judgement
	for at := range all.Len() {
		id, p := all.Table.ID(at), all.Table.Phrase(at)
		var need, word int
		fmt.Sscanf(p, "need%d words %d", &need, &word)
		var urls, titles []string
		for k := range 10 {
			page := fmt.Sprintf("http://site%d.example/%d", (need*7+k)%600, need)
			if rng.IntN(3) == 0 {
				page = fmt.Sprintf("http://site%d.example/other/%d", k, rng.IntN(ideas))
			}
			urls, titles = append(urls, page), append(titles, p)
		}
		f := topic.FoundFor(p, "en", urls, titles)
		list = append(list, store.Judgement{Idea: store.Idea{ID: id, JudgedAt: &now, ClickShare: 0.1, ClickShareLow: 0.05,
			ClickShareHigh: 0.2, Article: "how-to", Footholds: 3}, Found: ideatable.FoundRow(f)})
	}
	if err := st.SaveJudgements(ctx, n.ID, list...); err != nil {
		b.Fatal(err)
	}
	if n, err = s.Topics.Regroup(ctx, n, niches.ScopeLooked, topic.Shared); err != nil {
		b.Fatal(err)
	}
	return s, n
}

// Field is a world of two subjects: what says "moon" has one set of pages, all else another.
type Field struct{ Fake }

// Search implements market.Searcher.
func (f *Field) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	if strings.HasPrefix(q, "site:") {
		return market.Results{Engine: "fake", Total: 1, Organic: []market.Organic{
			{Position: 1, URL: "http://mine.example/charts", Title: "Star chart for beginners: mine"},
			{Position: 2, URL: "http://elsewhere.example/", Title: "Not mine"}}}, f.Answer(c, q)
	}
	subject := "stars"
	if strings.Contains(q, "moon") {
		subject = "moon"
	}
	r := market.Results{Engine: "fake", Total: 5000, AnswerBox: q == "star chart"} // which takes clicks
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1,
			URL: fmt.Sprintf("http://%s%d.example/", subject, i), Title: "About " + q})
	}
	return r, f.Answer(c, q)
}

// Planted is a niche with two subjects looked up: three wordings of the moon, two of the stars.
func Planted(t *testing.T) (*study.Study, niches.Niche, map[string]uint) {
	t.Helper()
	return PlantedWith(t, nil)
}

// PlantedWith is Planted with settings of the test's own.
func PlantedWith(t *testing.T, change func(*Setup)) (*study.Study, niches.Niche, map[string]uint) {
	t.Helper()
	f := &Field{}
	s, _ := Open(t, &f.Fake, t.TempDir()+"/d.db", func(o *Setup) {
		o.Now = func() time.Time { return time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC) }
		o.Market.Search = f
		if change != nil {
			change(o)
		}
	})
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en", OwnSite: "mine.example",
		VisitMicros: 50_000})
	if err != nil {
		t.Fatal(err)
	}
	list := "phrase,searches\nmoon map,900\nmap of the moon,300\nlunar moon map,200\nstar chart for beginners,500\n" +
		"star chart,400\nnot looked up moon map,50\n"
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list)); err != nil {
		t.Fatal(err)
	}
	b, _ := s.Ideas.Table(ctx, n)
	ids := map[string]uint{}
	var judged []uint
	for _, p := range []string{"moon map", "map of the moon", "lunar moon map", "star chart for beginners", "star chart",
		"not looked up moon map"} {
		ids[p] = Named(b, p)
		if !strings.HasPrefix(p, "not") {
			judged = append(judged, ids[p])
		}
	}
	j, err := s.Results.LookUp(ctx, n, judged, false)
	Finish(t, s, j, err)
	if n, err = s.Topics.Regroup(ctx, n, niches.ScopeLooked, topic.Shared); err != nil {
		t.Fatal(err)
	}
	return s, n, ids
}

// Leads are the topics by their leads, each with how many ideas it has.
func Leads(t *testing.T, s *study.Study, n niches.Niche) string {
	t.Helper()
	topics, err := s.Topics.Of(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, one := range topics.List {
		out = append(out, fmt.Sprintf("%s %d", one.Name, len(one.Ideas)))
	}
	return strings.Join(out, ", ")
}

// Text is a pointer to a text.
func Text(s string) *string { return &s }

// Must is a value that there must be.
func Must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}
