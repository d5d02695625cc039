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
	"cleverniche/core/worth"
	"cleverniche/standin"
)

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
