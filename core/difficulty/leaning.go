package difficulty

import (
	"math"
	"slices"
	"sync"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Leaning is what an engine leans on: the weights of what can be seen of a page, with how sure that is.
type Leaning struct {
	Mean [Traits]float64         `json:"mean"`
	Cov  [Traits][Traits]float64 `json:"cov"`
}

func (l Leaning) mean() vector { return l.Mean }

// Of is the weight of a trait, and its standard deviation.
func (l Leaning) Of(trait int) (weight, deviation float64) {
	return l.Mean[trait], math.Sqrt(math.Max(0, l.Cov[trait][trait]))
}

func (l Leaning) matrix() *mat.SymDense {
	out := mat.NewSymDense(Traits, nil)
	for i := range Traits {
		for j := i; j < Traits; j++ {
			out.SetSym(i, j, l.Cov[i][j])
		}
	}
	return out
}

// Sound reports whether a leaning can be reckoned with: numbers, and a covariance that is one.
func (l Leaning) Sound() bool {
	for i := range Traits {
		if math.IsNaN(l.Mean[i]) || math.IsInf(l.Mean[i], 0) {
			return false
		}
		for j := range Traits {
			if math.IsNaN(l.Cov[i][j]) || math.IsInf(l.Cov[i][j], 0) || l.Cov[i][j] != l.Cov[j][i] {
				return false
			}
		}
	}
	var c mat.Cholesky
	return c.Factorize(l.matrix())
}

// draw is one way in which an engine may weigh what it sees.
type draw struct {
	w      vector
	offset float64
	weight float64 // how much it is believed; those of a model sum to 1
}

// drawn is how many draws stand for what is not known of an engine.
const drawn = 32

// primes are the bases of the draws' low-discrepancy sequence (Halton 1960), one for each trait and one for the
// offset.
var primes = [Traits + 1]int{2, 3, 5, 7, 11, 13}

// standard are draws of independent standard normal numbers, always the same: their mean is 0 and their covariance
// that of the identity, exactly, so that what is made of them has the mean and covariance that it should.
var standard = sync.OnceValue(func() [][Traits + 1]float64 {
	const n = Traits + 1
	rows := mat.NewDense(drawn, n, nil)
	for i := range drawn {
		for j, base := range primes {
			rows.Set(i, j, distuv.UnitNormal.Quantile(halton(i+1, base)))
		}
	}
	for j := range n {
		mean := 0.0
		for i := range drawn {
			mean += rows.At(i, j) / drawn
		}
		for i := range drawn {
			rows.Set(i, j, rows.At(i, j)-mean)
		}
	}
	var cov mat.SymDense
	cov.SymOuterK(1./drawn, rows.T())
	var c mat.Cholesky
	c.Factorize(&cov)
	var upper mat.TriDense
	c.UTo(&upper)
	var inverse mat.TriDense
	if err := inverse.InverseTri(&upper); err != nil {
		panic("the standard draws hang together: " + err.Error())
	}
	var white mat.Dense
	white.Mul(rows, &inverse)
	out := make([][n]float64, drawn)
	for i := range out {
		copy(out[i][:], white.RawRowView(i))
	}
	return out
})

// halton is number i of the van der Corput sequence of a base, between 0 and 1.
func halton(i, base int) (x float64) {
	for f := 1 / float64(base); i > 0; i, f = i/base, f/float64(base) {
		x += f * float64(i%base)
	}
	return x
}

// Leaning returns the model for an engine that leans so, as was learnt from so many results pages. One that is none
// leaves the prior.
func (m Model) Leaning(l Leaning, pages int) Model {
	if !l.Sound() {
		l, pages = m.Prior, 0
	}
	m.Leans, m.Pages, m.draws = l, pages, nil
	var c mat.Cholesky
	if !c.Factorize(l.matrix()) {
		return m
	}
	var lower mat.TriDense
	c.LTo(&lower)
	for _, z := range standard() {
		one := draw{w: l.Mean, offset: m.Offset * z[Traits], weight: 1. / drawn}
		for i := range Traits {
			for j := 0; j <= i; j++ {
				one.w[i] += lower.At(i, j) * z[j]
			}
		}
		m.draws = append(m.draws, one)
	}
	return m
}

// Unlearnt returns the model for an engine that has shown nothing yet.
func (m Model) Unlearnt() Model { return m.Leaning(m.Prior, 0) }

// Offsets are what stays unknown of an engine, by draw, in standard deviations: what Offset is multiplied by.
func (m Model) Offsets() (out []float64) {
	for _, z := range standard()[:len(m.draws)] {
		out = append(out, z[Traits])
	}
	return out
}

// Draws is how many draws the model has, of equal weight until Weighed.
func (m Model) Draws() int { return len(m.draws) }

// Weighed is the model with other weights of its draws, in their order: what was seen of
// a user's own pages makes some of them likelier. The weights need not sum to 1.
func (m Model) Weighed(weights []float64) Model {
	sum := 0.0
	for _, w := range weights {
		sum += w
	}
	if len(weights) != len(m.draws) || sum <= 0 {
		return m
	}
	m.draws = slices.Clone(m.draws)
	for i := range m.draws {
		m.draws[i].weight = weights[i] / sum
	}
	return m
}

// Learn returns the model with what the engine leans on as its results pages tell: their pages, in the order shown.
// The order is that of Plackett and Luce (Luce 1959; Plackett 1975): the first is chosen from all with a chance that
// grows with e^v, the second from the rest, and so on for the ten; those behind them are in no order (Marden 1995,
// "Analyzing and Modeling Rank Data"). What is believed is the prior of the calibration and these, by Laplace's
// approximation around the likeliest weights. The same pages stand in many results, so that they tell less than
// their number: their likelihood counts Temper (a power posterior; Grünwald 2012, "The safe Bayesian").
// Where the ten alone were looked at, weights show less, by TenShow. Pages of fewer than two results say nothing.
func (m Model) Learn(pages [][]Signals) Model {
	lists := m.lists(pages)
	l, ok := posterior(lists, m.Prior, m.Temper)
	if !ok || len(lists) == 0 {
		return m.Unlearnt()
	}
	return m.Leaning(l, len(lists))
}

// OrderLikelihood is the log-likelihood of the order of results pages by the mean of a leaning, whose strengths show by
// a share.
func (m Model) OrderLikelihood(l Leaning, pages [][]Signals, share float64) (sum float64) {
	for _, one := range m.lists(pages) {
		one.scale = share
		var slope vector
		var curve [Traits][Traits]float64
		sum += one.add(l.Mean, &slope, &curve)
	}
	return sum
}

// lists are results pages as the likelihood sees them.
func (m Model) lists(pages [][]Signals) (out []list) {
	for _, p := range pages {
		if len(p) < 2 {
			continue
		}
		l := list{scale: 1}
		if len(p) <= FirstPage {
			l.scale = m.TenShow
		}
		for _, s := range p[:min(Depth, len(p))] {
			x, lacks := m.seen(s)
			l.x, l.lacks = append(l.x, x), append(l.lacks, lacks)
		}
		out = append(out, l)
	}
	return out
}

// list is one results page.
type list struct {
	x     []vector
	lacks []float64
	scale float64 // of strengths
}

// newton is how many steps are taken at most to the likeliest weights.
const newton = 50

// enough is the share of a loss that need not be gained any more.
const enough = 1e-13

// posterior is what is believed of weights after lists; ok is false where that cannot be reckoned.
func posterior(lists []list, prior Leaning, temper float64) (out Leaning, ok bool) {
	var c mat.Cholesky
	if !c.Factorize(prior.matrix()) {
		return out, false
	}
	precision := mat.NewSymDense(Traits, nil)
	if err := c.InverseTo(precision); err != nil {
		return out, false
	}
	w := vector(prior.Mean)
	at := bend(lists, w, prior, precision, temper)
	for range newton {
		var step mat.VecDense
		if !c.Factorize(at.curvature) || c.SolveVecTo(&step, at.slope) != nil {
			return out, false
		}
		if mat.Dot(at.slope, &step) < enough*(1+math.Abs(at.loss)) {
			break // twice what could still be gained
		}
		length := 1.0
		for ; length > 1e-6; length /= 2 { // the loss is convex, so that half a step is enough in the end
			then := w
			for i := range Traits {
				then[i] -= length * step.AtVec(i)
			}
			if next := bend(lists, then, prior, precision, temper); next.loss <= at.loss+1e-12 {
				w, at = then, next
				break
			}
		}
		if length <= 1e-6 {
			break
		}
	}
	out.Mean = w
	var cov mat.SymDense
	if !c.Factorize(at.curvature) || c.InverseTo(&cov) != nil {
		return out, false
	}
	for i := range Traits {
		for j := range Traits {
			out.Cov[i][j] = cov.At(i, j)
		}
	}
	return out, out.Sound()
}

// bent is the loss of weights (minus the logarithm of what they make of the lists and of the prior), its slope and its
// curvature.
type bent struct {
	loss      float64
	slope     *mat.VecDense
	curvature *mat.SymDense
}

func bend(lists []list, w vector, prior Leaning, precision *mat.SymDense, temper float64) bent {
	var loss float64
	var slope vector
	var curve [Traits][Traits]float64
	for _, l := range lists {
		loss -= l.add(w, &slope, &curve)
	}
	out := bent{temper * loss, mat.NewVecDense(Traits, nil), mat.NewSymDense(Traits, nil)}
	for i := range Traits {
		s := temper * slope[i]
		for j := range Traits {
			off := w[j] - prior.Mean[j]
			s += precision.At(i, j) * off
			out.loss += (w[i] - prior.Mean[i]) * precision.At(i, j) * off / 2
			if j >= i {
				out.curvature.SetSym(i, j, temper*curve[i][j]+precision.At(i, j))
			}
		}
		out.slope.SetVec(i, s)
	}
	return out
}

// add returns the log-likelihood of a list's order, and adds the slope and curvature of minus that.
func (l list) add(w vector, slope *vector, curve *[Traits][Traits]float64) (likelihood float64) {
	n := len(l.x)
	v := make([]float64, n)
	most := math.Inf(-1)
	for i, x := range l.x {
		v[i] = l.scale * (w.dot(x) - l.lacks[i])
		most = math.Max(most, v[i])
	}
	// From behind: the sums over those that are left to choose from.
	var sum float64
	var first vector
	var second [Traits][Traits]float64
	for i := n - 1; i >= 0; i-- {
		e, x := math.Exp(v[i]-most), l.x[i]
		sum += e
		for a := range Traits {
			first[a] += e * x[a]
			for b := a; b < Traits; b++ {
				second[a][b] += e * x[a] * x[b]
			}
		}
		if i >= FirstPage || i == n-1 {
			continue
		}
		likelihood += v[i] - most - math.Log(sum)
		for a := range Traits {
			mean := first[a] / sum
			slope[a] -= l.scale * (x[a] - mean)
			for b := a; b < Traits; b++ {
				curve[a][b] += l.scale * l.scale * (second[a][b]/sum - mean*first[b]/sum)
			}
		}
	}
	return likelihood
}
