package gather

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// fillDemand asks for the figures of all ideas that have none, in batches, and
// keeps each batch as it comes. What failed before is asked again, once in a run of a job; a
// batch that fails holds up no other.
func (s *Gatherer) fillDemand(ctx context.Context, n niches.Niche) error {
	if !s.asker.Has(ask.Demand) {
		return &ask.MissingSourceError{Question: ask.Demand}
	}
	s.demand.Lock()
	defer s.demand.Unlock()
	ideas, err := s.store.Undemanded(ctx, n.ID)
	if err != nil {
		return err
	}
	request := ask.RequestOf(ctx)
	tried := request.Tried
	ideas = slices.DeleteFunc(ideas, func(i store.Idea) bool { return tried.Has(i.ID) })
	branches := make(map[string]uint, len(ideas)) // by phrase
	for _, i := range ideas {
		branches[i.Phrase] = i.BranchID
	}
	request.Branch = func(key string) uint { return branches[ask.LastOfKey(key)] }
	var failed error
	for batch := range slices.Chunk(ideas, market.DemandBatch) {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err := s.demandBatch(ctx, n, batch); err != nil {
			if ask.StopsWork(err) || ctx.Err() != nil {
				return err
			}
			for _, i := range batch {
				tried.Add(i.ID)
			}
			failed = cmp.Or(failed, err)
		}
	}
	return failed
}

func (s *Gatherer) demandBatch(ctx context.Context, n niches.Niche, ideas []store.Idea) error {
	phrases := make([]string, len(ideas))
	for k, i := range ideas {
		phrases[k] = i.Phrase
	}
	known, err := s.Figures(ctx, n, phrases)
	if err != nil {
		if ask.StopsWork(err) || ctx.Err() != nil {
			return err
		}
		return s.noteDemandError(ctx, n, ideas, known, err)
	}
	rows := make([]store.Idea, len(ideas))
	for k, i := range ideas {
		rows[k] = demandRow(i.ID, known[i.Phrase])
	}
	return s.store.SaveDemand(ctx, n.ID, rows)
}

// noteDemandError keeps why ideas have no figures; those that are known all the same are kept.
func (s *Gatherer) noteDemandError(ctx context.Context, n niches.Niche, ideas []store.Idea,
	known map[string]ask.Asked[demand.Series], cause error) error {
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
func demandRow(id uint, a ask.Asked[demand.Series]) store.Idea {
	row := store.Idea{ID: id, DemandSource: a.Source}
	sum, ok := demand.Summarise(a.Value)
	if !ok {
		row.DemandError = store.NoFigures
		return row
	}
	at := a.At
	row.DemandAt, row.Searches, row.Under = &at, &sum.Average, sum.Under
	row.Months = store.EncodeMonths(a.Value)
	ideas.LastingOf(&row)
	row.PhraseMatch, row.BroadMatch = a.Value.PhraseMatch, a.Value.BroadMatch
	if c := a.Value.CPC; c.Known() {
		row.CPCMicros, row.Currency = &c.Micros, c.Currency
	}
	if k := a.Value.Competition; k >= 0 {
		row.Competition = &k
	}
	return row
}
