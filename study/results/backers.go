package results

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// Backed is one of the results with who links to it.
type Backed struct {
	serp.Entry
	Backing links.Backing
	Tally   links.Tally
	Known   bool // somebody was asked
	At      time.Time
	Mine    bool
}

// Linked is who links to the results of an idea, and to the niche's own site.
type Linked struct {
	Results  []Backed
	Ranked   bool          // it is known how strong the linking sites are
	Own      links.Backing // to the site's front page and its pages among the results
	OwnKnown bool          // somebody was asked of the front page
	OwnPage  string        // whose links would be asked for
	Takes    string        // what it would take, counted from these
}

// Profiler tells who links to a page by what is known of sites' standings, without asking anybody; where that is
// nothing, known is false and all count as weak.
func (s *Researcher) Profiler(ctx context.Context) (p links.Profiler, known bool) {
	standing, known := s.asker.KnownStandings(ctx)
	return links.Profiler{Suffixes: s.suffixes, Standing: func(site string) float64 {
		if !known {
			return 0
		}
		x, _ := standing(site)
		return x
	}}, known
}

// Linked reads who links to the results of an idea: nobody is asked.
func (s *Researcher) Linked(ctx context.Context, n niches.Niche, ev *Evidence) (out Linked, err error) {
	profiler, known := s.Profiler(ctx)
	out.Ranked = known
	var own []links.Link
	for _, e := range ev.Reading.Entries {
		b := Backed{Entry: e, Mine: slices.Contains(ev.MyPages, e.Position)}
		list, ok, err := ask.Kept[market.LinkList](ctx, s.asker, ask.Links, e.URL)
		if err != nil {
			return out, err
		}
		if b.Known, b.At = ok, list.At; ok {
			b.Backing = profiler.Back(e.URL, e.Title, list.Value.Links, list.Value.Total)
			b.Tally = b.Backing.Tally()
			if b.Mine {
				own = append(own, list.Value.Links...)
			}
		}
		out.Results = append(out.Results, b)
	}
	if n.OwnSite != "" {
		out.OwnPage = "http://" + n.OwnSite + "/"
		list, ok, err := ask.Kept[market.LinkList](ctx, s.asker, ask.Links, out.OwnPage)
		if err != nil {
			return out, err
		}
		if ok {
			own, out.OwnKnown = append(own, list.Value.Links...), true
		}
		out.Own = profiler.Back(out.OwnPage, "", own, len(own))
	}
	if known {
		out.Takes = takes(ev.Reading, out.Results)
	}
	return out, nil
}

// takes says what it would take, counted from the links of those that answer what most of the ten do; it says whom it
// left out.
func takes(reading serp.Reading, list []Backed) string {
	var counted []Backed
	var left []string
	for _, b := range list {
		switch {
		case b.Position > serp.FirstPage || b.Mine:
		case !b.Known:
			left = append(left, fmt.Sprintf("no. %d (its links are not known)", b.Position))
		case reading.Settled && b.Type.Want() != reading.Majority:
			left = append(left, fmt.Sprintf("no. %d (%s, answers something else)", b.Position, b.Type))
		default:
			counted = append(counted, b)
		}
	}
	if len(counted) == 0 {
		return ""
	}
	slices.SortStableFunc(counted, func(a, b Backed) int { return a.Tally.Takes - b.Tally.Takes })
	var least []string
	for _, b := range counted[:min(3, len(counted))] {
		least = append(least, fmt.Sprintf("no. %d with %d (site standing %.0f)", b.Position, b.Tally.Takes, b.SiteStanding))
	}
	most := counted[len(counted)-1]
	none := slices.IndexFunc(counted, func(b Backed) bool { return b.Tally.Takes > 0 })
	if none < 0 {
		none = len(counted)
	}
	says := fmt.Sprintf("Solid links without a doubt, fewest first: %s. Most: no. %d with %d.",
		strings.Join(least, ", "), most.Position, most.Tally.Takes)
	if none > len(least) {
		says = fmt.Sprintf("%d of %d rank without a solid link. Most: no. %d with %d.", none, len(counted), most.Position,
			most.Tally.Takes)
	}
	if len(left) > 0 {
		says += " Left out: " + strings.Join(left, ", ") + "."
	}
	return says
}

// AskOwn asks who links to the niche's own site.
func (s *Researcher) AskOwn(ctx context.Context, n niches.Niche) error {
	_, err := s.asker.Links(ctx, "http://"+n.OwnSite+"/")
	return err
}

// WorthAsking are the sites worth asking for a link: that link to the top ten, and not to the niche's own site.
func (l Linked) WorthAsking() []links.Asking {
	by, rivals, mine := map[int]links.Backing{}, map[string]bool{}, map[string]bool{}
	for _, b := range l.Results {
		rivals[b.Site] = true
		if b.Known && !b.Mine {
			by[b.Position] = b.Backing
		}
	}
	for _, s := range l.Own.Backers {
		mine[s.Site] = true
	}
	return links.WorthAsking(by, rivals, mine)
}

// OwnLinksCost is what asking who links to the niche's own site costs, in words; "" where nobody can be asked.
func (s *Researcher) OwnLinksCost() string {
	if !s.asker.Has(ask.Links) {
		return ""
	}
	return s.asker.Cost(ask.Estimate{Lookups: 1, Micros: s.asker.Price(ask.Links)})
}
