package main

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"net/http/httptest"
	"net/url"
	"slices"
	"sort"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/standin"
)

// Seen is what the application knows of one page, before any constant comes in.
type Seen struct {
	Trust float64   // Σ(standing/100)² over the followed sites that link to it
	Site  float64   // standing of its own site, 0 to 100
	Items []float64 // how far the page meets each item of the checklist; see serp.Fit.Shares
}

// signals are what the strength of the page is made of, under points and a gain.
func (s Seen) signals(points serp.Points, gain float64) difficulty.Signals {
	out := difficulty.Signals{Page: 100 * (1 - math.Exp(-s.Trust/gain)), Site: s.Site}
	out.Title, out.Text, out.Kind = points.SidesOf(s.Items)
	return out
}

func seen(pageStanding, site float64, fit serp.Fit) Seen {
	return Seen{Trust: -links.LinkGain * math.Log(1-math.Min(pageStanding/100, 1-1e-12)), Site: site, Items: fit.Shares()}
}

// Sample is one insertion experiment: what stood in front of the page when it was
// published, what was known of it, and where it settled.
type Sample struct {
	World    int
	Hobby    string
	Engine   string
	Phrase   string
	Own      Seen
	Ahead    []Seen  // in the order the engine showed them
	Position int     // of the page, weeks later; 0 is beyond what the engine ranks
	Made     int     // how well it was made, on the laboratory's scale
	Links    int     // how many links it was given
	Searches float64 // of the phrase in a month
	Stratum  string  // what it was drawn from

	Mine   difficulty.Signals   `json:"-"` // what was seen, under some constants; see under
	Fit    float64              `json:"-"` // of my page
	Rivals []difficulty.Signals `json:"-"`
}

// under returns the samples with their signals under points and a gain.
func under(samples []Sample, points serp.Points, gain float64) []Sample {
	out := slices.Clone(samples)
	for i := range out {
		s := &out[i]
		s.Mine, s.Fit, s.Rivals = s.Own.signals(points, gain), points.Of(s.Own.Items), nil
		for _, r := range s.Ahead {
			s.Rivals = append(s.Rivals, r.signals(points, gain))
		}
	}
	return out
}

// lab asks one world the way the application would.
type lab struct {
	number   int
	world    *standin.World
	answers  func(host, path string) []byte
	standing map[string]float64
	suffixes links.Suffixes
	profiler links.Profiler
	pages    map[string]*serp.Page
	profiles map[string]links.Profile
	readings map[string]serp.Reading
}

func newLab(number int, day time.Time) (*lab, error) {
	scenarios, err := standin.Scenarios()
	if err != nil {
		return nil, err
	}
	return newLabOver(scenarios, number, day)
}

// newLabOver is one of a world of other hobbies than those that ship.
func newLabOver(scenarios []*standin.Scenario, number int, day time.Time) (*lab, error) {
	w := standin.Grow(number, scenarios, day)
	handler := w.Handler(standin.Options{})
	l := &lab{number: number, world: w, suffixes: links.NewSuffixes("inkwellpages.example", "plainpost.example"),
		pages: map[string]*serp.Page{}, profiles: map[string]links.Profile{}, readings: map[string]serp.Reading{}}
	l.answers = func(host, path string) []byte {
		r := httptest.NewRequest("GET", path, nil)
		r.Host = host
		rec := httptest.NewRecorder()
		handler.ServeHTTP(rec, r)
		if rec.Code != 200 {
			return nil
		}
		data, _ := io.ReadAll(rec.Result().Body)
		return data
	}
	graph, err := market.ReadGraph(l.answers("127.0.0.1", "/links/v1/graph/vertices"),
		l.answers("127.0.0.1", "/links/v1/graph/edges"))
	if err != nil {
		return nil, err
	}
	l.standing = graph.Standings()
	l.profiler = links.Profiler{Suffixes: l.suffixes, Standing: func(site string) float64 { return l.standing[site] }}
	return l, nil
}

// page fetches and reads a page, once.
func (l *lab) page(address string) *serp.Page {
	p, known := l.pages[address]
	if !known {
		if u, err := url.Parse(address); err == nil {
			if body := l.answers(u.Host, u.RequestURI()); body != nil {
				p, _ = market.ReadPage(market.Fetched{URL: address, ContentType: "text/html; charset=utf-8", Body: body})
			}
		}
		l.pages[address] = p
	}
	return p
}

// profile asks for the links to a page, once.
func (l *lab) profile(address string) (links.Profile, error) {
	p, known := l.profiles[address]
	if known {
		return p, nil
	}
	var ans struct {
		Links []struct{ From, Anchor, Rel string }
	}
	if err := json.Unmarshal(l.answers("127.0.0.1", "/links/v1/page?limit=1000&url="+url.QueryEscape(address)),
		&ans); err != nil {
		return p, err
	}
	var list []links.Link
	for _, one := range ans.Links {
		list = append(list, links.Link{From: one.From, To: address, Anchor: one.Anchor, Rel: one.Rel})
	}
	p = l.profiler.Profile(address, list)
	l.profiles[address] = p
	return p, nil
}

// What our users have (common practice, no source): sites of little standing, a few
// links at most, pages made with some care.
const (
	usersSite  = 15
	usersLinks = 3
	usersFit   = 50 // of the laboratory's scale
)

// What a trial is drawn from. Every fifth is on a site that nobody links to, another fifth on a young one, both drawn
// as they are numerous; a fifth is what else our users could publish, and the rest is of all sorts.
const (
	unlinked = "unlinked"
	newcomer = "young"
	users    = "users"
	allSorts = "all sorts"
)

var strata = [...]string{unlinked, newcomer, users, allSorts, allSorts}

// youngSite is the site standing under which a site is young (ours).
const youngSite = 3

// design draws experiments, a fifth of each stratum: made badly and well, with no links and many; phrases half as
// people search them and half evenly.
func (l *lab) design(n int, rng *rand.Rand, day time.Time) []standin.Experiment {
	truth := l.world.Truth()
	sites, atZero, newer := l.sites()
	sums := make([]float64, len(truth.Queries))
	sum := 0.0
	for i, q := range truth.Queries {
		sum += q.Searches
		sums[i] = sum
	}
	even := func(most float64) string { // sites evenly over standing, not over their number
		want := most * rng.Float64()
		i := sort.Search(len(sites), func(i int) bool { return l.standing[sites[i]] >= want })
		return sites[max(0, min(len(sites)-1, i-2+rng.IntN(5)))]
	}
	out := make([]standin.Experiment, n)
	for i := range out {
		q := truth.Queries[rng.IntN(len(truth.Queries))]
		if (i/len(strata))%2 == 0 {
			q = truth.Queries[sort.SearchFloat64s(sums, rng.Float64()*sum)]
		}
		careful := usersFit + rng.IntN(101-usersFit)
		x := standin.Experiment{Site: even(usersSite), Phrase: q.Text, Fit: careful, Date: day.Format(time.DateOnly)}
		given := 0
		switch stratumOf(i) {
		case unlinked:
			x.Site = atZero[rng.IntN(len(atZero))]
		case newcomer:
			x.Site = newer[rng.IntN(len(newer))]
		case users:
			given = []int{0, 0, 0, 1, 2, usersLinks}[rng.IntN(6)]
		default:
			x.Site, x.Fit, given = even(60), 20+rng.IntN(81), []int{0, 0, 0, 1, 2, 3, 5, 8, 14}[rng.IntN(9)]
		}
		if rng.IntN(5) == 0 { // of another kind than the phrase calls for, perhaps
			x.Kind = []string{"article", "comparison", "howto", "review", "shelf"}[rng.IntN(5)]
		}
		for range given {
			x.Links = append(x.Links, standin.LabLink{From: even(60)})
		}
		out[i] = x
	}
	return out
}

// stratumOf is what trial i of a design is drawn from.
func stratumOf(i int) string { return strata[i%len(strata)] }

// sites are those of standing at most 60, by it; those that nobody links to; and those under youngSite.
func (l *lab) sites() (all, atZero, newer []string) {
	for site, s := range l.standing {
		if s <= 60 {
			all = append(all, site)
		}
	}
	sort.Slice(all, func(i, j int) bool {
		return l.standing[all[i]] < l.standing[all[j]] || l.standing[all[i]] == l.standing[all[j]] && all[i] < all[j]
	})
	atZero = all[:sort.Search(len(all), func(i int) bool { return l.standing[all[i]] > 0 })]
	newer = all[:sort.Search(len(all), func(i int) bool { return l.standing[all[i]] >= youngSite })]
	return all, atZero, newer
}

// truths are those of the phrases.
func (l *lab) truths() map[string]standin.QueryTruth {
	of := map[string]standin.QueryTruth{}
	for _, q := range l.world.Truth().Queries {
		of[q.Text] = q
	}
	return of
}

// settled is how many weeks after publication the outcome is read.
const settled = 12

// depth is how many results are looked at in front of the page.
const depth = 20

// samples runs n experiments on each engine of a world.
func samples(number, n int, day time.Time, say func(string, ...any)) ([]Sample, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	of := l.truths()
	say("world %d: %d trials on %d engines", number, n, len(standin.EngineNames))
	var out []Sample
	err = l.try(n, rand.New(rand.NewPCG(uint64(number), 77)), day, func(x standin.Experiment, s Sample) error {
		s.Hobby, s.Searches = of[x.Phrase].Hobby, of[x.Phrase].Searches
		out = append(out, s)
		return nil
	})
	return out, err
}

// try runs n experiments on each engine, and gives what came of each.
func (l *lab) try(n int, rng *rand.Rand, day time.Time, each func(standin.Experiment, Sample) error) error {
	batch := standin.Batch{Trials: l.design(n, rng, day), Weeks: []int{settled}, Pages: true}
	if err := l.world.Prepare(&batch); err != nil {
		return err
	}
	for i, o := range l.world.Try(batch) {
		x := batch.Trials[i]
		if o.Error != "" {
			return fmt.Errorf("trial %d: %s", i, o.Error)
		}
		for _, at := range o.Positions {
			s, err := l.sample(x, o, at)
			if s.Stratum = stratumOf(i); err == nil {
				err = each(x, s)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}

func (l *lab) sample(x standin.Experiment, o standin.Outcome, at standin.Position) (Sample, error) {
	s := Sample{World: l.number, Engine: at.Engine, Phrase: x.Phrase, Position: at.Position, Made: x.Fit,
		Links: len(x.Links)}
	ahead, err := l.read(x.Phrase, at.Engine, x.Date)
	if err != nil {
		return s, err
	}
	for _, e := range ahead.Entries {
		s.Ahead = append(s.Ahead, seen(e.PageStanding, e.SiteStanding, e.Fit))
	}
	own, err := market.ReadPage(market.Fetched{URL: o.URL, ContentType: "text/html; charset=utf-8", Body: []byte(o.HTML)})
	if err != nil {
		return s, err
	}
	var list []links.Link
	for _, one := range x.Links {
		list = append(list, links.Link{From: "http://" + one.From + "/", To: o.URL, Rel: one.Rel})
	}
	kind, _ := serp.TypeOf(o.URL, own.Title, own)
	fit := ahead.Query().FitOf(serp.Result{URL: o.URL, Title: own.Title, Page: own}, kind, ahead.Majority, ahead.Settled)
	s.Own = seen(l.profiler.Profile(o.URL, list).Standing, l.standing[l.suffixes.Site(x.Site)], fit)
	return s, nil
}

// read reads the results in front of a page as the application would, once for a
// phrase, an engine and a day.
func (l *lab) read(phrase, engine, day string) (serp.Reading, error) {
	key := phrase + "|" + engine + "|" + day
	if r, known := l.readings[key]; known {
		return r, nil
	}
	hits, err := l.search(phrase, engine, day)
	if err != nil {
		return serp.Reading{}, err
	}
	r := serp.Reader{Lang: "en", Suffixes: l.suffixes, AsOf: l.world.Now()}.Read(phrase, hits)
	l.readings[key] = r
	return r, nil
}

// results asks for the first so many results on a day.
func (l *lab) results(text, engine, day string, count int) (market.Results, error) {
	q := url.Values{"q": {text}, "engine": {engine}, "count": {fmt.Sprint(count)}, "date": {day}}
	client := market.NewResultsService(market.Source{Name: "results", Base: "http://127.0.0.1/search"}, engine)
	return client.Read(l.answers("127.0.0.1", "/search?"+q.Encode()))
}

// search asks for the results on the day the page is published, and for what is known of them.
func (l *lab) search(text, engine, day string) ([]serp.Result, error) {
	page, err := l.results(text, engine, day, depth)
	if err != nil {
		return nil, err
	}
	var out []serp.Result
	for _, o := range page.Organic {
		profile, err := l.profile(o.URL)
		if err != nil {
			return nil, err
		}
		out = append(out, serp.Result{Position: o.Position, URL: o.URL, Title: o.Title, Snippet: o.Snippet,
			Page:         l.page(o.URL),
			SiteStanding: l.standing[l.suffixes.Site(links.Host(o.URL))], Profile: profile, LinksKnown: true})
	}
	return out, nil
}
