// Package subjects tells the ideas of a niche that are about its subject from those that only share its words, and
// keeps what somebody says of that.
package subjects

import (
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"slices"
	"sync"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/core/subject"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Store is what is asked of the data file.
type Store interface {
	SaveSides(ctx context.Context, niche uint, ideas []store.Idea, batchName string) error
	SaveTold(ctx context.Context, niche uint, ideas []store.Idea) error
	Sides(ctx context.Context, niche uint, most int) ([]store.Idea, error)
	Strays(ctx context.Context, niche uint, some int) (out []store.Idea, others []string, lookedUp int, err error)
}

// Teller tells strays.
type Teller struct {
	store   Store
	ideas   *ideas.Keeper
	results *results.Researcher
	telling sync.Mutex
}

// New returns a teller.
func New(st Store, list *ideas.Keeper, r *results.Researcher) *Teller {
	return &Teller{store: st, ideas: list, results: r}
}

// Tell tells the ideas of a niche, by what was looked up and by what somebody said, and writes what that changes. It
// returns what is new, in words, "" where nothing is. Nobody is asked.
func (s *Teller) Tell(ctx context.Context, n niches.Niche) (says string, err error) {
	s.telling.Lock()
	defer s.telling.Unlock()
	rows, err := s.store.Sides(ctx, n.ID, mostTold)
	if err != nil {
		return "", err
	}
	sites, err := s.sites(ctx, n)
	if err != nil {
		return "", err
	}
	list := make([]subject.Idea, len(rows))
	for i, row := range rows {
		list[i] = subject.Idea{Words: phrase.Subject(phrase.ContentStems(row.Phrase, n.Language), n.Language),
			LookedUp: row.JudgedAt != nil, Sites: sites[row.ID], Hand: subject.Side(row.SideHand)}
	}
	var changed []store.Idea
	off := 0
	for i, told := range subject.Tell(list) {
		row := rows[i]
		was := row
		row.Part, row.SideWhy = told.Part, why(told)
		if row.SideHand == 0 {
			row.Side = int8(told.Side)
		} else {
			row.Side = 0
		}
		if row.Side == was.Side && row.Part == was.Part && row.SideWhy == was.SideWhy {
			continue
		}
		if changed = append(changed, row); row.Side == int8(subject.Off) && was.Side != row.Side {
			off++
		}
	}
	if off > 0 {
		if says = fmt.Sprintf("%d ideas are off the subject.", off); off == 1 {
			says = "1 idea is off the subject."
		}
	}
	for part := range slices.Chunk(changed, toldAtOnce) {
		if err := s.store.SaveTold(ctx, n.ID, part); err != nil {
			return "", err
		}
	}
	return says, nil
}

// mostTold is up to how many ideas a niche's ideas are told by words alone, too.
const mostTold = 50_000

// toldAtOnce is how many ideas are written together, so that nobody waits for all.
const toldAtOnce = 500

// sites are those of looked-up ideas that can tell a subject.
func (s *Teller) sites(ctx context.Context, n niches.Niche) (map[uint][]string, error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, err
	}
	standers, err := s.results.InTheWay(ctx, n, b.Revision)
	if err != nil {
		return nil, err
	}
	out := map[uint][]string{}
	for _, st := range standers {
		if st.Own || !subject.Tells(st.Kind) {
			continue
		}
		for _, at := range st.Stands {
			if !slices.Contains(out[at.Idea], st.Site) {
				out[at.Idea] = append(out[at.Idea], st.Site)
			}
		}
	}
	return out, nil
}

// why says what told it.
func why(t subject.Told) string {
	switch {
	case t.By == subject.Hand:
		return "You marked it."
	case t.By == subject.Words && t.Side == subject.Off:
		return fmt.Sprintf("By its words alone: “%s” is used off the subject.", t.Word)
	case t.By == subject.Words:
		return "By its words alone."
	case t.By != subject.Results:
		return ""
	case t.Of <= 1:
		return "By the one smaller site in its top ten, and by its words."
	case t.Shared == 0:
		return fmt.Sprintf("None of the %d smaller sites in its top ten ranks for your other ideas.", t.Of)
	case t.Shared == 1:
		return fmt.Sprintf("Of the %d smaller sites in its top ten, 1 ranks for your other ideas.", t.Of)
	}
	return fmt.Sprintf("Of the %d smaller sites in its top ten, %d rank for your other ideas.", t.Of, t.Shared)
}

// Say takes down what somebody says of ideas: on the subject, off it, or, by Untold, nothing more. It can be undone.
// What follows for other ideas is told at once.
func (s *Teller) Say(ctx context.Context, n niches.Niche, ids []uint, side subject.Side) (changed int, err error) {
	if side < subject.Untold || side > subject.Off {
		return 0, input.Bad("side", "That option is not available. Reload the page.")
	}
	rows, err := s.ideas.Ideas(ctx, n.ID, ids)
	if err != nil {
		return 0, err
	}
	if len(rows) < len(ids) {
		return 0, store.ErrNotFound
	}
	var list []store.Idea
	for _, row := range rows {
		if row.Row.SideHand != int8(side) {
			list = append(list, store.Idea{ID: row.ID, SideHand: int8(side)})
		}
	}
	if len(list) == 0 {
		return 0, nil
	}
	if err := s.store.SaveSides(ctx, n.ID, list, rand.Text()); err != nil {
		return 0, err
	}
	_, err = s.Tell(ctx, n)
	return len(list), err
}

// Undo takes back whatever was done last in a niche; where that was something said of the subject, what followed from
// it is told anew.
func (s *Teller) Undo(ctx context.Context, n niches.Niche) (ideas.Undone, error) {
	undone, err := s.ideas.Undo(ctx, n.ID)
	if err == nil && undone.Subject {
		_, err = s.Tell(ctx, n)
	}
	return undone, err
}

// Part is strays that hang together, or those that stand alone.
type Part struct {
	Number   int
	Alone    bool
	Words    []string // that most of them say, and the subject seldom does
	Searches float64  // a month, as far as they are known
	Strays   []Stray
}

// Stray is one idea that is off the subject.
type Stray struct {
	ID       uint
	Phrase   string
	Why      string
	Searches int  // −1 unknown
	Hand     bool // somebody said so
}

// fewestOwn is how many ideas make one ask whether they are a subject of their own (ours).
const fewestOwn = 5

// Own reports whether they may be a subject of their own.
func (p Part) Own() bool { return !p.Alone && len(p.Strays) >= fewestOwn }

// Strays are what is off the subject of a niche.
type Strays struct {
	Parts    []Part  // by what hangs together, the most first
	Said     []Stray // those that somebody said are on the subject
	LookedUp int     // ideas of the niche that are looked up
}

// someOthers is with how many phrases of the subject strays are compared, to find the words they are called by.
const someOthers = 2000

// OnHand are the ideas that are off the subject and not dropped.
func (s *Teller) OnHand(ctx context.Context, n niches.Niche) (out Strays, err error) {
	rows, others, lookedUp, err := s.store.Strays(ctx, n.ID, someOthers)
	if err != nil {
		return out, err
	}
	out.LookedUp = lookedUp
	by, heard := map[int]*Part{}, map[string]int{}
	for _, other := range others {
		for _, w := range phrase.Words(other) {
			heard[w]++
		}
	}
	for _, row := range rows {
		one := Stray{ID: row.ID, Phrase: row.Phrase, Why: row.SideWhy, Searches: -1, Hand: row.SideHand != 0}
		if row.Searches != nil {
			one.Searches = *row.Searches
		}
		switch {
		case row.Decision == int8(sieve.Dropped):
		case ideas.OffSubject(row):
			number := row.Part
			if number <= 0 {
				number = -1
			}
			p := by[number]
			if p == nil {
				p = &Part{Number: number, Alone: number == -1}
				by[number] = p
			}
			p.Strays = append(p.Strays, one)
			p.Searches += float64(max(0, one.Searches))
		case row.SideHand == int8(subject.On):
			out.Said = append(out.Said, one)
		}
	}
	for _, number := range slices.Sorted(maps.Keys(by)) {
		p := by[number]
		p.Words = typical(p.Strays, heard, len(others), n.Language)
		slices.SortStableFunc(p.Strays, func(a, b Stray) int { return cmp.Compare(b.Searches, a.Searches) })
		out.Parts = append(out.Parts, *p)
	}
	slices.SortStableFunc(out.Parts, func(a, b Part) int {
		switch {
		case a.Alone && !b.Alone:
			return 1
		case b.Alone && !a.Alone:
			return -1
		}
		return cmp.Compare(len(b.Strays), len(a.Strays))
	})
	return out, nil
}

// typical are the words that many of some phrases say, and few others.
func typical(list []Stray, heard map[string]int, total int, lang string) (out []string) {
	n := map[string]int{}
	for _, one := range list {
		words := phrase.Words(one.Phrase)
		slices.Sort(words)
		for _, w := range slices.Compact(words) {
			if !phrase.IsFunctionWord(w, lang) && !phrase.IsLight(w, lang) {
				n[w]++
			}
		}
	}
	words := slices.Sorted(maps.Keys(n))
	by := func(w string) float64 {
		return float64(n[w]) / float64(len(list)) * (1 - min(1, float64(heard[w])/float64(max(1, total))/
			(float64(n[w])/float64(len(list)))))
	}
	slices.SortStableFunc(words, func(a, b string) int { return cmp.Compare(by(b), by(a)) })
	for _, w := range words[:min(3, len(words))] {
		if by(w) > 0 {
			out = append(out, w)
		}
	}
	return out
}
