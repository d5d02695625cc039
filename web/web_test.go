package web

import (
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
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

	"github.com/gofiber/fiber/v3"
)

// site is the application with a niche, without any source.
type site struct {
	t      testing.TB
	app    *fiber.App
	study  *study.Study
	store  *store.Store
	niche  niches.Niche
	cookie string
	token  string
}

func open(t testing.TB) *site {
	return openWith(t, ask.Market{Names: map[ask.Question]string{}}, study.Options{})
}

func (s *site) do(r *http.Request) (int, http.Header, string) {
	r.Host = "localhost"
	if s.cookie != "" {
		r.Header.Set("Cookie", s.cookie)
	}
	resp, err := s.app.Test(r, fiber.TestConfig{Timeout: 30 * time.Second})
	if err != nil {
		s.t.Fatal(err)
	}
	data, err := io.ReadAll(resp.Body)
	if err != nil {
		s.t.Fatal(err)
	}
	if c := resp.Header.Get("Set-Cookie"); c != "" {
		s.cookie, _, _ = strings.Cut(c, ";")
	}
	return resp.StatusCode, resp.Header, string(data)
}

func (s *site) get(path string) string {
	status, _, body := s.do(httptest.NewRequest("GET", path, nil))
	if status != 200 {
		s.t.Fatalf("%s answers %d: %.200s", path, status, body)
	}
	if m := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindStringSubmatch(body); m != nil {
		s.token = m[1]
	}
	return read(body)
}

// read is a page as it is read: white space is one space.
func read(body string) string { return strings.Join(strings.Fields(body), " ") }

func (s *site) post(path string, values url.Values, partial bool) (int, http.Header, string) {
	r := httptest.NewRequest("POST", path, strings.NewReader(values.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("X-Csrf-Token", s.token)
	if partial {
		r.Header.Set("HX-Request", "true")
	}
	status, h, body := s.do(r)
	return status, h, read(body)
}

func (s *site) add(list string) {
	if _, err := s.study.Ideas.Import(context.Background(), s.niche, "list", strings.NewReader(list)); err != nil {
		s.t.Fatal(err)
	}
}

func TestHeaders(t *testing.T) {
	s := open(t)
	_, h, body := s.do(httptest.NewRequest("GET", "/niches/1/gather", nil))
	csp := h.Get("Content-Security-Policy")
	if !strings.Contains(csp, "default-src 'none'") || strings.Contains(csp, "unsafe") {
		t.Errorf("policy %q", csp)
	}
	if h.Get("X-Content-Type-Options") != "nosniff" || h.Get("X-Frame-Options") != "DENY" ||
		!strings.Contains(s.cookie, "cn_csrf=") {
		t.Errorf("headers %v", h)
	}
	if m := regexp.MustCompile(`<script(?: [^>]*)?>[^<]|<style| style="| on[a-z]+="|javascript:`).FindString(
		body); m != "" {
		t.Errorf("the page has inline script or style: %q", m)
	}
	if _, _, ok := s.do(httptest.NewRequest("GET", "/healthz", nil)); ok != "ok" {
		t.Errorf("healthz says %q", ok)
	}
}

func TestChangesNeedTheToken(t *testing.T) {
	s := open(t)
	s.add("moon")
	s.get("/niches/1/sift")
	good := s.token
	for _, token := range []string{"", "made-up"} {
		s.token = token
		if status, _, body := s.post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"keep"}},
			true); status != 403 || !strings.Contains(body, "Reload it") {
			t.Errorf("token %q: %d %s", token, status, body)
		}
	}
	s.get("/niches/1/sift")
	if s.token == "" {
		s.token = good
	}
	if status, _, body := s.post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"keep"}}, true); status != 200 {
		t.Errorf("with the token: %d %s", status, body)
	}
	// Another server on the same data file knows the token: an open page outlives a restart.
	again, err := New(Options{Study: s.study})
	if err != nil {
		t.Fatal(err)
	}
	s.app = again
	if status, _, _ := s.post("/niches/1/undo", nil, true); status != 200 {
		t.Errorf("after a restart: %d", status)
	}
}

func TestErrorsAreTold(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/niches/99/sift", "/niches/x/sift", "/niches/1/nosuch", "/niches/1/ideas/5",
		"/nosuch"} {
		status, _, body := s.do(httptest.NewRequest("GET", path, nil))
		if status != 404 || !strings.Contains(body, "nothing at this address") || !strings.Contains(body, "</html>") {
			t.Errorf("%s: %d %.100s", path, status, body)
		}
	}
	r := httptest.NewRequest("GET", "/niches/1/ideas/5/drawer", nil)
	r.Header.Set("HX-Request", "true")
	if status, h, body := s.do(r); status != 404 || h.Get("HX-Retarget") != "#notice" || strings.Contains(body, "<html") {
		t.Errorf("a missing drawer: %d %v %s", status, h, body)
	}
}

func TestStrangeTextIsEscaped(t *testing.T) {
	s := open(t)
	s.add("<script>alert(1)</script> moon\n\u202eתלסקופ")
	for _, path := range []string{"/niches/1/sift?holds=%22%3E%3Cscript%3E", "/niches/1/gather", "/niches/1/ideas/1",
		"/niches/1/settings"} {
		if body := s.get(path); strings.Contains(body, "<script>") || strings.Contains(body, "Sky <b>") ||
			!strings.Contains(body, "Sky &lt;b&gt;") {
			t.Errorf("%s holds text as HTML", path)
		}
	}
}

func TestSiftByAddress(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nbest moon map,500\nmoon,9000\nhow to see the moon,<10\nmars jobs map,700\nbest mars " +
		"map here,300\n")
	rows := func(query string) (out []string) {
		for _, m := range regexp.MustCompile(`<bdi>([^<]+)</bdi></a> </th>`).FindAllStringSubmatch(s.get("/niches/1/sift?"+
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
	if body := s.get("/niches/1/sift?words=abc"); !strings.Contains(body, "not a whole number") {
		t.Error("a bad number is not told")
	}
	if body := s.get("/niches/1/sift?from=400"); !strings.Contains(body, "1 of them not known") ||
		!strings.Contains(body, "&lt; 10") && strings.Contains(body, ">0<") {
		t.Error("what is under the floor went silently")
	}
	if body := s.get("/niches/1/sift?difficulty=30"); !strings.Contains(body, "Nothing is left") {
		t.Error("an empty list offers no way out")
	}
}

func TestDecideMovesRowsAndCounts(t *testing.T) {
	s := open(t)
	s.add("moon\nmars")
	s.get("/niches/1/sift")
	status, h, body := s.post("/niches/1/decide", url.Values{"id": {"1"}, "decision": {"drop"}, "stage": {"sift"}}, true)
	if status != 200 || h.Get("HX-Reswap") != "delete" || !strings.Contains(body, "Dropped “moon”") ||
		!strings.Contains(body, "1 left") {
		t.Errorf("%d %v %s", status, h, body)
	}
	status, h, body = s.post("/niches/1/decide", url.Values{"id": {"2"}, "decision": {"keep"}, "stage": {"sift"}}, true)
	if status != 200 || h.Get("HX-Reswap") != "" || !strings.Contains(body, `id="idea-2"`) ||
		!strings.Contains(body, "1 kept") {
		t.Errorf("%d %v %s", status, h, body)
	}
	if _, _, body := s.post("/niches/1/undo", nil, true); !strings.Contains(body, "Keeping “mars” was undone") {
		t.Errorf("undo: %s", body)
	}
	if status, _, _ := s.post("/niches/1/decide", url.Values{"id": {"2"}, "decision": {"sell"}}, true); status != 422 {
		t.Errorf("an unknown decision: %d", status)
	}
}

func TestImportForm(t *testing.T) {
	s := open(t)
	s.get("/niches/1/gather")
	var b strings.Builder
	form := multipart.NewWriter(&b)
	form.WriteField("csrf", s.token)
	file, _ := form.CreateFormFile("file", "golden.csv")
	io.WriteString(file, "searches,phrase\n12,moon\nx,mars\n")
	form.Close()
	r := httptest.NewRequest("POST", "/niches/1/import", strings.NewReader(b.String()))
	r.Header.Set("Content-Type", form.FormDataContentType())
	status, _, body := s.do(r)
	if status != 200 || !strings.Contains(body, "golden.csv: 1 new idea") ||
		!strings.Contains(body, "is not a whole number") {
		t.Errorf("%d %s", status, body)
	}
	status, _, body = s.post("/niches/1/gather", url.Values{"seeds": {strings.Repeat("a", 10000)}, "csrf": {s.token}},
		false)
	if status != 422 || !strings.Contains(body, "10000 characters long") || !strings.Contains(body, "aaaa") {
		t.Errorf("a seed of 10,000 characters: %d, kept %v", status, strings.Contains(body, "aaaa"))
	}
}

func TestNewNicheForm(t *testing.T) {
	s := open(t)
	s.get("/niches/new")
	if status, _, body := s.post("/niches", url.Values{"name": {"Mars"}, "country": {"ZZZ"}, "language": {"en"}},
		false); status != 422 || !strings.Contains(body, `value="Mars"`) || !strings.Contains(body, "is no country") {
		t.Errorf("%d %s", status, body)
	}
	status, h, _ := s.post("/niches", url.Values{"name": {"Mars"}, "country": {"de"}, "language": {"de"},
		"site": {"red.example"}}, false)
	if status != 303 || h.Get("Location") != "/niches/2/gather" {
		t.Errorf("%d %v", status, h)
	}
	if body := s.get("/niches/2/gather"); !strings.Contains(body, "This niche is empty") {
		t.Error("an empty niche has no next step")
	}
}

func TestExportHeaders(t *testing.T) {
	s := open(t)
	s.add("moon")
	_, h, body := s.do(httptest.NewRequest("GET", "/niches/1/export.csv?stage=sift", nil))
	if !strings.HasPrefix(h.Get("Content-Type"), "text/csv; charset=utf-8") ||
		!strings.Contains(h.Get("Content-Disposition"), "sky--b.csv") || !strings.Contains(body, "\r\nmoon,") {
		t.Errorf("%v %q", h, body)
	}
}

// BenchmarkList serves the sift page of 5,000 ideas.
func BenchmarkList(b *testing.B) {
	s := open(b)
	var list strings.Builder
	list.WriteString("phrase,searches,cpc\n")
	for i := range 5000 {
		fmt.Fprintf(&list, "idea number %d of the long list,%d,0.%02d\n", i, i*7%4000, i%100)
	}
	s.add(list.String())
	b.Run("whole page", func(b *testing.B) {
		for b.Loop() {
			s.get("/niches/1/sift?words=3&from=100")
		}
	})
	b.Run("list alone", func(b *testing.B) {
		for b.Loop() {
			r := httptest.NewRequest("GET", "/niches/1/sift?from=100", nil)
			r.Header.Set("HX-Request", "true")
			s.do(r)
		}
	})
	b.Run("drawer", func(b *testing.B) {
		for b.Loop() {
			s.get("/niches/1/ideas/7/drawer")
		}
	})
	b.Run("after a decision", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			s.study.Ideas.Decide(context.Background(), 1, []uint{uint(1 + i%5000)}, sieve.Decision(1+i%2))
			s.get("/niches/1/sift?from=100")
		}
	})
}
