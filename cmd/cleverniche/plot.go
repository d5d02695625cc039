package main

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"cleverniche/core/plan"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// What the demo has in its plan.
const (
	demoStanding = 2 // published pages that stand in the top ten
	demoMissed   = 1 // and that do not
	demoWeeks    = 5
	demoShared   = 3
)

// plot fills the demo's Group and Plan by the same use cases that its users have: what is looked up is
// grouped, a topic is split by hand, some articles are published, and some have their place in the
// calendar, one of them for a season ahead.
func plot(ctx context.Context, s *study.Study, n niches.Niche) error {
	n, err := s.Topics.Regroup(ctx, n, niches.ScopeLooked, demoShared)
	if err != nil {
		return err
	}
	job, err := s.Articles.LookUpOwnPages(ctx, n)
	if err == nil {
		err = s.Jobs.Wait(ctx, job.ID)
	}
	if err != nil {
		return err
	}
	if err := splitLargest(ctx, s, n); err != nil {
		return err
	}
	if err := publishSome(ctx, s, n); err != nil {
		return err
	}
	if err := planSome(ctx, s, n); err != nil {
		return err
	}
	if _, err := s.Articles.LayOut(ctx, n); err != nil {
		return err
	}
	return begin(ctx, s, n)
}

// planSome puts into the plan what the proposal chooses, and the best article for a season ahead.
func planSome(ctx context.Context, s *study.Study, n niches.Niche) error {
	c, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: demoWeeks, SpokesWithHub: true, Waits: true,
		LeastChance: 0.1, Floor: 100_000})
	if err != nil {
		return err
	}
	var ids []uint
	ahead := uint(0)
	for _, a := range c.Taken {
		ids = append(ids, a.ID)
		if !a.Schedule.Due.IsZero() {
			ahead = a.ID
		}
	}
	for _, a := range c.Left { // the best come first
		if ahead == 0 && a.Season.Peak.Months > 0 && a.Schedule.Due.After(s.Now().AddDate(0, 2, 0)) {
			ahead = a.ID
			ids = append(ids, a.ID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	_, err = s.Articles.Add(ctx, n, ids)
	return err
}

// splitLargest splits the last two wordings off the topic with most of them.
func splitLargest(ctx context.Context, s *study.Study, n niches.Niche) error {
	grouped, err := s.Topics.Of(ctx, n)
	if err != nil || len(grouped.List) == 0 {
		return err
	}
	large := slices.MaxFunc(grouped.List, func(a, b topics.Topic) int { return len(a.Ideas) - len(b.Ideas) })
	ids := large.IDs()
	if len(ids) < 4 {
		return nil
	}
	return s.Topics.Split(ctx, n, ids[len(ids)-2:])
}

// publishSome notes for the topics that pages of the own site answer where and when they came out.
func publishSome(ctx context.Context, s *study.Study, n niches.Niche) error {
	grouped, err := s.Topics.Of(ctx, n)
	if err != nil {
		return err
	}
	var own []topics.Topic
	for _, t := range grouped.List {
		if len(t.Own) > 0 {
			own = append(own, t)
		}
	}
	place := func(t topics.Topic) int { return cmp.Or(t.Own[0].Position, 99) }
	slices.SortStableFunc(own, func(a, b topics.Topic) int { return place(a) - place(b) })
	if len(own) > demoStanding+demoMissed {
		own = append(own[:demoStanding], own[len(own)-demoMissed:]...)
	}
	for i, t := range own {
		if _, err := s.Articles.Add(ctx, n, []uint{t.ID}); err != nil {
			return err
		}
		now, err := s.Topics.Of(ctx, n)
		if err != nil {
			return err
		}
		if t, err = now.Of(t.ID); err != nil {
			return err
		}
		state, address := string(plan.Published), t.Own[0].URL
		day := s.Now().AddDate(0, 0, -28*(i+1)).Format(time.DateOnly)
		change := articles.Change{State: &state, Address: &address, Published: &day}
		if err := s.Articles.Change(ctx, n, t.Hand(), change); err != nil {
			return err
		}
	}
	return nil
}

// begin marks the first article as being written, and gives another one a deadline and a note.
func begin(ctx context.Context, s *study.Study, n niches.Niche) error {
	sheet, err := s.Articles.Plan(ctx, n)
	if err != nil {
		return err
	}
	open := slices.DeleteFunc(sheet.Articles, func(a articles.Article) bool { return a.State() != plan.ToWrite })
	slices.SortFunc(open, func(a, b articles.Article) int { return a.Start.Compare(b.Start) })
	if len(open) < 2 {
		return errors.New("the demo has too few topics to write about")
	}
	writing := string(plan.Writing)
	if err := s.Articles.Change(ctx, n, open[0].Key(), articles.Change{State: &writing}); err != nil {
		return err
	}
	deadline := open[1].Schedule.Ready.AddDate(0, 0, 5).Format(time.DateOnly)
	note := "Ask the club for photographs through their eyepieces"
	return s.Articles.Change(ctx, n, open[1].Key(), articles.Change{Deadline: &deadline, Note: &note})
}
