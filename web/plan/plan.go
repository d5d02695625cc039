// Package plan is the running sheet, the choice, the sowing calendar, briefs, and the list of actions.
package plan

import (
	"context"
	"fmt"
	"io"
	"net/url"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	work "cleverniche/study/jobs"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
	"cleverniche/web/frame"
	"cleverniche/web/group"
	"cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// stage is Plan on the trail. Exports of ideas that name no sieve take what is kept.
var stage = frame.Stage{Place: 5, Path: "plan", Name: "Plan",
	Question: "What do you write, when, and what goes into it?",
	Count:    func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.Sheet) + " to write" },
	First:    sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}}.By(sieve.Searches, true)}

// Screen is Plan.
var Screen = frame.Screen{Stages: []frame.Stage{stage}, Routes: func(s *frame.Server, niche, root fiber.Router) {
	root.Get("/briefs", func(c fiber.Ctx) error { return showBriefs(s, c, nil) })
	niche.Post("/written", written(s))
	niche.Get("/plan", s.In(showSheet))
	niche.Get("/plan/calendar", s.In(showCalendar))
	niche.Get("/plan/choice", s.In(showChoice))
	niche.Post("/plan/choice", s.In(takeChoice))
	niche.Get("/plan/actions", s.In(showActions))
	niche.Post("/plan/actions/:idea", s.In(doAction))
	niche.Post("/plan/own-pages", s.In(startOwn((*articles.Planner).LookUpOwnPages)))
	niche.Post("/plan/own-places", s.In(startOwn((*articles.Planner).LookUpPlaces)))
	niche.Post("/plan/lay-out", s.In(layOut))
	niche.Post("/plan/articles/:topic", s.In(changeArticle))
	niche.Post("/plan/feed", s.In(renewFeed))
	niche.Post("/plan/feed/off", s.In(endFeed))
	for _, f := range files {
		niche.Get("/plan/"+f.name, s.In(f.send))
	}
	niche.Get("/feed/:secret", s.In(feed))
	niche.Get("/briefs/:idea", s.In(showBrief))
	niche.Post("/briefs/:idea", s.In(editBrief))
	for _, p := range briefs.Papers() {
		niche.Get("/briefs/:idea/brief."+p.Name, s.In(func(r *frame.Request) error { return sendBrief(r, p) }))
	}
}}

// tab is one of Plan's views.
type tab struct {
	Name, Href string
	Here       bool
}

var tabs = []struct{ name, path string }{{"Articles", "plan"}, {"Calendar", "plan/calendar"},
	{"Proposal", "plan/choice"},
	{"Your pages", "plan/actions"}}

func tabsOf(r *frame.Request, here string) (out []tab) {
	for _, t := range tabs {
		out = append(out, tab{t.name, r.Path(t.path), t.path == here})
	}
	return out
}

// article is a line of the sheet.
type article struct {
	articles.Article
	NicheID            uint
	Is                 string // its state
	States             []plan.State
	Usual              int // hours of its kind
	Chance             frame.Cell
	Worth              string
	StartDay, DueDay   string // as they are typed
	PublishedDay       string
	Ready, Due, DueWhy string // in words
	LateWords          string
	Today              string
	CSRF               string
	Fits               []topics.Topic // what would join it by its results, and joins by hand alone
}

// sheetPage is the running sheet.
type sheetPage struct {
	frame.Page
	Tabs     []tab
	Articles []article
	This     []article // what is to be done this week
	Next     *article  // the next to be begun after it; nil none
	Week     plan.Load
	WeekSays string
	Late     int
	Unplaced int // without a day to begin
	Hours    int // a week
	Files    []file
	Feed     string // address of the calendar; "" while there is none
	Worth    string // of all that is to write
}

func line(r *frame.Request, a articles.Article) article {
	out := article{Article: a, NicheID: r.Niche.ID, Is: string(a.State()), Usual: r.Niche.HoursOf(a.Kind),
		StartDay: typed(a.Start), DueDay: typed(a.Deadline), PublishedDay: typed(a.Day), Today: typed(r.Now()),
		States: []plan.State{plan.ToWrite, plan.Writing}, CSRF: r.Token()}
	if a.State() == plan.Published {
		out.States = append(out.States, plan.Published)
	}
	if !a.Gone {
		out.Chance = r.Speak().Cell(a.Idea, sieve.PageOne)
	}
	if low, _, high, known := a.Worth(); known {
		out.Worth = money.Range(low, high, r.Niche.Currency)
	}
	out.Ready = said(a.Schedule.Ready)
	out.Due = said(a.Schedule.Due)
	switch {
	case a.Schedule.Due.IsZero():
	case a.Schedule.Due.Equal(a.Schedule.Last):
		out.DueWhy = "the last day to publish for its season: it " + group.SeasonWords(a)
	default:
		out.DueWhy = "your deadline"
	}
	out.LateWords = lateWords(a, r.Now())
	return out
}

// lateWords say that an article is late, or will be; "" when it is not.
func lateWords(a articles.Article, now time.Time) string {
	s := a.Schedule
	today := plan.Day(now)
	switch {
	case a.State() == plan.Published:
		return ""
	case s.Late > 0 && s.Misses:
		return fmt.Sprintf("%s too late for its season", days(s.Late))
	case s.Late > 0:
		return days(s.Late) + " after your deadline"
	case s.Ready.IsZero() && !s.Due.IsZero() && s.Due.Before(today):
		return "your deadline is past"
	case !s.Start.IsZero() && s.Start.Before(today) && a.State() == plan.ToWrite:
		return "should have been started on " + said(s.Start)
	}
	return ""
}

// Starts is the day that writing starts, in words.
func (a article) Starts() string { return said(a.Start) }

func days(n int) string { return fmt.Sprintf("%d %s", n, frame.Plural(n, "day", "days")) }

func typed(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.Format(time.DateOnly)
}

func said(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.Format("2 Jan 2006")
}

func readSheet(r *frame.Request) (v sheetPage, err error) {
	sheet, err := r.Study.Articles.Plan(r.Context(), r.Niche)
	if err != nil {
		return v, err
	}
	v.Niche, v.Hours, v.Tabs, v.Files = r.Niche, r.Niche.WeekHours, tabsOf(r, "plan"), files
	v.Week = sheet.Weeks[0]
	end := v.Week.Begin.AddDate(0, 0, 7)
	var low, high int64
	for _, a := range sheet.Articles {
		l := line(r, a)
		if !a.Gone && a.State() != plan.Published {
			l.Fits = sheet.Topics.Fitting(a.Topic)
		}
		v.Articles = append(v.Articles, l)
		if a.State() == plan.Published {
			continue
		}
		if x, _, y, known := a.Worth(); known {
			low, high = low+x, high+y
		}
		if l.LateWords != "" {
			v.Late++
		}
		switch {
		case a.Start.IsZero():
			v.Unplaced++
		case a.Start.Before(end) && a.Schedule.Ready.After(v.Week.Begin), a.Start.Before(end) && a.State() == plan.ToWrite:
			v.This = append(v.This, l)
		case v.Next == nil || a.Start.Before(v.Next.Start):
			v.Next = &l
		}
	}
	v.Worth = money.Range(low, high, r.Niche.Currency)
	v.WeekSays = fmt.Sprintf("%.0f of %d hours planned this week", v.Week.Booked, v.Hours)
	if v.Week.Over() {
		v.WeekSays += fmt.Sprintf(": %.0f too many", v.Week.Booked-v.Week.Have)
	}
	secret, err := r.Study.Files.Feed(r.Context(), r.Niche)
	if secret != "" {
		v.Feed = feedAddress(r, secret)
	}
	return v, err
}

func showSheet(r *frame.Request) error {
	v, err := readSheet(r)
	if err != nil {
		return err
	}
	if v.Page, err = r.Page("Plan", stage.Path, -1); err != nil {
		return err
	}
	return r.Render("plan/sheet", v)
}

// renewed answers with the sheet as it is now, and the trail.
func renewed(r *frame.Request, notice string) error {
	v, err := readSheet(r)
	if err != nil {
		return err
	}
	if v.Trail, err = r.Trail(stage.Path, -1); err != nil {
		return err
	}
	v.Notice = notice
	return r.Render("plan/sheet-update", v)
}

// changeArticle changes what a form names of an article on the sheet.
func changeArticle(r *frame.Request) error {
	id, err := r.ID("topic")
	if err != nil {
		return err
	}
	form, err := url.ParseQuery(string(r.Body()))
	if err != nil {
		return &input.Error{Field: "form", Reason: "The form cannot be read."}
	}
	var c articles.Change
	for name, to := range map[string]**string{"state": &c.State, "start": &c.Start, "deadline": &c.Deadline,
		"address": &c.Address, "published": &c.Published, "note": &c.Note, "hours": &c.Hours} {
		for _, name := range []string{name, fmt.Sprint(name, "-", id)} { // fields outside forms are named apart
			if form.Has(name) {
				text := form.Get(name)
				*to = &text
			}
		}
	}
	if form.Has("was") {
		was := strings.ReplaceAll(form.Get("was"), "\r\n", "\n")
		c.Was = &was
	}
	if form.Has("before") {
		n, err := strconv.ParseUint(form.Get("before"), 10, 32)
		if err != nil {
			return &input.Error{Field: "before", Reason: "There is no such position. Reload the page."}
		}
		before := uint(n)
		c.Before = &before
	}
	notice := ""
	if form.Has("take") {
		notice = "Phrases added to the article. Press u to undo."
		err = take(r, id, form.Get("take"))
	} else if form.Get("out") != "" {
		notice = "Removed from the plan. Press u to undo."
		err = r.Study.Articles.Remove(r.Context(), r.Niche, id)
	} else {
		err = r.Study.Articles.Change(r.Context(), r.Niche, id, c)
	}
	if err != nil {
		return err
	}
	if !r.Partial() {
		return r.To(r.Path("plan"))
	}
	if form.Get("calendar") != "" {
		return renewedCalendar(r)
	}
	return renewed(r, notice)
}

// take puts the topic of an idea into an article in the plan.
func take(r *frame.Request, article uint, text string) error {
	id, err := frame.IDOf(text)
	if err != nil {
		return err
	}
	sheet, err := r.Study.Articles.Plan(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	for _, a := range sheet.Articles {
		if a.Key() == article && !a.Gone {
			if one, err := sheet.Topics.Of(id); err == nil && one.At == a.At {
				return nil // pressed twice, or in two tabs
			}
			return r.Study.Topics.Join(r.Context(), r.Niche, []uint{a.ID, id})
		}
	}
	return &input.Error{Field: "article", Reason: "That article is no longer in the plan. Reload the page."}
}

func layOut(r *frame.Request) error {
	n, err := r.Study.Articles.LayOut(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	said := fmt.Sprintf("%s scheduled. Press u to undo.", r.Speak().Counted(n, "article", "articles"))
	if n == 1 {
		said = "1 article scheduled. Press u to undo."
	}
	if strings.Contains(r.Get("HX-Current-URL"), "/calendar") {
		return renewedCalendar(r)
	}
	return renewed(r, said)
}

// file is one that can be taken along.
type file struct {
	name, Says, media string
	write             func(r *frame.Request, w io.Writer) error
}

// Name is its name in addresses.
func (f file) Name() string { return f.name }

var files = []file{
	{"topics.csv", "Topics (CSV)", "text/csv; charset=utf-8; header=present",
		func(r *frame.Request, w io.Writer) error {
			return r.Study.Files.PlanCSV(r.Context(), r.Niche, w, false)
		}},
	{"sheet.csv", "Articles (CSV)", "text/csv; charset=utf-8; header=present",
		func(r *frame.Request, w io.Writer) error { return r.Study.Files.PlanCSV(r.Context(), r.Niche, w, true) }},
	{"plan.xlsx", "Both (XLSX)", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		func(r *frame.Request, w io.Writer) error { return r.Study.Files.PlanXLSX(r.Context(), r.Niche, w) }},
	{"plan.ics", "Calendar (iCalendar)", "text/calendar; charset=utf-8",
		func(r *frame.Request, w io.Writer) error {
			return r.Study.Files.Calendar(r.Context(), r.Niche, w, briefAddress(r))
		}},
	{"briefs.zip", "All briefs (Markdown, ZIP)", "application/zip", func(r *frame.Request, w io.Writer) error {
		list, err := r.Study.Briefs.All(r.Context(), r.Niche)
		if err != nil {
			return err
		}
		return briefs.WriteBriefs(w, list)
	}},
	{"plan.json", "Whole plan (JSON)", "application/json",
		func(r *frame.Request, w io.Writer) error { return r.Study.Files.PlanJSON(r.Context(), r.Niche, w) }},
}

func (f file) send(r *frame.Request) error {
	what, ending, _ := strings.Cut(f.name, ".")
	return r.SendFile(r.FileName(what, ending), f.media, func(w io.Writer) error { return f.write(r, w) })
}

func feedAddress(r *frame.Request, secret string) string {
	return fmt.Sprintf("%s://%s%s", r.Scheme(), r.Host(), r.Path("feed/"+secret))
}

// briefAddress says where the brief of an article is.
func briefAddress(r *frame.Request) func(id uint) string {
	base := fmt.Sprintf("%s://%s", r.Scheme(), r.Host())
	return func(id uint) string { return base + r.Path(fmt.Sprint("briefs/", id)) }
}

func endFeed(r *frame.Request) error {
	if err := r.Study.Files.EndFeed(r.Context(), r.Niche); err != nil {
		return err
	}
	return renewed(r, "Address turned off. Calendars can no longer read the plan.")
}

func renewFeed(r *frame.Request) error {
	if _, err := r.Study.Files.RenewFeed(r.Context(), r.Niche); err != nil {
		return err
	}
	return renewed(r, "New address made. The old one no longer works.")
}

// feed answers calendars that subscribe.
func feed(r *frame.Request) error {
	ok, err := r.Study.Files.IsFeed(r.Context(), r.Niche, r.Params("secret"))
	if err != nil {
		return err
	}
	if !ok {
		return input.ErrNotFound
	}
	r.Set(fiber.HeaderContentType, "text/calendar; charset=utf-8")
	r.Set(fiber.HeaderCacheControl, "no-cache")
	var out strings.Builder
	if err := r.Study.Files.Calendar(r.Context(), r.Niche, &out, briefAddress(r)); err != nil {
		return err
	}
	return r.SendString(out.String())
}

// startOwn starts a job about my own pages.
func startOwn(start func(*articles.Planner, context.Context, niches.Niche) (work.Job, error)) func(
	*frame.Request) error {
	return func(r *frame.Request) error {
		job, err := start(r.Study.Articles, r.Context(), r.Niche)
		if err != nil {
			return err
		}
		return jobs.Show(r, job.ID)
	}
}
