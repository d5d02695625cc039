package results

import (
	"context"
	"errors"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

const weeksKey = "weeks"

// Past weeks that are asked for: every fourth of a year. Twelve steps tell how restless results are; each costs a
// look-up of results (ours).
const (
	pastSteps  = 12
	pastStep   = 28 * ask.Day
	nearEnough = 7 // days from a snapshot that is there
)

// weeks is the lookup of what the results of past weeks were.
var weeks = Lookup{Key: weeksKey, From: sieve.FromWeeks, Tells: sieve.Steadiness, Name: "with past weeks",
	Act: "ask for the past year", job: "weeks", brings: "asked", title: "Ask for the past year of %d %s",
	one: "Ask for the past year of “%s”", has: "%d past weeks", fails: "WeekError",
	estimate: estimateWeeks, most: mostWeeks, do: (*Researcher).askWeeks}

// pastDays are the days of a past year that a history has nothing near of.
func pastDays(h serp.History, now time.Time) (out []time.Time) {
	today := now.UTC().Truncate(ask.Day)
	for i := 1; i <= pastSteps; i++ {
		if day := today.Add(-time.Duration(i) * pastStep); !h.Near(day, nearEnough) {
			out = append(out, day)
		}
	}
	return out
}

func estimateWeeks(s *Researcher, ctx context.Context, _ niches.Niche, list []store.Idea, e *ask.Estimate) error {
	open, kept := 0, 0
	for _, idea := range list {
		h, err := s.History(ctx, idea.ID)
		if err != nil {
			return err
		}
		days := len(pastDays(h, s.store.Now()))
		open, kept = open+days, kept+pastSteps-days
	}
	return s.asker.EstimateOpen(ctx, e, ask.Results, open, kept, lookupWorkers)
}

func mostWeeks(s *Researcher, ctx context.Context, _ niches.Niche, ideas int, e *ask.Estimate) error {
	return s.asker.EstimateOpen(ctx, e, ask.Results, ideas*pastSteps, 0, lookupWorkers)
}

// HasPast reports whether somebody can be asked what results were in past weeks.
func (s *Researcher) HasPast() bool { return s.asker.HasPast() }

// errNoPast is why past weeks cannot be asked for.
var errNoPast = errors.New("no source of results knows past weeks; a snapshot is kept whenever you look it up")

func (s *Researcher) askWeeks(ctx context.Context, n niches.Niche, idea store.Idea) error {
	if !s.asker.HasPast() {
		return errNoPast
	}
	h, err := s.History(ctx, idea.ID)
	if err != nil {
		return err
	}
	var keys []string
	for _, day := range pastDays(h, s.store.Now()) {
		page, err := s.asker.ResultsOn(ctx, idea.Phrase, n.Locale(), day)
		if err != nil {
			return err
		}
		if len(page.Value.Organic) > 0 { // it may not have been searched then, or the source have a hole
			h = h.With(day, page.Value.Engine, s.shown(ctx, page.Value, nil))
		}
		keys = append(keys, s.asker.PastKey(idea.Phrase, n.Locale(), day))
	}
	idea.WeekError = ""
	body, err := noteHistory(&idea, h)
	if err != nil {
		return err
	}
	if err := s.store.SaveHistory(ctx, idea, body); err != nil {
		return err
	}
	return s.store.Forget(ctx, string(ask.Results), keys) // the history holds them
}

// History is what the results of an idea were; an empty one where that is not known.
func (s *Researcher) History(ctx context.Context, idea uint) (serp.History, error) {
	body, err := s.store.History(ctx, idea)
	if errors.Is(err, input.ErrNotFound) {
		return serp.History{}, nil
	}
	if err != nil {
		return serp.History{}, err
	}
	h, err := serp.ReadHistory(body)
	if err != nil {
		return serp.History{}, nil // damaged is as good as none: it is written anew
	}
	return h, nil
}

// shown is a page of results as a snapshot holds it: with the types that entries say, or else pages that were
// read once.
func (s *Researcher) shown(ctx context.Context, r market.Results, entries []serp.Entry) (out []serp.Shown) {
	types := map[string]serp.PageType{}
	for _, e := range entries {
		types[e.URL] = e.Type
	}
	for _, o := range r.Organic[:min(serp.FirstPage, len(r.Organic))] {
		one := serp.Shown{URL: o.URL, Title: o.Title, Type: types[o.URL]}
		if one.Type == "" {
			p, _ := s.PageAtHand(ctx, o.URL)
			one.Type, _ = serp.TypeOf(o.URL, o.Title, p)
		}
		out = append(out, one)
	}
	return out
}

// noteHistory fills in the columns that follow from a history, and returns it as it is kept.
func noteHistory(idea *store.Idea, h serp.History) (string, error) {
	c := serp.CourseOf(h)
	idea.Weeks, idea.Steadiness = c.Snapshots, nil
	if c.Known {
		idea.Steadiness = &c.Overlap
	}
	return h.Body()
}

// keepSnapshot adds what was looked up to the history of an idea.
func (s *Researcher) keepSnapshot(ctx context.Context, idea *store.Idea, ev *Evidence) (string, error) {
	h, err := s.History(ctx, idea.ID)
	if err != nil {
		return "", err
	}
	return noteHistory(idea, h.With(ev.AskedAt, ev.Results.Engine, s.shown(ctx, ev.Results, ev.Reading.Entries)))
}

// SiteOf is the site that a page stands on.
func (s *Researcher) SiteOf(page string) string { return s.suffixes.Site(links.Host(page)) }
