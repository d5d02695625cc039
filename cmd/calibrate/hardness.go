package main

import (
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/standin"

	"github.com/spf13/cobra"
)

// band is phrases of so many searches a month.
type band struct {
	name        string
	least, most float64
	low, high   float64 // the share of trials that is asked for on page one
}

// bands are how hard page one is to be for a young site, by searches: ours, from the
// trade's experience (common practice, no source).
var bands = []band{{"5,000 and more", 5000, 1e12, 0, 0.03}, {"500 to 5,000", 500, 5000, 0.10, 0.25},
	{"100 to 500", 100, 500, 0.30, 0.50}, {"under 100", 1, 100, 0.50, 0.75}}

// What a young site is, whose well-made page is tried.
const (
	youngMost  = 15 // its standing at most
	youngLinks = 2  // links to the page at most
	youngWeeks = 26
)

// young publishes well-made pages on young sites, n for each band, and reads which of
// them are on page one half a year later.
func young(number, n int, day time.Time) (map[string][]bool, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	rng := rand.New(rand.NewPCG(uint64(number), 55))
	var sites []string
	for site, s := range l.standing {
		if s <= youngMost && !strings.HasSuffix(site, ".test") {
			sites = append(sites, site)
		}
	}
	sort.Strings(sites)
	truth := l.world.Truth().Queries
	batch := standin.Batch{Weeks: []int{youngWeeks}}
	var of []string
	for _, b := range bands {
		var able []standin.QueryTruth
		for _, q := range truth {
			if q.Searches >= b.least && q.Searches < b.most && q.Intent != "find" {
				able = append(able, q)
			}
		}
		for range n {
			x := standin.Experiment{Site: sites[rng.IntN(len(sites))], Phrase: able[rng.IntN(len(able))].Text,
				Fit: 85 + rng.IntN(15), Date: day.Format(time.DateOnly)}
			for range rng.IntN(youngLinks + 1) {
				x.Links = append(x.Links, standin.LabLink{From: sites[rng.IntN(len(sites))]})
			}
			batch.Trials, of = append(batch.Trials, x), append(of, b.name)
		}
	}
	if err := l.world.Prepare(&batch); err != nil {
		return nil, err
	}
	out := map[string][]bool{}
	for i, o := range l.world.Try(batch) {
		if o.Error != "" {
			return nil, fmt.Errorf("trial %d: %s", i, o.Error)
		}
		for _, at := range o.Positions {
			out[of[i]] = append(out[of[i]], at.Position > 0 && at.Position <= 10)
		}
	}
	return out, nil
}

// judged is a phrase with its difficulty.
type judged struct {
	standin.QueryTruth
	difficulty float64
	three      float64 // of the first three places
	locked     string
}

// difficulties judges every n-th phrase of a world on its first engine; every other one
// that is searched a hundred times and more when n is 0.
func difficulties(number, n int, day time.Time) ([]judged, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	type read struct {
		standin.QueryTruth
		difficulty.Field
	}
	var all []read
	var pages [][]difficulty.Signals
	for i, q := range l.world.Truth().Queries {
		if q.Intent == "find" || n > 0 && i%n != 0 || n == 0 && (q.Searches < 100 || i%2 != 0) {
			continue
		}
		r, err := l.read(q.Text, standin.EngineNames[0], day.Format(time.DateOnly))
		if err != nil {
			return nil, err
		}
		f := difficulty.Field{Locked: r.Locked}
		for _, e := range r.Entries {
			f.Rivals = append(f.Rivals, difficulty.SignalsOf(e))
		}
		all, pages = append(all, read{q, f}), append(pages, f.Rivals)
	}
	m := difficulty.Calibrated.Learn(pages[:min(usualPages, len(pages))])
	var out []judged
	for _, x := range all {
		out = append(out, judged{x.QueryTruth, m.For(x.Field, difficulty.TheGoal), m.For(x.Field, difficulty.TopThree),
			x.Field.Locked})
	}
	return out, nil
}

// easy is the difficulty up to which a phrase is a find.
const easy = 20

// writeFinds tells how many finds each hobby has, and how difficulty goes with searches
// and with words.
func writeFinds(out io.Writer, number int, day time.Time) error {
	all, err := difficulties(number, 0, day)
	if err != nil {
		return err
	}
	finds, rich, of := map[string]int{}, map[string]int{}, map[string]int{}
	for _, j := range all {
		of[j.Hobby] += 2
		if j.difficulty <= easy {
			finds[j.Hobby] += 2
			if j.Searches >= 500 {
				rich[j.Hobby] += 2
			}
		}
	}
	for _, h := range slices.Sorted(maps.Keys(of)) {
		fmt.Fprintf(out, "%s: of %d phrases of 100 searches and more %d have difficulty %d at most, %d of them 500 "+
			"searches\n",
			h, of[h], finds[h], easy, rich[h])
	}
	if all, err = difficulties(number, 37, day); err != nil {
		return err
	}
	var d, three, searches, words []float64
	for _, j := range all {
		d, three, searches = append(d, j.difficulty), append(three, j.three), append(searches, j.Searches)
		words = append(words, float64(len(strings.Fields(j.Text))))
	}
	writeTies(out, "the first five", d)
	writeTies(out, "the first three", three)
	_, err = fmt.Fprintf(out, "%d phrases: Spearman of difficulty with searches %.2f (asked 0.35 to 0.6), with words "+
		"%.2f (-0.2 to -0.5)\n", len(d), spearman(d, searches), spearman(d, words))
	return err
}

// writeTies tells how difficulties spread, and how many of them are nought.
func writeTies(out io.Writer, goal string, list []float64) {
	sorted := slices.Sorted(slices.Values(list))
	fmt.Fprintf(out, "difficulty of %s: %.1f %% are 0; tenths", goal, 100*float64(sort.SearchFloat64s(sorted, 0.05))/
		float64(len(sorted)))
	for i := 1; i < 10; i++ {
		fmt.Fprintf(out, " %.0f", sorted[i*len(sorted)/10])
	}
	fmt.Fprintln(out)
}

func share(list []bool) float64 {
	n := 0.0
	for _, yes := range list {
		if yes {
			n++
		}
	}
	return n / float64(len(list))
}

// hardnessCommand measures how hard worlds are for young sites.
func hardnessCommand(p *plan) *cobra.Command {
	var worlds []int
	var n int
	var finds bool
	c := &cobra.Command{Use: "hardness", Short: "Measure how hard page one is for young sites, by searches",
		Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
			all := map[string][]bool{}
			for _, number := range worlds {
				found, err := young(number, n, p.day)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "world %d:", number)
				for _, b := range bands {
					fmt.Fprintf(cmd.OutOrStdout(), " %s %.2f;", b.name, share(found[b.name]))
					all[b.name] = append(all[b.name], found[b.name]...)
				}
				fmt.Fprintln(cmd.OutOrStdout())
			}
			for _, b := range bands {
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %.3f of %d, asked %.2f to %.2f\n", b.name, share(all[b.name]),
					len(all[b.name]), b.low, b.high)
			}
			if !finds {
				return nil
			}
			return writeFinds(cmd.OutOrStdout(), worlds[0], p.day)
		}}
	c.Flags().IntSliceVar(&worlds, "worlds", []int{1}, "worlds to measure")
	c.Flags().BoolVar(&finds, "finds", true, "count the finds of the first world, too")
	c.Flags().IntVar(&n, "trials", 120, "pages published per band and world, each on every engine")
	return c
}
