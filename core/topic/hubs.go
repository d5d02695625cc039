package topic

import (
	"cmp"
	"slices"
)

// Subject is what hubs are told from: a topic's lead.
type Subject struct {
	Stems    []string // content stems, any order
	Results  []uint32 // numbers of the pages of the lead's ten; none while it is not looked up
	Searches float64  // of the topic
}

// NoHub says that a topic hangs on no other.
const NoHub = -1

// What makes a hub and a spoke (ours; that an overview links to narrower articles and they to it is
// common practice, no source).
const (
	fewestSpokes = 2 // of an overview
	hubPages     = 2 // that a lead shares with a hub's, of which it says some stems, to be a spoke of it
	// A stem that more than one of so many topics says tells nothing about two of them, unless hardly any do.
	commonest    = 4
	fewestSaying = 4
)

// Hubs proposes for each topic the overview that it is a spoke of: the index of another topic, or
// NoHub. A spoke says all that its hub's lead says, and more: of several such the one that says most;
// or some of it that not every topic says. Where both are looked up, they share pages, too. What has few spokes is no
// hub, and what is one hangs on none itself. given are hubs that somebody chose, by topic; they stay, but for one
// that hangs on another itself: its spokes hang on that one, too.
func Hubs(topics []Subject, given map[int]int) []int {
	s := newHubSearch(topics, flat(given))
	for i := range topics {
		if _, some := s.given[i]; !some && !s.kept[i] {
			s.candidates[i] = s.candidatesOf(i)
		}
	}
	s.weed()
	out := make([]int, len(topics))
	for i := range topics {
		out[i] = NoHub
		if h, some := s.given[i]; some {
			out[i] = h
		} else if s.gone[i] && !s.kept[i] {
			out[i] = s.best(i)
		}
	}
	return out
}

// hubSearch is what is known while hubs are looked for.
type hubSearch struct {
	topics []Subject
	given  map[int]int
	kept   map[int]bool   // hubs that somebody chose
	stems  [][]string     // of each topic, rising
	count  map[string]int // topics that say a stem
	byStem map[string][]int
	byPage map[uint32][]int

	candidates [][]int      // of each topic, the best first
	next       []int        // of each topic's candidates, which is the best that is not gone
	gone       map[int]bool // what is no hub
}

func newHubSearch(topics []Subject, given map[int]int) *hubSearch {
	s := &hubSearch{topics: topics, given: given, kept: map[int]bool{}, stems: make([][]string, len(topics)),
		count: map[string]int{}, byStem: map[string][]int{}, byPage: map[uint32][]int{},
		candidates: make([][]int, len(topics)), next: make([]int, len(topics)), gone: map[int]bool{}}
	for i, t := range topics {
		s.stems[i] = slices.Compact(slices.Sorted(slices.Values(t.Stems)))
		for _, stem := range s.stems[i] {
			s.count[stem]++
		}
	}
	// A hub is found by the rarest stem of its lead, which its spokes say, too, or by its pages.
	rarer := func(a, b string) int { return cmp.Or(s.count[a]-s.count[b], cmp.Compare(a, b)) }
	for i, t := range topics {
		if len(s.stems[i]) > 0 {
			rarest := slices.MinFunc(s.stems[i], rarer)
			s.byStem[rarest] = append(s.byStem[rarest], i)
		}
		for k, page := range t.Results {
			if !slices.Contains(t.Results[:k], page) {
				s.byPage[page] = append(s.byPage[page], i)
			}
		}
	}
	for _, h := range given {
		if h != NoHub {
			s.kept[h] = true
		}
	}
	return s
}

// candidatesOf lists what a topic may be a spoke of, the best first.
func (s *hubSearch) candidatesOf(i int) (out []int) {
	pages := s.sharedPages(i)
	seen, whole := map[int]int{}, map[int]bool{} // stems that both say
	add := func(h int) {
		on, some := s.given[h]
		if _, known := seen[h]; known || h == i || some && on != NoHub || len(s.stems[h]) >= len(s.stems[i]) {
			return
		}
		seen[h] = inBoth(s.stems[h], s.stems[i])
		whole[h] = seen[h] == len(s.stems[h])
		if apart := len(s.topics[h].Results) > 0 && len(s.topics[i].Results) > 0 && pages[h] < hubPages; apart {
			return // the results know better than the words
		}
		if whole[h] || pages[h] >= hubPages && s.bothSayMuch(h, i) {
			out = append(out, h)
		}
	}
	for _, stem := range s.stems[i] {
		for _, h := range s.byStem[stem] {
			add(h)
		}
	}
	for h := range pages {
		add(h)
	}
	slices.SortFunc(out, func(a, b int) int {
		return cmp.Or(boolFirst(whole[a], whole[b]), cmp.Compare(seen[b], seen[a]),
			cmp.Compare(s.topics[b].Searches, s.topics[a].Searches), a-b)
	})
	return out
}

// sharedPages is how many pages a topic has in common with each other one.
func (s *hubSearch) sharedPages(i int) map[int]int {
	out := map[int]int{}
	results := s.topics[i].Results
	for k, page := range results {
		if list := s.byPage[page]; len(list) <= mostAtPage && !slices.Contains(results[:k], page) {
			for _, h := range list {
				out[h]++
			}
		}
	}
	return out
}

// bothSayMuch reports whether two topics say a stem that not every topic says.
func (s *hubSearch) bothSayMuch(a, b int) bool {
	return slices.ContainsFunc(s.stems[a], func(stem string) bool {
		return s.count[stem] <= max(fewestSaying, len(s.topics)/commonest) && slices.Contains(s.stems[b], stem)
	})
}

// best is the best of a topic's candidates that is not gone, or NoHub.
func (s *hubSearch) best(i int) int {
	for ; s.next[i] < len(s.candidates[i]); s.next[i]++ {
		if h := s.candidates[i][s.next[i]]; !s.gone[h] {
			return h
		}
	}
	return NoHub
}

// weed finds what is no hub. Those with the longest leads are asked first whether they have spokes enough: what has
// not gives its spokes to the next, and what is one is nobody's spoke.
func (s *hubSearch) weed() {
	order := make([]int, len(s.topics))
	spokes := map[int][]int{}
	for i := range order {
		order[i] = i
		if h := s.best(i); h != NoHub {
			spokes[h] = append(spokes[h], i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(len(s.stems[b]), len(s.stems[a])),
			cmp.Compare(s.topics[b].Searches, s.topics[a].Searches))
	})
	for _, h := range order {
		if s.kept[h] || len(spokes[h]) >= fewestSpokes {
			continue
		}
		s.gone[h] = true
		for _, i := range spokes[h] {
			if other := s.best(i); other != NoHub {
				spokes[other] = append(spokes[other], i)
			}
		}
		delete(spokes, h)
	}
}

// flat hangs everything on what hangs on nothing. What would hang on itself in the end hangs on nothing.
func flat(given map[int]int) map[int]int {
	out := make(map[int]int, len(given))
	for i, hub := range given {
		for range given {
			on, some := given[hub]
			if hub == NoHub || !some || on == NoHub {
				break
			}
			hub = on
		}
		if on, some := given[hub]; some && on != NoHub { // round and round
			hub = NoHub
		}
		out[i] = hub
	}
	return out
}

func boolFirst(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return -1
	}
	return 1
}

// mostAtPage is for how many topics a page may stand to tell that two belong together.
const mostAtPage = 100

// inBoth counts what two rising lists have in common.
func inBoth(a, b []string) (n int) {
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch {
		case a[i] < b[j]:
			i++
		case a[i] > b[j]:
			j++
		default:
			n, i, j = n+1, i+1, j+1
		}
	}
	return n
}

// oneSubject is the share of stems that two leads of one subject have in common at least (ours).
const oneSubject = 0.5

// OneSubject reports whether two leads are about one thing: half their stems are the same, or more.
// Of such, an article that says why and one that says how link to each other (common practice, no
// source).
func OneSubject(a, b []string) bool {
	a, b = slices.Compact(slices.Sorted(slices.Values(a))), slices.Compact(slices.Sorted(slices.Values(b)))
	both := inBoth(a, b)
	all := len(a) + len(b) - both
	return all > 0 && float64(both) >= oneSubject*float64(all)
}
