package ideas

import (
	"cleverniche/core/demand"
	"cleverniche/store"
)

// LastingOf fills in an idea's season and how its searches last, from its months; false
// when it has none.
func LastingOf(idea *store.Idea) bool {
	counts, err := store.DecodeMonths(idea.Months)
	if err != nil || len(counts) == 0 {
		return false
	}
	series := demand.Series{Counts: counts}
	idea.Lasting = string(demand.LastingOf(series))
	idea.Season = ""
	if season := demand.SeasonOf(series); season.Known {
		if idea.Season = "none"; season.Peak.Months > 0 {
			idea.Season = "seasonal"
		}
	}
	return true
}
