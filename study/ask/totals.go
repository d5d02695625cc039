package ask

import (
	"context"

	"cleverniche/market"
)

// totals is the question how many pages match a search.
var totals = Service{Question: Totals, Life: 30 * Day, Source: "the search engine",
	Says:  "How many pages match a search",
	Price: "price of counting the pages of one search, without reading them"}

// TotalsKey is the key under which the total of a search is kept.
func (s *Asker) TotalsKey(text string, in market.Locale) string {
	return LocaleKey(in, s.Name(Totals), text)
}

// Total asks how many results a search has, without reading them.
func (s *Asker) Total(ctx context.Context, text string, in market.Locale) (Asked[int], error) {
	return put(ctx, s, Totals, s.TotalsKey(text, in), func(ctx context.Context, c market.Totaller) (int, error) {
		return c.Total(ctx, text, in)
	})
}
