package imports_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/market/files"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

// table is a file of so many rows, with twelve months each.
func table(rows int) string {
	rng := rand.New(rand.NewPCG(1, 1))
	words := strings.Fields("moon star map chart lens filter mount scope tripod case guide best cheap red green blue " +
		"small " +
		"large night sky kit eye ring orbit dome field focus tube mirror stand light box cover clip bolt rail gear")
	var b strings.Builder
	b.WriteString("Keyword,Avg. monthly searches,Competition,CPC (USD)")
	for m := range 12 {
		fmt.Fprintf(&b, ",Searches: 2025-%02d", m+1)
	}
	b.WriteByte('\n')
	for i := range rows {
		n := 10 + rng.IntN(5000)
		for range 4 {
			b.WriteString(words[rng.IntN(len(words))] + " ")
		}
		fmt.Fprintf(&b, "%d,%d,LOW,%.2f", i, n, rng.Float64()*3)
		for range 12 {
			fmt.Fprintf(&b, ",%d", n/2+rng.IntN(n))
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// in returns the ideas of a niche and what they are searched.
func in(t *testing.T, s *study.Study, n niches.Niche) map[string]float64 {
	t.Helper()
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	list, err := b.Pass(sieve.Sieve{}).Ideas(ctx, 0, 100_000)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]float64{}
	for _, i := range list {
		out[i.Phrase] = i.Value(sieve.Searches).Number
	}
	return out
}

// kept keeps a list aside.
func kept(t *testing.T, s *study.Study, n niches.Niche, name, text string) string {
	t.Helper()
	u, err := s.Imports.Receive(ctx, n, name, name, strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	return u.Token
}

// TestNothingBeforeItIsConfirmed: a preview changes nothing; what was confirmed is in, once; the file is gone then.
func TestNothingBeforeItIsConfirmed(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	token := kept(t, s, n, "kw.csv", table(4500)+"🔭,1,LOW,1,\n")
	p, err := s.Imports.Preview(ctx, n, token)
	if err != nil || p.Usable != 4500 || p.Bad != 1 || p.Kind != files.IdeaList || len(p.Rows) != imports.ShownRows {
		t.Fatalf("%+v, %v", p, err)
	}
	if again, err := s.Imports.Preview(ctx, n, token); err != nil || again.Usable != 4500 || again.Bad != 1 ||
		len(again.Problems) != 1 || len(again.Rows) != imports.ShownRows || again.KnownOf != p.KnownOf {
		t.Errorf("seen once more: %+v, %v", again, err)
	}
	if got := in(t, s, n); len(got) != 0 {
		t.Fatalf("%d ideas before it was confirmed", len(got))
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	if _, err := s.Imports.Confirm(ctx, n, token); err == nil {
		t.Error("it is imported twice")
	}
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Found != 4500 || v.Total != 5 {
		t.Errorf("%+v", v)
	}
	if got := in(t, s, n); len(got) != 4500 {
		t.Errorf("%d ideas", len(got))
	}
	if _, err := s.Imports.Preview(ctx, n, token); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("the file is still there: %v", err)
	}
	other, _ := s.Niches.Create(ctx, niches.Niche{Name: "Other", Country: "us", Language: "en"})
	if _, err := s.Imports.Preview(ctx, other, kept(t, s, n, "x", "moon\n")); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("a file of another niche: %v", err)
	}
}

// TestCancelledTakesBack: what a cancelled import brought is taken back, also figures it changed.
func TestCancelledTakesBack(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	if _, err := s.Imports.Take(ctx, n, "old", strings.NewReader("phrase,searches\nmoon,5\n")); err != nil {
		t.Fatal(err)
	}
	token := kept(t, s, n, "kw.csv", "phrase,searches\nmoon,9\n"+strings.SplitN(table(60_000), "\n", 2)[1])
	if _, err := s.Imports.Preview(ctx, n, token); err != nil {
		t.Fatal(err)
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	if err != nil {
		t.Fatal(err)
	}
	for len(in(t, s, n)) < 2 { // something is in
		time.Sleep(time.Millisecond)
	}
	if err := s.Jobs.Cancel(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State == jobs.Done {
		t.Skip("this machine is too fast: it was done before it was cancelled")
	}
	if got := in(t, s, n); len(got) != 1 || got["moon"] != 5 {
		t.Errorf("after cancelling: %d ideas, moon %v", len(got), got["moon"])
	}
}

// TestGoesOnAfterTheEnd: an import goes on where it was when the program is started again.
func TestGoesOnAfterTheEnd(t *testing.T) {
	path := t.TempDir() + "/d.db"
	s, st := studytest.Open(t, &studytest.Fake{}, path, nil)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	token := kept(t, s, n, "kw.csv", table(20_000))
	if _, err := s.Imports.Confirm(ctx, n, token); err != nil {
		t.Fatal(err)
	}
	s.Close()
	st.Close()
	s, _ = studytest.Open(t, &studytest.Fake{}, path, nil)
	s.Jobs.Watch()
	deadline := time.Now().Add(time.Minute)
	for len(in(t, s, n)) < 20_000 && time.Now().Before(deadline) {
		time.Sleep(20 * time.Millisecond)
	}
	if got := in(t, s, n); len(got) != 20_000 {
		t.Errorf("%d ideas", len(got))
	}
}

// TestMappingIsRemembered: how somebody said that columns are read holds for the next file of that shape.
func TestMappingIsRemembered(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	odd := "x1,x2,x3\nmoon map,7,a\nmars,8,b\n"
	token := kept(t, s, n, "odd.csv", odd)
	p, err := s.Imports.Preview(ctx, n, token)
	if err != nil || !strings.Contains(p.Why, "no column of it is known to hold phrases") {
		t.Fatalf("%+v, %v", p, err)
	}
	if _, err := s.Imports.Confirm(ctx, n, token); err == nil {
		t.Error("a table nobody knows is imported")
	}
	err = s.Imports.Set(ctx, n, token, imports.Settings{Fields: []files.Field{files.Phrase, files.Searches, files.Ignore}})
	if err != nil {
		t.Fatal(err)
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	studytest.Finish(t, s, j, err)
	if got := in(t, s, n); got["moon map"] != 7 || len(got) != 2 {
		t.Errorf("%v", got)
	}
	p, err = s.Imports.Preview(ctx, n, kept(t, s, n, "odd2.csv", strings.ReplaceAll(odd, "mars", "venus")))
	if err != nil || !p.Remembered || p.Usable != 2 || p.Known != 1 {
		t.Errorf("the next one: %+v, %v", p, err)
	}
	var out strings.Builder
	bad := kept(t, s, n, "bad", "moon\n=!!\n🔭\n")
	if err := s.Imports.Problems(ctx, n, bad, &out); err != nil || strings.Count(out.String(), "\n") != 3 {
		t.Errorf("%q, %v", out.String(), err)
	}
	err = s.Imports.Set(ctx, n, bad, imports.Settings{Comma: ";"})
	if err != nil {
		t.Error(err)
	}
	skip, headed := 3, false // nothing of that is in JSON
	objects := kept(t, s, n, "objects", `[{"phrase":"moon"},{"phrase":"mars"}]`)
	err = s.Imports.Set(ctx, n, objects, imports.Settings{Skip: &skip, Header: &headed})
	if p, failed := s.Imports.Preview(ctx, n, objects); err != nil || failed != nil || p.Usable != 2 {
		t.Errorf("JSON: %+v, %v, %v", p, err, failed)
	}
}

// TestRangesStay: a range is kept and shown as such; its middle is what filters go by.
func TestRangesStay(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	list := "keyword,volume\nmoon,1K – 10K\nmars,>1000000\n"
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list)); err != nil {
		t.Fatal(err)
	}
	if got := in(t, s, n); got["moon"] != 3162 || got["mars"] != 1e6 {
		t.Errorf("%v", got)
	}
	csv := studytest.Export(t, s, n, sieve.Sieve{}, "csv")
	if !strings.Contains(csv, "1000-10000") {
		t.Errorf("%s", csv)
	}
	other, _ := s.Niches.Create(ctx, niches.Niche{Name: "Other", Country: "us", Language: "en"})
	if _, err := s.Imports.Take(ctx, other, "list", strings.NewReader(csv)); err != nil {
		t.Fatal(err)
	}
	if again := studytest.Export(t, s, other, sieve.Sieve{}, "csv"); !strings.Contains(again, "1000-10000") {
		t.Errorf("came back as %s", again)
	}
}

// TestResultsOfMyOwn: where no source of results is set, results that were brought are looked up all the same: their
// pages are fetched, and a verdict follows.
func TestResultsOfMyOwn(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Search, o.Market.Links, o.Market.Suggest, o.Market.Demand = nil, nil, nil, nil
	})
	var list strings.Builder
	list.WriteString("star chart for beginners\n")
	for i := range 10 {
		fmt.Fprintf(&list, "http://site%d.example/charts\n", i)
	}
	token := kept(t, s, n, "pasted", list.String())
	p, err := s.Imports.Preview(ctx, n, token)
	if err != nil || p.Kind != files.ResultsFile || p.About != 1 || p.Usable != 10 {
		t.Fatalf("%+v, %v", p, err)
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Found != 1 {
		t.Fatalf("%+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart for beginners")
	e, err := s.Results.Estimate(ctx, n, results.Top(), []uint{id})
	if err != nil || e.Missing != "" || e.Micros != 0 {
		t.Errorf("estimate %+v, %v", e, err)
	}
	j, err = s.Results.LookUp(ctx, n, []uint{id}, false)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || len(v.Failures) > 0 {
		t.Fatalf("%+v", v)
	}
	story := studytest.Tell(t, s, n, id)
	if story.Evidence == nil || len(story.Evidence.Reading.Ten()) != 10 ||
		story.Evidence.Sources[ask.Results] != "your file “pasted”" || story.Evidence.Verdict.Locked == "" {
		t.Errorf("%+v", story.Evidence)
	}
}

// TestOldFilesGo: a file that nobody took in is removed once others come days later, whatever our clock says.
func TestOldFilesGo(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Now = func() time.Time { return time.Date(2040, 1, 1, 0, 0, 0, 0, time.UTC) }
	})
	old, young := kept(t, s, n, "old", "moon\n"), kept(t, s, n, "young", "mars\n")
	for _, path := range studytest.Must(filepath.Glob(s.Imports.Folder() + "/" + old + ".*")) {
		before := studytest.Must(os.Stat(path)).ModTime().Add(-72 * time.Hour)
		if err := os.Chtimes(path, before, before); err != nil {
			t.Fatal(err)
		}
	}
	third := kept(t, s, n, "third", "venus\n")
	if _, err := s.Imports.Upload(n.ID, old); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("the old one: %v", err)
	}
	for _, token := range []string{young, third} {
		if _, err := s.Imports.Preview(ctx, n, token); err != nil {
			t.Error(err)
		}
	}
}

// ranked is a web graph of a few sites.
type ranked map[string]float64

// Standing implements market.Ranker.
func (r ranked) Standing(site string) (float64, bool) { x, known := r[site]; return x, known }

// TestAGraphIsEnough: with a web graph that was imported and results that were brought a chance is told, though nobody
// is asked for links: pages count as usual for such sites.
func TestAGraphIsEnough(t *testing.T) {
	graph := ranked{"mine.example": 30}
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Search, o.Market.Links, o.Market.Suggest, o.Market.Demand = nil, nil, nil, nil
		o.Market.Ranks = graph
	})
	var list strings.Builder
	list.WriteString("star chart for beginners\n")
	for i := range 10 {
		graph[fmt.Sprintf("site%d.example", i)] = float64(60 - 5*i)
		fmt.Fprintf(&list, "http://site%d.example/charts\n", i)
	}
	j, err := s.Imports.Confirm(ctx, n, kept(t, s, n, "pasted", list.String()))
	studytest.Finish(t, s, j, err)
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart for beginners")
	j, err = s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, j, err)
	ev := studytest.Tell(t, s, n, id).Evidence
	if ev == nil || ev.Verdict.Locked != "" || ev.Mine.SiteStanding != 30 || !ev.MineKnown {
		t.Fatalf("%+v", ev)
	}
	first, last := ev.Reading.Ten()[0], ev.Reading.Ten()[9]
	if first.LinksKnown || first.SiteStanding != 60 || first.PageStanding != difficulty.UsualPage(60) ||
		last.PageStanding >= first.PageStanding || ev.Verdict.PageOne.Mean <= 0 || ev.Verdict.PageOne.Mean >= 1 {
		t.Errorf("%+v\n%+v\n%+v", first, last, ev.Verdict.PageOne)
	}
	if last.Has(serp.WeakLinks) || !last.Has(serp.WeakSmall) == (last.SiteStanding <= serp.SmallSite) {
		t.Errorf("the last is weak by %+v", last.Weak)
	}
}

// TestTwoAtOnce: two imports at once both come in whole.
func TestTwoAtOnce(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	a, b := kept(t, s, n, "a", table(5000)), kept(t, s, n, "b", strings.ReplaceAll(table(5000), "\n", "\nsun "))
	j, err := s.Imports.Confirm(ctx, n, a)
	if err != nil {
		t.Fatal(err)
	}
	k, err := s.Imports.Confirm(ctx, n, b)
	studytest.Finish(t, s, k, err)
	studytest.Finish(t, s, j, nil)
	if got := in(t, s, n); len(got) < 10_000 {
		t.Errorf("%d ideas", len(got))
	}
}

// BenchmarkTake is what it takes to take in a table of twelve months.
func BenchmarkTake(b *testing.B) {
	list := table(20_000)
	for b.Loop() {
		s, n := studytest.Begin(b, &studytest.Fake{}, nil)
		if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list)); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(20_000*float64(b.N)/b.Elapsed().Seconds(), "rows/s")
}
