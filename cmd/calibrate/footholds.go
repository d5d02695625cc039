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
	asks, holds float64 // of the place, of the result
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
	m := difficulty.Calibrated
	var out []place
	rng := rand.New(rand.NewPCG(uint64(number), 31))
	err = l.try(n, rng, day, func(x standin.Experiment, s Sample) error {
		r, err := l.read(x.Phrase, s.Engine, x.Date)
		if err != nil || len(r.Entries) < serp.FirstPage {
			return err
		}
		s = under([]Sample{s}, serp.Checklist, links.LinkGain)[0]
		f := field(s)
		stairs, strength := m.Stairs(f), m.Strength(s.Mine)
		for k, e := range r.Ten() {
			out = append(out, place{e, stairs[k], m.OnScale(m.Strength(s.Rivals[k])), m.OnScale(strength),
				m.Chance(f, strength, k+1), reached(s, k+1)})
		}
		return nil
	})
	return out, err
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

func (p place) low() bool   { return p.holds < p.asks }
func (p place) under() bool { return p.holds < p.reach }

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
	{"holds less than its place asks", place.low},
	{"holds less than my page", place.under},
	{"foothold, and holds less than my page", func(p place) bool { return rule(p) && p.under() }},
	{"foothold, and holds more", func(p place) bool { return rule(p) && !p.under() }},
	{"no foothold, and holds less than my page", func(p place) bool { return !rule(p) && p.under() }},
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
than where it says no, beside what the forecast knows already: a witness that tells more than the ten's mean is above 0.

| witness | says so of | passed there | passed elsewhere | more than forecast |
|---|---|---|---|---|
`, "`", "`", strings.Trim(fmt.Sprint(worlds), "[]"), len(all), settled)
	for _, w := range witnesses {
		t := ask(all, w.says)
		rate := func(x [2]float64, i int) float64 { return x[i] / t.n[i] }
		fmt.Fprintf(&b, "| %s | %.1f %% | %.2f | %.2f | %+.3f |\n", w.name, 100*t.n[1]/(t.n[0]+t.n[1]), rate(t.passed, 1),
			rate(t.passed, 0), rate(t.passed, 1)-rate(t.forecast, 1)-rate(t.passed, 0)+rate(t.forecast, 0))
	}
	low, under, clause := ask(all, place.low), ask(all, place.under), ask(all, elsewhere)
	fmt.Fprintf(&b, `
The rule and "holds less than its place asks" agree on %.0f %% of the places, the rule and "holds less than my page" on
%.0f %%. By itself a column below its step tells little: such places were passed %.0f times of 100, others %.0f, for
they are low against steps that are high. Against my page it tells much: %.0f of 100 against %.0f. So the stairs set
columns against the water, which is my reach, and footholds are named by the rule; where the two differ, the words of a
place say why. A page that answers something else, with few links, is said to be a foothold, too; those were passed
%.0f times of 100, others %.0f, so it is none here unless its title misses the words.
`, agree(rule, place.low), agree(rule, place.under), low.of100(1), low.of100(0), under.of100(1), under.of100(0),
		clause.of100(1), clause.of100(0))
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
