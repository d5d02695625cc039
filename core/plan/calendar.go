package plan

import (
	"math"
	"slices"
	"time"

	"cleverniche/core/demand"
)

// State is how far an article is.
type State string

// The states of an article on the running sheet; None is not on it.
const (
	None      State = ""
	ToWrite   State = "to write"
	Writing   State = "writing"
	Published State = "published"
)

// States lists the states, in the order an article goes through them.
var States = []State{None, ToWrite, Writing, Published}

// Bounds of what is planned.
const (
	MostWeekHours    = 168 // a week has no more
	MostArticleHours = 400
	FewestLead       = 30 // days
	MostLead         = 180
)

// Day is a date: midnight, UTC.
func Day(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC) }

// Article is an article in the calendar.
type Article struct {
	Hours     int
	Start     time.Time // first day of writing; zero: it has no place in the calendar
	Published time.Time // zero while it is not
	Deadline  time.Time // the user's own; zero is none
	Peak      demand.Peak
}

// Schedule is what a sowing comes to.
type Schedule struct {
	Start   time.Time // first day of writing
	Ready   time.Time // the day it is published: the first after the writing
	Settled time.Time // the day by which it has found its place
	Season  time.Time // first day of the first peak that it can be settled for; zero without a peak
	Last    time.Time // last day to publish for the next peak from today on; zero without a peak
	Missed  time.Time // that of the peak before, when it has not ended yet; zero once it has, or what is published
	Due     time.Time // the earlier of Last and the deadline; zero is none
	Late    int       // days that Ready is after Due; 0 when it is not
	Misses  bool      // what it is late for is the season
}

// Writing is for how many days hours are written, at so many a week: at least one.
func WritingDays(hours, perWeek int) int {
	if perWeek <= 0 {
		return max(1, hours)
	}
	return max(1, int(math.Ceil(7*float64(hours)/float64(perWeek))))
}

// ScheduleOf says when a sowing is ready, settled and harvested. lead is the days from publishing to the
// place.
func ScheduleOf(s Article, today time.Time, perWeek, lead int) Schedule {
	out := Schedule{Start: s.Start}
	today = Day(today)
	switch {
	case !s.Published.IsZero():
		out.Ready = s.Published
		if out.Start.IsZero() || out.Start.After(out.Ready) {
			out.Start = out.Ready.AddDate(0, 0, -WritingDays(s.Hours, perWeek))
		}
	case !s.Start.IsZero():
		out.Ready = s.Start.AddDate(0, 0, WritingDays(s.Hours, perWeek))
	}
	asOf := today
	if !s.Published.IsZero() {
		asOf = s.Published
	}
	if day, ok := s.Peak.PublishBy(asOf, time.Duration(lead)*24*time.Hour); ok {
		out.Last = day
		before := day.AddDate(0, 0, lead).AddDate(-1, 0, 0)
		if s.Published.IsZero() && today.Before(before.AddDate(0, s.Peak.Months, 0)) {
			out.Missed = before.AddDate(0, 0, -lead)
		}
	}
	if out.Due = out.Last; !s.Deadline.IsZero() && (out.Due.IsZero() || s.Deadline.Before(out.Due)) {
		out.Due = s.Deadline
	}
	if out.Ready.IsZero() {
		return out
	}
	out.Settled = out.Ready.AddDate(0, 0, lead)
	if s.Peak.Months > 0 {
		if day, ok := s.Peak.PublishBy(out.Ready, time.Duration(lead)*24*time.Hour); ok {
			out.Season = day.AddDate(0, 0, lead)
		}
	}
	if !out.Due.IsZero() && out.Ready.After(out.Due) {
		out.Late = int(out.Ready.Sub(out.Due).Hours() / 24)
		out.Misses = out.Due.Equal(out.Last)
	}
	return out
}

// Load is the hours of a stretch of time: those there are, and those booked.
type Load struct {
	Begin        time.Time
	Have, Booked float64
}

// Over reports whether more is booked than there is, by more than rounding.
func (l Load) Over() bool { return l.Booked > l.Have+0.5 }

// Months are the loads of months, from the one of a day on. What is published takes no hours.
func Months(list []Article, begin time.Time, months, perWeek int) []Load {
	out := make([]Load, months)
	first := time.Date(begin.Year(), begin.Month(), 1, 0, 0, 0, 0, time.UTC)
	for i := range out {
		out[i].Begin = first.AddDate(0, i, 0)
		out[i].Have = float64(perWeek) / 7 * first.AddDate(0, i+1, 0).Sub(out[i].Begin).Hours() / 24
	}
	book(out, list, perWeek, first.AddDate(0, months, 0))
	return out
}

// Weeks are the loads of weeks that begin on a weekday, from the one of a day on.
func Weeks(list []Article, begin time.Time, weeks, perWeek int, first time.Weekday) []Load {
	out := make([]Load, weeks)
	start := WeekOf(begin, first)
	for i := range out {
		out[i] = Load{Begin: start.AddDate(0, 0, 7*i), Have: float64(perWeek)}
	}
	book(out, list, perWeek, start.AddDate(0, 0, 7*weeks))
	return out
}

// WeekOf is the first day of the week of a day.
func WeekOf(t time.Time, first time.Weekday) time.Time {
	return Day(t).AddDate(0, 0, -(int(t.Weekday())-int(first)+7)%7)
}

// book spreads the hours of each sowing evenly over its days of writing.
func book(loads []Load, list []Article, perWeek int, end time.Time) {
	for _, s := range list {
		if s.Start.IsZero() || !s.Published.IsZero() {
			continue
		}
		days := WritingDays(s.Hours, perWeek)
		at := 0
		for d := range days {
			day := s.Start.AddDate(0, 0, d)
			if day.Before(loads[0].Begin) {
				continue
			}
			if !day.Before(end) {
				break
			}
			for at+1 < len(loads) && !day.Before(loads[at+1].Begin) {
				at++
			}
			loads[at].Booked += float64(s.Hours) / float64(days)
		}
	}
}

// LayOut gives those without a start one, one after the other in their order, from a day on, between
// what has a start already: each begins when the one before it is ready. It returns the starts.
func LayOut(list []Article, today time.Time, perWeek int) []time.Time {
	type span struct{ start, end time.Time }
	var taken []span
	for _, s := range list {
		if !s.Start.IsZero() && s.Published.IsZero() {
			taken = append(taken, span{s.Start, s.Start.AddDate(0, 0, WritingDays(s.Hours, perWeek))})
		}
	}
	slices.SortFunc(taken, func(a, b span) int { return a.start.Compare(b.start) })
	out := make([]time.Time, len(list))
	at := Day(today)
	for i, s := range list {
		out[i] = s.Start
		if !s.Start.IsZero() || !s.Published.IsZero() {
			continue
		}
		days := WritingDays(s.Hours, perWeek)
		for _, t := range taken {
			if at.Before(t.end) && at.AddDate(0, 0, days).After(t.start) {
				at = t.end
			}
		}
		out[i] = at
		at = at.AddDate(0, 0, days)
	}
	return out
}
