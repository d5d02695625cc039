package main

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/standin"
)

// penalties are how strongly a taste is held to what all have in common.
var penalties = []float64{1, 3, 10, 30}

// tasteOf is the taste of weights of the ten and intercepts, both as they stand beside
// strength over tau.
func tasteOf(name string, tau float64, ten, intercepts []float64) difficulty.EngineWeights {
	t := difficulty.EngineWeights{Name: name, Weight: 1, Tau: tau,
		Ten: difficulty.Weights{Page: -tau * ten[0], Site: -tau * ten[1], Fit: -tau * ten[2]}}
	above := math.Inf(1)
	for j, k := range goals {
		above = math.Min(above, -tau*intercepts[j]) // a later rank asks no more
		t.Steps = append(t.Steps, difficulty.Step{Rank: k, Above: above})
	}
	return t
}

// tastes finds one taste for each engine of each world, with the weights of strength as
// they are, held to what all samples share by a penalty.
func tastes(samples []Sample, m difficulty.Model, penalty float64) ([]difficulty.EngineWeights, error) {
	columns := func(s Sample) []float64 {
		_, ten := columnsOf(s, m)
		return []float64{m.Strength(s.Mine), ten[0], ten[1], ten[2]}
	}
	common, err := regress(samples, columns, nil, 0)
	if err != nil {
		return nil, err
	}
	var out []difficulty.EngineWeights
	for _, name := range tasteNames(samples) {
		r, err := regress(only(samples, func(s Sample) bool { return s.taste() == name }), columns, &common, penalty)
		if err != nil {
			return nil, fmt.Errorf("taste %s: %w", name, err)
		}
		w, intercepts := r.raw()
		if w[0] <= 0 {
			return nil, fmt.Errorf("taste %s: strength does not help", name)
		}
		out = append(out, tasteOf(name, 1/w[0], w[1:], intercepts))
	}
	for i := range out {
		out[i].Weight = 1 / float64(len(out))
	}
	return out, nil
}

// taste names the engine of a world, by number: nothing in the core knows an engine by name.
func (s Sample) taste() string {
	return fmt.Sprintf("%d.%d", s.World, 1+slices.Index(standin.EngineNames, s.Engine))
}

func tasteNames(samples []Sample) []string {
	seen := map[string]bool{}
	for _, s := range samples {
		seen[s.taste()] = true
	}
	return slices.Sorted(maps.Keys(seen))
}

func only(samples []Sample, keep func(Sample) bool) (out []Sample) {
	for _, s := range samples {
		if keep(s) {
			out = append(out, s)
		}
	}
	return out
}

// byOwnTaste is what the model says with the one taste that the sample is of; the model
// must have it.
func byOwnTaste(m difficulty.Model) func(Sample) difficulty.Model {
	alone := map[string]difficulty.Model{}
	for i, t := range m.Engines {
		weights := make([]float64, len(m.Engines))
		weights[i] = 1
		alone[t.Name] = m.Weighed(weights)
	}
	return func(s Sample) difficulty.Model { return alone[s.taste()] }
}

// folds is into how many parts the samples are put to find the penalty.
const folds = 5

// bestPenalty is the one with which the tastes found without a part of the samples make
// that part likeliest, over all parts (cross-validation; Stone 1974).
func bestPenalty(samples []Sample, m difficulty.Model) (best float64, losses []float64, err error) {
	least := math.Inf(1)
	for _, penalty := range penalties {
		loss := 0.0
		for fold := range folds {
			var in, out []Sample
			for i, s := range samples {
				if !full(s) {
					continue
				}
				if i/len(standin.EngineNames)%folds == fold { // a page stays with itself on all engines
					out = append(out, s)
				} else {
					in = append(in, s)
				}
			}
			m.Engines, err = tastes(in, m, penalty)
			if err != nil {
				return 0, nil, err
			}
			own := byOwnTaste(m)
			for _, s := range out {
				one := own(s)
				for _, k := range goals {
					p := one.Chance(field(s), one.Strength(s.Mine), k)
					if !reached(s, k) {
						p = 1 - p
					}
					loss -= math.Log(math.Max(p, 1e-9)) / float64(len(samples))
				}
			}
		}
		losses = append(losses, loss)
		if loss < least {
			least, best = loss, penalty
		}
	}
	return best, losses, nil
}
