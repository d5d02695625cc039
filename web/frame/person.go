package frame

import (
	"strings"

	"cleverniche/study/people"

	"github.com/gofiber/fiber/v3"
)

type personKey struct{}

// SetPerson says who a request is of.
func SetPerson(c fiber.Ctx, p people.Person) {
	c.Locals(personKey{}, p)
	c.SetContext(people.As(c.Context(), p))
}

// PersonOf is who a request is of; nil where nobody signs in.
func PersonOf(c fiber.Ctx) *people.Person {
	if p, is := c.Locals(personKey{}).(people.Person); is {
		return &p
	}
	return nil
}

// AddressOf is from where somebody asks: behind a proxy that is trusted what it says, which is the last of the
// addresses, since whoever asks may have written the others.
func (s *Server) AddressOf(c fiber.Ctx) string {
	if said := c.Get(fiber.HeaderXForwardedFor); s.Proxied && said != "" && c.IsProxyTrusted() {
		return strings.TrimSpace(said[strings.LastIndexByte(said, ',')+1:])
	}
	return c.IP()
}
