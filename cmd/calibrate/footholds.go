package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/standin"

	"github.com/spf13/cobra"
)

// place is one result in front of a trial's page, with what became of it.
type place struct {
	entry       serp.Entry
	asks, holds float64 // what the place needs; what can be seen of the result, on the scale
	reach       float64 // of the page
	forecast    float64 // that the page stands there or before
	passed      bool    // it does
}

// places runs n trials in a world, and looks at each result of the first page in front of
// each of them.
func places(number, n int, day time.Time) ([]place, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	var all []Sample
	rng := rand.New(rand.NewPCG(uint64(number), 31))
	if err := l.try(n, rng, day, func(x standin.Experiment, s Sample) error {
		all = append(all, s)
		return nil
	}); err != nil {
		return nil, err
	}
	all = under(all, serp.Checklist, links.LinkGain)
	of := learnt(difficulty.Calibrated, shown(all), usualPages)
	var out []place
	for _, s := range all {
		r, err := l.read(s.Phrase, s.Engine, day.Format(time.DateOnly))
		if err != nil {
			return nil, err
		}
		if len(r.Entries) < serp.FirstPage {
			continue
		}
		m, f := of(s), field(s)
		stairs, strength := m.Stairs(f), m.Strength(s.Mine)
		for k, e := range r.Ten() {
			out = append(out, place{e, stairs[k], m.OnScale(m.Strength(s.Rivals[k])), m.OnScale(strength),
				m.Chance(f, s.Mine, k+1), reached(s, k+1)})
		}
	}
	return out, nil
}

// told is what a witness says of places, and what became of them.
type told struct{ n, passed, forecast [2]float64 } // where it says no, and where it says yes

// of100 is how many of a hundred places were passed.
func (t told) of100(i int) float64 { return 100 * t.passed[i] / t.n[i] }

func ask(all []place, says func(place) bool) (t told) {
	for _, p := range all {
		i := 0
		if says(p) {
			i = 1
		}
		t.n[i]++
		t.forecast[i] += p.forecast
		if p.passed {
			t.passed[i]++
		}
	}
	return t
}

// rule is the trade's, as core/serp has it.
func rule(p place) bool { return p.entry.Foothold }

func (p place) low() bool     { return p.holds < p.asks }
func (p place) under() bool   { return p.holds < p.reach }
func (p place) covered() bool { return p.asks <= p.reach }

// elsewhere is the clause that the trade has beside the rule, and that trials speak against.
func elsewhere(p place) bool {
	return !rule(p) && p.entry.Has(serp.WeakElse) && p.entry.Has(serp.WeakLinks)
}

// witnesses are what may tell who can be displaced.
var witnesses = []struct {
	name string
	says func(place) bool
}{
	{"foothold by the rule", rule},
	{"seen less than its place needs", place.low},
	{"seen less than my page", place.under},
	{"its place needs less than my reach", place.covered},
	{"foothold, and within my reach", func(p place) bool { return rule(p) && p.covered() }},
	{"no foothold, and within my reach", func(p place) bool { return !rule(p) && p.covered() }},
	{"foothold beyond my reach", func(p place) bool { return rule(p) && !p.covered() }},
	{"answers something else with few links, no foothold otherwise", elsewhere},
}

// witnessText is the report on them.
func witnessText(all []place, worlds []int) string {
	agree := func(a, b func(place) bool) float64 {
		same := 0.0
		for _, p := range all {
			if a(p) == b(p) {
				same++
			}
		}
		return 100 * same / float64(len(all))
	}
	var b strings.Builder
	fmt.Fprintf(&b, `# Who can be displaced

Written by %scalibrate footholds --write%s. Pages of all kinds were published in worlds %s, which took no part
in the calibration; %d places in front of them were looked at, those of the first page. A place is passed where the
page stood there or before %d weeks later. "More than forecast" is how much oftener that came where the witness says yes
than where it says no, beside what the forecast knows already: a witness that tells more than the forecast is above 0.
Forecasts are learnt from the results pages of each engine, at most %d.

| witness | says so of | passed there | passed elsewhere | more than forecast |
|---|---|---|---|---|
`, "`", "`", strings.Trim(fmt.Sprint(worlds), "[]"), len(all), settled, usualPages)
	for _, w := range witnesses {
		t := ask(all, w.says)
		rate := func(x [2]float64, i int) float64 { return x[i] / t.n[i] }
		fmt.Fprintf(&b, "| %s | %.1f %% | %.2f | %.2f | %+.3f |\n", w.name, 100*t.n[1]/(t.n[0]+t.n[1]), rate(t.passed, 1),
			rate(t.passed, 0), rate(t.passed, 1)-rate(t.forecast, 1)-rate(t.passed, 0)+rate(t.forecast, 0))
	}
	low, covered, clause := ask(all, place.low), ask(all, place.covered), ask(all, elsewhere)
	var forecasts []forecast
	for _, p := range all {
		forecasts = append(forecasts, forecast{p.forecast, p.passed})
	}
	fmt.Fprintf(&b, `
To pass the result at a place is to be among the first so many, so that a step and what the result on it holds are
one figure. The chances of that were right to %.3f (expected calibration error over all places; AUC %.3f). What can be
seen of a single result tells little beside: it was below its step on %.0f %% of the places, and those were passed %.0f
times of 100, others %.0f, for they are low against steps that are high. That a place needs no more than my reach tells
much: %.0f of 100 against %.0f. So the stairs are what is held, what can be seen is marked in them, and footholds are
named by the trade's rule; the rule and "within my reach" agree on %.0f %% of the places. A page that answers something
else, with few links, is said to be a foothold, too; those were passed %.0f times of 100, others %.0f, so it is none
here unless its title misses the words.
`, calibrationError(forecasts), auc(forecasts), 100*low.n[1]/(low.n[0]+low.n[1]), low.of100(1), low.of100(0),
		covered.of100(1), covered.of100(0), agree(rule, place.covered), clause.of100(1), clause.of100(0))
	return b.String()
}

func footholdsCommand(p *plan) *cobra.Command {
	var worlds []int
	var n int
	var write bool
	c := &cobra.Command{Use: "footholds", Short: "Measure which witness tells who can be displaced", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var all []place
			for _, number := range worlds {
				some, err := places(number, n, p.day)
				if err != nil {
					return err
				}
				all = append(all, some...)
			}
			text := witnessText(all, worlds)
			if _, err := fmt.Fprint(cmd.OutOrStdout(), text); err != nil || !write {
				return err
			}
			return os.WriteFile("docs/footholds.md", []byte(text), 0o644)
		}}
	c.Flags().IntSliceVar(&worlds, "worlds", []int{43, 44, 45, 46, 47, 48}, "worlds to measure in")
	c.Flags().IntVar(&n, "trials", 100, "pages published per world, each on every engine")
	c.Flags().BoolVar(&write, "write", false, "write docs/footholds.md")
	return c
}
