// Package niches is where niches are made, opened and changed.
package niches

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"net/url"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/people"
	"cleverniche/study/places"
	"cleverniche/web/frame"
	"cleverniche/web/start"

	"github.com/gofiber/fiber/v3"
)

// Screen is the addresses of niches.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, root fiber.Router) {
	root.Get("/", func(c fiber.Ctx) error { return home(s, c) })
	root.Get("/niches/new", func(c fiber.Ctx) error {
		n := niches.Niche{Country: cmp.Or(c.Query("country"), "US"), Language: cmp.Or(c.Query("language"), "en"),
			Name: c.Query("name")}
		return showNew(s, c, form{Values: named(n), Seed: c.Query("seed")})
	})
	root.Get("/niches", func(c fiber.Ctx) error { return showAll(s, c, "") })
	root.Post("/niches/back/:id", func(c fiber.Ctx) error { return bringBack(s, c) })
	niche.Post("/archive", s.In(archive))
	niche.Post("/delete", s.Form(remove, func(r *frame.Request, wrong *input.Error) error {
		return showSettings(r, form{Values: named(r.Niche), Field: wrong.Field, Error: wrong.Reason})
	}))
	root.Post("/niches/whole", func(c fiber.Ctx) error { return bring(s, c) })
	niche.Get("/whole.zip", s.In(whole))
	root.Post("/niches", func(c fiber.Ctx) error { return create(s, c) })
	niche.Get("/settings", s.In(func(r *frame.Request) error { return showSettings(r, form{Values: named(r.Niche)}) }))
	niche.Post("/settings", s.In(change))
}}

// home opens the niche that was opened last: at Watch once something of it is published.
func home(s *frame.Server, c fiber.Ctx) error {
	all, err := s.Study.Niches.All(c.Context())
	if err != nil {
		return err
	}
	if p := frame.PersonOf(c); p != nil && !p.Role.May(people.ToSee) {
		return c.Redirect().To("/briefs")
	}
	if start.Bare(s, all) {
		return c.Redirect().To("/start")
	}
	if len(all) == 0 {
		return c.Redirect().To("/niches/new")
	}
	if all[0].Archived { // as all are
		return c.Redirect().To("/niches")
	}
	out, err := s.Study.Topics.Published(c.Context(), all[0])
	if err != nil {
		return err
	}
	if out > 0 { // something is published: what to do this week comes first
		return c.Redirect().To(frame.PathOf(all[0], "watch"))
	}
	return c.Redirect().To(frame.PathOf(all[0], "sift"))
}

// form is the form of a new niche, or of a niche's settings.
type form struct {
	frame.Page
	Values       niches.Niche
	WellMade     float64 // fit of a well-made page
	Reach        string  // what a page of mine counts as, in words
	Field, Error string
	Seed         string            // that a new niche begins with; "" none
	Theirs       map[string]string // by field, what another tab saved meanwhile
	Saved        bool
	Job          *jobs.Job // that reckons anew what hangs on the settings
}

// Countries and Languages are what can be chosen, by name.
func (form) Countries() []string { return places.Countries().List() }
func (form) Languages() []string { return places.Languages().List() }

// kindHours is what an article of a kind takes.
type kindHours struct {
	Field, Name string
	Hours       string // as it is typed; "" the usual ones
	Usual       int
}

// Kinds are the kinds of articles, with their hours.
func (f form) Kinds() (out []kindHours) {
	for _, kind := range serp.Articles {
		k := kindHours{Field: niches.HoursField(string(kind)), Name: frame.Capital(kind.One()),
			Usual: niches.Niche{}.HoursOf(kind)}
		if h := f.Values.KindHours[string(kind)]; h != 0 {
			k.Hours = strconv.Itoa(h)
		}
		out = append(out, k)
	}
	return out
}

// Weekdays are the days that a week can begin on.
func (form) Weekdays() []time.Weekday {
	return []time.Weekday{time.Monday, time.Saturday, time.Sunday}
}

// named is a niche with its country and language called by their names.
func named(n niches.Niche) niches.Niche {
	n.Country, n.Language = places.Countries().Name(n.Country), places.Languages().Name(n.Language)
	return n
}

// read reads what a form says of a niche.
func read(c fiber.Ctx, n niches.Niche) niches.Niche {
	n.Name, n.Country, n.Language = c.FormValue("name"), c.FormValue("country"), c.FormValue("language")
	n.OwnSite = c.FormValue("site")
	return n
}

func showNew(s *frame.Server, c fiber.Ctx, f form) (err error) {
	if f.Page, err = s.Bare(c, "New niche"); err != nil {
		return err
	}
	return c.Render("niches/new", f)
}

func create(s *frame.Server, c fiber.Ctx) error {
	typed := read(c, niches.Niche{})
	n, err := s.Study.Niches.Create(c.Context(), typed)
	if err != nil {
		return frame.Again(c, err, func(wrong *input.Error) error {
			return showNew(s, c, form{Values: typed, Seed: c.FormValue("seed"), Field: wrong.Field, Error: wrong.Reason})
		})
	}
	to := frame.PathOf(n, "gather")
	if seed := c.FormValue("seed"); seed != "" {
		to += "?" + url.Values{"seed": {seed}}.Encode()
	}
	if begun, err := start.Begun(s, c); err != nil {
		return err
	} else if begun { // the next step
		to = "/start"
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

// bring makes a niche of a file that holds a whole one.
func bring(s *frame.Server, c fiber.Ctx) error {
	n, err := wholeOf(s, c)
	if err != nil {
		return frame.Again(c, err, func(wrong *input.Error) error {
			return showNew(s, c, form{Values: named(niches.Niche{Country: "US", Language: "en"}), Field: wrong.Field,
				Error: wrong.Reason})
		})
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(frame.PathOf(n, "sift"))
}

func wholeOf(s *frame.Server, c fiber.Ctx) (niches.Niche, error) {
	head, err := c.FormFile("whole")
	if err != nil || head.Size == 0 {
		return niches.Niche{}, &input.Error{Field: "whole", Reason: "Choose a file."}
	}
	f, err := head.Open()
	if err != nil {
		return niches.Niche{}, err
	}
	defer f.Close()
	return s.Study.Files.ImportWhole(c.Context(), f, head.Size)
}

// whole sends everything in a niche as one file.
func whole(r *frame.Request) error {
	return r.Stream(r.FileName("niche", "zip"), "application/zip", func(ctx context.Context, w io.Writer) error {
		return r.Study.Files.ExportWhole(ctx, r.Niche, w)
	})
}

func showSettings(r *frame.Request, f form) (err error) {
	f.WellMade = difficulty.WellMade
	if f.Reach, err = reachWords(r); err != nil {
		return err
	}
	if f.Page, err = r.Page("Settings", "settings", -1); err != nil {
		return err
	}
	return r.Render("niches/settings", f)
}

// someLinks is how many solid links the settings reckon out where none are planned.
const someLinks = 2

// reachWords says in plain figures what a page of mine counts as, and what links would do.
func reachWords(r *frame.Request) (string, error) {
	m, err := r.Study.Niches.Model(r.Context(), r.Niche)
	if err != nil {
		return "", err
	}
	standing, known := r.Study.Ask.KnownStanding(r.Context(), r.Niche.OwnSite)
	mine := m.Mine(r.Niche, standing)
	counts := func(links int) string {
		mine.PlannedLinks = links
		return frame.Capital(mine.Counts()) + " " + difficulty.Shown(m.Reach(mine)) + "."
	}
	says := counts(r.Niche.PlannedLinks)
	if r.Niche.PlannedLinks == 0 {
		says += " No link to a page is planned. " + counts(someLinks)
	}
	if !known {
		says += " Your site is not in the link graph yet."
	}
	return says, nil
}

// filled are the fields of the settings as they are shown.
func filled(n niches.Niche) map[string]string {
	n = named(n)
	out := map[string]string{"name": n.Name, "country": n.Country, "language": n.Language, "site": n.OwnSite,
		"links": fmt.Sprint(n.PlannedLinks), "standing": fmt.Sprint(n.LinkStanding), "fit": fmt.Sprint(n.Fit),
		"visit": n.Visit(), "week-hours": fmt.Sprint(n.WeekHours), "lead": fmt.Sprint(n.LeadDays),
		"week-start": fmt.Sprint(int(n.WeekStart)), "endings": n.Endings}
	for _, k := range (form{Values: n}).Kinds() {
		out[k.Field] = k.Hours
	}
	for _, e := range earnedFields(n) {
		out[e.Field] = e.Value
	}
	out["depth"] = fmt.Sprint(n.Depth)
	for _, e := range elsewhereFields {
		out[e.Field] = e.value(n)
	}
	return out
}

// Was is what the form was filled from.
func (f form) Was() string { return frame.Filled(filled(f.Niche)) }

func change(r *frame.Request) error {
	sent, err := url.ParseQuery(string(r.Body()))
	if err != nil {
		return &input.Error{Field: "name", Reason: "The form cannot be read."}
	}
	theirs := frame.Merge(sent, filled(r.Niche))
	for field := range sent {
		r.Request().PostArgs().Set(field, sent.Get(field))
	}
	r.Request().SetBodyString(sent.Encode())
	typed := read(r.Ctx, r.Niche)
	err = readPlans(r.Ctx, &typed)
	for field := range theirs { // one of them is told where it is; all are shown
		if err == nil {
			err = &input.Error{Field: field,
				Reason: "This has changed since, perhaps in another tab. Save again to use yours."}
		}
	}
	if err == nil {
		var saved niches.Niche
		var job *jobs.Job
		if saved, job, err = r.Study.Results.ChangeFrom(r.Context(), r.Niche, typed); err == nil {
			r.Niche = saved
			return showSettings(r, form{Values: named(saved), Saved: true, Job: job})
		}
	}
	return frame.Again(r.Ctx, err, func(wrong *input.Error) error {
		return showSettings(r, form{Values: typed, Field: wrong.Field, Error: wrong.Reason, Theirs: theirs})
	})
}

// readPlans reads the numbers of a niche's settings.
func readPlans(c fiber.Ctx, n *niches.Niche) error {
	links, err := strconv.Atoi(c.FormValue("links"))
	if err != nil {
		return &input.Error{Field: "links", Reason: "Planned links must be a whole number."}
	}
	fit, err := strconv.ParseFloat(c.FormValue("fit"), 64)
	if err != nil || !(fit > 0) {
		return &input.Error{Field: "fit", Reason: "The fit of a well-made page must be a number from 1 to 100."}
	}
	standing, err := strconv.ParseFloat(c.FormValue("standing"), 64)
	if err != nil || !(standing > 0) {
		return &input.Error{Field: "standing",
			Reason: "The standing of linking sites must be a number from 20 to 100."}
	}
	visit, err := niches.ReadVisit(c.FormValue("visit"), n.Currency)
	if err != nil {
		return err
	}
	n.PlannedLinks, n.Fit, n.LinkStanding, n.VisitMicros = links, fit, standing, visit
	n.Endings = c.FormValue("endings")
	if err := readEarning(c, n); err != nil {
		return err
	}
	if err := readElsewhere(c, n); err != nil {
		return err
	}
	return readWriting(c, n)
}

// readWriting reads what a form says of writing; what it does not name stays.
func readWriting(c fiber.Ctx, n *niches.Niche) error {
	form, err := url.ParseQuery(string(c.Body()))
	if err != nil {
		return &input.Error{Field: "week-hours", Reason: "The form cannot be read."}
	}
	whole := func(field, says string, to *int) error {
		if !form.Has(field) {
			return nil
		}
		x, err := strconv.Atoi(strings.TrimSpace(form.Get(field)))
		if err != nil {
			return &input.Error{Field: field, Reason: says + " must be a whole number."}
		}
		*to = x
		return nil
	}
	start := int(n.WeekStart)
	for _, f := range []struct {
		field, says string
		to          *int
	}{{"week-hours", "Hours a week", &n.WeekHours}, {"lead", "The days from publishing to the place", &n.LeadDays},
		{"week-start", "The first day of the week", &start}} {
		if err := whole(f.field, f.says, f.to); err != nil {
			return err
		}
	}
	n.WeekStart = time.Weekday(start)
	hours := map[string]int{}
	for _, kind := range serp.Articles {
		field := niches.HoursField(string(kind))
		if !form.Has(field) {
			hours[string(kind)] = n.KindHours[string(kind)]
			continue
		}
		h := 0
		if strings.TrimSpace(form.Get(field)) != "" {
			if err := whole(field, "Hours of an article", &h); err != nil {
				return err
			}
			if h == 0 {
				h = -1 // which is refused: nothing is written in no time
			}
		}
		hours[string(kind)] = h
	}
	n.KindHours = hours
	return nil
}
