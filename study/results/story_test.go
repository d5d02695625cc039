package results_test

import (
	"errors"
	"math"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

func chance(st results.Story) float64 { return st.Idea.Value(sieve.PageOne).Number }

// TestSuppose: what is supposed of my page for one idea changes its verdict and no
// other's, is kept when the idea is looked up again, and can be taken back.
func TestSuppose(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon chart\nnot looked up"))
	b, _ := s.Ideas.Table(ctx, n)
	id, other := studytest.Named(b, "star chart"), studytest.Named(b, "moon chart")
	j, err := s.Results.LookUp(ctx, n, []uint{id, other}, false)
	studytest.Finish(t, s, j, err)
	was := studytest.Tell(t, s, n, id)
	asked := f.Asked.Load()
	links, fit, standing := 5, 95.0, 40.0
	if err := s.Results.Suppose(ctx, n, id, ideas.Suppose{Standing: &standing, Links: &links, Fit: &fit}); err != nil {
		t.Fatal(err)
	}
	now := studytest.Tell(t, s, n, id)
	m := now.Evidence.Mine
	if m.SiteStanding != 40 || m.PlannedLinks != 5 || m.Fit != 95 || studytest.Reach(now) <= studytest.Reach(was) ||
		chance(now) <= chance(was) {
		t.Errorf("supposed %+v: reach %v, page one %v; before %v, %v", m, studytest.Reach(now), chance(now),
			studytest.Reach(was), chance(was))
	}
	if left := studytest.Tell(t, s, n, other); studytest.Reach(left) != studytest.Reach(was) || f.Asked.Load() != asked {
		t.Errorf("the other idea's reach is %v; %d questions were asked", studytest.Reach(left), f.Asked.Load()-asked)
	}
	j, err = s.Results.LookUp(ctx, n, []uint{id}, true)
	studytest.Finish(t, s, j, err)
	if again := studytest.Tell(t, s, n, id); studytest.Reach(again) != studytest.Reach(now) ||
		again.Evidence.SiteStanding == 40 {
		t.Errorf("after asking again the reach is %v, not %v; standing by the graph %v", studytest.Reach(again),
			studytest.Reach(now),
			again.Evidence.SiteStanding)
	}
	if err := s.Results.Suppose(ctx, n, id, ideas.Suppose{}); err != nil {
		t.Fatal(err)
	}
	if back := studytest.Tell(t, s, n, id); studytest.Reach(back) != studytest.Reach(was) || back.Idea.Supposed.Any() {
		t.Errorf("taken back, the reach is %v", studytest.Reach(back))
	}
	tilt := -0.6
	tried, err := s.Results.StoryIf(ctx, n, b, id, &ideas.Suppose{Tilt: &tilt})
	if err == nil {
		err = s.Results.Suppose(ctx, n, id, ideas.Suppose{Tilt: &tilt})
	}
	if err != nil {
		t.Fatal(err)
	}
	kept := studytest.Tell(t, s, n, id)
	if would := tried.Evidence.Verdict.PageOne.Mean; chance(kept) != would ||
		chance(kept) == chance(was) || kept.Idea.Row.PageOne != chance(kept) {
		t.Errorf("with another engine: tried %v, kept %v, in the list %v, before %v", would, chance(kept),
			kept.Idea.Row.PageOne, chance(was))
	}
	j, err = s.Results.LookUp(ctx, n, []uint{id}, true)
	studytest.Finish(t, s, j, err)
	if again := studytest.Tell(t, s, n, id); again.Idea.Supposed.Tilt == nil || again.Evidence.Tilt != tilt {
		t.Errorf("after asking again the engine is as it was: %+v", again.Idea.Supposed)
	}
	bad, many := math.NaN(), -1
	for field, x := range map[string]ideas.Suppose{"standing": {Standing: &bad}, "fit": {Fit: &bad}, "tilt": {Tilt: &bad},
		"links": {Links: &many}} {
		var wrong *input.Error
		if err := s.Results.Suppose(ctx, n, id, x); !errors.As(err, &wrong) || wrong.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	if err := s.Results.Suppose(ctx, n, studytest.Named(b, "not looked up"), ideas.Suppose{}); !errors.Is(err,
		input.ErrNotFound) {
		t.Errorf("without evidence: %v", err)
	}
}

// TestStoryTellsWhatItCouldBring from searches, cost and the ten.
func TestStoryTellsWhatItCouldBring(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("phrase,searches,cpc\nstar chart,1000,0.50\nmoon chart,,\n"))
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart")
	j, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, j, err)
	st := studytest.Tell(t, s, n, id)
	if err != nil || st.First.Number != 421 || st.Ceiling != 500_000_000 || st.Visits.Number <= 0 ||
		st.Visits.Number > st.First.Number {
		t.Errorf("%v: first place %v, ceiling %v, expected %v", err, st.First, st.Ceiling, st.Visits)
	}
	if st.Advice.Kind == "" || len(st.Commercial.Parts) != 4 || !st.Commercial.Parts[2].Known || b.UsualCPC() != 500_000 {
		t.Errorf("advice %+v, commercial %+v, usual %d", st.Advice, st.Commercial, b.UsualCPC())
	}
	if bare := studytest.Tell(t, s, n, studytest.Named(b, "moon chart")); bare.First.Because != "" ||
		bare.Ceiling != -1 {
		t.Errorf("%v: without figures: %+v", err, bare)
	}
}

func TestReadySieves(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader(
		"phrase,searches\nhow to find a dark sky,400\nhow to find a very dark sky,50\nmoon,9000\n"))
	b, _ := s.Ideas.Table(ctx, n)
	ready, _ := sieve.ReadyMade("Long tail")
	got := b.Pass(ready.With(sieve.NotDropped(), sieve.At(sieve.ByLength, 2)))
	ideas, err := got.Ideas(ctx, 0, -1)
	if err != nil || got.Count != 1 || ideas[0].Phrase != "how to find a dark sky" || len(got.Steps) != 4 {
		t.Errorf("%d left in %d steps, %v", got.Count, len(got.Steps), err)
	}
}
