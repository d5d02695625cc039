package watch

import (
	"fmt"

	core "cleverniche/core/watch"
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
	return r.Render("watch/right", v)
}
