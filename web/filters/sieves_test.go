package filters_test

import (
	"context"
	"net/url"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

func TestReadySieve(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nhow to find a dark sky,400\nmoon,9000\n")
	body := s.Get("/niches/1/sift?ready=Long+and+quiet")
	for _, want := range []string{"Sieve: <bdi>Long tail</bdi></h2>", `name="words" value="5"`,
		`name="searches-from" value="100"`, "<b>1</b> left of 2"} {
		if !strings.Contains(body, want) {
			t.Errorf("%q is missing", want)
		}
	}
	if body := s.Get("/niches/1/sift?ready=Luck"); !strings.Contains(body, "There is no sieve “Luck”") ||
		!strings.Contains(body, "<b>2</b> left of 2") {
		t.Error("a sieve that is not there is not refused")
	}
}

// TestSievesAreKept: saved, begun with, renamed, copied, usual, exported, deleted and put
// back.
func TestSievesAreKept(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nhow to find a dark sky,400\nmoon,9000\nmars,3\n")
	s.Get("/niches/1/sift")
	post := func(path string, values url.Values) (int, string) {
		t.Helper()
		status, _, body := s.Post("/niches/1/sieves"+path, values, false)
		return status, body
	}
	mine := url.Values{"stage": {"sift"}, "name": {" Quiet  nights "}, "words": {"3"}, "lacks": {"jobs, <b>"},
		"searches-from": {"100"}, "searches-from-off": {"yes"}, "usual": {"yes"}}
	status, body := post("", mine)
	if status != 200 || !strings.Contains(body, "Saved “Quiet nights”. This niche begins") {
		t.Fatal(status, body)
	}
	body = s.Get("/niches/1/sift")
	webtest.Holds(t, body, "Sieve: <bdi>Quiet nights</bdi></h2>", `name="words" value="3"`, `name="lacks" value="jobs, b"`,
		"<b>1</b> left of 3")
	webtest.Holds(t, s.Get("/niches/1/sift?sort=searches"), "<b>3</b> left of 3") // asked for something else
	webtest.Holds(t, s.Get("/niches/1/sift?sieve=Quiet+nights&words=2"),
		"Quiet nights</bdi> <small class=\"soft\">changed")
	webtest.Holds(t, s.Get("/niches/1/sift?sieve=Gone+by+now&words=3"), "Gone by now</bdi> <small", "<b>1</b> left of 3")
	webtest.Holds(t, s.Get("/niches/1/judge"), "looked up")
	for name, says := range map[string]string{"": "Give the sieve a name", "LONG tail": "is a ready-made sieve",
		strings.Repeat("x", 61): "longer than 60"} {
		if status, body := post("", url.Values{"stage": {"sift"}, "name": {name}, "words": {"3"}}); status != 422 ||
			!strings.Contains(body, says) {
			t.Errorf("saved as %q: %d %s", name, status, body)
		}
	}
	_, body = post("", url.Values{"stage": {"sift"}, "name": {"quiet nights"}, "words": {"4"}})
	webtest.Holds(t, body, "replaces the earlier one")
	_, body = post("/1/rename", url.Values{"name": {"Long nights"}})
	webtest.Holds(t, body, "Renamed to “Long nights”")
	_, body = post("/copy", url.Values{"name": {"New site: easy and searched"}})
	webtest.Holds(t, body, "Copied as “New site: easy and searched copy”")
	if status, body := post("/2/rename", url.Values{"name": {"LONG nights"}}); status != 422 ||
		!strings.Contains(body, "There is a sieve named “Long nights” already") {
		t.Error(status, body)
	}
	file := s.Get("/niches/1/sieves.json")
	webtest.Holds(t, file, `"format": "clever-niche-sieves"`, `"name": "Long nights"`, `"by": "difficulty"`)
	if one := s.Get("/niches/1/sieves.json?sieve=Long+nights"); strings.Contains(one, "New site: easy and searched") {
		t.Error("more than one is exported")
	}
	_, body = post("/1/delete", nil)
	webtest.Holds(t, body, "Deleted “Long nights”", "Restore", "&#34;name&#34;: &#34;Long nights&#34;")
	if n, _ := s.Study.Niches.Get(context.Background(), 1); n.UsualSieve != 0 {
		t.Error("what was deleted is usual still")
	}
	webtest.Holds(t, s.Get("/niches/1/sift"), "<b>3</b> left of 3")
	if status, body := post("/import", url.Values{"text": {file}}); status != 200 || !strings.Contains(body,
		"Saved “<bdi>Long nights</bdi>”") || !strings.Contains(body,
		"“<bdi>New site: easy and searched copy</bdi>”. It replaces") {
		t.Error(status, body)
	}
	if status, _ := post("/99/delete", nil); status != 404 {
		t.Errorf("what is not there is deleted: %d", status)
	}
}

// TestFilesOfSieves that cannot be used are told, and what can be is taken.
func TestFilesOfSieves(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/sift")
	const head = `{"format":"clever-niche-sieves","version":1,"sieves":[`
	filter := `{"by":"words","number":3}`
	for file, says := range map[string]string{
		"":                   "This is no file of sieves",
		"[1,2]":              "This is no file of sieves",
		`{"format":"other"}`: "its format is not",
		head + `]}`:          "no sieve in the file",

		`{"format":"clever-niche-sieves","version":3}`: "of version 3; this program reads up to version 2",

		head + `{"name":"a","filters":[{"by":"luck"}]}]}`:                                           "there is no criterion",
		head + `{"name":"a","filters":[{"by":"words","number":"3"}]}]}`:                             "Sieve 1 (“a”)",
		head + `{"name":"a","filters":[]}]}`:                                                        "at least one filter",
		head + `{"name":"a","filters":[{"by":"words","number":-3}]}]}`:                              "is not between 0",
		head + `{"filters":[` + filter + `]}]}`:                                                     "Give the sieve a name",
		head + `7]}`:                                                                                "Sieve 1",
		head + `{"name":"a","filters":[` + strings.Repeat(filter+",", 999) + filter + `]}]}`:        "1000 filters are more",
		head + `{"name":"a","filters":[{"by":"luck"}]},{"name":"<b>","filters":[` + filter + `]}]}`: "&lt;b&gt;",
		strings.Repeat(" ", 1<<20) + head:                                                           "larger than 1024 KB",
	} {
		status, _, body := s.Post("/niches/1/sieves/import", url.Values{"text": {file}}, false)
		if status != 200 && status != 422 || !strings.Contains(body, says) {
			t.Errorf("%.80s: %d, %q is not said", file, status, says)
		}
	}
	if list, err := s.Study.Sieves.All(context.Background()); err != nil || list[len(list)-1].Name != "<b>" ||
		list[len(list)-2].ID != 0 {
		t.Errorf("%v %v", list, err)
	}
}
