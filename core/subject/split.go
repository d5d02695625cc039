package subject

import (
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/floats"
)

// ten are the sites that stand for one looked-up idea, numbered, each once.
type ten []int32

// Vectors are swept over, so many, each turned so often towards what it is: it need not be exact, since the sweeps look
// at the cuts themselves.
const (
	vectors = 8
	rounds  = 40
)

// cut is some ideas, by their numbers, that hang together more than with the rest; conductance is the share of their
// ties that lead across.
type cut struct {
	side        []int
	conductance float64
}

// cuts are those of little conductance that sweeps over the singular vectors of ideas and their sites find, the
// smaller side of each (Dhillon 2001, Co-clustering documents and words using bipartite spectral graph partitioning).
// Two ideas are tied by each site that stands for both, the less the more ideas it stands for.
func cuts(tens []ten, sites int) (out []cut) {
	degree := make([]float64, sites)
	for _, t := range tens {
		for _, s := range t {
			degree[s]++
		}
	}
	tie := make([]float64, len(tens)) // of each idea to others
	for i, t := range tens {
		for _, s := range t {
			tie[i] += (degree[s] - 1) / degree[s]
		}
	}
	for _, order := range orders(tens, degree) {
		out = append(out, sweep(tens, order, tie, degree)...)
	}
	return out
}

// stretches are how many parts of a sweep give a cut each.
const stretches = 16

// sweep takes ideas in, one after the other, and returns the cut of the least conductance of each stretch of the way.
func sweep(tens []ten, order []int, tie, degree []float64) (out []cut) {
	n := len(order)
	in, across, ties, all := make([]float64, len(degree)), 0.0, 0.0, floats.Sum(tie)
	least, at := 1.0, 0
	for k, i := range order {
		for _, s := range tens[i] {
			across -= in[s] * (degree[s] - in[s]) / degree[s]
			in[s]++
			across += in[s] * (degree[s] - in[s]) / degree[s]
		}
		ties += tie[i]
		small := min(ties, all-ties)
		if min(k+1, n-k-1) >= fewest && small >= fewestTies && across/small < least {
			least, at = across/small, k+1
		}
		if (k+1)*stretches/n == k*stretches/n || at == 0 {
			continue
		}
		side := order[:at]
		if 2*at > n {
			side = order[at:]
		}
		out = append(out, cut{slices.Clone(side), least})
		least, at = 1, 0
	}
	return out
}

// orders are those of the ideas along the left singular vectors of their scaled sites, but the first, which all share:
// orthogonal iteration (Golub and Van Loan, Matrix Computations, 7.3.2).
func orders(tens []ten, degree []float64) (out [][]int) {
	n := len(tens)
	root := make([]float64, n)
	for i, t := range tens {
		root[i] = math.Sqrt(math.Max(1, float64(len(t))))
	}
	first := slices.Clone(root)
	floats.Scale(1/floats.Norm(first, 2), first)
	basis := [][]float64{first}
	rng := rand.New(rand.NewPCG(1, 2))
	for range min(vectors, n-1) {
		v := make([]float64, n)
		for i := range v {
			v[i] = rng.NormFloat64()
		}
		basis = append(basis, v)
	}
	mean := make([]float64, len(degree))
	for range rounds {
		for k, v := range basis[1:] {
			clear(mean)
			for i, t := range tens {
				for _, s := range t {
					mean[s] += v[i] / root[i]
				}
			}
			for s, d := range degree {
				if d > 0 {
					mean[s] /= d
				}
			}
			for i, t := range tens {
				v[i] = 0
				for _, s := range t {
					v[i] += mean[s]
				}
				v[i] /= root[i]
			}
			for _, before := range basis[:k+1] {
				floats.AddScaled(v, -floats.Dot(v, before), before)
			}
			if length := floats.Norm(v, 2); length > 0 {
				floats.Scale(1/length, v)
			}
		}
	}
	for _, v := range basis[1:] {
		order := make([]int, n)
		for i := range order {
			order[i] = i
			v[i] /= root[i]
		}
		slices.SortStableFunc(order, func(a, b int) int {
			switch {
			case v[a] < v[b]:
				return -1
			case v[a] > v[b]:
				return 1
			}
			return 0
		})
		out = append(out, order)
	}
	return out
}
