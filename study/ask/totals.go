package ask

import (
	"context"

	"cleverniche/market"
)

// totals is the question how many pages match a search.
var totals = Service{Question: Totals, Life: 30 * Day, Source: "the search engine",
	Price: "price of counting the pages of one search, without reading them"}

// TotalsKey is the key under which the total of a search is kept.
func (s *Asker) TotalsKey(text string, in market.Locale) string {
	return LocaleKey(in, s.market.Names[Results], text)
}

// Total asks how many results a search has, without reading them.
func (s *Asker) Total(ctx context.Context, text string, in market.Locale) (Asked[int], error) {
	if s.market.Search == nil {
		return Asked[int]{}, &MissingSourceError{Results}
	}
	return Ask(ctx, s, Totals, s.TotalsKey(text, in), func(ctx context.Context) (int, error) {
		page, err := s.market.Search.Search(ctx, text, in, 1)
		return page.Total, err
	})
}
