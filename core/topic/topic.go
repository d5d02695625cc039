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

// Alike is what shared pages and shared words must come to: the pages of ten that two
// ideas share, plus ten times the share of the words that both have (Jaccard 1901).
// Ten pages are enough without a word, five pages want half of the words, three want
// seven tenths. Pages alone take in neighbours: on world 11 of the stand-in the
// adjusted Rand index against the hidden needs was 0.63 by three pages, 0.69 at best,
// and 0.82 with the words; on world 12, 0.76 with them.
const Alike = 10.0

// Idea is what grouping looks at.
type Idea struct {
	Phrase   string // breaks ties, so it should differ
	Searches float64
	Variant  string   // variant key: same key, suspected variants
	Results  []uint32 // numbers of the pages of its ten; none while it is not looked up
	Stems    []uint32 // numbers of its content stems; none, and pages alone tell
}

// Member is an idea in a topic.
type Member struct {
	Idea    int     // index into what was grouped
	Shared  int     // pages it has in common with the lead; of the lead, all of its own
	Words   float64 // share of its and the lead's stems that both have; of the lead, 1
	Assumed bool    // not looked up: it is here because its words are a variant's
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
	order := leadFirst(ideas)
	ranked, pages := rarestFirst(ideas, order)
	g := grouping{shared: shared, ideas: ideas, begin: []int32{0}, latest: make([]int32, pages), listed: make([]listing, 1, 1+len(ideas)), byVariant: make(map[string]int32, len(ideas))}
	for at, i := range order {
		g.place(i, ideas[i].Variant, ranked[at])
	}
	slices.SortStableFunc(g.topics, func(a, b Topic) int {
		x, y := &ideas[a.Lead()], &ideas[b.Lead()]
		return cmp.Or(cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	return g.topics
}

// leadFirst is the order in which ideas are placed: what is looked up first, since it
// leads and variants join it, then by searches, then by phrase. What is compared most
// lies side by side in memory.
func leadFirst(ideas []Idea) []int {
	type key struct {
		empty    int32
		at       int32
		searches float64
	}
	keys := make([]key, len(ideas))
	for i := range ideas {
		keys[i] = key{at: int32(i), searches: ideas[i].Searches}
		if len(ideas[i].Results) == 0 {
			keys[i].empty = 1
		}
	}
	slices.SortFunc(keys, func(a, b key) int {
		switch {
		case a.empty != b.empty:
			return cmp.Compare(a.empty, b.empty)
		case a.searches != b.searches:
			return cmp.Compare(b.searches, a.searches)
		}
		return cmp.Compare(ideas[a.at].Phrase, ideas[b.at].Phrase)
	})
	order := make([]int, len(keys))
	for i, k := range keys {
		order[i] = int(k.at)
	}
	return order
}

// rarestFirst numbers the pages by how many ideas they stand for, the rarest lowest,
// and lists the pages of the ideas, in their order, by these numbers, once each.
func rarestFirst(ideas []Idea, order []int) (ranked [][]int32, pages int) {
	all := 0
	for _, idea := range ideas {
		all += len(idea.Results)
	}
	flat, counts := numbered(ideas, order, all)
	rank := ranksOf(counts)
	ranked = make([][]int32, len(ideas))
	for i, at := range order {
		n := len(ideas[at].Results)
		list := flat[:n:n]
		flat = flat[n:]
		for j, page := range list {
			list[j] = rank[page]
		}
		slices.Sort(list)
		ranked[i] = slices.Compact(list)
	}
	return ranked, len(counts)
}

// sparse is how many times more numbers than results there may be for pages to be
// looked up in an array.
const sparse = 16

// numbered lists the pages of all ideas one after the other, numbered from 0 as they
// come, and counts each. Numbers that lie close together are looked up in an array,
// others in a map.
func numbered(ideas []Idea, order []int, all int) (flat, counts []int32) {
	largest := uint32(0)
	for _, idea := range ideas {
		for _, page := range idea.Results {
			largest = max(largest, page)
		}
	}
	flat = make([]int32, 0, all)
	number := func(at int32, known bool) int32 {
		if !known {
			at = int32(len(counts))
			counts = append(counts, 0)
		}
		counts[at]++
		flat = append(flat, at)
		return at
	}
	if int64(largest) < sparse*int64(all) {
		dense := make([]int32, largest+1)
		for _, i := range order {
			for _, page := range ideas[i].Results {
				dense[page] = 1 + number(dense[page]-1, dense[page] > 0)
			}
		}
		return flat, counts
	}
	dense := make(map[uint32]int32, all)
	for _, i := range order {
		for _, page := range ideas[i].Results {
			at, known := dense[page]
			dense[page] = number(at, known)
		}
	}
	return flat, counts
}

// ranksOf gives each its place among the counts, the smallest first, of equal ones
// the earlier: a counting sort.
func ranksOf(counts []int32) []int32 {
	most := int32(0)
	for _, c := range counts {
		most = max(most, c)
	}
	start := make([]int32, most+2)
	for _, c := range counts {
		start[c+1]++
	}
	for c := range most + 1 {
		start[c+1] += start[c]
	}
	rank := make([]int32, len(counts))
	for i, c := range counts {
		rank[i] = start[c]
		start[c]++
	}
	return rank
}

// grouping is the topics so far and how to find them.
type grouping struct {
	shared    int
	ideas     []Idea
	topics    []Topic
	leads     []int32 // pages of the topics' leads, rarest first, one after the other
	begin     []int32 // by topic: where its lead's begin, and at last where they end
	stems     [][]uint32
	latest    []int32   // by page: the latest listing of a topic whose lead has it among its rarest; 0 is none
	listed    []listing // of all pages in one piece of memory
	byVariant map[string]int32
	met       []int32 // by topic: the last idea that it was compared with, plus one
	placed    int32
}

// listing is one topic under a page, and where the one before it stands.
type listing struct{ topic, before int32 }

// telling is how many of an idea's rarest pages must hold one that is shared: of two
// lists in one order that have at least so many in common, the beginnings without
// the last so many but one meet (prefix filtering: Bayardo, Ma & Srikant 2007,
// "Scaling up all pairs similarity search"). Pages that stand everywhere are so
// never looked up.
func (g *grouping) telling(pages []int32) []int32 {
	return pages[:max(0, len(pages)-g.shared+1)]
}

func (g *grouping) place(i int, variant string, pages []int32) {
	at, member := g.closest(i, pages)
	if len(pages) == 0 {
		var known bool
		if at, known = g.byVariant[variant]; !known || variant == "" {
			at = -1
		}
		member.Assumed = at >= 0
	}
	if at < 0 {
		at = int32(len(g.topics))
		member.Shared, member.Words = len(pages), 1
		g.topics, g.leads, g.met = append(g.topics, Topic{}), append(g.leads, pages...), append(g.met, 0)
		g.begin = append(g.begin, int32(len(g.leads)))
		g.stems = append(g.stems, g.ideas[i].Stems)
		for _, page := range g.telling(pages) {
			g.listed = append(g.listed, listing{at, g.latest[page]})
			g.latest[page] = int32(len(g.listed) - 1)
		}
	}
	g.topics[at].Members = append(g.topics[at].Members, member)
	if _, known := g.byVariant[variant]; !known {
		g.byVariant[variant] = at
	}
}

// closest is the topic whose lead is most like the idea, and enough so, the earliest of
// several; −1 when there is none.
func (g *grouping) closest(i int, pages []int32) (closest int32, best Member) {
	g.placed++
	closest, best = -1, Member{Idea: i}
	stems := g.ideas[i].Stems
	most := 0.0
	for _, page := range g.telling(pages) {
		for l := g.latest[page]; l > 0; l = g.listed[l].before {
			t := g.listed[l].topic
			if g.met[t] == g.placed {
				continue
			}
			g.met[t] = g.placed
			c := common(pages, g.leads[g.begin[t]:g.begin[t+1]])
			if c < g.shared {
				continue
			}
			words, like := 0.0, float64(c)
			if len(stems) > 0 && len(g.stems[t]) > 0 {
				words = overlap(stems, g.stems[t])
				if like += Alike * words; like < Alike {
					continue
				}
			}
			if like > most || like == most && t < closest {
				closest, most = t, like
				best.Shared, best.Words = c, words
			}
		}
	}
	return closest, best
}

// overlap is the share of two short lists' entries that both have (Jaccard 1901).
func overlap(a, b []uint32) float64 {
	both := 0
	for i, x := range a {
		if !slices.Contains(a[:i], x) && slices.Contains(b, x) {
			both++
		}
	}
	distinct := 0
	for i, x := range a {
		if !slices.Contains(a[:i], x) {
			distinct++
		}
	}
	for i, x := range b {
		if !slices.Contains(b[:i], x) && !slices.Contains(a, x) {
			distinct++
		}
	}
	if distinct == 0 {
		return 0
	}
	return float64(both) / float64(distinct)
}

// common counts what two rising lists have in common.
func common(a, b []int32) int {
	n, j := 0, 0
	for _, x := range a {
		for j < len(b) && b[j] < x {
			j++
		}
		if j < len(b) && b[j] == x {
			n++
		}
	}
	return n
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
