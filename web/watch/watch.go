// Package watch is whether it worked: where pages stand, beside what was forecast for them, and whether chances were
// right.
package watch

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	core "cleverniche/core/watch"
	"cleverniche/study/articles"
	"cleverniche/study/files"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/watch"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

var stage = frame.Stage{Place: 6, Path: "watch", Name: "Watch", Question: "Did it work?",
	Count: func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.Out) + " published" }}

// Screen is Watch.
var Screen = frame.Screen{Stages: []frame.Stage{stage}, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/watch", s.In(func(r *frame.Request) error { return show(r, nil) }))
	niche.Post("/watch/add", s.Form(add, show))
	niche.Post("/watch/check", s.Form(check, show))
	niche.Get("/digest/:secret", s.In(digest))
	niche.Post("/watch/digest", s.In(makeDigest))
	niche.Post("/watch/past", s.Form(askPast, show))
	niche.Post("/watch/every", s.Form(every, show))
	niche.Get("/watch/places/:format", s.In(export))
	niche.Post("/watch/mend", s.Form(mend, show))
	niche.Post("/watch/read", s.Form(readMine, show))
	niche.Post("/watch/go-on", s.Form(goOn, show))
	niche.Post("/watch/publish", s.Form(publish, show))
	niche.Get("/watch/:watched", s.In(func(r *frame.Request) error { return showOne(r, nil) }))
	niche.Post("/watch/:watched/place", s.Form(typePlace, showOne))
	niche.Post("/watch/:watched/remark", s.Form(remark, showOne))
	niche.Post("/watch/:watched/unremark", s.In(unremark))
	niche.Post("/watch/:watched/remove", s.In(remove))
}}

type page struct {
	frame.Page
	Tasks    []watch.Task
	Strips   []strip
	Right    watch.Right
	Mine     watch.MyPages
	Faults   []watch.Fault
	Rest     int // faults that are not shown
	Bins     []bin
	Enough   int
	Cost     string
	Phrases  int
	Past     int // weeks of which no place is known and that can be asked for
	PastCost string
	Every    int
	Last     time.Time
	Choices  any
	Job      *jobs.Job
	Typed    string
	Wrong    string
	Field    string
	Site     string
	Few      bool
	Removed  uint
	Digest   string // the secret address of what to do as a feed; "" none was made
	// Rehearses says that the web is simulated: its weeks can pass, and articles of the plan be published in it.
	Rehearses bool
	Weeks     int
	Articles  []articles.Article
	Today     string
	MostDeep  int
}

type bin struct {
	core.Bin
	Says string
}

func show(r *frame.Request, wrong *input.Error) error {
	ctx := r.Context()
	v := page{Enough: core.Enough, Choices: watch.Every, Site: r.Niche.OwnSite, MostDeep: core.Depth}
	if wrong != nil {
		v.Wrong, v.Field, v.Typed = wrong.Reason, wrong.Field, r.FormValue("phrases")
	}
	if id, err := strconv.ParseUint(r.Query("removed"), 10, 32); err == nil {
		v.Removed = uint(id)
	}
	if err := r.Study.Watch.Sync(ctx, r.Niche); err != nil {
		return err
	}
	list, err := r.Study.Watch.Pages(ctx, r.Niche)
	if err != nil {
		return err
	}
	slices.SortStableFunc(list, func(a, b watch.Page) int { // what has a forecast first, the latest published first
		switch {
		case a.Forecast != nil && b.Forecast == nil:
			return -1
		case a.Forecast == nil && b.Forecast != nil:
			return 1
		}
		return b.Out.Compare(a.Out)
	})
	var last time.Time
	for _, p := range list {
		if p.Checked.After(last) {
			last = p.Checked
		}
		v.Strips = append(v.Strips, stripOf(p, nil, r.Study.Now(), stripWidth, stripHeight))
	}
	ranking, _, err := r.Study.Articles.Actions(ctx, r.Niche, 0)
	if err != nil {
		return err
	}
	if v.Tasks, err = r.Study.Watch.Monday(ctx, r.Niche, list, ranking); err != nil {
		return err
	}
	if v.Mine, err = r.Study.Watch.Mine(ctx, r.Niche, list, ranking); err != nil {
		return err
	}
	v.Faults = v.Mine.Faults[:min(mostFaults, len(v.Mine.Faults))]
	v.Rest = len(v.Mine.Faults) - len(v.Faults)
	secret, err := r.Study.Files.Feed(ctx, r.Niche)
	if err != nil {
		return err
	}
	if secret != "" {
		v.Digest = origin(r) + r.Path("digest/"+secret)
	}
	v.Right = watch.Rightness(list)
	v.Few = v.Right.Settled < core.Enough
	for _, b := range v.Right.PageOne.Bins {
		if b.N > 0 {
			v.Bins = append(v.Bins, bin{b, fmt.Sprintf("%.0f to %.0f %%", 100*b.From, 100*b.To)})
		}
	}
	e, phrases, err := r.Study.Watch.CheckCost(ctx, r.Niche)
	if err != nil {
		return err
	}
	v.Cost, v.Phrases = r.Study.Ask.Cost(e), phrases
	if e, v.Past, err = r.Study.Watch.PastCost(ctx, r.Niche, list); err != nil {
		return err
	}
	v.PastCost = r.Study.Ask.Cost(e)
	if v.Every, v.Last, err = r.Study.Watch.Schedule(ctx, r.Niche); err != nil {
		return err
	}
	if last.After(v.Last) {
		v.Last = last
	}
	if v.Rehearses = r.Study.Watch.Rehearses(); v.Rehearses {
		v.Weeks, v.Today = usualWeeks, r.Study.Now().Format("2 January 2006")
		if v.Articles, err = r.Study.Watch.ToPublish(ctx, r.Niche); err != nil {
			return err
		}
		v.Articles = v.Articles[:min(mostToPublish, len(v.Articles))]
	}
	running, err := r.Study.Jobs.List(ctx, r.Niche.ID, progress.Shown)
	if err != nil {
		return err
	}
	if at := slices.IndexFunc(running, func(j jobs.Job) bool { return j.Runs() }); at >= 0 {
		v.Job = &running[at]
	}
	if v.Page, err = r.Page("Watch", "watch", -1); err != nil {
		return err
	}
	return r.Render("watch/page", v)
}

func add(r *frame.Request) error {
	added, ignored, err := r.Study.Watch.Add(r.Context(), r.Niche, r.FormValue("phrases"))
	if err != nil {
		return err
	}
	if len(ignored) > 0 {
		return input.Bad("phrases", "%s added. Left out: %s", frame.Capital(r.Speak().Counted(added, "phrase", "phrases")),
			input.Clip(strings.Join(ignored, " "), 300))
	}
	return r.To(r.Path("watch#strips"))
}

func check(r *frame.Request) error {
	if _, err := r.Study.Watch.Check(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func origin(r *frame.Request) string { return fmt.Sprintf("%s://%s", r.Scheme(), r.Host()) }

// digest answers feed readers that subscribe: they know the secret.
func digest(r *frame.Request) error {
	ok, err := r.Study.Files.IsFeed(r.Context(), r.Niche, r.Params("secret"))
	if err != nil {
		return err
	}
	if !ok {
		return input.ErrNotFound
	}
	pages, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	ranking, _, err := r.Study.Articles.Actions(r.Context(), r.Niche, 0)
	if err != nil {
		return err
	}
	tasks, err := r.Study.Watch.Monday(r.Context(), r.Niche, pages, ranking)
	if err != nil {
		return err
	}
	d := core.Digest{Title: "This week: " + r.Niche.Name, Self: origin(r) + r.Path("digest/"+r.Params("secret")),
		Page: origin(r) + r.Path("watch")}
	for _, t := range tasks {
		d.List = append(d.List, core.ToDo{What: t.What, Why: t.Why, Href: origin(r) + r.Path(t.Path)})
	}
	r.Set(fiber.HeaderContentType, "application/atom+xml; charset=utf-8")
	r.Set(fiber.HeaderCacheControl, "no-cache")
	var out strings.Builder
	if err := d.Write(&out, r.Study.Now()); err != nil {
		return err
	}
	return r.SendString(out.String())
}

// makeDigest makes the secret address, where the calendar of the plan has none yet.
func makeDigest(r *frame.Request) error {
	secret, err := r.Study.Files.Feed(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	if secret == "" {
		if _, err := r.Study.Files.RenewFeed(r.Context(), r.Niche); err != nil {
			return err
		}
	}
	return r.To(r.Path("watch#monday"))
}

func askPast(r *frame.Request) error {
	if _, err := r.Study.Watch.AskPast(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func every(r *frame.Request) error {
	days, err := strconv.Atoi(r.FormValue("every"))
	if err != nil {
		days = -1
	}
	if err := r.Study.Watch.SetEvery(r.Context(), r.Niche, days); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

// export sends all places as a table.
func export(r *frame.Request) error {
	format, err := files.FormatNamed(r.Params("format"))
	if err != nil || format.Name != "csv" && format.Name != "xlsx" {
		return input.ErrNotFound
	}
	list, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	var stood []files.Stood
	for _, p := range list {
		_, points, _, err := r.Study.Watch.One(r.Context(), r.Niche, p.ID)
		if err != nil {
			return err
		}
		for _, x := range points {
			stood = append(stood, files.Stood{Phrase: p.Phrase, Page: x.Page, Engine: x.Engine, Day: x.At, Place: x.Place,
				Depth: x.Depth})
		}
	}
	title, now := "Places: "+r.Niche.Name, r.Now()
	return r.Stream(r.FileName("places", format.Ending), format.Media, func(_ context.Context, w io.Writer) error {
		return files.Places(w, stood, title, now, format)
	})
}

// A rehearsal goes on so many weeks unless somebody says otherwise, and shows so many articles.
const (
	usualWeeks    = 4
	mostToPublish = 6
)

// mostFaults is how many the page shows.
const mostFaults = 20

func mend(r *frame.Request) error {
	if err := r.Study.Watch.Mend(r.Context(), r.Niche, r.FormValue("url"), r.FormValue("fault"),
		r.FormValue("state")); err != nil {
		return err
	}
	return r.To(r.Path("watch#mine"))
}

func readMine(r *frame.Request) error {
	if _, err := r.Study.Watch.ReadMine(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func goOn(r *frame.Request) error {
	weeks, err := strconv.Atoi(strings.TrimSpace(r.FormValue("weeks")))
	if err != nil {
		return input.Bad("weeks", "Type a number of weeks.")
	}
	if _, err := r.Study.Watch.GoOn(r.Context(), r.Niche, weeks); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func publish(r *frame.Request) error {
	id, err := frame.IDOf(r.FormValue("article"))
	if err != nil {
		return input.ErrNotFound
	}
	if err := r.Study.Watch.Publish(r.Context(), r.Niche, id); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}
