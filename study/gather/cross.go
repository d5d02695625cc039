package gather

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Crossing is phrases made of lists of words, and what of them is kept.
type Crossing struct {
	phrase.Crossing
	All bool // what nobody knows to be searched, too
}

// Bounds of crossings (ours): words of a list, and how long what stands between may be, in characters.
const (
	mostListed  = 5000
	MostBetween = 200
)

// ReadCrossing reads lists as they were typed, a word or phrase a line, and what stands between them: words between
// commas, "-" for nothing. Lists that are empty at the end are none. It is an *input.Error where nothing can be made of
// them.
func ReadCrossing(pattern string, lists []string, glue string, turned, all bool) (Crossing, error) {
	c := Crossing{phrase.Crossing{Turned: turned}, all}
	if p, err := phrase.ParsePattern(pattern, ""); err == nil { // of gaps alone it puts the lists side by side
		c.Pattern = p.String()
	}
	for i, text := range lists {
		list, problem := readWords(text)
		if problem != "" {
			return c, input.Bad(fmt.Sprint("list", i+1), "List %d: %s", i+1, problem)
		}
		c.Lists = append(c.Lists, list)
	}
	for len(c.Lists) > 0 && len(c.Lists[len(c.Lists)-1]) == 0 {
		c.Lists = c.Lists[:len(c.Lists)-1]
	}
	for word := range strings.SplitSeq(input.Clip(glue, MostBetween), ",") { // "-" becomes nothing
		normal := phrase.Normal(word)
		if strings.TrimSpace(word) != "" && !slices.Contains(c.Glue, normal) {
			c.Glue = append(c.Glue, normal)
		}
	}
	if err := c.Check(); err != nil {
		return c, input.Bad("list1", "%s", input.Sentence(err.Error()))
	}
	return c, nil
}

// readWords reads a list of words, one a line, or says what is wrong with it.
func readWords(text string) (out []string, problem string) {
	for line := range strings.Lines(text) {
		if strings.TrimSpace(line) == "" {
			continue
		}
		w, err := phrase.Parse(line)
		if err != nil {
			return nil, fmt.Sprintf("“%s”: %v.", input.Clip(line, 40), err)
		}
		if !slices.Contains(out, w) {
			out = append(out, w)
		}
		if len(out) > mostListed {
			return nil, fmt.Sprintf("it has more than %d lines.", mostListed)
		}
	}
	return out, ""
}

// EstimateCrossing says what it would cost to find out which of the phrases are searched.
func (s *Gatherer) EstimateCrossing(ctx context.Context, n niches.Niche, c Crossing) (e ask.Estimate, err error) {
	if !s.asker.Has(ask.Demand) {
		if c.All {
			return e, nil
		}
		e.Missing = ask.Demand
		return e, nil
	}
	return s.EstimateSearches(ctx, c.Count())
}

// Cross starts a job that makes the phrases, asks for their searches, and keeps those that are searched.
func (s *Gatherer) Cross(ctx context.Context, n niches.Niche, c Crossing) (jobs.Job, error) {
	if !c.All && !s.asker.Has(ask.Demand) {
		return jobs.Job{}, input.Bad("all", "Nobody can be asked which of them are searched. Keep all, or set up a source.")
	}
	var steps []step
	for part := range slices.Chunk(slices.Collect(c.Crossing.All()), market.DemandBatch) {
		steps = append(steps, step{Kind: ideas.FromCrossing, Seed: c.Name(), Phrases: part, Unasked: c.All})
	}
	if s.asker.Has(ask.Demand) {
		steps = append(steps, step{Demand: true})
	}
	return s.runner.Start(ctx, n, gatherJob, "Combine “"+input.Clip(c.Name(), 60)+"”", jobs.Encode(steps))
}

// known asks for the searches of a step's phrases, and returns those that are searched: less than a source's floor is
// not known to be.
func (s *Gatherer) known(ctx context.Context, n niches.Niche, st step) (out []string, err error) {
	if st.Unasked {
		return st.Phrases, nil
	}
	figures, err := s.Figures(ctx, n, st.Phrases)
	for _, p := range st.Phrases {
		sum, ok := demand.Summarise(figures[p].Value)
		if ok && sum.Average > 0 && !sum.Under {
			out = append(out, p)
		}
	}
	return out, err
}

// Figures are what is known of the searches of phrases; what is not at hand is asked for.
func (s *Gatherer) Figures(ctx context.Context, n niches.Niche,
	phrases []string) (map[string]ask.Asked[demand.Series], error) {
	known := map[string]ask.Asked[demand.Series]{}
	var missing []string
	for _, p := range phrases {
		kept, ok, err := ask.Recall[demand.Series](ctx, s.asker, ask.Demand, ask.LocaleKey(n.Locale(), p))
		if err != nil {
			return nil, err
		}
		if ok {
			known[p] = kept
		} else {
			missing = append(missing, p)
		}
	}
	if len(missing) == 0 {
		return known, nil
	}
	return known, s.asker.Demand(ctx, n.Locale(), missing, known)
}

// Modifiers are what the ideas of a niche begin and end with most often, to cross something with.
func (s *Gatherer) Modifiers(ctx context.Context, n niches.Niche) (starts, ends []string, err error) {
	list, err := s.open(ctx, n)
	if err != nil {
		return nil, nil, err
	}
	seeds, err := s.store.Seeds(ctx, n.ID)
	if err != nil {
		return nil, nil, err
	}
	phrases, grown := make([]string, len(list)), make([]string, len(seeds))
	for i, p := range list {
		phrases[i] = p.Phrase
	}
	for i, seed := range seeds {
		grown[i] = seed.Phrase
	}
	starts, ends = phrase.Ends(phrases, grown, n.Language, mostModifiers)
	return starts, ends, nil
}

// mostModifiers is how many beginnings and ends are offered.
const mostModifiers = 40

// found are finds of phrases that came by a step, without those that nobody wants.
func (s *Gatherer) found(n niches.Niche, st step, texts []string) (out []store.Find) {
	unwanted := n.UnwantedWords()
	for _, text := range texts {
		normal, err := phrase.Parse(text)
		if err != nil || phrase.HoldsAny(normal, unwanted) != "" || !st.fits(normal, n.Language) {
			continue // a completion without a word is no idea, nor what holds a word that nobody wants
		}
		out = append(out, s.ideas.Find(n, normal, store.Origin{Kind: st.Kind, Query: st.Query, Seed: st.Seed}))
	}
	return out
}
