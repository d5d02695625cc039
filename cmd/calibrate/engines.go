package main

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/standin"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize"
)

// engine names the engine of a world, by number: nothing in the core knows an engine by name.
func (s Sample) engine() string {
	return fmt.Sprintf("%d.%d", s.World, 1+slices.Index(standin.EngineNames, s.Engine))
}

func engineNames(samples []Sample) []string {
	seen := map[string]bool{}
	for _, s := range samples {
		seen[s.engine()] = true
	}
	return slices.Sorted(maps.Keys(seen))
}

// shown are the results pages of each engine, one for each phrase that was tried on it.
func shown(samples []Sample) map[string][][]difficulty.Signals {
	out := map[string][][]difficulty.Signals{}
	seen := map[string]bool{}
	for _, s := range samples {
		if key := s.engine() + "|" + s.Phrase; full(s) && !seen[key] {
			seen[key] = true
			out[s.engine()] = append(out[s.engine()], s.Rivals)
		}
	}
	return out
}

// everything is more results pages than any engine has shown.
const everything = math.MaxInt

// drawnPages are n results pages of each engine, drawn.
func drawnPages(all map[string][][]difficulty.Signals, n int) map[string][][]difficulty.Signals {
	out := map[string][][]difficulty.Signals{}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		list := slices.Clone(all[name])
		rng := rand.New(rand.NewPCG(uint64(len(list)), uint64(len(name))))
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		out[name] = list[:min(n, len(list))]
	}
	return out
}

// learnt is a model for each engine, with what n of its results pages tell.
func learnt(m difficulty.Model, all map[string][][]difficulty.Signals, n int) models {
	of := map[string]difficulty.Model{}
	for name, pages := range drawnPages(all, n) {
		of[name] = m.Learn(pages)
	}
	return func(s Sample) difficulty.Model {
		if one, known := of[s.engine()]; known {
			return one
		}
		return m.Unlearnt()
	}
}

// cut are results pages as one sees them who looks at the ten alone.
func cut(all map[string][][]difficulty.Signals) map[string][][]difficulty.Signals {
	out := map[string][][]difficulty.Signals{}
	for name, list := range all {
		for _, p := range list {
			out[name] = append(out[name], p[:min(difficulty.FirstPage, len(p))])
		}
	}
	return out
}

// vague is a prior that says nothing.
func vague() (l difficulty.Leaning) {
	for i := range difficulty.Traits {
		l.Cov[i][i] = 1000
	}
	return l
}

// flat is a model that believes what the pages say, and nothing else.
func flat(m difficulty.Model) difficulty.Model {
	m.Prior, m.Temper, m.TenShow = vague(), 1, 1
	return m
}

// priorOf is what engines lean on: the mean of what each was found to lean on by all its pages, and their covariance
// less the noise of these estimates, with no direction less than a hair wide.
func priorOf(m difficulty.Model, all map[string][][]difficulty.Signals) (difficulty.Leaning, error) {
	const t = difficulty.Traits
	var prior difficulty.Leaning
	var each []difficulty.Leaning
	for _, name := range slices.Sorted(maps.Keys(all)) {
		each = append(each, flat(m).Learn(all[name]).Leans)
	}
	n := float64(len(each))
	if n < 2 {
		return prior, fmt.Errorf("%v engines tell nothing of others", n)
	}
	for _, l := range each {
		for i := range t {
			prior.Mean[i] += l.Mean[i] / n
		}
	}
	cov := mat.NewSymDense(t, nil)
	for _, l := range each {
		for i := range t {
			for j := i; j < t; j++ {
				cov.SetSym(i, j, cov.At(i, j)+(l.Mean[i]-prior.Mean[i])*(l.Mean[j]-prior.Mean[j])/(n-1)-l.Cov[i][j]/n)
			}
		}
	}
	var eigen mat.EigenSym
	if !eigen.Factorize(cov, true) {
		return prior, fmt.Errorf("what engines lean on has no axes")
	}
	var axes mat.Dense
	eigen.VectorsTo(&axes)
	for k, value := range eigen.Values(nil) {
		value = math.Max(value, leastVariance)
		for i := range t {
			for j := range t {
				prior.Cov[i][j] += value * axes.At(i, k) * axes.At(j, k)
			}
		}
	}
	for i := range t {
		for j := range i { // as equal as Sound wants it
			prior.Cov[j][i] = prior.Cov[i][j]
		}
	}
	return prior, nil
}

// leastVariance is the least of what engines lean on, in any direction (ours).
const leastVariance = 1e-3

// tenShow is the share of its weights that an engine's first ten show when those behind them are not seen: with which
// the ten's order is likeliest, all engines together.
func tenShow(m difficulty.Model, all map[string][][]difficulty.Signals) float64 {
	ten := cut(all)
	best, least := 1.0, math.Inf(1)
	for share := 0.3; share <= 1.2; share += 0.01 {
		loss := 0.0
		for name, pages := range all {
			w := flat(m).Learn(pages).Leans
			loss -= m.OrderLikelihood(w, ten[name], share)
		}
		if loss < least {
			least, best = loss, share
		}
	}
	return math.Round(100*best) / 100
}

// pagesSeen are the numbers of results pages that are learnt from before a form is fitted, and measured.
var pagesSeen = []int{0, 10, 30, 100, everything}

// terms is a sample as the draws of a model see it: the columns of each draw, one after the other.
type terms struct {
	columns []float64
	sample  Sample
}

// formOf finds how chances hang on strengths, with offsets of a standard deviation: the outcomes are likeliest where
// each chance is the mean over the draws. The ten's mean, that of all, the spread and, where it is asked for, a site
// that nobody links to, are columns beside the strength of my page: c of them for each draw. What is in list is
// changed.
func formOf(list []terms, c int, offsets []float64, deviation float64) (weights, intercepts []float64, loss float64,
	err error) {
	if len(list) == 0 {
		return nil, nil, 0, fmt.Errorf("no sample has ten results")
	}
	centre, spread := make([]float64, c), make([]float64, c)
	n := 0.0
	for _, t := range list {
		for i, v := range t.columns {
			centre[i%c] += v
			spread[i%c] += v * v
		}
		n += float64(len(t.columns) / c)
	}
	for i := range c {
		centre[i] /= n
		spread[i] = math.Max(1e-9, math.Sqrt(math.Max(0, spread[i]/n-centre[i]*centre[i])))
	}
	for _, t := range list {
		for i := range t.columns {
			t.columns[i] = (t.columns[i] - centre[i%c]) / spread[i%c]
		}
	}
	f := formFit{list, c, offsets, deviation}
	res, err := optimize.Minimize(optimize.Problem{Func: func(x []float64) float64 { return f.loss(x, nil) },
		Grad: func(grad, x []float64) { f.loss(x, grad) }}, make([]float64, c+len(goals)),
		&optimize.Settings{GradientThreshold: 1e-5}, &optimize.LBFGS{})
	if err != nil && res == nil {
		return nil, nil, 0, err
	}
	shift := 0.0
	for i, w := range res.X[:c] {
		weights = append(weights, w/spread[i])
		shift += w / spread[i] * centre[i]
	}
	for _, v := range res.X[c:] {
		intercepts = append(intercepts, v-shift)
	}
	return weights, intercepts, res.F, nil
}

// formFit is samples whose columns were centred and divided by their spread.
type formFit struct {
	list      []terms
	c         int // columns
	offsets   []float64
	deviation float64
}

// loss is the mean negative log-likelihood of a sample over all goals, with a tiny penalty; its gradient is put into
// grad, where that is asked for.
func (f formFit) loss(x, grad []float64) float64 {
	const workers = 2
	type part struct {
		loss float64
		grad []float64
	}
	parts := make(chan part, workers)
	for w := range workers {
		go func() {
			p := part{grad: make([]float64, len(x))}
			chances, slopes := make([]float64, len(f.offsets)), make([]float64, len(f.offsets))
			for i := w; i < len(f.list); i += workers {
				p.loss += f.one(f.list[i], x, p.grad, chances, slopes, grad != nil)
			}
			parts <- p
		}()
	}
	n, loss := float64(len(f.list)), 0.0
	clear(grad)
	for range workers {
		p := <-parts
		loss += p.loss / n
		for i := range grad {
			grad[i] += p.grad[i] / n
		}
	}
	const penalty = 1e-4
	for i, v := range x[:f.c] {
		loss += penalty * v * v / 2
		if grad != nil {
			grad[i] += penalty * v
		}
	}
	return loss
}

// one is the loss of a sample; its gradient is added where that is asked for. chances and slopes are room for the
// draws.
func (f formFit) one(t terms, x, grad, chances, slopes []float64, wanted bool) (loss float64) {
	n := float64(len(f.offsets))
	clear(slopes)
	for j, k := range goals {
		mean := 0.0
		for d := range f.offsets {
			b := f.deviation*f.offsets[d] + x[f.c+j]
			for i, v := range t.columns[d*f.c : (d+1)*f.c] {
				b += x[i] * v
			}
			chances[d] = 1 / (1 + math.Exp(-b))
			mean += chances[d] / n
		}
		mean = math.Min(math.Max(mean, 1e-9), 1-1e-9)
		sign := 1 / (1 - mean)
		if reached(t.sample, k) {
			loss -= math.Log(mean)
			sign = -1 / mean
		} else {
			loss -= math.Log(1 - mean)
		}
		if !wanted {
			continue
		}
		for d, p := range chances {
			g := sign * p * (1 - p) / n
			grad[f.c+j] += g
			slopes[d] += g
		}
	}
	if wanted {
		for d, g := range slopes {
			for i, v := range t.columns[d*f.c : (d+1)*f.c] {
				grad[i] += g * v
			}
		}
	}
	return loss
}

// termsOf are samples as models see them, whose results were looked at so deep.
func termsOf(samples []Sample, m models, deep, unlinked bool) (out []terms) {
	for _, s := range samples {
		if !full(s) || deep && len(s.Rivals) <= difficulty.FirstPage {
			continue
		}
		f := field(s)
		if !deep {
			f.Rivals = f.Rivals[:difficulty.FirstPage]
		}
		one := m(s)
		mine := one.Strengths(s.Mine)
		t := terms{sample: s}
		for d, x := range one.Terms(f) {
			t.columns = append(t.columns, mine[d], x.Ten, x.Spread)
			if deep {
				t.columns = append(t.columns, x.All)
			}
			if unlinked {
				t.columns = append(t.columns, zeroOf(s))
			}
		}
		out = append(out, t)
	}
	return out
}

// formFrom is the form of weights and intercepts as termsOf has their columns.
func formFrom(weights, intercepts []float64, deep bool) difficulty.Form {
	f := difficulty.Form{Slope: weights[0], Front: -weights[1], Spread: weights[2]}
	if deep {
		f.All = -weights[3]
	}
	above := math.Inf(1)
	for j, k := range goals {
		above = math.Min(above, -intercepts[j]) // a later rank needs no more
		f.Steps = append(f.Steps, difficulty.Step{Rank: k, Above: above})
	}
	return f
}

// What is tried for how much of what pages tell is believed, and for what stays unknown of an engine.
var (
	tempers = []float64{1, 0.5, 0.3, 0.2, 0.1, 0.05}
	offsets = []float64{0, 0.1, 0.15, 0.2, 0.25, 0.3}
)

// found is what was tried on the way to a model.
type found struct {
	temper, offset  []float64
	losses, covered []float64 // of each temper; of each offset
}

// modelOf finds the whole model from samples whose signals are set.
func modelOf(samples []Sample, m difficulty.Model, say func(string, ...any)) (difficulty.Model, found, error) {
	out := found{temper: tempers, offset: offsets}
	pages := shown(samples)
	var err error
	if m.Prior, err = priorOf(m, pages); err != nil {
		return m, out, err
	}
	m.TenShow = tenShow(m, pages)
	m.Offset = 0.2
	least := math.Inf(1)
	believed := m
	for _, temper := range tempers {
		one := m
		one.Temper = temper
		var loss float64
		if one, loss, err = forms(samples, pages, one, []int{10, 30, 100}, false); err != nil {
			return m, out, err
		}
		say("temper %g: loss %.4f", temper, loss)
		if out.losses = append(out.losses, loss); loss < least {
			least, believed = loss, one
		}
	}
	m = believed
	nearest := math.Inf(1)
	for _, offset := range offsets {
		one := m
		one.Offset = offset
		if one, _, err = forms(samples, pages, one, pagesSeen[:4], false); err != nil {
			return m, out, err
		}
		_, holds, _ := ranges(learnt(one, pages, 100), samples, difficulty.PageOne)
		_, five, _ := ranges(learnt(one, pages, 100), samples, difficulty.TopFive)
		covered := (holds + five) / 2
		say("offset %g: %.2f of the ranges hold", offset, covered)
		if out.covered = append(out.covered, covered); math.Abs(covered-difficulty.Level) < nearest {
			nearest, believed = math.Abs(covered-difficulty.Level), one
		}
	}
	m, _, err = forms(samples, pages, believed, pagesSeen, true)
	return m, out, err
}

// forms finds the forms of a model from samples, once each number of results pages was learnt from; with both that of
// those who look at the ten alone, too.
func forms(samples []Sample, pages map[string][][]difficulty.Signals, m difficulty.Model, seen []int,
	both bool) (difficulty.Model, float64, error) {
	m.Unlinked = 0 // it is found with the form
	var list []terms
	for _, n := range seen {
		list = append(list, termsOf(samples, learnt(m, pages, n), true, true)...)
	}
	offsets := m.Unlearnt().Offsets()
	w, above, loss, err := formOf(list, 5, offsets, m.Offset)
	if err != nil {
		return m, loss, err
	}
	if w[0] <= 0 {
		return m, loss, fmt.Errorf("strength does not help")
	}
	m.Deep, m.Unlinked = formFrom(w, above, true), math.Max(0, -w[4]/w[0])
	if m.Shallow = m.Deep; !both {
		return m, loss, nil
	}
	list = nil
	for _, n := range seen {
		list = append(list, termsOf(samples, learnt(m, cut(pages), n), false, false)...)
	}
	if w, above, _, err = formOf(list, 3, offsets, m.Offset); err != nil {
		return m, loss, err
	}
	m.Shallow = formFrom(w, above, false)
	return m, loss, nil
}
