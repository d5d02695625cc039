// Package topic groups ideas that one article answers.
//
// Two ideas are alike when the engine answers them with the same pages and they say
// the same words. Shared pages count by how high they stand for both (the discount of
// Järvelin & Kekäläinen 2002, "Cumulated gain-based evaluation of IR techniques") and
// by how few ideas they stand for at all (Adamic & Adar 2003, "Friends and neighbors
// on the Web"): a page that stands everywhere tells nothing, in a small list of ideas
// as in a dense one. Of that sum the logarithm counts, since the tenth page in common
// tells less than the second; and the rarest page counts on its own, since a page
// written for two ideas and hardly found otherwise says that somebody took them for
// one. Of the words those count that say what it is about, not those that say how somebody
// asks: “best”, “reviews” and “2026” are exchanged for one another, but “venus” is not for
// “mars”; and whether both ask for the same kind of thing. Where each of two says
// something that the other does not, the titles of what was found tell: those found for "goat
// cheese recipe" say "homemade", too, but not "blue".
// From all this comes the chance that the two are one need, by a logistic
// regression on worlds whose needs are known; see calibrated.go.
//
// Ideas are merged into topics as long as the members of two are alike on average
// (average linkage: Sokal & Michener 1958). The most searched member leads.
//
// Why not by leads alone, each idea joining the lead that it shares most pages with: a
// lead that joins another topic takes its own ideas' meeting place with it, and on a
// list where everybody says "telescope" all that is asked about telescopes ends in a few
// heaps. docs/topics.md has the figures of both.
package topic

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// Shared is how many of ten pages two ideas share at least to be alike at all, unless
// something else is asked for (adjustable from FewestShared to MostShared). Common
// practice, no source. Two group a little better where ideas are few, and take a quarter
// to a third longer.
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
	Results  []uint32 // numbers of the pages of its ten, in their order; none while it is not looked up
	// numbers of the stems that say what it is about, best as its results read it: phrase.AsRead, phrase.Subject
	Stems []uint32
	// numbers of the stems that many titles of its results say: phrase.Said; none when the titles are not known
	Said   []uint32
	Intent int8 // what its words say that searchers are after, as a number
}

// Hand is what somebody decided on an idea by hand.
type Hand struct {
	// Topic is the number of the topic that it was put in, from 1: ideas of one number are together and those of two
	// apart, whatever they are like. 0 is none.
	Topic int32
	Leads bool // it was made the lead of its topic
	// Closed is said of all ideas of a topic that others do not join: an article in the plan, whose ideas change by hand
	// alone.
	Closed bool
}

// Member is an idea in a topic.
type Member struct {
	Idea   int     // index into what was grouped
	Shared int     // pages it has in common with the lead; of the lead, all of its own
	Words  float64 // share of its and the lead's stems that both have; of the lead, 1
	Titles Titles  // what the titles found for it and for the lead tell
	// mean chance that it is one need with another looked-up member; 1 when there is none, 0 when it is not looked up
	Alike   float64
	Assumed bool // not looked up: it is here because its words are a variant's
	ByHand  bool // somebody put it here
}

// Because says why the idea is in a topic that another leads; "" for lead when it is
// the lead itself.
func (m Member) Because(lead string) string {
	switch {
	case m.ByHand:
		return "moved here by you"
	case m.Assumed:
		return "not looked up; says the same words as one of the topic"
	case lead == "" && m.Alike == 1:
		return "nothing else is like it"
	case lead == "":
		return fmt.Sprintf("most searched; %.0f %% likely, on average, to share a need with the others", 100*m.Alike)
	}
	return fmt.Sprintf("%.0f %% likely, on average, to share a need with the others; with “%s” it "+
		"shares %d pages and %.0f %% of the words%s",
		100*m.Alike, lead, m.Shared, 100*m.Words, map[Titles]string{
			Echoed: ", and titles found for one say what only the other says",
			Apart:  ", but each says what no titles found for the other say",
		}[m.Titles])
}

// Group is ideas that one article answers; the first member is the lead.
type Group struct{ Members []Member }

// Lead is the index of the phrase that belongs in the title.
func (t Group) Lead() int { return t.Members[0].Idea }

// Counted are the ideas of the topic whose searches add up, as indices into what was grouped. Variants of
// one another are searched by the same people in other words: of each variant key only the most searched
// idea counts, of equals the first.
func (t Group) Counted(ideas []Idea) (out []int) {
	of := map[string]int{} // place in out, by variant
	for _, m := range t.Members {
		i := ideas[m.Idea]
		at, seen := of[i.Variant]
		switch {
		case i.Variant == "" || !seen:
			of[i.Variant] = len(out)
			out = append(out, m.Idea)
		case i.Searches > ideas[out[at]].Searches:
			out[at] = m.Idea
		}
	}
	return out
}

// Searches adds up what the topic is searched.
func (t Group) Searches(ideas []Idea) (sum float64) {
	for _, i := range t.Counted(ideas) {
		sum += ideas[i].Searches
	}
	return sum
}

// Model is a calibrated grouping.
type Model struct {
	Name     string  // when and on what it was calibrated
	Pages    float64 // weight of the logarithm of the pages that two ideas share; see Pair
	Rarest   float64 // weight of the rarest of them
	Words    float64 // weight of the words
	Intent   float64 // what it adds when both ask for the same kind of thing, by their words
	Echoed   float64 // what Echoed titles add
	Apart    float64 // what Apart titles take off
	Even     float64 // what all must come to for even odds
	Together float64 // chance that the members of two topics have on average at least, when they are merged
}

// Chance is the probability that two ideas are one need.
func (m Model) Chance(p Pair) float64 {
	sum := m.Pages*math.Log(p.Pages) + m.Rarest*p.Rarest + m.Words*p.Words - m.Even
	if p.SameIntent {
		sum += m.Intent
	}
	switch p.Titles {
	case Echoed:
		sum += m.Echoed
	case Apart:
		sum -= m.Apart
	}
	return 1 / (1 + math.Exp(-sum))
}

// ByResults groups ideas by the calibrated model.
func ByResults(ideas []Idea, shared int) []Group { return Calibrated.Group(ideas, shared) }

// Group groups ideas, those that share fewer pages than given being nothing alike. The
// topics come by the searches of their leads, the members by their searches. Ideas
// without results join the topic of their most searched variant, or of one another. The
// same ideas give the same topics in whatever order they come.
func (m Model) Group(ideas []Idea, shared int) []Group { return m.Grouped(ideas, nil, shared).Groups }

// Grouping is ideas in topics, with what they were grouped by.
type Grouping struct {
	Groups []Group
	ideas  []Idea
	links  []link
	topics []int32 // by place: the topic
}

// Grouped is Group, and keeps what tells how alike topics are. hands is what was decided by hand,
// by idea, or nil: what was put together or apart stays so, and others join it where they are alike.
func (m Model) Grouped(ideas []Idea, hands []Hand, shared int) *Grouping {
	if hands == nil {
		hands = make([]Hand, len(ideas))
	}
	order := leadFirst(ideas)
	sheets := sheetsOf(ideas, order)
	links := m.links(sheets, max(FewestShared, min(MostShared, shared)))
	apart := make([]int32, len(sheets.ideas))
	closed := map[int32]bool{}
	for place, i := range sheets.ideas {
		if apart[place] = hands[i].Topic; hands[i].Closed {
			closed[hands[i].Topic] = true
		}
	}
	roots := merge(len(sheets.ideas), links, m.Together, apart, closed)
	alike := meanWithin(roots, links)

	placeOf := make([]int32, len(ideas))
	for i := range placeOf {
		placeOf[i] = nowhere
	}
	for place, i := range sheets.ideas {
		placeOf[i] = int32(place)
	}
	topicOf, sizes := assign(ideas, hands, order, placeOf, roots)

	topics := make([]Group, len(sizes))
	room := make([]Member, len(ideas))
	for t, size := range sizes {
		topics[t].Members, room = room[:0:size], room[size:]
	}
	for _, i := range order {
		t := &topics[topicOf[i]]
		t.Members = append(t.Members, Member{Idea: int(i), ByHand: hands[i].Topic != 0})
	}
	for _, t := range topics {
		t.leadByHand(hands)
		lead := placeOf[t.Lead()]
		for k := range t.Members {
			m := &t.Members[k]
			place := placeOf[m.Idea]
			if place != nowhere {
				m.Alike = alike[place]
			}
			switch {
			case k == 0 && place != nowhere:
				m.Shared, m.Words = len(sheets.at(int(place)).pages()), 1
			case k == 0:
				m.Words = 1
			case place == nowhere || lead == nowhere: // who leads by hand need not be looked up
				m.Assumed = true
			default:
				p := sheets.pair(int(lead), int(place))
				m.Shared, m.Words, m.Titles = p.Shared, p.Words, p.Titles
			}
		}
	}
	slices.SortStableFunc(topics, func(a, b Group) int {
		x, y := &ideas[a.Lead()], &ideas[b.Lead()]
		return cmp.Or(cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	g := &Grouping{Groups: topics, ideas: ideas, links: links, topics: make([]int32, len(sheets.ideas))}
	for t := range topics {
		for _, m := range topics[t].Members {
			if place := placeOf[m.Idea]; place != nowhere {
				g.topics[place] = int32(t)
			}
		}
	}
	return g
}

// leadByHand puts the member first that somebody made the lead.
func (t Group) leadByHand(hands []Hand) {
	for k, m := range t.Members {
		if hands[m.Idea].Leads {
			copy(t.Members[1:k+1], t.Members[:k])
			t.Members[0] = m
			return
		}
	}
}

// Near is how alike another topic is.
type Near struct {
	Topic int     // its index
	Alike float64 // mean chance that a member of the one is one need with a member of the other
}

// Fitting lists for each closed topic what would have joined it were it open: the topics whose members are as likely
// one need with its members as members of one topic are on average, the most alike first. hands is what Grouped was
// given.
func (g *Grouping) Fitting(hands []Hand, together float64) map[int][]Near {
	out := map[int][]Near{}
	for t, group := range g.Groups {
		if hands[group.Lead()].Closed {
			out[t] = nil
		}
	}
	for t := range out {
		for _, near := range g.Near(t, len(g.Groups)) {
			if near.Alike >= together && hands[g.Groups[near.Topic].Lead()].Topic == 0 {
				out[t] = append(out[t], near)
			}
		}
	}
	return out
}

// Near lists the topics that are alike to one at all, the most alike first, at most so many.
func (g *Grouping) Near(topic, most int) (out []Near) {
	sums := map[int32]float64{}
	for _, l := range g.links {
		a, b := g.topics[l.a], g.topics[l.b]
		switch t := int32(topic); {
		case a == t && b != t:
			sums[b] += float64(l.chance)
		case b == t && a != t:
			sums[a] += float64(l.chance)
		}
	}
	looked := func(t int32) (n float64) {
		for _, m := range g.Groups[t].Members {
			if len(g.ideas[m.Idea].Results) > 0 {
				n++
			}
		}
		return n
	}
	own := looked(int32(topic))
	for t, sum := range sums {
		out = append(out, Near{int(t), sum / (own * looked(t))})
	}
	slices.SortFunc(out, func(a, b Near) int { return cmp.Or(cmp.Compare(b.Alike, a.Alike), a.Topic-b.Topic) })
	return out[:min(most, len(out))]
}

// nowhere is the place of an idea that is not looked up.
const nowhere = -1

// assign gives each idea the number of its topic, and counts the members of the topics.
// These are numbered as the order meets them; ideas not looked up, which come last in
// it, join their variant.
func assign(ideas []Idea, hands []Hand, order, placeOf, roots []int32) (topicOf, sizes []int32) {
	topicOf = make([]int32, len(ideas))
	byRoot := make([]int32, len(roots)) // numbers counted from 1: 0 is none
	byVariant, byHand := map[string]int32{}, map[int32]int32{}
	remember := len(roots) < len(ideas)
	for _, i := range order {
		variant, t := "", int32(0)
		if remember {
			variant = ideas[i].Variant
		}
		looked, hand := placeOf[i] != nowhere, hands[i].Topic
		if hand != 0 {
			t = byHand[hand]
		}
		switch {
		case t != 0:
		case looked:
			t = byRoot[roots[placeOf[i]]]
		case hand == 0:
			t = byVariant[variant]
		}
		if t == 0 {
			sizes = append(sizes, 0)
			t = int32(len(sizes))
		}
		if looked {
			byRoot[roots[placeOf[i]]] = t
		}
		if hand != 0 {
			byHand[hand] = t
		}
		if variant != "" && byVariant[variant] == 0 && !hands[i].Closed {
			byVariant[variant] = t
		}
		topicOf[i] = t - 1
		sizes[t-1]++
	}
	return topicOf, sizes
}
