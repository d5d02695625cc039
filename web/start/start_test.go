package start_test

import (
	"net/url"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestStepByStep: what one has is asked, and set up in its order; what is put off is passed over.
func TestStepByStep(t *testing.T) {
	s := webtest.OpenWith(t, ask.Market{Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, s.Get("/start"), "What do you have?", "Next")
	send := func(v url.Values) string {
		t.Helper()
		status, h, body := s.Post("/start", v, false)
		if status != 303 || h.Get("Location") != "/start" {
			t.Fatal(status, body)
		}
		return s.Get("/start")
	}
	body := send(url.Values{"list": {"yes"}, "service": {"yes"}, "graph": {"yes"}, "weather": {"yes"}})
	webtest.Holds(t, body, "Make a niche <small class=\"soft\">done", "Import your list", `type="file"`,
		"Describe your service", "Import a web graph")
	webtest.Lacks(t, body, "source check FILE", "Type phrases, or")
	s.Add("moon map")
	body = s.Get("/start")
	webtest.Holds(t, body, "Import your list <small class=\"soft\">done", "source check FILE")
	webtest.Holds(t, s.Get("/niches/1/gather"), "Go on setting up what you have")
	body = send(url.Values{"later": {"service"}})
	webtest.Holds(t, body, "put off", "Choose a ranks file")
	body = send(url.Values{"later": {"graph"}})
	webtest.Holds(t, body, "That is all.", "/niches/1/sift")
	webtest.Lacks(t, s.Get("/niches/1/gather"), "Go on setting up")
}
