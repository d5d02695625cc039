package main

import (
	"cmp"
	"fmt"
	"math"
	"os"
	"slices"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/standin"

	"github.com/spf13/cobra"
)

// rung is a part of the scale, from what is shown as the number before it on up to its own.
type rung struct {
	name  string
	upTo  float64 // as it is shown, without decimals
	sites string  // what sites there are like (common practice, no source)
	asks  string
}

var scaleRungs = []rung{
	{"0", 0, "opened this year, linked by nobody who is followed", "a well-made page has a 50% chance or better"},
	{"1–10", 10, "young, with a few followed links", "a first year's work is enough"},
	{"11–20", 20, "small, and known to some in its field; the trade's “small site” ends here",
		"within reach of a small site, or of a new one with a few solid links"},
	{"21–50", 50, "established: read and linked all through its field", "some years' work, or a page with many links"},
	{"51–80", 80, "large: shops, publishers, makers that everybody links to", "not for a small site"},
	{"81–100", 100, "the names of the web", "not for anybody new"},
	{"100+", math.Inf(1), "no site is here", "no standing is enough; the page itself needs links"},
}

// rungOf is where a figure of the scale is shown.
func rungOf(x float64) int {
	if x >= difficulty.Most {
		return len(scaleRungs) - 1
	}
	return slices.IndexFunc(scaleRungs, func(r rung) bool { return math.Round(x) <= r.upTo })
}

// shares are which part of figures is on each rung.
func shares(list []float64) []float64 {
	out := make([]float64, len(scaleRungs))
	for _, x := range list {
		out[rungOf(x)] += 1 / float64(len(list))
	}
	return out
}

// scaleText is docs/scale.md: what the numbers are like in a world.
func scaleText(number int, day time.Time) (string, error) {
	c, err := countScale(number, day)
	if err != nil {
		return "", err
	}
	return c.text(), nil
}

// scaleCounts are what there is on the scale in one world.
type scaleCounts struct {
	sites              []float64      // standings
	even, three, asked []float64      // difficulties: drawn evenly, for three places, and of what is searched
	locked             float64        // share of what is searched
	middle             map[int]judged // of each rung's phrases that are searched, the one in the middle
}

func countScale(number int, day time.Time) (c scaleCounts, err error) {
	l, err := newLab(number, day)
	if err != nil {
		return c, err
	}
	for _, s := range l.standing {
		c.sites = append(c.sites, math.Min(s, difficulty.Most-1e-9)) // a site at the end is no more than that
	}
	all, err := difficulties(number, 37, day)
	if err != nil {
		return c, err
	}
	searched, err := difficulties(number, 0, day)
	if err != nil {
		return c, err
	}
	for _, j := range all {
		if j.locked == "" {
			c.even, c.three = append(c.even, j.difficulty), append(c.three, j.three)
		}
	}
	slices.SortStableFunc(searched, func(a, b judged) int { return cmp.Compare(a.difficulty, b.difficulty) })
	counts, seen := map[int]int{}, map[int]int{}
	for _, j := range searched {
		if j.locked != "" {
			c.locked += 1 / float64(len(searched))
			continue
		}
		c.asked = append(c.asked, j.difficulty)
		counts[rungOf(j.difficulty)]++
	}
	c.middle = map[int]judged{}
	for _, j := range searched {
		if r := rungOf(j.difficulty); j.locked == "" {
			if seen[r]++; seen[r] == (counts[r]+1)/2 {
				c.middle[r] = j
			}
		}
	}
	return c, nil
}

// text is the document that says it.
func (c scaleCounts) text() string {
	var b strings.Builder
	fmt.Fprintf(&b, `# The scale

Difficulty, your reach, what a place needs and what a result holds are one number: **site standing**, 0 to 100. It
comes from the link graph: who is linked by whom, logarithmic, so that the best-linked site of the web stands at 100 and
one that nobody links to at 0. *Difficulty 26* says: a site of standing 26 has a 50%% chance of the top five with a
well-made page that nobody links to yet. Your reach is the standing that your page amounts to: your site's, lifted by
the links you plan.

| on the scale | sites there are | a phrase there | sites | phrases | searched 100 and more |
|---|---|---|---|---|---|
`)
	of := [3][]float64{shares(c.sites), shares(c.even), shares(c.asked)}
	for i, r := range scaleRungs {
		fmt.Fprintf(&b, "| %s | %s | %s | %.0f %% | %.0f %% | %.0f %% |\n", r.name, r.sites, r.asks,
			100*of[0][i], 100*of[1][i], 100*of[2][i])
	}
	fmt.Fprintf(&b, `
The shares are those of the demo's web: its %d sites, %d of its phrases drawn evenly, and %d that are searched 100
times a month and more; locked phrases, %.0f %% of these, are left out.
What sites are like is common practice, no source; real webs have more sites near 0.

In the middle of each, as the demo's engine "%s" has it:

`, len(c.sites), len(c.even), len(c.asked), 100*c.locked, standin.EngineNames[0])
	for i, r := range scaleRungs {
		if j, some := c.middle[i]; some {
			fmt.Fprintf(&b, "- %s: “%s”, difficulty %s, %.0f searches a month\n", r.name, j.Text,
				difficulty.Shown(j.difficulty), j.Searches)
		}
	}
	fmt.Fprintf(&b, `
## At the ends

At **0** a well-made page has a 50%% chance or better even on a site that nobody links to: how much better, the chance
tells. Between 0 and 1 a first followed link makes the difference: engines trust a site with one more than a site with
none. At **100+** no standing is enough; the page itself needs links. **Locked** is what a brand's own site holds.

## Why the top five

Difficulty could mean the first three places as well. Of the phrases drawn evenly %.0f %% are at 0 for the first five
and %.0f %% for the first three; most of these are hardly searched. Of those searched 100 times and more it is %.0f %%.
The first five places are what the trade calls winning a phrase, and what its bars of 10, 20 and 35 were made for.

## The chance beside it

What an engine leans on is learnt from the results pages that it shows: each look-up adds one. The chance is the mean
over what is still thought possible, and its range holds eight of ten of that: "38%%, 29–48, learnt from 112 results
pages". It narrows as pages come. In lists it is a ladder of ten rungs: dark ones stand even at the low end, lighter
ones on average, pale ones at the high end.
`, 100*shares(c.even)[0], 100*shares(c.three)[0], 100*of[2][0])
	return b.String()
}

func scaleCommand(p *plan) *cobra.Command {
	var write bool
	c := &cobra.Command{Use: "scale", Short: "Tell what the numbers of the scale are like in the demo's web",
		Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := scaleText(1, p.day)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprint(cmd.OutOrStdout(), text); err != nil || !write {
				return err
			}
			return os.WriteFile("docs/scale.md", []byte(text), 0o644)
		}}
	c.Flags().BoolVar(&write, "write", false, "write docs/scale.md")
	return c
}
