package main

import (
	"cmp"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	core "cleverniche/core/watch"
	"cleverniche/study"
	"cleverniche/study/niches"
	"cleverniche/study/watch"

	"github.com/spf13/cobra"
)

var watchColumns = []column{{"Phrase", "phrase"}, {"Site", "site"}, {"Place", "place"}, {"Last time", "moved"},
	{"A week ago",
		"moved_week"},
	{"The start", "moved_start"}, {"Best", "best"}, {"Page", "page"}, {"Forecast", "forecast"}, {"Checked", "checked"},
	{"Elsewhere", "elsewhere"}}

// watchCommand shows where pages stand, beside what was forecast.
func watchCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "watch", Short: "Show where your pages stand, beside what was forecast", GroupID: "work",
		Example: examples("cleverniche watch", "cleverniche watch check"), Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			if err := s.Watch.Sync(cmd.Context(), n); err != nil {
				return err
			}
			list, err := s.Watch.Pages(cmd.Context(), n)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, p := range list {
				place, best, checked := unknown, unknown, unknown
				if !p.Checked.IsZero() {
					place, checked = cell{p.Place, core.Says(p.Place)}, said(p.Checked.Format(time.DateOnly))
				}
				var there []string
				for _, x := range p.There {
					there = append(there, fmt.Sprintf("%s: %s", x.Scene, core.Says(x.Place)))
				}
				if p.Best > 0 {
					best = cell{p.Best, fmt.Sprint(p.Best)}
				}
				rows = append(rows, []cell{said(p.Phrase), said(cmp.Or(p.Site, n.OwnSite)), place, movedCell(p.Day),
					movedCell(p.Week), movedCell(p.Start), best,
					said(p.Stands), said(string(p.Verdict)), checked, said(strings.Join(there, ", "))})
			}
			right := watch.Rightness(list)
			if right.Settled > 0 {
				fmt.Fprintf(cmd.ErrOrStderr(), "%d settled: %d better, %d as, %d worse than forecast.\n", right.Settled,
					right.Better, right.As, right.Worse)
			}
			return printed(cmd, watchColumns, rows)
		})}
	jsonFlag(cmd)
	nicheFlag(cmd)
	cmd.AddCommand(watchAddCommand(), watchImportCommand(), watchCheckCommand())
	return cmd
}

func movedCell(c watch.Change) cell {
	if !c.OK {
		return unknown
	}
	return cell{c.By, fmt.Sprintf("%+d", c.By)}
}

func watchAddCommand() *cobra.Command {
	var site string
	cmd := &cobra.Command{Use: "add PHRASE…", Short: "Watch phrases; “-” reads them from standard input, one a line",
		Example: examples("cleverniche watch add \"moon map\" \"venus tonight\"", "cleverniche watch add - < phrases.txt"),
		Args:    args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			list, err := linesOf(cmd, list)
			if err != nil {
				return err
			}
			if site != "" {
				if site, err = s.Watch.SaveOwnSite(cmd.Context(), n, site, ""); err != nil {
					return err
				}
			}
			added, ignored, err := s.Watch.Add(cmd.Context(), n, site, strings.Join(list, "\n"))
			for _, line := range ignored {
				fmt.Fprintln(cmd.ErrOrStderr(), plainCell(line))
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "Watching %d more.\n", added)
			return nil
		})}
	cmd.Flags().StringVar(&site, "site", "", "for another site of yours, by its domain; it is added where it is new")
	nicheFlag(cmd)
	return cmd
}

func watchImportCommand() *cobra.Command {
	var site string
	cmd := &cobra.Command{Use: "import FILE", Short: "Watch the phrases of a file, and keep the positions it tells",
		Example: examples("cleverniche watch import places.csv",
			"cleverniche watch import places.xlsx --site second.example"), Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) (err error) {
			if site != "" {
				if site, err = s.Watch.SaveOwnSite(cmd.Context(), n, site, ""); err != nil {
					return err
				}
			}
			file, err := os.Open(list[0])
			if err != nil {
				return err
			}
			defer file.Close()
			got, err := s.Watch.Bring(cmd.Context(), n, site, filepath.Base(list[0]), file)
			if err != nil {
				return err
			}
			for _, p := range got.Problems {
				fmt.Fprintf(cmd.ErrOrStderr(), "Line %d: %s.\n", p.Line, plainCell(p.Reason))
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "Watching %d more; %d positions; %d lines left out.\n", got.Phrases, got.Positions,
				got.Bad)
			return nil
		})}
	cmd.Flags().StringVar(&site, "site", "", "for another site of yours, by its domain; it is added where it is new")
	nicheFlag(cmd)
	return cmd
}

func watchCheckCommand() *cobra.Command {
	var yes bool
	cmd := &cobra.Command{Use: "check", Short: "Look for your places for all that is watched",
		Example: examples("cleverniche watch check", "cleverniche watch check --yes"), Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			if err := s.Watch.Sync(cmd.Context(), n); err != nil {
				return err
			}
			e, phrases, err := s.Watch.CheckCost(cmd.Context(), n)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "Checking %d phrases costs at most %s.\n", phrases, s.Ask.Cost(e))
			if !yes && (!isTerminal(cmd.InOrStdin()) || !agreed(cmd)) {
				return &usageError{fmt.Errorf("nothing was checked: say --yes once this is right")}
			}
			job, err := s.Watch.Check(cmd.Context(), n)
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	cmd.Flags().BoolVar(&yes, "yes", false, "check without asking")
	nicheFlag(cmd)
	return cmd
}
