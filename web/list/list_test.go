package list_test

import (
	"context"
	"fmt"
	"html"
	"io"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/web/webtest"
)

// TestColumnsOfChoice are remembered for the niche, in their order and width.
func TestColumnsOfChoice(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches,cpc\nmoon map,400,0.5\n")
	s.Get("/niches/1/sift")
	if status, _, body := s.Post("/niches/1/columns", url.Values{"column": {"ceiling", "searches:90", "difficulty",
		"first-visits"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	body := s.Get("/niches/1/sift")
	webtest.Holds(t, body, `data-key="searches" data-width="90"`, "$200.00", `colspan="1"`)
	webtest.Lacks(t, body, `data-key="cpc"`)
	if at := strings.Index(body, `data-key="ceiling"`); at < 0 || at > strings.Index(body, `data-key="searches"`) {
		t.Error("the order is another one")
	}
	webtest.Holds(t, s.Get("/niches/1/ideas/1"), "400 a month") // whatever the list shows
	if status, _, _ := s.Post("/niches/1/columns", url.Values{"column": {"luck"}}, true); status != 422 {
		t.Errorf("a column that is none: %d", status)
	}
	s.Post("/niches/1/columns", nil, true)
	webtest.Holds(t, s.Get("/niches/1/sift"), `data-key="cpc"`)
}

// TestTheMapAndTheChips tell of what is left.
func TestTheMapAndTheChips(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nbest moon map,400\nbest mars map,90\nmars rover toy,5000\nmoon\n")
	body := s.Get("/niches/1/sift?view=map&words=2")
	webtest.Holds(t, body, `<canvas id="map"`, "The map as a table", `name="view" value="map"`,
		`<td class="number">1</td>`, "<b>3</b> left of 4")
	points := s.Get("/niches/1/points?stage=sift&words=2")
	webtest.Holds(t, points, `"phrase":["mars rover toy","best moon map","best mars map"]`, `"difficulty":[-1,-1,-1]`)
	chips := s.Get("/niches/1/chips?stage=sift")
	webtest.Holds(t, chips, `data-value="mars"`, "2 ideas, 5,090 searches a month together",
		`data-key="shape" data-value="list"`)
	webtest.Lacks(t, chips, `data-value="rover"`)
}

func TestMoreRowsAreFetched(t *testing.T) {
	s := webtest.Open(t)
	var list strings.Builder
	for i := range 250 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.Add(list.String())
	body := s.Get("/niches/1/sift?sort=idea")
	more := regexp.MustCompile(`data-first="0" data-count="250" data-more="([^"]+)"`).FindStringSubmatch(body)
	if n := strings.Count(body, `<tr id="idea-`); n != 30 || more == nil {
		t.Fatalf("%d rows at first, more at %q", n, more)
	}
	body = s.Get(html.UnescapeString(more[1]) + "230")
	if n := strings.Count(body, `<tr id="idea-`); n != 20 || strings.Contains(body, "<html") ||
		!strings.Contains(body, "phrase number 230") {
		t.Errorf("%d rows at last", n)
	}
	for _, beyond := range []string{"250", "9999999", "-1", "99999999999999999999"} {
		s.Get(html.UnescapeString(more[1]) + beyond) // a status of 200 is all that is asked
	}
	if body = s.Get("/niches/1/sift?sort=idea&idea=241"); !strings.Contains(body, `data-first="220"`) ||
		!regexp.MustCompile(`<tr id="idea-241"[^>]* class="selected"`).MatchString(body) {
		t.Error("an idea that is asked for is not among the rows")
	}
}

// TestSecondOrderTurns: what orders ideas that are equal in the first order turns like that one.
func TestSecondOrderTurns(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon map,40\nsky map,90\n")
	then := regexp.MustCompile(`data-key="searches"[\s\S]*?data-then="([^"]+)"`)
	at, orders := "/niches/1/sift?sort=words&order=down", []string{}
	for range 3 {
		m := then.FindStringSubmatch(s.Get(at))
		if m == nil {
			t.Fatalf("no second order on %s", at)
		}
		at = strings.ReplaceAll(m[1], "&amp;", "&")
		u, err := url.Parse(at)
		if err != nil {
			t.Fatal(err)
		}
		orders = append(orders, u.Query().Get("then-order"))
	}
	if orders[0] == orders[1] || orders[0] != orders[2] {
		t.Errorf("clicked three times: %q", orders)
	}
}

func TestSortLinksKeepTheSieve(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nbest moon map,500\nfull moon,90\n")
	body := s.Get("/niches/1/sift?holds=moon&searches-from=50&sort=words&order=up")
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
	webtest.Holds(t, body, `class="words number" data-key="words" aria-sort="ascending"`,
		`export.csv?stage=sift&amp;holds=moon&amp;searches-from=50`)
}

func TestTheListIsRenewed(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nmars\nvenus\nsaturn rings")
	h, body := s.List("/niches/1/sift?show=open&words=1&holds=mars,venus&idea=3")
	if got := h["Hx-Push-Url"]; len(got) != 1 || got[0] != "/niches/1/sift?words=1&holds=mars%2Cvenus" {
		t.Errorf("the address becomes %q", got)
	}
	webtest.Holds(t, body, `<tr id="idea-3" data-id="3" class="selected">`, "<b>2</b> left of 4", `id="count-holds"`,
		"−2")
	webtest.Lacks(t, body, "<html", `id="idea-1"`)
	if h, _ := s.List("/niches/1/sift?words=1&quiet=yes"); h["Hx-Push-Url"] != nil {
		t.Error("a renewal changes the address")
	}
	if h, body := s.List("/niches/1/sift"); h["Hx-Push-Url"][0] != "/niches/1/sift" || !strings.Contains(body, "4 left") {
		t.Error("without a sieve the address is not the stage's")
	}
}

func TestNextRowsKeepTheSieve(t *testing.T) {
	s := webtest.Open(t)
	var list strings.Builder
	for i := range 230 {
		fmt.Fprintf(&list, "phrase number %03d\n", i)
	}
	s.Add(list.String())
	seen := map[string]bool{}
	body := s.Get("/niches/1/sift?words=3&sort=idea")
	more := html.UnescapeString(regexp.MustCompile(`data-more="([^"]+)"`).FindStringSubmatch(body)[1])
	if !strings.Contains(more, "words=3&sort=idea&order=up") {
		t.Fatalf("the next rows are at %s", more)
	}
	for from := 0; from < 230; from += 30 {
		for _, m := range regexp.MustCompile(`id="(idea-\d+)"`).FindAllStringSubmatch(s.Get(fmt.Sprint(more, from)), -1) {
			seen[m[1]] = true
		}
	}
	if len(seen) != 230 {
		t.Errorf("%d ideas were seen on all pages", len(seen))
	}
}

func TestExportsBySieve(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nmars")
	s.Study.Ideas.Decide(context.Background(), 1, []uint{2}, sieve.Kept)
	export := func(path string) string {
		_, _, body := s.Do(httptest.NewRequest("GET", path, nil))
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
		if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/export."+format, nil)); status < 400 {
			t.Errorf("%s is served: %d", format, status)
		}
	}
}

// TestFiguresAsShown: what is bounded, locked, foreign or supposed is never a bare number.
func TestFiguresAsShown(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches,cpc\nmoon,<10,\nmars,700,€0.40\nvenus,9,$0.30\n")
	now := time.Now()
	links := 3
	err := s.Store.SaveJudgements(context.Background(), 1, store.Judgement{Supposed: true,
		Idea: store.Idea{ID: 3, JudgedAt: &now, Difficulty: 41, PageOne: 0.4, Locked: true, MyLinks: &links}})
	if err != nil {
		t.Fatal(err)
	}
	body := s.Get("/niches/1/sift")
	webtest.Holds(t, body, "<span>&lt; 10</span>", "but not zero. Source: your list", "<span>€0.40</span>",
		"It is in EUR. Filters",
		"<span>locked</span>", ">none</span>", "Locked: the phrase names a brand",
		"Uses the what-if values set for this idea", "not looked up")
	webtest.Lacks(t, body, "<span>41</span>", "It is in USD")
	if _, _, export := s.Do(httptest.NewRequest("GET", "/niches/1/export.json?stage=sift", nil)); strings.Count(export,
		`"locked": true`) != 1 || strings.Count(export, `"under_floor": true`) != 1 {
		t.Errorf("export: %s", export)
	}
}

func TestSiftByAddress(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nbest moon map,500\nmoon,9000\nhow to see the moon,<10\nmars jobs map,700\nbest mars " +
		"map here,300\n")
	rows := func(query string) (out []string) {
		for _, m := range regexp.MustCompile(`<bdi>([^<]+)</bdi></a> </th>`).FindAllStringSubmatch(s.Get("/niches/1/sift?"+
			query), -1) {
			out = append(out, m[1])
		}
		return out
	}
	for query, want := range map[string]string{
		"":                            "moon|mars jobs map|best moon map|best mars map here|how to see the moon",
		"words=3":                     "mars jobs map|best moon map|best mars map here|how to see the moon",
		"from=400&to=1000":            "mars jobs map|best moon map",
		"from=400&unmeasured=yes":     "moon|mars jobs map|best moon map|how to see the moon",
		"holds=best,jobs&lacks=mars":  "best moon map",
		"sort=idea":                   "best mars map here|best moon map|how to see the moon|mars jobs map|moon",
		"sort=words&order=up&words=3": "mars jobs map|best moon map|best mars map here|how to see the moon",
		"words=abc":                   "moon|mars jobs map|best moon map|best mars map here|how to see the moon",
		"difficulty=30":               "",
	} {
		if got := strings.Join(rows(query), "|"); got != want {
			t.Errorf("%s: %s, want %s", query, got, want)
		}
	}
	if body := s.Get("/niches/1/sift?words=abc"); !strings.Contains(body, "not a whole number") {
		t.Error("a bad number is not told")
	}
	if body := s.Get("/niches/1/sift?from=400"); !strings.Contains(body, "1 of these not known yet") ||
		!strings.Contains(body, "&lt; 10") && strings.Contains(body, ">0<") {
		t.Error("what is under the floor went silently")
	}
	if body := s.Get("/niches/1/sift?difficulty=30"); !strings.Contains(body, "Nothing passes") {
		t.Error("an empty list offers no way out")
	}
}

func TestDecideMovesRowsAndCounts(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nmars")
	s.Get("/niches/1/sift")
	status, h, body := s.Post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"drop"}, "stage": {"sift"}}, true)
	if status != 200 || h.Get("HX-Reswap") != "delete" || !strings.Contains(body, "Dropped “moon”") ||
		!strings.Contains(body, "1 left") {
		t.Errorf("%d %v %s", status, h, body)
	}
	status, h, body = s.Post("/niches/1/decide", url.Values{"id": {"2"}, "decision": {"keep"}, "stage": {"sift"}}, true)
	if status != 200 || h.Get("HX-Reswap") != "" || !strings.Contains(body, `id="idea-2"`) ||
		!strings.Contains(body, "1 kept") {
		t.Errorf("%d %v %s", status, h, body)
	}
	if _, _, body := s.Post("/niches/1/undo", nil, true); !strings.Contains(body, "Keeping “mars” was undone") {
		t.Errorf("undo: %s", body)
	}
	if status, _, _ := s.Post("/niches/1/decide", url.Values{"id": {"2"}, "decision": {"sell"}}, true); status != 422 {
		t.Errorf("an unknown decision: %d", status)
	}
}

func TestExportHeaders(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon")
	_, h, body := s.Do(httptest.NewRequest("GET", "/niches/1/export.csv?stage=sift", nil))
	if !strings.HasPrefix(h.Get("Content-Type"), "text/csv; charset=utf-8") ||
		!strings.HasPrefix(h.Get("Content-Disposition"), `attachment; filename="sky-b-ideas-20`) || !strings.Contains(body,
		"\r\nmoon,") {
		t.Errorf("%v %q", h, body)
	}
}

// TestExportsAreSentWhileTheyAreMade: nothing on their way waits for the end of them.
func TestExportsAreSentWhileTheyAreMade(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nstar")
	for _, path := range []string{"/niches/1/export.csv?stage=sift", "/niches/1/export.json?stage=sift",
		"/niches/1/whole.zip"} {
		r := httptest.NewRequest("GET", path, nil)
		r.Host = "localhost"
		r.Header.Set("Accept-Encoding", "gzip, br")
		resp, err := s.App.Test(r)
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(resp.Body)
		if err != nil || len(body) == 0 || resp.ContentLength != -1 || resp.Header.Get("Content-Encoding") != "" {
			t.Errorf("%s: %d bytes of %d, %v, %v", path, len(body), resp.ContentLength, resp.Header, err)
		}
	}
}
