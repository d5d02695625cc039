package main

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/standin"
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
	m.Name = fmt.Sprintf("%s, %d engines of %d worlds", p.day.Format("2 January 2006"), len(engineNames(train)),
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
	m := r.usual()
	p("\n## On worlds and engines that were not used\n")
	p("AUC: the chance that a page that got there had the higher forecast than one that did not. ECE: mean distance of")
	p("forecast and share that came, in ten bins. Base: share that got there. Where nothing else is said, what an " +
		"engine leans")
	p("on was learnt from %d of its results pages.\n", usualPages)
	r.writeCurve(p)
	p("")
	p(forecastHead)
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree, 1} {
		row(p, k, "all", forecasts(m, r.test, k, nil))
		row(p, k, "hobby not used ("+r.plan.heldOut+")", forecasts(m, r.test, k,
			func(s Sample) bool { return s.Hobby == r.plan.heldOut }))
		for _, b := range bands {
			row(p, k, "phrases of "+b.name+" searches", forecasts(m, r.test, k,
				func(s Sample) bool { return s.Searches >= b.least && s.Searches < b.most }))
		}
		row(p, k, "hobby not used, engines of the calibration", forecasts(learnt(r.model, r.pages, usualPages), r.known, k,
			nil))
		row(p, k, "engines that lean further", forecasts(r.farAt[usualPages], r.far, k, nil))
		row(p, k, "the ten alone looked at", forecasts(learnt(r.model, cut(shown(r.test)), usualPages), shallow(r.test), k,
			nil))
		row(p, k, "ten independent duels, for comparison", r.duels[k])
	}
	p("\nEngine by engine, page one; beside it the ECE where nothing was learnt:\n")
	p(forecastHead[:strings.Index(forecastHead, "\n")-1] + "| ECE, nothing learnt |\n|---|---|---|---|---|---|---|---|")
	for _, name := range engineNames(r.test) {
		of := func(s Sample) bool { return s.engine() == name }
		list := forecasts(m, r.test, difficulty.PageOne, of)
		p("| first 10 | %s | %d | %.2f | %.3f | %.3f | %.3f | %.3f |", name, len(list), cameTrue(list), auc(list),
			calibrationError(list),
			brier(list), calibrationError(forecasts(r.seen[0], r.test, difficulty.PageOne, of)))
	}
	p("\nOn the worlds it was calibrated on: AUC %.3f, ECE %.3f for page one.\n", auc(r.fits), calibrationError(r.fits))
	p("Page one, bin by bin:\n\n| forecasts | mean forecast | came true |\n|---|---|---|")
	for _, one := range reliability(forecasts(m, r.test, difficulty.PageOne, nil)) {
		p("| %d | %.2f | %.2f |", one.n, one.forecast, one.came)
	}
}

// shallow are samples as one sees them who looks at the ten alone.
func shallow(samples []Sample) []Sample {
	out := slices.Clone(samples)
	for i := range out {
		out[i].Rivals = out[i].Rivals[:min(difficulty.FirstPage, len(out[i].Rivals))]
	}
	return out
}

// writeCurve tells what is gained with each results page.
func (r *report) writeCurve(p func(string, ...any)) {
	p("### What results pages tell\n")
	p("Users are those of the next part. Engines: the mean ECE of an engine by itself, and the worst. Width: of the " +
		"range,")
	p("in the mean; holds: how many of the ranges at %.0f %% do (see Ranges).\n", 100*difficulty.Level)
	pages := shown(r.test)
	p("Twenty results looked up for each phrase:\n")
	curve(p, r.test, func(n int) models { return r.seen[n] })
	p("\nThe ten alone, which cost half:\n")
	curve(p, shallow(r.test), func(n int) models { return learnt(r.model, cut(pages), n) })
}

// curve writes how forecasts fare as results pages come.
func curve(p func(string, ...any), samples []Sample, of func(pages int) models) {
	p("| goal | pages | AUC | log loss | ECE | users: AUC | log loss | ECE | engines: ECE | worst | width | holds |\n" +
		"|---|---|---|---|---|---|---|---|---|---|---|---|")
	names := engineNames(samples)
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		for _, n := range curveOf {
			m := of(n)
			all, users := forecasts(m, samples, k, nil), forecasts(m, samples, k, isUsers)
			sum, worst := 0.0, 0.0
			for _, name := range names {
				e := calibrationError(forecasts(m, samples, k, func(s Sample) bool { return s.engine() == name }))
				sum, worst = sum+e, math.Max(worst, e)
			}
			_, holds, width := ranges(m, samples, k)
			p("| first %d | %d | %.3f | %.3f | %.3f | %.3f | %.3f | %.3f | %.3f | %.3f | %.2f | %.2f |", k, n, auc(all),
				logLoss(all), calibrationError(all), auc(users), logLoss(users), calibrationError(users),
				sum/float64(len(names)), worst, width, holds)
		}
	}
}

// cameTrue is the share of forecasts that came true.
func cameTrue(list []forecast) (came float64) {
	for _, f := range list {
		if f.came {
			came += 1 / float64(len(list))
		}
	}
	return came
}

// writeUsers tells how it fares for what our users have.
func (r *report) writeUsers(p func(string, ...any)) {
	p("\n## For what our users have\n")
	p("Users: site standing 0 to %d and at most %d links. Young: site standing under %d, no links. Unlinked: sites "+
		"that nobody",
		usersSite, usersLinks, youngSite)
	p("links to, without links, drawn as numerous as they are. Said and came: the mean forecast, and what came of it.\n")
	p("| goal | what | outcomes | said | came | AUC | ECE |\n|---|---|---|---|---|---|---|")
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive, difficulty.TopThree, 1} {
		for _, of := range []struct {
			name string
			keep func(Sample) bool
		}{{"users", isUsers}, {"users, hobby not used",
			func(s Sample) bool { return isUsers(s) && s.Hobby == r.plan.heldOut }},
			{"young", func(s Sample) bool { return s.Own.Site < youngSite && s.Links == 0 }},
			{"young, drawn by number", func(s Sample) bool { return s.Stratum == newcomer }},
			{"unlinked", func(s Sample) bool { return s.Stratum == unlinked }}} {
			list := forecasts(r.usual(), r.test, k, of.keep)
			said := 0.0
			for _, f := range list {
				said += f.chance / float64(len(list))
			}
			p("| first %d | %s | %d | %.3f | %.3f | %.3f | %.3f |", k, of.name, len(list), said, cameTrue(list), auc(list),
				calibrationError(list))
		}
	}
	said, came, n := r.clicks()
	p("\nExpected clicks of users, as a share of searches (%s): said %.3f, came %.3f in %d trials.", "worth.Searches",
		said, came, n)
}

// clicks are the shares of searches that users were told to expect, and what their positions came to.
func (r *report) clicks() (said, came float64, n int) {
	m := r.usual()
	for _, s := range r.test {
		if !full(s) || !isUsers(s) {
			continue
		}
		n++
		for i, c := range m(s).Distribution(field(s), s.Mine)[:difficulty.Ranks] {
			said += c * worth.Searches.At(i+1)
		}
		came += worth.Searches.At(s.Position)
	}
	return said / float64(n), came / float64(n), n
}

func isUsers(s Sample) bool { return s.Own.Site <= usersSite && s.Links <= usersLinks }

// writeRanges tells how often ranges hold what came.
func (r *report) writeRanges(p func(string, ...any)) {
	p("\n## Ranges\n")
	p("The forecasts for each engine that was not used are put into ten bins. In a cell of at least %d, what came "+
		"is set among", fewestInCell)
	p("what would have come in %d trials with an engine drawn from those that are thought possible: a range of "+
		"%.0f %% holds when",
		simulated, 100*difficulty.Level)
	p("it lies in the middle %.0f %% of these.\n", 100*difficulty.Level)
	p("| goal | pages | cells | hold | mean width |\n|---|---|---|---|---|")
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		for _, n := range curveOf {
			cells, hold, width := ranges(r.seen[n], r.test, k)
			p("| first %d | %d | %d | %.2f | %.2f |", k, n, cells, hold, width)
		}
	}
}

// fewestInCell is how many outcomes a cell of bin and engine needs; simulated is how often each is drawn.
const (
	fewestInCell = 15
	simulated    = 400
)

// ranges tells of how many cells the ranges hold what came, and how wide they are in the mean. Where what came was
// simulated as often, it is put among these by chance, so that no cell holds because it is small.
func ranges(m models, samples []Sample, k int) (cells int, hold, width float64) {
	type cell struct {
		chances [][]float64 // by sample and draw
		came    int
	}
	all := map[string]*cell{}
	n := 0.0
	for _, s := range samples {
		if !full(s) {
			continue
		}
		one := m(s)
		x := one.Range(field(s), s.Mine, k)
		key := fmt.Sprint(s.engine(), " ", min(bins-1, int(x.Mean*bins)))
		if all[key] == nil {
			all[key] = &cell{}
		}
		all[key].chances = append(all[key].chances, one.Chances(field(s), s.Mine, k))
		if reached(s, k) {
			all[key].came++
		}
		width, n = width+x.High-x.Low, n+1
	}
	rng := rand.New(rand.NewPCG(uint64(k), 8))
	for _, key := range slices.Sorted(maps.Keys(all)) {
		c := all[key]
		if len(c.chances) < fewestInCell {
			continue
		}
		cells++
		below := 0.0
		for range simulated {
			d, got := rng.IntN(len(c.chances[0])), 0
			for _, of := range c.chances {
				if rng.Float64() < of[d] {
					got++
				}
			}
			switch {
			case got < c.came:
				below++
			case got == c.came:
				below += rng.Float64()
			}
		}
		if below /= simulated; below >= (1-difficulty.Level)/2 && below <= (1+difficulty.Level)/2 {
			hold++
		}
	}
	return cells, hold / float64(max(1, cells)), width / n
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
		g := group{name: name, list: forecasts(r.usual(), r.test, difficulty.TopFive, keep)}
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
	fit := func(s Sample) float64 { return s.Fit }
	add("of a fit under 50", between(fit, 0, 50))
	add("of a fit of 50 to 80", between(fit, 50, 80))
	add("of a fit of 80 and more", between(fit, 80, 101))
	hard := func(s Sample) float64 { return r.usual()(s).For(field(s), difficulty.TopFive) }
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
	all := forecasts(r.usual(), r.test, difficulty.PageOne, nil)
	points := make([]string, len(r.found.points))
	for i, n := range r.found.points {
		points[i] = fmt.Sprintf("%.0f", n)
	}
	form := func(f difficulty.Form) string {
		var b strings.Builder
		fmt.Fprintf(&b, "Form{Slope: %.3f, Front: %.3f, All: %.3f, Spread: %.3f,\n\t\tSteps: []Step{", f.Slope, f.Front,
			f.All, f.Spread)
		for i, s := range f.Steps {
			if fmt.Fprintf(&b, "{%d, %.3f}, ", s.Rank, s.Above); i == 4 {
				b.WriteString("\n") // short lines
			}
		}
		return b.String() + "}}"
	}
	list := func(v [difficulty.Traits]float64, digits int) string {
		var out []string
		for _, x := range v {
			out = append(out, fmt.Sprintf("%.*f", digits, x))
		}
		return "{" + strings.Join(out, ", ") + "}"
	}
	var cov strings.Builder
	for _, v := range r.model.Prior.Cov {
		cov.WriteString(list(v, 4) + ",\n")
	}
	m := r.model
	return map[string]string{
		"core/links/calibrated.go": head + fmt.Sprintf(`links

// LinkGain is k in page standing = 100·(1 − e^(−Σ(standing/100)²/k)): with it two links
// from sites of standing 40 give %.0f. The best of %d values on
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

// Calibrated was found on %d outcomes of %d engines in %d worlds of the stand-in, without the hobby
// %s. On %d outcomes in worlds %s, with 100 results pages of engines that it has
// not met: AUC %.3f, expected calibration error %.3f for page one. docs/calibration.md has the rest.
var Calibrated = Model{
	Name:     %q,
	Gain:     %g,
	Curve:    %g,
	WellMade: WellMade,
	Made:     Made{Title: %g, Text: %g, Kind: %g},
	Unlinked: %.3f,
	Deep: %s,
	Shallow: %s,
	Offset:  %g,
	Temper:  %g,
	TenShow: %g,
	Prior: Leaning{
		Mean: [Traits]float64%s,
		Cov: [Traits][Traits]float64{
			%s},
	},
}.Unlearnt()
`, m.WellMade, r.train, len(engineNames(r.trained)), len(r.plan.train), r.plan.heldOut, len(all),
			numbers(r.plan.test), auc(all), calibrationError(all), m.Name, m.Gain, m.Curve, m.Made.Title, m.Made.Text,
			m.Made.Kind, m.Unlinked, form(m.Deep), form(m.Shallow), m.Offset, m.Temper, m.TenShow, list(m.Prior.Mean, 3),
			cov.String()),
	}
}

// marked is a mark where it holds.
func marked(holds bool, mark string) string {
	if holds {
		return mark
	}
	return ""
}
