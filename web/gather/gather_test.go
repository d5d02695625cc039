package gather_test

import (
	"html"
	"io"
	"mime/multipart"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

func TestGatherEstimate(t *testing.T) {
	{
		s := webtest.Open(t)
		s.Get("/niches/1/gather")
		_, _, body := s.Post("/niches/1/gather/estimate", url.Values{"seeds": {"moon"}}, true)
		webtest.Holds(t, body, "There is no source for suggestions yet.", `href="/guide/configuration"`)
	}
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o}, study.Options{})
	s.Get("/niches/1/gather")
	for seeds, want := range map[string]string{"": "", "moon\nmars\n🔭": "2 seeds: at most 56 lookups",
		"🔭": "No line is a usable seed"} {
		_, _, body := s.Post("/niches/1/gather/estimate", url.Values{"seeds": {seeds}, "way-letters": {"yes"}}, true)
		if !strings.Contains(body, want) || want == "" && strings.TrimSpace(body) != "" {
			t.Errorf("%q: %s", seeds, body)
		}
	}
}

func TestLettersAreAskedForWhenTicked(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}},
		study.Options{Options: ask.Options{Prices: map[ask.Question]int64{ask.Suggestions: 1000, ask.Demand: 10}}})
	s.Get("/niches/1/gather")
	// 100 phrases' demand figures are reckoned with each seed.
	for form, want := range map[string]string{"": "at most 2 lookups, $0.01", "way-letters": "at most 28 lookups, $0.03",
		"way-questions": "at most 16 lookups, $0.02"} {
		if _, _, body := s.Post("/niches/1/gather/estimate", url.Values{"seeds": {"moon"}, form: {"yes"}},
			true); !strings.Contains(body,
			want) {
			t.Errorf("%s: %s", form, body)
		}
	}
	s.Post("/niches/1/gather", url.Values{"seeds": {"moon"}}, false)
	if body := s.Wait(1); !strings.Contains(body, "2 lookups · $0.00102 · 2 new") &&
		!strings.Contains(body, "2 lookups") {
		t.Errorf("job: %s", body)
	}
	s.Post("/niches/1/gather", url.Values{"seeds": {"mars"}, "way-questions": {"yes"}}, false)
	if body := s.Wait(2); !strings.Contains(body, "16 lookups") {
		t.Errorf("job: %s", body)
	}
}

func TestImportForm(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/gather")
	var b strings.Builder
	form := multipart.NewWriter(&b)
	form.WriteField("csrf", s.Token)
	file, _ := form.CreateFormFile("file", "golden.csv")
	io.WriteString(file, "searches,phrase\n12,moon\nx,mars\n")
	form.Close()
	r := httptest.NewRequest("POST", "/niches/1/import", strings.NewReader(b.String()))
	r.Header.Set("Content-Type", form.FormDataContentType())
	status, head, _ := s.Do(r)
	preview := head.Get("Location")
	body := s.Get(preview)
	if status != 303 || !strings.Contains(body, "<b>1 line</b> can be used, 1 cannot") ||
		!strings.Contains(body, "searches: “x” is not a number") {
		t.Errorf("%d %s", status, body)
	}
	if sift := s.Get("/niches/1/sift?show=all"); strings.Contains(sift, "moon") {
		t.Error("something is imported before that was confirmed")
	}
	_, _, body = s.Post(preview, url.Values{"as": {"import"}, "column-0": {"note"}}, false)
	if !strings.Contains(body, "searches: 12") || !strings.Contains(body, "Check the rows once more") {
		t.Errorf("set otherwise: %s", body)
	}
	status, head, _ = s.Post(preview, url.Values{"as": {"import"}, "name": {"golden.csv"}}, false)
	if status != 303 || !strings.HasSuffix(head.Get("Location"), "/gather") {
		t.Errorf("%d %v", status, head)
	}
	if body := s.Wait(1); !strings.Contains(body, "Import “golden.csv”") {
		t.Errorf("the job: %s", body)
	}
	if sift := s.Get("/niches/1/sift?show=all"); !strings.Contains(sift, "moon") || !strings.Contains(sift, "mars") {
		t.Error("what was confirmed is not there")
	}
	// Columns that write numbers in two ways are no change of anything.
	_, head, _ = s.Post("/niches/1/import", url.Values{"list": {"phrase;searches;cpc\nvenus;1.000;0.35\n"}}, false)
	preview = head.Get("Location")
	status, head, _ = s.Post(preview, url.Values{"as": {"import"}, "name": {"pasted"}, "decimal": {","}}, false)
	if status != 303 || !strings.HasSuffix(head.Get("Location"), "/gather") {
		t.Errorf("what was shown is taken for a change: %d %v", status, head)
	}
	_, _, body = s.Post("/niches/1/import", url.Values{"list": {"x1,x2\n1,2\n3,4\n"}}, true)
	if strings.Contains(body, "can be used") {
		t.Errorf("a table nobody knows: %s", body)
	}
	status, _, body = s.Post("/niches/1/gather", url.Values{"seeds": {strings.Repeat("a", 10000)}, "csrf": {s.Token}},
		false)
	if status != 422 || !strings.Contains(body, "10000 characters long") || !strings.Contains(body, "aaaa") {
		t.Errorf("a seed of 10,000 characters: %d, kept %v", status, strings.Contains(body, "aaaa"))
	}
}

// TestAPreviewKeepsWhatWasRecognised: sent back as it is shown, each kind of file is imported as it was understood.
func TestAPreviewKeepsWhatWasRecognised(t *testing.T) {
	s := webtest.Open(t)
	for _, list := range []string{"phrase,searches,searches range,under floor,decision,season,trend,labels,note\n" +
		"moon map,10,1-20,no,kept,,,a,b\n", "#pr_pos\t#pr_val\t#host_rev\n1\t0.5\texample.a\n2\t0.1\texample.b\n",
		"Source URL,Target URL,Anchor,Rel\nhttp://a.example/,http://b.example/,x,ugc\n",
		"phrase,position,url,title\nmoon,1,http://a.example/,x\nmoon,2,http://b.example/,y\n"} {
		s.Get("/niches/1/gather")
		status, h, body := s.Post("/niches/1/import", url.Values{"list": {list}}, false)
		if status != 303 {
			t.Fatal(status, body)
		}
		at := h.Get("Location")
		v := url.Values{"as": {"import"}}
		page := s.Get(at)
		selects := regexp.MustCompile(`<select name="(column-\d+)".*?</select>`).FindAllStringSubmatch(page, -1)
		for _, one := range selects {
			chosen := regexp.MustCompile(`<option value="([^"]*)" selected>`).FindStringSubmatch(one[0])
			if chosen == nil {
				t.Fatalf("%.20s: %s has nothing chosen", list, one[1])
			}
			v.Set(one[1], html.UnescapeString(chosen[1]))
		}
		if status, h, body := s.Post(at, v, false); status != 303 || h.Get("Location") != "/niches/1/gather" {
			t.Errorf("%.20s: %d, %.300s", list, status, body)
		}
	}
}
