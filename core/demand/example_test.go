package demand_test

import (
	"fmt"
	"time"

	"cleverniche/core/demand"
)

// Four years that peak every October, and when to publish for the next one.
func ExampleSeasonOf() {
	var s demand.Series
	for m := demand.MonthOf(time.Date(2022, 1, 1, 0, 0, 0, 0, time.UTC)); len(s.Counts) < 48; m++ {
		searches := 400
		if m.Of() == time.October {
			searches = 1600
		}
		s.Counts = append(s.Counts, demand.Count{Month: m, Searches: searches})
	}
	season := demand.SeasonOf(s)
	day, _ := season.Peak.PublishBy(time.Date(2026, 2, 1, 0, 0, 0, 0, time.UTC), demand.Lead)
	fmt.Println(demand.LastingOf(s), "peak:", season.Peak.First, "publish by", day.Format("2 January 2006"))
	// Output: seasonal peak: October publish by 3 July 2026
}
