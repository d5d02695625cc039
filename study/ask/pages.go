package ask

import (
	"context"

	"cleverniche/market"
)

// pages is the question what a page holds.
var pages = Service{Question: Page, Life: 14 * Day, Price: "price of fetching one page",
	Source: "the page's own server"}

// Page fetches a page.
func (s *Asker) Page(ctx context.Context, url string) (Asked[market.Fetched], error) {
	if s.market.Pages == nil {
		return Asked[market.Fetched]{}, &MissingSourceError{Page}
	}
	return Ask(ctx, s, Page, url, func(ctx context.Context) (market.Fetched, error) {
		return s.market.Pages.Fetch(ctx, url)
	})
}
