package main

import (
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/core/watch"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"
)

// What own outcomes are measured with.
const ownWritten = 60 // articles of a niche; one learns from every other

// favours are what engines think of my site beside what can be seen of it, in points of theirs.
var favours = []float64{-6, -3, 0, 3, 6}

// halves is how right chances of the articles of one favour were that took no part, before and after own outcomes.
type halves struct {
	n             int
	offered       int // niches in which what was learnt was offered
	niches        int
	before, after [2][]watch.Outcome // of page one and the top five
	off           [2][2]float64      // |expected − came| summed over niches, by goal, before and after
}

// ownCommand measures what own outcomes tell.
func ownCommand(p *plan) *cobra.Command {
	return &cobra.Command{Use: "own", Short: "Measure what own outcomes tell of articles that took no part",
		RunE: func(cmd *cobra.Command, _ []string) error {
			found := make([]map[float64]*halves, len(p.test))
			var group errgroup.Group
			group.SetLimit(2)
			for i, number := range p.test {
				group.Go(func() (err error) {
					found[i], err = ownOutcomes(number, *p)
					return err
				})
			}
			if err := group.Wait(); err != nil {
				return err
			}
			for _, favour := range favours {
				all := &halves{}
				for _, one := range found {
					all.add(one[favour])
				}
				all.tell(cmd.OutOrStdout(), favour)
			}
			return nil
		}}
}

// ownOutcomes publishes articles that were chosen for their forecasts onto one site of a world that engines favour more
// or less, learns from every other one, and holds the chances of the rest against what came.
func ownOutcomes(number int, p plan) (map[float64]*halves, error) {
	out := map[float64]*halves{}
	for _, favour := range favours {
		out[favour] = &halves{}
	}
	err := eachNiche(number, p.day, func(l *lab, n caseNiche, site string, rng *rand.Rand) error {
		defer l.world.Favour(site, 0)
		seed := rng.Uint64()
		for _, favour := range favours {
			one := n
			l.world.Favour(site, favour)
			if err := l.publish(&one, ownWritten, site, p.day, rand.New(rand.NewPCG(seed, 1))); err != nil {
				return err
			}
			out[favour].hold(one)
		}
		return nil
	})
	return out, err
}

// hold learns from every other article of a niche, and holds the rest against what came.
func (h *halves) hold(n caseNiche) {
	var known, left []difficulty.Outcome
	for i, at := range n.Came {
		o := difficulty.Outcome{Field: n.fields[n.Pieces[i].Lead], Mine: n.model.Signals(n.mine), Place: at}
		if i%2 == 0 {
			known = append(known, o)
		} else {
			left = append(left, o)
		}
	}
	after := n.model
	if h.niches++; n.model.TryOwn(known, watch.LuckOf).Better {
		h.offered++
		after = n.model.Own(n.model.LearnOwn(known, watch.LuckOf))
	}
	h.n += len(left)
	for g, goal := range []int{difficulty.PageOne, difficulty.TopFive} {
		sums := [2]float64{}
		came := 0.0
		for _, o := range left {
			is := o.Place > 0 && o.Place <= goal
			if is {
				came++
			}
			for k, m := range []difficulty.Model{n.model, after} {
				mine := o.Mine
				mine.Luck = m.Luck
				f := watch.Forecast{Chances: watch.Chosen(m.Distribution(o.Field, mine)[:difficulty.Ranks])}
				chance := f.PageOne()
				if goal == difficulty.TopFive {
					chance = f.TopFive()
				}
				sums[k] += chance
				if k == 0 {
					h.before[g] = append(h.before[g], watch.Outcome{Chance: chance, Came: is})
				} else {
					h.after[g] = append(h.after[g], watch.Outcome{Chance: chance, Came: is})
				}
			}
		}
		for k := range sums {
			h.off[g][k] += math.Abs(sums[k] - came)
		}
	}
}

func (h *halves) add(o *halves) {
	h.n, h.niches, h.offered = h.n+o.n, h.niches+o.niches, h.offered+o.offered
	for g := range h.before {
		h.before[g] = slices.Concat(h.before[g], o.before[g])
		h.after[g] = slices.Concat(h.after[g], o.after[g])
		for k := range h.off[g] {
			h.off[g][k] += o.off[g][k]
		}
	}
}

func (h *halves) tell(out io.Writer, favour float64) {
	fmt.Fprintf(out, "favour %+.0f: %d articles that took no part, %d niches, offered in %d\n", favour, h.n, h.niches,
		h.offered)
	for g, name := range []string{"page one", "top five"} {
		_, brier, miss := watch.Right(h.before[g])
		_, brier2, miss2 := watch.Right(h.after[g])
		fmt.Fprintf(out, "  %s: off by %.1f points of 100 articles a niche, then %.1f; calibration error %.3f, then %.3f; "+
			"Brier %.3f, then %.3f\n", name, 100*h.off[g][0]/float64(h.n), 100*h.off[g][1]/float64(h.n), miss, miss2, brier,
			brier2)
	}
}
