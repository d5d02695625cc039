package sieve

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Figure is one thing that may be known of an idea: what it is called, how it is
// written, drawn, sorted, exported and explained, how it is held in a column, and, by
// the criteria that are made from it, what filters go by it. All figures are in Figures;
// whatever lists, exports or explains ranges over them.
type Figure struct {
	Key     string // in addresses and forms
	Name    string // in plain words; a column's heading in files
	Heading string // over its column in the list; "" when it is on no list
	Unit    string // of its number, in plain words
	Form    Form   // how its value is written
	Drawn   Drawn  // what is drawn beside it in a list
	From    Origin // who says it
	Places  int    // decimals that an export has
	Names   []string
	Locked  string // what people read in its place where the idea is locked; "" is the value
	Export  bool   // it is a column of exported files
	Brief   bool   // and of the short table in a terminal

	// Waits says why nothing feeds it yet, in words that end a sentence: "no source is
	// asked how many pages hold the exact phrase". "" when it is fed.
	Waits string
	// Means says what it is, in whole sentences: once, over its column.
	Means string
	// Says says what Means cannot, of one value that is known, in whole sentences; nil nothing. It is given the
	// other figures of its row.
	Says func(Known) string

	SmallestFirst bool    // the useful order
	finer         string  // key of the figure that tells equals apart, the other way round
	Unheld        bool    // it is in no column of the table
	End           bool    // the least or the most of another figure, which is shown with that
	OfTopics      bool    // topics have it, and ideas do not
	scale         float64 // units of the column to one of the figure; 0 is 1
	whole         bool    // never rounded over what is shown as the next number
	wide          bool    // the column needs eight bytes a value
	marks         bool    // it is a set of marks, though its Form is another
	column        int
}

// Form is how a figure's value is written.
type Form int

// The forms.
const (
	Text    Form = iota // as it is
	Count               // a whole number
	Amount              // money, in the row's currency
	Percent             // of 1
	Tenths              // a number with one decimal
	Level               // a standing, without decimals
	Scale               // what standing it takes or amounts to, at whose end stands a +
	Name                // one of its Names
	Several             // some of its Names, a bit each
	Yes                 // yes or nothing
	Moment              // a time
	Marks               // labels, with LabelMark between them
	Hidden              // for the table alone
)

// Drawn is what a list draws beside a value.
type Drawn int

// The drawings.
const (
	Nothing Drawn = iota
	Year          // the latest twelve months as bars
	Ramp          // a wedge as steep as the number
	Ladder        // ten rungs for a chance
)

// Origin is who says a figure, by which it is dated.
type Origin int

// The origins.
const (
	FromPhrase Origin = iota // the words themselves
	FromUser
	FromDemand    // a demand source
	FromTen       // what is looked up: results, pages, links
	FromTotals    // how many pages a search engine has
	FromNames     // a registry of names
	FromAges      // the same, of the sites of the top ten
	FromWeeks     // the snapshots of the results
	FromElsewhere // results of other engines, countries and languages
)

// Value is what is known of one figure of one idea.
type Value struct {
	Known  bool
	Under  bool    // less than Number, which is a source's floor
	Number float64 // in the figure's unit; the place among its names; seconds since 1970
	Text   string
}

// Of is a known number.
func Of(x float64) Value { return Value{Known: true, Number: x} }

// Row is an idea whose figures can be asked for.
type Row interface{ Value(*Figure) Value }

// Known tells the figures of one row by their keys.
type Known func(key string) Value

// Explain says of a figure's value in a row what Means does not, "" when that is nothing.
func (f *Figure) Explain(r Row) string {
	if f.Says == nil || !r.Value(f).Known {
		return ""
	}
	return f.Says(func(key string) Value { return r.Value(FigureNamed(key)) })
}

// Figures lists all figures, in the order in which lists and files show them.
func Figures() []*Figure { return slices.Clone(figures) }

// FigureNamed returns the figure of a key, nil when there is none.
func FigureNamed(key string) *Figure { return figuresByKey[key] }

// Listed are the figures that have a column in the list.
func Listed() []*Figure { return having(func(f *Figure) bool { return f.Heading != "" }) }

// Title is what stands over the figure's column.
func (f *Figure) Title() string {
	if f.Heading != "" {
		return f.Heading
	}
	return capital(f.Name)
}

// Showable are the figures that a list can have a column of, after the phrase.
func Showable() []*Figure {
	return having(func(f *Figure) bool {
		return !f.Unheld && !f.End && f.Waits == "" && f.Form != Hidden && f != Phrase && f != Found &&
			f != Decided && !f.OfTopics
	})
}

// OfTopics are the figures that a list of topics shows.
func OfTopics() []*Figure {
	return []*Figure{Phrase, Members, Searches, Difficulty, PageOne, Footholds, Intent, Article, Worth, Coming}
}

// Columns are the figures that a list shows: the phrase, and those of the keys, in their
// order; the usual ones where there is no key. What is no key of such a figure is left out.
func Columns(keys []string) []*Figure {
	out := []*Figure{Phrase}
	for _, f := range Showable() {
		if len(keys) == 0 && f.Heading != "" {
			out = append(out, f)
		}
	}
	for _, key := range keys {
		f := FigureNamed(key)
		if f != nil && slices.Contains(Showable(), f) && !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	return out
}

// Held are the figures that a table has in columns.
func Held() []*Figure { return having(func(f *Figure) bool { return !f.Unheld }) }

// Sorted are the figures that a list can be sorted by.
func Sorted() []*Figure { return having((*Figure).sortable) }

func (f *Figure) sortable() bool { return !f.Unheld && !f.End && f.Form != Marks && f.Form != Hidden }

func having(is func(*Figure) bool) (out []*Figure) {
	for _, f := range figures {
		if is(f) {
			out = append(out, f)
		}
	}
	return out
}

// Paid reports whether the figure has to be asked for, idea by idea.
func (f *Figure) Paid() bool { return f.From >= FromTen }

// Column is the figure's name in JSON, in the manner of snake case.
func (f *Figure) Column() string {
	return strings.NewReplacer(" ", "_", "-", "_").Replace(f.Name)
}

// String is the figure's key.
func (f *Figure) String() string { return f.Key }

// Named is the value of one of the figure's names; unknown for another one.
func (f *Figure) Named(name string) Value {
	at := slices.Index(f.Names, name)
	return Value{Known: at >= 0, Number: float64(at)}
}

// NameOf is the name that a value stands for, or the names, with commas between them.
func (f *Figure) NameOf(v Value) string {
	at := int(v.Number)
	switch {
	case !v.Known:
		return ""
	case f.Form == Several:
		var in []string
		for bit, name := range f.Names {
			if at>>bit&1 == 1 {
				in = append(in, name)
			}
		}
		return strings.Join(in, ", ")
	case at < 0 || at >= len(f.Names):
		return ""
	}
	return f.Names[at]
}

// mostHeld is how many figures a table can hold.
const mostHeld = 48

var (
	figures      []*Figure
	figuresByKey = map[string]*Figure{}
)

// figure enters one into the list. It is called while the program starts.
func figure(f Figure) *Figure {
	if f.scale == 0 {
		f.scale = 1
	}
	f.column = unknown
	if !f.Unheld {
		f.column = heldFigures
		heldFigures++
	}
	if heldFigures > mostHeld {
		panic(fmt.Sprintf("%s is one figure more than a table holds", f.Key))
	}
	figures = append(figures, &f)
	figuresByKey[f.Key] = &f
	return &f
}

var heldFigures int

// raw is a value as its column holds it.
func (f *Figure) raw(v Value) int64 {
	switch {
	case f.Form == Marks || f.marks:
		return labelSet(v.Text)
	case !v.Known || math.IsNaN(v.Number):
		return unknown
	case v.Under:
		return underFloor
	case f.whole:
		return int64(math.Floor(v.Number * f.scale))
	}
	return int64(math.Round(v.Number * f.scale))
}
