package main

import (
	"fmt"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/niches"
	"cleverniche/study/rivals"

	"github.com/spf13/cobra"
)

var withinColumns = []column{{"Phrase", "phrase"}, {"Searches", "searches"}, {"Site", "site"}, {"Place", "place"},
	{"Weak", "weak"}, {"Outrank it", "pass_chance"},
	{"Page one", "page_one_chance"}, {"An hour", "worth_an_hour"}, {"You", "have"}}

// rivalsCommand shows whose pages are within reach.
func rivalsCommand() *cobra.Command {
	var most int
	var of string
	var lacking bool
	cmd := &cobra.Command{Use: "rivals", Short: "Show pages within your reach; follow sites; see what they rank for",
		GroupID: "work", Example: examples("cleverniche rivals --not-planned",
			"cleverniche rivals ask astronotes.example --starts best"),
		Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			b, err := s.Ideas.Table(cmd.Context(), n)
			if err != nil {
				return err
			}
			t, err := s.Topics.Of(cmd.Context(), n)
			if err != nil {
				return err
			}
			only := map[string]bool{}
			if of != "" {
				site, err := s.Rivals.SiteOf(of)
				if err != nil {
					return err
				}
				only[site] = true
			}
			list, total, err := s.Rivals.Within(cmd.Context(), n, b.Revision, t, only, lacking, 0, most)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, w := range list {
				var weak []string
				for _, r := range w.Weak {
					weak = append(weak, r.Weakness.String())
				}
				hour, pass := unknown, unknown
				if w.Pass >= 0 {
					pass = cell{w.Pass, fmt.Sprintf("%.0f %%", 100*w.Pass)}
				}
				if w.PerHour >= 0 {
					hour = cell{w.PerHour, fmt.Sprintf("%.2f %s", w.PerHour, n.Currency)}
				}
				rows = append(rows, []cell{said(w.Phrase), figureCell(w.Idea, sieve.Searches), said(w.Site), said(w.Place),
					said(strings.Join(weak, ", ")), pass, figureCell(w.Idea, sieve.PageOne), hour, said(string(w.Have))})
			}
			if total > len(list) {
				fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d.\n", len(list), total)
			}
			return printed(cmd, withinColumns, rows)
		})}
	cmd.Flags().IntVar(&most, "most", 50, "at most so many")
	cmd.Flags().StringVar(&of, "of", "", "of this site only")
	cmd.Flags().BoolVar(&lacking, "not-planned", false, "only what you neither have nor plan")
	jsonFlag(cmd)
	nicheFlag(cmd)
	cmd.AddCommand(followCommand(), unfollowCommand(), askRanksCommand(), openingsCommand())
	return cmd
}

func followCommand() *cobra.Command { return followsCommand("follow", "Follow sites", true) }

func unfollowCommand() *cobra.Command {
	return followsCommand("unfollow", "Follow sites no more", false)
}

func followsCommand(name, short string, follow bool) *cobra.Command {
	cmd := &cobra.Command{Use: name + " SITE…", Short: short,
		Example: examples("cleverniche rivals "+name+" astronotes.example",
			"cleverniche rivals "+name+" https://site.example/page other.example"),
		Args: args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			for _, text := range list {
				site, err := s.Rivals.Follow(cmd.Context(), n, text, follow)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.ErrOrStderr(), "%s: %s\n", strings.ToUpper(name[:1])+name[1:]+"ed", site)
			}
			return nil
		})}
	nicheFlag(cmd)
	return cmd
}

// ranksFlags are those by which phrases are sifted.
func ranksFlags(cmd *cobra.Command, f *rivals.Filter) {
	cmd.Flags().StringSliceVar(&f.Contains, "with", nil, "words that a phrase has")
	cmd.Flags().StringSliceVar(&f.Lacks, "without", nil, "words that it has not")
	cmd.Flags().StringVar(&f.Starts, "starts", "", "how it begins")
	cmd.Flags().StringVar(&f.Ends, "ends", "", "how it ends")
	cmd.Flags().IntVar(&f.PlaceTo, "place", 0, "place at most")
	cmd.Flags().IntVar(&f.SearchesFrom, "searches", 0, "searches at least")
	cmd.Flags().IntVar(&f.Limit, "most", 50, "show at most so many")
}

var ranksColumns = []column{{"Phrase", "phrase"}, {"Place", "place"}, {"Page", "page"}, {"Searches", "searches"},
	{"Visits", "visits"}, {"Difficulty", "difficulty"}}

// askRanksCommand asks what a site ranks for, and shows it.
func askRanksCommand() *cobra.Command {
	var f rivals.Filter
	var phrases int
	var kept bool
	cmd := &cobra.Command{Use: "ask SITE", Short: "Ask what a site ranks for, and show it",
		Example: examples("cleverniche rivals ask astronotes.example --place 20",
			"cleverniche rivals ask shop.example --ends review --phrases 5000"),
		Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			site, err := s.Rivals.SiteOf(list[0])
			if err != nil {
				return err
			}
			if !kept {
				w := rivals.Wanted{Most: phrases}
				w.Contains, w.Lacks = strings.Join(f.Contains, " "), strings.Join(f.Lacks, " ")
				w.Starts, w.Ends, w.PlaceTo, w.SearchesFrom = f.Starts, f.Ends, f.PlaceTo, f.SearchesFrom
				fmt.Fprintf(cmd.ErrOrStderr(), "At most %s.\n", s.Rivals.Cost(w))
				job, err := s.Rivals.Fetch(cmd.Context(), n, site, w)
				if err != nil {
					return err
				}
				if err := follow(cmd, s, job); err != nil {
					return err
				}
			}
			r, err := s.Rivals.Rival(cmd.Context(), n, site)
			if err != nil {
				return err
			}
			found, total, err := s.Rivals.Ranks(cmd.Context(), n, r, f)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, one := range found {
				row := []cell{said(one.Phrase), said(one.Place), said(one.Page), unknown, unknown, unknown}
				if one.Searches != nil {
					row[3] = said(*one.Searches)
				}
				if one.Visits != nil {
					row[4] = cell{*one.Visits, fmt.Sprintf("%.0f", *one.Visits)}
				}
				if one.LookedUp() {
					row[5] = figureCell(one.Row, sieve.Difficulty)
				}
				rows = append(rows, row)
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d phrases of %s, by %s.\n", len(found), total, site, r.Source)
			return printed(cmd, ranksColumns, rows)
		})}
	ranksFlags(cmd, &f)
	cmd.Flags().IntVar(&phrases, "phrases", rivals.DefaultRanks, "ask for at most so many")
	cmd.Flags().BoolVar(&kept, "kept", false, "ask nobody: show what is known")
	jsonFlag(cmd)
	nicheFlag(cmd)
	return cmd
}

var openingsColumns = []column{{"Phrase", "phrase"}, {"Rivals", "rivals"}, {"Searches", "searches"}, {"Best", "best"},
	{"Site", "site"}, {"Yours", "yours"}, {"Difficulty", "difficulty"}}

// openingsCommand shows what rivals rank for and I do not.
func openingsCommand() *cobra.Command {
	var f rivals.Filter
	var least int
	var fresh bool
	cmd := &cobra.Command{Use: "openings", Short: "Show what the sites you follow rank for and you do not",
		Example: examples("cleverniche rivals openings --place 10 --searches 50",
			"cleverniche rivals openings --of 2 --new --json"),
		Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			f.New = fresh
			o, err := s.Rivals.Openings(cmd.Context(), n, least, f)
			if err != nil {
				return err
			}
			if len(o.Rivals) == 0 {
				fmt.Fprintln(cmd.ErrOrStderr(), "Follow a site and ask what it ranks for: cleverniche rivals follow SITE")
			}
			var rows [][]cell
			for _, one := range o.List {
				row := []cell{said(one.Phrase), said(one.Rivals), unknown, said(one.Best), said(one.Site), unknown, unknown}
				if one.Searches != nil {
					row[2] = said(*one.Searches)
				}
				if one.Mine > 0 {
					row[5] = said(one.Mine)
				}
				if one.LookedUp() {
					row[6] = figureCell(one.Row, sieve.Difficulty)
				}
				rows = append(rows, row)
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d. Only theirs: %d, both: %d, only yours: %d.\n", len(o.List), o.Total,
				o.Theirs, o.Both, o.Only)
			return printed(cmd, openingsColumns, rows)
		})}
	ranksFlags(cmd, &f)
	cmd.Flags().IntVar(&least, "of", 1, "of so many of them at least")
	cmd.Flags().BoolVar(&fresh, "new", false, "only what is no idea yet")
	jsonFlag(cmd)
	nicheFlag(cmd)
	return cmd
}
