// Package ideas is the phrases of a niche and what is known and was decided of each: as a table that sieves
// go over, and by themselves.
package ideas

import (
	"context"
	"time"

	"cleverniche/ideatable"
	"cleverniche/store"
	"cleverniche/study/ask"
)

// Store is what is asked of the data file.
type Store interface {
	RemoveIdeas(ctx context.Context, niche uint, ids []uint, batchName string) (removed int, err error)
	CountUndemanded(ctx context.Context, niche uint) (n int64, err error)
	Decide(ctx context.Context, niche uint, ids []uint, became int8, batchName string) (changed int, err error)
	Idea(ctx context.Context, niche, id uint) (store.Idea, error)
	Ideas(ctx context.Context, niche uint, ids []uint) ([]store.Idea, error)
	Branches(ctx context.Context, niche uint) ([]store.Branch, error)
	MarkSets(ctx context.Context, niche uint, column string) ([]string, error)
	LastDecision(ctx context.Context, niche uint) (time.Time, error)
	LastTopicChange(ctx context.Context, niche uint) (time.Time, error)
	Niche(ctx context.Context, id uint) (store.Niche, error)
	Now() time.Time
	SaveLabels(ctx context.Context, niche uint, ideas []store.Idea, batchName string) error
	SaveNote(ctx context.Context, niche uint, idea store.Idea, was *string, batchName string) error
	UndoDecision(ctx context.Context, niche uint) (undone []store.Decision, err error)
	UndoTopics(ctx context.Context, niche uint) (says string, err error)
}

// Keeper keeps the ideas of a data file.
type Keeper struct {
	store  Store
	tables *ideatable.Tables
	asker  *ask.Asker
}

// New returns the keeper of a data file's ideas.
func New(st Store, tables *ideatable.Tables, asker *ask.Asker) *Keeper {
	return &Keeper{st, tables, asker}
}

// Forget lets go of the table of a niche that is in memory.
func (s *Keeper) Forget(niche uint) { s.tables.Forget(niche) }
