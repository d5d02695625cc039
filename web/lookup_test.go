package web

import (
	"context"
	"errors"
	"fmt"
	"html"
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
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// outside is an outside world in which every phrase has the same ten results.
type outside struct{ silent bool }

func (o outside) failing() error {
	if o.silent {
		return &market.Error{Source: "the outside", Trouble: market.Unreachable, Err: errors.New("it is silent")}
	}
	return nil
}

func (o outside) Suggest(_ context.Context, q string, _ market.Locale) ([]string, error) {
	return []string{q + " chart"}, o.failing()
}

func (o outside) Demand(_ context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for _, p := range phrases {
		out[p] = demand.Series{Counts: []demand.Count{{Month: 24322, Searches: 40},
			{Month: 24321, Searches: 10, Under: true}}, Competition: 0.5}
	}
	return out, o.failing()
}

func (o outside) Search(_ context.Context, q string, _ market.Locale, depth int) (market.Results, error) {
	r := market.Results{Engine: "outside", Related: []string{"is <it> so?"}}
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1, URL: fmt.Sprintf("http://s%d.example/guide", i),
			Title: "Guide & <more>"})
	}
	return r, o.failing()
}

func (o outside) Fetch(_ context.Context, u string) (market.Fetched, error) {
	return market.Fetched{URL: u, ContentType: "text/html", Body: []byte("<title>Guide</title><p>moon chart")}, o.failing()
}

func (o outside) Links(context.Context, string) (market.LinkList, error) {
	return market.LinkList{}, o.failing()
}

func (o outside) Graph(context.Context) (links.SiteGraph, error) {
	return links.SiteGraph{Names: []string{"s0.example", "mine.example"}, Edges: []links.Edge{{From: 1, To: 0}}},
		o.failing()
}

// wait polls a job until it ends, as the page does.
func (s *site) wait(job int) string {
	for range 6000 {
		body := s.get(fmt.Sprintf("/niches/1/jobs/%d", job))
		if !strings.Contains(body, `class="job running"`) {
			return body
		}
		time.Sleep(5 * time.Millisecond)
	}
	s.t.Fatal("the job does not end")
	return ""
}

func TestLookupInTheBrowser(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o,
		Names: map[ask.Question]string{ask.Results: "outside"}},
		study.Options{Options: ask.Options{Depth: 20, Prices: map[ask.Question]int64{ask.Results: 2000}}})
	s.add("moon chart\nstar map")
	body := s.get("/niches/1/sift")
	if !strings.Contains(body, "is not known until it is looked up") ||
		!strings.Contains(body, "At most 41 lookups, $0.002") {
		t.Error("an idea that is not looked up does not say what that would cost")
	}
	if _, _, body := s.post("/niches/1/lookup/estimate", url.Values{"id": {"1", "2"}}, true); !strings.Contains(body,
		"Look up 2 ideas: at most 82 lookups, $0.004") {
		t.Errorf("estimate of the chosen: %s", body)
	}
	if _, _, body := s.post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"},
		"holds": {"star"}}, true); !strings.Contains(body, "Look up 1 idea:") || !strings.Contains(body, `name="all"`) {
		t.Errorf("estimate of all left: %s", body)
	}
	if _, _, body := s.post("/niches/1/lookup/estimate", nil, true); !strings.Contains(body, "Tick ideas") {
		t.Errorf("estimate of nothing: %s", body)
	}
	if status, _, _ := s.post("/niches/1/lookup", url.Values{"id": {"x"}}, true); status != 422 {
		t.Errorf("an idea that is no number: %d", status)
	}
	s.get("/niches/1/sift")
	if status, _, body := s.post("/niches/1/lookup", url.Values{"id": {"1"}}, true); status != 200 ||
		!strings.Contains(body, "Look up “moon chart”") {
		t.Errorf("start: %d %s", status, body)
	}
	if body := s.wait(1); !strings.Contains(body, "1 judged") || !strings.Contains(body, "$0.002") {
		t.Errorf("the job: %s", body)
	}
	body = s.get("/niches/1/judge")
	for _, want := range []string{"The stairs to page one", "10 footholds", "1 looked up",
		"the mean over what engines may lean on", "my site is not in the link graph"} {
		if !strings.Contains(body, want) {
			t.Errorf("the drawer lacks %q", want)
		}
	}
	body = s.get("/niches/1/ideas/1")
	for _, want := range []string{"How the difficulty comes about", "is &lt;it&gt; so?", "Fit, item by item",
		"ask again (≤ $0.002)", "dig (≤ $", "The results behind them"} {
		if !strings.Contains(body, want) {
			t.Errorf("the whole story lacks %q", want)
		}
	}
	if n := strings.Count(body, `<details class="result`); n != 10 {
		t.Errorf("the whole story tells of %d results", n)
	}
	if status, _, body := s.post("/niches/1/ideas/1/dig", nil, true); status != 200 ||
		!strings.Contains(body, "Dig from “moon chart”") {
		t.Errorf("dig: %d %s", status, body)
	}
	s.wait(2)
	if body := s.get("/niches/1/gather"); !strings.Contains(body, "moon chart chart") || !strings.Contains(body, "dug") {
		t.Error("what was dug is not there")
	}
}

func TestSilentSourceInTheBrowser(t *testing.T) {
	o := outside{silent: true}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o,
		Names: map[ask.Question]string{}}, study.Options{})
	s.get("/niches/1/gather")
	if status, h, _ := s.post("/niches/1/gather", url.Values{"seeds": {"moon"}, "letters": {"yes"}},
		false); status != 303 || h.Get("Location") != "/niches/1/gather" {
		t.Fatalf("start: %d", status)
	}
	body := s.wait(1)
	if !strings.Contains(body, "the outside cannot be reached: it is silent") ||
		!strings.Contains(body, "What was fetched is kept.") || !strings.Contains(body, "Go on") {
		t.Errorf("the stopped job: %s", body)
	}
	if status, _, _ := s.post("/niches/1/jobs/1/cancel", nil, true); status != 200 {
		t.Errorf("cancel: %d", status)
	}
	if body := s.wait(1); !strings.Contains(body, "cancelled; what was fetched is kept") ||
		strings.Contains(body, "Go on") {
		t.Errorf("the cancelled job: %s", body)
	}
	if status, _, _ := s.post("/niches/1/jobs/1/explode", nil, true); status != 404 {
		t.Errorf("an unknown action: %d", status)
	}
}

func TestGatherEstimate(t *testing.T) {
	s := open(t)
	s.get("/niches/1/gather")
	for seeds, want := range map[string]string{"": "", "moon\nmars\n🔭": "2 seeds: at most 56 lookups",
		"🔭": "No line is a usable seed"} {
		_, _, body := s.post("/niches/1/gather/estimate", url.Values{"seeds": {seeds}, "letters": {"yes"}}, true)
		if !strings.Contains(body, want) || want == "" && strings.TrimSpace(body) != "" {
			t.Errorf("%q: %s", seeds, body)
		}
	}
}

func TestSettingsPage(t *testing.T) {
	s := open(t)
	s.get("/niches/1/settings")
	form := url.Values{"name": {"Sky"}, "country": {"GB"}, "language": {"en"}, "site": {"mine.example"},
		"links": {"3"}, "fit": {"80"}, "standing": {"40"}, "visit": {"$0.05"}}
	if status, _, body := s.post("/niches/1/settings", form, false); status != 200 || !strings.Contains(body, "Saved.") {
		t.Errorf("%d", status)
	}
	n, _ := s.study.Niches.Get(context.Background(), 1)
	if n.PlannedLinks != 3 || n.Country != "GB" || n.OwnSite != "mine.example" || n.VisitMicros != 50_000 {
		t.Errorf("kept: %+v", n)
	}
	for field, bad := range map[string]string{"links": "many", "fit": "0", "standing": "", "name": " ",
		"visit": "−5"} {
		wrong := url.Values{}
		for k := range form {
			wrong.Set(k, form.Get(k))
		}
		wrong.Set(field, bad)
		if status, _, body := s.post("/niches/1/settings", wrong, false); status != 422 ||
			!strings.Contains(body, `aria-invalid="true"`) {
			t.Errorf("%s=%q: %d", field, bad, status)
		}
	}
}

func TestWhyNot(t *testing.T) {
	s := open(t)
	s.add("moon\nbest moon map")
	for query, want := range map[string]string{
		"phrase=Moon&words=3&stage=sift":          "Stopped by <b>words at least 3</b>",
		"phrase=best+moon+map&words=3&stage=sift": "It is in the list",
		"phrase=mars": "never found here",
		"phrase=":     "",
	} {
		if body := s.get("/niches/1/why?" + query); !strings.Contains(body, want) {
			t.Errorf("%s: %s", query, body)
		}
	}
}

func TestMoreRowsAreFetched(t *testing.T) {
	s := open(t)
	var list strings.Builder
	for i := range 250 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.add(list.String())
	body := s.get("/niches/1/sift?sort=idea")
	more := regexp.MustCompile(`data-first="0" data-count="250" data-more="([^"]+)"`).FindStringSubmatch(body)
	if n := strings.Count(body, `<tr id="idea-`); n != 30 || more == nil {
		t.Fatalf("%d rows at first, more at %q", n, more)
	}
	body = s.get(html.UnescapeString(more[1]) + "230")
	if n := strings.Count(body, `<tr id="idea-`); n != 20 || strings.Contains(body, "<html") ||
		!strings.Contains(body, "phrase number 230") {
		t.Errorf("%d rows at last", n)
	}
	for _, beyond := range []string{"250", "9999999", "-1", "99999999999999999999"} {
		s.get(html.UnescapeString(more[1]) + beyond) // a status of 200 is all that is asked
	}
	if body = s.get("/niches/1/sift?sort=idea&idea=241"); !strings.Contains(body, `data-first="220"`) ||
		!regexp.MustCompile(`<tr id="idea-241"[^>]* class="selected"`).MatchString(body) {
		t.Error("an idea that is asked for is not among the rows")
	}
}

func TestLargeUploadIsRefused(t *testing.T) {
	s := open(t)
	r := httptest.NewRequest("POST", "/niches/1/import", strings.NewReader(strings.Repeat("x", 41<<20)))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	resp, err := s.app.Test(r)
	if err == nil && resp.StatusCode < 400 {
		t.Errorf("41 MB are taken: %d", resp.StatusCode)
	}
	if b, _ := s.study.Ideas.Table(context.Background(), s.niche); b.Len() != 0 {
		t.Error("something of it went in")
	}
}

// openWith is open with an outside world.
func openWith(t testing.TB, m ask.Market, o study.Options) *site { return openAt(t, m, o, time.Now) }

// openAt is openWith by a clock of the test's own.
func openAt(t testing.TB, m ask.Market, o study.Options, now func() time.Time) *site {
	st, err := store.Open(t.TempDir()+"/d.db", now)
	if err != nil {
		t.Fatal(err)
	}
	s := study.New(st, m, o)
	app, err := New(Options{Study: s})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close(); st.Close() })
	n, err := s.Niches.Create(context.Background(), niches.Niche{Name: "Sky <b>", Country: "US", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	return &site{t: t, app: app, study: s, store: st, niche: n}
}

func TestReadySieve(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nhow to find a dark sky,400\nmoon,9000\n")
	body := s.get("/niches/1/sift?ready=Long+and+quiet")
	for _, want := range []string{"Sieve: <bdi>Long and quiet</bdi></h2>", `name="words" value="5"`,
		`name="searches-from" value="100"`, "<b>1</b> left of 2"} {
		if !strings.Contains(body, want) {
			t.Errorf("%q is missing", want)
		}
	}
	if body := s.get("/niches/1/sift?ready=Luck"); !strings.Contains(body, "There is no sieve “Luck”") ||
		!strings.Contains(body, "<b>2</b> left of 2") {
		t.Error("a sieve that is not there is not refused")
	}
}

func TestSupposeInTheBrowser(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o}, study.Options{})
	s.add("moon chart")
	s.get("/niches/1/sift")
	if status, _, body := s.post("/niches/1/lookup", url.Values{"id": {"1"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	s.wait(1)
	if status, h, _ := s.post("/niches/1/ideas/1/suppose", url.Values{"standing": {""}, "links": {"4"},
		"fit": {"92,5"}}, false); status != 303 || !strings.HasSuffix(h.Get("Location"), "/niches/1/ideas/1#my-reach") {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	body := s.get("/niches/1/ideas/1")
	for _, want := range []string{`name="links" inputmode="numeric" value="4"`, `value="92.5"`,
		"supposed for this idea alone", "as for all ideas", "with 4 planned solid"} {
		if !strings.Contains(body, want) {
			t.Errorf("%q is missing", want)
		}
	}
	for field, bad := range map[string]string{"standing": "high", "links": "1.5", "fit": "101"} {
		v := url.Values{"standing": {"10"}, "links": {"1"}, "fit": {"80"}}
		v.Set(field, bad)
		if status, _, body := s.post("/niches/1/ideas/1/suppose", v, false); status != 422 ||
			!strings.Contains(body, `value="`+bad+`"`) || !strings.Contains(body, `aria-invalid="true"`) {
			t.Errorf("%s=%s: %d", field, bad, status)
		}
	}
	if !strings.Contains(s.get("/niches/1/ideas/1"), `value="92.5"`) {
		t.Error("a mistake has changed what was supposed")
	}
	s.post("/niches/1/ideas/1/suppose", url.Values{"clear": {"yes"}, "links": {"9"}}, false)
	if strings.Contains(s.get("/niches/1/ideas/1"), "supposed for this idea alone") {
		t.Error("it is not taken back")
	}
}

func TestAMisspeltPhraseSaysWhatItWasTakenFor(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o},
		study.Options{Options: ask.Options{Depth: 20}})
	s.add("star giude\nstar guide")
	s.get("/niches/1/sift")
	for _, id := range []string{"1", "2"} {
		if status, _, body := s.post("/niches/1/lookup", url.Values{"id": {id}}, true); status != 200 {
			t.Fatalf("start: %d %s", status, body)
		}
	}
	s.wait(1)
	s.wait(2)
	if body := s.get("/niches/1/ideas/1"); !strings.Contains(body, "they take it for “<bdi>star guide</bdi>”") {
		t.Error("the whole story does not say what a misspelt phrase was taken for")
	}
	if body := s.get("/niches/1/ideas/2"); strings.Contains(body, "take it for") {
		t.Error("a phrase that is spelt right was taken for another")
	}
}
