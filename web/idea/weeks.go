package idea

import (
	"fmt"
	"strings"
	"time"

	"cleverniche/core/serp"
	"cleverniche/study/results"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
	"cleverniche/web/jobs"
)

// weeksView is how an idea's results went over the snapshots that are kept.
type weeksView struct {
	Idea   uint
	Says   string
	Course serp.Course
	Lines  []weekLine // present ones by place, then former ones
	Former int
	Ticks  []weekTick
	Width  float64
	Height float64
	Row    float64
	Ask    *jobs.Estimate // what the past year would cost; nil where nothing is to be asked
	NoPast bool           // nobody knows past weeks
	Engine string
}

type weekLine struct {
	serp.PlaceLine
	Drawn draw.PlaceLine
	Site  string
	Says  string
	Mine  bool
}

type weekTick struct {
	X      float64
	Text   string
	Anchor string
}

// How the lines are drawn, in pixels.
const (
	weeksWidth = 560
	weeksRow   = 26
	weeksInset = 8
	mostFormer = 20
)

// weeksOf fills in the view.
func weeksOf(r *frame.Request, v *View) (w weeksView, err error) {
	all, err := r.Study.Results.History(r.Context(), v.Idea.ID)
	if err != nil {
		return w, err
	}
	h := all.On().Spaced()
	w = weeksView{Idea: v.Idea.ID, Course: serp.CourseOf(h), Width: weeksWidth, Row: weeksRow,
		Height: weeksRow * serp.FirstPage, NoPast: !r.Study.Results.HasPast()}
	w.Says = w.Course.Says()
	if len(h.Weeks) > 0 {
		w.Engine = h.Weeks[len(h.Weeks)-1].Engine
	}
	if !w.NoPast {
		e, err := r.Study.Results.Estimate(r.Context(), r.Niche, results.LookupOf("weeks"), []uint{v.Idea.ID})
		if err != nil {
			return w, err
		}
		if e.Lookups > 0 {
			w.Ask = &jobs.Estimate{Estimate: e, Cost: r.Study.Ask.Cost(e)}
		}
	}
	if !w.Course.Known {
		return w, nil
	}
	at := w.axis(h)
	mine := map[string]bool{}
	for _, e := range v.Evidence.Reading.Entries {
		for _, p := range v.Evidence.MyPages {
			mine[e.URL] = mine[e.URL] || p == e.Position
		}
	}
	for _, l := range h.Lines() {
		if l.Now == 0 {
			if w.Former++; w.Former > mostFormer {
				continue
			}
		}
		site := r.Study.Results.SiteOf(l.URL)
		w.Lines = append(w.Lines, weekLine{PlaceLine: l, Drawn: draw.Places(l.Places, at, weeksRow), Site: site,
			Mine: mine[l.URL], Says: fmt.Sprintf("%s: among the ten in %d of %d snapshots, best no. %d", site, l.Weeks,
				len(l.Places), l.Best)})
	}
	return w, nil
}

// axis places the snapshots by their days.
func (w *weeksView) axis(h serp.History) (at []float64) {
	day := func(i int) time.Time {
		t, _ := time.Parse(time.DateOnly, h.Weeks[i].Day)
		return t
	}
	first, last := day(0), day(len(h.Weeks)-1)
	span := max(last.Sub(first).Hours(), 1)
	for i := range h.Weeks {
		at = append(at, weeksInset+(weeksWidth-2*weeksInset)*day(i).Sub(first).Hours()/span)
	}
	w.Ticks = []weekTick{{at[0], tickText(first, last), "start"}, {at[len(at)-1], tickText(last, first), "end"}}
	if middle := first.Add(last.Sub(first) / 2); last.Sub(first) > 100*24*time.Hour {
		w.Ticks = append(w.Ticks, weekTick{weeksWidth / 2, tickText(middle, first), "middle"})
	}
	return at
}

func tickText(day, other time.Time) string {
	if d := day.Sub(other).Abs(); d < 60*24*time.Hour {
		return day.Format("2 Jan 2006")
	}
	return day.Format("Jan 2006")
}

// CameAndWent is which kinds of page come and go, in words.
func (w weeksView) CameAndWent() string {
	var out []string
	for _, t := range w.Course.Came {
		out = append(out, t.Says())
	}
	return strings.Join(out, ", ")
}
