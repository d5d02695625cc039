package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"

	"github.com/spf13/cobra"
)

func rootCommand() *cobra.Command {
	root := &cobra.Command{Use: "cleverniche", SilenceUsage: true, SilenceErrors: true,
		Short: "Find the search phrases that a small site can win"}
	addSettings(root)
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return &usageError{err} })
	root.AddCommand(serveCommand(), demoCommand(), nicheCommand(), gatherCommand(), importCommand(), judgeCommand(), exportCommand())
	return root
}

// args checks the number of arguments, as a usage error.
func args(check cobra.PositionalArgs) cobra.PositionalArgs {
	return func(cmd *cobra.Command, list []string) error {
		if err := check(cmd, list); err != nil {
			return &usageError{err}
		}
		return nil
	}
}

// working runs do with the study open, and the niche that --niche names.
func working(do func(cmd *cobra.Command, s *study.Study, n store.Niche, args []string) error) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, args []string) error {
		c, err := readConfig(cmd.Flags())
		if err != nil {
			return err
		}
		if !cmd.Flags().Changed("log") {
			c.Set("log", "warn") // progress is told in words
		}
		s, st, _, err := c.open()
		if err != nil {
			return err
		}
		defer st.Close()
		defer s.Close()
		n, err := pickNiche(cmd.Context(), s, c.GetString("niche"))
		if err != nil {
			return err
		}
		return do(cmd, s, n, args)
	}
}

func nicheFlag(cmd *cobra.Command) {
	cmd.Flags().String("niche", "", "the niche's name (default: the one opened last)")
}

func pickNiche(ctx context.Context, s *study.Study, name string) (store.Niche, error) {
	if name != "" {
		n, err := s.NicheNamed(ctx, name)
		if errors.Is(err, study.ErrNotFound) {
			return n, &study.InputError{Field: "niche", Reason: fmt.Sprintf("there is no niche named %q; make it with: cleverniche niche %q", name, name)}
		}
		return n, err
	}
	all, err := s.Niches(ctx)
	if err == nil && len(all) == 0 {
		err = &study.InputError{Field: "niche", Reason: "there is no niche yet; make one with: cleverniche niche NAME"}
	}
	if err != nil {
		return store.Niche{}, err
	}
	return all[0], nil
}

func nicheCommand() *cobra.Command {
	var n store.Niche
	cmd := &cobra.Command{Use: "niche [NAME]", Short: "Make a niche, or list them", Args: args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, list []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			s, st, _, err := c.open()
			if err != nil {
				return err
			}
			defer st.Close()
			defer s.Close()
			if len(list) == 1 {
				n.Name = list[0]
				_, err := s.CreateNiche(cmd.Context(), n)
				return err
			}
			all, err := s.Niches(cmd.Context())
			for _, n := range all {
				fmt.Fprintf(cmd.OutOrStdout(), "%s\t%s-%s\t%s\n", n.Name, n.Language, n.Country, n.OwnSite)
			}
			return err
		}}
	cmd.Flags().StringVar(&n.Country, "country", "US", "two-letter country code")
	cmd.Flags().StringVar(&n.Language, "language", "en", "two-letter language code")
	cmd.Flags().StringVar(&n.OwnSite, "site", "", "domain of your own site")
	return cmd
}

func gatherCommand() *cobra.Command {
	var letters, questions bool
	cmd := &cobra.Command{Use: "gather SEED…", Short: "Grow ideas from seeds, and look up their searches", Args: args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n store.Niche, list []string) error {
			seeds, ignored, err := study.ReadSeeds(strings.Join(list, "\n"))
			if err != nil {
				return err
			}
			for _, p := range ignored {
				fmt.Fprintf(cmd.ErrOrStderr(), "seed %d left out: %s\n", p.Line, p.Reason)
			}
			job, err := s.Gather(cmd.Context(), n, study.GatherPlan{Seeds: seeds, Letters: letters, Questions: questions})
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	cmd.Flags().BoolVar(&letters, "letters", true, "ask for each seed followed by each letter")
	cmd.Flags().BoolVar(&questions, "questions", true, "ask for question words before each seed")
	nicheFlag(cmd)
	return cmd
}

func importCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "import FILE", Short: "Read your own list: phrases, or CSV with the columns phrase, searches, cpc (“-” is standard input)",
		Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n store.Niche, list []string) error {
			in, name := cmd.InOrStdin(), "standard input"
			if list[0] != "-" {
				f, err := os.Open(list[0])
				if err != nil {
					return &usageError{err}
				}
				defer f.Close()
				in, name = f, filepath.Base(list[0])
			}
			rep, err := s.Import(cmd.Context(), n, name, in)
			if err != nil {
				return err
			}
			for _, p := range rep.Problems {
				fmt.Fprintf(cmd.ErrOrStderr(), "line %d not used: %s\n", p.Line, p.Reason)
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d new ideas, %d known already, %d lines not used\n", rep.Added, rep.Merged, len(rep.Problems))
			if len(rep.Problems) > 0 {
				return &partlyError{fmt.Sprintf("%d lines were not used", len(rep.Problems))}
			}
			return nil
		})}
	nicheFlag(cmd)
	return cmd
}

// siftFlags gives a command the sieve's criteria as flags.
func siftFlags(cmd *cobra.Command, f *study.Sift, show *string) {
	flags := cmd.Flags()
	flags.IntVar(&f.Words, "words", 0, "words at least")
	flags.IntVar(&f.From, "searches-from", 0, "searches a month at least")
	flags.IntVar(&f.To, "searches-to", 0, "searches a month at most")
	flags.BoolVar(&f.Unmeasured, "unmeasured", false, "let ideas under the source's floor pass --searches-from")
	flags.StringVar(&f.Holds, "holds", "", "words, one of which the phrase holds, separated by commas")
	flags.StringVar(&f.Lacks, "lacks", "", "words, none of which the phrase holds, separated by commas")
	flags.IntVar(&f.Difficulty, "difficulty", -1, "difficulty at most")
	flags.Var((*readyName)(&f.Ready), "sieve", "ready-made sieve that the other criteria are put behind, such as \"New porch\"")
	flags.IntVar(&f.Footholds, "footholds", 0, "footholds at least")
	flags.StringVar(show, "show", string(study.ShowOpen), "open (not dropped), kept, dropped or all")
}

// readyName is the name of a ready-made sieve as a flag.
type readyName string

func (r *readyName) String() string { return string(*r) }
func (r *readyName) Type() string   { return "name" }
func (r *readyName) Set(name string) error {
	*r = readyName(name)
	return study.CheckReady(name)
}

func readShow(s string) (study.Show, error) {
	switch show := study.Show(s); show {
	case study.ShowOpen, study.ShowKept, study.ShowDropped, study.ShowAll:
		return show, nil
	}
	return "", &study.InputError{Field: "show", Reason: fmt.Sprintf("--show %q is none of open, kept, dropped, all", s)}
}

func judgeCommand() *cobra.Command {
	var f study.Sift
	var show string
	var most int
	var all, again bool
	cmd := &cobra.Command{Use: "judge [PHRASE…]", Short: "Look ideas up and judge them: the phrases, or with --all-left what the sieve leaves",
		RunE: working(func(cmd *cobra.Command, s *study.Study, n store.Niche, list []string) error {
			var err error
			if f.Show, err = readShow(show); err != nil {
				return err
			}
			if all == (len(list) > 0) {
				return &usageError{errors.New("give phrases, or --all-left")}
			}
			ids, err := choose(cmd.Context(), s, n, f, list, most)
			if err != nil {
				return err
			}
			job, err := s.Judge(cmd.Context(), n, ids, again)
			if err != nil {
				return err
			}
			return follow(cmd, s, job)
		})}
	siftFlags(cmd, &f, &show)
	cmd.Flags().BoolVar(&all, "all-left", false, "all ideas that the sieve leaves, most searched first")
	cmd.Flags().BoolVar(&again, "again", false, "ask everything anew, also what is at hand")
	cmd.Flags().IntVar(&most, "most", study.MostJudged, "with --all-left: look up at most so many")
	nicheFlag(cmd)
	return cmd
}

// choose returns the ideas of the phrases, which are put in when they are new, or
// else those that the sift leaves.
func choose(ctx context.Context, s *study.Study, n store.Niche, f study.Sift, phrases []string, most int) ([]uint, error) {
	if len(phrases) > 0 {
		if _, err := s.Import(ctx, n, "command line", strings.NewReader(strings.Join(phrases, "\n"))); err != nil {
			return nil, err
		}
	}
	b, err := s.Board(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	var ids []uint
	if len(phrases) > 0 {
		wanted := map[string]bool{}
		for _, p := range phrases {
			wanted[phrase.Normal(p)] = true
		}
		for _, idea := range b.Rows {
			if wanted[idea.Phrase] {
				ids = append(ids, idea.ID)
			}
		}
		return ids, nil
	}
	f.Sort, f.Down = sieve.SortSearches, true
	for _, r := range b.Pass(f).Rows(0, most) {
		ids = append(ids, r.ID)
	}
	return ids, nil
}

func exportCommand() *cobra.Command {
	var f study.Sift
	var show, format, sortBy string
	cmd := &cobra.Command{Use: "export", Short: "Write ideas to standard output as table, CSV or JSON", Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n store.Niche, _ []string) error {
			var err error
			if f.Show, err = readShow(show); err != nil {
				return err
			}
			f.Sort = sieve.Column(sortBy)
			ok, smallestFirst := sieve.KnownColumn(f.Sort)
			if !ok {
				return &study.InputError{Field: "sort", Reason: fmt.Sprintf("--sort %q is no column", sortBy)}
			}
			f.Down = !smallestFirst
			return s.Export(cmd.Context(), cmd.OutOrStdout(), n.ID, f, study.Format(format))
		})}
	siftFlags(cmd, &f, &show)
	cmd.Flags().Lookup("show").DefValue = string(study.ShowKept)
	show = string(study.ShowKept)
	cmd.Flags().StringVar(&format, "format", string(study.Table), "table, csv or json")
	cmd.Flags().StringVar(&sortBy, "sort", string(sieve.SortSearches), "column to sort by: idea, words, searches, cpc, ads, difficulty, chance, footholds, wants, links, found")
	nicheFlag(cmd)
	return cmd
}

// stoppedError is a job that stopped before its end.
type stoppedError struct{ reason string }

func (e *stoppedError) Error() string { return e.reason }

// follow tells a job's progress on standard error until it ends. An interrupt
// pauses it: the same command goes on with what is kept.
func follow(cmd *cobra.Command, s *study.Study, job store.Job) error {
	ended := make(chan error, 1)
	go func() { ended <- s.WaitJob(context.WithoutCancel(cmd.Context()), job.ID) }()
	tick := time.NewTicker(500 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-cmd.Context().Done():
			bg, cancel := context.WithTimeout(context.Background(), 10*time.Second)
			defer cancel()
			if err := s.PauseJob(bg, job.NicheID, job.ID); err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(), "\npaused; what was fetched is kept")
			return context.Canceled
		case <-tick.C:
			v, err := s.Job(cmd.Context(), job.NicheID, job.ID)
			if err == nil {
				fmt.Fprintf(cmd.ErrOrStderr(), "\r%d of %d steps, %d lookups, %s ", v.Done+v.Failed, v.Total, v.Lookups, v.Cost)
			}
		case err := <-ended:
			if err != nil {
				return err
			}
			return report(cmd.ErrOrStderr(), s, job)
		}
	}
}

func report(w io.Writer, s *study.Study, job store.Job) error {
	v, err := s.Job(context.Background(), job.NicheID, job.ID)
	if err != nil {
		return err
	}
	what := "new ideas"
	if v.Kind == "judge" {
		what = "ideas judged"
	}
	fmt.Fprintf(w, "\r%d of %d steps, %d %s, %d lookups, %s\n", v.Done+v.Failed, v.Total, v.Found, what, v.Lookups, v.Cost)
	for _, f := range v.Failures {
		fmt.Fprintf(w, "step %d: %s\n", f.Seq, f.Error)
	}
	switch {
	case v.State != store.Done:
		return &stoppedError{v.Message + "; what was fetched is kept, and the same command goes on from there"}
	case v.Failed > 0:
		return &partlyError{v.Message}
	}
	return nil
}
