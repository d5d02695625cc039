// Package list is a list of ideas or topics behind a sieve, as several screens have it: its rows and columns, what is
// chosen in it and done with that, the map, files, look-ups. What a screen adds to it, a Kind says.
package list

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/files"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// Screen is what all lists have in common.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/export.:format", s.In(export))
	niche.Post("/decide", s.In(decide))
	niche.Post("/undo", s.In(undo))
	niche.Get("/points", s.In(points))
	niche.Get("/columns", s.In(showColumns))
	niche.Post("/columns", s.In(setColumns))
	niche.Get("/ids", s.In(idsBetween))
	niche.Post("/bulk", s.In(decideBulk))
	niche.Post("/bulk/copy", s.In(copyBulk))
	niche.Post("/aside", s.In(aside))
	niche.Post("/bulk/label", s.In(labelBulk))
	niche.Post("/bulk/delete", s.In(deleteBulk))
	niche.Post("/bulk/subject", s.In(subjectBulk))
	niche.Post("/lookup/estimate", s.In(estimateLookup))
	niche.Post("/lookup", s.In(startLookup))
}}

// Kind is what a screen adds to a list.
type Kind struct {
	Stage  frame.Stage
	Folder string // of its templates: NAME/NAME is the page, NAME/update what a change of the sieve renews
	Export string // address of what is left as a file, below the niche's
	// Begun is called before rows are made; it may say which figures are listed.
	Begun func(r *frame.Request)
	// Add fills in what is the screen's own of a page, or of its renewal.
	Add func(r *frame.Request, v *Page) error
	// Open is the evidence of the selected row.
	Open func(r *frame.Request, id uint) (any, error)
}

// Page is the whole screen.
type Page struct {
	frame.Page
	filters.View
	Thing, Things string // what is listed
	Columns       []column
	Labels        []string // that ideas have
	Rows          []frame.Row
	First         int    // place of the first of the rows
	Shown         int    // how many rows the list has
	Same          bool   // it is the same list again: it stays where it is scrolled to
	More          string // address of rows, but for the place they begin at
	All           int
	LeftNow       string
	Closed        bool // no evidence is shown below
	Drawer        any  // evidence of the selected row; nil when none is
	Own           any  // what is the screen's own
	Jobs          []jobs.Job
	Path          string
	Query         string // the sieve as an address query
	Export        string // address of the file of what is left
	Exports       []Way  // the same in other formats
	Problem       string
	Fold          bool     // wordings of one thing are one row
	Map           *mapView // nil when the list is shown
	Views         []Way
	Buttons       []Button // for what is chosen, beside those of all lists
	Nothing       Nothing  // said where there is nothing to list
	Left          ideas.Sifted
}

// Way is a way to look at what is left.
type Way struct {
	Name, Href string
	On         bool
	word       string // that the address says it by
	query      string
}

// Button is something to do with what is chosen.
type Button struct{ Do, Name string }

// Nothing is said of an empty list, with what to do about it.
type Nothing struct{ Bold, Says, Href, Do string }

// column is one heading of the list.
type column struct {
	Key, Label, Class, Href string
	Means                   string // what its figure is
	Sorted                  string // "", ascending, descending
	Second                  string // the same, as the second key
	Then                    string // address of the list with it as the second key
	Width                   int    // in pixels; 0 as wide as it needs to be
}

// rowsAtOnce is how many rows are sent at once: a screen of them, and some to scroll.
const rowsAtOnce = 30

// Show shows a list, or to htmx what changes with its sieve, or rows from a place on.
func Show(r *frame.Request, kind Kind) error {
	asked, err := filters.Ask(r, kind.Stage)
	if err != nil {
		return err
	}
	if kind.Begun != nil {
		kind.Begun(r)
	}
	b, err := filters.TableAt(r, kind.Stage)
	if err != nil {
		return err
	}
	res := b.Pass(asked.By)
	path := r.Path(kind.Stage.Path)
	v := Page{Problem: asked.Problem, All: res.All, LeftNow: r.Speak().Count(res.Count), Path: path,
		Query: asked.Query(asked.By), Left: res, Same: r.Query("quiet") != "", Thing: "idea", Things: "ideas"}
	if kind.Stage.Topics {
		v.Thing, v.Things = "topic", "topics"
	}
	v.Niche, v.Stage = r.Niche, kind.Stage.Path
	v.Export = r.Path(kind.Export + "?stage=" + strings.TrimSuffix(v.Stage+"&"+v.Query, "&"))
	if !kind.Stage.Topics {
		for _, f := range files.Formats()[1:] {
			if f.Media != "" {
				v.Exports = append(v.Exports, Way{Name: f.Says, Href: strings.Replace(v.Export, "export.csv", "export."+f.Name, 1)})
			}
		}
	}
	v.Look("list", "")
	v.Look("map", "map")
	if r.Query("view") == "map" {
		v.Map = mapOf(r, b, asked)
	}
	if err := kind.Add(r, &v); err != nil {
		return err
	}
	v.Columns = columns(r, asked, path)
	v.take(r.Query("view"))
	if err := v.fillRows(r, res); err != nil {
		return err
	}
	if r.Query("rows") != "" { // nothing but them
		return r.Render("list/rows", v)
	}
	if v.Labels, err = r.Study.Ideas.Marks(r.Context(), r.Niche.ID, sieve.Labels); err != nil {
		return err
	}
	if v.View, err = asked.View(r, b, res.Result); err != nil {
		return err
	}
	if r.Partial() {
		return update(r, kind, v)
	}
	if v.Page, err = r.Page(kind.Stage.Name, v.Stage, leftAt(kind.Stage, res.Count)); err != nil {
		return err
	}
	if v.Jobs, err = progress.Open(r); err != nil {
		return err
	}
	if err := v.openDrawer(r, kind); err != nil {
		return err
	}
	return r.Render(kind.Folder+"/"+kind.Folder, v)
}

// Look adds a way to look at what is left: by a word in the address, or by none.
func (v *Page) Look(name, word string) {
	query := v.Query
	if word != "" {
		query = strings.TrimPrefix(query+"&view="+word, "&")
	}
	v.Views = append(v.Views, Way{Name: name, Href: v.Path + "?" + query, word: word, query: query})
}

// take notes which way is taken.
func (v *Page) take(word string) {
	at := max(0, slices.IndexFunc(v.Views, func(one Way) bool { return one.word == word }))
	v.Views[at].On, v.Query = true, v.Views[at].query
}

// fillRows fills in the rows that are seen first, folded if that is asked for.
func (v *Page) fillRows(r *frame.Request, res ideas.Sifted) (err error) {
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
func update(r *frame.Request, kind Kind, v Page) (err error) {
	if v.Trail, err = r.Trail(v.Stage, leftAt(kind.Stage, v.Left.Count)); err != nil {
		return err
	}
	address := v.Path
	if v.Query == "" && kind.Stage.CountsItsSieve && r.Niche.UsualSieve != 0 {
		v.Query = "sort=" + v.Sort // or it would be the niche's usual one again
	}
	if v.Query != "" {
		address += "?" + v.Query
	}
	if !v.Same {
		r.Set("HX-Push-Url", address)
	}
	return r.Render(kind.Folder+"/update", v)
}

// leftAt is the count under Sift: what its own sieve leaves, and elsewhere, −1, what is
// not dropped.
func leftAt(stage frame.Stage, left int) int {
	if stage.CountsItsSieve {
		return left
	}
	return -1
}

// openDrawer fills the drawer with the selected row's evidence, or that of the first of the list.
func (v *Page) openDrawer(r *frame.Request, kind Kind) (err error) {
	if len(v.Rows) == 0 || v.Closed {
		return nil
	}
	at := max(0, slices.IndexFunc(v.Rows, func(row frame.Row) bool { return row.Selected }))
	v.Rows[at].Selected = true
	v.Drawer, err = kind.Open(r, v.Rows[at].ID)
	return err
}

func columns(r *frame.Request, asked filters.Asked, path string) (out []column) {
	by := asked.By
	for _, f := range r.Listed() {
		c := column{Key: f.Key, Label: f.Title(), Means: f.Means, Width: r.Niche.Width(f)}
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
		c.Href = path + "?" + asked.Query(to)
		if f != by.Order() {
			second := by.Thereby(f, !f.SmallestFirst)
			if by.Then == f.Key {
				second = by.Thereby(f, by.Up)
				c.Second = direction(!by.Up)
			}
			c.Then = path + "?" + asked.Query(second)
		}
		out = append(out, c)
	}
	return out
}

// showColumns shows which columns the list can have.
func showColumns(r *frame.Request) error {
	return r.Render("list/columns", map[string]any{"Niche": r.Niche, "Offered": offered(r.Niche)})
}

// setColumns notes which columns the list has from now on, in the order of the form.
func setColumns(r *frame.Request) error {
	var list []niches.Column
	for _, p := range filters.Pairs(string(r.Body())) {
		if p.Key != "column" {
			continue
		}
		key, width, _ := strings.Cut(p.Value, ":")
		px, _ := strconv.Atoi(width)
		list = append(list, niches.Column{Key: key, Width: px})
	}
	var err error
	if was := frame.Was(r.Ctx); was != nil {
		err = r.Study.Niches.ReplaceColumns(r.Context(), r.Niche, *was, list)
	} else {
		err = r.Study.Niches.SetColumns(r.Context(), r.Niche, list)
	}
	if err != nil {
		return err
	}
	return r.Render("frame/notice", map[string]any{"Said": "Columns changed."})
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
			sp.Counted(len(w.Phrases), "variant", "variants"), sp.Count(int(w.Searches)),
			strings.Join(w.Phrases[:min(len(w.Phrases), mostNamed)], ", "))
	}
}

// mostNamed is how many folded wordings are named.
const mostNamed = 12

// direction is an order as ARIA says it.
func direction(down bool) string {
	if down {
		return "descending"
	}
	return "ascending"
}
