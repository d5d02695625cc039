package study

import (
	"context"
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
	Ideas    []sieve.Idea
	Rows     []Row // alongside Ideas
	at       map[uint]int
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
		old = &Board{at: map[uint]int{}}
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
	out := &Board{Revision: b.Revision, at: make(map[uint]int, len(b.at)+len(changed)),
		Ideas: make([]sieve.Idea, len(b.Ideas), len(b.Ideas)+len(changed)),
		Rows:  make([]Row, len(b.Rows), len(b.Rows)+len(changed))}
	copy(out.Ideas, b.Ideas)
	copy(out.Rows, b.Rows)
	for id, i := range b.at {
		out.at[id] = i
	}
	for _, idea := range changed {
		i, ok := out.at[idea.ID]
		if !ok {
			i = len(out.Rows)
			out.at[idea.ID] = i
			out.Ideas = append(out.Ideas, sieve.Idea{})
			out.Rows = append(out.Rows, Row{})
		}
		out.Ideas[i], out.Rows[i] = columnsOf(idea), rowOf(idea)
		out.Revision = max(out.Revision, idea.Revision)
	}
	return out
}

func columnsOf(i store.Idea) sieve.Idea {
	c := sieve.Idea{ID: i.ID, Phrase: i.Phrase, Words: i.Words, Under: i.Under, CPC: -1, Ads: -1,
		Judged: i.JudgedAt != nil, Difficulty: i.Difficulty, PageOne: i.PageOne, Footholds: i.Footholds,
		Weakest: i.Weakest, Want: intent.Want(i.Want), Decision: sieve.Decision(i.Decision), Found: int64(i.ID)}
	if i.Searches != nil {
		c.Demand, c.Searches = true, *i.Searches
	}
	if i.CPCMicros != nil {
		c.CPC = *i.CPCMicros
	}
	if i.Competition != nil {
		c.Ads = *i.Competition
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
	Judged     bool // looked-up ideas only
	Show       Show
	Sort       sieve.Column
	Down       bool // largest first
}

// Meshes are the sift's criteria in order, those that cost nothing first.
func (f Sift) Meshes() []sieve.Mesh {
	var m []sieve.Mesh
	switch f.Show {
	case ShowKept:
		m = append(m, sieve.Decided(sieve.Kept, "Kept"))
	case ShowDropped:
		m = append(m, sieve.Decided(sieve.Dropped, "Dropped"))
	case ShowAll:
	default:
		m = append(m, sieve.NotDropped())
	}
	if f.Words > 1 {
		m = append(m, sieve.WordsAtLeast(f.Words))
	}
	if f.From > 0 {
		m = append(m, sieve.SearchesFrom(f.From, f.Unmeasured))
	}
	if f.To > 0 {
		m = append(m, sieve.SearchesTo(f.To))
	}
	if terms := sieve.Terms(f.Holds); len(terms) > 0 {
		m = append(m, sieve.HoldsAny(terms))
	}
	if terms := sieve.Terms(f.Lacks); len(terms) > 0 {
		m = append(m, sieve.HoldsNone(terms))
	}
	if f.Judged {
		m = append(m, sieve.Judged())
	}
	if f.Difficulty >= 0 {
		m = append(m, sieve.DifficultyAtMost(f.Difficulty))
	}
	if f.Footholds > 0 {
		m = append(m, sieve.FootholdsAtLeast(f.Footholds))
	}
	return m
}

// Pass lets the board's ideas through the sift, and sorts what is left.
func (b *Board) Pass(f Sift) sieve.Result {
	res := sieve.Pass(b.Ideas, f.Meshes())
	sieve.Sort(b.Ideas, res.Left, f.Sort, f.Down)
	return res
}

// Find returns the row of an idea.
func (b *Board) Find(id uint) (Row, bool) {
	i, ok := b.at[id]
	if !ok {
		return Row{}, false
	}
	return b.Rows[i], true
}

// WhyNot says which mesh of the sift stops a phrase that the board holds; found
// is false when the board has no such idea.
func (b *Board) WhyNot(text string, f Sift) (stopped sieve.Mesh, stops, found bool) {
	normal := phrase.Normal(text)
	for _, idea := range b.Ideas {
		if idea.Phrase == normal {
			stopped, stops = sieve.Stops(idea, f.Meshes())
			return stopped, stops, true
		}
	}
	return stopped, false, false
}

// Counts are the numbers under the stages of the trail.
type Counts struct{ Seeds, Ideas, Left, Judged, Kept int }

// Count counts a board, with what its sift leaves.
func (b *Board) Count(left int) Counts {
	c := Counts{Ideas: len(b.Ideas), Left: left}
	for i := range b.Ideas {
		if b.Ideas[i].Judged {
			c.Judged++
		}
		if b.Ideas[i].Decision == sieve.Kept {
			c.Kept++
		}
	}
	return c
}

// At returns the position of an idea that the board holds.
func (b *Board) At(id uint) int { return b.at[id] }
