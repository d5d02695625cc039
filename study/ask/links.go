package ask

import (
	"context"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/market"
)

// linksTo is the question who links to a page.
var linksTo = Service{Question: Links, Life: 30 * Day, Address: "address of a links service (docs/links.openapi.yaml)",
	Price: "price of one page's links", Source: "the links service",
	Says: "Who links to a page", Instead: "Chances then use the strength of whole sites, where that is known.",
	StandIn: "/links",
	Connect: func(m *Market, at Connection) { m.Links = market.NewLinksService(at.Source) }}

// siteGraph is the question who is linked by whom, among all sites.
var siteGraph = Service{Question: Graph, Life: 30 * Day, Source: "the links service",
	Says: "How strong a site is", Instead: "Import a public web graph, for nothing: cleverniche graph import."}

// Links asks who links to a page.
func (s *Asker) Links(ctx context.Context, url string) (Asked[market.LinkList], error) {
	return put(ctx, s, Links, url, func(ctx context.Context, c market.Linker) (market.LinkList, error) {
		return c.Links(ctx, url)
	})
}

// standings keeps the sites' standings computed from the latest graph.
type standings struct {
	mu   sync.Mutex
	at   time.Time
	site map[string]float64
}

// Standing is what a site's standing is; known is false for one that nobody knows.
type Standing func(site string) (standing float64, known bool)

// HasStandings reports whether somebody knows sites' standings.
func (s *Asker) HasStandings() bool { return s.ranks() != nil || s.Has(Graph) }

// Standings returns what tells sites' standings: the web graph that was imported, since it costs nothing, or else the
// link graph of the links service.
func (s *Asker) Standings(ctx context.Context) (Standing, error) {
	if s.ranks() != nil {
		return s.ranks().Standing, nil
	}
	all, _, err := s.standings(ctx)
	return func(site string) (float64, bool) {
		standing, known := all[site]
		return standing, known
	}, err
}

// Referring is how many sites link to a site, whether followed or not; known is false without a web graph that says it.
func (s *Asker) Referring(site string) (total int, known bool) {
	g, is := s.ranks().(interface {
		Referring(site string, most int) (int, []string, bool)
	})
	if !is {
		return 0, false
	}
	total, _, known = g.Referring(site, 0)
	return total, known
}

// standings are those of every site of the service's link graph, and when that was fetched.
func (s *Asker) standings(ctx context.Context) (map[string]float64, time.Time, error) {
	// A graph is large: while the standings at hand are fresh it is not read again.
	if site, at := s.graph.now(); site != nil && s.fresh(ctx, Graph, at) {
		return site, at, nil
	}
	g, err := put(ctx, s, Graph, s.Name(Graph), func(ctx context.Context, c market.Grapher) (links.SiteGraph, error) {
		return c.Graph(ctx)
	})
	if err != nil {
		return nil, time.Time{}, err
	}
	return s.graph.of(g), g.At, nil
}

// of returns the standings of a graph, computed once for each.
func (st *standings) of(g Asked[links.SiteGraph]) map[string]float64 {
	st.mu.Lock()
	defer st.mu.Unlock()
	if st.site == nil || !st.at.Equal(g.At) {
		st.site, st.at = g.Value.Standings(), g.At
	}
	return st.site
}

// now returns the standings at hand, nil when none were computed yet.
func (st *standings) now() (site map[string]float64, at time.Time) {
	st.mu.Lock()
	defer st.mu.Unlock()
	return st.site, st.at
}

// KnownStanding returns a site's standing when the graph is at hand, without
// asking anyone.
func (s *Asker) KnownStanding(ctx context.Context, own string) (standing float64, known bool) {
	all, known := s.KnownStandings(ctx)
	if known {
		standing, _ = all(own)
	}
	return standing, known
}

// KnownStandings is Standings when the graph is at hand, without asking anyone.
func (s *Asker) KnownStandings(ctx context.Context) (all Standing, known bool) {
	if s.ranks() != nil {
		return s.ranks().Standing, true
	}
	site, _ := s.graph.now()
	if site == nil {
		g, ok, err := Recall[links.SiteGraph](ctx, s, Graph, s.Name(Graph))
		if err != nil || !ok {
			return nil, false
		}
		site = s.graph.of(g)
	}
	return func(name string) (float64, bool) {
		standing, known := site[name]
		return standing, known
	}, true
}
