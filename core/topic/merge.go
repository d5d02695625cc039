package topic

import "slices"

// merging is ideas that become topics.
type merging struct {
	parent []int32   // towards the earliest idea that it was merged with
	size   []float64 // of the topics, by their earliest idea
	near   [][]near  // of the topics, by their earliest idea: whom they are linked to
	slot   []int32   // by topic: where it stands in a list that is being gathered, plus one
	hand   []int32   // of the topics, by their earliest idea: what was put together by hand; 0 is nothing
	closed map[int32]bool
}

// near is somebody linked to, by any member, and the sum of the chances, in parts of
// whole: sums of whole numbers are the same whichever side adds them up and in whatever
// order. With rounding errors three topics could each be nearest to the next, and the
// chain would have no end.
type near struct {
	other int32
	sum   int64
}

// whole is a chance of 1.
const whole = 1 << 20

// merge gives each of n ideas the earliest of those that it belongs together with:
// average linkage, where ideas that are not linked have no chance to be one. Instead of
// looking for the best pair of all again and again, it goes from a topic to its nearest
// one and on, until two are nearest to each other, which merge: the same result, since
// a merged topic is no nearer to others than its parts were (nearest-neighbour chain:
// Murtagh 1983, "A survey of recent advances in hierarchical clustering algorithms"). That holds
// as well where topics of two hands are never merged, and closed ones with none.
func merge(n int, links []link, together float64, hands []int32, closed map[int32]bool) []int32 {
	m := merging{parent: make([]int32, n), size: make([]float64, n), near: make([][]near, n), slot: make([]int32, n),
		hand: slices.Clone(hands), closed: closed}
	degrees := make([]int32, n)
	for _, l := range links {
		degrees[l.a]++
		degrees[l.b]++
	}
	room := make([]near, 2*len(links))
	for i := range n {
		m.parent[i], m.size[i] = int32(i), 1
		m.near[i], room = room[:0:degrees[i]], room[degrees[i]:]
	}
	for _, l := range links {
		m.near[l.a] = append(m.near[l.a], near{l.b, l.parts()})
		m.near[l.b] = append(m.near[l.b], near{l.a, l.parts()})
	}
	first := map[int32]int32{} // by hand
	for i, hand := range hands {
		if other, some := first[hand]; some {
			first[hand] = m.join(other, int32(i))
		} else if hand != 0 {
			first[hand] = int32(i)
		}
	}
	var chain []int32
	for i := range int32(n) {
		if m.parent[i] != i {
			continue
		}
		chain = append(chain[:0], i)
		for len(chain) > 0 {
			top := chain[len(chain)-1]
			before := int32(-1)
			if len(chain) > 1 {
				before = chain[len(chain)-2]
			}
			switch next, mean := m.nearest(top, before); {
			case next < 0 || mean < together:
				chain = chain[:len(chain)-1]
			case next == before:
				merged := m.join(before, top)
				if chain = chain[:len(chain)-2]; len(chain) == 0 {
					chain = append(chain, merged)
				}
			default:
				chain = append(chain, next)
			}
		}
	}
	roots := make([]int32, n)
	for i := range roots {
		roots[i] = m.root(int32(i))
	}
	return roots
}

func (m *merging) root(i int32) int32 {
	for m.parent[i] != i {
		m.parent[i] = m.parent[m.parent[i]]
		i = m.parent[i]
	}
	return i
}

// nearest is the topic whose members are most alike to those of another on average: of
// equal ones the preferred one, then the earliest; −1 when there is none.
func (m *merging) nearest(topic, preferred int32) (nearest int32, mean float64) {
	nearest = -1
	list := m.gather(topic)
	for _, n := range list {
		if m.hand[topic] != 0 && m.hand[n.other] != 0 || // not the same, or they were one
			m.closed[m.hand[topic]] || m.closed[m.hand[n.other]] {
			continue
		}
		c := float64(n.sum) / (whole * m.size[topic] * m.size[n.other])
		if c > mean || c == mean && nearest != preferred && (n.other == preferred || n.other < nearest) {
			nearest, mean = n.other, c
		}
	}
	return nearest, mean
}

// gather adds up what a topic's list has of one and the same topic, and drops what has
// become part of it.
func (m *merging) gather(topic int32) []near {
	list := m.near[topic][:0]
	for _, n := range m.near[topic] {
		other := m.root(n.other)
		switch at := m.slot[other]; {
		case other == topic:
		case at > 0:
			list[at-1].sum += n.sum
		default:
			list = append(list, near{other, n.sum})
			m.slot[other] = int32(len(list))
		}
	}
	for _, n := range list {
		m.slot[n.other] = 0
	}
	m.near[topic] = list
	return list
}

// join merges two topics and returns what they are now.
func (m *merging) join(a, b int32) int32 {
	if b < a {
		a, b = b, a
	}
	m.parent[b] = a
	m.hand[a] = max(m.hand[a], m.hand[b])
	m.size[a] += m.size[b]
	if len(m.near[b]) > len(m.near[a]) {
		m.near[a], m.near[b] = m.near[b], m.near[a]
	}
	m.near[a] = append(m.near[a], m.near[b]...)
	m.near[b] = nil
	return a
}

// meanWithin is, for each idea, the mean chance that it is one need with another of
// those it was merged with; 1 when there is none.
func meanWithin(roots []int32, links []link) []float64 {
	sums, sizes := make([]float64, len(roots)), make([]float64, len(roots))
	for _, root := range roots {
		sizes[root]++
	}
	for _, l := range links {
		if roots[l.a] == roots[l.b] {
			sums[l.a] += float64(l.chance)
			sums[l.b] += float64(l.chance)
		}
	}
	for i, root := range roots {
		if sizes[root] == 1 {
			sums[i] = 1
		} else {
			sums[i] /= sizes[root] - 1
		}
	}
	return sums
}
