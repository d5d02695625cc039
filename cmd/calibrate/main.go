// Command calibrate publishes pages in the stand-in web, thousands of them on sites of
// all standings, reads where they settle, and finds the constants of core/difficulty,
// core/serp and core/links with which the forecasts fit best; and from needs that are
// known, those of core/topic. What it reports is measured on worlds and a hobby that
// took no part in that.
//
//	go run ./cmd/calibrate            # report only, half an hour
//	go run ./cmd/calibrate --write    # and write three calibrated.go and docs/calibration.md
//	go run ./cmd/calibrate topics     # the same for topics, two minutes; --write, and docs/topics.md
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"go/format"
	"os"
	"slices"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"
)

func main() {
	if err := command().Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "calibrate:", err)
		os.Exit(1)
	}
}

// plan is what is tried where.
type plan struct {
	train, test []int
	far         []int  // worlds whose engines lean further, to measure on as well
	trials      int    // per world
	measured    int    // the same, in those to measure on
	phrases     int    // per held-out world, for the strength really needed
	heldOut     string // the hobby that takes no part in the calibration
	day         time.Time
}

// calibratedOn names a calibration. It goes on when what is found changes, so that evidence of before is brought to it.
const calibratedOn = "30 November 2026"

func command() *cobra.Command {
	p := plan{day: time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)}
	var write bool
	var keep string
	c := &cobra.Command{Use: "calibrate", Short: "Find the constants of difficulty by experiments in the stand-in web",
		Args: cobra.NoArgs, SilenceUsage: true, SilenceErrors: true,
		RunE: func(cmd *cobra.Command, _ []string) error {
			say := func(text string, args ...any) { fmt.Fprintf(cmd.ErrOrStderr(), text+"\n", args...) }
			train, known, test, err := gather(p, keep, say)
			if err != nil {
				return err
			}
			r, err := calibrate(p, train, known, test, say)
			if err != nil {
				return err
			}
			for _, number := range p.test {
				say("world %d: %d phrases, %d pages each", number, p.phrases, rungs)
				list, err := ladders(r.usual(), r.found, number, p.phrases, 5, p.day)
				if err != nil {
					return err
				}
				r.needed = append(r.needed, list...)
			}
			text := r.text()
			if _, err := fmt.Fprint(cmd.OutOrStdout(), text); err != nil || !write {
				return err
			}
			for name, text := range r.sources() {
				source, err := format.Source([]byte(text))
				if err != nil {
					return err
				}
				if err := os.WriteFile(name, source, 0o644); err != nil {
					return err
				}
			}
			return os.WriteFile("docs/calibration.md", []byte(text), 0o644)
		}}
	c.PersistentFlags().IntSliceVar(&p.train, "train", spreadOut(24), "worlds to calibrate on")
	c.PersistentFlags().IntSliceVar(&p.test, "test", []int{31, 32, 33, 34, 35, 36}, "worlds to measure on")
	c.PersistentFlags().IntSliceVar(&p.far, "far", []int{901, 902, 903, 904},
		"worlds to measure on whose engines lean further than those calibrated on can")
	c.PersistentFlags().IntVar(&p.trials, "trials", 200, "pages published per world, each on every engine")
	c.PersistentFlags().IntVar(&p.measured, "measured", 200, "the same, in the worlds to measure on")
	c.Flags().IntVar(&p.phrases, "phrases", 12, "phrases per held-out world whose really needed strength is found")
	c.PersistentFlags().StringVar(&p.heldOut, "held-out", "letterpress", "hobby that takes no part in the calibration")
	c.Flags().BoolVar(&write, "write", false, "write the constants and the report into the source")
	c.Flags().StringVar(&keep, "keep", "", "file to keep the samples in, and to take them from when it is there")
	c.AddCommand(unlinkedCommand(&p), promiseCommand(&p), topicsCommand(&p), hardnessCommand(&p),
		footholdsCommand(&p), scaleCommand(&p), caseCommand(&p), ownCommand(&p), strayCommand(&p))
	return c
}

// gather runs the experiments, or reads those that were kept. Of the worlds to
// calibrate on, the held-out hobby is kept apart.
func gather(p plan, keep string, say func(string, ...any)) (train, known, test []Sample, err error) {
	var all []Sample
	if data, err := os.ReadFile(keep); keep != "" && err == nil {
		if err := json.Unmarshal(data, &all); err != nil {
			return nil, nil, nil, fmt.Errorf("%s: %w", keep, err)
		}
	} else {
		worlds := slices.Concat(p.train, p.test, p.far)
		found := make([][]Sample, len(worlds))
		var group errgroup.Group
		group.SetLimit(2)
		for i, number := range worlds {
			group.Go(func() (err error) {
				trials := p.trials
				if !slices.Contains(p.train, number) {
					trials = p.measured
				}
				found[i], err = samples(number, trials, p.day, say)
				return err
			})
		}
		if err := group.Wait(); err != nil {
			return nil, nil, nil, err
		}
		all = slices.Concat(found...)
		if keep != "" {
			var b bytes.Buffer
			if err := json.NewEncoder(&b).Encode(all); err != nil {
				return nil, nil, nil, err
			}
			if err := os.WriteFile(keep, b.Bytes(), 0o644); err != nil {
				return nil, nil, nil, err
			}
		}
	}
	for _, s := range all {
		switch {
		case slices.Contains(p.test, s.World) || slices.Contains(p.far, s.World):
			test = append(test, s)
		case s.Hobby != p.heldOut:
			train = append(train, s)
		default:
			known = append(known, s)
		}
	}
	return train, known, test, nil
}
