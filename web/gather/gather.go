// Package gather is the stage where ideas are gathered: from seeds, and from lists of
// one's own.
package gather

import (
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/sieves"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"
	"cleverniche/web/start"

	"github.com/gofiber/fiber/v3"
)

// Screen is the stage.
var Screen = frame.Screen{Stages: []frame.Stage{
	{Place: 1, Path: "gather", Name: "Gather", Question: "What do people search for on this subject?",
		Count: func(c ideas.Counts, sp frame.Speaker) string {
			return sp.Counted(c.Seeds, "seed", "seeds") + " · " + sp.Counted(c.Ideas, "idea", "ideas")
		}},
}, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/gather", s.In(func(r *frame.Request) error { return show(r, page{Text: r.Query("seed")}) }))
	niche.Get("/gather/words", s.In(func(r *frame.Request) error { return showWords(r, "") }))
	niche.Post("/gather/words", s.Form(growTicked, func(r *frame.Request, wrong *input.Error) error {
		return showWords(r, wrong.Reason)
	}))
	niche.Get("/gather/cross", s.In(func(r *frame.Request) error { return showCrossing(r, "") }))
	niche.Post("/gather/cross/preview", s.In(previewCrossing))
	niche.Post("/gather/cross", s.Form(cross, func(r *frame.Request, wrong *input.Error) error {
		return showCrossing(r, wrong.Reason)
	}))
	niche.Get("/gather/down", s.In(showDown))
	niche.Get("/gather/down/below", s.In(below))
	niche.Post("/gather/down/drop", s.In(dropBelow))
	niche.Post("/gather", s.Form(begin, func(r *frame.Request, wrong *input.Error) error {
		return show(r, page{Text: r.FormValue("seeds"), Error: wrong.Reason, typed: true})
	}))
	niche.Post("/gather/estimate", s.In(estimate))
	niche.Get("/gather/roots", s.In(func(r *frame.Request) error { return showRoots(r, "") }))
	niche.Post("/gather/roots", s.Form(growTicked, func(r *frame.Request, wrong *input.Error) error {
		return showRoots(r, wrong.Reason)
	}))
	niche.Get("/gather/pen", s.In(func(r *frame.Request) error { return showPen(r, seeding{}) }))
	niche.Post("/gather/pen", s.Form(keepPen, func(r *frame.Request, wrong *input.Error) error {
		return showPen(r, seeding{Written: written(r), Error: wrong.Reason})
	}))
	niche.Post("/gather/pen/grow", s.Form(growTicked, func(r *frame.Request, wrong *input.Error) error {
		return showPen(r, seeding{Error: wrong.Reason})
	}))
	niche.Get("/gather/report", s.In(showReport))
	keptRoutes(s, niche)
	pageRoutes(s, niche)
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
	Ways        []way
	Unwanted    string
	Rounds      string
	Most        string
	Price       string
	Through     uint // the sieve between rounds
	Sieves      []sieves.Saved
	Kept        []kept
	Report      bool   // my pages stand in a search report
	NoWords     string // which ways bring nothing in this language
	ImportText  string
	ImportName  string
	ImportError string
	Imports     []imports.Imported
	Starting    bool // somebody sets up what he has, and is not through
	Said        string
	Removed     uint // a kept gathering that was just removed; 0 none
	typed       bool // the form of seeds is shown as it was sent
}

// way is a way to grow seeds, as it is offered.
type way struct {
	Key, Says string
	On        bool
}

// offer fills in the form of seeds: as it was typed, or as it begins.
func (p *page) offer(r *frame.Request) (err error) {
	value := func(field, begins string) string {
		if p.typed {
			return r.FormValue(field)
		}
		return begins
	}
	for _, w := range gather.Ways {
		on := slices.Contains(gather.Usual, w.Way)
		if p.typed {
			on = r.FormValue("way-"+string(w.Way)) != ""
		}
		p.Ways = append(p.Ways, way{string(w.Way), w.Says, on})
	}
	p.Unwanted, p.Rounds = value("unwanted", r.Niche.Unwanted), value("rounds", "1")
	p.Most, p.Price = value("most", strconv.Itoa(gather.UsualLookups)), value("price", "")
	if id, err := strconv.ParseUint(value("through", "0"), 10, 32); err == nil {
		p.Through = uint(id)
	}
	p.NoWords = gather.Lacks(r.Niche.Language)
	all, err := r.Study.Sieves.All(r.Context())
	for _, s := range all {
		if s.ID > 0 {
			p.Sieves = append(p.Sieves, s)
		}
	}
	return err
}

func show(r *frame.Request, p page) (err error) {
	if err := p.offer(r); err != nil {
		return err
	}
	if p.Page, err = r.Page("Gather", "gather", -1); err != nil {
		return err
	}
	if p.Seeds, err = r.Study.Niches.Seeds(r.Context(), r.Niche.ID); err != nil {
		return err
	}
	if p.Imports, err = r.Study.Imports.Imports(r.Context(), r.Niche.ID, shownImports); err != nil {
		return err
	}
	if p.Starting, err = start.Begun(r.Server, r.Ctx); err != nil {
		return err
	}
	if p.Kept, err = keptOf(r); err != nil {
		return err
	}
	if p.Report, err = hasReport(r); err != nil {
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
	seeds, ignored, err := gather.ReadSeeds(seedsOf(r))
	p := gather.Plan{Seeds: seeds, Ignored: ignored}
	var names []string
	for _, w := range gather.Ways {
		if r.FormValue("way-"+string(w.Way)) != "" {
			names = append(names, string(w.Way))
		}
	}
	p.Ways, p.Again = gather.ReadWays(names...), r.FormValue("keep") != ""
	if err != nil {
		return p, err
	}
	if p.Rounds, err = whole(r, "rounds", 1); err != nil {
		return p, err
	}
	if p.Most, err = whole(r, "most", gather.UsualLookups); err != nil {
		return p, err
	}
	if p.Price, err = r.Study.Ask.ReadMoney(r.FormValue("price")); err != nil {
		return p, err
	}
	if id, err := strconv.ParseUint(r.FormValue("through"), 10, 32); err == nil && id > 0 {
		saved, err := r.Study.Sieves.Get(r.Context(), uint(id))
		if err != nil {
			return p, err
		}
		p.Through = saved.Sieve
	}
	return p, nil
}

// whole reads a whole number of a form; nothing typed is the usual one.
func whole(r *frame.Request, field string, usual int) (int, error) {
	text := strings.TrimSpace(r.FormValue(field))
	if text == "" {
		return usual, nil
	}
	n, err := strconv.Atoi(text)
	if err != nil {
		return 0, input.Bad(field, "“%s” is no whole number.", input.Clip(text, 20))
	}
	return n, nil
}

func estimate(r *frame.Request) error {
	if seedsOf(r) == "" {
		return r.Render("gather/estimate", estimated{})
	}
	plan, err := planOf(r)
	if err != nil {
		err := frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			r.Status(fiber.StatusOK) // while one types, nothing is wrong yet
			return r.Render("gather/estimate", estimated{Estimate: progress.Estimate{Error: wrong.Reason}})
		})
		return err
	}
	e, err := r.Study.Gathering.Estimate(r.Context(), r.Niche, plan)
	if err != nil {
		return err
	}
	v := estimated{Estimate: progress.Estimate{Estimate: e, Cost: r.Study.Ask.Cost(e), Ideas: len(plan.Seeds),
		Ignored: len(plan.Ignored)}}
	v.Sample, v.All = plan.Sample(r.Niche.Language, shownLookups)
	return r.Render("gather/estimate", v)
}

// estimated is what a gathering costs, with some of what it looks up.
type estimated struct {
	progress.Estimate
	Sample []string
	All    int
}

// shownLookups is how many texts that are looked up are shown before.
const shownLookups = 20

func begin(r *frame.Request) error {
	plan, err := planOf(r)
	if err != nil {
		return err
	}
	if n := r.Niche; r.Request().PostArgs().Has("unwanted") && r.FormValue("unwanted") != n.Unwanted {
		n.Unwanted = r.FormValue("unwanted")
		if n, _, err = r.Study.Results.ChangeFrom(r.Context(), r.Niche, n); err != nil {
			return err
		}
		r.Niche = n
	}
	if r.FormValue("keep") != "" {
		k, err := r.Study.Gathering.Keep(r.Context(), r.Niche, r.FormValue("keep-name"), plan, r.FormValue("weekly") != "")
		if err == nil {
			_, err = r.Study.Gathering.Rerun(r.Context(), r.Niche, k)
		}
		if err != nil {
			return err
		}
		return r.To(r.Path("gather"))
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
