package rivals_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/study/rivals"
	"cleverniche/study/studytest"
)

// mapped is a fake whose sites have sitemaps.
type mapped struct {
	*studytest.Fake
	pages, touched []string
}

func (m *mapped) Sitemap(_ context.Context, at string) (market.Sitemap, error) {
	if at != "http://a.example/sitemap.xml" {
		return market.Sitemap{}, &market.Error{Source: "a.example", Trouble: market.Refused, Err: errors.New("none")}
	}
	return market.Sitemap{Pages: m.pages, Touched: m.touched, More: []string{at}}, nil
}

// TestRecent: a site's sitemap tells which pages were touched lately; the next time also which are new, and gone. A
// site without one says so, and what was known stays.
func TestRecent(t *testing.T) {
	now := time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	f := &mapped{Fake: &studytest.Fake{},
		pages:   []string{"http://a.example/x", "http://a.example/y", "http://a.example/z"},
		touched: []string{"2026-11-20", "2020-01-01"}}
	s, n := studytest.Begin(t, f.Fake, func(o *studytest.Setup) {
		o.Market.Pages = f
		o.Now = func() time.Time { return now }
	})
	look := func() string {
		t.Helper()
		job, err := s.Rivals.AskRecent(ctx, n, "a.example")
		studytest.Finish(t, s, job, err)
		r, err := s.Rivals.Rival(ctx, n, "a.example")
		if err != nil {
			t.Fatal(err)
		}
		got := rivals.RecentOf(r)
		return fmt.Sprint(got.Pages, got.Dated, got.Lately, got.Touched, got.New, got.Gone)
	}
	if got := look(); got != "3 2 1 [{a.example/x 2026-11-20}] [] []" {
		t.Error(got)
	}
	now = now.AddDate(0, 0, 30)
	f.pages, f.touched = []string{"http://a.example/x", "http://a.example/new"}, nil
	if got := look(); got != "2 0 0 [] [a.example/new] [a.example/y a.example/z]" {
		t.Error(got)
	}
	now = now.AddDate(0, 0, 1)
	f.pages = []string{"http://b.example/x", "http://www.b.example/y", "http://a.example/z"}
	look()
	if r, _ := s.Rivals.Rival(ctx, n, "a.example"); rivals.RecentOf(r).Moved != "b.example" {
		t.Errorf("it leads to b.example, not to %q", rivals.RecentOf(r).Moved)
	}
	job, err := s.Rivals.AskRecent(ctx, n, "b.example")
	if done := studytest.Finish(t, s, job, err); done.Failed != 1 {
		t.Errorf("a sitemap that is not there is read: %+v", done)
	}
}
