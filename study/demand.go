package study

import (
	"context"
	"errors"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/store"
)

// fillDemand asks for the figures of all ideas that have none, in batches, and
// keeps each batch as it comes.
func (s *Study) fillDemand(ctx context.Context, n Niche) error {
	if s.market.Demand == nil {
		return &MissingSourceError{AskDemand}
	}
	s.demand.Lock()
	defer s.demand.Unlock()
	ideas, err := s.store.Undemanded(ctx, n.ID)
	if err != nil {
		return err
	}
	for len(ideas) > 0 {
		k := min(len(ideas), market.DemandBatch)
		if err := s.demandBatch(ctx, n, ideas[:k]); err != nil {
			return err
		}
		ideas = ideas[k:]
	}
	return nil
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
		var refusal *market.Error
		if errors.As(err, &refusal) && refusal.Trouble != market.Unreachable {
			return s.noteDemandError(ctx, n, ideas, err)
		}
		if err != nil {
			return err
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
	price := s.options.Prices[AskDemand]
	release, err := s.afford(ctx, price*int64(len(phrases)))
	if err != nil {
		return err
	}
	defer release()
	begun := s.options.Now()
	got, err := s.market.Demand.Demand(ctx, phrases, in)
	if err != nil {
		return err
	}
	now := s.options.Now().UTC()
	tallyOf(ctx).add(1, price*int64(len(phrases)))
	for _, p := range phrases {
		series, ok := got[p]
		if !ok {
			continue
		}
		if err := s.keep(context.WithoutCancel(ctx), AskDemand, localeKey(in, p), series, now, now.Sub(begun),
			price); err != nil {
			return err
		}
		into[p] = Asked[demand.Series]{Value: series, At: now, Source: s.market.Names[AskDemand]}
	}
	return nil
}

func (s *Study) noteDemandError(ctx context.Context, n Niche, ideas []store.Idea, cause error) error {
	for i := range ideas {
		ideas[i].DemandError = cause.Error()
	}
	if err := s.store.SaveDemand(ctx, n.ID, ideas); err != nil {
		return err
	}
	return cause
}

// demandRow is the columns of an idea that a series fills. A phrase the source
// said nothing about keeps that as its reason.
func demandRow(id uint, a Asked[demand.Series]) store.Idea {
	row := store.Idea{ID: id, DemandSource: a.Source}
	sum, ok := demand.Summarise(a.Value)
	if !ok {
		row.DemandError = "the source has no figures for it"
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
