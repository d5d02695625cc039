package main

import (
	"math"
	"math/rand/v2"
	"sort"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/standin"
)

// needed is a phrase on an engine with its difficulty and the strength that was
// really needed there.
type needed struct {
	Engine             string
	Difficulty, Really float64
}

// rungs is how many pages of rising strength are tried for a phrase.
const rungs = 16

// ladders tries, for each of n phrases of a world, pages from the weakest to the
// strongest, each by itself, and finds the reach from which they get among the first
// k: the one that puts the fewest of them on the wrong side. Phrases where all or
// none get there tell no such reach and are left out.
func ladders(m difficulty.Model, number, n, k int, day time.Time) ([]needed, error) {
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
			for j := range i / 3 { // stronger pages have more links
				x.Links = append(x.Links, standin.LabLink{From: pool[rungs+j].Site})
			}
			batch.Trials = append(batch.Trials, x)
		}
	}
	if err := l.world.Prepare(&batch); err != nil {
		return nil, err
	}
	outcomes := l.world.Try(batch)
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
			if really, ok := threshold(m, byEngine[name], k); ok {
				out = append(out, needed{name, m.For(field(byEngine[name][0]), k), really})
			}
		}
	}
	return out, nil
}

// threshold is the reach that tells those who got among the first k from the others
// with the fewest mistakes; in the middle, where several do.
func threshold(m difficulty.Model, tries []Sample, k int) (float64, bool) {
	type try struct {
		reach float64
		there bool
	}
	var list []try
	there := 0
	for _, s := range tries {
		if !full(s) {
			return 0, false
		}
		t := try{m.Weights.Strength(difficulty.Signals(s.Mine)), reached(s, k)}
		if t.there {
			there++
		}
		list = append(list, t)
	}
	if there == 0 || there == len(list) {
		return 0, false
	}
	sort.Slice(list, func(i, j int) bool { return list[i].reach < list[j].reach })
	fewest, sum, cuts := math.MaxInt, 0.0, 0.0
	below, above := 0, there // got there from below the cut; got there from above it
	for i := 0; i < len(list)-1; i++ {
		if list[i].there {
			below++
			above--
		}
		mistakes := below + (len(list) - 1 - i - above)
		cut := (list[i].reach + list[i+1].reach) / 2
		if mistakes < fewest {
			fewest, sum, cuts = mistakes, 0, 0
		}
		if mistakes == fewest {
			sum += cut
			cuts++
		}
	}
	return sum / cuts, true
}
