package study

import (
	"encoding/json"
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
