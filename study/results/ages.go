package results

import (
	"context"
	"errors"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

const agesKey = "ages"

// ages is the lookup of how old the sites of the top ten are, by registration.
var ages = Lookup{Key: agesKey, From: sieve.FromAges, Tells: sieve.Youngest, Name: "with ages of sites",
	Act: "check ages of sites", job: "count", brings: "checked", title: "Check ages of sites for %d %s",
	has: "%d answers", fails: "AgeError", estimate: estimateAges, most: mostAges, do: (*Researcher).askAges}

func estimateAges(s *Researcher, ctx context.Context, _ niches.Niche, list []store.Idea, e *ask.Estimate) error {
	ids := make([]uint, len(list))
	for i, idea := range list {
		ids[i] = idea.ID
	}
	tens, err := s.store.FoundPages(ctx, ids)
	if err != nil {
		return err
	}
	seen, open := map[string]bool{}, 0
	for _, pages := range tens {
		for _, site := range s.sitesOf(pages) {
			if seen[site] {
				continue
			}
			seen[site] = true
			known, err := s.Since(ctx, site)
			if err != nil {
				return err
			}
			if known.IsZero() {
				open++
			}
		}
	}
	return s.asker.EstimateOpen(ctx, e, ask.Names, open, len(seen)-open, lookupWorkers)
}

func mostAges(s *Researcher, ctx context.Context, n niches.Niche, ideas int, e *ask.Estimate) error {
	return s.asker.EstimateOpen(ctx, e, ask.Names, ideas*s.read(n), 0, lookupWorkers)
}

// sitesOf are the sites of pages, each once, without bare addresses.
func (s *Researcher) sitesOf(pages []string) (out []string) {
	seen := map[string]bool{}
	for _, page := range pages {
		site := s.suffixes.Site(links.Host(page))
		if site != "" && !links.IsAddress(site) && !seen[site] {
			seen[site] = true
			out = append(out, site)
		}
	}
	return out
}

// Since is when a site was registered, by what was asked once, however long ago: the zero time where that is not known.
// A free host's user is as old as that host may say, which nobody asks.
func (s *Researcher) Since(ctx context.Context, site string) (time.Time, error) {
	kept, ok, err := ask.Kept[market.Registration](ctx, s.asker, ask.Names, site)
	if err != nil || !ok || !kept.Value.Taken {
		return time.Time{}, err
	}
	return kept.Value.Since, nil
}

// errNotLooked is why nothing can be said of the sites of an idea's results.
var errNotLooked = errors.New("look up its results first")

func (s *Researcher) askAges(ctx context.Context, n niches.Niche, idea store.Idea) error {
	tens, err := s.store.FoundPages(ctx, []uint{idea.ID})
	if err != nil {
		return err
	}
	if len(tens[idea.ID]) == 0 {
		return errNotLooked
	}
	now := s.store.Now().UTC()
	idea.AgesAt, idea.AgeError, idea.Youngest = &now, "", nil
	for _, site := range s.sitesOf(tens[idea.ID]) {
		since, err := s.Since(ctx, site)
		if err != nil {
			return err
		}
		if since.IsZero() && !s.suffixes.FreeHost(site) {
			found, err := s.asker.Registration(ctx, site)
			if err != nil {
				return err
			}
			since = found.Value.Since
		}
		if since.IsZero() || since.After(now) {
			continue
		}
		if years := now.Sub(since).Hours() / 24 / daysAYear; idea.Youngest == nil || years < *idea.Youngest {
			idea.Youngest = &years
		}
	}
	return s.store.SaveLookup(ctx, n.ID, idea, agesKey)
}

const daysAYear = 365.2425
