package idea_test

import (
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestTheWholeStoryServes: every part of an idea's story by its own address, and what is asked wrongly.
func TestTheWholeStoryServes(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o}, study.Options{})
	s.Add("moon chart\nstar chart\nold moon chart\nnever looked up")
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {"1", "2", "3"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	s.Wait(1)
	status := func(address string) int {
		code, _, _ := s.Do(httptest.NewRequest("GET", address, nil))
		return code
	}
	for address, want := range map[string][]string{
		"/niches/1/ideas/1?by=words&down=yes": {`aria-sort="descending"`, "Top ten, median",
			"Page one as searchers see it"},
		"/niches/1/ideas/1?open=1":              {"Fit, item by item", "Read it here"},
		"/niches/1/ideas/1/results?by=nonsense": {`id="results"`},
		"/niches/1/ideas/1/links": {"Who links to the top ten", "To match it",
			"Sites worth asking"},
		"/niches/1/ideas/1/links?place=2&with=1&only=solid": {"beside no. 1"},
		"/niches/1/ideas/1/links?place=99&with=x":           {"Links to no. 1"},
		"/niches/1/ideas/1/along?stage=judge":               {`"of":`},
		"/niches/1/sites":                                   {"Who stands in the way", "s0.example"},
		"/niches/1/sites/s0.example":                        {"It holds", "moon chart"},
		"/niches/1/compare?id=1&id=3":                       {"One article or two?", "they share"},
		"/niches/1/compare?id=1&id=4":                       {"not both are looked up"},
		"/niches/1/ideas/4":                                 {"Shorter and longer wordings", "Clicks and money"},
	} {
		body := s.Get(address)
		for _, w := range want {
			if !strings.Contains(body, w) {
				t.Errorf("%s lacks %q", address, w)
			}
		}
		if strings.Contains(body, "<script>alert") || strings.Contains(body, `href="javascript:`) {
			t.Errorf("%s passes on what is hostile", address)
		}
	}
	for address, want := range map[string]int{"/niches/1/ideas/4/links": 404, "/niches/1/ideas/99/links": 404,
		"/niches/1/ideas/1/links/pdf": 404, "/niches/1/ideas/1/copy?url=http://never.test/": 404,
		"/niches/1/ideas/4/results": 404, "/niches/1/ideas/4/what-if": 404, "/niches/1/sites/nonsense": 404,
		"/niches/1/compare?id=1": 422, "/niches/1/compare?id=1&id=x": 422, "/niches/1/compare?id=1&id=99": 422,
		"/niches/1/compare?id=1&id=2&id=3&id=4&id=5&id=6": 422, "/niches/1/ideas/1/links/csv": 200,
		"/niches/1/ideas/1/links/xlsx": 200} {
		if got := status(address); got != want {
			t.Errorf("%s: %d, want %d", address, got, want)
		}
	}
	// Columns are kept; questions become ideas once; a foreign question is refused.
	s.Post("/niches/1/ideas/1/ten-columns", url.Values{"column": {"ratings", "nonsense"}}, false)
	if body := s.Get("/niches/1/ideas/2"); !strings.Contains(body, "Ratings</a>") ||
		strings.Contains(body, "Updated</a>") {
		t.Error("columns are not kept")
	}
	s.Post("/niches/1/ideas/1/ten-columns", url.Values{"usual": {"yes"}}, false)
	if code, _, _ := s.Post("/niches/1/ideas/1/questions", url.Values{"question": {"another?"}}, false); code != 422 {
		t.Errorf("a foreign question: %d", code)
	}
	s.Post("/niches/1/ideas/1/questions", nil, false)
	if body := s.Get("/niches/1/ideas/1"); !strings.Contains(body, "an idea</span>") {
		t.Error("a question is no idea")
	}
	if body := s.Get("/niches/1/ideas/5"); !strings.Contains(body, "<h1><bdi>is it so</bdi>") ||
		!strings.Contains(body, "related: ") {
		t.Error("a question does not say where it came from")
	}
	for _, bad := range []url.Values{{"until": {"yes"}, "want": {"x"}, "bar": {"20"}},
		{"until": {"yes"}, "want": {"3"}, "bar": {"no"}}, {"until": {"yes"}, "want": {""}, "bar": {"20"}},
		{"until": {"yes"}, "want": {"3"}, "bar": {"20"}, "price": {"much"}}} {
		bad.Set("id", "4")
		if code, _, _ := s.Post("/niches/1/lookup", bad, true); code != 422 {
			t.Errorf("%v: %d", bad, code)
		}
	}
}
