// Package gather is the stage where ideas are gathered: from seeds, and from lists of
// one's own.
package gather

import (
	"slices"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// Screen is the stage.
var Screen = frame.Screen{Stages: []frame.Stage{
	{Place: 1, Path: "gather", Name: "Gather", Question: "What do people search for on this subject?",
		Count: func(c ideas.Counts, sp frame.Speaker) string {
			return sp.Counted(c.Seeds, "seed", "seeds") + " · " + sp.Counted(c.Ideas, "idea", "ideas")
		}},
}, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/gather", s.In(func(r *frame.Request) error { return show(r, page{}) }))
	niche.Post("/gather", s.Form(start, func(r *frame.Request, wrong *input.Error) error {
		return show(r, page{Text: r.FormValue("seeds"), Error: wrong.Reason})
	}))
	niche.Post("/gather/estimate", s.In(estimate))
	niche.Post("/searches", s.In(startDemand))
	niche.Post("/import/undo", s.Form(undoImport, func(r *frame.Request, wrong *input.Error) error {
		return show(r, page{ImportError: wrong.Reason})
	}))
	niche.Get("/import/:token", s.In(showPreview))
	niche.Get("/import/:token/problems.csv", s.In(problems))
	niche.Post("/import/:token", s.Form(decide, func(r *frame.Request, wrong *input.Error) error {
		return previewed(r, wrong.Reason, false)
	}))
	niche.Post("/import", s.Form(receive, func(r *frame.Request, wrong *input.Error) error {
		return show(r, page{ImportText: r.FormValue("list"), ImportName: r.FormValue("name"), ImportError: wrong.Reason})
	}))
	niche.Get("/arrivals", s.In(arrivals))
}}

// page is the whole screen.
type page struct {
	frame.Page
	Seeds       []niches.Seed
	Jobs        []jobs.Job
	Arrivals    []frame.Row
	Undemanded  int
	SearchesAt  string // what looking up their searches costs at most
	NoDemand    bool   // nobody can be asked for searches
	NoSources   bool   // nobody can be asked for anything but pages
	Spent       string // today, in words; "" nothing
	Running     bool
	Text        string // what was typed, when it could not be used
	Error       string
	ImportText  string
	ImportName  string
	ImportError string
	Imports     []imports.Imported
	Said        string
}

func show(r *frame.Request, p page) (err error) {
	if p.Page, err = r.Page("Gather", "gather", -1); err != nil {
		return err
	}
	if p.Seeds, err = r.Study.Niches.Seeds(r.Context(), r.Niche.ID); err != nil {
		return err
	}
	if p.Imports, err = r.Study.Imports.Imports(r.Context(), r.Niche.ID, shownImports); err != nil {
		return err
	}
	p.NoSources = !slices.ContainsFunc([]ask.Question{ask.Suggestions, ask.Demand, ask.Results, ask.Links},
		r.Study.Ask.Has)
	if err := p.fill(r); err != nil {
		return err
	}
	return r.Render("gather/gather", p)
}

// undoImport takes an imported list back.
func undoImport(r *frame.Request) error {
	n, err := r.Study.Imports.Undo(r.Context(), r.Niche.ID, r.FormValue("batch"))
	if err != nil {
		return err
	}
	return show(r, page{Said: "Import undone. " +
		r.Speak().Counted(n, "idea is as it was", "ideas are as they were") + " before."})
}

const (
	shownArrivals = 14
	shownImports  = 5
)

// fill lists the jobs, and the ideas that came last.
func (p *page) fill(r *frame.Request) (err error) {
	if p.Jobs, err = r.Study.Jobs.List(r.Context(), r.Niche.ID, progress.Shown); err != nil {
		return err
	}
	for _, j := range p.Jobs {
		p.Running = p.Running || j.Runs()
	}
	if p.Undemanded, err = r.Study.Ideas.Undemanded(r.Context(), r.Niche.ID); err != nil {
		return err
	}
	searches, err := r.Study.Gathering.EstimateSearches(r.Context(), p.Undemanded)
	if err != nil {
		return err
	}
	p.SearchesAt, p.NoDemand = r.Study.Ask.Cost(searches), searches.Missing != ""
	if p.Spent, err = r.Study.Ask.SpentToday(r.Context()); err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	ideas, err := b.Pass(sieve.Sieve{}.By(sieve.Found, true)).Ideas(r.Context(), 0, shownArrivals)
	sp := r.Speak()
	for _, i := range ideas {
		p.Arrivals = append(p.Arrivals, sp.Row(i))
	}
	return err
}

// arrivals is the list of new ideas alone, for renewing it while a job runs.
func arrivals(r *frame.Request) (err error) {
	p := page{Page: frame.Page{Niche: r.Niche}}
	if err := p.fill(r); err != nil {
		return err
	}
	if p.Trail, err = r.Trail("gather", -1); err != nil {
		return err
	}
	return r.Render("gather/arrivals-update", p)
}

// planOf reads the form of a gathering.
func planOf(r *frame.Request) (gather.Plan, error) {
	seeds, ignored, err := gather.ReadSeeds(r.FormValue("seeds"))
	return gather.Plan{Seeds: seeds, Ignored: ignored, Letters: r.FormValue("letters") != "",
		Questions: r.FormValue("questions") != ""}, err
}

func estimate(r *frame.Request) error {
	if strings.TrimSpace(r.FormValue("seeds")) == "" {
		return r.Render("gather/estimate", progress.Estimate{})
	}
	plan, err := planOf(r)
	if err != nil {
		err := frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			r.Status(fiber.StatusOK) // while one types, nothing is wrong yet
			return r.Render("gather/estimate", progress.Estimate{Error: wrong.Reason})
		})
		return err
	}
	e, err := r.Study.Gathering.Estimate(r.Context(), r.Niche, plan)
	if err != nil {
		return err
	}
	return r.Render("gather/estimate", progress.Estimate{Estimate: e, Cost: r.Study.Ask.Cost(e), Ideas: len(plan.Seeds),
		Ignored: len(plan.Ignored)})
}

func start(r *frame.Request) error {
	plan, err := planOf(r)
	if err != nil {
		return err
	}
	if _, err := r.Study.Gathering.Gather(r.Context(), r.Niche, plan); err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}

func startDemand(r *frame.Request) error {
	if _, err := r.Study.Gathering.LookUpSearches(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}
