package watch

import (
	"fmt"

	"cleverniche/core/difficulty"
	core "cleverniche/core/watch"
	"cleverniche/core/worth"
	"cleverniche/study/input"
	"cleverniche/study/watch"
	"cleverniche/web/frame"
)

// rightPage is whether chances were right.
type rightPage struct {
	head
	Right  watch.Right
	Few    bool
	Enough int
	Bins   []bin
	// What outcomes of my pages tell, by goal, and the clicks of my search report by place.
	Learning     watch.Learning
	Goals        []goal
	Clicks       []clicked
	FewestClicks int
	Replaces     bool // the report has clicks enough
}

type goal struct {
	Name          string
	Before, After difficulty.Scored
}

type clicked struct {
	worth.At
	Own, Usual, Used string
}

type bin struct {
	core.Bin
	Says string
}

func showRight(r *frame.Request, wrong *input.Error) (err error) {
	v := rightPage{Enough: core.Enough}
	if v.head, err = headOf(r, "watch/right", wrong); err != nil {
		return err
	}
	list, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	v.Right = watch.Rightness(list)
	v.Few = v.Right.Settled < core.Enough
	for _, b := range v.Right.PageOne.Bins {
		if b.N > 0 {
			v.Bins = append(v.Bins, bin{b, fmt.Sprintf("%.0f to %.0f %%", 100*b.From, 100*b.To)})
		}
	}
	if v.Learning, err = r.Study.Watch.Learning(r.Context(), r.Niche, list); err != nil {
		return err
	}
	for g, name := range []string{"Page one", "Top five"} {
		v.Goals = append(v.Goals, goal{name, v.Learning.Tried.Before[g], v.Learning.Tried.After[g]})
	}
	curve := v.Learning.Curve
	v.FewestClicks, v.Replaces = worth.FewestClicks, curve.Clicks >= worth.FewestClicks
	share := func(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) }
	for i, at := range curve.By {
		one := clicked{at, "", share(v.Learning.Usual[i]), share(curve.Curve[i])}
		if at.Impressions > 0 {
			one.Own = share(float64(at.Clicks) / float64(at.Impressions))
		}
		if curve.Off {
			one.Used = one.Usual
		}
		v.Clicks = append(v.Clicks, one)
	}
	return r.Render("watch/right", v)
}

func useOwn(r *frame.Request) (err error) {
	if r.FormValue("use") == "yes" {
		_, err = r.Study.Watch.TakeOwn(r.Context(), r.Niche)
	} else {
		_, err = r.Study.Watch.DropOwn(r.Context(), r.Niche)
	}
	if err != nil {
		return err
	}
	return r.To(r.Path("watch/right#own"))
}

func useCurve(r *frame.Request) error {
	if _, err := r.Study.Watch.UseCurve(r.Context(), r.Niche, r.FormValue("use") == "yes"); err != nil {
		return err
	}
	return r.To(r.Path("watch/right#clicks"))
}
