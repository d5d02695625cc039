package results

import (
	"context"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

const pagesKey = "pages"

// pages is the lookup of how many pages say the exact phrase, and how many of them in the title.
var pages = func() Lookup {
	l := Lookup{Key: pagesKey, From: sieve.FromTotals, Tells: sieve.ExactPages, Name: "counted", Act: "count pages",
		job: "count", brings: "checked", title: "Count pages for %d %s", has: "%d answers", fails: "CountError",
		do: (*Researcher).countPages}
	l.estimate, l.most = simple(ask.Totals, func(niches.Niche) int { return 2 },
		func(s *Researcher, n niches.Niche, phrase string) (keys []string) {
			for _, text := range counted(phrase) {
				keys = append(keys, s.asker.TotalsKey(text, n.Locale()))
			}
			return keys
		})
	return l
}()

// counted are the searches whose totals are counted: the exact phrase, and the exact phrase in the title.
func counted(phrase string) [2]string {
	return [2]string{`"` + phrase + `"`, `intitle:"` + phrase + `"`}
}

func (s *Researcher) countPages(ctx context.Context, n niches.Niche, idea store.Idea) error {
	now := s.store.Now().UTC()
	var totals [2]int
	for i, text := range counted(idea.Phrase) {
		total, err := s.asker.Total(ctx, text, n.Locale())
		if err != nil {
			return err
		}
		totals[i] = total.Value
	}
	idea.PagesAt, idea.CountError, idea.ExactPages, idea.TitlePages = &now, "", &totals[0], &totals[1]
	return s.store.SaveLookup(ctx, n.ID, idea, pagesKey)
}
