package main

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/standin"
)

// report is what a calibration found and how it fares on what it has not seen.
type report struct {
	plan      plan
	model     difficulty.Model
	found     fitted
	tried     []fitted
	penalty   float64
	losses    []float64 // by penalty
	train     int
	test      []Sample
	known     []Sample // the hobby not used, on the worlds that were: the taste is known
	trainFits []forecast
	duels     map[int][]forecast
	needed    []needed
}

func calibrate(p plan, train, known, test []Sample) (*report, error) {
	top, all, err := best(train)
	if err != nil {
		return nil, err
	}
	set := func(list []Sample) []Sample { return under(list, top.points, top.model.Gain) }
	train, known, test = set(train), set(known), set(test)
	r := &report{plan: p, found: top, tried: all, train: len(train), test: test, known: known,
		duels: map[int][]forecast{}}
	m := top.model
	if m.WellMade, err = wellMade(train); err != nil {
		return nil, err
	}
	if r.penalty, r.losses, err = bestPenalty(train, m); err != nil {
		return nil, err
	}
	if m.Engines, err = tastes(train, m, r.penalty); err != nil {
		return nil, err
	}
	m.Name = fmt.Sprintf("%s, %d tastes of worlds %s", p.day.Format("2 January 2006"), len(m.Engines), numbers(p.train))
	r.model = rounded(m)
	r.trainFits = forecasts(r.model, train, difficulty.PageOne, nil)
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree} {
		if r.duels[k], err = duels(train, test, k); err != nil {
			return nil, err
		}
	}
	return r, nil
}

func numbers(list []int) string {
	out := make([]string, len(list))
	for i, n := range list {
		out[i] = fmt.Sprint(n)
	}
	return strings.Join(out, ", ")
}

// text is the report in Markdown.
func (r *report) text() string {
	var b strings.Builder
	p := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	r.writeConstants(p)
	r.writeForecasts(p)
	r.writeUsers(p)
	r.writeRanges(p)
	r.writeNeeded(p)
	p("\n## Where it fails\n")
	p("Group by group, the first five, the worst forecast first:\n")
	p("| pages | outcomes | mean forecast | came true | AUC |\n|---|---|---|---|---|")
	for _, g := range r.groups() {
		p("| %s | %d | %.2f | %.2f | %.3f |", g.name, len(g.list), g.forecast, g.came, auc(g.list))
	}
	p("")
	p("The stand-in's worlds are possible webs. On the real one the order of phrases by difficulty is likelier to hold " +
		"than")
	p("the chances are; only a user's own positions over time can tell.")
	return b.String()
}

func (r *report) writeConstants(p func(string, ...any)) {
	m := r.model
	p("# Calibration of difficulty\n")
	p("Written by `go run ./cmd/calibrate --write`, which repeats it. In the stand-in web pages are published, half of " +
		"them")
	p("what our users could publish (sites of standing 0 to %d, at most %d links), half on sites of standing 0 to 60, "+
		"made", usersSite, usersLinks)
	p("badly and well, with no links and many, for phrases drawn half by how much they are searched and half evenly;")
	p("after %d weeks it is read where they stand. What is known of a page is what the application would read of it",
		settled)
	p("anywhere: its HTML, the links to it, the graph of sites. Each world's engines have tastes of their own.\n")
	p("Calibrated on worlds %s without the hobby %s: %d outcomes. Measured on worlds %s, all hobbies: %d outcomes.\n",
		numbers(r.plan.train), r.plan.heldOut, r.train, numbers(r.plan.test), len(r.test))
	p("| constant | value |\n|---|---|")
	p("| weight of page standing, site standing, fit | %.3f, %.3f, %.3f |", m.Weights.Page, m.Weights.Site, m.Weights.Fit)
	p("| exponent of site standing | %g |", m.Curve)
	p("| fit of a well-made page | %.0f |", m.WellMade)
	for item, points := range r.found.points {
		p("| points of the checklist for %s | %.0f |", serp.ItemName(item), points)
	}
	p("\nlinks.LinkGain and the exponent, by the mean log-likelihood of an outcome in the calibration:\n")
	p("| gain | exponent | log-likelihood |\n|---|---|---|")
	for _, f := range r.tried {
		if f.likelihood > r.found.likelihood-0.02 {
			p("| %g | %g | %.4f%s |", f.model.Gain, f.model.Curve, f.likelihood,
				marked(f.likelihood == r.found.likelihood, ", the likeliest"))
		}
	}
	p("\nHow strongly tastes are held to what they have in common, by the mean loss on samples left out:\n")
	p("| penalty | loss |\n|---|---|")
	for i, loss := range r.losses {
		p("| %g | %.4f%s |", penalties[i], loss, marked(penalties[i] == r.penalty, ", the least"))
	}
	p("\n| taste (world.engine) | τ | page, site, fit of the ten | steps of ranks 1, 3, 5, 10 |\n|---|---|---|---|")
	for _, t := range m.Engines {
		p("| %s | %.1f | %.2f, %.2f, %.2f | %.1f, %.1f, %.1f, %.1f |", t.Name, t.Tau, t.Ten.Page, t.Ten.Site, t.Ten.Fit,
			t.Step(1), t.Step(3), t.Step(5), t.Step(10))
	}
}

// row writes a line on forecasts; few tell nothing.
func row(p func(string, ...any), k int, what string, list []forecast) {
	if len(list) < fewest {
		return
	}
	base := 0.0
	for _, f := range list {
		if f.came {
			base += 1 / float64(len(list))
		}
	}
	p("| first %d | %s | %d | %.2f | %.3f | %.3f | %.3f |", k, what, len(list), base, auc(list), calibrationError(list),
		brier(list))
}

const forecastHead = "| goal | what | outcomes | base | AUC | ECE | Brier |\n|---|---|---|---|---|---|---|"

func (r *report) writeForecasts(p func(string, ...any)) {
	m := r.model
	p("\n## On worlds and tastes that were not used\n")
	p("AUC: the chance that a page that got there had the higher forecast than one that did not. ECE: mean distance of")
	p("forecast and share that came, in ten bins. Base: share that got there.\n")
	p(forecastHead)
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree} {
		row(p, k, "all", forecasts(m, r.test, k, nil))
		row(p, k, "hobby not used ("+r.plan.heldOut+")", forecasts(m, r.test, k,
			func(s Sample) bool { return s.Hobby == r.plan.heldOut }))
		for _, b := range bands {
			row(p, k, "phrases of "+b.name+" searches", forecasts(m, r.test, k,
				func(s Sample) bool { return s.Searches >= b.least && s.Searches < b.most }))
		}
		row(p, k, "hobby not used, tastes of the calibration, each by its own", r.byOwn(k))
		row(p, k, "ten independent duels, for comparison", r.duels[k])
	}
	p("\nTaste by taste (ECE with one forecast for all tastes cannot be small in each: no user knows which is met):\n")
	p(forecastHead)
	for _, name := range tasteNames(r.test) {
		row(p, difficulty.PageOne, name, forecasts(m, r.test, difficulty.PageOne,
			func(s Sample) bool { return s.taste() == name }))
	}
	p("\nOn the worlds it was calibrated on: AUC %.3f, ECE %.3f for page one.\n", auc(r.trainFits),
		calibrationError(r.trainFits))
	p("Page one, bin by bin:\n\n| forecasts | mean forecast | came true |\n|---|---|---|")
	for _, one := range reliability(forecasts(m, r.test, difficulty.PageOne, nil)) {
		p("| %d | %.2f | %.2f |", one.n, one.forecast, one.came)
	}
}

// byOwn are forecasts for the hobby that was not used on the worlds that were, each by the
// taste that it was found with.
func (r *report) byOwn(k int) (out []forecast) {
	own := byOwnTaste(r.model)
	for _, s := range r.known {
		out = append(out, forecasts(own(s), []Sample{s}, k, nil)...)
	}
	return out
}

// writeUsers tells how it fares for what our users have.
func (r *report) writeUsers(p func(string, ...any)) {
	p("\n## For what our users have\n")
	p("Sites of standing 0 to %d and at most %d links; and apart, sites of standing under %d without links. Telling: "+
		"share of",
		usersSite, usersLinks, youngest)
	p("forecasts between 0.1 and 0.9.\n")
	p("| goal | what | outcomes | base | AUC | ECE | telling |\n|---|---|---|---|---|---|---|")
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		for _, of := range []struct {
			name string
			keep func(Sample) bool
		}{{"users", isUsers}, {"young, without links", func(s Sample) bool { return s.Own.Site < youngest && s.Links == 0 }},
			{"users, hobby not used", func(s Sample) bool { return isUsers(s) && s.Hobby == r.plan.heldOut }}} {
			list := forecasts(r.model, r.test, k, of.keep)
			base, telling := 0.0, 0.0
			for _, f := range list {
				if f.came {
					base += 1 / float64(len(list))
				}
				if f.chance > 0.1 && f.chance < 0.9 {
					telling += 1 / float64(len(list))
				}
			}
			p("| first %d | %s | %d | %.2f | %.3f | %.3f | %.2f |", k, of.name, len(list), base, auc(list),
				calibrationError(list), telling)
		}
	}
}

// youngest is the standing under which a site has only opened.
const youngest = 3

func isUsers(s Sample) bool { return s.Own.Site <= usersSite && s.Links <= usersLinks }

// writeRanges tells how often the range over the tastes holds what came, in the cells of
// forecast's tenth and taste.
func (r *report) writeRanges(p func(string, ...any)) {
	p("\n## Ranges\n")
	p("The forecasts of each taste that was not used are put into ten bins; a cell of at least %d holds when the share "+
		"that",
		fewestInCell)
	p("came lies between the mean low and the mean high end of its ranges.\n")
	p("| goal | cells | hold | mean width |\n|---|---|---|---|")
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		cells, hold, width := r.ranges(k)
		p("| first %d | %d | %.2f | %.2f |", k, cells, hold, width)
	}
}

// fewestInCell is how many outcomes a cell of bin and taste needs.
const fewestInCell = 15

func (r *report) ranges(k int) (cells int, hold, width float64) {
	type cell struct{ n, low, high, came float64 }
	all := map[string]*cell{}
	n := 0.0
	for _, s := range r.test {
		if !full(s) {
			continue
		}
		x := r.model.Range(field(s), r.model.Strength(s.Mine), k)
		key := fmt.Sprint(s.taste(), min(bins-1, int(x.Mean*bins)))
		if all[key] == nil {
			all[key] = &cell{}
		}
		c := all[key]
		c.n, c.low, c.high = c.n+1, c.low+x.Low, c.high+x.High
		if reached(s, k) {
			c.came++
		}
		width, n = width+x.High-x.Low, n+1
	}
	for _, c := range all {
		if c.n < fewestInCell {
			continue
		}
		cells++
		if c.low <= c.came && c.came <= c.high {
			hold++
		}
	}
	return cells, hold / float64(cells), width / n
}

func (r *report) writeNeeded(p func(string, ...any)) {
	if len(r.needed) == 0 {
		return
	}
	p("\n## Difficulty and what is really needed\n")
	p("For phrases of the held-out worlds %d pages each are tried, from weak to strong, and the strength is found "+
		"that tells", rungs)
	p("those that got among the first five from the others. Phrases where all or none got there are left out.\n")
	p("| where | phrases | Spearman | mean error |\n|---|---|---|---|")
	row := func(name string, keep func(needed) bool) {
		var x, y []float64
		off := 0.0
		for _, n := range r.needed {
			if keep(n) {
				x, y = append(x, n.Difficulty), append(y, n.Really)
				off += n.Difficulty - n.Really
			}
		}
		if len(x) > 2 {
			p("| %s | %d | %.3f | %+.1f |", name, len(x), spearman(x, y), off/float64(len(x)))
		}
	}
	row("all", func(needed) bool { return true })
	row("hobbies used, on worlds not used", func(n needed) bool { return n.Hobby != r.plan.heldOut })
	row("hobby not used ("+r.plan.heldOut+")", func(n needed) bool { return n.Hobby == r.plan.heldOut })
	for i, e := range standin.EngineNames {
		row(fmt.Sprint("engine ", i+1), func(n needed) bool { return n.Engine == e })
	}
	for _, world := range r.plan.test {
		row(fmt.Sprint("world ", world), func(n needed) bool { return n.World == world })
	}
}

// group is some of the outcomes, with what was forecast of them in the mean and what
// came of it.
type group struct {
	name           string
	list           []forecast
	forecast, came float64
}

// fewest is how many outcomes a group needs to be told of.
const fewest = 40

// groups are the outcomes on the held-out worlds by what pages they are, those first
// whose mean forecast is furthest from what came true.
func (r *report) groups() []group {
	var out []group
	add := func(name string, keep func(Sample) bool) {
		g := group{name: name, list: forecasts(r.model, r.test, difficulty.TopFive, keep)}
		for _, f := range g.list {
			g.forecast += f.chance / float64(len(g.list))
			if f.came {
				g.came += 1 / float64(len(g.list))
			}
		}
		if len(g.list) >= fewest {
			out = append(out, g)
		}
	}
	between := func(of func(Sample) float64, from, to float64) func(Sample) bool {
		return func(s Sample) bool { return of(s) >= from && of(s) < to }
	}
	site := func(s Sample) float64 { return s.Own.Site }
	add("on a site of standing under 20", between(site, 0, 20))
	add("on a site of standing 20 to 40", between(site, 20, 40))
	add("on a site of standing 40 to 60", between(site, 40, 61))
	page := func(s Sample) float64 { return s.Mine.Page }
	add("without any link that counts", between(page, 0, 1))
	add("with a page standing of 1 to 60", between(page, 1, 60))
	add("with a page standing of 60 and more", between(page, 60, 101))
	fit := func(s Sample) float64 { return s.Mine.Fit }
	add("of a fit under 50", between(fit, 0, 50))
	add("of a fit of 50 to 80", between(fit, 50, 80))
	add("of a fit of 80 and more", between(fit, 80, 101))
	hard := func(s Sample) float64 { return r.model.For(field(s), difficulty.TopFive) }
	add("where difficulty is under 10", between(hard, 0, 10))
	add("where difficulty is 10 to 30", between(hard, 10, 30))
	add("where difficulty is 30 and more", between(hard, 30, 101))
	words := func(s Sample) float64 { return float64(len(strings.Fields(s.Phrase))) }
	add("for phrases of up to three words", between(words, 1, 4))
	add("for phrases of four and five words", between(words, 4, 6))
	add("for phrases of six words and more", between(words, 6, 100))
	hobbies := map[string]bool{}
	for _, s := range r.test {
		hobbies[s.Hobby] = true
	}
	for _, h := range slices.Sorted(maps.Keys(hobbies)) {
		add("of the hobby "+h, func(s Sample) bool { return s.Hobby == h })
	}
	slices.SortStableFunc(out, func(a, b group) int {
		return cmp.Compare(math.Abs(b.forecast-b.came), math.Abs(a.forecast-a.came))
	})
	return out
}

// sources are the Go files of the constants, by their names.
func (r *report) sources() map[string]string {
	const head = "// Code generated by cmd/calibrate. DO NOT EDIT.\n\npackage "
	all := forecasts(r.model, r.test, difficulty.PageOne, nil)
	points := make([]string, len(r.found.points))
	for i, n := range r.found.points {
		points[i] = fmt.Sprintf("%.0f", n)
	}
	var tastes strings.Builder
	for _, t := range r.model.Engines {
		fmt.Fprintf(&tastes, "{Name: %q, Weight: 1. / %d, Ten: Weights{%.3f, %.3f, %.3f}, Tau: %.2f,\nSteps: []Step{", t.Name,
			len(r.model.Engines), t.Ten.Page, t.Ten.Site, t.Ten.Fit, t.Tau)
		for _, s := range t.Steps {
			fmt.Fprintf(&tastes, "{%d, %.2f}, ", s.Rank, s.Above)
			if s.Rank == difficulty.TheGoal {
				tastes.WriteString("\n") // short lines
			}
		}
		tastes.WriteString("}},\n")
	}
	return map[string]string{
		"core/links/calibrated.go": head + fmt.Sprintf(`links

// LinkGain is k in page standing = 100·(1 − e^(−Σ(standing/100)²/k)): with it two links
// from sites of standing 40 give %.0f. The likeliest of %d values on
// %s.
const LinkGain = %g
`, 100*(1-math.Exp(-2*0.16/r.model.Gain)), len(gains), r.model.Name, r.model.Gain),
		"core/serp/calibrated.go": head + fmt.Sprintf(`serp

// Checklist is what each item of the fit is worth at most: title, main heading,
// subheading, address, description, first words, body, kind of page, nothing else in the
// title. Five of them are kept small; the others were found on
// %s.
var Checklist = Points{%s}
`, r.model.Name, strings.Join(points, ", ")),
		"core/difficulty/calibrated.go": head + fmt.Sprintf(`difficulty

// WellMade is the fit of a well-made page: the middle of those that were made with care.
const WellMade = %.1f

// Calibrated was found on %d outcomes in worlds %s of the stand-in, without the hobby
// %s. On %d outcomes in worlds %s, whose tastes it has not met: AUC %.3f,
// expected calibration error %.3f for page one. docs/calibration.md has the rest.
var Calibrated = Model{
	Name:     %q,
	Gain:     %g,
	Curve:    %g,
	WellMade: WellMade,
	Weights:  Weights{Page: %.3f, Site: %.3f, Fit: %.3f},
	Tastes: []Taste{
		%s},
}
`, r.model.WellMade, r.train, numbers(r.plan.train), r.plan.heldOut, len(all), numbers(r.plan.test), auc(all),
			calibrationError(all), r.model.Name, r.model.Gain, r.model.Curve, r.model.Weights.Page, r.model.Weights.Site,
			r.model.Weights.Fit, tastes.String()),
	}
}

// marked is a mark where it holds.
func marked(holds bool, mark string) string {
	if holds {
		return mark
	}
	return ""
}
