package study

import (
	"context"
	"time"

	"cleverniche/store"
	"cleverniche/study/ask"
)

// Figures are what a study tells of itself to whoever looks after it.
type Figures struct {
	Jobs        []store.JobCount
	Lookups     map[ask.Outcome]int
	Today, Ever int64 // micro-units spent
}

// Figures counts.
func (s *Study) Figures(ctx context.Context) (f Figures, err error) {
	f.Lookups = s.Ask.Outcomes()
	if f.Jobs, err = s.store.CountJobs(ctx); err != nil {
		return f, err
	}
	if f.Today, err = s.store.SpentSince(ctx, s.Ask.Midnight()); err != nil {
		return f, err
	}
	f.Ever, err = s.store.SpentSince(ctx, time.Time{})
	return f, err
}
