package main

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
)

// report is what a calibration found and how it fares on what it has not seen.
type report struct {
	plan    plan
	model   difficulty.Model
	found   fitted
	tried   []fitted
	search  found
	train   int
	trained []Sample
	test    []Sample
	known   []Sample // the hobby not used, on the worlds that were: what their engines lean on is in the prior
	seen    map[int]models
	far     []Sample // on worlds whose engines lean further than those calibrated on can
	farAt   map[int]models
	pages   map[string][][]difficulty.Signals // of the worlds that were calibrated on
	fits    []forecast
	duels   map[int][]forecast
	needed  []needed
}

func calibrate(p plan, train, known, test []Sample, say func(string, ...any)) (*report, error) {
	top, all, err := best(train)
	if err != nil {
		return nil, err
	}
	say("gain %g, exponent %g, points %v", top.gain, top.curve, top.points)
	set := func(list []Sample) []Sample { return under(list, top.points, top.gain) }
	train, known, test = set(train), set(known), set(test)
	isFar := func(s Sample) bool { return slices.Contains(p.far, s.World) }
	r := &report{plan: p, found: top, tried: all, train: len(train), trained: train, known: known,
		duels: map[int][]forecast{},
		far:   only(test, isFar), test: only(test, func(s Sample) bool { return !isFar(s) })}
	m := difficulty.Model{Gain: top.gain, Curve: top.curve}
	if m.WellMade, m.Made, err = wellMade(train); err != nil {
		return nil, err
	}
	if m, r.search, err = modelOf(train, m, say); err != nil {
		return nil, err
	}
	m.Name = fmt.Sprintf("%s, %d engines of %d worlds", calibratedOn, len(engineNames(train)),
		len(p.train))
	r.model = rounded(m).Unlearnt()
	r.pages = shown(train)
	r.fits = forecasts(learnt(r.model, r.pages, usualPages), train, difficulty.PageOne, nil)
	r.seen, r.farAt = map[int]models{}, map[int]models{}
	tested, far := shown(r.test), shown(r.far)
	for _, n := range curveOf {
		r.seen[n], r.farAt[n] = learnt(r.model, tested, n), learnt(r.model, far, n)
	}
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree} {
		if r.duels[k], err = duels(train, r.test, k); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// only are the samples that are to be kept.
func only(samples []Sample, keep func(Sample) bool) (out []Sample) {
	for _, s := range samples {
		if keep(s) {
			out = append(out, s)
		}
	}
	return out
}

// curveOf are the numbers of results pages whose worth is told, 190 being all of an engine or nearly; usualPages is
// what a user has who has worked for some evenings, and what is told where only one number is.
var curveOf = []int{0, 10, 30, 100, 190}

const usualPages = 100

// usual are the models of those who have looked up usualPages.
func (r *report) usual() models { return r.seen[usualPages] }

// rounded is the model as it is written: nobody's web is known to more digits.
func rounded(m difficulty.Model) difficulty.Model {
	to := func(v, unit float64) float64 { return math.Round(v/unit) * unit }
	m.Unlinked, m.TenShow = to(m.Unlinked, 0.001), to(m.TenShow, 0.01)
	for _, f := range []*difficulty.Form{&m.Deep, &m.Shallow} {
		f.Slope, f.Front, f.All, f.Spread = to(f.Slope, 0.001), to(f.Front, 0.001), to(f.All, 0.001), to(f.Spread, 0.001)
		f.Steps = slices.Clone(f.Steps)
		for i := range f.Steps {
			f.Steps[i].Above = to(f.Steps[i].Above, 0.001)
		}
	}
	for i := range difficulty.Traits {
		m.Prior.Mean[i] = to(m.Prior.Mean[i], 0.001)
		for j := range difficulty.Traits {
			m.Prior.Cov[i][j] = to(m.Prior.Cov[i][j], 0.0001)
		}
	}
	return m
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
	p("Written by `go run ./cmd/calibrate --write`, which repeats it. In the stand-in web pages are published: a fifth on")
	p("sites that nobody links to and a fifth on young ones (site standing under %d), both drawn as numerous as "+
		"they are and", youngSite)
	p("without links; a fifth of what else our users could publish (site standing 0 to %d, at most %d links); the "+
		"rest on sites",
		usersSite, usersLinks)
	p("of standing 0 to 60, made badly and well, with no links and many. Phrases are drawn half by how much they " +
		"are searched")
	p("and half evenly; after %d weeks it is read where the pages stand. What is known of a page is what the "+
		"application would", settled)
	p("read of it anywhere: its HTML, the links to it, the graph of sites. Each world has three engines, and all " +
		"of them lean")
	p("differently on what they see. The worlds were chosen so that each leaning is met evenly.\n")
	p("Calibrated on worlds %s without the hobby %s: %d outcomes.", numbers(r.plan.train), r.plan.heldOut, r.train)
	p("Measured on worlds %s, all hobbies: %d outcomes; and on worlds %s, whose engines lean further",
		numbers(r.plan.test),
		len(r.test), numbers(r.plan.far))
	p("than any of the others can: %d outcomes.\n", len(r.far))
	p("| constant | value |\n|---|---|")
	p("| exponent of site standing | %g |", m.Curve)
	p("| what a site lacks that nobody links to, as share of what all site standing counts | %.2f |",
		m.Unlinked/m.Prior.Mean[1])
	p("| fit of a well-made page | %.0f |", m.WellMade)
	p("| title, text, kind of a well-made page | %.0f, %.0f, %.0f |", m.Made.Title, m.Made.Text, m.Made.Kind)
	for item, points := range r.found.points {
		p("| points of the checklist for %s | %.0f |", serp.ItemName(item), points)
	}
	p("| of what pages tell, so much is believed | %g |", m.Temper)
	p("| of a weight, so much shows in the ten alone | %g |", m.TenShow)
	p("| standard deviation of what stays unknown of an engine, in logits | %g |", m.Offset)
	p("\nlinks.LinkGain and the exponent, by the mean loss of forecasts after %d results pages, in the calibration:\n",
		usualPages)
	p("| gain | exponent | loss |\n|---|---|---|")
	for _, f := range r.tried {
		p("| %g | %g | %.4f%s |", f.gain, f.curve, f.loss, marked(f.loss == r.found.loss, ", the least"))
	}
	p("\nWhat engines lean on: the weights of what can be seen (each from 0 to 1) that make the order of an " +
		"engine's results")
	p("likeliest, in the mean over engines, and how much engines differ.\n")
	p("| | weight | differs by |\n|---|---|---|")
	for i, name := range difficulty.TraitNames {
		w, d := m.Prior.Of(i)
		p("| %s | %.2f | %.2f |", name, w, d)
	}
	p("\nHow much of what pages tell is believed, by the loss of forecasts after 10, 30 and 100 pages; and what " +
		"stays unknown")
	p("of an engine, by how many of the ranges at %.0f %% hold after 100 pages, both in the calibration:\n",
		100*difficulty.Level)
	p("| believed | loss | | unknown | ranges that hold |\n|---|---|---|---|---|")
	for i := range max(len(r.search.losses), len(r.search.covered)) {
		left, right := " | ", " | "
		if i < len(r.search.losses) {
			left = fmt.Sprintf("%g | %.4f%s", r.search.temper[i], r.search.losses[i], marked(r.search.temper[i] == m.Temper,
				", the least"))
		}
		if i < len(r.search.covered) {
			right = fmt.Sprintf("%g | %.2f%s", r.search.offset[i], r.search.covered[i], marked(r.search.offset[i] == m.Offset,
				", taken"))
		}
		p("| %s | | %s |", left, right)
	}
	p("\n| results looked at | slope | the ten | all | spread | steps of ranks 1, 3, 5, 10 |\n|---|---|---|---|---|---|")
	for _, one := range []struct {
		name string
		f    difficulty.Form
	}{{"more than the ten", m.Deep}, {"the ten", m.Shallow}} {
		p("| %s | %.2f | %.2f | %.2f | %.2f | %.1f, %.1f, %.1f, %.1f |", one.name, one.f.Slope, one.f.Front, one.f.All,
			one.f.Spread, one.f.Step(1), one.f.Step(3), one.f.Step(5), one.f.Step(10))
	}
}

// marked is a mark where it holds.
func marked(holds bool, mark string) string {
	if holds {
		return mark
	}
	return ""
}
