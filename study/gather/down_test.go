package gather_test

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/branch"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// TestWhatABranchCost: what is spent on suggestions, on searches and on lookups of an idea is entered for the branch by
// which the idea came, and adds up to what was spent.
func TestWhatABranchCost(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Prices[ask.Suggestions], o.Prices[ask.Demand], o.Prices[ask.Results], o.Prices[ask.Links] = 1000, 100, 2000, 10
	})
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon map", "star"},
		Ways: []gather.Way{gather.Letters}})
	studytest.Finish(t, s, j, err)
	down := func() gather.Down {
		t.Helper()
		d, err := s.Gathering.Down(ctx, n, branch.Orders[0])
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	before := down()
	seed := before.Find("moon map")
	if want := int64(27*1000 + 100*seed.Ideas); seed.Micros != want || before.Elsewhere != 0 {
		t.Errorf("gathering cost %d, %d of it for no branch; want %d for %d ideas", seed.Micros, before.Elsewhere, want,
			seed.Ideas)
	}
	way := before.Find("moon map › letter")
	under, _, err := s.Gathering.Under(ctx, n, way)
	if err != nil {
		t.Fatal(err)
	}
	j, err = s.Results.Start(ctx, n, results.LookupOf(""), []uint{under[0].ID}, false)
	studytest.Finish(t, s, j, err)
	after := down()
	looked := after.Find("moon map › letter").Micros - way.Micros
	if looked <= 2000 || looked != after.Micros-before.Micros {
		t.Errorf("the lookup cost %d of its branch, %d of all", looked, after.Micros-before.Micros)
	}
	j, err = s.Gathering.Gather(ctx, n, gather.PlanFrom(under[0]))
	studytest.Finish(t, s, j, err)
	dug := down().Find(under[0].Phrase)
	if dug == nil || !dug.Dug || dug.Ideas == 0 {
		t.Errorf("what was dug: %+v", dug)
	}
}

// BenchmarkDown is the tree of 100,000 ideas of 200 seeds, with what was spent for each, as it is opened.
func BenchmarkDown(b *testing.B) {
	s, st, n := studytest.BeginWith(b, &studytest.Fake{}, nil)
	kinds := []string{ideas.FromCompletion, ideas.FromLetter, ideas.FromQuestion, ideas.FromPreposition}
	var finds []store.Find
	for i := range 100_000 {
		seed := fmt.Sprint("seed ", i%200)
		f := s.Ideas.Find(n, fmt.Sprint("idea ", i, " of ", i%200),
			store.Origin{Kind: kinds[i/200%4], Query: seed, Seed: seed})
		f.Idea.Searches = &i
		finds = append(finds, f)
	}
	for part := range slices.Chunk(finds, 5000) {
		studytest.Must(st.AddIdeas(ctx, n.ID, part))
	}
	rows := studytest.Must(st.Branches(ctx, n.ID))
	var calls []store.Entry
	for i := range 100_000 {
		calls = append(calls, store.Entry{Call: fmt.Sprint(i), Question: "demand", Key: fmt.Sprint(i), Micros: 500,
			BranchID: rows[i%len(rows)].ID})
	}
	for part := range slices.Chunk(calls, 5000) {
		if err := st.Spend(ctx, part, s.Now(), 0); err != nil {
			b.Fatal(err)
		}
	}
	studytest.Must(s.Ideas.Table(ctx, n))
	for b.Loop() {
		d := studytest.Must(s.Gathering.Down(ctx, n, branch.Orders[0]))
		if d.Ideas != 100_000 || len(d.Kids) != 200 || d.Micros != 50_000_000 {
			b.Fatal(d.Ideas, len(d.Kids), d.Micros)
		}
		for _, kid := range d.Kids[0].Kids[:1] {
			if under, _, err := s.Gathering.Under(ctx, n, kid); err != nil || len(under) != 12 {
				b.Fatal(len(under), err)
			}
		}
	}
}

// site is a web of a few pages, whose sitemap names itself.
type site struct{ *studytest.Fake }

func (s site) Fetch(_ context.Context, at string) (market.Fetched, error) {
	text := strings.Repeat("The telescope mirror of a dobsonian needs care. Wash a telescope mirror in water. ", 6) +
		"</p></body></html>"
	pages := map[string]string{
		"/mirror": "<html lang=en><title>Telescope mirror care</title><h1>Telescope mirror care</h1><p>" + text,
		"/bees":   "<title>Bee hives</title><h1>Bee hives</h1><p>" + text,
		"/app":    "<title>App</title><script>write()</script>",
		"/login":  "<title>Members</title><form><input type=password></form>",
		"/de":     "<html lang=de><title>Fernrohr</title><p>" + text,
	}
	u, err := url.Parse(at)
	if err != nil || pages[u.Path] == "" || u.Scheme != "http" {
		return market.Fetched{}, &market.Error{Source: "mine.example", Trouble: market.Refused, Err: errors.New("none")}
	}
	return market.Fetched{URL: at, ContentType: "text/html; charset=utf-8", Body: []byte(pages[u.Path])}, nil
}

func (s site) Sitemap(_ context.Context, at string) (market.Sitemap, error) {
	if at != "http://mine.example/sitemap.xml" {
		return market.Sitemap{}, &market.Error{Source: "mine.example", Trouble: market.Refused, Err: errors.New("none")}
	}
	out := market.Sitemap{More: []string{at}}
	for _, page := range []string{"/mirror", "/bees", "/app", "/login", "/gone"} {
		out.Pages = append(out.Pages, "http://mine.example"+page)
	}
	return out, nil
}

// TestWhatAPageIsAbout: a page and a site are read as a job; what they are about is told with what is odd; ticked
// phrases become ideas on the page's branch.
func TestWhatAPageIsAbout(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Pages = site{&studytest.Fake{}} })
	read := func(at string, whole bool) gather.About {
		t.Helper()
		of, err := gather.ReadSource(at, whole, 10)
		if err != nil {
			t.Fatal(err)
		}
		j, err := s.Gathering.Read(ctx, n, of)
		studytest.Finish(t, s, j, err)
		return studytest.Must(s.Gathering.About(ctx, n, of))
	}
	mirror := read("mine.example/mirror", false)
	if mirror.Read != 1 || len(mirror.Findings) != 0 || mirror.Terms[0].Phrase != "telescope mirror" ||
		mirror.Title != "Telescope mirror care" {
		t.Errorf("%+v", mirror)
	}
	for path, says := range map[string]string{"bees": "not what its title says", "app": "hardly any text",
		"login": "asks to sign in", "de": "“de”"} {
		if got := read("http://mine.example/"+path, false); len(got.Findings) != 1 ||
			!strings.Contains(got.Findings[0], says) {
			t.Errorf("%s: %q", path, got.Findings)
		}
	}
	whole := read("https://mine.example", true)
	if whole.Read != 4 || whole.Of != 5 || len(whole.Findings) != 2 || whole.Terms[0].Pages != 2 {
		t.Errorf("%d of %d read, %q, %+v", whole.Read, whole.Of, whole.Findings, whole.Terms[:1])
	}
	if none := read("https://other.example/x", true); none.Read != 0 || none.Terms != nil {
		t.Errorf("what cannot be read: %+v", none)
	}
	added, err := s.Gathering.AddFrom(ctx, n, mirror.Source, []string{"telescope mirror", "Wash a mirror", "??"})
	if err != nil || added != 2 {
		t.Errorf("%d added: %v", added, err)
	}
	d := studytest.Must(s.Gathering.Down(ctx, n, branch.Orders[0]))
	if got := d.Find("https://mine.example/mirror"); got == nil || got.Kind != "page" || got.Ideas != 2 {
		t.Errorf("the page's branch: %+v", got)
	}
	for _, at := range []string{"", "x", "ftp://a.example/", "http://", "http://[::1", strings.Repeat("a.", 2000)} {
		if of, err := gather.ReadSource(at, false, 1); err == nil {
			t.Errorf("%.30q is %+v", at, of)
		}
	}
	if _, err := gather.ReadSource("a.example", true, 100_000); err == nil {
		t.Error("a site without bounds")
	}
}
