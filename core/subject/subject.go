// Package subject tells the ideas that are about a niche's subject from those that only share its words: another
// meaning of the word, a film, a firm, homework. Who writes about something else is somebody else: sites of one subject
// stand for either the one or the other, and the ties between ideas that share them fall apart. Ideas that are not
// looked up are told by their words, from those that are.
package subject

import (
	"cmp"
	"maps"
	"slices"

	"cleverniche/core/serp"
)

// Side is whether an idea is about the subject.
type Side int8

// The sides.
const (
	Untold Side = iota
	On
	Off
)

// By is what told it.
type By int8

// What tells.
const (
	Nothing By = iota
	Results
	Words
	Hand
)

// Idea is one search phrase, as far as its subject can be told from it.
type Idea struct {
	Words    []string // stems of the phrase, without words that say nothing of a subject
	LookedUp bool
	Sites    []string // that stand for it, each once, without those that write about everything
	Hand     Side     // what somebody said of it
}

// Told is what is told of an idea.
type Told struct {
	Side Side
	By   By
	Part int // 0 the subject; those of the same number hang together; −1 it stands alone
	// Of so many of its sites, Shared stand for other ideas of the subject, too.
	Shared, Of int
	Word       string // that told most, where words did
}

// Bounds, found on four worlds of the stand-in and measured on others (docs/case-measured.md).
const (
	LeastLookedUp = 100  // ideas; fewer tell nothing
	apart         = 0.6  // that what is new of a part's words exceeds its conductance by, for another subject;
	small         = 0.6  // and this more for each idea of the part, since what few say is easily new
	hardly        = 0.2  // as often as elsewhere, for a word to be hardly heard
	fewestTies    = 2.0  // that hold a part together
	fewest        = 2    // ideas of a part, and sites of an idea that is told by them
	enough        = 4    // sites, for one that stands alone to be told by them;
	alone         = 0.34 // share of them at most that stand for the subject, too;
	strange       = 0.6  // share of its words at least that the subject does not say;
	seldom        = 0.01 // of the ideas, within which what a site stands for and a word is said in tells nothing
	sure          = 1.0  // log odds from which words tell
)

// Tell tells each of a niche's ideas. What somebody said of an idea holds, and teaches; where half of a part or more is
// said to be on the subject, all of it is.
func Tell(ideas []Idea) []Told {
	out := make([]Told, len(ideas))
	var known []int
	number := map[string]int32{}
	var tens []ten
	var words [][]string
	for i, idea := range ideas {
		if !idea.LookedUp {
			continue
		}
		known = append(known, i)
		one := make(ten, 0, len(idea.Sites))
		for _, s := range idea.Sites {
			k, is := number[s]
			if !is {
				k = int32(len(number))
				number[s] = k
			}
			one = append(one, k)
		}
		tens, words = append(tens, one), append(words, idea.Words)
	}
	if len(known) >= LeastLookedUp {
		words = withoutSeed(words)
		part := parts(tens, words, len(number))
		part = settle(tens, part, len(number))
		part = verified(tens, words, part, len(number))
		part = subjectFirst(part, known, ideas)
		look(out, known, tens, words, part, len(number))
	}
	byWords(out, ideas)
	for i, idea := range ideas {
		if idea.Hand != Untold {
			out[i].Side, out[i].By = idea.Hand, Hand
		}
	}
	return out
}

// withoutSeed takes out the words that most ideas say, as the seed's: they tell nothing of one rather than the other.
func withoutSeed(words [][]string) [][]string {
	n := map[string]int{}
	for _, list := range words {
		for _, w := range list {
			n[w]++
		}
	}
	out := make([][]string, len(words))
	for i, list := range words {
		for _, w := range list {
			if 2*n[w] <= len(words) {
				out[i] = append(out[i], w)
			}
		}
	}
	return out
}

// handWeighs is how many ideas one counts for that somebody said is on the subject (ours).
const handWeighs = 10

// subjectFirst numbers the parts anew: the subject is 0, the others by size.
func subjectFirst(part []int, known []int, ideas []Idea) []int {
	size, weight, on := map[int]int{}, map[int]int{}, map[int]int{}
	for k, p := range part {
		size[p]++
		weight[p]++
		switch ideas[known[k]].Hand {
		case On:
			on[p]++
			weight[p] += handWeighs
		case Off:
			weight[p] -= handWeighs
		}
	}
	order := slices.Sorted(maps.Keys(size))
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(weight[b], weight[a]) })
	number := map[int]int{}
	next := 1
	for i, p := range order {
		if i == 0 || 2*on[p] >= size[p] {
			number[p] = 0
			continue
		}
		number[p] = next
		next++
	}
	out := make([]int, len(part))
	for k, p := range part {
		out[k] = number[p]
	}
	return out
}

// look says of each looked-up idea what its sites tell.
func look(out []Told, known []int, tens []ten, words [][]string, part []int, sites int) {
	heard, stands, on := map[string]int{}, make([]int, sites), make([]int, sites)
	for k, t := range tens {
		if part[k] != 0 {
			continue
		}
		for _, w := range words[k] {
			heard[w]++
		}
		for _, s := range t {
			on[s]++
		}
	}
	for k, t := range tens {
		for _, s := range t {
			if part[k] == 0 {
				stands[s] = on[s] - 1
			} else {
				stands[s] = on[s]
			}
		}
		few := int(seldom * float64(len(tens)))
		told := Told{Side: On, By: Results, Part: part[k], Of: len(t)}
		lone := 0
		for _, s := range t {
			if stands[s] > 0 {
				told.Shared++
			}
			if stands[s] >= max(1, few) {
				lone++
			}
		}
		news := 0
		for _, w := range words[k] {
			if heard[w] <= max(1, few) {
				news++
			}
		}
		switch {
		case len(t) < fewest: // one site tells nothing unless the words agree
			told.Side, told.By = Untold, Nothing
		case part[k] != 0:
			told.Side = Off
		case len(t) >= enough && float64(lone) <= alone*float64(len(t)) && float64(news) >= strange*float64(len(words[k])):
			told.Side, told.Part = Off, -1
		case told.Shared == 0: // its sites tell nothing
			told.Side, told.By = Untold, Nothing
		}
		out[known[k]] = told
	}
}

// Tells reports whether sites of a kind tell a subject: big publishers and encyclopedias write about everything.
func Tells(kind serp.SiteKind) bool { return kind != serp.Publisher && kind != serp.Reference }
