package watch

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"cleverniche/core/watch"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

const pastJob = "past places"

// mostPast is how many weeks back places are asked for.
const mostPast = 52

// near is how close to a day a place must be known for it not to be asked for (ours).
const near = 4 * 24 * time.Hour

// past is one item: a watched phrase, and a day.
type past struct {
	Watched uint      `json:"watched"`
	Day     time.Time `json:"day"`
}

// unknownWeeks are the weeks since publication, or where that is not known the last twelve, of which no place is known.
func (s *Watcher) unknownWeeks(n niches.Niche, list []Page) (out []past) {
	if !s.asker.HasPast() {
		return nil
	}
	today := s.store.Now().UTC().Truncate(24 * time.Hour)
	for _, p := range list {
		if p.Site == "" && n.OwnSite == "" {
			continue
		}
		weeks := 12
		if !p.Out.IsZero() {
			weeks = min(mostPast, int(today.Sub(p.Out).Hours()/24/7))
		}
		for w := weeks; w >= 1; w-- {
			day := today.AddDate(0, 0, -7*w)
			if !knows(p.Line, day) {
				out = append(out, past{p.ID, day})
			}
		}
	}
	return out
}

func knows(l watch.Line, day time.Time) bool {
	for _, p := range l {
		if d := p.Day.Sub(day); d < near && d > -near {
			return true
		}
	}
	return false
}

// PastCost says what asking for past weeks of pages would ask at most, and for how many.
func (s *Watcher) PastCost(ctx context.Context, n niches.Niche, pages []Page) (e ask.Estimate, weeks int, err error) {
	list := s.unknownWeeks(n, pages)
	if len(list) == 0 {
		return e, 0, nil
	}
	return e, len(list), s.asker.EstimateOpen(ctx, &e, ask.Results, len(list), 0, checkWorkers)
}

// AskPast starts a job that asks where my pages stood in weeks of which nothing is known.
func (s *Watcher) AskPast(ctx context.Context, n niches.Niche) (job jobs.Job, err error) {
	if err := s.Sync(ctx, n); err != nil {
		return job, err
	}
	pages, err := s.Pages(ctx, n)
	if err != nil {
		return job, err
	}
	list := s.unknownWeeks(n, pages)
	if len(list) == 0 {
		return job, input.Bad("past", "All past weeks that can be asked for are known.")
	}
	return s.runner.Start(ctx, n, pastJob, "Ask where your pages stood in past weeks", jobs.Encode(list))
}

func (s *Watcher) pastOne(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var p past
	if err := json.Unmarshal([]byte(payload), &p); err != nil {
		return 0, err
	}
	w, err := s.store.OneWatched(ctx, n.ID, p.Watched)
	if errors.Is(err, input.ErrNotFound) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	got, err := s.asker.DeepestOn(ctx, w.Phrase, n.Locale(), p.Day)
	if err != nil {
		return 0, err
	}
	return s.stood(ctx, on(n, w.Site), w, "", got.Value, p.Day)
}
