package sieve

import (
	"fmt"
	"math"
	"slices"
)

// Criterion is one thing that a filter can go by: its name in addresses, forms, flags and
// files, how it is asked for, the figure it needs, and what it lets through. It is made
// beside its figure, in figures.go, and whatever offers criteria ranges over Criteria.
type Criterion struct {
	Key     string // in addresses, forms, flags and JSON
	Was     string // a key that it had, and that is still read
	Name    string // in plain words
	Unit    string // of its bar
	Control Control
	Choices []Choice
	Open    string  // the name of no choice; "any" when it is ""
	Hint    string  // what an empty control shows
	Start   float64 // the bar that a filter begins with: one that people use (common practice, no source)
	Most    float64 // the largest bar that makes sense; 0 when there is none
	Places  int     // decimals of its bar
	Zero    bool    // a bar of 0 asks for something
	Usual   bool    // people use it daily: it is offered first
	Lets    string  // what Unmeasured lets through, in words, where that is offered
	Figure  *Figure // what must be known for it to tell; nil when it goes by the phrase

	always  bool // it can tell of every idea
	own     bool // its choices are the user's own: any is allowed
	lenient bool // it lets through what is not measured unless it is told not to
	ranked  bool // it goes by the rank of its figure
	// What it lets through: values of the figure within two bounds, or those for which
	// a function holds, or what a function over the table's phrases marks.
	within func(m Filter) (lo, hi int64)
	passes func(m Filter) func(value int64) bool
	text   func(t *Table, m Filter, out Set)
	gaps   bool // its words may have gaps (phrase.Pattern)
}

// Control is how a criterion is asked for.
type Control int

// The controls.
const (
	Bar    Control = iota // a number
	Words                 // words or phrases, one of which is enough
	Edges                 // words that it starts with, and words that it ends with
	OneOf                 // one of Choices
	Switch                // yes, or not asked for
)

// Choice is one of what a filter may choose among.
type Choice struct {
	Key  string // in addresses and JSON
	Name string // in plain words
}

var criteria []*Criterion

// criterion enters one into the list. It is called while the program starts.
func criterion(c Criterion) *Criterion {
	if c.Figure == nil {
		c.always = true
	}
	criteria = append(criteria, &c)
	return &c
}

// Criteria lists all criteria, those that cost nothing first.
func Criteria() []*Criterion {
	out := slices.Clone(criteria)
	slices.SortStableFunc(out, func(a, b *Criterion) int { return paidLast(a) - paidLast(b) })
	return out
}

func paidLast(c *Criterion) int {
	if c.Paid() {
		return 1
	}
	return 0
}

// CriterionNamed returns the criterion of a key, nil when there is none.
func CriterionNamed(key string) *Criterion {
	for _, c := range criteria {
		if c.Key == key || c.Was == key && key != "" {
			return c
		}
	}
	return nil
}

// Begin is a filter of the criterion as one begins with it: its usual bar, its first choice;
// words are still to be named.
func (c *Criterion) Begin() Filter {
	m := Filter{By: c, Number: c.Start, Unmeasured: c.lenient}
	if c.Control == OneOf && !c.own {
		m.Choice = c.Choices[0].Key
	}
	return m
}

// Paid reports whether the criterion needs figures that have to be asked for.
func (c *Criterion) Paid() bool { return c.Figure != nil && c.Figure.Paid() }

// Waits says why the criterion is of no use yet; "" when it is.
func (c *Criterion) Waits() string {
	if c.Figure == nil {
		return ""
	}
	return c.Figure.Waits
}

// Own reports whether its choices are the user's own, such as labels.
func (c *Criterion) Own() bool { return c.own }

// String is the criterion's name.
func (c *Criterion) String() string { return c.Name }

// MarshalText writes the criterion's key.
func (c *Criterion) MarshalText() ([]byte, error) { return []byte(c.Key), nil }

// named is what a choice is called; "" when there is no such choice.
func (c *Criterion) named(key string) string {
	if c.own {
		return key
	}
	for _, choice := range c.Choices {
		if choice.Key == key {
			return choice.Name
		}
	}
	return ""
}

// The ways in which a bar lets values through. Bars are in the criterion's unit.

func atLeast(m Filter) (int64, int64) {
	return bound(math.Ceil(m.Number * m.By.Figure.scale)), mostValue
}

func atMost(m Filter) (int64, int64) { return 0, bound(math.Floor(m.Number * m.By.Figure.scale)) }

// percent is a least bar in hundredths of the figure.
func percent(m Filter) (int64, int64) {
	return bound(math.Ceil(m.Number * m.By.Figure.scale / 100)), mostValue
}

// percentAtMost is a most bar in hundredths of the figure.
func percentAtMost(m Filter) (int64, int64) {
	return 0, bound(math.Floor(m.Number * m.By.Figure.scale / 100))
}

// bound is a bar as columns can be compared with; one that no value reaches stays so.
func bound(x float64) int64 { return int64(min(x, mostValue)) }

// asShown compares a figure at most as it is shown, without decimals: 20.4 is shown
// as 20 and passes "at most 20".
func asShown(m Filter) (int64, int64) {
	scale := m.By.Figure.scale
	return 0, bound(math.Floor(m.Number)*scale + scale/2 - 1)
}

func isTrue(Filter) (int64, int64)  { return 1, 1 }
func isKnown(Filter) (int64, int64) { return 0, mostValue }

// ErrNoCriterion is returned for a key that no criterion has.
type ErrNoCriterion string

func (e ErrNoCriterion) Error() string { return fmt.Sprintf("there is no criterion %q", string(e)) }
