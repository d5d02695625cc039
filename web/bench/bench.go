// Package bench is the daily screen, at three stages: the sieve at the left, the list,
// and the evidence of the chosen idea below.
package bench

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/web/frame"
	"cleverniche/web/group"
	"cleverniche/web/idea"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// stages are the stages at which it is shown.
var stages = []frame.Stage{
	{Place: 2, Path: "sift", Name: "Sift", Question: "Which are worth a closer look?", CountsItsSieve: true,
		Count: func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.Left) + " left" },
		First: sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}.By(sieve.Searches, true)},
	{Place: 3, Path: "judge", Name: "Judge", Question: "Can my site get onto page one, and what do searchers want?",
		Count: func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.LookedUp) + " looked up" },
		First: sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.On(sieve.ByLookedUp)}}.By(sieve.Difficulty,
			false)},
	group.Stage,
}

// Screen is the bench.
var Screen = frame.Screen{Stages: stages, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	for _, stage := range stages {
		niche.Get("/"+stage.Path, s.In(func(r *frame.Request) error { return show(r, stage) }))
	}
	niche.Get("/why", s.In(why))
	sievesRoutes(s, niche)
	niche.Get("/export.:format", s.In(export))
	niche.Get("/topics.csv", s.In(exportTopics))
	niche.Post("/decide", s.In(decide))
	niche.Post("/undo", s.In(undo))
	niche.Get("/points", s.In(points))
	niche.Get("/chips", s.In(chips))
	niche.Post("/columns", s.In(setColumns))
	niche.Get("/ids", s.In(idsBetween))
	niche.Post("/bulk", s.In(decideBulk))
	niche.Post("/bulk/copy", s.In(copyBulk))
	niche.Post("/aside", s.In(aside))
	niche.Post("/bulk/label", s.In(labelBulk))
	niche.Post("/lookup/estimate", s.In(estimateLookup))
	niche.Post("/lookup", s.In(startLookup))
}}

// page is the whole screen.
type page struct {
	frame.Page
	sieveView
	Columns []column
	Offered []column // that it could have
	Labels  []string // that ideas have
	Rows    []frame.Row
	First   int    // place of the first of the rows
	Shown   int    // how many rows the list has
	Kept    bool   // it is the same list again: it stays where it is scrolled to
	More    string // address of rows, but for the place they begin at
	All     int
	Left    int
	LeftNow string
	Drawer  *idea.View
	Grouped *grouped    // where topics are listed
	Topic   *group.View // the chosen one
	Tree    *group.Tree // nil when the list is shown
	Jobs    []jobs.Job
	Path    string
	Query   string // the sieve as an address query
	Export  string // address of the file of what is left
	Problem string
	Fold    bool     // wordings of one thing are one row
	Map     *mapView // nil when the list is shown
	AsList  string   // addresses of the two views
	AsMap   string
	AsTree  string
}

// grouped is what topics are made of.
type grouped struct {
	Scope   niches.Scope
	Scopes  []niches.Scope
	Shared  int
	Fewest  int
	Most    int
	Says    string
	OwnSite string
	Own     int    // topics that a page of my own answers
	Cost    string // of looking for my pages, at most
}

// boardAt is what a stage lists: the ideas, or the topics.
func boardAt(r *frame.Request, stage frame.Stage) (ideas.Table, error) {
	if !stage.Topics {
		return r.Board()
	}
	topics, err := r.Topics()
	if err != nil {
		return ideas.Table{}, err
	}
	return topics.Table(), nil
}

// group fills in what topics are made of.
func (v *page) group(r *frame.Request) error {
	topics, err := r.Topics()
	if err != nil {
		return err
	}
	g := grouped{Scope: topics.Scope, Scopes: niches.Scopes, Shared: topics.Shared, Fewest: topic.FewestShared,
		Most: topic.MostShared, Says: group.Grouped(topics, r.Speak()), OwnSite: r.Niche.OwnSite}
	for _, t := range topics.List {
		if len(t.Own) > 0 {
			g.Own++
		}
	}
	e, err := r.Study.Articles.EstimateOwnPages(r.Context())
	if err != nil {
		return err
	}
	g.Cost = r.Study.Ask.Cost(e)
	v.Grouped = &g
	v.Export = r.Path("topics.csv?stage=" + strings.TrimSuffix(group.Stage.Path+"&"+v.Query, "&"))
	return nil
}

// column is one heading of the list.
type column struct {
	Key, Label, Class, Href string
	Sorted                  string // "", ascending, descending
	Second                  string // the same, as the second key
	Then                    string // address of the list with it as the second key
	Width                   int    // in pixels; 0 as wide as it needs to be
}

// rowsAtOnce is how many rows are sent at once: a screen of them, and some to scroll.
const rowsAtOnce = 30

// show shows a stage, or to htmx the list and the sieve's counts, or rows from a place on.
func show(r *frame.Request, stage frame.Stage) error {
	path := stage.Path
	asked, lost, err := lengthen(r, pairsOf(string(r.Request().URI().QueryString())))
	if err != nil {
		return err
	}
	by, problems := sieve.Read(asked, stage.First)
	if stage.Topics {
		r.List(sieve.OfTopics())
	}
	b, err := boardAt(r, stage)
	if err != nil {
		return err
	}
	if by, err = usual(r, stage, asked, by); err != nil {
		return err
	}
	short, err := shorten(r, by, stage.First)
	if err != nil {
		return err
	}
	res := b.Pass(by)
	v := page{Problem: lost, All: res.All, Left: res.Count, LeftNow: r.Speak().Count(res.Count),
		Path: r.Path(path), Query: short.of(query(by, stage.First)),
		sieveView: viewOf(by, stage.First, draftsOf(asked, by, stage.First), res.Result, r.Speak())}
	v.Niche, v.Stage = r.Niche, path
	v.Remade, v.Kept = r.Query("remade") != "", r.Query("quiet") != ""
	v.complain(problems)
	if err := v.look(r, stage, b, by, res, short); err != nil {
		return err
	}
	v.Columns, v.Offered = columns(r, by, stage.First, v.Path, short), offered(r.Niche)
	if err := v.fillRows(r, res); err != nil {
		return err
	}
	if r.Query("rows") != "" { // nothing but them
		return r.Render("bench/rows", v)
	}
	if err := v.charge(r, b, by); err != nil {
		return err
	}
	if v.Labels, err = r.Study.Ideas.Labels(r.Context(), r.Niche.ID); err != nil {
		return err
	}
	v.ownChoices(v.Labels)
	if err := v.offer(r, by, stage.First, v.Path); err != nil {
		return err
	}
	if r.Partial() {
		return update(r, stage, v)
	}
	if v.Page, err = r.Page(frame.Capital(path), path, leftAt(stage, v.Left)); err != nil {
		return err
	}
	if v.Jobs, err = progress.Open(r); err != nil {
		return err
	}
	if err := v.openDrawer(r); err != nil {
		return err
	}
	return r.Render("bench/bench", v)
}

// complain says the first of what is wrong with the sieve that was asked for.
func (v *page) complain(problems []sieve.Problem) {
	if len(problems) == 0 {
		return
	}
	if v.Problem = problems[0].Reason; problems[0].Key != "" {
		v.Problem += " It was left out."
	}
}

// look fills in how the ideas are looked at: as a list, on the map, as topics, as a tree of hubs.
func (v *page) look(r *frame.Request, stage frame.Stage, b ideas.Table, by sieve.Sieve, res ideas.Sifted,
	short short) error {
	v.Export = r.Path("export.csv?stage=" + strings.TrimSuffix(stage.Path+"&"+v.Query, "&"))
	v.AsList, v.AsMap = v.Path+"?"+v.Query, v.Path+"?"+strings.TrimPrefix(v.Query+"&view=map", "&")
	if r.Query("view") == "map" {
		v.Map = mapOf(r, b, by, stage, v.Path, short)
		v.Query = strings.TrimPrefix(v.Query+"&view=map", "&")
	}
	v.AsTree = v.Path + "?" + strings.TrimPrefix(v.Query+"&view=tree", "&")
	if !stage.Topics {
		return nil
	}
	if err := v.group(r); err != nil || r.Query("view") != "tree" {
		return err
	}
	return v.tree(r, res)
}

// fillRows fills in the rows that are seen first, folded if that is asked for.
func (v *page) fillRows(r *frame.Request, res ideas.Sifted) (err error) {
	selected, _ := strconv.ParseUint(r.Query("idea"), 10, 32)
	shown := res
	var behind map[uint]ideas.Wordings
	if v.Fold = r.Query("fold") == "yes"; v.Fold {
		shown, behind = res.Folded()
		v.Query = strings.TrimPrefix(v.Query+"&fold=yes", "&")
	}
	v.Shown, v.More = shown.Count, v.Path+"?"+strings.TrimPrefix(v.Query+"&rows=", "&")
	v.First = firstRow(r, shown, uint(selected))
	if v.Rows, err = rows(r, shown, v.First, uint(selected)); err != nil {
		return err
	}
	foldInto(v.Rows, behind, r.Speak())
	return nil
}

// update answers htmx with the list, and what beside it has changed with the sieve.
func update(r *frame.Request, stage frame.Stage, v page) (err error) {
	if v.Trail, err = r.Trail(stage.Path, leftAt(stage, v.Left)); err != nil {
		return err
	}
	address := v.Path
	if v.Query == "" && stage.CountsItsSieve && r.Niche.UsualSieve != 0 {
		v.Query = "sort=" + v.Sort // or it would be the niche's usual one again
	}
	if v.Query != "" {
		address += "?" + v.Query
	}
	if !v.Kept {
		r.Set("HX-Push-Url", address)
	}
	return r.Render("bench/list-update", v)
}

// leftAt is the count under Sift: what its own sieve leaves, and elsewhere, −1, what is
// not dropped.
func leftAt(stage frame.Stage, left int) int {
	if stage.CountsItsSieve {
		return left
	}
	return -1
}

// openDrawer fills the drawer with the selected idea, or the first of the list.
func (v *page) openDrawer(r *frame.Request) error {
	if len(v.Rows) == 0 || v.Tree != nil {
		return nil
	}
	at := 0
	for i, row := range v.Rows {
		if row.Selected {
			at = i
		}
	}
	v.Rows[at].Selected = true
	if v.Grouped != nil {
		t, err := group.Of(r, v.Rows[at].ID)
		v.Topic = &t
		return err
	}
	d, err := idea.Of(r, v.Rows[at].ID)
	v.Drawer = &d
	return err
}

// tree fills in the hubs of the topics that are left.
func (v *page) tree(r *frame.Request, left ideas.Sifted) error {
	topics, err := r.Topics()
	if err != nil {
		return err
	}
	ids := map[uint]bool{}
	for _, id := range left.IDs(0, -1) {
		ids[id] = true
	}
	t := group.TreeOf(topics, ids)
	v.Tree = &t
	v.Query = strings.TrimPrefix(v.Query+"&view=tree", "&")
	return nil
}

func columns(r *frame.Request, by, base sieve.Sieve, path string, short short) (out []column) {
	for _, f := range r.Listed() {
		c := column{Key: f.Key, Label: f.Title(), Width: r.Niche.Width(f)}
		if f != sieve.Phrase {
			c.Class = "number"
		} else if r.Listing() {
			c.Label = "Topic"
		}
		to := by.By(f, !f.SmallestFirst)
		if f == by.Order() {
			to = by.By(f, !by.Down)
			c.Sorted = direction(by.Down)
		}
		c.Href = path + "?" + short.of(query(to, base))
		if f != by.Order() {
			second := by.Thereby(f, !f.SmallestFirst)
			if by.Then == f.Key {
				second = by.Thereby(f, by.Up)
				c.Second = direction(!by.Up)
			}
			c.Then = path + "?" + short.of(query(second, base))
		}
		out = append(out, c)
	}
	return out
}

// setColumns notes which columns the list has from now on, in the order of the form.
func setColumns(r *frame.Request) error {
	var list []niches.Column
	for _, p := range pairsOf(string(r.Body())) {
		if p.Key != "column" {
			continue
		}
		key, width, _ := strings.Cut(p.Value, ":")
		px, _ := strconv.Atoi(width)
		list = append(list, niches.Column{Key: key, Width: px})
	}
	if err := r.Study.Niches.SetColumns(r.Context(), r.Niche, list); err != nil {
		return err
	}
	return r.Render("frame/notice", map[string]any{"Said": "The list has other columns now."})
}

// offered are the columns that a list can have: those that it has first.
func offered(n niches.Niche) (out []column) {
	shown := n.Figures()[1:]
	for _, f := range shown {
		out = append(out, column{Key: f.Key, Label: f.Title(), Sorted: "yes", Width: n.Width(f)})
	}
	for _, f := range sieve.Showable() {
		if !slices.Contains(shown, f) {
			out = append(out, column{Key: f.Key, Label: f.Title()})
		}
	}
	return out
}

// firstRow is the place that the shown rows begin at: the one that is asked for, or a little
// before the selected idea.
func firstRow(r *frame.Request, left ideas.Sifted, selected uint) int {
	if from, err := strconv.Atoi(r.Query("rows")); err == nil {
		return max(0, from)
	}
	from, err := strconv.Atoi(r.Query("begin"))
	if err != nil {
		if place, ok := left.Place(selected); ok && place >= rowsAtOnce/2 {
			from = place - rowsAtOnce/4
		}
	}
	return max(0, min(from, left.Count-rowsAtOnce))
}

func rows(r *frame.Request, left ideas.Sifted, after int, selected uint) ([]frame.Row, error) {
	ideas, err := left.Ideas(r.Context(), after, rowsAtOnce)
	sp := r.Speak()
	out := make([]frame.Row, len(ideas))
	for i, idea := range ideas {
		out[i] = sp.Row(idea)
		out[i].Selected = idea.ID == selected
	}
	return out, err
}

// foldInto says in rows what wordings stand behind them.
func foldInto(rows []frame.Row, behind map[uint]ideas.Wordings, sp frame.Speaker) {
	for i := range rows {
		w, some := behind[rows[i].ID]
		if !some {
			continue
		}
		rows[i].Folded = fmt.Sprintf("+%d, %s", len(w.Phrases), sp.Count(int(w.Searches)))
		rows[i].Wordings = fmt.Sprintf("%s more, searched %s times a month together: %s",
			sp.Counted(len(w.Phrases), "wording", "wordings"), sp.Count(int(w.Searches)),
			strings.Join(w.Phrases[:min(len(w.Phrases), mostNamed)], ", "))
	}
}

// mostNamed is how many folded wordings are named.
const mostNamed = 12

// sifting is the sieve that a request's address carries, its stage, and the ideas.
func sifting(r *frame.Request) (by sieve.Sieve, stage frame.Stage, b ideas.Table, err error) {
	if by, stage, err = sieveOf(r, r.Query("stage"), string(r.Request().URI().QueryString())); err == nil {
		b, err = boardAt(r, stage)
	}
	return by, stage, b, err
}

// usual is the niche's usual sieve where an address asks for none; else what it asks for.
func usual(r *frame.Request, stage frame.Stage, asked []sieve.Pair, by sieve.Sieve) (sieve.Sieve, error) {
	if !stage.CountsItsSieve || r.Niche.UsualSieve == 0 || sieve.Asked(asked) {
		return by, nil
	}
	saved, err := r.Study.Sieves.Get(r.Context(), r.Niche.UsualSieve)
	if err != nil {
		return by, err
	}
	return withBase(saved.Sieve, stage.First), nil
}

// stop is a filter that stops a phrase, and the address of the sieve that would let it through.
type stop struct {
	sieve.Filter
	Loose string // the filter as it would have to be; "" when it has to go
	Href  string
}

// why says which filters stop a phrase that is not in the list, and what would let it through.
func why(r *frame.Request) error {
	text := strings.TrimSpace(r.Query("phrase"))
	if text == "" {
		return r.Render("bench/why", map[string]any{})
	}
	by, stage, b, err := sifting(r)
	if err != nil {
		return err
	}
	loosened, found := b.LetThrough(text, by)
	var stops []stop
	all := by
	for _, l := range loosened {
		one := stop{Filter: by.Filters[l.At], Href: r.Path(stage.Path) + "?" + query(l.Apply(by), stage.First)}
		if !l.Out {
			one.Loose = l.Filter.String()
		}
		stops, all = append(stops, one), l.Apply(all)
	}
	return r.Render("bench/why", map[string]any{"Phrase": text, "Found": found, "Stops": stops,
		"All": r.Path(stage.Path) + "?" + query(all, stage.First)})
}

// direction is an order as ARIA says it.
func direction(down bool) string {
	if down {
		return "descending"
	}
	return "ascending"
}
