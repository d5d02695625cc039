package rivals

import (
	"context"

	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Linkers are the sites that link to rivals and not to me.
type Linkers struct {
	List   []links.Asking // their Places are rivals, by their place in Sites, from 1
	Sites  []string       // of whom some links are known
	Pages  int            // whose links are known
	Ranked bool           // sites' standings are known
}

// mostPagesOf is of how many pages of a site links are read.
const mostPagesOf = 40

// Linkers are those that link to at least so many of the sites' pages that stand among the tens: what was asked for
// when these were looked up. Nobody is asked.
func (s *Scout) Linkers(ctx context.Context, n niches.Niche, revision int64, sites []string,
	least int) (out Linkers, err error) {
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return out, err
	}
	bySite := map[string]results.Stander{}
	for _, st := range standers {
		bySite[st.Site] = st
	}
	profiler, known := s.results.Profiler(ctx)
	out.Ranked = known
	linksOf := func(site string) (list []links.Link, pages int, err error) {
		seen := map[string]bool{}
		for _, st := range bySite[site].Stands {
			if seen[st.Page] || len(seen) >= mostPagesOf {
				continue
			}
			seen[st.Page] = true
			kept, ok, err := ask.Kept[market.LinkList](ctx, s.asker, ask.Links, st.Page)
			if err != nil {
				return nil, 0, err
			}
			if ok {
				pages++
				list = append(list, kept.Value.Links...)
			}
		}
		return list, pages, nil
	}
	by, rivals, mine := map[int]links.Backing{}, map[string]bool{}, map[string]bool{n.OwnSite: true}
	for _, site := range sites {
		list, pages, err := linksOf(site)
		if err != nil {
			return out, err
		}
		rivals[site] = true
		if pages == 0 {
			continue
		}
		out.Sites, out.Pages = append(out.Sites, site), out.Pages+pages
		by[len(out.Sites)] = profiler.Back("http://"+site+"/", "", list, len(list))
	}
	if n.OwnSite != "" {
		list, _, err := linksOf(n.OwnSite)
		if err != nil {
			return out, err
		}
		front, ok, err := ask.Kept[market.LinkList](ctx, s.asker, ask.Links, "http://"+n.OwnSite+"/")
		if err != nil {
			return out, err
		}
		if ok {
			list = append(list, front.Value.Links...)
		}
		for _, b := range profiler.Back("http://"+n.OwnSite+"/", "", list, len(list)).Backers {
			mine[b.Site] = true
		}
	}
	for _, a := range links.WorthAsking(by, rivals, mine) {
		if len(a.Places) >= least {
			out.List = append(out.List, a)
		}
	}
	return out, nil
}
