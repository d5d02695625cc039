package frame

import (
	"errors"

	"cleverniche/market"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// failure is what a person is told when something went wrong.
type failure struct {
	Page
	Status int
	What   string
	Next   string
}

// Fail shows an error: as a page, or to htmx as a notice that leaves the page as
// it is.
func (s *Server) Fail(c fiber.Ctx, err error) error {
	f := failure{Status: fiber.StatusInternalServerError, What: "Something went wrong here.",
		Next: "What you had is kept. Go back and try again; the log has the details."}
	var input *study.InputError
	var fe *fiber.Error
	var ask *market.Error
	switch {
	case errors.Is(err, study.ErrNotFound):
		f.Status, f.What = fiber.StatusNotFound, "There is nothing at this address."
		f.Next = "It may have been another data file. Start from your niches."
	case errors.As(err, &input):
		f.Status, f.What, f.Next = fiber.StatusUnprocessableEntity, input.Reason, "Nothing was changed."
	case errors.As(err, &ask):
		f.Status, f.What, f.Next = fiber.StatusBadGateway, ask.Error()+".", "Nothing was lost; try again later."
	case errors.As(err, &fe):
		f.Status, f.What, f.Next = fe.Code, fe.Message+".", "Go back and try again."
		if fe.Code == fiber.StatusNotFound {
			f.What, f.Next = "There is nothing at this address.", "Start from your niches."
		}
		if fe.Code == fiber.StatusRequestEntityTooLarge {
			f.What, f.Next = "The file is too large.", "Divide it into several lists. Nothing was changed."
		}
	default:
		s.Log.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	}
	return s.showFailure(c, f)
}

// Refuse answers a request whose token is missing or stale.
func (s *Server) Refuse(c fiber.Ctx, err error) error {
	s.Log.Warn("request refused", "path", c.Path(), "error", err)
	return s.showFailure(c, failure{Status: fiber.StatusForbidden, What: "This page is too old to change anything.",
		Next: "Reload it and do that again. Nothing was changed."})
}

func (s *Server) showFailure(c fiber.Ctx, f failure) error {
	c.Status(f.Status)
	if isPartial(c) {
		c.Set("HX-Retarget", "#notice")
		c.Set("HX-Reswap", "innerHTML")
		return c.Render("frame/failure-notice", f)
	}
	f.Title = "Error"
	return c.Render("frame/failure", f)
}

func isPartial(c fiber.Ctx) bool { return c.Get("HX-Request") == "true" }
