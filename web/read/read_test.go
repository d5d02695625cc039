package read_test

import (
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

// TestAsRead: what was read of a result can be seen without going there; nothing is shown of what was not read.
func TestAsRead(t *testing.T) {
	s := webtest.Asked(t)
	s.Add("moon chart")
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/lookup", url.Values{"id": {"1"}}, true); status != 200 {
		t.Fatalf("%d: %s", status, body)
	}
	s.Wait(1)
	link := regexp.MustCompile(`href="(/read\?url=[^"]+)"`).FindStringSubmatch(s.Get("/niches/1/ideas/1?open=1"))
	if link == nil {
		t.Fatal("no result can be read")
	}
	if body := s.Get(link[1]); !strings.Contains(body, "As Clever Niche read it") ||
		!strings.Contains(body, `aria-label="Its text"`) ||
		strings.Contains(body, "<script>alert") {
		t.Errorf("%s", body)
	}
	for _, address := range []string{"", "http://never.example/", "javascript:alert(1)", "file:///etc/passwd"} {
		status, _, body := s.Do(httptest.NewRequest("GET", "/read?url="+url.QueryEscape(address), nil))
		if status != 404 || !strings.Contains(body, "This page was not read") || strings.Contains(body, `href="javascript:`) {
			t.Errorf("%q: %d, %s", address, status, body)
		}
	}
}
