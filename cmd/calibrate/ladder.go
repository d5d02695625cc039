package main

import (
	"math"
	"math/rand/v2"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
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
func ladders(m difficulty.Model, points serp.Points, number, n, k int, day time.Time) ([]needed, error) {
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
	of := l.truths()
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
			tries := under(byEngine[name], points, m.Gain)
			if really, ok := threshold(m, tries, k); ok {
				out = append(out, needed{number, name, of[phrases[i].Phrase].Hobby, m.Needed(field(tries[0]), k), really})
			}
		}
	}
	return out, nil
}

// threshold is the strength at which the odds are even, by maximum likelihood: the chance
// of each try is logistic around it, with the mean τ of the tastes. It is found among the
// strengths from 0 to 100 in steps of a tenth.
func threshold(m difficulty.Model, tries []Sample, k int) (float64, bool) {
	there := 0
	for _, s := range tries {
		if !full(s) {
			return 0, false
		}
		if reached(s, k) {
			there++
		}
	}
	if there == 0 || there == len(tries) {
		return 0, false
	}
	tau := 0.0
	for _, t := range m.Engines {
		tau += t.Weight * t.Tau
	}
	least, at := math.Inf(1), 0.0
	for theta := 0.0; theta <= 100; theta += 0.1 {
		loss := 0.0
		for _, s := range tries {
			x := m.Strength(s.Mine)
			loss += softplus(-signed((x-theta)/tau, reached(s, k)))
		}
		if loss < least {
			least, at = loss, theta
		}
	}
	return at, true
}
