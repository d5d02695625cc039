package web_test

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/web"
	"cleverniche/web/webtest"
)

// TestOwnNames: only names of this machine's own are answered, or those listed.
func TestOwnNames(t *testing.T) {
	s := webtest.Open(t)
	app, err := web.New(web.Options{Study: s.Study, Hosts: []string{"niches.test"}})
	if err != nil {
		t.Fatal(err)
	}
	for host, want := range map[string]int{"localhost": 200, "localhost:8570": 200, "127.0.0.1:1": 200, "127.8.9.1": 200,
		"[::1]:8570": 200, "LOCALHOST.": 200, "app.localhost": 200, "niches.test:80": 200, "evil.example": 421,
		"localhost.evil.example": 421, "127.0.0.1.evil.example": 421, "192.168.0.9": 421, "0.0.0.0": 421,
		"evil.example:8570": 421,
		"nichesXtest":       421} {
		for _, path := range []string{"/niches/1/sift", "/niches/1/export.csv"} {
			r := httptest.NewRequest("GET", path, nil)
			r.Host = host
			resp, err := app.Test(r)
			if err != nil {
				t.Fatal(err)
			}
			body, _ := io.ReadAll(resp.Body)
			if resp.StatusCode != want || want == 421 && len(body) > 200 {
				t.Errorf("%s%s answers %d", host, path, resp.StatusCode)
			}
		}
	}
}

// TestNothingIsWrittenForWhoeverComesBy, and nothing is kept by caches on the way.
func TestNothingIsWrittenForWhoeverComesBy(t *testing.T) {
	s := webtest.Open(t)
	count := func() int {
		n, err := s.Store.Rows(context.Background())
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	before := count()
	for range 20 {
		s.Cookie = ""
		_, h, _ := s.Do(httptest.NewRequest("GET", "/niches/1/sift", nil))
		if h.Get("Cache-Control") != "no-store" {
			t.Fatal("a page may be kept by others")
		}
	}
	if n := count(); n != before {
		t.Errorf("%d rows for 20 visits", n-before)
	}
}

func upload(size int, token string) *http.Request {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	if token != "" {
		w.WriteField("csrf", token)
	}
	f, _ := w.CreateFormFile("file", "list.txt")
	for i := 0; body.Len() < size; i++ {
		fmt.Fprintf(f, "phrase number %d\n", i)
	}
	w.Close()
	r := httptest.NewRequest("POST", "/niches/1/import", &body)
	r.Header.Set("Content-Type", w.FormDataContentType())
	return r
}

// TestLargeBodies are read when their request has shown the page's token only.
func TestLargeBodies(t *testing.T) {
	t.Parallel()
	s := webtest.Open(t)
	s.Get("/niches/1/gather")
	if status, _, _ := s.Do(upload(3<<20, s.Token)); status != 403 {
		t.Errorf("without the token before the body: %d", status)
	}
	r := upload(3<<20, s.Token)
	r.Header.Set("X-Csrf-Token", s.Token[:len(s.Token)-2]+"xx")
	if status, _, _ := s.Do(r); status != 403 {
		t.Errorf("with another token: %d", status)
	}
	r = upload(3<<20, "")
	r.Header.Set("X-Csrf-Token", s.Token)
	if status, _, _ := s.Do(r); status != 303 {
		t.Errorf("a long list: %d", status)
	}
	r = upload(129<<20, "")
	r.Header.Set("X-Csrf-Token", s.Token)
	if status, _, _ := s.Do(r); status != 413 {
		t.Errorf("129 MB: %d", status)
	}
	if status, _, _ := s.Do(upload(1<<20, s.Token)); status != 303 {
		t.Errorf("a list of a megabyte: %d", status)
	}
}

// TestBadLinesAreCounted, and the first of them shown: the page has its bound.
func TestBadLinesAreCounted(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/gather")
	body := append([]byte("moon map\n"), bytes.Repeat([]byte("!!\n"), 90_000)...)
	_, head, _ := s.Post("/niches/1/import", url.Values{"list": {string(body)}}, false)
	page := s.Get(head.Get("Location"))
	if len(page) > 200_000 || !strings.Contains(page, "90,000 lines not used, the first 100 of them here") {
		t.Errorf("%d bytes: %s", len(page), page)
	}
	if all := s.Get(head.Get("Location") + "/problems.csv"); strings.Count(all, ",!!,") != 90_000 {
		t.Errorf("%d lines to take along: %.300s", strings.Count(all, ",!!,"), all)
	}
}

// TestADecisionDuringAnImport does not wait for the whole of it.
func TestADecisionDuringAnImport(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon map")
	var list strings.Builder
	for i := range 20_000 {
		fmt.Fprintf(&list, "phrase number %d of many\n", i)
	}
	done := make(chan error)
	go func() {
		_, err := s.Study.Imports.Take(context.Background(), s.Niche, "list", strings.NewReader(list.String()))
		done <- err
	}()
	ids := []uint{1}
	var slowest time.Duration
	for i := 0; ; i++ {
		select {
		case err := <-done:
			if err != nil || i < 3 {
				t.Errorf("%d decisions in between, %v", i, err)
			}
			t.Logf("%d decisions, the slowest in %v", i, slowest) // a figure, not a bound: machines differ
			return
		default:
		}
		begun := time.Now()
		if _, err := s.Study.Ideas.Decide(context.Background(), s.Niche.ID, ids, []sieve.Decision{sieve.Kept,
			sieve.Dropped}[i%2]); err != nil {
			t.Fatal(err)
		}
		slowest = max(slowest, time.Since(begun))
	}
}

// TestWhatIsLeftOfABody that nobody reads is not taken for the next request.
func TestWhatIsLeftOfABody(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/sift")
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, end := context.WithCancel(context.Background())
	done := make(chan error)
	go func() { done <- web.Serve(ctx, s.App, l, time.Second) }()
	conn, err := net.Dial("tcp", l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	in := bufio.NewReader(conn)
	inner := "GET /niches/1/export.csv HTTP/1.1\r\nHost: localhost\r\n\r\n"
	body := strings.Repeat("x", 100_000) + inner
	for _, head := range []string{"POST /niches/1/jobs/1/x HTTP/1.1\r\n", "GET /niches/1/sift HTTP/1.1\r\n"} {
		fmt.Fprintf(conn, "%sHost: localhost\r\nX-Csrf-Token: %s\r\nCookie: %s\r\nContent-Length: %d\r\n\r\n%s", head,
			s.Token,
			s.Cookie, len(body), body)
		res, err := http.ReadResponse(in, nil)
		if err != nil {
			break // closed: nothing more is read of it
		}
		io.Copy(io.Discard, res.Body)
		if res.Close {
			break
		}
		fmt.Fprintf(conn, "GET /healthz HTTP/1.1\r\nHost: localhost\r\n\r\n")
		if res, err = http.ReadResponse(in, nil); err != nil {
			t.Fatal(err)
		}
		if data, _ := io.ReadAll(res.Body); string(data) != "ok" {
			t.Errorf("after %sthe next request is answered with %.80s", head, data)
		}
	}
	conn.Close()
	end()
	<-done
}

// FuzzRoutes: no request makes the application fail, whatever it asks or brings.
func FuzzRoutes(f *testing.F) {
	for _, path := range []string{"/niches/1/sift?words=3&sort=idea", "/niches/1/judge?idea=1",
		"/niches/1/export.csv?stage=sift",
		"/niches/1/ids?begin=0&end=3", "/niches/1/why?phrase=moon", "/niches/1/points", "/niches/1/ideas/1",
		"/niches/1/chips",
		"/niches/1/sieves.json?sieve=x", "/niches/new", "/niches/1/sift?long=0123456789abcdef", "/niches/1/whole.zip",
		"/niches/1/group?view=tree&words=2", "/niches/1/topics/1", "/niches/1/topics/2/drawer", "/niches/1/plan",
		"/niches/1/plan/calendar?months=9", "/niches/1/plan/choice?weeks=3&in=1&out=2", "/niches/1/plan/actions?begin=1",
		"/niches/1/plan/plan.ics", "/niches/1/plan/plan.xlsx", "/niches/1/briefs/1", "/niches/1/briefs/2/brief.docx",
		"/niches/1/topics.csv?stage=group"} {
		f.Add(path, "")
	}
	for path, body := range map[string]string{"/niches/1/decide": "id=1&decision=keep&stage=sift&sift=words%3D2",
		"/niches/1/bulk": "all=left&but=1&decision=drop", "/niches/1/bulk/label": "id=1&label=x",
		"/niches":            "name=x&country=US",
		"/niches/1/settings": "links=2&fit=NaN&standing=1e999", "/niches/1/import": "list=moon",
		"/niches/1/columns": "column=cpc:90",
		"/niches/1/sieves":  "name=x&words=2", "/niches/1/sieves/import": `text={"format":"clever-niche-sieves"}`,
		"/niches/1/lookup/estimate": "id=1", "/niches/1/ideas/1/note": "note=x", "/niches/1/undo": "", "/niches/whole": "x",
		"/niches/1/group/by": "scope=whole+niche&shared=4", "/niches/1/aside": "id=1&stage=group",
		"/niches/1/topics/1/split": "id=1", "/niches/1/topics/1/join": "id=2&id=3", "/niches/1/topics/1/hub": "hub=2",
		"/niches/1/topics/2/move": "id=2&target=1", "/niches/1/topics/1/name": "name=x", "/niches/1/plan/lay-out": "x=1",
		"/niches/1/plan/articles/1": "hours=3&start=2027-01-01&deadline=2020-01-01&state=writing&before=0",
		"/niches/1/briefs/1":        "section=title&text=x", "/niches/1/plan/feed": "x=1",
		"/niches/1/plan/actions/1": "done=x"} {
		f.Add(path, body)
	}
	s := webtest.Open(f)
	s.Add("phrase,searches\nmoon map,400\nmars map,90\nsky\n")
	s.Get("/niches/1/sift")
	token, cookie := s.Token, s.Cookie
	f.Fuzz(func(t *testing.T, path, body string) {
		u, err := url.Parse("http://localhost/" + strings.TrimLeft(path, "/"))
		if err != nil || u.Host != "localhost" || strings.ContainsAny(path, " \r\n\x00") {
			return
		}
		method := "GET"
		if body != "" {
			method = "POST"
		}
		r := httptest.NewRequest(method, u.String(), strings.NewReader(body))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Csrf-Token", token)
		s.Cookie = cookie
		if status, _, page := s.Do(r); status >= 500 {
			t.Errorf("%s %q %q: %d %.300s", method, path, body, status, page)
		}
	})
}
