package ideas

import (
	"context"
	"slices"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/ideatable"
	"cleverniche/study/niches"
)

// Table is a niche's ideas as they were at one moment. It does not change.
type Table struct {
	study *Keeper
	Niche uint
	*ideatable.Snapshot
	overlay func(Idea) Idea // puts in what is joined; nil of ideas
}

// TableOf is a table of rows that stand for more than themselves; overlay puts that into an idea.
func (s *Keeper) TableOf(niche uint, b *ideatable.Snapshot, overlay func(Idea) Idea) Table {
	return Table{s, niche, b, overlay}
}

// Table returns the niche's ideas as they are now.
func (s *Keeper) Table(ctx context.Context, n niches.Niche) (Table, error) {
	b, err := s.tables.Of(ctx, n.Row())
	return Table{s, n.ID, b, nil}, err
}

// Founds is what was found for the niche's ideas, as grouping looks at it.
func (s *Keeper) Founds(ctx context.Context, n niches.Niche) (ideatable.Founds, error) {
	return s.tables.Founds(ctx, n.Row())
}

// Len is how many ideas there are.
func (b Table) Len() int { return b.Table.Len() }

// Sifted is what a sieve leaves of a table.
type Sifted struct {
	sieve.Result
	table Table
	sieve sieve.Sieve
}

// Pass lets the table's ideas through a sieve.
func (b Table) Pass(s sieve.Sieve) Sifted { return Sifted{b.Table.Pass(s.Filters), b, s} }

// Folded keeps of wordings of one thing the strongest, and returns by its ID what is behind it.
func (s Sifted) Folded() (Sifted, map[uint]Wordings) {
	t := s.table.Table
	set, behind := t.Fold(s.Left)
	out := make(map[uint]Wordings, len(behind))
	for at, f := range behind {
		w := Wordings{Searches: f.Searches}
		for _, other := range f.More {
			w.Phrases = append(w.Phrases, t.Phrase(other))
		}
		out[t.ID(at)] = w
	}
	s.Left = set
	s.Count = set.Count()
	return s, out
}

// Wordings are other wordings of an idea, and how often they are searched together.
type Wordings struct {
	Phrases  []string
	Searches float64
}

// Without is what is left of which a figure has not been asked for.
func (s Sifted) Without(f *sieve.Figure) Sifted {
	s.Left = s.table.Table.Lacking(s.Left, f)
	s.Count = s.Left.Count()
	return s
}

// Searched are the most searched of what is left, at most so many.
func (s Sifted) Searched(most int) []phrase.Searched {
	t := s.table.Table
	at := t.Top(s.Left, sieve.Searches, true, 0, most)
	out := make([]phrase.Searched, len(at))
	for k, i := range at {
		n, _ := t.Number(i, sieve.Searches)
		out[k] = phrase.Searched{Phrase: t.Phrase(i), Searches: max(0, n)}
	}
	return out
}

// IDs are the ideas that are left in the sieve's order, from a place on, at most so
// many; with most below 0 all.
func (s Sifted) IDs(from, most int) []uint {
	at := s.table.Table.TopBy(s.Left, s.sieve.Keys(), from, most)
	out := make([]uint, len(at))
	for i, p := range at {
		out[i] = s.table.Table.ID(p)
	}
	return out
}

// Place is where an idea stands in the sieve's order, from 0; ok is false when it is not left.
func (s Sifted) Place(id uint) (place int, ok bool) {
	at, ok := s.table.Table.Find(id)
	if !ok || !s.Left.Has(at) {
		return 0, false
	}
	return s.table.Table.Place(s.Left, s.sieve.Keys(), at), true
}

// Ideas are those of IDs, read from the data file.
func (s Sifted) Ideas(ctx context.Context, from, most int) ([]Idea, error) {
	ideas, err := s.table.study.Ideas(ctx, s.table.Niche, s.IDs(from, most))
	if s.table.overlay != nil {
		for i := range ideas {
			ideas[i] = s.table.overlay(ideas[i])
		}
	}
	return ideas, err
}

// Named returns the ideas of phrases in normal form that are there.
func (b Table) Named(phrases ...string) (ids []uint) {
	for _, p := range phrases {
		if at, ok := b.Table.Matching(p); ok {
			ids = append(ids, b.Table.ID(at))
		}
	}
	return ids
}

// Stops lists the filters of a sieve that stop an idea of the table.
func (b Table) Stops(id uint, s sieve.Sieve) []sieve.Filter {
	at, ok := b.Table.Find(id)
	if !ok {
		return nil
	}
	filters := s.Filters
	var out []sieve.Filter
	for _, m := range b.Table.Stops(at, filters) {
		out = append(out, filters[m])
	}
	return out
}

// Loosened is a filter that stops an idea, by its place in the sieve, and what it would have
// to be instead; Out where only taking it out helps.
type Loosened struct {
	At     int
	Filter sieve.Filter
	Out    bool
}

// Apply is a sieve with the filter changed. One that has to go leaves an empty one in its
// place, so that others keep theirs.
func (l Loosened) Apply(s sieve.Sieve) sieve.Sieve {
	s.Filters = slices.Clone(s.Filters)
	s.Filters[l.At] = l.Filter
	if l.Out {
		s.Filters[l.At] = sieve.Filter{}
	}
	return s
}

// LetThrough lists the filters of a sieve that stop a phrase, loosened as far as it takes;
// found is false when the table has no such idea.
func (b Table) LetThrough(text string, s sieve.Sieve) (out []Loosened, found bool) {
	ids := b.Named(phrase.Normal(text))
	if len(ids) == 0 {
		return nil, false
	}
	at, _ := b.Table.Find(ids[0])
	for _, m := range b.Table.Stops(at, s.Filters) {
		loose, ok := b.Table.Loosen(at, s.Filters[m])
		out = append(out, Loosened{m, loose, !ok})
	}
	return out, true
}

// Counts are the numbers under the stages of the trail.
type Counts struct {
	Seeds, Ideas, Left, LookedUp, Kept int
	Topics                             int // −1 while they are not grouped
	Sheet                              int // articles to write or being written
	Out                                int // published ones
}

// Count counts a table, with what its sieve leaves.
func (b Table) Count(left int) Counts {
	return Counts{Ideas: b.Len(), Left: left, LookedUp: b.Table.Count(sieve.On(sieve.ByLookedUp)),
		Kept: b.Table.Count(sieve.OnlyDecided(sieve.Kept))}
}

// UsualCPC is the middle cost per click of the ideas that have one in the niche's
// currency, in micro-units; −1 when none has.
func (b Table) UsualCPC() int64 {
	x, ok := b.Table.Middle(sieve.CPC)
	if !ok {
		return -1
	}
	return int64(x*1e6 + 0.5)
}
