package watch

import (
	"fmt"
	"math"
	"time"

	core "cleverniche/core/watch"
	"cleverniche/study/watch"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// Sizes of strips.
const (
	stripWidth, stripHeight = 520.0, 70.0
	oneWidth, oneHeight     = 900.0, 220.0
	bandSteps               = 24
	shownDays               = 182 // of a strip at least, from publication on
)

// strip is a watched page as it is shown.
type strip struct {
	watch.Page
	Draw    draw.Course
	Now     string
	Since   []string
	Short   []string // of these, since a week ago or else last time, and since the start
	Says    string   // beside its forecast, in words
	Good    bool
	Bad     bool
	Chances string
}

// stripOf draws a watched page.
func stripOf(p watch.Page, remarks []noted, now time.Time, width, height float64) strip {
	s := strip{Page: p, Now: "not checked yet"}
	begin := p.Out
	if len(p.Line) > 0 && (begin.IsZero() || p.Line[0].Day.Before(begin)) {
		begin = p.Line[0].Day
	}
	if begin.IsZero() {
		begin = now
	}
	days := math.Max(shownDays, now.Sub(begin).Hours()/24)
	var low, high []float64
	if p.Forecast != nil && !p.Out.IsZero() {
		late := p.Out.Sub(begin).Hours() / 24
		for i := range bandSteps + 1 {
			b, w := p.Forecast.On(float64(i)*days/bandSteps - late)
			low, high = append(low, b), append(high, w)
		}
		best, worst := p.Forecast.Band()
		places := fmt.Sprintf("%d to %d", best, worst)
		if worst == 0 {
			places = fmt.Sprintf("%d or lower", best)
		}
		s.Chances = fmt.Sprintf("Forecast: no. %s, page one %.0f %%.", places, 100*p.Forecast.PageOne())
	}
	var stood []draw.Stood
	for _, at := range p.Line {
		place := float64(at.Place)
		if at.Place == 0 {
			place = core.Depth + 1
		}
		stood = append(stood, draw.Stood{Day: at.Day.Sub(begin).Hours() / 24, Place: place})
	}
	var marks []draw.Marked
	for _, m := range remarks {
		if day, err := time.Parse(time.DateOnly, m.Day); err == nil {
			marks = append(marks, draw.Marked{Day: day.Sub(begin).Hours() / 24, Says: m.Day + ": " + m.Says})
		}
	}
	s.Draw = draw.CourseOf(days, low, high, stood, marks, width, height)
	if len(p.Line) > 0 {
		if s.Now = core.Says(p.Place); p.Place > 0 {
			s.Now = "no. " + s.Now
		}
		for _, c := range []struct {
			name string
			by   watch.Change
		}{{"last time", p.Day}, {"a week ago", p.Week}, {"a month ago", p.Month}, {"the start", p.Start}} {
			if c.by.OK {
				s.Since = append(s.Since, "since "+c.name+" "+moved(c.by.By))
			}
		}
		if s.Short = s.Since; len(s.Since) > 2 {
			s.Short = []string{s.Since[1], s.Since[len(s.Since)-1]}
		}
	}
	s.Good, s.Bad = p.Verdict == core.Better, p.Verdict == core.Worse
	switch {
	case p.Verdict != "" && p.Late:
		s.Good, s.Bad = false, false
		s.Says = "Not counted: forecast after it was published."
	case p.Verdict == core.TooEarly:
		s.Says = fmt.Sprintf("Too early to tell until %s.", p.Tells.Format("2 January 2006"))
	case p.Verdict != "":
		s.Says = frame.Capital(string(p.Verdict)) + "."
	}
	return s
}

func moved(by int) string {
	switch {
	case by > 0:
		return fmt.Sprintf("up %d", by)
	case by < 0:
		return fmt.Sprintf("down %d", -by)
	}
	return "unchanged"
}
