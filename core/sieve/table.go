package sieve

import (
	"cmp"
	"encoding/binary"
	"slices"
	"sync"
)

// Decision is what the user decided on an idea.
type Decision int8

// The decisions.
const (
	Undecided Decision = iota
	Kept
	Dropped
)

// unknown is the value of a figure that is not known, and underFloor that of
// searches of which only a bound is known.
const (
	unknown    = -1
	underFloor = -2
)

// Units of the columns that hold fractions: so many to one.
const (
	hundredths = 100
	millionths = 1_000_000
)

// Idea is what a table holds of one idea. Start from Unmeasured: a figure that is not
// put in is not known, and never taken for 0.
type Idea struct {
	ID     uint
	Phrase string // normal form
	held   [mostHeld]int64
}

// Unmeasured is an idea of which only the phrase is known, and its number of words.
func Unmeasured(id uint, normal string, words int) Idea {
	i := Idea{ID: id, Phrase: normal}
	for f := range i.held {
		i.held[f] = unknown
	}
	i.held[Phrase.column] = prefixOf(normal)
	i.Put(Found, Of(float64(id)))
	i.Put(Length, Of(float64(words)))
	i.Put(Decided, Of(float64(Undecided)))
	i.Put(FoundIn, Of(0))
	return i
}

// Put puts a figure's value in.
func (i *Idea) Put(f *Figure, v Value) {
	if !f.Unheld && f != Phrase {
		i.held[f.column] = f.raw(v)
	}
}

// prefixOf puts phrases in their order as far as their first eight bytes tell.
func prefixOf(s string) int64 {
	var b [8]byte
	copy(b[:], s)
	return int64(binary.BigEndian.Uint64(b[:]) ^ 1<<63)
}

// Table is a niche's ideas as columns in memory. It does not change; With makes one
// that has what changed, and shares with it what did not. It may be read by several at
// once.
type Table struct {
	n       int
	ids     []uint
	phrases []string
	columns [mostHeld]column
	text    *wording // shared with the tables that this one was made from

	mu     sync.Mutex
	passed map[string]passed // by filter: what it lets through
	blind  map[*Figure]Set   // what a figure is not known of
	middle map[*Figure]int64 // of a figure, as its column holds it
	ranks  []int32           // of the worth, once it is asked for
	asked  int               // filters that were computed, for tests

	sortings []*sorting // the last used one last
}

// NewTable returns a table of ideas, in the order of their IDs. lang is the language
// of the phrases and brands the niche's brand words in normal form, by which shapes are
// told.
func NewTable(lang string, ideas []Idea, brands ...string) *Table {
	return emptyTable(newWording(lang, brands)).With(ideas)
}

func emptyTable(text *wording) *Table {
	t := &Table{text: text}
	for _, f := range figures {
		if !f.Unheld {
			t.columns[f.column].wide = f.wide
		}
	}
	return t
}

// Len is how many ideas the table holds.
func (t *Table) Len() int { return t.n }

// ID is the idea's at a position.
func (t *Table) ID(at int) uint { return t.ids[at] }

// Phrase is the idea's at a position.
func (t *Table) Phrase(at int) string { return t.phrases[at] }

// Number is what is known of a figure of the idea at a position, in the figure's unit.
func (t *Table) Number(at int, f *Figure) (x float64, known bool) {
	v := t.columns[f.column].at(at)
	return float64(v) / f.scale, v >= 0
}

// Under reports whether a figure of the idea at a position is only known to be under its source's floor.
func (t *Table) Under(at int, f *Figure) bool { return t.columns[f.column].at(at) == underFloor }

// Find returns the position of an idea.
func (t *Table) Find(id uint) (at int, ok bool) { return slices.BinarySearch(t.ids, id) }

// With returns a table with ideas changed or added. It copies the chunks that change,
// and of what was computed of the filters computes those again. An idea's phrase never
// changes; one that is given another is taken at its new word in a table that is built
// from nothing.
func (t *Table) With(changed []Idea) *Table {
	if len(changed) == 0 {
		return t
	}
	changed = slices.Clone(changed)
	slices.SortStableFunc(changed, func(a, b Idea) int { return cmp.Compare(a.ID, b.ID) })
	for _, c := range changed {
		at, ok := t.Find(c.ID)
		if ok && t.phrases[at] != c.Phrase || !ok && at < t.n {
			return t.rebuilt(changed)
		}
	}
	b := t.Builder()
	for i := range changed {
		b.Put(&changed[i])
	}
	return b.Table()
}

// Builder makes a table out of another one and of ideas that are put in one by one:
// known ones, and new ones by rising ID behind them.
type Builder struct {
	from    *Table
	ids     []uint
	phrases []string
	writers [mostHeld]*writer
}

// Builder starts with the table's ideas.
func (t *Table) Builder() *Builder {
	b := &Builder{from: t, ids: slices.Clip(t.ids), phrases: slices.Clip(t.phrases)}
	for f := range heldFigures {
		b.writers[f] = t.columns[f].writer(t.n)
	}
	return b
}

// Room makes room for so many ideas, so that they need not be moved as they come.
func (b *Builder) Room(n int) {
	b.ids, b.phrases = slices.Grow(b.ids, n), slices.Grow(b.phrases, n)
}

// Put changes an idea, or adds it. It must not have another phrase than before, nor an
// ID below the last one unless it is known.
func (b *Builder) Put(i *Idea) {
	at := len(b.ids)
	if at > 0 && i.ID <= b.ids[at-1] {
		at, _ = slices.BinarySearch(b.ids, i.ID)
	} else {
		b.ids, b.phrases = append(b.ids, i.ID), append(b.phrases, i.Phrase)
	}
	for f := range heldFigures {
		b.writers[f].grow(len(b.ids))
		b.writers[f].put(at, i.held[f])
	}
}

// Table ends the building.
func (b *Builder) Table() *Table {
	out := emptyTable(b.from.text.reach(b.phrases, b.from.n))
	out.n, out.ids, out.phrases = len(b.ids), b.ids, b.phrases
	for f := range heldFigures {
		out.columns[f] = b.writers[f].column
	}
	out.carry(b.from)
	return out
}

// rebuilt is the way for what no application does: an idea between others that were
// there, or one that changed its phrase.
func (t *Table) rebuilt(changed []Idea) *Table {
	all := make([]Idea, 0, t.n+len(changed))
	for at := range t.n {
		all = append(all, t.Idea(at))
	}
	byID := map[uint]int{}
	for i, idea := range all {
		byID[idea.ID] = i
	}
	for _, c := range changed {
		if i, ok := byID[c.ID]; ok {
			all[i] = c
		} else {
			byID[c.ID] = len(all)
			all = append(all, c)
		}
	}
	slices.SortFunc(all, func(a, b Idea) int { return cmp.Compare(a.ID, b.ID) })
	return NewTable(t.text.lang, all, t.text.brands...)
}

// Idea reads back what the table holds of an idea: a figure is as fine as its column.
func (t *Table) Idea(at int) Idea {
	i := Idea{ID: t.ids[at], Phrase: t.phrases[at]}
	for f := range heldFigures {
		i.held[f] = t.columns[f].at(at)
	}
	return i
}

// Middle is the median of a figure over the ideas it is known of; ok is false when
// there is none.
func (t *Table) Middle(f *Figure) (x float64, ok bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	v, known := t.middle[f]
	if !known {
		var values []int64
		for at := range t.n {
			if v := t.columns[f.column].at(at); v >= 0 {
				values = append(values, v)
			}
		}
		v = unknown
		if len(values) > 0 {
			slices.Sort(values)
			v = values[len(values)/2]
		}
		if t.middle == nil {
			t.middle = map[*Figure]int64{}
		}
		t.middle[f] = v
	}
	return float64(v) / f.scale, v >= 0
}

// notKnown is the ideas that a figure is not known of, computed once.
func (t *Table) notKnown(f *Figure) Set {
	t.mu.Lock()
	defer t.mu.Unlock()
	s, ok := t.blind[f]
	if !ok {
		s = newSet(t.n)
		for at := range t.columns[f.column].chunks {
			t.chunkNotKnown(f, at, s)
		}
		if t.blind == nil {
			t.blind = map[*Figure]Set{}
		}
		t.blind[f] = s
	}
	return s
}

func (t *Table) chunkNotKnown(f *Figure, at int, s Set) {
	t.columns[f.column].chunkWithin(at, 0, mostValue, s)
	for w := at * chunkWords; w < min(len(s), (at+1)*chunkWords); w++ {
		s[w] = ^s[w]
	}
	s.trim(t.n)
}

// worthRanks is the rank of each idea by its worth, 1 the most; −1 where the worth is
// not known. The same worth has the same rank.
func (t *Table) worthRanks() []int32 {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ranks == nil && t.n > 0 {
		order := make([]int, t.n)
		for i := range order {
			order[i] = i
		}
		worth := t.columns[Worth.column].at
		slices.SortFunc(order, func(a, b int) int { return cmp.Compare(worth(b), worth(a)) })
		t.ranks = make([]int32, t.n)
		for place, at := range order {
			switch {
			case worth(at) < 0:
				t.ranks[at] = unknown
			case place > 0 && worth(order[place-1]) == worth(at):
				t.ranks[at] = t.ranks[order[place-1]]
			default:
				t.ranks[at] = int32(place + 1)
			}
		}
	}
	return t.ranks
}
