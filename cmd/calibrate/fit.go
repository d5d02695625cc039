package main

import (
	"fmt"
	"math"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"

	"gonum.org/v1/gonum/optimize"
	"gonum.org/v1/gonum/stat"
)

// goals are the ranks that get a step of their own.
var goals = []int{1, 2, 3, 5, 7, 10, 15, 20}

// gains are the values of links.LinkGain that are tried.
var gains = []float64{0.3, 0.5, 0.8}

// curves are the exponents of site standing that are tried.
var curves = []float64{0.4, 0.5, 0.6}

// zeroOf is 1 where my site is one that nobody links to, which is another thing than one with its first followed link.
func zeroOf(s Sample) float64 {
	if s.Own.Site <= 0 {
		return 1
	}
	return 0
}

// full reports whether a sample has a first page to get onto.
func full(s Sample) bool { return len(s.Ahead) >= difficulty.FirstPage }

func reached(s Sample, k int) bool { return s.Position > 0 && s.Position <= k }

// fitted is what is found first: how links and site standing count, and what the checklist is worth.
type fitted struct {
	gain, curve float64
	points      serp.Points
	loss        float64 // of forecasts: the mean negative log-likelihood of an outcome
}

// regress finds the weights of the columns and an intercept for each goal that make the outcomes likeliest, all goals
// taken together. The likelihood is concave, so any descent finds its one maximum. A tiny penalty on the weights, in
// units of the columns' spread, keeps the intercepts of goals that nobody reached finite. Samples without ten results
// are left out.
func regress(samples []Sample, columns func(Sample) []float64) (regression, error) {
	var rows [][]float64
	var used []Sample
	for _, s := range samples {
		if full(s) {
			rows, used = append(rows, columns(s)), append(used, s)
		}
	}
	if len(rows) == 0 {
		return regression{}, fmt.Errorf("no sample has ten results")
	}
	c := len(rows[0])
	to := nothing(rows)
	for _, row := range rows {
		for i := range row {
			row[i] = (row[i] - to.centre[i]) / to.spread[i]
		}
	}
	l := likelihood{rows: rows, used: used, start: append(slices.Clone(to.weights), to.intercepts...),
		penalty: 1e-6 * float64(len(rows)*len(goals))}
	res, err := optimize.Minimize(optimize.Problem{Func: l.loss, Grad: l.gradient}, l.start, nil, &optimize.LBFGS{})
	if err != nil && res == nil {
		return regression{}, err
	}
	return regression{weights: res.X[:c], intercepts: res.X[c:], centre: to.centre, spread: to.spread,
		likelihood: -res.F}, nil
}

// nothing is the regression that says nothing, with the centres and spreads of columns.
func nothing(rows [][]float64) *regression {
	c := len(rows[0])
	out := &regression{weights: make([]float64, c), intercepts: make([]float64, len(goals)), centre: make([]float64, c),
		spread: make([]float64, c)}
	for i := range c {
		column := make([]float64, len(rows))
		for j, row := range rows {
			column[j] = row[i]
		}
		out.centre[i], out.spread[i] = stat.MeanStdDev(column, nil)
		out.spread[i] = math.Max(out.spread[i], 1e-9)
	}
	return out
}

// likelihood is that of outcomes by weights of standardised columns, and an intercept for each goal behind them.
type likelihood struct {
	rows    [][]float64
	used    []Sample
	start   []float64 // what weights and intercepts are held to
	penalty float64
}

// score is a row by the weights.
func (l likelihood) score(x, row []float64) (z float64) {
	for i, v := range row {
		z += x[i] * v
	}
	return z
}

// loss is the mean negative log-likelihood of a row, with the penalty.
func (l likelihood) loss(x []float64) float64 {
	c, loss := len(l.rows[0]), 0.0
	for i, row := range l.rows {
		z := l.score(x, row)
		for j, k := range goals {
			loss += softplus(-signed(z+x[c+j], reached(l.used[i], k)))
		}
	}
	for i, v := range x {
		loss += l.penalty * (v - l.start[i]) * (v - l.start[i])
	}
	return loss / float64(len(l.rows))
}

func (l likelihood) gradient(grad, x []float64) {
	c, n := len(l.rows[0]), float64(len(l.rows))
	for i := range grad {
		grad[i] = 2 * l.penalty * (x[i] - l.start[i]) / n
	}
	for i, row := range l.rows {
		z := l.score(x, row)
		for j, k := range goals {
			e := 1 / (1 + math.Exp(-(z + x[c+j])))
			if reached(l.used[i], k) {
				e--
			}
			for at, v := range row {
				grad[at] += e * v / n
			}
			grad[c+j] += e / n
		}
	}
}

// regression is weights and intercepts of columns that were centred and divided by their spread.
type regression struct {
	weights, intercepts, centre, spread []float64
	likelihood                          float64 // mean over the samples, penalty taken off
}

// raw is the weights of the columns as they are, and the intercepts that go with them.
func (r regression) raw() (weights, intercepts []float64) {
	shift := 0.0
	for i, w := range r.weights {
		weights = append(weights, w/r.spread[i])
		shift += w / r.spread[i] * r.centre[i]
	}
	for _, v := range r.intercepts {
		intercepts = append(intercepts, v-shift)
	}
	return weights, intercepts
}

// scale is of the columns, for the descent.
const scale = 10

// small are the points to begin with of the items that tell little in the stand-in which title and text do not tell;
// see refine.
var small = map[int]float64{serp.ItemHeading: 2, serp.ItemSubheading: 2, serp.ItemAddress: 2,
	serp.ItemDescription: 2, serp.ItemFirst: 2}

const allSmall = 10.0

// findPoints finds what the other items are worth, beside the small ones. Since fit is
// the sum of share·points over them and the small ones, and their points come to 90,
// each of their columns carries its part of the small ones along.
func findPoints(samples []Sample, gain, curve float64) (serp.Points, error) {
	free := []int{serp.ItemTitle, serp.ItemAlone, serp.ItemKind, serp.ItemBody}
	of := func(s Seen) []float64 {
		rest := 0.0
		for item, points := range small {
			rest += points * math.Max(0, s.Items[item]) / (100 - allSmall)
		}
		d := []float64{s.signals(serp.Points{}, gain).Page, 100 * math.Pow(s.Site/100, curve)}
		for _, item := range free {
			d = append(d, 100*(math.Max(0, s.Items[item])+rest))
		}
		return d
	}
	r, err := regress(samples, func(s Sample) []float64 {
		d := of(s.Own)
		ten := make([]float64, len(d))
		for _, r := range s.Ahead[:10] {
			for i, v := range of(r) {
				ten[i] += v / 10
			}
		}
		return append(append(d, ten...), zeroOf(s))
	})
	if err != nil {
		return serp.Points{}, err
	}
	weights, _ := r.raw()
	var out serp.Points
	for item, points := range small {
		out[item] = points
	}
	sum := 0.0
	for i := range free {
		weights[2+i] = math.Max(weights[2+i], 0)
		sum += weights[2+i]
	}
	rest := 100 - allSmall
	for i, item := range free {
		if out[item] = math.Max(1, math.Round((100-allSmall)*weights[2+i]/sum)); i == len(free)-1 {
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

// best fits with every gain and curve and returns that with which forecasts lose least, after usualPages results pages.
func best(samples []Sample) (top fitted, all []fitted, err error) {
	top.loss = math.Inf(1)
	for _, gain := range gains {
		for _, curve := range curves {
			f := fitted{gain: gain, curve: curve}
			if f.points, err = findPoints(samples, gain, curve); err != nil {
				return top, all, err
			}
			if f.loss, err = f.lost(samples); err != nil {
				return top, all, err
			}
			if all = append(all, f); f.loss < top.loss {
				top = f
			}
		}
	}
	top, err = refine(samples, top)
	return top, all, err
}

// lost is the mean loss of forecasts after usualPages results pages.
func (f fitted) lost(samples []Sample) (loss float64, err error) {
	set := under(samples, f.points, f.gain)
	m := difficulty.Model{Gain: f.gain, Curve: f.curve, Temper: 0.3, TenShow: 1}
	if m.WellMade, m.Made, err = wellMade(set); err != nil {
		return 0, err
	}
	pages := shown(set)
	if m.Prior, err = priorOf(m, pages); err != nil {
		return 0, err
	}
	_, loss, err = forms(set, pages, m, []int{usualPages}, false)
	return loss, err
}

// By what the points of an item are multiplied in turn, how often all are gone through at most, and what a round has to
// gain to be followed by another.
var (
	factors  = []float64{0.25, 0.5, 1.5, 2.5}
	rounds   = 2
	leastWon = 0.002
)

// refine goes from points, item by item, to those with which forecasts lose least: the regression that they come from
// knows nothing of what engines show. Every item keeps a point, since engines are thought to read them all (common
// practice).
func refine(samples []Sample, f fitted) (fitted, error) {
	for range rounds {
		before := f.loss
		for item := range f.points {
			from := f
			for _, by := range factors {
				try := from
				try.points[item] *= by
				loss, err := try.lost(samples)
				if err != nil {
					return f, err
				}
				if try.loss = loss; loss < f.loss {
					f = try
				}
			}
		}
		if before-f.loss < leastWon {
			break
		}
	}
	sum, most := 0.0, 0
	for item, points := range f.points {
		if sum += points; points > f.points[most] {
			most = item
		}
	}
	rest := 100.0
	for item := range f.points {
		f.points[item] = math.Max(1, math.Round(100*f.points[item]/sum))
		rest -= f.points[item]
	}
	f.points[most] += rest
	loss, err := f.lost(samples)
	f.loss = loss
	return f, err
}

// madeWith is the fit on the laboratory's scale from which a page is made with care.
const madeWith = 85

// wellMade is what can be seen of pages that are made with care, in the middle. Their signals are set.
func wellMade(samples []Sample) (fit float64, made difficulty.Made, err error) {
	var fits, titles, texts, kinds []float64
	for _, s := range samples {
		if s.Made >= madeWith {
			fits, titles = append(fits, s.Fit), append(titles, s.Mine.Title)
			texts, kinds = append(texts, s.Mine.Text), append(kinds, s.Mine.Kind)
		}
	}
	if len(fits) == 0 {
		return 0, made, fmt.Errorf("no page was made with care")
	}
	middle := func(list []float64) float64 {
		slices.Sort(list)
		return math.Round(stat.Quantile(0.5, stat.Empirical, list, nil))
	}
	return middle(fits), difficulty.Made{Title: middle(titles), Text: middle(texts), Kind: middle(kinds)}, nil
}

// field is a sample as the model sees it.
func field(s Sample) difficulty.Field {
	return difficulty.Field{Rivals: s.Rivals}
}

// models are what is known of the engine that a sample is of.
type models func(Sample) difficulty.Model

// forecasts are what models say of samples for a goal.
func forecasts(m models, samples []Sample, k int, keep func(Sample) bool) []forecast {
	var out []forecast
	for _, s := range samples {
		if full(s) && (keep == nil || keep(s)) {
			out = append(out, forecast{m(s).Chance(field(s), s.Mine, k), reached(s, k)})
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

// difference is in what can be seen of two pages.
func difference(a, b difficulty.Signals) []float64 {
	return []float64{(a.Page - b.Page) / scale, (a.Site - b.Site) / scale, (a.Title - b.Title) / scale,
		(a.Text - b.Text) / scale, (a.Kind - b.Kind) / scale}
}

// duels are what ten independent duels would say (Bradley & Terry 1952, and the
// Poisson-binomial number of duels lost), with weights and τ fitted to the duels:
// what the model is compared with.
func duels(train, samples []Sample, k int) ([]forecast, error) {
	var pairs []trial
	for _, s := range train {
		for i, r := range s.Rivals[:min(10, len(s.Rivals))] {
			pairs = append(pairs, trial{difference(s.Mine, r), reached(s, i+1), 1})
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
			z := 0.0
			for i, v := range difference(s.Mine, r) {
				z += weights[i] * v
			}
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
