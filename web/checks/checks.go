// Package checks is the page of a list that is checked: what stops each of its phrases, and what people search instead.
package checks

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/checks"
	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/sieves"
	"cleverniche/web/draw"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// Screen is the page, and the form that begins it.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/check", s.In(func(r *frame.Request) error { return begin(r, "") }))
	niche.Post("/check", s.Form(check, func(r *frame.Request, wrong *input.Error) error { return begin(r, wrong.Reason) }))
	niche.Get("/verdict", s.In(func(r *frame.Request) error { return verdict(r, "") }))
	niche.Get("/verdict.:format", s.In(export))
	niche.Post("/verdict/wordings", s.Form(wordings, told))
	niche.Post("/verdict/searches", s.Form(searches, told))
	niche.Post("/verdict/judge", s.Form(judge, told))
	niche.Post("/verdict/take", s.Form(take, told))
}}

func told(r *frame.Request, wrong *input.Error) error { return verdict(r, wrong.Reason) }

// beginning is the form.
type beginning struct {
	frame.Page
	Name, List string
	Error      string
	Lists      []niches.Niche // that are being checked beside this niche
	Most       int
	Costs      string // what looking up the searches of costed phrases takes at most; "" where nobody can be asked
	Costed     int
}

// costed is for how many phrases the form says what looking up their searches costs.
const costed = 100

func begin(r *frame.Request, wrong string) (err error) {
	v := beginning{Name: r.FormValue("name"), List: r.FormValue("list"), Error: wrong, Most: checks.MostChecked}
	all, err := r.Study.Niches.All(r.Context())
	if err != nil {
		return err
	}
	for _, n := range all {
		if n.ListOf == r.Niche.ID && !n.Archived {
			v.Lists = append(v.Lists, n)
		}
	}
	e, err := r.Study.Gathering.EstimateSearches(r.Context(), costed)
	if err != nil {
		return err
	}
	if v.Costed = costed; e.Missing == "" {
		v.Costs = r.Study.Ask.Cost(e)
	}
	if v.Page, err = r.Page("Check a list", "gather", -1); err != nil {
		return err
	}
	return r.Render("checks/begin", v)
}

func check(r *frame.Request) error {
	n, err := r.Study.Checks.Begin(r.Context(), r.Niche, r.FormValue("name"), r.FormValue("list"))
	if err != nil {
		return err
	}
	return r.To(fmt.Sprintf("/niches/%d/verdict", n.ID))
}

// view is the page of a list.
type view struct {
	frame.Page
	Of      niches.Niche // the niche that it is beside; of ID 0 where that is gone
	Sieves  []sieves.Saved
	From    string
	Query   string
	Steps   []step
	All     string
	Left    string
	Passing bool
	Counts  []count
	Lines   []line
	Jobs    []jobs.Job
	Running bool
	Search  string // what looking up the searches that are not known costs; "" where all are
	Judge   string // what looking up page one of what passes costs
	ToJudge int
	Words   string // what looking for wordings costs
	ToWord  int
	Error   string
}

// step is a filter with what it left.
type step struct {
	Label, Key, Value  string
	Number             bool
	Hidden             []sieve.Pair
	Left, Removed      string
	Width              int
	Unmeasured, Active bool
}

type count struct {
	Says string
	N    string
}

type line struct {
	frame.Row
	checks.Line
	Searches, Difficulty, Chance, Often string
	Shown                               string
}

// stepWidth is how wide the bar of all phrases is, in px.
const stepWidth = 220

// sieveOf is the sieve that an address asks for; without any the niche's usual one, or the one of the trade for lists.
func sieveOf(r *frame.Request, text string) (sieve.Sieve, error) {
	pairs := filters.Pairs(text)
	if sieve.Asked(pairs) {
		for i, p := range pairs {
			if p.Key != "ready" {
				continue
			}
			if saved, err := r.Study.Sieves.Named(r.Context(), p.Value); err == nil && saved.ID > 0 {
				by, _ := sieve.Read(slices.Delete(slices.Clone(pairs), i, i+1), saved.Sieve)
				by.From = saved.Name
				return by, nil
			}
		}
		by, _ := sieve.Read(pairs, sieve.Sieve{})
		return by, nil
	}
	by, _ := sieve.ReadyMade("100 visits a day")
	by.From = by.Name
	return by, nil
}

func verdict(r *frame.Request, wrong string) (err error) {
	if r.Niche.ListOf == 0 {
		return input.ErrNotFound
	}
	text := string(r.Request().URI().QueryString())
	if r.Method() == fiber.MethodPost {
		text = r.FormValue("sift")
	}
	by, err := sieveOf(r, text)
	if err != nil {
		return err
	}
	v := view{Error: wrong, From: by.From, Query: filters.Query(by, sieve.Sieve{})}
	lines, did, err := r.Study.Checks.Verdicts(r.Context(), r.Niche, by)
	if err != nil {
		return err
	}
	if v.Of, err = r.Study.Niches.Get(r.Context(), r.Niche.ListOf); err != nil {
		v.Of = niches.Niche{}
	}
	if v.Sieves, err = r.Study.Sieves.All(r.Context()); err != nil {
		return err
	}
	v.fill(r, by, lines, did.Result)
	if err := v.costs(r, by, lines); err != nil {
		return err
	}
	if v.Jobs, err = r.Study.Jobs.List(r.Context(), r.Niche.ID, progress.Shown); err != nil {
		return err
	}
	for _, j := range v.Jobs {
		v.Running = v.Running || j.Runs()
	}
	if v.Page, err = r.Page("Verdict", "gather", -1); err != nil {
		return err
	}
	return r.Render("checks/verdict", v)
}

// fill fills in what each filter did, and what became of each phrase.
func (v *view) fill(r *frame.Request, by sieve.Sieve, lines []checks.Line, did sieve.Result) {
	sp := r.Speak()
	v.All, v.Left, v.Passing = sp.Counted(did.All, "phrase", "phrases"), sp.Count(did.Count), did.Count > 0
	for i, s := range did.Steps {
		m := by.Filters[i]
		pairs := sieve.Sieve{Filters: []sieve.Filter{m}}.Pairs(sieve.Sieve{})
		one := step{Label: frame.Capital(m.String()), Left: sp.Count(s.Left), Removed: sp.Count(s.Removed), Hidden: pairs,
			Width: draw.Share(s.Left, did.All, stepWidth), Active: !m.Off}
		if m.By.Control == sieve.Bar {
			one.Number, one.Label, one.Key, one.Value = true, frame.Capital(m.By.Name), m.By.Key, pairs[0].Value
			one.Hidden = pairs[1:]
		}
		v.Steps = append(v.Steps, one)
	}
	of := checks.Counts(lines)
	for _, verdict := range sieve.Verdicts() {
		if n := of[verdict]; n > 0 {
			says := string(verdict)
			if verdict == sieve.Passes && n != 1 {
				says = "pass"
			}
			v.Counts = append(v.Counts, count{says, sp.Count(n)})
		}
	}
	for _, l := range lines {
		one := line{Row: sp.Row(l.Idea), Line: l, Searches: sp.Cell(l.Idea, sieve.Searches).Text,
			Difficulty: sp.Cell(l.Idea, sieve.Difficulty).Text, Chance: sp.Cell(l.Idea, sieve.PageOne).Text,
			Often: sp.Count(l.Often), Shown: l.Told()}
		v.Lines = append(v.Lines, one)
	}
	order := map[sieve.Verdict]int{}
	for i, verdict := range sieve.Verdicts() {
		order[verdict] = i
	}
	slices.SortStableFunc(v.Lines, func(a, b line) int { return order[a.Verdict] - order[b.Verdict] })
}

// costs fills in what could be done next, and at what cost.
func (v *view) costs(r *frame.Request, by sieve.Sieve, lines []checks.Line) error {
	undemanded, err := r.Study.Ideas.Undemanded(r.Context(), r.Niche.ID)
	if err != nil {
		return err
	}
	if undemanded > 0 {
		e, err := r.Study.Gathering.EstimateSearches(r.Context(), undemanded)
		if err != nil {
			return err
		}
		if v.Search = r.Study.Ask.Cost(e); e.Missing != "" {
			v.Search = ""
		}
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	top := results.LookupOf("")
	if v.ToJudge = top.Lacking(b.Pass(by.Free())).Count; v.ToJudge > 0 {
		e, err := r.Study.Results.EstimateMost(r.Context(), r.Niche, top, v.ToJudge)
		if err != nil {
			return err
		}
		if v.Judge = r.Study.Ask.Cost(e); e.Missing != "" {
			v.ToJudge = 0
		}
	}
	for _, l := range lines {
		if l.WantsWording() && !l.Looked {
			v.ToWord++
		}
	}
	e, err := r.Study.Checks.EstimateWordings(r.Context(), v.ToWord)
	v.Words = r.Study.Ask.Cost(e)
	return err
}

// back goes back to the verdict under the same sieve.
func back(r *frame.Request) error { return r.To(r.Path("verdict") + "?" + r.FormValue("sift")) }

func searches(r *frame.Request) error {
	if _, err := r.Study.Gathering.LookUpSearches(r.Context(), r.Niche); err != nil {
		return err
	}
	return back(r)
}

// judge looks page one up of what passes the filters that cost nothing.
func judge(r *frame.Request) error {
	by, err := sieveOf(r, r.FormValue("sift"))
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	top := results.LookupOf("")
	left := top.Lacking(b.Pass(by.Free()))
	if left.Count == 0 {
		return input.Bad("list", "Page one of all that pass is looked up already.")
	}
	if _, err := r.Study.Results.Start(r.Context(), r.Niche, top, left.IDs(0, -1), false); err != nil {
		return err
	}
	return back(r)
}

func wordings(r *frame.Request) error {
	by, err := sieveOf(r, r.FormValue("sift"))
	if err != nil {
		return err
	}
	if _, err := r.Study.Checks.Wordings(r.Context(), r.Niche, by); err != nil {
		return err
	}
	return back(r)
}

func take(r *frame.Request) error {
	by, err := sieveOf(r, r.FormValue("sift"))
	if err != nil {
		return err
	}
	_, err = r.Study.Checks.TakeIn(r.Context(), r.Niche, by, r.FormValue("which") == "all", r.FormValue("reworded") != "")
	if err != nil {
		return err
	}
	return r.To(fmt.Sprintf("/niches/%d/gather", r.Niche.ListOf))
}

// export writes the verdicts as a file.
func export(r *frame.Request) error {
	format, err := files.FormatNamed(r.Params("format"))
	if err != nil || r.Niche.ListOf == 0 || !strings.HasPrefix(format.Name, "csv") && format.Name != "xlsx" {
		return input.ErrNotFound
	}
	by, err := sieveOf(r, string(r.Request().URI().QueryString()))
	if err != nil {
		return err
	}
	lines, _, err := r.Study.Checks.Verdicts(r.Context(), r.Niche, by)
	if err != nil {
		return err
	}
	title, now := r.Niche.Name, r.Study.Now()
	return r.Stream(r.FileName("verdict", format.Ending), format.Media, func(_ context.Context, w io.Writer) error {
		return files.Verdicts(w, lines, title, now, format)
	})
}
