package standin

import (
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"
)

// Experiment is a page that is published on purpose, to see where it settles.
type Experiment struct {
	Site   string    `json:"site"`             // its domain
	Phrase string    `json:"phrase,omitempty"` // what it is written for,
	Need   *int      `json:"need,omitempty"`   // or the number of the need
	Kind   string    `json:"kind,omitempty"`   // "" means the kind that the need calls for most
	Fit    int       `json:"fit"`              // how well it is made for the phrase, 0 to 100
	Title  string    `json:"title,omitempty"`  // "" lets one be written
	Links  []LabLink `json:"links,omitempty"`  // links to it
	Date   string    `json:"date,omitempty"`   // day it is published; "" means now
}

// LabLink is a link to a page that is published as an experiment.
type LabLink struct {
	From   string `json:"from"` // a domain of the world
	Anchor string `json:"anchor,omitempty"`
	Rel    string `json:"rel,omitempty"`
	Date   string `json:"date,omitempty"` // "" means the day the page is published
}

// Position is where a page stands on an engine in a week. 0 is beyond what the
// engine ranks.
type Position struct {
	Engine   string `json:"engine"`
	Week     int    `json:"week"` // since it was published
	Date     string `json:"date"`
	Position int    `json:"position"`
}

// lab keeps the pages that were published as experiments.
type lab struct {
	next  int
	pages map[int]*labPage
}

type labPage struct {
	experiment Experiment
	page       *page
}

// From this fit on a page's title holds the phrase as people type it; below the
// other one its text is about something else.
const (
	exactFit = 50
	strayFit = 20
)

// design makes the page of an experiment without putting it anywhere.
func (w *World) design(x Experiment) (*labPage, error) {
	st := w.sites[strings.ToLower(x.Site)]
	if st == nil {
		return nil, fmt.Errorf("there is no site %q in this world", x.Site)
	}
	if x.Fit < 0 || x.Fit > 100 {
		return nil, fmt.Errorf("fit is %d, not between 0 and 100", x.Fit)
	}
	n := w.needOf(&x)
	if n == nil {
		return nil, fmt.Errorf("nobody in this world searches for anything like %q", x.Phrase)
	}
	on, err := w.someDay(x.Date, w.now)
	if err != nil {
		return nil, err
	}
	p := &page{site: st, hobby: n.hobby, need: n, about: n, subject: strings.Join(tokens(x.Phrase), " "),
		quality: 0.02 + 0.97*float64(x.Fit)/100, exact: x.Fit >= exactFit, trial: true, published: on, modified: on}
	if p.kind, err = kindAsked(x.Kind, n); err != nil {
		return nil, err
	}
	if x.Fit < strayFit {
		p.about = w.needs[(n.id+17)%len(w.needs)]
	}
	rng := w.random("experiment", st.domain, p.subject, x.Fit, x.Kind)
	p.indexed = on.Add(indexDelay(st, rng))
	if p.title = strings.ReplaceAll(w.titleOf(p, rng), "%d", "7"); x.Title != "" {
		p.title = x.Title
	}
	p.path = w.pathOf(p, kindHabits[p.kind].prefixes[(st.style+int(p.kind))%len(kindHabits[p.kind].prefixes)])
	for _, l := range x.Links {
		if err := w.designLink(p, l); err != nil {
			return nil, err
		}
	}
	return &labPage{x, p}, nil
}

// needOf finds the need, and fills in the phrase when only the need is given.
func (w *World) needOf(x *Experiment) *need {
	if x.Phrase == "" && x.Need != nil && *x.Need >= 0 && *x.Need < len(w.needs) {
		x.Phrase = w.needs[*x.Need].queries[0].text
	}
	if q := w.understand(tokens(x.Phrase)); q != nil {
		return q.need
	}
	return nil
}

func (w *World) someDay(s string, otherwise time.Time) (time.Time, error) {
	if s == "" {
		return otherwise, nil
	}
	t, err := time.Parse(time.DateOnly, s)
	if err != nil || t.Before(w.Founded.Add(-furthest)) || t.After(w.Founded.Add(furthest)) {
		return t, fmt.Errorf("%q is no day of this world of the form 2006-01-02", s)
	}
	return t, nil
}

func kindAsked(name string, n *need) (pageKind, error) {
	if name == "" {
		best := pageArticle
		for k, weight := range n.serves {
			if weight > n.serves[best] && pageKind(k) != pageHome {
				best = pageKind(k)
			}
		}
		return best, nil
	}
	if name == pageHome.String() || !slices.Contains(pageKindNames[:], name) {
		return 0, fmt.Errorf("there is no kind of page %q to publish; there are %s", name,
			strings.Join(pageKindNames[pageHome+1:], ", "))
	}
	return pageKindNamed(name), nil
}

// designLink lays a link to the page from some page of a site.
func (w *World) designLink(p *page, l LabLink) error {
	st := w.sites[strings.ToLower(l.From)]
	if st == nil {
		return fmt.Errorf("there is no site %q in this world to link from", l.From)
	}
	seen, err := w.someDay(l.Date, p.published)
	if err != nil {
		return err
	}
	anchor := l.Anchor
	if anchor == "" {
		anchor = p.title
	}
	from := st.pages[int(nameOf(p))%len(st.pages)]
	if from.trial || !from.standsAt(seen) {
		from = st.pages[0]
	}
	p.in = append(p.in, &link{from: from, to: p, anchor: anchor, rel: l.Rel, seen: seen})
	return nil
}

// Publish puts a page into the world, for everybody to see, until Withdraw. The
// number names it.
func (w *World) Publish(x Experiment) (number int, address string, err error) {
	lp, err := w.design(x)
	if err != nil {
		return 0, "", err
	}
	w.registerPage(lp.page)
	for _, l := range lp.page.in {
		l.from.out = append(l.from.out, l)
	}
	w.index.add(lp.page, w.weigh(lp.page, w.newWeigher()))
	w.lab.next++
	if w.lab.pages == nil {
		w.lab.pages = map[int]*labPage{}
	}
	w.lab.pages[w.lab.next] = lp
	return w.lab.next, lp.page.url(), nil
}

// Favour lets engines think better of a site, or below 0 worse, than anything says that can be seen of it: by points of
// what they add up, of which a title as typed has about ten. Nobody has any from the start.
func (w *World) Favour(domain string, by float64) bool {
	st := w.sites[strings.ToLower(domain)]
	if st != nil {
		st.favour = by
	}
	return st != nil
}

// Withdraw takes an experiment's page and its links out of the world again.
func (w *World) Withdraw(number int) bool {
	lp := w.lab.pages[number]
	if lp == nil {
		return false
	}
	p := lp.page
	p.removed = true
	for _, l := range p.in {
		l.from.out = slices.DeleteFunc(l.from.out, func(o *link) bool { return o == l })
	}
	p.site.pages = slices.DeleteFunc(p.site.pages, func(o *page) bool { return o == p })
	delete(p.site.byPath, p.path)
	delete(w.lab.pages, number)
	return true
}

// Course is where an experiment's page stands for its phrase, week by week, as far
// as the weeks go. Weeks that the world has not lived through are lived through;
// the clock stays.
func (w *World) Course(number, weeks int) ([]Position, bool) {
	lp := w.lab.pages[number]
	if lp == nil {
		return nil, false
	}
	w.liveTo(lp.page.published.Add(time.Duration(weeks+1) * aWeek))
	list := make([]int, weeks+1)
	for i := range list {
		list[i] = i
	}
	return w.course(lp, nil, list, EngineNames), true
}

func (w *World) course(lp *labPage, extra *candidate, weeks []int, engines []string) []Position {
	var out []Position
	for _, name := range engines {
		for _, k := range weeks {
			at := lp.page.published.Add(time.Duration(k) * aWeek)
			hits, _ := w.Engine(name).Search(Ask{Text: lp.experiment.Phrase, At: at, extra: extra})
			rank := 1 + slices.IndexFunc(hits, func(h hit) bool { return h.page == lp.page })
			out = append(out, Position{name, k, at.Format(time.DateOnly), rank})
		}
	}
	return out
}

// Batch is many experiments, each tried by itself: none is seen by the others or
// by anybody else, and nothing of them stays.
type Batch struct {
	Trials  []Experiment `json:"trials"`
	Weeks   []int        `json:"weeks,omitempty"`   // none means 12 weeks after publication
	Engines []string     `json:"engines,omitempty"` // none means all
	// Pages asks for each page's HTML too, as it would be served.
	Pages bool `json:"pages,omitempty"`
}

// Outcome is how one trial of a batch went.
type Outcome struct {
	URL       string     `json:"url,omitempty"`
	Need      int        `json:"need"`
	HTML      string     `json:"html,omitempty"`
	Positions []Position `json:"positions,omitempty"`
	Error     string     `json:"error,omitempty"`
}

// Limits of a batch.
const (
	mostTrials = 5000
	mostWeeks  = 260
)

func (b *Batch) check() error {
	if len(b.Trials) == 0 || len(b.Trials) > mostTrials {
		return fmt.Errorf("a batch holds 1 to %d trials", mostTrials)
	}
	if len(b.Weeks) == 0 {
		b.Weeks = []int{12}
	}
	if slices.Min(b.Weeks) < 0 || slices.Max(b.Weeks) > mostWeeks || len(b.Weeks) > mostWeeks {
		return fmt.Errorf("weeks are between 0 and %d", mostWeeks)
	}
	if len(b.Engines) == 0 {
		b.Engines = EngineNames
	}
	for _, name := range b.Engines {
		if !slices.Contains(EngineNames, name) {
			return fmt.Errorf("there is no engine %q; there are %s", name, strings.Join(EngineNames, ", "))
		}
	}
	return nil
}

// Prepare checks a batch and lets the weeks happen that it needs; after that Try
// changes nothing.
func (w *World) Prepare(b *Batch) error {
	if err := b.check(); err != nil {
		return err
	}
	latest := w.now
	for _, x := range b.Trials {
		if on, err := w.someDay(x.Date, w.now); err == nil && on.After(latest) {
			latest = on
		}
	}
	if last := latest.Add(time.Duration(slices.Max(b.Weeks)+1) * aWeek); last.Sub(w.Founded) <= furthest {
		w.liveTo(last)
	} else {
		w.liveTo(w.Founded.Add(furthest))
	}
	return nil
}

// Try runs a prepared batch.
func (w *World) Try(b Batch) []Outcome {
	out := make([]Outcome, len(b.Trials))
	var wg sync.WaitGroup
	workers := runtime.GOMAXPROCS(0)
	for k := range workers {
		wg.Go(func() {
			for i := k; i < len(out); i += workers {
				out[i] = w.try(b.Trials[i], b)
			}
		})
	}
	wg.Wait()
	return out
}

func (w *World) try(x Experiment, b Batch) Outcome {
	lp, err := w.design(x)
	if err != nil {
		return Outcome{Error: err.Error()}
	}
	lp.page.key = nameOf(lp.page)
	text := w.weigh(lp.page, w.newWeigher())
	out := Outcome{URL: lp.page.url(), Need: lp.page.need.id}
	out.Positions = w.course(lp, &candidate{lp.page, text.terms}, b.Weeks, b.Engines)
	if b.Pages {
		out.HTML = string(w.html(lp.page))
	}
	return out
}
