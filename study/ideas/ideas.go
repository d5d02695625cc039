package ideas

import (
	"context"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/core/subject"
	"cleverniche/ideatable"
	"cleverniche/store"
)

// Idea is one search phrase in one niche, with all that is known of it: Value tells
// each of core/sieve's figures.
type Idea struct {
	ID          uint
	NicheID     uint
	Phrase      string // normal form
	Decision    sieve.Decision
	LookedUpAt  time.Time // zero while it is not looked up
	DemandError string    // why its searches are not known
	JudgeError  string    // why it could not be judged
	PhraseMatch int       // searches that hold the phrase
	BroadMatch  int       // searches that hold its words in any order
	Counts      []demand.Count
	Supposed    Suppose

	Row    store.Idea
	visit  int64   // what a visit brings in its niche, in millionths
	Joined *Joined // what it stands for in a list of topics; nil elsewhere
}

// Suppose is what the user thinks of a page for one idea otherwise than for the niche;
// nil is as the niche says.
type Suppose struct {
	Standing *float64
	Links    *int
	Fit      *float64
	Tilt     *float64 // of the engine; see difficulty.Model.Tilted
}

// Any reports whether something is supposed.
func (x Suppose) Any() bool { return x != Suppose{} }

// FromRow reads an idea of a niche in which a visit brings so much.
func FromRow(row store.Idea, visit int64) Idea {
	i := Idea{ID: row.ID, NicheID: row.NicheID, Phrase: row.Phrase, Decision: sieve.Decision(row.Decision),
		DemandError: row.DemandError, JudgeError: row.JudgeError, PhraseMatch: row.PhraseMatch,
		BroadMatch: row.BroadMatch, Supposed: Suppose{row.MyStanding, row.MyLinks, row.MyFit, row.MyTilt}, Row: row,
		visit: visit}
	if row.JudgedAt != nil {
		i.LookedUpAt = *row.JudgedAt
	}
	// Months that cannot be read are months that are not known.
	i.Counts, _ = store.DecodeMonths(row.Months)
	return i
}

// LookedUp reports whether the idea is looked up.
func (i Idea) LookedUp() bool { return !i.LookedUpAt.IsZero() }

// Locked reports whether the idea is looked up, and nobody else's to win.
func (i Idea) Locked() bool { return i.LookedUp() && i.Row.Locked }

// Off reports whether the idea is off the niche's subject.
func (i Idea) Off() bool { return OffSubject(i.Row) }

// OffSubject reports whether an idea is off its niche's subject, by what somebody said or else by what is told.
func OffSubject(row store.Idea) bool {
	side := row.SideHand
	if side == 0 {
		side = row.Side
	}
	return side == int8(subject.Off)
}

// Value is what is known of a figure.
func (i Idea) Value(f *sieve.Figure) sieve.Value {
	if i.Joined != nil && f == sieve.Members {
		return sieve.Of(float64(i.Joined.Members))
	}
	return ideatable.ValueOf(&i.Row, f, i.visit)
}

// Joined is what an idea stands for in a list of topics, each of which is shown as its lead.
type Joined struct {
	Name    string
	Members int
	Changed bool   // something was decided on the topic by hand
	State   string // how far its article is
	Page    string // of my own, that answers it
}

// Series is the idea's monthly searches.
func (i Idea) Series() demand.Series { return demand.Series{Counts: i.Counts} }

// FreeNames are the domain names that are free, of those that the phrase could have.
func (i Idea) FreeNames() []string { return strings.Fields(i.Row.FreeNames) }

// CountError is why pages could not be counted, or names not be asked for; "" when they could.
func (i Idea) CountError() string { return i.Row.CountError }

// Currency is that of the cost per click; "" when none is known.
func (i Idea) Currency() string { return i.Row.Currency }

// CPCMicros is the cost per click in micro-units of Currency; ok is false when it is
// not known.
func (i Idea) CPCMicros() (micros int64, ok bool) {
	if i.Row.CPCMicros == nil {
		return 0, false
	}
	return *i.Row.CPCMicros, true
}

// Said tells who said a figure and when; zero where nobody is to be named.
func (i Idea) Said(f *sieve.Figure) (source string, at time.Time) {
	switch f.From {
	case sieve.FromDemand:
		if source = i.Row.DemandSource; source == "" {
			source = store.ImportSource // which alone brings a cost without searches
		}
		if i.Row.DemandAt != nil {
			at = *i.Row.DemandAt
		}
	case sieve.FromTen:
		at = i.LookedUpAt
	case sieve.FromTotals:
		at = moment(i.Row.PagesAt)
	case sieve.FromNames:
		at = moment(i.Row.NamesAt)
	case sieve.FromAges:
		at = moment(i.Row.AgesAt)
	}
	return source, at
}

func moment(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return *t
}

// Ideas returns the ideas of the IDs that are in the niche, in the order of the IDs.
func (s *Keeper) Ideas(ctx context.Context, niche uint, ids []uint) ([]Idea, error) {
	rows, err := s.store.Ideas(ctx, niche, ids)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	n, err := s.store.Niche(ctx, niche)
	out := make([]Idea, len(rows))
	for i, row := range rows {
		out[i] = FromRow(row, n.VisitMicros)
	}
	return out, err
}

// Undemanded is how many ideas of a niche have no searches yet, and no reason why.
func (s *Keeper) Undemanded(ctx context.Context, niche uint) (int, error) {
	n, err := s.store.CountUndemanded(ctx, niche)
	return int(n), err
}
