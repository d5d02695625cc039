package plan

import (
	"testing"
	"time"
)

func TestDates(t *testing.T) {
	for text, want := range map[string]Date{"": "", "  ": "", " 2027-02-28 ": "2027-02-28", "2028-02-29": "2028-02-29"} {
		if got, err := ReadDate(text); err != nil || got != want {
			t.Errorf("%q is %q, %v", text, got, err)
		}
	}
	for _, text := range []string{"2027-02-29", "1999-12-31", "2101-01-01", "28.2.2027", "2027-2-28", "soon"} {
		if got, err := ReadDate(text); err == nil || got != "" {
			t.Errorf("%q is %q", text, got)
		}
	}
	if !Date("").Time().IsZero() || !Date("soon").Time().IsZero() || DateOf(time.Time{}) != "" ||
		DateOf(Date("2027-03-31").Time()) != "2027-03-31" {
		t.Error("dates and days differ")
	}
}
