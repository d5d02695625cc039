package topic

import (
	"cmp"
	"math"
	"slices"
)

// Pair is what two ideas have in common.
type Pair struct {
	A, B   int // indexes of the ideas
	Shared int // pages
	// Σ over them of d(place in A)·d(place in B)/ln(1+n), with d(place) = 1/log₂(1+place), and n the ideas that
	// have the page
	Pages  float64
	Rarest float64 // the highest 1/ln(1+n) among them
	Words  float64 // share of their stems that both have (Jaccard 1901)
	Titles Titles

	SameIntent bool // their words ask for the same kind of thing
}

// Titles is what the titles of two ideas' results tell about them, where each of the two
// says something that the other does not.
type Titles int8

// What titles tell.
const (
	Nothing Titles = iota // one says nothing that the other does not, or titles are not known
	Echoed                // the titles found for one say all that only the other says
	Apart                 // each says something that neither the other nor the titles found for it say
)

// Pairs lists the pairs of ideas that share at least so many pages, two or more.
func Pairs(ideas []Idea, shared int) []Pair {
	s := sheetsOf(ideas, leadFirst(ideas))
	var out []Pair
	s.meet(shared, func(at int, met []int32) {
		for _, other := range met {
			if p := s.pair(int(other), at); p.Shared >= shared {
				p.A, p.B = int(s.ideas[other]), int(s.ideas[at])
				out = append(out, p)
			}
		}
	})
	return out
}

// Among compares each two of some ideas, by their indexes, whatever they share; how rare a page is, is told from all.
func Among(ideas []Idea, chosen []int) (out []Pair) {
	s := sheetsOf(ideas, leadFirst(ideas))
	placeOf := map[int]int{}
	for place, i := range s.ideas {
		placeOf[int(i)] = place
	}
	for k, a := range chosen {
		for _, b := range chosen[k+1:] {
			x, okA := placeOf[a]
			y, okB := placeOf[b]
			if okA && okB {
				p := s.pair(min(x, y), max(x, y))
				p.A, p.B = a, b
				out = append(out, p)
			}
		}
	}
	return out
}

// pair compares two ideas by their places.
func (s sheets) pair(a, b int) Pair {
	x, y := s.at(a), s.at(b)
	pages, shared := x.pages(), 0
	others, ranks, otherRanks := y.pages(), x.ranks(), y.ranks()
	sum, rarest, j := float32(0), float32(0), 0
	for i, page := range pages {
		for j < len(others) && others[j] < page {
			j++
		}
		if j < len(others) && others[j] == page {
			shared++
			rarity := s.pages[page].rarity
			sum += rarity * (discounts[ranks[i]] * discounts[otherRanks[j]])
			rarest = max(rarest, rarity)
		}
	}
	words, titles := compare(x, y)
	return Pair{A: a, B: b, Shared: shared, Pages: float64(sum), Rarest: float64(rarest), Words: words, Titles: titles,
		SameIntent: x[intentOf] == y[intentOf]}
}

// compare is the share of stems that two have in common, of all that they have, and what
// the titles found for them tell of the others.
func compare(x, y sheet) (words float64, titles Titles) {
	a, b := x.stems(), y.stems()
	both, i, j := 0, 0, 0
	unsaidA, unsaidB := false, false // there is a stem of the one's that the other's titles do not say
	for i < len(a) || j < len(b) {
		switch {
		case j == len(b) || i < len(a) && a[i] < b[j]:
			unsaidA = unsaidA || !slices.Contains(y.said(), a[i])
			i++
		case i == len(a) || b[j] < a[i]:
			unsaidB = unsaidB || !slices.Contains(x.said(), b[j])
			j++
		default:
			both, i, j = both+1, i+1, j+1
		}
	}
	words = float64(both) / float64(max(1, len(a)+len(b)-both))
	switch swapped := both < len(a) && both < len(b); {
	case !swapped || len(x.said()) == 0 || len(y.said()) == 0:
		return words, Nothing
	case unsaidA && unsaidB:
		return words, Apart
	}
	return words, Echoed
}

// Bounds for lists of ideas where everybody has the same pages: with how many others an
// idea is compared at most, and among how many it looks for them.
const (
	mostMet    = 1000
	mostVisits = 20_000
)

// searching an idea's pages for one costs as much as looking at so many ideas of a list.
const searching = 8

// meet calls do for every place, with those before it whose ideas may share so many
// pages. Of two lists in one order that have at least so many in common, the beginnings
// without the last so many but two have two (prefix filtering: Bayardo, Ma & Srikant
// 2007, "Scaling up all pairs similarity search"; with more than one in common: Wang, Li
// & Feng 2012, "Can we beat the prefix filtering?"). Since the rarest pages come first,
// those that stand everywhere are hardly looked up, and who has only one of them in
// common is not compared. Who has the last of them is only asked about those met once
// already, where that is quicker.
func (s sheets) meet(shared int, do func(at int, met []int32)) {
	const enough = 2
	telling := func(at int) []int32 {
		pages := s.at(at).pages()
		pages = pages[:max(0, len(pages)-max(shared, enough)+enough)]
		alone := 0
		for alone < len(pages) && pages[alone] < s.alone {
			alone++
		}
		return pages[alone:]
	}
	type list struct{ begin, end int32 } // of a page's ideas so far
	lists, size := make([]list, len(s.pages)), int32(0)
	var found []list
	for page := int(s.alone); page < len(lists); page++ {
		lists[page].begin, lists[page].end = size, size
		size += s.pages[page].count
	}
	all, n := make([]int32, size), len(s.ideas)
	times := make([]uint8, n) // that each was met by the present one, up to enough
	var once, met []int32     // at least once; enough times
	for at := range n {
		for _, other := range once {
			times[other] = 0
		}
		once, met = once[:0], met[:0]
		pages, visits := telling(at), 0
		found = found[:0]
		for _, page := range pages { // all at once, so that memory is waited for once
			l := &lists[page]
			found = append(found, *l)
			all[l.end] = int32(at)
			l.end++
		}
		for k, page := range pages {
			list := all[found[k].begin:found[k].end]
			if k == len(pages)-1 && len(list) > searching*len(once) {
				for _, other := range once {
					if times[other] < enough && len(met) < mostMet && slices.Contains(s.at(int(other)).pages(), page) {
						met = append(met, other)
					}
				}
				break
			}
			for k := len(list) - 1; k >= 0 && visits < mostVisits && len(met) < mostMet; k-- {
				visits++
				switch other := list[k]; times[other] {
				case 0:
					times[other] = 1
					once = append(once, other)
				case 1:
					times[other] = enough
					met = append(met, other)
				}
			}
		}
		do(at, met)
	}
}

// link is a chance that two ideas are one need, by their places.
type link struct {
	a, b   int32 // a < b
	chance float32
}

// parts is the chance in parts of whole.
func (l link) parts() int64 { return int64(math.Round(float64(l.chance) * whole)) }

// What chance is not worth a link, and to how many before it, the most alike, an idea is
// linked at most.
const (
	negligible = 0.02
	mostLinks  = 64
)

// links are the chances that matter.
func (m Model) links(s sheets, shared int) []link {
	out := make([]link, 0, 4*len(s.begins))
	s.meet(shared, func(at int, met []int32) {
		from := len(out)
		for _, other := range met {
			p := s.pair(int(other), at)
			if p.Shared < shared {
				continue
			}
			if c := m.Chance(p); c >= negligible {
				out = append(out, link{other, int32(at), float32(c)})
			}
		}
		if len(out)-from > mostLinks {
			slices.SortFunc(out[from:], func(a, b link) int {
				return cmp.Or(cmp.Compare(b.chance, a.chance), cmp.Compare(a.a, b.a))
			})
			out = out[:from+mostLinks]
		}
	})
	return out
}
