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
	if path := Months(counts, 48, 14); path != "M0 0h3v14h-3zM44 0h3v14h-3z" {
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

// TestClimb: everything is in one measure, from the highest down.
func TestClimb(t *testing.T) {
	s := Climb([]float64{50, 40, 25, 0}, []float64{100, 20}, 25, 220)
	for i, want := range [][4]float64{{120, 20, 32, 1}, {140, 180, 192, 1}, {170, 220, 216, 0}} {
		got := s.Steps[i]
		if got.Asks != want[0] || got.Holds != want[1] || got.Label != want[2] || got.Inside != (want[3] == 1) ||
			got.Covered != (i == 2) {
			t.Errorf("step %d is %+v, not %v", i, got, want)
		}
	}
	if low := Climb([]float64{100}, []float64{2}, 4, 110).Steps[0]; low.Inside || low.Label != 102 {
		t.Errorf("what is low is written above the water: %+v", low)
	}
	if last := s.Steps[3]; !last.Covered || last.Asks >= s.Height || s.Below(last.Asks) > 2 {
		t.Errorf("%+v", last)
	}
	if low := Climb(make([]float64, 10), nil, 0, 100); low.Top < leastTop || len(low.Steps) != 10 {
		t.Errorf("where nothing is asked: %+v", low)
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
