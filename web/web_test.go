package web_test

import (
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/web"
	"cleverniche/web/webtest"
)

func TestHeaders(t *testing.T) {
	s := webtest.Open(t)
	_, h, body := s.Do(httptest.NewRequest("GET", "/niches/1/gather", nil))
	csp := h.Get("Content-Security-Policy")
	if !strings.Contains(csp, "default-src 'none'") || strings.Contains(csp, "unsafe") {
		t.Errorf("policy %q", csp)
	}
	if h.Get("X-Content-Type-Options") != "nosniff" || h.Get("X-Frame-Options") != "DENY" ||
		!strings.Contains(s.Cookie, "cn_csrf=") {
		t.Errorf("headers %v", h)
	}
	if m := regexp.MustCompile(`<script(?: [^>]*)?>[^<]|<style| style="| on[a-z]+="|javascript:`).FindString(
		body); m != "" {
		t.Errorf("the page has inline script or style: %q", m)
	}
	if _, _, ok := s.Do(httptest.NewRequest("GET", "/healthz", nil)); ok != "ok" {
		t.Errorf("healthz says %q", ok)
	}
}

func TestChangesNeedTheToken(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon")
	s.Get("/niches/1/sift")
	good := s.Token
	for _, token := range []string{"", "made-up"} {
		s.Token = token
		if status, _, body := s.Post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"keep"}},
			true); status != 403 || !strings.Contains(body, "Reload it") {
			t.Errorf("token %q: %d %s", token, status, body)
		}
	}
	s.Get("/niches/1/sift")
	if s.Token == "" {
		s.Token = good
	}
	if status, _, body := s.Post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"keep"}}, true); status != 200 {
		t.Errorf("with the token: %d %s", status, body)
	}
	// Another server on the same data file knows the token: an open page outlives a restart.
	again, err := web.New(web.Options{Study: s.Study})
	if err != nil {
		t.Fatal(err)
	}
	s.App = again
	if status, _, _ := s.Post("/niches/1/undo", nil, true); status != 200 {
		t.Errorf("after a restart: %d", status)
	}
}

func TestErrorsAreTold(t *testing.T) {
	s := webtest.Open(t)
	for _, path := range []string{"/niches/99/sift", "/niches/x/sift", "/niches/1/nosuch", "/niches/1/ideas/5",
		"/nosuch"} {
		status, _, body := s.Do(httptest.NewRequest("GET", path, nil))
		if status != 404 || !strings.Contains(body, "Page not found") || !strings.Contains(body, "</html>") {
			t.Errorf("%s: %d %.100s", path, status, body)
		}
	}
	r := httptest.NewRequest("GET", "/niches/1/ideas/5/drawer", nil)
	r.Header.Set("HX-Request", "true")
	if status, h, body := s.Do(r); status != 404 || h.Get("HX-Retarget") != "#notice" || strings.Contains(body, "<html") {
		t.Errorf("a missing drawer: %d %v %s", status, h, body)
	}
}

func TestStrangeTextIsEscaped(t *testing.T) {
	s := webtest.Open(t)
	s.Add("<script>alert(1)</script> moon\n\u202eתלסקופ")
	for _, path := range []string{"/niches/1/sift?holds=%22%3E%3Cscript%3E", "/niches/1/gather", "/niches/1/ideas/1",
		"/niches/1/settings"} {
		if body := s.Get(path); strings.Contains(body, "<script>") || strings.Contains(body, "Sky <b>") ||
			!strings.Contains(body, "Sky &lt;b&gt;") {
			t.Errorf("%s holds text as HTML", path)
		}
	}
}
