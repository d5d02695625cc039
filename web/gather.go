package web

import (
	"bytes"
	"errors"
	"io"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// gatherPage is the stage where ideas are gathered.
type gatherPage struct {
	page
	Seeds       []store.Seed
	Jobs        []study.JobView
	Arrivals    []rowView
	Undemanded  int
	Running     bool
	Text        string // what was typed, when it could not be used
	Error       string
	ImportText  string
	ImportError string
	Report      *study.ImportReport
}

func (s *server) gather(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	return s.showGather(c, n, gatherPage{})
}

const shownJobs, shownArrivals = 6, 14

func (s *server) showGather(c fiber.Ctx, n store.Niche, g gatherPage) error {
	var err error
	if g.page, err = s.frame(c, n, "Gather", "gather", -1); err != nil {
		return err
	}
	if g.Seeds, err = s.study.Seeds(c.Context(), n.ID); err != nil {
		return err
	}
	if g.Jobs, err = s.study.Jobs(c.Context(), n.ID, shownJobs); err != nil {
		return err
	}
	if err := s.fillArrivals(c, n, &g); err != nil {
		return err
	}
	return c.Render("gather", g)
}

// fillArrivals lists the ideas that came last.
func (s *server) fillArrivals(c fiber.Ctx, n store.Niche, g *gatherPage) error {
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return err
	}
	sp := speak(n)
	res := b.Pass(study.Sift{Difficulty: -1, Show: study.ShowAll, Sort: sieve.SortFound, Down: true})
	for _, r := range res.Rows(0, shownArrivals) {
		g.Arrivals = append(g.Arrivals, sp.row(r))
	}
	for i := range b.Rows {
		if b.Rows[i].Searches == nil && b.Rows[i].DemandError == "" {
			g.Undemanded++
		}
	}
	for _, j := range g.Jobs {
		g.Running = g.Running || j.State == store.Running
	}
	return nil
}

// arrivals is the list of new ideas alone, for renewing it while a job runs.
func (s *server) arrivals(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	g := gatherPage{page: page{Niche: n}}
	if g.Jobs, err = s.study.Jobs(c.Context(), n.ID, shownJobs); err != nil {
		return err
	}
	if err := s.fillArrivals(c, n, &g); err != nil {
		return err
	}
	if g.Trail, err = s.trail(c, n, "gather", -1); err != nil {
		return err
	}
	return c.Render("arrivals-update", g)
}

// planOf reads the form of a gathering.
func planOf(c fiber.Ctx) (study.GatherPlan, error) {
	seeds, ignored, err := study.ReadSeeds(c.FormValue("seeds"))
	return study.GatherPlan{Seeds: seeds, Ignored: ignored, Letters: c.FormValue("letters") != "",
		Questions: c.FormValue("questions") != ""}, err
}

// estimateView is the cost of work before it starts.
type estimateView struct {
	study.Estimate
	Cost    string
	Error   string
	Ideas   int
	Niche   store.Niche
	Ignored int
	All     bool
}

func (s *server) estimateGather(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	if strings.TrimSpace(c.FormValue("seeds")) == "" {
		return c.Render("gather-estimate", estimateView{})
	}
	plan, err := planOf(c)
	var input *study.InputError
	if errors.As(err, &input) {
		return c.Render("gather-estimate", estimateView{Error: input.Reason})
	}
	e, err := s.study.EstimateGather(c.Context(), n, plan)
	if err != nil {
		return err
	}
	return c.Render("gather-estimate", estimateView{Estimate: e, Cost: s.study.Cost(e), Ideas: len(plan.Seeds), Ignored: len(plan.Ignored)})
}

func (s *server) startGather(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	plan, err := planOf(c)
	var input *study.InputError
	if errors.As(err, &input) {
		c.Status(fiber.StatusUnprocessableEntity)
		return s.showGather(c, n, gatherPage{Text: c.FormValue("seeds"), Error: input.Reason})
	}
	if err != nil {
		return err
	}
	if _, err := s.study.Gather(c.Context(), n, plan); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(nichePath(n, "gather"))
}

func (s *server) startDemand(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	if _, err := s.study.GatherDemand(c.Context(), n); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(nichePath(n, "gather"))
}

// importList reads a pasted list or an uploaded file. The page says what became
// of it, and keeps what was pasted when it could not be used.
func (s *server) importList(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	name, in, err := listIn(c)
	if err != nil {
		return err
	}
	rep, err := s.study.Import(c.Context(), n, name, in)
	var input *study.InputError
	if errors.As(err, &input) {
		c.Status(fiber.StatusUnprocessableEntity)
		return s.showGather(c, n, gatherPage{ImportText: c.FormValue("list"), ImportError: input.Reason})
	}
	if err != nil {
		return err
	}
	return s.showGather(c, n, gatherPage{Report: &rep})
}

func listIn(c fiber.Ctx) (name string, in io.Reader, err error) {
	if head, err := c.FormFile("file"); err == nil && head.Size > 0 {
		f, err := head.Open()
		if err != nil {
			return "", nil, err
		}
		defer f.Close()
		data, err := io.ReadAll(f)
		return head.Filename, bytes.NewReader(data), err
	}
	return "pasted list", strings.NewReader(c.FormValue("list")), nil
}
