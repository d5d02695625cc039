package gather

import (
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

func keptRoutes(s *frame.Server, niche fiber.Router) {
	wrong := func(r *frame.Request, wrong *input.Error) error { return show(r, page{Said: wrong.Reason}) }
	niche.Get("/gather/kept/:id", s.In(showNew))
	niche.Post("/gather/kept/:id/run", s.Form(rerun, wrong))
	niche.Post("/gather/kept/:id/weekly", s.Form(setWeekly, wrong))
	niche.Post("/gather/kept/:id/remove", s.Form(removeKept, wrong))
}

// kept is a kept gathering as it is listed.
type kept struct {
	gather.Kept
	New  string // what its last run brought; "" it never ran
	Cost string // of doing it again
}

func keptOf(r *frame.Request) (out []kept, err error) {
	list, err := r.Study.Gathering.Kept(r.Context(), r.Niche)
	if err != nil {
		return nil, err
	}
	sp := r.Speak()
	for _, k := range list {
		one := kept{Kept: k}
		e, err := r.Study.Gathering.Estimate(r.Context(), r.Niche, k.Plan)
		if err != nil {
			return nil, err
		}
		one.Cost = r.Study.Ask.Cost(e)
		if !k.RunAt.IsZero() {
			_, all, err := r.Study.Gathering.New(r.Context(), r.Niche, k)
			if err != nil {
				return nil, err
			}
			one.New = sp.Counted(all, "new idea", "new ideas")
		}
		out = append(out, one)
	}
	return out, nil
}

// newIdeas is the page of what a kept gathering brought last.
type newIdeas struct {
	frame.Page
	gather.Kept
	All  string
	Rows []frame.Row
}

func keptOne(r *frame.Request) (gather.Kept, error) {
	id, err := frame.IDOf(r.Params("id"))
	if err != nil {
		return gather.Kept{}, input.ErrNotFound
	}
	return r.Study.Gathering.KeptOne(r.Context(), r.Niche, id)
}

func showNew(r *frame.Request) error {
	k, err := keptOne(r)
	if err != nil {
		return err
	}
	ideas, all, err := r.Study.Gathering.New(r.Context(), r.Niche, k)
	if err != nil {
		return err
	}
	v := newIdeas{Kept: k, All: r.Speak().Counted(all, "new idea", "new ideas")}
	for _, i := range ideas {
		v.Rows = append(v.Rows, r.Speak().Row(i))
	}
	if v.Page, err = r.Page("New ideas", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/new", v)
}

func rerun(r *frame.Request) error {
	k, err := keptOne(r)
	if err == nil {
		_, err = r.Study.Gathering.Rerun(r.Context(), r.Niche, k)
	}
	if err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}

func setWeekly(r *frame.Request) error {
	k, err := keptOne(r)
	if err == nil {
		err = r.Study.Gathering.SetWeekly(r.Context(), r.Niche, k.ID, r.FormValue("weekly") != "")
	}
	if err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}

// removeKept takes one away, or brings it back.
func removeKept(r *frame.Request) error {
	k, err := keptOne(r)
	if err != nil {
		return err
	}
	away := r.FormValue("back") == ""
	if err := r.Study.Gathering.RemoveKept(r.Context(), r.Niche, k.ID, away); err != nil {
		return err
	}
	if !away {
		return r.To(r.Path("gather"))
	}
	return show(r, page{Said: "Removed “" + k.Name + "”.", Removed: k.ID})
}
