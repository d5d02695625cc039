// Package people is signing in, who may, what each may do, and the record of what was done.
package people

import (
	"bufio"
	"encoding/csv"
	"errors"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"cleverniche/study/input"
	"cleverniche/study/people"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is these pages. Where nobody signs in there are none.
var Screen = frame.Screen{Routes: func(s *frame.Server, _, root fiber.Router) {
	if !s.SignIn {
		return
	}
	root.Get("/sign-in", func(c fiber.Ctx) error { return showSignIn(s, c, "", "") })
	root.Post("/sign-in", func(c fiber.Ctx) error { return signIn(s, c) })
	root.Post("/sign-out", func(c fiber.Ctx) error { return signOut(s, c) })
	root.Get("/join/:secret", func(c fiber.Ctx) error { return showJoin(s, c, "") })
	root.Post("/join/:secret", func(c fiber.Ctx) error { return join(s, c) })
	root.Get("/you", func(c fiber.Ctx) error { return showYou(s, c, nil, false) })
	root.Post("/you/password", func(c fiber.Ctx) error { return changePassword(s, c) })
	root.Post("/you/end", func(c fiber.Ctx) error { return endSession(s, c) })
	passkeyRoutes(s, root)
	root.Get("/people", func(c fiber.Ctx) error { return showPeople(s, c, nil, "") })
	root.Post("/people", func(c fiber.Ctx) error { return invite(s, c) })
	root.Post("/people/withdraw", func(c fiber.Ctx) error { return withdraw(s, c) })
	root.Post("/people/:member", func(c fiber.Ctx) error { return change(s, c) })
	root.Post("/people/:member/link", func(c fiber.Ctx) error { return renew(s, c) })
	root.Post("/people/:member/remove", func(c fiber.Ctx) error { return remove(s, c) })
	root.Get("/audit", func(c fiber.Ctx) error { return showRecord(s, c) })
	root.Get("/audit.csv", func(c fiber.Ctx) error { return exportRecord(s, c) })
	root.Get("/here", func(c fiber.Ctx) error { return here(s, c) })
}}

type signInPage struct {
	frame.Page
	Name, Wrong, To string
}

// within is an address of ours to go on to; "/" where it is another's.
func within(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") ||
		strings.Contains(to, `\`) {
		return "/"
	}
	return to
}

func showSignIn(s *frame.Server, c fiber.Ctx, name, wrong string) error {
	if frame.PersonOf(c) != nil && wrong == "" {
		return c.Redirect().To("/")
	}
	p, err := s.Bare(c, "Sign in")
	if err != nil {
		return err
	}
	p.Niches, p.Outside = nil, true // who is not signed in does not see their names
	to := c.FormValue("to")
	if to == "" {
		to = c.Query("to")
	}
	return c.Render("people/signin", signInPage{p, name, wrong, within(to)})
}

func signIn(s *frame.Server, c fiber.Ctx) error {
	name := c.FormValue("name")
	secret, p, err := s.Study.People.SignIn(c.Context(), name, c.FormValue("password"), s.AddressOf(c),
		c.Get("User-Agent"))
	var wrong *input.Error
	if errors.As(err, &wrong) {
		s.Log.Warn("sign-in failed", "address", s.AddressOf(c))
		status := fiber.StatusUnprocessableEntity
		if errors.Is(err, people.ErrTooOften) {
			status = fiber.StatusTooManyRequests
			c.Set(fiber.HeaderRetryAfter, "900")
		}
		if err := s.Study.People.Note(c.Context(), people.Deed{Person: "nobody", Act: "sign-in failed",
			What: input.Clip(name, people.MostName), Address: s.AddressOf(c)}); err != nil {
			return err
		}
		c.Status(status)
		return showSignIn(s, c, name, wrong.Reason)
	}
	if err != nil {
		return err
	}
	return begin(s, c, secret, p, within(c.FormValue("to")))
}

// begin gives the browser a session, and leads on.
func begin(s *frame.Server, c fiber.Ctx, secret string, p people.Person, to string) error {
	setSession(s, c, secret, 0)
	frame.SetPerson(c, p)
	if err := s.Study.People.Note(c.Context(), people.Deed{Act: "signed in", Address: s.AddressOf(c)}); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

func setSession(s *frame.Server, c fiber.Ctx, secret string, age int) {
	c.Cookie(&fiber.Cookie{Name: s.SessionCookie(), Value: secret, Path: "/", HTTPOnly: true, Secure: s.Secure,
		SameSite: fiber.CookieSameSiteLaxMode, MaxAge: age})
}

func signOut(s *frame.Server, c fiber.Ctx) error {
	p := frame.PersonOf(c)
	if err := s.Study.People.End(c.Context(), *p, p.Session); err != nil {
		return err
	}
	setSession(s, c, "", -1)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

type joinPage struct {
	frame.Page
	Invited people.Invited
	Wrong   string
	Least   int
}

func showJoin(s *frame.Server, c fiber.Ctx, wrong string) error {
	i, err := s.Study.People.Invitation(c.Context(), c.Params("secret"))
	if errors.Is(err, input.ErrNotFound) {
		return fiber.NewError(fiber.StatusGone, "This link is no longer good. Ask an owner for a new one")
	}
	if err != nil {
		return err
	}
	p, err := s.Bare(c, "Join")
	if err != nil {
		return err
	}
	p.Niches, p.Outside = nil, true
	return c.Render("people/join", joinPage{p, i, wrong, people.LeastPassword})
}

func join(s *frame.Server, c fiber.Ctx) error {
	password := c.FormValue("password")
	if password != c.FormValue("again") {
		c.Status(fiber.StatusUnprocessableEntity)
		return showJoin(s, c, "The two passwords differ.")
	}
	secret, p, err := s.Study.People.Accept(c.Context(), c.Params("secret"), password, s.AddressOf(c), c.Get("User-Agent"))
	var wrong *input.Error
	switch {
	case errors.As(err, &wrong):
		c.Status(fiber.StatusUnprocessableEntity)
		return showJoin(s, c, wrong.Reason)
	case errors.Is(err, input.ErrNotFound):
		return showJoin(s, c, "")
	case err != nil:
		return err
	}
	return begin(s, c, secret, p, "/")
}

type youPage struct {
	frame.Page
	Sessions []people.Session
	Passkeys []people.Passkey
	Wrong    string
	Field    string
	Changed  bool
	Least    int
}

func showYou(s *frame.Server, c fiber.Ctx, wrong *input.Error, changed bool) error {
	p, err := s.Bare(c, "You")
	if err != nil {
		return err
	}
	v := youPage{Page: p, Changed: changed, Least: people.LeastPassword}
	if wrong != nil {
		v.Wrong, v.Field = wrong.Reason, wrong.Field
	}
	if v.Sessions, err = s.Study.People.Sessions(c.Context(), *p.Person); err != nil {
		return err
	}
	if v.Passkeys, err = s.Study.People.Passkeys(c.Context(), *p.Person); err != nil {
		return err
	}
	return c.Render("people/you", v)
}

func changePassword(s *frame.Server, c fiber.Ctx) error {
	var err error = input.Bad("password", "The two passwords differ.")
	if c.FormValue("password") == c.FormValue("again") {
		err = s.Study.People.ChangePassword(c.Context(), *frame.PersonOf(c), c.FormValue("old"), c.FormValue("password"))
	}
	if err == nil {
		return showYou(s, c, nil, true)
	}
	return frame.Again(c, err, func(wrong *input.Error) error { return showYou(s, c, wrong, false) })
}

func endSession(s *frame.Server, c fiber.Ctx) error {
	id, err := strconv.ParseUint(c.FormValue("session"), 10, 32)
	if err != nil || id == 0 {
		return input.ErrNotFound
	}
	if err := s.Study.People.End(c.Context(), *frame.PersonOf(c), uint(id)); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/you")
}

type peoplePage struct {
	frame.Page
	People   []person
	Invited  []people.Invited
	Roles    any
	Currency string
	Link     string // that was just made
	For      string
	Wrong    string
	Field    string
	Typed    string
}

type person struct {
	people.Person
	Budget string
}

func showPeople(s *frame.Server, c fiber.Ctx, wrong *input.Error, link string) error {
	p, err := s.Bare(c, "People")
	if err != nil {
		return err
	}
	v := peoplePage{Page: p, Roles: people.Roles, Currency: s.Study.Ask.Currency(), Link: link}
	if wrong != nil {
		v.Wrong, v.Field, v.Typed = wrong.Reason, wrong.Field, c.FormValue(wrong.Field)
	}
	list, err := s.Study.People.List(c.Context())
	if err != nil {
		return err
	}
	for _, one := range list {
		x := person{Person: one}
		if one.Budget > 0 {
			x.Budget = strconv.FormatFloat(float64(one.Budget)/1e6, 'f', 2, 64)
		}
		v.People = append(v.People, x)
	}
	if v.Invited, err = s.Study.People.Invited(c.Context()); err != nil {
		return err
	}
	return c.Render("people/people", v)
}

// linkTo is the address of an invitation.
func linkTo(c fiber.Ctx, secret string) string {
	return fmt.Sprintf("%s://%s/join/%s", c.Scheme(), c.Host(), secret)
}

func again(s *frame.Server, c fiber.Ctx, err error) error {
	if err == nil {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/people")
	}
	return frame.Again(c, err, func(wrong *input.Error) error { return showPeople(s, c, wrong, "") })
}

func invite(s *frame.Server, c fiber.Ctx) error {
	secret, err := s.Study.People.Invite(c.Context(), c.FormValue("name"), people.Role(c.FormValue("role")),
		frame.PersonOf(c).Name)
	if err != nil {
		return again(s, c, err)
	}
	return showPeople(s, c, nil, linkTo(c, secret)) // it is shown this once
}

func renew(s *frame.Server, c fiber.Ctx) error {
	id, err := memberIn(c)
	if err != nil {
		return err
	}
	secret, err := s.Study.People.Renew(c.Context(), id, frame.PersonOf(c).Name)
	if err != nil {
		return again(s, c, err)
	}
	return showPeople(s, c, nil, linkTo(c, secret))
}

func withdraw(s *frame.Server, c fiber.Ctx) error {
	return again(s, c, s.Study.People.Withdraw(c.Context(), c.FormValue("name")))
}

func memberIn(c fiber.Ctx) (uint, error) {
	id, err := strconv.ParseUint(c.Params("member"), 10, 32)
	if err != nil {
		return 0, input.ErrNotFound
	}
	return uint(id), nil
}

func change(s *frame.Server, c fiber.Ctx) error {
	id, err := memberIn(c)
	if err != nil {
		return err
	}
	budget, err := s.Study.Ask.ReadMoney(c.FormValue("budget"))
	if err != nil {
		return again(s, c, err)
	}
	return again(s, c, s.Study.People.Change(c.Context(), id, people.Role(c.FormValue("role")), budget))
}

func remove(s *frame.Server, c fiber.Ctx) error {
	id, err := memberIn(c)
	if err != nil {
		return err
	}
	return again(s, c, s.Study.People.Remove(c.Context(), id))
}

// mostDeeds is how many lines of the record a page has.
const mostDeeds = 100

type recordPage struct {
	frame.Page
	Deeds  []deed
	Before uint // the next page begins before it; 0 there is none
}

type deed struct {
	people.Deed
	Says, Niche string
}

func showRecord(s *frame.Server, c fiber.Ctx) error {
	before, _ := strconv.ParseUint(c.Query("before"), 10, 32)
	list, err := s.Study.People.Deeds(c.Context(), uint(before), mostDeeds)
	if err != nil {
		return err
	}
	p, err := s.Bare(c, "Record")
	if err != nil {
		return err
	}
	v := recordPage{Page: p}
	names := map[uint]string{}
	for _, n := range p.Niches {
		names[n.ID] = n.Name
	}
	for _, d := range list {
		v.Deeds = append(v.Deeds, deed{d, sayOf(d.Act), names[d.NicheID]})
	}
	if len(list) == mostDeeds {
		v.Before = list[len(list)-1].ID
	}
	return c.Render("people/record", v)
}

// sayOf is an act as people read it: the parts of its address without what stands for others.
func sayOf(act string) string {
	method, path, is := strings.Cut(act, " /")
	if !is {
		return act
	}
	var words []string
	for _, part := range strings.Split(strings.TrimPrefix(path, "niches/:niche"), "/") {
		if part != "" && !strings.HasPrefix(part, ":") {
			words = append(words, strings.NewReplacer("-", " ", ".:format", "").Replace(part))
		}
	}
	if len(words) == 0 {
		words = []string{"niche"}
	}
	if method == fiber.MethodGet {
		return "took away: " + strings.Join(words, ", ")
	}
	return strings.Join(words, ", ")
}

func exportRecord(s *frame.Server, c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, "text/csv; charset=utf-8")
	c.Attachment("record.csv")
	ctx := c.Context()
	return c.SendStreamWriter(func(w *bufio.Writer) {
		out := csv.NewWriter(w)
		_ = out.Write([]string{"when", "who", "niche", "act", "what", "address"})
		err := s.Study.People.EachDeed(ctx, func(d people.Deed) error {
			return out.Write([]string{d.At.UTC().Format(time.RFC3339), safe(d.Person), fmt.Sprint(d.NicheID), safe(d.Act),
				safe(d.What), d.Address})
		})
		out.Flush()
		if err != nil || out.Error() != nil {
			s.Log.Error("sending the record", "error", errors.Join(err, out.Error()))
		}
	})
}

// safe is a text that no spreadsheet takes for a formula.
func safe(text string) string {
	if text != "" && strings.ContainsAny(text[:1], "=+-@\t\r") {
		return "'" + text
	}
	return text
}

// here says who else looks at a page, as somebody's browser asks from time to time.
func here(s *frame.Server, c fiber.Ctx) error {
	at := "/"
	if u, err := url.Parse(c.Get("HX-Current-URL")); err == nil {
		at = u.Path
	}
	others := s.Study.People.Here(input.Clip(at, 300), frame.PersonOf(c).Name)
	if len(others) == 0 {
		return c.SendString("")
	}
	return c.Render("people/here", others)
}
