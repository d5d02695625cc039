// Package demand reads a run of monthly search counts: what is known, what is
// missing, what lies below the source's floor, and what the average is.
package demand

import (
	"fmt"
	"math"
	"sort"
	"time"
)

// Month is a calendar month, counted from January of year 0.
type Month int

// MonthOf returns the month that holds t.
func MonthOf(t time.Time) Month { return Month(t.Year()*12 + int(t.Month()) - 1) }

// ParseMonth reads "2006-01".
func ParseMonth(s string) (Month, error) {
	t, err := time.Parse("2006-01", s)
	if err != nil {
		return 0, fmt.Errorf("month %q is not of the form 2006-01", s)
	}
	return MonthOf(t), nil
}

// Year and Of split a month into its calendar parts.
func (m Month) Year() int      { return int(m) / 12 }
func (m Month) Of() time.Month { return time.Month(int(m)%12 + 1) }
func (m Month) String() string { return fmt.Sprintf("%04d-%02d", m.Year(), int(m.Of())) }

// Count is what a source says of one month. Under means fewer than Searches
// (the source's floor), not Searches.
type Count struct {
	Month    Month
	Searches int
	Under    bool
}

// Cost is money in micro-units (millionths) of a currency (ISO 4217): integers,
// so that sums are exact.
type Cost struct {
	Micros   int64
	Currency string
}

// Known reports whether a source gave a cost at all; zero is a cost.
func (c Cost) Known() bool { return c.Currency != "" }

// Series is the answer of one source about one phrase. A month that is absent
// from Counts is missing, which is not zero.
type Series struct {
	Average     *Average // where the source says no more than that; nil where it gives months
	Counts      []Count  // any order, one a month
	CPC         Cost
	Competition float64 // among advertisers, 0 to 1; negative when unknown
	PhraseMatch int     // searches a month that hold the phrase in order
	BroadMatch  int     // searches a month that hold its words in any order
}

// Average is what a source says of a phrase's searches that gives no months.
type Average struct {
	Searches int  // a month
	Under    bool // fewer than Searches
}

// Summary says what a phrase is searched. All counts are searches a month.
type Summary struct {
	Average         int  // over the months used, rounded; see Under
	Under           bool // true: fewer than Average, which is then the floor
	Lowest, Highest int  // of the measured months among those used
	Months          int  // how many of the latest twelve were there
	Measured        int  // how many of those were at or above the floor
}

// Latest returns the counts of the n months that end with the latest month of
// the series, oldest first. Absent months stay absent.
func (s Series) Latest(n int) []Count {
	if len(s.Counts) == 0 {
		return nil
	}
	counts := append([]Count(nil), s.Counts...)
	sort.Slice(counts, func(i, j int) bool { return counts[i].Month < counts[j].Month })
	first := counts[len(counts)-1].Month - Month(n) + 1
	i := sort.Search(len(counts), func(i int) bool { return counts[i].Month >= first })
	return counts[i:]
}

// Apart is how many times ours theirs is, both searches a month; 0 where either is none, so that nothing can be said.
func Apart(theirs, ours int) float64 {
	if theirs <= 0 || ours <= 0 {
		return 0
	}
	return float64(theirs) / float64(ours)
}

// Summarise averages the latest twelve months that the series holds. A month
// under the floor counts as half the floor (the middle of what it may be); when
// most months are under it, the average itself is reported as under the floor.
// ok is false when the series has no month at all.
func Summarise(s Series) (sum Summary, ok bool) {
	counts := s.Latest(12)
	if a := s.Average; a != nil && len(counts) < 12 { // the source's own mean is over more months than it shows
		return Summary{Average: a.Searches, Under: a.Under, Months: len(counts)}, true
	}
	if len(counts) == 0 {
		return Summary{}, false
	}
	total, floor := 0.0, 0
	sum.Lowest = math.MaxInt
	for _, c := range counts {
		sum.Months++
		if c.Under {
			total += float64(c.Searches) / 2
			floor = max(floor, c.Searches)
			continue
		}
		sum.Measured++
		total += float64(c.Searches)
		sum.Lowest = min(sum.Lowest, c.Searches)
		sum.Highest = max(sum.Highest, c.Searches)
	}
	if sum.Measured == 0 {
		sum.Lowest = 0
	}
	sum.Average = int(math.Round(total / float64(sum.Months)))
	if 2*sum.Measured < sum.Months && sum.Average < floor {
		sum.Average, sum.Under = floor, true
	}
	return sum, true
}
