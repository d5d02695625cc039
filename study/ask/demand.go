package ask

import (
	"context"
	"encoding/json"
	"errors"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/store"
)

// demandFigures is the question how much phrases are searched.
var demandFigures = Service{Question: Demand, Life: 30 * Day,
	Address: "address of a demand service (docs/demand.openapi.yaml)",
	Price:   "price of one phrase's demand figures", Source: "the demand service",
	Says: "How much a phrase is searched", Instead: "Import a list with searches in Gather.",
	StandIn: "/demand",
	Connect: func(m *Market, at Connection) { m.Demand = market.NewDemandService(at.Source) }}

// Demand asks for phrases in one call and keeps each one's answer. Those who are asked beside are asked, too; what
// they say is kept for OtherFigures, and where they fail that is noted for the list of sources only.
func (s *Asker) Demand(ctx context.Context, in market.Locale, phrases []string,
	into map[string]Asked[demand.Series]) error {
	if !s.Has(Demand) {
		return &MissingSourceError{Demand}
	}
	var by *Source
	err := inOrder(s.sources[Demand], func(src *Source) error {
		by = src
		return s.demandOf(ctx, src, LocaleKey(in), phrases, in, into)
	})
	if errors.Is(err, errAnswered) {
		return s.demandRest(ctx, in, phrases, into)
	}
	if err != nil {
		return err
	}
	for _, src := range s.sources[Demand] {
		var budget *BudgetError
		if src.Beside && src != by {
			err := s.demandOf(ctx, src, besideKey(in, src), phrases, in, map[string]Asked[demand.Series]{})
			if errors.As(err, &budget) { // what was answered is kept; who goes on meets it at the next question
				return nil
			}
		}
	}
	return nil
}

// besideKey is what the keys of a source's answers begin with that is asked beside others.
func besideKey(in market.Locale, src *Source) string {
	return "beside " + src.Name + "|" + LocaleKey(in)
}

// OtherFigures are what those say of a phrase's searches who were asked beside the one whose figures are used.
func (s *Asker) OtherFigures(ctx context.Context, phrase string, in market.Locale) (out []Asked[demand.Series],
	err error) {
	for _, src := range s.sources[Demand] {
		if !src.Beside {
			continue
		}
		kept, ok, err := Recall[demand.Series](ctx, s, Demand, besideKey(in, src)+phrase)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, kept)
		}
	}
	return out, nil
}

// demandOf asks one source for phrases in one call, and keeps each one's answer under a key that begins so.
// It is errAnswered where somebody else asked.
func (s *Asker) demandOf(ctx context.Context, src *Source, begins string, phrases []string, in market.Locale,
	into map[string]Asked[demand.Series]) error {
	keys := make([]string, len(phrases))
	for i, p := range phrases {
		keys[i] = begins + p
	}
	turn, err := s.turn(ctx, src)
	if err != nil {
		return err
	}
	bill, err := s.charge(ctx, src, keys...)
	if err != nil {
		return err
	}
	if len(bill.calls) > 0 { // another program may have asked between the look and the entry
		for _, key := range keys {
			if _, ok, err := Recall[demand.Series](ctx, s, Demand, key); err != nil || ok {
				return errors.Join(err, bill.settle(ctx, market.Free), errAnswered)
			}
		}
	}
	begun := s.store.Now()
	bg := context.WithoutCancel(ctx) // what is paid for is kept
	got, err := src.Client.(market.Demander).Demand(bill.watching(context.WithoutCancel(turn)), phrases, in)
	s.note(src, err)
	if err != nil {
		return bill.fail(bg, err)
	}
	now := s.store.Now().UTC()
	RequestOf(ctx).Lookups.Add(1)
	answers := make([]store.Answer, 0, len(phrases))
	for i, p := range phrases {
		series, ok := got[p]
		if !ok {
			continue
		}
		body, err := json.Marshal(series)
		if err != nil {
			return err
		}
		answers = append(answers, src.answer(keys[i], body, now, now.Sub(begun)))
		into[p] = Asked[demand.Series]{Value: series, At: now, Source: src.Name}
	}
	// What the source says nothing of is paid for, too.
	return s.store.SaveAnswers(bg, answers, bill.calls)
}

// demandRest takes what somebody else has asked for meanwhile, and asks for the rest.
func (s *Asker) demandRest(ctx context.Context, in market.Locale, phrases []string,
	into map[string]Asked[demand.Series]) error {
	var rest []string
	for _, p := range phrases {
		kept, ok, err := Recall[demand.Series](ctx, s, Demand, LocaleKey(in, p))
		if err != nil {
			return err
		}
		if ok {
			into[p] = kept
		} else {
			rest = append(rest, p)
		}
	}
	if len(rest) == 0 {
		return nil
	}
	return s.Demand(ctx, in, rest, into)
}
