package sieve

import (
	"slices"
	"testing"
)

// TestVerdict: each phrase has the verdict that its figures ask for, and names what stops it.
func TestVerdict(t *testing.T) {
	sound := Sieve{Filters: []Filter{At(ByLeastSearches, 100), At(ByLength, 2), {By: ByMostDifficulty, Number: 20}}}
	for i, c := range []struct {
		searches   float64 // below 0 they are not known
		words      int
		difficulty float64 // below 0 it is not looked up
		asked      bool
		want       Verdict
		stops      []int
	}{
		{500, 3, 10, true, Passes, nil},
		{-1, 3, -1, false, Unasked, []int{0, 2}},
		{-1, 3, -1, true, NotSearched, []int{0, 2}},
		{0, 3, 10, true, NotSearched, []int{0}},
		{500, 3, 60, true, OutOfReach, []int{2}},
		{50, 3, 10, true, EasySmall, []int{0}},
		{50, 3, -1, true, TooSmall, []int{0, 2}},
		{500, 1, 10, true, Otherwise, []int{1}},
		{500, 3, -1, true, Otherwise, []int{2}},
	} {
		idea := Unmeasured(1, "moon map", c.words)
		if c.searches >= 0 {
			idea.Put(Searches, Of(c.searches))
		}
		if c.difficulty >= 0 {
			idea.Put(Difficulty, Of(c.difficulty))
			idea.Put(Beyond, Of(max(0, c.difficulty-30)))
			idea.Put(LookedUp, Of(1))
		}
		table := NewTable("en", []Idea{idea})
		if got, stops := table.Verdict(0, sound.Filters, c.asked); got != c.want || !slices.Equal(stops, c.stops) {
			t.Errorf("%d: %s, stopped by %v; want %s, %v", i, got, stops, c.want, c.stops)
		}
	}
	if len(Verdicts()) != 7 {
		t.Error("a verdict is not told")
	}
}
