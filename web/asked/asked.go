// Package asked shows who is asked what: the sources of each question, how they are, and what becomes of a question
// that is put to try one.
package asked

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is its page.
var Screen = frame.Screen{Routes: func(s *frame.Server, _, root fiber.Router) {
	root.Get("/asked", func(c fiber.Ctx) error { return show(s, c, trial{}) })
	root.Post("/asked", func(c fiber.Ctx) error { return try(s, c) })
}}

// page is the screen.
type page struct {
	frame.Page
	Questions []question
	Graph     *ask.WebGraph // that was imported; nil without one
	Spent     string
	Trial     trial
}

// question is one that is asked, and who answers it.
type question struct {
	ask.Service
	Sources []source
}

// source is who answers, as it is shown.
type source struct {
	ask.State
	ID       string
	Thousand string // what a thousand look-ups cost
	Kept     string
	Today    string
	Place    string // in words
	Tried    *trial
}

// trial is a question that was put to try a source, and what became of it.
type trial struct {
	Question, Source string
	About            string
	ask.Trial
	Cost  string
	Error string
}

func (t trial) Asks() string { return strings.Join(t.Asked, "\n") }

func try(s *frame.Server, c fiber.Ctx) error {
	t := trial{Question: c.FormValue("question"), Source: c.FormValue("source"), About: c.FormValue("about")}
	in := market.Locale{Country: "US", Language: "en"}
	if all, err := s.Study.Niches.All(c.Context()); err == nil && len(all) > 0 {
		in = all[0].Locale()
	}
	var err error
	t.Trial, err = s.Study.Ask.Try(c.Context(), ask.Question(t.Question), t.Source, t.About, in)
	var wrong *input.Error
	switch {
	case errors.Is(err, input.ErrNotFound):
		return err
	case errors.As(err, &wrong):
		t.Error = wrong.Reason
		c.Status(fiber.StatusUnprocessableEntity)
	case err != nil:
		t.Error = frame.Capital(err.Error()) + "."
	}
	t.Cost = money.Text(t.Micros, s.Study.Ask.Currency())
	return show(s, c, t)
}

func show(s *frame.Server, c fiber.Ctx, tried trial) (err error) {
	p := page{Trial: tried, Graph: s.Study.Ask.WebGraph()}
	if p.Page, err = s.Bare(c, "Sources"); err != nil {
		return err
	}
	if p.Spent, err = s.Study.Ask.SpentToday(c.Context()); err != nil {
		return err
	}
	for _, service := range ask.Services() {
		q := question{Service: service}
		states, err := s.Study.Ask.States(c.Context(), service.Question)
		if err != nil {
			return err
		}
		for i, st := range states {
			one := source{State: st, ID: fmt.Sprintf("%s-%d", strings.ReplaceAll(string(st.Question), " ", "-"), i+1),
				Thousand: "free", Kept: days(st.Life), Place: placeOf(i, st)}
			if st.Micros > 0 {
				one.Thousand = money.Text(1000*st.Micros, s.Study.Ask.Currency())
			}
			if st.Micros > 0 || st.Spent > 0 {
				one.Today = money.Text(st.Spent, s.Study.Ask.Currency())
			}
			if tried.Question == string(st.Question) && tried.Source == st.Name {
				one.Tried = &tried
			}
			q.Sources = append(q.Sources, one)
		}
		p.Questions = append(p.Questions, q)
	}
	return c.Render("asked/asked", p)
}

// placeOf says when a source is asked.
func placeOf(i int, st ask.State) string {
	switch {
	case st.Beside && i > 0:
		return "asked beside"
	case i > 0:
		return "if the one above does not answer"
	}
	return ""
}

func days(d time.Duration) string {
	if d < ask.Day {
		return d.String()
	}
	n := int(d / ask.Day)
	return fmt.Sprintf("%d %s", n, frame.Plural(n, "day", "days"))
}
