package watch_test

import (
	"bytes"
	"context"
	"errors"
	"slices"
	"testing"

	"cleverniche/market"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/watch"
)

// many is an outside with several engines, on each of which my page stands elsewhere.
type many struct {
	*stands
	places map[string]int64
}

func (m many) On(engine string) market.Searcher { return another{m, engine} }

type another struct {
	many
	engine string
}

func (a another) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := a.stands.Search(ctx, q, in, depth)
	r.Engine = a.engine
	for i := range r.Organic {
		if r.Organic[i].URL = "http://elsewhere.example/"; int64(i)+1 == a.places[a.engine] {
			r.Organic[i].URL = "http://mine.example/page"
		}
	}
	return r, err
}

// TestScenes: places are checked in the other engines that were chosen, too, at the price of each, and are no part of
// the line where the niche searches; an engine that is changed begins another line.
func TestScenes(t *testing.T) {
	s, n, f, c := begun(t, func(f *stands) market.Searcher { return many{f, map[string]int64{"brook": 4}} })
	n.Elsewhere = niches.Elsewhere{Engines: []string{"brook", "fell"}}
	n, _, err := s.Results.ChangeNiche(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	f.place.Store(12)
	keys := []string{n.Scenes()[0].Key(), n.Scenes()[1].Key()}
	if err := s.Watch.Choose(ctx, n, append(keys, "nowhere")); err == nil {
		t.Error("an engine that is not in the settings was chosen")
	}
	one, _, err := s.Watch.CheckCost(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Watch.Choose(ctx, n, keys); err != nil {
		t.Fatal(err)
	}
	three, phrases, err := s.Watch.CheckCost(ctx, n)
	if err != nil || phrases != 1 || three.Lookups != 3*one.Lookups {
		t.Errorf("%d phrases, %+v for one engine, %+v for three, %v", phrases, one, three, err)
	}
	p := check(t, s, n)
	if p.Place != 12 || len(p.Line) != 1 || len(p.There) != 2 || p.There[0].Place != 4 || p.There[1].Place != 0 ||
		p.There[0].Scene != "brook" {
		t.Fatalf("%+v", p)
	}
	c.days.Add(7)
	if p = check(t, s, n); len(p.Line) != 2 || !p.There[0].By.OK || p.There[0].By.By != 0 || p.There[0].Says() != "no. 4" {
		t.Errorf("%+v", p)
	}
	if _, points, _, err := s.Watch.One(ctx, n, p.ID); err != nil || len(points) != 6 {
		t.Errorf("%d places of all engines, %v", len(points), err)
	}
	c.days.Add(7) // the source is another one now: what the former said is no part of the line
	f.name.Store("newer")
	if p = check(t, s, n); len(p.Line) != 1 || p.Engine != "newer" || p.Week.OK {
		t.Errorf("%+v", p)
	}
	if err := s.Watch.Choose(ctx, n, nil); err != nil {
		t.Fatal(err)
	}
	if p = check(t, s, n); len(p.There) != 0 {
		t.Errorf("%+v", p.There)
	}
}

// TestSites: a phrase is watched for several of my sites, asked for once; a niche's file holds them, and no schedule.
func TestSites(t *testing.T) {
	s, n, f, _ := begun(t)
	f.place.Store(12)
	for _, bad := range []string{"", "mine.example", "no domain", "a/b"} {
		if _, err := s.Watch.SaveOwnSite(ctx, n, bad, ""); !errors.As(err, new(*input.Error)) {
			t.Errorf("%q: %v", bad, err)
		}
	}
	site, err := s.Watch.SaveOwnSite(ctx, n, "https://www.SITE3.example/x", "My second")
	if err != nil || site != "site3.example" {
		t.Fatalf("%q, %v", site, err)
	}
	if again, err := s.Watch.SaveOwnSite(ctx, n, "site3.example", ""); err != nil || again != site {
		t.Errorf("%q, %v", again, err)
	}
	if _, _, err := s.Watch.Add(ctx, n, "site4.example", "moon map"); err == nil {
		t.Error("a site that is not mine is watched")
	}
	if added, ignored, err := s.Watch.Add(ctx, n, site, "moon map\nvenus\thttps://mine.example/x"); err != nil ||
		added != 1 || len(ignored) != 1 {
		t.Fatalf("%d, %q, %v", added, ignored, err)
	}
	before := f.Asked.Load()
	check(t, s, n)
	if asked := f.Asked.Load() - before; asked > 2 { // results once, and a page
		t.Errorf("%d questions", asked)
	}
	list := pages(t, s, n)
	at := slices.IndexFunc(list, func(p watch.Page) bool { return p.Site == site })
	if len(list) != 2 || at < 0 || list[at].Place != 4 || list[at].Forecast != nil || list[1-at].Place != 12 {
		t.Fatalf("%+v", list)
	}
	if err := s.Watch.SetEvery(ctx, n, 7); err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := s.Files.ExportWhole(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	back, err := s.Files.ImportWhole(ctx, bytes.NewReader(file.Bytes()), int64(file.Len()))
	if err != nil {
		t.Fatal(err)
	}
	sites, err := s.Watch.OwnSites(ctx, back)
	every, _, _ := s.Watch.Schedule(ctx, back)
	if err != nil || len(sites) != 1 || sites[0].Name != "My second" || every != 0 || len(pages(t, s, back)) != 2 {
		t.Errorf("%+v, every %d days, %v", sites, every, err)
	}
	if err := s.Watch.RemoveOwnSite(ctx, n, site); err != nil || len(pages(t, s, n)) != 1 {
		t.Errorf("%v", err)
	}
}
