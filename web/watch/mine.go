package watch

import (
	"cleverniche/study/input"
	"cleverniche/study/watch"
	"cleverniche/web/frame"
)

// minePage is my pages and what is wrong with them.
type minePage struct {
	head
	Mine   watch.MyPages
	Faults []watch.Fault
	Rest   int // faults that are not shown
}

func showMine(r *frame.Request, wrong *input.Error) (err error) {
	var v minePage
	if v.head, err = headOf(r, "watch/mine", wrong); err != nil {
		return err
	}
	list, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	ranking, _, err := r.Study.Articles.Actions(r.Context(), r.Niche, 0)
	if err != nil {
		return err
	}
	if v.Mine, err = r.Study.Watch.Mine(r.Context(), r.Niche, list, ranking); err != nil {
		return err
	}
	v.Faults = v.Mine.Faults[:min(mostFaults, len(v.Mine.Faults))]
	v.Rest = len(v.Mine.Faults) - len(v.Faults)
	return r.Render("watch/mine", v)
}

// mostFaults is how many the page shows.
const mostFaults = 20

func mend(r *frame.Request) error {
	if err := r.Study.Watch.Mend(r.Context(), r.Niche, r.FormValue("url"), r.FormValue("fault"),
		r.FormValue("state")); err != nil {
		return err
	}
	return r.To(r.Path("watch/mine"))
}

func readMine(r *frame.Request) error {
	if _, err := r.Study.Watch.ReadMine(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("watch/mine"))
}
