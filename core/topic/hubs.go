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
// or some of it that not every topic says, and shares pages with it. What has few spokes is no hub, and
// what is one hangs on none itself. given are hubs that somebody chose, by topic; they stay, but for one
// that hangs on another itself: its spokes hang on that one, too.
func Hubs(topics []Subject, given map[int]int) []int {
	given = flat(given)
	stems := make([][]string, len(topics))
	count := map[string]int{}
	for i, t := range topics {
		stems[i] = slices.Compact(slices.Sorted(slices.Values(t.Stems)))
		for _, s := range stems[i] {
			count[s]++
		}
	}
	// A hub is found by the rarest stem of its lead, which its spokes say, too, or by its pages.
	byStem, byPage := map[string][]int{}, map[uint32][]int{}
	for i, t := range topics {
		if len(stems[i]) > 0 {
			rarest := slices.MinFunc(stems[i], func(a, b string) int { return cmp.Or(count[a]-count[b], cmp.Compare(a, b)) })
			byStem[rarest] = append(byStem[rarest], i)
		}
		for k, page := range t.Results {
			if !slices.Contains(t.Results[:k], page) {
				byPage[page] = append(byPage[page], i)
			}
		}
	}
	kept := map[int]bool{} // hubs that somebody chose
	for _, h := range given {
		if h != NoHub {
			kept[h] = true
		}
	}
	candidates := make([][]int, len(topics)) // of each topic, the best first
	for i, t := range topics {
		if _, some := given[i]; some || kept[i] {
			continue
		}
		pages := map[int]int{} // that both have
		for k, page := range t.Results {
			if list := byPage[page]; len(list) <= mostAtPage && !slices.Contains(t.Results[:k], page) {
				for _, h := range list {
					pages[h]++
				}
			}
		}
		seen, whole := map[int]int{}, map[int]bool{} // stems that both say
		add := func(h int) {
			on, some := given[h]
			if _, known := seen[h]; known || h == i || some && on != NoHub || len(stems[h]) >= len(stems[i]) {
				return
			}
			seen[h] = inBoth(stems[h], stems[i])
			whole[h] = seen[h] == len(stems[h])
			telling := pages[h] >= hubPages && slices.ContainsFunc(stems[h], func(s string) bool {
				return count[s] <= max(fewestSaying, len(topics)/commonest) && slices.Contains(stems[i], s)
			})
			if whole[h] || telling {
				candidates[i] = append(candidates[i], h)
			}
		}
		for _, s := range stems[i] {
			for _, h := range byStem[s] {
				add(h)
			}
		}
		for h := range pages {
			add(h)
		}
		slices.SortFunc(candidates[i], func(a, b int) int {
			return cmp.Or(boolFirst(whole[a], whole[b]), cmp.Compare(seen[b], seen[a]),
				cmp.Compare(topics[b].Searches, topics[a].Searches), a-b)
		})
	}
	// Those with the longest leads are asked first whether they have spokes enough: what has not
	// gives its spokes to the next, and what is one is nobody's spoke.
	order := make([]int, len(topics))
	spokes := map[int][]int{}
	gone := map[int]bool{}
	next := make([]int, len(topics)) // of each topic's candidates, which is the best that is not gone
	best := func(i int) int {
		for ; next[i] < len(candidates[i]); next[i]++ {
			if h := candidates[i][next[i]]; !gone[h] {
				return h
			}
		}
		return NoHub
	}
	for i := range order {
		order[i] = i
		if h := best(i); h != NoHub {
			spokes[h] = append(spokes[h], i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(len(stems[b]), len(stems[a])), cmp.Compare(topics[b].Searches, topics[a].Searches))
	})
	for _, h := range order {
		if kept[h] || len(spokes[h]) >= fewestSpokes {
			continue
		}
		gone[h] = true
		for _, i := range spokes[h] {
			if other := best(i); other != NoHub {
				spokes[other] = append(spokes[other], i)
			}
		}
		delete(spokes, h)
	}
	out := make([]int, len(topics))
	for i := range topics {
		out[i] = NoHub
		if h, some := given[i]; some {
			out[i] = h
		} else if gone[i] && !kept[i] {
			out[i] = best(i)
		}
	}
	return out
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
