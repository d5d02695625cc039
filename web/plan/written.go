package plan

import (
	"time"

	"cleverniche/core/plan"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// toWrite is what writers see: the briefs of articles on the sheet, and what they may say of each.
type toWrite struct {
	frame.Page
	Lists []nicheBriefs
	Wrong string
}

type nicheBriefs struct {
	ID       uint
	Name     string
	Articles []articles.Article
}

// showBriefs lists the briefs of all niches.
func showBriefs(s *frame.Server, c fiber.Ctx, wrong *input.Error) error {
	p, err := s.Bare(c, "Briefs")
	if err != nil {
		return err
	}
	v := toWrite{Page: p}
	if wrong != nil {
		v.Wrong = wrong.Reason
	}
	for _, n := range p.Niches {
		sheet, err := s.Study.Articles.Plan(c.Context(), n)
		if err != nil {
			return err
		}
		one := nicheBriefs{ID: n.ID, Name: n.Name}
		for _, a := range sheet.Articles {
			if !a.Gone && a.State() != plan.Published {
				one.Articles = append(one.Articles, a)
			}
		}
		if len(one.Articles) > 0 {
			v.Lists = append(v.Lists, one)
		}
	}
	return c.Render("plan/written", v)
}

// written says that an article is being written, or is out under an address.
func written(s *frame.Server) fiber.Handler {
	return s.Form(func(r *frame.Request) error {
		id, err := frame.IDOf(r.FormValue("article"))
		if err != nil {
			return input.ErrNotFound
		}
		state := r.FormValue("state")
		change := articles.Change{State: &state}
		switch plan.State(state) {
		case plan.Writing:
		case plan.Published:
			address, day := r.FormValue("address"), r.Study.Now().Format(time.DateOnly)
			if address == "" {
				return input.Bad("address", "Type the address of the page.")
			}
			change.Address, change.Published = &address, &day
		default:
			return input.Bad("state", "That option is not available. Reload the page.")
		}
		if err := r.Study.Articles.Change(r.Context(), r.Niche, id, change); err != nil {
			return err
		}
		return r.To("/briefs")
	}, func(r *frame.Request, wrong *input.Error) error { return showBriefs(r.Server, r.Ctx, wrong) })
}
