package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/topic"
	"cleverniche/standin"
)

// TestMeasures compares with scikit-learn 1.2 (roc_auc_score, brier_score_loss) and
// SciPy 1.10 (spearmanr) on the same numbers; the calibration error is by hand.
func TestMeasures(t *testing.T) {
	list := []forecast{{0.1, false}, {0.4, false}, {0.35, true}, {0.8, true}, {0.8, false}, {0.65, true},
		{0.05, false}, {0.9, true}}
	if got := auc(list); math.Abs(got-0.78125) > 1e-12 {
		t.Errorf("AUC %v", got)
	}
	if got := brier(list); math.Abs(got-0.1759375) > 1e-12 {
		t.Errorf("Brier %v", got)
	}
	// Bins hold 0.05; 0.1; 0.35; 0.4; 0.65; 0.8 twice, of which one came; 0.9.
	if got, want := calibrationError(list), (0.05+0.1+0.65+0.4+0.35+2*0.3+0.1)/8; math.Abs(got-want) > 1e-12 {
		t.Errorf("calibration error %v, by hand %v", got, want)
	}
	if got := spearman([]float64{1, 2, 3, 4, 5}, []float64{2, 1, 4, 3, 5}); math.Abs(got-0.8) > 1e-12 {
		t.Errorf("Spearman %v", got)
	}
	if !math.IsNaN(auc(list[:2])) {
		t.Error("there is an AUC of one class")
	}
}

// invented draws samples from a known model, each from the taste of its engine.
func invented(m difficulty.Model, n int) []Sample {
	rng := rand.New(rand.NewPCG(4, 5))
	signal := func() difficulty.Signals {
		return difficulty.Signals{Page: 90 * rng.Float64(), Site: 90 * rng.Float64(), Fit: 20 + 80*rng.Float64()}
	}
	own := byOwnTaste(m)
	out := make([]Sample, n)
	for i := range out {
		s := Sample{World: 1, Mine: signal(), Engine: standin.EngineNames[i%len(standin.EngineNames)]}
		for range 12 {
			s.Rivals = append(s.Rivals, signal())
		}
		u, sum := rng.Float64(), 0.0
		for k, p := range own(s).Distribution(field(s), m.Strength(s.Mine)) {
			if sum += p; u < sum && k < difficulty.Ranks {
				s.Position = k + 1
				break
			}
		}
		out[i] = s
	}
	return out
}

// TestFitFindsTheTruth: from outcomes drawn from known tastes the fit finds the weights of
// strength again, each taste asks what it does, and the forecasts are calibrated.
func TestFitFindsTheTruth(t *testing.T) {
	onWorlds(t)
	truth := difficulty.Model{Curve: 0.5, Weights: difficulty.Weights{Page: 0.3, Site: 0.2, Fit: 0.5}}
	for i, asks := range []float64{1, 4, -5} {
		taste := difficulty.EngineWeights{Name: fmt.Sprint("1.", i+1), Weight: 1. / 3, Tau: 5,
			Ten: difficulty.Weights{Page: 0.3, Site: 0.3, Fit: 0.5}}
		for j, above := range []float64{12, 7, 3, -2, -5, -9, -13, -18} {
			taste.Steps = append(taste.Steps, difficulty.Step{Rank: goals[j], Above: above + asks - 8})
		}
		truth.Engines = append(truth.Engines, taste)
	}
	samples := invented(truth, 6000)
	f, err := fit(samples, difficulty.Model{Curve: 0.5})
	if err != nil {
		t.Fatal(err)
	}
	m := f.model
	for name, d := range map[string]float64{"page": m.Weights.Page - 0.3, "site": m.Weights.Site - 0.2,
		"fit": m.Weights.Fit - 0.5} {
		if math.Abs(d) > 0.03 {
			t.Errorf("the weight of %s is off by %.3f", name, d)
		}
	}
	if m.Engines, err = tastes(samples, m, 1); err != nil {
		t.Fatal(err)
	}
	m = rounded(m)
	for i, taste := range m.Engines {
		alone, known := []float64{0, 0, 0}, []float64{0, 0, 0}
		alone[i], known[i] = 1, 1
		for _, k := range []int{1, 5, 10} {
			got := m.Weighed(alone).Needed(field(samples[0]), k)
			if want := truth.Weighed(known).Needed(field(samples[0]), k); taste.Name != truth.Engines[i].Name ||
				math.Abs(got-want) > 2 {
				t.Errorf("taste %s asks %.1f for the first %d, not %.1f", taste.Name, got, k, want)
			}
		}
	}
	own := byOwnTaste(m)
	var list []forecast
	for _, s := range invented(truth, 3000) {
		list = append(list, forecasts(own(s), []Sample{s}, difficulty.PageOne, nil)...)
	}
	if e := calibrationError(list); e > 0.03 {
		t.Errorf("calibration error %.3f", e)
	}
	if _, err := fit(nil, m); err == nil {
		t.Error("nothing can be fitted to nothing")
	}
	penalty, losses, err := bestPenalty(samples[:1500], m)
	if err != nil || len(losses) != len(penalties) || penalty == 0 {
		t.Errorf("penalty %v, %v, %v", penalty, losses, err)
	}
}

func TestThreshold(t *testing.T) {
	m := difficulty.Model{Curve: 1, Weights: difficulty.Weights{Fit: 1},
		Engines: []difficulty.EngineWeights{{Weight: 1, Tau: 5}}}
	try := func(fit float64, position int) Sample {
		return Sample{Mine: difficulty.Signals{Fit: fit}, Rivals: make([]difficulty.Signals, 10), Position: position}
	}
	// Tries that lie evenly around a reach have it in their middle.
	if got, ok := threshold(m, []Sample{try(80, 2), try(20, 30), try(60, 4), try(40, 0)}, 5); !ok ||
		math.Abs(got-50) > 0.11 {
		t.Errorf("the threshold is %v, %v", got, ok)
	}
	if got, ok := threshold(m, []Sample{try(30, 0), try(40, 3), try(50, 0), try(60, 2)}, 5); !ok ||
		math.Abs(got-45) > 0.11 {
		t.Errorf("with one surprise on either side the threshold is %v, %v", got, ok)
	}
	if _, ok := threshold(m, []Sample{try(10, 1), try(20, 3)}, 5); ok {
		t.Error("all got there, and there is a threshold")
	}
}

// TestForecastsOnAnotherWorld holds the constants that ship against a world that
// nothing was found or measured on. It is small, so its bounds are wide; the figures
// of docs/calibration.md are of many more outcomes.
func TestForecastsOnAnotherWorld(t *testing.T) {
	onWorlds(t)
	list, err := samples(31, 40, time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC), t.Logf)
	if err != nil {
		t.Fatal(err)
	}
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		got := forecasts(difficulty.Calibrated, under(list, serp.Checklist, links.LinkGain), k, nil)
		t.Logf("first %d: %d outcomes, AUC %.3f, calibration error %.3f", k, len(got), auc(got), calibrationError(got))
		if len(got) < 100 || auc(got) < 0.82 || calibrationError(got) > 0.13 {
			t.Errorf("first %d: %d outcomes, AUC %.3f, calibration error %.3f", k, len(got), auc(got), calibrationError(got))
		}
	}
}

// TestFitTopicsFindsTheTruth: ideas of a need share rare pages and words, neighbours
// common ones; the fit tells them apart, and groups as the needs are.
func TestFitTopicsFindsTheTruth(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 7))
	var l phrases
	for need := range 60 {
		for k := range 4 {
			idea := topic.Idea{Phrase: fmt.Sprintf("need %d wording %d", need, k), Searches: 1000 * rng.Float64(),
				Stems: []uint32{uint32(need), uint32(1000 + need/6), uint32(2000 + k)}}
			for _, place := range rng.Perm(8) {
				page := uint32(100*need + place)
				if place > 3 {
					page = uint32(100_000 + 10*(need/6) + place) // stands for six needs
				}
				idea.Results = append(idea.Results, page)
			}
			for _, stem := range []int{need, 2000, 2001, 2002, 2003} { // a need's titles mostly say it in all wordings
				if rng.IntN(5) > 0 {
					idea.Said = append(idea.Said, uint32(stem))
				}
			}
			l.ideas, l.needs = append(l.ideas, idea), append(l.needs, need)
		}
	}
	m, means, err := fitTopics([]phrases{l})
	if err != nil {
		t.Fatal(err)
	}
	if m.Pages <= 0 || m.Words <= 0 || m.Echoed+m.Apart <= 0 || len(means) != len(togethers) {
		t.Errorf("%+v, %v", m, means)
	}
	if a := l.agreement(m.Group(l.ideas, topic.Shared)); a < 0.95 {
		t.Errorf("adjusted Rand %.3f with %+v", a, m)
	}
	// By three shared pages alone the neighbours are one.
	if a := l.agreement(l.byLeads(3)); a > 0.5 {
		t.Errorf("by leads: adjusted Rand %.3f", a)
	}
}
