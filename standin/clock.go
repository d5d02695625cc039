package standin

import (
	"fmt"
	"math/rand/v2"
	"time"
)

const (
	day = 24 * time.Hour
	// aWeek is the step in which the world lives.
	aWeek = 7 * day
	// furthest is how far the clock may be moved on from the founding.
	furthest = 260 * aWeek
)

// What happens in a week, for each page that the world was founded with.
// Ours; of the order that studies of the changing web report (Fetterly et al.
// 2003, "A large-scale study of the evolution of web pages"; from memory).
const (
	pagesAWeek   = 0.0025
	touchesAWeek = 0.007
	linksAWeek   = 0.0216
	lossesAWeek  = 0.0108
)

// Now is the world's present.
func (w *World) Now() time.Time { return w.now }

// MoveTo sets the clock. Going on, pages are published, indexed and touched, and
// links come and go; going back, the world is again what it was. It cannot go
// before its founding.
func (w *World) MoveTo(to time.Time) error {
	to = to.UTC()
	if to.Before(w.Founded) || to.Sub(w.Founded) > furthest {
		return fmt.Errorf("the clock moves between %s and %s, not to %s", w.Founded.Format(time.DateOnly),
			w.Founded.Add(furthest).Format(time.DateOnly), to.Format(time.DateOnly))
	}
	w.liveTo(to)
	w.now = to
	return nil
}

// liveTo lets the weeks happen up to a moment, those that have not yet.
func (w *World) liveTo(to time.Time) {
	for ; w.Founded.Add(time.Duration(w.weeks) * aWeek).Before(to); w.weeks++ {
		w.live(w.weeks)
	}
}

// live lets one week happen. Everything in it carries its day, so that the clock
// may stand anywhere.
func (w *World) live(week int) {
	rng := w.random("week", week)
	begins := w.Founded.Add(time.Duration(week) * aWeek)
	someday := func() time.Time { return begins.Add(time.Duration(1+rng.IntN(7)) * day) }
	founding := w.founding()
	for range poisson(rng, touchesAWeek*float64(len(founding))) {
		p := founding[rng.IntN(len(founding))]
		p.touched = append(p.touched, someday())
	}
	for range poisson(rng, lossesAWeek*float64(len(founding))) {
		p := w.lotteries[len(w.lotteries)-1].draw(rng)
		if len(p.in) > 0 {
			if l := p.in[rng.IntN(len(p.in))]; l.lost.IsZero() {
				l.lost = someday()
			}
		}
	}
	for range poisson(rng, linksAWeek*float64(len(founding))) {
		from := founding[rng.IntN(len(founding))]
		if from.site.kind == linkRing {
			continue
		}
		if l := w.addLink(from, w.target(from, rng), rng); l != nil {
			l.seen = someday()
		}
	}
	for range poisson(rng, pagesAWeek*float64(len(founding))) {
		w.publishSome(founding[rng.IntN(len(founding))].site, someday(), rng)
	}
}

// founding is the pages that the world was founded with.
func (w *World) founding() []*page { return w.natural[:w.index.founding] }

// publishSome lets a site publish one more page on a day. The owner of the demo's
// site publishes for themselves.
func (w *World) publishSome(st *site, on time.Time, rng *rand.Rand) {
	if st.kind == linkRing || w.isOwn(st) {
		return
	}
	n, kind, ok := w.choose(st, rng)
	if !ok {
		return
	}
	p := w.newPage(st, n, kind, rng)
	p.published, p.modified = on, on
	p.indexed = on.Add(indexDelay(st, rng))
	w.natural = append(w.natural, p)
	for range w.outLinks(p, rng) {
		if l := w.addLink(p, w.target(p, rng), rng); l != nil {
			l.seen = on
		}
	}
	w.index.add(p, w.weigh(p, w.newWeigher()))
}

// indexDelay is how long engines take to find a new page: a day on a site that
// the web trusts, up to three weeks on one that nobody links to.
func indexDelay(st *site, rng *rand.Rand) time.Duration {
	slow := 20 / (1 + st.authority)
	return day + time.Duration(slow*rng.Float64()*float64(day)).Truncate(time.Hour)
}

// standsAt reports whether the page is there at a moment.
func (p *page) standsAt(at time.Time) bool { return !p.removed && !p.published.After(at) }

// modifiedAt is when the page was last touched before a moment.
func (p *page) modifiedAt(at time.Time) time.Time {
	last := p.published
	if !p.modified.After(at) {
		last = p.modified
	}
	for _, t := range p.touched {
		if !t.After(at) && t.After(last) {
			last = t
		}
	}
	return last
}

// aliveAt reports whether the link is there at a moment.
func (l *link) aliveAt(at time.Time) bool {
	return !l.seen.After(at) && (l.lost.IsZero() || l.lost.After(at)) &&
		(l.from == nil || !l.from.removed)
}
