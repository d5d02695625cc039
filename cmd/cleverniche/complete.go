package main

import (
	"context"
	"log/slog"
	"os"

	"cleverniche/core/sieve"
	"cleverniche/study"

	"github.com/spf13/cobra"
)

// completed are the values that a shell may complete, of the data file as it is. Where there is none, there are none:
// completing makes no file.
func completed(cmd *cobra.Command, values func(ctx context.Context, s *study.Study,
	niche string) []string) ([]string, cobra.ShellCompDirective) {
	const none = cobra.ShellCompDirectiveNoFileComp
	c, err := readConfig(cmd.Flags())
	if err != nil {
		return nil, none
	}
	if _, err := os.Stat(c.dataFile()); err != nil {
		return nil, none
	}
	s, _, closing, err := c.open(slog.New(slog.DiscardHandler))
	if err != nil {
		return nil, none
	}
	defer closing()
	return values(cmd.Context(), s, c.GetString("niche")), none
}

func nichesOf(ctx context.Context, s *study.Study, _ string) (out []string) {
	all, _ := s.Niches.All(ctx)
	for _, n := range all {
		out = append(out, n.Name)
	}
	return out
}

func sievesOf(ctx context.Context, s *study.Study, _ string) (out []string) {
	all, _ := s.Sieves.All(ctx)
	for _, one := range all {
		out = append(out, one.Name)
	}
	return out
}

func marksOf(of *sieve.Figure) func(ctx context.Context, s *study.Study, niche string) []string {
	return func(ctx context.Context, s *study.Study, niche string) []string {
		n, err := pickNiche(ctx, s, niche)
		if err != nil {
			return nil
		}
		out, _ := s.Ideas.Marks(ctx, n.ID, of)
		return out
	}
}

// complete lets shells complete a flag with values of the data file.
func complete(cmd *cobra.Command, flag string,
	values func(ctx context.Context, s *study.Study, niche string) []string) {
	err := cmd.RegisterFlagCompletionFunc(flag, func(cmd *cobra.Command, _ []string,
		_ string) ([]string, cobra.ShellCompDirective) {
		return completed(cmd, values)
	})
	if err != nil {
		panic(err) // there is no such flag: a mistake of ours
	}
}

// completeSieve lets shells complete the flags of filters that have a few values.
func completeSieve(cmd *cobra.Command) {
	complete(cmd, "sieve", sievesOf)
	for _, c := range sieve.Criteria() {
		switch {
		case c.Waits() != "":
		case c.Own():
			complete(cmd, flagOf(c), marksOf(c.Figure))
		case c.Control == sieve.OneOf:
			var keys []string
			for _, choice := range c.Choices {
				keys = append(keys, choice.Key)
			}
			complete(cmd, flagOf(c), func(context.Context, *study.Study, string) []string { return keys })
		}
	}
}
