package standin

import (
	"cmp"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"
)

// What a rankings service answers (docs/rankings.openapi.yaml).

type rankAnswer struct {
	Phrase   string   `json:"phrase"`
	Place    int      `json:"place"`
	URL      string   `json:"url"`
	Searches *int     `json:"searches,omitempty"`
	Visits   *float64 `json:"visits,omitempty"`
}

func (w *World) serveRanks(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	v := r.URL.Query()
	all := t.phrases()
	contains, lacks := tokens(v.Get("contains")), tokens(v.Get("lacks"))
	starts, ends := strings.Join(tokens(v.Get("starts")), " "), strings.Join(tokens(v.Get("ends")), " ")
	from, to := within(v.Get("place_from"), 1, 1, deepest), within(v.Get("place_to"), deepest, 1, deepest)
	least, most := within(v.Get("searches_from"), 0, 0, math.MaxInt32),
		within(v.Get("searches_to"), math.MaxInt32, 0, math.MaxInt32)
	all = slices.DeleteFunc(all, func(s stands) bool {
		for _, word := range contains {
			if !slices.Contains(s.query.tokens, word) {
				return true
			}
		}
		for _, word := range lacks {
			if slices.Contains(s.query.tokens, word) {
				return true
			}
		}
		return starts != "" && !strings.HasPrefix(s.query.text+" ", starts+" ") ||
			ends != "" && !strings.HasSuffix(" "+s.query.text, " "+ends) || s.place < from || s.place > to ||
			s.searches < least && least > 0 || s.searches > most
	})
	switch v.Get("order") {
	case "searches":
		slices.SortStableFunc(all, func(a, b stands) int { return cmp.Compare(b.searches, a.searches) })
	case "place":
		slices.SortStableFunc(all, func(a, b stands) int { return cmp.Compare(a.place, b.place) })
	case "phrase":
		slices.SortStableFunc(all, func(a, b stands) int { return strings.Compare(a.query.text, b.query.text) })
	}
	out := []rankAnswer{}
	for _, s := range slice(all, r) {
		row := rankAnswer{Phrase: s.query.text, Place: s.place, URL: s.page.url()}
		if s.searches >= 0 {
			visits := round1(s.visits)
			row.Searches, row.Visits = &s.searches, &visits
		}
		out = append(out, row)
	}
	t.say(rw, "phrases", out, len(all))
}

// slice is what a request asks for of a list.
func slice[T any](list []T, r *http.Request) []T {
	v := r.URL.Query()
	from := min(len(list), within(v.Get("offset"), 0, 0, math.MaxInt32))
	return list[from:min(len(list), from+within(v.Get("limit"), 100, 1, 1000))]
}

// say answers with a list, of so many in all; below 0 there is no such number.
func (t watched) say(rw http.ResponseWriter, name string, list any, total int) {
	out := map[string]any{"target": t.target, "as_of": t.at.Format(time.DateOnly), name: list}
	if total >= 0 {
		out["total"] = total
	}
	writeJSON(rw, out)
}

type sharerAnswer struct {
	Site    string   `json:"site"`
	Shared  int      `json:"shared"`
	Phrases *int     `json:"phrases,omitempty"`
	Visits  *float64 `json:"visits,omitempty"`
}

// Of how many sites that share places, and of how large ones, the service also says how they are as a whole: those that
// it has counted.
const (
	mostCounted = 12
	countedTo   = 60 // pages
)

func (w *World) serveSharers(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	shared := map[*site]int{}
	for _, s := range t.phrases() {
		if s.place > countsBeside {
			continue
		}
		on := map[*site]bool{}
		for _, p := range s.all.pages[:min(countsBeside, len(s.all.pages))] {
			if !slices.Contains(t.sites, p.site) && !on[p.site] {
				on[p.site] = true
				shared[p.site]++
			}
		}
	}
	var list []*site
	for st := range shared {
		list = append(list, st)
	}
	slices.SortFunc(list, func(a, b *site) int {
		return cmp.Or(cmp.Compare(shared[b], shared[a]), strings.Compare(a.domain, b.domain))
	})
	out := []sharerAnswer{}
	for i, st := range slice(list, r) {
		row := sharerAnswer{Site: st.domain, Shared: shared[st]}
		if i < mostCounted && len(st.pages) <= countedTo { // of others it has not counted
			of := t
			of.sites, of.holds = []*site{st}, func(*page) bool { return true }
			all := of.phrases()
			n, visits := len(all), 0.0
			for _, s := range all {
				visits += s.visits
			}
			visits = round1(visits)
			row.Phrases, row.Visits = &n, &visits
		}
		out = append(out, row)
	}
	t.say(rw, "sites", out, len(list))
}

type topPageAnswer struct {
	URL     string  `json:"url"`
	Phrases int     `json:"phrases"`
	Visits  float64 `json:"visits"`
	Phrase  string  `json:"phrase"`
}

func (w *World) serveTopPages(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	at := map[*page]int{}
	list := []topPageAnswer{}
	for _, s := range t.phrases() { // most visits first
		i, has := at[s.page]
		if !has {
			i = len(list)
			at[s.page] = i
			list = append(list, topPageAnswer{URL: s.page.url(), Phrase: s.query.text})
		}
		list[i].Phrases++
		list[i].Visits += s.visits
	}
	for i := range list {
		list[i].Visits = round1(list[i].Visits)
	}
	slices.SortStableFunc(list, func(a, b topPageAnswer) int { return cmp.Compare(b.Visits, a.Visits) })
	t.say(rw, "pages", slice(list, r), len(list))
}

type whenAnswer struct {
	Month   string  `json:"month,omitempty"`
	Country string  `json:"country,omitempty"`
	Phrases int     `json:"phrases"`
	Visits  float64 `json:"visits"`
}

// serveMonths reckons past months from today's places and the searches and pages of then.
func (w *World) serveMonths(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	all := t.phrases()
	out := []whenAnswer{}
	for back := monthsBack - 1; back >= 0; back-- {
		month := t.month().AddDate(0, -back, 0)
		row := whenAnswer{Month: month.Format("2006-01")}
		for _, s := range all {
			if s.searches >= 0 && s.page.indexed.Before(month.AddDate(0, 1, 0)) {
				row.Phrases++
				row.Visits += float64(w.searches(s.query, month, t.in)) * s.all.rates[s.place-1]
			}
		}
		if row.Visits = round1(row.Visits); row.Phrases > 0 || len(out) > 0 {
			out = append(out, row)
		}
	}
	t.say(rw, "months", out, -1)
}

// sampled is from how many phrases visits from a country are reckoned.
const sampled = 40

func (w *World) serveCountries(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	t.in = placeOf("", r.URL.Query().Get("language"))
	all := t.phrases()
	sample := slices.DeleteFunc(slices.Clone(all[:min(sampled, len(all))]), func(s stands) bool { return s.searches < 0 })
	out := []whenAnswer{}
	for _, in := range places {
		if in.language != t.in.language {
			continue
		}
		of, row, home := t, whenAnswer{Country: in.country}, 0.0
		of.in = placeOf(in.country, in.language)
		for _, s := range sample {
			home += s.visits
			there := w.rankedAt(t.engine, s.query, of.in, t.at)
			i := slices.IndexFunc(there.pages, func(p *page) bool { return slices.Contains(t.sites, p.site) && t.holds(p) })
			if i >= 0 {
				row.Visits += float64(w.searches(s.query, t.month(), of.in)) * there.rates[i]
				row.Phrases++
			}
		}
		if row.Phrases == 0 || home == 0 {
			continue
		}
		rest := 0.0
		for _, s := range all {
			rest += s.visits
		}
		row.Visits = round1(row.Visits * rest / home)
		row.Phrases = int(math.Round(float64(row.Phrases) * float64(len(all)) / float64(len(sample))))
		out = append(out, row)
	}
	slices.SortStableFunc(out, func(a, b whenAnswer) int { return cmp.Compare(b.Visits, a.Visits) })
	t.say(rw, "countries", out, -1)
}

type paidAnswer struct {
	Phrase string       `json:"phrase"`
	Title  string       `json:"title"`
	Text   string       `json:"text"`
	URL    string       `json:"url"`
	Cost   *demandMoney `json:"cost,omitempty"`
	Share  *float64     `json:"share,omitempty"`
}

// mostSearched is among how many phrases of a hobby ads are looked for.
const mostSearched = 3000

// paidShare is what part of those who search click an ad.
const paidShare = 0.03

func (w *World) servePaid(rw http.ResponseWriter, r *http.Request) {
	t, ok := w.watch(rw, r)
	if !ok {
		return
	}
	list := []paidAnswer{}
	looked := 0
	for _, q := range w.queryList {
		if looked >= mostSearched || !w.sells(t.sites, q) || !w.follows(q) {
			continue
		}
		looked++
		for i, a := range w.adsFor(q) {
			if !slices.ContainsFunc(t.sites, func(st *site) bool { return st.title == a.Advertiser }) {
				continue
			}
			row := paidAnswer{Phrase: q.text, Title: a.Title, Text: a.Text, URL: a.URL}
			if bid := w.demandOf(q.text, 1, t.in).CPC; bid != nil {
				searches := float64(w.searches(q, t.month(), t.in))
				row.Cost = &demandMoney{int64(math.Round(searches*paidShare/float64(i+1))) * bid.Micros, bid.Currency}
				share := math.Round(100/float64(i+1)*(0.6+0.3*w.random("share", q.text).Float64())) / 100
				row.Share = &share
			}
			list = append(list, row)
		}
	}
	slices.SortStableFunc(list, func(a, b paidAnswer) int {
		return cmp.Or(cmp.Compare(micros(b.Cost), micros(a.Cost)), strings.Compare(a.Phrase, b.Phrase))
	})
	t.say(rw, "ads", slice(list, r), len(list))
}

func micros(m *demandMoney) int64 {
	if m == nil {
		return -1
	}
	return m.Micros
}

// sells reports whether one of the sites may advertise on a phrase.
func (w *World) sells(sites []*site, q *query) bool {
	return slices.ContainsFunc(sites, func(st *site) bool {
		return (st.kind == marketplace || st.kind == maker) && slices.Contains(st.hobbies, q.need.hobby)
	})
}

func (s *server) rankings(w *World) {
	for path, do := range map[string]http.HandlerFunc{"phrases": w.serveRanks, "sites": w.serveSharers,
		"pages": w.serveTopPages, "months": w.serveMonths, "countries": w.serveCountries, "ads": w.servePaid} {
		s.api.HandleFunc(fmt.Sprintf("GET /rankings/v1/%s", path), do)
	}
}
