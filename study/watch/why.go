package watch

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"cleverniche/core/demand"
	"cleverniche/core/serp"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Why is what may explain where a page stands beside its forecast.
type Why struct {
	Says []string
	// LookAgain says that results were not looked up since the forecast, so that what others changed is not known. Idea is
	// the idea to look up.
	LookAgain bool
	Idea      uint
}

// Bounds of what is said (ours).
const (
	linksNoticed = 8 // points of page standing
	mostWhys     = 8
)

// Why tells who came in above a page since its forecast, what those above changed, links that came or went, and whether
// its season is over: from what was looked up last. Nobody is asked.
func (s *Watcher) Why(ctx context.Context, n niches.Niche, p Page) (out Why, err error) {
	if p.Forecast == nil || p.Site != "" {
		return out, nil
	}
	for _, site := range p.Came() {
		out.Says = append(out.Says, fmt.Sprintf("%s came into the top ten, above you.", site))
	}
	idea, err := s.store.IdeaNamed(ctx, n.ID, p.Phrase)
	if errors.Is(err, input.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Idea = idea.ID
	ev, err := s.results.Evidence(ctx, n, idea.ID)
	switch {
	case errors.Is(err, input.ErrNotFound) || errors.Is(err, results.ErrUnreadable):
		out.LookAgain = true
	case err != nil:
		return out, err
	case !ev.AskedAt.After(p.Made.Add(aDay)):
		out.LookAgain = true
	default:
		out.Says = append(out.Says, s.changed(n, p, ev.Reading.Ten())...)
	}
	if counts, err := store.DecodeMonths(idea.Months); err == nil && len(counts) > 0 {
		peak := demand.SeasonOf(demand.Series{Counts: counts}).Peak
		if now := s.store.Now().Month(); peak.Months > 0 && !peak.Holds(now) {
			out.Says = append(out.Says, fmt.Sprintf("It is out of season: searches peak from %s on.", peak.First))
		}
	}
	out.Says = out.Says[:min(mostWhys, len(out.Says))]
	return out, nil
}

// changed is what those above a page changed since its forecast, and what its own links are.
func (s *Watcher) changed(n niches.Niche, p Page, ten []serp.Entry) (out []string) {
	for _, e := range ten {
		if e.Site == n.OwnSite {
			if n.PlannedLinks > 0 && e.LinksKnown && e.PageStanding < linksNoticed {
				out = append(out, fmt.Sprintf("You planned %s to it; none can be seen yet.", counted(n.PlannedLinks, "solid link")))
			}
			break // those below do not stand in its way
		}
		if e.Touched.After(p.Made) {
			out = append(out, fmt.Sprintf("%s updated its page on %s.", e.Site, e.Touched.Format("2 January 2006")))
		}
		at := slices.Index(p.Ten, e.Site)
		if at < 0 || at >= len(p.Links) || !e.LinksKnown {
			continue
		}
		switch by := e.PageStanding - p.Links[at]; {
		case by >= linksNoticed:
			out = append(out, fmt.Sprintf("%s gained links: page standing %.0f, now %.0f.", e.Site, p.Links[at], e.PageStanding))
		case -by >= linksNoticed:
			out = append(out, fmt.Sprintf("%s lost links: page standing %.0f, now %.0f.", e.Site, p.Links[at], e.PageStanding))
		}
	}
	return out
}
