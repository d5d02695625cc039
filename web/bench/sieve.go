package bench

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// sieveView is the sieve as it is drawn: the ready-made ones, what the chosen one did,
// and a control for each criterion.
type sieveView struct {
	Ready      []ready
	ReadySteps []control
	Above      []control // the meshes that cost nothing
	Below      []control // those that need the ten
	More       []control // criteria that are not in use
	Sort       string
	Down       bool
}

// ready is a ready-made sieve to choose.
type ready struct {
	sieve.Sieve
	Chosen bool
	Waits  string
}

// control is a mesh of the sieve, or one that could be.
type control struct {
	*sieve.Criterion
	ID          string // apart from others of its criterion
	Label       string
	Kind        string // of control
	Value, Ends string
	Step        string // of a number
	Lenient     bool   // lets through what is not measured
	Waits       string
	count
	at int // its place in the sieve; −1 when it is not in use
}

// count is what a mesh left and took.
type count struct {
	Active               bool
	Left, Removed, Alone string
	Unknown              string // how many of Removed are not known; "" when none
	Width                int    // of the bar, out of barWidth
	Nothing              bool   // it took nothing
}

const barWidth = 200

var kinds = map[sieve.Control]string{sieve.Bar: "number", sieve.Words: "words", sieve.Edges: "edges",
	sieve.OneOf: "choice", sieve.Switch: "switch"}

func newControl(c *sieve.Criterion) control {
	v := control{Criterion: c, ID: c.Key, Label: frame.Capital(c.Name), Kind: kinds[c.Control], Waits: c.Waits(),
		Step: "1"}
	if c.Places > 0 {
		v.Step = "any"
	}
	return v
}

// setTo fills in what a mesh asks for.
func (v *control) setTo(m sieve.Mesh) {
	v.Lenient = m.Unmeasured
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

// viewOf draws a sieve and what it did: the controls of criteria that people use daily,
// and of those in use, in the sieve's order; the others behind them.
func viewOf(by sieve.Sieve, res sieve.Result, sp frame.Speaker) (v sieveView) {
	v.Sort, v.Down = by.Order().Key, by.Down
	for _, r := range sieve.BuiltIn() {
		v.Ready = append(v.Ready, ready{r, r.Name == by.Behind, r.Waits()})
	}
	own := len(res.Steps) - len(by.Meshes)
	left := res.All
	for _, step := range res.Steps[:own] {
		c := newControl(step.Mesh.By)
		c.Label = frame.Capital(step.Mesh.String())
		c.took(step, sp)
		left = step.Left
		c.leaves(left, res.All, sp)
		v.ReadySteps = append(v.ReadySteps, c)
	}
	v.Above, v.Below = controls(res.Steps[own:], false), controls(res.Steps[own:], true)
	for _, list := range [][]control{v.Above, v.Below} {
		for i := range list {
			if at := list[i].at; at >= 0 {
				step := res.Steps[own+at]
				list[i].took(step, sp)
				left = step.Left
			}
			list[i].leaves(left, res.All, sp)
		}
	}
	for _, c := range sieve.Criteria() {
		if !c.Usual && !uses(res.Steps[own:], c) {
			v.More = append(v.More, newControl(c))
		}
	}
	return v
}

func uses(steps []sieve.Step, c *sieve.Criterion) bool {
	return slices.ContainsFunc(steps, func(s sieve.Step) bool { return s.Mesh.By == c })
}

// controls are those above the line, or below it. Criteria that are in use stand in the
// places of such, in the order of the sieve; a second mesh of one criterion stands last.
func controls(steps []sieve.Step, paid bool) (out []control) {
	var set []control
	times := map[string]int{}
	for at, s := range steps {
		if s.Mesh.By.Paid() != paid {
			continue
		}
		c := newControl(s.Mesh.By)
		if times[c.Key]++; times[c.Key] > 1 {
			c.ID = fmt.Sprint(c.Key, "-", times[c.Key])
		}
		c.setTo(s.Mesh)
		c.at = at
		set = append(set, c)
	}
	for _, c := range sieve.Criteria() {
		switch {
		case c.Paid() != paid:
		case uses(steps, c):
			out = append(out, set[0])
			set = set[1:]
		case c.Usual:
			v := newControl(c)
			v.at = -1
			out = append(out, v)
		}
	}
	return append(out, set...)
}

// took notes what a mesh took away.
func (m *control) took(step sieve.Step, sp frame.Speaker) {
	m.Active, m.Nothing = true, step.Removed == 0
	m.Removed, m.Alone = sp.Count(step.Removed), sp.Count(step.Alone)
	if step.Unknown > 0 {
		m.Unknown = sp.Count(step.Unknown)
	}
}

// leaves notes how many of all are left after a mesh.
func (m *control) leaves(left, all int, sp frame.Speaker) {
	m.Left, m.Width = sp.Count(left), draw.Share(left, all, barWidth)
}
