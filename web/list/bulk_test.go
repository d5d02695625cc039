package list_test

import (
	"context"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/web/webtest"
)

// TestLabelsAndNotes with commas, emoji, HTML and writing from right to left are kept as
// typed, sifted by, exported, and can be undone.
func TestLabelsAndNotes(t *testing.T) {
	s := webtest.Open(t)
	s.Add("phrase,searches\nmoon map,400\nmars map,90\nsky\n")
	s.Get("/niches/1/sift")
	odd := "later, maybe <b>🔭</b> שמים"
	status, h, body := s.Post("/niches/1/bulk/label", url.Values{"id": {"1", "2"}, "label": {"  " + odd + " "}}, true)
	if status != 200 || !strings.Contains(body, "Labelled 2 ideas “later, maybe &lt;b&gt;🔭&lt;/b&gt; שמים”") ||
		!strings.Contains(h.Get("HX-Trigger"), "ideas-changed") {
		t.Fatal(status, body)
	}
	s.Post("/niches/1/bulk/label", url.Values{"id": {"2"}, "label": {"to write"}}, true)
	by := url.Values{"label": {odd}}.Encode()
	body = s.Get("/niches/1/sift?" + by)
	webtest.Holds(t, body, "<b>2</b> left of 3", `selected>later, maybe &lt;b&gt;`, "<bdi>to write</bdi>")
	webtest.Lacks(t, body, "<b>🔭")
	webtest.Holds(t, s.Get("/niches/1/sift?label=nowhere"), "<b>0</b> left of 3", "selected>nowhere")
	if _, _, body := s.Post("/niches/1/bulk/label", url.Values{"all": {"left"}, "stage": {"sift"}, "label": {odd},
		"off": {"yes"}}, true); !strings.Contains(body, "Removed from 2 ideas") {
		t.Error(body)
	}
	webtest.Holds(t, s.Get("/niches/1/sift?"+by), "<b>0</b> left of 3")
	for _, says := range []string{"Labelling 2 ideas was undone", "Labelling “mars map” was undone",
		"Labelling 2 ideas was undone"} {
		if _, _, body := s.Post("/niches/1/undo", nil, true); !strings.Contains(body, says) {
			t.Errorf("%s: %s", says, body)
		}
	}
	webtest.Lacks(t, s.Get("/niches/1/sift"), "label-mark")
	s.Post("/niches/1/bulk/label", url.Values{"id": {"2"}, "label": {"to write"}}, true)
	for label, says := range map[string]string{"": "Type a label", strings.Repeat("x", 41): "longer than 40",
		"\x1f": "Type a"} {
		status, _, body := s.Post("/niches/1/bulk/label", url.Values{"id": {"1"}, "label": {label}}, true)
		if status != 422 || !strings.Contains(body, says) {
			t.Errorf("%q: %d %s", label, status, body)
		}
	}
	noted := url.Values{"note": {"ask <i>the</i> club\r\nfirst"}}
	if status, _, _ := s.Post("/niches/1/ideas/1/note", noted, false); status != 303 {
		t.Errorf("a note: %d", status)
	}
	webtest.Holds(t, s.Get("/niches/1/ideas/1"), "ask &lt;i&gt;the&lt;/i&gt; club first</textarea>")
	webtest.Holds(t, s.Get("/niches/1/sift"), "has a note")
	s.Post("/niches/1/ideas/1/note", url.Values{"note": {"other"}}, false)
	if _, _, body := s.Post("/niches/1/undo", nil, true); !strings.Contains(body,
		"The note on “moon map” was undone") {
		t.Error(body)
	}
	webtest.Holds(t, s.Get("/niches/1/ideas/1"), "ask &lt;i&gt;the&lt;/i&gt; club first</textarea>")
	if status, _, body := s.Post("/niches/1/ideas/1/note", url.Values{"note": {strings.Repeat("x", 2001)}},
		false); status != 422 || !strings.Contains(body, "2001 characters, more than 2000") {
		t.Errorf("a long note: %d", status)
	}
	webtest.Holds(t, s.Get("/niches/1/export.csv?show=all"), "to write", "first")
}

// TestSeveralAtOnce are decided on, copied, and undone together.
func TestSeveralAtOnce(t *testing.T) {
	s := webtest.Asked(t)
	s.Add("phrase,searches\nmoon map,400\nmars map,90\n=sky,5\n")
	s.Get("/niches/1/sift")
	if _, _, body := s.Post("/niches/1/bulk", url.Values{"all": {"left"}, "stage": {"sift"}, "words": {"2"},
		"decision": {"keep"}}, true); !strings.Contains(body, "Kept 2 ideas") {
		t.Error(body)
	}
	if got := s.Get("/niches/1/ids?stage=sift&words=1&sort=idea&begin=1&end=2"); got != "1 3" {
		t.Errorf("between two places stand %s", got)
	}
	for _, bad := range []string{"", "&begin=1", "&begin=-1&end=2", "&begin=2&end=1", "&begin=0&end=999999"} {
		status, _, body := s.Do(httptest.NewRequest("GET", "/niches/1/ids?stage=sift"+bad, nil))
		if status != 422 {
			t.Errorf("%s: %d %s", bad, status, body)
		}
	}
	if _, _, body := s.Post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"},
		"but": {"1", "999"}}, true); !strings.Contains(body, "2 ideas") {
		t.Errorf("all but one: %s", body)
	}
	b, _ := s.Study.Ideas.Table(context.Background(), s.Niche)
	if kept := b.Table.Count(sieve.OnlyDecided(sieve.Kept)); kept != 2 {
		t.Errorf("%d are kept", kept)
	}
	if _, _, body := s.Post("/niches/1/undo", nil, true); !strings.Contains(body, "Keeping 2 ideas was undone") {
		t.Error(body)
	}
	status, h, body := s.Post("/niches/1/bulk/copy", url.Values{"id": {"1", "3"}}, true)
	if status != 200 || !strings.HasPrefix(body, "phrase decision searches") || !strings.Contains(body, " moon map 400") ||
		strings.Contains(body, "mars") || !strings.HasPrefix(h.Get("Content-Type"), "text/tab-separated-values") {
		t.Errorf("%d %q", status, body)
	}
	for _, path := range []string{"", "/copy", "/label"} {
		status, _, body := s.Post("/niches/1/bulk"+path, url.Values{"decision": {"drop"}, "label": {"x"}}, true)
		if status != 422 || !strings.Contains(body, "Select ideas in the list first") {
			t.Errorf("%s: %d %s", path, status, body)
		}
	}
	status, _, body = s.Post("/niches/1/lookup/estimate", url.Values{"id": {"1", "2"}, "what": {"dig"}}, true)
	if status != 200 || !strings.Contains(body, "Gather from 2 ideas: at most") {
		t.Errorf("%d %s", status, body)
	}
}
