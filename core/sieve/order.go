package sieve

import (
	"cmp"
	"container/heap"
	"math"
	"slices"
)

// Key is a figure to sort by, and whether the largest comes first.
type Key struct {
	By   *Figure
	Down bool
}

// order compares ideas by one column, and by a second one where they are equal.
type order struct {
	t        *Table
	then     *order // nil where there is no second one
	key      column
	by       *Figure
	searches column
	finer    column // of the figure that tells equals apart; without chunks where there is none
	down     bool
}

func (t *Table) order(by *Figure, down bool) order {
	if by == nil || by.Unheld {
		by = Searches
	}
	o := order{t: t, key: t.columns[by.column], by: by, searches: t.columns[Searches.column], down: down}
	if f := FigureNamed(by.finer); f != nil {
		o.finer = t.columns[f.column]
	}
	return o
}

// orderOf is the order of one key, or of two.
func (t *Table) orderOf(keys []Key) order {
	o := t.order(keys[0].By, keys[0].Down)
	if len(keys) > 1 {
		then := t.order(keys[1].By, keys[1].Down)
		o.then = &then
	}
	return o
}

// last is the rank of what is not known.
const last = math.MaxInt64

// rank is smaller for what comes first. What is not known comes last either way; fewer
// searches than a floor come below any number of them.
func (o *order) rank(at int32) int64 {
	v := o.key.at(int(at))
	if o.by != Phrase {
		switch {
		case v == underFloor && o.by == Searches:
			v = unknown
		case v < 0:
			return last
		}
	}
	if o.down {
		return ^v // the other way round, without overflow
	}
	return v
}

// compare breaks ties by the finer figure, by searches, most first, by phrase, by position.
func (o *order) compare(a, b int32) int {
	if c := cmp.Compare(o.rank(a), o.rank(b)); c != 0 {
		return c
	}
	if o.by == Phrase { // equal as far as the first bytes tell
		c := cmp.Compare(o.t.phrases[a], o.t.phrases[b])
		if o.down {
			c = -c
		}
		return cmp.Or(c, cmp.Compare(a, b))
	}
	if o.then != nil {
		if c := cmp.Compare(o.then.rank(a), o.then.rank(b)); c != 0 {
			return c
		}
	}
	if len(o.finer.chunks) > 0 {
		c := cmp.Compare(o.finer.at(int(b)), o.finer.at(int(a)))
		if o.down {
			c = -c
		}
		if c != 0 {
			return c
		}
	}
	if c := cmp.Compare(countOf(o.searches.at(int(b))), countOf(o.searches.at(int(a)))); c != 0 {
		return c
	}
	return cmp.Or(cmp.Compare(o.t.phrases[a], o.t.phrases[b]), cmp.Compare(a, b))
}

// countOf puts searches that are not known below those under a floor.
func countOf(v int64) int64 {
	if v < 0 {
		return -3 - v // −1, not known, becomes −2; −2, under the floor, becomes −1
	}
	return v
}

// worst is a heap of positions with the one that comes last on top.
type worst struct {
	order order
	at    []int32
}

func (w *worst) Len() int           { return len(w.at) }
func (w *worst) Less(i, j int) bool { return w.order.compare(w.at[i], w.at[j]) > 0 }
func (w *worst) Swap(i, j int)      { w.at[i], w.at[j] = w.at[j], w.at[i] }
func (w *worst) Push(x any)         { w.at = append(w.at, x.(int32)) }
func (w *worst) Pop() any           { panic("nothing is taken from it") }

// Top returns the positions of a set from the from-th to the (from+n)-th in a figure's
// order; with n below 0 all from the from-th on. Ideas whose figure is not known come
// last either way; ties are broken by searches, most first, then by phrase. When few
// are asked for, only those are sorted: O(set + few·log few).
func (t *Table) Top(set Set, by *Figure, down bool, from, n int) []int {
	return t.TopBy(set, []Key{{by, down}}, from, n)
}

// mostFirst is how many ideas of the beginning are taken without keeping an order of all.
const mostFirst = 512

// TopBy does it for two keys: the second orders what is equal in the first.
func (t *Table) TopBy(set Set, keys []Key, from, n int) []int {
	count := set.Count()
	end := count
	if from = max(0, min(from, count)); n >= 0 {
		end = min(count, from+n)
	}
	o := t.orderOf(keys)
	out := make([]int, 0, end-from)
	if end <= mostFirst && end < count {
		at := o.first(set, end)
		slices.SortFunc(at, o.compare)
		for _, i := range at[from:] {
			out = append(out, int(i))
		}
		return out
	}
	for _, p := range t.sorting(set, keys, o, count).part(from, end) {
		out = append(out, int(p.at))
	}
	return out
}

// first returns the first n of a set, in no order.
func (o order) first(set Set, n int) []int32 {
	if n == 0 {
		return nil
	}
	h := &worst{order: o, at: make([]int32, 0, n)}
	bar := int64(last)
	for i := range set.All() {
		at := int32(i)
		switch rank := o.rank(at); {
		case len(h.at) < n:
			if h.at = append(h.at, at); len(h.at) == n {
				heap.Init(h)
				bar = o.rank(h.at[0])
			}
		case rank < bar || rank == bar && o.compare(at, h.at[0]) < 0:
			h.at[0] = at
			heap.Fix(h, 0)
			bar = o.rank(h.at[0])
		}
	}
	return h.at
}
