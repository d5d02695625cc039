// Package jobs is the panel of long work: progress, pause, cancel, go on; and the cost
// of work before it starts.
package jobs

import (
	"context"
	"fmt"

	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is the addresses of jobs.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/jobs/:job", s.In(func(r *frame.Request) error {
		id, err := r.ID("job")
		if err != nil {
			return err
		}
		return Show(r, id)
	}))
	niche.Post("/jobs/:job/:action", s.In(steer))
}}

// Shown is how many jobs a page shows.
const Shown = 6

// Estimate is the cost of work before it starts.
type Estimate struct {
	Does string // what is done at that cost
	Held string // what of it is at hand
	ask.Estimate
	Cost    string
	Error   string
	Ideas   int
	Niche   niches.Niche
	Ignored int
	All     bool
	Hunts   bool   // it can stop early
	Spent   string // today and this month
	Over    string // that it may overrun the day's budget; "" it does not
}

// Open are the jobs that are not finished.
func Open(r *frame.Request) ([]jobs.Job, error) {
	return r.Study.Jobs.Open(r.Context(), r.Niche.ID, Shown)
}

// Show renders a job's panel, and tells the page when ideas changed.
func Show(r *frame.Request, id uint) error {
	j, err := r.Study.Jobs.Get(r.Context(), r.Niche.ID, id)
	if err != nil {
		return err
	}
	if seen := r.Query("seen"); seen != fmt.Sprint(j.Done) || !j.Runs() {
		r.Set("HX-Trigger", "ideas-changed")
	}
	return r.Render("jobs/job", j)
}

func steer(r *frame.Request) error {
	id, err := r.ID("job")
	if err != nil {
		return err
	}
	do, ok := map[string]func(ctx context.Context, niche, job uint) error{
		"pause": r.Study.Jobs.Pause, "cancel": r.Study.Jobs.Cancel, "go-on": r.Study.Jobs.Resume}[r.Params("action")]
	if !ok {
		return input.ErrNotFound
	}
	if err := do(r.Context(), r.Niche.ID, id); err != nil {
		return err
	}
	return Show(r, id)
}
