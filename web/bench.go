package web

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// benchPage is the daily screen: the sieve, the list, and the evidence of the
// chosen idea.
type benchPage struct {
	page
	Sift       study.Sift
	Meshes     []meshView
	Ready      []readyView
	ReadySteps []meshView // what the chosen one did
	Columns    []columnView
	Rows       []rowView
	All        int
	Left       int
	LeftNow    string
	AllNow     string
	Drawer     *drawerView
	Jobs       []study.JobView
	Query      string // the sieve as an address query
	Path       string
	Problem    string
}

// meshView is one mesh of the sieve as it is drawn.
type meshView struct {
	Key, Label   string
	Active, Paid bool
	Left         string
	Removed      string
	Alone        string
	Unknown      int
	UnknownText  string
	Width        int // of the bar, out of 200
}

// readyView is a ready-made sieve to choose.
type readyView struct {
	study.ReadySieve
	Chosen bool
}

// columnView is one heading of the list.
type columnView struct {
	Key, Label, Class, Href string
	Sorted                  string // "", ascending, descending
}

const rowsAtOnce = 100

// bench shows a stage of the bench, or to htmx the list and the sieve's counts.
func (s *server) bench(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	stageName := c.Params("stage")
	base, ok := stageSifts[stageName]
	if !ok {
		return study.ErrNotFound
	}
	f, problem := readSift(queryValues(c), base)
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return err
	}
	res := b.Pass(f)
	v := benchPage{Sift: f, All: res.All, Left: res.Count, Path: nichePath(n, stageName), Problem: problem}
	v.Niche, v.Stage = n, stageName
	sp := speak(n)
	v.AllNow, v.LeftNow = sp.count(v.All), sp.count(v.Left)
	v.Query = siftQuery(f, base).Encode()
	v.ReadySteps, v.Meshes = meshViews(res.Result, len(f.Own()), sp)
	for _, r := range study.ReadySieves() {
		v.Ready = append(v.Ready, readyView{r, r.Name == f.Ready})
	}
	v.Columns = columnViews(f, base, v.Path)
	selected, _ := strconv.ParseUint(c.Query("idea"), 10, 32)
	after, _ := strconv.Atoi(c.Query("after"))
	v.Rows = rowViews(res, max(0, after), uint(selected), sp, v.Path+"?"+v.Query)
	if after > 0 {
		return c.Render("rows", v)
	}
	if isPartial(c) {
		if v.Trail, err = s.trail(c, n, stageName, siftLeft(stageName, v.Left)); err != nil {
			return err
		}
		address := v.Path
		if v.Query != "" {
			address += "?" + v.Query
		}
		if c.Query("quiet") == "" {
			c.Set("HX-Push-Url", address)
		}
		return c.Render("list-update", v)
	}
	if v.page, err = s.frame(c, n, capital(stageName), stageName, siftLeft(stageName, v.Left)); err != nil {
		return err
	}
	if err := s.openDrawer(c, n, b, &v); err != nil {
		return err
	}
	if v.Jobs, err = s.openJobs(c, n); err != nil {
		return err
	}
	return c.Render("bench", v)
}

// siftLeft is the count under Sift: what its own sieve leaves, and elsewhere, −1,
// what is not dropped.
func siftLeft(stageName string, left int) int {
	if stageName == "sift" {
		return left
	}
	return -1
}

// openDrawer fills the drawer with the selected idea, or the first of the list.
func (s *server) openDrawer(c fiber.Ctx, n store.Niche, b *study.Board, v *benchPage) error {
	if len(v.Rows) == 0 {
		return nil
	}
	id := v.Rows[0].ID
	for i := range v.Rows {
		if v.Rows[i].Selected {
			id = v.Rows[i].ID
		}
	}
	d, err := s.drawerOf(c, n, id)
	v.Drawer = &d
	for i := range v.Rows {
		v.Rows[i].Selected = v.Rows[i].ID == id
	}
	return err
}

// openJobs are the lookups that are not finished.
func (s *server) openJobs(c fiber.Ctx, n store.Niche) ([]study.JobView, error) {
	all, err := s.study.Jobs(c.Context(), n.ID, shownJobs)
	var out []study.JobView
	for _, j := range all {
		if j.State == store.Running || j.State == store.Stopped || j.State == store.Paused {
			out = append(out, j)
		}
	}
	return out, err
}

// stageSifts are the sieves that the stages begin with.
var stageSifts = map[string]study.Sift{
	"sift":  {Difficulty: -1, Show: study.ShowOpen, Sort: sieve.SortSearches, Down: true},
	"judge": {Difficulty: -1, Show: study.ShowOpen, Judged: true, Sort: sieve.SortDifficulty},
	"plan":  {Difficulty: -1, Show: study.ShowKept, Sort: sieve.SortSearches, Down: true},
}

func queryValues(c fiber.Ctx) url.Values {
	v := url.Values{}
	for k, x := range c.Queries() {
		v.Set(k, x)
	}
	return v
}

// readSift reads the sieve from an address or a form. What is no number is left
// out, and said.
func readSift(v url.Values, base study.Sift) (f study.Sift, problem string) {
	f = base
	number := func(key, label string, into *int) {
		text := strings.TrimSpace(v.Get(key))
		if !v.Has(key) {
			return
		}
		if text == "" {
			*into = 0
			if key == "difficulty" {
				*into = -1
			}
			return
		}
		n, err := strconv.Atoi(strings.ReplaceAll(text, ",", ""))
		if err != nil || n < 0 {
			problem = fmt.Sprintf("%s: “%s” is not a whole number, so it was left out.", label, text)
			return
		}
		*into = n
	}
	number("words", "Words at least", &f.Words)
	number("from", "Searches from", &f.From)
	number("to", "Searches to", &f.To)
	number("difficulty", "Difficulty at most", &f.Difficulty)
	number("footholds", "Footholds at least", &f.Footholds)
	if problem == "" && f.To > 0 && f.From > f.To {
		problem = fmt.Sprintf("No idea has searches from %d to %d: the first number is the larger one.", f.From, f.To)
	}
	if v.Has("holds") {
		f.Holds = v.Get("holds")
	}
	if v.Has("lacks") {
		f.Lacks = v.Get("lacks")
	}
	f.Unmeasured = v.Get("unmeasured") == "yes"
	if v.Has("judged") {
		f.Judged = v.Get("judged") == "yes"
	}
	if name := v.Get("ready"); v.Has("ready") {
		f.Ready = name
		if err := study.CheckReady(name); err != nil && name != "" {
			f.Ready, problem = "", err.Error()
		}
	}
	switch show := study.Show(v.Get("show")); show {
	case study.ShowOpen, study.ShowKept, study.ShowDropped, study.ShowAll:
		f.Show = show
	}
	if by := sieve.Column(v.Get("sort")); v.Has("sort") {
		if ok, smallestFirst := sieve.KnownColumn(by); ok {
			f.Sort, f.Down = by, !smallestFirst
		}
	}
	switch v.Get("order") {
	case "up":
		f.Down = false
	case "down":
		f.Down = true
	}
	return f, problem
}

// siftQuery writes a sieve as plain words in an address: what differs from base.
func siftQuery(f, base study.Sift) url.Values {
	v := url.Values{}
	number := func(key string, n, otherwise int) {
		if n != otherwise {
			v.Set(key, strconv.Itoa(n))
		}
	}
	number("words", f.Words, base.Words)
	number("from", f.From, base.From)
	number("to", f.To, base.To)
	number("difficulty", f.Difficulty, base.Difficulty)
	number("footholds", f.Footholds, base.Footholds)
	if f.Holds != "" {
		v.Set("holds", f.Holds)
	}
	if f.Lacks != "" {
		v.Set("lacks", f.Lacks)
	}
	if f.Ready != base.Ready {
		v.Set("ready", f.Ready)
	}
	if f.Unmeasured {
		v.Set("unmeasured", "yes")
	}
	if f.Judged != base.Judged {
		v.Set("judged", map[bool]string{true: "yes", false: "no"}[f.Judged])
	}
	if f.Show != base.Show {
		v.Set("show", string(f.Show))
	}
	if f.Sort != base.Sort || f.Down != base.Down {
		v.Set("sort", string(f.Sort))
		v.Set("order", map[bool]string{true: "down", false: "up"}[f.Down])
	}
	return v
}

// meshKeys maps a criterion to the form control it belongs to.
var meshKeys = map[sieve.Criterion]string{sieve.ByLength: "words", sieve.ByLeastSearches: "from", sieve.ByMostSearches: "to",
	sieve.ByHolding: "holds", sieve.ByLacking: "lacks", sieve.ByLookedUp: "judged", sieve.ByMostDifficulty: "difficulty",
	sieve.ByLeastFootholds: "footholds", sieve.ByDecision: "show"}

// meshViews are the steps of the ready-made sieve, and those of the user's own meshes
// behind it, which are so many, in the places of their controls.
func meshViews(res sieve.Result, own int, sp speaker) (ready, list []meshView) {
	left := res.All
	for _, step := range res.Steps[:len(res.Steps)-own] {
		m := meshView{Label: capital(step.Mesh.String()), Paid: step.Mesh.By.Paid()}
		m.took(step, sp)
		m.leaves(step.Left, res.All, sp)
		left = step.Left
		ready = append(ready, m)
	}
	list = []meshView{{Key: "show", Label: "Ideas"}, {Key: "words", Label: "Words at least"}, {Key: "from", Label: "Searches from"},
		{Key: "to", Label: "Searches to"}, {Key: "holds", Label: "Holds any of"}, {Key: "lacks", Label: "Holds none of"},
		{Key: "judged", Label: "Looked up", Paid: true}, {Key: "difficulty", Label: "Difficulty at most", Paid: true},
		{Key: "footholds", Label: "Footholds at least", Paid: true}}
	for i := range list {
		for _, step := range res.Steps[len(res.Steps)-own:] {
			if meshKeys[step.Mesh.By] == list[i].Key {
				list[i].took(step, sp)
				left = step.Left
			}
		}
		list[i].leaves(left, res.All, sp)
	}
	return ready, list
}

// took notes what a mesh took away.
func (m *meshView) took(step sieve.Step, sp speaker) {
	m.Active = true
	m.Removed, m.Alone = sp.count(step.Removed), sp.count(step.Alone)
	if m.Unknown = step.Unknown; m.Unknown > 0 {
		m.UnknownText = sp.count(step.Unknown)
	}
}

// leaves notes how many of all are left after a mesh.
func (m *meshView) leaves(left, all int, sp speaker) {
	m.Left = sp.count(left)
	if all > 0 && left > 0 {
		m.Width = max(1, 200*left/all)
	}
}

func columnViews(f, base study.Sift, path string) []columnView {
	list := []columnView{{Key: "idea", Label: "Idea"}, {Key: "words", Label: "Words", Class: "number"},
		{Key: "searches", Label: "Searches", Class: "number"}, {Key: "cpc", Label: "CPC", Class: "number"},
		{Key: "ads", Label: "Ad comp.", Class: "number"}, {Key: "difficulty", Label: "Difficulty", Class: "number"},
		{Key: "chance", Label: "Page one", Class: "number"}, {Key: "footholds", Label: "Footholds", Class: "number"},
		{Key: "wants", Label: "Wants", Class: "number"}}
	for i := range list {
		to := f
		_, smallestFirst := sieve.KnownColumn(sieve.Column(list[i].Key))
		to.Sort, to.Down = sieve.Column(list[i].Key), !smallestFirst
		if to.Sort == f.Sort {
			to.Down = !f.Down
			list[i].Sorted = map[bool]string{true: "descending", false: "ascending"}[f.Down]
		}
		list[i].Href = path + "?" + siftQuery(to, base).Encode()
	}
	return list
}

// rowViews are the rows from a position on; the last one knows where more are.
func rowViews(left study.Sifted, after int, selected uint, sp speaker, address string) []rowView {
	var out []rowView
	for _, row := range left.Rows(after, rowsAtOnce) {
		r := sp.row(row)
		r.Selected = r.ID == selected
		out = append(out, r)
	}
	if next := after + rowsAtOnce; next < left.Count && len(out) > 0 {
		out[len(out)-1].More = fmt.Sprintf("%s&after=%d", address, next)
	}
	return out
}

// why says which mesh stops a phrase that is not in the list.
func (s *server) why(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	text := strings.TrimSpace(c.Query("phrase"))
	if text == "" {
		return c.Render("why", map[string]any{})
	}
	base, ok := stageSifts[c.Query("stage")]
	if !ok {
		base = stageSifts["sift"]
	}
	f, _ := readSift(queryValues(c), base)
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return err
	}
	stops, found := b.WhyNot(text, f)
	names := make([]string, len(stops))
	for i, m := range stops {
		names[i] = m.String()
	}
	return c.Render("why", map[string]any{"Phrase": text, "Found": found, "Stops": names})
}
