package study

import (
	"context"
	"slices"
	"strings"
	"sync"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/store"
)

// Board is a niche's ideas held in memory, as they were at one revision. It does
// not change; a newer one is built from it and what changed since.
type Board struct {
	Revision int64
	Table    *sieve.Table
	Rows     []Row // by the table's positions

	usual func() int64
}

// Row is what a list shows of an idea.
type Row struct {
	store.Idea
	Year []demand.Count // the latest twelve months
}

type boards struct {
	mu      sync.Mutex
	byNiche map[uint]*Board
}

// Board returns the niche's ideas as they are now. Only what changed since the
// last call is read, whoever changed it.
func (s *Study) Board(ctx context.Context, niche uint) (*Board, error) {
	s.boards.mu.Lock()
	defer s.boards.mu.Unlock()
	revision, err := s.store.Revision(ctx, niche)
	if err != nil {
		return nil, err
	}
	old := s.boards.byNiche[niche]
	if old == nil {
		n, err := s.store.Niche(ctx, niche)
		if err != nil {
			return nil, err
		}
		old = &Board{Table: sieve.NewTable(n.Language, nil)}
	} else if old.Revision == revision {
		return old, nil
	}
	changed, err := s.store.IdeasSince(ctx, niche, old.Revision)
	if err != nil {
		return nil, err
	}
	b := old.with(changed)
	s.boards.byNiche[niche] = b
	return b, nil
}

func (b *Board) with(changed []store.Idea) *Board {
	columns := make([]sieve.Idea, len(changed))
	for i, idea := range changed {
		columns[i] = columnsOf(idea)
	}
	out := &Board{Revision: b.Revision, Table: b.Table.With(columns)}
	out.Rows = make([]Row, out.Table.Len())
	if n := len(b.Rows); n > 0 && out.Table.ID(n-1) == b.Table.ID(n-1) {
		copy(out.Rows, b.Rows) // what is new stands behind
	} else {
		for _, r := range b.Rows {
			at, _ := out.Table.Find(r.ID)
			out.Rows[at] = r
		}
	}
	for _, idea := range changed {
		at, _ := out.Table.Find(idea.ID)
		out.Rows[at] = rowOf(idea)
		out.Revision = max(out.Revision, idea.Revision)
	}
	out.usual = sync.OnceValue(func() int64 {
		var costs []int64
		for _, r := range out.Rows {
			if r.CPCMicros != nil {
				costs = append(costs, *r.CPCMicros)
			}
		}
		if len(costs) == 0 {
			return -1
		}
		slices.Sort(costs)
		return costs[len(costs)/2]
	})
	return out
}

// UsualCPC is the middle cost per click of the ideas that have one, in micro-units;
// −1 when none has.
func (b *Board) UsualCPC() int64 { return b.usual() }

func columnsOf(i store.Idea) sieve.Idea {
	c := sieve.Unmeasured(i.ID, i.Phrase, i.Words)
	c.Decision = sieve.Decision(i.Decision)
	if i.Searches != nil {
		c.Searches, c.Under = *i.Searches, i.Under
	}
	if i.CPCMicros != nil {
		c.CPC = *i.CPCMicros
	}
	if i.Competition != nil {
		c.Ads = *i.Competition
	}
	if i.BroadMatch > 0 {
		c.PhraseShare = float64(i.PhraseMatch) / float64(i.BroadMatch)
	}
	if i.JudgedAt != nil {
		c.Judged, c.Difficulty, c.PageOne, c.TopFive, c.Footholds, c.Weakest = true, i.Difficulty, i.PageOne, i.TopFive, i.Footholds, i.Weakest
		c.LinksNeeded, c.Locked, c.Want = i.LinksNeeded, i.Locked, intent.Want(i.Want)
	}
	return c
}

func rowOf(i store.Idea) Row {
	r := Row{Idea: i}
	counts, err := store.DecodeMonths(i.Months)
	if err == nil {
		r.Year = demand.Series{Counts: counts}.Latest(12)
	}
	return r
}

// Show is which ideas a list is about, by what was decided on them.
type Show string

// The choices.
const (
	ShowOpen    Show = "open" // not dropped
	ShowKept    Show = "kept"
	ShowDropped Show = "dropped"
	ShowAll     Show = "all"
)

// Sift is a niche's sieve as the user set it. Zero fields are no criterion.
type Sift struct {
	Words      int
	From, To   int  // searches a month
	Unmeasured bool // ideas under the floor, or without figures, pass From
	Holds      string
	Lacks      string
	Difficulty int // at most; −1 is no criterion
	Footholds  int
	Judged     bool   // looked-up ideas only
	Ready      string // name of a ready-made sieve that these are put behind; "" is none
	Show       Show
	Sort       sieve.Column
	Down       bool // largest first
}

// unasked are criteria whose figures no source is asked for yet.
var unasked = map[sieve.Criterion]string{sieve.ByExact: "how many pages hold the exact phrase",
	sieve.ByTitles: "how many pages hold it in the title", sieve.ByName: "whether the name is free"}

// ReadySieve is a sieve that comes with the product, and what it lacks to be of use.
type ReadySieve struct {
	sieve.Sieve
	Lacks string // figures that no source is asked for yet; "" when it can be used
}

// ReadySieves lists the sieves that come with the product.
func ReadySieves() []ReadySieve {
	var out []ReadySieve
	for _, s := range sieve.BuiltIn() {
		r := ReadySieve{Sieve: s}
		for _, m := range s.Meshes {
			if figure, lacks := unasked[m.By]; lacks && r.Lacks == "" {
				r.Lacks = figure
			}
		}
		out = append(out, r)
	}
	return out
}

// CheckReady returns an *InputError when there is no ready-made sieve of that name, or
// it cannot be used.
func CheckReady(name string) error {
	var names []string
	for _, r := range ReadySieves() {
		if r.Name == name && r.Lacks == "" {
			return nil
		}
		if r.Name == name {
			return badInput("ready", "“%s” cannot be used yet: no source is asked %s.", name, r.Lacks)
		}
		names = append(names, r.Name)
	}
	return badInput("ready", "There is no sieve “%s”; there are %s.", name, strings.Join(names, ", "))
}

// Meshes are those of the ready-made sieve, if there is one, and behind them the
// user's own.
func (f Sift) Meshes() []sieve.Mesh {
	for _, r := range ReadySieves() {
		if f.Ready != "" && r.Name == f.Ready {
			return slices.Concat(r.Meshes, f.Own())
		}
	}
	return f.Own()
}

// Own are the user's own criteria in order, those that cost nothing first.
func (f Sift) Own() []sieve.Mesh {
	var m []sieve.Mesh
	switch f.Show {
	case ShowKept:
		m = append(m, sieve.Decided(sieve.Kept))
	case ShowDropped:
		m = append(m, sieve.Decided(sieve.Dropped))
	case ShowAll:
	default:
		m = append(m, sieve.NotDropped())
	}
	bar := func(by sieve.Criterion, n, least int) {
		if n >= least {
			m = append(m, sieve.Mesh{By: by, Number: float64(n)})
		}
	}
	bar(sieve.ByLength, f.Words, 2)
	if f.From > 0 {
		m = append(m, sieve.Mesh{By: sieve.ByLeastSearches, Number: float64(f.From), Unmeasured: f.Unmeasured})
	}
	if f.To > 0 { // what is not measured is for ByLeastSearches to decide
		m = append(m, sieve.Mesh{By: sieve.ByMostSearches, Number: float64(f.To), Unmeasured: true})
	}
	if terms := sieve.Terms(f.Holds); len(terms) > 0 {
		m = append(m, sieve.Mesh{By: sieve.ByHolding, Terms: terms})
	}
	if terms := sieve.Terms(f.Lacks); len(terms) > 0 {
		m = append(m, sieve.Mesh{By: sieve.ByLacking, Terms: terms})
	}
	if f.Judged {
		m = append(m, sieve.Mesh{By: sieve.ByLookedUp})
	}
	bar(sieve.ByMostDifficulty, f.Difficulty, 0)
	bar(sieve.ByLeastFootholds, f.Footholds, 1)
	return m
}

// Sifted is what a sift leaves of a board.
type Sifted struct {
	sieve.Result
	board *Board
	sift  Sift
}

// Pass lets the board's ideas through the sift.
func (b *Board) Pass(f Sift) Sifted { return Sifted{b.Table.Pass(f.Meshes()), b, f} }

// Rows are the rows of what is left in the sift's order, from a place on, at most so
// many; with most below 0 all.
func (s Sifted) Rows(from, most int) []Row {
	at := s.board.Table.Top(s.Left, s.sift.Sort, s.sift.Down, from, most)
	out := make([]Row, len(at))
	for i, p := range at {
		out[i] = s.board.Rows[p]
	}
	return out
}

// Find returns the row of an idea.
func (b *Board) Find(id uint) (Row, bool) {
	at, ok := b.Table.Find(id)
	if !ok {
		return Row{}, false
	}
	return b.Rows[at], true
}

// Stops lists the meshes of the sift that stop an idea of the board.
func (b *Board) Stops(id uint, f Sift) []sieve.Mesh {
	at, ok := b.Table.Find(id)
	if !ok {
		return nil
	}
	meshes := f.Meshes()
	var out []sieve.Mesh
	for _, m := range b.Table.Stops(at, meshes) {
		out = append(out, meshes[m])
	}
	return out
}

// WhyNot lists the meshes of the sift that stop a phrase; found is false when the
// board has no such idea.
func (b *Board) WhyNot(text string, f Sift) (stops []sieve.Mesh, found bool) {
	at, found := b.Table.Matching(phrase.Normal(text))
	if !found {
		return nil, false
	}
	return b.Stops(b.Rows[at].ID, f), true
}

// Counts are the numbers under the stages of the trail.
type Counts struct{ Seeds, Ideas, Left, Judged, Kept int }

// Count counts a board, with what its sift leaves.
func (b *Board) Count(left int) Counts {
	count := func(m sieve.Mesh) int { return b.Table.Pass([]sieve.Mesh{m}).Count }
	return Counts{Ideas: len(b.Rows), Left: left, Judged: count(sieve.Mesh{By: sieve.ByLookedUp}), Kept: count(sieve.Decided(sieve.Kept))}
}
