package imports_test

import (
	"fmt"
	"strings"
	"testing"

	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// brought imports a file of a kind, and returns its batch.
func brought(t *testing.T, s *study.Study, n niches.Niche, name, text string, kind files.Kind, about int) string {
	t.Helper()
	token := kept(t, s, n, name, text)
	p, err := s.Imports.Preview(ctx, n, token)
	if err != nil || p.Kind != kind || p.About != about || p.Why != "" {
		t.Fatalf("%+v, %v", p, err)
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done {
		t.Fatalf("%+v", v)
	}
	return token
}

// firstOf is who stands first for a phrase, by what is known.
func firstOf(t *testing.T, s *study.Study, phrase string, n niches.Niche) string {
	t.Helper()
	got, err := s.Ask.Results(ctx, phrase, n.Locale(), 0)
	if err != nil {
		return err.Error()
	}
	return got.Value.Organic[0].URL + " " + got.Source
}

// TestBroughtResultsAreTakenBack: what was known before holds again, of an earlier file or of a service; a service
// that is set later finds them.
func TestBroughtResultsAreTakenBack(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	asked := firstOf(t, s, "moon map", n)
	page := func(site string) string { return "moon map\nhttp://" + site + "/a\nhttp://b.example/\n" }
	one := brought(t, s, n, "one", page("one.example"), files.ResultsFile, 1)
	if got := firstOf(t, s, "moon map", n); got != "http://one.example/a your file “one”" {
		t.Errorf("after one: %s", got)
	}
	two := brought(t, s, n, "two", page("two.example"), files.ResultsFile, 1)
	if got := firstOf(t, s, "moon map", n); got != "http://two.example/a your file “two”" {
		t.Errorf("after two: %s", got)
	}
	list, err := s.Imports.Imports(ctx, n.ID, 5)
	if err != nil || len(list) != 2 || list[0].Results != 1 || list[0].Links != 0 {
		t.Errorf("%+v, %v", list, err)
	}
	for _, c := range []struct{ batch, want string }{{two, "http://one.example/a your file “one”"}, {one, asked}} {
		if _, err := s.Imports.Undo(ctx, n.ID, c.batch); err != nil {
			t.Fatal(err)
		}
		if got := firstOf(t, s, "moon map", n); got != c.want {
			t.Errorf("undone: %s instead of %s", got, c.want)
		}
	}
	if left := in(t, s, n); len(left) != 0 {
		t.Errorf("ideas are left: %v", left)
	}
}

// TestBroughtHoldsForALaterSource: results that were brought before a service was set are found still.
func TestBroughtHoldsForALaterSource(t *testing.T) {
	path := t.TempDir() + "/d.db"
	s, _ := studytest.Open(t, &studytest.Fake{}, path, func(o *studytest.Setup) { o.Market.Search = nil })
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	brought(t, s, n, "mine", "moon map\nhttp://a.example/\n", files.ResultsFile, 1)
	later, _ := studytest.Open(t, &studytest.Fake{}, path, func(o *studytest.Setup) {
		o.Market.Search = nil
		o.Market.More = []ask.Source{{Question: ask.Results, Name: "a new engine", Client: &studytest.Fake{}}}
	})
	if got := firstOf(t, later, "moon map", n); got != "http://a.example/ your file “mine”" {
		t.Error(got)
	}
	if got := firstOf(t, later, "mars map", n); !strings.HasSuffix(got, "a new engine") {
		t.Error(got)
	}
}

// TestLinksOfMyOwn: links of a file are the links of the pages they lead to, however an address is written.
func TestLinksOfMyOwn(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Links = nil })
	const list = "Source URL,Target URL,Anchor,Nofollow\n" +
		"http://x.example/1,https://www.site1.example/8/,a chart,no\n" +
		"http://y.example/2,https://www.site1.example/8/,b,yes\n" +
		"http://z.example/3,http://site2.example/,c,\nnowhere,http://site2.example/,d,\n"
	token := kept(t, s, n, "links", list)
	p, err := s.Imports.Preview(ctx, n, token)
	if err != nil || p.Kind != files.LinksFile || p.About != 2 || p.Usable != 3 || p.Bad != 1 {
		t.Fatalf("%+v, %v", p, err)
	}
	var problems strings.Builder
	if err := s.Imports.Problems(ctx, n, token, &problems); err != nil || !strings.Contains(problems.String(),
		"the linking page is no web address") {
		t.Errorf("%s, %v", problems.String(), err)
	}
	j, err := s.Imports.Confirm(ctx, n, token)
	studytest.Finish(t, s, j, err)
	got, err := s.Ask.Links(ctx, "http://site1.example/8")
	if err != nil || got.Value.Total != 2 || got.Source != "your file “links”" || !got.Value.Links[0].Followed() ||
		got.Value.Links[1].Followed() {
		t.Errorf("%+v, %v", got, err)
	}
	if _, err := s.Ask.Links(ctx, "http://site3.example/"); err == nil {
		t.Error("links of a page that nobody knows")
	}
	if _, err := s.Imports.Undo(ctx, n.ID, token); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Ask.Links(ctx, "http://site1.example/8"); err == nil {
		t.Error("links are left")
	}
}

// TestRanksOfSites become the web graph at once, and refuse what has no PageRank.
func TestRanksOfSites(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Links = nil })
	if s.Ask.HasStandings() {
		t.Fatal("there is a graph already")
	}
	var ranks strings.Builder
	ranks.WriteString("#harmonicc_pos\t#harmonicc_val\t#pr_pos\t#pr_val\t#host_rev\n")
	for i := range 20 {
		fmt.Fprintf(&ranks, "%d\t9\t%d\t%g\texample.site%d\n", i+1, i+1, 0.1/float64(i+1), i)
	}
	brought(t, s, n, "ranks", ranks.String(), files.RanksFile, 20)
	standing, err := s.Ask.Standings(ctx)
	if err != nil || !s.Ask.HasStandings() {
		t.Fatal(err)
	}
	if x, known := standing("site0.example"); x != 100 || !known {
		t.Errorf("%v %v", x, known)
	}
	others := "#harmonicc_pos\t#harmonicc_val\t#host_rev\n1\t9\texample.a\n2\t8\texample.b\n"
	p, err := s.Imports.Preview(ctx, n, kept(t, s, n, "others", others))
	if err != nil || !strings.Contains(p.Why, "without PageRank") {
		t.Errorf("%+v, %v", p, err)
	}
}

// TestRankingsOfAnotherSite become what that site ranks for, and no ideas; rows of others are told.
func TestRankingsOfAnotherSite(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	var list strings.Builder
	list.WriteString("Keyword;Position;URL;Volume;Traffic\n")
	for i := range 30 {
		fmt.Fprintf(&list, "Star map %d;%d;https://www.rival.example/charts/%d;1.%03d;%d,5\n", i, i%9+1, i, i, i)
	}
	list.WriteString("moon;1;https://stranger.example/;10;1\n" +
		"mars;0;https://rival.example/;;\nsun;2;https://rival.example;n/a;\n")
	brought(t, s, n, "ranks of a rival", list.String(), files.RivalFile, 31)
	r, err := st.RivalOf(ctx, n.ID, "rival.example")
	if err != nil || r.Total != 31 || r.Source != "your file “ranks of a rival”" || r.Followed {
		t.Fatalf("%+v, %v", r, err)
	}
	rows, total, err := s.Rivals.Ranks(ctx, n, r, store.Ranked{Order: "phrase", Limit: 50})
	if err != nil || total != 31 || rows[0].Phrase != "star map 0" || *rows[1].Searches != 1001 ||
		*rows[1].Visits != 1.5 || rows[1].Page != "www.rival.example/charts/1" || rows[30].Phrase != "sun" ||
		rows[30].Searches != nil || rows[30].Page != "rival.example/" {
		t.Errorf("%d: %+v, %v", total, rows, err)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if b.Len() != 0 {
		t.Errorf("%d ideas came of it", b.Len())
	}
	mine := strings.ReplaceAll(list.String(), "rival.example", "mine.example")
	p, err := s.Imports.Preview(ctx, n, kept(t, s, n, "mine", mine))
	if err != nil || p.Kind != files.RankingsFile {
		t.Errorf("my own places are %q, %v", p.Kind, err)
	}
}

// TestTablesOfASite: each kind of table about a site is told by its headings, stands where a service's answer would,
// and leaves when its import is undone.
func TestTablesOfASite(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	took := func(text string, bad int) string {
		t.Helper()
		u, err := s.Imports.ReceiveOf(ctx, n, "a.example", "table.csv", strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		p, err := s.Imports.Preview(ctx, n, u.Token)
		if err != nil || p.Kind != files.SiteFile || p.Site != "a.example" || p.Bad != bad || p.Why != "" {
			t.Fatalf("%+v, %v", p, err)
		}
		j, err := s.Imports.Confirm(ctx, n, u.Token)
		if v := studytest.Finish(t, s, j, err); v.State != jobs.Done {
			t.Fatalf("%+v", v)
		}
		return u.Token
	}
	took("Month;Traffic\nOct 2026;1.200,5\nSep 2026;900,5\nsoon;3\n", 1)
	took("Page,Traffic,Keywords,Top keyword\nhttps://a.example/x,120,7,moon map\nno page,1,1,x\n", 1)
	took("country,visits\nde,5\nAtlantis,3\n", 1)
	ads := took("Keyword,Headline,Landing page,Cost,Share\n"+
		"buy a moon map,Moon maps,https://a.example/buy,$1.50,40%\n", 0)
	took("Domain,Common keywords,Keywords,Traffic\nb.example,\"1,200\",5000,\n", 0)
	d, err := s.Rivals.Details(ctx, n, "a.example")
	if err != nil || len(d.Months.Value.List) != 2 || d.Months.Value.List[0].Month != "2026-09" ||
		*d.Months.Value.List[1].Visits != 1200.5 || d.Months.Source != "your file “table.csv”" {
		t.Errorf("%+v, %v", d.Months, err)
	}
	if p := d.Pages.Value.List; len(p) != 1 || p[0].Phrases != 7 || p[0].Phrase != "moon map" || *p[0].Visits != 120 {
		t.Errorf("%+v", p)
	}
	if c := d.Countries.Value.List; len(c) != 1 || c[0].Country != "DE" {
		t.Errorf("%+v", c)
	}
	if a := d.Ads.Value.List; len(a) != 1 || a[0].Cost.Micros != 1_500_000 || a[0].Cost.Currency != "USD" ||
		*a[0].Share != 0.4 || len(d.Sources()) != 1 {
		t.Errorf("%+v", a)
	}
	if _, err := s.Imports.Undo(ctx, n.ID, ads); err != nil {
		t.Fatal(err)
	}
	if d, _ = s.Rivals.Details(ctx, n, "a.example"); d.Has("ads") || !d.Has("months") {
		t.Error("what was undone is there, or something else is not")
	}
	n.OwnSite = "a.example"
	who, err := s.Rivals.Who(ctx, n, 0)
	if err != nil || len(who.SharedAt.Value.List) != 1 || who.SharedAt.Value.List[0].Shared != 1200 {
		t.Errorf("%+v, %v", who.SharedAt, err)
	}
	u, err := s.Imports.ReceiveOf(ctx, n, "a.example", "odd.csv", strings.NewReader("colour,taste\nred,good\n"))
	if err != nil {
		t.Fatal(err)
	}
	if p, err := s.Imports.Preview(ctx, n, u.Token); err != nil || !strings.Contains(p.Why, "cannot be told") {
		t.Errorf("%q, %v", p.Why, err)
	}
	u, err = s.Imports.ReceiveOf(ctx, n, "a.example", "long.csv",
		strings.NewReader("month,visits\n"+strings.Repeat("2026-01,5\n", 10_001)))
	if err != nil {
		t.Fatal(err)
	}
	if p, err := s.Imports.Preview(ctx, n, u.Token); err != nil || !strings.Contains(p.Why, "more than 10000 rows") {
		t.Errorf("%q, %v", p.Why, err)
	}
	if _, err := s.Imports.Confirm(ctx, n, u.Token); err == nil {
		t.Error("what cannot be read is imported")
	}
	for name, text := range map[string]string{"negative": "month,visits\n2026-01,-5\n2026-02,7\n",
		"too much": "month,visits\n2026-01,1e30\n2026-02,7\n", "formula": "month,visits\n\"=1+1\",5\n2026-02,7\n"} {
		u, err := s.Imports.ReceiveOf(ctx, n, "a.example", name, strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		if p, err := s.Imports.Preview(ctx, n, u.Token); err != nil || p.Usable != 1 || p.Bad != 1 {
			t.Errorf("%s: %d usable, %d bad, %q, %v", name, p.Usable, p.Bad, p.Why, err)
		}
	}
}
