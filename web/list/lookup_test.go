package list_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

func TestLookupInTheBrowser(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o,
		Names: map[ask.Question]string{ask.Results: "outside"}},
		study.Options{Options: ask.Options{Depth: 20, Prices: map[ask.Question]int64{ask.Results: 2000}}})
	s.Add("moon chart\nstar map")
	body := s.Get("/niches/1/sift")
	if !strings.Contains(body, "Look it up to see who ranks") ||
		!strings.Contains(body, "At most 41 lookups, $0.01") {
		t.Error("an idea that is not looked up does not say what that would cost")
	}
	if _, _, body := s.Post("/niches/1/lookup/estimate", url.Values{"id": {"1", "2"}}, true); !strings.Contains(body,
		"Look up 2 ideas: at most 82 lookups, $0.01") {
		t.Errorf("estimate of the chosen: %s", body)
	}
	if _, _, body := s.Post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"},
		"holds": {"star"}}, true); !strings.Contains(body, "Look up 1 idea:") || !strings.Contains(body, `name="all"`) {
		t.Errorf("estimate of all left: %s", body)
	}
	if _, _, body := s.Post("/niches/1/lookup/estimate", nil, true); !strings.Contains(body, "Select ideas") {
		t.Errorf("estimate of nothing: %s", body)
	}
	if status, _, _ := s.Post("/niches/1/lookup", url.Values{"id": {"x"}}, true); status != 422 {
		t.Errorf("an idea that is no number: %d", status)
	}
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {"1"}}, true); status != 200 ||
		!strings.Contains(body, "Look up “moon chart”") {
		t.Errorf("start: %d %s", status, body)
	}
	if body := s.Wait(1); !strings.Contains(body, "1 looked up") || !strings.Contains(body, "under $0.01") {
		t.Errorf("the job: %s", body)
	}
	body = s.Get("/niches/1/judge")
	for _, want := range []string{"The stairs to page one", "10 footholds", "1 looked up",
		"the average over what this engine may lean on", "your site is not in the link graph"} {
		if !strings.Contains(body, want) {
			t.Errorf("the drawer lacks %q", want)
		}
	}
	body = s.Get("/niches/1/ideas/1")
	for _, want := range []string{"How difficulty is computed", "is &lt;it&gt; so?", "Over the weeks",
		"Check again (at most $0.01)", "Gather from this (at most ", "Top ten, median"} {
		if !strings.Contains(body, want) {
			t.Errorf("the whole story lacks %q", want)
		}
	}
	if n := strings.Count(body, `<tr class="result`); n < 10 {
		t.Errorf("the whole story tells of %d results", n)
	}
	if body = s.Get("/niches/1/ideas/1?open=2"); strings.Count(body, "Fit, item by item") != 1 {
		t.Error("a result does not open")
	}
	if status, _, body := s.Post("/niches/1/ideas/1/dig", nil, true); status != 200 ||
		!strings.Contains(body, "Gather from “moon chart”") {
		t.Errorf("dig: %d %s", status, body)
	}
	s.Wait(2)
	if body := s.Get("/niches/1/gather"); !strings.Contains(body, "moon chart chart") || !strings.Contains(body, "dug") {
		t.Error("what was dug is not there")
	}
}

func TestSilentSourceInTheBrowser(t *testing.T) {
	o := webtest.Outside{Silent: true}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o,
		Names: map[ask.Question]string{}}, study.Options{})
	s.Get("/niches/1/gather")
	if status, h, _ := s.Post("/niches/1/gather", url.Values{"seeds": {"moon"}, "letters": {"yes"}},
		false); status != 303 || h.Get("Location") != "/niches/1/gather" {
		t.Fatalf("start: %d", status)
	}
	body := s.Wait(1)
	if !strings.Contains(body, "the outside cannot be reached: it is silent") ||
		!strings.Contains(body, "Fetched data is saved.") || !strings.Contains(body, "Resume") {
		t.Errorf("the stopped job: %s", body)
	}
	if status, _, _ := s.Post("/niches/1/jobs/1/cancel", nil, true); status != 200 {
		t.Errorf("cancel: %d", status)
	}
	if body := s.Wait(1); !strings.Contains(body, "Cancelled. Fetched data is saved.") ||
		strings.Contains(body, "Resume") {
		t.Errorf("the cancelled job: %s", body)
	}
	if status, _, _ := s.Post("/niches/1/jobs/1/explode", nil, true); status != 404 {
		t.Errorf("an unknown action: %d", status)
	}
}

func TestAllThatAreLeftAreLookedUp(t *testing.T) {
	s := webtest.Asked(t)
	var list strings.Builder
	for i := range 230 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.Add(list.String() + "moon\n")
	s.Get("/niches/1/sift")
	_, _, body := s.Post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"}, "words": {"3"}}, true)
	webtest.Holds(t, body, "Look up 230 ideas: at most 4830 lookups")
}
