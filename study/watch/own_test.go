package watch_test

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"cleverniche/core/plan"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// settledMany is a niche with so many published articles that settled at a place.
func settledMany(t *testing.T, n, place int) (*study.Study, niches.Niche, *stands, *clock) {
	t.Helper()
	s, niche, f, c := begun(t)
	var lines []string
	for i := range n {
		lines = append(lines, fmt.Sprintf("star %s chart", strings.Repeat("x", i+1)))
	}
	if _, err := s.Imports.Take(ctx, niche, "list", strings.NewReader(strings.Join(lines, "\n"))); err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, niche)
	if err != nil {
		t.Fatal(err)
	}
	var ids []uint
	for _, line := range lines {
		ids = append(ids, studytest.Named(b, line))
	}
	j, err := s.Results.LookUp(ctx, niche, ids, false)
	studytest.Finish(t, s, j, err)
	if _, err := s.Articles.Add(ctx, niche, ids); err != nil {
		t.Fatal(err)
	}
	sheet, err := s.Articles.Plan(ctx, niche)
	if err != nil {
		t.Fatal(err)
	}
	state, address := string(plan.Published), "http://mine.example/page"
	for _, a := range sheet.Articles {
		if err := s.Articles.Change(ctx, niche, a.Key(), articles.Change{State: &state, Address: &address}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Watch.Sync(ctx, niche); err != nil {
		t.Fatal(err)
	}
	f.place.Store(int64(place))
	c.days.Add(130)
	check(t, s, niche)
	return s, niche, f, c
}

// TestOwnOutcomes: what my pages tell is told from twenty on, shown before it is taken, moves forecasts once it is,
// holds also when what the engine leans on is learnt again, and is taken back without a trace.
func TestOwnOutcomes(t *testing.T) {
	s, n, _, _ := settledMany(t, 24, 1)
	l, err := s.Watch.Learning(ctx, n, pages(t, s, n))
	if err != nil || !l.Enough || l.Settled < 24 || !l.Tried.Better || l.Own.Luck <= 0 || l.Counts[1] <= l.Counts[0] ||
		l.Taken != nil {
		t.Fatalf("%+v, %v", l, err)
	}
	if l.Tried.Before[0].Came != l.Settled || l.Tried.After[0].Brier >= l.Tried.Before[0].Brier {
		t.Errorf("%+v", l.Tried)
	}
	place := func() float64 {
		t.Helper()
		b, err := s.Ideas.Table(ctx, n)
		if err != nil {
			t.Fatal(err)
		}
		return studytest.Tell(t, s, n, studytest.Named(b, "mars rover toy")).Idea.Row.Expected
	}
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, []uint{studytest.Named(b, "mars rover toy")}, false)
	studytest.Finish(t, s, j, err)
	before := place()
	job, err := s.Watch.TakeOwn(ctx, n)
	if err != nil || job == nil {
		t.Fatalf("%v, %v", job, err)
	}
	studytest.Finish(t, s, *job, nil)
	with := place()
	if with >= before-0.05 {
		t.Errorf("expected at %.3f, then %.3f", before, with)
	}
	if err := s.Results.Learn(ctx, n); err != nil || math.Abs(place()-with) > 0.02 {
		t.Errorf("learnt again: %.3f, %v", place(), err)
	}
	if l, err = s.Watch.Learning(ctx, n, pages(t, s, n)); err != nil || l.Taken == nil || l.Newer != 0 {
		t.Errorf("%+v, %v", l.Taken, err)
	}
	if job, err = s.Watch.DropOwn(ctx, n); err != nil || job == nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, *job, nil)
	if got := place(); math.Abs(got-before) > 1e-9 {
		t.Errorf("taken back: %.6f, before %.6f", got, before)
	}
}

// TestTooFewOutcomes: a few pages tell nothing, and nothing can be taken of them.
func TestTooFewOutcomes(t *testing.T) {
	s, n, _, _ := settledMany(t, 3, 1)
	if l, err := s.Watch.Learning(ctx, n, pages(t, s, n)); err != nil || l.Enough || l.Settled == 0 {
		t.Errorf("%+v, %v", l, err)
	}
	if _, err := s.Watch.TakeOwn(ctx, n); !errors.As(err, new(*input.Error)) {
		t.Errorf("%v", err)
	}
}

// TestClicksByPlace: a search report's clicks replace the usual ones by degrees, also the share that forecasts have,
// and at will do not. Phrases that name my site say nothing.
func TestClicksByPlace(t *testing.T) {
	s, n, _, _ := begun(t)
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader("mine example\nstar atlas")); err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	id := studytest.Named(b, "moon map")
	share := func() float64 {
		t.Helper()
		return studytest.Tell(t, s, n, id).Idea.Row.ClickShare
	}
	before := share()
	report := "query,page,clicks,impressions,ctr,position\n" +
		"mine example,https://mine.example/,900,1000,90%,1\n" +
		"star atlas,https://mine.example/a,10,100000,1%,1\nmoon map,https://mine.example/page,990,100000,1%,2\n"
	if _, err := s.Imports.Take(ctx, n, "report", strings.NewReader(report)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Watch.FromReport(ctx, n); err != nil {
		t.Fatal(err)
	}
	running, err := s.Jobs.List(ctx, n.ID, 1)
	if err != nil || len(running) != 1 {
		t.Fatalf("%+v, %v", running, err)
	}
	studytest.Finish(t, s, running[0], nil)
	l, err := s.Watch.Learning(ctx, n, nil)
	if err != nil || l.Curve.Clicks != 1000 || l.Curve.By[0].Clicks != 10 || l.Curve.Curve[0] >= l.Usual[0]/2 {
		t.Fatalf("%+v, %v", l.Curve, err)
	}
	with := share()
	if with >= before {
		t.Errorf("share %.4f, then %.4f", before, with)
	}
	if job, err := s.Watch.UseCurve(ctx, n, false); err != nil || job == nil {
		t.Fatalf("%v, %v", job, err)
	} else if studytest.Finish(t, s, *job, nil); math.Abs(share()-before) > 1e-9 {
		t.Errorf("the usual shares: %.4f, before %.4f", share(), before)
	}
}
