package ask

import (
	"context"
	"time"

	"cleverniche/study/money"
)

// Estimate is what a piece of work would ask, at most.
type Estimate struct {
	Lookups int
	Micros  int64
	Time    time.Duration
	Timed   bool // Time is known
	Fresh   int  // questions that fresh answers are at hand for
}

// Cost writes the estimate's money.
func (s *Asker) Cost(e Estimate) string { return money.Text(e.Micros, s.options.Currency) }

// Estimate adds the questions of one kind that have no fresh answer.
func (s *Asker) Estimate(ctx context.Context, e *Estimate, q Question, keys []string, workers int) error {
	fresh, err := s.store.FreshKeys(ctx, string(q), keys, s.store.Now().Add(-s.lifetime(q)))
	if err != nil {
		return err
	}
	return s.EstimateOpen(ctx, e, q, len(keys)-len(fresh), len(fresh), workers)
}

// EstimateOpen adds questions of one kind, so many of which are open and so many have a fresh answer.
func (s *Asker) EstimateOpen(ctx context.Context, e *Estimate, q Question, open, kept, workers int) error {
	pace, known, err := s.store.Pace(ctx, string(q))
	if err != nil {
		return err
	}
	e.Lookups += open
	e.Fresh += kept
	e.Micros += int64(open) * s.options.Prices[q]
	e.Timed = e.Timed || known
	e.Time += pace * time.Duration(open) / time.Duration(workers)
	return nil
}
