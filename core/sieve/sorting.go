package sieve

import (
	"cmp"
	"slices"
	"sync"
)

// sorting is a set that is put in order where somebody looks, and no further: parts of it
// that nobody asked for are only known to lie before or behind others. Of a long list that
// somebody scrolls, each page costs what it holds, and the first O(set).
type sorting struct {
	set   Set
	keys  []Key
	order order
	mu    sync.Mutex
	at    []ranked
	parts []stretch // they cover at, one behind the other
}

// ranked is a position in the table with its rank in the first key.
type ranked struct {
	rank int64
	at   int32
}

// stretch is at[:end] from the end of the stretch before it on.
type stretch struct {
	end    int
	sorted bool
}

// mostSortings is how many are kept with a table: 16 bytes an idea of the set each.
const mostSortings = 2

// sorting returns the set's in an order, kept from when it was last asked for.
func (t *Table) sorting(set Set, keys []Key, o order, count int) *sorting {
	t.mu.Lock()
	defer t.mu.Unlock()
	for i, s := range t.sortings {
		if slices.Equal(s.keys, keys) && slices.Equal(s.set, set) {
			t.sortings = append(slices.Delete(t.sortings, i, i+1), s)
			return s
		}
	}
	s := &sorting{set: slices.Clone(set), keys: slices.Clone(keys), order: o}
	s.parts = []stretch{{end: count}}
	if len(t.sortings) >= mostSortings {
		t.sortings = slices.Delete(t.sortings, 0, 1)
	}
	t.sortings = append(t.sortings, s)
	return s
}

func (s *sorting) compare(a, b ranked) int {
	if c := cmp.Compare(a.rank, b.rank); c != 0 {
		return c
	}
	return s.order.compare(a.at, b.at)
}

// shortStretch is how many places are sorted at once.
const shortStretch = 512

// part returns the places from one on to another in their order.
func (s *sorting) part(from, to int) []ranked {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.at == nil {
		s.at = make([]ranked, 0, s.parts[0].end)
		for i := range s.set.All() {
			s.at = append(s.at, ranked{s.order.rank(int32(i)), int32(i)})
		}
	}
	begin := 0
	for i := 0; i < len(s.parts); i++ {
		p := s.parts[i]
		switch {
		case p.end <= from || p.sorted:
		case begin >= to:
			return slices.Clone(s.at[from:to])
		case p.end-begin <= shortStretch || begin >= from && p.end <= to:
			slices.SortFunc(s.at[begin:p.end], s.compare)
			s.parts[i].sorted = true
		default:
			s.parts = slices.Insert(s.parts, i, stretch{end: begin + s.divide(s.at[begin:p.end])})
			i-- // the first of the two is looked at next
			continue
		}
		begin = p.end
	}
	return slices.Clone(s.at[from:to])
}

// Place is how many of a set come before the idea at a position in an order. O(set).
func (t *Table) Place(set Set, keys []Key, at int) (before int) {
	o := t.orderOf(keys)
	for i := range set.All() {
		if o.compare(int32(i), int32(at)) < 0 {
			before++
		}
	}
	return before
}

// divide puts what comes first to the front, and returns how many those are: neither none
// nor all of them, since no two places are equal.
func (s *sorting) divide(at []ranked) int {
	var some [9]ranked
	for i := range some {
		some[i] = at[i*(len(at)-1)/(len(some)-1)]
	}
	slices.SortFunc(some[:], s.compare)
	pivot := some[len(some)/2]
	n := 0
	for i, p := range at {
		if p.rank < pivot.rank || p.rank == pivot.rank && s.order.compare(p.at, pivot.at) < 0 {
			at[i], at[n] = at[n], p
			n++
		}
	}
	return n
}
