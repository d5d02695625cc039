package draw

import "testing"

func TestAlong(t *testing.T) {
	got := Along([]float64{0, 5}, []float64{5, 10}, []float64{10, 20}, 20, 100, 40)
	if got.Line != "M0 30 L100 20" || got.Area != "M0 20 L100 0 L100 30 L0 40 Z" {
		t.Errorf("%+v", got)
	}
	if (Along(nil, []float64{1}, nil, 5, 10, 10) != Band{}) {
		t.Error("one month is a band")
	}
}

func TestScattered(t *testing.T) {
	if got := Scattered(12, 100, 25, 24, 10_000, 100, 200, 100); got != (Ball{100, 50, 7.5}) {
		t.Errorf("%+v", got)
	}
	if got := Scattered(0, 0, 0, 0, 0, 0, 200, 100); got != (Ball{0, 100, 3}) {
		t.Errorf("%+v", got)
	}
}
