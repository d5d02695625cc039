package main

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/core/subject"
	"cleverniche/standin"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"
)

// meanings is the scenario whose phrases hold words of the hobbies and mean something else.
const meanings = "meanings"

// What strays are measured with.
const strayPhrases = 160 // of each hobby

// strayWorld is what one engine shows for phrases of a world in which words have other meanings, too.
type strayWorld struct {
	World int
	Of    map[string][]strayIdea // by hobby
}

type strayIdea struct {
	Phrase string
	Sites  []string
}

// strayCommand measures how well strays are told.
func strayCommand(p *plan) *cobra.Command {
	var keep string
	c := &cobra.Command{Use: "strays", Short: "Measure how well what only shares a subject's words is told from it",
		RunE: func(cmd *cobra.Command, _ []string) error {
			known, unseen := p.train[:min(4, len(p.train))], p.test[:min(4, len(p.test))]
			all, err := keptStrays(keep, slices.Concat(known, unseen), p.day)
			if err != nil {
				return err
			}
			for i, worlds := range [][]int{known, unseen} {
				list := slices.DeleteFunc(slices.Clone(all), func(w strayWorld) bool { return !slices.Contains(worlds, w.World) })
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d worlds\n", []string{"calibrated on", "unseen"}[i], len(list))
				tellStrays(cmd.OutOrStdout(), list)
			}
			return nil
		}}
	c.Flags().StringVar(&keep, "keep", "", "file to keep the phrases in, and to take them from when it is there")
	return c
}

func keptStrays(keep string, worlds []int, day time.Time) (all []strayWorld, err error) {
	if data, err := os.ReadFile(keep); keep != "" && err == nil {
		return all, json.Unmarshal(data, &all)
	}
	all = make([]strayWorld, len(worlds))
	var group errgroup.Group
	group.SetLimit(2)
	for i, number := range worlds {
		group.Go(func() (err error) {
			all[i], err = strayPhrasesOf(number, day)
			return err
		})
	}
	if err := group.Wait(); err != nil || keep == "" {
		return all, err
	}
	body, err := json.Marshal(all)
	if err != nil {
		return nil, err
	}
	return all, os.WriteFile(keep, body, 0o644)
}

// strayPhrasesOf looks phrases of a world up.
func strayPhrasesOf(number int, day time.Time) (out strayWorld, err error) {
	scenarios, err := standin.Scenarios()
	if err != nil {
		return out, err
	}
	more, err := standin.ReadScenarios(os.DirFS("standin/testdata/"+meanings), ".")
	if err != nil {
		return out, err
	}
	l, err := newLabOver(append(scenarios, more...), number, day)
	if err != nil {
		return out, err
	}
	out = strayWorld{number, map[string][]strayIdea{}}
	by := map[string][]standin.QueryTruth{}
	for _, q := range l.world.Truth().Queries {
		if q.Searches >= 20 {
			by[q.Hobby] = append(by[q.Hobby], q)
		}
	}
	rng := rand.New(rand.NewPCG(uint64(number), 5))
	for _, hobby := range slices.Sorted(maps.Keys(by)) {
		list := by[hobby]
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		for _, q := range list[:min(strayPhrases, len(list))] {
			r, err := l.read(q.Text, standin.EngineNames[0], day.Format(time.DateOnly))
			if err != nil {
				return out, err
			}
			one := strayIdea{Phrase: q.Text}
			for _, e := range r.Entries[:min(serp.FirstPage, len(r.Entries))] {
				if site := l.suffixes.Site(links.Host(e.URL)); subject.Tells(e.Kind) && !slices.Contains(one.Sites, site) {
					one.Sites = append(one.Sites, site)
				}
			}
			out.Of[hobby] = append(out.Of[hobby], one)
		}
	}
	return out, nil
}

// strayScore counts strays: what is one, what is said to be one, and both.
type strayScore struct{ is, said, right int }

func (s *strayScore) add(is bool, t subject.Told) {
	if is {
		s.is++
	}
	if t.Side == subject.Off {
		if s.said++; is {
			s.right++
		}
	}
}

func (s strayScore) String() string {
	if s.is == 0 {
		return fmt.Sprintf("%d said to be strays, wrongly", s.said)
	}
	return fmt.Sprintf("precision %.2f, recall %.2f", float64(s.right)/float64(max(1, s.said)),
		float64(s.right)/float64(s.is))
}

// tellStrays mixes phrases of other hobbies and of other meanings into each hobby, half and half.
func tellStrays(out io.Writer, worlds []strayWorld) {
	for _, size := range []int{subject.LeastLookedUp, strayPhrases} {
		for _, share := range []float64{0, 0.05, 0.15, 0.3} {
			var seen, sited, read strayScore // sited are those in whose ten two sites or more can tell
			of := 0
			for _, w := range worlds {
				for _, hobby := range slices.Sorted(maps.Keys(w.Of)) {
					if hobby == meanings {
						continue
					}
					rng := rand.New(rand.NewPCG(uint64(w.World), uint64(size)))
					ideas, stray := mixed(w, hobby, size, int(share*float64(size)), rng)
					for i, t := range subject.Tell(ideas) {
						seen.add(stray[i], t)
						if len(ideas[i].Sites) > 1 {
							sited.add(stray[i], t)
						}
					}
					for i := range ideas { // a third is not looked up
						ideas[i].LookedUp = rng.IntN(3) > 0
					}
					for i, t := range subject.Tell(ideas) {
						if !ideas[i].LookedUp {
							read.add(stray[i], t)
						}
					}
					of += len(ideas)
				}
			}
			fmt.Fprintf(out, "  %d ideas of the subject and %.0f %% strays: by results %s; with two sites that can tell %s; "+
				"by words, of a third: %s (%d ideas)\n", size, 100*share, seen, sited, read, of)
		}
	}
}

func mixed(w strayWorld, hobby string, size, strays int, rng *rand.Rand) (ideas []subject.Idea, stray []bool) {
	add := func(from string, n int, is bool) {
		list := slices.Clone(w.Of[from])
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		for _, one := range list[:min(n, len(list))] {
			ideas = append(ideas, subject.Idea{Words: phrase.Subject(phrase.ContentStems(one.Phrase, "en"), "en"),
				LookedUp: true, Sites: one.Sites})
			stray = append(stray, is)
		}
	}
	add(hobby, size, false)
	add(meanings, strays/2, true)
	var others []string
	for _, other := range slices.Sorted(maps.Keys(w.Of)) {
		if other != hobby && other != meanings {
			others = append(others, other)
		}
	}
	add(others[rng.IntN(len(others))], strays-strays/2, true)
	return ideas, stray
}
