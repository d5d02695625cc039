package web

import (
	"context"
	"fmt"
	"html"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// list asks as htmx does, for the list alone.
func (s *site) list(path string) (head map[string][]string, body string) {
	r := httptest.NewRequest("GET", path, nil)
	r.Header.Set("HX-Request", "true")
	status, h, body := s.do(r)
	if status != 200 {
		s.t.Fatalf("%s answers %d: %.200s", path, status, body)
	}
	return h, read(body)
}

// lacks and holds check what a person reads or a browser is told.
func holds(t *testing.T, body string, wanted ...string) {
	t.Helper()
	for _, w := range wanted {
		if !strings.Contains(body, w) {
			t.Errorf("%q is missing", w)
		}
	}
}

func lacks(t *testing.T, body string, unwanted ...string) {
	t.Helper()
	for _, w := range unwanted {
		if strings.Contains(body, w) {
			t.Errorf("%q is there", w)
		}
	}
}

func TestSortLinksKeepTheSieve(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nbest moon map,500\nfull moon,90\n")
	body := s.get("/niches/1/sift?holds=moon&searches-from=50&sort=words&order=up")
	links := regexp.MustCompile(`<th scope="col" class="([a-z]+)[^>]*> <a href="([^"]+)"`).FindAllStringSubmatch(body, -1)
	if len(links) != len(sieve.Listed()) {
		t.Fatalf("%d columns can be sorted by", len(links))
	}
	for _, l := range links {
		if !strings.Contains(l[2], "holds=moon&amp;searches-from=50") {
			t.Errorf("%s goes to %s", l[1], l[2])
		}
		if l[1] == "words" && !strings.HasSuffix(l[2], "sort=words&amp;order=down") {
			t.Errorf("the sorted column goes to %s", l[2])
		}
	}
	holds(t, body, `class="words number" data-key="words" aria-sort="ascending"`,
		`export.csv?stage=sift&amp;holds=moon&amp;searches-from=50`)
}

func TestTheListIsRenewed(t *testing.T) {
	s := open(t)
	s.add("moon\nmars\nvenus\nsaturn rings")
	h, body := s.list("/niches/1/sift?show=open&words=1&holds=mars,venus&idea=3")
	if got := h["Hx-Push-Url"]; len(got) != 1 || got[0] != "/niches/1/sift?words=1&holds=mars%2Cvenus" {
		t.Errorf("the address becomes %q", got)
	}
	holds(t, body, `<tr id="idea-3" data-id="3" class="selected">`, "<b>2</b> left of 4", `id="count-holds"`, "−2")
	lacks(t, body, "<html", `id="idea-1"`)
	if h, _ := s.list("/niches/1/sift?words=1&quiet=yes"); h["Hx-Push-Url"] != nil {
		t.Error("a renewal changes the address")
	}
	if h, body := s.list("/niches/1/sift"); h["Hx-Push-Url"][0] != "/niches/1/sift" || !strings.Contains(body, "4 left") {
		t.Error("without a sieve the address is not the stage's")
	}
}

func TestNextRowsKeepTheSieve(t *testing.T) {
	s := open(t)
	var list strings.Builder
	for i := range 230 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.add(list.String())
	seen := map[string]bool{}
	body := s.get("/niches/1/sift?words=3&sort=idea")
	more := html.UnescapeString(regexp.MustCompile(`data-more="([^"]+)"`).FindStringSubmatch(body)[1])
	if !strings.Contains(more, "words=3&sort=idea&order=up") {
		t.Fatalf("the next rows are at %s", more)
	}
	for from := 0; from < 230; from += 30 {
		for _, m := range regexp.MustCompile(`id="(idea-\d+)"`).FindAllStringSubmatch(s.get(fmt.Sprint(more, from)), -1) {
			seen[m[1]] = true
		}
	}
	if len(seen) != 230 {
		t.Errorf("%d ideas were seen on all pages", len(seen))
	}
}

func TestAllThatAreLeftAreLookedUp(t *testing.T) {
	s := open(t)
	var list strings.Builder
	for i := range 230 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.add(list.String() + "moon\n")
	s.get("/niches/1/sift")
	_, _, body := s.post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"}, "words": {"3"}}, true)
	holds(t, body, "Look up 230 ideas: at most 4830 lookups")
}

func TestTheTrailCounts(t *testing.T) {
	s := open(t)
	s.add("moon\nmars\nvenus")
	s.study.Ideas.Decide(context.Background(), 1, []uint{2}, sieve.Dropped)
	s.study.Ideas.Decide(context.Background(), 1, []uint{3}, sieve.Kept)
	for _, path := range []string{"/niches/1/gather", "/niches/1/judge", "/niches/1/plan", "/niches/1/settings"} {
		holds(t, s.get(path), "<small>2 left</small>", "<small>1 kept · 1 topic</small>", "<small>0 looked up</small>",
			"0 seeds · 3 ideas")
	}
	holds(t, s.get("/niches/1/sift?holds=moon"), "<small>1 left</small>")
	holds(t, s.get("/niches/1/sift"), `class="here"`, `href="/niches/1/judge"`, "not built yet")
}

func TestTheStartPageOpensTheLastNiche(t *testing.T) {
	s := open(t)
	s.study.Niches.Create(context.Background(), niches.Niche{Name: "Other", Country: "US", Language: "en"})
	for _, id := range []string{"1", "2", "1"} {
		time.Sleep(2 * time.Millisecond)
		s.get("/niches/" + id + "/gather")
		if _, h, _ := s.do(httptest.NewRequest("GET", "/", nil)); h.Get("Location") != "/niches/"+id+"/sift" {
			t.Errorf("after %s the start page opens %s", id, h.Get("Location"))
		}
	}
}

func TestTheFormRemembers(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nmoon,<10\nbest mars map,500\n")
	body := s.get("/niches/1/sift?searches-from=400&searches-from-unmeasured=yes&words=2&starts=best&ends=map" +
		"&trend=rising")
	holds(t, body, `name="searches-from-unmeasured" value="yes" checked`,
		`name="words" value="2"`,
		`name="starts" value="best"`, `name="ends" value="map"`, `<option value="rising" selected>rising</option>`,
		`<select id="filter-show" name="show">`)
	lacks(t, body, `name="exact"`)
	holds(t, body, `<option value="rank"`)
	if n := strings.Count(body, `name="trend"`); n != 1 {
		t.Errorf("one filter stands %d times in the form", n)
	}
	body = s.get("/niches/1/sift?show=all")
	if !strings.Contains(body, `<input type="hidden" name="show" value="all">`) ||
		strings.Contains(body, `id="filter-show"`) {
		t.Error("a filter that was taken out is shown as set")
	}
	body = s.get("/niches/1/sift?lacks=&words=2&words-off=yes")
	holds(t, body, `name="lacks" value=""`, "asks for nothing yet", `name="words-off" value="yes"`, "<b>2</b> left of 2")
}

func TestExportsBySieve(t *testing.T) {
	s := open(t)
	s.add("moon\nmars")
	s.study.Ideas.Decide(context.Background(), 1, []uint{2}, sieve.Kept)
	export := func(path string) string {
		_, _, body := s.do(httptest.NewRequest("GET", path, nil))
		return body
	}
	if body := export("/niches/1/export.csv"); strings.Contains(body, "moon") || !strings.Contains(body, "mars") {
		t.Errorf("without a stage: %s", body)
	}
	if body := export("/niches/1/export.json?stage=sift&lacks=mars"); strings.Contains(body, "mars") ||
		!strings.Contains(body, `"phrase": "moon"`) {
		t.Errorf("by sieve: %s", body)
	}
	for _, format := range []string{"table", "pdf"} {
		if status, _, _ := s.do(httptest.NewRequest("GET", "/niches/1/export."+format, nil)); status < 400 {
			t.Errorf("%s is served: %d", format, status)
		}
	}
}

// TestFiguresAsShown: what is bounded, locked, foreign or supposed is never a bare number.
func TestFiguresAsShown(t *testing.T) {
	s := open(t)
	s.add("phrase,searches,cpc\nmoon,<10,\nmars,700,€0.40\nvenus,9,$0.30\n")
	now := time.Now()
	links := 3
	err := s.store.SaveJudgements(context.Background(), 1, store.Judgement{Supposed: true,
		Idea: store.Idea{ID: 3, JudgedAt: &now, Difficulty: 41, PageOne: 0.4, Locked: true, MyLinks: &links}})
	if err != nil {
		t.Fatal(err)
	}
	body := s.get("/niches/1/sift")
	holds(t, body, "<span>&lt; 10</span>", "That is not zero, by your list", "<span>€0.40</span>",
		"It is in EUR, so filters",
		"<span>locked</span>", ">none</span>", "Locked: it names a brand", "supposed for this idea alone", "not looked up")
	lacks(t, body, "<span>41</span>", "It is in USD")
	if _, _, export := s.do(httptest.NewRequest("GET", "/niches/1/export.json?stage=sift", nil)); strings.Count(export,
		`"locked": true`) != 1 || strings.Count(export, `"under_floor": true`) != 1 {
		t.Errorf("export: %s", export)
	}
}

func TestWhatWasTypedIsKept(t *testing.T) {
	s := open(t)
	s.get("/niches/1/gather")
	status, _, body := s.post("/niches/1/import", url.Values{"list": {"keep me\x00"}, "csrf": {s.token}}, false)
	if status != 422 || !strings.Contains(body, "keep me") || !strings.Contains(body, "zero bytes") {
		t.Errorf("a list that cannot be used: %d", status)
	}
	status, _, body = s.post("/niches/1/settings", url.Values{"name": {"New <name>"}, "country": {"??"}}, false)
	if status != 422 || !strings.Contains(body, `value="New &lt;name&gt;"`) {
		t.Errorf("settings that cannot be used: %d", status)
	}
}

func TestLettersAreAskedForWhenTicked(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}},
		study.Options{Options: ask.Options{Prices: map[ask.Question]int64{ask.Suggestions: 1000, ask.Demand: 10}}})
	s.get("/niches/1/gather")
	// 100 phrases' demand figures are reckoned with each seed.
	for form, want := range map[string]string{"": "at most 2 lookups, $0.002", "letters": "at most 28 lookups, $0.028",
		"questions": "at most 16 lookups, $0.016"} {
		if _, _, body := s.post("/niches/1/gather/estimate", url.Values{"seeds": {"moon"}, form: {"yes"}},
			true); !strings.Contains(body,
			want) {
			t.Errorf("%s: %s", form, body)
		}
	}
	s.post("/niches/1/gather", url.Values{"seeds": {"moon"}}, false)
	if body := s.wait(1); !strings.Contains(body, "2 lookups · $0.00102 · 2 new") &&
		!strings.Contains(body, "2 lookups") {
		t.Errorf("job: %s", body)
	}
	s.post("/niches/1/gather", url.Values{"seeds": {"mars"}, "questions": {"yes"}}, false)
	if body := s.wait(2); !strings.Contains(body, "16 lookups") {
		t.Errorf("job: %s", body)
	}
}

// TestJobsTellThePage when ideas came, and leave the bench when they are done.
func TestJobsTellThePage(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o}, study.Options{})
	s.add("moon chart")
	s.get("/niches/1/sift")
	s.post("/niches/1/lookup", url.Values{"id": {"1"}}, true)
	s.wait(1)
	if _, h, _ := s.do(httptest.NewRequest("GET", "/niches/1/jobs/1?seen=1",
		nil)); h.Get("Hx-Trigger") != "ideas-changed" {
		t.Error("the end of a job does not renew the list")
	}
	lacks(t, s.get("/niches/1/judge"), `id="job-1"`)
	holds(t, s.get("/niches/1/gather"), `id="job-1"`, "done just now")
	if status, _, _ := s.do(httptest.NewRequest("GET", "/niches/1/jobs/7", nil)); status != 404 {
		t.Errorf("a job that is not there: %d", status)
	}
}

func TestMyOwnPageIsMine(t *testing.T) {
	o := outside{}
	s := openWith(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o},
		study.Options{Options: ask.Options{Depth: 20}})
	s.get("/niches/1/settings")
	s.post("/niches/1/settings", url.Values{"name": {"Sky"}, "country": {"US"}, "language": {"en"}, "site": {"s4.example"},
		"links": {"0"}, "fit": {"85"}, "standing": {"35"}}, false)
	s.add("moon chart")
	s.post("/niches/1/lookup", url.Values{"id": {"1"}}, true)
	s.wait(1)
	body := s.get("/niches/1/ideas/1/drawer")
	if n := strings.Count(body, `<li class="mine">`); n != 1 || !strings.Contains(body, "my own page") {
		t.Errorf("%d pages of the ten are mine", n)
	}
	holds(t, s.get("/niches/1/ideas/1"), "it is my own page.", `<li class="mine">`)
}

func TestFilesMayBeKept(t *testing.T) {
	s := open(t)
	page := s.get("/niches/1/sift")
	css := regexp.MustCompile(`href="(/static/([0-9a-f]+)/app.css)"`).FindStringSubmatch(page)
	if css == nil {
		t.Fatal("the page has no stylesheet")
	}
	for path, kept := range map[string]bool{css[1]: true, "/static/000000000000/app.css": false} {
		status, h, body := s.do(httptest.NewRequest("GET", path, nil))
		if status != 200 || strings.Contains(h.Get("Cache-Control"), "immutable") != kept ||
			!strings.HasPrefix(h.Get("Content-Type"), "text/css") || !strings.Contains(body, "--paper") ||
			!strings.Contains(body, ".drawer") || strings.Index(body, "/* frame/") > strings.Index(body, "/* list/") {
			t.Errorf("%s: %d %v", path, status, h)
		}
	}
	for _, m := range regexp.MustCompile(`<script type="module" src="([^"]+)"`).FindAllStringSubmatch(page, -1) {
		status, h, body := s.do(httptest.NewRequest("GET", m[1], nil))
		if status != 200 || !strings.HasPrefix(h.Get("Content-Type"), "text/javascript") ||
			!strings.Contains(body, "import") &&
				!strings.Contains(body, "export") {
			t.Errorf("%s: %d %v", m[1], status, h)
		}
	}
	for _, path := range []string{"list/top.html", "../web.go", "lib/../list/top.html", "nosuch.css"} {
		if status, _, _ := s.do(httptest.NewRequest("GET", "/static/"+css[2]+"/"+path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
}

func TestTheCookieIsOutOfReach(t *testing.T) {
	s := open(t)
	_, h, _ := s.do(httptest.NewRequest("GET", "/niches/1/gather", nil))
	if c := h.Get("Set-Cookie"); !strings.Contains(c, "HttpOnly") || !strings.Contains(c, "SameSite=Strict") {
		t.Errorf("cookie %q", c)
	}
}
