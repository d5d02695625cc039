package main

import (
	"fmt"
	"math"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/standin"

	"gonum.org/v1/gonum/optimize"
)

// goals are the ranks that get a step of their own.
var goals = []int{1, 2, 3, 5, 7, 10, 15, 20}

// gains are the values of links.LinkGain that are tried.
var gains = []float64{0.2, 0.3, 0.4, 0.5, 0.8, 1.5, 3}

// difference is how far my page is above the mean of the ten, signal by signal.
func difference(s Sample) []float64 {
	d := []float64{s.Mine.Page, s.Mine.Site, s.Mine.Fit}
	ten := s.Rivals[:min(10, len(s.Rivals))]
	for _, r := range ten {
		n := float64(len(ten))
		d[0] -= r.Page / n
		d[1] -= r.Site / n
		d[2] -= r.Fit / n
	}
	return d
}

// full reports whether a sample has a first page to get onto.
func full(s Sample) bool { return len(s.Rivals) >= 10 }

func reached(s Sample, k int) bool { return s.Position > 0 && s.Position <= k }

// fitted is what a fit gives.
type fitted struct {
	model      difficulty.Model
	points     serp.Points
	likelihood float64 // mean log-likelihood of an outcome
}

// regress finds, by maximum likelihood, how much each column counts: one logistic
// regression over all goals, with weights in common and an intercept for each goal
// (the cumulative logit model, McCullagh 1980). The log-likelihood is concave, so any
// descent finds its one maximum. A tiny ridge keeps the intercepts of goals that
// nobody reached finite. Samples without ten results are left out. Beside the columns,
// each engine but the first has an intercept; engines are how much more than the mean
// of all they add, and the intercepts are those of the mean.
func regress(samples []Sample, columns func(Sample) []float64) (weights, intercepts []float64,
	engines map[string]float64, likelihood float64, err error) {
	var rows [][]float64
	var used []Sample
	own := 0 // columns, without those of the engines
	for _, s := range samples {
		if full(s) {
			d := columns(s)
			for i := range d {
				d[i] /= scale
			}
			own = len(d)
			for _, name := range standin.EngineNames[1:] {
				d = append(d, map[bool]float64{true: 1}[s.Engine == name])
			}
			rows, used = append(rows, d), append(used, s)
		}
	}
	if len(rows) == 0 {
		return nil, nil, nil, 0, fmt.Errorf("no sample has ten results")
	}
	const ridge = 1e-6
	c, n := len(rows[0]), float64(len(rows)*len(goals))
	sum := func(x, row []float64) (z float64) {
		for i, v := range row {
			z += x[i] * v
		}
		return z
	}
	problem := optimize.Problem{
		Func: func(x []float64) float64 {
			loss := 0.0
			for i, row := range rows {
				z := sum(x, row)
				for j, k := range goals {
					loss += softplus(-signed(z+x[c+j], reached(used[i], k)))
				}
			}
			for _, v := range x {
				loss += ridge * n * v * v
			}
			return loss / n
		},
		Grad: func(grad, x []float64) {
			for i := range grad {
				grad[i] = 2 * ridge * x[i]
			}
			for i, row := range rows {
				z := sum(x, row)
				for j, k := range goals {
					e := 1 / (1 + math.Exp(-(z + x[c+j])))
					if reached(used[i], k) {
						e--
					}
					for at, v := range row {
						grad[at] += e * v / n
					}
					grad[c+j] += e / n
				}
			}
		},
	}
	res, err := optimize.Minimize(problem, make([]float64, c+len(goals)), nil, &optimize.LBFGS{})
	if err != nil && res == nil {
		return nil, nil, nil, 0, err
	}
	for _, v := range res.X[:own] {
		if v <= 0 {
			return nil, nil, nil, 0, fmt.Errorf("a weight is not positive: %v", res.X[:own])
		}
		weights = append(weights, v/scale)
	}
	centre := 0.0
	for _, v := range res.X[own:c] {
		centre += v / float64(len(standin.EngineNames))
	}
	engines = map[string]float64{standin.EngineNames[0]: -centre}
	for i, name := range standin.EngineNames[1:] {
		engines[name] = res.X[own+i] - centre
	}
	for _, v := range res.X[c:] {
		intercepts = append(intercepts, v+centre)
	}
	return weights, intercepts, engines, -res.F, nil
}

// scale is of the columns, for the descent.
const scale = 10

// fit finds weights, τ and steps for samples whose signals are set.
func fit(samples []Sample) (fitted, error) {
	weights, intercepts, engines, likelihood, err := regress(samples, difference)
	if err != nil {
		return fitted{}, err
	}
	sum := weights[0] + weights[1] + weights[2]
	out := fitted{likelihood: likelihood, model: difficulty.Model{Tau: 1 / sum,
		Weights: difficulty.Weights{Page: weights[0] / sum, Site: weights[1] / sum, Fit: weights[2] / sum},
		Engines: map[string]float64{}}}
	for name, v := range engines {
		out.model.Engines[name] = -v / sum
	}
	for j, k := range goals {
		out.model.Steps = append(out.model.Steps, difficulty.Step{Rank: k, Above: -intercepts[j] / sum})
	}
	return out, nil
}

// small are the points of the items that tell nothing in the stand-in which title and
// text do not tell. They are kept above nothing (ours): engines are thought to read
// them (common practice).
var small = map[int]float64{serp.ItemHeading: 2, serp.ItemSubheading: 2, serp.ItemAddress: 2,
	serp.ItemDescription: 2, serp.ItemFirst: 2}

const allSmall = 10.0

// findPoints finds what the other items are worth, beside the small ones. Since fit is
// the sum of share·points over them and the small ones, and their points come to 90,
// each of their columns carries its part of the small ones along.
func findPoints(samples []Sample, gain float64) (serp.Points, error) {
	free := []int{serp.ItemTitle, serp.ItemAlone, serp.ItemKind, serp.ItemBody}
	of := func(s Seen) []float64 {
		rest := 0.0
		for item, points := range small {
			rest += points * math.Max(0, s.Items[item]) / (100 - allSmall)
		}
		d := []float64{s.signals(serp.Points{}, gain).Page, s.Site}
		for _, item := range free {
			d = append(d, 100*(math.Max(0, s.Items[item])+rest))
		}
		return d
	}
	weights, _, _, _, err := regress(samples, func(s Sample) []float64 {
		d := of(s.Own)
		for _, r := range s.Ahead[:10] {
			for i, v := range of(r) {
				d[i] -= v / 10
			}
		}
		return d
	})
	if err != nil {
		return serp.Points{}, err
	}
	var out serp.Points
	for item, points := range small {
		out[item] = points
	}
	sum := 0.0
	for i := range free {
		sum += weights[2+i]
	}
	rest := 100 - allSmall
	for i, item := range free {
		if out[item] = math.Round((100 - allSmall) * weights[2+i] / sum); i == len(free)-1 {
			out[item] = rest // so that all come to 100
		}
		rest -= out[item]
	}
	return out, nil
}

func signed(z float64, yes bool) float64 {
	if yes {
		return z
	}
	return -z
}

// softplus is log(1 + e^z) without overflow.
func softplus(z float64) float64 {
	if z > 30 {
		return z
	}
	return math.Log1p(math.Exp(z))
}

// best fits with every gain and returns the likeliest. The samples' signals may be
// anything: they are set.
func best(samples []Sample) (top fitted, all []fitted, err error) {
	samples = under(samples, serp.Checklist, links.LinkGain)
	top.likelihood = math.Inf(-1)
	for _, gain := range gains {
		points, err := findPoints(samples, gain)
		if err != nil {
			return top, all, err
		}
		f, err := fit(under(samples, points, gain))
		if err != nil {
			return top, all, err
		}
		f.points, f.model.Gain = points, gain
		all = append(all, f)
		if f.likelihood > top.likelihood {
			top = f
		}
	}
	return top, all, nil
}

// rounded is the model as it is written: nobody's web is known to more digits.
func rounded(m difficulty.Model) difficulty.Model {
	to := func(v, unit float64) float64 { return math.Round(v/unit) * unit }
	m.Weights.Page, m.Weights.Site = to(m.Weights.Page, 0.01), to(m.Weights.Site, 0.01)
	m.Weights.Fit = to(1-m.Weights.Page-m.Weights.Site, 0.01)
	m.Tau = to(m.Tau, 0.1)
	for i := range m.Steps {
		m.Steps[i].Above = to(m.Steps[i].Above, 0.1)
	}
	for name, v := range m.Engines {
		m.Engines[name] = to(v, 0.1)
	}
	return m
}

// field is a sample as the model sees it.
func field(s Sample) difficulty.Field {
	return difficulty.Field{Rivals: s.Rivals, Engine: s.Engine}
}

// forecasts are what a model says of samples for a goal.
func forecasts(m difficulty.Model, samples []Sample, k int, keep func(Sample) bool) []forecast {
	var out []forecast
	for _, s := range samples {
		if full(s) && (keep == nil || keep(s)) {
			x := m.Weights.Strength(s.Mine)
			out = append(out, forecast{m.Chance(field(s), x, k), reached(s, k)})
		}
	}
	return out
}

// trial is one outcome of a logistic regression, and how much it weighs.
type trial struct {
	x      []float64
	yes    bool
	weight float64
}

// logistic finds the weights of the columns by maximum likelihood.
func logistic(trials []trial) ([]float64, error) {
	if len(trials) == 0 {
		return nil, fmt.Errorf("there is nothing to fit to")
	}
	at := func(w, x []float64) (z float64) {
		for i, v := range x {
			z += w[i] * v
		}
		return z
	}
	total := 0.0
	for _, t := range trials {
		total += t.weight
	}
	res, err := optimize.Minimize(optimize.Problem{
		Func: func(w []float64) (loss float64) {
			for _, t := range trials {
				loss += t.weight / total * softplus(-signed(at(w, t.x), t.yes))
			}
			return loss
		},
		Grad: func(grad, w []float64) {
			clear(grad)
			for _, t := range trials {
				e := 1 / (1 + math.Exp(-at(w, t.x)))
				if t.yes {
					e--
				}
				for i, v := range t.x {
					grad[i] += e * v * t.weight / total
				}
			}
		},
	}, make([]float64, len(trials[0].x)), nil, &optimize.LBFGS{})
	if err != nil && res == nil {
		return nil, err
	}
	return res.X, nil
}

// duels are what ten independent duels would say (Bradley & Terry 1952, and the
// Poisson-binomial number of duels lost), with weights and τ fitted to the duels:
// what the model is compared with.
func duels(train, samples []Sample, k int) ([]forecast, error) {
	var pairs []trial
	for _, s := range train {
		for i, r := range s.Rivals[:min(10, len(s.Rivals))] {
			pairs = append(pairs, trial{[]float64{(s.Mine.Page - r.Page) / scale, (s.Mine.Site - r.Site) / scale,
				(s.Mine.Fit - r.Fit) / scale},
				reached(s, i+1), 1})
		}
	}
	weights, err := logistic(pairs)
	if err != nil {
		return nil, err
	}
	var out []forecast
	for _, s := range samples {
		if !full(s) {
			continue
		}
		lost := []float64{1} // Poisson-binomial, by dynamic programming
		for _, r := range s.Rivals[:10] {
			z := (weights[0]*(s.Mine.Page-r.Page) + weights[1]*(s.Mine.Site-r.Site) + weights[2]*(s.Mine.Fit-r.Fit)) / scale
			ahead := 1 / (1 + math.Exp(z))
			next := make([]float64, len(lost)+1)
			for i, p := range lost {
				next[i] += p * (1 - ahead)
				next[i+1] += p * ahead
			}
			lost = next
		}
		chance := 0.0
		for i := range min(k, len(lost)) {
			chance += lost[i]
		}
		out = append(out, forecast{math.Min(1, chance), reached(s, k)})
	}
	return out, nil
}
