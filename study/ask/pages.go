package ask

import (
	"context"
	"errors"
	"slices"
	"strings"

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

// prober is who can say whether an address leads to something, and which sitemaps a site names.
type prober interface {
	Leads(ctx context.Context, url string) (gone bool, err error)
	SitemapsOf(ctx context.Context, origin string) ([]string, error)
}

// Leads says whether an address leads to something; gone is true where nothing is there.
func (s *Asker) Leads(ctx context.Context, url string) (gone bool, err error) {
	got, err := put(ctx, s, Page, "leads|"+url, func(ctx context.Context, c market.Fetcher) (bool, error) {
		if by, ok := c.(prober); ok {
			return by.Leads(ctx, url)
		}
		return false, errNoSitemaps
	})
	return got.Value, err
}

// mostSitemaps is how many sitemaps of a site are read.
const mostSitemaps = 50

// Listed is a page of a sitemap, and the day on which that says it was changed, as 2006-01-02; "" it does not.
type Listed struct{ URL, Touched string }

// SitePages are the pages of a site by its sitemaps, those that its robots.txt names or the usual one, at most so many.
// whole says that these are all: none of the sitemaps failed, and none was left out.
func (s *Asker) SitePages(ctx context.Context, site string, most int) (out []Listed, whole bool, err error) {
	seen := map[string]bool{}
	var failed error
	for _, origin := range []string{"https://" + site, "http://" + site} {
		open := []string{origin + "/sitemap.xml"}
		for _, src := range s.sources[Page] {
			if by, ok := src.Client.(prober); ok {
				if named, err := by.SitemapsOf(ctx, origin); err == nil {
					open = named
				}
			}
		}
		whole = true
		for read := 0; len(open) > 0 && read < mostSitemaps && len(out) < most; read++ {
			at := open[0]
			if open = open[1:]; seen[at] {
				continue
			}
			seen[at] = true
			got, err := s.Sitemap(ctx, at)
			if err != nil {
				failed, whole = errors.Join(failed, err), false
				continue
			}
			for i, p := range got.Value.Pages[:min(most-len(out), len(got.Value.Pages))] {
				one := Listed{URL: p}
				if i < len(got.Value.Touched) {
					one.Touched = got.Value.Touched[i]
				}
				out = append(out, one)
			}
			open = append(open, slices.Sorted(slices.Values(got.Value.More))...) // the same ones, whatever their order
		}
		if len(out) > 0 {
			return out, whole && len(open) == 0 && len(out) < most, nil
		}
	}
	if failed == nil {
		failed = errors.New("its sitemap names no page")
	}
	return nil, false, errors.New(strings.Split(failed.Error(), "\n")[0])
}
