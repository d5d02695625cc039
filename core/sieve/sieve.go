// Package sieve is what is known of ideas, and an ordered set of criteria over it.
//
// Figures lists all that may be known of an idea: how each figure is called, written,
// drawn, sorted, exported and explained. Criteria lists what one may ask of a figure. A
// niche's ideas are held as columns in memory; a sieve tells which of them are left after
// each filter, how many each took away, how many it alone would take, and which filters
// stop a given idea.
//
// What a filter lets through is kept as a set of bits with the table, so that adding or
// changing one filter computes nothing of the others again; the sets are joined a word
// of 64 ideas at a time.
package sieve

import (
	"math"
	"math/bits"
	"slices"
)

// Step is what one filter did.
type Step struct {
	Filter  Filter
	Left    int // after it
	Removed int // by it, of what was left before it
	Alone   int // that it would remove alone
	Unknown int // of Removed: stopped because the figure is not known
}

// Result of passing ideas through filters.
type Result struct {
	All   int
	Left  Set // positions in the table
	Count int // of Left
	Steps []Step
}

// passed is what a filter lets through.
type passed struct {
	filter Filter
	set    Set
}

// mostKept is how many filters' sets a table keeps; past it, it starts over.
const mostKept = 64

const mostValue = math.MaxInt64 / 2

// lets returns what a filter lets through, computed once. It is nobody's to change. A
// filter that cannot be used lets everything through: Check says why.
func (t *Table) lets(m Filter) Set {
	key := m.key()
	t.mu.Lock()
	p, ok := t.passed[key]
	t.mu.Unlock()
	if ok {
		return p.set
	}
	s := t.compute(m)
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.passed == nil || len(t.passed) >= mostKept {
		t.passed = map[string]passed{}
	}
	m.Terms, m.Ends = slices.Clone(m.Terms), slices.Clone(m.Ends)
	t.passed[key] = passed{m, s}
	t.asked++
	return s
}

func (t *Table) compute(m Filter) Set {
	out := newSet(t.n)
	if m.Check() != nil {
		out.fill(t.n)
		return out
	}
	switch {
	case m.By.text != nil:
		m.By.text(t, m, out)
	case m.By.ranked:
		for at, rank := range t.worthRanks() {
			out.put(at, rank > 0 && float64(rank) <= m.Number)
		}
		if m.Unmeasured {
			out.join(t.notKnown(m.By.Figure))
		}
	default:
		for at := range t.columns[m.By.Figure.column].chunks {
			t.computeChunk(m, at, out)
		}
	}
	return out
}

// computeChunk puts into a set what a filter of a figure lets through of one chunk.
func (t *Table) computeChunk(m Filter, at int, out Set) {
	col := t.columns[m.By.Figure.column]
	if m.By.within != nil {
		lo, hi := m.By.within(m)
		col.chunkWithin(at, lo, hi, out)
	} else {
		col.chunkPasses(at, m.By.passes(m), t.n, out)
	}
	if m.Unmeasured && !m.By.always {
		from, to := at*chunkWords, min(len(out), (at+1)*chunkWords)
		out[from:to].join(t.notKnown(m.By.Figure)[from:to])
	}
}

// carry takes over what was computed for the table that this one was made from: sets
// of filters whose columns did not change as they are, of the others the chunks that
// did not. Where ideas were added, what goes by phrases is computed anew when it is
// asked for.
func (t *Table) carry(from *Table) {
	from.mu.Lock()
	defer from.mu.Unlock()
	t.passed, t.blind = map[string]passed{}, map[*Figure]Set{}
	t.middle = map[*Figure]int64{}
	for f, v := range from.middle {
		if len(t.changedChunks(from, f)) == 0 {
			t.middle[f] = v
		}
	}
	for f, s := range from.blind {
		s, changed := t.carried(from, f, s)
		for _, at := range changed {
			t.chunkNotKnown(f, at, s)
		}
		t.blind[f] = s
	}
	if t.n == from.n && len(t.changedChunks(from, Worth)) == 0 {
		t.ranks = from.ranks
	}
	for key, p := range from.passed {
		switch {
		case p.filter.By == nil: // of nothing; it costs nothing to ask again
		case p.filter.Check() != nil || p.filter.By.text != nil || p.filter.By.ranked:
			if t.n == from.n && (!p.filter.By.ranked || t.ranks != nil) {
				t.passed[key] = p
			}
		default:
			s, changed := t.carried(from, p.filter.By.Figure, p.set)
			for _, at := range changed {
				t.computeChunk(p.filter, at, s)
			}
			t.passed[key] = passed{p.filter, s}
		}
	}
}

// carried is a set of another table with room for this one's ideas, and the chunks of
// the figure that must be computed again; the set itself when there are none.
func (t *Table) carried(from *Table, f *Figure, s Set) (Set, []int) {
	changed := t.changedChunks(from, f)
	if len(changed) > 0 {
		larger := newSet(t.n)
		copy(larger, s)
		s = larger
	}
	return s, changed
}

// changedChunks are the chunks of a figure's column that are not shared with another
// table, and, where ideas were added, the last ones.
func (t *Table) changedChunks(from *Table, f *Figure) (out []int) {
	now, was := t.columns[f.column].chunks, from.columns[f.column].chunks
	for at := range now {
		if at >= len(was) || !now[at].same(was[at]) || t.n != from.n && at == len(was)-1 {
			out = append(out, at)
		}
	}
	return out
}

// cannotTell is the ideas whose figure the filter does not know.
func (t *Table) cannotTell(m Filter) Set {
	if m.By != nil && !m.By.always {
		return t.notKnown(m.By.Figure)
	}
	return nil
}

// Pass lets the table's ideas through the filters in order. O(ideas × filters / 64) once
// the filters' sets are known.
func (t *Table) Pass(filters []Filter) Result {
	res := Result{All: t.n, Count: t.n, Left: newSet(t.n), Steps: make([]Step, len(filters))}
	res.Left.fill(t.n)
	for m, filter := range filters {
		if filter.Off {
			res.Steps[m] = Step{Filter: filter, Left: res.Count}
			continue
		}
		lets, blind := t.lets(filter), t.cannotTell(filter)
		step := Step{Filter: filter, Alone: t.n}
		for i, w := range lets {
			removed := res.Left[i] &^ w
			step.Removed += bits.OnesCount64(removed)
			step.Alone -= bits.OnesCount64(w)
			if blind != nil {
				step.Unknown += bits.OnesCount64(removed & blind[i])
			}
			res.Left[i] &= w
		}
		res.Count -= step.Removed
		step.Left = res.Count
		res.Steps[m] = step
	}
	return res
}

// Stops lists the filters, by their places in the sieve, that stop the idea at a
// position: why is this not here? None when all let it through.
func (t *Table) Stops(at int, filters []Filter) []int {
	var out []int
	for m, filter := range filters {
		if !filter.Off && !t.lets(filter).Has(at) {
			out = append(out, m)
		}
	}
	return out
}

// Without is what of a set a filter does not let through.
func (t *Table) Without(set Set, m Filter) Set {
	out := slices.Clone(set)
	for i, w := range t.lets(m) {
		out[i] &^= w
	}
	return out
}

// Lacking is what of a set a figure is not known of.
func (t *Table) Lacking(set Set, f *Figure) Set {
	out := slices.Clone(set)
	for i, w := range t.notKnown(f) {
		out[i] &= w
	}
	return out
}

// Lets reports whether a filter alone lets the idea at a position through.
func (t *Table) Lets(at int, m Filter) bool { return t.lets(m).Has(at) }

// Count is how many ideas a filter alone lets through.
func (t *Table) Count(m Filter) int { return t.lets(m).Count() }

// Matching returns the positions whose phrase is the given one, in normal form.
func (t *Table) Matching(normal string) (at int, ok bool) {
	out := newSet(t.n)
	t.text.mark([]string{normal}, atStart, t.n, out)
	for i := range out.All() {
		if t.phrases[i] == normal {
			return i, true
		}
	}
	return 0, false
}
