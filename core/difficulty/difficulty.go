// Package difficulty says what site standing it takes to get into the results in front of
// a page, what standing my page amounts to, and what chance that gives it.
//
// Everything that people read is on one scale that they know already: site standing, 0 to
// 100. "Difficulty 26" is: a site of standing 26 has a 50% chance with a well-made page that
// nobody links to yet. Underneath is what an engine thinks of a page by what can be seen of it,
//
//	v = w·(page standing, g(site standing), title, text, kind),  g(s) = (s/100)^curve
//
// with weights w of this engine, and the chance to get among the first k,
//
//	P(position ≤ k) = 1/(1 + e^(−(slope·v(mine) − level − step(k) + offset)))
//
// where the level is what the results shown have of v (the ten and those behind them), with a
// step for each rank: the cumulative logit model for ordered outcomes (McCullagh 1980,
// "Regression models for ordinal data"). What an engine leans on, w, is learnt from the pages
// that it shows; see Learn. What is not known of it is kept as equally likely draws: the chance is
// their mean, and its range what eight of ten of them say. A draw can be weighed by what
// became of a user's own pages.
//
// To pass the result at place k is to be among the first k: what a place needs and what the
// result that stands there holds are one figure. What can be seen of a single result tells
// little beside: the engine has put it there for all that it knows. So the steps are
// what is held, and what is seen of each result is told apart.
//
// All constants were calibrated on experiments whose outcome is known; see calibrated.go and
// docs/calibration.md.
package difficulty

import (
	"math"
	"slices"
	"sort"

	"cleverniche/core/links"
	"cleverniche/core/serp"
)

// Signals are what can be seen of a page, each 0 to 100: its standing and its site's, and how far
// its title, its text and its kind are what the phrase calls for.
type Signals struct {
	Page, Site, Title, Text, Kind float64
	// Luck is what pages of mine have beside what can be seen of them, as strength; of others it is 0. See LearnOwn.
	Luck float64 `json:",omitempty"`
}

// SignalsOf is what can be seen of a result.
func SignalsOf(e serp.Entry) Signals {
	s := Signals{Page: e.PageStanding, Site: e.SiteStanding}
	s.Title, s.Text, s.Kind = e.Fit.Sides()
	return s
}

// Traits is how many signals there are.
const Traits = 5

// ofSite is the place of site standing among them.
const ofSite = 1

// TraitNames are what they are called, in the order of Signals.
var TraitNames = [Traits]string{"links to the page", "site standing", "title", "text", "kind of page"}

// vector holds a number for each trait.
type vector [Traits]float64

func (v vector) dot(o vector) (sum float64) {
	for i := range v {
		sum += v[i] * o[i]
	}
	return sum
}

// Step is what getting among the first Rank needs beside what the results have.
type Step struct {
	Rank  int     `json:"rank"`
	Above float64 `json:"above"`
}

// Form is how chances hang on strengths, for results looked at so deep.
type Form struct {
	Slope  float64 // of my page's strength
	Front  float64 // of the ten's mean
	All    float64 // of the mean of all that were looked at, the ten included
	Spread float64 // of the ten's standard deviation: where they differ, some give way
	Steps  []Step  // by rank, falling
}

// Made is what can be seen of the text of a page.
type Made struct{ Title, Text, Kind float64 }

// Model is a calibrated forecast, with what is known of an engine.
type Model struct {
	Name     string  // when and on what it was calibrated
	Gain     float64 // links.LinkGain of the page standings that it was calibrated with
	Curve    float64 // exponent of g
	WellMade float64 // fit of a well-made page: the middle of those made with care
	Made     Made    // what can be seen of such a page
	Unlinked float64 // strength that a site which nobody links to lacks
	Deep     Form    // more than the ten were looked at
	Shallow  Form    // the ten alone
	Offset   float64 // standard deviation of what stays unknown of an engine, whatever it has shown
	Prior    Leaning // what engines lean on, before one has shown anything
	Temper   float64 // how much of what results pages tell is believed; see Learn
	TenShow  float64 // how much of a weight shows where only the ten are seen

	Leans Leaning // what this engine leans on
	Pages int     // from how many results pages that is learnt
	Luck  float64 // what pages of mine have beside what can be seen of them, as strength; see LearnOwn
	draws []draw
	own   Own
}

// Goals that a page can have: to be among the first so many.
const (
	PageOne  = 10
	TopFive  = 5
	TopThree = 3
	TheGoal  = TopFive // the goal that difficulty means, if nothing else is said
)

// PlannedStanding is the standing of a site that would give me a solid link, until the
// user says otherwise (ours).
const PlannedStanding = 35.0

const mostFit = 100.0

// Mine is the page that I could put there.
type Mine struct {
	SiteStanding float64 `json:"siteStanding"`
	PlannedLinks int     `json:"plannedLinks"` // solid links I plan to get to it
	LinkStanding float64 `json:"linkStanding"` // standing of the sites they come from
	Fit          float64 `json:"fit"`
	Luck         float64 `json:"luck,omitempty"` // the model's Luck; 0 where none was learnt
}

// Signals are what can be seen of my page. A fit is that of a well-made page in proportion, and
// above it what that lacks.
func (m Model) Signals(mine Mine) Signals {
	sites := make([]float64, mine.PlannedLinks)
	for i := range sites {
		sites[i] = mine.LinkStanding
	}
	of := func(made float64) float64 {
		if mine.Fit > m.WellMade && m.WellMade < mostFit {
			return made + (mostFit-made)*(mine.Fit-m.WellMade)/(mostFit-m.WellMade)
		}
		return made * mine.Fit / max(m.WellMade, 1)
	}
	return Signals{links.PageStanding(sites), mine.SiteStanding, of(m.Made.Title), of(m.Made.Text), of(m.Made.Kind),
		mine.Luck}
}

// seen is a page as weights see it, each trait 0 to 1. A site that nobody links to is another thing than
// one with its first followed link: what it lacks is apart.
func (m Model) seen(s Signals) (x vector, lacks float64) {
	site := math.Max(0, s.Site)
	g := math.Pow(math.Max(site, Linked)/Most, m.Curve)
	if site < Linked {
		g, lacks = g*site/Linked, m.Unlinked*(1-site/Linked)
	}
	lacks -= s.Luck
	return vector{s.Page / 100, g, s.Title / 100, s.Text / 100, s.Kind / 100}, lacks
}

// Strength of a page, by what this engine leans on as far as that is known. It has no unit; OnScale says
// what it amounts to.
func (m Model) Strength(s Signals) float64 {
	x, lacks := m.seen(s)
	return m.Leans.mean().dot(x) - lacks
}

// Field is what stands in front of a page.
type Field struct {
	Rivals []Signals // in the order the engine shows them, without my own
	All    bool      // the engine has no more results than these
	Locked string    // why nobody else can win it; "" when it is open
}

// FirstPage is how many results the first page has.
const FirstPage = 10

// Depth is how many results are looked at, at most.
const Depth = 20

// Room reports whether there are fewer results than the goal has places.
func (f Field) Room(k int) bool { return len(f.Rivals) == 0 || f.All && len(f.Rivals) < k }

// Step returns the step of a rank. Between the calibrated ranks it is interpolated
// along the logarithm of the rank; past the last one it stays.
func (t Form) Step(k int) float64 {
	i := sort.Search(len(t.Steps), func(i int) bool { return t.Steps[i].Rank >= k })
	switch {
	case len(t.Steps) == 0:
		return 0
	case i == len(t.Steps):
		return t.Steps[i-1].Above
	case i == 0 || t.Steps[i].Rank == k:
		return t.Steps[i].Above
	}
	a, b := t.Steps[i-1], t.Steps[i]
	share := math.Log(float64(k)/float64(a.Rank)) / math.Log(float64(b.Rank)/float64(a.Rank))
	return a.Above + share*(b.Above-a.Above)
}

// faced is a field as each draw of a model sees it.
type faced struct {
	Model
	Field
	form   Form
	steps  [Ranks]float64 // of the form, by rank from the first
	levels []float64      // by draw: what the results have, less the draw's offset
}

// Terms are what a draw makes of what stands in front of a page: the mean strength of the ten and of all that were
// looked at, and the standard deviation of the ten's.
type Terms struct{ Ten, All, Spread float64 }

// Terms of a field, by draw.
func (m Model) Terms(f Field) []Terms {
	n := min(Depth, len(f.Rivals))
	front := min(FirstPage, n)
	var pages [Depth]vector
	var lack [Depth]float64
	for i, r := range f.Rivals[:n] {
		pages[i], lack[i] = m.seen(r)
	}
	out := make([]Terms, len(m.draws))
	for d, one := range m.draws {
		var ten, squares, all float64
		for i := range n {
			v := one.w.dot(pages[i]) - lack[i]
			if all += v; i < front {
				ten, squares = ten+v, squares+v*v
			}
		}
		ten, all = ten/float64(max(1, front)), all/float64(max(1, n))
		out[d] = Terms{ten, all, math.Sqrt(math.Max(0, squares/float64(max(1, front))-ten*ten))}
	}
	return out
}

// Strengths of a page, by draw.
func (m Model) Strengths(s Signals) []float64 {
	x, lacks := m.seen(s)
	out := make([]float64, len(m.draws))
	for d, one := range m.draws {
		out[d] = one.w.dot(x) - lacks
	}
	return out
}

func (m Model) face(f Field) faced {
	x := faced{Model: m, Field: f, form: m.Shallow, levels: make([]float64, len(m.draws))}
	if len(f.Rivals) > FirstPage {
		x.form = m.Deep
	}
	for k := range x.steps {
		x.steps[k] = x.form.Step(k + 1)
	}
	for d, t := range m.Terms(f) {
		x.levels[d] = x.form.Front*t.Ten + x.form.All*t.All - x.form.Spread*t.Spread - m.draws[d].offset
	}
	return x
}

// page is a page as each draw sees it: slope times strength.
func (x faced) page(s Signals) []float64 {
	out := x.Strengths(s)
	for d := range out {
		out[d] *= x.form.Slope
	}
	return out
}

// step is the form's, of a rank.
func (x faced) step(k int) float64 {
	if k <= Ranks {
		return x.steps[k-1]
	}
	return x.form.Step(k)
}

func logistic(z float64) float64 { return 1 / (1 + math.Exp(-z)) }

// mean is the chance of the first k for a page, without what is locked and empty.
func (x faced) mean(page []float64, k int) (sum float64) {
	step := x.step(k)
	for d, one := range x.draws {
		sum += one.weight * logistic(page[d]-x.levels[d]-step)
	}
	return sum
}

func (x faced) likely(page []float64, k int) float64 {
	switch {
	case x.Locked != "" || k < 1 || len(x.draws) == 0 && !x.Room(k):
		return 0
	case x.Room(k):
		return 1
	}
	return x.mean(page, k)
}

// Chance is the probability that a page gets among the first k: the mean over what an engine may lean on. It is 1
// where there are fewer results than that, and 0 where the phrase is locked.
func (m Model) Chance(f Field, s Signals, k int) float64 {
	x := m.face(f)
	return x.likely(x.page(s), k)
}

// Chances are those of getting among the first k, by draw.
func (m Model) Chances(f Field, s Signals, k int) []float64 {
	x := m.face(f)
	page := x.page(s)
	out := make([]float64, len(m.draws))
	for d := range out {
		out[d] = x.alone(d).likely(page[d:d+1], k)
	}
	return out
}

// Range is a chance with what eight of ten draws lie between.
type Range struct {
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Level is the share of what is thought possible that lies in a range.
const Level = 0.8

// Range is the chance of getting among the first k, with the range in which it lies at Level.
func (m Model) Range(f Field, s Signals, k int) Range {
	x := m.face(f)
	return x.spread(x.page(s), k)
}

func (x faced) spread(page []float64, k int) Range {
	r := Range{Mean: x.likely(page, k)}
	if r.Low, r.High = r.Mean, r.Mean; x.Locked != "" || k < 1 || x.Room(k) || len(x.draws) == 0 {
		return r
	}
	step := x.step(k)
	values := make([]float64, len(x.draws))
	for d := range x.draws {
		values[d] = logistic(page[d] - x.levels[d] - step)
	}
	low, high := x.within(values)
	return Range{r.Mean, math.Min(low, r.Mean), math.Max(high, r.Mean)}
}

// within are the values between which those of Level of the draws lie, by their weights.
func (m Model) within(values []float64) (low, high float64) {
	order := make([]int, len(values))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		switch {
		case values[a] < values[b]:
			return -1
		case values[a] > values[b]:
			return 1
		}
		return 0
	})
	at := func(share float64) float64 { // between the middles of the weights
		before, mid, value := 0.0, 0.0, values[order[0]]
		for _, d := range order {
			w := m.draws[d].weight
			here := before + w/2
			if here >= share {
				if mid == 0 || here == mid {
					return values[d]
				}
				return value + (values[d]-value)*(share-mid)/(here-mid)
			}
			before, mid, value = before+w, here, values[d]
		}
		return value
	}
	return at((1 - Level) / 2), at((1 + Level) / 2)
}

// Between are what figures lie between that hang on the chances of the first positions of a page: do says of such
// chances what the figure is.
func (m Model) Between(f Field, s Signals, do func(chances []float64) float64) (low, high float64) {
	x := m.face(f)
	page := x.page(s)
	if len(m.draws) == 0 || f.Locked != "" {
		v := do(x.distribution(page)[:Ranks])
		return v, v
	}
	values, chances := make([]float64, len(m.draws)), make([]float64, Ranks)
	for d := range m.draws {
		before := 0.0
		for k := range Ranks {
			c := 1.0
			if !f.Room(k + 1) {
				c = logistic(page[d] - x.levels[d] - x.steps[k])
			}
			chances[k], before = math.Max(0, c-before), math.Max(before, c)
		}
		values[d] = do(chances)
	}
	return m.within(values)
}

// alone is what one draw says.
func (x faced) alone(d int) faced {
	one := x.draws[d]
	one.weight = 1
	x.draws, x.levels = []draw{one}, x.levels[d:d+1]
	return x
}

// Likelihoods are how likely each draw made it that a page came to a position, 0 or more than Ranks
// being any further down: by them, and Bayes, the weights change.
func (m Model) Likelihoods(f Field, s Signals, position int) []float64 {
	x := m.face(f)
	page := x.page(s)
	out := make([]float64, len(m.draws))
	if position < 1 || position > Ranks {
		position = Ranks + 1
	}
	for d := range out {
		out[d] = x.alone(d).distribution(page[d : d+1])[position-1]
	}
	return out
}

// Ranks is how many positions the distribution tells apart.
const Ranks = 20

// Distribution is the chance of each position for a page: element i is
// P(position = i+1), and the last, element Ranks, that of any further down. It sums to 1.
func (m Model) Distribution(f Field, s Signals) []float64 {
	x := m.face(f)
	return x.distribution(x.page(s))
}

func (x faced) distribution(page []float64) []float64 {
	out := make([]float64, Ranks+1)
	before := 0.0
	for k := 1; k <= Ranks; k++ {
		c := math.Max(before, x.likely(page, k))
		out[k-1] = c - before
		before = c
	}
	out[Ranks] = 1 - before
	return out
}

// Expected is the expected position, where any below the first Ranks counts as the
// one after them.
func (m Model) Expected(f Field, s Signals) float64 {
	x := m.face(f)
	return expected(x.distribution(x.page(s)))
}

func expected(distribution []float64) (sum float64) {
	for i, p := range distribution {
		sum += float64(i+1) * p
	}
	return sum
}
