package filters_test

import (
	"fmt"
	"html"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

// TestALongSieve lives in the data file, and its address is short; one that is lost is told of.
func TestALongSieve(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon map,400\nmars map,90\nsky\n")
	var words []string
	for i := range 700 {
		words = append(words, fmt.Sprintf("word%d", i))
	}
	long := url.Values{"lacks": {strings.Join(words, ", ") + ", mars"}}.Encode()
	r := httptest.NewRequest("GET", "/niches/1/sift?"+long, nil)
	r.Header.Set("HX-Request", "true")
	status, h, body := s.Do(r)
	at := h.Get("HX-Push-Url")
	if status != 200 || !regexp.MustCompile(`^/niches/1/sift\?long=[0-9a-f]{16}$`).MatchString(at) ||
		!strings.Contains(body, "<b>2</b> left of 3") {
		t.Fatalf("%d bytes asked: %d, %q", len(long), status, at)
	}
	body = s.Get(at)
	webtest.Holds(t, body, "<b>2</b> left of 3", "word699")
	for _, m := range regexp.MustCompile(`hx-get="(/niches/1/sift\?[^"]*)"`).FindAllStringSubmatch(body, -1) {
		if len(m[1]) > 200 {
			t.Errorf("an address of %d characters", len(m[1]))
		}
	}
	again := html.UnescapeString(regexp.MustCompile(`data-more="([^"]+)"`).FindStringSubmatch(body)[1])
	webtest.Holds(t, s.Get(again+"0"), "moon map")
	webtest.Holds(t, s.Get("/niches/1/export.csv?stage=sift&"+strings.SplitN(at, "?", 2)[1]), "moon map")
	webtest.Lacks(t, s.Get("/niches/1/export.csv?stage=sift&"+strings.SplitN(at, "?", 2)[1]), "mars map")
	webtest.Holds(t, s.Get("/niches/1/sift?long=0123456789abcdef"), "<b>3</b> left of 3", "no longer has. It was ignored")
}

func TestWhyNot(t *testing.T) {
	s := webtest.Open(t)
	s.Add("moon\nbest moon map")
	for query, want := range map[string]string{
		"phrase=Moon&words=3&stage=sift":          "Removed by <b>words at least 3</b>",
		"phrase=best+moon+map&words=3&stage=sift": "It is in the list",
		"phrase=mars": "not among your ideas",
		"phrase=":     "",
	} {
		if body := s.Get("/niches/1/why?" + query); !strings.Contains(body, want) {
			t.Errorf("%s: %s", query, body)
		}
	}
}

// TestTollsOnlyWhereNeeded: the line tells of lookups that a filter below it needs, and of the top ten.
func TestTollsOnlyWhereNeeded(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon map,40\n")
	webtest.Holds(t, s.Get("/niches/1/sift?difficulty=20"), "1 not looked up")
	if strings.Contains(s.Get("/niches/1/sift?difficulty=20"), "not counted") {
		t.Error("pages are to be counted that nobody asks for")
	}
	webtest.Holds(t, s.Get("/niches/1/sift?difficulty=20&exact=1000"), "1 not counted")
}

func TestTheFormRemembers(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon,<10\nbest mars map,500\n")
	body := s.Get("/niches/1/sift?searches-from=400&searches-from-unmeasured=yes&words=2&starts=best&ends=map" +
		"&trend=rising")
	webtest.Holds(t, body, `name="searches-from-unmeasured" value="yes" checked`,
		`name="words" value="2"`,
		`name="starts" value="best"`, `name="ends" value="map"`, `<option value="rising" selected>rising</option>`,
		`<select id="filter-show" name="show">`)
	webtest.Lacks(t, body, `name="exact"`)
	webtest.Holds(t, body, `<option value="rank"`)
	if n := strings.Count(body, `name="trend"`); n != 1 {
		t.Errorf("one filter stands %d times in the form", n)
	}
	body = s.Get("/niches/1/sift?show=all")
	if !strings.Contains(body, `<input type="hidden" name="show" value="all">`) ||
		strings.Contains(body, `id="filter-show"`) {
		t.Error("a filter that was taken out is shown as set")
	}
	body = s.Get("/niches/1/sift?lacks=&words=2&words-off=yes")
	webtest.Holds(t, body, `name="lacks" value=""`, "not set yet", `name="words-off" value="yes"`,
		"<b>2</b> left of 2")
}

// TestWhyNotAndLetItThrough: each filter that stops a phrase says how far it would have to move.
func TestWhyNotAndLetItThrough(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon jobs,40\nbest moon map,900\n")
	body := s.Get("/niches/1/why?stage=sift&words=3&lacks=jobs,login&searches-from=100&difficulty=20&phrase=Moon+jobs")
	webtest.Holds(t, body, "<b>words at least 3</b>", "Loosen to: words at least 2",
		"Loosen to: contains none of login",
		"Loosen to: searches at least 40", "Loosen to: difficulty at most 20, or not measured", "All of these at once",
		"searches-from=40")
	webtest.Holds(t, s.Get("/niches/1/why?stage=sift&holds=mars&phrase=moon+jobs"), "Remove this filter")
	webtest.Holds(t, s.Get("/niches/1/why?stage=sift&words=2&phrase=moon+jobs"), "It is in the list")
}

// TestTheLineSaysWhatItCosts: of what is left above it, those not looked up.
func TestTheLineSaysWhatItCosts(t *testing.T) {
	s := webtest.Asked(t)
	s.Add("phrase,searches\nmoon,40\nbest moon map,900\nmars map,5\n")
	webtest.Holds(t, s.Get("/niches/1/sift?words=2&difficulty=20"), "2 not looked up")
	webtest.Holds(t, s.Get("/niches/1/sift?words=9"), "all of these are looked up")
	status, _, body := s.Post("/niches/1/lookup/estimate", url.Values{"all": {"above"}, "stage": {"sift"}, "words": {"2"},
		"difficulty": {"20"}}, true)
	if status != 200 || !strings.Contains(body, "Look up 2 ideas") {
		t.Errorf("%d %s", status, body)
	}
	without := webtest.Open(t)
	without.Add("moon map")
	webtest.Holds(t, without.Get("/niches/1/sift?difficulty=20"), "No source for results yet.")
}
