package difficulty

import "testing"

// TestUsualPage: better sites have better pages; between the values that were found it is drawn straight.
func TestUsualPage(t *testing.T) {
	before := -1.0
	for site := 0.0; site <= 100; site++ {
		if x := UsualPage(site); x < before || x < 0 || x > 100 {
			t.Errorf("%v after %v at %v", x, before, site)
		} else {
			before = x
		}
	}
	x, y := []float64{0, 10, 20}, []float64{0, 4, 10}
	for at, want := range map[float64]float64{-5: 0, 0: 0, 5: 2, 10: 4, 15: 7, 20: 10, 99: 10} {
		if got := Between(x, y, at); got != want {
			t.Errorf("%v at %v, want %v", got, at, want)
		}
	}
	if Between(nil, nil, 3) != 0 {
		t.Error("of nothing")
	}
}
