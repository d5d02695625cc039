package main

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
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

// invented are engines that are known: what each leans on is drawn around truth's prior, its results are in the order
// of Plackett and Luce, and where a page comes to is drawn from truth's form. Each is tried n times.
func invented(truth difficulty.Model, engines, n int, seed uint64) (out []Sample) {
	rng := rand.New(rand.NewPCG(seed, 5))
	signal := func() difficulty.Signals {
		return difficulty.Signals{Page: 90 * rng.Float64(), Site: 90 * rng.Float64(), Title: 100 * rng.Float64(),
			Text: 100 * rng.Float64(), Kind: 100 * rng.Float64()}
	}
	for world := range engines {
		l := truth.Prior
		for i := range l.Mean {
			_, deviation := truth.Prior.Of(i)
			l.Mean[i] += deviation * rng.NormFloat64()
			for j := range l.Cov[i] {
				l.Cov[i][j] *= 1e-6
			}
		}
		one := truth.Leaning(l, 1)
		for k := range n {
			s := Sample{World: world, Engine: standin.EngineNames[0], Phrase: fmt.Sprint(k), Ahead: make([]Seen,
				difficulty.Depth)}
			type page struct {
				difficulty.Signals
				at float64
			}
			var pages []page
			for range difficulty.Depth {
				x := signal()
				pages = append(pages, page{x, one.Strength(x) - math.Log(-math.Log(rng.Float64()))})
			}
			slices.SortFunc(pages, func(a, b page) int { return cmp.Compare(b.at, a.at) })
			for _, p := range pages {
				s.Rivals = append(s.Rivals, p.Signals)
			}
			s.Mine = signal()
			u, sum := rng.Float64(), 0.0
			for place, p := range one.Distribution(field(s), s.Mine) {
				if sum += p; u < sum && place < difficulty.Ranks {
					s.Position = place + 1
					break
				}
			}
			out = append(out, s)
		}
	}
	return out
}

// TestFitFindsTheTruth: from the results pages of known engines it is found what engines lean on and how much they
// differ, from outcomes how chances hang on it, and forecasts for engines that took no part are calibrated, the better
// the more of their pages are seen.
func TestFitFindsTheTruth(t *testing.T) {
	onWorlds(t)
	truth := difficulty.Calibrated
	truth.Unlinked, truth.Offset = 0, 0
	samples := invented(truth, 24, 120, 4)
	m := difficulty.Model{Curve: truth.Curve, WellMade: truth.WellMade, Made: truth.Made, Temper: 1, TenShow: 1}
	var err error
	if m.Prior, err = priorOf(m, shown(samples)); err != nil {
		t.Fatal(err)
	}
	for i, name := range difficulty.TraitNames {
		w, d := m.Prior.Of(i)
		if want, apart := truth.Prior.Of(i); math.Abs(w-want) > 3*apart/math.Sqrt(24)+0.15 || math.Abs(d-apart) > 0.6*apart {
			t.Errorf("%s counts %.2f ± %.2f, really %.2f ± %.2f", name, w, d, want, apart)
		}
	}
	if m, _, err = forms(samples, shown(samples), m, []int{30, everything}, true); err != nil {
		t.Fatal(err)
	}
	if d := math.Abs(m.Deep.Slope/truth.Deep.Slope - 1); d > 0.15 {
		t.Errorf("the slope is %v, really %v", m.Deep.Slope, truth.Deep.Slope)
	}
	for _, k := range []int{1, 5, 10} {
		f := field(samples[0])
		if got, want := m.Unlearnt().Needed(f, k), truth.Unlearnt().Needed(f, k); math.Abs(got-want) > 0.4 {
			t.Errorf("the first %d needs %.2f, really %.2f", k, got, want)
		}
	}
	others := invented(truth, 10, 150, 9)
	last := math.Inf(1)
	for _, n := range []int{0, 20, everything} {
		list := forecasts(learnt(m, shown(others), n), others, difficulty.PageOne, nil)
		if loss := logLoss(list); loss > last+0.002 {
			t.Errorf("after %d pages the loss is %.3f, before %.3f", n, loss, last)
		} else {
			last = loss
		}
		if e := calibrationError(list); e > 0.05 {
			t.Errorf("after %d pages the calibration error is %.3f", n, e)
		}
	}
	if _, err := priorOf(m, nil); err == nil {
		t.Error("no engines tell of others")
	}
	if _, _, _, err := formOf(nil, 5, nil, 0); err == nil {
		t.Error("nothing can be fitted to nothing")
	}
}

func TestThreshold(t *testing.T) {
	m := difficulty.Model{Curve: 1, Deep: difficulty.Form{Slope: 20}}.Leaning(titleAlone(), 1)
	try := func(title float64, position int) Sample {
		return Sample{Mine: difficulty.Signals{Site: 1, Title: title}, Ahead: make([]Seen, 10), Position: position}
	}
	// Tries that lie evenly around a strength have it in their middle.
	if got, ok := threshold(m, []Sample{try(80, 2), try(20, 30), try(60, 4), try(40, 0)}, 5); !ok ||
		math.Abs(got-m.Strength(try(50, 0).Mine)) > 0.01 {
		t.Errorf("the threshold is %v, %v", got, ok)
	}
	if got, ok := threshold(m, []Sample{try(30, 0), try(40, 3), try(50, 0), try(60, 2)}, 5); !ok ||
		math.Abs(got-m.Strength(try(45, 0).Mine)) > 0.01 {
		t.Errorf("with one surprise on either side the threshold is %v, %v", got, ok)
	}
	if _, ok := threshold(m, []Sample{try(10, 1), try(20, 3)}, 5); ok {
		t.Error("all got there, and there is a threshold")
	}
}

// titleAlone is an engine that leans on the title alone.
func titleAlone() (l difficulty.Leaning) {
	l.Mean[2] = 1
	for i := range difficulty.Traits {
		l.Cov[i][i] = 1e-9
	}
	return l
}

// TestSpreadOut: the worlds that are calibrated on lean all ways evenly, and none is measured on.
func TestSpreadOut(t *testing.T) {
	worlds := spreadOut(24)
	for dimension := range standin.Leanings(worlds[0]) {
		more := 0
		for _, w := range worlds {
			if standin.Leanings(w)[dimension] > 0 {
				more++
			}
		}
		if more < 8 || more > 16 {
			t.Errorf("of 24 worlds %d lean one way in leaning %d", more, dimension)
		}
	}
	if slices.Min(worlds) < firstCandidate || slices.Max(worlds) > lastCandidate ||
		len(slices.Compact(slices.Clone(worlds))) != 24 {
		t.Errorf("worlds %v", worlds)
	}
}

// TestForecastsOnAnotherWorld holds the constants that ship against a world that
// nothing was found or measured on. It is small, so its bounds are wide; the figures
// of docs/calibration.md are of many more outcomes.
func TestForecastsOnAnotherWorld(t *testing.T) {
	onWorlds(t)
	list, err := samples(41, 40, time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC), t.Logf)
	if err != nil {
		t.Fatal(err)
	}
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		set := under(list, serp.Checklist, links.LinkGain)
		got := forecasts(learnt(difficulty.Calibrated, shown(set), 30), set, k, nil)
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
