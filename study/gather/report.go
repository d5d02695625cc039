package gather

import (
	"context"
	"slices"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Places from which a little work may bring a page to page one (common practice, no source).
const (
	nearFrom = 10.5
	nearTo   = 20.5
)

// mostReported is how many phrases of each kind are shown.
const mostReported = 50

// Reported is what a search report says of one's own pages: phrases that are shown most first in each list.
type Reported struct {
	All        int          // phrases for which a page of mine stands
	Near       []ideas.Idea // at places 11 to 20
	Unthought  []ideas.Idea // that came by reports or lists alone, and hold none of the seeds
	Pageless   []ideas.Idea // that were clicked, and no title of my pages holds their words
	PagesKnown bool         // titles of my pages are known
}

// Reported tells it by the latest reports.
func (s *Gatherer) Reported(ctx context.Context, n niches.Niche) (r Reported, err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return r, err
	}
	pages, err := s.store.OwnPages(ctx, n.ID)
	if err != nil {
		return r, err
	}
	seeds, err := s.store.Seeds(ctx, n.ID)
	if err != nil {
		return r, err
	}
	var titles, grown [][]string
	for _, p := range pages {
		titles = append(titles, phrase.ContentStems(phrase.Normal(p.Title), n.Language))
	}
	for _, seed := range seeds {
		grown = append(grown, phrase.ContentStems(seed.Phrase, n.Language))
	}
	r.PagesKnown = len(pages) > 0
	var near, unthought, pageless []uint
	open := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}.By(sieve.MyShown, true)
	for _, id := range b.Pass(open).IDs(0, -1) {
		at, there := b.Table.Find(id)
		if !there {
			continue
		}
		place, placed := b.Table.Number(at, sieve.MyPlace)
		clicks, clicked := b.Table.Number(at, sieve.MyClicks)
		shown, seen := b.Table.Number(at, sieve.MyShown)
		if !placed && !clicked && !seen {
			continue
		}
		r.All++
		stems := phrase.ContentStems(b.Table.Phrase(at), n.Language)
		if placed && place >= nearFrom && place < nearTo {
			near = append(near, id)
		}
		if b.Table.OnlyFrom(at, ideas.FromList) && seen && shown > 0 && !slices.ContainsFunc(grown, inAll(stems)) {
			unthought = append(unthought, id)
		}
		if r.PagesKnown && clicks > 0 && !slices.ContainsFunc(titles, holding(stems)) {
			pageless = append(pageless, id)
		}
	}
	for _, one := range []struct {
		ids []uint
		to  *[]ideas.Idea
	}{{near, &r.Near}, {unthought, &r.Unthought}, {pageless, &r.Pageless}} {
		if *one.to, err = s.ideas.Ideas(ctx, n.ID, one.ids[:min(len(one.ids), mostReported)]); err != nil {
			return r, err
		}
	}
	return r, nil
}

// holding tells which sets of stems hold all of some.
func holding(stems []string) func(all []string) bool {
	return func(all []string) bool {
		return len(stems) > 0 && !slices.ContainsFunc(stems, func(s string) bool { return !slices.Contains(all, s) })
	}
}

// inAll tells which sets of stems, all of them, are among some.
func inAll(stems []string) func(part []string) bool {
	return func(part []string) bool { return holding(part)(stems) }
}
