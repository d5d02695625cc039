// Package topics groups ideas into what one article answers, by their results and by hand.
package topics

import (
	"context"

	"cleverniche/core/plan"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Store is what is asked of the data file.
type Store interface {
	CountStates(ctx context.Context, niche uint) (map[plan.State]int, error)
	EditTopics(ctx context.Context, niche uint, at int64, says func() string,
		do func(e *store.TopicTx) error) error
	Idea(ctx context.Context, niche, id uint) (store.Idea, error)
	OwnPages(ctx context.Context, niche uint) (out []store.OwnPage, err error)
	TopicsRevision(ctx context.Context, niche uint) (n int64, err error)
	SetGrouping(ctx context.Context, niche uint, scope string, shared int) error
	Topics(ctx context.Context, niche uint) (topics []store.TopicEdit, placed map[uint]uint, err error)
}

// Grouper groups the ideas of niches.
type Grouper struct {
	store     Store
	niches    *niches.Keeper
	ideas     *ideas.Keeper
	groupings groupings
}

// New returns who groups the ideas of a data file. most is how many are grouped at once; 0 means MostGrouped.
func New(st Store, n *niches.Keeper, list *ideas.Keeper, most int) *Grouper {
	if most == 0 {
		most = MostGrouped
	}
	return &Grouper{store: st, niches: n, ideas: list, groupings: groupings{most: most}}
}

// Forget lets go of the topics of a niche that are in memory.
func (s *Grouper) Forget(niche uint) {
	s.groupings.mu.Lock()
	defer s.groupings.mu.Unlock()
	delete(s.groupings.of, niche)
}
