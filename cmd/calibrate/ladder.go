package main

import (
	"math"
	"math/rand/v2"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/standin"
)

// needed is a phrase on an engine with the strength that the model says is needed there and
// the one that really was.
type needed struct {
	World              int
	Engine, Hobby      string
	Difficulty, Really float64
}

// rungs is how many pages of rising strength are tried for a phrase: the more, the
// smaller the error with which the strength really needed is measured.
const (
	rungs     = 96
	mostLinks = 5 // that the strongest have more than drawn
)

// ladders tries, for each of n phrases of a world, pages from the weakest to the
// strongest, each by itself, and finds the reach from which they get among the first
// k. Phrases where all or none get there tell no such reach and are left out.
func ladders(of models, f fitted, number, n, k int, day time.Time) ([]needed, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	rng := rand.New(rand.NewPCG(uint64(number), 99))
	phrases := l.design(n, rng, day)
	batch := standin.Batch{Weeks: []int{settled}, Pages: true}
	for _, p := range phrases {
		pool := l.design(3*rungs, rng, day)
		for i := range rungs {
			x := pool[i]
			x.Phrase = p.Phrase
			x.Fit = 20 + 80*i/(rungs-1)
			for j := range i * (mostLinks + 1) / rungs { // stronger pages have more links
				x.Links = append(x.Links, standin.LabLink{From: pool[rungs+j].Site})
			}
			batch.Trials = append(batch.Trials, x)
		}
	}
	if err := l.world.Prepare(&batch); err != nil {
		return nil, err
	}
	outcomes := l.world.Try(batch)
	truths := l.truths()
	var out []needed
	for i := range phrases {
		byEngine := map[string][]Sample{}
		for j := range rungs {
			at := i*rungs + j
			for _, position := range outcomes[at].Positions {
				s, err := l.sample(batch.Trials[at], outcomes[at], position)
				if err != nil {
					return nil, err
				}
				byEngine[s.Engine] = append(byEngine[s.Engine], s)
			}
		}
		for _, name := range standin.EngineNames {
			tries := under(byEngine[name], f.points, f.gain)
			if len(tries) == 0 || !full(tries[0]) {
				continue
			}
			m := of(tries[0])
			if really, ok := threshold(m, tries, k); ok {
				out = append(out, needed{number, name, truths[phrases[i].Phrase].Hobby, m.Needed(field(tries[0]), k), really})
			}
		}
	}
	return out, nil
}

// threshold is the strength at which the odds are even, by maximum likelihood: the chance
// of each try is logistic around it, as steep as the model has it. It is found among the
// strengths of the tries, in steps of a two-hundredth of what lies between them.
func threshold(m difficulty.Model, tries []Sample, k int) (float64, bool) {
	there := 0
	low, high := math.Inf(1), math.Inf(-1)
	for _, s := range tries {
		if !full(s) {
			return 0, false
		}
		if reached(s, k) {
			there++
		}
		x := m.Strength(s.Mine)
		low, high = math.Min(low, x), math.Max(high, x)
	}
	if there == 0 || there == len(tries) {
		return 0, false
	}
	least, at := math.Inf(1), 0.0
	for i := range 201 {
		theta, loss := low+(high-low)*float64(i)/200, 0.0
		for _, s := range tries {
			loss += softplus(-signed(m.Deep.Slope*(m.Strength(s.Mine)-theta), reached(s, k)))
		}
		if loss < least {
			least, at = loss, theta
		}
	}
	return at, true
}
