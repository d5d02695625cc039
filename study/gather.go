package study

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/store"
)

// MostSeeds is how many seeds are taken at once.
const MostSeeds = 50

// GatherPlan is what a gathering would ask.
type GatherPlan struct {
	Seeds     []string // normal form
	Questions bool
	Letters   bool
	FromIdea  uint // the idea that is dug from, if any
	Ignored   []market.LineProblem
}

// DigPlan is how a gathering grows from an idea.
func DigPlan(idea store.Idea) GatherPlan {
	return GatherPlan{Seeds: []string{idea.Phrase}, Letters: true, Questions: true, FromIdea: idea.ID}
}

// ReadSeeds reads seeds, one a line. A line that is no phrase comes back with its
// reason; no usable line at all is an *InputError.
func ReadSeeds(text string) (seeds []string, ignored []market.LineProblem, err error) {
	known := map[string]bool{}
	for i, line := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		s, err := phrase.Parse(line)
		if err != nil {
			ignored = append(ignored, market.LineProblem{Line: i + 1, Text: clip(line, 80), Reason: err.Error()})
			continue
		}
		if !known[s] {
			known[s] = true
			seeds = append(seeds, s)
		}
	}
	switch {
	case len(seeds) > MostSeeds:
		return nil, ignored, badInput("seeds", "These are %d seeds; at most %d go in at once.", len(seeds), MostSeeds)
	case len(seeds) == 0 && len(ignored) > 0:
		return nil, ignored, badInput("seeds", "No line is a usable seed: line %d, %s.", ignored[0].Line, ignored[0].Reason)
	case len(seeds) == 0:
		return nil, nil, badInput("seeds", "Type at least one seed: a few words on the subject.")
	}
	return seeds, ignored, nil
}

func clip(s string, n int) string {
	r := []rune(strings.ToValidUTF8(s, "\ufffd"))
	if len(r) > n {
		return string(r[:n]) + "…"
	}
	return string(r)
}

// Kinds of origin.
const (
	FromCompletion = "completion"
	FromLetter     = "letter"
	FromQuestion   = "question"
	FromSeed       = "seed"
	FromList       = "list"
)

// step is one item of a gathering: a suggestion question, or with only Demand
// set, the demand figures of all ideas that have none.
type step struct {
	Kind   string `json:"kind,omitempty"`
	Query  string `json:"query,omitempty"`
	Seed   string `json:"seed,omitempty"`
	Demand bool   `json:"demand,omitempty"`
}

// steps lists what is asked for the seeds: each seed's own completions, the seed
// followed by each letter, question words before it; and demand after each seed.
func (p GatherPlan) steps(lang string) []step {
	var out []step
	for _, seed := range p.Seeds {
		out = append(out, step{Kind: FromCompletion, Query: seed, Seed: seed})
		if p.Letters {
			for c := 'a'; c <= 'z'; c++ {
				out = append(out, step{Kind: FromLetter, Query: seed + " " + string(c), Seed: seed})
			}
		}
		if p.Questions {
			for _, q := range phrase.QuestionWords(lang) {
				out = append(out, step{Kind: FromQuestion, Query: q + " " + seed, Seed: seed})
			}
		}
		out = append(out, step{Demand: true})
	}
	return out
}

// gatherJob is the job kind of gathering and of demand lookups alone.
const gatherJob = "gather"

// Gather starts a gathering and returns its job.
func (s *Study) Gather(ctx context.Context, n store.Niche, p GatherPlan) (store.Job, error) {
	var seeds []store.Seed
	for _, text := range p.Seeds {
		seed := store.Seed{NicheID: n.ID, Phrase: text}
		if p.FromIdea != 0 {
			seed.FromIdea = &p.FromIdea
		}
		seeds = append(seeds, seed)
	}
	if err := s.store.AddSeeds(ctx, seeds); err != nil {
		return store.Job{}, err
	}
	title := "Gather from " + quoted(p.Seeds)
	if p.FromIdea != 0 {
		title = "Dig from " + quoted(p.Seeds)
	}
	return s.runner.start(ctx, n, gatherJob, title, encode(p.steps(n.Language)))
}

// GatherDemand starts a job that asks for the searches of ideas that have none.
func (s *Study) GatherDemand(ctx context.Context, n store.Niche) (store.Job, error) {
	return s.runner.start(ctx, n, gatherJob, "Look up searches", encode([]step{{Demand: true}}))
}

func quoted(list []string) string {
	if len(list) == 1 {
		return "“" + clip(list[0], 60) + "”"
	}
	return fmt.Sprintf("“%s” and %d more", clip(list[0], 40), len(list)-1)
}

func encode[T any](list []T) []string {
	out := make([]string, len(list))
	for i, v := range list {
		text, err := json.Marshal(v)
		if err != nil {
			panic(err) // plain values always encode
		}
		out[i] = string(text)
	}
	return out
}

// isDemandStep tells the steps that need all before them to be done.
func isDemandStep(payload string) bool {
	var st step
	return json.Unmarshal([]byte(payload), &st) == nil && st.Demand
}

func (s *Study) gatherStep(ctx context.Context, n store.Niche, payload string) (found int, err error) {
	var st step
	if err := json.Unmarshal([]byte(payload), &st); err != nil {
		return 0, err
	}
	if st.Demand {
		return 0, s.fillDemand(ctx, n)
	}
	ans, err := s.askSuggest(ctx, st.Query, localeOf(n))
	if err != nil {
		return 0, err
	}
	var finds []store.Find
	if st.Kind == FromCompletion {
		finds = append(finds, s.find(n, st.Seed, store.Origin{Kind: FromSeed, Query: st.Seed, Seed: st.Seed}))
	}
	for _, text := range ans.Value {
		normal, err := phrase.Parse(text)
		if err != nil {
			continue // a completion without a word is no idea
		}
		finds = append(finds, s.find(n, normal, store.Origin{Kind: st.Kind, Query: st.Query, Seed: st.Seed}))
	}
	return s.store.AddIdeas(ctx, n.ID, finds)
}

func (s *Study) find(n store.Niche, normal string, o store.Origin) store.Find {
	o.CreatedAt = s.options.Now().UTC()
	return store.Find{Idea: store.Idea{Phrase: normal, Words: len(phrase.Words(normal)),
		VariantKey: phrase.VariantKey(normal, n.Language)}, Origin: o}
}

// fillDemand asks for the figures of all ideas that have none, in batches, and
// keeps each batch as it comes.
func (s *Study) fillDemand(ctx context.Context, n store.Niche) error {
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

func (s *Study) demandBatch(ctx context.Context, n store.Niche, ideas []store.Idea) error {
	in := localeOf(n)
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
func (s *Study) askDemand(ctx context.Context, in market.Locale, phrases []string, into map[string]Asked[demand.Series]) error {
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
		if err := s.keep(context.WithoutCancel(ctx), AskDemand, localeKey(in, p), series, now, now.Sub(begun), price); err != nil {
			return err
		}
		into[p] = Asked[demand.Series]{Value: series, At: now, Source: s.market.Names[AskDemand]}
	}
	return nil
}

func (s *Study) noteDemandError(ctx context.Context, n store.Niche, ideas []store.Idea, cause error) error {
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
	row.PhraseMatch, row.BroadMatch = a.Value.PhraseMatch, a.Value.BroadMatch
	if c := a.Value.CPC; c.Known() {
		row.CPCMicros, row.Currency = &c.Micros, c.Currency
	}
	if k := a.Value.Competition; k >= 0 {
		row.Competition = &k
	}
	return row
}

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
func (s *Study) EstimateGather(ctx context.Context, n store.Niche, p GatherPlan) (Estimate, error) {
	var keys []string
	seeds := 0
	for _, st := range p.steps(n.Language) {
		if st.Demand {
			seeds++
			continue
		}
		keys = append(keys, localeKey(localeOf(n), st.Query))
	}
	var e Estimate
	if err := s.estimate(ctx, &e, AskSuggest, keys, gatherWorkers); err != nil {
		return e, err
	}
	e.Lookups += seeds
	e.Micros += int64(seeds) * market.DemandBatch * s.options.Prices[AskDemand]
	return e, nil
}

// estimate adds the questions of one kind that have no fresh answer.
func (s *Study) estimate(ctx context.Context, e *Estimate, q Question, keys []string, workers int) error {
	fresh, err := s.store.FreshKeys(ctx, string(q), keys, s.options.Now().Add(-s.lifetime(q)))
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
