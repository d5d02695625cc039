// Package gather grows ideas from seeds, and finds out how often they are searched.
package gather

import (
	"context"
	"sync"
	"time"

	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Store is what is asked of the data file.
type Store interface {
	AddIdeas(ctx context.Context, niche uint, finds []store.Find) (added int, err error)
	AddItems(ctx context.Context, job uint, behind string, payloads []string, seeds []store.Seed) error
	AddSeeds(ctx context.Context, seeds []store.Seed) error
	Branch(ctx context.Context, niche uint, kind, seed string) (id uint, err error)
	BranchCosts(ctx context.Context, niche uint) (of map[uint]int64, other int64, err error)
	Branches(ctx context.Context, niche uint) ([]store.Branch, error)
	AddGathering(ctx context.Context, row *store.Gathering) error
	ChangeGathering(ctx context.Context, niche, id uint, to map[string]any) error
	ClaimGathering(ctx context.Context, seen store.Gathering, after uint) (got bool, err error)
	Gathering(ctx context.Context, niche, id uint) (store.Gathering, error)
	Gatherings(ctx context.Context, niche uint) (out []store.Gathering, err error)
	RemoveGathering(ctx context.Context, niche, id uint, away bool) error
	JobSpent(ctx context.Context, job uint) (store.Spent, error)
	Now() time.Time
	OwnPages(ctx context.Context, niche uint) (out []store.OwnPage, err error)
	LastIdea(ctx context.Context, niche uint) (uint, error)
	Pen(ctx context.Context, niche uint) (string, error)
	SetPen(ctx context.Context, niche uint, text string) error
	Seeds(ctx context.Context, niche uint) ([]store.Seed, error)
	SaveDemand(ctx context.Context, niche uint, ideas []store.Idea) error
	Undemanded(ctx context.Context, niche uint) ([]store.Idea, error)
}

// Gatherer gathers ideas.
type Gatherer struct {
	store  Store
	asker  *ask.Asker
	runner *jobs.Runner
	ideas  *ideas.Keeper
	niches *niches.Keeper
	demand sync.Mutex // one batch run of demand at a time
	thesauri
}

// New returns who gathers the ideas of a data file. In a folder there may be thesauri.
func New(st Store, asker *ask.Asker, runner *jobs.Runner, list *ideas.Keeper, n *niches.Keeper,
	words string) *Gatherer {
	return &Gatherer{store: st, asker: asker, runner: runner, ideas: list, niches: n, thesauri: thesauri{folder: words}}
}

// Kinds are the kinds of jobs that it does.
func (s *Gatherer) Kinds() []jobs.Kind { return []jobs.Kind{s.gatherKind(), s.readKind()} }
