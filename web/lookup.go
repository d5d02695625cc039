package web

import (
	"fmt"
	"net/url"
	"strconv"

	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// dig makes the idea a seed and gathers from it.
func (s *server) dig(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "idea")
	if err != nil {
		return err
	}
	row, err := s.study.Story(c.Context(), n.ID, id)
	if err != nil {
		return err
	}
	job, err := s.study.Gather(c.Context(), n, study.DigPlan(row.Idea))
	if err != nil {
		return err
	}
	return s.showJob(c, n, job.ID)
}

// formIDs reads the chosen ideas of a form: those ticked, or all that the sieve
// leaves.
func (s *server) formIDs(c fiber.Ctx, n store.Niche) (ids []uint, all bool, err error) {
	form, err := url.ParseQuery(string(c.Body()))
	if err != nil {
		return nil, false, &study.InputError{Field: "ideas", Reason: "The form cannot be read."}
	}
	if form.Get("all") == "" {
		for _, text := range form["id"] {
			id, err := strconv.ParseUint(text, 10, 32)
			if err != nil {
				return nil, false, &study.InputError{Field: "ideas", Reason: fmt.Sprintf("“%.20s” is no idea.", text)}
			}
			ids = append(ids, uint(id))
		}
		return ids, false, nil
	}
	base, ok := stageSifts[form.Get("stage")]
	if !ok {
		base = stageSifts["sift"]
	}
	f, _ := readSift(form, base)
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return nil, true, err
	}
	for _, r := range b.Pass(f).Rows(0, -1) {
		ids = append(ids, r.ID)
	}
	return ids, true, nil
}

func (s *server) estimateLookup(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	ids, all, err := s.formIDs(c, n)
	if err != nil {
		return err
	}
	if len(ids) == 0 {
		return c.Render("lookup-estimate", estimateView{Niche: n, Error: "Tick ideas in the list, or take all that are left."})
	}
	e, err := s.study.EstimateJudge(c.Context(), n, ids)
	if err != nil {
		return err
	}
	return c.Render("lookup-estimate", estimateView{Niche: n, Estimate: e, Cost: s.study.Cost(e), Ideas: len(ids), All: all})
}

func (s *server) startLookup(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	ids, _, err := s.formIDs(c, n)
	if err != nil {
		return err
	}
	job, err := s.study.Judge(c.Context(), n, ids, c.FormValue("again") == "yes")
	if err != nil {
		return err
	}
	return s.showJob(c, n, job.ID)
}
