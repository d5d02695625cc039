package serp

import "math"

// Persistence is p of rank-biased overlap: with 0.9 the first ten ranks carry 86 % of
// the weight (Webber, Moffat & Zobel 2010, "A similarity measure for indefinite
// rankings", eq. 21).
const Persistence = 0.9

// RBO is the extrapolated rank-biased overlap of two rankings, which need not be
// equally long: 1 for the same, 0 for two without anything in common (Webber, Moffat
// & Zobel 2010, eq. 32). Of what is listed twice only the first place counts. Two
// empty rankings are the same; an empty one has nothing in common with another.
func RBO[T comparable](a, b []T, p float64) float64 {
	a, b = firstPlaces(a), firstPlaces(b)
	if len(a) > len(b) {
		a, b = b, a
	}
	s, l := len(a), len(b)
	switch {
	case l == 0:
		return 1
	case s == 0:
		return 0
	}
	inA, inB := map[T]bool{}, map[T]bool{}
	common := make([]float64, l+1) // X_d: how many of the first d of both are the same
	for d := 1; d <= l; d++ {
		x := common[d-1]
		if inB[b[d-1]] = true; inA[b[d-1]] {
			x++
		}
		if d <= s {
			if inA[a[d-1]] = true; inB[a[d-1]] {
				x++
			}
		}
		common[d] = x
	}
	sum, weight := 0.0, 1.0
	xs, xl, fs, fl := common[s], common[l], float64(s), float64(l)
	for d := 1; d <= l; d++ {
		weight *= p
		sum += common[d] / float64(d) * weight
		if d > s {
			sum += xs * float64(d-s) / (fs * float64(d)) * weight
		}
	}
	return (1-p)/p*sum + ((xl-xs)/fl+xs/fs)*math.Pow(p, fl)
}

func firstPlaces[T comparable](list []T) []T {
	seen := make(map[T]bool, len(list))
	out := make([]T, 0, len(list))
	for _, x := range list {
		if !seen[x] {
			seen[x] = true
			out = append(out, x)
		}
	}
	return out
}

// SteadyFrom is the steadiness from which results are called steady (ours).
const SteadyFrom = 0.7

// Snapshot is the results of one moment: pages in order, with their types.
type Snapshot struct {
	Pages []string
	Types []PageType // as many as Pages
}

// Steadiness is how far results stay what they are.
type Steadiness struct {
	Overlap float64 // mean RBO of successive snapshots
	Known   bool    // false with fewer than two snapshots
	Steady  bool
	// Swings are the types of page whose share of the ten changes most between
	// snapshots, when two of them take turns: then the phrase is likely to have two
	// meanings, and otherwise the engine to be content with none of the pages.
	Swings []PageType
}

// swing is how much of the ten a type must gain or lose, in the mean, to be said to
// come and go (ours).
const swing = 0.2

// SteadinessOf compares each snapshot with the one before it.
func SteadinessOf(list []Snapshot) Steadiness {
	if len(list) < 2 {
		return Steadiness{}
	}
	out := Steadiness{Known: true}
	moved := map[PageType]float64{}
	n := float64(len(list) - 1)
	for i := 1; i < len(list); i++ {
		out.Overlap += RBO(list[i-1].Pages, list[i].Pages, Persistence) / n
		before, after := list[i-1].shares(), list[i].shares()
		for _, t := range allTypes {
			moved[t] += math.Abs(after[t]-before[t]) / n
		}
	}
	if out.Steady = out.Overlap >= SteadyFrom; out.Steady {
		return out
	}
	for _, t := range allTypes {
		if moved[t] >= swing {
			out.Swings = append(out.Swings, t)
		}
	}
	if len(out.Swings) < 2 {
		out.Swings = nil
	}
	return out
}

func (s Snapshot) shares() map[PageType]float64 {
	out := map[PageType]float64{}
	for _, t := range s.Types {
		out[t] += 1 / float64(len(s.Types))
	}
	return out
}

// Concentration is the Herfindahl index of sites over results: the sum of the squares
// of their shares, from 1/n for n sites alike to 1 for a single one (Hirschman 1945,
// Herfindahl 1950). 0 without results. Who names the sites of the largest shares.
func Concentration(sites []string) (index float64, share map[string]float64) {
	share = map[string]float64{}
	for _, s := range sites {
		share[s] += 1 / float64(len(sites))
	}
	for _, x := range share {
		index += x * x
	}
	return index, share
}

var allTypes = []PageType{Home, Shelf, Product, Comparison, Review, HowTo, Article, Thread, Video, Encyclopedia,
	Tool, Official}
