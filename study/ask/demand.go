package ask

import (
	"context"
	"errors"

	"cleverniche/core/demand"
	"cleverniche/market"
)

// demandFigures is the question how much phrases are searched.
var demandFigures = Service{Question: Demand, Life: 30 * Day,
	Address: "address of a demand service (docs/demand.openapi.yaml)",
	Price:   "price of one phrase's demand figures", Source: "the demand service",
	StandIn: "/demand",
	Connect: func(m *Market, at Connection) { m.Demand = market.NewDemandService(at.Source) }}

// Demand asks for phrases in one call and keeps each one's answer.
func (s *Asker) Demand(ctx context.Context, in market.Locale, phrases []string,
	into map[string]Asked[demand.Series]) error {
	keys := make([]string, len(phrases))
	for i, p := range phrases {
		keys[i] = LocaleKey(in, p)
	}
	turn, err := s.turn(ctx, Demand)
	if err != nil {
		return err
	}
	bill, err := s.charge(ctx, Demand, keys...)
	if errors.Is(err, errAnswered) {
		return s.demandRest(ctx, in, phrases, into)
	}
	if err != nil {
		return err
	}
	if len(bill.calls) > 0 { // another program may have asked between the look and the entry
		for _, key := range keys {
			if _, ok, err := Recall[demand.Series](ctx, s, Demand, key); err != nil || ok {
				return errors.Join(err, bill.settle(ctx, market.Free), s.demandRest(ctx, in, phrases, into))
			}
		}
	}
	begun := s.store.Now()
	bg := context.WithoutCancel(ctx) // what is paid for is kept
	got, err := s.market.Demand.Demand(bill.watching(context.WithoutCancel(turn)), phrases, in)
	s.outcomes.add(Demand, outcomeOf(err))
	if err != nil {
		return bill.fail(bg, err)
	}
	now := s.store.Now().UTC()
	RequestOf(ctx).Lookups.Add(1)
	for i, p := range phrases {
		series, ok := got[p]
		if !ok {
			if err := bill.settleOne(bg, i); err != nil {
				return err
			}
			continue
		}
		if err := s.Keep(bg, Demand, keys[i], series, now, now.Sub(begun), bill.at(i)...); err != nil {
			return err
		}
		into[p] = Asked[demand.Series]{Value: series, At: now, Source: s.market.Names[Demand]}
	}
	return nil
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
