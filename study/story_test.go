package study

import (
	"errors"
	"math"
	"strings"
	"testing"

	"cleverniche/core/sieve"
)

func reach(st Story) float64  { return st.Idea.Value(sieve.Reach).Number }
func chance(st Story) float64 { return st.Idea.Value(sieve.PageOne).Number }

// TestSuppose: what is supposed of my page for one idea changes its verdict and no
// other's, is kept when the idea is looked up again, and can be taken back.
func TestSuppose(t *testing.T) {
	f := &fake{}
	s, n := begin(t, f, nil)
	s.Import(ctx, n, "list", strings.NewReader("star chart\nmoon chart\nnot looked up"))
	b, _ := s.Board(ctx, n)
	id, other := ideaNamed(b, "star chart"), ideaNamed(b, "moon chart")
	j, err := s.Judge(ctx, n, []uint{id, other}, false)
	finish(t, s, j, err)
	was := tell(t, s, n, id)
	asked := f.asked.Load()
	links, fit, standing := 5, 95.0, 40.0
	if err := s.Suppose(ctx, n, id, Suppose{Standing: &standing, Links: &links, Fit: &fit}); err != nil {
		t.Fatal(err)
	}
	now := tell(t, s, n, id)
	m := now.Evidence.Mine
	if m.SiteStanding != 40 || m.PlannedLinks != 5 || m.Fit != 95 || reach(now) <= reach(was) ||
		chance(now) <= chance(was) {
		t.Errorf("supposed %+v: reach %v, page one %v; before %v, %v", m, reach(now), chance(now),
			reach(was), chance(was))
	}
	if left := tell(t, s, n, other); reach(left) != reach(was) || f.asked.Load() != asked {
		t.Errorf("the other idea's reach is %v; %d questions were asked", reach(left), f.asked.Load()-asked)
	}
	j, err = s.Judge(ctx, n, []uint{id}, true)
	finish(t, s, j, err)
	if again := tell(t, s, n, id); reach(again) != reach(now) || again.Evidence.SiteStanding == 40 {
		t.Errorf("after asking again the reach is %v, not %v; standing by the graph %v", reach(again), reach(now),
			again.Evidence.SiteStanding)
	}
	if err := s.Suppose(ctx, n, id, Suppose{}); err != nil {
		t.Fatal(err)
	}
	if back := tell(t, s, n, id); reach(back) != reach(was) || back.Idea.Supposed.Any() {
		t.Errorf("taken back, the reach is %v", reach(back))
	}
	bad, many := math.NaN(), -1
	for field, x := range map[string]Suppose{"standing": {Standing: &bad}, "fit": {Fit: &bad}, "links": {Links: &many}} {
		var wrong *InputError
		if err := s.Suppose(ctx, n, id, x); !errors.As(err, &wrong) || wrong.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	if err := s.Suppose(ctx, n, ideaNamed(b, "not looked up"), Suppose{}); !errors.Is(err, ErrNotFound) {
		t.Errorf("without evidence: %v", err)
	}
}

// TestStoryTellsWhatItCouldBring from searches, cost and the ten.
func TestStoryTellsWhatItCouldBring(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	s.Import(ctx, n, "list", strings.NewReader("phrase,searches,cpc\nstar chart,1000,0.50\nmoon chart,,\n"))
	b, _ := s.Board(ctx, n)
	id := ideaNamed(b, "star chart")
	j, err := s.Judge(ctx, n, []uint{id}, false)
	finish(t, s, j, err)
	st := tell(t, s, n, id)
	if err != nil || st.First.Number != 421 || st.Ceiling != 500_000_000 || st.Visits.Number <= 0 ||
		st.Visits.Number > st.First.Number {
		t.Errorf("%v: first place %v, ceiling %v, expected %v", err, st.First, st.Ceiling, st.Visits)
	}
	if st.Advice.Kind == "" || len(st.Commercial.Parts) != 4 || !st.Commercial.Parts[2].Known || b.UsualCPC() != 500_000 {
		t.Errorf("advice %+v, commercial %+v, usual %d", st.Advice, st.Commercial, b.UsualCPC())
	}
	if bare := tell(t, s, n, ideaNamed(b, "moon chart")); bare.First.Because != "" ||
		bare.Ceiling != -1 {
		t.Errorf("%v: without figures: %+v", err, bare)
	}
}

func TestReadySieves(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	s.Import(ctx, n, "list", strings.NewReader(
		"phrase,searches\nhow to find a dark sky,400\nhow to find a very dark sky,50\nmoon,9000\n"))
	b, _ := s.Board(ctx, n)
	ready, _ := sieve.ReadyMade("Long and quiet")
	got := b.Pass(ready.With(sieve.NotDropped(), sieve.At(sieve.ByLength, 2)))
	ideas, err := got.Ideas(ctx, 0, -1)
	if err != nil || got.Count != 1 || ideas[0].Phrase != "how to find a dark sky" || len(got.Steps) != 4 {
		t.Errorf("%d left in %d steps, %v", got.Count, len(got.Steps), err)
	}
}
