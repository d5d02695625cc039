package topic

import (
	"bytes"
	"cmp"
	"math"
	"math/bits"
	"slices"
)

// leadFirst is the order in which ideas come in topics: what is looked up first, since it
// leads and variants join it, then by searches, then by phrase. What is compared most
// lies side by side in memory, with the first letters of the phrase, which mostly
// tell.
func leadFirst(ideas []Idea) []int32 {
	type key struct {
		empty    bool
		at       int32
		searches float64
		letters  [8]byte
	}
	keys := make([]key, len(ideas))
	for i := range ideas {
		k := &keys[i]
		k.at, k.searches, k.empty = int32(i), ideas[i].Searches, len(ideas[i].Results) == 0
		copy(k.letters[:], ideas[i].Phrase)
	}
	slices.SortFunc(keys, func(a, b key) int {
		switch {
		case a.empty != b.empty && b.empty:
			return -1
		case a.empty != b.empty:
			return 1
		case a.searches != b.searches:
			return cmp.Compare(b.searches, a.searches)
		case a.letters != b.letters:
			return bytes.Compare(a.letters[:], b.letters[:])
		}
		return cmp.Compare(ideas[a.at].Phrase, ideas[b.at].Phrase)
	})
	order := make([]int32, len(keys))
	for i, k := range keys {
		order[i] = k.at
	}
	return order
}

// sheet is what is looked at of an idea again and again, in one piece of memory: how
// many pages, stems and said stems it has, and its intent; the pages, the rarest first, each once; how
// high each stands, from 0; the stems, rising, each once; and the said ones, likewise.
type sheet []int32

const (
	countOfPages = iota
	countOfStems
	countOfSaid
	intentOf
	sheetHead
)

func (s sheet) pages() []int32 { return s[sheetHead : sheetHead+s[countOfPages]] }

func (s sheet) ranks() []int32 {
	n := s[countOfPages]
	return s[sheetHead+n : sheetHead+2*n]
}

func (s sheet) stems() []int32 {
	from := sheetHead + 2*s[countOfPages]
	return s[from : from+s[countOfStems]]
}

func (s sheet) said() []int32 {
	from := sheetHead + 2*s[countOfPages] + s[countOfStems]
	return s[from : from+s[countOfSaid]]
}

// sheets are those of the ideas with results. Each has a place: ideas that stand for
// neighbouring pages are neighbours, so that what is compared lies close together.
type sheets struct {
	all, begins []int32 // by place
	ideas       []int32 // by place: which idea it is
	pages       []page  // by number
	alone       int32   // below which number pages stand for one idea only
}

// page is what a page's number stands for.
type page struct {
	count  int32   // ideas that have it; one that lists it twice counts twice
	rarity float32 // 1/ln(1+count)
}

func (s sheets) at(place int) sheet { return s.all[s.begins[place]:] }

// discounts are how much a page counts by where it stands (Järvelin & Kekäläinen
// 2002); what stands beyond the last counts as that one.
var discounts = func() (list [100]float32) {
	for i := range list {
		list[i] = float32(1 / math.Log2(2+float64(i)))
	}
	return list
}()

// sheetsOf writes the sheets. order is of all ideas. Pages are numbered by how many
// ideas they stand for, the rarest lowest. The ideas are read as they lie in memory, and
// written where they have their places.
func sheetsOf(ideas []Idea, order []int32) sheets {
	number, pages := numbering(ideas)
	counts := make([]int32, pages)
	for i := range ideas {
		for _, page := range ideas[i].Results {
			counts[number(page)]++
		}
	}
	numbers, alone := byRarity(counts)
	out := sheets{ideas: neighbours(ideas, order), pages: make([]page, pages), alone: alone}
	for n, count := range counts {
		out.pages[numbers[n]] = page{count, float32(1 / math.Log1p(float64(max(1, count))))}
	}
	out.begins = make([]int32, len(ideas))
	size := int32(0)
	for _, i := range out.ideas {
		out.begins[i] = size
		size += int32(sheetHead + 2*len(ideas[i].Results) + len(ideas[i].Stems) + len(ideas[i].Said))
	}
	out.all = make([]int32, size)
	var found []uint64 // page and rank
	for i := range ideas {
		if len(ideas[i].Results) == 0 {
			continue
		}
		found = found[:0]
		for k, page := range ideas[i].Results {
			found = append(found, uint64(numbers[number(page)])<<32|uint64(min(k, len(discounts)-1)))
		}
		slices.Sort(found)
		found = slices.CompactFunc(found, func(a, b uint64) bool { return a>>32 == b>>32 })
		s, n := sheet(out.all[out.begins[i]:]), len(found)
		for j, f := range found {
			s[sheetHead+j], s[sheetHead+n+j] = int32(f>>32), int32(uint32(f))
		}
		stems := rising(s[sheetHead+2*n:], ideas[i].Stems)
		said := rising(s[sheetHead+2*n+stems:], ideas[i].Said)
		s[countOfPages], s[countOfStems], s[countOfSaid] = int32(n), int32(stems), int32(said)
		s[intentOf] = int32(ideas[i].Intent)
	}
	begins := make([]int32, len(out.ideas))
	for place, i := range out.ideas {
		begins[place] = out.begins[i]
	}
	out.begins = begins
	return out
}

// rising writes the numbers of a list, rising and each once, and says how many they are.
func rising(to []int32, list []uint32) int {
	out := to[:0]
	for _, n := range list {
		out = append(out, int32(n))
	}
	slices.Sort(out)
	return len(slices.Compact(out))
}

// neighbours lists the ideas with results by the median of their pages' numbers: pages
// that were found together have numbers close together.
func neighbours(ideas []Idea, order []int32) []int32 {
	turns := make([]uint32, len(order)) // by idea: when it comes in the order
	for turn, i := range order {
		turns[i] = uint32(turn)
	}
	keys := make([]uint64, 0, len(order))
	var pages []uint32
	for i := range ideas {
		if list := ideas[i].Results; len(list) > 0 {
			pages = append(pages[:0], list...)
			slices.Sort(pages)
			keys = append(keys, uint64(pages[len(pages)/2])<<32|uint64(turns[i]))
		}
	}
	slices.Sort(keys)
	out := make([]int32, len(keys))
	for place, k := range keys {
		out[place] = order[uint32(k)]
	}
	return out
}

// sparse is how many times more numbers than results there may be for pages to be
// looked up in an array.
const sparse = 16

// numbering numbers the pages of all ideas from 0, and says how many numbers there
// are. Numbers that lie close together are taken as they are.
func numbering(ideas []Idea) (number func(page uint32) int32, pages int) {
	largest, all := uint32(0), 0
	for i := range ideas {
		all += len(ideas[i].Results)
		for _, page := range ideas[i].Results {
			largest = max(largest, page)
		}
	}
	if int64(largest) < sparse*int64(all) {
		return func(page uint32) int32 { return int32(page) }, int(largest) + 1
	}
	dense := make(map[uint32]int32, all)
	for i := range ideas {
		for _, page := range ideas[i].Results {
			if _, known := dense[page]; !known {
				dense[page] = int32(len(dense))
			}
		}
	}
	return func(page uint32) int32 { return dense[page] }, len(dense)
}

// byRarity numbers pages by how many ideas have them, the smallest first, of those in one
// power of two the earlier: pages that stand together mostly came together, and so
// stay side by side in memory. alone is how many count for one at most.
func byRarity(counts []int32) (numbers []int32, alone int32) {
	var start [33]int32
	for _, c := range counts {
		start[bits.Len32(uint32(c))+1]++
	}
	for b := range start[1:] {
		start[b+1] += start[b]
	}
	numbers, alone = make([]int32, len(counts)), start[2]
	for i, c := range counts {
		b := bits.Len32(uint32(c))
		numbers[i] = start[b]
		start[b]++
	}
	return numbers, alone
}
