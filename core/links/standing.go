package links

import (
	"math"
	"strings"
	"time"
)

// Link is one link to a page, as a link index reports it.
type Link struct {
	From      string // URL of the page the link stands on
	To        string // URL it points to
	Anchor    string
	Rel       string // the rel attribute: space-separated tokens
	FirstSeen time.Time
}

// Followed reports whether the link passes trust: its rel holds none of
// nofollow, ugc and sponsored (HTML Living Standard, link types).
func (l Link) Followed() bool {
	for _, t := range strings.Fields(l.Rel) {
		switch strings.ToLower(t) {
		case "nofollow", "ugc", "sponsored":
			return false
		}
	}
	return true
}

// SolidStanding is the standing from which a followed link is solid (ours).
const SolidStanding = 20

// Profile is what the links to one page come to. Sites are counted, not links.
type Profile struct {
	Links     int        `json:"links"`    // links reported
	Sites     int        `json:"sites"`    // sites they come from
	Followed  int        `json:"followed"` // sites with at least one followed link
	Solid     int        `json:"solid"`    // of those, of standing at least SolidStanding, not a bare address
	Nowhere   int        `json:"nowhere"`  // followed, from sites of standing below 1: they count for nothing
	Standing  float64    `json:"standing"`
	Strongest []Referrer `json:"strongest"` // the followed sites of highest standing, at most five
}

// Referrer is one site that links to a page.
type Referrer struct {
	Site     string  `json:"site"`
	Standing float64 `json:"standing"`
	Anchor   string  `json:"anchor"`
	Followed bool    `json:"followed"`
}

// Profiler counts links by site.
type Profiler struct {
	Suffixes Suffixes
	Standing func(site string) float64 // 0 for a site the graph does not know
}

// Profile reads the links to one page. Links from the page's own site are left
// out: they say nothing about what others think.
func (p Profiler) Profile(target string, list []Link) Profile {
	own := p.Suffixes.Site(Host(target))
	bySite := map[string]*Referrer{}
	var order []string
	out := Profile{}
	for _, l := range list {
		site := p.Suffixes.Site(Host(l.From))
		if site == "" || site == own {
			continue
		}
		out.Links++
		r := bySite[site]
		if r == nil {
			r = &Referrer{Site: site, Standing: p.Standing(site), Anchor: l.Anchor}
			bySite[site] = r
			order = append(order, site)
		}
		if l.Followed() && !r.Followed {
			r.Followed, r.Anchor = true, l.Anchor
		}
	}
	var standings []float64
	for _, site := range order {
		r := bySite[site]
		out.Sites++
		if !r.Followed {
			continue
		}
		out.Followed++
		if r.Standing >= SolidStanding && !IsAddress(site) {
			out.Solid++
		}
		if r.Standing < 1 {
			out.Nowhere++
		}
		if !IsAddress(site) {
			standings = append(standings, r.Standing)
		}
		out.Strongest = insertStrongest(out.Strongest, *r, 5)
	}
	out.Standing = PageStanding(standings)
	return out
}

func insertStrongest(list []Referrer, r Referrer, most int) []Referrer {
	at := len(list)
	for at > 0 && list[at-1].Standing < r.Standing {
		at--
	}
	list = append(list, Referrer{})
	copy(list[at+1:], list[at:])
	list[at] = r
	return list[:min(len(list), most)]
}

// Regain puts a page standing that was reckoned with another gain on today's scale. A
// standing that was rounded to 100 is taken for 99.99.
func Regain(standing, gain float64) float64 {
	sum := -gain * math.Log(1-math.Min(standing, 99.99)/100)
	return 100 * (1 - math.Exp(-sum/LinkGain))
}

// PageStanding returns the standing, 0 to 100, that followed links from sites
// of the given standings give a page: 100·(1 − e^(−Σ(s/100)²/LinkGain)). Ours: many
// links from nowhere stay nothing, and each further link adds less.
func PageStanding(sites []float64) float64 {
	sum := 0.0
	for _, s := range sites {
		s = math.Max(0, math.Min(100, s)) / 100
		sum += s * s
	}
	return 100 * (1 - math.Exp(-sum/LinkGain))
}
