package main

import (
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/branch"
	"cleverniche/study"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
)

func rootsCommand() *cobra.Command {
	var names bool
	var most int
	cmd := &cobra.Command{Use: "roots", Short: "List short phrases that many ideas hold: what to gather from next",
		Long: "List the short phrases that many ideas of a niche hold and that were no seeds yet. Each says how many " +
			"ideas, searches and easy ideas hang on it.",
		Example: examples("cleverniche roots", "cleverniche roots --names --most 10 | cleverniche gather -"),
		GroupID: "work", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			roots, err := s.Gathering.Roots(cmd.Context(), n)
			if err != nil {
				return err
			}
			roots = roots[:max(0, min(most, len(roots)))]
			var rows [][]cell
			for _, r := range roots {
				if names {
					fmt.Fprintln(cmd.OutOrStdout(), r.Phrase)
				}
				rows = append(rows, []cell{said(r.Phrase), said(r.Ideas), said(int(r.Searches)), said(r.Easy)})
			}
			if names {
				return nil
			}
			return printed(cmd, []column{{"Root", "root"}, {"Ideas", "ideas"}, {"Searches", "searches"}, {"Easy", "easy"}}, rows)
		})}
	cmd.Flags().BoolVar(&names, "names", false, "print the phrases alone, one per line")
	cmd.Flags().IntVar(&most, "most", gather.MostRoots, "roots at most")
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}

func gatherCommand() *cobra.Command {
	ways := map[gather.Way]*bool{}
	var plan gather.Plan
	var through, without, keep, price string
	var weekly bool
	cmd := &cobra.Command{Use: "gather SEED…", Short: "Gather ideas from seeds, and look up their searches",
		Long: "Gather ideas from seeds, and look up their searches. “-” reads seeds from standard input, one per line. " +
			"With several rounds, new ideas are grown in turn, until nothing new comes or the lookups are used up.",
		Example: examples("cleverniche gather - --questions=false < seeds.txt",
			"cleverniche gather \"moon map\" --prepositions --rounds 3 --most 400 --without \"jobs, login\""),
		GroupID: "work", Args: args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			list, err := linesOf(cmd, list)
			if err != nil {
				return err
			}
			seeds, ignored, err := gather.ReadSeeds(strings.Join(list, "\n"))
			if err != nil {
				return err
			}
			plan.Seeds, plan.Ways = seeds, nil
			for _, w := range gather.Ways {
				if *ways[w.Way] {
					plan.Ways = append(plan.Ways, w.Way)
				}
			}
			if plan.Price, err = s.Ask.ReadMoney(price); err != nil {
				return err
			}
			if through != "" {
				saved, err := s.Sieves.Named(cmd.Context(), through)
				if err != nil {
					return err
				}
				plan.Through = saved.Sieve
			}
			if cmd.Flags().Changed("without") {
				to := n
				to.Unwanted = without
				if n, _, err = s.Results.ChangeFrom(cmd.Context(), n, to); err != nil {
					return err
				}
			}
			for _, p := range ignored {
				fmt.Fprintf(cmd.ErrOrStderr(), "seed %d left out: %s\n", p.Line, p.Reason)
			}
			if cmd.Flags().Changed("save") {
				k, err := s.Gathering.Keep(cmd.Context(), n, keep, plan, weekly)
				if err != nil {
					return err
				}
				return rerun(cmd, s, n, k)
			}
			job, err := s.Gathering.Gather(cmd.Context(), n, plan)
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	for _, w := range gather.Ways {
		ways[w.Way] = cmd.Flags().Bool(string(w.Way), slices.Contains(gather.Usual, w.Way), "look up "+w.Says)
	}
	cmd.Flags().IntVar(&plan.Rounds, "rounds", 1, "rounds: after the first one new ideas are grown in the same ways")
	cmd.Flags().IntVar(&plan.Most, "most", gather.UsualLookups, "lookups at most, with several rounds")
	cmd.Flags().StringVar(&price, "price", "", "no further round once so much is spent, such as 0.50")
	cmd.Flags().StringVar(&through, "through", "", "saved sieve that new ideas have to pass for the next round")
	cmd.Flags().StringVar(&keep, "save", "", "save it under this name, to run it again")
	cmd.Flags().BoolVar(&weekly, "weekly", false, "with --save: while the application is served, run it every week")
	cmd.Flags().StringVar(&without, "without", "", "words that no idea may hold, between commas; they stay with the niche")
	nicheFlag(cmd)
	return cmd
}

// shownDeep is how many levels of the tree are printed where nobody says otherwise: seeds, and their ways.
const shownDeep = 2

func downCommand() *cobra.Command {
	var deep int
	var by string
	cmd := &cobra.Command{Use: "down", Short: "Show where ideas came from, and which seeds were worth it",
		Long: "Show seeds and lists, the ways in which they grew and what was dug from there, with what came of each: " +
			"ideas, searches, easy ones, kept ones, and the cost of their lookups. An idea is counted where it came " +
			"from first. --branch of other commands takes the name of a seed.",
		Example: examples("cleverniche down", "cleverniche down --sort cost --deep 3"),
		GroupID: "work", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			order := branch.OrderNamed(by)
			if order.Key != by {
				return &usageError{fmt.Errorf("--sort: %q is none of %s", by, strings.Join(orderKeys(), ", "))}
			}
			tree, err := s.Gathering.Down(cmd.Context(), n, order)
			if err != nil {
				return err
			}
			var rows [][]cell
			var walk func(of *branch.Node, level int)
			walk = func(of *branch.Node, level int) {
				for _, b := range of.Kids {
					rows = append(rows, []cell{{b.Mark, strings.Repeat("  ", level) + b.Name}, said(b.Ideas),
						said(int(b.Searches + 0.5)), said(b.Easy), said(b.Kept), said(b.Dropped),
						{float64(b.Micros) / 1e6, s.Ask.Money(b.Micros)}})
					if level+1 < deep {
						walk(b, level+1)
					}
				}
			}
			walk(tree.Node, 0)
			return printed(cmd, []column{{"Seed, or list", "branch"}, {"Ideas", "ideas"}, {"Searches", "searches"},
				{"Easy", "easy"}, {"Kept", "kept"}, {"Dropped", "dropped"}, {"Cost", "cost"}}, rows)
		})}
	cmd.Flags().IntVar(&deep, "deep", shownDeep, "levels that are shown")
	cmd.Flags().StringVar(&by, "sort", branch.Orders[0].Key, "what to sort by: "+strings.Join(orderKeys(), ", "))
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}

func orderKeys() (out []string) {
	for _, o := range branch.Orders {
		out = append(out, o.Key)
	}
	return out
}

func crossCommand() *cobra.Command {
	var lists []string
	var glue, pattern string
	var turned, all, preview bool
	cmd := &cobra.Command{Use: "combine", Short: "Make phrases of lists of words, and keep those that are searched",
		Long: "Make phrases of one line of each list, side by side or in the gaps of a pattern. Their searches are looked " +
			"up, and those that are searched become ideas. “-” reads one list from standard input.",
		Example: examples("cleverniche combine --words things.txt --words people.txt --between for",
			"cleverniche combine --pattern \"can you see * with binoculars\" --words planets.txt --preview"),
		GroupID: "work", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			texts := make([]string, len(lists))
			for i, name := range lists {
				text, err := textOf(cmd, name)
				if err != nil {
					return err
				}
				texts[i] = text
			}
			c, err := gather.ReadCrossing(pattern, texts, glue, turned, all)
			if err != nil {
				return err
			}
			if preview {
				e, err := s.Gathering.EstimateCrossing(cmd.Context(), n, c)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.ErrOrStderr(), "%d phrases, %d lookups of searches at most, %s\n", c.Count(), e.Lookups,
					s.Ask.Cost(e))
				for _, p := range c.Sample(20) {
					fmt.Fprintln(cmd.OutOrStdout(), p)
				}
				return nil
			}
			job, err := s.Gathering.Cross(cmd.Context(), n, c)
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	cmd.Flags().StringArrayVar(&lists, "words", nil, "file with a list, one word or phrase per line; once for each list")
	cmd.Flags().StringVar(&glue, "between", "", "words that may stand between, with commas; - is nothing")
	cmd.Flags().StringVar(&pattern, "pattern", "", "pattern with a * for each list")
	cmd.Flags().BoolVar(&turned, "turned", false, "in all orders of the lists")
	cmd.Flags().BoolVar(&all, "all", false, "keep those that nobody is known to search, too")
	cmd.Flags().BoolVar(&preview, "preview", false, "only say how many there would be, twenty of them, and the cost")
	nicheFlag(cmd)
	return cmd
}

// textOf reads a file, or standard input for "-".
// rerun does a kept gathering and prints what is new.
func rerun(cmd *cobra.Command, s *study.Study, n niches.Niche, k gather.Kept) error {
	job, err := s.Gathering.Rerun(cmd.Context(), n, k)
	if err != nil {
		return err
	}
	if err := follow(cmd, s, job); err != nil {
		return err
	}
	if k, err = s.Gathering.KeptOne(cmd.Context(), n, k.ID); err != nil {
		return err
	}
	list, _, err := s.Gathering.New(cmd.Context(), n, k)
	for _, i := range list {
		fmt.Fprintln(cmd.OutOrStdout(), i.Phrase)
	}
	return err
}

func regatherCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "regather [NAME]", Short: "Run a saved gathering again and print what is new, or list them",
		Long: "Run a gathering again that was saved with “gather --save”. Everything is looked up anew, and new ideas " +
			"are printed. Without a name the saved ones are listed.",
		Example: examples("cleverniche regather", "cleverniche regather \"moon maps\""),
		GroupID: "work", Args: args(cobra.MaximumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			kept, err := s.Gathering.Kept(cmd.Context(), n)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, k := range kept {
				if len(list) > 0 && strings.EqualFold(k.Name, list[0]) {
					return rerun(cmd, s, n, k)
				}
				last := unknown
				if !k.RunAt.IsZero() {
					last = said(k.RunAt.Format("2006-01-02"))
				}
				rows = append(rows, []cell{said(k.Name), last, said(k.Weekly)})
			}
			if len(list) > 0 {
				return input.Bad("name", "There is no saved gathering “%s”.", input.Clip(list[0], gather.MostKeptName))
			}
			return printed(cmd, []column{{"Name", "name"}, {"Last run", "last_run"}, {"Weekly", "weekly"}}, rows)
		})}
	nicheFlag(cmd)
	jsonFlag(cmd)
	return cmd
}
