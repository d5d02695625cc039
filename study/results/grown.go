package results

import (
	"context"
	"slices"

	"cleverniche/store"
	"cleverniche/study/niches"
)

// Chances are what a page of mine may get.
type Chances struct{ PageOne, TopFive, Clicks float64 }

// AtStanding are the chances for looked-up ideas once my site has another standing than now. What somebody supposes for
// an idea stays. Nobody is asked.
func (s *Researcher) AtStanding(ctx context.Context, n niches.Niche, ids []uint,
	standing float64) (map[uint]Chances, error) {
	m, err := s.niches.Model(ctx, n)
	if err != nil {
		return nil, err
	}
	out := make(map[uint]Chances, len(ids))
	for part := range slices.Chunk(ids, reckonedAtOnce) {
		rows, err := s.store.Ideas(ctx, n.ID, part)
		if err != nil {
			return nil, err
		}
		fronts, err := s.store.FrontsOf(ctx, part)
		if err != nil {
			return nil, err
		}
		for _, idea := range rows {
			f, ok := frontOf(fronts[idea.ID])
			if !ok || idea.JudgedAt == nil {
				continue
			}
			one := store.Idea{}
			f.forecast(m.Tilted(tiltOf(idea)), mineFor(m, n, idea, standing), &one)
			out[idea.ID] = Chances{one.PageOne, one.TopFive, one.ClickShare}
		}
	}
	return out, nil
}
