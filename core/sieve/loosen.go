package sieve

import (
	"math"
	"slices"
	"strings"
)

// Loosen returns a filter as it must be for the idea at a position to pass: its bar moved as
// little as it takes, or without the words that stop it. ok is false where no change of
// it lets the idea through but taking it out; what the filter does not know of the idea is
// let through as not measured.
func (t *Table) Loosen(at int, m Filter) (loose Filter, ok bool) {
	if t.Lets(at, m) {
		return m, true
	}
	if blind := t.cannotTell(m); blind != nil && blind.Has(at) {
		m.Unmeasured = true
		return m, t.Lets(at, m)
	}
	switch m.By.Control {
	case Bar:
		return t.moveBar(at, m)
	case Words:
		if m.By != ByLacking {
			return m, false
		}
		said := " " + t.phrases[at] + " "
		m.Terms = slices.DeleteFunc(slices.Clone(m.Terms), func(term string) bool {
			return strings.Contains(said, " "+term+" ")
		})
		return m, len(m.Terms) > 0 && t.Lets(at, m)
	}
	return m, false
}

// moveBar moves a bar, up or down, to the first of its steps at which the idea passes.
func (t *Table) moveBar(at int, m Filter) (Filter, bool) {
	step := math.Pow(10, -float64(m.By.Places))
	lets := func(steps float64) bool {
		m.Number = steps * step
		return t.letsOne(at, m)
	}
	now := math.Round(m.Number / step)
	passes, stops := 0.0, now // a least bar passes at 0
	if !lets(0) {
		most := mostNumber
		if m.By.Most > 0 {
			most = m.By.Most
		}
		if passes = math.Floor(most / step); !lets(passes) {
			return m, false
		}
	}
	for math.Abs(passes-stops) > 1 {
		if mid := math.Round((passes + stops) / 2); lets(mid) {
			passes = mid
		} else {
			stops = mid
		}
	}
	return m, lets(passes) && m.Check() == nil
}

// letsOne reports whether a filter of a figure lets one idea through, without looking at
// the others.
func (t *Table) letsOne(at int, m Filter) bool {
	if m.By.within == nil {
		return t.Lets(at, m)
	}
	lo, hi := m.By.within(m)
	v := t.columns[m.By.Figure.column].at(at)
	return v >= 0 && v >= lo && v <= hi
}
