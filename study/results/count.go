package results

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"cleverniche/core/naming"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// countJob is the job kind of asking for what is not of the ten: how many pages there
// are, and which names are free.
const countJob = "count"

func (s *Researcher) countKind() jobs.Kind {
	return jobs.Kind{Name: countJob, Workers: judgeWorkers, Brings: "asked for", Do: s.countStep}
}

// Lookup is what is asked for of ideas, one by one, by whose figures it fills.
type Lookup struct {
	Key  string       // in forms
	From sieve.Origin // of the figures that it fills
	Name string       // of what is missing: "57 not looked up"
	Act  string       // of the button that asks
}

// Lookups lists them.
var Lookups = []Lookup{
	{"ten", sieve.FromTen, "looked up", "look up"},
	{"pages", sieve.FromTotals, "counted", "count pages"},
	{"names", sieve.FromNames, "asked for by name", "ask for names"},
}

// titles are what the lookups are called, with how many ideas they are for.
var titles = map[sieve.Origin]string{sieve.FromTen: "Look up %d %s", sieve.FromTotals: "Count pages for %d %s",
	sieve.FromNames: "Ask for the names of %d %s"}

// For says what the lookup does for so many ideas: "Count pages for 12 ideas".
func (l Lookup) For(ideas int) string {
	return fmt.Sprintf(titles[l.From], ideas, input.IdeasWord(ideas))
}

// Held says so many of what the lookup asks for: "the results of 12", "24 answers".
func (l Lookup) Held(n int) string {
	if l.From == sieve.FromTen {
		return fmt.Sprintf("the results of %d", n)
	}
	return fmt.Sprintf("%d answers", n)
}

// LookupOf returns the lookup of a key; the first for any other.
func LookupOf(key string) Lookup {
	for _, l := range Lookups {
		if l.Key == key {
			return l
		}
	}
	return Lookups[0]
}

// figure is the one by which one tells whether an idea has been asked for.
func (l Lookup) figure() *sieve.Figure {
	return map[sieve.Origin]*sieve.Figure{sieve.FromTotals: sieve.ExactPages,
		sieve.FromNames: sieve.FreeName}[l.From]
}

// Lacking is what is left of a board that a lookup has not been made for.
func (l Lookup) Lacking(s ideas.Sifted) ideas.Sifted {
	if l.From == sieve.FromTen {
		return s.Unjudged()
	}
	return s.Without(l.figure())
}

// perIdea is how many questions a lookup asks for an idea, and of what kind.
func (l Lookup) perIdea(n niches.Niche) (ask.Question, int) {
	if l.From == sieve.FromTotals {
		return ask.Totals, 2
	}
	return ask.Names, len(naming.Of("one two", strings.Fields(n.Endings)))
}

// EstimateMost says what a lookup of so many ideas would ask at most, whatever is at hand.
func (s *Researcher) EstimateMost(ctx context.Context, n niches.Niche, l Lookup, ideas int) (e ask.Estimate, err error) {
	if l.From == sieve.FromTen {
		return s.EstimateAgain(ctx, ideas)
	}
	q, each := l.perIdea(n)
	return e, s.asker.Reckon(ctx, &e, q, ideas*each, 0, judgeWorkers)
}

// EstimateLookup says what a lookup of ideas would ask at most.
func (s *Researcher) EstimateLookup(ctx context.Context, n niches.Niche, l Lookup, ids []uint) (e ask.Estimate, err error) {
	if l.From == sieve.FromTen {
		return s.EstimateJudge(ctx, n, ids)
	}
	ideas, err := s.judgeable(ctx, n, ids)
	if err != nil {
		return e, err
	}
	q, _ := l.perIdea(n)
	var keys []string
	for _, idea := range ideas {
		if q == ask.Totals {
			for _, text := range counted(idea.Phrase) {
				keys = append(keys, s.asker.TotalsKey(text, n.Locale()))
			}
			continue
		}
		for _, name := range naming.Of(idea.Phrase, strings.Fields(n.Endings)) {
			keys = append(keys, name.Domain)
		}
	}
	return e, s.asker.Estimate(ctx, &e, q, keys, judgeWorkers)
}

// Look starts a job that makes a lookup of ideas.
func (s *Researcher) Look(ctx context.Context, n niches.Niche, l Lookup, ids []uint, again bool) (jobs.Job, error) {
	if l.From == sieve.FromTen {
		return s.Judge(ctx, n, ids, again)
	}
	ideas, err := s.judgeable(ctx, n, ids)
	if err != nil {
		return jobs.Job{}, err
	}
	items := make([]countItem, len(ideas))
	for i, idea := range ideas {
		items[i] = countItem{idea.ID, l.Key}
	}
	return s.runner.Start(ctx, n, countJob, l.For(len(ideas)), jobs.Encode(items))
}

// countItem is one idea of such a job.
type countItem struct {
	Idea uint   `json:"idea"`
	What string `json:"what"`
}

func (s *Researcher) countStep(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var item countItem
	if err := json.Unmarshal([]byte(payload), &item); err != nil {
		return 0, err
	}
	idea, err := s.store.Idea(ctx, n.ID, item.Idea)
	if err != nil {
		return 0, err
	}
	now := s.store.Now().UTC()
	if LookupOf(item.What).From == sieve.FromTotals {
		idea.PagesAt, idea.CountError = &now, ""
		for i, text := range counted(idea.Phrase) {
			total, err := s.asker.AskTotal(ctx, text, n.Locale())
			if err != nil {
				return 0, s.noteCountError(ctx, idea, err)
			}
			*[]**int{&idea.ExactPages, &idea.TitlePages}[i] = &total.Value
		}
		return 1, s.store.SavePages(ctx, n.ID, idea)
	}
	idea.NamesAt, idea.CountError = &now, ""
	var free []string
	exact := false
	for _, name := range naming.Of(idea.Phrase, strings.Fields(n.Endings)) {
		found, err := s.asker.AskName(ctx, name.Domain)
		if err != nil {
			return 0, s.noteCountError(ctx, idea, err)
		}
		if !found.Value.Taken {
			free = append(free, name.Domain)
			exact = exact || name.Exact
		}
	}
	idea.NameFree, idea.FreeNames = &exact, strings.Join(free, " ")
	return 1, s.store.SaveNames(ctx, n.ID, idea)
}

// noteCountError keeps why an idea's figures are not known, unless nobody answers at all.
func (s *Researcher) noteCountError(ctx context.Context, idea store.Idea, err error) error {
	if ask.StopsWork(err) || ctx.Err() != nil {
		return err
	}
	idea.CountError = err.Error()
	return errors.Join(err, s.store.SaveCountError(ctx, idea.NicheID, idea))
}

// counted are the searches whose totals are counted: the exact phrase, and the exact phrase
// in the title.
func counted(phrase string) []string {
	return []string{`"` + phrase + `"`, `intitle:"` + phrase + `"`}
}
