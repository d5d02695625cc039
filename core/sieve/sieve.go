// Package sieve is an ordered set of criteria over a niche's ideas, which are held as
// columns in memory. It tells which ideas are left after each mesh, how many each
// took away, how many it alone would take, and which meshes stop a given idea.
//
// What a mesh lets through is kept as a set of bits with the table, so that adding or
// changing one mesh computes nothing of the others again; the sets are joined a word
// of 64 ideas at a time.
package sieve

import (
	"math/bits"
)

// Step is what one mesh did.
type Step struct {
	Mesh    Mesh
	Left    int // after it
	Removed int // by it, of what was left before it
	Alone   int // that it would remove alone
	Unknown int // of Removed: stopped because the figure is not known
}

// Result of passing ideas through meshes.
type Result struct {
	All   int
	Left  Set // positions in the table
	Count int // of Left
	Steps []Step
}

// mostKept is how many meshes' sets a table keeps; past it, it starts over.
const mostKept = 64

// lets returns what a mesh lets through, computed once. It is nobody's to change. A
// mesh that cannot be used lets everything through: Check says why.
func (t *Table) lets(m Mesh) Set {
	key := m.key()
	t.mu.Lock()
	s, ok := t.passed[key]
	t.mu.Unlock()
	if ok {
		return s
	}
	s = t.compute(m)
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.passed == nil || len(t.passed) >= mostKept {
		t.passed = map[string]Set{}
	}
	t.passed[key] = s
	t.asked++
	return s
}

func (t *Table) compute(m Mesh) Set {
	out := newSet(t.n)
	r, ok := rules[m.By]
	if !ok || m.Check() != nil {
		out.fill(t.n)
		return out
	}
	if r.within != nil {
		lo, hi := r.within(m)
		t.columns[r.needs].within(lo, hi, out)
	} else {
		r.marks(t, m, out)
	}
	if m.Unmeasured && !r.always {
		for i, w := range t.notKnown(r.needs) {
			out[i] |= w
		}
	}
	return out
}

// cannotTell is the ideas whose figure the mesh does not know.
func (t *Table) cannotTell(m Mesh) Set {
	if r, ok := rules[m.By]; ok && !r.always {
		return t.notKnown(r.needs)
	}
	return nil
}

// Pass lets the table's ideas through the meshes in order. O(ideas × meshes / 64) once
// the meshes' sets are known.
func (t *Table) Pass(meshes []Mesh) Result {
	res := Result{All: t.n, Count: t.n, Left: newSet(t.n), Steps: make([]Step, len(meshes))}
	res.Left.fill(t.n)
	for m, mesh := range meshes {
		lets, blind := t.lets(mesh), t.cannotTell(mesh)
		step := Step{Mesh: mesh, Alone: t.n}
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

// Stops lists the meshes, by their places in the sieve, that stop the idea at a
// position: why is this not here? None when all let it through.
func (t *Table) Stops(at int, meshes []Mesh) []int {
	var out []int
	for m, mesh := range meshes {
		if !t.lets(mesh).Has(at) {
			out = append(out, m)
		}
	}
	return out
}

// Lets reports whether a mesh alone lets the idea at a position through.
func (t *Table) Lets(at int, m Mesh) bool { return t.lets(m).Has(at) }

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
