package thecase_test

import (
	"errors"
	"testing"

	"cleverniche/study/input"
	"cleverniche/study/studytest"
	"cleverniche/study/thecase"
)

// TestCandidate: a seed becomes a niche, its ideas are gathered, and then topics are drawn and looked up.
func TestCandidate(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	cost, err := s.Case.CandidateCost(ctx, n)
	if err != nil || cost.Micros == 0 {
		t.Fatalf("%+v, %v", cost, err)
	}
	other, job, err := s.Case.Candidate(ctx, n, " Moon  Maps ")
	if err != nil || other.Name != "Moon maps" || other.OwnSite != n.OwnSite || other.Country != n.Country {
		t.Fatalf("%+v, %v", other, err)
	}
	studytest.Finish(t, s, job, nil)
	list, err := s.Jobs.List(ctx, other.ID, 10)
	if err != nil || len(list) != 2 {
		t.Fatalf("%d jobs, %v", len(list), err)
	}
	studytest.Finish(t, s, list[0], nil)
	c := of(t, s, other)
	if c.Drawn == 0 || c.Drawn != c.LookedUp || c.Drawn > thecase.FirstDrawn || c.Settings.Pending != 0 {
		t.Errorf("%d drawn, %d looked up, %d pending", c.Drawn, c.LookedUp, c.Settings.Pending)
	}
	for _, seed := range []string{"", "moon\nmaps", "moon maps"} { // the last is there already
		var wrong *input.Error
		if _, _, err := s.Case.Candidate(ctx, n, seed); !errors.As(err, &wrong) {
			t.Errorf("%q: %v", seed, err)
		}
	}
}
