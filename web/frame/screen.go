// Package frame is what all screens share: the page around them, the trail, the way a
// request is read and an error told, rows and figures as lists show them, and the
// static files. A screen is a package beside it with its routes, its stages on the
// trail, its views, templates, styles and scripts.
package frame

import (
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/people"
	"cleverniche/study/topics"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/csrf"
)

// Screen is one place of the application.
type Screen struct {
	Stages []Stage
	// Routes adds its addresses: those about a niche, below /niches/:niche, and others.
	Routes func(s *Server, niche, root fiber.Router)
}

// Stage is a screen's entry on the trail. Its path is what stands behind the niche's in
// the address.
type Stage struct {
	Place          int // on the trail, from 1
	Path, Name     string
	Question       string
	Count          func(c ideas.Counts, sp Speaker) string // what stands under it
	Later          string                                  // why it cannot be opened yet
	First          sieve.Sieve                             // that it begins with; of those that list ideas
	CountsItsSieve bool                                    // what its own sieve leaves stands under it
	Topics         bool                                    // it lists topics, each as its lead
}

// Server is what the screens' handlers have in common.
type Server struct {
	Study   *study.Study
	Log     *slog.Logger
	Assets  *Assets
	Reached []string // endings of host names that only the application reaches, such as “.example”
	// SourceFiles is the folder of files that describe services.
	SourceFiles string
	// SignIn says that people sign in; Secure that the browser reaches us by a secure connection.
	SignIn, Secure bool
	Proxied        bool // a proxy before us tells who asks
	stages         []Stage
	screens        []Screen
}

// SessionCookie is the name of the cookie that a session's secret is in. Behind a secure connection it is bound to this
// very host (RFC 6265bis, the __Host- prefix).
func (s *Server) SessionCookie() string { return s.cookie("cn_session") }

// CSRFCookie is the name of the cookie that a page's token is in.
func (s *Server) CSRFCookie() string { return s.cookie("cn_csrf") }

// cookie is a cookie's name.
func (s *Server) cookie(name string) string {
	if s.Secure {
		return "__Host-" + name
	}
	return name
}

// NewServer returns a server of screens.
func NewServer(st *study.Study, log *slog.Logger, assets *Assets, screens ...Screen) *Server {
	s := &Server{Study: st, Log: log, Assets: assets, screens: screens}
	for _, screen := range screens {
		s.stages = append(s.stages, screen.Stages...)
	}
	slices.SortFunc(s.stages, func(a, b Stage) int { return a.Place - b.Place })
	return s
}

// Routes adds all screens' addresses.
func (s *Server) Routes(app *fiber.App) {
	niche := app.Group("/niches/:niche")
	for _, screen := range s.screens {
		screen.Routes(s, niche, app)
	}
}

// Stage returns the stage of a path, or ErrNotFound.
func (s *Server) Stage(path string) (Stage, error) {
	for _, stage := range s.stages {
		if stage.Path == path && stage.Later == "" {
			return stage, nil
		}
	}
	return Stage{}, input.ErrNotFound
}

// Request is one request about a niche. What several parts of a page need is read once.
type Request struct {
	fiber.Ctx
	*Server
	Niche  niches.Niche
	table  *ideas.Table
	topics *topics.Topics
	listed []*sieve.Figure // that its list shows; nil those of the niche
}

// Topics returns the niche's topics, as they are when they are first asked for.
func (r *Request) Topics() (*topics.Topics, error) {
	if r.topics == nil {
		t, err := r.Study.Topics.Of(r.Context(), r.Niche)
		if err != nil {
			return nil, err
		}
		r.topics = t
	}
	return r.topics, nil
}

// List lets lists show these figures.
func (r *Request) List(figures []*sieve.Figure) { r.listed = figures }

// Listing reports whether lists show other figures than the niche's: topics.
func (r *Request) Listing() bool { return r.listed != nil }

// Listed are the figures that lists show.
func (r *Request) Listed() []*sieve.Figure {
	if r.listed != nil {
		return r.listed
	}
	return r.Niche.Figures()
}

// Now is the time by the study's clock.
func (r *Request) Now() time.Time { return r.Study.Now() }

// Table returns the niche's ideas, as they are when they are first asked for.
func (r *Request) Table() (ideas.Table, error) {
	if r.table == nil {
		b, err := r.Study.Ideas.Table(r.Context(), r.Niche)
		if err != nil {
			return b, err
		}
		r.table = &b
	}
	return *r.table, nil
}

// ID reads a number in the address.
func (r *Request) ID(name string) (uint, error) { return idIn(r.Params(name)) }

// IDOf reads a number that a form brought.
func IDOf(text string) (uint, error) {
	id, err := idIn(text)
	if err != nil {
		err = &input.Error{Field: "ideas", Reason: fmt.Sprintf("“%.20s” is no idea.", text)}
	}
	return id, err
}

func idIn(text string) (uint, error) {
	id, err := strconv.ParseUint(text, 10, 32)
	if err != nil || id == 0 {
		return 0, input.ErrNotFound
	}
	return uint(id), nil
}

// Partial reports whether htmx asks for a part of a page.
func (r *Request) Partial() bool { return isPartial(r.Ctx) }

// Path is an address below the niche's.
func (r *Request) Path(rest string) string { return PathOf(r.Niche, rest) }

// PathOf is an address below a niche's.
func PathOf(n niches.Niche, rest string) string { return addressIn(n.ID, rest) }

// Token is what a form has to send back.
func (r *Request) Token() string { return csrf.TokenFromContext(r.Ctx) }

// Posted are all values of a field of the form that was sent.
func (r *Request) Posted(name string) (out []string) {
	for _, value := range r.Request().PostArgs().PeekMulti(name) {
		out = append(out, string(value))
	}
	return out
}

// To leads on to an address, after something was changed.
func (r *Request) To(address string) error {
	return r.Redirect().Status(fiber.StatusSeeOther).To(address)
}

// In makes a handler of what is done in a niche: it reads the niche in the address.
func (s *Server) In(do func(r *Request) error) fiber.Handler {
	return func(c fiber.Ctx) error {
		id, err := idIn(c.Params("niche"))
		if err != nil {
			return err
		}
		n, err := s.Study.Niches.Get(c.Context(), id)
		if err != nil {
			return err
		}
		return do(&Request{Ctx: c, Server: s, Niche: n})
	}
}

// Form makes a handler of a form in a niche. What cannot be used is shown again, with
// what was typed, and status 422.
func (s *Server) Form(do func(r *Request) error, again func(r *Request, wrong *input.Error) error) fiber.Handler {
	return s.In(func(r *Request) error {
		return Again(r.Ctx, do(r), func(wrong *input.Error) error { return again(r, wrong) })
	})
}

// Again shows a form again when an error says that what was typed cannot be used.
func Again(c fiber.Ctx, err error, again func(wrong *input.Error) error) error {
	var wrong *input.Error
	if !errors.As(err, &wrong) {
		return err
	}
	c.Status(fiber.StatusUnprocessableEntity)
	return again(wrong)
}

// Page is what every whole page shows.
type Page struct {
	Title    string
	Stage    string
	Niche    niches.Niche
	Niches   []niches.Niche
	Trail    []Step
	Standing string
	CSRF     string
	Notice   string
	Person   *people.Person // who is signed in; nil where nobody signs in
	Outside  bool           // somebody who is not signed in sees it
}

// OnlyReads reports whether who is signed in may change nothing here.
func (p Page) OnlyReads() bool { return p.Person != nil && !p.Person.Role.May(people.ToWork) }

// Writes reports whether who is signed in sees briefs alone.
func (p Page) Writes() bool { return p.Person != nil && !p.Person.Role.May(people.ToSee) }

// Step is a stage of the trail as it is drawn.
type Step struct {
	Name, Href, Count, Question string
	Here, Later                 bool
}

// Bare is a page about no niche.
func (s *Server) Bare(c fiber.Ctx, title string) (p Page, err error) {
	p = Page{Title: title, CSRF: csrf.TokenFromContext(c), Person: PersonOf(c)}
	if t := s.Study.Damage(); t != nil {
		p.Notice = Capital(t.Error()) + "."
	}
	p.Niches, err = s.Study.Niches.All(c.Context())
	return p, err
}

// Page fills in what every page of a niche shows. left is what the sieve leaves, or
// negative to count what is not dropped.
func (r *Request) Page(title, stage string, left int) (Page, error) {
	p, err := r.Bare(r.Ctx, title)
	if err != nil {
		return p, err
	}
	p.Stage, p.Niche = stage, r.Niche
	if p.Trail, err = r.Trail(stage, left); err != nil {
		return p, err
	}
	if standing, known := r.Study.Ask.KnownStanding(r.Context(), r.Niche.OwnSite); known && r.Niche.OwnSite != "" {
		p.Standing = fmt.Sprintf("standing %.0f", standing)
	}
	if len(p.Niches) > 0 && p.Niches[0].ID != r.Niche.ID && !r.Niche.Archived {
		err = r.Study.Niches.Opened(r.Context(), r.Niche.ID)
	}
	return p, err
}

// Trail counts what each stage holds.
func (r *Request) Trail(here string, left int) ([]Step, error) {
	b, err := r.Table()
	if err != nil {
		return nil, err
	}
	seeds, err := r.Study.Niches.Seeds(r.Context(), r.Niche.ID)
	if err != nil {
		return nil, err
	}
	if left < 0 {
		left = b.Table.Count(sieve.NotDropped())
	}
	counts := b.Count(left)
	counts.Seeds = len(seeds)
	if counts.Topics, counts.Sheet, counts.Out, err = r.Study.Topics.Counts(r.Context(), r.Niche, b); err != nil {
		return nil, err
	}
	var out []Step
	for _, stage := range r.stages {
		step := Step{Name: stage.Name, Question: stage.Question, Here: stage.Path == here, Count: stage.Later,
			Later: stage.Later != ""}
		if !step.Later {
			step.Href, step.Count = r.Path(stage.Path), stage.Count(counts, r.Speak())
		}
		out = append(out, step)
	}
	return out, nil
}
