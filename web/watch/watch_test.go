package watch_test

import (
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

// TestThePages: nothing watched, phrases added, checked, a place and a remark typed, taken out and back, sent as a
// file.
func TestThePages(t *testing.T) {
	s := webtest.Open(t)
	webtest.Holds(t, s.Get("/niches/1/watch"), "Did it work?", "Nothing is watched yet", "Was the forecast right?")
	webtest.Holds(t, s.Get("/niches/1/watch/right"), "No page has settled yet")
	webtest.Holds(t, s.Get("/niches/1/watch/mine"), "is known yet", "Read the site")
	post := func(path string, v url.Values, wanted int) string {
		t.Helper()
		status, header, body := s.Post("/niches/1/watch/"+path, v, false)
		if status != wanted {
			t.Fatalf("%s: %d, %s", path, status, body)
		}
		return header.Get("Location")
	}
	webtest.Holds(t, s.Get(post("add", url.Values{"phrases": {"moon <b>map</b>\nvenus tonight"}}, 303)),
		"moon", "venus tonight", "not checked yet", "Check 2 phrases now")
	post("add", url.Values{"phrases": {" \n"}}, 422)
	if status, _, body := s.Post("/niches/1/watch/add", url.Values{"phrases": {"third\n\x00"}}, false); status != 422 ||
		!strings.Contains(body, "1 phrase added. Left out:") {
		t.Errorf("%d: %s", status, body)
	}
	post("every", url.Values{"every": {"7"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/watch"), `value="7" selected`)
	post("every", url.Values{"every": {"3"}}, 422)
	post("1/place", url.Values{"day": {"2026-01-05"}, "place": {"14"}}, 303)
	post("1/place", url.Values{"day": {"2026-01-05"}, "place": {"1.5"}}, 422)
	post("1/place", url.Values{"day": {"5 January"}, "place": {"1"}}, 422)
	post("1/place", url.Values{"day": {"2026-01-12"}, "place": {"0"}}, 303)
	post("1/remark", url.Values{"day": {"2026-01-06"}, "says": {"added a <table>"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/watch/1"), "Below 100", "Best ever: 14", "since last time down 87",
		"added a &lt;table&gt;",
		"typed by you", "Nothing was forecast")
	webtest.Holds(t, s.Get("/niches/1/watch/places/csv"), "phrase,day,place", "2026-01-05,14")
	webtest.Holds(t, s.Get("/niches/1/watch/pages/csv"), "page,phrase,position")
	post("1/unremark", url.Values{"id": {"1"}}, 303)
	if strings.Contains(s.Get("/niches/1/watch/1"), "lt;table") {
		t.Error("a remark that was deleted is there")
	}
	webtest.Holds(t, s.Get(post("1/remove", url.Values{}, 303)), "No longer watched", "Watch again")
	post("1/remove", url.Values{"back": {"yes"}}, 303)
	webtest.Holds(t, s.Get("/niches/1/watch"), "below 100")
	post("77/remove", url.Values{}, 404)
	post("77/place", url.Values{"day": {"2026-01-05"}, "place": {"1"}}, 404)
}

// TestTheDigest: whoever knows the secret reads it, and nobody else; of a web that is real nothing is rehearsed.
func TestTheDigest(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/watch")
	post := func(path string, v url.Values, wanted int) {
		t.Helper()
		if status, _, body := s.Post("/niches/1/watch/"+path, v, false); status != wanted {
			t.Fatalf("%s: %d, %s", path, status, body)
		}
	}
	post("add", url.Values{"phrases": {"moon map"}}, 303)
	page := s.Get("/niches/1/watch")
	webtest.Holds(t, page, "This week", "Check your positions.", "Create a feed")
	if strings.Contains(page, "Rehearsal") {
		t.Error("a real web is rehearsed")
	}
	post("go-on", url.Values{"weeks": {"4"}}, 422)
	post("publish", url.Values{"article": {"1"}}, 422)
	post("digest", url.Values{}, 303)
	page = s.Get("/niches/1/watch")
	at := strings.Index(page, "/niches/1/digest/")
	if at < 0 {
		t.Fatal("no address of the feed")
	}
	address, _, _ := strings.Cut(page[at:], `"`)
	webtest.Holds(t, s.Get(address), "<feed xmlns=", "Check your positions.", `rel="self"`)
	if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/digest/guessed", nil)); status != 404 {
		t.Errorf("a guessed secret: %d", status)
	}
	post("mend", url.Values{"url": {"x"}, "fault": {"thin"}, "state": {"perhaps"}}, 422)
	post("read", url.Values{}, 422)
	post("read", url.Values{"pages": {"501"}}, 422)
	post("past", url.Values{}, 422)
}
