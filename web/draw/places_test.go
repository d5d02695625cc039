package draw

import "testing"

func TestPlaces(t *testing.T) {
	got := Places([]int{1, 2, 0, 3, 0, 10}, []float64{0, 10, 20, 30, 40, 50}, 20)
	if got.Path != "M0 10L10 30M30 50M50 190" || len(got.Dots) != 2 || got.Dots[0] != (Dot{30, 50}) ||
		got.Dots[1] != (Dot{50, 190}) {
		t.Errorf("%+v", got)
	}
	if got := Places(nil, nil, 20); got.Path != "" || got.Dots != nil {
		t.Errorf("%+v", got)
	}
}
