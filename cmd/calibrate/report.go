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
	train     int
	test      []Sample
	trainFits []forecast
	duels     map[int][]forecast
	needed    []needed
}

func calibrate(p plan, train, test []Sample) (*report, error) {
	top, all, err := best(train)
	if err != nil {
		return nil, err
	}
	train, test = under(train, top.points, top.model.Gain), under(test, top.points, top.model.Gain)
	r := &report{plan: p, model: rounded(top.model), found: top, tried: all, train: len(train), test: test,
		duels: map[int][]forecast{}}
	r.model.Name = fmt.Sprintf("%s, worlds %s, by engine", p.day.Format("2 January 2006"), numbers(p.train))
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
	m := r.model
	p("# Calibration of difficulty\n")
	p("Written by `go run ./cmd/calibrate --write`, which repeats it. In the stand-in web pages are published on sites of")
	p("standing 0 to 60, made badly and well, with no links and many, for phrases drawn half by how much they are " +
		"searched and")
	p("half evenly; after %d weeks it is read where they stand. What is known of a page is what the application "+
		"would read of", settled)
	p("it anywhere: its HTML, the links to it, the graph of sites.\n")
	p("Calibrated on worlds %s without the hobby %s: %d outcomes. Measured on worlds %s, all hobbies: %d outcomes.\n",
		numbers(r.plan.train), r.plan.heldOut, r.train, numbers(r.plan.test), len(r.test))
	p("| constant | value |\n|---|---|")
	p("| weight of page standing, site standing, fit | %.2f, %.2f, %.2f |", m.Weights.Page, m.Weights.Site, m.Weights.Fit)
	p("| τ | %.1f |", m.Tau)
	for _, s := range m.Steps {
		p("| step of rank %d | %.1f |", s.Rank, s.Above)
	}
	for _, e := range standin.EngineNames {
		p("| asked more by engine %s | %+.1f |", e, m.Engines[e])
	}
	for item, points := range r.found.points {
		p("| points of the checklist for %s | %.0f |", serp.ItemName(item), points)
	}
	p("\nlinks.LinkGain, by the mean log-likelihood of an outcome in the calibration:\n")
	p("| gain | log-likelihood |\n|---|---|")
	for _, f := range r.tried {
		p("| %g | %.4f%s |", f.model.Gain, f.likelihood,
			map[bool]string{true: ", the likeliest"}[f.model.Gain == r.model.Gain])
	}
	p("\n## On worlds that were not used\n")
	p("AUC: the chance that a page that got there had the higher forecast than one that did not. ECE: mean distance of")
	p("forecast and share that came, in ten bins. Base: share that got there.\n")
	p("| goal | what | outcomes | base | AUC | ECE | Brier |\n|---|---|---|---|---|---|---|")
	row := func(k int, what string, list []forecast) {
		base := 0.0
		for _, f := range list {
			if f.came {
				base += 1 / float64(len(list))
			}
		}
		p("| first %d | %s | %d | %.2f | %.3f | %.3f | %.3f |", k, what, len(list), base, auc(list),
			calibrationError(list), brier(list))
	}
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree} {
		row(k, "all", forecasts(m, r.test, k, nil))
		row(k, "hobby not used ("+r.plan.heldOut+")", forecasts(m, r.test, k,
			func(s Sample) bool { return s.Hobby == r.plan.heldOut }))
		for _, e := range standin.EngineNames {
			row(k, "engine "+e, forecasts(m, r.test, k, func(s Sample) bool { return s.Engine == e }))
		}
		row(k, "ten independent duels, for comparison", r.duels[k])
	}
	p("\nOn the worlds it was calibrated on: AUC %.3f, ECE %.3f for page one.\n", auc(r.trainFits),
		calibrationError(r.trainFits))
	p("Page one, bin by bin:\n\n| forecasts | mean forecast | came true |\n|---|---|---|")
	for _, one := range reliability(forecasts(m, r.test, difficulty.PageOne, nil)) {
		p("| %d | %.2f | %.2f |", one.n, one.forecast, one.came)
	}
	r.writeNeeded(p)
	p("\n## Where it fails\n")
	p("Weakest by engine for page one: %s. Group by group, the first five, the worst forecast first:\n", r.weakest())
	p("| pages | outcomes | mean forecast | came true | AUC |\n|---|---|---|---|---|")
	for _, g := range r.groups() {
		p("| %s | %d | %.2f | %.2f | %.3f |", g.name, len(g.list), g.forecast, g.came, auc(g.list))
	}
	p("")
	p("The stand-in is one possible web. On the real one the order of phrases by difficulty is likelier to hold than the")
	p("chances are; only a user's own positions over time can tell.")
	return b.String()
}

func (r *report) writeNeeded(p func(string, ...any)) {
	if len(r.needed) == 0 {
		return
	}
	p("\n## Difficulty and the strength really needed\n")
	p("For phrases of the held-out worlds %d pages each are tried, from weak to strong, and the reach is found "+
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
	for _, e := range standin.EngineNames {
		row("engine "+e, func(n needed) bool { return n.Engine == e })
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
	level := func(s Sample) float64 { return r.model.Level(field(s)) }
	add("where the level of the ten is under 50", between(level, 0, 50))
	add("where the level is 50 to 60", between(level, 50, 60))
	add("where the level is 60 and more", between(level, 60, 101))
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

func (r *report) weakest() string {
	worst, at := 2.0, ""
	for _, e := range standin.EngineNames {
		a := auc(forecasts(r.model, r.test, difficulty.PageOne, func(s Sample) bool { return s.Engine == e }))
		if a < worst {
			worst, at = a, fmt.Sprintf("%s, AUC %.3f", e, a)
		}
	}
	return at
}

// sources are the Go files of the constants, by their names.
func (r *report) sources() map[string]string {
	const head = "// Code generated by cmd/calibrate. DO NOT EDIT.\n\npackage "
	var steps strings.Builder
	for _, s := range r.model.Steps {
		fmt.Fprintf(&steps, "{%d, %.1f}, ", s.Rank, s.Above)
	}
	var engines strings.Builder
	for _, e := range standin.EngineNames {
		fmt.Fprintf(&engines, "%q: %.1f, ", e, r.model.Engines[e])
	}
	all := forecasts(r.model, r.test, difficulty.PageOne, nil)
	points := make([]string, len(r.found.points))
	for i, n := range r.found.points {
		points[i] = fmt.Sprintf("%.0f", n)
	}
	return map[string]string{
		"core/links/calibrated.go": head + fmt.Sprintf(`links

// LinkGain is k in page standing = 100·(1 − e^(−Σ(standing/100)²/k)): with it two links
// from sites of standing 40 give %.0f. The likeliest of %d values on %s.
const LinkGain = %g
`, 100*(1-math.Exp(-2*0.16/r.model.Gain)), len(r.tried), r.model.Name, r.model.Gain),
		"core/serp/calibrated.go": head + fmt.Sprintf(`serp

// Checklist is what each item of the fit is worth at most: title, main heading,
// subheading, address, description, first words, body, kind of page, nothing else in the
// title. Five of them are kept small; the others were found on
// %s.
var Checklist = Points{%s}
`, r.model.Name, strings.Join(points, ", ")),
		"core/difficulty/calibrated.go": head + fmt.Sprintf(`difficulty

// Calibrated was found on %d outcomes in worlds %s of the stand-in, without the hobby
// %s. On %d outcomes in worlds %s: AUC %.3f, expected calibration error %.3f for
// page one. docs/calibration.md has the rest.
var Calibrated = Model{
	Name:    %q,
	Gain:    %g,
	Weights: Weights{Page: %.2f, Site: %.2f, Fit: %.2f},
	Tau:     %.1f,
	Steps:   []Step{%s},
	Engines: map[string]float64{%s},
}
`, r.train, numbers(r.plan.train), r.plan.heldOut, len(all), numbers(r.plan.test), auc(all), calibrationError(all),
			r.model.Name, r.model.Gain, r.model.Weights.Page, r.model.Weights.Site, r.model.Weights.Fit, r.model.Tau,
			steps.String(), engines.String()),
	}
}
