// Package difficulty says how strong the results in front of a page are, how
// strong that page can be, and what chance that gives it.
//
// Strength and reach are on one scale, 0 to 100: a weighted sum of page standing,
// site standing and fit. What stands in front of a page is summed up in its level,
// the mean strength of the ten. The chance to get among the first k is
//
//	P(position ≤ k) = 1/(1 + e^(−(x − level − sₖ − m)/τ))
//
// with a step sₖ for each rank: the cumulative logit model for ordered outcomes
// (McCullagh 1980, "Regression models for ordinal data"), and m, how much more than
// others the engine asks of a newcomer, where that was measured. Weights, τ, steps and
// m were calibrated on experiments whose outcome is known; see calibrated.go.
//
// Why not a duel with each result (Bradley & Terry 1952) and the Poisson-binomial
// number of duels lost: the engine has shown the order already, so a result that
// looks weak and stands third has strengths that do not show, and ten duels are not
// ten independent surprises. On the held-out worlds the duels with calibrated
// weights order the outcomes as well, but their chances are off by 0.08 to 0.15 on
// average, these by 0.01 to 0.02 (docs/calibration.md).
package difficulty

import (
	"math"
	"slices"
	"sort"

	"cleverniche/core/links"
)

// Signals are what strength is made of, each 0 to 100.
type Signals struct{ Page, Site, Fit float64 }

// Weights are the parts of strength; they sum to 1.
type Weights struct {
	Page float64 `json:"page"`
	Site float64 `json:"site"`
	Fit  float64 `json:"fit"`
}

// Strength of a page.
func (w Weights) Strength(s Signals) float64 { return w.Page*s.Page + w.Site*s.Site + w.Fit*s.Fit }

// Step is how far above the level of the ten a page needs to be for even odds of
// getting among the first Rank; below it when negative.
type Step struct {
	Rank  int     `json:"rank"`
	Above float64 `json:"above"`
}

// Model is a calibrated forecast.
type Model struct {
	Name    string  `json:"name"` // when and on what it was calibrated
	Gain    float64 `json:"gain"` // links.LinkGain of the page standings that it was calibrated with
	Weights Weights `json:"weights"`
	Tau     float64 `json:"tau"`   // the difference in strength that turns even odds into 73 : 27
	Steps   []Step  `json:"steps"` // by rank, falling
	// Engines is how much more an engine asks of a newcomer than the mean of those
	// that were measured; an engine that is not there is taken for the mean.
	Engines map[string]float64 `json:"engines"`
}

// Goals that a page can have: to be among the first so many.
const (
	PageOne  = 10
	TopFive  = 5
	TopThree = 3
	TheGoal  = TopFive // the goal that difficulty means, if nothing else is said
)

// What is assumed of my page until the user says otherwise (ours).
const (
	WellMade        = 85.0 // fit of a well-made page
	PlannedStanding = 35.0 // of a site that would give me a solid link
	mostFit         = 100.0
)

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

// Reach is the strength of my page.
func (w Weights) Reach(m Mine) float64 { return w.Strength(m.Signals()) }

// Field is what stands in front of a page.
type Field struct {
	Rivals []Signals // in the order the engine shows them, without my own
	All    bool      // the engine has no more results than these
	Engine string    // by which they are shown; "" when that is not known
	Locked string    // why nobody else can win it; "" when it is open
}

// levelOf is how many results the level is the mean of: those of the first page.
const levelOf = 10

// Level is the mean strength of the ten.
func (m Model) Level(f Field) float64 {
	ten := f.Rivals[:min(levelOf, len(f.Rivals))]
	sum := 0.0
	for _, r := range ten {
		sum += m.Weights.Strength(r) / float64(len(ten))
	}
	return sum
}

// room reports whether there are fewer results than the goal has places.
func (f Field) room(k int) bool { return len(f.Rivals) == 0 || f.All && len(f.Rivals) < k }

// Step returns the step of a rank. Between the calibrated ranks it is interpolated
// along the logarithm of the rank; past the last one it stays.
func (m Model) Step(k int) float64 {
	i := sort.Search(len(m.Steps), func(i int) bool { return m.Steps[i].Rank >= k })
	switch {
	case len(m.Steps) == 0:
		return 0
	case i == len(m.Steps):
		return m.Steps[i-1].Above
	case i == 0 || m.Steps[i].Rank == k:
		return m.Steps[i].Above
	}
	a, b := m.Steps[i-1], m.Steps[i]
	share := math.Log(float64(k)/float64(a.Rank)) / math.Log(float64(b.Rank)/float64(a.Rank))
	return a.Above + share*(b.Above-a.Above)
}

// Needed is the reach for even odds of getting among the first k, on no bounded scale:
// the level, the step, and what the engine asks more.
func (m Model) Needed(f Field, k int) float64 { return m.Level(f) + m.Step(k) + m.Engines[f.Engine] }

// Chance is the probability that a page of reach x gets among the first k. It is 1
// where there are fewer results than that, and 0 where the phrase is locked.
func (m Model) Chance(f Field, x float64, k int) float64 {
	switch {
	case f.Locked != "" || k < 1:
		return 0
	case f.room(k):
		return 1
	}
	return 1 / (1 + math.Exp((m.Needed(f, k)-x)/m.Tau))
}

// Ranks is how many positions the distribution tells apart.
const Ranks = 20

// Distribution is the chance of each position: element i is P(position = i+1), and
// the last, element Ranks, that of any further down. It sums to 1.
func (m Model) Distribution(f Field, x float64) []float64 {
	out := make([]float64, Ranks+1)
	before := 0.0
	for k := 1; k <= Ranks; k++ {
		c := math.Max(before, m.Chance(f, x, k))
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

// For returns the difficulty of getting among the first k: the reach, 0 to 100,
// with which the chance is one half; 0 where none is needed, 100 where none is
// enough.
func (m Model) For(f Field, k int) float64 {
	switch {
	case f.Locked != "":
		return 100
	case f.room(k):
		return 0
	}
	return math.Max(0, math.Min(100, m.Needed(f, k)))
}

// Parts are difficulty seen from two sides, each 0 to 100: what page and site
// standing (as one, in the proportion of their weights) are needed for even odds by
// a page whose fit is the median of the ten; and what fit is needed by a page whose
// standings are the medians of the ten.
type Parts struct {
	OffPage float64 `json:"offPage"`
	OnPage  float64 `json:"onPage"`
}

// Parts takes the difficulty of getting among the first k apart.
func (m Model) Parts(f Field, k int) Parts {
	if f.Locked != "" {
		return Parts{100, 100}
	}
	if f.room(k) {
		return Parts{}
	}
	ten := f.Rivals[:min(levelOf, len(f.Rivals))]
	mid := Signals{median(ten, func(s Signals) float64 { return s.Page }),
		median(ten, func(s Signals) float64 { return s.Site }), median(ten, func(s Signals) float64 { return s.Fit })}
	need, w := m.Needed(f, k), m.Weights
	onScale := func(v float64) float64 { return math.Max(0, math.Min(100, v)) }
	return Parts{OffPage: onScale((need - w.Fit*mid.Fit) / (w.Page + w.Site)),
		OnPage: onScale((need - w.Page*mid.Page - w.Site*mid.Site) / w.Fit)}
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
	n = sort.Search(MostLinks+1, func(n int) bool {
		mine.PlannedLinks = n
		return m.Chance(f, m.Weights.Reach(mine), k) >= 0.5
	})
	return n, n <= MostLinks
}

// FitNeeded is the smallest fit with which my page has even odds of getting among
// the first k. ok is false when no fit is enough.
func (m Model) FitNeeded(f Field, mine Mine, k int) (fit float64, ok bool) {
	if f.Locked != "" {
		return mostFit, false
	}
	if f.room(k) {
		return 0, true
	}
	mine.Fit = 0
	fit = math.Max(0, (m.Needed(f, k)-m.Weights.Reach(mine))/m.Weights.Fit)
	return fit, fit <= mostFit
}

// Change is one thing that could be done about my page.
type Change struct {
	What   string  `json:"what"`
	Chance float64 `json:"chance"` // after it, of TheGoal
	Gain   float64 `json:"gain"`   // how much more that is
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
	now := m.Chance(f, m.Weights.Reach(mine), k)
	var out []Change
	add := func(what string, then Mine, possible bool) {
		if c := m.Chance(f, m.Weights.Reach(then), k); possible && c > now {
			out = append(out, Change{what, c, c - now})
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

// Verdict is all that is computed for one idea.
type Verdict struct {
	Strengths  []float64 `json:"strengths"` // of the results, in their order
	Level      float64   `json:"level"`     // mean of the ten
	Engine     float64   `json:"engine"`    // how much more the engine asks than others
	Reach      float64   `json:"reach"`
	Difficulty float64   `json:"difficulty"` // for TheGoal
	Parts      Parts     `json:"parts"`
	Locked     string    `json:"locked"`
	PageOne    float64   `json:"pageOne"` // chances, 0 to 1
	TopFive    float64   `json:"topFive"`
	TopThree   float64   `json:"topThree"`
	Expected   float64   `json:"expected"` // position
	Links      int       `json:"links"`    // solid links for even odds of TheGoal
	LinksOK    bool      `json:"linksOK"`
	FitNeeded  float64   `json:"fitNeeded"`
	FitOK      bool      `json:"fitOK"`
	Changes    []Change  `json:"changes"`
}

// Judge computes the verdict on a field for my page.
func (m Model) Judge(f Field, mine Mine) Verdict {
	v := Verdict{Level: m.Level(f), Engine: m.Engines[f.Engine], Reach: m.Weights.Reach(mine),
		Difficulty: m.For(f, TheGoal), Parts: m.Parts(f, TheGoal), Locked: f.Locked}
	for _, r := range f.Rivals {
		v.Strengths = append(v.Strengths, m.Weights.Strength(r))
	}
	v.PageOne = m.Chance(f, v.Reach, PageOne)
	v.TopFive = m.Chance(f, v.Reach, TopFive)
	v.TopThree = m.Chance(f, v.Reach, TopThree)
	v.Expected = m.Expected(f, v.Reach)
	v.Links, v.LinksOK = m.LinksNeeded(f, mine, TheGoal)
	v.FitNeeded, v.FitOK = m.FitNeeded(f, mine, TheGoal)
	v.Changes = m.Changes(f, mine, TheGoal)
	return v
}
