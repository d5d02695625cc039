package study

import (
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/store"
)

// TestRenew: what was judged with an older calibration is reckoned anew when the
// program starts, from the evidence, and nobody is asked.
func TestRenew(t *testing.T) {
	f := &fake{}
	s, n := begin(t, f, nil)
	s.Import(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Board(ctx, n.ID)
	id := ideaNamed(b, "star chart")
	j, err := s.Judge(ctx, n, []uint{id}, false)
	finish(t, s, j, err)
	story, _ := s.Story(ctx, n.ID, id)
	now, ev := story.Idea, *story.Evidence

	// As it was before: no model named, page standings on the old scale, other figures.
	for i := range ev.Reading.Entries {
		e := &ev.Reading.Entries[i]
		sum := -links.LinkGain * math.Log(1-math.Min(e.PageStanding, 99.99)/100)
		e.PageStanding = 100 * (1 - math.Exp(-sum/firstLinkGain))
	}
	ev.Model = difficulty.Model{}
	ev.Verdict.Difficulty = 1
	body, err := json.Marshal(ev)
	if err != nil {
		t.Fatal(err)
	}
	old := judged(now, ev)
	if err := s.store.SaveJudgements(ctx, n.ID, []store.Idea{old}, [][]byte{body}); err != nil {
		t.Fatal(err)
	}
	n, _ = s.Niche(ctx, n.ID)
	n.Calibration = ""
	if err := s.store.SaveNiche(ctx, n); err != nil {
		t.Fatal(err)
	}
	asked := f.asked.Load()
	for range 2 { // the second time there is nothing to do
		if err := s.Renew(ctx); err != nil {
			t.Fatal(err)
		}
	}
	story, _ = s.Story(ctx, n.ID, id)
	if got := story.Idea; math.Abs(got.Difficulty-now.Difficulty) > 1e-6 || math.Abs(got.PageOne-now.PageOne) > 1e-9 {
		t.Errorf("reckoned anew: difficulty %v, page one %v; at first %v, %v", got.Difficulty, got.PageOne, now.Difficulty, now.PageOne)
	}
	if story.Evidence.Model.Name != difficulty.Calibrated.Name || f.asked.Load() != asked {
		t.Errorf("model %q, %d questions asked", story.Evidence.Model.Name, f.asked.Load()-asked)
	}
	if n, _ := s.Niche(ctx, n.ID); n.Calibration != difficulty.Calibrated.Name {
		t.Errorf("the niche says %q", n.Calibration)
	}
}

// TestSuppose: what is supposed of my page for one idea changes its verdict and no
// other's, is kept when the idea is looked up again, and can be taken back.
func TestSuppose(t *testing.T) {
	f := &fake{}
	s, n := begin(t, f, nil)
	s.Import(ctx, n, "list", strings.NewReader("star chart\nmoon chart\nnot looked up"))
	b, _ := s.Board(ctx, n.ID)
	id, other := ideaNamed(b, "star chart"), ideaNamed(b, "moon chart")
	j, err := s.Judge(ctx, n, []uint{id, other}, false)
	finish(t, s, j, err)
	was, _ := s.Story(ctx, n.ID, id)
	asked := f.asked.Load()
	links, fit, standing := 5, 95.0, 40.0
	if err := s.Suppose(ctx, n, id, Suppose{Standing: &standing, Links: &links, Fit: &fit}); err != nil {
		t.Fatal(err)
	}
	now, _ := s.Story(ctx, n.ID, id)
	m := now.Evidence.Mine
	if m.SiteStanding != 40 || m.PlannedLinks != 5 || m.Fit != 95 || now.Idea.Reach <= was.Idea.Reach || now.Idea.PageOne <= was.Idea.PageOne {
		t.Errorf("supposed %+v: reach %v, page one %v; before %v, %v", m, now.Idea.Reach, now.Idea.PageOne, was.Idea.Reach, was.Idea.PageOne)
	}
	if left, _ := s.Story(ctx, n.ID, other); left.Idea.Reach != was.Idea.Reach || f.asked.Load() != asked {
		t.Errorf("the other idea's reach is %v; %d questions were asked", left.Idea.Reach, f.asked.Load()-asked)
	}
	j, err = s.Judge(ctx, n, []uint{id}, true)
	finish(t, s, j, err)
	if again, _ := s.Story(ctx, n.ID, id); again.Idea.Reach != now.Idea.Reach || again.Evidence.SiteStanding == 40 {
		t.Errorf("after asking again the reach is %v, not %v; standing by the graph %v", again.Idea.Reach, now.Idea.Reach, again.Evidence.SiteStanding)
	}
	if err := s.Suppose(ctx, n, id, Suppose{}); err != nil {
		t.Fatal(err)
	}
	if back, _ := s.Story(ctx, n.ID, id); back.Idea.Reach != was.Idea.Reach || back.Idea.MyFit != nil {
		t.Errorf("taken back, the reach is %v", back.Idea.Reach)
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
	b, _ := s.Board(ctx, n.ID)
	id := ideaNamed(b, "star chart")
	j, err := s.Judge(ctx, n, []uint{id}, false)
	finish(t, s, j, err)
	st, err := s.Story(ctx, n.ID, id)
	if err != nil || st.First.Number != 421 || st.Ceiling != 500_000_000 || st.Visits.Number <= 0 || st.Visits.Number > st.First.Number {
		t.Errorf("%v: first place %v, ceiling %v, expected %v", err, st.First, st.Ceiling, st.Visits)
	}
	if st.Advice.Kind == "" || len(st.Commercial.Parts) != 4 || !st.Commercial.Parts[2].Known || b.UsualCPC() != 500_000 {
		t.Errorf("advice %+v, commercial %+v, usual %d", st.Advice, st.Commercial, b.UsualCPC())
	}
	if bare, err := s.Story(ctx, n.ID, ideaNamed(b, "moon chart")); err != nil || bare.First.Because != "" || bare.Ceiling != -1 {
		t.Errorf("%v: without figures: %+v", err, bare)
	}
}

func TestReadySieves(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	s.Import(ctx, n, "list", strings.NewReader("phrase,searches\nhow to find a dark sky,400\nhow to find a very dark sky,50\nmoon,9000\n"))
	b, _ := s.Board(ctx, n.ID)
	got := b.Pass(Sift{Difficulty: -1, Ready: "Long and quiet", Words: 2})
	if rows := got.Rows(0, -1); got.Count != 1 || rows[0].Phrase != "how to find a dark sky" || len(got.Steps) != 4 {
		t.Errorf("%d left in %d steps", got.Count, len(got.Steps))
	}
	for name, says := range map[string]string{"Long and quiet": "", "Hundred a day": "no source is asked", "Luck": "there are New porch"} {
		if err := CheckReady(name); (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
