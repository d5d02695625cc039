package difficulty

import (
	"math"
	"slices"
	"sort"
)

// Parts are difficulty seen from two sides, each 0 to 100: what site standing is needed
// for a 50% chance by a page without links that fits as the middle of the ten does; and what fit
// is needed by a page whose standings are the medians of the ten.
type Parts struct {
	OffPage float64 `json:"offPage"`
	OnPage  float64 `json:"onPage"`
}

// Parts takes the difficulty of getting among the first k apart.
func (m Model) Parts(f Field, k int) Parts { return m.face(f).parts(k) }

func (x faced) parts(k int) Parts {
	if x.Locked != "" || len(x.draws) == 0 && !x.Room(k) {
		return Parts{Most, mostFit}
	}
	if x.Room(k) {
		return Parts{}
	}
	ten := x.Rivals[:min(FirstPage, len(x.Rivals))]
	mid := func(of func(Signals) float64) float64 { return median(ten, of) }
	title, text, kind := mid(func(s Signals) float64 { return s.Title }), mid(func(s Signals) float64 { return s.Text }),
		mid(func(s Signals) float64 { return s.Kind })
	off := x.standing(x.needed(k, 1, Signals{Site: Linked, Title: title, Text: text, Kind: kind}))
	page, site := mid(func(s Signals) float64 { return s.Page }), mid(func(s Signals) float64 { return s.Site })
	on, _ := x.fitNeeded(k, func(fit float64) Signals {
		s := x.Signals(Mine{Fit: fit})
		s.Page, s.Site = page, site
		return s
	})
	return Parts{OffPage: off, OnPage: on}
}

func median(list []Signals, of func(Signals) float64) float64 {
	values := make([]float64, len(list))
	for i, s := range list {
		values[i] = of(s)
	}
	slices.Sort(values)
	n := len(values)
	return (values[(n-1)/2] + values[n/2]) / 2
}

// MostLinks is the largest number of solid links that LinksNeeded answers with.
const MostLinks = 200

// LinksNeeded is the smallest number of links, from sites of standing
// mine.LinkStanding, with which my page has a 50% chance of getting among the first k.
// ok is false when MostLinks are not enough.
func (m Model) LinksNeeded(f Field, mine Mine, k int) (n int, ok bool) {
	return m.face(f).linksNeeded(mine, k)
}

func (x faced) linksNeeded(mine Mine, k int) (n int, ok bool) {
	if x.Locked != "" {
		return MostLinks + 1, false
	}
	n = sort.Search(MostLinks+1, func(n int) bool {
		mine.PlannedLinks = n
		return x.likely(x.page(x.Signals(mine)), k) >= even
	})
	return n, n <= MostLinks
}

// FitNeeded is the smallest fit with which my page has a 50% chance of getting among
// the first k. ok is false when no fit is enough.
func (m Model) FitNeeded(f Field, mine Mine, k int) (fit float64, ok bool) {
	x := m.face(f)
	return x.fitNeeded(k, x.made(mine))
}

// made is my page by its fit.
func (x faced) made(mine Mine) func(fit float64) Signals {
	return func(fit float64) Signals {
		mine.Fit = fit
		return x.Signals(mine)
	}
}

func (x faced) fitNeeded(k int, page func(fit float64) Signals) (fit float64, ok bool) {
	switch {
	case x.Locked != "" || len(x.draws) == 0 && !x.Room(k):
		return mostFit, false
	case x.Room(k):
		return 0, true
	}
	chance := func(fit float64) float64 { return logit(x.mean(x.page(page(fit)), k)) }
	return lowest(0, mostFit, chance), chance(mostFit) >= 0
}

// Change is one thing that could be done about my page.
type Change struct {
	What   string  `json:"what"`
	Chance float64 `json:"chance"` // after it, of TheGoal
	Gain   float64 `json:"gain"`   // how much more that is
	Range  Range   `json:"range"`  // the chance with its range
}

// What one change is taken to be (ours): about the same effort each.
const (
	moreLinks = 2
	moreFit   = 10
	moreSite  = 5
)

// Changes tells what each single change would do to the chance of getting among the
// first k, the best first. What cannot be done, such as fit beyond 100, is left out.
func (m Model) Changes(f Field, mine Mine, k int) []Change { return m.face(f).changes(mine, k) }

func (x faced) changes(mine Mine, k int) []Change {
	now := x.likely(x.page(x.Signals(mine)), k)
	var out []Change
	add := func(what string, then Mine, possible bool) {
		if !possible {
			return
		}
		if r := x.spread(x.page(x.Signals(then)), k); r.Mean > now {
			out = append(out, Change{what, r.Mean, r.Mean - now, r})
		}
	}
	then := mine
	then.PlannedLinks += moreLinks
	add("two more solid links", then, then.PlannedLinks <= MostLinks)
	then = mine
	then.Fit = math.Min(mostFit, mine.Fit+moreFit)
	add("ten points more of fit", then, mine.Fit+moreFit <= mostFit)
	then = mine
	then.SiteStanding += moreSite
	add("five points more of site standing", then, then.SiteStanding <= Most)
	sort.SliceStable(out, func(i, j int) bool { return out[i].Gain > out[j].Gain })
	return out
}

// Forecast is what a list shows of an idea. Difficulty and reach are on the scale of site standing.
type Forecast struct {
	Reach      float64 `json:"reach"`
	Difficulty float64 `json:"difficulty"` // for TheGoal
	Locked     string  `json:"locked"`
	PageOne    Range   `json:"pageOne"` // chances, 0 to 1
	TopFive    Range   `json:"topFive"`
	Expected   float64 `json:"expected"` // position
	Links      int     `json:"links"`    // solid links for a 50% chance of TheGoal
	LinksOK    bool    `json:"linksOK"`
}

// Verdict is all that is computed for one idea. Stairs and what is seen of the results are on the scale of site
// standing, too.
type Verdict struct {
	Forecast
	// Stairs are what each place of the first page needs, and so what the result there holds.
	Stairs    []float64 `json:"stairs"`
	Seen      []float64 `json:"seen"` // what can be seen of each result amounts to, in their order
	Pass      []float64 `json:"pass"` // my chance to pass the result at each place of the first page
	Parts     Parts     `json:"parts"`
	TopThree  Range     `json:"topThree"`
	FitNeeded float64   `json:"fitNeeded"`
	FitOK     bool      `json:"fitOK"`
	Changes   []Change  `json:"changes"`
	Pages     int       `json:"pages"` // from how many results pages it is known what the engine leans on
}

// Forecast computes what a list shows of a field for my page.
func (m Model) Forecast(f Field, mine Mine) Forecast {
	x := m.face(f)
	me := m.Signals(mine)
	page := x.page(me)
	return x.forecast(mine, me, page, x.distribution(page))
}

func (x faced) forecast(mine Mine, me Signals, page, distribution []float64) Forecast {
	v := Forecast{Reach: x.OnScale(x.Strength(me)), Difficulty: x.difficulty(TheGoal), Locked: x.Locked,
		PageOne: x.spread(page, PageOne), TopFive: x.spread(page, TopFive), Expected: expected(distribution)}
	v.Links, v.LinksOK = x.linksNeeded(mine, TheGoal)
	return v
}

// Judge computes the verdict on a field for my page.
func (m Model) Judge(f Field, mine Mine) Verdict {
	x := m.face(f)
	me := m.Signals(mine)
	page := x.page(me)
	distribution := x.distribution(page)
	v := Verdict{Forecast: x.forecast(mine, me, page, distribution), Stairs: x.stairs(), Parts: x.parts(TheGoal),
		TopThree: x.spread(page, TopThree), Pages: m.Pages}
	sum := 0.0
	for _, p := range distribution[:FirstPage] {
		sum += p
		v.Pass = append(v.Pass, sum)
	}
	for _, r := range f.Rivals {
		v.Seen = append(v.Seen, m.OnScale(m.Strength(r)))
	}
	v.FitNeeded, v.FitOK = x.fitNeeded(TheGoal, x.made(mine))
	v.Changes = x.changes(mine, TheGoal)
	return v
}
