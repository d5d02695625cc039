package watch

import (
	"context"
	"fmt"
	"math"

	"cleverniche/core/watch"
	"cleverniche/store"
	"cleverniche/study/niches"
)

// reported is the name of places that a search report told.
const reported = "your search report"

// FromReport keeps where the latest search report says that my pages stand for what is watched, where it says
// something new, and how often each place is clicked. It is done after each import. A report has mean places, which
// are taken as whole ones.
func (s *Watcher) FromReport(ctx context.Context, n niches.Niche) (says string, err error) {
	list, err := s.store.Reports(ctx, n.ID, reported)
	if err != nil {
		return "", err
	}
	kept := 0
	for _, r := range list {
		if r.Page != "" && !s.niches.IsOwn(n, r.Page) { // a report of another site
			continue
		}
		place := int(math.Round(r.Place))
		if place < 1 || place > watch.Depth {
			place = 0
		}
		if place == r.Last {
			continue
		}
		if err := s.store.SavePosition(ctx, store.Position{WatchedID: r.WatchedID, At: s.store.Now().UTC(), Engine: reported,
			Place: place, Depth: watch.Depth, Page: r.Page}); err != nil {
			return "", err
		}
		kept++
	}
	if kept > 0 {
		says = fmt.Sprintf("%s of watched phrases from your report.", counted(kept, "position"))
	}
	if _, err := s.results.LearnCurve(ctx, n); err != nil {
		return says, err
	}
	return says, nil
}
