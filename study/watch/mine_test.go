package watch_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"cleverniche/market"
	"cleverniche/study/input"
	"cleverniche/study/studytest"
	"cleverniche/study/watch"
)

// grounds is a site of mine: pages by path, what its sitemap lists, and what robots.txt keeps away.
type grounds struct {
	*stands
	pages  map[string]string
	listed []string
}

func (g grounds) Fetch(_ context.Context, url string) (market.Fetched, error) {
	path := strings.TrimPrefix(url, "http://mine.example")
	body, is := g.pages[path]
	switch {
	case path == "/kept-away":
		return market.Fetched{}, &market.Error{Source: "mine.example", Trouble: market.Refused, Err: market.ErrRobots}
	case !is:
		return market.Fetched{}, &market.Error{Source: "mine.example", Trouble: market.Unreachable,
			Err: errors.New("it timed out")}
	}
	return market.Fetched{URL: url, ContentType: "text/html", Body: []byte(body)}, nil
}

func (g grounds) Sitemap(_ context.Context, url string) (market.Sitemap, error) {
	if len(g.listed) == 0 || !strings.HasPrefix(url, "http://mine.example") {
		return market.Sitemap{}, &market.Error{Source: "mine.example", Trouble: market.Refused, Err: errors.New("none")}
	}
	return market.Sitemap{Pages: g.listed}, nil
}

func (g grounds) SitemapsOf(_ context.Context, origin string) ([]string, error) {
	return []string{origin + "/map.xml"}, nil
}

func (g grounds) Leads(_ context.Context, url string) (bool, error) {
	if strings.Contains(url, "silent") {
		return false, &market.Error{Source: "silent", Trouble: market.Unreachable, Err: errors.New("it is silent")}
	}
	return strings.Contains(url, "lost"), nil
}

const plainPage = `<title>Moon map and more</title><meta name=description content="A moon map."><h1>Moon map</h1>`

// TestTheSiteAsAWhole: what is watched, and what the sitemap lists, are read up to a stated number; links that lead
// nowhere, pages that are kept away, hidden, silent or not listed are told, and nothing of servers that do not answer.
func TestTheSiteAsAWhole(t *testing.T) {
	g := grounds{pages: map[string]string{
		"/":     plainPage,
		"/page": plainPage + `<a href=/a>a</a><a href="//lost.example/x">gone</a><a href="http://silent.example/">?</a>`,
		"/a":    plainPage + `<meta name=ROBOTS content="NoIndex, follow"><a href="mailto:x@y.example">m</a>`,
	}, listed: []string{"http://mine.example/a", "http://mine.example/kept-away", "http://mine.example/slow",
		"http://other.example/b"}}
	s, n, f, c := begunOver(t, func(o *studytest.Setup, f *stands) { g.stands = f; o.Market.Pages = g })
	f.place.Store(6)
	check(t, s, n)
	for _, most := range []int{0, watch.MostPages + 1} {
		if _, err := s.Watch.ReadMine(ctx, n, "", most); !errors.As(err, new(*input.Error)) {
			t.Errorf("%d pages: %v", most, err)
		}
	}
	if _, err := s.Watch.ReadMine(ctx, n, "nobody.example", 5); err == nil {
		t.Error("a site that is not mine is read")
	}
	c.days.Store(1)
	read := func(most int) map[string][]string {
		t.Helper()
		j, err := s.Watch.ReadMine(ctx, n, "", most)
		if done := studytest.Finish(t, s, j, err); done.Failed > 0 {
			t.Fatalf("%+v", done)
		}
		got, err := s.Watch.Mine(ctx, n, "", pages(t, s, n), ranking(t, s, n))
		if err != nil || got.Read.IsZero() {
			t.Fatal(err)
		}
		out := map[string][]string{}
		for _, one := range got.Faults {
			out[one.URL] = append(out[one.URL], one.Key)
		}
		for _, p := range got.Pages {
			out["all"] = append(out["all"], strings.TrimPrefix(p.URL, "http://mine.example"))
		}
		return out
	}
	got := read(10)
	for url, keys := range map[string]string{"page": "broken links", "a": "noindex", "kept-away": "robots",
		"slow": "unreachable", "": "unlisted"} {
		if !slices.Contains(got["http://mine.example/"+url], keys) {
			t.Errorf("/%s: %q", url, got["http://mine.example/"+url])
		}
	}
	if !slices.Contains(got["http://mine.example/page"], "unlisted") ||
		slices.Contains(got["http://mine.example/a"], "unlisted") || len(got["all"]) != 5 {
		t.Errorf("%v", got)
	}
	c.days.Store(2)
	if got = read(2); len(got["all"]) > 3 { // the watched one, and one of the sitemap
		t.Errorf("two pages: %v", got["all"])
	}
	c.days.Store(3)
	g.pages["/"] = plainPage + `<a href="/a#part">a</a><a href=http://other.example/>o</a>`
	g.listed = nil
	t.Run("without a sitemap", func(t *testing.T) {
		s, n, _, _ := begunOver(t, func(o *studytest.Setup, f *stands) { g.stands = f; o.Market.Pages = g })
		j, err := s.Watch.ReadMine(ctx, n, "", 10)
		studytest.Finish(t, s, j, err)
		got, err := s.Watch.Mine(ctx, n, "", pages(t, s, n), ranking(t, s, n))
		if err != nil || got.Sitemap == "" || len(got.Pages) != 3 { // the first page, what it links to, the published one
			t.Errorf("%+v, %v", got, err)
		}
	})
}

// TestMyPages: faults of a page as it was last read; ignored ones are away, done ones come back where they still are.
func TestMyPages(t *testing.T) {
	s, n, f, c := begun(t)
	f.place.Store(6)
	check(t, s, n)
	mine := func() watch.MyPages {
		t.Helper()
		got, err := s.Watch.Mine(ctx, n, "", pages(t, s, n), ranking(t, s, n))
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	got := mine()
	if len(got.Pages) == 0 || got.Unread != 0 || len(got.Faults) < 3 || got.Faults[0].Key != "title misses" {
		t.Fatalf("%+v", got)
	}
	before := len(got.Faults)
	if fit := got.Pages[0].Fit; fit < 0 || fit >= 100 {
		t.Errorf("a page that misses its phrase fits by %.0f", fit)
	}
	for i, state := range []string{watch.Done, watch.Ignored} {
		if err := s.Watch.Mend(ctx, n, got.Faults[i].URL, got.Faults[i].Key, state); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Watch.Mend(ctx, n, got.Faults[0].URL, "thin", "perhaps"); err == nil {
		t.Error("a state that there is not is taken")
	}
	c.days.Store(1)
	j, err := s.Watch.ReadMine(ctx, n, "", 1)
	if done := studytest.Finish(t, s, j, err); done.Failed > 0 {
		t.Fatalf("%+v", done)
	}
	if got = mine(); len(got.Faults) != before-1 || got.Settled != 1 || got.Faults[0].State != watch.Done {
		t.Errorf("%d faults, %d settled, the first %+v", len(got.Faults), got.Settled, got.Faults[0])
	}
}
