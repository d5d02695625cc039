package gather

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"cleverniche/core/phrase"
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
	var keys []string
	seeds := 0
	for _, st := range p.steps(n.Language) {
		if st.Demand {
			seeds++
			continue
		}
		keys = append(keys, ask.LocaleKey(n.Locale(), st.Query))
	}
	var e ask.Estimate
	if err := s.asker.Estimate(ctx, &e, ask.Suggestions, keys, gatherWorkers); err != nil {
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
	Seeds     []string // normal form
	Questions bool
	Letters   bool
	FromIdea  uint // the idea that is dug from, if any
	Ignored   []files.LineProblem
}

// PlanFrom is how a gathering grows from an idea.
func PlanFrom(idea ideas.Idea) Plan {
	return Plan{Seeds: []string{idea.Phrase}, Letters: true, Questions: true, FromIdea: idea.ID}
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
	Kind   string `json:"kind,omitempty"`
	Query  string `json:"query,omitempty"`
	Seed   string `json:"seed,omitempty"`
	Demand bool   `json:"demand,omitempty"`
}

// steps lists what is asked for the seeds: each seed's own completions, the seed
// followed by each letter, question words before it; and demand after each seed.
func (p Plan) steps(lang string) []step {
	var out []step
	for _, seed := range p.Seeds {
		out = append(out, step{Kind: ideas.FromCompletion, Query: seed, Seed: seed})
		if p.Letters {
			for c := 'a'; c <= 'z'; c++ {
				out = append(out, step{Kind: ideas.FromLetter, Query: seed + " " + string(c), Seed: seed})
			}
		}
		if p.Questions {
			for _, q := range phrase.QuestionWords(lang) {
				out = append(out, step{Kind: ideas.FromQuestion, Query: q + " " + seed, Seed: seed})
			}
		}
		out = append(out, step{Demand: true})
	}
	return out
}

// gatherWorkers is how many suggestions are asked for at once.
const gatherWorkers = 4

// gatherJob is the job kind of gathering and of demand lookups alone.
const gatherJob = "gather"

func (s *Gatherer) gatherKind() jobs.Kind {
	return jobs.Kind{Name: gatherJob, Workers: gatherWorkers, Brings: "new", Waits: isDemandStep, Do: s.gatherStep}
}

// Gather starts a gathering and returns its job.
func (s *Gatherer) Gather(ctx context.Context, n niches.Niche, p Plan) (jobs.Job, error) {
	var seeds []store.Seed
	for _, text := range p.Seeds {
		seed := store.Seed{NicheID: n.ID, Phrase: text}
		if p.FromIdea != 0 {
			seed.FromIdea = &p.FromIdea
		}
		seeds = append(seeds, seed)
	}
	if err := s.store.AddSeeds(ctx, seeds); err != nil {
		return jobs.Job{}, err
	}
	title := "Gather from " + quoted(p.Seeds)
	if p.FromIdea != 0 {
		title = "Gather from " + quoted(p.Seeds)
	}
	return s.runner.Start(ctx, n, gatherJob, title, jobs.Encode(p.steps(n.Language)))
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
	return json.Unmarshal([]byte(payload), &st) == nil && st.Demand
}

func (s *Gatherer) gatherStep(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var st step
	if err := json.Unmarshal([]byte(payload), &st); err != nil {
		return 0, err
	}
	if st.Demand {
		return 0, s.fillDemand(ctx, n)
	}
	ans, err := s.asker.Suggest(ctx, st.Query, n.Locale())
	if err != nil {
		return 0, err
	}
	var finds []store.Find
	if st.Kind == ideas.FromCompletion {
		finds = append(finds, s.ideas.Find(n, st.Seed, store.Origin{Kind: ideas.FromSeed, Query: st.Seed, Seed: st.Seed}))
	}
	for _, text := range ans.Value {
		normal, err := phrase.Parse(text)
		if err != nil {
			continue // a completion without a word is no idea
		}
		finds = append(finds, s.ideas.Find(n, normal, store.Origin{Kind: st.Kind, Query: st.Query, Seed: st.Seed}))
	}
	return s.store.AddIdeas(ctx, n.ID, finds)
}
