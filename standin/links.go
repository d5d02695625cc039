package standin

import (
	"fmt"
	"math/rand/v2"
	"sort"
	"time"
)

// link is one link of the world. from is nil for a link on a host that is a
// bare address; then host says which.
type link struct {
	from   *page
	to     *page
	host   string
	anchor string
	rel    string
	seen   time.Time
	lost   time.Time // zero when it stays
}

func (l *link) fromURL() string {
	if l.from != nil {
		return l.from.url()
	}
	return "http://" + l.host + "/list.html"
}

func (l *link) followed() bool { return l.rel == "" }

// lottery draws pages by how much they attract, and by the links they have:
// the rich get richer.
type lottery struct {
	pages []*page
	sums  []float64
	drawn []*page
}

func newLottery(pages []*page) *lottery {
	l := &lottery{pages: pages}
	sum := 0.0
	for _, p := range pages {
		sum += p.attract
		l.sums = append(l.sums, sum)
	}
	return l
}

func (l *lottery) draw(rng *rand.Rand) *page {
	var p *page
	if len(l.drawn) > 20 && rng.Float64() < 0.45 {
		p = l.drawn[rng.IntN(len(l.drawn))]
	} else {
		p = l.pages[min(sort.SearchFloat64s(l.sums, rng.Float64()*l.sums[len(l.sums)-1]), len(l.pages)-1)]
	}
	l.drawn = append(l.drawn, p)
	return p
}

// growLinks lays the link graph: each page links to a handful of others, mostly
// of its own hobby, preferring what is linked already.
func (w *World) growLinks() {
	byHobby := make([][]*page, len(w.scenarios))
	for _, p := range w.pages {
		if p.site.kind != linkRing && p.fault != gone {
			byHobby[p.hobby] = append(byHobby[p.hobby], p)
		}
	}
	w.lotteries = make([]*lottery, len(byHobby))
	var everything []*page
	for h := range byHobby {
		w.lotteries[h] = newLottery(byHobby[h])
		everything = append(everything, byHobby[h]...)
	}
	w.lotteries = append(w.lotteries, newLottery(everything))
	for _, p := range w.pages {
		rng := w.random("links", p.site.domain, p.path)
		for range w.outLinks(p, rng) {
			w.addLink(p, w.target(p, rng), rng)
		}
	}
	w.growBlogrolls()
	w.growSpam()
}

// target draws the page that a page links to: mostly one of its own hobby.
func (w *World) target(from *page, rng *rand.Rand) *page {
	l := w.lotteries[from.hobby]
	if rng.Float64() < 0.18 {
		l = w.lotteries[len(w.lotteries)-1]
	}
	return l.draw(rng)
}

func (w *World) outLinks(p *page, rng *rand.Rand) int {
	switch p.site.kind {
	case marketplace, videoHost:
		return poisson(rng, 0.6)
	case linkRing:
		return 12
	case community, encyclopedia:
		return poisson(rng, 5)
	}
	return poisson(rng, 6.5)
}

// addLink lays a link, seen on some day since both pages were there. It returns
// nil when both are of one site: links within a site are its navigation.
func (w *World) addLink(from, to *page, rng *rand.Rand) *link {
	if from.site == to.site {
		return nil
	}
	l := &link{from: from, to: to, anchor: anchorFor(to, rng), rel: relFor(from, to, rng)}
	l.seen = from.published
	if to.published.After(l.seen) {
		l.seen = to.published
	}
	if gap := w.Founded.Sub(l.seen); gap > 0 {
		l.seen = l.seen.Add(time.Duration(float64(gap) * rng.Float64() * rng.Float64()))
	}
	from.out = append(from.out, l)
	to.in = append(to.in, l)
	return l
}

func anchorFor(to *page, rng *rand.Rand) string {
	switch rng.IntN(5) {
	case 0:
		return to.site.title
	case 1:
		return "here"
	case 2:
		if to.subject != "" {
			return to.subject
		}
	case 3:
		return to.site.domain
	}
	return to.title
}

func relFor(from, to *page, rng *rand.Rand) string {
	u := rng.Float64()
	switch {
	case from.site.kind == community && u < 0.75:
		return "ugc nofollow"
	case (to.kind == pageProduct || to.kind == pageShelf) && u < 0.4:
		return "sponsored"
	case from.site.kind == videoHost, from.site.kind == publisher && u < 0.3, u < 0.12:
		return "nofollow"
	}
	return ""
}

// growBlogrolls gives some niche sites a list of friends that stands on each of
// their pages.
func (w *World) growBlogrolls() {
	for _, st := range w.siteList {
		rng := w.random("blogroll", st.domain)
		if st.kind != nicheSite && st.kind != freeHost || rng.Float64() > 0.22 {
			continue
		}
		for range 1 + rng.IntN(3) {
			friend := w.lotteries[st.hobbies[0]].draw(rng).site
			if friend == st {
				continue
			}
			st.blogroll = append(st.blogroll, friend.pages[0])
			for _, p := range st.pages {
				w.addLink(p, friend.pages[0], rng)
			}
		}
	}
}

// spamHosts is how many bare-address hosts list random pages.
const spamHosts = 40

// growSpam lets link rings praise customers, and bare addresses list pages.
func (w *World) growSpam() {
	var ring []*page
	for _, st := range w.siteList {
		if st.kind == linkRing {
			ring = append(ring, st.pages...)
		}
	}
	rng := w.random("spam")
	for _, p := range ring {
		for range 4 {
			if to := ring[rng.IntN(len(ring))]; to.site != p.site {
				w.addLink(p, to, rng)
			}
		}
	}
	for i := range spamHosts {
		// Addresses for documentation (RFC 5737): nobody's.
		host := fmt.Sprintf("%s.%d", [...]string{"192.0.2", "198.51.100", "203.0.113"}[i%3], 1+i)
		for range 25 {
			to := w.lotteries[rng.IntN(len(w.scenarios))].draw(rng)
			l := &link{to: to, host: host, anchor: to.title, seen: w.Founded.AddDate(0, 0, -rng.IntN(900))}
			to.in = append(to.in, l)
		}
	}
}

// siteEdges lists the followed links between sites at a moment, once each, in a
// fixed order.
func (w *World) siteEdges(at time.Time) [][2]int {
	n := len(w.siteList)
	seen := make([]bool, n*n)
	for _, p := range w.pages {
		for _, l := range p.in {
			if l.from != nil && l.followed() && l.aliveAt(at) {
				seen[l.from.site.id*n+p.site.id] = true
			}
		}
	}
	var out [][2]int
	for i, yes := range seen {
		if yes {
			out = append(out, [2]int{i / n, i % n})
		}
	}
	return out
}
