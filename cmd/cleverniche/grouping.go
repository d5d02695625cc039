package main

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/study/topics"

	"github.com/spf13/cobra"
)

var topicColumns = []column{{"Topic", "topic"}, {"Phrases", "phrases"}, {"Searches", "searches"},
	{"Difficulty", "difficulty"}, {"Page one", "page_one_chance"}, {"Worth a month", "worth"},
	{"State", "state"}}

// worthCell is what an article would bring a month.
func worthCell(a articles.Article, currency string) cell {
	low, likely, high, known := a.Worth()
	if !known {
		return unknown
	}
	return cell{float64(likely) / 1e6, money.Range(low, high, currency)}
}

func stateCell(s plan.State) cell {
	if s == plan.None {
		return cell{"", ""}
	}
	return said(string(s))
}

func groupCommand() *cobra.Command {
	var scope string
	var most int
	cmd := &cobra.Command{Use: "group", Short: "List topics: ideas that one article answers", GroupID: "work",
		Long: "List topics: ideas that one article answers, most searched first. Ideas that are looked up are grouped by " +
			"the results they share.",
		Example: examples("cleverniche group", "cleverniche group --json | head -5"), Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			if scope != "" {
				if n.Scope = niches.Scope(scope); n.Scope != niches.ScopeKept && n.Scope != niches.ScopeLooked &&
					n.Scope != niches.ScopeAll {
					return &usageError{fmt.Errorf("--of is %s, %s or %s, not %q", niches.ScopeKept, niches.ScopeLooked,
						niches.ScopeAll, scope)}
				}
			}
			t, err := s.Topics.Of(cmd.Context(), n)
			if err != nil {
				return err
			}
			list := t.List[:min(most, len(t.List))]
			read, err := s.Articles.Read(cmd.Context(), n, t, list)
			if err != nil {
				return err
			}
			if len(read) == 0 {
				fmt.Fprintln(cmd.ErrOrStderr(), "Nothing to group yet. Keep ideas first: cleverniche keep PHRASE")
			}
			var rows [][]cell
			for i, a := range read {
				rows = append(rows, []cell{said(a.Name), said(len(a.Ideas)), searchesCell(list[i]),
					figureCell(a.Idea, sieve.Difficulty), figureCell(a.Idea, sieve.PageOne), worthCell(a, n.Currency),
					stateCell(a.State())})
			}
			return printed(cmd, topicColumns, rows)
		})}
	cmd.Flags().StringVar(&scope, "of", "", fmt.Sprintf("which ideas: %s, %s or %s (default: as Group shows them)",
		niches.ScopeKept, niches.ScopeLooked, niches.ScopeAll))
	cmd.Flags().IntVar(&most, "most", 1000, "list at most so many")
	jsonFlag(cmd)
	nicheFlag(cmd)
	return cmd
}

func searchesCell(t topics.Topic) cell {
	if t.Searches < 0 {
		return unknown
	}
	return cell{t.Searches, fmt.Sprintf("%.0f", t.Searches)}
}

var planColumns = []column{{"Article", "article"}, {"State", "state"}, {"Kind", "kind"},
	{"Hours", "hours"}, {"Start", "start"}, {"Ready", "ready"}, {"Due", "due"},
	{"Page one", "page_one_chance"}, {"Worth a month", "worth"}}

func dayCell(t time.Time) cell {
	if t.IsZero() {
		return cell{nil, ""}
	}
	return said(t.Format(time.DateOnly))
}

func articleRow(a articles.Article, currency string) []cell {
	ready := a.Schedule.Ready
	if a.State() == plan.Published {
		ready = a.Day
	}
	return []cell{said(a.Name), stateCell(a.State()), said(string(a.Kind)), said(a.Hours), dayCell(a.Start),
		dayCell(ready), dayCell(a.Schedule.Due), figureCell(a.Idea, sieve.PageOne), worthCell(a, currency)}
}

func planCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "plan", Short: "Show the plan; add or remove articles; get a proposal", GroupID: "work",
		Example: examples("cleverniche plan", "cleverniche plan propose --weeks 8"), Args: args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			p, err := s.Articles.Plan(cmd.Context(), n)
			if err != nil {
				return err
			}
			if len(p.Articles) == 0 {
				fmt.Fprintln(cmd.ErrOrStderr(), "Your plan is empty. Add an article: cleverniche plan add PHRASE")
			}
			var rows [][]cell
			for _, a := range p.Articles {
				rows = append(rows, articleRow(a, n.Currency))
			}
			return printed(cmd, planColumns, rows)
		})}
	jsonFlag(cmd)
	nicheFlag(cmd)
	cmd.AddCommand(planAddCommand(), planRemoveCommand(), proposeCommand())
	return cmd
}

func planAddCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "add PHRASE…", Short: "Add the articles that answer these phrases",
		Example: examples("cleverniche plan add \"moon map for kids\"", "cleverniche plan add - < first.txt"),
		Args:    args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			ids, missing, err := named(cmd, s, n, list)
			if err != nil {
				return err
			}
			names, err := s.Articles.Add(cmd.Context(), n, ids)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "Added to the plan: %s.\n", strings.Join(names, ", "))
			return partly(missing)
		})}
	nicheFlag(cmd)
	return cmd
}

func planRemoveCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "remove PHRASE…", Short: "Remove the articles that answer these phrases",
		Example: examples("cleverniche plan remove \"moon map for kids\"", "cleverniche plan remove - < later.txt"),
		Args:    args(cobra.MinimumNArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			ids, missing, err := named(cmd, s, n, list)
			if err != nil {
				return err
			}
			for _, id := range ids {
				one, err := topicOf(cmd, s, n, id)
				if err != nil {
					return err
				}
				if one.State() == plan.None {
					return &usageError{fmt.Errorf("“%s” is not in the plan", one.Name)}
				}
				if err := s.Articles.Remove(cmd.Context(), n, one.Hand()); err != nil {
					return err
				}
				fmt.Fprintf(cmd.ErrOrStderr(), "Removed from the plan: %s.\n", one.Name)
			}
			return partly(missing)
		})}
	nicheFlag(cmd)
	return cmd
}

// topicOf is the topic that an idea is in.
func topicOf(cmd *cobra.Command, s *study.Study, n niches.Niche, id uint) (topics.Topic, error) {
	t, err := s.Topics.Of(cmd.Context(), n)
	if err != nil {
		return topics.Topic{}, err
	}
	one, err := t.Of(id)
	if errors.Is(err, input.ErrNotFound) {
		err = &usageError{errors.New("it is in no topic: keep the idea first, or choose other ideas in Group")}
	}
	return one, err
}

func proposeCommand() *cobra.Command {
	var weeks int
	var free bool
	cmd := &cobra.Command{Use: "propose", Short: "Propose what to write in your hours, what earns most first",
		Example: examples("cleverniche plan propose", "cleverniche plan propose --weeks 8 --json"),
		Args:    args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			r := s.Articles.UsualRules(cmd.Context(), n)
			if free {
				r = articles.Rules{}
			}
			r.Weeks = weeks
			c, err := s.Articles.Choose(cmd.Context(), n, r)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, a := range c.Taken {
				row := articleRow(a.Article, n.Currency)
				row[5] = dayCell(a.Ready)
				rows = append(rows, row)
			}
			if err := printed(cmd, planColumns, rows); err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.ErrOrStderr(), "%d of %d hours, from %d topics. Add them: cleverniche plan add PHRASE\n",
				c.Hours, c.Have, c.Asked)
			return err
		})}
	cmd.Flags().IntVar(&weeks, "weeks", articles.UsualWeeks, "weeks to propose for")
	cmd.Flags().BoolVar(&free, "without-rules", false, "by earnings alone: no least chance, no least income, no order")
	jsonFlag(cmd)
	nicheFlag(cmd)
	return cmd
}

func briefCommand() *cobra.Command {
	var format string
	var names []string
	for _, p := range briefs.Papers() {
		names = append(names, p.Name)
	}
	cmd := &cobra.Command{Use: "brief PHRASE", Short: "Write the brief of the article that answers a phrase",
		Example: examples("cleverniche brief \"moon map for kids\"",
			"cleverniche brief \"moon map for kids\" --format docx > moon-map.docx"),
		GroupID: "work", Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) error {
			for _, p := range briefs.Papers() {
				if p.Name != format {
					continue
				}
				ids, _, err := named(cmd, s, n, list)
				if err != nil {
					return err
				}
				t, err := s.Topics.Of(cmd.Context(), n)
				if err != nil {
					return err
				}
				one, err := topicOf(cmd, s, n, ids[0])
				if err != nil {
					return err
				}
				b, err := s.Briefs.Of(cmd.Context(), n, t, one)
				if err != nil {
					return err
				}
				if p.Name == "docx" && terminal(cmd.OutOrStdout()) {
					return &usageError{errors.New("a DOCX is no text for a terminal: write it to a file with > brief.docx")}
				}
				return p.Write(cmd.OutOrStdout(), b)
			}
			return &usageError{fmt.Errorf("--format is one of %s, not %q", strings.Join(names, ", "), format)}
		})}
	cmd.Flags().StringVar(&format, "format", names[0], strings.Join(names, ", "))
	nicheFlag(cmd)
	return cmd
}

func calendarCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "calendar", Short: "Write the plan as a calendar (iCalendar)", GroupID: "work",
		Example: examples("cleverniche calendar > plan.ics", "cleverniche calendar --niche \"Backyard astronomy\""),
		Args:    args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			return s.Files.Calendar(cmd.Context(), n, cmd.OutOrStdout(), func(uint) string { return "" })
		})}
	nicheFlag(cmd)
	return cmd
}

func sievesCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "sieves", Short: "List sieves: ready-made ones and yours", GroupID: "keep",
		Example: examples("cleverniche sieves", "cleverniche export --sieve \"Long tail\""), Args: args(cobra.NoArgs),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, _ []string) error {
			all, err := s.Sieves.All(cmd.Context())
			var rows [][]cell
			for _, one := range all {
				whose := "yours"
				if one.ID == 0 {
					whose = "ready-made"
				}
				rows = append(rows, []cell{said(one.Name), said(whose), said(filterWords(one.Sieve))})
			}
			return errors.Join(err, printed(cmd, []column{{"Sieve", "sieve"}, {"Whose", "whose"},
				{"Filters", "filters"}}, rows))
		})}
	jsonFlag(cmd)
	return cmd
}

// filterWords are the filters of a sieve in words.
func filterWords(s sieve.Sieve) string {
	var out []string
	for _, f := range s.Filters {
		out = append(out, f.String())
	}
	return strings.Join(out, "; ")
}

func nichesCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "niches", Short: "List niches", GroupID: "keep",
		Example: examples("cleverniche niches", "cleverniche niches --json"), Args: args(cobra.NoArgs),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, _ []string) error {
			return listNiches(cmd, s)
		})}
	jsonFlag(cmd)
	return cmd
}

// listNiches writes the niches with how many ideas they have.
func listNiches(cmd *cobra.Command, s *study.Study) error {
	all, err := s.Niches.All(cmd.Context())
	if err != nil {
		return err
	}
	var rows [][]cell
	for _, n := range all {
		row, err := nicheRow(cmd, s, n)
		if err != nil {
			return err
		}
		rows = append(rows, row)
	}
	return printed(cmd, []column{{"Niche", "niche"}, {"Language", "language"},
		{"Country", "country"}, {"Your site", "site"}, {"Ideas", "ideas"},
		{"Kept", "kept"}, {"Looked up", "looked_up"}}, rows)
}

func nicheRow(cmd *cobra.Command, s *study.Study, n niches.Niche) ([]cell, error) {
	b, err := s.Ideas.Table(cmd.Context(), n)
	if err != nil {
		return nil, err
	}
	count := func(list ...sieve.Filter) cell { return said(counts(b, list...)) }
	return []cell{said(n.Name), said(n.Language), said(n.Country), {n.OwnSite, n.OwnSite}, count(),
		count(sieve.OnlyDecided(sieve.Kept)), count(sieve.On(sieve.ByLookedUp))}, nil
}

func counts(b ideas.Table, list ...sieve.Filter) int { return b.Pass(sieve.Sieve{Filters: list}).Count }
