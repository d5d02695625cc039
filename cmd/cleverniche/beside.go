package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
)

func textOf(cmd *cobra.Command, name string) (string, error) {
	if name == "-" {
		text, err := io.ReadAll(io.LimitReader(cmd.InOrStdin(), mostText))
		return string(text), err
	}
	f, err := os.Open(name)
	if err != nil {
		return "", err
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, mostText))
	return string(text), err
}

// mostText is how much is read of a list.
const mostText = 4 << 20

func wordsCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "words PHRASE", Short: "Say a phrase in other words: from a thesaurus, and from ideas",
		Long: "Say a phrase in other words: what a thesaurus has for its words, and ideas whose results are the same. Each " +
			"stands on a line, to be gathered from.",
		Example: examples("cleverniche words telescope",
			"cleverniche words \"small telescope\" | head -5 | cleverniche gather -"),
		GroupID: "work", Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			o, err := s.Gathering.OtherWords(cmd.Context(), n, list[0])
			if err != nil {
				return err
			}
			for _, i := range o.Same {
				fmt.Fprintln(cmd.OutOrStdout(), i.Phrase)
			}
			for _, t := range o.Titles {
				fmt.Fprintln(cmd.OutOrStdout(), t.Phrase)
			}
			for _, sense := range o.Senses {
				for _, p := range sense.Phrases {
					fmt.Fprintln(cmd.OutOrStdout(), p)
				}
			}
			if o.Missing != "" {
				fmt.Fprintln(cmd.ErrOrStderr(), input.Sentence(o.Missing))
			}
			return nil
		})}
	nicheFlag(cmd)
	return cmd
}

func checkCommand() *cobra.Command {
	var name string
	var reworded bool
	cmd := &cobra.Command{Use: "check FILE", Short: "Check a bought or borrowed list, apart from the niche",
		Long: "Check a list: its searches are looked up, and each phrase gets a verdict and the filters that stop it. The " +
			"list is kept apart, in a niche of its own beside yours. “-” reads from standard input.",
		Example: examples("cleverniche check list.txt --sieve \"Long tail\" --wordings",
			"cleverniche check - --searches 500 < list.txt"),
		GroupID: "work", Args: args(cobra.ExactArgs(1))}
	pairs := siftFlags(cmd)
	cmd.RunE = working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
		text, err := textOf(cmd, list[0])
		if err != nil {
			return err
		}
		if name == "" {
			name = strings.TrimSuffix(filepath.Base(list[0]), filepath.Ext(list[0]))
		}
		by := sieveOf(*pairs, sieve.Sieve{})
		checked, err := s.Checks.Begin(cmd.Context(), n, name, text)
		if err != nil {
			return err
		}
		running, err := s.Jobs.List(cmd.Context(), checked.ID, 1)
		if err != nil {
			return err
		}
		for _, job := range running {
			if err := follow(cmd, s, job); err != nil {
				return err
			}
		}
		if reworded {
			job, err := s.Checks.Wordings(cmd.Context(), checked, by)
			var none *input.Error
			switch {
			case errors.As(err, &none):
			case err != nil:
				return err
			default:
				if err := follow(cmd, s, job); err != nil {
					return err
				}
			}
		}
		lines, _, err := s.Checks.Verdicts(cmd.Context(), checked, by)
		if err != nil {
			return err
		}
		var rows [][]cell
		for _, l := range lines {
			searches := unknown
			if v := l.Idea.Value(sieve.Searches); v.Known && !v.Under {
				searches = said(int(v.Number))
			}
			rows = append(rows, []cell{said(l.Idea.Phrase), searches, said(string(l.Verdict)), said(l.Told()), said(l.Nearest)})
		}
		fmt.Fprintf(cmd.ErrOrStderr(), "The list is kept as the niche “%s”.\n", checked.Name)
		return printed(cmd, []column{{"Phrase", "phrase"}, {"Searches", "searches"}, {"Verdict", "verdict"},
			{"Stopped by", "stopped_by"}, {"People search", "searched_wording"}}, rows)
	})
	cmd.Flags().StringVar(&name, "name", "", "name of the list (default: the file's)")
	cmd.Flags().BoolVar(&reworded, "wordings", false, "look for the wordings that people do search")
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}

func aboutCommand() *cobra.Command {
	var site, add bool
	var most, first int
	cmd := &cobra.Command{Use: "about ADDRESS", Short: "Tell what a page, or a site, is about: phrases by weight",
		Long: "Read a page, or a site by its sitemap, and print the phrases that weigh most in it, with where on the page " +
			"they stand.",
		Example: examples("cleverniche about https://nightporch.example/star-charts",
			"cleverniche about nightporch.example --site --pages 50 --json"),
		GroupID: "work", Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			of, err := gather.ReadSource(list[0], site, most)
			if err != nil {
				return err
			}
			job, err := s.Gathering.Read(cmd.Context(), n, of)
			if err != nil {
				return err
			}
			if err := follow(cmd, s, job); err != nil {
				return err
			}
			got, err := s.Gathering.About(cmd.Context(), n, of)
			if err != nil {
				return err
			}
			for _, f := range got.Findings {
				fmt.Fprintln(cmd.ErrOrStderr(), f)
			}
			var rows [][]cell
			var phrases []string
			for _, t := range got.Terms[:min(len(got.Terms), max(0, first))] {
				phrases = append(phrases, t.Phrase)
				rows = append(rows, []cell{said(t.Phrase), {t.Weight, fmt.Sprintf("%.3f", t.Weight)},
					said(strings.Join(t.In, ", ")), said(t.Times), said(t.Pages)})
			}
			if add {
				if _, err := s.Gathering.AddFrom(cmd.Context(), n, of, phrases); err != nil {
					return err
				}
			}
			return printed(cmd, []column{{"Phrase", "phrase"}, {"Weight", "weight"}, {"Stands in", "stands_in"},
				{"Times", "times"}, {"Pages", "pages"}}, rows)
		})}
	cmd.Flags().BoolVar(&site, "site", false, "the whole site, by its sitemap")
	cmd.Flags().IntVar(&most, "pages", gather.UsualPages, "pages of the site at most")
	cmd.Flags().IntVar(&first, "first", 30, "phrases that are printed")
	cmd.Flags().BoolVar(&add, "add", false, "add what is printed as ideas")
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}

func reportCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "report", Short: "Tell what your search report says: what is nearly on page one",
		Long: "Tell what the search report says that you imported last. Phrases at places 11 to 20 come first, then " +
			"those you would not have thought of. The last were clicked, and no title of your pages holds their words.",
		Example: examples("cleverniche report", "cleverniche report --json"),
		GroupID: "work", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			got, err := s.Gathering.Reported(cmd.Context(), n)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, one := range []struct {
				says string
				list []ideas.Idea
			}{{"nearly on page one", got.Near}, {"unthought of", got.Unthought}, {"no page for it", got.Pageless}} {
				for _, i := range one.list {
					number := func(f *sieve.Figure) cell {
						if v := i.Value(f); v.Known {
							return cell{v.Number, fmt.Sprintf("%.*f", f.Places, v.Number)}
						}
						return unknown
					}
					rows = append(rows, []cell{said(one.says), said(i.Phrase), number(sieve.MyPlace), number(sieve.MyClicks),
						number(sieve.MyShown)})
				}
			}
			return printed(cmd, []column{{"What", "what"}, {"Phrase", "phrase"}, {"Your place", "your_place"},
				{"Clicks", "clicks"}, {"Times shown", "times_shown"}}, rows)
		})}
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}

func penCommand() *cobra.Command {
	var seeds bool
	written := map[string]*string{}
	cmd := &cobra.Command{Use: "pen", Short: "Write lines down for prompts, before there are seeds; or print them",
		Long: "Write down what comes to mind for each prompt, with commas between; it stays with the niche. Without a " +
			"prompt's flag what was written is printed.",
		Example: examples("cleverniche pen --who \"beginners, children\" --what \"telescope, star chart\"",
			"cleverniche pen --seeds | cleverniche gather -"),
		GroupID: "work", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			of, err := s.Gathering.Pen(cmd.Context(), n)
			if err != nil {
				return err
			}
			changed := false
			for _, p := range gather.Prompts {
				if cmd.Flags().Changed(p.Key) {
					of[p.Key], changed = *written[p.Key], true
				}
			}
			if changed {
				if err := s.Gathering.KeepPen(cmd.Context(), n, of); err != nil {
					return err
				}
			}
			if seeds {
				list, err := s.Gathering.PenSeeds(cmd.Context(), n)
				for _, line := range list {
					fmt.Fprintln(cmd.OutOrStdout(), line)
				}
				return err
			}
			var rows [][]cell
			for _, p := range gather.Prompts {
				rows = append(rows, []cell{said(p.Asks), said(strings.ReplaceAll(of[p.Key], "\n", ", "))})
			}
			return printed(cmd, []column{{"Prompt", "prompt"}, {"Written", "written"}}, rows)
		})}
	for _, p := range gather.Prompts {
		written[p.Key] = cmd.Flags().String(p.Key, "", p.Asks)
	}
	cmd.Flags().BoolVar(&seeds, "seeds", false, "print the lines that were no seeds yet, to gather from")
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}
