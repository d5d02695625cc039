package jobs_test

import (
	"net/http/httptest"
	"net/url"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestJobsTellThePage when ideas came, and leave the bench when they are done.
func TestJobsTellThePage(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o}, study.Options{})
	s.Add("moon chart")
	s.Get("/niches/1/sift")
	s.Post("/niches/1/lookup", url.Values{"id": {"1"}}, true)
	s.Wait(1)
	if _, h, _ := s.Do(httptest.NewRequest("GET", "/niches/1/jobs/1?seen=1",
		nil)); h.Get("Hx-Trigger") != "ideas-changed" {
		t.Error("the end of a job does not renew the list")
	}
	webtest.Lacks(t, s.Get("/niches/1/judge"), `id="job-1"`)
	webtest.Holds(t, s.Get("/niches/1/gather"), `id="job-1"`, "Done just now")
	if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/jobs/7", nil)); status != 404 {
		t.Errorf("a job that is not there: %d", status)
	}
}
