package web

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"cleverniche/study/input"
	"cleverniche/study/people"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// gate lets in who is signed in and may do what is asked for, and keeps a record of what is changed or taken away.
func gate(s *frame.Server) fiber.Handler {
	return func(c fiber.Ctx) error {
		what, open := rightOf(c.Method(), c.Path())
		p, in, err := s.Study.People.Of(c.Context(), c.Cookies(s.SessionCookie()))
		if err != nil {
			return err
		}
		if in {
			frame.SetPerson(c, p)
		}
		switch {
		case open:
			return c.Next()
		case !in:
			return toSignIn(c)
		case !p.Role.May(what):
			return fiber.NewError(fiber.StatusForbidden, "Your role does not allow that: you are "+string(p.Role))
		}
		if err := c.Next(); err != nil || !recorded(c) {
			return err
		}
		return s.Study.People.Note(c.Context(), people.Deed{NicheID: nicheIn(c), Act: c.Method() + " " + c.Route().Path,
			What: strings.TrimSpace(c.Path() + " " + sent(c)), Address: s.AddressOf(c)})
	}
}

// toSignIn leads somebody who is not signed in to where that is done, and back again.
func toSignIn(c fiber.Ctx) error {
	to := "/sign-in"
	if asks := c.Method() == fiber.MethodGet; asks && c.Path() != "/" {
		to += "?to=" + url.QueryEscape(c.OriginalURL())
	} else if !asks {
		c.RequestCtx().SetConnectionClose() // what it brings is not read
	}
	if c.Get("HX-Request") == "true" {
		c.Set("HX-Redirect", "/sign-in")
		return c.SendStatus(fiber.StatusUnauthorized)
	}
	if c.Method() != fiber.MethodGet {
		return fiber.NewError(fiber.StatusUnauthorized, "You are not signed in, or your session is over")
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

// recorded reports whether what was done is kept in the record: what changes something, and what takes all of a niche
// away. What is tried or asked again and again is not.
func recorded(c fiber.Ctx) bool {
	path := c.Path()
	switch {
	case c.Response().StatusCode() >= fiber.StatusBadRequest:
		return false
	case c.Method() == fiber.MethodGet:
		return strings.HasSuffix(path, "/whole.zip") || strings.Contains(path, "/export.")
	case c.Method() == fiber.MethodHead:
		return false
	}
	return path != "/here" && !strings.HasSuffix(path, "/estimate") && !strings.HasSuffix(path, "/preview")
}

// mostSent is how much is kept of what a form sent.
const mostSent = 300

// hidden are fields whose values are nobody's to keep.
var hidden = []string{"csrf", "password", "again", "old", "was"}

// sent is what a form sent, as name=value, without secrets.
func sent(c fiber.Ctx) string {
	var parts []string
	for name, value := range c.Request().PostArgs().All() {
		if text := strings.TrimSpace(string(value)); text != "" && !slices.Contains(hidden, string(name)) {
			parts = append(parts, string(name)+"="+text)
		}
	}
	return input.Clip(strings.Join(parts, " "), mostSent)
}

// nicheIn is the niche in an address; 0 none.
func nicheIn(c fiber.Ctx) uint {
	id, err := strconv.ParseUint(c.Params("niche"), 10, 32)
	if err != nil {
		return 0
	}
	return uint(id)
}
