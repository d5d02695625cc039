package demand

import (
	"testing"
	"time"
)

func months(first string, values ...int) Series {
	m, err := ParseMonth(first)
	if err != nil {
		panic(err)
	}
	var s Series
	for i, v := range values {
		switch {
		case v == -1: // missing
		case v < 0:
			s.Counts = append(s.Counts, Count{m + Month(i), -v, true})
		default:
			s.Counts = append(s.Counts, Count{m + Month(i), v, false})
		}
	}
	return s
}

func TestSummarise(t *testing.T) {
	for _, c := range []struct {
		name string
		in   Series
		want Summary
	}{
		{"a full year", months("2025-11", 10, 20, 30, 40, 50, 60, 70, 80, 90, 100, 110, 120),
			Summary{Average: 65, Lowest: 10, Highest: 120, Months: 12, Measured: 12}},
		{"only the latest twelve count", months("2024-11", 9000, 9000, 10, 10, 10, 10, 10, 10, 10, 10, 10, 10, 10, 10),
			Summary{Average: 10, Lowest: 10, Highest: 10, Months: 12, Measured: 12}},
		{"missing is not zero", months("2025-11", 60, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 120),
			Summary{Average: 90, Lowest: 60, Highest: 120, Months: 2, Measured: 2}},
		{"all under the floor", months("2025-11", -10, -10, -10, -10), Summary{Average: 10, Under: true, Months: 4}},
		{"most under, one peak", months("2025-11", -10, -10, -10, 400),
			Summary{Average: 104, Lowest: 400, Highest: 400, Months: 4, Measured: 1}},
		{"most under, a small month", months("2025-11", -10, -10, -10, 12),
			Summary{Average: 10, Under: true, Lowest: 12, Highest: 12, Months: 4, Measured: 1}},
		{"a zero month is measured", months("2025-11", 0, 20), Summary{Average: 10, Lowest: 0, Highest: 20, Months: 2,
			Measured: 2}},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got, ok := Summarise(c.in); !ok || got != c.want {
				t.Errorf("got %+v, want %+v", got, c.want)
			}
		})
	}
	if _, ok := Summarise(Series{}); ok {
		t.Error("a series without a month has a summary")
	}
}

func TestMonth(t *testing.T) {
	m := MonthOf(time.Date(2026, 2, 28, 0, 0, 0, 0, time.UTC))
	if m.String() != "2026-02" || (m+11).String() != "2027-01" || (m-2).String() != "2025-12" {
		t.Errorf("months around %s: %s, %s", m, m+11, m-2)
	}
	for _, bad := range []string{"", "2026", "2026-13", "26-01", "2026-1"} {
		if _, err := ParseMonth(bad); err == nil {
			t.Errorf("%q is taken for a month", bad)
		}
	}
}
