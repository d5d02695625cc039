// Package articles is what is written, when and in what order: the sheet, the choice among topics by what they
// bring, and what to do for pages that are out.
package articles

import (
	"context"
	"time"

	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Store is what is asked of the data file.
type Store interface {
	Actions(ctx context.Context, niche uint) (map[uint]store.Action, error)
	EditTopics(ctx context.Context, niche uint, at int64, says func() string,
		do func(e *store.TopicTx) error) error
	Idea(ctx context.Context, niche, id uint) (store.Idea, error)
	Now() time.Time
	SaveOwnPages(ctx context.Context, niche uint, pages []store.OwnPage) error
	SetAction(ctx context.Context, niche, idea uint, done string) error
}

// Planner plans articles.
type Planner struct {
	store   Store
	asker   *ask.Asker
	niches  *niches.Keeper
	runner  *jobs.Runner
	ideas   *ideas.Keeper
	results *results.Researcher
	topics  *topics.Grouper
	// Out is done once an article is published; may be nil. What goes wrong in it is done again before it is needed.
	Out func(ctx context.Context, n niches.Niche) error
}

// New returns who plans the articles of a data file.
func New(st Store, asker *ask.Asker, n *niches.Keeper, runner *jobs.Runner, list *ideas.Keeper,
	r *results.Researcher, t *topics.Grouper) *Planner {
	return &Planner{store: st, asker: asker, niches: n, runner: runner, ideas: list, results: r, topics: t}
}

// Kinds are the kinds of jobs that it does.
func (s *Planner) Kinds() []jobs.Kind { return []jobs.Kind{s.ownKind(), s.placesKind()} }

// Now is the time by the clock of the data file.
func (s *Planner) Now() time.Time { return s.store.Now() }
