// Package topic groups ideas that one article answers: those whose results are
// largely the same pages. It is lead-first: ideas by searches, each joins the topic
// whose lead shares most pages with it, or leads a topic of its own. An inverted
// index from page to the topics led by it makes that near-linear in the number of
// ideas, and the same ideas give the same topics in whatever order they come.
package topic

import (
	"bytes"
	"cmp"
	"math/bits"
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
	sheets, pages := sheetsOf(ideas, order)
	g := grouping{shared: shared, leads: make([]int32, line, line*(1+len(ideas))), latest: make([]int32, pages), byVariant: map[string]int32{},
		members: make([]Member, 0, len(ideas)), of: make([]int32, 0, len(ideas))}
	for i := range ideas {
		if len(ideas[i].Results) == 0 && ideas[i].Variant != "" {
			g.byVariant[ideas[i].Variant] = -1
		}
	}
	for at, i := range order {
		variant := ""
		if len(g.byVariant) > 0 {
			variant = ideas[i].Variant
		}
		g.place(i, variant, sheets.at(at))
	}
	topics := g.gathered()
	slices.SortStableFunc(topics, func(a, b Topic) int {
		x, y := &ideas[a.Lead()], &ideas[b.Lead()]
		return cmp.Or(cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	return topics
}

// leadFirst is the order in which ideas are placed: what is looked up first, since it
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
// many pages and stems it has, then the pages, the rarest first, then the stems, each
// once and rising.
type sheet []int32

const (
	countOfPages = iota
	countOfStems
	sheetHead
)

func (s sheet) pages() []int32 { return s[sheetHead : sheetHead+s[countOfPages]] }

func (s sheet) stems() []int32 {
	from := sheetHead + s[countOfPages]
	return s[from : from+s[countOfStems]]
}

// sheets are those of all ideas, one after the other in the order of placing.
type sheets struct{ all, begins []int32 }

func (s sheets) at(i int) sheet { return s.all[s.begins[i]:] }

// sheetsOf writes the sheets. Pages are numbered by how many ideas they stand for, the
// rarest lowest.
func sheetsOf(ideas []Idea, order []int32) (out sheets, pages int) {
	number, pages := numbering(ideas)
	counts := make([]int32, pages)
	rooms, places := make([]int32, len(ideas)), make([]int32, len(ideas))
	for i := range ideas {
		for _, page := range ideas[i].Results {
			counts[number(page)]++
		}
		rooms[i] = sheetHead + int32(len(ideas[i].Results)+len(ideas[i].Stems))
	}
	rank := ranksOf(counts)
	size := int32(0)
	out.begins = make([]int32, len(ideas))
	for at, i := range order {
		out.begins[at], places[i] = size, int32(at)
		size += rooms[i]
	}
	out.all = make([]int32, size)
	for i := range ideas { // as they come, so that they are read one after the other
		s := out.at(int(places[i]))
		list := s[sheetHead:sheetHead]
		for _, page := range ideas[i].Results {
			list = append(list, rank[number(page)])
		}
		n := once(list)
		list = s[sheetHead+n : sheetHead+n]
		for _, stem := range ideas[i].Stems {
			list = append(list, int32(stem))
		}
		s[countOfPages], s[countOfStems] = int32(n), int32(once(list))
	}
	return out, pages
}

// once sorts a list, leaves out what comes twice, and says how many are left.
func once(list []int32) int {
	slices.Sort(list)
	return len(slices.Compact(list))
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

// ranksOf gives each its place among the counts, the smallest first, of those in one
// power of two the earlier: pages that stand together mostly came together, and so
// stay side by side in memory.
func ranksOf(counts []int32) []int32 {
	var start [33]int32
	for _, c := range counts {
		start[bits.Len32(uint32(c))+1]++
	}
	for b := range start[1:] {
		start[b+1] += start[b]
	}
	rank := make([]int32, len(counts))
	for i, c := range counts {
		b := bits.Len32(uint32(c))
		rank[i] = start[b]
		start[b]++
	}
	return rank
}

// grouping is the topics so far and how to find them.
type grouping struct {
	shared    int
	members   []Member         // as they were placed,
	of        []int32          // and the topics that they are in
	topics    int32            // how many there are
	leads     []int32          // records of the topics' leads, one after the other
	latest    []int32          // by page: listing of the latest topic whose lead has it among its rarest, or 0
	met       []int32          // records to be compared with an idea
	byVariant map[string]int32 // of the variants of ideas without results: the first topic with one, or −1
}

// A topic's record holds the last idea that it was compared with, its number, and the
// sheet of its lead. In front of it stands a listing for each of the rarest pages of
// its lead: where the listing of the topic before it is that has the page, and where
// this record begins. Records begin at a line of the processor's cache, of 16 numbers,
// so that most are read at once.
const (
	lastMet = iota
	itsTopic
	itsSheet

	before      = 0
	itsRecord   = 1
	listingSize = 2

	line = 16
)

// telling is how many of an idea's rarest pages must hold one that is shared: of two
// lists in one order that have at least so many in common, the beginnings without
// the last so many but one meet (prefix filtering: Bayardo, Ma & Srikant 2007,
// "Scaling up all pairs similarity search"). Pages that stand everywhere are so
// never looked up.
func (g *grouping) telling(pages []int32) []int32 {
	return pages[:max(0, len(pages)-g.shared+1)]
}

// open starts a topic that an idea leads.
func (g *grouping) open(s sheet) (topic int32) {
	topic = g.topics
	g.topics++
	rarest := g.telling(s.pages())
	size := listingSize * len(rarest)
	for (len(g.leads)+size)%line != 0 {
		g.leads = append(g.leads, 0)
	}
	record := int32(len(g.leads) + size)
	for _, page := range rarest {
		listing := int32(len(g.leads))
		g.leads = append(g.leads, g.latest[page], record)
		g.latest[page] = listing
	}
	g.leads = append(g.leads, 0, topic)
	g.leads = append(g.leads, s[:sheetHead+s[countOfPages]+s[countOfStems]]...)
	return topic
}

// place puts an idea into a topic, one of its own if need be.
func (g *grouping) place(i int32, variant string, s sheet) {
	at, member := g.closest(s)
	member.Idea = int(i)
	if len(s.pages()) == 0 && variant != "" {
		at = g.byVariant[variant]
		member.Assumed = at >= 0
	}
	if at < 0 {
		at = g.open(s)
		member.Shared, member.Words = int(s[countOfPages]), 1
	}
	g.members, g.of = append(g.members, member), append(g.of, at)
	if first, wanted := g.byVariant[variant]; wanted && first < 0 {
		g.byVariant[variant] = at
	}
}

// closest is the topic whose lead is most like the idea, and enough so, the earliest of
// several; −1 when there is none.
func (g *grouping) closest(s sheet) (closest int32, best Member) {
	closest = -1
	pages, stems := s.pages(), s.stems()
	most := 0.0
	for _, record := range g.meet(pages) {
		lead := g.leads[record:]
		t, of := lead[itsTopic], sheet(lead[itsSheet:])
		c := common(pages, of.pages())
		if c < g.shared {
			continue
		}
		words, like := 0.0, float64(c)
		if len(stems) > 0 && of[countOfStems] > 0 {
			words = overlap(stems, of.stems())
			if like += Alike * words; like < Alike {
				continue
			}
		}
		if like > most || like == most && t < closest {
			closest, most = t, like
			best.Shared, best.Words = c, words
		}
	}
	return closest, best
}

// meet lists the records of the topics whose leads have one of an idea's rarest pages
// among their own, each once.
func (g *grouping) meet(pages []int32) []int32 {
	g.met = g.met[:0]
	placed := int32(len(g.members) + 1)
	for _, page := range g.telling(pages) {
		for at := g.latest[page]; at > 0; at = g.leads[at+before] {
			record := g.leads[at+itsRecord]
			if g.leads[record+lastMet] != placed {
				g.leads[record+lastMet] = placed
				g.met = append(g.met, record)
			}
		}
	}
	return g.met
}

// gathered are the topics with their members, in one piece of memory.
func (g *grouping) gathered() []Topic {
	ends := make([]int32, g.topics+1)
	for _, t := range g.of {
		ends[t+1]++
	}
	for t := range g.topics {
		ends[t+1] += ends[t]
	}
	all := make([]Member, len(g.members))
	topics := make([]Topic, g.topics)
	for t := range topics {
		topics[t].Members = all[ends[t]:ends[t]:ends[t+1]]
	}
	for i, t := range g.of {
		topics[t].Members = append(topics[t].Members, g.members[i])
	}
	return topics
}

// overlap is the share of two rising lists' entries that both have (Jaccard 1901).
func overlap(a, b []int32) float64 {
	both := common(a, b)
	return float64(both) / float64(len(a)+len(b)-both)
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
