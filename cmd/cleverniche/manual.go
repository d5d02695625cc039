package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"
)

// manualCommand writes the manual from the same text as help: man pages, and one page for the documents.
func manualCommand() *cobra.Command {
	return &cobra.Command{Use: "manual FOLDER", Hidden: true, Args: args(cobra.ExactArgs(1)),
		Short: "Write the man pages, and commands.md, into a folder",
		RunE: func(cmd *cobra.Command, list []string) error {
			root := cmd.Root()
			root.DisableAutoGenTag = true
			if err := os.MkdirAll(filepath.Join(list[0], "man"), 0o755); err != nil {
				return err
			}
			err := doc.GenManTree(root, &doc.GenManHeader{Title: "CLEVERNICHE", Section: "1", Source: "Clever Niche",
				Date: &manualDay}, filepath.Join(list[0], "man"))
			if err != nil {
				return err
			}
			return os.WriteFile(filepath.Join(list[0], "commands.md"), []byte(reference(root)), 0o644)
		}}
}

// reference is all commands with their flags, in Markdown.
func reference(root *cobra.Command) string {
	var b strings.Builder
	b.WriteString("# Commands\n\nWritten by the program: `make manual`. Each has `--help`, too, and a man page in [man](man).\n" +
		"Results go to standard output, all else to standard error. Exit codes: 0 done, 1 failed, 2 wrong input,\n" +
		"3 a source does not answer, 4 done in part, 130 interrupted.\n")
	var each func(c *cobra.Command)
	each = func(c *cobra.Command) {
		if c.IsAvailableCommand() && c.Name() != "help" && c.Name() != "completion" {
			fmt.Fprintf(&b, "\n## %s\n\n%s.\n\n```sh\n%s\n```\n", strings.TrimPrefix(c.CommandPath(), root.Name()+" "),
				strings.TrimSuffix(or(c.Long, c.Short), "."), c.UseLine())
			if c.Example != "" {
				fmt.Fprintf(&b, "\nFor example:\n\n```sh\n%s\n```\n", c.Example)
			}
			if flags := shownFlags(c); flags.HasAvailableFlags() {
				fmt.Fprintf(&b, "\n```text\n%s```\n", flags.FlagUsagesWrapped(110))
			}
		}
		for _, sub := range c.Commands() {
			each(sub)
		}
	}
	for _, c := range root.Commands() {
		each(c)
	}
	return b.String()
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// manualDay is the day that man pages bear, so that they are the same whenever they are written.
var manualDay = time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
