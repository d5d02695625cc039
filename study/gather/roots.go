package gather

import (
	"context"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/study/niches"
)

// MostRoots is how many roots are listed.
const MostRoots = 100

// Roots lists the short phrases that many ideas of a niche hold and that were no seeds yet: what to grow next. Dropped
// ideas do not count.
func (s *Gatherer) Roots(ctx context.Context, n niches.Niche) ([]phrase.Root, error) {
	list, err := s.open(ctx, n)
	if err != nil {
		return nil, err
	}
	seeds, err := s.store.Seeds(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	known := make([]string, len(seeds))
	for i, seed := range seeds {
		known[i] = seed.Phrase
	}
	return phrase.Roots(list, n.Language, known, MostRoots), nil
}

// open are the ideas of a niche that are not dropped.
func (s *Gatherer) open(ctx context.Context, n niches.Niche) (list []phrase.Rooted, err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, err
	}
	for _, id := range b.Pass(sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}).IDs(0, b.Len()) {
		at, there := b.Table.Find(id)
		if !there {
			continue
		}
		p := phrase.Rooted{Phrase: b.Table.Phrase(at), Easy: b.Table.IsEasy(at)}
		if x, known := b.Table.Number(at, sieve.Searches); known {
			p.Searches = x
		}
		list = append(list, p)
	}
	return list, nil
}
