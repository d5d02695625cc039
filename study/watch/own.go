package watch

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"cleverniche/core/difficulty"
	"cleverniche/core/watch"
	"cleverniche/core/worth"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Learning is what outcomes of my own pages tell, and whether it is taken.
type Learning struct {
	Settled int              // pages that have settled and can be learnt from
	Enough  bool             // so many that something can be told
	Tried   difficulty.Tried // what it would have said of pages that took no part
	Own     difficulty.Own   // what all of them tell
	Counts  [2]float64       // what a page of mine counts as now, and with it, on the scale of site standing
	Between [2]float64       // in which the latter lies eight times in ten
	Taken   *niches.Own      // what was taken; nil nothing
	Newer   int              // settled pages since then
	Curve   niches.OwnCurve  // clicks by place, of my search report
	Usual   worth.Curve      // without it
	list    []difficulty.Outcome
}

// eightInTen is within how many deviations of its mean a normal number lies eight times in ten.
const eightInTen = 1.2816

// outcomes are pages of mine that have settled, with what stood in front of them when they were forecast.
func (s *Watcher) outcomes(ctx context.Context, n niches.Niche, pages []Page) (out []difficulty.Outcome, err error) {
	faced, err := s.store.Faced(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	for _, p := range pages {
		if p.Forecast == nil || p.Late || p.Out.IsZero() || p.Verdict == watch.TooEarly || faced[p.ID] == "" {
			continue
		}
		var o difficulty.Outcome
		if json.Unmarshal([]byte(faced[p.ID]), &o) != nil || !o.Sound() {
			continue
		}
		o.Place = p.Settled
		out = append(out, o)
	}
	return out, nil
}

// Learning is what my own pages tell so far. Nobody is asked, and nothing is changed.
func (s *Watcher) Learning(ctx context.Context, n niches.Niche, pages []Page) (out Learning, err error) {
	out.Usual = worth.Searches
	taken, curve, err := s.niches.Own(ctx, n)
	if err != nil {
		return out, err
	}
	out.Curve = curve
	if out.list, err = s.outcomes(ctx, n, pages); err != nil {
		return out, err
	}
	if out.Settled = len(out.list); taken.Pages > 0 {
		out.Taken, out.Newer = &taken, max(0, out.Settled-taken.Pages)
	}
	if out.Enough = out.Settled >= watch.Enough; !out.Enough {
		return out, nil
	}
	l, err := s.niches.Learnt(ctx, n)
	if err != nil {
		return out, err
	}
	m := difficulty.Calibrated.Leaning(l.Leaning, l.Pages)
	out.Tried, out.Own = m.TryOwn(out.list, watch.LuckOf), m.LearnOwn(out.list, watch.LuckOf)
	standing, _ := s.asker.KnownStanding(ctx, n.OwnSite)
	mine := niches.Known{Model: m}.Mine(n, standing)
	out.Counts[0] = m.Reach(mine)
	with := func(deviations float64) float64 {
		mine.Luck = out.Own.Luck + deviations*out.Own.Deviation
		return m.Own(out.Own).Reach(mine)
	}
	out.Counts[1], out.Between = with(0), [2]float64{with(-eightInTen), with(eightInTen)}
	return out, nil
}

// Gained is by how much the positions of pages that were left out are likelier with it, in words.
func (l Learning) Gained() string {
	if l.Tried.Gain < 0 {
		return fmt.Sprintf("%.0f %% less likely", -100*l.Tried.Gain)
	}
	return fmt.Sprintf("%.0f %% likelier", 100*l.Tried.Gain)
}

// Noticed reports whether a page of mine counts as something else by what was learnt that people notice.
func (l Learning) Noticed() bool { return math.Round(l.Counts[0]) != math.Round(l.Counts[1]) }

// TakeOwn takes what my own pages tell into account from now on, and reckons all anew by a job. It is refused where it
// would not have made chances of pages better that took no part in it.
func (s *Watcher) TakeOwn(ctx context.Context, n niches.Niche) (*jobs.Job, error) {
	pages, err := s.Pages(ctx, n)
	if err != nil {
		return nil, err
	}
	l, err := s.Learning(ctx, n, pages)
	switch {
	case err != nil:
		return nil, err
	case !l.Enough:
		return nil, input.Bad("own", "%d pages have settled; %d are needed.", l.Settled, watch.Enough)
	case !l.Tried.Better:
		return nil, input.Bad("own", "It would not have made the chances of your pages better.")
	}
	return s.results.TakeOwn(ctx, n, l.list)
}

// DropOwn takes that back.
func (s *Watcher) DropOwn(ctx context.Context, n niches.Niche) (*jobs.Job, error) {
	return s.results.TakeOwn(ctx, n, nil)
}

// UseCurve takes the clicks of my search report, or the usual ones, from now on.
func (s *Watcher) UseCurve(ctx context.Context, n niches.Niche, own bool) (*jobs.Job, error) {
	return s.results.UseCurve(ctx, n, own)
}
