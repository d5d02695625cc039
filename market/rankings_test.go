package market

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"testing"
)

// TestRanksAreWholeOrAnError: what is asked stands in the address; a place that is none, a page that is none, another
// target and no day are errors; a figure that is left out is not known.
func TestRanksAreWholeOrAnError(t *testing.T) {
	var asked url.Values
	said := ""
	s := serve(t, func(w http.ResponseWriter, r *http.Request) {
		asked = r.URL.Query()
		reply("application/json", said)(w, r)
	})
	c := NewRankingsService(source(s), "lantern")
	q := RanksAsked{Target: Target{Name: "a.example", Scope: AllHosts}, Contains: "moon", PlaceTo: 20, Offset: 40,
		Order: "searches"}
	good := `{"target":"a.example","as_of":"2026-11-16","total":7,"phrases":[{"phrase":" Moon  map","place":3,` +
		`"url":"http://a.example/x","searches":90,"visits":2.5},{"phrase":"moon","place":1,"url":"http://a.example/"}]}`
	said = good
	got, err := c.Ranks(context.Background(), q, home)
	if err != nil || len(got.List) != 2 || got.List[0].Phrase != "Moon map" || *got.List[0].Searches != 90 ||
		got.List[1].Searches != nil || got.List[1].Visits != nil || got.Total != 42 || got.AsOf.Day() != 16 {
		t.Fatalf("%+v, %v", got, err)
	}
	for name, want := range map[string]string{"target": "a.example", "scope": "site", "contains": "moon", "place_to": "20",
		"offset": "40", "order": "searches", "engine": "lantern", "country": "US", "limit": "1000",
		"searches_from": ""} {
		if asked.Get(name) != want {
			t.Errorf("%s is %q", name, asked.Get(name))
		}
	}
	for from, to := range map[string]string{`"place":3`: `"place":0`, `"place":1`: `"place":-3`, `"place":3,`: ``,
		`"http://a.example/x"`: `"/x"`, `"target":"a.example"`: `"target":"b.example"`,
		`"target":"a.example",`: ``,
		`2026-11-16`:            `soon`, `"searches":90`: `"searches":-1`, `"place":3,"url"`: `"place":1.5,"url"`,
		`" Moon  map"`: `" "`} {
		if said = strings.Replace(good, from, to, 1); said == good {
			t.Fatalf("%s is not in it", from)
		}
		var e *Error
		if _, err := c.Ranks(context.Background(), q, home); !errors.As(err, &e) || e.Trouble != Malformed {
			t.Errorf("%s for %s: %v", to, from, err)
		}
	}
}

// TestSiteRankings reads what else is known of a site; holes stay unknown.
func TestSiteRankings(t *testing.T) {
	answers := map[string]string{
		"/v1/sites":     `"total":2,"sites":[{"site":"b.example","shared":4,"phrases":9},{"site":"","shared":1}]`,
		"/v1/pages":     `"total":1,"pages":[{"url":"http://a.example/x","phrases":3,"phrase":"moon"}]`,
		"/v1/months":    `"months":[{"month":"2026-09","visits":4.5},{"month":"2026-10"}]`,
		"/v1/countries": `"countries":[{"country":"US","visits":4}]`,
		"/v1/ads": `"total":1,"ads":[{"phrase":"moon","url":"javascript:x","cost":{"micros":2000000,"currency":"USD"}},` +
			`{"phrase":"sun","title":"Sun","url":"http://a.example/sun","share":0.5}]`}
	s := serve(t, func(w http.ResponseWriter, r *http.Request) {
		reply("application/json", `{"target":"a.example","as_of":"2026-11-16",`+answers[r.URL.Path]+`}`)(w, r)
	})
	ctx, c, of := context.Background(), NewRankingsService(source(s), ""), Target{Name: "a.example", Scope: AllHosts}
	if got, err := c.Sharers(ctx, of, home, 10); err != nil || len(got.List) != 1 || *got.List[0].Phrases != 9 ||
		got.List[0].Visits != nil {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err := c.TopPages(ctx, of, home, 10); err != nil || got.List[0].Visits != nil || got.List[0].Phrases != 3 {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err := c.Months(ctx, of, home); err != nil || *got.List[0].Visits != 4.5 || got.List[1].Visits != nil {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err := c.Countries(ctx, of, home); err != nil || got.List[0].Phrases != nil || *got.List[0].Visits != 4 {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err := c.Advertised(ctx, of, home, 10); err != nil || got.List[0].URL != "" ||
		got.List[0].Cost.Micros != 2e6 || got.List[1].Cost != nil || *got.List[1].Share != 0.5 {
		t.Errorf("%+v, %v", got, err)
	}
	answers["/v1/months"] = `"months":[{"month":"soon"}]`
	if _, err := c.Months(ctx, of, home); err == nil {
		t.Error("a month that is none is taken")
	}
	answers["/v1/pages"] = `"pages":[{"url":"x"}]`
	if _, err := c.TopPages(ctx, of, home, 10); err == nil {
		t.Error("a page that is none is taken")
	}
}

// TestDescribedRanks: a described service is not asked to sift, so its answer is sifted here.
func TestDescribedRanks(t *testing.T) {
	s := serve(t, reply("application/json", `{"rows":[`+
		`{"p":"Moon map","n":"3","u":"http://a.example/x","s":"1,900","v":"12.5"},`+
		`{"p":"moon phases","n":"12","u":"http://www.a.example/y","s":"n/a"},`+
		`{"p":"sun map","n":"1","u":"http://a.example/z","s":"10"}]}`))
	c := described(t, "question: rankings\nname: x\nprivate: true\nrequest: {url: \"{at}/?d={domain}\"}\nanswer: {"+
		`format: json, rows: "$.rows[*]", unknown: [n/a], `+
		`fields: {phrase: $.p, place: $.n, url: $.u, searches: $.s, visits: $.v}}`+"\n", s.URL)
	ranks := func(q RanksAsked) string {
		t.Helper()
		got, err := c.Ranks(context.Background(), q, home)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, r := range got.List {
			out = append(out, r.Phrase)
		}
		return strings.Join(out, ", ")
	}
	site := Target{Name: "a.example", Scope: AllHosts}
	for _, c := range []struct {
		q    RanksAsked
		want string
	}{
		{RanksAsked{Target: site}, "Moon map, moon phases, sun map"},
		{RanksAsked{Target: site, Contains: "moon", PlaceTo: 10}, "Moon map"},
		{RanksAsked{Target: site, Lacks: "moon"}, "sun map"},
		{RanksAsked{Target: site, Ends: "map", Order: "place"}, "sun map, Moon map"},
		{RanksAsked{Target: site, Starts: "moon", Order: "searches"}, "Moon map, moon phases"},
		{RanksAsked{Target: site, SearchesFrom: 100}, "Moon map"},
		{RanksAsked{Target: Target{Name: "a.example", Scope: OneHost}, Order: "phrase"}, "Moon map, sun map"},
		{RanksAsked{Target: Target{Name: "http://www.a.example/y", Scope: OnePage}}, "moon phases"},
		{RanksAsked{Target: site, Offset: 1, Limit: 1}, "moon phases, sun map"},
	} {
		if got := ranks(c.q); got != c.want {
			t.Errorf("%+v: %s", c.q, got)
		}
	}
}

// TestDescribedParts: each part of what is known of a site comes by a file that describes it, and what is wrong with an
// answer is said by its row.
func TestDescribedParts(t *testing.T) {
	ctx, of := context.Background(), Target{Name: "a.example", Scope: AllHosts}
	part := func(part, fields, rows string) *Described {
		s := serve(t, reply("application/json", `{"rows":[`+rows+`]}`))
		return described(t, "question: rankings\npart: "+part+"\nname: x\nprivate: true\n"+
			"request: {url: \"{at}/?d={domain}\"}\nanswer: {"+
			`format: json, rows: "$.rows[*]", currency: EUR, fields: {`+fields+"}}\n", s.URL)
	}
	sites, err := part("sites", "site: $.d, shared: $.n, visits: $.v", `{"d":"B.example","n":"1,200","v":null}`).
		Sharers(ctx, of, home, 10)
	if err != nil || sites.List[0].Site != "b.example" || sites.List[0].Shared != 1200 || sites.List[0].Visits != nil {
		t.Errorf("%+v, %v", sites, err)
	}
	pages, err := part("pages", "url: $.u, phrases: $.n, phrase: $.p", `{"u":"https://a.example/x","n":7,"p":"moon"}`).
		TopPages(ctx, of, home, 10)
	if err != nil || pages.List[0] != (TopPage{"https://a.example/x", 7, nil, "moon"}) {
		t.Errorf("%+v, %v", pages, err)
	}
	months, err := part("months", "month: $.m, visits: $.v", `{"m":"Oct 2026","v":20},{"m":"2026-09-01","v":"10"}`).
		Months(ctx, of, home)
	if err != nil || months.List[0].Month != "2026-09" || *months.List[1].Visits != 20 {
		t.Errorf("%+v, %v", months, err)
	}
	countries, err := part("countries", "country: $.c, visits: $.v", `{"c":"de","v":5}`).Countries(ctx, of, home)
	if err != nil || countries.List[0].Country != "DE" {
		t.Errorf("%+v, %v", countries, err)
	}
	ads := part("ads", "phrase: $.p, cost: $.c, share: $.s", `{"p":"buy a moon map","c":"1.50","s":40}`)
	paid, err := ads.Advertised(ctx, of, home, 10)
	if err != nil || paid.List[0].Cost.Micros != 1_500_000 || paid.List[0].Cost.Currency != "EUR" ||
		*paid.List[0].Share != 0.4 {
		t.Errorf("%+v, %v", paid, err)
	}
	if !ads.Knows(AdsPart) || ads.Knows(PhrasesPart) || ads.Knows(MonthsPart) {
		t.Error("it is asked for what it does not know")
	}
	for _, bad := range []*Described{part("months", "month: $.m", `{"m":"soon"}`),
		part("countries", "country: $.c", `{"c":"Atlantis"}`)} {
		_, months := bad.Months(ctx, of, home)
		_, countries := bad.Countries(ctx, of, home)
		if months == nil || countries == nil || !strings.Contains(months.Error(), "row 1") {
			t.Errorf("%v, %v", months, countries)
		}
	}
	for _, text := range []string{"question: rankings\npart: weather", "question: links\npart: ads",
		"question: rankings of ads"} {
		_, err := ReadDescription([]byte(text + "\nname: x\nrequest: {url: \"http://x.example/{domain}{url}\"}\n" +
			"answer: {format: csv, fields: {phrase: a, from: a}}"))
		if err == nil {
			t.Errorf("%q is taken", text)
		}
	}
}
