package watch

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	core "cleverniche/core/watch"
	"cleverniche/study/input"
	"cleverniche/study/watch"
	"cleverniche/web/frame"
)

// one is a watched page alone.
type one struct {
	frame.Page
	S       strip
	Points  []point
	Remarks []noted
	Why     watch.Why
	Today   string
	Wrong   string
	Field   string
	Typed   string
}

type point struct {
	At, Place, Page, Engine string
	Scene                   string
	Others                  []string
}

type noted struct {
	ID        uint
	Day, Says string
}

// mostPoints is how many places the page of one lists, the latest.
const mostPoints = 60

func showOne(r *frame.Request, wrong *input.Error) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	p, points, remarks, err := r.Study.Watch.One(r.Context(), r.Niche, id)
	if err != nil {
		return err
	}
	v := one{Today: r.Study.Now().Format(time.DateOnly)}
	if wrong != nil {
		v.Wrong, v.Field, v.Typed = wrong.Reason, wrong.Field, r.FormValue(wrong.Field)
	}
	for _, m := range remarks {
		v.Remarks = append(v.Remarks, noted{m.ID, m.Day, m.Says})
	}
	v.S = stripOf(p, v.Remarks, r.Study.Now(), oneWidth, oneHeight)
	if v.Why, err = r.Study.Watch.Why(r.Context(), r.Niche, p); err != nil {
		return err
	}
	for i := len(points) - 1; i >= max(0, len(points)-mostPoints); i-- {
		x := points[i]
		at := point{x.At.Format("2 January 2006"), core.Says(x.Place), x.Page, x.Engine, watch.SceneName(r.Niche, x.Scene),
			nil}
		if x.Others != "" {
			at.Others = strings.Split(x.Others, "\n")
		}
		v.Points = append(v.Points, at)
	}
	if v.Page, err = r.Page(p.Phrase, "watch", -1); err != nil {
		return err
	}
	return r.Render("watch/one", v)
}

// dated are the watched page that a form is about, and its day.
func dated(r *frame.Request) (id uint, day time.Time, err error) {
	if id, err = r.ID("watched"); err != nil {
		return id, day, err
	}
	if day, err = time.Parse(time.DateOnly, strings.TrimSpace(r.FormValue("day"))); err != nil {
		return id, day, input.Bad("day", "Type the day as 2027-03-31.")
	}
	return id, day, nil
}

// toOne leads back to the page of one.
func toOne(r *frame.Request, id uint) error { return r.To(r.Path(fmt.Sprintf("watch/%d", id))) }

func typePlace(r *frame.Request) error {
	id, day, err := dated(r)
	if err != nil {
		return err
	}
	place, bad := strconv.Atoi(strings.TrimSpace(r.FormValue("place")))
	if bad != nil {
		return input.Bad("place", "A position is a whole number from 1 on; 0 means not found.")
	}
	if err := r.Study.Watch.Type(r.Context(), r.Niche, id, day, place); err != nil {
		return err
	}
	return toOne(r, id)
}

func remark(r *frame.Request) error {
	id, day, err := dated(r)
	if err != nil {
		return err
	}
	if err := r.Study.Watch.Remark(r.Context(), r.Niche, id, day, r.FormValue("says")); err != nil {
		return err
	}
	return toOne(r, id)
}

func unremark(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	of, err := frame.IDOf(r.FormValue("id"))
	if err != nil {
		return input.ErrNotFound
	}
	if err := r.Study.Watch.RemoveRemark(r.Context(), r.Niche, id, of); err != nil {
		return err
	}
	return toOne(r, id)
}

func remove(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	back := r.FormValue("back") != ""
	if err := r.Study.Watch.Remove(r.Context(), r.Niche, id, !back); err != nil {
		return err
	}
	if back {
		return r.To(r.Path("watch"))
	}
	return r.To(r.Path(fmt.Sprintf("watch?removed=%d", id)))
}
