// Package difficulty says what site standing it takes to get into the results in front of
// a page, what standing my page amounts to, and what chance that gives it.
//
// Everything that people read is on one scale that they know already: site standing, 0 to
// 100. "Difficulty 26" is: a site of standing 26 has even odds with a well-made page that
// nobody links to yet. Underneath is the strength of a page,
//
//	t = wp·page standing + ws·g(site standing) + wf·fit,  g(s) = 100·(s/100)^curve
//
// concave in site standing, and the chance to get among the first k is, for each taste
// that an engine may have,
//
//	P(position ≤ k) = 1/(1 + e^(−(t − need)/τ)),  need = ten·(mean signals of the ten) + step(k)
//
// with a step for each rank: the cumulative logit model for ordered outcomes (McCullagh
// 1980, "Regression models for ordinal data"). What an engine leans on nobody knows who
// asks it, so there is one need, τ and steps for each of the tastes that were met in the
// calibration; the chance is their mean, and its range their spread. Tastes are kept as
// hypotheses, each with a weight, so that what a user's own pages do later can weigh them.
// All constants were calibrated on experiments whose outcome is known; see calibrated.go.
//
// Why not a duel with each result (Bradley & Terry 1952) and the Poisson-binomial
// number of duels lost: the engine has shown the order already, so a result that
// looks weak and stands third has strengths that do not show, and ten duels are not
// ten independent surprises. docs/calibration.md compares them.
package difficulty

import (
	"math"
	"slices"
	"sort"

	"cleverniche/core/links"
)

// Signals are what strength is made of, each 0 to 100.
type Signals struct{ Page, Site, Fit float64 }

// Weights are the parts of strength, or of what the ten ask.
type Weights struct {
	Page float64 `json:"page"`
	Site float64 `json:"site"`
	Fit  float64 `json:"fit"`
}

// Step is what getting among the first Rank asks beside what the ten do.
type Step struct {
	Rank  int     `json:"rank"`
	Above float64 `json:"above"`
}

// EngineWeights is one way in which an engine may weigh what stands in front of a page.
type EngineWeights struct {
	Name   string  `json:"name"`
	Weight float64 `json:"weight"` // how much it is believed; those of a model sum to 1
	Ten    Weights `json:"ten"`    // what the mean signals of the ten ask; Site is of g(site standing)
	Tau    float64 `json:"tau"`    // the difference in strength that turns even odds into 73 : 27
	Steps  []Step  `json:"steps"`  // by rank, falling
}

// Model is a calibrated forecast.
type Model struct {
	Name     string          `json:"name"`     // when and on what it was calibrated
	Gain     float64         `json:"gain"`     // links.LinkGain of the page standings that it was calibrated with
	Curve    float64         `json:"curve"`    // exponent of g
	WellMade float64         `json:"wellMade"` // fit of a well-made page: the middle of those made with care
	Weights  Weights         `json:"weights"`  // of strength; they sum to 1
	Engines  []EngineWeights `json:"tastes"`
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

// Most is the end of the scale: no site's standing is more.
const Most = 100.0

// Mine is the page that I could put there.
type Mine struct {
	SiteStanding float64 `json:"siteStanding"`
	PlannedLinks int     `json:"plannedLinks"` // solid links I plan to get to it
	LinkStanding float64 `json:"linkStanding"` // standing of the sites they come from
	Fit          float64 `json:"fit"`
}

// Signals are what the strength of my page is made of.
func (m Mine) Signals() Signals {
	sites := make([]float64, m.PlannedLinks)
	for i := range sites {
		sites[i] = m.LinkStanding
	}
	return Signals{links.PageStanding(sites), m.SiteStanding, m.Fit}
}

// bent is g: what a site standing counts.
func (m Model) bent(standing float64) float64 {
	return Most * math.Pow(math.Max(0, standing)/Most, m.Curve)
}

func (m Model) weigh(w Weights, s Signals) float64 {
	return w.Page*s.Page + w.Site*m.bent(s.Site) + w.Fit*s.Fit
}

// Strength of a page. It has no unit; OnScale says what it amounts to.
func (m Model) Strength(s Signals) float64 { return m.weigh(m.Weights, s) }

// OnScale is the site standing, 0 to 100, whose well-made page without links has that
// strength: 0 where any well-made page has it, Most where no standing is enough.
func (m Model) OnScale(strength float64) float64 {
	g := (strength - m.Weights.Fit*m.WellMade) / m.Weights.Site
	return math.Max(0, math.Min(Most, Most*math.Pow(math.Max(0, g)/Most, 1/m.Curve)))
}

// Reach is what the strength of my page amounts to, on the scale: my site's standing,
// lifted by links and by fit above the well-made.
func (m Model) Reach(mine Mine) float64 { return m.OnScale(m.Strength(mine.Signals())) }

// Field is what stands in front of a page.
type Field struct {
	Rivals []Signals // in the order the engine shows them, without my own
	All    bool      // the engine has no more results than these
	Locked string    // why nobody else can win it; "" when it is open
}

// levelOf is how many results are asked about: those of the first page.
const levelOf = 10

// ten is the mean of the ten's signals, that of site standing bent.
func (m Model) ten(f Field) (page, site, fit float64) {
	list := f.Rivals[:min(levelOf, len(f.Rivals))]
	n := float64(len(list))
	for _, r := range list {
		page, site, fit = page+r.Page/n, site+m.bent(r.Site)/n, fit+r.Fit/n
	}
	return page, site, fit
}

// Room reports whether there are fewer results than the goal has places.
func (f Field) Room(k int) bool { return len(f.Rivals) == 0 || f.All && len(f.Rivals) < k }

// Step returns the step of a rank. Between the calibrated ranks it is interpolated
// along the logarithm of the rank; past the last one it stays.
func (t EngineWeights) Step(k int) float64 {
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

// faced is a field as each taste of a model sees it.
type faced struct {
	Model
	Field
	asks []float64 // by taste: what the ten ask
}

func (m Model) face(f Field) faced {
	page, site, fit := m.ten(f)
	x := faced{m, f, make([]float64, len(m.Engines))}
	for i, t := range m.Engines {
		x.asks[i] = t.Ten.Page*page + t.Ten.Site*site + t.Ten.Fit*fit
	}
	return x
}

// need is the strength that a taste asks for even odds of the first k.
func (x faced) need(taste, k int) float64 { return x.asks[taste] + x.Engines[taste].Step(k) }

func odds(strength, need, tau float64) float64 { return 1 / (1 + math.Exp((need-strength)/tau)) }

// Needed is the strength for even odds of getting among the first k: where the mean
// chance over the tastes is one half. A model without tastes needs none.
func (m Model) Needed(f Field, k int) float64 { return m.face(f).even(k) }

// halvings is how often the strengths between which even odds lie are halved: to less
// than a millionth.
const halvings = 36

func (x faced) even(k int) float64 {
	if len(x.Engines) == 0 {
		return 0
	}
	needs := make([]float64, len(x.Engines))
	for i := range needs {
		needs[i] = x.need(i, k)
	}
	low, high := slices.Min(needs), slices.Max(needs)
	for range halvings {
		mid, sum := (low+high)/2, 0.0
		for i, t := range x.Engines {
			sum += t.Weight * odds(mid, needs[i], t.Tau)
		}
		if sum < 0.5 {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// Chance is the probability that a page of a strength gets among the first k: the mean
// over the tastes. It is 1 where there are fewer results than that, and 0 where the phrase is
// locked.
func (m Model) Chance(f Field, strength float64, k int) float64 {
	return m.face(f).likely(strength, k)
}

func (x faced) likely(strength float64, k int) float64 {
	switch {
	case x.Locked != "" || k < 1:
		return 0
	case x.Room(k):
		return 1
	}
	sum := 0.0
	for i, t := range x.Engines {
		sum += t.Weight * odds(strength, x.need(i, k), t.Tau)
	}
	return sum
}

// Range is a chance with the least and the most that a taste gives it.
type Range struct {
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// hardlyBelieved is the share of an even weight below which a taste does not stretch the
// range any more (ours).
const hardlyBelieved = 0.1

// Range is the chance of getting among the first k, with its range over the tastes that
// are believed.
func (m Model) Range(f Field, strength float64, k int) Range { return m.face(f).spread(strength, k) }

func (x faced) spread(strength float64, k int) Range {
	r := Range{Mean: x.likely(strength, k)}
	if x.Locked != "" || k < 1 || x.Room(k) || len(x.Engines) == 0 {
		r.Low, r.High = r.Mean, r.Mean
		return r
	}
	r.Low = 1
	for i, t := range x.Engines {
		if t.Weight*float64(len(x.Engines)) >= hardlyBelieved {
			c := odds(strength, x.need(i, k), t.Tau)
			r.Low, r.High = math.Min(r.Low, c), math.Max(r.High, c)
		}
	}
	return r
}

// Weighed is the model with other weights of its tastes, in their order: what was seen of
// a user's own pages makes some of them likelier. The weights need not sum to 1.
func (m Model) Weighed(weights []float64) Model {
	sum := 0.0
	for _, w := range weights {
		sum += w
	}
	if len(weights) != len(m.Engines) || sum <= 0 {
		return m
	}
	m.Engines = slices.Clone(m.Engines)
	for i := range m.Engines {
		m.Engines[i].Weight = weights[i] / sum
	}
	return m
}

// Tasted calls do for each taste that is believed, with the chances of the first positions for a page of
// a strength.
func (m Model) Tasted(f Field, strength float64, do func(chances []float64)) {
	for _, t := range m.Engines {
		if t.Weight*float64(len(m.Engines)) >= hardlyBelieved {
			one := m
			one.Engines = []EngineWeights{t}
			one.Engines[0].Weight = 1
			do(one.Distribution(f, strength)[:Ranks])
		}
	}
}

// Likelihoods are how likely each taste made it that a page of a strength came to a
// position, 0 or more than Ranks being any further down: by them, and Bayes, the weights change.
func (m Model) Likelihoods(f Field, strength float64, position int) []float64 {
	out := make([]float64, len(m.Engines))
	for i, t := range m.Engines {
		one := m
		one.Engines = []EngineWeights{t}
		one.Engines[0].Weight = 1
		list := one.Distribution(f, strength)
		if position < 1 || position > Ranks {
			position = len(list)
		}
		out[i] = list[position-1]
	}
	return out
}

// Ranks is how many positions the distribution tells apart.
const Ranks = 20

// Distribution is the chance of each position for a page of a strength: element i is
// P(position = i+1), and the last, element Ranks, that of any further down. It sums to 1.
func (m Model) Distribution(f Field, strength float64) []float64 {
	x := m.face(f)
	out := make([]float64, Ranks+1)
	before := 0.0
	for k := 1; k <= Ranks; k++ {
		c := math.Max(before, x.likely(strength, k))
		out[k-1] = c - before
		before = c
	}
	out[Ranks] = 1 - before
	return out
}

// Expected is the expected position, where any below the first Ranks counts as the
// one after them.
func (m Model) Expected(f Field, x float64) float64 {
	sum := 0.0
	for i, p := range m.Distribution(f, x) {
		sum += float64(i+1) * p
	}
	return sum
}

// For returns the difficulty of getting among the first k: the site standing, 0 to 100,
// with which a well-made page that nobody links to has even odds; 0 where none is
// needed, 100 where none is enough.
func (m Model) For(f Field, k int) float64 { return m.face(f).difficulty(k) }

func (x faced) difficulty(k int) float64 {
	switch {
	case x.Locked != "":
		return Most
	case x.Room(k):
		return 0
	}
	return x.OnScale(x.even(k))
}

// Stairs are what each place of the first page asks: the difficulty of getting among the
// first 1, 2 … 10.
func (m Model) Stairs(f Field) []float64 {
	x := m.face(f)
	out := make([]float64, levelOf)
	for k := range out {
		out[k] = x.difficulty(k + 1)
	}
	return out
}

// Parts are difficulty seen from two sides, each 0 to 100: what site standing is needed
// for even odds by a page without links whose fit is the median of the ten; and what fit
// is needed by a page whose standings are the medians of the ten.
type Parts struct {
	OffPage float64 `json:"offPage"`
	OnPage  float64 `json:"onPage"`
}

// Parts takes the difficulty of getting among the first k apart.
func (m Model) Parts(f Field, k int) Parts {
	if f.Locked != "" {
		return Parts{Most, mostFit}
	}
	if f.Room(k) {
		return Parts{}
	}
	ten := f.Rivals[:min(levelOf, len(f.Rivals))]
	mid := Signals{median(ten, func(s Signals) float64 { return s.Page }),
		median(ten, func(s Signals) float64 { return s.Site }), median(ten, func(s Signals) float64 { return s.Fit })}
	need := m.Needed(f, k)
	return Parts{OffPage: m.OnScale(need + m.Weights.Fit*(m.WellMade-mid.Fit)),
		OnPage: math.Max(0, math.Min(mostFit, (need-m.Strength(Signals{mid.Page, mid.Site, 0}))/m.Weights.Fit))}
}

func median(list []Signals, of func(Signals) float64) float64 {
	values := make([]float64, len(list))
	for i, s := range list {
		values[i] = of(s)
	}
	slices.Sort(values)
	n := len(values)
	return (values[(n-1)/2] + values[n/2]) / 2
}

// MostLinks is the largest number of solid links that LinksNeeded answers with.
const MostLinks = 200

// LinksNeeded is the smallest number of links, from sites of standing
// mine.LinkStanding, with which my page has even odds of getting among the first k.
// ok is false when MostLinks are not enough.
func (m Model) LinksNeeded(f Field, mine Mine, k int) (n int, ok bool) {
	if f.Locked != "" {
		return MostLinks + 1, false
	}
	x := m.face(f)
	n = sort.Search(MostLinks+1, func(n int) bool {
		mine.PlannedLinks = n
		return x.likely(m.Strength(mine.Signals()), k) >= 0.5
	})
	return n, n <= MostLinks
}

// FitNeeded is the smallest fit with which my page has even odds of getting among
// the first k. ok is false when no fit is enough.
func (m Model) FitNeeded(f Field, mine Mine, k int) (fit float64, ok bool) {
	if f.Locked != "" {
		return mostFit, false
	}
	if f.Room(k) {
		return 0, true
	}
	mine.Fit = 0
	fit = math.Max(0, (m.Needed(f, k)-m.Strength(mine.Signals()))/m.Weights.Fit)
	return fit, fit <= mostFit
}

// Change is one thing that could be done about my page.
type Change struct {
	What   string  `json:"what"`
	Chance float64 `json:"chance"` // after it, of TheGoal
	Gain   float64 `json:"gain"`   // how much more that is
	Range  Range   `json:"range"`  // the chance with its range
}

// What one change is taken to be (ours): about the same effort each.
const (
	moreLinks = 2
	moreFit   = 10
	moreSite  = 5
)

// Changes tells what each single change would do to the chance of getting among the
// first k, the best first. What cannot be done, such as fit beyond 100, is left out.
func (m Model) Changes(f Field, mine Mine, k int) []Change {
	x := m.face(f)
	now := x.likely(m.Strength(mine.Signals()), k)
	var out []Change
	add := func(what string, then Mine, possible bool) {
		if c := x.likely(m.Strength(then.Signals()), k); possible && c > now {
			out = append(out, Change{what, c, c - now, x.spread(m.Strength(then.Signals()), k)})
		}
	}
	then := mine
	then.PlannedLinks += moreLinks
	add("two more solid links", then, then.PlannedLinks <= MostLinks)
	then = mine
	then.Fit = math.Min(mostFit, mine.Fit+moreFit)
	add("ten points more of fit", then, mine.Fit+moreFit <= mostFit)
	then = mine
	then.SiteStanding += moreSite
	add("five points more of site standing", then, then.SiteStanding <= 100)
	sort.SliceStable(out, func(i, j int) bool { return out[i].Gain > out[j].Gain })
	return out
}

// Verdict is all that is computed for one idea. Difficulty, reach, stairs and what the
// results hold are on the scale of site standing.
type Verdict struct {
	Holds      []float64 `json:"holds"`  // what the strength of each result amounts to, in their order
	Stairs     []float64 `json:"stairs"` // what each place of the first page asks
	Strength   float64   `json:"strength"`
	Reach      float64   `json:"reach"`
	Difficulty float64   `json:"difficulty"` // for TheGoal
	Parts      Parts     `json:"parts"`
	Locked     string    `json:"locked"`
	PageOne    Range     `json:"pageOne"` // chances, 0 to 1
	TopFive    Range     `json:"topFive"`
	TopThree   Range     `json:"topThree"`
	Expected   float64   `json:"expected"` // position
	Links      int       `json:"links"`    // solid links for even odds of TheGoal
	LinksOK    bool      `json:"linksOK"`
	FitNeeded  float64   `json:"fitNeeded"`
	FitOK      bool      `json:"fitOK"`
	Changes    []Change  `json:"changes"`
}

// Judge computes the verdict on a field for my page.
func (m Model) Judge(f Field, mine Mine) Verdict {
	t := m.Strength(mine.Signals())
	v := Verdict{Strength: t, Reach: m.OnScale(t), Stairs: m.Stairs(f), Difficulty: m.For(f, TheGoal),
		Parts: m.Parts(f, TheGoal), Locked: f.Locked, PageOne: m.Range(f, t, PageOne), TopFive: m.Range(f, t, TopFive),
		TopThree: m.Range(f, t, TopThree), Expected: m.Expected(f, t)}
	for _, r := range f.Rivals {
		v.Holds = append(v.Holds, m.OnScale(m.Strength(r)))
	}
	v.Links, v.LinksOK = m.LinksNeeded(f, mine, TheGoal)
	v.FitNeeded, v.FitOK = m.FitNeeded(f, mine, TheGoal)
	v.Changes = m.Changes(f, mine, TheGoal)
	return v
}
