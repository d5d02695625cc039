package study

import (
	"context"
	"time"

	"cleverniche/market"
)

// Estimate is what a piece of work would ask, at most.
type Estimate struct {
	Lookups int
	Micros  int64
	Time    time.Duration
	Timed   bool // Time is known
	Kept    int  // questions that fresh answers are at hand for
}

// Cost writes the estimate's money.
func (s *Study) Cost(e Estimate) string { return Money(e.Micros, s.options.Currency) }

// EstimateGather says what gathering would ask. Demand is reckoned as one batch a
// seed: how many ideas will come is not known.
func (s *Study) EstimateGather(ctx context.Context, n Niche, p GatherPlan) (Estimate, error) {
	var keys []string
	seeds := 0
	for _, st := range p.steps(n.Language) {
		if st.Demand {
			seeds++
			continue
		}
		keys = append(keys, localeKey(n.locale(), st.Query))
	}
	var e Estimate
	if err := s.estimate(ctx, &e, AskSuggest, keys, gatherWorkers); err != nil {
		return e, err
	}
	e.Lookups += seeds
	e.Micros += int64(seeds) * market.DemandBatch * s.price(AskDemand)
	return e, nil
}

// estimate adds the questions of one kind that have no fresh answer.
func (s *Study) estimate(ctx context.Context, e *Estimate, q Question, keys []string, workers int) error {
	fresh, err := s.store.FreshKeys(ctx, string(q), keys, s.store.Now().Add(-s.lifetime(q)))
	if err != nil {
		return err
	}
	return s.reckon(ctx, e, q, len(keys)-len(fresh), len(fresh), workers)
}

func (s *Study) reckon(ctx context.Context, e *Estimate, q Question, open, kept, workers int) error {
	pace, known, err := s.store.Pace(ctx, string(q))
	if err != nil {
		return err
	}
	e.Lookups += open
	e.Kept += kept
	e.Micros += int64(open) * s.options.Prices[q]
	e.Timed = e.Timed || known
	e.Time += pace * time.Duration(open) / time.Duration(workers)
	return nil
}
