package standin

import "testing"

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
		out[i] = Experiment{Site: sites[rng.IntN(len(sites))], Need: &need, Fit: 30 + rng.IntN(70), Date: clock.Format("2006-01-02")}
		for range rng.IntN(4) * rng.IntN(8) {
			out[i].Links = append(out[i].Links, LabLink{From: sites[rng.IntN(len(sites))]})
		}
	}
	return out
}

// TestOutcomesVary: whether a new page reaches page one is decided by no engine
// beforehand, and better pages with more links reach it more often.
func TestOutcomesVary(t *testing.T) {
	w := grow(5)
	b := Batch{Trials: sampleTrials(w, 240)}
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
