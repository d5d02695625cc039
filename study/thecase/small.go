package thecase

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"

	"cleverniche/core/niche"
	"cleverniche/core/worth"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/rivals"
)

// Small is a site that may live from the niche.
type Small struct {
	niche.Site
	Worth    float64 // of its visits a month, in units of the currency
	Cautious float64 // a tenth of that
	Counted  bool    // its visits are counted here, by places and clicks; else a service said them
}

// mostSmall is up to which standing a site may be taken for small, wherever the bar is.
const mostSmall = 40

// small are the sites that stand in the tens, with how old they are and how many pages they have, as far as that is
// known. Visits of a service count before those reckoned by places.
func (s *Examiner) small(ctx context.Context, n niches.Niche, revision int64) (out []Small, err error) {
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return nil, err
	}
	var ids []uint
	for _, st := range standers {
		for _, at := range st.Stands {
			ids = append(ids, at.Idea)
		}
	}
	slices.Sort(ids)
	rows, err := s.ideas.Ideas(ctx, n.ID, slices.Compact(ids))
	if err != nil {
		return nil, err
	}
	byID := map[uint]ideas.Idea{}
	for _, r := range rows {
		byID[r.ID] = r
	}
	who, err := s.rivals.Who(ctx, n, revision)
	if err != nil {
		return nil, err
	}
	known := map[string]rivals.Neighbour{}
	for _, w := range who.Sites {
		known[w.Site] = w
	}
	now := s.store.Now()
	for _, st := range standers {
		if st.Own {
			continue
		}
		w := known[st.Site]
		site := niche.Site{Name: st.Site, Standing: st.Standing, Months: -1, Pages: -1, Phrases: st.Ideas}
		since := st.Since
		if since.IsZero() && st.Standing <= mostSmall { // it may have been asked since the tens were counted
			if since, err = s.results.Since(ctx, st.Site); err != nil {
				return nil, err
			}
		}
		if !since.IsZero() && since.Before(now) {
			site.Months = int(now.Sub(since).Hours() / 24 / worth.DaysAMonth)
		}
		if r := rivals.RecentOf(w.Rival); !r.At.IsZero() {
			site.Pages = r.Pages
		}
		if all, ok := w.All(); ok {
			site.Phrases = max(site.Phrases, all)
		} else {
			site.AtLeast = true
		}
		one := Small{Counted: true}
		for _, at := range st.Stands {
			row := byID[at.Idea]
			if row.Row.Searches != nil {
				site.Visits += float64(*row.Row.Searches) * worth.Searches.At(at.Place)
			}
		}
		if w.Visits != nil {
			site.Visits, one.Counted = *w.Visits, false
		}
		one.Worth = site.Visits * perVisit(n, 0).Likely
		one.Cautious = one.Worth / 10
		one.Site = site
		out = append(out, one)
	}
	return out, nil
}

// Small are the sites under the bar of standing, those with most visits first; in all is how many there are.
func (s *Examiner) Small(ctx context.Context, n niches.Niche, bars niche.Bars, most int) (out []Small, all int,
	err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, 0, err
	}
	list, err := s.small(ctx, n, b.Revision)
	if err != nil {
		return nil, 0, err
	}
	for _, one := range list {
		if math.Round(one.Standing) <= bars.Standing {
			out = append(out, one)
		}
	}
	slices.SortStableFunc(out, func(a, b Small) int {
		switch {
		case a.Visits > b.Visits:
			return -1
		case a.Visits < b.Visits:
			return 1
		}
		return 0
	})
	return out[:min(most, len(out))], len(out), nil
}

// sitesJob is the kind of jobs that look at small sites.
const sitesJob = "small sites"

// Kinds are the kinds of jobs of the case.
func (s *Examiner) Kinds() []jobs.Kind {
	return []jobs.Kind{{Name: sitesJob, Workers: 2, Brings: "sites looked at", Do: s.lookAt}}
}

// unseen are the small sites of which age or pages are not known.
func (s *Examiner) unseen(ctx context.Context, n niches.Niche, bars niche.Bars) (names []string, ages int, err error) {
	list, _, err := s.Small(ctx, n, bars, MostSmall)
	for _, one := range list {
		if one.Months < 0 {
			ages++
		}
		if one.Months < 0 || one.Pages < 0 {
			names = append(names, one.Name)
		}
	}
	return names, ages, err
}

// SitesCost says of how many small sites age or pages are not known, and what asking would cost at most.
func (s *Examiner) SitesCost(ctx context.Context, n niches.Niche, bars niche.Bars) (sites int, cost string, err error) {
	names, ages, err := s.unseen(ctx, n, bars)
	return len(names), s.asker.Money(int64(ages) * s.asker.Price(ask.Names)), err
}

// AskSites starts a job that asks how old small sites are, and reads their sitemaps.
func (s *Examiner) AskSites(ctx context.Context, n niches.Niche, bars niche.Bars) (jobs.Job, error) {
	names, _, err := s.unseen(ctx, n, bars)
	if err == nil && len(names) == 0 {
		err = input.Bad("sites", "Age and pages of all small sites are known.")
	}
	if err != nil {
		return jobs.Job{}, err
	}
	return s.runner.Start(ctx, n, sitesJob, fmt.Sprintf("Look at %d small sites", len(names)), jobs.Encode(names))
}

// lookAt asks how old a site is and reads its sitemap; one says something also where the other does not.
func (s *Examiner) lookAt(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var name string
	if err := json.Unmarshal([]byte(payload), &name); err != nil {
		return 0, err
	}
	since, err := s.results.Since(ctx, name)
	if err != nil {
		return 0, err
	}
	var failed error
	if since.IsZero() {
		_, failed = s.asker.Registration(ctx, name)
		if ask.StopsWork(failed) {
			return 0, failed
		}
	}
	defer s.forget(n.ID) // what one of the two said counts
	if _, err := s.rivals.ReadSitemap(ctx, n, name); err != nil {
		return 0, errors.Join(failed, err)
	}
	return 1, failed
}

// forget lets go of what was counted of a niche.
func (s *Examiner) forget(id uint) {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.held, id)
}
