package study

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
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
func DigPlan(idea Idea) GatherPlan {
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

// Kinds of origin: the names of sieve.FoundIn.
const (
	FromSeed       = "seed"
	FromCompletion = "completion"
	FromLetter     = "letter"
	FromQuestion   = "question"
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

// gatherWorkers is how many suggestions are asked for at once.
const gatherWorkers = 4

// gatherJob is the job kind of gathering and of demand lookups alone.
const gatherJob = "gather"

func gatherKind(s *Study) kind {
	return kind{name: gatherJob, workers: gatherWorkers, brings: "new", waits: isDemandStep, do: s.gatherStep}
}

// Gather starts a gathering and returns its job.
func (s *Study) Gather(ctx context.Context, n Niche, p GatherPlan) (Job, error) {
	var seeds []store.Seed
	for _, text := range p.Seeds {
		seed := store.Seed{NicheID: n.ID, Phrase: text}
		if p.FromIdea != 0 {
			seed.FromIdea = &p.FromIdea
		}
		seeds = append(seeds, seed)
	}
	if err := s.store.AddSeeds(ctx, seeds); err != nil {
		return Job{}, err
	}
	title := "Gather from " + quoted(p.Seeds)
	if p.FromIdea != 0 {
		title = "Dig from " + quoted(p.Seeds)
	}
	return s.runner.start(ctx, n, gatherJob, title, encode(p.steps(n.Language)))
}

// GatherDemand starts a job that asks for the searches of ideas that have none.
func (s *Study) GatherDemand(ctx context.Context, n Niche) (Job, error) {
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

func (s *Study) gatherStep(ctx context.Context, n Niche, payload string) (found int, err error) {
	var st step
	if err := json.Unmarshal([]byte(payload), &st); err != nil {
		return 0, err
	}
	if st.Demand {
		return 0, s.fillDemand(ctx, n)
	}
	ans, err := s.askSuggest(ctx, st.Query, n.locale())
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

func (s *Study) find(n Niche, normal string, o store.Origin) store.Find {
	o.CreatedAt = s.store.Now().UTC()
	return store.Find{Idea: store.Idea{Phrase: normal, Words: len(phrase.Words(normal)),
		FoundIn: 1 << int(sieve.FoundIn.Named(o.Kind).Number), VariantKey: phrase.VariantKey(normal, n.Language)}, Origin: o}
}
