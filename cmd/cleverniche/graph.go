package main

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"time"

	"cleverniche/core/links"
	"cleverniche/market/webgraph"

	"github.com/spf13/cobra"
)

func graphCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "graph", Short: "Standing of any site, from a public web graph", GroupID: "work",
		Long: "Say what is known of a public web graph, or of a site in it. With one, the standing of every site is known " +
			"without asking anybody.", Args: args(cobra.MaximumNArgs(1)),
		Example: examples("cleverniche graph", "cleverniche graph moonclub.example"),
		RunE: func(cmd *cobra.Command, list []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			g, err := webgraph.Open(c.graphFile())
			if errors.Is(err, fs.ErrNotExist) {
				return &usageError{errors.New("no web graph was imported yet: cleverniche graph import FILE")}
			}
			if err != nil {
				return err
			}
			defer g.Close()
			if len(list) == 0 {
				fmt.Fprintf(cmd.OutOrStdout(), "%d sites, imported on %s\n", g.Sites(), g.At().Format(time.DateOnly))
				if g.Links() > 0 {
					fmt.Fprintf(cmd.OutOrStdout(), "%d links between them\n", g.Links())
				}
				return nil
			}
			site := links.NewSuffixes(c.list("free-hosts")...).Site(links.Host("http://" + list[0]))
			standing, known := g.Standing(site)
			if !known {
				return &usageError{fmt.Errorf("%s is not in the graph", list[0])}
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s: standing %.0f\n", site, standing)
			if n, names, known := g.Referring(site, 20); known {
				fmt.Fprintf(cmd.OutOrStdout(), "%d sites link to it; whether their links are followed is not known\n", n)
				for _, name := range names {
					strong, _ := g.Standing(name)
					fmt.Fprintf(cmd.OutOrStdout(), "  %s: standing %.0f\n", name, strong)
				}
			}
			return nil
		}}
	cmd.AddCommand(graphImportCommand())
	return cmd
}

func graphImportCommand() *cobra.Command {
	return &cobra.Command{Use: "import FILE…", Short: "Import the files of a public web graph",
		Long: "Import the files of a public web graph, gzipped or not. They are its ranks files: lines with a host or " +
			"domain, and PageRank, whose first line names the columns. Or they are its vertices and edges: then " +
			"it is also known who links to a site. What was imported before is replaced once this is whole.",
		Example: examples("cleverniche graph import domain-ranks.txt.gz",
			"cleverniche graph import vertices.txt.gz edges.txt.gz"),
		Args: args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, list []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			for _, path := range list {
				if _, err := os.Stat(path); err != nil {
					return &usageError{err}
				}
			}
			begun := time.Now()
			progress := bar{w: cmd.ErrOrStderr()}
			rep, err := webgraph.Import(cmd.Context(), c.graphFile(), list, links.NewSuffixes(c.list("free-hosts")...),
				c.now(), func(lines int) {
					progress.show(0, 0, time.Now(), fmt.Sprintf("%d lines", lines))
				})
			progress.end()
			if err != nil {
				return &usageError{err}
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d sites of %d lines, %d lines skipped, in %s\n", rep.Sites, rep.Lines,
				rep.Skipped, time.Since(begun).Round(100*time.Millisecond))
			if rep.Links > 0 {
				fmt.Fprintf(cmd.ErrOrStderr(), "%d links between them\n", rep.Links)
			}
			return nil
		}}
}
