package niche

import (
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// Range is a figure as a sample tells it: eight times in ten the whole lies between Low and High.
type Range struct{ Low, Likely, High float64 }

// Level is the share of cases in which a range holds the truth.
const Level = 0.8

// levelZ is the quantile of the normal distribution that leaves half of the rest above it.
var levelZ = distuv.UnitNormal.Quantile((1 + Level) / 2)

// Wilson is the interval of a share that k of n drawn ones show (Wilson, Probable inference, the law of succession, and
// statistical inference, JASA 22, 1927, 209–212), at Level. Nothing drawn tells nothing: 0 to 1.
func Wilson(k, n int) (low, high float64) {
	if n <= 0 {
		return 0, 1
	}
	p, m, z := float64(k)/float64(n), float64(n), levelZ
	mid := (p + z*z/(2*m)) / (1 + z*z/m)
	half := z / (1 + z*z/m) * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return max(0, mid-half), min(1, mid+half)
}

// Stratum is a part of a whole, of which some were looked at: what each of these comes to, 0 for one that does not
// count.
type Stratum struct {
	All  int
	Seen []float64
}

// Bounds of sampling (ours).
const (
	draws      = 1000
	leastDrawn = 3 // of a stratum that is looked at alone; what has fewer goes with the next
)

// Total is the sum over all of a whole. What was seen is known; what was not is drawn, within each stratum, from what
// was seen there (the bootstrap of Efron, Bootstrap methods: another look at the jackknife, Annals of Statistics 7,
// 1979, 1–26, for the mean; the scatter of those not seen comes on top, since it is their sum that is asked for,
// and not its mean). Each stratum is drawn with one more value of the whole sample among its own, so that a stratum
// in which nothing was found is not taken for empty. The draws are the same each time. Nothing seen: all zero, and
// false.
func Total(list []Stratum) (out Range, known bool) {
	var seen []float64
	sum, all := 0.0, 0
	for _, s := range list {
		seen = append(seen, s.Seen...)
		all += s.All
		for _, x := range s.Seen {
			sum += x
		}
	}
	if len(seen) == 0 {
		return Range{}, false
	}
	if len(seen) >= all {
		return Range{sum, sum, sum}, true
	}
	rng := rand.New(rand.NewPCG(uint64(len(seen)), uint64(all)))
	list = joined(list)
	totals := make([]float64, draws)
	for d := range totals {
		totals[d] = sum
		for _, s := range list {
			rest := s.All - len(s.Seen)
			if rest <= 0 {
				continue
			}
			mean, spread := redrawn(s.Seen, seen, rng)
			totals[d] += max(0, float64(rest)*mean+spread*math.Sqrt(float64(rest))*rng.NormFloat64())
		}
	}
	slices.Sort(totals)
	at := func(q float64) float64 { return totals[int(q*float64(draws-1)+0.5)] }
	return Range{max(sum, at((1-Level)/2)), at(0.5), at((1 + Level) / 2)}, true
}

// redrawn are mean and spread of values drawn from a stratum's and one of the whole sample. One fewer is drawn than
// there are, so that the spread of the mean is not taken for less than it is (Rao and Wu, Resampling inference with
// complex survey data, JASA 83, 1988, 231–241).
func redrawn(list, others []float64, rng *rand.Rand) (mean, spread float64) {
	n, squares := max(1, len(list)-1), 0.0
	extra := others[rng.IntN(len(others))]
	for range n {
		x := extra
		if i := rng.IntN(len(list) + 1); i < len(list) {
			x = list[i]
		}
		mean += x
		squares += x * x
	}
	mean /= float64(n)
	return mean, math.Sqrt(max(0, squares/float64(n)-mean*mean))
}

// joined puts strata of which too few were seen together with the next.
func joined(list []Stratum) (out []Stratum) {
	var open Stratum
	for _, s := range list {
		open.All += s.All
		open.Seen = append(open.Seen, s.Seen...)
		if len(open.Seen) >= leastDrawn {
			out = append(out, open)
			open = Stratum{}
		}
	}
	if open.All > 0 {
		if len(out) == 0 {
			return []Stratum{open}
		}
		last := &out[len(out)-1]
		last.All, last.Seen = last.All+open.All, append(slices.Clone(last.Seen), open.Seen...)
	}
	return out
}

// Unit is something that can be drawn: its stratum, and whether it was looked at already.
type Unit struct {
	Stratum int
	Seen    bool
}

// Draw draws so many of what was not looked at, from each stratum by how many it has, at random within it. Strata get
// their shares by largest remainders. The same units and seed draw the same ones.
func Draw(units []Unit, n int, seed uint64) []int {
	byStratum := map[int][]int{}
	size := map[int]int{}
	var strata []int
	open := 0
	for i, u := range units {
		if size[u.Stratum] == 0 {
			strata = append(strata, u.Stratum)
		}
		if size[u.Stratum]++; !u.Seen {
			byStratum[u.Stratum] = append(byStratum[u.Stratum], i)
			open++
		}
	}
	n = min(n, open)
	slices.Sort(strata)
	take, left := map[int]int{}, n
	type rest struct {
		stratum int
		part    float64
	}
	var rests []rest
	for _, s := range strata {
		share := float64(n) * float64(size[s]) / float64(max(1, len(units)))
		take[s] = min(int(share), len(byStratum[s]))
		left -= take[s]
		rests = append(rests, rest{s, share - float64(take[s])})
	}
	slices.SortStableFunc(rests, func(a, b rest) int {
		switch {
		case a.part > b.part:
			return -1
		case a.part < b.part:
			return 1
		}
		return a.stratum - b.stratum
	})
	for left > 0 {
		for _, r := range rests {
			if left > 0 && take[r.stratum] < len(byStratum[r.stratum]) {
				take[r.stratum]++
				left--
			}
		}
	}
	rng := rand.New(rand.NewPCG(seed, uint64(len(units))))
	var out []int
	for _, s := range strata {
		list := byStratum[s]
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		out = append(out, list[:take[s]]...)
	}
	slices.Sort(out)
	return out
}

// Strata are the bounds of searches a month that strata lie between, each in two: of three words at most, and of more
// (ours).
var Strata = []float64{0, 30, 100, 300, 1000, 3000}

// StratumOf is the stratum of a phrase by its searches a month, −1 unknown, and its words.
func StratumOf(searches float64, words int) int {
	at := 0
	for i, from := range Strata {
		if searches >= from {
			at = i + 1
		}
	}
	if at *= 2; words > 3 {
		at++
	}
	return at
}
