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
	}{{470000, "USD", "$0.47"}, {0, "USD", "$0.00"}, {2000, "USD", "$0.002"}, {500, "USD", "$0.0005"},
		{12_345_678, "EUR", "€12.35"}, {120_000_000, "JPY", "¥120"}, {1_000_000, "???", "1.00 ???"}} {
		if got := money.Text(c.micros, c.code); got != c.want {
			t.Errorf("Money(%d, %s) = %q, want %q", c.micros, c.code, got, c.want)
		}
	}
}
