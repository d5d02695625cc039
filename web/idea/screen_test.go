package idea_test

import (
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

func TestSupposeInTheBrowser(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o}, study.Options{})
	s.Add("moon chart")
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {"1"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	s.Wait(1)
	if status, h, _ := s.Post("/niches/1/ideas/1/suppose", url.Values{"standing": {""}, "links": {"4"},
		"fit": {"92,5"}}, false); status != 303 || !strings.HasSuffix(h.Get("Location"), "/niches/1/ideas/1#my-reach") {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	body := s.Get("/niches/1/ideas/1")
	for _, want := range []string{`name="links" id="if-links" inputmode="numeric" value="4"`, `value="92.5"`,
		"Uses what-if values for this idea", "Reset", "with 4 planned solid"} {
		if !strings.Contains(body, want) {
			t.Errorf("%q is missing", want)
		}
	}
	for field, bad := range map[string]string{"standing": "high", "links": "1.5", "fit": "101"} {
		v := url.Values{"standing": {"10"}, "links": {"1"}, "fit": {"80"}}
		v.Set(field, bad)
		if status, _, body := s.Post("/niches/1/ideas/1/suppose", v, false); status != 422 ||
			!strings.Contains(body, `value="`+bad+`"`) || !strings.Contains(body, `aria-invalid="true"`) {
			t.Errorf("%s=%s: %d", field, bad, status)
		}
	}
	if !strings.Contains(s.Get("/niches/1/ideas/1"), `value="92.5"`) {
		t.Error("a mistake has changed what was supposed")
	}
	s.Post("/niches/1/ideas/1/suppose", url.Values{"clear": {"yes"}, "links": {"9"}}, false)
	if strings.Contains(s.Get("/niches/1/ideas/1"), "Uses what-if values for this idea") {
		t.Error("it is not taken back")
	}
	// What is tried is what would be kept, figure for figure, and nothing is kept of it.
	tried := s.Get("/niches/1/ideas/1/what-if?standing=30&links=4&fit=92")
	before := s.Get("/niches/1/ideas/1")
	s.Post("/niches/1/ideas/1/suppose", url.Values{"standing": {"30"}, "links": {"4"}, "fit": {"92"}}, false)
	outcome := regexp.MustCompile(`(?s)<dl class="worth outcome">.*?</dl>`)
	stairs := regexp.MustCompile(`(?s)<figure class="stairs">.*?</figure>`)
	kept := s.Get("/niches/1/ideas/1")
	for _, part := range []*regexp.Regexp{outcome, stairs} {
		if is := part.FindString(tried); is == "" || is != part.FindString(kept) || is == part.FindString(before) {
			t.Errorf("%s: tried %.200q, kept %.200q", part, is, part.FindString(kept))
		}
	}
	if on := s.Get("/niches/1/ideas/1/what-if?standing=30&links=4&fit=92&tilt=1"); outcome.FindString(on) ==
		outcome.FindString(tried) {
		t.Error("another engine changes nothing")
	}
	for _, bad := range []string{"standing=x", "links=0.5", "fit=101", "tilt=2", "tilt=NaN", "tilt=much"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/ideas/1/what-if?"+bad, nil)); status != 422 {
			t.Errorf("%s: %d", bad, status)
		}
	}
}

func TestAMisspeltPhraseSaysWhatItWasTakenFor(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o},
		study.Options{Options: ask.Options{Depth: 20}})
	s.Add("star giude\nstar guide")
	s.Get("/niches/1/sift")
	for _, id := range []string{"1", "2"} {
		if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {id}}, true); status != 200 {
			t.Fatalf("start: %d %s", status, body)
		}
	}
	s.Wait(1)
	s.Wait(2)
	if body := s.Get("/niches/1/ideas/1"); !strings.Contains(body, "they take it for “<bdi>star guide</bdi>”") {
		t.Error("the whole story does not say what a misspelt phrase was taken for")
	}
	if body := s.Get("/niches/1/ideas/2"); strings.Contains(body, "take it for") {
		t.Error("a phrase that is spelt right was taken for another")
	}
}

func TestMyOwnPageIsMine(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o},
		study.Options{Options: ask.Options{Depth: 20}})
	s.Get("/niches/1/settings")
	s.Post("/niches/1/settings", url.Values{"name": {"Sky"}, "country": {"US"}, "language": {"en"}, "site": {"s4.example"},
		"links": {"0"}, "fit": {"85"}, "standing": {"35"}}, false)
	s.Add("moon chart")
	s.Post("/niches/1/lookup", url.Values{"id": {"1"}}, true)
	s.Wait(1)
	body := s.Get("/niches/1/ideas/1/drawer")
	if n := strings.Count(body, `<li class="mine">`); n != 1 || !strings.Contains(body, "your page") {
		t.Errorf("%d pages of the ten are mine", n)
	}
	webtest.Holds(t, s.Get("/niches/1/ideas/1"), "This is your own page.", `<li class="mine">`)
}
