package rivals

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"time"

	"cleverniche/core/links"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Recent is what changed of a site's pages, by its sitemap.
type Recent struct {
	At      time.Time // zero: it was not looked at
	Before  time.Time // when it was looked at the time before; zero never
	Pages   int
	Dated   int       // of them, that say when they were changed
	Touched []Touched // within the last ninety days, the latest first
	Lately  int       // how many these are in all
	New     []string  // since the time before
	Gone    []string
	Fresh   int // how many are new, and gone, in all
	Left    int
	List    []string // all, to compare with the next time
	Moved   string   `json:",omitempty"` // the site that its pages are of now, where it leads elsewhere
}

// Touched is a page and the day on which it was changed, 2006-01-02.
type Touched struct{ Page, On string }

// Bounds of what is read and kept of sitemaps.
const (
	mostPages     = 50_000
	shownTouched  = 30
	shownNew      = 50
	lately        = 90 * ask.Day
	mostKeptPages = 4 << 20 // bytes
)

// RecentOf is what was seen of a rival's pages the last time.
func RecentOf(r store.Rival) (out Recent) {
	if r.Pages == "" || json.Unmarshal([]byte(r.Pages), &out) != nil {
		return Recent{}
	}
	return out
}

// AskRecent starts a job that reads a site's sitemap, and those that it names.
func (s *Scout) AskRecent(ctx context.Context, n niches.Niche, text string) (jobs.Job, error) {
	name, err := s.SiteOf(text)
	if err != nil {
		return jobs.Job{}, err
	}
	return s.runner.Start(ctx, n, PagesJob, "Read the sitemap of "+input.Clip(name, 60), jobs.Encode([]string{name}))
}

func (s *Scout) askRecent(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var name string
	if err := json.Unmarshal([]byte(payload), &name); err != nil {
		return 0, err
	}
	return s.ReadSitemap(ctx, n, name)
}

// ReadSitemap reads a site's sitemap and keeps what changed since the time before. It returns how many pages it names.
func (s *Scout) ReadSitemap(ctx context.Context, n niches.Niche, name string) (int, error) {
	r, err := s.Rival(ctx, n, name)
	if err != nil {
		return 0, err
	}
	now := s.store.Now().UTC()
	pages, err := s.sitemaps(ask.Again(ctx, now), name)
	if err != nil {
		return 0, err
	}
	seen := compare(RecentOf(r), pages, now)
	seen.Moved = s.movedTo(name, pages)
	body, err := json.Marshal(seen)
	if err != nil {
		return 0, err
	}
	if len(body) > mostKeptPages {
		return 0, fmt.Errorf("its sitemap names too many pages to compare: %d", len(pages))
	}
	return len(pages), s.store.SaveRivalPages(ctx, n.ID, name, string(body))
}

// movedTo is the site that most pages are of where that is another one, or "".
func (s *Scout) movedTo(name string, pages map[string]string) string {
	count := map[string]int{}
	for p := range pages {
		if site := s.suffixes.Site(links.Host("http://" + p)); site != name {
			count[site]++
		}
	}
	for site, n := range count {
		if 2*n > len(pages) {
			return site
		}
	}
	return ""
}

// sitemaps reads pages with the days on which they were changed, "" where that is not said.
func (s *Scout) sitemaps(ctx context.Context, name string) (map[string]string, error) {
	list, _, err := s.asker.SitePages(ctx, name, mostPages)
	out := make(map[string]string, len(list))
	for _, p := range list {
		out[bare(p.URL)] = p.Touched
	}
	return out, err
}

// compare tells what changed since the time before.
func compare(was Recent, pages map[string]string, now time.Time) Recent {
	out := Recent{At: now, Before: was.At, Pages: len(pages)}
	known := map[string]bool{}
	for _, p := range was.List {
		known[p] = true
	}
	since := now.Add(-lately).Format(time.DateOnly)
	for p, on := range pages {
		out.List = append(out.List, p)
		if on != "" {
			if out.Dated++; on >= since {
				out.Touched = append(out.Touched, Touched{p, on})
			}
		}
		if !was.At.IsZero() && !known[p] {
			out.New = append(out.New, p)
		}
	}
	for _, p := range was.List {
		if _, there := pages[p]; !there {
			out.Gone = append(out.Gone, p)
		}
	}
	sort.Strings(out.List)
	sort.Strings(out.New)
	sort.Strings(out.Gone)
	sort.Slice(out.Touched, func(i, j int) bool {
		a, b := out.Touched[i], out.Touched[j]
		return a.On > b.On || a.On == b.On && a.Page < b.Page
	})
	out.Lately, out.Fresh, out.Left = len(out.Touched), len(out.New), len(out.Gone)
	out.Touched = out.Touched[:min(shownTouched, len(out.Touched))]
	out.New, out.Gone = out.New[:min(shownNew, len(out.New))], out.Gone[:min(shownNew, len(out.Gone))]
	return out
}
