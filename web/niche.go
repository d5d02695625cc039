package web

import (
	"errors"
	"fmt"
	"strconv"

	"cleverniche/core/difficulty"
	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/csrf"
)

// home opens the niche that was opened last.
func (s *server) home(c fiber.Ctx) error {
	all, err := s.study.Niches(c.Context())
	if err != nil {
		return err
	}
	if len(all) == 0 {
		return c.Redirect().To("/niches/new")
	}
	return c.Redirect().To(nichePath(all[0], "sift"))
}

func nichePath(n store.Niche, rest string) string { return fmt.Sprintf("/niches/%d/%s", n.ID, rest) }

// niche returns the niche in the address.
func (s *server) niche(c fiber.Ctx) (store.Niche, error) {
	id, err := idParam(c, "niche")
	if err != nil {
		return store.Niche{}, err
	}
	return s.study.Niche(c.Context(), id)
}

func idParam(c fiber.Ctx, name string) (uint, error) {
	id, err := strconv.ParseUint(c.Params(name), 10, 32)
	if err != nil || id == 0 {
		return 0, study.ErrNotFound
	}
	return uint(id), nil
}

// frame fills in what every page of a niche shows. left is what the sieve leaves,
// or negative to count what is not dropped.
func (s *server) frame(c fiber.Ctx, n store.Niche, title, stageName string, left int) (page, error) {
	p := page{Title: title, Stage: stageName, Niche: n, CSRF: csrf.TokenFromContext(c), Version: s.version}
	ctx := c.Context()
	var err error
	if p.Niches, err = s.study.Niches(ctx); err != nil {
		return p, err
	}
	if p.Trail, err = s.trail(c, n, stageName, left); err != nil {
		return p, err
	}
	if standing, known := s.study.KnownStanding(ctx, n); known && n.OwnSite != "" {
		p.Standing = fmt.Sprintf("standing %.0f", standing)
	}
	if len(p.Niches) > 0 && p.Niches[0].ID != n.ID {
		err = s.study.OpenNiche(ctx, n.ID)
	}
	return p, err
}

// trail counts what each stage holds.
func (s *server) trail(c fiber.Ctx, n store.Niche, here string, left int) ([]stage, error) {
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return nil, err
	}
	seeds, err := s.study.Seeds(c.Context(), n.ID)
	if err != nil {
		return nil, err
	}
	if left < 0 {
		left = b.Pass(study.Sift{Difficulty: -1}).Count
	}
	counts := b.Count(left)
	sp := speak(n)
	list := []stage{
		{Name: "Gather", Question: "What do people search around this subject?", Href: nichePath(n, "gather"),
			Count: fmt.Sprintf("%s %s · %s %s", sp.count(len(seeds)), plural(len(seeds), "seed", "seeds"), sp.count(counts.Ideas), plural(counts.Ideas, "idea", "ideas"))},
		{Name: "Sift", Question: "Which are worth a closer look?", Href: nichePath(n, "sift"), Count: sp.count(counts.Left) + " left"},
		{Name: "Judge", Question: "Can my site get onto page one, and what do searchers want?", Href: nichePath(n, "judge"), Count: sp.count(counts.Judged) + " looked up"},
		{Name: "Group", Question: "Which ideas are one article?", Count: "not built yet", Later: true},
		{Name: "Plan", Question: "What do I write, and when? So far: what you kept, and its export.", Href: nichePath(n, "plan"), Count: sp.count(counts.Kept) + " kept"},
		{Name: "Watch", Question: "Did it work?", Count: "not built yet", Later: true},
	}
	for i := range list {
		list[i].Here = stagePath(list[i].Name) == here
	}
	return list, nil
}

func stagePath(name string) string {
	return map[string]string{"Gather": "gather", "Sift": "sift", "Judge": "judge", "Plan": "plan"}[name]
}

// nicheForm is the form of a new niche, or of a niche's settings.
type nicheForm struct {
	page
	Values       store.Niche
	Weights      difficulty.Weights // of strength
	Field, Error string
	Saved        bool
}

func (s *server) newNiche(c fiber.Ctx) error {
	return s.showNewNiche(c, nicheForm{Values: store.Niche{Country: "US", Language: "en"}})
}

func (s *server) showNewNiche(c fiber.Ctx, f nicheForm) error {
	var err error
	f.Title, f.CSRF, f.Version = "New niche", csrf.TokenFromContext(c), s.version
	if f.Niches, err = s.study.Niches(c.Context()); err != nil {
		return err
	}
	return c.Render("niche-new", f)
}

func (s *server) createNiche(c fiber.Ctx) error {
	n, err := s.study.CreateNiche(c.Context(), store.Niche{Name: c.FormValue("name"), Country: c.FormValue("country"),
		Language: c.FormValue("language"), OwnSite: c.FormValue("site")})
	var input *study.InputError
	if errors.As(err, &input) {
		c.Status(fiber.StatusUnprocessableEntity)
		n.OwnSite = c.FormValue("site")
		return s.showNewNiche(c, nicheForm{Values: n, Field: input.Field, Error: input.Reason})
	}
	if err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(nichePath(n, "gather"))
}

func (s *server) nicheSettings(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	return s.showSettings(c, n, nicheForm{Values: n})
}

func (s *server) showSettings(c fiber.Ctx, n store.Niche, f nicheForm) error {
	f.Weights = difficulty.Calibrated.Weights
	var err error
	if f.page, err = s.frame(c, n, "Settings", "settings", -1); err != nil {
		return err
	}
	return c.Render("niche-settings", f)
}

func (s *server) changeNiche(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	changed := n
	changed.Name, changed.Country, changed.Language = c.FormValue("name"), c.FormValue("country"), c.FormValue("language")
	changed.OwnSite = c.FormValue("site")
	err = readPlans(c, &changed)
	if err == nil {
		changed, err = s.study.ChangeNiche(c.Context(), changed)
	}
	var input *study.InputError
	if errors.As(err, &input) {
		c.Status(fiber.StatusUnprocessableEntity)
		return s.showSettings(c, n, nicheForm{Values: changed, Field: input.Field, Error: input.Reason})
	}
	if err != nil {
		return err
	}
	return s.showSettings(c, changed, nicheForm{Values: changed, Saved: true})
}

// readPlans reads the numbers of a niche's settings.
func readPlans(c fiber.Ctx, n *store.Niche) error {
	links, err := strconv.Atoi(c.FormValue("links"))
	if err != nil {
		return &study.InputError{Field: "links", Reason: "Planned links must be a whole number."}
	}
	fit, err := strconv.ParseFloat(c.FormValue("fit"), 64)
	if err != nil || fit <= 0 {
		return &study.InputError{Field: "fit", Reason: "The fit of a well-made page must be a number from 1 to 100."}
	}
	standing, err := strconv.ParseFloat(c.FormValue("standing"), 64)
	if err != nil || standing <= 0 {
		return &study.InputError{Field: "standing", Reason: "The standing of linking sites must be a number from 20 to 100."}
	}
	n.PlannedLinks, n.Fit, n.LinkStanding = links, fit, standing
	return nil
}
