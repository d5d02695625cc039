package watch_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/plan"
	core "cleverniche/core/watch"
	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
	"cleverniche/study/watch"
)

var ctx = context.Background()

// stands is an outside in which my page stands where a test puts it.
type stands struct {
	studytest.Fake
	place atomic.Int64 // 0 nowhere
	empty atomic.Bool
	name  atomic.Value // of the engine, if not the usual one
	comes atomic.Bool  // somebody new stands first
}

func (f *stands) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r := market.Results{Engine: "stands", Total: 5000}
	if name, is := f.name.Load().(string); is {
		r.Engine = name
	}
	if f.empty.Load() {
		return r, f.Answer(ctx, q)
	}
	for i := range depth {
		url := fmt.Sprintf("http://site%d.example/%d", i, len(q))
		if i+1 == int(f.place.Load()) {
			url = "http://mine.example/page"
		}
		if i+1 == int(f.place.Load())+30 && f.place.Load() > 0 {
			url = "http://mine.example/other"
		}
		if i == 0 && f.comes.Load() {
			url = "http://newcomer.example/"
		}
		r.Organic = append(r.Organic, market.Organic{Position: i + 1, URL: url, Title: "About " + q})
	}
	return r, f.Answer(ctx, q)
}

// clock is one that a test moves.
type clock struct{ days atomic.Int64 }

func (c *clock) now() time.Time {
	return time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC).AddDate(0, 0, int(c.days.Load()))
}

// begun is a niche with one published article on “moon map”.
func begun(t *testing.T, over ...func(*stands) market.Searcher) (*study.Study, niches.Niche, *stands, *clock) {
	t.Helper()
	return begunOver(t, func(o *studytest.Setup, f *stands) {
		for _, another := range over {
			o.Market.Search = another(f)
		}
	})
}

// begunOver is that over another outside.
func begunOver(t *testing.T, change func(*studytest.Setup, *stands)) (*study.Study, niches.Niche, *stands, *clock) {
	t.Helper()
	f, c := &stands{}, &clock{}
	s, _ := studytest.Open(t, &f.Fake, filepath.Join(t.TempDir(), "d.db"), func(o *studytest.Setup) {
		o.Market.Search = f
		o.Now = c.now
		change(o, f)
	})
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en", OwnSite: "mine.example"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader("moon map\nmars rover toy")); err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	id := studytest.Named(b, "moon map")
	j, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, j, err)
	if _, err := s.Articles.Add(ctx, n, []uint{id}); err != nil {
		t.Fatal(err)
	}
	sheet, err := s.Articles.Plan(ctx, n)
	if err != nil || len(sheet.Articles) != 1 {
		t.Fatalf("%d articles, %v", len(sheet.Articles), err)
	}
	state, address := string(plan.Published), "http://mine.example/page"
	if err := s.Articles.Change(ctx, n, sheet.Articles[0].Key(), articles.Change{State: &state,
		Address: &address}); err != nil {
		t.Fatal(err)
	}
	return s, n, f, c
}

func check(t *testing.T, s *study.Study, n niches.Niche) watch.Page {
	t.Helper()
	j, err := s.Watch.Check(ctx, n)
	if got := studytest.Finish(t, s, j, err); got.Failed > 0 {
		t.Fatalf("%+v", got)
	}
	return pages(t, s, n)[0]
}

func pages(t *testing.T, s *study.Study, n niches.Niche) []watch.Page {
	t.Helper()
	list, err := s.Watch.Pages(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func ranking(t *testing.T, s *study.Study, n niches.Niche) []articles.Action {
	t.Helper()
	list, _, err := s.Articles.Actions(ctx, n, 0)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

// TestWhatIsStoppedStaysSo: an article that is out and watched no more is not watched again by itself, though it is
// shown and checked; by hand it is, with its places.
func TestWhatIsStoppedStaysSo(t *testing.T) {
	s, n, _, _ := begun(t)
	p := check(t, s, n)
	if err := s.Watch.Remove(ctx, n, p.ID, true); err != nil {
		t.Fatal(err)
	}
	if err := s.Watch.Sync(ctx, n); err != nil {
		t.Fatal(err)
	}
	if list := pages(t, s, n); len(list) != 0 {
		t.Errorf("it is watched again: %+v", list)
	}
	if _, _, err := s.Watch.Add(ctx, n, "", "moon map"); err != nil {
		t.Fatal(err)
	}
	if list := pages(t, s, n); len(list) != 1 || len(list[0].Line) != 1 || list[0].Forecast == nil {
		t.Errorf("%+v", list)
	}
}

// TestForecastAfterTheFact: what is forecast long after a page is out may know what came, and counts for nothing.
func TestForecastAfterTheFact(t *testing.T) {
	s, n, f, c := begun(t)
	c.days.Store(200)
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	id := studytest.Named(b, "mars rover toy")
	j, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, j, err)
	if _, err := s.Articles.Add(ctx, n, []uint{id}); err != nil {
		t.Fatal(err)
	}
	sheet, err := s.Articles.Plan(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range sheet.Articles {
		if a.Lead() != "mars rover toy" {
			continue
		}
		state, address, day := string(plan.Published), "http://mine.example/page", c.now().AddDate(0, 0,
			-150).Format(time.DateOnly)
		if err := s.Articles.Change(ctx, n, a.Key(), articles.Change{State: &state, Address: &address,
			Published: &day}); err != nil {
			t.Fatal(err)
		}
	}
	f.place.Store(3)
	check(t, s, n)
	if right := watch.Rightness(pages(t, s, n)); right.Settled != 1 || right.Late != 1 {
		t.Errorf("%+v", right)
	}
}

// TestWatch: what is published is watched, with what was forecast that day; places come day by day, none is written
// over, and once the page has settled it is judged.
func TestWatch(t *testing.T) {
	s, n, f, c := begun(t)
	first := pages(t, s, n)
	if len(first) != 1 || first[0].Phrase != "moon map" || first[0].Forecast == nil || !first[0].Planned ||
		first[0].Meant != "http://mine.example/page" || first[0].Verdict != core.TooEarly {
		t.Fatalf("%+v", first)
	}
	if p := check(t, s, n); p.Place != 0 || len(p.Line) != 1 || p.Day.OK || len(p.Above) != 0 {
		t.Errorf("before it is found: %+v", p)
	}
	for _, at := range []struct{ day, place int64 }{{7, 40}, {14, 22}, {35, 9}} {
		c.days.Store(at.day)
		f.place.Store(at.place)
		check(t, s, n)
	}
	p := pages(t, s, n)[0]
	if len(p.Line) != 4 || p.Place != 9 || p.Best != 9 || p.Day.By != 13 || p.Start.By != 92 || !p.Week.OK ||
		p.Other() || len(p.Others) != 1 || p.Verdict != core.TooEarly {
		t.Errorf("%+v", p)
	}
	made := p.Made
	c.days.Store(int64(n.LeadDays) + 10)
	if p = check(t, s, n); p.Verdict == core.TooEarly || p.Settled != 9 || !p.Made.Equal(made) {
		t.Errorf("once it has settled: %+v", p)
	}
	right := watch.Rightness(pages(t, s, n))
	if right.Settled != 1 || right.Waiting != 0 || right.PageOne.Came != 1 || right.TopFive.Came != 0 ||
		right.PageOne.Brier != (1-p.Forecast.PageOne())*(1-p.Forecast.PageOne()) {
		t.Errorf("%+v", right)
	}
	one, points, _, err := s.Watch.One(ctx, n, p.ID)
	if err != nil || len(points) != 5 || len(one.Above) != 8 {
		t.Errorf("%d points, %q above, %v", len(points), one.Above, err)
	}
}

// TestAnEngineThatSaysNothing: no result at all is no place, and what was known stays.
func TestAnEngineThatSaysNothing(t *testing.T) {
	s, n, f, c := begun(t)
	f.place.Store(5)
	check(t, s, n)
	check(t, s, n) // at once again: it is the same answer
	c.days.Store(1)
	f.empty.Store(true)
	j, err := s.Watch.Check(ctx, n)
	if got := studytest.Finish(t, s, j, err); got.Failed != 1 {
		t.Errorf("%+v", got)
	}
	if p := pages(t, s, n)[0]; len(p.Line) != 1 || p.Place != 5 {
		t.Errorf("%+v", p)
	}
}

// TestSchedule: a week's check is done once its day has come, once however many weeks were missed, and not twice.
func TestSchedule(t *testing.T) {
	s, n, _, c := begun(t)
	due := func() int {
		t.Helper()
		begun, err := s.Watch.Due(ctx)
		if err != nil {
			t.Fatal(err)
		}
		list, err := s.Jobs.List(ctx, n.ID, 1)
		if err != nil {
			t.Fatal(err)
		}
		studytest.Finish(t, s, list[0], nil)
		return begun
	}
	if n := due(); n != 0 {
		t.Errorf("%d begun though nobody asked", n)
	}
	if err := s.Watch.SetEvery(ctx, n, 7); err != nil {
		t.Fatal(err)
	}
	if a, b := due(), due(); a != 1 || b != 0 {
		t.Errorf("%d and %d begun", a, b)
	}
	c.days.Store(40)
	if a, b := due(), due(); a != 1 || b != 0 {
		t.Errorf("after five weeks asleep %d and %d begun", a, b)
	}
	if p := pages(t, s, n)[0]; len(p.Line) != 2 {
		t.Errorf("%d places", len(p.Line))
	}
	c.days.Store(10) // the clock goes back
	if a := due(); a != 0 {
		t.Errorf("%d begun on a clock that goes back", a)
	}
}

// TestByHand: phrases and places that somebody types, remarks, and what cannot be.
func TestByHand(t *testing.T) {
	s, n, _, c := begun(t)
	added, ignored, err := s.Watch.Add(ctx, n, "", "Mars  Map\r\nmars "+
		"map\n\x00\nvenus\tmine.example/venus\nx\thttp://other.example/")
	if err != nil || added != 2 || len(ignored) != 2 {
		t.Fatalf("%d added, %q ignored, %v", added, ignored, err)
	}
	list := pages(t, s, n)
	if len(list) != 3 || list[2].Phrase != "venus" || list[2].Meant != "https://mine.example/venus" ||
		list[2].Forecast != nil {
		t.Fatalf("%+v", list)
	}
	id := list[2].ID
	if err := s.Watch.Type(ctx, n, id, c.now().AddDate(0, 0, -3), 300); err != nil {
		t.Fatal(err)
	}
	if err := s.Watch.Remark(ctx, n, id, c.now(), " added a table "); err != nil {
		t.Fatal(err)
	}
	p, points, remarks, err := s.Watch.One(ctx, n, id)
	if err != nil || len(points) != 1 || !points[0].Hand || p.Place != 0 || len(remarks) != 1 ||
		remarks[0].Says != "added a table" {
		t.Fatalf("%+v, %+v, %+v, %v", p, points, remarks, err)
	}
	if err := s.Watch.RemoveRemark(ctx, n, id, remarks[0].ID); err != nil {
		t.Fatal(err)
	}
	if err := s.Watch.Remove(ctx, n, id, true); err != nil || len(pages(t, s, n)) != 2 {
		t.Errorf("%d are watched, %v", len(pages(t, s, n)), err)
	}
	if err := s.Watch.Remove(ctx, n, id, false); err != nil || len(pages(t, s, n)[2].Line) != 1 {
		t.Errorf("its places are gone: %v", err)
	}
	for name, err := range map[string]error{"place −3": s.Watch.Type(ctx, n, id, c.now(), -3),
		"tomorrow": s.Watch.Type(ctx, n, id, c.now().AddDate(0, 0, 1), 3), "no words": s.Watch.Remark(ctx, n, id, c.now(),
			" "),
		"a long remark": s.Watch.Remark(ctx, n, id, c.now(), strings.Repeat("x", 400)),
		"every 3 days":  s.Watch.SetEvery(ctx, n, 3)} {
		var wrong *input.Error
		if !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := s.Watch.Type(ctx, n, 999, c.now(), 3); !errors.Is(err, input.ErrNotFound) {
		t.Error(err)
	}
}

// TestANichesFileHoldsIt: what is watched goes along, with its forecast, its places and remarks.
func TestANichesFileHoldsIt(t *testing.T) {
	s, n, f, c := begun(t)
	f.place.Store(7)
	p := check(t, s, n)
	if err := s.Watch.Remark(ctx, n, p.ID, c.now(), "added a table"); err != nil {
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
	list := pages(t, s, back)
	if len(list) != 1 || list[0].Place != 7 || !list[0].Planned || list[0].Forecast == nil || !list[0].Made.Equal(p.Made) {
		t.Fatalf("%+v", list)
	}
	if _, points, remarks, err := s.Watch.One(ctx, back, list[0].ID); err != nil || len(points) != 1 || len(remarks) != 1 {
		t.Errorf("%+v, %+v, %v", points, remarks, err)
	}
}

// TestMonday: one thing to write first; what fell with the fix; nothing twice; and what was not checked for long.
func TestMonday(t *testing.T) {
	s, n, f, c := begun(t)
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Articles.Add(ctx, n, []uint{studytest.Named(b, "mars rover toy")}); err != nil {
		t.Fatal(err)
	}
	monday := func() []watch.Task {
		t.Helper()
		list, err := s.Watch.Monday(ctx, n, pages(t, s, n), ranking(t, s, n))
		if err != nil {
			t.Fatal(err)
		}
		return list
	}
	first := monday()
	if len(first) != 2 || first[0].What != "Write “mars rover toy”." || !strings.HasPrefix(first[0].Path, "briefs/") ||
		first[1].What != "Check your positions." || !strings.HasPrefix(first[1].Why, "Never checked. It costs at most $") {
		t.Fatalf("%+v", first)
	}
	f.place.Store(5)
	check(t, s, n)
	c.days.Store(7)
	f.place.Store(12)
	check(t, s, n)
	list := monday()
	if len(list) < 2 || list[1].What != "Look at “moon map”." || !strings.HasPrefix(list[1].Why,
		"It fell by 7 since a week ago and ranks no. 12.") {
		t.Errorf("%+v", list)
	}
	if !slices.ContainsFunc(list, func(x watch.Task) bool { return x.What == "Keep one page for “moon map”." }) {
		t.Errorf("two pages stand there, and: %+v", list)
	}
	c.days.Store(30)
	if list = monday(); !strings.HasPrefix(list[len(list)-1].Why, "Last checked 23 days ago.") || len(list) > 10 {
		t.Errorf("%+v", list)
	}
}

// TestPastWeeks: weeks since publication of which nothing is known are asked for, once.
func TestPastWeeks(t *testing.T) {
	s, n, f, c := begun(t)
	if _, err := s.Watch.AskPast(ctx, n); err == nil {
		t.Error("there is a past on the first day")
	}
	c.days.Store(30)
	f.place.Store(8)
	if _, weeks, err := s.Watch.PastCost(ctx, n, pages(t, s, n)); err != nil || weeks != 0 {
		t.Errorf("%d weeks of a source that knows no past, %v", weeks, err)
	}
}

// TestFromASearchReport: without any source, a report that is brought in says where pages stand; the same one says
// nothing new.
func TestFromASearchReport(t *testing.T) {
	s, n, _, c := begun(t)
	bring := func(place string) {
		t.Helper()
		report := "query,page,clicks,impressions,ctr,position\nmoon map,http://mine.example/page,12,300,0.04," + place + "\n"
		if _, err := s.Imports.Take(ctx, n, "report", strings.NewReader(report)); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Watch.FromReport(ctx, n); err != nil {
			t.Fatal(err)
		}
	}
	bring("14.3")
	if p := pages(t, s, n)[0]; p.Place != 14 || p.Engine != "your search report" ||
		p.Stands != "http://mine.example/page" {
		t.Fatalf("%+v", p)
	}
	other := "query,page,clicks,impressions,ctr,position\nmoon map,http://other.example/page,12,300,0.04,2\n"
	if _, err := s.Imports.Take(ctx, n, "another site's", strings.NewReader(other)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Watch.FromReport(ctx, n); err != nil || len(pages(t, s, n)[0].Line) != 1 {
		t.Errorf("a report of another site says where mine stands: %v", err)
	}
	c.days.Store(30)
	bring("14.4")
	bring("9.6")
	if p := pages(t, s, n)[0]; len(p.Line) != 2 || p.Place != 10 || p.Day.By != 4 {
		t.Errorf("%+v", p)
	}
}
