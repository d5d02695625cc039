package main

import (
	"fmt"
	"math"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"

	"gonum.org/v1/gonum/optimize"
)

// goals are the ranks that get a step of their own.
var goals = []int{1, 2, 3, 5, 7, 10, 15, 20}

// gains are the values of links.LinkGain that are tried.
var gains = []float64{0.3, 0.5, 0.8, 1, 1.5, 2.5, 4}

// difference is how far my page is above the mean of the ten, signal by signal, with
// page standings reckoned with another gain than links.LinkGain.
func difference(s Sample, gain float64) [3]float64 {
	regain := func(standing float64) float64 {
		sum := -links.LinkGain * math.Log(1-math.Min(standing, 99.99)/100)
		return 100 * (1 - math.Exp(-sum/gain))
	}
	d := [3]float64{regain(s.Mine.Page), s.Mine.Site, s.Mine.Fit}
	ten := s.Rivals[:min(10, len(s.Rivals))]
	for _, r := range ten {
		n := float64(len(ten))
		d[0] -= regain(r.Page) / n
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
	gain       float64
	likelihood float64 // mean log-likelihood of an outcome
	samples    int
}

// fit finds weights, τ and steps by maximum likelihood: one logistic regression over
// all goals, with weights in common and an intercept for each goal (the cumulative
// logit model, McCullagh 1980). The log-likelihood is concave, so any descent finds
// its one maximum. A tiny ridge keeps the intercepts of goals that nobody reached
// finite.
func fit(samples []Sample, gain float64) (fitted, error) {
	const scale = 10 // of the signals, for the descent
	var rows [][3]float64
	var used []Sample
	for _, s := range samples {
		if full(s) {
			d := difference(s, gain)
			rows = append(rows, [3]float64{d[0] / scale, d[1] / scale, d[2] / scale})
			used = append(used, s)
		}
	}
	if len(rows) == 0 {
		return fitted{}, fmt.Errorf("no sample has ten results")
	}
	const ridge = 1e-6
	n := float64(len(rows) * len(goals))
	problem := optimize.Problem{
		Func: func(x []float64) float64 {
			loss := 0.0
			for i, row := range rows {
				z := x[0]*row[0] + x[1]*row[1] + x[2]*row[2]
				for j, k := range goals {
					loss += softplus(-signed(z+x[3+j], reached(used[i], k)))
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
				z := x[0]*row[0] + x[1]*row[1] + x[2]*row[2]
				for j, k := range goals {
					e := 1 / (1 + math.Exp(-(z + x[3+j])))
					if reached(used[i], k) {
						e--
					}
					for c, v := range row {
						grad[c] += e * v / n
					}
					grad[3+j] += e / n
				}
			}
		},
	}
	res, err := optimize.Minimize(problem, make([]float64, 3+len(goals)), nil, &optimize.LBFGS{})
	if err != nil && res == nil {
		return fitted{}, err
	}
	x := res.X
	sum := (x[0] + x[1] + x[2]) / scale
	if x[0] <= 0 || x[1] <= 0 || x[2] <= 0 {
		return fitted{}, fmt.Errorf("a weight is not positive: %v", x[:3])
	}
	out := fitted{gain: gain, likelihood: -res.F, samples: len(rows)}
	out.model = difficulty.Model{Tau: 1 / sum,
		Weights: difficulty.Weights{Page: x[0] / scale / sum, Site: x[1] / scale / sum, Fit: x[2] / scale / sum}}
	for j, k := range goals {
		out.model.Steps = append(out.model.Steps, difficulty.Step{Rank: k, Above: -x[3+j] / sum})
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

// best fits with every gain and returns the likeliest.
func best(samples []Sample) (fitted, []fitted, error) {
	var all []fitted
	top := fitted{likelihood: math.Inf(-1)}
	for _, gain := range gains {
		f, err := fit(samples, gain)
		if err != nil {
			return top, all, err
		}
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
	return m
}

// field is a sample as the model sees it.
func field(s Sample) difficulty.Field {
	f := difficulty.Field{}
	for _, r := range s.Rivals {
		f.Rivals = append(f.Rivals, difficulty.Signals(r))
	}
	return f
}

// forecasts are what a model says of samples for a goal.
func forecasts(m difficulty.Model, samples []Sample, k int, keep func(Sample) bool) []forecast {
	var out []forecast
	for _, s := range samples {
		if full(s) && (keep == nil || keep(s)) {
			x := m.Weights.Strength(difficulty.Signals(s.Mine))
			out = append(out, forecast{m.Chance(field(s), x, k), reached(s, k)})
		}
	}
	return out
}

// duels are what ten independent duels would say (Bradley & Terry 1952, and the
// Poisson-binomial number of duels lost), with weights and τ fitted to the duels:
// what the model is compared with.
func duels(train, samples []Sample, k int) ([]forecast, error) {
	type pair struct {
		d   [3]float64
		won bool
	}
	var pairs []pair
	for _, s := range train {
		for i, r := range s.Rivals[:min(10, len(s.Rivals))] {
			pairs = append(pairs, pair{[3]float64{(s.Mine.Page - r.Page) / 10, (s.Mine.Site - r.Site) / 10, (s.Mine.Fit - r.Fit) / 10},
				reached(s, i+1)})
		}
	}
	n := float64(len(pairs))
	res, err := optimize.Minimize(optimize.Problem{
		Func: func(x []float64) (loss float64) {
			for _, p := range pairs {
				loss += softplus(-signed(x[0]*p.d[0]+x[1]*p.d[1]+x[2]*p.d[2], p.won)) / n
			}
			return loss
		},
		Grad: func(grad, x []float64) {
			clear(grad)
			for _, p := range pairs {
				e := 1 / (1 + math.Exp(-(x[0]*p.d[0] + x[1]*p.d[1] + x[2]*p.d[2])))
				if p.won {
					e--
				}
				for c, v := range p.d {
					grad[c] += e * v / n
				}
			}
		},
	}, make([]float64, 3), nil, &optimize.LBFGS{})
	if err != nil && res == nil {
		return nil, err
	}
	var out []forecast
	for _, s := range samples {
		if !full(s) {
			continue
		}
		lost := []float64{1} // Poisson-binomial, by dynamic programming
		for _, r := range s.Rivals[:10] {
			z := res.X[0]*(s.Mine.Page-r.Page)/10 + res.X[1]*(s.Mine.Site-r.Site)/10 + res.X[2]*(s.Mine.Fit-r.Fit)/10
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
