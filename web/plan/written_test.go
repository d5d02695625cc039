package plan_test

import (
	"fmt"
	"net/url"
	"testing"

	"cleverniche/web/webtest"
)

// TestWritten: what writers see, and what they may say of an article, and nothing else.
func TestWritten(t *testing.T) {
	s, ids := webtest.Planted(t)
	webtest.Holds(t, s.Get("/briefs"), "Nothing is to be written.")
	var some []uint
	for _, id := range ids {
		some = append(some, id)
	}
	keys := s.Plan(some[0])
	webtest.Holds(t, s.Get("/briefs"), "to write", "I am writing it", "It is out")
	say := func(v url.Values, wanted int) {
		t.Helper()
		v.Set("article", fmt.Sprint(keys[0]))
		if status, _, body := s.Post("/niches/1/written", v, false); status != wanted {
			t.Errorf("%v: %d, %.200s", v, status, body)
		}
	}
	say(url.Values{"state": {"writing"}}, 303)
	webtest.Lacks(t, s.Get("/briefs"), "I am writing it")
	say(url.Values{"state": {"published"}}, 422)
	say(url.Values{"state": {""}}, 422)
	say(url.Values{"state": {"to write"}}, 422)
	say(url.Values{"state": {"published"}, "address": {"https://other.example/x"}}, 422)
	say(url.Values{"state": {"published"}, "address": {"https://mine.example/x"}}, 303)
	webtest.Lacks(t, s.Get("/briefs"), "It is out")
}
