package draw

import (
	"math"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/demand"
)

func TestMonths(t *testing.T) {
	if Months(nil, 48, 14) != "" {
		t.Error("no months are drawn")
	}
	counts := []demand.Count{{Month: 90, Searches: 9000}, {Month: 100, Searches: 50},
		{Month: 111, Searches: 100, Under: true}}
	if path := Months(counts, 48, 14); path != "M1.5 14V0M45.5 14V0" {
		t.Errorf("path %q", path)
	}
}

func TestYear(t *testing.T) {
	bars := Year([]demand.Count{{Month: 100, Searches: 200}, {Month: 105, Searches: 50}, {Month: 111, Searches: 0}},
		180, 40)
	want := []Bar{{X: 0, Y: 0, Width: 15, Height: 40}, {X: 75, Y: 30, Width: 15, Height: 10},
		{X: 165, Y: 39, Width: 15, Height: 1}}
	for i := range want {
		bars[i].Count = demand.Count{}
	}
	if !slices.Equal(bars, want) {
		t.Errorf("bars %+v", bars)
	}
}

func TestRamp(t *testing.T) {
	for level, want := range map[float64]string{150: "0,12 30,12 30,0.0", 0: "0,12 30,12 30,12.0",
		-3: "0,12 30,12 30,12.0",
		25: "0,12 30,12 30,9.0"} {
		if got := Ramp(level, 30, 12); got != want {
			t.Errorf("%v: %q", level, got)
		}
	}
}

func TestLadder(t *testing.T) {
	for chances, want := range map[[3]float64]string{{0, 0, 0}: "..........", {0.04, 0.05, 0.16}: "lp........",
		{0.3, 0.66, 0.92}: "sssllllpp.", {1, 1, 1}: "ssssssssss"} {
		got := ""
		for _, r := range Ladder(chances[0], chances[1], chances[2]) {
			got += map[Rung]string{NoRung: ".", Possible: "p", Likely: "l", Sure: "s"}[r]
		}
		if got != want {
			t.Errorf("%v is %s", chances, got)
		}
	}
}

func TestDrawn(t *testing.T) {
	got := Drawn([]Rung{Sure, Sure, Likely, NoRung, NoRung}, 12)
	if want := []Rungs{{"sure", "M0 6H10"}, {"likely", "M10 6H15"}, {"off", "M15 6H25"}}; !slices.Equal(got, want) {
		t.Errorf("rungs %+v", got)
	}
}

// TestClimb: everything is in one measure, from the highest down; a column is as high as its step, what can be seen of
// it solid and the rest hidden.
func TestClimb(t *testing.T) {
	s := Climb([]float64{50, 40, 25, 0}, []float64{100, 20}, 25, 220)
	for i, want := range []Step{{Asks: 120, Seen: 20, Over: true, Label: 116}, {Asks: 140, Seen: 180, Label: 136},
		{Asks: 170, Seen: 220, Label: 166, Covered: true}} {
		if s.Steps[i] != want {
			t.Errorf("step %d is %+v, not %+v", i, s.Steps[i], want)
		}
	}
	if over, under := s.Steps[0], s.Steps[1]; over.Solid() != 120 || over.Hidden() != 0 || under.Solid() != 180 ||
		under.Hidden() != 40 {
		t.Errorf("solid from %v and %v, hidden %v and %v", over.Solid(), under.Solid(), over.Hidden(), under.Hidden())
	}
	if high := Climb([]float64{100}, []float64{2}, 4, 110).Steps[0]; high.Label < labelHeight {
		t.Errorf("what is high is written above the box: %+v", high)
	}
	if last := s.Steps[3]; !last.Covered || last.Asks >= s.Height || s.Below(last.Asks) > 2 {
		t.Errorf("%+v", last)
	}
	if low := Climb(make([]float64, 10), nil, 0, 100); low.Top < leastTop || len(low.Steps) != 10 {
		t.Errorf("where nothing is needed: %+v", low)
	}
}

// TestOnTrack: what lies outside a line is drawn at its end.
func TestOnTrack(t *testing.T) {
	if got := OnTrack(0.25, -1, 2, 0.5, 0.5, 100); got != (Track{50, 0, 100, 100}) {
		t.Errorf("%+v", got)
	}
}

func TestStrip(t *testing.T) {
	got := Strip([]float64{0.25, 0, 0.75}, 200)
	if !slices.Equal(got, []Piece{{0, 50}, {50, 0}, {50, 150}}) {
		t.Errorf("%v", got)
	}
	for _, p := range Strip([]float64{0, 0}, 200) {
		if p.Width != 0 || math.IsNaN(p.X) {
			t.Errorf("nothing is drawn as %v", p)
		}
	}
}

func TestShare(t *testing.T) {
	for _, c := range [][4]int{{0, 100, 200, 0}, {1, 100_000, 200, 1}, {50, 100, 200, 100}, {5, 0, 200, 0},
		{100, 100, 200, 200}} {
		if got := Share(c[0], c[1], c[2]); got != c[3] {
			t.Errorf("%d of %d is %d", c[0], c[1], got)
		}
	}
	if !strings.HasPrefix(Months([]demand.Count{{Month: 5, Searches: 1}}, 12, 10), "M11 ") {
		t.Error("a single month does not stand last")
	}
}
