package main

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
)

// named are the ideas of phrases; “-” among them is standard input, a phrase a line. Those that are not in the
// niche are told.
func named(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) (ids []uint, missing []string,
	err error) {
	if list, err = linesOf(cmd, list); err != nil {
		return nil, nil, err
	}
	b, err := s.Ideas.Table(cmd.Context(), n)
	if err != nil {
		return nil, nil, err
	}
	for _, text := range list {
		found := b.Named(phrase.Normal(text))
		if ids = append(ids, found...); len(found) == 0 {
			missing = append(missing, text)
			fmt.Fprintf(cmd.ErrOrStderr(), "“%s” is not among your ideas.\n", plainCell(input.Clip(text, 80)))
		}
	}
	if len(ids) == 0 {
		return nil, missing, &usageError{errors.New("none of these is among your ideas")}
	}
	return ids, missing, nil
}

// partly is what remains to be said where some phrases are not in the niche.
func partly(missing []string) error {
	if len(missing) == 0 {
		return nil
	}
	return &partlyError{fmt.Sprintf("%d of the phrases are not among your ideas", len(missing))}
}

// onIdeas is a command that does something to ideas that are named.
func onIdeas(use, short, long, example string, least int, do func(ctx context.Context, s *study.Study, n niches.Niche,
	ids []uint, words []string) (says string, err error)) *cobra.Command {
	cmd := &cobra.Command{Use: use, Short: short, Long: long, Example: example, GroupID: "keep",
		Args: args(cobra.MinimumNArgs(least)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			ids, missing, err := named(cmd, s, n, list[least-1:])
			if err != nil {
				return err
			}
			says, err := do(cmd.Context(), s, n, ids, list[:least-1])
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(), says)
			return partly(missing)
		})}
	nicheFlag(cmd)
	return cmd
}

func decideCommand(use, short, done string, d sieve.Decision) *cobra.Command {
	return onIdeas(use+" PHRASE…", short, short+". “-” reads phrases from standard input, one per line. "+
		"Undo takes it back.", examples("cleverniche "+use+" \"moon map for kids\"",
		"cleverniche export --format csv --difficulty 20 | cut -d, -f1 | tail -n +2 | cleverniche "+use+" -"), 1,
		func(ctx context.Context, s *study.Study, n niches.Niche, ids []uint, _ []string) (string, error) {
			changed, err := s.Ideas.Decide(ctx, n.ID, ids, d)
			return fmt.Sprintf("%s %s.", done, ideasSaid(changed)), err
		})
}

func ideasSaid(n int) string { return fmt.Sprintf("%d %s", n, input.IdeasWord(n)) }

func labelCommand() *cobra.Command {
	var off bool
	cmd := onIdeas("label LABEL PHRASE…", "Label ideas, or remove a label",
		"Label ideas, or remove a label. “-” reads phrases from standard input, one per line.",
		examples("cleverniche label \"write first\" \"moon map\" \"moon phases\"",
			"cleverniche label \"write first\" \"moon map\" --remove"), 2,
		func(ctx context.Context, s *study.Study, n niches.Niche, ids []uint, words []string) (string, error) {
			label, changed, err := s.Ideas.Label(ctx, n, ids, words[0], off)
			if off {
				return fmt.Sprintf("Removed “%s” from %s.", label, ideasSaid(len(changed))), err
			}
			return fmt.Sprintf("Labelled %s “%s”.", ideasSaid(len(changed)), label), err
		})
	cmd.Flags().BoolVar(&off, "remove", false, "remove the label instead")
	cmd.ValidArgsFunction = func(cmd *cobra.Command, list []string, _ string) ([]string, cobra.ShellCompDirective) {
		if len(list) > 0 {
			return nil, cobra.ShellCompDirectiveNoFileComp
		}
		return completed(cmd, marksOf(sieve.Labels))
	}
	return cmd
}

func deleteCommand() *cobra.Command {
	return onIdeas("delete PHRASE…", "Delete ideas from the niche",
		"Delete ideas from the niche. Those in the plan stay. Undo brings them back.",
		examples("cleverniche delete \"moon phase\"", "cleverniche delete - < wrong.txt"), 1,
		func(ctx context.Context, s *study.Study, n niches.Niche, ids []uint, _ []string) (string, error) {
			gone, err := s.Ideas.Remove(ctx, n.ID, ids)
			return fmt.Sprintf("Deleted %s.", ideasSaid(gone)), err
		})
}

func undoCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "undo", Short: "Undo the last decision, label, note, or change to topics and the plan",
		Example: examples("cleverniche undo", "cleverniche undo --niche \"Backyard astronomy\""), GroupID: "keep",
		Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			undone, err := s.Subjects.Undo(cmd.Context(), n)
			if err != nil {
				return err
			}
			if undone.Says == "" {
				undone.Says = "There is nothing to undo."
			}
			fmt.Fprintln(cmd.ErrOrStderr(), undone.Says)
			return nil
		})}
	nicheFlag(cmd)
	return cmd
}

// verdict writes what is known of ideas that were looked up.
func verdict(cmd *cobra.Command, s *study.Study, n niches.Niche, ids []uint) error {
	list, err := s.Ideas.Ideas(cmd.Context(), n.ID, ids)
	if err != nil {
		return err
	}
	var rows [][]cell
	for _, i := range list {
		if i.LookedUp() {
			rows = append(rows, verdictRow(cmd.Context(), s, n, i))
		}
	}
	if asJSON(cmd) || len(rows) > mostSpoken {
		return printed(cmd, verdictColumns, rows)
	}
	w := cmd.OutOrStdout()
	for k, row := range rows {
		if k > 0 {
			fmt.Fprintln(w)
		}
		fmt.Fprintln(w, bold(w, plainCell(row[0].says)))
		for c, one := range row[1:] {
			if one.value != nil && one.says != "" {
				fmt.Fprintf(w, "  %-12s %s\n", verdictColumns[c+1].head, plainCell(one.says))
			}
		}
	}
	return nil
}

// mostSpoken is of how many ideas verdicts are told one by one; more are a table.
const mostSpoken = 5

var verdictColumns = []column{{"Idea", "phrase"}, {"Searches", "searches"},
	{"Difficulty", "difficulty"}, {"Page one", "page_one_chance"}, {"Intent", "intent"},
	{"Verdict", "verdict"}, {"Outrank", "outrank"}}

func verdictRow(ctx context.Context, s *study.Study, n niches.Niche, i ideas.Idea) []cell {
	row := []cell{said(i.Phrase), figureCell(i, sieve.Searches), figureCell(i, sieve.Difficulty),
		figureCell(i, sieve.PageOne), figureCell(i, sieve.Intent), unknown, unknown}
	ev, err := s.Results.Evidence(ctx, n, i.ID)
	if err != nil {
		return row
	}
	row[3].says = ev.Verdict.PageOne.String()
	row[5] = said(ev.Says())
	var weak []string
	for _, e := range ev.Reading.Ten() {
		if e.Foothold {
			weak = append(weak, fmt.Sprintf("no. %d, %s", e.Position, e.Site))
		}
	}
	if len(weak) > 0 {
		row[6] = cell{weak, strings.Join(weak, "; ")}
	}
	return row
}

// figureCell is a figure of an idea.
func figureCell(i ideas.Idea, f *sieve.Figure) cell {
	v := i.Value(f)
	switch {
	case !v.Known:
		return unknown
	case f.Names != nil:
		return said(f.NameOf(v))
	case f.Form == sieve.Percent:
		return cell{v.Number, fmt.Sprintf("%.0f %%", 100*v.Number)}
	}
	return cell{v.Number, fmt.Sprintf("%.0f", v.Number)}
}
