package thecase_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

// TestThePage walks the case of a niche: not yet, drawn, bars moved, signed, sent.
func TestThePage(t *testing.T) {
	s := webtest.Open(t)
	webtest.Holds(t, s.Get("/niches/1/case"), "The case for", "Not yet", "Nothing is looked up", "Seven questions",
		"Can I get in?", "Cannot be told yet")
	var list strings.Builder
	for i := range 30 {
		fmt.Fprintf(&list, "w%da v%db u%dc\n", i, i, i)
	}
	s.Add(list.String())
	webtest.Holds(t, s.Get("/niches/1/case"), "Draw and look up")
	post := func(path string, v url.Values, wanted int) string {
		t.Helper()
		status, _, body := s.Post("/niches/1/case/"+path, v, false)
		if status != wanted {
			t.Fatalf("%s: %d, %s", path, status, body)
		}
		return body
	}
	post("draw", url.Values{"many": {"24"}}, 303)
	s.Wait(1)
	webtest.Holds(t, s.Get("/niches/1/case"), "drawn at random", "What this rests on")
	webtest.Holds(t, s.Get("/niches/1/case/money"), "Who pays")
	webtest.Holds(t, s.Get("/niches/1/case?money=yes"), "Who pays", "Seven questions")
	webtest.Holds(t, post("draw", url.Values{"many": {"x"}}, 422), "Type how many")
	webtest.Holds(t, post("answers", url.Values{"difficulty": {"95"}}, 200), "of difficulty 95 at most")
	webtest.Holds(t, post("answers", url.Values{"open-yes": {"1"}, "open-partly": {"5"}}, 200), "wrong way round")
	webtest.Holds(t, post("answers", url.Values{"hours": {"0"}}, 200), "hours a week")
	webtest.Holds(t, post("answers", url.Values{"bar": {"much"}}, 200), "is no number")
	post("bars", url.Values{"keep": {"yes"}, "difficulty": {"95"}, "with": {"77"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/case?with=77"), `value="95"`, "not there any more")
	post("bars", url.Values{"reset": {"yes"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/case"), `value="20"`)
	post("hand", url.Values{"like": {"<b>much</b>"}}, 303)
	post("sign", url.Values{"said": {"no"}, "words": {"too few\nsearches"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/case"), "&lt;b&gt;much", "too few")
	webtest.Holds(t, post("sign", url.Values{"said": {"maybe"}}, 422), "Say yes, no or not yet.")
	webtest.Holds(t, s.Get("/niches/1/case/case.md"), "# The case", "too few")
	webtest.Holds(t, s.Get("/niches/1/case/case.html"), "<h1>The case")
	post("withdraw", url.Values{"id": {"1"}}, 303)
	if strings.Contains(s.Get("/niches/1/case"), "too few") {
		t.Error("a verdict that was deleted is there")
	}
}

// TestOffTheSubject: what one says of an idea stands on the page, is out of the counts, and is taken back.
func TestOffTheSubject(t *testing.T) {
	s := webtest.Open(t)
	s.Add("saturn rings\nsaturn film <b>cast</b>")
	webtest.Holds(t, s.Get("/niches/1/case"), "Off the subject", "Look up 100 ideas first")
	say := func(v url.Values, wanted int) string {
		t.Helper()
		status, _, body := s.Post("/niches/1/case/subject", v, false)
		if status != wanted {
			t.Fatalf("%v: %d, %s", v, status, body)
		}
		return body
	}
	say(url.Values{"ids": {"2"}, "side": {"off"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/case"), "1 idea shares", "You marked it.", "Clear mark")
	webtest.Holds(t, s.Get("/niches/1/ideas/2"), "Off the subject.", "You marked it.")
	webtest.Holds(t, s.Get("/niches/1/sift?subject=off"), "saturn film")
	if strings.Contains(s.Get("/niches/1/sift?subject=off"), "saturn rings") {
		t.Error("what is on the subject is among what is off it")
	}
	say(url.Values{"ids": {"2"}, "side": {"clear"}, "story": {"yes"}}, 303)
	if strings.Contains(s.Get("/niches/1/case"), "You marked it.") {
		t.Error("what was taken back is there")
	}
	say(url.Values{"ids": {"2,x"}, "side": {"off"}}, 404)
	say(url.Values{"ids": {"2"}, "side": {"beside"}}, 422)
	say(url.Values{"ids": {"77"}, "side": {"off"}}, 404)
}

// TestAnotherSubject: a seed becomes a niche that stands beside this one.
func TestAnotherSubject(t *testing.T) {
	s := webtest.Open(t)
	webtest.Holds(t, s.Get("/niches/1/case"), "Another subject", "Gather and draw (at most")
	status, header, body := s.Post("/niches/1/case/candidate", url.Values{"seed": {"moon maps"}}, false)
	if status != 303 || !strings.HasSuffix(header.Get("Location"), "/case?with=1") {
		t.Fatalf("%d to %s: %s", status, header.Get("Location"), body)
	}
	webtest.Holds(t, s.Get(header.Get("Location")), "The case for", "Moon maps")
	if status, _, body := s.Post("/niches/1/case/candidate", url.Values{"seed": {" "}}, false); status != 422 ||
		!strings.Contains(body, "Type what the subject is") {
		t.Errorf("%d: %s", status, body)
	}
}
