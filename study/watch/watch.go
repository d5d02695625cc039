// Package watch is whether it worked: where my pages stand, on which day, beside what was forecast for them.
package watch

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/watch"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/rivals"
	"cleverniche/study/topics"
)

// Store is what is asked of the data file.
type Store interface {
	AddItems(ctx context.Context, job uint, behind string, payloads []string, seeds []store.Seed) error
	AddRemark(ctx context.Context, r store.Remark) error
	AddWatched(ctx context.Context, list []store.Watched) error
	ClaimCheck(ctx context.Context, seen store.Watch) (got bool, err error)
	DeleteOwnReads(ctx context.Context, niche uint, site string, before time.Time) error
	DeleteOwnSite(ctx context.Context, niche uint, site string) error
	DeleteRemark(ctx context.Context, watched, id uint) error
	Faced(ctx context.Context, niche uint) (map[uint]string, error)
	EverWatched(ctx context.Context, niche uint) ([]store.Watched, error)
	IdeaNamed(ctx context.Context, niche uint, phrase string) (store.Idea, error)
	KeptBefore(ctx context.Context, niche uint, moment time.Time) (n int, first time.Time, err error)
	KeptHistories(ctx context.Context, niche uint, after time.Time, most int) ([]store.KeptHistory, error)
	LatestPositions(ctx context.Context, niche uint, scene string, before int) (map[uint]store.Position, error)
	Mendings(ctx context.Context, niche uint) ([]store.Mending, error)
	Now() time.Time
	OneWatched(ctx context.Context, niche, id uint) (store.Watched, error)
	OwnReads(ctx context.Context, niche uint, site string) ([]store.OwnRead, error)
	OwnSites(ctx context.Context, niche uint) ([]store.OwnSite, error)
	Positions(ctx context.Context, niche uint) (map[uint][]store.Position, error)
	PositionsOf(ctx context.Context, watched uint) ([]store.Position, error)
	Remarks(ctx context.Context, watched uint) ([]store.Remark, error)
	Reports(ctx context.Context, niche uint, engine string) ([]store.Reported, error)
	RemoveWatched(ctx context.Context, niche, id uint, away bool) error
	SaveOwnRead(ctx context.Context, one store.OwnRead) error
	SaveOwnSite(ctx context.Context, one store.OwnSite) error
	SavePosition(ctx context.Context, p store.Position) error
	SavePositions(ctx context.Context, list []store.Position) error
	SetMending(ctx context.Context, m store.Mending) error
	SetWatch(ctx context.Context, w store.Watch) error
	Watch(ctx context.Context, niche uint) (store.Watch, error)
	Watched(ctx context.Context, niche uint) ([]store.Watched, error)
	WatchesDue(ctx context.Context) ([]store.Watch, error)
}

// Watcher watches.
type Watcher struct {
	store     Store
	asker     *ask.Asker
	niches    *niches.Keeper
	runner    *jobs.Runner
	results   *results.Researcher
	topics    *topics.Grouper
	planner   *articles.Planner
	gathering *gather.Gatherer
	rivals    *rivals.Scout
	site      func(url string) string
	stales    struct {
		mu sync.Mutex
		of map[uint]staleness
	}
	stage Stage // of a rehearsal; nil where the web is real
}

// Around is who knows what happens around my pages.
type Around struct {
	Gathering *gather.Gatherer
	Rivals    *rivals.Scout
}

// New returns a watcher.
func New(st Store, asker *ask.Asker, n *niches.Keeper, runner *jobs.Runner, r *results.Researcher, t *topics.Grouper,
	p *articles.Planner, a Around, suffixes links.Suffixes) *Watcher {
	return &Watcher{store: st, asker: asker, niches: n, runner: runner, results: r, topics: t, planner: p,
		gathering: a.Gathering, rivals: a.Rivals,
		site: func(url string) string { return suffixes.Site(links.Host(url)) }}
}

// MostWatched is how many phrases a niche watches at most.
const MostWatched = 2000

// forecast is what is kept of one.
type forecast struct {
	Chances []float64 `json:"chances"`
	Days    int       `json:"days"`
	Made    time.Time `json:"made"`
	Ten     []string  `json:"ten"`             // sites that stood there, the first first
	Links   []float64 `json:"links,omitempty"` // standings of their pages
}

func (f forecast) of() watch.Forecast { return watch.Forecast{Chances: f.Chances, Days: f.Days} }

// Sync watches the published articles of the plan, each for its lead, with what is forecast for it by now where nothing
// was before; what somebody stopped watching stays so. It is done whenever an article is published, and before what is
// watched is shown.
func (s *Watcher) Sync(ctx context.Context, n niches.Niche) error {
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return err
	}
	list, err := s.store.EverWatched(ctx, n.ID)
	if err != nil {
		return err
	}
	known := map[string]store.Watched{}
	for _, w := range list {
		if w.Site == "" {
			known[w.Phrase] = w
		}
	}
	var add []store.Watched
	for _, one := range t.List {
		old, is := known[one.Lead()]
		if one.State() != plan.Published || old.RemovedAt != nil {
			continue
		}
		out := one.Decided.Published.Time()
		w := store.Watched{NicheID: n.ID, Phrase: one.Lead(), Page: one.Decided.Address, TopicID: one.Decided.ID, OutAt: &out}
		if old.Forecast == "" {
			if err := s.forecastOf(ctx, n, one.ID, &w); err != nil {
				return err
			}
		}
		same := is && old.Page == w.Page && old.TopicID == w.TopicID && old.OutAt != nil && old.OutAt.Equal(out)
		if !same || w.Forecast != "" {
			add = append(add, w)
		}
	}
	if len(add) == 0 {
		return nil
	}
	return s.store.AddWatched(ctx, add)
}

// forecastOf fills in what is forecast for an idea now, to be kept, and what it is made of: nothing where it is not
// looked up, or is locked.
func (s *Watcher) forecastOf(ctx context.Context, n niches.Niche, idea uint, w *store.Watched) error {
	ev, err := s.results.Evidence(ctx, n, idea)
	if errors.Is(err, input.ErrNotFound) || errors.Is(err, results.ErrUnreadable) {
		return nil
	}
	if err != nil || ev.Verdict.Locked != "" {
		return err
	}
	f := forecast{Chances: watch.Chosen(ev.Places()), Days: n.LeadDays, Made: s.store.Now().UTC()}
	for _, e := range ev.Reading.Entries[:min(10, len(ev.Reading.Entries))] {
		f.Ten, f.Links = append(f.Ten, e.Site), append(f.Links, math.Round(e.PageStanding))
	}
	body, err := json.Marshal(f)
	if err != nil {
		return err
	}
	w.Forecast = string(body)
	body, err = json.Marshal(ev.Faced())
	w.Faced = string(body)
	return err
}

// Add watches phrases for a site of mine, one a line; behind a tab an address of it may stand that is meant to rank.
// "" is the niche's own site.
func (s *Watcher) Add(ctx context.Context, n niches.Niche, site, text string) (added int, ignored []string, err error) {
	if err := s.isMine(ctx, n, site); err != nil {
		return 0, nil, err
	}
	n = on(n, site)
	list, err := s.store.Watched(ctx, n.ID)
	if err != nil {
		return 0, nil, err
	}
	there := map[string]bool{}
	for _, w := range list {
		if w.Site == site {
			there[w.Phrase] = true
		}
	}
	var add []store.Watched
	for _, line := range strings.Split(strings.ReplaceAll(text, "\r", "\n"), "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		words, page, _ := strings.Cut(line, "\t")
		normal, err := phrase.Parse(words)
		if err == nil && page != "" {
			page, err = s.niches.OwnAddress(n, page)
		}
		if err != nil {
			ignored = append(ignored, fmt.Sprintf("“%s”: %s", input.Clip(line, 60), input.Sentence(err.Error())))
			continue
		}
		if !there[normal] {
			added++
		}
		there[normal] = true
		add = append(add, store.Watched{NicheID: n.ID, Site: site, Phrase: normal, Page: page})
	}
	switch {
	case len(add) == 0 && len(ignored) == 0:
		return 0, nil, input.Bad("phrases", "Type at least one phrase.")
	case len(add) == 0:
		return 0, ignored, input.Bad("phrases", "None of the lines is a phrase. The first: %s", ignored[0])
	case len(list)+added > MostWatched:
		return 0, ignored, input.Bad("phrases", "A niche watches %d phrases at most.", MostWatched)
	}
	return added, ignored, s.store.AddWatched(ctx, add)
}

// Remove watches a phrase no more, or again; its places stay.
func (s *Watcher) Remove(ctx context.Context, n niches.Niche, id uint, away bool) error {
	return s.store.RemoveWatched(ctx, n.ID, id, away)
}

// Every are the schedules one may choose, in days.
var Every = []struct {
	Days int
	Says string
}{{0, "when asked"}, {1, "every day"}, {7, "every week"}}

// SetEvery says how often places are checked.
func (s *Watcher) SetEvery(ctx context.Context, n niches.Niche, days int) error {
	for _, e := range Every {
		if e.Days == days {
			w, err := s.store.Watch(ctx, n.ID)
			if err != nil {
				return err
			}
			w.EveryDays = days
			return s.store.SetWatch(ctx, w)
		}
	}
	return input.Bad("every", "That option is not available. Reload the page.")
}

// Schedule is how often, and when last.
func (s *Watcher) Schedule(ctx context.Context, n niches.Niche) (days int, last time.Time, err error) {
	w, err := s.store.Watch(ctx, n.ID)
	if w.CheckedAt != nil {
		last = *w.CheckedAt
	}
	return w.EveryDays, last, err
}

// checkJob is the kind of jobs that check places.
const checkJob = "places"

// checkWorkers is how many phrases are checked at once.
const checkWorkers = 4

// Kinds are the kinds of jobs.
func (s *Watcher) Kinds() []jobs.Kind {
	return []jobs.Kind{{Name: checkJob, Workers: checkWorkers, Brings: "in the first hundred", Do: s.checkOne},
		{Name: pagesJob, Workers: readWorkers, Brings: "read", Do: s.readMine},
		{Name: pastJob, Workers: checkWorkers, Brings: "in the first hundred", Do: s.pastOne},
		{Name: rehearsalJob, Workers: 1, Brings: "in the first hundred", Waits: func(string) bool { return true },
			Do: s.aWeek}}
}

// check is one item of a job: a watched phrase, where it is looked for, and the moment before which an answer is old.
type check struct {
	Watched uint      `json:"watched"`
	Scene   string    `json:"scene,omitempty"` // another engine, country or language; "" where the niche searches
	Before  time.Time `json:"before"`
}

// CheckCost says what checking would ask at most.
func (s *Watcher) CheckCost(ctx context.Context, n niches.Niche) (e ask.Estimate, phrases int, err error) {
	list, err := s.store.Watched(ctx, n.ID)
	if err != nil {
		return e, 0, err
	}
	scenes, err := s.Chosen(ctx, n)
	if err != nil {
		return e, 0, err
	}
	once := map[string]bool{} // two of my sites may watch one phrase
	for _, w := range list {
		once[w.Phrase] = true
	}
	return e, len(once), s.asker.EstimateOpen(ctx, &e, ask.Results, len(once)*(1+len(scenes)), 0, checkWorkers)
}

// Check starts a job that looks for my places for all that is watched.
func (s *Watcher) Check(ctx context.Context, n niches.Niche) (job jobs.Job, err error) {
	if err := s.Sync(ctx, n); err != nil {
		return job, err
	}
	list, err := s.checkable(ctx, n)
	if err != nil {
		return job, err
	}
	if len(list) == 0 && n.OwnSite == "" {
		return job, input.Bad("site", "Set your site in Settings first.")
	}
	if len(list) == 0 {
		return job, input.Bad("phrases", "Nothing is watched yet. Publish an article in Plan, or add a phrase.")
	}
	seen, err := s.store.Watch(ctx, n.ID)
	if err != nil {
		return job, err
	}
	seen.NicheID = n.ID
	if _, err := s.store.ClaimCheck(ctx, seen); err != nil {
		return job, err
	}
	return s.start(ctx, n, list)
}

func (s *Watcher) start(ctx context.Context, n niches.Niche, list []store.Watched) (jobs.Job, error) {
	scenes, err := s.Chosen(ctx, n)
	if err != nil {
		return jobs.Job{}, err
	}
	var items []check
	now := s.store.Now().UTC()
	for _, scene := range append([]string{""}, scenes...) {
		for _, w := range list {
			items = append(items, check{w.ID, scene, now})
		}
	}
	says := fmt.Sprintf("Check your positions for %s", counted(len(list), "phrase"))
	if len(scenes) > 0 {
		says += fmt.Sprintf(" in %d places", 1+len(scenes))
	}
	return s.runner.Start(ctx, n, checkJob, says, jobs.Encode(items))
}

// Due checks niches whose day has come, once, however long ago that was. It returns how many it began.
func (s *Watcher) Due(ctx context.Context) (begun int, err error) {
	rows, err := s.store.WatchesDue(ctx)
	var errs []error
	for _, row := range rows {
		n, err := s.niches.Get(ctx, row.NicheID)
		if err != nil {
			errs = append(errs, err)
			continue
		}
		list, err := s.checkable(ctx, n)
		if err != nil || len(list) == 0 {
			errs = append(errs, err)
			continue
		}
		switch got, err := s.store.ClaimCheck(ctx, row); {
		case err != nil:
			errs = append(errs, err)
		case got:
			if _, err := s.start(ctx, n, list); err != nil {
				errs = append(errs, err)
				continue
			}
			begun++
		}
	}
	return begun, errors.Join(append(errs, err)...)
}

// mostAbove is how many sites above mine are kept of a check.
const mostAbove = 20

func (s *Watcher) checkOne(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var c check
	if err := json.Unmarshal([]byte(payload), &c); err != nil {
		return 0, err
	}
	return s.placeOf(ctx, n, c)
}

// placeOf asks where my page stands for one phrase, and keeps it.
func (s *Watcher) placeOf(ctx context.Context, n niches.Niche, c check) (found int, err error) {
	w, err := s.store.OneWatched(ctx, n.ID, c.Watched)
	if errors.Is(err, input.ErrNotFound) { // it is watched no more
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	scene, is := sceneOf(n, c.Scene)
	if !is { // it was taken out of the settings since
		return 0, nil
	}
	n = on(n, w.Site)
	got, err := s.asker.DeepestOf(ask.Again(ctx, c.Before), scene.Engine, w.Phrase, scene.Locale)
	if err != nil {
		return 0, err
	}
	found, err = s.stood(ctx, n, w, c.Scene, got.Value, got.At)
	for _, o := range got.Value.Organic { // the page is read, too, so that what it lacks can be said
		if err == nil && s.niches.IsOwn(n, o.URL) {
			_, _ = s.asker.Page(ctx, o.URL)
			break
		}
	}
	return found, err
}

// stood keeps where my page stood for a phrase in results of a moment.
func (s *Watcher) stood(ctx context.Context, n niches.Niche, w store.Watched, scene string, r market.Results,
	at time.Time) (found int, err error) {
	if len(r.Organic) == 0 {
		return 0, errors.New("the engine shows nothing at all for it; that says nothing of your place")
	}
	p := store.Position{WatchedID: w.ID, At: at.UTC(), Scene: scene, Engine: r.Engine, Depth: len(r.Organic)}
	var others, above []string
	for _, o := range r.Organic {
		switch own := s.niches.IsOwn(n, o.URL); {
		case own && p.Place == 0:
			p.Place, p.Page = o.Position, o.URL
		case own:
			others = append(others, fmt.Sprintf("%d %s", o.Position, o.URL))
		case p.Place == 0 && len(above) < mostAbove:
			above = append(above, s.site(o.URL))
		}
	}
	p.Others, p.Above = strings.Join(others, "\n"), strings.Join(above, "\n")
	if p.Place > 0 {
		found = 1
	}
	return found, s.store.SavePosition(ctx, p)
}

// typed is the name of places that somebody typed.
const typed = "typed by you"

// Type notes a place by hand.
func (s *Watcher) Type(ctx context.Context, n niches.Niche, id uint, day time.Time, place int) error {
	w, err := s.store.OneWatched(ctx, n.ID, id)
	switch {
	case err != nil:
		return err
	case place < 0 || place > 1000:
		return input.Bad("place", "A place is a whole number from 1 on; 0 stands for not found.")
	case day.After(s.store.Now()):
		return input.Bad("day", "That day is in the future.")
	case day.Before(s.store.Now().AddDate(-20, 0, 0)):
		return input.Bad("day", "That day is too long ago.")
	}
	if place > watch.Depth {
		place = 0
	}
	return s.store.SavePosition(ctx, store.Position{WatchedID: w.ID, At: day.UTC(), Engine: typed, Place: place,
		Depth: watch.Depth, Page: w.Page, Hand: true})
}

// MostRemark is how long a remark may be.
const MostRemark = 300

// Remark notes something about a watched page on a day.
func (s *Watcher) Remark(ctx context.Context, n niches.Niche, id uint, day time.Time, says string) error {
	if _, err := s.store.OneWatched(ctx, n.ID, id); err != nil {
		return err
	}
	says = strings.TrimSpace(says)
	switch {
	case says == "":
		return input.Bad("says", "Type what you did.")
	case len([]rune(says)) > MostRemark:
		return input.Bad("says", "It has more than %d characters.", MostRemark)
	}
	return s.store.AddRemark(ctx, store.Remark{WatchedID: id, Day: day.Format(time.DateOnly), Says: says})
}

// RemoveRemark takes one out.
func (s *Watcher) RemoveRemark(ctx context.Context, n niches.Niche, id, remark uint) error {
	if _, err := s.store.OneWatched(ctx, n.ID, id); err != nil {
		return err
	}
	return s.store.DeleteRemark(ctx, id, remark)
}

func split(lines string) []string {
	if lines == "" {
		return nil
	}
	return strings.Split(lines, "\n")
}
