package frame

import (
	"errors"

	"cleverniche/market"
	"cleverniche/study/input"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/requestid"
)

// Ready answers whether the application can do its work: the data file is there, and sound as far
// as was looked.
func (s *Server) Ready(c fiber.Ctx) error {
	if err := s.Study.Ready(c.Context()); err != nil {
		return c.Status(fiber.StatusServiceUnavailable).SendString(err.Error() + "\n")
	}
	return c.SendString("ok\n")
}

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
		Next: ""}
	var invalid *input.Error
	var fe *fiber.Error
	var ask *market.Error
	trouble := input.TroubleOf(err)
	switch {
	case trouble != nil:
		f.Status, f.What, f.Next = fiber.StatusInsufficientStorage, Capital(trouble.Says)+".", Capital(trouble.Do)+"."
		s.Log.Error("the data file", "error", trouble.Err, "id", requestid.FromContext(c))
	case errors.Is(err, input.ErrNotFound):
		f.Status, f.What = fiber.StatusNotFound, "Page not found."
		f.Next = "The link may belong to another data file. Go to your niches."
	case errors.As(err, &invalid):
		f.Status, f.What, f.Next = fiber.StatusUnprocessableEntity, invalid.Reason, "Nothing was changed."
	case errors.As(err, &ask):
		f.Status, f.What, f.Next = fiber.StatusBadGateway, ask.Error()+".", "Nothing was lost. Try again later."
	case errors.As(err, &fe):
		f.Status, f.What, f.Next = fe.Code, fe.Message+".", "Go back and try again."
		if fe.Code == fiber.StatusNotFound {
			f.What, f.Next = "Page not found.", "Go to your niches."
		}
		switch fe.Code {
		case fiber.StatusRequestEntityTooLarge:
			f.What, f.Next = "The file is too large.", "Split it into several lists. Nothing was changed."
		case fiber.StatusRequestHeaderFieldsTooLarge:
			f.What, f.Next = "The address is too long.", "Go back and use fewer words. Nothing was changed."
		}
	default:
		id := requestid.FromContext(c)
		f.Next = "Nothing was lost. Go back and try again. Details: log entry " + id + "."
		s.Log.Error("request failed", "id", id, "method", c.Method(), "path", c.Path(), "error", err)
	}
	return s.showFailure(c, f)
}

// Refuse answers a request whose token is missing or stale.
func (s *Server) Refuse(c fiber.Ctx, err error) error {
	if input.TroubleOf(err) != nil {
		return s.Fail(c, err)
	}
	s.Log.Warn("request refused", "id", requestid.FromContext(c), "path", c.Path(), "error", err)
	return s.showFailure(c, failure{Status: fiber.StatusForbidden, What: "This page is out of date.",
		Next: "Reload it and try again. Nothing was changed."})
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
