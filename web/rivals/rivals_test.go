package rivals_test

import (
	"context"
	"fmt"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// ranks is a rankings service that knows three phrases of every site, one of them hostile.
type ranks struct{}

func (ranks) Ranks(_ context.Context, q market.RanksAsked, _ market.Locale) (market.Ranks, error) {
	n, v := 1900, 12.5
	return market.Ranks{AsOf: time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC), Total: 3, List: []market.Rank{
		{Phrase: "best moon map", Place: 2, URL: "http://" + q.Name + "/best/maps", Searches: &n, Visits: &v},
		{Phrase: "moon chart", Place: 7, URL: "http://" + q.Name + "/charts/moon"},
		{Phrase: "<script>alert(1)</script> chart", Place: 9, URL: "http://" + q.Name + "/\"onload=x"}}}, nil
}

func open(t *testing.T, m func(*ask.Market)) *webtest.Site {
	o := webtest.Outside{}
	of := ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o, Ranked: ranks{}}
	if m != nil {
		m(&of)
	}
	s := webtest.OpenWith(t, of, study.Options{})
	s.Add("moon chart\nstar chart\nnever looked up")
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {"1", "2"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	s.Wait(1)
	return s
}

// TestRivals walks from who stands in the way to a rival's phrases in the niche.
func TestRivals(t *testing.T) {
	s := open(t, nil)
	webtest.Holds(t, s.Get("/niches/1/rivals"), "Weak pages you could outrank", "Who they are", "s0.example",
		"Follow a site, open it")
	post := func(path string, v url.Values) {
		t.Helper()
		if status, _, body := s.Post("/niches/1/"+path, v, false); status != 303 {
			t.Fatalf("%s: %d, %s", path, status, body)
		}
	}
	post("rivals/follow", url.Values{"site": {"https://www.S0.example/x"}})
	post("sites/s0.example/ranks", url.Values{"most": {"500"}, "with": {"moon"}})
	s.Wait(2)
	webtest.Holds(t, s.Get("/niches/1/sites/s0.example"), "Unfollow", "best moon map", "1,900", "/best",
		"It knows 3 phrases", "script alert")
	page := s.Get("/niches/1/sites/s0.example?starts=best&page=s0.example/best/")
	webtest.Holds(t, page, "Gather from the ticked subjects", `value="moon map"`, "All sections")
	if strings.Contains(page, `value="moon chart"`) {
		t.Error("what does not begin so is shown")
	}
	webtest.Holds(t, s.Get("/niches/1/rivals/openings"), "They rank for 3 phrases", "no site here yet")
	post("rivals/openings", url.Values{"phrase": {"s0.example|best moon map"}})
	webtest.Holds(t, s.Get("/niches/1/rivals/openings"), `href="/niches/1/ideas/4"><bdi>best moon map`)
	webtest.Holds(t, s.Get("/niches/1/rivals/links"), "Where rivals get their links")
	post("sites/s0.example/forget", nil)
	webtest.Holds(t, s.Get("/niches/1/sites/s0.example"), "Ask what it ranks for", "Unfollow")
	for want, v := range map[string]url.Values{"/gather?seed=moon+map%0Asun": {"gather": {"yes"},
		"subject": {"moon map", "sun"}}, "/gather/cross?list1=moon+map&list2=": {"cross": {"yes"}, "phrase": {"moon map"}},
		"/niches/new?country=US&language=en&name=Moon+map&seed=moon+map": {"niche": {"yes"}, "subject": {"moon map"}}} {
		_, head, _ := s.Post("/niches/1/sites/s0.example/take", v, false)
		if !strings.Contains(head.Get("Location"), want) {
			t.Errorf("%s is not where one is led: %s", want, head.Get("Location"))
		}
	}
}

// TestRivalsFail: what cannot be used is said where it was typed, and what is not there is not.
func TestRivalsFail(t *testing.T) {
	s := open(t, func(m *ask.Market) { m.Ranked = nil })
	webtest.Holds(t, s.Get("/niches/1/rivals"), "A rankings service would add")
	webtest.Holds(t, s.Get("/niches/1/sites/late.example"), "It is in none of the top tens",
		"No source says what sites rank for")
	webtest.Holds(t, s.Get("/niches/1/ideas/1/ranks?place=2"), "no source for rankings yet")
	for path, v := range map[string]url.Values{"rivals/follow": {"site": {"no site at all"}},
		"sites/late.example/ranks": {"most": {"10"}}, "sites/late.example/take": {}, "rivals/openings": {},
		"ideas/1/ranks/take?place=2": {"place": {"2"}}} {
		if status, _, body := s.Post("/niches/1/"+path, v, false); status != 422 {
			t.Errorf("%s: %d, %.200s", path, status, body)
		}
	}
	for path, want := range map[string]int{"sites/nonsense": 404, "sites/" + url.PathEscape("a b.example"): 404,
		"rivals/links/pdf": 404, "rivals/links/csv": 200, "rivals?from=-3": 200, "rivals?from=99999": 200,
		"rivals/openings?of=99&from=x&place-to=many": 200, "ideas/1/ranks?place=99": 404, "ideas/3/ranks?place=1": 404} {
		code, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/"+path, nil))
		if code != want {
			t.Errorf("%s: %d", path, code)
		}
	}
}

// TestRanksOfAResult: what a result ranks for becomes ideas, or subheadings of the brief.
func TestRanksOfAResult(t *testing.T) {
	s := open(t, nil)
	const at = "/niches/1/ideas/1/ranks"
	webtest.Holds(t, s.Get(at+"?place=2"), "Ask what it ranks")
	if status, head, _ := s.Post(at, url.Values{"place": {"2"}}, false); status != 303 ||
		!strings.HasSuffix(head.Get("Location"), "/ranks?place=2") {
		t.Fatal(status, head)
	}
	webtest.Holds(t, s.Get(at+"?place=2"), "It ranks for 3 phrases", "best moon map", "an idea", "not known")
	webtest.Holds(t, s.Get(at+"?place=2&word=map"), "1 with", "Show all")
	s.Post(at+"/take", url.Values{"place": {"2"}, "do": {"ideas"}, "phrase": {"best moon map"}}, false)
	webtest.Holds(t, s.Get("/niches/1/sift"), "best moon map")
	if status, _, body := s.Post(at+"/take", url.Values{"place": {"2"}, "do": {"headings"}, "phrase": {"best moon map"}},
		false); status != 422 || !strings.Contains(body, "Keep this idea first") {
		t.Errorf("an idea without a brief: %d", status)
	}
	s.Post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"keep"}, "stage": {"sift"}}, true)
	s.Post(at+"/take", url.Values{"place": {"2"}, "do": {"headings"}, "phrase": {"best moon map"}}, false)
	if status, head, body := s.Post("/niches/1/ideas/1/headings", url.Values{"heading": {"is there a moon map"}},
		false); status != 303 || head.Get("Location") != "/niches/1/briefs/1" {
		t.Fatal(status, head, body)
	}
	brief := s.Get("/niches/1/briefs/1")
	webtest.Holds(t, brief, "Best moon map", "Is there a moon map")
	s.Post("/niches/1/ideas/1/headings", url.Values{"heading": {"Is there a moon map"}}, false)
	if again := s.Get("/niches/1/briefs/1"); strings.Count(again, "Is there a moon map") !=
		strings.Count(brief, "Is there a moon map") {
		t.Error("a subheading is there twice")
	}
	for path, v := range map[string]url.Values{"ideas/1/headings": {"heading": {strings.Repeat("x", 300)}},
		"ideas/3/headings": {"heading": {""}}} {
		if status, _, _ := s.Post("/niches/1/"+path, v, false); status != 422 {
			t.Errorf("%s: %d", path, status)
		}
	}
	if fmt.Sprint(s.Get("/niches/1/ideas/1")) == "" {
		t.Error("the idea is gone")
	}
}
