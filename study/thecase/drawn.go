package thecase

import (
	"context"
	"errors"
	"slices"

	"cleverniche/core/niche"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Draw draws so many topics that are not looked up, at random by searches and words, and looks them up.
func (s *Examiner) Draw(ctx context.Context, n niches.Niche, many int) (jobs.Job, error) {
	ids, err := s.draw(ctx, n, many)
	if err != nil {
		return jobs.Job{}, err
	}
	err = s.change(ctx, n, func(now *Settings) error {
		now.Drawn = append(now.Drawn, ids...)
		slices.Sort(now.Drawn)
		now.Drawn, now.Pending = slices.Compact(now.Drawn), 0
		return nil
	})
	if err != nil {
		return jobs.Job{}, err
	}
	return s.results.LookUp(ctx, n, ids, false)
}

// DrawCost says what looking so many up would ask at most, and how many there are to draw from.
func (s *Examiner) DrawCost(ctx context.Context, n niches.Niche, many int) (e ask.Estimate, drawn int, err error) {
	ids, err := s.draw(ctx, n, many)
	if errors.Is(err, errNothingLeft) {
		return e, 0, nil
	}
	if err != nil {
		return e, 0, err
	}
	e, err = s.results.Estimate(ctx, n, results.Top(), ids)
	return e, len(ids), err
}

// MostDrawn is how many are drawn at once.
const MostDrawn = 500

var errNothingLeft = input.Bad("many", "All topics of this niche are looked up.")

// draw is which ideas would be drawn: the same ones until others are looked up.
func (s *Examiner) draw(ctx context.Context, n niches.Niche, many int) ([]uint, error) {
	if many < 1 || many > MostDrawn {
		return nil, input.Bad("many", "Draw 1 to %d topics at a time.", MostDrawn)
	}
	set, err := s.Settings(ctx, n)
	if err != nil {
		return nil, err
	}
	c, err := s.count(ctx, n, set)
	if err != nil {
		return nil, err
	}
	// What was drawn and not looked up yet comes first: a button that is pressed twice, or a program that was killed,
	// draws nothing else, and what failed is tried again.
	var ids []uint
	units := make([]niche.Unit, len(c.niche.Topics))
	for i, t := range c.niche.Topics {
		pending := t.Drawn && !t.Judged
		if pending && len(ids) < many {
			ids = append(ids, c.lead[i])
		}
		units[i] = niche.Unit{Stratum: t.Stratum(), Weight: niche.WeightOf(t.Searches), Seen: t.Judged || pending}
	}
	if rest := many - len(ids); rest > 0 {
		for _, at := range niche.Draw(units, rest, uint64(n.ID)<<20+uint64(len(set.Drawn))) {
			ids = append(ids, c.lead[at])
		}
	}
	if len(ids) == 0 {
		return nil, errNothingLeft
	}
	return ids, nil
}
