// Package topic groups ideas that one article answers: those whose results are
// largely the same pages. It is lead-first: ideas by searches, each joins the topic
// whose lead shares most pages with it, or leads a topic of its own. An inverted
// index from page to the topics led by it makes that near-linear in the number of
// ideas, and the same ideas give the same topics in whatever order they come.
package topic

import (
	"cmp"
	"slices"
)

// Shared is how many of ten pages an idea and a lead share at least to be one topic,
// unless something else is asked for (common practice; adjustable from FewestShared
// to MostShared).
const (
	Shared       = 3
	FewestShared = 2
	MostShared   = 8
)

// Idea is what grouping looks at.
type Idea struct {
	Phrase   string // breaks ties, so it should differ
	Searches float64
	Variant  string   // variant key: same key, suspected variants
	Results  []uint32 // numbers of the pages of its ten; none while it is not looked up
}

// Member is an idea in a topic.
type Member struct {
	Idea    int  // index into what was grouped
	Shared  int  // pages it has in common with the lead; of the lead, all of its own
	Assumed bool // not looked up: it is here because its words are a variant's
}

// Topic is ideas that one article answers; the first member is the lead.
type Topic struct{ Members []Member }

// Lead is the index of the phrase that belongs in the title.
func (t Topic) Lead() int { return t.Members[0].Idea }

// Searches adds up what the topic is searched. Variants of one another are searched
// by the same people in other words: of each variant key only the most searched idea
// counts.
func (t Topic) Searches(ideas []Idea) float64 {
	most := map[string]float64{}
	sum := 0.0
	for _, m := range t.Members {
		i := ideas[m.Idea]
		if i.Variant == "" {
			sum += i.Searches
		} else if i.Searches > most[i.Variant] {
			sum += i.Searches - most[i.Variant]
			most[i.Variant] = i.Searches
		}
	}
	return sum
}

// Group groups ideas that share at least the given number of pages with a lead, the
// topics by the searches of their leads. Ideas without results join the topic of
// their most searched variant, or of one another.
func Group(ideas []Idea, shared int) []Topic {
	shared = max(FewestShared, min(MostShared, shared))
	order := make([]int, len(ideas))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		x, y := &ideas[a], &ideas[b]
		// What is looked up comes first: it leads, and variants join it.
		return cmp.Or(cmp.Compare(empty(x), empty(y)), cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	g := grouping{byPage: map[uint32][]int32{}, byVariant: map[string]int32{}}
	for _, i := range order {
		g.place(i, &ideas[i], int32(shared))
	}
	slices.SortStableFunc(g.topics, func(a, b Topic) int {
		x, y := &ideas[a.Lead()], &ideas[b.Lead()]
		return cmp.Or(cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	return g.topics
}

func empty(i *Idea) int {
	if len(i.Results) == 0 {
		return 1
	}
	return 0
}

// grouping is the topics so far and how to find them.
type grouping struct {
	topics    []Topic
	byPage    map[uint32][]int32 // topics whose lead's results hold the page
	byVariant map[string]int32
	counts    []int32 // shared pages by topic, of the idea that is being placed
	touched   []int32
}

func (g *grouping) place(i int, idea *Idea, shared int32) {
	at, count := g.closest(idea)
	member := Member{Idea: i, Shared: int(count)}
	if len(idea.Results) == 0 {
		var known bool
		if at, known = g.byVariant[idea.Variant]; !known || idea.Variant == "" {
			at = -1
		}
		member = Member{Idea: i, Assumed: at >= 0}
	} else if count < shared {
		at = -1
	}
	if at < 0 {
		at = int32(len(g.topics))
		member.Shared = len(idea.Results)
		g.topics = append(g.topics, Topic{})
		g.counts = append(g.counts, 0)
		for n, page := range idea.Results {
			if !slices.Contains(idea.Results[:n], page) {
				g.byPage[page] = append(g.byPage[page], at)
			}
		}
	}
	g.topics[at].Members = append(g.topics[at].Members, member)
	if _, known := g.byVariant[idea.Variant]; !known {
		g.byVariant[idea.Variant] = at
	}
}

// closest is the topic whose lead shares most pages, the earliest of several.
func (g *grouping) closest(idea *Idea) (at, count int32) {
	g.touched = g.touched[:0]
	for n, page := range idea.Results {
		if slices.Contains(idea.Results[:n], page) {
			continue // a page that is shown twice is one page
		}
		for _, t := range g.byPage[page] {
			if g.counts[t]++; g.counts[t] == 1 {
				g.touched = append(g.touched, t)
			}
		}
	}
	at = -1
	for _, t := range g.touched {
		if c := g.counts[t]; c > count || c == count && t < at {
			at, count = t, c
		}
		g.counts[t] = 0
	}
	return at, count
}

// AdjustedRand compares two groupings of the same things, given as the group of each:
// 1 for the same grouping, about 0 for one by chance (Hubert & Arabie 1985,
// "Comparing partitions"). Two groupings with everything apart, or everything
// together, are the same. The lists must be equally long.
func AdjustedRand(a, b []int) float64 {
	type cell struct{ a, b int }
	both, rows, columns := map[cell]float64{}, map[int]float64{}, map[int]float64{}
	for i := range a {
		both[cell{a[i], b[i]}]++
		rows[a[i]]++
		columns[b[i]]++
	}
	pairs := func(n float64) float64 { return n * (n - 1) / 2 }
	var index, inRows, inColumns float64
	for _, n := range both {
		index += pairs(n)
	}
	for _, n := range rows {
		inRows += pairs(n)
	}
	for _, n := range columns {
		inColumns += pairs(n)
	}
	all := pairs(float64(len(a)))
	if all == 0 {
		return 1
	}
	expected, most := inRows*inColumns/all, (inRows+inColumns)/2
	if most == expected {
		return 1
	}
	return (index - expected) / (most - expected)
}
