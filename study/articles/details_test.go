package articles_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/plan"
	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// planned is a niche with both its topics in the plan.
func planned(t *testing.T) (s *study.Study, n niches.Niche, ids map[string]uint, keys []uint) {
	t.Helper()
	s, n, ids = studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	p, err := s.Articles.Plan(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range p.Articles {
		keys = append(keys, a.Key())
	}
	return s, n, ids, keys
}

func change(t *testing.T, s *study.Study, n niches.Niche, key uint, c articles.Change) {
	t.Helper()
	if err := s.Articles.Change(ctx, n, key, c); err != nil {
		t.Fatal(err)
	}
}

func published(day string) articles.Change {
	return articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/x"),
		Published: studytest.Text(day)}
}

// TestWhatIsOut: the last to come out stands first, is not chosen again, and is not out any more once it is taken back.
func TestWhatIsOut(t *testing.T) {
	s, n, _, keys := planned(t)
	rules := articles.Rules{Weeks: 10}
	if c, err := s.Articles.Choose(ctx, n, rules); err != nil || c.Asked != 2 {
		t.Fatalf("%+v, %v", c, err)
	}
	change(t, s, n, keys[0], published("2026-10-01"))
	change(t, s, n, keys[1], published("2026-11-01"))
	p, _ := s.Articles.Plan(ctx, n)
	if p.Articles[0].Key() != keys[1] || p.Articles[1].Key() != keys[0] {
		t.Errorf("out in the order %s, %s", p.Articles[0].Day, p.Articles[1].Day)
	}
	if c, _ := s.Articles.Choose(ctx, n, rules); c.Asked != 0 {
		t.Errorf("%d are chosen from", c.Asked)
	}
	change(t, s, n, keys[0], articles.Change{State: studytest.Text("writing")})
	p, _ = s.Articles.Plan(ctx, n)
	if a := p.Articles[0]; a.Key() != keys[0] || a.State() != plan.Writing || !a.Day.IsZero() {
		t.Errorf("taken back: %s, out on %v", a.State(), a.Day)
	}
}

// TestLayingOutMovesNothing that has its place.
func TestLayingOutMovesNothing(t *testing.T) {
	s, n, _, keys := planned(t)
	change(t, s, n, keys[1], articles.Change{Start: studytest.Text("2027-05-03")})
	if laid, err := s.Articles.LayOut(ctx, n); err != nil || laid != 1 {
		t.Fatalf("%d, %v", laid, err)
	}
	p, _ := s.Articles.Plan(ctx, n)
	for _, a := range p.Articles {
		if want := time.Date(2027, 5, 3, 0, 0, 0, 0, time.UTC); a.Key() == keys[1] && !a.Start.Equal(want) {
			t.Errorf("moved to %v", a.Start)
		}
	}
}

// TestLeftOutBestFirst: what did not fit is told the most worth first.
func TestLeftOutBestFirst(t *testing.T) {
	s, n, _ := studytest.Planted(t)
	n.WeekHours = 1
	c, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 1})
	if err != nil || len(c.Left) != 2 {
		t.Fatalf("%+v, %v", c, err)
	}
	_, x, _, _ := c.Left[0].Worth()
	_, y, _, _ := c.Left[1].Worth()
	if x <= y {
		t.Errorf("%d before %d", x, y)
	}
}

// mine is a world in which a page of mine stands for a rarely searched wording of the moon, and another for the stars.
type mine struct{ studytest.Field }

func (m *mine) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := m.Field.Search(c, q, in, depth)
	switch {
	case strings.HasPrefix(q, "lunar"):
		r.Organic[4].URL = "http://mine.example/moon"
	case q == "star chart for beginners":
		r.Organic[3].URL = "http://mine.example/stars"
	}
	return r, err
}

// TestActionsInOrder: the most searched phrase first, and done is only what is to be done.
func TestActionsInOrder(t *testing.T) {
	s, n, _ := studytest.PlantedWith(t, func(o *studytest.Setup) { o.Market.Search = &mine{} })
	list, all, err := s.Articles.Actions(ctx, n, 0)
	var said []string
	for _, a := range list {
		said = append(said, a.Idea.Phrase)
	}
	if err != nil || all != 2 || !slices.Equal(said, []string{"star chart for beginners", "lunar moon map"}) {
		t.Fatalf("%q of %d, %v", said, all, err)
	}
	if err := s.Articles.DoAction(ctx, n, list[0].Idea.ID, "something of the past"); err != nil {
		t.Fatal(err)
	}
	if list, _, _ = s.Articles.Actions(ctx, n, 0); list[0].IsDone || list[0].Done != "something of the past" {
		t.Errorf("%+v", list[0])
	}
}
