package main

import (
	"fmt"
	"go/format"
	"math"
	"os"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"

	"github.com/spf13/cobra"
)

// usualSteps are the site standings between which the usual standing of a page is drawn straight.
var usualSteps = []float64{0, 5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100}

// unlinkedCommand finds what the pages of a site of some standing usually have, and measures forecasts by that, where
// nobody can be asked who links to a page.
func unlinkedCommand(p *plan) *cobra.Command {
	var keep string
	var write bool
	c := &cobra.Command{Use: "unlinked", Short: "Find the usual standing of a site's pages, and measure forecasts by it",
		RunE: func(cmd *cobra.Command, _ []string) error {
			train, _, test, err := gather(*p, keep, func(string, ...any) {})
			if err != nil {
				return err
			}
			test = slices.DeleteFunc(test, func(s Sample) bool { return !slices.Contains(p.test, s.World) })
			set := func(list []Sample) []Sample { return under(list, serp.Checklist, links.LinkGain) }
			usual := usualStandings(set(train))
			text := unlinkedReport(usual, set(test))
			if _, err := fmt.Fprint(cmd.OutOrStdout(), text); err != nil || !write {
				return err
			}
			var list []string
			for i, x := range usual {
				list = append(list, fmt.Sprintf("{%.0f, %.1f}", usualSteps[i], x))
			}
			source, err := format.Source([]byte(fmt.Sprintf(usualSource, strings.Join(list, ",\n"))))
			if err != nil {
				return err
			}
			if err := os.WriteFile("core/difficulty/usualpage_values.go", source, 0o644); err != nil {
				return err
			}
			return os.WriteFile("docs/unlinked.md", []byte(text), 0o644)
		}}
	c.Flags().StringVar(&keep, "keep", "", "file to keep the samples in, and to take them from when it is there")
	c.Flags().BoolVar(&write, "write", false, "write the values and the report into the source")
	return c
}

const usualSource = `package difficulty

// Written by go run ./cmd/calibrate unlinked --write; see docs/unlinked.md.

// usualPage is what the pages of a site of some standing have in the mean, as they stand in results.
var usualPage = []struct{ site, page float64 }{
%s,
}
`

// usualStandings is, at each of usualSteps, the mean page standing of results whose sites are nearer to it than to
// others.
func usualStandings(samples []Sample) []float64 {
	sum, n := make([]float64, len(usualSteps)), make([]float64, len(usualSteps))
	for _, s := range samples {
		for _, r := range s.Rivals {
			at := 0
			for i, step := range usualSteps {
				if math.Abs(r.Site-step) < math.Abs(r.Site-usualSteps[at]) {
					at = i
				}
			}
			sum[at] += r.Page
			n[at]++
		}
	}
	out := make([]float64, len(usualSteps))
	for i := range out {
		switch {
		case n[i] >= fewest:
			out[i] = sum[i] / n[i]
		case i > 0:
			out[i] = out[i-1] // nobody stands so high: as the highest that do
		}
	}
	return out
}

// unlinkedReport measures forecasts with the usual standing in place of the pages' own, beside those with what is
// known.
func unlinkedReport(usual []float64, test []Sample) string {
	masked := slices.Clone(test)
	for k := range masked {
		masked[k].Rivals = slices.Clone(masked[k].Rivals)
		for i, r := range masked[k].Rivals {
			masked[k].Rivals[i].Page = difficulty.Between(usualSteps, usual, r.Site)
		}
	}
	zero := slices.Clone(test)
	for k := range zero {
		zero[k].Rivals = slices.Clone(zero[k].Rivals)
		for i := range zero[k].Rivals {
			zero[k].Rivals[i].Page = 0
		}
	}
	var b strings.Builder
	p := func(text string, args ...any) { fmt.Fprintf(&b, text+"\n", args...) }
	p("# Forecasts where nobody knows who links to a page\n")
	p("With a web graph alone (`cleverniche graph import`) the standing of every site is known, and of no page. A page")
	p("then counts as pages of such a site usually stand in results: the mean over the worlds that were calibrated on.")
	p("Measured on worlds that were not used, by `go run ./cmd/calibrate unlinked`.\n")
	p("| site standing | usual page standing |\n|---|---|")
	for i, step := range usualSteps {
		p("| %.0f | %.1f |", step, usual[i])
	}
	p("\n| goal | page standing | results pages learnt from | outcomes | AUC | ECE | worst engine's ECE |")
	p("|---|---|---|---|---|---|---|")
	for _, k := range []int{difficulty.PageOne, difficulty.TopFive} {
		for _, one := range []struct {
			name string
			set  []Sample
		}{{"known", test}, {"the usual", masked}, {"taken for 0", zero}} {
			for _, pages := range []int{0, 30, usualPages} {
				m := learnt(difficulty.Calibrated, shown(one.set), pages)
				if pages == 0 {
					m = func(Sample) difficulty.Model { return difficulty.Calibrated.Unlearnt() }
				}
				worst := 0.0
				for _, e := range engineNames(one.set) {
					of := func(s Sample) bool { return s.engine() == e }
					worst = math.Max(worst, calibrationError(forecasts(m, one.set, k, of)))
				}
				list := forecasts(m, one.set, k, nil)
				p("| first %d | %s | %d | %d | %.3f | %.3f | %.3f |", k, one.name, pages, len(list), auc(list),
					calibrationError(list), worst)
			}
		}
	}
	p("\nSo a chance is told by the usual standing, and says so. Taken for 0, strong pages would look weak.")
	return b.String()
}
