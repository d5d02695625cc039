package topics_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/topic"
	"cleverniche/market"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// TestJoinedHubKeepsSpokes: what hung on a topic hangs on what it was joined to.
func TestJoinedHubKeepsSpokes(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	for _, err := range []error{s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]}),
		s.Topics.Hub(ctx, n, ids["star chart"], ids["lunar moon map"], false),
		s.Topics.Join(ctx, n, []uint{ids["moon map"], ids["lunar moon map"]})} {
		if err != nil {
			t.Fatal(err)
		}
	}
	topics, _ := s.Topics.Of(ctx, n)
	star, _ := topics.Of(ids["star chart"])
	moon, _ := topics.Of(ids["moon map"])
	if star.Hub != moon.At || !star.HubHand {
		t.Errorf("it hangs on %d, not on %d", star.Hub, moon.At)
	}
}

// TestALeadThatLeft leads nothing any more, and what is planned is not regrouped.
func TestALeadThatLeft(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	for _, err := range []error{s.Topics.Lead(ctx, n, ids["lunar moon map"]),
		s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]})} {
		if err != nil {
			t.Fatal(err)
		}
	}
	topics, _ := s.Topics.Of(ctx, n)
	if moon, _ := topics.Of(ids["moon map"]); moon.Decided.LeadID != 0 || moon.Lead() != "moon map" {
		t.Errorf("led by %q, decided %d", moon.Lead(), moon.Decided.LeadID)
	}
	if _, err := s.Articles.Add(ctx, n, []uint{ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	var wrong *input.Error
	if err := s.Topics.Release(ctx, n, ids["star chart"]); !errors.As(err, &wrong) {
		t.Errorf("what is planned is regrouped: %v", err)
	}
}

// TestAViewDoesNotEditThePlan: what is grouped, and how, changes neither the ideas nor the lead of an article in the
// plan; what would join it is told beside it, and joins by hand.
func TestAViewDoesNotEditThePlan(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	before, _ := s.Topics.Of(ctx, n)
	moon, _ := before.Of(ids["moon map"])
	if _, err := s.Articles.Add(ctx, n, []uint{moon.ID}); err != nil {
		t.Fatal(err)
	}
	out := moon.IDs()[len(moon.IDs())-1]
	if err := s.Topics.Split(ctx, n, []uint{out}); err != nil {
		t.Fatal(err)
	}
	split, _ := s.Topics.Of(ctx, n)
	if err := s.Topics.Release(ctx, n, out); err != nil { // it would join again where the plan was not fixed
		t.Fatal(err)
	}
	for _, g := range []struct {
		scope  niches.Scope
		shared int
	}{{niches.ScopeKept, 3}, {niches.ScopeAll, 2}, {niches.ScopeLooked, 7}, {niches.ScopeLooked, 3}} {
		var err error
		if n, err = s.Topics.Regroup(ctx, n, g.scope, g.shared); err != nil {
			t.Fatal(err)
		}
		now, _ := s.Topics.Of(ctx, n)
		is, _ := now.Of(moon.ID)
		was, _ := split.Of(moon.ID)
		if !slices.Equal(is.IDs(), was.IDs()) || is.Lead() != moon.Lead() {
			t.Errorf("%+v: %v led by %q, and it was %v", g, is.IDs(), is.Lead(), was.IDs())
		}
		if fits := now.Fitting(is); g.shared == 3 && g.scope == niches.ScopeLooked &&
			(len(fits) != 1 || !slices.Contains(fits[0].IDs(), out)) {
			t.Errorf("what would fit: %+v", fits)
		}
	}
	if err := s.Topics.Join(ctx, n, []uint{moon.ID, out}); err != nil {
		t.Fatal(err)
	}
	now, _ := s.Topics.Of(ctx, n)
	if is, _ := now.Of(out); is.ID != moon.ID || len(is.Ideas) != len(moon.Ideas) {
		t.Errorf("taken by hand: %v", is.IDs())
	}
}

// TestCountsDoNotWait: of more ideas than are grouped for a page's sake the last count is told, and −1 before there
// was one.
func TestCountsDoNotWait(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	var list strings.Builder
	for i := range 3001 {
		fmt.Fprintf(&list, "map number %d\n", i)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader(list.String()))
	n, err := s.Topics.Regroup(ctx, n, niches.ScopeAll, topic.Shared)
	if err != nil {
		t.Fatal(err)
	}
	b, _ := s.Ideas.Table(ctx, n)
	before, _, _, err := s.Topics.Counts(ctx, n, b)
	all, _ := s.Topics.Of(ctx, n)
	after, _, _, _ := s.Topics.Counts(ctx, n, b)
	if err != nil || before != -1 || after != len(all.List) || after == 0 {
		t.Errorf("%d, then %d of %d, %v", before, after, len(all.List), err)
	}
}

// own is a world in which a page of mine stands for the moon, and says so in its title.
type own struct{ studytest.Field }

func (o *own) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := o.Field.Search(c, q, in, depth)
	if strings.HasPrefix(q, "site:") {
		r.Organic = []market.Organic{{Position: 1, URL: "http://mine.example/moon", Title: "Moon map"}}
	} else if strings.Contains(q, "moon") {
		r.Organic[2].URL = "http://mine.example/moon"
	}
	return r, err
}

// TestOnePageAnswersOnce: a page that stands for a topic and says it in its title is one answer.
func TestOnePageAnswersOnce(t *testing.T) {
	s, n, ids := studytest.PlantedWith(t, func(o *studytest.Setup) { o.Market.Search = &own{} })
	j, err := s.Articles.LookUpOwnPages(ctx, n)
	studytest.Finish(t, s, j, err)
	topics, _ := s.Topics.Of(ctx, n)
	if moon, _ := topics.Of(ids["moon map"]); len(moon.Own) != 1 || moon.Own[0].Position != 3 {
		t.Errorf("%+v", moon.Own)
	}
}
