package gather

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Estimate says what gathering would ask. Demand is reckoned as one batch a
// seed: how many ideas will come is not known.
func (s *Gatherer) Estimate(ctx context.Context, n niches.Niche, p Plan) (ask.Estimate, error) {
	var e ask.Estimate
	if err := p.checkRounds(n.Language); err != nil {
		return e, err
	}
	var keys, results []string
	seeds := 0
	for _, st := range p.steps(n.Language) {
		switch {
		case st.Demand:
			seeds++
		case st.Results:
			results = append(results, s.asker.ResultsKey(st.Query, n.Locale(), n.Depth))
		default:
			keys = append(keys, ask.LocaleKey(n.Locale(), st.Query))
		}
	}
	estimate := s.asker.Estimate
	if p.Again {
		estimate = func(ctx context.Context, e *ask.Estimate, q ask.Question, keys []string, workers int) error {
			return s.asker.EstimateOpen(ctx, e, q, len(keys), 0, workers)
		}
	}
	if err := estimate(ctx, &e, ask.Results, results, gatherWorkers); err != nil {
		return e, err
	}
	if p.Rounds > 1 { // the look-ups that are bounded, and as much demand for each seed as they are enough for
		each := len(grow("x", n.Language, p.Ways))
		if more := p.Most - len(keys) - len(results); more > 0 {
			seeds += more / each
			if err := s.asker.EstimateOpen(ctx, &e, ask.Suggestions, more, 0, gatherWorkers); err != nil {
				return e, err
			}
		}
	}
	if err := estimate(ctx, &e, ask.Suggestions, keys, gatherWorkers); err != nil {
		return e, err
	}
	e.Lookups += seeds
	e.Micros += int64(seeds) * market.DemandBatch * s.asker.Price(ask.Demand)
	return e, nil
}

// MostSeeds is how many seeds are taken at once.
const MostSeeds = 50

// Plan is what a gathering would ask.
type Plan struct {
	Seeds    []string // normal form
	Ways     []Way
	FromIdea uint // the idea that is dug from, if any
	Ignored  []files.LineProblem

	Again   bool        // also what is at hand is asked for anew
	Rounds  int         // 0 and 1: the seeds alone; in each further one what came back is grown
	Most    int         // look-ups, where there are several rounds
	Price   int64       // no further round begins once so much is spent, in millionths; 0 is no such bound
	Through sieve.Sieve // what goes into the next round; without filters all that is not dropped
}

// PlanFrom is how a gathering grows from an idea.
func PlanFrom(idea ideas.Idea) Plan {
	return Plan{Seeds: []string{idea.Phrase}, Ways: Usual, FromIdea: idea.ID}
}

// ReadSeeds reads seeds, one a line. A line that is no phrase comes back with its
// reason; no usable line at all is an *input.Error.
func ReadSeeds(text string) (seeds []string, ignored []files.LineProblem, err error) {
	known := map[string]bool{}
	for i, line := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		s, err := phrase.Parse(line)
		if strings.Contains(line, phrase.Gap) {
			s, err = readPattern(line)
		}
		if err != nil {
			ignored = append(ignored, files.LineProblem{Line: i + 1, Text: input.Clip(line, 80), Reason: err.Error()})
			continue
		}
		if !known[s] {
			known[s] = true
			seeds = append(seeds, s)
		}
	}
	switch {
	case len(seeds) > MostSeeds:
		return nil, ignored, input.Bad("seeds", "These are %d seeds; at most %d go in at once.", len(seeds), MostSeeds)
	case len(seeds) == 0 && len(ignored) > 0:
		return nil, ignored, input.Bad("seeds", "No line is a usable seed: line %d, %s.", ignored[0].Line, ignored[0].Reason)
	case len(seeds) == 0:
		return nil, nil, input.Bad("seeds", "Type at least one seed: a few words on the subject.")
	}
	return seeds, ignored, nil
}

// step is one item of a gathering: a suggestion question, or with only Demand
// set, the demand figures of all ideas that have none.
type step struct {
	Kind    string `json:"kind,omitempty"`
	Query   string `json:"query,omitempty"`
	Seed    string `json:"seed,omitempty"`
	Demand  bool   `json:"demand,omitempty"`
	Holds   bool   `json:"holds,omitempty"`   // only what holds all words of the seed counts
	Fits    bool   `json:"fits,omitempty"`    // only what fits the seed, which is a pattern, counts
	Near    bool   `json:"near,omitempty"`    // or is near it
	Results bool   `json:"results,omitempty"` // it asks the search engine, for what it shows beside its results
	Round   *round `json:"round,omitempty"`   // the next round is made ready
	// Again is the moment before which no answer counts.
	Again *time.Time `json:"again,omitempty"`
	// Phrases are made, and nothing is completed: those count that are searched, or all.
	Phrases []string `json:"phrases,omitempty"`
	Unasked bool     `json:"unasked,omitempty"`
}

// steps lists what is asked for the seeds, and demand after each seed.
func (p Plan) steps(lang string) []step {
	var out []step
	for _, seed := range p.Seeds {
		out = append(append(out, grow(seed, lang, p.Ways)...), step{Demand: true})
	}
	return out
}

// Sample are some of the texts that are looked up for the seeds, evenly from all of them, and how many there are.
func (p Plan) Sample(lang string, most int) (list []string, all int) {
	var texts []string
	for _, st := range p.steps(lang) {
		if !st.Demand {
			texts = append(texts, st.Query)
		}
	}
	for i := range min(most, len(texts)) {
		list = append(list, texts[i*len(texts)/min(most, len(texts))])
	}
	return list, len(texts)
}

// gatherWorkers is how many suggestions are asked for at once.
const gatherWorkers = 4

// gatherJob is the job kind of gathering and of demand lookups alone.
const gatherJob = "gather"

func (s *Gatherer) gatherKind() jobs.Kind {
	return jobs.Kind{Name: gatherJob, Workers: gatherWorkers, Brings: "new ideas", Waits: isDemandStep, Do: s.gatherStep}
}

// Gather starts a gathering and returns its job.
func (s *Gatherer) Gather(ctx context.Context, n niches.Niche, p Plan) (jobs.Job, error) {
	if err := p.checkRounds(n.Language); err != nil {
		return jobs.Job{}, err
	}
	var seeds []Seed
	for _, text := range p.Seeds {
		seeds = append(seeds, Seed{text, p.FromIdea})
	}
	if err := s.store.AddSeeds(ctx, seedRows(n.ID, seeds)); err != nil {
		return jobs.Job{}, err
	}
	steps := p.steps(n.Language)
	if p.Again {
		now := s.store.Now().UTC()
		for i := range steps {
			steps[i].Again = &now
		}
	}
	if p.Rounds > 1 {
		r := round{Again: steps[0].Again, Price: p.Price, Ways: p.Ways, Left: p.Rounds - 2,
			May: p.Most - len(steps) + len(p.Seeds)}
		var err error
		if r.After, err = s.store.LastIdea(ctx, n.ID); err != nil {
			return jobs.Job{}, err
		}
		if len(p.Through.Filters) > 0 {
			text, err := json.Marshal(p.Through)
			if err != nil {
				return jobs.Job{}, err
			}
			r.Sieve = string(text)
		}
		steps = append(steps, step{Round: &r})
	}
	return s.runner.Start(ctx, n, gatherJob, "Gather from "+quoted(p.Seeds), jobs.Encode(steps))
}

// Seed is what ideas are grown from.
type Seed struct {
	Phrase string
	From   uint // the idea that it was; 0 none
}

func seedRows(niche uint, list []Seed) []store.Seed {
	rows := make([]store.Seed, len(list))
	for i, seed := range list {
		rows[i] = store.Seed{NicheID: niche, Phrase: seed.Phrase}
		if from := seed.From; from != 0 {
			rows[i].FromIdea = &from
		}
	}
	return rows
}

// EstimateSearches says what looking up the searches of so many ideas would ask.
func (s *Gatherer) EstimateSearches(ctx context.Context, ideas int) (e ask.Estimate, err error) {
	if err = s.asker.EstimateOpen(ctx, &e, ask.Demand, ideas, 0, 1); err == nil { // a phrase is priced, a batch is asked
		e.Lookups = (ideas + market.DemandBatch - 1) / market.DemandBatch
	}
	return e, err
}

// LookUpSearches starts a job that asks for the searches of ideas that have none.
func (s *Gatherer) LookUpSearches(ctx context.Context, n niches.Niche) (jobs.Job, error) {
	return s.runner.Start(ctx, n, gatherJob, "Look up search volume", jobs.Encode([]step{{Demand: true}}))
}

func quoted(list []string) string {
	if len(list) == 1 {
		return "“" + input.Clip(list[0], 60) + "”"
	}
	return fmt.Sprintf("“%s” and %d more", input.Clip(list[0], 40), len(list)-1)
}

// isDemandStep tells the steps that need all before them to be done.
func isDemandStep(payload string) bool {
	var st step
	return json.Unmarshal([]byte(payload), &st) == nil && (st.Demand || st.Round != nil)
}

func (s *Gatherer) gatherStep(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var st step
	if err := json.Unmarshal([]byte(payload), &st); err != nil {
		return 0, err
	}
	if st.Again != nil && !st.Demand {
		ctx = ask.Again(ctx, *st.Again)
	}
	if st.Demand {
		return 0, s.fillDemand(ctx, n)
	}
	if st.Round != nil {
		return 0, s.nextRound(ctx, n, *st.Round, payload)
	}
	branch, err := s.store.Branch(ctx, n.ID, st.Kind, st.Seed)
	if err != nil {
		return 0, err
	}
	ask.RequestOf(ctx).ForBranch(branch)
	texts, err := s.texts(ctx, n, st)
	if err != nil {
		return 0, err
	}
	var finds []store.Find
	if st.Kind == ideas.FromCompletion {
		finds = append(finds, s.ideas.Find(n, st.Seed, store.Origin{Kind: ideas.FromSeed, Query: st.Seed, Seed: st.Seed}))
	}
	return s.store.AddIdeas(ctx, n.ID, append(finds, s.found(n, st, texts)...))
}

// texts are what comes back for a step.
func (s *Gatherer) texts(ctx context.Context, n niches.Niche, st step) ([]string, error) {
	switch {
	case st.Phrases != nil:
		return s.known(ctx, n, st)
	case st.Results:
		page, err := s.asker.Results(ctx, st.Query, n.Locale(), n.Depth)
		return page.Value.Related, err
	}
	list, err := s.asker.Suggest(ctx, st.Query, n.Locale())
	return list.Value, err
}
