package study

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/store"
)

// fillDemand asks for the figures of all ideas that have none, in batches, and
// keeps each batch as it comes. What failed before is asked again, once in a run of a job; a
// batch that fails holds up no other.
func (s *Study) fillDemand(ctx context.Context, n Niche) error {
	if !s.has(AskDemand) {
		return &MissingSourceError{AskDemand}
	}
	s.demand.Lock()
	defer s.demand.Unlock()
	ideas, err := s.store.Undemanded(ctx, n.ID)
	if err != nil {
		return err
	}
	tried := errandOf(ctx).tried
	ideas = slices.DeleteFunc(ideas, func(i store.Idea) bool { return tried.has(i.ID) })
	var failed error
	for batch := range slices.Chunk(ideas, market.DemandBatch) {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err := s.demandBatch(ctx, n, batch); err != nil {
			if stopsWork(err) || ctx.Err() != nil {
				return err
			}
			for _, i := range batch {
				tried.add(i.ID)
			}
			failed = cmp.Or(failed, err)
		}
	}
	return failed
}

func (s *Study) demandBatch(ctx context.Context, n Niche, ideas []store.Idea) error {
	in := n.locale()
	known := map[string]Asked[demand.Series]{}
	var missing []string
	for _, i := range ideas {
		kept, ok, err := recall[demand.Series](ctx, s, AskDemand, localeKey(in, i.Phrase))
		if err != nil {
			return err
		}
		if ok {
			known[i.Phrase] = kept
		} else {
			missing = append(missing, i.Phrase)
		}
	}
	if len(missing) > 0 {
		err := s.askDemand(ctx, in, missing, known)
		if err != nil {
			if stopsWork(err) || ctx.Err() != nil {
				return err
			}
			return s.noteDemandError(ctx, n, ideas, known, err)
		}
	}
	rows := make([]store.Idea, len(ideas))
	for k, i := range ideas {
		rows[k] = demandRow(i.ID, known[i.Phrase])
	}
	return s.store.SaveDemand(ctx, n.ID, rows)
}

// askDemand asks for phrases in one call and keeps each one's answer.
func (s *Study) askDemand(ctx context.Context, in market.Locale, phrases []string,
	into map[string]Asked[demand.Series]) error {
	keys := make([]string, len(phrases))
	for i, p := range phrases {
		keys[i] = localeKey(in, p)
	}
	turn, err := s.turn(ctx, AskDemand)
	if err != nil {
		return err
	}
	bill, err := s.charge(ctx, AskDemand, keys...)
	if err != nil {
		return err
	}
	begun := s.store.Now()
	bg := context.WithoutCancel(ctx) // what is paid for is kept
	got, err := s.market.Demand.Demand(bill.watching(context.WithoutCancel(turn)), phrases, in)
	s.outcomes.add(AskDemand, outcomeOf(err))
	if err != nil {
		return bill.fail(bg, err)
	}
	now := s.store.Now().UTC()
	errandOf(ctx).lookups.Add(1)
	for i, p := range phrases {
		series, ok := got[p]
		if !ok {
			if err := bill.settleOne(bg, i); err != nil {
				return err
			}
			continue
		}
		if err := s.keep(bg, AskDemand, keys[i], series, now, now.Sub(begun), bill.at(i)...); err != nil {
			return err
		}
		into[p] = Asked[demand.Series]{Value: series, At: now, Source: s.market.Names[AskDemand]}
	}
	return nil
}

// noteDemandError keeps why ideas have no figures; those that are known all the same are kept.
func (s *Study) noteDemandError(ctx context.Context, n Niche, ideas []store.Idea,
	known map[string]Asked[demand.Series], cause error) error {
	rows := make([]store.Idea, len(ideas))
	for k, i := range ideas {
		if a, ok := known[i.Phrase]; ok {
			rows[k] = demandRow(i.ID, a)
			continue
		}
		rows[k] = store.Idea{ID: i.ID, DemandError: cause.Error()}
	}
	return errors.Join(cause, s.store.SaveDemand(ctx, n.ID, rows))
}

// demandRow is the columns of an idea that a series fills. A phrase the source
// said nothing about keeps that as its reason.
func demandRow(id uint, a Asked[demand.Series]) store.Idea {
	row := store.Idea{ID: id, DemandSource: a.Source}
	sum, ok := demand.Summarise(a.Value)
	if !ok {
		row.DemandError = store.NoFigures
		return row
	}
	at := a.At
	row.DemandAt, row.Searches, row.Under = &at, &sum.Average, sum.Under
	row.Months = store.EncodeMonths(a.Value)
	lastingOf(&row)
	row.PhraseMatch, row.BroadMatch = a.Value.PhraseMatch, a.Value.BroadMatch
	if c := a.Value.CPC; c.Known() {
		row.CPCMicros, row.Currency = &c.Micros, c.Currency
	}
	if k := a.Value.Competition; k >= 0 {
		row.Competition = &k
	}
	return row
}
