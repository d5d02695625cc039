// Package gather grows ideas from seeds, and finds out how often they are searched.
package gather

import (
	"context"
	"sync"

	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
)

// Store is what is asked of the data file.
type Store interface {
	AddIdeas(ctx context.Context, niche uint, finds []store.Find) (added int, err error)
	AddSeeds(ctx context.Context, seeds []store.Seed) error
	SaveDemand(ctx context.Context, niche uint, ideas []store.Idea) error
	Undemanded(ctx context.Context, niche uint) ([]store.Idea, error)
}

// Gatherer gathers ideas.
type Gatherer struct {
	store  Store
	asker  *ask.Asker
	runner *jobs.Runner
	ideas  *ideas.Keeper
	demand sync.Mutex // one batch run of demand at a time
}

// New returns who gathers the ideas of a data file.
func New(st Store, asker *ask.Asker, runner *jobs.Runner, list *ideas.Keeper) *Gatherer {
	return &Gatherer{store: st, asker: asker, runner: runner, ideas: list}
}

// Kinds are the kinds of jobs that it does.
func (s *Gatherer) Kinds() []jobs.Kind { return []jobs.Kind{s.gatherKind()} }
