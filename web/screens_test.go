package web_test

import (
	"context"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/web/webtest"
)

func TestTheTrailCounts(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nmars\nvenus")
	s.Study.Ideas.Decide(context.Background(), 1, []uint{2}, sieve.Dropped)
	s.Study.Ideas.Decide(context.Background(), 1, []uint{3}, sieve.Kept)
	for _, path := range []string{"/niches/1/gather", "/niches/1/judge", "/niches/1/plan", "/niches/1/settings"} {
		webtest.Holds(t, s.Get(path), "<small>2 left</small>", "<small>1 kept · 1 topic</small>",
			"<small>0 looked up</small>",
			"0 seeds · 3 ideas")
	}
	webtest.Holds(t, s.Get("/niches/1/sift?holds=moon"), "<small>1 left</small>")
	webtest.Holds(t, s.Get("/niches/1/sift"), `class="here"`, `href="/niches/1/judge"`, `href="/niches/1/watch"`)
}

func TestFilesMayBeKept(t *testing.T) {
	s := webtest.Open(t)
	page := s.Get("/niches/1/sift")
	css := regexp.MustCompile(`href="(/static/([0-9a-f]+)/app.css)"`).FindStringSubmatch(page)
	if css == nil {
		t.Fatal("the page has no stylesheet")
	}
	for path, kept := range map[string]bool{css[1]: true, "/static/000000000000/app.css": false} {
		status, h, body := s.Do(httptest.NewRequest("GET", path, nil))
		if status != 200 || strings.Contains(h.Get("Cache-Control"), "immutable") != kept ||
			!strings.HasPrefix(h.Get("Content-Type"), "text/css") || !strings.Contains(body, "--paper") ||
			!strings.Contains(body, ".drawer") || strings.Index(body, "/* frame/") > strings.Index(body, "/* list/") {
			t.Errorf("%s: %d %v", path, status, h)
		}
	}
	for _, m := range regexp.MustCompile(`<script type="module" src="([^"]+)"`).FindAllStringSubmatch(page, -1) {
		status, h, body := s.Do(httptest.NewRequest("GET", m[1], nil))
		if status != 200 || !strings.HasPrefix(h.Get("Content-Type"), "text/javascript") ||
			!strings.Contains(body, "import") &&
				!strings.Contains(body, "export") {
			t.Errorf("%s: %d %v", m[1], status, h)
		}
	}
	for _, path := range []string{"list/top.html", "../web.go", "lib/../list/top.html", "nosuch.css"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", "/static/"+css[2]+"/"+path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
}

func TestTheCookieIsOutOfReach(t *testing.T) {
	s := webtest.Open(t)
	_, h, _ := s.Do(httptest.NewRequest("GET", "/niches/1/gather", nil))
	if c := h.Get("Set-Cookie"); !strings.Contains(c, "HttpOnly") || !strings.Contains(c, "SameSite=Strict") {
		t.Errorf("cookie %q", c)
	}
}
