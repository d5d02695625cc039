// Package difficulty says how strong the results in front of a page are, how
// strong that page can be, and what chance that gives it.
//
// A result's strength and my reach are on one scale, 0 to 100. That result i
// stays ahead of a page of reach x has the chance 1/(1 + e^(−(tᵢ−x)/τ)) (Bradley
// & Terry 1952, "Rank analysis of incomplete block designs"); the number of
// results ahead is then Poisson-binomial.
package difficulty

import (
	"math"
	"sort"

	"cleverniche/core/links"
)

// Weights are the parts of strength; they sum to 1.
type Weights struct{ Page, Site, Fit float64 }

// DefaultWeights are ours, and not calibrated against outcomes yet.
var DefaultWeights = Weights{Page: 0.45, Site: 0.20, Fit: 0.35}

// Tau is the difference in strength that turns even odds into 73 : 27. Ours, not
// calibrated yet.
const Tau = 6.0

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

// Strength of a page: standing of the page, of its site, and fit, each 0 to 100.
func (w Weights) Strength(page, site, fit float64) float64 {
	return w.Page*page + w.Site*site + w.Fit*fit
}

// Mine is the page that I could put there.
type Mine struct {
	SiteStanding float64
	PlannedLinks int     // solid links I plan to get to it
	LinkStanding float64 // standing of the sites they come from
	Fit          float64
}

// PageStanding is what the planned links give.
func (m Mine) PageStanding() float64 {
	sites := make([]float64, m.PlannedLinks)
	for i := range sites {
		sites[i] = m.LinkStanding
	}
	return links.PageStanding(sites)
}

// Reach is the strength of my page.
func (w Weights) Reach(m Mine) float64 {
	return w.Strength(m.PageStanding(), m.SiteStanding, m.Fit)
}

// Ahead is the chance that a result of strength t stays ahead of a page of reach x.
func Ahead(t, x float64) float64 { return 1 / (1 + math.Exp(-(t-x)/Tau)) }

// Count returns the distribution of the number of successes among independent
// trials with the given chances: element k is P(exactly k). It is exact, by
// dynamic programming in O(n²) (Poisson-binomial).
func Count(chances []float64) []float64 {
	dist := make([]float64, 1, len(chances)+1)
	dist[0] = 1
	for _, p := range chances {
		dist = append(dist, 0)
		for k := len(dist) - 1; k > 0; k-- {
			dist[k] = dist[k]*(1-p) + dist[k-1]*p
		}
		dist[0] *= 1 - p
	}
	return dist
}

// Chance is the probability that a page of reach x gets among the first k, with
// results of the given strengths: P(at most k−1 ahead). A page with fewer than
// k results in front of it is certain to.
func Chance(strengths []float64, x float64, k int) float64 {
	ahead := make([]float64, len(strengths))
	for i, t := range strengths {
		ahead[i] = Ahead(t, x)
	}
	sum := 0.0
	for i, p := range Count(ahead) {
		if i < k {
			sum += p
		}
	}
	return math.Min(1, sum)
}

// Expected is the expected position: one more than the mean number ahead.
func Expected(strengths []float64, x float64) float64 {
	sum := 1.0
	for _, t := range strengths {
		sum += Ahead(t, x)
	}
	return sum
}

// For returns the difficulty of getting among the first k: the reach, 0 to 100,
// at which the chance is one half. It is 0 when even a reach of 0 has even odds,
// and 100 when a reach of 100 has not.
func For(strengths []float64, k int) float64 {
	if Chance(strengths, 0, k) >= 0.5 {
		return 0
	}
	if Chance(strengths, 100, k) < 0.5 {
		return 100
	}
	low, high := 0.0, 100.0
	for range 40 {
		mid := (low + high) / 2
		if Chance(strengths, mid, k) < 0.5 {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}

// MostLinks is the largest number of solid links that LinksNeeded answers with.
const MostLinks = 200

// LinksNeeded is the smallest number of links, from sites of standing
// m.LinkStanding, with which m has even odds of getting among the first k. ok is
// false when MostLinks are not enough.
func LinksNeeded(w Weights, m Mine, strengths []float64, k int) (n int, ok bool) {
	need := For(strengths, k)
	n = sort.Search(MostLinks+1, func(n int) bool {
		m.PlannedLinks = n
		return w.Reach(m) >= need
	})
	return n, n <= MostLinks
}

// FitNeeded is the smallest fit with which m has even odds of getting among the
// first k. ok is false when no fit is enough.
func FitNeeded(w Weights, m Mine, strengths []float64, k int) (fit float64, ok bool) {
	m.Fit = 0
	fit = (For(strengths, k) - w.Reach(m)) / w.Fit
	return math.Max(0, fit), fit <= mostFit
}

// Verdict is all that is computed for one idea.
type Verdict struct {
	Strengths  []float64 // of the results, in their order
	Reach      float64
	Difficulty float64 // for TheGoal
	PageOne    float64 // chances, 0 to 1
	TopFive    float64
	TopThree   float64
	Expected   float64 // position
	Links      int     // solid links for even odds of TheGoal
	LinksOK    bool
	FitNeeded  float64
	FitOK      bool
}

// Judge computes the verdict on results of the given strengths for my page.
func Judge(w Weights, m Mine, strengths []float64) Verdict {
	v := Verdict{Strengths: strengths, Reach: w.Reach(m), Difficulty: For(strengths, TheGoal)}
	v.PageOne = Chance(strengths, v.Reach, PageOne)
	v.TopFive = Chance(strengths, v.Reach, TopFive)
	v.TopThree = Chance(strengths, v.Reach, TopThree)
	v.Expected = Expected(strengths, v.Reach)
	v.Links, v.LinksOK = LinksNeeded(w, m, strengths, TheGoal)
	v.FitNeeded, v.FitOK = FitNeeded(w, m, strengths, TheGoal)
	return v
}
