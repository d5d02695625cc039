// Package start is the first evening: it asks what one has, and sets that up step by step.
package start

import (
	"slices"
	"strings"

	"cleverniche/study/ask"
	"cleverniche/study/niches"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is its page.
var Screen = frame.Screen{Routes: func(s *frame.Server, _, root fiber.Router) {
	root.Get("/start", func(c fiber.Ctx) error { return show(s, c) })
	root.Post("/start", func(c fiber.Ctx) error { return choose(c) })
}}

// cookie holds what somebody said to have, and what was put off: keys between commas.
const cookie = "start"

// later marks a step that was put off.
const later = "-"

// choice is something that one may have.
type choice struct {
	Key, Name, Says string
	Has             bool
}

var choices = []choice{
	{Key: "nothing", Name: "Nothing yet", Says: "You type phrases, and paste results from your own searches."},
	{Key: "list", Name: "A list of phrases", Says: "From any tool or report, with or without figures."},
	{Key: "service", Name: "A service", Says: "For searches, results or links, with a key of yours."},
	{Key: "graph", Name: "A web graph", Says: "An openly licensed one, as a file. It says how strong sites are."},
}

// step is one thing to set up.
type step struct {
	Key, Title string
	Done       bool
	Now        bool // it is the first that is not done
	Later      bool // it was put off
}

// page is the screen.
type page struct {
	frame.Page
	Choices []choice
	Steps   []step
	Folder  string // where files that describe services belong
	Asked   []*ask.Source
	Started niches.Niche // the one that was made last
}

// said are the keys of the cookie.
func said(c fiber.Ctx) (out []string) {
	for _, key := range strings.Split(c.Cookies(cookie), ",") {
		known := func(one choice) bool { return one.Key == strings.TrimPrefix(key, later) }
		if slices.ContainsFunc(choices, known) {
			out = append(out, key)
		}
	}
	return out
}

func choose(c fiber.Ctx) error {
	var keys []string
	if off := c.FormValue("later"); off != "" {
		keys = append(said(c), later+off)
	} else {
		for _, one := range choices {
			if c.FormValue(one.Key) == "yes" {
				keys = append(keys, one.Key)
			}
		}
	}
	c.Cookie(&fiber.Cookie{Name: cookie, Value: strings.Join(keys, ","), HTTPOnly: true, SameSite: "Strict", Path: "/"})
	return c.Redirect().Status(fiber.StatusSeeOther).To("/start")
}

// Begun reports whether somebody said what he has, and does not have all of it set up.
func Begun(s *frame.Server, c fiber.Ctx) (bool, error) {
	if len(said(c)) == 0 {
		return false, nil
	}
	steps, _, err := stepsOf(s, c)
	return slices.ContainsFunc(steps, func(st step) bool { return st.Now }), err
}

// Bare reports whether nothing is set up at all: no niche, and nobody to ask.
func Bare(s *frame.Server, all []niches.Niche) bool { return len(all) == 0 && !asks(s) }

// asks reports whether there is somebody to ask.
func asks(s *frame.Server) bool {
	return slices.ContainsFunc([]ask.Question{ask.Suggestions, ask.Demand, ask.Results, ask.Links}, s.Study.Ask.Has)
}

// stepsOf are the steps to what somebody said to have.
func stepsOf(s *frame.Server, c fiber.Ctx) (out []step, n niches.Niche, err error) {
	keys := said(c)
	if len(keys) == 0 {
		return nil, n, nil
	}
	all, err := s.Study.Niches.All(c.Context())
	if err != nil {
		return nil, n, err
	}
	ideas := 0
	if len(all) > 0 {
		n = all[0]
		b, err := s.Study.Ideas.Table(c.Context(), n)
		if err != nil {
			return nil, n, err
		}
		ideas = b.Len()
	}
	out = []step{{Key: "niche", Title: "Make a niche", Done: len(all) > 0}}
	for _, one := range []step{
		{Key: "nothing", Title: "Type phrases, or paste results", Done: ideas > 0},
		{Key: "list", Title: "Import your list", Done: ideas > 0},
		{Key: "service", Title: "Describe your service", Done: asks(s)},
		{Key: "graph", Title: "Import a web graph", Done: s.Study.Ask.HasStandings()},
	} {
		if slices.Contains(keys, one.Key) {
			one.Later = slices.Contains(keys, later+one.Key)
			out = append(out, one)
		}
	}
	if i := slices.IndexFunc(out, func(st step) bool { return !st.Done && !st.Later }); i >= 0 {
		out[i].Now = true
	}
	return out, n, nil
}

func show(s *frame.Server, c fiber.Ctx) (err error) {
	p := page{Folder: s.SourceFiles}
	if p.Page, err = s.Bare(c, "Start"); err != nil {
		return err
	}
	if p.Steps, p.Started, err = stepsOf(s, c); err != nil {
		return err
	}
	keys := said(c)
	for _, one := range choices {
		one.Has = slices.Contains(keys, one.Key)
		p.Choices = append(p.Choices, one)
	}
	return c.Render("start/start", p)
}

// Over reports whether all steps are done or put off.
func (p page) Over() bool {
	return len(p.Steps) > 0 && !slices.ContainsFunc(p.Steps, func(st step) bool { return st.Now })
}
