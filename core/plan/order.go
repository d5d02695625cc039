package plan

import (
	"cmp"
	"slices"
	"time"
)

// Work is what is to be put in order.
type Work struct {
	Name  string
	Hours int
	Worth int64     // a month
	Due   time.Time // zero: any time is good
	After bool      // it comes after what is not, but for what is due
}

// InOrder says in which order works bring most: by what an hour of each brings. One that has to be out by a day
// comes earlier only where it would be too late otherwise, and in time when it does; of those that are due, the
// earliest due first (Jackson 1955's rule tells whether all can be in time; from memory). What is too late whatever
// comes first counts as not due. Hours are written at so many a week; with none, what is due comes first. It returns
// indexes.
func InOrder(works []Work, today time.Time, perWeek int) []int {
	byRate := make([]int, len(works))
	for i := range works {
		byRate[i] = i
	}
	rate := func(w Work) float64 { return float64(w.Worth) / float64(max(1, w.Hours)) }
	after := func(w Work) int {
		if w.After {
			return 1
		}
		return 0
	}
	slices.SortStableFunc(byRate, func(a, b int) int {
		x, y := works[a], works[b]
		return cmp.Or(after(x)-after(y), cmp.Compare(rate(y), rate(x)), cmp.Compare(x.Name, y.Name))
	})
	rules := Rules{Today: Day(today), PerWeek: perWeek}
	inTime := func(w Work, hours int) bool {
		return w.Due.IsZero() || perWeek > 0 && !rules.readyAfter(hours).After(w.Due)
	}
	due := slices.Clone(byRate) // what can be in time, the earliest due first
	due = slices.DeleteFunc(due, func(i int) bool {
		return works[i].Due.IsZero() || perWeek > 0 && !inTime(works[i], works[i].Hours)
	})
	slices.SortStableFunc(due, func(a, b int) int { return works[a].Due.Compare(works[b].Due) })
	// What cannot all be in time is let go of: the longest of those up to the first that is late (Moore 1968; from
	// memory).
	if perWeek > 0 {
		due = feasible(works, due, inTime)
	}
	out, hours := make([]int, 0, len(works)), 0
	done := map[int]bool{}
	// waits reports whether all that is due can still be in time when so many hours come first.
	waits := func(first int) bool {
		at := hours + works[first].Hours
		for _, i := range due {
			if done[i] || i == first {
				continue
			}
			if at += works[i].Hours; !inTime(works[i], at) {
				return false
			}
		}
		return true
	}
	for len(out) < len(works) {
		next := -1
		for _, i := range byRate {
			if !done[i] && waits(i) {
				next = i
				break
			}
		}
		if next < 0 { // the one that is due first
			for _, i := range due {
				if !done[i] {
					next = i
					break
				}
			}
		}
		done[next] = true
		hours += works[next].Hours
		out = append(out, next)
	}
	return out
}

// feasible is the most of what is due, earliest first, that can be in time.
func feasible(works []Work, due []int, inTime func(Work, int) bool) (out []int) {
	hours := 0
	for _, i := range due {
		out = append(out, i)
		if hours += works[i].Hours; inTime(works[i], hours) {
			continue
		}
		longest := 0
		for k := range out {
			if works[out[k]].Hours > works[out[longest]].Hours {
				longest = k
			}
		}
		hours -= works[out[longest]].Hours
		out = slices.Delete(out, longest, longest+1)
	}
	return out
}
