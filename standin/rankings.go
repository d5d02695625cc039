package standin

import (
	"cmp"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"
)

// What a rankings service knows: of the phrases that it follows, who stood where a week ago. It does not follow rare
// ones, misses others, and finds a site where its own pages are about what is asked. Ours, as such services are.
const (
	followed     = 0.85 // of phrases that are searched often enough
	followedFrom = 10.0 // searches a month
	figureKnown  = 0.94 // of phrases: how much they are searched
	late         = aWeek
	tracked      = 10 // phrases with a word of a title, the most searched
	countsBeside = 20 // places in which a site stands beside another
	monthsBack   = 24
)

// ranking is who stands where for a phrase.
type ranking struct {
	pages []*page
	rates []float64
}

// rankings keeps those that were asked for, for some weeks.
type rankings struct {
	mu   sync.Mutex
	week int64
	of   map[string]ranking
}

// mostRankings is how many are kept.
const mostRankings = 20_000

// follows reports whether the service follows a phrase.
func (w *World) follows(q *query) bool {
	return !q.typo && q.steady() >= followedFrom && w.random("follows", q.text).Float64() < followed
}

// rankedAt is the first hundred for a phrase, as the service saw them. What was learnt of former weeks is let go.
func (w *World) rankedAt(e *Engine, q *query, in place, at time.Time) ranking {
	key := e.Name + "|" + in.country + "|" + in.language + "|" + q.text
	w.ranked.mu.Lock()
	if w.ranked.of == nil || w.ranked.week != week(at) || len(w.ranked.of) >= mostRankings {
		w.ranked.of, w.ranked.week = map[string]ranking{}, week(at)
	}
	got, ok := w.ranked.of[key]
	w.ranked.mu.Unlock()
	if ok && !slices.ContainsFunc(got.pages, func(p *page) bool { return p.removed }) {
		return got
	}
	hits, _ := e.Search(Ask{Text: q.text, Country: in.country, Language: in.language, At: at})
	hits = hits[:min(deepest, len(hits))]
	got = ranking{rates: clickRates(q.need, hits)}
	for _, h := range hits {
		got.pages = append(got.pages, h.page)
	}
	w.ranked.mu.Lock()
	defer w.ranked.mu.Unlock()
	if w.ranked.week == week(at) {
		w.ranked.of[key] = got
	}
	return got
}

// watched is what somebody asks rankings of.
type watched struct {
	w      *World
	target string
	holds  func(*page) bool
	sites  []*site
	engine *Engine
	in     place
	at     time.Time // what is known is of then
}

// watch reads a request; it has answered when ok is false.
func (w *World) watch(rw http.ResponseWriter, r *http.Request) (t watched, ok bool) {
	v := r.URL.Query()
	t = watched{w: w, target: v.Get("target"), engine: w.Engine(v.Get("engine")),
		in: placeOf(v.Get("country"), v.Get("language")), at: w.now.Add(-late).Truncate(day)}
	if t.engine == nil {
		problem(rw, http.StatusNotFound, "no engine %q; there are %s", v.Get("engine"), strings.Join(EngineNames, ", "))
		return t, false
	}
	host := strings.ToLower(t.target)
	within := func(domain string) bool { return domain == host }
	switch scope := v.Get("scope"); scope {
	case "page", "part":
		u, err := url.Parse(t.target)
		if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			problem(rw, http.StatusBadRequest, "target must be an absolute http or https address")
			return t, false
		}
		host = strings.ToLower(u.Hostname())
		path := cmp.Or(u.EscapedPath(), "/")
		t.holds = func(p *page) bool {
			return p.path == path || scope == "part" && strings.HasPrefix(p.path, path)
		}
	case "host", "site":
		if scope == "site" {
			within = func(domain string) bool { return domain == host || strings.HasSuffix(domain, "."+host) }
		}
		if host == "" || strings.ContainsAny(host, "/: ") {
			problem(rw, http.StatusBadRequest, "target must be a name without scheme and path")
			return t, false
		}
		t.holds = func(*page) bool { return true }
	default:
		problem(rw, http.StatusBadRequest, "scope must be page, part, host or site")
		return t, false
	}
	for _, st := range w.siteList {
		if within(st.domain) {
			t.sites = append(t.sites, st)
		}
	}
	return t, true
}

// stands is a phrase for which the target has a place.
type stands struct {
	query    *query
	place    int
	page     *page
	searches int // −1 the service does not know it
	visits   float64
	all      ranking
}

// asked are the phrases that the target's pages are about, and wordings of others that their titles hold.
func (t watched) asked() (out []*query) {
	seen := map[*query]bool{}
	add := func(q *query) {
		if !seen[q] {
			seen[q] = true
			if t.w.follows(q) {
				out = append(out, q)
			}
		}
	}
	for _, st := range t.sites {
		for _, p := range st.pages {
			if p.trial && p.removed || !p.standsAt(t.at) || !t.holds(p) {
				continue
			}
			if p.need != nil {
				for _, q := range p.need.queries {
					add(q)
				}
			}
			for _, token := range strings.Fields(p.titleWords) {
				if list := t.w.hints.words[token]; !stopWords[token] && len(list) < 1500 {
					for i, q := range list { // most searched first
						if i < tracked || titleHolds(p, q) {
							add(q)
						}
					}
				}
			}
		}
	}
	for _, n := range t.w.needs { // who asks for them by name
		if n.owner != nil && slices.Contains(t.sites, n.owner.site) && t.holds(n.owner) {
			for _, q := range n.queries {
				add(q)
			}
		}
	}
	return out
}

func titleHolds(p *page, q *query) bool {
	for _, token := range q.tokens {
		if !strings.Contains(p.titleWords, " "+token+" ") {
			return false
		}
	}
	return true
}

// month is the last whole one that the service knows.
func (t watched) month() time.Time {
	return time.Date(t.at.Year(), t.at.Month()-1, 1, 0, 0, 0, 0, time.UTC)
}

// phrases are those for which the target has a place, most visits first.
func (t watched) phrases() (out []stands) {
	month := t.month()
	for _, q := range t.asked() {
		if t.w.appetite(q.need, t.in) == 0 {
			continue
		}
		all := t.w.rankedAt(t.engine, q, t.in, t.at)
		i := slices.IndexFunc(all.pages, func(p *page) bool { return slices.Contains(t.sites, p.site) && t.holds(p) })
		if i < 0 {
			continue
		}
		s := stands{query: q, place: i + 1, page: all.pages[i], searches: t.w.searches(q, month, t.in), all: all}
		s.visits = float64(s.searches) * all.rates[i]
		if rng := t.w.random("known", q.text); rng.Float64() > figureKnown {
			s.searches, s.visits = -1, 0
		} else {
			s.visits *= math.Exp(0.2 * rng.NormFloat64()) // an estimate
		}
		out = append(out, s)
	}
	slices.SortFunc(out, func(a, b stands) int {
		return cmp.Or(cmp.Compare(b.visits, a.visits), cmp.Compare(b.searches, a.searches),
			strings.Compare(a.query.text, b.query.text))
	})
	return out
}

func round1(x float64) float64 { return math.Round(10*x) / 10 }
