package web

import (
	"context"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"cleverniche/core/sieve"
)

// TestLabelsAndNotes with commas, emoji, HTML and writing from right to left are kept as
// typed, sifted by, exported, and can be undone.
func TestLabelsAndNotes(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nmoon map,400\nmars map,90\nsky\n")
	s.get("/niches/1/sift")
	odd := "later, maybe <b>🔭</b> שמים"
	status, h, body := s.post("/niches/1/bulk/label", url.Values{"id": {"1", "2"}, "label": {"  " + odd + " "}}, true)
	if status != 200 || !strings.Contains(body, "Labelled 2 ideas “later, maybe &lt;b&gt;🔭&lt;/b&gt; שמים”") ||
		!strings.Contains(h.Get("HX-Trigger"), "ideas-changed") {
		t.Fatal(status, body)
	}
	s.post("/niches/1/bulk/label", url.Values{"id": {"2"}, "label": {"to write"}}, true)
	by := url.Values{"label": {odd}}.Encode()
	body = s.get("/niches/1/sift?" + by)
	holds(t, body, "<b>2</b> left of 3", `selected>later, maybe &lt;b&gt;`, "<bdi>to write</bdi>")
	lacks(t, body, "<b>🔭")
	holds(t, s.get("/niches/1/sift?label=nowhere"), "<b>0</b> left of 3", "selected>nowhere")
	if _, _, body := s.post("/niches/1/bulk/label", url.Values{"all": {"left"}, "stage": {"sift"}, "label": {odd},
		"off": {"yes"}}, true); !strings.Contains(body, "Took from 2 ideas") {
		t.Error(body)
	}
	holds(t, s.get("/niches/1/sift?"+by), "<b>0</b> left of 3")
	for _, says := range []string{"Labelling 2 ideas was undone", "Labelling “mars map” was undone",
		"Labelling 2 ideas was undone"} {
		if _, _, body := s.post("/niches/1/undo", nil, true); !strings.Contains(body, says) {
			t.Errorf("%s: %s", says, body)
		}
	}
	lacks(t, s.get("/niches/1/sift"), "label-mark")
	s.post("/niches/1/bulk/label", url.Values{"id": {"2"}, "label": {"to write"}}, true)
	for label, says := range map[string]string{"": "Type a label", strings.Repeat("x", 41): "longer than 40",
		"\x1f": "Type a"} {
		status, _, body := s.post("/niches/1/bulk/label", url.Values{"id": {"1"}, "label": {label}}, true)
		if status != 422 || !strings.Contains(body, says) {
			t.Errorf("%q: %d %s", label, status, body)
		}
	}
	noted := url.Values{"note": {"ask <i>the</i> club\r\nfirst"}}
	if status, _, _ := s.post("/niches/1/ideas/1/note", noted, false); status != 303 {
		t.Errorf("a note: %d", status)
	}
	holds(t, s.get("/niches/1/ideas/1"), "ask &lt;i&gt;the&lt;/i&gt; club first</textarea>")
	holds(t, s.get("/niches/1/sift"), "has a note")
	s.post("/niches/1/ideas/1/note", url.Values{"note": {"other"}}, false)
	if _, _, body := s.post("/niches/1/undo", nil, true); !strings.Contains(body,
		"The note on “moon map” was undone") {
		t.Error(body)
	}
	holds(t, s.get("/niches/1/ideas/1"), "ask &lt;i&gt;the&lt;/i&gt; club first</textarea>")
	if status, _, body := s.post("/niches/1/ideas/1/note", url.Values{"note": {strings.Repeat("x", 2001)}},
		false); status != 422 || !strings.Contains(body, "2001 characters, more than 2000") {
		t.Errorf("a long note: %d", status)
	}
	holds(t, s.get("/niches/1/export.csv?show=all"), "to write", "first")
}

// TestSeveralAtOnce are decided on, copied, and undone together.
func TestSeveralAtOnce(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nmoon map,400\nmars map,90\n=sky,5\n")
	s.get("/niches/1/sift")
	if _, _, body := s.post("/niches/1/bulk", url.Values{"all": {"left"}, "stage": {"sift"}, "words": {"2"},
		"decision": {"keep"}}, true); !strings.Contains(body, "Kept 2 ideas") {
		t.Error(body)
	}
	if got := s.get("/niches/1/ids?stage=sift&words=1&sort=idea&begin=1&end=2"); got != "1 3" {
		t.Errorf("between two places stand %s", got)
	}
	for _, bad := range []string{"", "&begin=1", "&begin=-1&end=2", "&begin=2&end=1", "&begin=0&end=999999"} {
		status, _, body := s.do(httptest.NewRequest("GET", "/niches/1/ids?stage=sift"+bad, nil))
		if status != 422 {
			t.Errorf("%s: %d %s", bad, status, body)
		}
	}
	if _, _, body := s.post("/niches/1/lookup/estimate", url.Values{"all": {"left"}, "stage": {"sift"},
		"but": {"1", "999"}}, true); !strings.Contains(body, "2 ideas") {
		t.Errorf("all but one: %s", body)
	}
	b, _ := s.study.Ideas.Table(context.Background(), s.niche)
	if kept := b.Table.Count(sieve.OnlyDecided(sieve.Kept)); kept != 2 {
		t.Errorf("%d are kept", kept)
	}
	if _, _, body := s.post("/niches/1/undo", nil, true); !strings.Contains(body, "Keeping 2 ideas was undone") {
		t.Error(body)
	}
	status, h, body := s.post("/niches/1/bulk/copy", url.Values{"id": {"1", "3"}}, true)
	if status != 200 || !strings.HasPrefix(body, "phrase decision searches") || !strings.Contains(body, " moon map 400") ||
		strings.Contains(body, "mars") || !strings.HasPrefix(h.Get("Content-Type"), "text/tab-separated-values") {
		t.Errorf("%d %q", status, body)
	}
	for _, path := range []string{"", "/copy", "/label"} {
		status, _, body := s.post("/niches/1/bulk"+path, url.Values{"decision": {"drop"}, "label": {"x"}}, true)
		if status != 422 || !strings.Contains(body, "Choose ideas in the list first") {
			t.Errorf("%s: %d %s", path, status, body)
		}
	}
	status, _, body = s.post("/niches/1/lookup/estimate", url.Values{"id": {"1", "2"}, "what": {"dig"}}, true)
	if status != 200 || !strings.Contains(body, "Dig from 2 ideas: at most") {
		t.Errorf("%d %s", status, body)
	}
}

// TestColumnsOfChoice are remembered for the niche, in their order and width.
func TestColumnsOfChoice(t *testing.T) {
	s := open(t)
	s.add("phrase,searches,cpc\nmoon map,400,0.5\n")
	s.get("/niches/1/sift")
	if status, _, body := s.post("/niches/1/columns", url.Values{"column": {"ceiling", "searches:90", "difficulty",
		"first-visits"}}, true); status != 200 {
		t.Fatal(status, body)
	}
	body := s.get("/niches/1/sift")
	holds(t, body, `data-key="searches" data-width="90"`, "$200.00", `colspan="1"`)
	lacks(t, body, `data-key="cpc"`)
	if at := strings.Index(body, `data-key="ceiling"`); at < 0 || at > strings.Index(body, `data-key="searches"`) {
		t.Error("the order is another one")
	}
	holds(t, s.get("/niches/1/ideas/1"), "400 a month") // whatever the list shows
	if status, _, _ := s.post("/niches/1/columns", url.Values{"column": {"luck"}}, true); status != 422 {
		t.Errorf("a column that is none: %d", status)
	}
	s.post("/niches/1/columns", nil, true)
	holds(t, s.get("/niches/1/sift"), `data-key="cpc"`)
}

// TestTheMapAndTheChips tell of what is left.
func TestTheMapAndTheChips(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nbest moon map,400\nbest mars map,90\nmars rover toy,5000\nmoon\n")
	body := s.get("/niches/1/sift?view=map&words=2")
	holds(t, body, `<canvas id="map"`, "The map as a table", `name="view" value="map"`,
		`<td class="number">1</td>`, "<b>3</b> left of 4")
	points := s.get("/niches/1/points?stage=sift&words=2")
	holds(t, points, `"phrase":["mars rover toy","best moon map","best mars map"]`, `"difficulty":[-1,-1,-1]`)
	chips := s.get("/niches/1/chips?stage=sift")
	holds(t, chips, `data-value="mars"`, "2 ideas, 5,090 searches a month together", `data-key="shape" data-value="list"`)
	lacks(t, chips, `data-value="rover"`)
}
