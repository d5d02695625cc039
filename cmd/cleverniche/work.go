package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"

	"github.com/spf13/cobra"
)

func rootCommand() *cobra.Command {
	root := &cobra.Command{Use: "cleverniche", SilenceUsage: true, SilenceErrors: true,
		Short: "Find the search phrases that a small site can win",
		Args: func(cmd *cobra.Command, list []string) error {
			if len(list) == 0 {
				return nil
			}
			says := fmt.Sprintf("unknown command %q: cleverniche --help lists them", list[0])
			if like := cmd.SuggestionsFor(list[0]); len(like) > 0 {
				says = fmt.Sprintf("unknown command %q: did you mean %s?", list[0], strings.Join(like, " or "))
			}
			return &usageError{errors.New(says)}
		},
		RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() }}
	root.SuggestionsMinimumDistance = 2
	cobra.EnableCommandSorting = false // they come in the order of the work
	root.Version = version()
	root.SetVersionTemplate("Clever Niche {{.Version}}\n")
	root.Example = examples("cleverniche demo", "cleverniche serve")
	addSettings(root)
	root.AddGroup(groups...)
	root.SetUsageFunc(usage)
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return &usageError{err} })
	root.AddCommand(nicheCommand(), gatherCommand(), regatherCommand(), rootsCommand(), downCommand(), crossCommand(),
		wordsCommand(), checkCommand(), aboutCommand(), reportCommand(), penCommand(), importCommand(), sourceCommand(),
		graphCommand(), judgeCommand(), groupCommand(), planCommand(), briefCommand(), calendarCommand(),
		rivalsCommand(), caseCommand(), watchCommand(),
		exportCommand(),
		nichesCommand(), sievesCommand(), decideCommand("keep", "Keep ideas", "Kept", sieve.Kept),
		decideCommand("drop", "Drop ideas", "Dropped", sieve.Dropped), labelCommand(), deleteCommand(), undoCommand(),
		backupCommand(), restoreCommand(), packCommand(), unpackCommand(),
		serveCommand(), peopleCommand(), demoCommand(), manualCommand())
	root.SetCompletionCommandGroupID("run")
	root.SetHelpCommandGroupID("run")
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

// opened runs do with the study open, and the jobs that bring it up to date begun.
func opened(do func(cmd *cobra.Command, c config, s *study.Study, renewing []jobs.Job,
	args []string) error) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, args []string) error {
		c, err := readConfig(cmd.Flags())
		if err != nil {
			return err
		}
		if !cmd.Flags().Changed("log") {
			c.Set("log", "warn") // progress is told in words
		}
		log, err := c.logger()
		if err != nil {
			return err
		}
		s, renewing, closing, err := c.open(log)
		if err != nil {
			return err
		}
		defer closing()
		return do(cmd, c, s, renewing, args)
	}
}

// working runs do with the study open, and the niche that --niche names.
func working(do func(cmd *cobra.Command, s *study.Study, n niches.Niche, args []string) error) func(*cobra.Command,
	[]string) error {
	return opened(func(cmd *cobra.Command, c config, s *study.Study, renewing []jobs.Job, args []string) error {
		for _, job := range renewing { // what is said must be what holds
			fmt.Fprintln(cmd.ErrOrStderr(), job.Title+"…")
			if err := s.Jobs.Wait(cmd.Context(), job.ID); err != nil {
				return err
			}
		}
		n, err := pickNiche(cmd.Context(), s, c.GetString("niche"))
		if err != nil {
			return err
		}
		return do(cmd, s, n, args)
	})
}

func nicheFlag(cmd *cobra.Command) {
	cmd.Flags().String("niche", "", "the niche's name (default: the one opened last)")
	complete(cmd, "niche", nichesOf)
}

func pickNiche(ctx context.Context, s *study.Study, name string) (niches.Niche, error) {
	if name != "" {
		n, err := s.Niches.Named(ctx, name)
		if errors.Is(err, input.ErrNotFound) {
			return n, &input.Error{Field: "niche",
				Reason: fmt.Sprintf("there is no niche named %q; make it with: cleverniche niche %q", name, name)}
		}
		return n, err
	}
	all, err := s.Niches.All(ctx)
	if err == nil && len(all) == 0 {
		err = &input.Error{Field: "niche", Reason: "there is no niche yet; make one with: cleverniche niche NAME"}
	}
	if err != nil {
		return niches.Niche{}, err
	}
	for _, n := range all {
		if n.ListOf == 0 { // a list that is checked is worked on where it is named
			return n, nil
		}
	}
	return all[0], nil
}

func nicheCommand() *cobra.Command {
	var asked niches.Niche
	var income string
	cmd := &cobra.Command{Use: "niche [NAME]", Short: "Make a niche, change one, or list them",
		Long: "Make a niche. With the name of one that exists, change what the flags say. Without a name, list them.",
		Args: args(cobra.MaximumNArgs(1)), GroupID: "work",
		Example: examples("cleverniche niche \"Backyard astronomy\" --site nightporch.example",
			"cleverniche niche \"Backyard astronomy\" --income 0.02 --hours 6"),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, list []string) error {
			if len(list) == 0 {
				return listNiches(cmd, s)
			}
			n, err := s.Niches.Named(cmd.Context(), list[0])
			there := err == nil
			if err != nil && !errors.Is(err, input.ErrNotFound) {
				return err
			}
			if !there {
				n = niches.Niche{Name: list[0], Country: asked.Country, Language: asked.Language}
			}
			for flag, change := range map[string]func(){
				"country":  func() { n.Country = asked.Country },
				"language": func() { n.Language = asked.Language },
				"site":     func() { n.OwnSite = asked.OwnSite },
				"hours":    func() { n.WeekHours = asked.WeekHours },
			} {
				if cmd.Flags().Changed(flag) {
					change()
				}
			}
			if n.VisitMicros, err = niches.ReadVisit(cmp.Or(income, n.Visit()), n.Currency); err != nil {
				return err
			}
			if !there || !anyChanged(cmd, "country", "language", "site", "hours", "income") {
				_, err = s.Niches.Create(cmd.Context(), n) // which refuses a name that is taken
				return err
			}
			_, job, err := s.Results.ChangeNiche(cmd.Context(), n)
			if err != nil || job == nil {
				return err
			}
			return follow(cmd, s, *job)
		})}
	cmd.Flags().StringVar(&asked.Country, "country", "US", "country, by name or two-letter code")
	cmd.Flags().StringVar(&asked.Language, "language", "en", "language, by name or two-letter code")
	cmd.Flags().StringVar(&asked.OwnSite, "site", "", "domain of your own site")
	cmd.Flags().StringVar(&income, "income", "", "income per visit, in the niche's currency")
	cmd.Flags().IntVar(&asked.WeekHours, "hours", 0, "hours a week for writing")
	jsonFlag(cmd)
	return cmd
}

// anyChanged reports whether one of the flags was given.
func anyChanged(cmd *cobra.Command, flags ...string) bool {
	return slices.ContainsFunc(flags, cmd.Flags().Changed)
}

// siftFlags gives a command the sieve's criteria as flags. They are put in as they are
// given: the pairs are in the order of the command line.
func siftFlags(cmd *cobra.Command) *[]sieve.Pair {
	pairs := &[]sieve.Pair{}
	flags := cmd.Flags()
	for _, c := range sieve.Criteria() {
		help := c.Name
		name := flagOf(c)
		switch {
		case c.Waits() != "":
			help += " (it cannot be used yet: " + c.Waits() + ")"
		case c.Control == sieve.OneOf:
			var keys []string
			for _, choice := range c.Choices {
				keys = append(keys, choice.Key)
			}
			help += ": " + strings.Join(append(keys, c.Open), ", ")
		case c.Control == sieve.Words:
			help += " these words or phrases, separated by commas"
		case c.Control == sieve.Edges:
			help = "starts with one of these, separated by commas; put --ends behind it for those it may end with instead"
		case c.Unit != "":
			help += " (" + c.Unit + ")"
		}
		flags.Var(&pairFlag{pairs, c.Key, c.Control}, name, strings.TrimRight(help, ":, "))
		if c.Control == sieve.Switch {
			flags.Lookup(name).NoOptDefVal = "yes"
		}
		if name != c.Key { // as it was called before
			flags.Var(&pairFlag{pairs, c.Key, c.Control}, c.Key, "the same as --"+name)
			flags.Lookup(c.Key).NoOptDefVal, flags.Lookup(c.Key).Hidden = flags.Lookup(name).NoOptDefVal, true
		}
	}
	flags.Var(&pairFlag{pairs, "ends", sieve.Words}, "ends", "ends with one of these")
	flags.Var(&pairFlag{pairs, "ready", sieve.Words}, "sieve",
		"ready-made sieve to begin with; your other filters come behind it, such as \"New site: easy and searched\"")
	lets := &pairFlag{pairs, sieve.ByLeastSearches.Key + "-unmeasured", sieve.Switch}
	flags.Var(lets, "unmeasured", "let ideas too rare to measure pass --searches, too")
	flags.Lookup("unmeasured").NoOptDefVal = "yes"
	completeSieve(cmd)
	return pairs
}

// flagNames are what the flags of some filters are called, where that is not their key in addresses.
var flagNames = map[string]string{"wants": "intent", "judged": "looked-up", "source": "came-from",
	"holds": "contains", "lacks": "contains-none", "searches-from": "searches", "searches-to": "searches-most"}

func flagOf(c *sieve.Criterion) string {
	if name := flagNames[c.Key]; name != "" {
		return name
	}
	return c.Key
}

// pairFlag is one criterion as a flag.
type pairFlag struct {
	into    *[]sieve.Pair
	key     string
	control sieve.Control
}

func (f *pairFlag) String() string { return "" }

// Type is what the flag's value is called in help.
func (f *pairFlag) Type() string {
	return map[sieve.Control]string{sieve.Bar: "number", sieve.OneOf: "choice", sieve.Switch: "bool",
		sieve.Words: "words", sieve.Edges: "words"}[f.control]
}

func (f *pairFlag) Set(value string) error {
	if f.control == sieve.Switch && value == "true" {
		value = "yes"
	}
	p := sieve.Pair{Key: f.key, Value: value}
	*f.into = append(*f.into, p)
	if _, problems := sieve.Read([]sieve.Pair{p}, sieve.Sieve{}); len(problems) > 0 {
		return errors.New(problems[0].Reason)
	}
	return nil
}

// sieveOf is the base with what the flags say. --unmeasured may stand before the filter
// that it is about.
func sieveOf(pairs []sieve.Pair, base sieve.Sieve) sieve.Sieve {
	slices.SortStableFunc(pairs, func(a, b sieve.Pair) int {
		return strings.Count(a.Key, "-unmeasured") - strings.Count(b.Key, "-unmeasured")
	})
	s, _ := sieve.Read(pairs, base) // problems were told flag by flag
	return s
}

func judgeCommand() *cobra.Command {
	var pairs *[]sieve.Pair
	var most int
	var all, again bool
	var hunt results.Hunt
	var spend, what string
	cmd := &cobra.Command{Use: "judge [PHRASE…]",
		Short: "Look up ideas: how hard page one is, and your chance",
		Long: "Look up ideas: how hard page one is, and your chance. Give phrases (“-” reads them from standard " +
			"input), or " +
			"--all-left for what the filters leave. Verdicts go to standard output.",
		Example: examples("cleverniche judge \"moon map for kids\"",
			"cleverniche judge --all-left --until 10 --bar 20 --spend 1.00"), GroupID: "work",
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			if all == (len(list) > 0) {
				return &usageError{errors.New("give phrases, or --all-left")}
			}
			if most < 1 {
				return &usageError{errors.New("--most is at least 1")}
			}
			early := hunt.Want > 0 || spend != ""
			switch {
			case results.LookupOf(what).Key != what:
				return &usageError{fmt.Errorf("--what is one of %s", lookupKeys())}
			case early && (again || what != results.Top().Key):
				return &usageError{errors.New("--until and --spend look up the top ten, and only what is not looked up yet")}
			}
			list, err := linesOf(cmd, list)
			if err != nil {
				return err
			}
			by := sieveOf(*pairs, sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}})
			ids, err := choose(cmd.Context(), s, n, by, list, most)
			if err != nil {
				return err
			}
			if all && len(ids) == 0 {
				return &usageError{errors.New("no idea passes the filters, so there is nothing to look up")}
			}
			if hunt.Micros, err = s.Ask.ReadMoney(spend); err != nil {
				return err
			}
			var job jobs.Job
			if early {
				hunt.Ideas = ids
				job, err = s.Results.Hunt(cmd.Context(), n, hunt)
			} else {
				job, err = s.Results.Start(cmd.Context(), n, results.LookupOf(what), ids, again)
			}
			if err != nil {
				return err
			}
			failed := follow(cmd, s, job)
			if partly := (*partlyError)(nil); failed != nil && !errors.As(failed, &partly) {
				return failed
			}
			return errors.Join(verdict(cmd, s, n, ids), failed)
		})}
	pairs = siftFlags(cmd)
	jsonFlag(cmd)
	cmd.Flags().BoolVar(&all, "all-left", false, "all ideas that the filters leave, most searched first")
	cmd.Flags().BoolVar(&again, "again", false, "check everything again, also what was fetched already")
	cmd.Flags().IntVar(&most, "most", results.MostLookedUp, "with --all-left: look up at most so many")
	cmd.Flags().IntVar(&hunt.Want, "until", 0, "most promising first, until so many have a difficulty of at most --bar")
	cmd.Flags().Float64Var(&hunt.Difficulty, "bar", 20, "with --until: the difficulty")
	cmd.Flags().StringVar(&spend, "spend", "", "most promising first, until so much is spent")
	cmd.Flags().StringVar(&what, "what", results.Top().Key, "what to look up: "+lookupKeys())
	nicheFlag(cmd)
	return cmd
}

// lookupKeys lists what can be looked up.
func lookupKeys() string {
	var keys []string
	for _, l := range results.Lookups() {
		keys = append(keys, l.Key)
	}
	return strings.Join(keys, ", ")
}

// choose returns the ideas of the phrases, which are put in when they are new, or
// else those that the sieve leaves, most searched first.
func choose(ctx context.Context, s *study.Study, n niches.Niche, by sieve.Sieve, phrases []string,
	most int) ([]uint, error) {
	if len(phrases) > 0 {
		report, err := s.Imports.Take(ctx, n, "command line", strings.NewReader(strings.Join(phrases, "\n")))
		if err != nil {
			return nil, err
		}
		if len(report.Problems) > 0 {
			p := report.Problems[0]
			return nil, &usageError{fmt.Errorf("phrase %d cannot be looked up: %s", p.Line, p.Reason)}
		}
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		return nil, err
	}
	if len(phrases) > 0 {
		normal := make([]string, len(phrases))
		for i, p := range phrases {
			normal[i] = phrase.Normal(p)
		}
		return b.Named(normal...), nil
	}
	return b.Pass(by.By(sieve.Searches, true)).IDs(0, most), nil
}

func exportCommand() *cobra.Command {
	var pairs *[]sieve.Pair
	var format, sortBy string
	cmd := &cobra.Command{Use: "export", Short: "Export ideas: those kept, or what the filters leave", GroupID: "keep",
		Example: examples("cleverniche export --format csv > ideas.csv",
			"cleverniche export --show all --difficulty 20 --searches 100"), Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			f, err := files.FormatNamed(format)
			if err != nil {
				return err
			}
			order := sieve.FigureNamed(sortBy)
			if !slices.Contains(sieve.Sorted(), order) || order.Waits != "" {
				return &input.Error{Field: "sort", Reason: fmt.Sprintf("--sort %q is no column", sortBy)}
			}
			b, err := s.Ideas.Table(cmd.Context(), n)
			if err != nil {
				return err
			}
			kept := sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}}
			return s.Files.Export(cmd.Context(), cmd.OutOrStdout(), b,
				sieveOf(*pairs, kept).By(order, !order.SmallestFirst), f)
		})}
	pairs = siftFlags(cmd)
	var formats, columns []string
	for _, f := range files.Formats() {
		formats = append(formats, f.Name)
	}
	for _, f := range sieve.Sorted() {
		if f.Waits == "" {
			columns = append(columns, f.Key)
		}
	}
	cmd.Flags().StringVar(&format, "format", "table", strings.Join(formats, ", "))
	cmd.Flags().StringVar(&sortBy, "sort", sieve.Searches.Key, "column to sort by: "+strings.Join(columns, ", "))
	nicheFlag(cmd)
	return cmd
}

// stoppedError is a job that stopped before its end.
type stoppedError struct{ reason string }

func (e *stoppedError) Error() string { return e.reason }

// follow tells a job's progress on standard error until it ends. An interrupt
// pauses it: the same command goes on with what is kept.
func follow(cmd *cobra.Command, s *study.Study, job jobs.Job) error {
	ended := make(chan error, 1)
	go func() { ended <- s.Jobs.Wait(context.WithoutCancel(cmd.Context()), job.ID) }()
	tick := time.NewTicker(500 * time.Millisecond)
	defer tick.Stop()
	progress := bar{w: cmd.ErrOrStderr()}
	for {
		select {
		case <-cmd.Context().Done():
			progress.end()
			bg, cancel := context.WithTimeout(context.Background(), 10*time.Second)
			defer cancel()
			if err := s.Jobs.Pause(bg, job.NicheID, job.ID); err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(), "Paused. Fetched data is saved.")
			return context.Canceled
		case <-tick.C:
			v, err := s.Jobs.Get(cmd.Context(), job.NicheID, job.ID)
			if err == nil {
				progress.show(v.Done+v.Failed, v.Total, time.Now(), fmt.Sprintf("%d lookups, %s", v.Lookups, v.Cost))
			}
		case err := <-ended:
			progress.end()
			if err != nil {
				return err
			}
			return report(cmd.ErrOrStderr(), s, job)
		}
	}
}

func report(w io.Writer, s *study.Study, job jobs.Job) error {
	v, err := s.Jobs.Get(context.Background(), job.NicheID, job.ID)
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "%d of %d steps, %d %s, %d lookups, %s\n", v.Done+v.Failed, v.Total, v.Found, v.Brings,
		v.Lookups, v.Cost)
	for _, f := range v.Failures {
		fmt.Fprintf(w, "step %d: %s\n", f.Step, f.Error)
	}
	switch {
	case v.State == jobs.Cancelled:
		return &partlyError{"it was cancelled elsewhere; fetched data is saved"}
	case v.State == jobs.Paused:
		return &partlyError{"it was paused elsewhere; fetched data is saved, and the same command resumes"}
	case v.State != jobs.Done:
		return &stoppedError{v.Message + "; fetched data is saved, and the same command resumes"}
	case v.Failed > 0:
		return &partlyError{v.Message}
	case v.Message != "":
		fmt.Fprintln(w, v.Message)
	}
	return nil
}
