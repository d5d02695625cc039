package difficulty

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// TestStandardDraws: their mean is 0 and their covariance the identity's, and they are spread as normal numbers are.
func TestStandardDraws(t *testing.T) {
	draws := standard()
	for i := range Traits + 1 {
		for j := range Traits + 1 {
			mean, product, want := 0.0, 0.0, 0.0
			for _, d := range draws {
				mean += d[i] / drawn
				product += d[i] * d[j] / drawn
			}
			if i == j {
				want = 1
			}
			if math.Abs(mean) > 1e-9 || math.Abs(product-want) > 1e-9 {
				t.Errorf("%d and %d: mean %v, product %v", i, j, mean, product)
			}
		}
		within := 0
		for _, d := range draws {
			if math.Abs(d[i]) < 1.2816 { // eight of ten normal numbers are
				within++
			}
		}
		if share := float64(within) / drawn; share < 0.7 || share > 0.9 {
			t.Errorf("trait %d: %v lie where eight of ten should", i, share)
		}
	}
}

// shows are results pages of an engine that leans on w: each the best of many by e^v and chance (Gumbel 1954), the
// order that Plackett and Luce have.
func shows(rng *rand.Rand, w vector, n int) (pages [][]Signals) {
	for range n {
		type page struct {
			s Signals
			u float64
		}
		var all []page
		for range 20 {
			s := Signals{100 * rng.Float64(), 100 * rng.Float64(), 100 * rng.Float64(), 100 * rng.Float64(),
				100 * rng.Float64(), 0}
			x, _ := plain.seen(s)
			all = append(all, page{s, w.dot(x) - math.Log(-math.Log(rng.Float64()))})
		}
		slices.SortFunc(all, func(a, b page) int { return int(math.Copysign(1, b.u-a.u)) })
		var one []Signals
		for _, p := range all {
			one = append(one, p.s)
		}
		pages = append(pages, one)
	}
	return pages
}

// learner is plain with a prior that says little.
func learner() Model {
	m := plain
	m.Temper, m.TenShow = 1, 1
	for i := range Traits {
		m.Prior.Mean[i] = 1
		m.Prior.Cov[i][i] = 4
	}
	return m
}

// TestLearns: what an engine leans on is found again from its results pages, as surely as is said, and the surer the
// more pages there are; whatever order they come in, and not at all from pages that say nothing.
func TestLearns(t *testing.T) {
	truth := vector{1.2, 3, 0.5, 2, 1}
	pages := shows(rand.New(rand.NewPCG(1, 2)), truth, 400)
	m := learner()
	last := math.Inf(1)
	for _, n := range []int{10, 50, 400} {
		got := m.Learn(pages[:n])
		sum := 0.0
		for i := range Traits {
			w, d := got.Leans.Of(i)
			if sum += d; math.Abs(w-truth[i]) > 3.5*d {
				t.Errorf("after %d pages %s counts %v ± %v, really %v", n, TraitNames[i], w, d, truth[i])
			}
		}
		if got.Pages != n || sum >= last {
			t.Errorf("after %d pages (%d told) the deviations sum to %v, before to %v", n, got.Pages, sum, last)
		}
		last = sum
	}
	back := slices.Clone(pages[:50])
	slices.Reverse(back)
	a, b := m.Learn(pages[:50]).Leans, m.Learn(back).Leans
	for i := range Traits {
		if math.Abs(a.Mean[i]-b.Mean[i]) > 1e-6 {
			t.Errorf("the order of the pages matters: %v, %v", a.Mean, b.Mean)
		}
	}
	if got := m.Learn([][]Signals{{}, {{1, 2, 3, 4, 5, 0}}}); got.Pages != 0 || got.Leans != m.Prior {
		t.Errorf("learnt from nothing: %+v", got.Leans)
	}
	half := m
	half.Temper = 0.25
	if _, d := half.Learn(pages).Leans.Of(1); math.Abs(d/last) < 0.1 {
		t.Errorf("what is half believed is as sure: %v", d)
	}
}

// TestTheTenAlone: where the ten alone are seen, weights show by a share of them, and are found all the same; and of
// those behind the ten only that they are behind tells something, not their order.
func TestTheTenAlone(t *testing.T) {
	m := learner()
	m.TenShow = 0.5
	pages := shows(rand.New(rand.NewPCG(11, 12)), vector{1, 2, 1, 1, 1}, 300)
	var ten, mixed [][]Signals
	for _, p := range pages {
		ten = append(ten, p[:FirstPage])
		behind := slices.Clone(p)
		slices.Reverse(behind[FirstPage:])
		mixed = append(mixed, behind)
	}
	whole := m
	whole.TenShow = 1
	half, full := m.Learn(ten).Leans, whole.Learn(ten).Leans
	for i := range Traits {
		if w, d := half.Of(i); math.Abs(w/2-full.Mean[i]) > 3*d {
			t.Errorf("%s counts %v where half of it shows, and %v", TraitNames[i], w, full.Mean[i])
		}
	}
	a, b := m.Learn(pages).Leans, m.Learn(mixed).Leans
	for i := range Traits {
		if math.Abs(a.Mean[i]-b.Mean[i]) > 1e-6 {
			t.Errorf("the order of those behind matters: %v, %v", a.Mean, b.Mean)
		}
	}
}

// TestTemper: what is hardly believed moves hardly anything.
func TestTemper(t *testing.T) {
	m := learner()
	pages := shows(rand.New(rand.NewPCG(13, 14)), vector{3, 3, 0, 3, 3}, 30)
	far := func(temper float64) (sum float64) {
		m.Temper = temper
		for i, w := range m.Learn(pages).Leans.Mean {
			sum += math.Abs(w - m.Prior.Mean[i])
		}
		return sum
	}
	m.Temper = 0.3
	l := m.Learn(pages).Leans
	loss := func(w vector) float64 {
		sum := -m.Temper * m.OrderLikelihood(Leaning{Mean: w}, pages, 1)
		for i := range Traits {
			sum += (w[i] - m.Prior.Mean[i]) * (w[i] - m.Prior.Mean[i]) / (2 * m.Prior.Cov[i][i])
		}
		return sum
	}
	for i := range Traits {
		for _, by := range []float64{-0.05, 0.05} {
			w := vector(l.Mean)
			if w[i] += by; loss(w) <= loss(l.Mean) {
				t.Errorf("%s would be likelier at %v than at %v", TraitNames[i], w[i], l.Mean[i])
			}
		}
	}
	if none, some, all := far(1e-6), far(0.3), far(1); none > 0.01 || some <= none || all <= some {
		t.Errorf("moved by %v, %v, %v", none, some, all)
	}
}

// TestSlopeAndCurvature compares with differences of the likelihood.
func TestSlopeAndCurvature(t *testing.T) {
	m := learner()
	lists := m.lists(shows(rand.New(rand.NewPCG(3, 4)), vector{1, 2, 1, 1, 1}, 5))
	lists[1].scale = 0.6 // as where the ten alone were seen
	at := vector{0.5, 1.5, 0.7, 1.1, 0.2}
	loss := func(w vector) (sum float64) {
		var s vector
		var c [Traits][Traits]float64
		for _, l := range lists {
			sum -= l.add(w, &s, &c)
		}
		return sum
	}
	var slope vector
	var curve [Traits][Traits]float64
	for _, l := range lists {
		l.add(at, &slope, &curve)
	}
	const h = 1e-4
	move := func(i int, by float64) vector { w := at; w[i] += by; return w }
	for i := range Traits {
		if by := (loss(move(i, h)) - loss(move(i, -h))) / (2 * h); math.Abs(by-slope[i]) > 1e-4 {
			t.Errorf("slope %d is %v, by differences %v", i, slope[i], by)
		}
		if by := (loss(move(i, h)) - 2*loss(at) + loss(move(i, -h))) / (h * h); math.Abs(by-curve[i][i]) > 1e-2 {
			t.Errorf("curvature %d is %v, by differences %v", i, curve[i][i], by)
		}
	}
}

// TestLaplace compares what is believed of one weight with the posterior itself, summed over a grid: a small case,
// where the others are known.
func TestLaplace(t *testing.T) {
	m := learner()
	for i := range Traits {
		m.Prior.Cov[i][i] = 1e-8
	}
	m.Prior.Cov[1][1] = 1
	pages := shows(rand.New(rand.NewPCG(5, 6)), vector{1, 2.5, 1, 1, 1}, 6)
	got := m.Learn(pages).Leans
	var sum, mean, square float64
	top := math.Inf(-1)
	density := func(x float64) float64 {
		l := m.Prior
		l.Mean[1] = x
		return m.OrderLikelihood(l, pages, 1) - (x-1)*(x-1)/2
	}
	for x := -3.0; x <= 8; x += 0.01 {
		top = math.Max(top, density(x))
	}
	for x := -3.0; x <= 8; x += 0.01 {
		p := math.Exp(density(x) - top)
		sum, mean, square = sum+p, mean+p*x, square+p*x*x
	}
	mean /= sum
	deviation := math.Sqrt(square/sum - mean*mean)
	if w, d := got.Of(1); math.Abs(w-mean) > 0.1*deviation || math.Abs(d/deviation-1) > 0.1 {
		t.Errorf("%v ± %v, by the grid %v ± %v", w, d, mean, deviation)
	}
}

// TestPlackettLuceWorths compares with worths that can be reckoned by hand: of three items, a comes first in 3 of 4
// orders and b before c in 3 of 4, so that (Hunter 2004, "MM algorithms", whose likelihood it is) the likeliest worths
// solve its equations, found here by its own fixed point.
func TestPlackettLuceWorths(t *testing.T) {
	orders := [][]int{{0, 1, 2}, {0, 1, 2}, {0, 2, 1}, {1, 0, 2}}
	// The fixed point: wins over the sums of 1 over what was left to choose from.
	worth := []float64{1, 1, 1}
	for range 5000 {
		wins, against := make([]float64, 3), make([]float64, 3)
		for _, o := range orders {
			for stage := range 2 {
				left := 0.0
				for _, i := range o[stage:] {
					left += worth[i]
				}
				wins[o[stage]]++
				for _, i := range o[stage:] {
					against[i] += 1 / left
				}
			}
		}
		for i := range worth {
			worth[i] = wins[i] / against[i]
		}
	}
	// Ours: items are told by traits, a by the title, b by the text, c by none.
	item := []Signals{{Title: 100}, {Text: 100}, {}}
	var pages [][]Signals
	for _, o := range orders {
		pages = append(pages, []Signals{item[o[0]], item[o[1]], item[o[2]]})
	}
	m := learner()
	for i := range Traits {
		m.Prior.Mean[i], m.Prior.Cov[i][i] = 0, 1e6
	}
	got := m.Learn(pages).Leans.Mean
	if a, b := math.Log(worth[0]/worth[2]), math.Log(worth[1]/worth[2]); math.Abs(got[2]-a) > 1e-3 ||
		math.Abs(got[3]-b) > 1e-3 {
		t.Errorf("worths %v and %v, by the fixed point %v and %v", got[2], got[3], a, b)
	}
}

// TestUnsound: a leaning that cannot be reckoned with leaves the prior.
func TestUnsound(t *testing.T) {
	for name, l := range map[string]Leaning{"nothing": {}, "no number": {Mean: vector{math.NaN()}},
		"negative": {Cov: [Traits][Traits]float64{{-1}}}} {
		if got := Calibrated.Leaning(l, 50); got.Pages != 0 || got.Leans != Calibrated.Prior || got.Draws() != drawn {
			t.Errorf("%s: %+v", name, got.Leans)
		}
	}
}

// TestShares: what counts more than usual is told so, once that is sure.
func TestShares(t *testing.T) {
	m := Calibrated
	if got := m.LeansOn(); m.Pages != 0 || len(got) < 20 {
		t.Errorf("%q", got)
	}
	l := m.Prior
	l.Mean[0] *= 4
	for i := range Traits {
		for j := range Traits {
			l.Cov[i][j] /= 100
		}
	}
	m = m.Leaning(l, 112)
	sum := 0.0
	for i, s := range m.Shares() {
		sum += s.Is
		if s.Low > s.Is || s.High < s.Is || (i == 0) != s.More() || s.More() && s.Less() {
			t.Errorf("%+v", s)
		}
	}
	if got := m.LeansOn(); math.Abs(sum-1) > 1e-9 ||
		got != "On this engine links to the page count more than usual, and site standing, the title, the text and "+
			"the kind of page less." {
		t.Errorf("%v, %q", sum, got)
	}
	if Learnt(1) != "learnt from 1 results page" || Learnt(112) != "learnt from 112 results pages" {
		t.Error(Learnt(1), Learnt(112))
	}
}

// TestEachPageNarrows: the range of a chance narrows as results pages come.
func TestEachPageNarrows(t *testing.T) {
	pages := shows(rand.New(rand.NewPCG(7, 8)), vector(Calibrated.Prior.Mean), 200)
	f := deep()
	width := func(n int) float64 {
		m := Calibrated.Learn(pages[:n])
		r := m.Range(f, m.Signals(Mine{SiteStanding: 20, Fit: WellMade}), TopFive)
		return r.High - r.Low
	}
	if none, some, many := width(0), width(20), width(200); some >= none || many >= some {
		t.Errorf("ranges are %v, %v, %v wide", none, some, many)
	}
}

func BenchmarkLearn200(b *testing.B) {
	pages := shows(rand.New(rand.NewPCG(9, 10)), vector(Calibrated.Prior.Mean), 200)
	for b.Loop() {
		Calibrated.Learn(pages)
	}
}
