package people

import (
	"encoding/json"
	"errors"
	"net"
	"strconv"

	"cleverniche/study/input"
	"cleverniche/study/people"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// passkeyRoutes are what scripts ask for while a passkey is made or shown.
func passkeyRoutes(s *frame.Server, root fiber.Router) {
	root.Post("/sign-in/passkey/ask", func(c fiber.Ctx) error {
		host, origin := partyOf(c)
		asking, err := s.Study.People.AskPasskey(c.Context(), host, origin, s.AddressOf(c))
		return told(c, asking, err)
	})
	root.Post("/sign-in/passkey", func(c fiber.Ctx) error { return byPasskey(s, c) })
	root.Post("/you/passkeys/ask", func(c fiber.Ctx) error {
		host, origin := partyOf(c)
		asking, err := s.Study.People.MakePasskey(c.Context(), *frame.PersonOf(c), host, origin)
		return told(c, asking, err)
	})
	root.Post("/you/passkeys", func(c fiber.Ctx) error { return addPasskey(s, c) })
	root.Post("/you/passkeys/remove", func(c fiber.Ctx) error {
		id, err := strconv.ParseUint(c.FormValue("passkey"), 10, 32)
		if err != nil {
			return input.ErrNotFound
		}
		if err := s.Study.People.RemovePasskey(c.Context(), *frame.PersonOf(c), uint(id)); err != nil {
			return err
		}
		return c.Redirect().Status(fiber.StatusSeeOther).To("/you")
	})
}

// partyOf is the name and the origin that the browser reaches us by.
func partyOf(c fiber.Ctx) (host, origin string) {
	host = c.Hostname()
	if h, _, err := net.SplitHostPort(c.Host()); err == nil {
		host = h
	}
	return host, c.Scheme() + "://" + c.Host()
}

// told sends an answer to a script, or what is wrong, in words.
func told(c fiber.Ctx, answer any, err error) error {
	var wrong *input.Error
	if errors.As(err, &wrong) {
		return c.Status(fiber.StatusUnprocessableEntity).JSON(map[string]string{"wrong": wrong.Reason})
	}
	if err != nil {
		return err
	}
	return c.JSON(answer)
}

// shown is what a script sends of a passkey.
type shown struct {
	Secret     string          `json:"secret"`
	Name       string          `json:"name"`
	Credential json.RawMessage `json:"credential"`
	To         string          `json:"to"`
}

func shownIn(c fiber.Ctx) (out shown, err error) {
	if json.Unmarshal(c.Body(), &out) != nil {
		return out, input.Bad("passkey", "Your browser sent something that is no passkey.")
	}
	return out, nil
}

func addPasskey(s *frame.Server, c fiber.Ctx) error {
	is, err := shownIn(c)
	if err == nil {
		host, origin := partyOf(c)
		err = s.Study.People.AddPasskey(c.Context(), *frame.PersonOf(c), host, origin, is.Secret, is.Name, is.Credential)
	}
	return told(c, map[string]string{"to": "/you"}, err)
}

func byPasskey(s *frame.Server, c fiber.Ctx) error {
	is, err := shownIn(c)
	if err != nil {
		return told(c, nil, err)
	}
	host, origin := partyOf(c)
	secret, p, err := s.Study.People.SignInByPasskey(c.Context(), host, origin, is.Secret, is.Credential, s.AddressOf(c),
		c.Get("User-Agent"))
	if err != nil {
		if errors.As(err, new(*input.Error)) {
			note := people.Deed{Person: "nobody", Act: "sign-in failed", What: "by passkey", Address: s.AddressOf(c)}
			if err := s.Study.People.Note(c.Context(), note); err != nil {
				return err
			}
		}
		return told(c, nil, err)
	}
	setSession(s, c, secret, 0)
	frame.SetPerson(c, p)
	if err := s.Study.People.Note(c.Context(), people.Deed{Act: "signed in", What: "by passkey",
		Address: s.AddressOf(c)}); err != nil {
		return err
	}
	return c.JSON(map[string]string{"to": within(is.To)})
}
