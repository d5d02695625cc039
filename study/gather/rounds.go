package gather

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Bounds of rounds (ours).
const (
	MostRounds  = 10
	MostLookups = 20_000 // of one gathering in rounds
	// UsualLookups are as many as a gathering in rounds may make where nobody says otherwise.
	UsualLookups = 500
)

// round is what the next round needs to know: which ideas are new since the last one, and what may still be asked.
type round struct {
	Ways  []Way      `json:"ways"`
	Left  int        `json:"left"`            // rounds after this one
	May   int        `json:"may"`             // look-ups that may still be made
	After uint       `json:"after"`           // the last idea that was there before
	Price int64      `json:"price,omitempty"` // as a plan's
	Again *time.Time `json:"again,omitempty"` // as a step's
	Sieve string     `json:"sieve"`           // that lets ideas through, as JSON; "" all that are not dropped
}

// checkRounds refuses rounds that would never end.
func (p *Plan) checkRounds(lang string) error {
	first := 0
	for _, st := range p.steps(lang) {
		if !st.Demand {
			first++
		}
	}
	switch {
	case p.Rounds < 0 || p.Rounds > MostRounds:
		return input.Bad("rounds", "Rounds are 1 to %d.", MostRounds)
	case p.Rounds > 1 && (p.Most < 1 || p.Most > MostLookups):
		return input.Bad("most", "With several rounds, say how many lookups at most: 1 to %d.", MostLookups)
	case p.Price < 0:
		return input.Bad("price", "The price is an amount of money.")
	case p.Rounds > 1 && first > p.Most:
		return input.Bad("most", "The first round alone takes %d lookups. Allow more, or ask in fewer ways.", first)
	}
	return nil
}

// nextRound adds what the new ideas that pass the sieve are grown by to a job, those that are searched most first, as
// far as look-ups are left. It is the end where none are new.
func (s *Gatherer) nextRound(ctx context.Context, n niches.Niche, r round, payload string) error {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return err
	}
	through := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}
	if r.Sieve != "" {
		if err := json.Unmarshal([]byte(r.Sieve), &through); err != nil {
			return fmt.Errorf("the sieve between rounds cannot be read: %w", err)
		}
	}
	known, err := s.store.Seeds(ctx, n.ID)
	if err != nil {
		return err
	}
	grown := map[string]bool{}
	for _, seed := range known {
		grown[seed.Phrase] = true
	}
	if r.Price > 0 {
		spent, err := s.store.JobSpent(ctx, ask.RequestOf(ctx).Job)
		if err != nil || spent.Micros >= r.Price {
			return err
		}
		if each := s.asker.Price(ask.Suggestions); each > 0 {
			r.May = min(r.May, int((r.Price-spent.Micros)/each))
		}
	}
	var fresh []uint
	for _, id := range b.Pass(through.By(sieve.Searches, true)).IDs(0, b.Len()) {
		if id > r.After && len(fresh) < r.May {
			fresh = append(fresh, id)
		}
	}
	list, err := s.ideas.Ideas(ctx, n.ID, fresh)
	if err != nil {
		return err
	}
	last, err := s.store.LastIdea(ctx, n.ID)
	if err != nil {
		return err
	}
	var steps []step
	var seeds []Seed
	for _, i := range list {
		if grown[i.Phrase] {
			continue
		}
		more := grow(i.Phrase, n.Language, r.Ways)
		if len(more) > r.May {
			break
		}
		r.May -= len(more)
		steps, seeds = append(steps, more...), append(seeds, Seed{Phrase: i.Phrase, From: i.ID})
	}
	if len(steps) == 0 {
		return nil
	}
	for i := range steps {
		steps[i].Again = r.Again
	}
	steps = append(steps, step{Demand: true})
	if r.Left > 0 {
		r.Left--
		r.After = last
		steps = append(steps, step{Round: &r})
	}
	return s.store.AddItems(ctx, ask.RequestOf(ctx).Job, payload, jobs.Encode(steps), seedRows(n.ID, seeds))
}
