// Package watch is whether it worked: where pages stand, beside what was forecast for them, and whether chances were
// right.
package watch

import (
	"cmp"
	"context"
	"fmt"
	"io"
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
	"cleverniche/study/niches"
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
	niche.Post("/watch/file", s.Form(takeFile, show))
	niche.Post("/watch/check", s.Form(check, show))
	niche.Get("/digest/:secret", s.In(digest))
	niche.Get("/watch/print", s.In(toPrint))
	niche.Post("/watch/digest", s.In(makeDigest))
	niche.Post("/watch/past", s.Form(askPast, show))
	niche.Post("/watch/every", s.Form(every, show))
	niche.Get("/watch/places/:format", s.In(export))
	niche.Post("/watch/sites", s.Form(addSite, show))
	niche.Post("/watch/sites/remove", s.In(removeSite))
	niche.Get("/watch/right", s.In(func(r *frame.Request) error { return showRight(r, nil) }))
	niche.Get("/watch/mine", s.In(func(r *frame.Request) error { return showMine(r, nil) }))
	niche.Get("/watch/pages/:format", s.In(exportMine))
	niche.Post("/watch/own", s.Form(useOwn, showRight))
	niche.Post("/watch/curve", s.Form(useCurve, showRight))
	niche.Post("/watch/mend", s.Form(mend, showMine))
	niche.Post("/watch/read", s.Form(readMine, showMine))
	niche.Post("/watch/go-on", s.Form(goOn, show))
	niche.Post("/watch/publish", s.Form(publish, show))
	niche.Get("/watch/:watched", s.In(func(r *frame.Request) error { return showOne(r, nil) }))
	niche.Post("/watch/:watched/place", s.Form(typePlace, showOne))
	niche.Post("/watch/:watched/remark", s.Form(remark, showOne))
	niche.Post("/watch/:watched/unremark", s.In(unremark))
	niche.Post("/watch/:watched/remove", s.In(remove))
}}

// head is what the pages of Watch begin with.
type head struct {
	frame.Page
	Tabs  []tab
	Job   *jobs.Job
	Wrong string
	Field string
	Typed string // in that field
}

type tab struct {
	Path, Name string
	Here       bool
}

// tabs are the pages of Watch.
var tabs = []tab{{Path: "watch", Name: "Positions"}, {Path: "watch/right", Name: "Was the forecast right?"},
	{Path: "watch/mine", Name: "Your pages"}}

// head of the page at a path.
func headOf(r *frame.Request, path string, wrong *input.Error) (h head, err error) {
	for _, t := range tabs {
		t.Here = t.Path == path
		h.Tabs = append(h.Tabs, t)
	}
	if wrong != nil {
		h.Wrong, h.Field, h.Typed = wrong.Reason, wrong.Field, r.FormValue(wrong.Field)
	}
	running, err := r.Study.Jobs.List(r.Context(), r.Niche.ID, progress.Shown)
	if err != nil {
		return h, err
	}
	if at := slices.IndexFunc(running, func(j jobs.Job) bool { return j.Runs() }); at >= 0 {
		h.Job = &running[at]
	}
	h.Page, err = r.Page("Watch", "watch", -1)
	return h, err
}

type page struct {
	head
	Tasks    []watch.Task
	Strips   []strip
	Cost     string
	Phrases  int
	Past     int // weeks of which no place is known and that can be asked for
	PastCost string
	Every    int
	Last     time.Time
	Choices  any
	Site     string // the niche's own
	SiteKey  string // the one that is shown; "" the niche's own
	Sites    []ownSite
	Scenes   []scene
	Removed  uint
	Brought  string // what a file brought, in words
	Digest   string // the secret address of what to do as a feed; "" none was made
	// Rehearses says that the web is simulated: its weeks can pass, and articles of the plan be published in it.
	Rehearses bool
	Weeks     int
	Articles  []articles.Article
	Today     string
	MostDeep  int
}

type ownSite struct {
	watch.OwnSite
	Here bool
}

type scene struct {
	niches.Scene
	Is bool
}

func show(r *frame.Request, wrong *input.Error) error { return showBrought(r, wrong, "") }

// showBrought shows it with what a file brought.
func showBrought(r *frame.Request, wrong *input.Error, brought string) error {
	ctx := r.Context()
	v := page{Choices: watch.Every, Site: r.Niche.OwnSite, MostDeep: core.Depth}
	if id, err := strconv.ParseUint(r.Query("removed"), 10, 32); err == nil {
		v.Removed = uint(id)
	}
	v.Brought = brought
	var err error
	if v.head, err = headOf(r, "watch", wrong); err != nil {
		return err
	}
	if v.Sites, v.SiteKey, err = sitesOf(r); err != nil {
		return err
	}
	chosen, err := r.Study.Watch.Chosen(ctx, r.Niche)
	if err != nil {
		return err
	}
	for _, s := range r.Niche.Scenes() {
		v.Scenes = append(v.Scenes, scene{s, slices.Contains(chosen, s.Key())})
	}
	if err := r.Study.Watch.Sync(ctx, r.Niche); err != nil {
		return err
	}
	list, tasks, err := week(r)
	if err != nil {
		return err
	}
	v.Tasks = tasks
	var last time.Time
	for _, p := range list {
		if p.Checked.After(last) {
			last = p.Checked
		}
		if p.Site != v.SiteKey {
			continue
		}
		v.Strips = append(v.Strips, stripOf(p, nil, r.Study.Now(), stripWidth, stripHeight))
	}
	secret, err := r.Study.Files.Feed(ctx, r.Niche)
	if err != nil {
		return err
	}
	if secret != "" {
		v.Digest = origin(r) + r.Path("digest/"+secret)
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
	return r.Render("watch/page", v)
}

// sitesOf are my sites, and the one of them that is shown: "" the niche's own.
func sitesOf(r *frame.Request) (list []ownSite, shown string, err error) {
	sites, err := r.Study.Watch.OwnSites(r.Context(), r.Niche)
	if err != nil || len(sites) == 0 {
		return nil, "", err
	}
	shown = cmp.Or(r.FormValue("site"), r.Query("site"))
	if !slices.ContainsFunc(sites, func(s watch.OwnSite) bool { return s.Site == shown }) {
		shown = ""
	}
	own := watch.OwnSite{Name: cmp.Or(r.Niche.OwnSite, "Site of this niche")}
	for _, s := range append([]watch.OwnSite{own}, sites...) {
		list = append(list, ownSite{s, s.Site == shown})
	}
	return list, shown, nil
}

// toStrips leads to the strips of the site that a form was about.
func toStrips(r *frame.Request) error {
	if site := r.FormValue("site"); site != "" {
		return r.To(r.Path("watch?site=" + url.QueryEscape(site) + "#strips"))
	}
	return r.To(r.Path("watch#strips"))
}

func addSite(r *frame.Request) error {
	site, err := r.Study.Watch.SaveOwnSite(r.Context(), r.Niche, r.FormValue("own-site"), r.FormValue("own-name"))
	if err != nil {
		return err
	}
	return r.To(r.Path("watch?site=" + url.QueryEscape(site) + "#strips"))
}

func removeSite(r *frame.Request) error {
	if err := r.Study.Watch.RemoveOwnSite(r.Context(), r.Niche, r.FormValue("own-site")); err != nil {
		return err
	}
	return r.To(r.Path("watch#sites"))
}

func add(r *frame.Request) error {
	added, ignored, err := r.Study.Watch.Add(r.Context(), r.Niche, r.FormValue("site"), r.FormValue("phrases"))
	if err != nil {
		return err
	}
	if len(ignored) > 0 {
		return input.Bad("phrases", "%s added. Left out: %s", frame.Capital(r.Speak().Counted(added, "phrase", "phrases")),
			input.Clip(strings.Join(ignored, " "), 300))
	}
	return toStrips(r)
}

func takeFile(r *frame.Request) error {
	head, err := r.FormFile("file")
	if err != nil || head.Size == 0 {
		return input.Bad("file", "Choose a file.")
	}
	in, err := head.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	got, err := r.Study.Watch.Bring(r.Context(), r.Niche, r.FormValue("site"), head.Filename, in)
	if err != nil {
		return err
	}
	sp := r.Speak()
	says := fmt.Sprintf("%s and %s imported.", sp.Counted(got.Phrases, "new phrase", "new phrases"),
		sp.Counted(got.Positions, "position", "positions"))
	if got.Bad > 0 {
		says += fmt.Sprintf(" %s left out.", frame.Capital(sp.Counted(got.Bad, "line was", "lines were")))
		for _, p := range got.Problems {
			says += fmt.Sprintf(" Line %d: %s.", p.Line, p.Reason)
		}
	}
	return showBrought(r, nil, says) // the same file once more changes nothing
}

func check(r *frame.Request) error {
	if _, err := r.Study.Watch.Check(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("watch"))
}

func origin(r *frame.Request) string { return fmt.Sprintf("%s://%s", r.Scheme(), r.Host()) }

// week are all watched pages, and what to do about them.
func week(r *frame.Request) (list []watch.Page, tasks []watch.Task, err error) {
	if list, err = r.Study.Watch.Pages(r.Context(), r.Niche); err != nil {
		return nil, nil, err
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
	ranking, _, err := r.Study.Articles.Actions(r.Context(), r.Niche, 0)
	if err != nil {
		return nil, nil, err
	}
	tasks, err = r.Study.Watch.Monday(r.Context(), r.Niche, list, ranking)
	return list, tasks, err
}

// toPrint is this week and all positions on paper.
func toPrint(r *frame.Request) (err error) {
	v := struct {
		frame.Page
		Tasks  []watch.Task
		Strips []strip
		Today  string
	}{Today: r.Study.Now().Format("2 January 2006")}
	list, tasks, err := week(r)
	if err != nil {
		return err
	}
	v.Tasks = tasks
	for _, p := range list {
		v.Strips = append(v.Strips, stripOf(p, nil, r.Study.Now(), stripWidth, stripHeight))
	}
	if v.Page, err = r.Page("This week", "watch", -1); err != nil {
		return err
	}
	return r.Render("watch/print", v)
}

// digest answers feed readers that subscribe: they know the secret.
func digest(r *frame.Request) error {
	ok, err := r.Study.Files.IsFeed(r.Context(), r.Niche, r.Params("secret"))
	if err != nil {
		return err
	}
	if !ok {
		return input.ErrNotFound
	}
	_, tasks, err := week(r)
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
	if err := r.Study.Watch.Choose(r.Context(), r.Niche, r.Posted("scene")); err != nil {
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
				Depth: x.Depth, Site: cmp.Or(p.Site, r.Niche.OwnSite), Scene: watch.SceneName(r.Niche, x.Scene)})
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
