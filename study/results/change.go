package results

import (
	"context"

	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// ChangeNiche keeps what the user changed of a niche. What hangs on it is reckoned anew
// from the evidence at hand by a job, which is returned; nil when nothing does.
func (s *Researcher) ChangeNiche(ctx context.Context, n niches.Niche) (niches.Niche, *jobs.Job, error) {
	n, err := s.niches.Check(n)
	if err != nil {
		return n, nil, err
	}
	if err := s.niches.Free(ctx, n); err != nil {
		return n, nil, err
	}
	if err := s.store.SaveNiche(ctx, n.Row()); err != nil {
		return n, nil, err
	}
	// Where the calibration is still to be reckoned with, all of that is begun again.
	job, err := s.reckonAnew(ctx, n, n.Calibration != niches.CalibrationName)
	return n, job, err
}
