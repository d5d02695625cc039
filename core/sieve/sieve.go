// Package sieve is an ordered set of criteria over a niche's ideas. It tells
// which ideas are left, how many each mesh took away, how many it alone would
// take, and which mesh stopped a given idea.
package sieve

import (
	"cmp"
	"slices"
	"strings"

	"cleverniche/core/intent"
	"cleverniche/core/phrase"
)

// Decision is what the user decided on an idea.
type Decision int8

// The decisions.
const (
	Undecided Decision = iota
	Kept
	Dropped
)

// Idea is what a sieve knows of one idea. Figures that are not known say so.
type Idea struct {
	ID         uint
	Phrase     string // normal form
	Words      int
	Demand     bool // demand is known
	Searches   int  // a month; with Under, the floor below which they lie
	Under      bool
	CPC        int64 // micro-units of the niche's currency; −1 unknown
	Ads        float64
	Judged     bool
	Difficulty float64
	PageOne    float64
	Footholds  int
	Weakest    float64
	Want       intent.Want
	Decision   Decision
	Found      int64 // when first found; any increasing number
}

// Mesh is one criterion. Needs says what an idea must have for the mesh to be
// able to tell: ideas without it are stopped by it, and counted apart.
type Mesh struct {
	Name  string
	Lets  func(Idea) bool
	Paid  bool // needs the ten to be looked up: below the line
	Blind func(Idea) bool
}

// Step is what one mesh did.
type Step struct {
	Mesh    Mesh
	Left    int // after it
	Removed int // by it, of what was left before it
	Alone   int // that it would remove alone
	Unknown int // of Removed: stopped because the figure is not known
}

// Result of passing ideas through meshes.
type Result struct {
	All   int
	Left  []int // positions in the ideas, in their order
	Steps []Step
}

// Pass lets ideas through the meshes in order. O(ideas × meshes).
func Pass(ideas []Idea, meshes []Mesh) Result {
	res := Result{All: len(ideas), Steps: make([]Step, len(meshes))}
	left := make([]int, len(ideas))
	for i := range left {
		left[i] = i
	}
	for m, mesh := range meshes {
		step := Step{Mesh: mesh}
		for i := range ideas {
			if !mesh.Lets(ideas[i]) {
				step.Alone++
			}
		}
		through := left[:0]
		for _, i := range left {
			switch {
			case mesh.Lets(ideas[i]):
				through = append(through, i)
			case mesh.Blind != nil && mesh.Blind(ideas[i]):
				step.Unknown++
			}
		}
		step.Removed, step.Left = len(left)-len(through), len(through)
		left = through
		res.Steps[m] = step
	}
	res.Left = left
	return res
}

// Stops returns the first mesh that stops the idea, or false when all let it
// through: why is this not here?
func Stops(idea Idea, meshes []Mesh) (Mesh, bool) {
	for _, m := range meshes {
		if !m.Lets(idea) {
			return m, true
		}
	}
	return Mesh{}, false
}

func unjudged(i Idea) bool { return !i.Judged }

// WordsAtLeast lets phrases of n words or more through.
func WordsAtLeast(n int) Mesh {
	return Mesh{Name: "Words at least", Lets: func(i Idea) bool { return i.Words >= n }}
}

// SearchesFrom lets phrases with n searches a month or more through. What lies
// under the source's floor, or is not known, is passed by withUnder only: it is
// never taken for zero.
func SearchesFrom(n int, withUnder bool) Mesh {
	return Mesh{Name: "Searches from", Blind: func(i Idea) bool { return !i.Demand || i.Under }, Lets: func(i Idea) bool {
		if !i.Demand || i.Under {
			return withUnder
		}
		return i.Searches >= n
	}}
}

// SearchesTo lets phrases with n searches a month or fewer through, and those
// under the floor; what is not known passes too, for SearchesFrom to decide.
func SearchesTo(n int) Mesh {
	return Mesh{Name: "Searches to", Lets: func(i Idea) bool { return !i.Demand || i.Searches <= n }}
}

// HoldsAny lets phrases through that hold at least one of the words or phrases,
// each compared whole and in normal form.
func HoldsAny(words []string) Mesh {
	return Mesh{Name: "Holds", Lets: func(i Idea) bool { return holdsAny(i.Phrase, words) }}
}

// HoldsNone lets phrases through that hold none of the words or phrases.
func HoldsNone(words []string) Mesh {
	return Mesh{Name: "Holds none of", Lets: func(i Idea) bool { return !holdsAny(i.Phrase, words) }}
}

func holdsAny(s string, words []string) bool {
	padded := " " + s + " "
	for _, w := range words {
		if strings.Contains(padded, " "+w+" ") {
			return true
		}
	}
	return false
}

// Terms reads words or phrases separated by commas or line ends, in normal form.
func Terms(s string) []string {
	var out []string
	for _, t := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if n := phrase.Normal(t); n != "" && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	return out
}

// NotDropped stops dropped ideas.
func NotDropped() Mesh {
	return Mesh{Name: "Not dropped", Lets: func(i Idea) bool { return i.Decision != Dropped }}
}

// Decided lets ideas of one decision through.
func Decided(d Decision, name string) Mesh {
	return Mesh{Name: name, Lets: func(i Idea) bool { return i.Decision == d }}
}

// Judged lets looked-up ideas through.
func Judged() Mesh {
	return Mesh{Name: "Looked up", Paid: true, Blind: unjudged, Lets: func(i Idea) bool { return i.Judged }}
}

// DifficultyAtMost lets judged ideas of difficulty n or less through.
func DifficultyAtMost(n int) Mesh {
	return Mesh{Name: "Difficulty at most", Paid: true, Blind: unjudged,
		Lets: func(i Idea) bool { return i.Judged && i.Difficulty < float64(n)+0.5 }}
}

// FootholdsAtLeast lets judged ideas with n or more footholds through.
func FootholdsAtLeast(n int) Mesh {
	return Mesh{Name: "Footholds at least", Paid: true, Blind: unjudged,
		Lets: func(i Idea) bool { return i.Judged && i.Footholds >= n }}
}

// Column is a figure that a list is sorted by.
type Column string

// The columns.
const (
	ByPhrase     Column = "idea"
	ByWords      Column = "words"
	BySearches   Column = "searches"
	ByCPC        Column = "cpc"
	ByAds        Column = "ads"
	ByDifficulty Column = "difficulty"
	ByPageOne    Column = "chance"
	ByFootholds  Column = "footholds"
	ByWants      Column = "wants"
	ByFound      Column = "found"
)

// compare returns the order of two ideas by a column, and which are unknown.
var compare = map[Column]struct {
	known func(Idea) bool
	order func(a, b Idea) int
	first bool // smallest first is the useful order
}{
	ByPhrase:     {nil, func(a, b Idea) int { return cmp.Compare(a.Phrase, b.Phrase) }, true},
	ByWords:      {nil, func(a, b Idea) int { return cmp.Compare(a.Words, b.Words) }, false},
	BySearches:   {func(i Idea) bool { return i.Demand }, func(a, b Idea) int { return cmp.Compare(searchesRank(a), searchesRank(b)) }, false},
	ByCPC:        {func(i Idea) bool { return i.CPC >= 0 }, func(a, b Idea) int { return cmp.Compare(a.CPC, b.CPC) }, false},
	ByAds:        {func(i Idea) bool { return i.Ads >= 0 }, func(a, b Idea) int { return cmp.Compare(a.Ads, b.Ads) }, false},
	ByDifficulty: {func(i Idea) bool { return i.Judged }, func(a, b Idea) int { return cmp.Compare(a.Difficulty, b.Difficulty) }, true},
	ByPageOne:    {func(i Idea) bool { return i.Judged }, func(a, b Idea) int { return cmp.Compare(a.PageOne, b.PageOne) }, false},
	ByFootholds:  {func(i Idea) bool { return i.Judged }, func(a, b Idea) int { return cmp.Compare(a.Footholds, b.Footholds) }, false},
	ByWants:      {func(i Idea) bool { return i.Judged }, func(a, b Idea) int { return cmp.Compare(a.Want, b.Want) }, true},
	ByFound:      {nil, func(a, b Idea) int { return cmp.Compare(a.Found, b.Found) }, false},
}

func searchesRank(i Idea) int {
	if i.Under {
		return -1
	}
	return i.Searches
}

// KnownColumn reports whether c is a column, and whether its useful order is
// smallest first.
func KnownColumn(c Column) (ok, smallestFirst bool) {
	by, ok := compare[c]
	return ok, by.first
}

// Sort orders positions in ideas by a column. Ideas whose figure is not known
// come last either way; ties are broken by searches, most first, then phrase.
func Sort(ideas []Idea, positions []int, by Column, descending bool) {
	col, ok := compare[by]
	if !ok {
		col = compare[BySearches]
	}
	slices.SortFunc(positions, func(p, q int) int {
		a, b := ideas[p], ideas[q]
		if col.known != nil {
			if ka, kb := col.known(a), col.known(b); ka != kb {
				if ka {
					return -1
				}
				return 1
			}
		}
		order := col.order(a, b)
		if descending {
			order = -order
		}
		if order != 0 {
			return order
		}
		if order = cmp.Compare(searchesRank(b), searchesRank(a)); order != 0 {
			return order
		}
		return cmp.Compare(a.Phrase, b.Phrase)
	})
}
