package difficulty

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// Candidate is an idea that may be looked up, as far as it is known without.
type Candidate struct {
	Stems    []string
	Words    int
	Searches float64 // a month; under a source's floor that floor, 0 not known
}

// Promise orders candidates by the difficulty that is to be expected of them, from words, searches and what is known of
// their relatives: a Bayesian linear regression on the first two (Gelman et al. 2013, "Bayesian Data Analysis",
// §14.8), and of what it leaves, the mean over those that share stems, weighed by how many. It learns as it goes.
type Promise struct {
	list  []Candidate
	taken []bool
	kin   []kin // by candidate: sums over its relatives
	xx    *mat.SymDense
	xy    *mat.VecDense
	w     [promiseTraits]float64
	stale bool
}

const promiseTraits = 3

// What is expected before anything was looked up, and how sure that is: difficulty rises with searches, and hardly
// falls with words (ours).
var (
	promisePrior  = [promiseTraits]float64{20, 15, -2} // at no searches, for ten times as many, for a word
	promiseSpread = [promiseTraits]float64{25, 10, 4}
)

const (
	promiseNoise = 25.0 // what the line misses
	promiseKin   = 0.4  // how much relatives must weigh to count as much as none (ours)
)

// kin are sums over the looked-up relatives of a candidate.
type kin struct {
	weight, y float64
	x         [promiseTraits]float64
}

// NewPromise is for candidates of which none is looked up yet.
func NewPromise(list []Candidate) *Promise {
	p := &Promise{list: list, taken: make([]bool, len(list)), kin: make([]kin, len(list)),
		xx: mat.NewSymDense(promiseTraits, nil), xy: mat.NewVecDense(promiseTraits, nil), stale: true}
	for i := range promiseTraits {
		precision := 1 / (promiseSpread[i] * promiseSpread[i])
		p.xx.SetSym(i, i, precision)
		p.xy.SetVec(i, precision*promisePrior[i])
	}
	return p
}

func (c Candidate) traits() [promiseTraits]float64 {
	return [promiseTraits]float64{1, math.Log10(1 + max(0, c.Searches)), float64(c.Words)}
}

// Learn tells that an idea, one of the candidates or another, was looked up, and how difficult it is.
func (p *Promise) Learn(c Candidate, difficulty float64) {
	x, noise := c.traits(), promiseNoise*promiseNoise
	for i := range promiseTraits {
		for j := i; j < promiseTraits; j++ {
			p.xx.SetSym(i, j, p.xx.At(i, j)+x[i]*x[j]/noise)
		}
		p.xy.SetVec(i, p.xy.AtVec(i)+x[i]*difficulty/noise)
	}
	p.stale = true
	for i := range p.list {
		if p.taken[i] {
			continue
		}
		if w := likeness(p.list[i].Stems, c.Stems); w > 0 {
			k := &p.kin[i]
			k.weight += w
			k.y += w * difficulty
			for j := range x {
				k.x[j] += w * x[j]
			}
		}
	}
}

// likeness is the square of the share of stems that two have in common (Jaccard 1901).
func likeness(a, b []string) float64 {
	both := 0
	for _, s := range a {
		if slices.Contains(b, s) {
			both++
		}
	}
	share := float64(both) / float64(max(1, len(a)+len(b)-both))
	return share * share
}

// Expected is the difficulty that is to be expected of a candidate.
func (p *Promise) Expected(i int) float64 {
	p.settle()
	x, k := p.list[i].traits(), p.kin[i]
	line, left := 0.0, k.y
	for j := range x {
		line += p.w[j] * x[j]
		left -= p.w[j] * k.x[j]
	}
	return line + left/(promiseKin+k.weight)
}

// settle solves for the line.
func (p *Promise) settle() {
	if !p.stale {
		return
	}
	var chol mat.Cholesky
	var w mat.VecDense
	if chol.Factorize(p.xx) && chol.SolveVecTo(&w, p.xy) == nil {
		for j := range p.w {
			p.w[j] = w.AtVec(j)
		}
	}
	p.stale = false
}

// Next takes the candidate of least expected difficulty, the more searched of equals; ok is false when all are taken.
func (p *Promise) Next() (i int, ok bool) {
	best, at := math.Inf(1), -1
	for i := range p.list {
		if p.taken[i] {
			continue
		}
		if d := p.Expected(i); d < best || d == best && p.list[i].Searches > p.list[at].Searches {
			best, at = d, i
		}
	}
	if at >= 0 {
		p.taken[at] = true
	}
	return at, at >= 0
}

// Take takes a candidate out: it is looked up already, or is not to be.
func (p *Promise) Take(i int) { p.taken[i] = true }
