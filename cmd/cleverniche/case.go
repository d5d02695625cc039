package main

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"cleverniche/core/niche"
	"cleverniche/study"
	"cleverniche/study/briefs"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/thecase"

	"github.com/spf13/cobra"
)

var caseColumns = []column{{"Question", "question"}, {"Answer", "answer"}, {"Figure", "figure"}, {"Low", "low"},
	{"High", "high"}, {"Yes from", "yes_from"}, {"Because", "because"}}

// caseCommand says whether a niche is worth entering.
func caseCommand() *cobra.Command {
	var hours, bar float64
	var report string
	cmd := &cobra.Command{Use: "case", Short: "Say whether a niche is worth entering, and why", GroupID: "work",
		Example: examples("cleverniche case --hours 10 --bar 15", "cleverniche case --report case.docx"),
		Args:    args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			set, err := s.Case.Settings(cmd.Context(), n)
			if err != nil {
				return err
			}
			if hours > 0 {
				set.Assumed.WeekHours = hours
			}
			if cmd.Flags().Changed("bar") {
				set.Assumed.Bar = bar
			}
			c, err := s.Case.Of(cmd.Context(), n, set)
			if err != nil {
				return err
			}
			if report != "" {
				return writeReport(cmd, s, n, c, report)
			}
			tellCase(cmd.ErrOrStderr(), c)
			var rows [][]cell
			for _, a := range c.Answers.Answers {
				low, high := unknown, unknown
				if a.Sampled {
					low, high = cell{a.Range.Low, shortly(a.Range.Low)}, cell{a.Range.High, shortly(a.Range.High)}
				}
				figure := cell{a.Figure, shortly(a.Figure)}
				if a.Verdict == niche.Cannot {
					figure = unknown
				}
				rows = append(rows, []cell{said(string(a.Question)), said(string(a.Verdict)), figure, low, high,
					{a.Bar.Yes, shortly(a.Bar.Yes)}, said(a.Because)})
			}
			return printed(cmd, caseColumns, rows)
		})}
	cmd.Flags().Float64Var(&hours, "hours", 0, "hours a week (default: as set)")
	cmd.Flags().Float64Var(&bar, "bar", 0, "money that an hour must bring (default: as set)")
	cmd.Flags().StringVar(&report, "report", "", "write the case to this file: .md, .html or .docx")
	jsonFlag(cmd)
	nicheFlag(cmd)
	cmd.AddCommand(drawCommand(), straysCommand())
	return cmd
}

func shortly(x float64) string {
	if x == float64(int64(x)) || x >= 100 {
		return fmt.Sprintf("%.0f", x)
	}
	return fmt.Sprintf("%.2f", x)
}

func tellCase(w io.Writer, c thecase.Case) {
	fmt.Fprintf(w, "%s %s\n", input.Sentence(string(c.Decision)), c.Why)
	if c.EarnWhy == "" {
		for _, m := range thecase.Marks {
			one := c.Earn.Months[m-1]
			fmt.Fprintf(w, "Month %d: %s a month (%s to %s), after %.0f hours.\n", m,
				thecase.Money(one.Income.Likely, c.Niche.Currency), thecase.Money(one.Income.Low, c.Niche.Currency),
				thecase.Money(one.Income.High, c.Niche.Currency), one.Hours)
		}
		fmt.Fprintf(w, "An hour: %s (%s to %s); your bar is %s. Never earned back within two years: %.0f %%.\n",
			thecase.Money(c.Earn.Hour.Likely, c.Niche.Currency), thecase.Money(c.Earn.Hour.Low, c.Niche.Currency),
			thecase.Money(c.Earn.Hour.High, c.Niche.Currency), thecase.Money(c.Settings.Assumed.Bar, c.Niche.Currency),
			100*c.Earn.Never)
		fmt.Fprintf(w, "%d of %d articles are expected to bring your bar: %.0f hours, %s a month once they are settled.\n",
			c.Earn.Above, len(c.Pieces), c.Earn.AboveHours, thecase.Money(c.Earn.AboveIncome, c.Niche.Currency))
	} else if c.EarnWhy != c.Why {
		fmt.Fprintln(w, c.EarnWhy)
	}
	fmt.Fprintf(w, "%d of %d topics are looked up, %d of them drawn at random.\n\n", c.LookedUp, c.Topics, c.Drawn)
}

func writeReport(cmd *cobra.Command, s *study.Study, n niches.Niche, c thecase.Case, path string) error {
	ending := strings.TrimPrefix(filepath.Ext(path), ".")
	for _, p := range briefs.Papers() {
		if p.Name != ending {
			continue
		}
		r, err := s.Case.Report(cmd.Context(), n, c)
		if err != nil {
			return err
		}
		f, err := os.Create(path)
		if err != nil {
			return err
		}
		if err := p.Write(f, r); err != nil {
			return fmt.Errorf("writing %s: %w", path, joinClose(err, f))
		}
		return f.Close()
	}
	return &usageError{fmt.Errorf("“%s” must end in .md, .html or .docx", path)}
}

func joinClose(err error, f io.Closer) error {
	if closing := f.Close(); closing != nil {
		return fmt.Errorf("%w; %w", err, closing)
	}
	return err
}

// drawCommand looks up topics at random.
func drawCommand() *cobra.Command {
	var yes bool
	cmd := &cobra.Command{Use: "draw N", Short: "Draw topics at random by searches and words, and look them up",
		Example: examples("cleverniche case draw 40", "cleverniche case draw 40 --yes"), Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			var many int
			if _, err := fmt.Sscan(list[0], &many); err != nil {
				return &usageError{fmt.Errorf("“%s” is no number", list[0])}
			}
			e, drawn, err := s.Case.DrawCost(cmd.Context(), n, many)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d topics are drawn. Looking them up costs at most %s.\n", drawn, s.Ask.Cost(e))
			if !yes && (!isTerminal(cmd.InOrStdin()) || !agreed(cmd)) {
				return &usageError{fmt.Errorf("nothing was looked up: say --yes once this is right")}
			}
			job, err := s.Case.Draw(cmd.Context(), n, many)
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	cmd.Flags().BoolVar(&yes, "yes", false, "look them up without asking")
	nicheFlag(cmd)
	return cmd
}
