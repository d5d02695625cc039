package results

import (
	"context"
	"errors"

	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// ChangeNiche keeps what the user changed of a niche. What hangs on it is reckoned anew
// from the evidence at hand by a job, which is returned; nil when nothing does.
func (s *Researcher) ChangeNiche(ctx context.Context, n niches.Niche) (niches.Niche, *jobs.Job, error) {
	was, err := s.niches.Get(ctx, n.ID)
	if err != nil {
		return n, nil, err
	}
	return s.ChangeFrom(ctx, was, n)
}

// ChangeFrom does it for somebody to whom the niche was something; what others changed since is not written over.
func (s *Researcher) ChangeFrom(ctx context.Context, was, n niches.Niche) (niches.Niche, *jobs.Job, error) {
	n, err := s.niches.Check(n)
	if err != nil {
		return n, nil, err
	}
	if err := s.niches.Free(ctx, n); err != nil {
		return n, nil, err
	}
	switch err := s.store.SaveNiche(ctx, was.Row(), n.Row()); {
	case errors.Is(err, store.ErrChanged):
		return n, nil, input.Bad("name", "The settings have changed since, perhaps in another tab. Save again.")
	case err != nil:
		return n, nil, err
	}
	// Where the calibration is still to be reckoned with, all of that is begun again.
	job, err := s.reckonAnew(ctx, n, n.Calibration != niches.CalibrationName)
	return n, job, err
}
