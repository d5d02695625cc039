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
			old, _ := filepath.Glob(filepath.Join(list[0], "man", "cleverniche*.1")) // of commands that are no more
			for _, page := range old {
				if err := os.Remove(page); err != nil {
					return err
				}
			}
			if err := os.MkdirAll(filepath.Join(list[0], "man"), 0o755); err != nil {
				return err
			}
			err := doc.GenManTree(root, &doc.GenManHeader{Title: "CLEVERNICHE", Section: "1", Source: "Clever Niche",
				Date: &manualDay}, filepath.Join(list[0], "man"))
			if err != nil {
				return err
			}
			if err := os.MkdirAll(filepath.Join(list[0], "guide"), 0o755); err != nil {
				return err
			}
			for name, text := range map[string]string{"commands.md": reference(root), "config.example.yaml": exampleConfig(),
				"guide/configuration.md": configurationPage()} {
				if err := os.WriteFile(filepath.Join(list[0], name), []byte(text), 0o644); err != nil {
					return err
				}
			}
			return nil
		}}
}

// reference is all commands with their flags, in Markdown.
func reference(root *cobra.Command) string {
	var b strings.Builder
	b.WriteString("# Commands\n\nWritten by the program: `make manual`. Each has `--help`, too, and a man page in " +
		"[man](man).\n" +
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

// exampleConfig is a configuration file with every key: what it is, and what holds without it.
func exampleConfig() string {
	var b strings.Builder
	b.WriteString("# Settings of Clever Niche. Put this at cleverniche/config.yaml in your XDG config directory,\n" +
		"# usually ~/.config. Take the # off a line to set it. A flag (--budget 5) wins over the environment\n" +
		"# (CLEVERNICHE_BUDGET=5), and the environment wins over this file.\n")
	for _, s := range settings() {
		value := s.value
		if value == "" {
			value = configSamples[s.name]
		}
		fmt.Fprintf(&b, "\n# %s\n# %s: %q\n", wrapped(sentence(s.help), "# "), s.name, value)
	}
	b.WriteString("\n# The key for the services. Better in a file that only you can read: see key-file.\n# key: \"…\"\n")
	return b.String()
}

// configSamples are values of settings that have none to begin with. The addresses are those of the simulated web, as
// bin/standin serves it.
var configSamples = map[string]string{"data": "/home/you/niches.db", "hosts": "niches.example",
	"anyone-may-do-everything": "no", "sign-in": "yes", "tls-cert": "/etc/niches/cert.pem",
	"tls-key": "/etc/niches/key.pem", "acme": "no", "acme-directory": "https://acme.example/directory",
	"behind-proxy": "no",
	"copies":       "none", "metrics": "no", "suggestions": "http://127.0.0.1:8571/suggest",
	"demand": "http://127.0.0.1:8571/demand", "results": "http://127.0.0.1:8571/search",
	"links": "http://127.0.0.1:8571/links", "names": "http://127.0.0.1:8571/rdap", "engine": "lantern",
	"key-file": "/home/you/.cleverniche-key", "reach": ".example=127.0.0.1:8571", "free-hosts": "pages.example"}

func sentence(s string) string {
	r := []rune(strings.TrimSuffix(s, "."))
	return strings.ToUpper(string(r[:1])) + string(r[1:]) + "."
}

// wrapped breaks a text into lines of a hundred characters, with a mark before all but the first.
func wrapped(text, mark string) string {
	const width = 100
	var b strings.Builder
	at := 0
	for i, word := range strings.Fields(text) {
		switch {
		case i == 0:
		case at+1+len(word) > width:
			b.WriteString("\n" + mark)
			at = 0
		default:
			b.WriteByte(' ')
			at++
		}
		b.WriteString(word)
		at += len(word)
	}
	return b.String()
}

func configurationPage() string {
	return "# Configuration\n\nAll settings have a default. Set the addresses of your services, and a budget.\n\n" +
		"Where no address is set, that question cannot be asked. The page says so.\n\nTo try it with the simulated web, " +
		"run " +
		"`bin/standin`. Its addresses are in the example.\n\n```yaml\n" + exampleConfig() + "```\n"
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// manualDay is the day that man pages bear, so that they are the same whenever they are written.
var manualDay = time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
