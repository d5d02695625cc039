package draw

import "testing"

func TestSpot(t *testing.T) {
	low, high := Spot(3, 3, 6, 0, 10, 1000, 400, 200, 0), Spot(6, 3, 6, 200, 1000, 1000, 400, 200, 0)
	if low != (Bubble{62, 184, 3.5}) || high != (Bubble{338, 16, 13}) {
		t.Errorf("%+v, %+v", low, high)
	}
	if s := Spot(3, 3, 3, 50, -1, 0, 400, 200, 1); s.R != 3.5 || s.Y != 100 || s.X <= 200 {
		t.Errorf("%+v", s)
	}
}
