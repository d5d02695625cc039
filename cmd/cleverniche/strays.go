package main

import (
	"fmt"

	"cleverniche/core/subject"
	"cleverniche/study"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
)

var strayColumns = []column{{"Phrase", "phrase"}, {"Searches", "searches"}, {"Together", "together"}, {"Because",
	"because"}}

// straysCommand lists what is off the subject, and says of phrases that they are on it or off.
func straysCommand() *cobra.Command {
	var on, off, clear []string
	cmd := &cobra.Command{Use: "strays", Short: "Show ideas that only share the subject's words; put them right",
		Example: examples("cleverniche case strays", "cleverniche case strays --off \"telescope film cast\""),
		Args:    args(cobra.NoArgs),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, _ []string) error {
			for _, one := range []struct {
				list []string
				side subject.Side
			}{{on, subject.On}, {off, subject.Off}, {clear, subject.Untold}} {
				if len(one.list) == 0 {
					continue
				}
				ids, missing, err := named(cmd, s, n, one.list)
				if err != nil {
					return err
				}
				if _, err := s.Subjects.Say(cmd.Context(), n, ids, one.side); err != nil {
					return err
				}
				if err := partly(missing); err != nil {
					return err
				}
			}
			found, err := s.Subjects.OnHand(cmd.Context(), n)
			if err != nil {
				return err
			}
			var rows [][]cell
			for _, p := range found.Parts {
				together := unknown
				if !p.Alone {
					together = cell{p.Number, fmt.Sprint(p.Number)}
				}
				for _, one := range p.Strays {
					searches := unknown
					if one.Searches >= 0 {
						searches = cell{one.Searches, fmt.Sprint(one.Searches)}
					}
					rows = append(rows, []cell{said(one.Phrase), searches, together, said(one.Why)})
				}
			}
			return printed(cmd, strayColumns, rows)
		})}
	cmd.Flags().StringArrayVar(&on, "on", nil, "say that this phrase is on the subject; again for more")
	cmd.Flags().StringArrayVar(&off, "off", nil, "say that this phrase is off the subject; again for more")
	cmd.Flags().StringArrayVar(&clear, "clear", nil, "take back what you said of this phrase; again for more")
	jsonFlag(cmd)
	nicheFlag(cmd)
	return cmd
}
