// Package webtest is what tests of screens begin with: the application with a niche, asked as a browser asks.
package webtest

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
	"cleverniche/web"

	"github.com/gofiber/fiber/v3"
)

// Outside is an outside world in which every phrase has the same ten results.
type Outside struct{ Silent bool }

func (o Outside) failing() error {
	if o.Silent {
		return &market.Error{Source: "the outside", Trouble: market.Unreachable, Err: errors.New("it is silent")}
	}
	return nil
}

func (o Outside) Suggest(_ context.Context, q string, _ market.Locale) ([]string, error) {
	return []string{q + " chart"}, o.failing()
}

func (o Outside) Demand(_ context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for _, p := range phrases {
		out[p] = demand.Series{Counts: []demand.Count{{Month: 24322, Searches: 40},
			{Month: 24321, Searches: 10, Under: true}}, Competition: 0.5}
	}
	return out, o.failing()
}

func (o Outside) Search(_ context.Context, q string, _ market.Locale, depth int) (market.Results, error) {
	r := market.Results{Engine: "outside", Related: []string{"is <it> so?"}}
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1, URL: fmt.Sprintf("http://s%d.example/guide", i),
			Title: "Guide & <more>"})
	}
	return r, o.failing()
}

func (o Outside) Fetch(_ context.Context, u string) (market.Fetched, error) {
	body := "<title>Guide</title><p>moon chart</p>"
	return market.Fetched{URL: u, ContentType: "text/html", Body: []byte(body)}, o.failing()
}

func (o Outside) Links(context.Context, string) (market.LinkList, error) {
	return market.LinkList{}, o.failing()
}

func (o Outside) Graph(context.Context) (links.SiteGraph, error) {
	return links.SiteGraph{Names: []string{"s0.example", "mine.example"}, Edges: []links.Edge{{From: 1, To: 0}}},
		o.failing()
}

// wait polls a job until it ends, as the page does.
func (s *Site) Wait(job int) string {
	for range 6000 {
		body := s.Get(fmt.Sprintf("/niches/1/jobs/%d", job))
		if !strings.Contains(body, `class="job running"`) {
			return body
		}
		time.Sleep(5 * time.Millisecond)
	}
	s.T.Fatal("the job does not end")
	return ""
}

// openWith is open with an outside world.
func OpenWith(t testing.TB, m ask.Market, o study.Options) *Site { return OpenAt(t, m, o, time.Now) }

// Asked is open with an outside world that answers every question.
func Asked(t testing.TB) *Site {
	o := Outside{}
	return OpenWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o,
		Names: map[ask.Question]string{}}, study.Options{})
}

// openAt is openWith by a clock of the test's own.
func OpenAt(t testing.TB, m ask.Market, o study.Options, now func() time.Time) *Site {
	st, err := store.Open(t.TempDir()+"/d.db", now)
	if err != nil {
		t.Fatal(err)
	}
	s := study.New(st, m, o)
	app, err := web.New(web.Options{Study: s})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close(); st.Close() })
	n, err := s.Niches.Create(context.Background(), niches.Niche{Name: "Sky <b>", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	return &Site{T: t, App: app, Study: s, Store: st, Niche: n}
}

// planted is the site of a niche with two subjects looked up (studytest.Planted), with the ideas' IDs.
func Planted(t *testing.T) (*Site, map[string]uint) {
	st, n, ids := studytest.Planted(t)
	app, err := web.New(web.Options{Study: st})
	if err != nil {
		t.Fatal(err)
	}
	s := &Site{T: t, App: app, Study: st, Niche: n}
	s.Get("/niches/1/sift")
	return s, ids
}

func (s *Site) Plan(ids ...uint) (keys []uint) {
	ctx := context.Background()
	if _, err := s.Study.Articles.Add(ctx, s.Niche, ids); err != nil {
		s.T.Fatal(err)
	}
	p, err := s.Study.Articles.Plan(ctx, s.Niche)
	if err != nil {
		s.T.Fatal(err)
	}
	for _, a := range p.Articles {
		keys = append(keys, a.Key())
	}
	return keys
}

func (s *Site) Change(key uint, c articles.Change) {
	if err := s.Study.Articles.Change(context.Background(), s.Niche, key, c); err != nil {
		s.T.Fatal(err)
	}
}

// list asks as htmx does, for the list alone.
func (s *Site) List(path string) (head map[string][]string, body string) {
	r := httptest.NewRequest("GET", path, nil)
	r.Header.Set("HX-Request", "true")
	status, h, body := s.Do(r)
	if status != 200 {
		s.T.Fatalf("%s answers %d: %.200s", path, status, body)
	}
	return h, Read(body)
}

// lacks and holds check what a person reads or a browser is told.
func Holds(t *testing.T, body string, wanted ...string) {
	t.Helper()
	for _, w := range wanted {
		if !strings.Contains(body, w) {
			t.Errorf("%q is missing", w)
		}
	}
}

func Lacks(t *testing.T, body string, unwanted ...string) {
	t.Helper()
	for _, w := range unwanted {
		if strings.Contains(body, w) {
			t.Errorf("%q is there", w)
		}
	}
}

// Site is the application with a niche, without any source.
type Site struct {
	T      testing.TB
	App    *fiber.App
	Study  *study.Study
	Store  *store.Store
	Niche  niches.Niche
	Cookie string // all of them, as a browser sends them
	Token  string
}

func Open(t testing.TB) *Site {
	return OpenWith(t, ask.Market{Names: map[ask.Question]string{}}, study.Options{})
}

func (s *Site) Do(r *http.Request) (int, http.Header, string) {
	r.Host = "localhost"
	if s.Cookie != "" {
		r.Header.Set("Cookie", s.Cookie)
	}
	resp, err := s.App.Test(r, fiber.TestConfig{Timeout: 30 * time.Second})
	if err != nil {
		s.T.Fatal(err)
	}
	data, err := io.ReadAll(resp.Body)
	if err != nil {
		s.T.Fatal(err)
	}
	for _, c := range resp.Cookies() {
		var kept []string // of other names
		for _, one := range strings.Split(s.Cookie, "; ") {
			if one != "" && !strings.HasPrefix(one, c.Name+"=") {
				kept = append(kept, one)
			}
		}
		s.Cookie = strings.Join(append(kept, c.Name+"="+c.Value), "; ")
	}
	return resp.StatusCode, resp.Header, string(data)
}

func (s *Site) Get(path string) string {
	status, _, body := s.Do(httptest.NewRequest("GET", path, nil))
	if status != 200 {
		s.T.Fatalf("%s answers %d: %.200s", path, status, body)
	}
	if m := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindStringSubmatch(body); m != nil {
		s.Token = m[1]
	}
	return Read(body)
}

// read is a page as it is read: white space is one space.
func Read(body string) string { return strings.Join(strings.Fields(body), " ") }

func (s *Site) Post(path string, values url.Values, partial bool) (int, http.Header, string) {
	r := httptest.NewRequest("POST", path, strings.NewReader(values.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("X-Csrf-Token", s.Token)
	if partial {
		r.Header.Set("HX-Request", "true")
	}
	status, h, body := s.Do(r)
	return status, h, Read(body)
}

func (s *Site) Add(list string) {
	if _, err := s.Study.Imports.Take(context.Background(), s.Niche, "list", strings.NewReader(list)); err != nil {
		s.T.Fatal(err)
	}
}
