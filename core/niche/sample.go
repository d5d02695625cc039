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

// Stratum is a part of a whole, of which some were looked at.
type Stratum struct {
	Seen, Hits int       // looked at, and those of them that count
	Open       []float64 // what each of the others comes to if it counts: its searches, say, or 1
}

// Bounds of sampling (ours).
const (
	draws      = 1000
	leastDrawn = 3   // of a stratum that is looked at alone; what has fewer goes with the next
	mostEach   = 500 // of more that are open, chance is taken for all of a stratum at once
)

// Found on the worlds that difficulty is calibrated on (go run ./cmd/calibrate case; docs/case-measured.md), so that
// ranges of forty drawn topics hold the whole at Level: how much of the posterior a range holds, for how many
// looked-at ones the whole sample counts in each stratum, and by which power of its searches a topic is drawn.
const (
	nominal  = 0.85
	likeness = 4.0
	drawnBy  = 0.5
)

// Open is what those come to that were not seen, by those that were: the posterior of the share in each stratum that
// counts (Beta, around the whole sample's own share, which is Beta with Jeffreys' prior; Gelman et al., Bayesian Data
// Analysis, chapter 5), and then of each open one whether it does, with its own size. The draws are the same each time.
// Nothing seen: all zero, and false.
func Open(list []Stratum) (out Range, known bool) {
	seen, hits, open := 0, 0, 0
	for _, s := range list {
		seen, hits, open = seen+s.Seen, hits+s.Hits, open+len(s.Open)
	}
	if seen == 0 {
		return Range{}, false
	}
	list = joined(list)
	src := rand.NewPCG(uint64(seen), uint64(open))
	rng := rand.New(src)
	whole := distuv.Beta{Alpha: float64(hits) + 0.5, Beta: float64(seen-hits) + 0.5, Src: src}
	sizes, squares := make([]float64, len(list)), make([]float64, len(list))
	for i, s := range list {
		for _, x := range s.Open {
			sizes[i] += x
			squares[i] += x * x
		}
	}
	totals := make([]float64, draws)
	for d := range totals {
		share := min(1-1e-6, max(1e-6, whole.Rand()))
		for i, s := range list {
			if len(s.Open) == 0 {
				continue
			}
			p := distuv.Beta{Alpha: float64(s.Hits) + likeness*share, Beta: float64(s.Seen-s.Hits) + likeness*(1-share),
				Src: src}.Rand()
			if open > mostEach {
				totals[d] += max(0, sizes[i]*p+math.Sqrt(p*(1-p)*squares[i])*rng.NormFloat64())
				continue
			}
			for _, x := range s.Open {
				if rng.Float64() < p {
					totals[d] += x
				}
			}
		}
	}
	slices.Sort(totals)
	at := func(q float64) float64 { return totals[int(q*float64(draws-1)+0.5)] }
	return Range{at((1 - nominal) / 2), at(0.5), at((1 + nominal) / 2)}, true
}

// joined puts strata of which too few were seen together with the next.
func joined(list []Stratum) (out []Stratum) {
	var open Stratum
	for _, s := range list {
		open.Open = append(open.Open, s.Open...)
		open.Seen, open.Hits = open.Seen+s.Seen, open.Hits+s.Hits
		if open.Seen >= leastDrawn {
			out = append(out, open)
			open = Stratum{}
		}
	}
	if len(open.Open)+open.Seen > 0 {
		if len(out) == 0 {
			return []Stratum{open}
		}
		last := &out[len(out)-1]
		last.Open = append(slices.Clone(last.Open), open.Open...)
		last.Seen, last.Hits = last.Seen+open.Seen, last.Hits+open.Hits
	}
	return out
}

// Unit is something that can be drawn: its stratum, how much it weighs there, and whether it was looked at already.
type Unit struct {
	Stratum int
	Weight  float64
	Seen    bool
}

// WeightOf is what a topic of so many searches weighs: what is searched more matters more to sums, and is drawn more
// often, though less so than by its searches, since topics are counted as well (between proportional allocation and
// Neyman's, On the two different aspects of the representative method, 1934).
func WeightOf(searches float64) float64 { return math.Pow(max(searches, 0)+10, drawnBy) }

// Draw draws so many of what was not looked at, from each stratum by what its units weigh, at random within it. Strata
// get their shares by largest remainders. The same units and seed draw the same ones.
func Draw(units []Unit, n int, seed uint64) []int {
	byStratum := map[int][]int{}
	size, all := map[int]float64{}, 0.0
	var strata []int
	open := 0
	for i, u := range units {
		if _, there := size[u.Stratum]; !there {
			strata = append(strata, u.Stratum)
		}
		all += u.Weight
		if size[u.Stratum] += u.Weight; !u.Seen {
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
		share := float64(n) * size[s] / max(all, 1e-9)
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

// Narrows is what a range would be about once more topics were drawn, of open ones that are not looked up: its width
// goes with the root of how many were drawn, and to nothing as all are looked up (Cochran, Sampling Techniques, 1977,
// 2.6: the finite population correction).
func (r Range) Narrows(drawn, more, open int) Range {
	if drawn <= 0 || open <= 0 {
		return r
	}
	more = min(more, open)
	by := math.Sqrt(float64(drawn) / float64(drawn+more) * float64(open-more) / float64(open))
	return Range{r.Likely - by*(r.Likely-r.Low), r.Likely, r.Likely + by*(r.High-r.Likely)}
}
