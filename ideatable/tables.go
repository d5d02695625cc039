// Package ideatable holds a niche's ideas as columns in memory, as they were at one
// revision of the data file, and follows it: only what changed since is read. Whole rows
// stay in the data file, and are read by page.
package ideatable

import (
	"context"
	"fmt"
	"runtime"
	"sync"
	"time"

	"cleverniche/core/branch"
	"cleverniche/core/sieve"
	"cleverniche/store"

	"golang.org/x/sync/errgroup"
)

// Snapshot is a niche's ideas at one revision. It does not change.
type Snapshot struct {
	Revision int64
	Table    *sieve.Table
}

// Tables are the tables of the niches that are worked on. It may be used by several at
// once.
type Tables struct {
	store *store.Store
	idle  time.Duration
	mu    sync.Mutex
	of    map[uint]*seat
}

// seat is where one niche's table is: whoever wants it newer waits for its lock only,
// and finds it made.
type seat struct {
	mu     sync.Mutex
	table  *Snapshot
	read   *readers
	founds foundSeat
	asked  time.Time // guarded by Boards.mu
}

// Idle is how long a table is kept that nobody asks for.
const Idle = 15 * time.Minute

// New returns the tables of a data file. Those that nobody asks for for so long are let
// go; 0 means Idle.
func New(st *store.Store, idle time.Duration) *Tables {
	if idle == 0 {
		idle = Idle
	}
	return &Tables{store: st, idle: idle, of: map[uint]*seat{}}
}

// seat returns the niche's, and lets go of those that nobody asks for.
func (b *Tables) seat(niche uint) *seat {
	b.mu.Lock()
	defer b.mu.Unlock()
	now := b.store.Now()
	for id, s := range b.of {
		if id != niche && now.Sub(s.asked) > b.idle {
			delete(b.of, id)
		}
	}
	s := b.of[niche]
	if s == nil {
		s = &seat{}
		b.of[niche] = s
	}
	s.asked = now
	return s
}

func (b *Tables) drop(niche uint) {
	b.mu.Lock()
	delete(b.of, niche)
	b.mu.Unlock()
}

// Forget lets go of a niche's table, and of what was found for its ideas.
func (b *Tables) Forget(niche uint) { b.drop(niche) }

// Len is how many tables are held.
func (b *Tables) Len() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return len(b.of)
}

// Of returns the niche's ideas as they are now, whoever changed them. The revision is
// read before the ideas, so that what is changed in between is read again, never missed.
func (b *Tables) Of(ctx context.Context, niche store.Niche) (*Snapshot, error) {
	s := b.seat(niche.ID)
	s.mu.Lock()
	defer s.mu.Unlock()
	revision, removals, err := b.store.Revision(ctx, niche.ID)
	if err != nil {
		b.drop(niche.ID)
		return nil, err
	}
	// In another currency other costs can be compared, and with another value other worths.
	if s.read == nil || s.read.all.currency != niche.Currency || s.read.all.visit != niche.VisitMicros {
		s.read, s.table = newReaders(niche.Currency, niche.VisitMicros), nil
	}
	if s.table != nil && s.table.Revision < removals {
		s.table = nil // some left it, or came back to their old places
	}
	if err := b.learnBranches(ctx, niche.ID, s.read); err != nil {
		b.drop(niche.ID)
		return nil, err
	}
	switch {
	case s.table == nil:
		s.table, err = b.open(ctx, niche, s.read)
	case s.table.Revision != revision:
		s.table, err = b.follow(ctx, niche.ID, s.read, s.table)
	}
	if err != nil {
		b.drop(niche.ID)
		return nil, fmt.Errorf("reading the ideas of the niche %s: %w", niche.Name, err)
	}
	s.table.Revision = revision
	return &Snapshot{revision, s.table.Table}, nil
}

// learnBranches reads the branches of a niche where there are new ones.
func (b *Tables) learnBranches(ctx context.Context, niche uint, read *readers) error {
	last, err := b.store.LastBranch(ctx, niche)
	if err != nil || last == read.last {
		return err
	}
	rows, err := b.store.Branches(ctx, niche)
	if err != nil {
		return err
	}
	paths := branch.Paths(Branches(rows))
	read.all.paths, read.free.paths, read.last = paths, paths, last
	return nil
}

// Branches are branches as the data file has them, as the core knows them.
func Branches(rows []store.Branch) []branch.Branch {
	out := make([]branch.Branch, len(rows))
	for i, r := range rows {
		out[i] = branch.Branch{ID: r.ID, Kind: r.Kind, Seed: r.Seed, From: r.From}
	}
	return out
}

// pieces is how many parts of the ideas are read one after the other by each of the
// readers: the fewer ideas wait to be put in, the less memory they take.
const pieces = 64

// open reads all ideas of a niche, several parts at once.
func (b *Tables) open(ctx context.Context, niche store.Niche, read *readers) (*Snapshot, error) {
	spans, count, err := b.store.Spans(ctx, niche.ID, pieces)
	if err != nil {
		return nil, err
	}
	parts := make([]chan []sieve.Idea, len(spans))
	for i := range parts {
		parts[i] = make(chan []sieve.Idea)
	}
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(min(4, runtime.GOMAXPROCS(0)))
	builder := sieve.NewTable(niche.Language, nil).Builder()
	builder.Room(count)
	built := make(chan struct{})
	go func() {
		defer close(built)
		for _, part := range parts {
			ideas := <-part
			for i := range ideas {
				builder.Put(&ideas[i])
			}
		}
	}()
	for i, span := range spans {
		group.Go(func() error {
			ideas, err := b.part(ctx, niche.ID, span, read)
			parts[i] <- ideas
			return err
		})
	}
	err = group.Wait()
	<-built
	out := &Snapshot{Table: builder.Table()}
	go out.Table.Ready()
	return out, err
}

// part reads the ideas of a span, by ID: of all what most have, and of some the
// rest.
func (b *Tables) part(ctx context.Context, niche uint, in store.Span, read *readers) (ideas []sieve.Idea, err error) {
	err = b.store.Columns(ctx, niche, in, read.free.columns, func(values []any) {
		ideas = append(ideas, read.free.idea(values))
	})
	if err != nil {
		return nil, err
	}
	at := 0
	return ideas, b.store.ColumnsRare(ctx, niche, in, read.rare.columns, func(values []any) {
		id := idOf(values)
		for at < len(ideas) && ideas[at].ID < id {
			at++
		}
		if at < len(ideas) && ideas[at].ID == id { // another one came in between
			read.rare.fill(&ideas[at], values)
		}
	})
}

// follow reads what changed since a table was made.
func (b *Tables) follow(ctx context.Context, niche uint, read *readers, old *Snapshot) (*Snapshot, error) {
	var changed []sieve.Idea
	err := b.store.ColumnsSince(ctx, niche, old.Revision, read.all.columns, func(values []any) {
		changed = append(changed, read.all.idea(values))
	})
	return &Snapshot{Table: old.Table.With(changed)}, err
}
