package articles

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Action is a phrase that I have a page for: where it stands, and what to do next.
type Action struct {
	Idea   ideas.Idea
	Page   string // mine
	By     string // how it is told that the page is for the phrase
	Now    plan.Standing
	First  string // the first result
	Next   string
	Done   string // what was to be done when somebody ticked it; "" nothing was
	IsDone bool   // it is what is to be done now
}

// MostActions is how many are shown at once.
const MostActions = 60

// mostFrom is more actions than there ever are.
const mostFrom = 1 << 30

// Actions lists the phrases that pages of mine stand for or answer, the most searched first, from a place
// on; all is how many there are.
func (s *Planner) Actions(ctx context.Context, n niches.Niche, from int) (out []Action, all int, err error) {
	from = min(max(0, from), mostFrom)
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return nil, 0, err
	}
	done, err := s.store.Actions(ctx, n.ID)
	if err != nil {
		return nil, 0, err
	}
	list := ownAnswers(t)
	all = len(list)
	list = list[min(from, all):min(from+MostActions, all)]
	for _, m := range list {
		row, err := s.store.Idea(ctx, n.ID, m.id)
		if err != nil {
			return nil, 0, err
		}
		a := Action{Idea: ideas.FromRow(row, n.VisitMicros), Page: m.page.URL, By: "ranks for the phrase"}
		if m.page.Position == 0 {
			a.By = "phrase in its title"
		}
		if err := s.act(ctx, n, &a); err != nil {
			return nil, 0, err
		}
		if d, some := done[m.id]; some {
			a.Done, a.IsDone = d.Done, d.Done == a.Next
		}
		out = append(out, a)
	}
	return out, all, nil
}

// mine is a phrase that a page of mine stands for or answers.
type mine struct {
	id       uint
	phrase   string
	page     topics.OwnAnswer
	searches float64
}

// ownAnswers lists them, the most searched first.
func ownAnswers(t *topics.Topics) (list []mine) {
	for _, one := range t.List {
		seen := map[uint]bool{}
		for _, own := range one.Own {
			idea := one.Ideas[0]
			for _, i := range one.Ideas {
				if i.Phrase == own.Phrase {
					idea = i
				}
			}
			if !seen[idea.ID] && idea.LookedUp {
				seen[idea.ID] = true
				list = append(list, mine{idea.ID, idea.Phrase, own, idea.Searches})
			}
		}
	}
	slices.SortStableFunc(list, func(a, b mine) int { return int(b.searches) - int(a.searches) })
	return list
}

// place finds where my page stands by what was looked up below the ten, and which of my pages it is.
func (s *Planner) place(ctx context.Context, n niches.Niche, a *Action) error {
	deep, ok, err := s.asker.LastPlaces(ctx, a.Idea.Phrase, n.Locale())
	if err != nil || !ok {
		return err
	}
	a.Now.Below = ask.PlacesDepth
	for _, o := range deep.Value.Organic {
		if !s.niches.IsOwn(n, o.URL) {
			continue
		}
		if a.Now.Position = o.Position; o.URL != a.Page {
			a.By = "ranks in place of “" + input.Clip(a.Page, 60) + "”"
			a.Page = o.URL
		}
		return nil
	}
	return nil
}

// act fills in where my page stands, what the first has, and what is next.
func (s *Planner) act(ctx context.Context, n niches.Niche, a *Action) error {
	ev, err := s.results.Evidence(ctx, n, a.Idea.ID)
	if err != nil && !errors.Is(err, input.ErrNotFound) && !errors.Is(err, results.ErrUnreadable) {
		return err
	}
	a.Now.Median = ev.Reading.MedianWords
	var mine, first serp.Entry
	for _, e := range ev.Reading.Entries {
		if e.URL == a.Page {
			mine, a.Now.Position = e, e.Position
		}
		if e.Position == 1 {
			first, a.First = e, e.URL
		}
	}
	if a.Now.Position == 0 {
		if err := s.place(ctx, n, a); err != nil {
			return err
		}
	}
	for _, side := range []struct {
		url   string
		entry serp.Entry
		to    *plan.Shown
	}{{a.Page, mine, &a.Now.Mine}, {a.First, first, &a.Now.First}} {
		page, err := s.results.PageAtHand(ctx, side.url)
		if err != nil {
			return err
		}
		if page != nil {
			*side.to = plan.ShownBy(a.Idea.Phrase, n.Language, page.Title, page.Description,
				slices.Concat(page.H1, page.Headings))
			side.to.Words = page.Words
		}
		side.to.Followed = side.entry.Profile.Followed
	}
	if r := ev.Reading; r.Settled {
		kind := mine.Type
		if page, err := s.results.PageAtHand(ctx, a.Page); mine.Position == 0 && err == nil && page != nil {
			kind, _ = serp.TypeOf(a.Page, page.Title, page)
		}
		if kind != "" && kind != serp.Unknown && kind.Want() != r.Majority {
			a.Now.Kind = kind.One()
			a.Now.Kinds = r.Article().Kind.Counted(r.Serve[r.Majority])
		}
	}
	a.Next = a.Now.Next()
	return nil
}

// DoAction notes that what is to be done for a phrase is done, or takes that back.
func (s *Planner) DoAction(ctx context.Context, n niches.Niche, id uint, what string) error {
	if _, err := s.store.Idea(ctx, n.ID, id); err != nil {
		return err
	}
	return s.store.SetAction(ctx, n.ID, id, input.Clip(what, 300))
}

// ownJob is the job kind of looking for the pages of the niche's own site.
const ownJob = "own pages"

// placesJob is the job kind of looking for places of my pages below the ten.
const placesJob = "own places"

func (s *Planner) placesKind() jobs.Kind {
	return jobs.Kind{Name: placesJob, Workers: 2, Brings: "places found", Do: func(ctx context.Context, n niches.Niche,
		phrase string) (found int, err error) {
		deep, err := s.asker.Places(ctx, phrase, n.Locale())
		if err != nil {
			return 0, err
		}
		if slices.ContainsFunc(deep.Value.Organic, func(o market.Organic) bool { return s.niches.IsOwn(n, o.URL) }) {
			found = 1
		}
		return found, nil
	}}
}

// unplaced lists the phrases that a page of mine answers and is not among the ten for.
func (s *Planner) unplaced(ctx context.Context, n niches.Niche) (phrases []string, err error) {
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return nil, err
	}
	for _, m := range ownAnswers(t) {
		if m.page.Position == 0 && len(phrases) < mostPlaces && !slices.Contains(phrases, m.phrase) {
			phrases = append(phrases, m.phrase)
		}
	}
	return phrases, nil
}

// mostPlaces is for how many phrases places are looked for at once.
const mostPlaces = 500

// EstimatePlaces says what looking for places below the ten would ask, and for how many phrases.
func (s *Planner) EstimatePlaces(ctx context.Context, n niches.Niche) (e ask.Estimate, phrases int, err error) {
	list, err := s.unplaced(ctx, n)
	if err != nil {
		return e, 0, err
	}
	keys := make([]string, len(list))
	for i, p := range list {
		keys[i] = s.asker.PlacesKey(p, n.Locale())
	}
	return e, len(list), s.asker.Estimate(ctx, &e, ask.Results, keys, 1)
}

// LookUpPlaces starts a job that looks for my pages below the ten, for phrases that one of them answers.
func (s *Planner) LookUpPlaces(ctx context.Context, n niches.Niche) (jobs.Job, error) {
	list, err := s.unplaced(ctx, n)
	if err != nil {
		return jobs.Job{}, err
	}
	if len(list) == 0 {
		return jobs.Job{}, input.Bad("site", "All your pages are in the top ten of their phrases.")
	}
	return s.runner.Start(ctx, n, placesJob, fmt.Sprintf("Look for your places, down to %d", ask.PlacesDepth), list)
}

func (s *Planner) ownKind() jobs.Kind {
	return jobs.Kind{Name: ownJob, Workers: 1, Brings: "of your pages found", Do: s.ownStep}
}

// EstimateOwnPages says what looking for the pages of the niche's own site would ask at most.
func (s *Planner) EstimateOwnPages(ctx context.Context) (e ask.Estimate, err error) {
	if err = s.asker.EstimateOpen(ctx, &e, ask.Results, 1, 0, 1); err == nil {
		err = s.asker.EstimateOpen(ctx, &e, ask.Page, ask.MostOwnPages, 0, 1)
	}
	return e, err
}

// LookUpOwnPages starts a job that asks the search engine for the pages of the niche's own site, and for each
// of them, so that topics that they answer are told.
func (s *Planner) LookUpOwnPages(ctx context.Context, n niches.Niche) (jobs.Job, error) {
	if n.OwnSite == "" {
		return jobs.Job{}, input.Bad("site", "Set your site in Settings first.")
	}
	return s.runner.Start(ctx, n, ownJob, "Look for the pages of "+input.Clip(n.OwnSite, 60), []string{n.OwnSite})
}

func (s *Planner) ownStep(ctx context.Context, n niches.Niche, _ string) (found int, err error) {
	asked, err := s.asker.Site(ctx, n.OwnSite, n.Locale())
	if err != nil {
		return 0, err
	}
	var pages []store.OwnPage
	for _, o := range asked.Value.Organic[:min(ask.MostOwnPages, len(asked.Value.Organic))] {
		if s.niches.IsOwn(n, o.URL) {
			pages = append(pages, store.OwnPage{URL: o.URL, Title: o.Title})
		}
	}
	for _, p := range pages { // one that cannot be had is known by its title
		if _, err := s.asker.Page(ctx, p.URL); err != nil && (ask.StopsWork(err) || ctx.Err() != nil) {
			return 0, err
		}
	}
	return len(pages), s.store.SaveOwnPages(ctx, n.ID, pages)
}
