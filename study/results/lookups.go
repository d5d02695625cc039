package results

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Lookup is something that is asked of the outside for ideas, one by one. All that is told of it and done for it is
// in its entry; what it costs, who answers and for how long that holds is in those of its questions (ask.Services),
// and the columns that it fills bear its key (store.Idea).
type Lookup struct {
	Key   string        // in forms, in items of jobs, and on the columns that it fills
	From  sieve.Origin  // of the figures that it fills
	Tells *sieve.Figure // by which one sees whether an idea has been looked up
	Name  string        // of what is missing: "57 not looked up"
	Act   string        // of the button that asks

	job    string // kind of its jobs
	brings string // what their finds are called: "12 judged"
	title  string // of a job, for so many ideas: "Look up %d %s"
	one    string // of a job for one idea, by its phrase; "" is title's
	has    string // of what is at hand: "the results of %d"
	fails  string // the column in store.Idea that says why its figures are not known

	// estimate adds what ideas would ask at most, most what so many would ask of which nothing is at hand.
	estimate func(s *Researcher, ctx context.Context, n niches.Niche, list []store.Idea, e *ask.Estimate) error
	most     func(s *Researcher, ctx context.Context, n niches.Niche, ideas int, e *ask.Estimate) error
	// do asks for one idea, and keeps what is said.
	do func(s *Researcher, ctx context.Context, n niches.Niche, idea store.Idea) error
}

// Lookups lists what can be asked for ideas, the top ten first.
func Lookups() []Lookup { return []Lookup{top, pages, domains, ages, weeks, elsewhere} }

// Top is the lookup of the top ten.
func Top() Lookup { return top }

// LookupOf returns the lookup of a key; that of the top ten for any other.
func LookupOf(key string) Lookup {
	for _, l := range Lookups() {
		if l.Key == key {
			return l
		}
	}
	return top
}

// For says what the lookup does for so many ideas: "Count pages for 12 ideas".
func (l Lookup) For(ideas int) string { return fmt.Sprintf(l.title, ideas, input.IdeasWord(ideas)) }

// Held says so many of what the lookup asks for: "the results of 12", "24 answers".
func (l Lookup) Held(n int) string { return fmt.Sprintf(l.has, n) }

// Lacking is what is left of a table that a lookup has not been made for.
func (l Lookup) Lacking(s ideas.Sifted) ideas.Sifted { return s.Without(l.Tells) }

// MostLookedUp is how many ideas one job looks up.
const MostLookedUp = 20_000

// lookupWorkers is how many ideas are looked up at once.
const lookupWorkers = 6

// these returns ideas that may be looked up at once, or an *input.Error.
func (s *Researcher) these(ctx context.Context, n niches.Niche, ids []uint) ([]store.Idea, error) {
	switch {
	case len(ids) == 0:
		return nil, input.Bad("ideas", "Select at least one idea to look up.")
	case len(ids) > MostLookedUp:
		return nil, input.Bad("ideas", "At most %d ideas at a time. Add a filter first.", MostLookedUp)
	}
	list, err := s.store.Ideas(ctx, n.ID, ids)
	if err == nil && len(list) == 0 {
		err = input.ErrNotFound
	}
	return list, err
}

// EstimateMost says what a lookup of so many ideas would ask at most, whatever is at hand.
func (s *Researcher) EstimateMost(ctx context.Context, n niches.Niche, l Lookup,
	ideas int) (e ask.Estimate, err error) {
	return e, l.most(s, ctx, n, ideas, &e)
}

// Estimate says what a lookup of ideas would ask at most.
func (s *Researcher) Estimate(ctx context.Context, n niches.Niche, l Lookup, ids []uint) (e ask.Estimate, err error) {
	list, err := s.these(ctx, n, ids)
	if err != nil {
		return e, err
	}
	return e, l.estimate(s, ctx, n, list, &e)
}

// item is one idea of a lookup's job, and the moment before which an answer at hand counts as stale, if everything
// is to be asked again.
type item struct {
	Idea  uint       `json:"idea"`
	What  string     `json:"what,omitempty"`
	Again *time.Time `json:"again,omitempty"`
}

// LookUp starts a job that looks up the top ten of ideas, and judges them.
func (s *Researcher) LookUp(ctx context.Context, n niches.Niche, ids []uint, again bool) (jobs.Job, error) {
	return s.Start(ctx, n, top, ids, again)
}

// Start starts a job that makes a lookup of ideas. With again, every question is asked anew, also where a fresh
// answer is at hand.
func (s *Researcher) Start(ctx context.Context, n niches.Niche, l Lookup, ids []uint, again bool) (jobs.Job, error) {
	list, err := s.these(ctx, n, ids)
	if err != nil {
		return jobs.Job{}, err
	}
	title := l.For(len(list))
	if len(list) == 1 && l.one != "" {
		title = fmt.Sprintf(l.one, input.Clip(list[0].Phrase, 60))
	}
	items := make([]item, len(list))
	now := s.store.Now().UTC()
	for i, idea := range list {
		items[i] = item{Idea: idea.ID, What: l.Key}
		if again {
			items[i].Again = &now
		}
	}
	return s.runner.Start(ctx, n, l.job, title, jobs.Encode(items))
}

// lookupKinds are the kinds of jobs of lookups. An item of a job that an older program began may not say what is
// looked up: then it is the top ten.
func (s *Researcher) lookupKinds() (out []jobs.Kind) {
	known := map[string]bool{}
	for _, l := range Lookups() {
		if !known[l.job] {
			known[l.job] = true
			kind := jobs.Kind{Name: l.job, Workers: lookupWorkers, Brings: l.brings, Do: s.lookUpOne}
			if l.job == top.job {
				kind.After = s.learn
			}
			out = append(out, kind)
		}
	}
	return out
}

func (s *Researcher) lookUpOne(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var it item
	if err := json.Unmarshal([]byte(payload), &it); err != nil {
		return 0, err
	}
	if it.Again != nil {
		ctx = ask.Again(ctx, *it.Again)
	}
	idea, err := s.store.Idea(ctx, n.ID, it.Idea)
	if err != nil {
		return 0, err
	}
	ask.RequestOf(ctx).ForBranch(idea.BranchID)
	l := LookupOf(it.What)
	if err := l.do(s, ctx, n, idea); err != nil {
		if !ask.StopsWork(err) && ctx.Err() == nil { // unless nobody answers at all, the idea says why
			err = errors.Join(err, s.store.SaveLookupError(ctx, n.ID, idea.ID, l.fails, err.Error()))
		}
		return 0, err
	}
	return 1, nil
}

// simple is how a lookup is estimated that puts questions of one kind, by their keys.
func simple(q ask.Question, each func(n niches.Niche) int, keys func(s *Researcher, n niches.Niche,
	phrase string) []string) (estimate func(*Researcher, context.Context, niches.Niche, []store.Idea, *ask.Estimate) error,
	most func(*Researcher, context.Context, niches.Niche, int, *ask.Estimate) error) {
	estimate = func(s *Researcher, ctx context.Context, n niches.Niche, list []store.Idea, e *ask.Estimate) error {
		var all []string
		for _, idea := range list {
			all = append(all, keys(s, n, idea.Phrase)...)
		}
		return s.asker.Estimate(ctx, e, q, all, lookupWorkers)
	}
	most = func(s *Researcher, ctx context.Context, n niches.Niche, ideas int, e *ask.Estimate) error {
		return s.asker.EstimateOpen(ctx, e, q, ideas*each(n), 0, lookupWorkers)
	}
	return estimate, most
}
