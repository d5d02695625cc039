package watch

import (
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/rivals"
)

// What changed around my pages: tens that are kept an eye on, rivals that are followed, gatherings that are kept.

// Bounds of that (ours).
const (
	lately     = 28 * ask.Day // what changed longer ago is not said
	mostTens   = 100          // kept ideas that are looked at
	mostStale  = 40           // of them, whose pages' ages are
	askAgain   = 60 * ask.Day // from when a look-up of a kept idea is to be done again
	mostRivals = 50
)

// openings are kept ideas where a strong page fell, left, or went out of date since the look-up before.
func (s *Watcher) openings(ctx context.Context, n niches.Niche, out map[uint]bool) (list []Task, err error) {
	rows, err := s.store.KeptHistories(ctx, n.ID, s.store.Now().Add(-lately), mostTens)
	if err != nil {
		return nil, err
	}
	for i, row := range rows {
		h, err := serp.ReadHistory(row.Body)
		if err != nil || out[row.IdeaID] {
			continue
		}
		says := ""
		for _, f := range h.Fallen() {
			if site := s.site(f.URL); site != n.OwnSite {
				if says = fmt.Sprintf("%s was no. %d and is no longer on page one.", site, f.From); f.To > 0 {
					says = fmt.Sprintf("%s fell from no. %d to no. %d.", site, f.From, f.To)
				}
				break
			}
		}
		if says == "" && i < mostStale {
			if says, err = s.wentStale(ctx, n, row, h); err != nil {
				return nil, err
			}
		}
		if says != "" {
			list = append(list, Task{fmt.Sprintf("An opening: “%s”.", row.Phrase), says, fmt.Sprintf("ideas/%d",
				row.IdeaID)})
		}
	}
	return list, nil
}

// wentStale says which site of an idea's ten went out of date between the latest two snapshots; it is looked at once.
func (s *Watcher) wentStale(ctx context.Context, n niches.Niche, row store.KeptHistory, h serp.History) (string,
	error) {
	was, is, ok := h.Between()
	if !ok {
		return "", nil
	}
	s.stales.mu.Lock()
	known, there := s.stales.of[row.IdeaID]
	s.stales.mu.Unlock()
	if there && known.at.Equal(row.JudgedAt) {
		return known.says, nil
	}
	ev, err := s.results.Evidence(ctx, n, row.IdeaID)
	if err != nil {
		return "", nil //nolint:nilerr // without evidence nothing is told of its age
	}
	says := ""
	if sites := slices.DeleteFunc(serp.WentStale(ev.Reading.Ten(), was, is), func(site string) bool {
		return site == n.OwnSite
	}); len(sites) > 0 {
		says = fmt.Sprintf("%s has not been updated for two years.", sites[0])
	}
	s.stales.mu.Lock()
	defer s.stales.mu.Unlock()
	if s.stales.of == nil || len(s.stales.of) > 10*mostTens {
		s.stales.of = map[uint]staleness{}
	}
	s.stales.of[row.IdeaID] = staleness{row.JudgedAt, says}
	return says, nil
}

// staleness is what was said of an idea's ten when it was looked up last.
type staleness struct {
	at   time.Time
	says string
}

// rivalry is what followed rivals did on phrases that I watch or keep: they passed a page of mine, or have a new page.
func (s *Watcher) rivalry(ctx context.Context, n niches.Niche, pages []Page) (list []Task, err error) {
	all, err := s.rivals.Followed(ctx, n)
	if err != nil {
		return nil, err
	}
	all = all[:min(mostRivals, len(all))]
	for _, p := range pages {
		for _, r := range all {
			if p.Site == "" && p.Place > 0 && slices.Contains(p.Above, r.Site) && p.Before != nil &&
				!slices.Contains(p.Before, r.Site) {
				list = append(list, Task{fmt.Sprintf("%s passed you for “%s”.", r.Site, p.Phrase),
					fmt.Sprintf("You rank %s. See what it has that you have not.", rank(p.Place)), fmt.Sprintf("watch/%d", p.ID)})
			}
		}
	}
	for _, r := range all {
		recent := rivals.RecentOf(r)
		if recent.Fresh == 0 || s.store.Now().Sub(recent.At) > lately {
			continue
		}
		for _, p := range pages {
			at := slices.IndexFunc(recent.New, func(url string) bool {
				return phrase.Says(pathWords(url), p.Phrase,
					n.Language)
			})
			if at >= 0 {
				list = append(list, Task{fmt.Sprintf("%s has a new page for “%s”.", r.Site, p.Phrase),
					input.Clip(recent.New[at], 80), "sites/" + r.Site})
			}
		}
	}
	return list, nil
}

// pathWords are the words of an address behind its host.
func pathWords(address string) string {
	_, path, _ := strings.Cut(strings.TrimPrefix(strings.TrimPrefix(address, "https://"), "http://"), "/")
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune("/-_.+", r) {
			return ' '
		}
		return r
	}, path)
}

// gathered are new phrases of gatherings that are kept.
func (s *Watcher) gathered(ctx context.Context, n niches.Niche) (list []Task, err error) {
	kept, err := s.gathering.Kept(ctx, n)
	if err != nil {
		return nil, err
	}
	for _, k := range kept {
		if k.RunAt.IsZero() || s.store.Now().Sub(k.RunAt) > gather.Week {
			continue
		}
		_, all, err := s.gathering.New(ctx, n, k)
		if err != nil {
			return nil, err
		}
		if all > 0 {
			list = append(list, Task{fmt.Sprintf("See %s of “%s”.", counted(all, "new phrase"), k.Name),
				fmt.Sprintf("Found on %s.", k.RunAt.Format("2 January")), fmt.Sprintf("gather/kept/%d", k.ID)})
		}
	}
	return list, nil
}

// toAsk is what to ask again, and its price: positions, and kept ideas that were looked up long ago.
func (s *Watcher) toAsk(ctx context.Context, n niches.Niche, pages []Page) (list []Task, err error) {
	now := s.store.Now()
	var last time.Time
	for _, p := range pages {
		if p.Checked.After(last) {
			last = p.Checked
		}
	}
	if days := int(now.Sub(last) / aDay); len(pages) > 0 && (last.IsZero() || days >= stale) {
		e, _, err := s.CheckCost(ctx, n)
		if err != nil {
			return nil, err
		}
		why := "Never checked."
		if !last.IsZero() {
			why = fmt.Sprintf("Last checked %d days ago.", days)
		}
		list = append(list, Task{"Check your positions.", fmt.Sprintf("%s It costs at most %s.", why, s.asker.Cost(e)),
			"watch#strips"})
	}
	old, first, err := s.store.KeptBefore(ctx, n.ID, now.Add(-askAgain))
	if err != nil || old == 0 {
		return list, err
	}
	e, err := s.results.EstimateMost(ctx, n, results.Top(), old)
	if err != nil {
		return nil, err
	}
	return append(list, Task{fmt.Sprintf("Look up %s again.", counted(old, "kept phrase")),
		fmt.Sprintf("The oldest is from %s. It costs at most %s.", first.Format("2 January 2006"), s.asker.Cost(e)),
		"sift?" + oldest()}), nil
}

// oldest is what Sift is asked for: the kept ideas that were looked up, the longest ago first.
func oldest() string {
	by := sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept), sieve.On(sieve.ByLookedUp)}}.
		By(sieve.LookedUp, false)
	var parts []string // in their order: it counts
	for _, p := range by.Pairs(sieve.Sieve{}) {
		parts = append(parts, url.QueryEscape(p.Key)+"="+url.QueryEscape(p.Value))
	}
	return strings.Join(parts, "&")
}
