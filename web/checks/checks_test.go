package checks_test

import (
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestTheVerdict: a list is pasted, stands apart with its verdict, its bars move it, and it goes into the niche.
func TestTheVerdict(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, s.Get("/niches/1/check"), "Check a list", "At most 2,000 phrases")
	form := url.Values{"name": {"sold <b>"}, "list": {"moon map for kids\nstar wheel\n🔭"}}
	status, h, _ := s.Post("/niches/1/check", form, false)
	at := h.Get("Location")
	if status != 303 || at != "/niches/2/verdict" {
		t.Fatal(status, at)
	}
	if err := s.Study.Jobs.Wait(t.Context(), 1); err != nil {
		t.Fatal(err)
	}
	body := s.Get(at)
	webtest.Holds(t, body, "sold &lt;b&gt;", "Of 2 phrases:", "100 visits a day", `name="visits" value="100"`,
		"What each filter removes", "Import all into Sky", "verdict.csv?")
	body = s.Get(at + "?searches-from=1")
	webtest.Holds(t, body, "<strong>2</strong> pass", "Import the 2 that pass into Sky")
	webtest.Holds(t, s.Get(at+"?ready=Long+tail"), `<option selected>Long tail</option>`, "words at least 5")
	webtest.Holds(t, s.Get("/niches/1/check"), `href="/niches/2/verdict"`)
	webtest.Holds(t, s.Get("/niches/2/check"), "This is a list that is checked.")
	csv := s.Get("/niches/2/verdict.csv?searches-from=1")
	if !strings.HasPrefix(csv, "phrase,searches,") || !strings.Contains(csv, "moon map for kids,") {
		t.Errorf("%q", csv)
	}
	for _, path := range []string{"/niches/1/verdict", "/niches/1/verdict.csv", "/niches/2/verdict.json"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
	status, _, body = s.Post("/niches/2/verdict/wordings", url.Values{"sift": {"searches-from=1"}}, false)
	if status != 422 || !strings.Contains(body, "No phrase needs a wording") {
		t.Errorf("wordings of what is searched: %d", status)
	}
	status, h, _ = s.Post("/niches/2/verdict/take", url.Values{"sift": {"searches-from=1"}, "which": {"left"}}, false)
	if status != 303 || h.Get("Location") != "/niches/1/gather" {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	webtest.Holds(t, s.Get("/niches/1/sift"), "star wheel")
	status, _, body = s.Post("/niches/1/check", url.Values{"list": {"🔭"}}, false)
	if status != 422 || !strings.Contains(body, "🔭</textarea>") {
		t.Errorf("nothing of use: %d", status)
	}
}
