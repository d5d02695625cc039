package sieve

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// A sieve is written as pairs of a name and a value, in order: in addresses, forms and
// command lines alike. Each criterion has its key, with its bar, words or choice; "yes"
// asks for a Switch. Behind it may stand "ends", the words that an Edges filter may end
// with, and the key with "-unmeasured" or "-off", which are "yes" or "no". An empty value, the
// criterion's word for no choice, or "no" takes a filter of the base out. "sieve" (the name of
// the one it was begun with), "sort" and "order" (up or down), and "then" and "then-order" for
// what is equal by these, are the sieve's own; "ready" is
// the name of a ready-made sieve, whose filters come first.

// Pair is a name and a value.
type Pair struct{ Key, Value string }

const (
	keyReady    = "ready"
	keyFrom     = "sieve"
	keySort     = "sort"
	keyOrder    = "order"
	keyThen     = "then"
	keyThenBy   = "then-order"
	keyEnds     = "ends"
	unmeasured  = "-unmeasured"
	off         = "-off"
	yes, no     = "yes", "no"
	up, down    = "up", "down"
	wasLeastToo = "unmeasured" // as ByLeastSearches' was called
)

// Pairs writes what of the sieve differs from a base. Read gives it back.
func (s Sieve) Pairs(base Sieve) []Pair {
	var out []Pair
	if s.From != base.From {
		out = append(out, Pair{keyFrom, s.From})
	}
	own, inBase := s.Filters, len(base.Filters)
	if len(own) >= inBase && slices.EqualFunc(own[:inBase], base.Filters, same) && !mentions(own[inBase:], base) {
		own = own[inBase:]
	} else {
		for _, m := range base.Filters {
			if !mentions(own, Sieve{Filters: []Filter{m}}) {
				out = append(out, Pair{m.By.Key, m.By.Without()})
			}
		}
	}
	for _, m := range own {
		out = append(out, m.pairs()...)
	}
	if s.Order() != base.Order() || s.Down != base.Down {
		out = append(out, Pair{keySort, s.Order().Key}, Pair{keyOrder, direction(s.Down)})
	}
	if s.Then != base.Then || s.Up != base.Up {
		out = append(out, Pair{keyThen, s.Then}, Pair{keyThenBy, direction(!s.Up)})
	}
	return out
}

func direction(downwards bool) string {
	if downwards {
		return down
	}
	return up
}

func same(a, b Filter) bool { return a.key() == b.key() }

// mentions reports whether one of the filters is of a criterion of the base.
func mentions(filters []Filter, base Sieve) bool {
	return slices.ContainsFunc(filters, func(m Filter) bool {
		return slices.ContainsFunc(base.Filters, func(b Filter) bool { return b.By == m.By })
	})
}

// Without is the value that asks for nothing.
func (c *Criterion) Without() string {
	switch {
	case c.Control == Switch:
		return no
	case c.Control == OneOf && c.Open != "":
		return c.Open
	}
	return ""
}

func (m Filter) pairs() []Pair {
	var out []Pair
	add := func(key, value string) { out = append(out, Pair{key, value}) }
	switch m.By.Control {
	case Bar:
		add(m.By.Key, number(m.Number))
	case Words:
		add(m.By.Key, strings.Join(m.Terms, ","))
	case Edges:
		add(m.By.Key, strings.Join(m.Terms, ","))
		if len(m.Ends) > 0 {
			add(keyEnds, strings.Join(m.Ends, ","))
		}
	case OneOf:
		add(m.By.Key, m.Choice)
	case Switch:
		add(m.By.Key, yes)
	}
	if m.Unmeasured != m.By.lenient {
		lets := no
		if m.Unmeasured {
			lets = yes
		}
		add(m.By.Key+unmeasured, lets)
	}
	if m.Off {
		add(m.By.Key+off, yes)
	}
	return out
}

// Problem is a pair that cannot be used, and was left out; without a key, one of all of
// them together.
type Problem struct {
	Pair
	Reason string // a sentence
}

// Read returns the base with what the pairs say. Filters of the base that no pair names
// stay, before those of the pairs. Names that are no criterion's are somebody else's.
func Read(pairs []Pair, base Sieve) (Sieve, []Problem) {
	r := reading{s: base, named: map[*Criterion]bool{}}
	r.s.Filters = nil
	for i, p := range pairs {
		if !r.order(p) {
			r.filter(pairs, i)
		}
	}
	for _, m := range base.Filters {
		if !r.named[m.By] {
			r.s.Filters = append(r.s.Filters, m)
		}
	}
	for _, m := range r.read { // an Edges filter may have come in two parts
		if err := m.Check(); err == nil {
			r.s.Filters = append(r.s.Filters, m)
		} else if m.By.Control != Edges {
			r.wrong(Pair{Key: m.By.Key}, "%s.", capital(err.Error()))
		}
	}
	if a, b, none := r.s.contradiction(); none && len(r.problems) == 0 {
		r.wrong(Pair{}, "Nothing can pass “%s” and “%s” as well.", a, b)
	}
	return r.s, r.problems
}

// reading is a sieve while its pairs are read.
type reading struct {
	s        Sieve
	read     []Filter
	named    map[*Criterion]bool
	problems []Problem
}

func (r *reading) wrong(p Pair, format string, args ...any) {
	r.problems = append(r.problems, Problem{p, fmt.Sprintf(format, args...)})
}

// order reads a pair that says something of the sieve itself or of its order; false when it does not.
func (r *reading) order(p Pair) bool {
	switch p.Key {
	case keyFrom:
		r.s.From = clip(p.Value)
	case keyReady:
		if why := readyProblem(p.Value); why != "" {
			r.wrong(p, "%s", why)
		} else if ready, ok := ReadyMade(p.Value); ok {
			r.s.From, r.read = ready.Name, slices.Concat(ready.Filters, r.read)
		}
	case keySort:
		if f := FigureNamed(p.Value); f != nil && f.sortable() {
			r.s.Sort, r.s.Down = f.Key, !f.SmallestFirst
		}
	case keyOrder:
		if p.Value == up || p.Value == down {
			r.s.Sort, r.s.Down = r.s.Order().Key, p.Value == down
		}
	case keyThen:
		if f := FigureNamed(p.Value); f != nil && f.sortable() || p.Value == "" {
			r.s.Then, r.s.Up = p.Value, false
		}
	case keyThenBy:
		r.s.Up = p.Value == up
	default:
		return false
	}
	return true
}

// filter reads a pair that says something of a filter.
func (r *reading) filter(pairs []Pair, i int) {
	p := pairs[i]
	if p.Key == keyEnds {
		r.ends(pairs, i)
		return
	}
	if by := unmeasuredOf(p.Key); by != nil {
		if k := lastOf(r.read, by); k >= 0 && (p.Value == yes || p.Value == no) {
			r.read[k].Unmeasured = p.Value == yes
		}
		return
	}
	if of, ok := strings.CutSuffix(p.Key, off); ok {
		if k := lastOf(r.read, CriterionNamed(of)); k >= 0 {
			r.read[k].Off = p.Value == yes
		}
		return
	}
	by := CriterionNamed(p.Key)
	if by == nil {
		return
	}
	switch m, asks, err := by.read(p.Value); {
	case err != nil:
		r.wrong(p, "%s: %v.", capital(by.Name), err)
	case asks && by.Waits() != "":
		r.wrong(p, "%s cannot be used yet: %s.", capital(by.Name), by.Waits())
	default:
		if r.named[by] = true; asks {
			r.read = append(r.read, m)
		}
	}
}

// ends reads what a phrase may end with: the other part of the filter before it, or one of its own.
func (r *reading) ends(pairs []Pair, i int) {
	terms := Terms(pairs[i].Value)
	if len(terms) == 0 {
		return
	}
	k := len(r.read) - 1
	if k >= 0 && r.read[k].By == ByEdges && r.read[k].Ends == nil && i > 0 && pairs[i-1].Key == ByEdges.Key {
		r.read[k].Ends = terms
	} else {
		r.read = append(r.read, Filter{By: ByEdges, Ends: terms})
	}
	r.named[ByEdges] = true
}

// Asked reports whether pairs say anything of a sieve.
func Asked(pairs []Pair) bool {
	return slices.ContainsFunc(pairs, func(p Pair) bool {
		switch p.Key {
		case keyReady, keyFrom, keySort, keyOrder, keyThen, keyThenBy, keyEnds:
			return true
		}
		return CriterionNamed(p.Key) != nil
	})
}

// readyProblem says why no ready-made sieve of that name can be used; "" when one can.
func readyProblem(name string) string {
	if name == "" {
		return ""
	}
	if r, ok := ReadyMade(name); ok {
		if r.Waits() != "" {
			return fmt.Sprintf("“%s” cannot be used yet: %s.", r.Name, r.Waits())
		}
		return ""
	}
	var known []string
	for _, r := range BuiltIn() {
		known = append(known, r.Name)
	}
	return fmt.Sprintf("There is no sieve “%s”; there are %s.", name, strings.Join(known, ", "))
}

func unmeasuredOf(key string) *Criterion {
	if key == wasLeastToo {
		return ByLeastSearches
	}
	if of, ok := strings.CutSuffix(key, unmeasured); ok {
		return CriterionNamed(of)
	}
	return nil
}

func lastOf(filters []Filter, by *Criterion) int {
	for k := len(filters) - 1; k >= 0; k-- {
		if filters[k].By == by {
			return k
		}
	}
	return -1
}

// read reads one value; asks is false for one that asks for nothing.
func (c *Criterion) read(value string) (m Filter, asks bool, err error) {
	m = Filter{By: c, Unmeasured: c.lenient}
	value = strings.TrimSpace(value)
	switch c.Control {
	case Bar:
		if value == "" {
			return m, false, nil
		}
		switch m.Number, err = parseBar(value); {
		case m.Number > mostNumber:
			return m, false, fmt.Errorf("“%s” is too large", clip(value))
		case err != nil || math.IsNaN(m.Number):
			return m, false, fmt.Errorf("“%s” is not a %snumber", clip(value), c.wholly())
		case m.Number < 0:
			return m, false, fmt.Errorf("“%s” is below 0", clip(value))
		}
		return m, m.Number > 0 || c.Zero, nil
	case Words, Edges:
		if m.Terms = c.terms(value); len(m.Terms) > mostTerms {
			return m, false, fmt.Errorf("%d words are more than %d", len(m.Terms), mostTerms)
		}
		return m, len(m.Terms) > 0 || c.Control == Edges, nil
	case OneOf:
		if value == "" || value == c.Without() {
			return m, false, nil
		}
		if m.Choice = value; c.named(value) == "" {
			return m, false, fmt.Errorf("there is no “%s”; there are %s", clip(value), c.listed())
		}
		return m, true, nil
	}
	return m, value == yes, nil
}

// parseBar reads a bar as people write one: "1,900", "1.9k", "−5"; "2m" is two million.
func parseBar(text string) (float64, error) {
	text = strings.ToLower(strings.NewReplacer(",", "", "−", "-", " ", "", "\u00a0", "", "\u202f", "").Replace(text))
	times := 1.0
	for suffix, by := range map[string]float64{"k": 1e3, "m": 1e6} {
		if rest, ok := strings.CutSuffix(text, suffix); ok {
			text, times = rest, by
			break
		}
	}
	x, err := strconv.ParseFloat(text, 64)
	return x * times, err
}

func (c *Criterion) wholly() string {
	if c.Places == 0 {
		return "whole "
	}
	return ""
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// contradiction finds two filters on one figure that no value passes both of.
func (s Sieve) contradiction() (a, b Filter, none bool) {
	for i, a := range s.Filters {
		for _, b := range s.Filters[:i] {
			if a.Off || b.Off || a.By.Figure == nil || a.By.Figure != b.By.Figure || a.By.within == nil || b.By.within == nil ||
				a.By.Control != Bar || b.By.Control != Bar {
				continue
			}
			lo, hi := a.By.within(a)
			lo2, hi2 := b.By.within(b)
			if max(lo, lo2) > min(hi, hi2) {
				return b, a, true
			}
		}
	}
	return a, b, false
}
