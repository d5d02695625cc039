package filters

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/results"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// View is the sieve as it is drawn: its filters in their order, what can be added, and
// what crossing the line between those that cost nothing and the others would take.
type View struct {
	From     string // the sieve that it was begun with; "" none
	Changed  bool   // it asks for something else by now
	Sieves   []choice
	Above    []control // the filters that cost nothing
	Below    []control // those that need the ten
	Free     []addable
	Paid     []addable
	Tolls    []toll
	Sort     string
	Down     bool
	Then     string
	Up       bool
	Remade   bool         // its filters are others than the page has
	Gone     []sieve.Pair // what says that filters of the stage were taken out
	AllNow   string
	AllWidth int
}

// choice is a sieve to begin with.
type choice struct {
	Name, Href, Waits string
	Chosen            bool
}

// addable is a criterion that a filter can be added of.
type addable struct{ *sieve.Criterion }

// Started is the value that a filter of it begins with in the form.
func (a addable) Started() string {
	c := newControl(a.Criterion)
	if m := a.Begin(); m.Check() == nil {
		c.setTo(m)
	}
	return c.Value
}

// toll is what a lookup of what is left above the line takes.
type toll struct {
	results.Lookup
	Count       int
	Ideas, Cost string
	Missing     string // the question that nobody can be asked; "" where there is none
}

// control is a filter of the sieve, or one that has begun and not set yet.
type control struct {
	*sieve.Criterion
	ID          string // apart from others of its criterion
	Label       string
	Kind        string // of control
	Value, Ends string
	Lenient     bool // lets through what is not measured
	Off         bool
	Base        bool   // the stage begins with it: taking it out has to be said
	Without     string // how
	Options     []sieve.Choice
	count
	at int // its place in the sieve; −1 when it not set yet
}

// count is what a filter left and took.
type count struct {
	Active               bool
	Left, Removed, Alone string
	Unknown              string // how many ideas it cannot tell of; "" when none
	Width                int    // of the bar, out of barWidth
	Nothing              bool   // it took nothing
}

const barWidth = 200

var kinds = map[sieve.Control]string{sieve.Bar: "number", sieve.Words: "words", sieve.Edges: "edges",
	sieve.OneOf: "choice", sieve.Switch: "switch"}

func newControl(c *sieve.Criterion) control {
	return control{Criterion: c, ID: c.Key, Label: frame.Capital(c.Name), Kind: kinds[c.Control], at: -1,
		Options: c.Choices}
}

// setTo fills in what a filter asks for.
func (v *control) setTo(m sieve.Filter) {
	v.Lenient, v.Off = m.Unmeasured, m.Off
	switch m.By.Control {
	case sieve.Bar:
		v.Value = strconv.FormatFloat(m.Number, 'f', -1, 64)
	case sieve.OneOf:
		v.Value = m.Choice
	case sieve.Switch:
		v.Value = "yes"
	default:
		v.Value, v.Ends = strings.Join(m.Terms, ", "), strings.Join(m.Ends, ", ")
	}
}

// viewOf draws a sieve and what it did. drafts are criteria of filters that ask for nothing
// yet; they are drawn last on their side.
func viewOf(by, base sieve.Sieve, drafts []*sieve.Criterion, res sieve.Result, sp frame.Speaker) (v View) {
	v.Sort, v.Down, v.From, v.Then, v.Up = by.Order().Key, by.Down, by.From, by.Then, by.Up
	v.AllNow, v.AllWidth = sp.Count(res.All), barWidth
	v.Above, v.Below = controls(res, drafts, false, sp), controls(res, drafts, true, sp)
	for _, m := range base.Filters {
		there := false
		for _, side := range [][]control{v.Above, v.Below} {
			for i := range side {
				if side[i].Criterion == m.By {
					side[i].Base, side[i].Without, there = true, m.By.Without(), true
				}
			}
		}
		if !there {
			v.Gone = append(v.Gone, sieve.Pair{Key: m.By.Key, Value: m.By.Without()})
		}
	}
	for _, c := range sieve.Criteria() {
		switch {
		case c.Waits() != "":
		case c.Paid():
			v.Paid = append(v.Paid, addable{c})
		default:
			v.Free = append(v.Free, addable{c})
		}
	}
	return v
}

// controls are those above the line, or below it, in the order of the sieve.
func controls(res sieve.Result, drafts []*sieve.Criterion, paid bool, sp frame.Speaker) (out []control) {
	times := map[string]int{}
	add := func(by *sieve.Criterion) *control {
		c := newControl(by)
		if times[c.Key]++; times[c.Key] > 1 {
			c.ID = fmt.Sprint(c.Key, "-", times[c.Key])
		}
		out = append(out, c)
		return &out[len(out)-1]
	}
	left := res.All
	for at, s := range res.Steps {
		if s.Filter.By.Paid() == paid {
			c := add(s.Filter.By)
			c.setTo(s.Filter)
			c.at = at
			c.took(s, sp)
			c.leaves(s.Left, res.All, sp)
		}
		left = s.Left
	}
	for _, by := range drafts {
		if by.Paid() == paid {
			add(by).leaves(left, res.All, sp)
		}
	}
	return out
}

// draftsOf are the criteria that an address names without asking for anything.
func draftsOf(pairs []sieve.Pair, by, base sieve.Sieve) (out []*sieve.Criterion) {
	uses := func(s sieve.Sieve, c *sieve.Criterion) bool {
		return slices.ContainsFunc(s.Filters, func(m sieve.Filter) bool { return m.By == c })
	}
	for _, p := range pairs {
		c := sieve.CriterionNamed(p.Key)
		if c == nil || strings.TrimSpace(p.Value) != "" || c.Control == sieve.OneOf && !c.Own() ||
			c.Control == sieve.Switch || c.Waits() != "" || uses(by, c) || uses(base, c) || slices.Contains(out, c) {
			continue
		}
		out = append(out, c)
	}
	return out
}

// took notes what a filter took away.
func (m *control) took(step sieve.Step, sp frame.Speaker) {
	m.Active, m.Nothing = !step.Filter.Off, step.Removed == 0
	m.Removed, m.Alone = sp.Count(step.Removed), sp.Count(step.Alone)
	if step.Unknown > 0 {
		m.Unknown = sp.Count(step.Unknown)
	}
}

// leaves notes how many of all are left after a filter.
func (m *control) leaves(left, all int, sp frame.Speaker) {
	m.Left, m.Width = sp.Count(left), draw.Share(left, all, barWidth)
}

// ownChoices fills in the user's own choices, such as labels, and one that no idea has any more.
func (v *View) ownChoices(r *frame.Request) error {
	for _, side := range [][]control{v.Above, v.Below} {
		for i := range side {
			if !side[i].Own() {
				continue
			}
			marks, err := r.Study.Ideas.Marks(r.Context(), r.Niche.ID, side[i].Figure)
			if err != nil {
				return err
			}
			side[i].Options = []sieve.Choice{{Key: "", Name: "choose…"}}
			for _, l := range marks {
				side[i].Options = append(side[i].Options, sieve.Choice{Key: l, Name: l})
			}
			if is := side[i].Value; is != "" && !slices.Contains(marks, is) {
				side[i].Options = append(side[i].Options, sieve.Choice{Key: is, Name: is})
			}
		}
	}
	return nil
}

// charge fills in what the line costs: for the ten, and for all else that the filters below it go
// by.
func (v *View) charge(r *frame.Request, b ideas.Table, by sieve.Sieve) error {
	free := b.Pass(by.Free())
	for _, l := range results.Lookups() {
		used := func(m sieve.Filter) bool { return m.By.Figure != nil && m.By.Figure.From == l.From }
		if l.From != sieve.FromTen && !slices.ContainsFunc(by.Filters, used) {
			continue
		}
		t := toll{Lookup: l, Count: l.Lacking(free).Count}
		e, err := r.Study.Results.EstimateMost(r.Context(), r.Niche, l, t.Count)
		if err != nil {
			return err
		}
		t.Ideas, t.Cost, t.Missing = r.Speak().Count(t.Count), r.Study.Ask.Cost(e), string(e.Missing)
		v.Tolls = append(v.Tolls, t)
	}
	return nil
}

// offer fills in the sieves that one can begin with.
func (v *View) offer(r *frame.Request, by, base sieve.Sieve, path string) error {
	saved, err := r.Study.Sieves.All(r.Context())
	if err != nil {
		return err
	}
	v.Changed = v.From != ""
	for _, s := range saved {
		c := choice{Name: s.Name, Waits: s.Waits(), Chosen: s.Name == by.From}
		if c.Chosen {
			v.Changed = !withBase(s.Sieve, base).Same(by)
		}
		c.Href = path + "?" + Query(withBase(s.Sieve, base), base)
		v.Sieves = append(v.Sieves, c)
	}
	return nil
}

// withBase is a saved sieve as it is begun with at a stage: behind the filters of the stage
// that it does not ask for itself, and under its name.
func withBase(s, base sieve.Sieve) sieve.Sieve {
	out := base
	out.From, out.Filters = s.Name, nil
	for _, m := range base.Filters {
		if !slices.ContainsFunc(s.Filters, func(o sieve.Filter) bool { return o.By == m.By }) {
			out.Filters = append(out.Filters, m)
		}
	}
	out.Filters = append(out.Filters, s.Filters...)
	if s.Sort != "" {
		out.Sort, out.Down = s.Sort, s.Down
	}
	return out
}
