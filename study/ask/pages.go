package ask

import (
	"context"
	"errors"

	"cleverniche/market"
)

// pages is the question what a page holds.
var pages = Service{Question: Page, Life: 14 * Day, Price: "price of fetching one page",
	Source: "the page's own server", Says: "What a page says"}

// Page fetches a page.
func (s *Asker) Page(ctx context.Context, url string) (Asked[market.Fetched], error) {
	return put(ctx, s, Page, url, func(ctx context.Context, c market.Fetcher) (market.Fetched, error) {
		return c.Fetch(ctx, url)
	})
}

// sitemapper is who can fetch sitemaps, too.
type sitemapper interface {
	Sitemap(ctx context.Context, url string) (market.Sitemap, error)
}

// errNoSitemaps is why no sitemap can be fetched.
var errNoSitemaps = errors.New("sitemaps cannot be fetched here")

// SitemapKey is the key of a kept sitemap.
func SitemapKey(url string) string { return "sitemap|" + url }

// Sitemap fetches and reads a sitemap.
func (s *Asker) Sitemap(ctx context.Context, url string) (Asked[market.Sitemap], error) {
	return put(ctx, s, Page, SitemapKey(url), func(ctx context.Context, c market.Fetcher) (market.Sitemap, error) {
		if by, ok := c.(sitemapper); ok {
			return by.Sitemap(ctx, url)
		}
		return market.Sitemap{}, errNoSitemaps
	})
}
