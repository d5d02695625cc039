package plan

import (
	"errors"
	"fmt"
	"strconv"
	"time"

	"cleverniche/core/plan"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
	"cleverniche/web/group"
)

func asInput(err error, to **input.Error) bool { return errors.As(err, to) }

// calendarPage is the sowing calendar.
type calendarPage struct {
	frame.Page
	Tabs     []tab
	Months   int
	Spans    []span
	Rows     []calendarRow
	Unplaced []article
	Heads    []draw.Tick
	Loads    []load
	Width    int
	Height   int
	TodayX   float64
	PerDay   float64 // pixels
	Late     int
}

// span is a choice of how far ahead one looks.
type span struct {
	Months int
	Name   string
	Here   bool
}

// load is the hours of a month, as they are drawn.
type load struct {
	X, Y, Width, Fill float64
	Says              string
	Over              bool
	Short             string
}

// calendarRow is an article's line in the calendar.
type calendarRow struct {
	article
	Y                    int
	WriteX, WriteWidth   float64
	SettleX              float64
	LastX, DeadlineX     float64
	HasLast, HasDeadline bool
	Bars                 []draw.Crop
	Season               string
	Says                 string
	Days                 int
	DueDate              string
	Out                  bool
	LabelSub             string
}

var spans = []span{{6, "six months", false}, {13, "a year", false}, {25, "two years", false}}

// Sizes of the calendar.
const (
	chartWidth = 880
	rowHeight  = 42
	headHeight = 28
)

func readCalendar(r *frame.Request) (v calendarPage, err error) {
	sheet, err := r.Study.Articles.Plan(r.Context(), r.Niche)
	if err != nil {
		return v, err
	}
	v.Niche, v.Tabs, v.Months = r.Niche, tabsOf(r, "plan/calendar"), 13
	asked := r.Query("months")
	if asked == "" {
		asked = r.FormValue("months")
	}
	if n, err := strconv.Atoi(asked); err == nil && n >= 3 && n <= 37 {
		v.Months = n
	}
	for _, s := range spans {
		s.Here = s.Months == v.Months
		v.Spans = append(v.Spans, s)
	}
	now := plan.Day(r.Now())
	begin := time.Date(now.Year(), now.Month(), 1, 0, 0, 0, 0, time.UTC)
	for _, a := range sheet.Articles {
		if a.State() == plan.Published && !a.Day.IsZero() && a.Schedule.Settled.After(begin) && a.Day.Before(begin) {
			first := time.Date(a.Day.Year(), a.Day.Month(), 1, 0, 0, 0, 0, time.UTC)
			if first.After(begin.AddDate(0, -4, 0)) && first.Before(begin) {
				begin = first
			}
		}
	}
	axis := draw.NewAxis(begin, v.Months, chartWidth)
	v.Width, v.Heads, v.PerDay = chartWidth, axis.Heads(), axis.PerDay()
	v.TodayX = axis.X(now)
	for _, a := range sheet.Articles {
		l := line(r, a)
		if l.LateWords != "" {
			v.Late++
		}
		if a.Schedule.Ready.IsZero() {
			v.Unplaced = append(v.Unplaced, l)
		}
		v.Rows = append(v.Rows, calendarRowOf(l, axis, len(v.Rows), r.Niche))
	}
	v.Height = headHeight + rowHeight*len(v.Rows)
	for _, m := range sheet.Booked(begin, v.Months) {
		x, end := axis.X(m.Begin), axis.X(m.Begin.AddDate(0, 1, 0))
		one := load{X: x, Width: end - x - 2, Over: m.Over(), Short: fmt.Sprintf("%.0f/%.0f", m.Booked, m.Have),
			Says: fmt.Sprintf("%s: %.0f of %.0f hours planned", m.Begin.Format("January 2006"), m.Booked, m.Have)}
		if m.Have > 0 {
			one.Fill = 20 * min(1, m.Booked/m.Have)
		} else if m.Booked > 0 {
			one.Fill = 20
		}
		one.Y = 24 - one.Fill
		v.Loads = append(v.Loads, one)
	}
	return v, nil
}

func calendarRowOf(l article, axis draw.Axis, at int, n niches.Niche) calendarRow {
	row := calendarRow{article: l, Y: headHeight + rowHeight*at, Season: group.SeasonWords(l.Article),
		Out: l.State() == plan.Published, Days: plan.WritingDays(l.Hours, n.WeekHours), DueDate: typed(l.Schedule.Due)}
	s := l.Schedule
	if !s.Ready.IsZero() {
		row.WriteX = axis.X(s.Start)
		row.WriteWidth = max(4, axis.X(s.Ready)-row.WriteX)
		row.SettleX = axis.X(s.Settled)
	}
	if !s.Last.IsZero() && !row.Out {
		row.HasLast, row.LastX = axis.Holds(s.Last), axis.X(s.Last)
	}
	if !l.Deadline.IsZero() && !row.Out {
		row.HasDeadline, row.DeadlineX = axis.Holds(l.Deadline), axis.X(l.Deadline)
	}
	if p := l.Article.Season.Peak; p.Months > 0 {
		row.Bars = axis.Harvest(l.Article.Season.Index, p.Holds)
	}
	row.Says = l.Name + ": "
	switch {
	case row.Out:
		row.Says += "published on " + said(l.Day) + ", rankings settled by " + said(s.Settled)
	case s.Ready.IsZero():
		row.Says += fmt.Sprintf("%d hours, not scheduled yet", l.Hours)
	default:
		row.Says += fmt.Sprintf("%d hours from %s, ready on %s, rankings settled by %s", l.Hours, said(s.Start), l.Ready,
			said(s.Settled))
	}
	if row.Season != "" {
		row.Says += "; " + row.Season
	}
	if l.LateWords != "" {
		row.Says += "; " + l.LateWords
	}
	row.LabelSub = fmt.Sprintf("%s · %d h", l.Kind, l.Hours)
	if l.Worth != "" {
		row.LabelSub += " · " + l.Worth
	}
	return row
}

func showCalendar(r *frame.Request) error {
	v, err := readCalendar(r)
	if err != nil {
		return err
	}
	if r.Partial() {
		return r.Render("plan/chart", v)
	}
	if v.Page, err = r.Page("Calendar", stage.Path, -1); err != nil {
		return err
	}
	return r.Render("plan/calendar", v)
}

func renewedCalendar(r *frame.Request) error {
	v, err := readCalendar(r)
	if err != nil {
		return err
	}
	return r.Render("plan/chart", v)
}
