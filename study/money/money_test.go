package money_test

import (
	"testing"

	"cleverniche/study/money"
)

func TestMoney(t *testing.T) {
	for _, c := range []struct {
		micros int64
		code   string
		want   string
	}{{470000, "USD", "$0.47"}, {0, "USD", "$0.00"}, {2000, "USD", "under $0.01"}, {9_999, "USD", "under $0.01"},
		{12_345_678, "EUR", "€12.35"}, {120_000_000, "JPY", "¥120"}, {1_000_000, "???", "1.00 ???"}} {
		if got := money.Text(c.micros, c.code); got != c.want {
			t.Errorf("Money(%d, %s) = %q, want %q", c.micros, c.code, got, c.want)
		}
	}
}

func TestRange(t *testing.T) {
	for _, c := range []struct {
		low, high int64
		want      string
	}{{0, 990_000, "under $1"}, {400_000, 9_320_000, "up to $9"}, {2_100_000, 25_400_000, "$2–25"},
		{3_000_000, 3_200_000, "$3"}, {1_500_000_000, 2_000_000_000, "$1,500–2,000"}} {
		if got := money.Range(c.low, c.high, "USD"); got != c.want {
			t.Errorf("Range(%d, %d) = %q, want %q", c.low, c.high, got, c.want)
		}
	}
	if got := money.Most(11_001, "USD"); got != "$0.02" {
		t.Errorf("at most %s", got)
	}
}
