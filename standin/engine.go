package standin

import (
	"fmt"
	"hash/fnv"
	"math"
	"sort"
	"strings"
	"time"
)

// Engine ranks pages its own way: by relevance, by what the need calls for, by
// links, freshness, a site's breadth on the subject, and a noise that drifts
// from week to week.
type Engine struct {
	Name  string
	world *World
	taste taste
	page  []float64 // link authority of pages, 0 to 1
	site  []float64 // of sites
	broad []float64 // pages a site has on its hobby, 0 to 1
}

// taste is how much each feature weighs for one engine.
type taste struct {
	relevance, title, answers, kind, page, site, fresh, breadth, noise float64
}

var tastes = map[string]taste{
	"lantern": {relevance: 38, title: 12, answers: 22, kind: 11, page: 15, site: 9, fresh: 3, breadth: 3, noise: 3.5},
	"harbor":  {relevance: 32, title: 9, answers: 16, kind: 9, page: 20, site: 13, fresh: 2, breadth: 2, noise: 3},
	"plover":  {relevance: 42, title: 14, answers: 20, kind: 11, page: 11, site: 6, fresh: 7, breadth: 4, noise: 5},
}

// EngineNames lists the engines; the first is the one asked by default.
var EngineNames = []string{"lantern", "harbor", "plover"}

func (w *World) buildEngines() []*Engine {
	sites := w.siteAuthority()
	pages := make([]float64, len(w.pages))
	highest := 0.0
	for i, p := range w.pages {
		voters := map[*site]bool{}
		for _, l := range p.in {
			if l.from != nil && l.followed() && !voters[l.from.site] {
				voters[l.from.site] = true
				pages[i] += 0.1 + sites[l.from.site.id]
			}
		}
		pages[i] = math.Log1p(pages[i])
		highest = math.Max(highest, pages[i])
	}
	for i := range pages {
		pages[i] /= highest
	}
	broad := make([]float64, len(w.siteList))
	for i, st := range w.siteList {
		broad[i] = math.Min(1, math.Log1p(float64(len(st.pages))/float64(len(st.hobbies)))/math.Log(60))
	}
	var out []*Engine
	for _, name := range EngineNames {
		out = append(out, &Engine{name, w, tastes[name], pages, sites, broad})
	}
	return out
}

// siteAuthority spreads trust over followed links between sites twice, and puts
// it on 0 to 1. It is no PageRank: what the world believes need not be what a
// tool computes.
func (w *World) siteAuthority() []float64 {
	edges := w.siteEdges()
	trust := make([]float64, len(w.siteList))
	for i := range trust {
		trust[i] = 1
	}
	for range 2 {
		next := make([]float64, len(trust))
		for _, e := range edges {
			next[e[1]] += math.Log1p(trust[e[0]])
		}
		trust = next
	}
	highest := 0.0
	for i := range trust {
		trust[i] = math.Log1p(trust[i])
		highest = math.Max(highest, trust[i])
	}
	for i := range trust {
		trust[i] /= highest
	}
	return trust
}

// Engine returns the engine of that name, or nil; "" means the first.
func (w *World) Engine(name string) *Engine {
	for _, e := range w.engines {
		if name == "" || e.Name == name {
			return e
		}
	}
	return nil
}

// hit is one result.
type hit struct {
	page  *page
	score float64
}

// considered is how many of the most relevant pages are ranked in full.
const considered = 250

// crowd is how many results one site may have among the first ten.
const crowd = 2

// Search returns the ranking for a phrase in the week that holds the moment,
// and how many pages match at all.
func (e *Engine) Search(text string, at time.Time) (hits []hit, matches int) {
	toks := tokens(text)
	terms := contentTerms(toks)
	scores := e.world.index.relevance(terms)
	for p, s := range scores {
		hits = append(hits, hit{e.world.pages[p], s})
	}
	sort.Slice(hits, func(i, j int) bool {
		return hits[i].score > hits[j].score || hits[i].score == hits[j].score && hits[i].page.id < hits[j].page.id
	})
	matches = len(hits)
	hits = hits[:min(considered, len(hits))]
	if len(hits) == 0 {
		return nil, 0
	}
	q := e.world.understand(toks)
	typed := " " + strings.Join(toks, " ") + " "
	best := hits[0].score
	for i := range hits {
		hits[i].score = e.score(hits[i].page, hits[i].score/best, q, typed, at)
	}
	sort.Slice(hits, func(i, j int) bool {
		return hits[i].score > hits[j].score || hits[i].score == hits[j].score && hits[i].page.id < hits[j].page.id
	})
	return uncrowd(hits), matches
}

func contentTerms(toks []string) []string {
	var terms []string
	for _, t := range toks {
		if !stopWords[t] {
			terms = append(terms, stem(t))
		}
	}
	if len(terms) == 0 {
		for _, t := range toks {
			terms = append(terms, stem(t))
		}
	}
	return terms
}

func (e *Engine) score(p *page, relevance float64, q *query, typed string, at time.Time) float64 {
	t := e.taste
	s := t.relevance*relevance + t.page*e.page[p.id] + t.site*e.site[p.site.id] + t.breadth*e.broad[p.site.id]
	if strings.Contains(e.world.index.titles[p.id], typed) {
		s += t.title
	}
	if q != nil {
		kind := q.need.serves[p.kind] / highest(q.need.serves[:])
		if q.need.template.Ambiguous && week(at)%2 == int64(q.id%2) {
			kind = 1 - kind // an unsteady need is served the other way every other week
		}
		s += t.kind * kind
		if p.about == q.need {
			s += t.answers * (0.4 + 0.6*p.quality)
		}
	}
	age := at.Sub(p.modified).Hours() / (24 * 365)
	s += t.fresh / (1 + math.Max(0, age))
	return s + t.noise*e.drift(p, typed, at)
}

// drift is noise between −1 and 1 that moves slowly: the mean of this week's and
// the three before it.
func (e *Engine) drift(p *page, typed string, at time.Time) float64 {
	sum := 0.0
	for back := range int64(4) {
		h := fnv.New64a()
		fmt.Fprintf(h, "%d|%s|%d|%s|%d", e.world.Number, e.Name, p.id, typed, week(at)-back)
		sum += float64(h.Sum64()>>11)/(1<<52) - 1
	}
	return sum / 2
}

func week(t time.Time) int64 { return t.Unix() / (7 * 24 * 3600) }

func highest(list []float64) float64 {
	m := 0.0
	for _, x := range list {
		m = math.Max(m, x)
	}
	return m
}

// uncrowd moves the third and later results of a site behind the others.
func uncrowd(hits []hit) []hit {
	seen := map[*site]int{}
	var front, back []hit
	for _, h := range hits {
		if seen[h.page.site]++; seen[h.page.site] <= crowd {
			front = append(front, h)
		} else {
			back = append(back, h)
		}
	}
	return append(front, back...)
}

// understand finds the query that a text is, or the one most like it: what an
// engine has learnt from what people do. It may be nil.
func (w *World) understand(toks []string) *query {
	if q := w.queries[strings.Join(toks, " ")]; q != nil {
		return q
	}
	return w.hints.nearest(toks)
}
