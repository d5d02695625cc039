// Package watch is whether it worked: where pages stand, beside what was forecast for them, and whether chances were
// right.
package watch

import (
	"context"
	"fmt"
	"io"
	"math"
	"net/url"
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
	"cleverniche/web/draw"
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

// Sizes of strips.
const (
	stripWidth, stripHeight = 520.0, 70.0
	oneWidth, oneHeight     = 900.0, 220.0
	bandSteps               = 24
	shownDays               = 182 // of a strip at least, from publication on
)

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
	Said     string
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

// strip is a watched page as it is shown.
type strip struct {
	watch.Page
	Draw    draw.Course
	Now     string
	Since   []string
	Short   []string // of these, since a week ago or else last time, and since the start
	Says    string   // beside its forecast, in words
	Good    bool
	Bad     bool
	Chances string
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
	v.Said = r.Query("said")
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
		if (a.Forecast != nil) != (b.Forecast != nil) {
			return map[bool]int{true: -1, false: 1}[a.Forecast != nil]
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
	if v.Tasks, err = r.Study.Watch.Monday(ctx, r.Niche, r.Study.Articles, list); err != nil {
		return err
	}
	if v.Mine, err = r.Study.Watch.Mine(ctx, r.Niche, r.Study.Articles, list); err != nil {
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
	if _, err := r.Study.Watch.ReadMine(r.Context(), r.Niche, r.Study.Articles); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func goOn(r *frame.Request) error {
	weeks, err := strconv.Atoi(strings.TrimSpace(r.FormValue("weeks")))
	if err != nil {
		return input.Bad("weeks", "Type how many weeks pass.")
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

// stripOf draws a watched page.
func stripOf(p watch.Page, remarks map[string]time.Time, now time.Time, width, height float64) strip {
	s := strip{Page: p, Now: "not checked yet"}
	begin := p.Out
	if len(p.Line) > 0 && (begin.IsZero() || p.Line[0].Day.Before(begin)) {
		begin = p.Line[0].Day
	}
	if begin.IsZero() {
		begin = now
	}
	days := math.Max(shownDays, now.Sub(begin).Hours()/24)
	var low, high []float64
	if p.Forecast != nil && !p.Out.IsZero() {
		late := p.Out.Sub(begin).Hours() / 24
		for i := range bandSteps + 1 {
			b, w := p.Forecast.On(float64(i)*days/bandSteps - late)
			low, high = append(low, b), append(high, w)
		}
		best, worst := p.Forecast.Band()
		places := fmt.Sprintf("%d to %d", best, worst)
		if worst == 0 {
			places = fmt.Sprintf("%d or further down", best)
		}
		s.Chances = fmt.Sprintf("Forecast: place %s, page one %.0f %%.", places, 100*p.Forecast.PageOne())
	}
	var stood []draw.Stood
	for _, at := range p.Line {
		place := float64(at.Place)
		if at.Place == 0 {
			place = core.Depth + 1
		}
		stood = append(stood, draw.Stood{Day: at.Day.Sub(begin).Hours() / 24, Place: place})
	}
	marks := map[string]float64{}
	for says, day := range remarks {
		marks[says] = day.Sub(begin).Hours() / 24
	}
	s.Draw = draw.CourseOf(days, low, high, stood, marks, width, height)
	if len(p.Line) > 0 {
		s.Now = "place " + core.Says(p.Place)
		if p.Place == 0 {
			s.Now = core.Says(0)
		}
		for _, c := range []struct {
			name string
			by   watch.Change
		}{{"last time", p.Day}, {"a week ago", p.Week}, {"a month ago", p.Month}, {"the start", p.Start}} {
			if c.by.OK {
				s.Since = append(s.Since, "since "+c.name+" "+moved(c.by.By))
			}
		}
		if s.Short = s.Since; len(s.Since) > 2 {
			s.Short = []string{s.Since[1], s.Since[len(s.Since)-1]}
		}
	}
	switch p.Verdict {
	case core.Better:
		s.Good = true
	case core.Worse:
		s.Bad = true
	}
	switch {
	case p.Verdict == core.TooEarly:
		s.Says = fmt.Sprintf("Too early to tell: it settles by %s.", p.Tells.Format("2 January 2006"))
	case p.Verdict != "":
		s.Says = frame.Capital(string(p.Verdict)) + "."
	}
	return s
}

func moved(by int) string {
	switch {
	case by > 0:
		return fmt.Sprintf("up %d", by)
	case by < 0:
		return fmt.Sprintf("down %d", -by)
	}
	return "as it was"
}

func add(r *frame.Request) error {
	added, ignored, err := r.Study.Watch.Add(r.Context(), r.Niche, r.FormValue("phrases"))
	if err != nil {
		return err
	}
	said := fmt.Sprintf("Watching %s more.", r.Speak().Counted(added, "phrase", "phrases"))
	if len(ignored) > 0 {
		said += " Left out: " + input.Clip(strings.Join(ignored, "; "), 300)
	}
	return r.To(r.Path("watch?said=" + url.QueryEscape(said)))
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
	tasks, err := r.Study.Watch.Monday(r.Context(), r.Niche, r.Study.Articles, pages)
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

// one is a watched page alone.
type one struct {
	frame.Page
	S       strip
	Points  []point
	Remarks []noted
	Came    []string
	Today   string
	Wrong   string
	Field   string
	Typed   string
}

type point struct {
	At, Place, Page, Engine string
	Others                  []string
}

type noted struct {
	ID        uint
	Day, Says string
}

// mostPoints is how many places the page of one lists, the latest.
const mostPoints = 60

func showOne(r *frame.Request, wrong *input.Error) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	p, points, remarks, err := r.Study.Watch.One(r.Context(), r.Niche, id)
	if err != nil {
		return err
	}
	v := one{Today: r.Study.Now().Format(time.DateOnly)}
	if wrong != nil {
		v.Wrong, v.Field, v.Typed = wrong.Reason, wrong.Field, r.FormValue(wrong.Field)
	}
	marks := map[string]time.Time{}
	for _, m := range remarks {
		day, err := time.Parse(time.DateOnly, m.Day)
		if err == nil {
			marks[m.Day+": "+m.Says] = day
		}
		v.Remarks = append(v.Remarks, noted{m.ID, m.Day, m.Says})
	}
	v.S = stripOf(p, marks, r.Study.Now(), oneWidth, oneHeight)
	v.Came = p.Came()
	for i := len(points) - 1; i >= max(0, len(points)-mostPoints); i-- {
		x := points[i]
		at := point{x.At.Format("2 January 2006"), core.Says(x.Place), x.Page, x.Engine, nil}
		if x.Others != "" {
			at.Others = strings.Split(x.Others, "\n")
		}
		v.Points = append(v.Points, at)
	}
	if v.Page, err = r.Page(p.Phrase, "watch", -1); err != nil {
		return err
	}
	return r.Render("watch/one", v)
}

func dayIn(r *frame.Request) (time.Time, error) {
	day, err := time.Parse(time.DateOnly, strings.TrimSpace(r.FormValue("day")))
	if err != nil {
		return day, input.Bad("day", "Type the day as 2027-03-31.")
	}
	return day, nil
}

func typePlace(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	day, err := dayIn(r)
	if err != nil {
		return err
	}
	place, bad := strconv.Atoi(strings.TrimSpace(r.FormValue("place")))
	if bad != nil {
		return input.Bad("place", "A place is a whole number from 1 on; 0 stands for not found.")
	}
	if err := r.Study.Watch.Type(r.Context(), r.Niche, id, day, place); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprintf("watch/%d", id)))
}

func remark(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	day, err := dayIn(r)
	if err != nil {
		return err
	}
	if err := r.Study.Watch.Remark(r.Context(), r.Niche, id, day, r.FormValue("says")); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprintf("watch/%d", id)))
}

func unremark(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	of, err := frame.IDOf(r.FormValue("id"))
	if err != nil {
		return input.ErrNotFound
	}
	if err := r.Study.Watch.RemoveRemark(r.Context(), r.Niche, id, of); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprintf("watch/%d", id)))
}

func remove(r *frame.Request) error {
	id, err := r.ID("watched")
	if err != nil {
		return err
	}
	back := r.FormValue("back") != ""
	if err := r.Study.Watch.Remove(r.Context(), r.Niche, id, !back); err != nil {
		return err
	}
	if back {
		return r.To(r.Path("watch"))
	}
	return r.To(r.Path(fmt.Sprintf("watch?removed=%d", id)))
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
