package standin

import (
	"fmt"
	"hash/fnv"
	"math"
	"slices"
	"sort"
	"strings"
	"sync"
	"time"
)

// Engine ranks pages its own way: by relevance, by what the need calls for, by
// links, freshness, a site's breadth on the subject, the country asked from, and a
// noise that drifts from week to week. A page it has only just found starts lower
// and settles over weeks.
type Engine struct {
	Name  string
	world *World
	taste taste
}

// taste is how much each feature weighs for one engine.
type taste struct {
	relevance, title, answers, kind, page, site, fresh, breadth, near, named, newcomer, noise float64
}

var tastes = map[string]taste{
	"lantern": {relevance: 27, title: 11, answers: 26, kind: 14, page: 18.5, site: 12.5, fresh: 3, breadth: 4, near: 3,
		named: 60, newcomer: 14, noise: 3},
	"harbor": {relevance: 26, title: 9, answers: 22, kind: 12, page: 21.5, site: 14.5, fresh: 2, breadth: 4, near: 2,
		named: 50, newcomer: 18, noise: 2.5},
	"plover": {relevance: 30, title: 13, answers: 26, kind: 14, page: 15.5, site: 10.5, fresh: 6, breadth: 5, near: 4,
		named: 55, newcomer: 9, noise: 4},
}

// EngineNames lists the engines; the first is the one asked by default.
var EngineNames = []string{"lantern", "harbor", "plover"}

func (w *World) buildEngines() []*Engine {
	var out []*Engine
	for _, name := range EngineNames {
		out = append(out, &Engine{name, w, w.tendency.of(tastes[name])})
	}
	return out
}

// snapshot is what the engines know of the links in one week.
type snapshot struct {
	page    []float32 // authority of pages by id, 0 to 1
	site    []float32 // of sites
	broad   []float32 // pages that a site has on its hobbies, 0 to 1
	highest float64   // votes of the page that has most
}

// snapshots keeps those of the weeks that were asked for.
type snapshots struct {
	mu     sync.Mutex
	byWeek map[int64]*snapshot
}

func week(t time.Time) int64 { return t.Unix() / (7 * 24 * 3600) }

// snapshot returns the links' state in the week that holds the moment.
func (w *World) snapshot(at time.Time) *snapshot {
	k := week(at)
	w.shots.mu.Lock()
	defer w.shots.mu.Unlock()
	if s := w.shots.byWeek[k]; s != nil {
		return s
	}
	if w.shots.byWeek == nil {
		w.shots.byWeek = map[int64]*snapshot{}
	}
	s := w.weighLinks(time.Unix(k*7*24*3600, 0)) // as the week begins
	w.shots.byWeek[k] = s
	return s
}

func (w *World) weighLinks(at time.Time) *snapshot {
	s := &snapshot{site: w.siteAuthority(at), page: make([]float32, len(w.pages)), broad: make([]float32, len(w.siteList))}
	for i, p := range w.pages {
		if p.trial {
			continue
		}
		votes := s.votes(p, at)
		s.page[i] = float32(votes)
		s.highest = math.Max(s.highest, votes)
	}
	for i := range s.page {
		s.page[i] /= float32(s.highest)
	}
	for i, st := range w.siteList {
		pages := 0
		for _, p := range st.pages {
			if !p.trial && p.standsAt(at) {
				pages++
			}
		}
		s.broad[i] = float32(math.Min(1, math.Log1p(float64(pages)/float64(len(st.hobbies)))/math.Log(60)))
	}
	return s
}

// votes is what a page's followed links are worth: a site has one vote, worth more
// the more the site is trusted.
func (s *snapshot) votes(p *page, at time.Time) float64 {
	sum := 0.0
	var voted [8]*site
	voters := voted[:0]
next:
	for _, l := range p.in {
		if l.from == nil || !l.followed() || !l.aliveAt(at) {
			continue
		}
		for _, v := range voters {
			if v == l.from.site {
				continue next
			}
		}
		voters = append(voters, l.from.site)
		trust := float64(s.site[l.from.site.id])
		sum += 0.02 + trust*trust
	}
	return math.Log1p(4 * sum)
}

// pageAuthority is the page's, 0 to 1. Experiments are weighed when they are asked
// for, so that they change nothing for the other pages.
func (s *snapshot) pageAuthority(p *page, at time.Time) float64 {
	if p.trial {
		return math.Min(1, s.votes(p, at)/s.highest)
	}
	if p.id < len(s.page) {
		return float64(s.page[p.id])
	}
	return 0
}

// siteAuthority spreads trust over followed links between sites twice, and puts
// it on 0 to 1. It is no PageRank: what the world believes need not be what a
// tool computes.
func (w *World) siteAuthority(at time.Time) []float32 {
	edges := w.siteEdges(at)
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
	top := 0.0
	for i := range trust {
		trust[i] = math.Log1p(trust[i])
		top = math.Max(top, trust[i])
	}
	out := make([]float32, len(trust))
	for i := range trust {
		out[i] = float32(trust[i] / top)
	}
	return out
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

// Ask is one search.
type Ask struct {
	Text     string // with operators; see parseQuery
	Country  string // "" means home
	Language string
	At       time.Time
	extra    *candidate // a page that is tried out, and stands in no index
}

// candidate is a page with its weighed terms.
type candidate struct {
	page  *page
	terms []weighted
}

// considered is how many of the most relevant pages are ranked in full.
const considered = 250

// crowd is how many results one site may have among the first ten.
const crowd = 2

// Search returns the ranking in the week that holds the moment, and how many pages
// match at all.
func (e *Engine) Search(a Ask) (hits []hit, matches int) {
	ask := parseQuery(a.Text)
	ix := e.world.index
	if ask.narrow() {
		hits = e.world.narrowed(ask, a.At)
	} else {
		for _, s := range ix.relevance(ask.terms) {
			if p := e.world.pages[s.page]; !p.indexed.After(a.At) && p.standsAt(a.At) {
				hits = append(hits, hit{p, s.score})
			}
		}
	}
	if a.extra != nil {
		if s, ok := ix.relevanceOf(a.extra.terms, ask.terms); ok && !a.extra.page.indexed.After(a.At) {
			hits = append(hits, hit{a.extra.page, s})
		}
	}
	if len(hits) == 0 {
		return nil, 0
	}
	matches = len(hits)
	hits = foremost(hits, considered)
	asked := e.world.understand(ask.words)
	if asked != nil && !ask.narrow() {
		hits = withOwner(hits, asked.need.owner, a.At)
	}
	from := standpoint{engine: e, links: e.world.snapshot(a.At), at: a.At, in: placeOf(a.Country, a.Language),
		query: asked, typed: " " + strings.Join(ask.words, " ") + " "}
	from.seed = from.hash()
	for _, t := range ask.terms {
		from.terms = append(from.terms, " "+t+" ")
	}
	best := math.Max(hits[0].score, 1e-9)
	for i := range hits {
		hits[i].score = from.score(hits[i].page, hits[i].score/best)
	}
	byScore(hits)
	return uncrowd(hits), matches
}

// withOwner takes the page that people mean who type a name into consideration, as
// one that holds the words as well as any, though it does not say "customer service
// phone" anywhere.
func withOwner(hits []hit, owner *page, at time.Time) []hit {
	if owner == nil || owner.indexed.After(at) || !owner.standsAt(at) || !owner.indexable() {
		return hits
	}
	if i := slices.IndexFunc(hits, func(h hit) bool { return h.page == owner }); i >= 0 {
		hits[i].score = hits[0].score
		return hits
	}
	return append(hits, hit{owner, hits[0].score})
}

// foremost are the n hits of the highest score, in order.
func foremost(hits []hit, n int) []hit {
	if len(hits) > 4*n { // find the score from which on they count, and leave out the rest
		scores := make([]float64, len(hits))
		for i, h := range hits {
			scores[i] = h.score
		}
		least := nth(scores, len(scores)-n)
		hits = slices.DeleteFunc(hits, func(h hit) bool { return h.score < least })
	}
	byScore(hits)
	return hits[:min(n, len(hits))]
}

// nth is the value at place k, from 0, if the values were in order (Hoare 1961, "Find").
// It changes their order.
func nth(v []float64, k int) float64 {
	for low, high := 0, len(v)-1; low < high; {
		pivot, i, j := v[(low+high)/2], low, high
		for i <= j {
			for v[i] < pivot {
				i++
			}
			for v[j] > pivot {
				j--
			}
			if i <= j {
				v[i], v[j] = v[j], v[i]
				i++
				j--
			}
		}
		if k <= j {
			high = j
		} else if k >= i {
			low = i
		} else {
			break
		}
	}
	return v[k]
}

func byScore(hits []hit) {
	sort.Slice(hits, func(i, j int) bool {
		if hits[i].score != hits[j].score {
			return hits[i].score > hits[j].score
		}
		return hits[i].page.url() < hits[j].page.url()
	})
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

// standpoint is everything about a search that the pages are scored by.
type standpoint struct {
	engine *Engine
	links  *snapshot
	at     time.Time
	in     place
	query  *query
	typed  string
	terms  []string // stems with a blank on both sides
	seed   uint64
}

// plenty is the share of the best match's relevance from which a page holds the
// words well enough: nobody is served better by repeating them.
const plenty = 0.85

// titled is how much of what was typed the title says: 1 as typed, less when it
// holds the words apart, nothing when it lacks some.
func (f *standpoint) titled(p *page) float64 {
	if strings.Contains(p.titleWords, f.typed) {
		return 1
	}
	for _, t := range f.terms {
		if !strings.Contains(p.titleStems, t) {
			return 0
		}
	}
	return 0.7
}

// settling is how fast a page that was found lately comes to where it belongs, in
// weeks.
const settling = 3.0

// score adds up what the engine thinks of a page. relevance is 0 to 1, of the best
// match. That a page answers the need is learnt from the people who visit it, and
// believed the more the better the page and its site are known.
func (f *standpoint) score(p *page, relevance float64) float64 {
	t := f.engine.taste
	w := f.engine.world
	page, site := f.links.pageAuthority(p, f.at), float64(f.links.site[p.site.id])
	s := t.relevance*math.Min(1, relevance/plenty) + t.page*page + t.site*site +
		t.breadth*float64(f.links.broad[p.site.id])
	s += t.title * f.titled(p)
	if q := f.query; q != nil {
		kind := q.need.serves[p.kind] / highest(q.need.serves[:])
		if q.need.template.Ambiguous && week(f.at)%2 == int64(q.id%2) {
			kind = 1 - kind // an unsteady need is served the other way every other week
		}
		s += t.kind * kind
		if p.about != nil {
			known := math.Max(page, site)
			s += t.answers * p.about.answers(q.need) * (0.3 + 0.7*p.quality) * (0.45 + 0.55*known)
		}
	}
	if f.namedBy(p) {
		s += t.named
	}
	if p.site.country == f.in.country {
		s += t.near
	}
	s += p.site.favour
	if w.scenarios[p.hobby].Language != f.in.language && f.in.language != "" {
		s -= 3 * t.relevance
	}
	age := f.at.Sub(p.modifiedAt(f.at)).Hours() / (24 * 365)
	s += t.fresh / (1 + math.Max(0, age))
	green := math.Exp(-math.Max(0, float64(f.at.Sub(p.indexed))/float64(aWeek)) / settling)
	return s - t.newcomer*green + t.noise*(1+green)*f.drift(p)
}

// namedBy reports whether the page is the one that people mean who type its site's
// name: its home page, when nothing else about it is asked for. That is learnt from
// where they go, whatever the links say.
func (f *standpoint) namedBy(p *page) bool {
	return p.kind == pageHome && f.typed == p.site.called || f.query != nil && f.query.need.owner == p
}

func (f *standpoint) hash() uint64 {
	h := fnv.New64a()
	fmt.Fprintf(h, "%d|%s|%s|%s", f.engine.world.Number, f.engine.Name, f.typed, f.in.country)
	return h.Sum64()
}

// drift is noise between −1 and 1 that moves slowly: the mean of this week's and
// the three before it.
func (f *standpoint) drift(p *page) float64 {
	sum := 0.0
	for back := range int64(4) {
		x := f.seed ^ uint64(p.key)*0x9e3779b97f4a7c15 ^ uint64(week(f.at)-back)*0xd1342543de82ef95
		x ^= x >> 31
		x *= 0x94d049bb133111eb
		x ^= x >> 29
		x *= 0xbf58476d1ce4e5b9
		x ^= x >> 32
		sum += float64(x>>11)/(1<<52) - 1
	}
	return sum / 2
}

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
