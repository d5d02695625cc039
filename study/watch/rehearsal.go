package watch

import (
	"context"
	"errors"
	"fmt"
	"time"

	"cleverniche/core/plan"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Stage is a simulated web that can go on, and that takes pages: of the demo alone.
type Stage interface {
	// GoOn moves its clock, and that of the data file.
	GoOn(ctx context.Context, days int) error
	// Publish puts a well-made page for a phrase onto a site, and returns its address.
	Publish(ctx context.Context, site, phrase string) (url string, err error)
}

// Rehearse lets articles be published into a simulated web, and its weeks pass. It is not called where the web is real.
func (s *Watcher) Rehearse(on Stage) { s.stage = on }

// Rehearses reports whether the web is simulated.
func (s *Watcher) Rehearses() bool { return s.stage != nil }

// errReal is why nothing is rehearsed.
var errReal = input.Bad("weeks", "Only the demo can rehearse.")

// MostWeeks is how many weeks the simulated web goes on at once.
const MostWeeks = 26

const rehearsalJob = "rehearsal"

// GoOn starts a job that lets the weeks of a simulated web pass, and checks all places after each.
func (s *Watcher) GoOn(ctx context.Context, n niches.Niche, weeks int) (job jobs.Job, err error) {
	switch {
	case s.stage == nil:
		return job, errReal
	case weeks < 1 || weeks > MostWeeks:
		return job, input.Bad("weeks", "Go on 1 to %d weeks at a time.", MostWeeks)
	}
	if err := s.Sync(ctx, n); err != nil {
		return job, err
	}
	items := make([]int, weeks)
	return s.runner.Start(ctx, n, rehearsalJob, fmt.Sprintf("Rehearsal: %d weeks pass in the simulated web", weeks),
		jobs.Encode(items))
}

// aWeek lets one week pass, and checks places.
func (s *Watcher) aWeek(ctx context.Context, n niches.Niche, _ string) (found int, err error) {
	if s.stage == nil {
		return 0, errReal
	}
	if err := s.stage.GoOn(ctx, 7); err != nil {
		return 0, err
	}
	list, err := s.store.Watched(ctx, n.ID)
	if err != nil {
		return 0, err
	}
	chosen, err := s.Chosen(ctx, n)
	if err != nil {
		return 0, err
	}
	var errs []error
	scenes := append([]string{""}, chosen...)
	for _, w := range list {
		for _, scene := range scenes {
			at, err := s.placeOf(ctx, n, check{w.ID, scene, s.store.Now().UTC()})
			if err != nil {
				errs = append(errs, err)
			}
			found += at
		}
	}
	return found, errors.Join(errs...)
}

// ToPublish are articles of the plan that a rehearsal may publish, in the plan's order.
func (s *Watcher) ToPublish(ctx context.Context, n niches.Niche) (out []articles.Article, err error) {
	if s.stage == nil || n.OwnSite == "" {
		return nil, nil
	}
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return nil, err
	}
	for _, a := range sheet.Articles {
		if (a.State() == plan.ToWrite || a.State() == plan.Writing) && !a.Gone {
			out = append(out, a)
		}
	}
	return out, nil
}

// Publish puts an article of the plan into the simulated web, today, and marks it as published.
func (s *Watcher) Publish(ctx context.Context, n niches.Niche, article uint) error {
	list, err := s.ToPublish(ctx, n)
	if err != nil {
		return err
	}
	for _, a := range list {
		if a.Key() != article {
			continue
		}
		url, err := s.stage.Publish(ctx, n.OwnSite, a.Lead())
		if err != nil {
			return input.Bad("article", "%s", input.Sentence(err.Error()))
		}
		state, day := string(plan.Published), s.store.Now().Format(time.DateOnly)
		return s.planner.Change(ctx, n, article, articles.Change{State: &state, Address: &url, Published: &day})
	}
	return input.Bad("article", "That article is no longer in the plan. Reload the page.")
}
