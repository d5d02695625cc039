package ask

import (
	"context"
	"strings"
	"time"

	"cleverniche/market/files"
	"cleverniche/study/input"
	"cleverniche/study/money"
)

// Estimate is what a piece of work would ask, at most.
type Estimate struct {
	Lookups int
	Micros  int64
	Time    time.Duration
	Timed   bool // Time is known
	Fresh   int  // questions that fresh answers are at hand for
	// Missing is a question that would have to be put and has nobody to be put to; "" where there is none.
	Missing Question
}

// Cost writes the estimate's money.
func (s *Asker) Cost(e Estimate) string { return money.Most(e.Micros, s.options.Currency) }

// Money writes what was spent.
func (s *Asker) Money(micros int64) string { return money.Text(micros, s.options.Currency) }

// ReadMoney reads an amount as people write it, in the currency of costs; nothing is 0.
func (s *Asker) ReadMoney(text string) (micros int64, err error) {
	if strings.TrimSpace(text) == "" {
		return 0, nil
	}
	cost, err := files.ReadAmount(text, s.options.Currency)
	if err != nil || cost.Currency != s.options.Currency || cost.Micros < 0 {
		return 0, input.Bad("price", "“%s” is no amount in %s, such as 0.50.", input.Clip(text, 20), s.options.Currency)
	}
	return cost.Micros, nil
}

// Estimate adds the questions of one kind that have no fresh answer.
func (s *Asker) Estimate(ctx context.Context, e *Estimate, q Question, keys []string, workers int) error {
	after := s.store.Now().Add(-s.lifetime(q))
	fresh, err := s.store.FreshKeys(ctx, string(q), keys, after)
	if err != nil {
		return err
	}
	var rest []string // that may have been brought
	for _, key := range keys {
		if own := s.broughtKey(q, key); own != "" && !fresh[key] {
			rest = append(rest, own)
		}
	}
	brought, err := s.store.FreshBrought(ctx, string(q), rest, after)
	if err != nil {
		return err
	}
	kept := len(fresh) + brought
	return s.EstimateOpen(ctx, e, q, len(keys)-kept, kept, workers)
}

// EstimateOpen adds questions of one kind, so many of which are open and so many have a fresh answer.
func (s *Asker) EstimateOpen(ctx context.Context, e *Estimate, q Question, open, kept, workers int) error {
	pace, known, err := s.pace(ctx, q)
	if err != nil {
		return err
	}
	if open > 0 && e.Missing == "" && q != Links && !s.Has(q) { // without links pages are judged all the same
		e.Missing = q
	}
	e.Lookups += open
	e.Fresh += kept
	e.Micros += int64(open) * s.Price(q)
	e.Timed = e.Timed || known
	e.Time += pace * time.Duration(open) / time.Duration(workers)
	return nil
}

// paced is how fast a source was of late, when that was looked at.
type paced struct {
	mean  time.Duration
	known bool
	at    time.Time
}

// pacedFor is how long a pace holds.
const pacedFor = 20 * time.Second

// pace is how long answers of a kind take. It is looked at now and then: a page asks for several.
func (s *Asker) pace(ctx context.Context, q Question) (mean time.Duration, known bool, err error) {
	now := s.store.Now()
	if kept, some := s.paces.Load(q); some {
		if p := kept.(paced); p.known && now.Sub(p.at).Abs() < pacedFor {
			return p.mean, p.known, nil
		}
	}
	mean, known, err = s.store.Pace(ctx, string(q))
	if err == nil {
		s.paces.Store(q, paced{mean, known, now})
	}
	return mean, known, err
}
