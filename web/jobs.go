package web

import (
	"fmt"

	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

func (s *server) job(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "job")
	if err != nil {
		return err
	}
	return s.showJob(c, n, id)
}

// showJob renders a job's panel, and tells the page when ideas changed.
func (s *server) showJob(c fiber.Ctx, n store.Niche, id uint) error {
	j, err := s.study.Job(c.Context(), n.ID, id)
	if err != nil {
		return err
	}
	if seen := c.Query("seen"); seen != fmt.Sprint(j.Done) || j.State != store.Running {
		c.Set("HX-Trigger", "ideas-changed")
	}
	return c.Render("job", j)
}

func (s *server) steerJob(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "job")
	if err != nil {
		return err
	}
	switch c.Params("action") {
	case "pause":
		err = s.study.PauseJob(c.Context(), n.ID, id)
	case "cancel":
		err = s.study.CancelJob(c.Context(), n.ID, id)
	case "go-on":
		err = s.study.GoOn(c.Context(), n.ID, id)
	default:
		err = study.ErrNotFound
	}
	if err != nil {
		return err
	}
	return s.showJob(c, n, id)
}
