package briefs_test

import (
	"context"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

// section is a section of a brief by its key.
func section(b briefs.Brief, key string) briefs.Section {
	i := slices.IndexFunc(b.Sections, func(s briefs.Section) bool { return s.Key == key })
	if i < 0 {
		return briefs.Section{}
	}
	return b.Sections[i]
}

// TestEditedSaysSo: a section that was edited says so, until the proposal is taken again.
func TestEditedSaysSo(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	read := func() briefs.Section {
		topics, _ := s.Topics.Of(ctx, n)
		one, _ := topics.Of(ids["moon map"])
		b, err := s.Briefs.Of(ctx, n, topics, one)
		if err != nil {
			t.Fatal(err)
		}
		return section(b, "questions")
	}
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil,
		studytest.Text("Is it big?\n\nHow far?")); err != nil {
		t.Fatal(err)
	}
	if got := read(); !got.Edited || !slices.Equal(got.Lines, []string{"Is it big?", "How far?"}) {
		t.Errorf("%+v", got)
	}
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil, nil); err != nil {
		t.Fatal(err)
	}
	if got := read(); got.Edited {
		t.Errorf("%+v", got)
	}
}

// TestLinksToWhatIsPlanned: of its hub's other spokes a brief names those that somebody plans; what is out needs none.
func TestLinksToWhatIsPlanned(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	for _, err := range []error{s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]}),
		s.Topics.Hub(ctx, n, ids["star chart"], ids["moon map"], false),
		s.Topics.Hub(ctx, n, ids["lunar moon map"], ids["moon map"], false)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	links := func() string {
		topics, _ := s.Topics.Of(ctx, n)
		one, _ := topics.Of(ids["star chart"])
		b, err := s.Briefs.Of(ctx, n, topics, one)
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(section(b, "links").Lines, "\n")
	}
	if got := links(); !strings.Contains(got, "moon map") || strings.Contains(got, "lunar") {
		t.Errorf("before it is planned: %s", got)
	}
	if _, err := s.Articles.Add(ctx, n, []uint{ids["lunar moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	if got := links(); !strings.Contains(got, "lunar") {
		t.Errorf("once it is planned: %s", got)
	}
	p, _ := s.Articles.Plan(ctx, n)
	out := articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/x")}
	if err := s.Articles.Change(ctx, n, p.Articles[0].Key(), out); err != nil {
		t.Fatal(err)
	}
	if all, err := s.Briefs.All(ctx, n); err != nil || len(all) != 1 || all[0].Article.Key() == p.Articles[0].Key() {
		t.Errorf("%d briefs, %v", len(all), err)
	}
}

// moving is a web whose results change.
type moving struct {
	studytest.Field
	hours atomic.Int64 // that have gone by
}

// Search implements market.Searcher.
func (m *moving) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := m.Field.Search(c, q, in, depth)
	for i := range r.Organic {
		if m.hours.Load() > 0 {
			r.Organic[i].URL += "new"
		}
	}
	return r, err
}

// TestReadBriefStays: what a writer may have does not change with a new look-up, until somebody takes what is new; one
// that is not planned is told anew each time.
func TestReadBriefStays(t *testing.T) {
	web := &moving{}
	s, n, ids := studytest.PlantedWith(t, func(o *studytest.Setup) {
		o.Market.Search = web
		day := o.Now()
		o.Now = func() time.Time { return day.Add(time.Duration(web.hours.Load()) * time.Hour) }
	})
	read := func() briefs.Brief {
		topics, _ := s.Topics.Of(ctx, n)
		one, _ := topics.Of(ids["moon map"])
		b, err := s.Briefs.Of(ctx, n, topics, one)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	if b := read(); !b.Drawn.IsZero() {
		t.Error("kept before it is planned")
	}
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"]}); err != nil {
		t.Fatal(err)
	}
	topics, _ := s.Topics.Of(ctx, n)
	one, _ := topics.Of(ids["moon map"])
	if err := s.Articles.Change(ctx, n, one.Decided.ID, articles.Change{Hours: studytest.Text("3")}); err != nil {
		t.Fatal(err)
	}
	first := section(read(), "win").Lines
	web.hours.Store(1)
	j, err := s.Results.LookUp(ctx, n, []uint{ids["moon map"]}, true)
	studytest.Finish(t, s, j, err)
	b := read()
	if got := section(b, "win"); !slices.Equal(got.Lines, first) || len(got.Now) == 0 || slices.Equal(got.Now, first) {
		t.Fatalf("after a new look-up: %+v", got)
	}
	if err := s.Briefs.Renew(ctx, n, b, ""); err != nil {
		t.Fatal(err)
	}
	if got := read(); len(got.Changed()) > 0 || slices.Equal(section(got, "win").Lines, first) {
		t.Errorf("once it is taken: %+v", section(got, "win"))
	}
	for range 2 { // the taking, and the hours, which were changed before the brief was read
		if _, err := s.Ideas.Undo(ctx, n.ID); err != nil {
			t.Fatal(err)
		}
		if got := section(read(), "win"); !slices.Equal(got.Lines, first) {
			t.Errorf("after undoing: %q", got.Lines)
		}
	}
}

// TestJoinedKeepsTheBrief: what was edited of the brief of one is the joined topic's.
func TestJoinedKeepsTheBrief(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	edited := studytest.Text("Is it big?")
	if err := s.Briefs.Edit(ctx, n, ids["star chart"], "questions", nil, edited); err != nil {
		t.Fatal(err)
	}
	if err := s.Topics.Join(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	topics, _ := s.Topics.Of(ctx, n)
	one, _ := topics.Of(ids["moon map"])
	b, err := s.Briefs.Of(ctx, n, topics, one)
	if got := section(b, "questions"); err != nil || !got.Edited {
		t.Errorf("%+v, %v", got, err)
	}
}
