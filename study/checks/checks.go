// Package checks finds out what a bought or borrowed list is worth: phrase by phrase, what stops it, and in which words
// people do search for it. The list is apart from its niche, a small one of its own, until somebody takes it in.
package checks

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// MostChecked is how many phrases a list may have that is checked (ours).
const MostChecked = 2000

// Store is what is asked of the data file.
type Store interface {
	AddIdeas(ctx context.Context, niche uint, finds []store.Find) (added int, err error)
	Nearests(ctx context.Context, niche uint) (map[uint]store.Nearest, error)
	SaveNearest(ctx context.Context, row store.Nearest) error
}

// Checker checks lists.
type Checker struct {
	store    Store
	asker    *ask.Asker
	niches   *niches.Keeper
	ideas    *ideas.Keeper
	imports  *imports.Importer
	gatherer *gather.Gatherer
	runner   *jobs.Runner
}

// New returns who checks the lists of a data file.
func New(st Store, asker *ask.Asker, n *niches.Keeper, list *ideas.Keeper, im *imports.Importer, g *gather.Gatherer,
	runner *jobs.Runner) *Checker {
	return &Checker{st, asker, n, list, im, g, runner}
}

// Begin puts a list beside a niche, with a name of its own, and starts to look up its searches where somebody can be
// asked. It is an *input.Error for a list that cannot be used.
func (s *Checker) Begin(ctx context.Context, of niches.Niche, name, text string) (niches.Niche, error) {
	if of.ListOf != 0 {
		return of, input.Bad("list", "This is a list that is checked already.")
	}
	if strings.TrimSpace(text) == "" {
		return of, input.Bad("list", "Paste the list first, one phrase per line.")
	}
	list := of
	list.ID, list.ListOf, list.UsualSieve = 0, of.ID, 0
	name = strings.Join(strings.Fields(name), " ")
	if name == "" {
		name = "a list"
	}
	base := input.Clip(of.Name, 34) + " / " + input.Clip(name, 38)
	list.Name = base
	for k := 2; s.niches.Free(ctx, list) != nil && k < 100; k++ {
		list.Name = fmt.Sprint(base, " ", k)
	}
	list, err := s.niches.Create(ctx, list)
	if err != nil {
		return list, err
	}
	rep, err := s.imports.Take(ctx, list, name, strings.NewReader(text))
	if err == nil && rep.Added == 0 {
		err = input.Bad("list", "There is no phrase in it.")
	}
	if err == nil && rep.Added > MostChecked {
		err = input.Bad("list", "These are %d phrases; at most %d are checked at once. Import larger lists.", rep.Added,
			MostChecked)
	}
	if err != nil {
		return list, errors.Join(err, s.niches.Discard(context.WithoutCancel(ctx), list.ID))
	}
	if s.asker.Has(ask.Demand) {
		_, err = s.gatherer.LookUpSearches(ctx, list)
	}
	return list, err
}

// Line is what became of one phrase.
type Line struct {
	Idea    ideas.Idea
	Verdict sieve.Verdict
	Stops   []sieve.Filter // that stop it
	Nearest string         // the wording that is searched; "" is none, or not looked for
	Often   int            // how often that is
	Looked  bool           // for a wording that is searched
}

// Verdicts are what became of the phrases of a list under a sieve, in the order of the list, and what each filter did.
func (s *Checker) Verdicts(ctx context.Context, n niches.Niche, by sieve.Sieve) (lines []Line, did ideas.Sifted,
	err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, did, err
	}
	did = b.Pass(by)
	list, err := s.ideas.Ideas(ctx, n.ID, b.Pass(sieve.Sieve{}.By(sieve.Found, false)).IDs(0, MostChecked))
	if err != nil {
		return nil, did, err
	}
	near, err := s.store.Nearests(ctx, n.ID)
	for _, i := range list {
		at, there := b.Table.Find(i.ID)
		if !there {
			continue
		}
		line := Line{Idea: i}
		var stops []int
		line.Verdict, stops = b.Table.Verdict(at, by.Filters, i.Row.DemandAt != nil || i.Row.DemandError != "")
		for _, k := range stops {
			line.Stops = append(line.Stops, by.Filters[k])
		}
		if w, looked := near[i.ID]; looked {
			line.Nearest, line.Often, line.Looked = w.Phrase, w.Searches, true
		}
		lines = append(lines, line)
	}
	return lines, did, err
}

// Told is what stops a line, and how many filters cannot tell yet, since what they go by is not looked up.
func (l Line) Told() string {
	var stops []string
	waiting := 0
	for _, f := range l.Stops {
		if f.By.Figure != nil && f.By.Paid() && !l.Idea.Value(f.By.Figure).Known {
			waiting++
			continue
		}
		stops = append(stops, f.String())
	}
	if waiting > 0 {
		stops = append(stops, fmt.Sprintf("%d not looked up", waiting))
	}
	return strings.Join(stops, "; ")
}

// Counts are how many lines have each verdict.
func Counts(lines []Line) map[sieve.Verdict]int {
	out := map[sieve.Verdict]int{}
	for _, l := range lines {
		out[l.Verdict]++
	}
	return out
}

// job is the kind of job that looks for the wordings that are searched, and item one of its steps.
const job = "wordings"

type item struct {
	Idea uint `json:"idea"`
}

// Kinds are the kinds of jobs that it does.
func (s *Checker) Kinds() []jobs.Kind {
	return []jobs.Kind{{Name: job, Workers: 4, Brings: "with a wording that is searched", Do: s.wording}}
}

// Bounds of the search for a wording (ours).
const (
	mostAsked = 10 // wordings whose searches are asked for
	lookups   = 2  // suggestions for each phrase: for it, and for its first half
)

// EstimateWordings says what it would cost to look for the wordings of so many phrases.
func (s *Checker) EstimateWordings(ctx context.Context, phrases int) (e ask.Estimate, err error) {
	if err := s.asker.EstimateOpen(ctx, &e, ask.Suggestions, lookups*phrases, 0, 4); err != nil {
		return e, err
	}
	return e, s.asker.EstimateOpen(ctx, &e, ask.Demand, mostAsked*phrases, 0, 4)
}

// Wordings starts to look for the wording that is searched of each phrase that is not.
func (s *Checker) Wordings(ctx context.Context, n niches.Niche, by sieve.Sieve) (jobs.Job, error) {
	lines, _, err := s.Verdicts(ctx, n, by)
	if err != nil {
		return jobs.Job{}, err
	}
	var items []item
	for _, l := range lines {
		if l.WantsWording() && !l.Looked {
			items = append(items, item{l.Idea.ID})
		}
	}
	if len(items) == 0 {
		return jobs.Job{}, input.Bad("list", "No phrase needs a wording: they are searched, not looked up, or done already.")
	}
	return s.runner.Start(ctx, n, job, fmt.Sprintf("Look for searched wordings of %d phrases", len(items)),
		jobs.Encode(items))
}

// WantsWording reports whether a wording that is searched would help a line.
func (l Line) WantsWording() bool {
	return l.Verdict == sieve.NotSearched || l.Verdict == sieve.EasySmall || l.Verdict == sieve.TooSmall
}

// wording looks for the wording of one phrase: among the ideas of the niche that the list is beside, and among what is
// suggested for it and for its first half.
func (s *Checker) wording(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var it item
	if err := json.Unmarshal([]byte(payload), &it); err != nil {
		return 0, err
	}
	list, err := s.ideas.Ideas(ctx, n.ID, []uint{it.Idea})
	if err != nil || len(list) == 0 {
		return 0, err
	}
	idea := list[0]
	ask.RequestOf(ctx).ForBranch(idea.Row.BranchID)
	known, err := s.around(ctx, n)
	if err != nil {
		return 0, err
	}
	if s.asker.Has(ask.Suggestions) {
		more, err := s.suggested(ctx, n, idea.Phrase)
		if err != nil {
			return 0, err
		}
		known = append(known, more...)
	}
	row := store.Nearest{IdeaID: idea.ID}
	best, found := phrase.Nearest(idea.Phrase, known, n.Language)
	if often := idea.Value(sieve.Searches); found && best.Searches > often.Number {
		row.Phrase, row.Searches = best.Phrase, int(best.Searches+0.5)
	}
	if err := s.store.SaveNearest(ctx, row); err != nil || row.Phrase == "" {
		return 0, err
	}
	return 1, nil
}

// around are the ideas of the niche that a list is beside, with their searches.
func (s *Checker) around(ctx context.Context, n niches.Niche) (out []phrase.Searched, err error) {
	of, err := s.niches.Get(ctx, n.ListOf)
	if errors.Is(err, input.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	b, err := s.ideas.Table(ctx, of)
	if err != nil {
		return nil, err
	}
	for at := range b.Len() {
		if x, known := b.Table.Number(at, sieve.Searches); known && x > 0 {
			out = append(out, phrase.Searched{Phrase: b.Table.Phrase(at), Searches: x})
		}
	}
	return out, nil
}

// suggested are wordings that are suggested, with their searches.
func (s *Checker) suggested(ctx context.Context, n niches.Niche, normal string) (out []phrase.Searched, err error) {
	words := strings.Fields(normal)
	texts := []string{normal, strings.Join(words[:(len(words)+1)/2], " ")}
	var all []string
	for _, text := range texts {
		got, err := s.asker.Suggest(ctx, text, n.Locale())
		if err != nil {
			return nil, err
		}
		for _, raw := range got.Value {
			if p, err := phrase.Parse(raw); err == nil {
				all = append(all, p)
			}
		}
	}
	like := phrase.Like(normal, all, n.Language, mostAsked)
	if len(like) == 0 || !s.asker.Has(ask.Demand) {
		return nil, nil
	}
	figures, err := s.gatherer.Figures(ctx, n, like)
	for p, f := range figures {
		if sum, ok := demand.Summarise(f.Value); ok && !sum.Under {
			out = append(out, phrase.Searched{Phrase: p, Searches: float64(sum.Average)})
		}
	}
	return out, err
}

// TakeIn puts phrases of a list that is checked into its niche: what passes a sieve, or all of it, with the wordings
// that are searched in place of those that are not where that is wanted. It returns how many are new there.
func (s *Checker) TakeIn(ctx context.Context, n niches.Niche, by sieve.Sieve, all, reworded bool) (added int,
	err error) {
	of, err := s.niches.Get(ctx, n.ListOf)
	if err != nil {
		return 0, err
	}
	lines, _, err := s.Verdicts(ctx, n, by)
	if err != nil {
		return 0, err
	}
	name := ideas.ListName(n.Name)
	var finds []store.Find
	for _, l := range lines {
		if all || l.Verdict == sieve.Passes {
			f := s.ideas.Find(of, l.Idea.Phrase, store.Origin{Kind: ideas.FromList, Query: name})
			if row := l.Idea.Row; strings.HasPrefix(row.DemandSource, store.ImportSource) { // the others are at hand
				f.Idea.DemandAt, f.Idea.DemandSource, f.Idea.Searches = row.DemandAt, row.DemandSource, row.Searches
				f.Idea.Under, f.Idea.Range = row.Under, row.Range
				f.Idea.CPCMicros, f.Idea.Currency = row.CPCMicros, row.Currency
			}
			finds = append(finds, f)
		}
		if reworded && l.Nearest != "" {
			finds = append(finds, s.ideas.Find(of, l.Nearest, store.Origin{Kind: ideas.FromList, Query: name}))
		}
	}
	if len(finds) == 0 {
		return 0, input.Bad("list", "There is nothing to import.")
	}
	if added, err = s.store.AddIdeas(ctx, of.ID, finds); err == nil && s.asker.Has(ask.Demand) {
		_, err = s.gatherer.LookUpSearches(ctx, of)
	}
	return added, err
}
