package main

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/phrase"

	"github.com/spf13/cobra"
)

// What is looked for when look-ups stop early: so many finds (difficulty of at most easy).
const (
	wantedFinds = 10
	leastOften  = 100 // searches a month of the phrases that it is tried on
)

// promiseCommand measures how many look-ups are saved by looking the most promising phrases up first, until ten finds
// are there, against the list's order: most searched first.
func promiseCommand(p *plan) *cobra.Command {
	return &cobra.Command{Use: "promise", Short: "Measure what looking up the most promising phrases first saves",
		RunE: func(cmd *cobra.Command, _ []string) error {
			sumList, sumFirst := 0, 0
			for _, number := range p.test {
				all, err := difficulties(number, 0, p.day)
				if err != nil {
					return err
				}
				byHobby := map[string][]judged{}
				for _, j := range all {
					if j.Searches >= leastOften {
						byHobby[j.Hobby] = append(byHobby[j.Hobby], j)
					}
				}
				for _, hobby := range slices.Sorted(maps.Keys(byHobby)) {
					list := byHobby[hobby]
					slices.SortStableFunc(list, func(a, b judged) int { return cmp.Compare(b.Searches, a.Searches) })
					inList, first, found := untilFound(list)
					if !found {
						fmt.Fprintf(cmd.OutOrStdout(), "world %d, %s: fewer than %d finds among %d phrases\n", number, hobby,
							wantedFinds, len(list))
						continue
					}
					sumList, sumFirst = sumList+inList, sumFirst+first
					fmt.Fprintf(cmd.OutOrStdout(), "world %d, %s: %d phrases; in the list's order %d look-ups, most promising "+
						"first %d\n", number, hobby, len(list), inList, first)
				}
			}
			_, err := fmt.Fprintf(cmd.OutOrStdout(), "all: %d look-ups in the list's order, %d most promising first: %.0f %% "+
				"saved\n", sumList, sumFirst, 100*(1-float64(sumFirst)/float64(max(1, sumList))))
			return err
		}}
}

// untilFound is how many look-ups ten finds take in the list's order, and the most promising first.
func untilFound(list []judged) (inList, first int, found bool) {
	candidates := make([]difficulty.Candidate, len(list))
	finds := 0
	for i, j := range list {
		candidates[i] = difficulty.Candidate{Stems: phrase.ContentStems(j.Text, "en"), Words: len(strings.Fields(j.Text)),
			Searches: j.Searches}
		if isFind := j.difficulty <= easy && j.locked == ""; isFind && finds < wantedFinds {
			finds++
			inList = i + 1
		}
	}
	if finds < wantedFinds {
		return 0, 0, false
	}
	p := difficulty.NewPromise(candidates)
	for finds = 0; finds < wantedFinds; first++ {
		i, _ := p.Next()
		p.Learn(candidates[i], list[i].difficulty)
		if list[i].difficulty <= easy && list[i].locked == "" {
			finds++
		}
	}
	return inList, first, true
}
