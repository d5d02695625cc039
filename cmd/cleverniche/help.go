package main

import (
	"fmt"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// What help lists of the settings: some with every command, all with those that serve.
var everywhere = []string{"config", "data", "help"}

// serving is the annotation of commands to which all settings matter.
const serving = "settings"

// groups are those of the commands, in the order of the work.
var groups = []*cobra.Group{{ID: "work", Title: "The work:"}, {ID: "keep", Title: "Lists and decisions:"},
	{ID: "file", Title: "Data:"}, {ID: "run", Title: "The application:"}}

// usage writes how a command is used, with only the flags that matter there.
func usage(cmd *cobra.Command) error {
	w := cmd.OutOrStderr()
	say := func(format string, args ...any) { fmt.Fprintf(w, format, args...) }
	say("%s\n", bold(w, "Usage"))
	if cmd.HasParent() {
		say("  %s\n", cmd.UseLine())
	}
	if cmd.HasAvailableSubCommands() {
		say("  %s COMMAND\n", cmd.CommandPath())
	}
	if cmd.Example != "" {
		say("\n%s\n%s\n", bold(w, "Examples"), indented(cmd.Example))
	}
	listed := map[*cobra.Command]bool{}
	for _, g := range cmd.Groups() {
		say("\n%s\n", bold(w, strings.TrimSuffix(g.Title, ":")))
		for _, c := range cmd.Commands() {
			if c.GroupID == g.ID && c.IsAvailableCommand() {
				say("  %-12s %s\n", c.Name(), c.Short)
				listed[c] = true
			}
		}
	}
	var rest []*cobra.Command
	for _, c := range cmd.Commands() {
		if !listed[c] && c.IsAvailableCommand() && c.Name() != "help" {
			rest = append(rest, c)
		}
	}
	if len(rest) > 0 {
		say("\n%s\n", bold(w, "Commands"))
	}
	for _, c := range rest {
		say("  %-12s %s\n", c.Name(), c.Short)
	}
	if flags := shownFlags(cmd); flags.HasAvailableFlags() {
		say("\n%s\n%s", bold(w, "Flags"), flags.FlagUsages())
	}
	if cmd.HasSubCommands() {
		say("\nMore on a command: %s COMMAND --help. All settings: cleverniche serve --help.\n", cmd.CommandPath())
	} else if cmd.Annotations[serving] == "" {
		say("\nSources, prices and the rest are settings: cleverniche serve --help lists them.\n")
	}
	return nil
}

// shownFlags are those that help tells of: the command's own, and of the settings those that matter to it.
func shownFlags(cmd *cobra.Command) *pflag.FlagSet {
	out := pflag.NewFlagSet(cmd.Name(), pflag.ContinueOnError)
	out.SortFlags = false
	cmd.NonInheritedFlags().VisitAll(func(f *pflag.Flag) {
		if cmd.HasParent() || slices.Contains(everywhere, f.Name) || f.Name == "version" {
			out.AddFlag(f)
		}
	})
	cmd.InheritedFlags().VisitAll(func(f *pflag.Flag) {
		if cmd.Annotations[serving] != "" || slices.Contains(everywhere, f.Name) {
			out.AddFlag(f)
		}
	})
	return out
}

func indented(text string) string {
	return "  " + strings.ReplaceAll(strings.TrimSpace(text), "\n", "\n  ")
}

// examples joins those of a command.
func examples(list ...string) string { return strings.Join(list, "\n") }

// version is what the program was built from, as far as the build says.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "of unknown build"
	}
	revision, at, changed := "", "", ""
	for _, s := range info.Settings {
		switch s.Key {
		case "vcs.revision":
			revision = s.Value[:min(12, len(s.Value))]
		case "vcs.time":
			at, _, _ = strings.Cut(s.Value, "T")
		case "vcs.modified":
			if s.Value == "true" {
				changed = ", with changes"
			}
		}
	}
	if revision == "" {
		return "built without version control, with " + info.GoVersion
	}
	return fmt.Sprintf("%s of %s%s, built with %s", revision, at, changed, info.GoVersion)
}
