package standin

import (
	"encoding/csv"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
)

// sampleTrials are experiments of all sorts: sites, fits and links from none to
// many.
func sampleTrials(w *World, n int) []Experiment {
	rng := w.random("trials of a test")
	var sites []string
	for _, st := range w.siteList {
		if st.kind == nicheSite || st.kind == publisher {
			sites = append(sites, st.domain)
		}
	}
	out := make([]Experiment, n)
	for i := range out {
		need := rng.IntN(len(w.needs))
		out[i] = Experiment{Site: sites[rng.IntN(len(sites))], Need: &need, Fit: 30 + rng.IntN(70),
			Date: clock.Format("2006-01-02")}
		for range rng.IntN(4) * rng.IntN(8) {
			out[i].Links = append(out[i].Links, LabLink{From: sites[rng.IntN(len(sites))]})
		}
	}
	return out
}

// TestOutcomesVary: whether a new page reaches page one is decided by no engine
// beforehand, and better pages with more links reach it more often.
func TestOutcomesVary(t *testing.T) {
	onWorlds(t)
	w := grow(1)
	b := Batch{Trials: sampleTrials(w, 480)}
	if err := w.Prepare(&b); err != nil {
		t.Fatal(err)
	}
	for _, engine := range EngineNames {
		b.Engines = []string{engine}
		var fit, links, reached []float64
		for i, o := range w.Try(b) {
			if o.Error != "" {
				t.Fatal(o.Error)
			}
			yes := 0.0
			if at := o.Positions[0].Position; at > 0 && at <= 10 {
				yes = 1
			}
			reached = append(reached, yes)
			fit = append(fit, float64(b.Trials[i].Fit))
			links = append(links, float64(len(b.Trials[i].Links)))
		}
		share := 0.0
		for _, yes := range reached {
			share += yes / float64(len(reached))
		}
		byFit, byLinks := spearman(fit, reached), spearman(links, reached)
		t.Logf("%s: %.2f reach page one; correlation with fit %.2f, with links %.2f", engine, share, byFit, byLinks)
		if share < 0.15 || share > 0.92 || byFit < 0.05 || byLinks < 0.05 {
			t.Errorf("%s: %.2f reach page one; with fit %.2f, with links %.2f", engine, share, byFit, byLinks)
		}
	}
}

// ask sends a request to a world's handler and reads the JSON of the answer.
func ask(t *testing.T, h http.Handler, method, path, body string, v any) int {
	t.Helper()
	rec := httptest.NewRecorder()
	h.ServeHTTP(rec, httptest.NewRequest(method, "http://127.0.0.1"+path, strings.NewReader(body)))
	if v != nil {
		if err := json.Unmarshal(rec.Body.Bytes(), v); err != nil {
			t.Fatalf("%s %s: %s: %v", method, path, rec.Body, err)
		}
	}
	return rec.Code
}

// TestExperiment plays the whole loop: publish, wait, watch, withdraw.
func TestExperiment(t *testing.T) {
	onWorlds(t)
	w := lively(t)
	h := w.Handler(Options{})
	before := digest(t, w)
	var made published
	status := ask(t, h, "POST", "/lab/pages", `{"site":"nightporch.example","phrase":"how to clean a barlow lens","fit":90,
		"links":[{"from":"`+w.siteList[3].domain+`","rel":"ugc"}]}`, &made)
	if status != 201 || made.ID != 1 || !strings.HasPrefix(made.URL, "http://nightporch.example/") {
		t.Fatalf("status %d, %+v", status, made)
	}
	path := strings.TrimPrefix(made.URL, "http://nightporch.example")
	if got := body(t, w, "nightporch.example", path); !strings.Contains(got, "lean a Barlow Lens") {
		t.Errorf("the page says %.300s", got)
	}
	if !strings.Contains(body(t, w, "127.0.0.1", "/links/v1/page?url="+made.URL), w.siteList[3].domain) {
		t.Error("the link to it is not reported")
	}
	if !strings.Contains(body(t, w, "nightporch.example", "/sitemap.xml"), path) {
		t.Error("the sitemap does not list it")
	}
	var course []Position
	if ask(t, h, "GET", "/lab/pages/1/positions?weeks=20", "", &course); len(course) != 21*len(EngineNames) {
		t.Fatalf("%d positions", len(course))
	}
	first, last := 0, course[20].Position
	for _, at := range course[:20] {
		if first == 0 {
			first = at.Position
		}
	}
	if course[0].Position != 0 || last == 0 || first <= last {
		t.Errorf("it should not be found at once, and settle upwards: %+v", course[:21])
	}
	if w.Now() != clock {
		t.Error("looking ahead moved the clock")
	}
	if status := ask(t, h, "DELETE", "/lab/pages/1", "", nil); status != 204 || digest(t, w) != before {
		t.Errorf("withdrawing answers %d, and the world is as before: %v", status, digest(t, w) == before)
	}
	if r := get(t, w, "nightporch.example", path); r.StatusCode != 404 {
		t.Errorf("the withdrawn page answers %s", r.Status)
	}
}

func TestBatchLeavesNothing(t *testing.T) {
	onWorlds(t)
	w := lively(t)
	h := w.Handler(Options{})
	before := digest(t, w)
	data, err := json.Marshal(Batch{Trials: append(sampleTrials(w, 20), Experiment{Site: "nosuch.example"}),
		Weeks: []int{1, 8}, Pages: true})
	if err != nil {
		t.Fatal(err)
	}
	var got struct{ Outcomes []Outcome }
	if status := ask(t, h, "POST", "/lab/trials", string(data), &got); status != 200 || len(got.Outcomes) != 21 {
		t.Fatalf("status %d, %d outcomes", status, len(got.Outcomes))
	}
	for _, o := range got.Outcomes[:20] {
		if o.Error != "" || len(o.Positions) != 2*len(EngineNames) || !strings.Contains(o.HTML, "<h1") {
			t.Fatalf("%+v", o)
		}
	}
	if got.Outcomes[20].Error == "" {
		t.Error("a site that is not there has no error")
	}
	if digest(t, w) != before {
		t.Error("a batch has changed the world")
	}
	again := Batch{Trials: sampleTrials(w, 20), Weeks: []int{1, 8}}
	if err := w.Prepare(&again); err != nil {
		t.Fatal(err)
	}
	for i, o := range w.Try(again) {
		if o.Positions[1] != got.Outcomes[i].Positions[1] {
			t.Errorf("trial %d ends at %+v, and again at %+v", i, got.Outcomes[i].Positions[1], o.Positions[1])
		}
	}
}

func TestLabRefuses(t *testing.T) {
	h := lively(t).Handler(Options{})
	for _, c := range []struct {
		method, path, body string
		status             int
	}{
		{"POST", "/lab/pages", `{"site":"nosuch.example","phrase":"telescope"}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"zzzz qqqq"}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"telescope","fit":101}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"telescope","kind":"castle"}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"telescope","kind":"home"}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"telescope","date":"tomorrow"}`, 422},
		{"POST", "/lab/pages", `{"site":"nightporch.example","phrase":"telescope","links":[{"from":"x"}]}`, 422},
		{"POST", "/lab/pages", `{"sight":"nightporch.example"}`, 400},
		{"POST", "/lab/trials", `{"trials":[]}`, 422},
		{"POST", "/lab/trials", `{"trials":[{"site":"nightporch.example","phrase":"telescope"}],"engines":["steam"]}`, 422},
		{"POST", "/lab/trials", `{"trials":[{"site":"nightporch.example","phrase":"telescope"}],"weeks":[-1]}`, 422},
		{"GET", "/lab/pages/7/positions", "", 404},
		{"DELETE", "/lab/pages/7", "", 404},
		{"POST", "/lab/clock", `{"to":"soon"}`, 422},
		{"POST", "/lab/clock", `{"to":"2026-12-01","days":3}`, 422},
		{"POST", "/lab/clock", `{"to":"1999-12-01"}`, 422},
		{"POST", "/lab/faults", `{"where":"search","kind":"gremlins"}`, 422},
		{"POST", "/lab/faults", `{"where":"moon","kind":"slow"}`, 422},
		{"POST", "/lab/faults", `{"where":"search","kind":"slow","share":2}`, 422},
		{"DELETE", "/lab/faults/9", "", 404},
		{"GET", "/lab/report?site=nosuch.example", "", 404},
		{"GET", "/lab/report?site=nightporch.example&month=soon", "", 400},
	} {
		var p struct{ Detail string }
		if got := ask(t, h, c.method, c.path, c.body, &p); got != c.status || p.Detail == "" {
			t.Errorf("%s %s %s: status %d, %q; want %d", c.method, c.path, c.body, got, p.Detail, c.status)
		}
	}
}

// TestClock moves the clock as a client does.
func TestClock(t *testing.T) {
	h := lively(t).Handler(Options{})
	var at clockState
	if ask(t, h, "POST", "/lab/clock", `{"days":28}`, &at); at.Now != "2026-12-21" {
		t.Errorf("four weeks on it is %+v", at)
	}
	if ask(t, h, "POST", "/lab/clock", `{"to":"2027-02-01"}`, &at); at.Now != "2027-02-01" {
		t.Errorf("moved to a day it is %+v", at)
	}
	if ask(t, h, "GET", "/lab/clock", "", &at); at != (clockState{"2027-02-01", "2026-11-23"}) {
		t.Errorf("the clock says %+v", at)
	}
}

// TestClicksFallWithPosition: the mean rate of clicks falls from each place to the
// next (Craswell et al. 2008), and the first has several times what the tenth has.
func TestClicksFallWithPosition(t *testing.T) {
	w := grown()
	sum := make([]float64, 10)
	for i := 0; i < len(w.queryList); i += 101 {
		q := w.queryList[i]
		hits, _ := w.Engine("").Search(Ask{Text: q.text, At: clock})
		if len(hits) < 10 {
			continue
		}
		for k, rate := range clickRates(q.need, hits[:10]) {
			sum[k] += rate
		}
	}
	for k := 1; k < 10; k++ {
		if sum[k] >= sum[k-1] {
			t.Errorf("place %d is clicked more than place %d: %.3f", k+1, k, sum[k]/sum[k-1])
		}
	}
	if sum[0] < 4*sum[9] {
		t.Errorf("the first place has %.1f times the clicks of the tenth", sum[0]/sum[9])
	}
}

// TestReport: what a site got adds up, and no row is impossible.
func TestReport(t *testing.T) {
	w := grown()
	text := body(t, w, "127.0.0.1", "/lab/report?site=nightporch.example")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) < 10 || rows[0][0] != "query" {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	for _, row := range w.Report(w.Engine(""), "nightporch.example", clock.AddDate(0, -1, 0)) {
		if row.Clicks > row.Impressions || row.Position < 1 || row.Position > 100 ||
			!strings.HasPrefix(row.Page, "http://nightporch.example/") {
			t.Errorf("%+v", row)
		}
	}
}
