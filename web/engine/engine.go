// Package engine is what a niche's search engine leans on, as far as its results pages tell: a page of its own, and a
// part of what is told of an idea.
package engine

import (
	"cleverniche/core/difficulty"
	"cleverniche/web/draw"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is its page.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/engine", s.In(show))
}}

// View is what an engine leans on, as it is drawn.
type View struct {
	LeansOn string
	Learnt  string
	Rows    []row
	Width   int
}

type row struct {
	difficulty.Share
	draw.Track
}

// How wide the lines are drawn, and what share their end is at least.
const (
	lineWidth = 160
	leastEnd  = 0.5
)

// Of is what is known of what an engine leans on.
func Of(m difficulty.Model) View {
	v := View{LeansOn: m.LeansOn(), Learnt: difficulty.Learnt(m.Pages), Width: lineWidth}
	end := leastEnd
	shares := m.Shares()
	for _, s := range shares {
		end = max(end, s.High, s.Usual)
	}
	for _, s := range shares {
		v.Rows = append(v.Rows, row{s, draw.OnTrack(s.Is, s.Low, s.High, s.Usual, end, lineWidth)})
	}
	return v
}

// page is its screen.
type page struct {
	frame.Page
	View
	Pages  int
	Moved  string // what the last look-ups changed
	Engine string // who shows the results
	When   string
}

func show(r *frame.Request) error {
	known, err := r.Study.Niches.Learnt(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	p := page{View: Of(difficulty.Calibrated.Leaning(known.Leaning, known.Pages)), Pages: known.Pages,
		Moved: known.Says(), Engine: known.Engine}
	if !known.At.IsZero() {
		p.When = known.At.Format("2 January 2006")
	}
	if p.Page, err = r.Page("What the engine leans on", "", -1); err != nil {
		return err
	}
	return r.Render("engine/engine", p)
}
