package thecase

import (
	"context"
	"errors"
	"strings"

	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// FirstDrawn is how many topics of a candidate are drawn once its ideas are gathered: enough for ranges.
const FirstDrawn = 40

// CandidateCost is what a first gathering from a seed and the look-ups of what is drawn then would ask at most.
func (s *Examiner) CandidateCost(ctx context.Context, like niches.Niche) (e ask.Estimate, err error) {
	if e, err = s.gatherer.Estimate(ctx, like, gather.Plan{Seeds: []string{"x"}, Ways: gather.Usual}); err != nil {
		return e, err
	}
	more, err := s.results.EstimateMost(ctx, like, results.Top(), FirstDrawn)
	e.Lookups, e.Micros = e.Lookups+more.Lookups, e.Micros+more.Micros
	return e, err
}

// Candidate makes a niche of a seed, for the same site, country and language as another, and gathers its first ideas.
// Once that is done, topics are drawn and looked up.
func (s *Examiner) Candidate(ctx context.Context, like niches.Niche, seed string) (n niches.Niche, job jobs.Job,
	err error) {
	seeds, _, err := gather.ReadSeeds(seed)
	switch {
	case err != nil:
		return n, job, input.Bad("seed", "Type what the subject is, in a word or two.")
	case len(seeds) > 1:
		return n, job, input.Bad("seed", "One subject at a time.")
	}
	n = niches.Niche{Name: strings.TrimSuffix(input.Sentence(seeds[0]), "."), Country: like.Country,
		Language: like.Language,
		Currency: like.Currency, OwnSite: like.OwnSite, WeekHours: like.WeekHours, VisitMicros: like.VisitMicros,
		Earning: like.Earning}
	if n, err = s.niches.Create(ctx, n); err != nil {
		return n, job, err
	}
	if err := s.change(ctx, n, func(now *Settings) error {
		now.Pending = FirstDrawn
		return nil
	}); err != nil {
		return n, job, err
	}
	job, err = s.gatherer.Gather(ctx, n, gather.Plan{Seeds: seeds, Ways: gather.Usual})
	return n, job, err
}

// DrawPending draws what waits to be drawn once ideas are gathered. Where nothing does, there is nothing to draw or the
// budget forbids it, nothing happens: one can still draw by hand, and no later gathering draws what was refused.
func (s *Examiner) DrawPending(ctx context.Context, n niches.Niche) error {
	set, err := s.Settings(ctx, n)
	if err != nil || set.Pending == 0 {
		return err
	}
	_, err = s.Draw(ctx, n, set.Pending)
	var refused *input.Error
	if !errors.As(err, &refused) {
		return err
	}
	return s.change(ctx, n, func(now *Settings) error {
		now.Pending = 0
		return nil
	})
}
