package main

import (
	"cmp"
	"fmt"
	"go/format"
	"math"
	"os"
	"slices"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/topic"
	"cleverniche/standin"

	"github.com/spf13/cobra"
	"gonum.org/v1/gonum/stat"
)

// phrases is a list of phrases with their results and the needs behind them.
type phrases struct {
	world         int
	hobby, engine string
	dense         bool
	ideas         []topic.Idea
	needs         []int
}

// How lists of phrases are drawn: every so many needs of all hobbies, as a gathering
// over many subjects would be, or the needs whose first wording holds the word that
// most of a hobby's phrases hold, up to so many phrases, as a niche is.
const (
	everyNeed = 37
	mostDense = 1500
	shortest  = 3 // letters of a word that counts
)

// lists draws a thin list and a dense one of each hobby from a world.
func lists(number int, engine string, day time.Time, leaveOut string) ([]phrases, error) {
	l, err := newLab(number, day)
	if err != nil {
		return nil, err
	}
	numbered := topic.Numbers{}
	thin := phrases{world: number, engine: engine}
	byHobby := map[string]*phrases{}
	var hobbies []string
	commonest := map[string]string{}
	words := map[string]map[string]int{}
	truth := l.world.Truth().Queries
	for _, q := range truth {
		if words[q.Hobby] == nil {
			words[q.Hobby] = map[string]int{}
			hobbies = append(hobbies, q.Hobby)
			byHobby[q.Hobby] = &phrases{world: number, engine: engine, hobby: q.Hobby, dense: true}
		}
		for _, w := range phrase.ContentStems(q.Text, "en") {
			if len(w) >= shortest {
				words[q.Hobby][w]++
			}
		}
	}
	for _, h := range hobbies {
		for w, n := range words[h] {
			if best := words[h][commonest[h]]; n > best || n == best && w < commonest[h] {
				commonest[h] = w
			}
		}
	}
	held := map[int]bool{} // by need: its first wording holds the word
	for _, q := range truth {
		if q.Hobby == leaveOut {
			continue
		}
		if _, known := held[q.Need]; !known {
			held[q.Need] = slices.Contains(phrase.ContentStems(q.Text, "en"), commonest[q.Hobby])
		}
		dense := byHobby[q.Hobby]
		inThin, inDense := q.Need%everyNeed == 5, held[q.Need] && len(dense.ideas) < mostDense
		if !inThin && !inDense {
			continue
		}
		idea, err := l.idea(q, engine, day, numbered)
		if err != nil {
			return nil, err
		}
		if inThin {
			thin.ideas, thin.needs = append(thin.ideas, idea), append(thin.needs, q.Need)
		}
		if inDense {
			dense.ideas, dense.needs = append(dense.ideas, idea), append(dense.needs, q.Need)
		}
	}
	out := []phrases{thin}
	for _, h := range hobbies {
		if len(byHobby[h].ideas) > 0 {
			out = append(out, *byHobby[h])
		}
	}
	return out, nil
}

// idea asks for the results of a phrase.
func (l *lab) idea(q standin.QueryTruth, engine string, day time.Time, numbered topic.Numbers) (topic.Idea, error) {
	page, err := l.results(q.Text, engine, day.Format(time.DateOnly), 10)
	if err != nil {
		return topic.Idea{}, fmt.Errorf("%s: %w", q.Text, err)
	}
	var urls, titles []string
	for _, o := range page.Organic {
		urls, titles = append(urls, o.URL), append(titles, o.Title)
	}
	return numbered.Found(q.Text, "en", q.Searches, urls, titles), nil
}

// togethers are the values of topic.Model.Together that are tried.
var togethers = []float64{0.1, 0.15, 0.2, 0.25, 0.3, 0.35, 0.4, 0.5}

// apartColumn is the column of Apart titles, which can only make one need less likely.
const apartColumn = 4

// fitTopics finds the weights by logistic regression on the pairs of all lists, each
// list weighing by the pairs of one need in it, and then what groups best on average.
func fitTopics(train []phrases) (topic.Model, []float64, error) {
	var trials []trial
	for _, l := range train {
		pairs, same := topic.Pairs(l.ideas, topic.Shared), 0
		for _, p := range pairs {
			if l.needs[p.A] == l.needs[p.B] {
				same++
			}
		}
		for _, p := range pairs {
			trials = append(trials, trial{[]float64{math.Log(p.Pages), p.Rarest, p.Words, oneIf(p.Titles == topic.Echoed),
				-oneIf(p.Titles == topic.Apart), oneIf(p.SameIntent), 1}, l.needs[p.A] == l.needs[p.B],
				1 / float64(max(1, same))})
		}
	}
	weights, err := logistic(trials)
	if err == nil && weights[apartColumn] < 0 { // what points the wrong way tells nothing: without it
		for i := range trials {
			trials[i].x[apartColumn] = 0
		}
		weights, err = logistic(trials)
	}
	if err != nil {
		return topic.Model{}, nil, err
	}
	to := func(v float64) float64 { return math.Round(v*10) / 10 }
	best := topic.Model{Pages: to(weights[0]), Rarest: to(weights[1]), Words: to(weights[2]), Echoed: to(weights[3]),
		Apart: to(weights[apartColumn]), Intent: to(weights[5]), Even: to(-weights[6])}
	var means []float64
	top := -1.0
	for _, t := range togethers {
		m, mean := best, 0.0
		m.Together = t
		for _, l := range train {
			mean += l.agreement(m.Group(l.ideas, topic.Shared)) / float64(len(train))
		}
		means = append(means, mean)
		if mean > top {
			top, best.Together = mean, t
		}
	}
	return best, means, nil
}

// agreement is the adjusted Rand index of topics and needs.
func (l phrases) agreement(topics []topic.Group) float64 {
	found := make([]int, len(l.ideas))
	for t, one := range topics {
		for _, m := range one.Members {
			found[m.Idea] = t
		}
	}
	return topic.AdjustedRand(found, l.needs)
}

// byLeads groups as the trade does by hand, to compare with: by searches, each idea
// joins the lead with which it shares most pages, at least so many, or leads a topic.
func (l phrases) byLeads(shared int) []topic.Group {
	type common struct{ other, pages int }
	with := make([][]common, len(l.ideas))
	for _, p := range topic.Pairs(l.ideas, shared) {
		with[p.A] = append(with[p.A], common{p.B, p.Shared})
		with[p.B] = append(with[p.B], common{p.A, p.Shared})
	}
	order := make([]int, len(l.ideas))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		x, y := l.ideas[a], l.ideas[b]
		return cmp.Or(cmp.Compare(y.Searches, x.Searches), cmp.Compare(x.Phrase, y.Phrase))
	})
	var topics []topic.Group
	leads := map[int]int{}
	for _, i := range order {
		best, most := -1, 0
		for _, c := range with[i] {
			if t, leading := leads[c.other]; leading && (c.pages > most || c.pages == most && t < best) {
				best, most = t, c.pages
			}
		}
		if best < 0 {
			best = len(topics)
			leads[i] = best
			topics = append(topics, topic.Group{})
		}
		topics[best].Members = append(topics[best].Members, topic.Member{Idea: i})
	}
	return topics
}

func topicsCommand(p *plan) *cobra.Command {
	var write bool
	c := &cobra.Command{Use: "topics", Short: "Find the constants of topic by needs that are known", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var train, test []phrases
			for i, number := range p.train {
				list, err := lists(number, standin.EngineNames[i%len(standin.EngineNames)], p.day, p.heldOut)
				if err != nil {
					return err
				}
				train = append(train, list...)
			}
			for i, number := range p.test {
				list, err := lists(number, standin.EngineNames[i%len(standin.EngineNames)], p.day, "")
				if err != nil {
					return err
				}
				test = append(test, list...)
			}
			m, means, err := fitTopics(train)
			if err != nil {
				return err
			}
			m.Name = fmt.Sprintf("%s, %d worlds", p.day.Format("2 January 2006"), len(p.train))
			text := topicsText(*p, m, means, train, test)
			if _, err := fmt.Fprint(cmd.OutOrStdout(), text); err != nil || !write {
				return err
			}
			source, err := format.Source([]byte(topicsSource(*p, m)))
			if err != nil {
				return err
			}
			if err := os.WriteFile("core/topic/calibrated.go", source, 0o644); err != nil {
				return err
			}
			return os.WriteFile("docs/topics.md", []byte(text), 0o644)
		}}
	c.Flags().BoolVar(&write, "write", false, "write the constants and the report into the source")
	return c
}

func topicsSource(p plan, m topic.Model) string {
	return fmt.Sprintf(`// Code generated by cmd/calibrate. DO NOT EDIT.

package topic

// Calibrated was found on pairs of phrases in %d worlds of the stand-in, without the hobby
// %s; docs/topics.md has what it reaches on others.
var Calibrated = Model{Name: %q,
	Pages: %.1f, Rarest: %.1f, Words: %.1f, Intent: %.1f, Echoed: %.1f, Apart: %.1f,
	Even: %.1f, Together: %g}
`, len(p.train), p.heldOut, m.Name, m.Pages, m.Rarest, m.Words, m.Intent, m.Echoed, m.Apart, m.Even, m.Together)
}

func topicsText(p plan, m topic.Model, means []float64, train, test []phrases) string {
	var b strings.Builder
	say := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	say("# Calibration of topics\n")
	say("Written by `go run ./cmd/calibrate topics --write`, which repeats it. Phrases of the stand-in web are " +
		"looked up, and")
	say("grouped by their results and the words of their subject as these results read them; what they are " +
		"compared with is the " +
		"needs that the")
	say("stand-in hides. Thin lists hold all wordings of every %dth need of all hobbies; dense ones those needs of "+
		"one hobby that", everyNeed)
	say("say its commonest word, up to %d phrases, as a niche that grew from one seed does. Pairs share at least "+
		"%d pages.\n", mostDense, topic.Shared)
	say("Calibrated without the hobby %s on %d lists of the worlds", p.heldOut, len(train))
	say("%s.", numbers(p.train))
	say("Measured on worlds %s, all hobbies: %d lists.\n", numbers(p.test), len(test))
	say("| constant | value |\n|---|---|")
	say("| weight of shared pages, of their logarithm | %.1f |\n| weight of the rarest of them | %.1f |", m.Pages,
		m.Rarest)
	say("| weight of shared words of the subject | %.1f |", m.Words)
	say("| what it adds when both ask for the same kind of thing, by their words | %.1f |", m.Intent)
	say("| what it adds when the titles found for one say all that only the other says | %.1f |", m.Echoed)
	say("| what it takes off when each says something that the titles found for the other do not | %.1f |", m.Apart)
	say("| sum for even odds | %.1f |", m.Even)
	say("\nMean chance from which topics are merged, by the mean adjusted Rand index on the calibration's lists:\n")
	say("| together from | adjusted Rand |\n|---|---|")
	for i, t := range togethers {
		say("| %g | %.3f%s |", t, means[i], marked(t == m.Together, ", the best"))
	}
	say("\n## On worlds that were not used\n")
	say("Adjusted Rand index against the hidden needs, and of grouping by leads with three and with seven shared " +
		"pages for")
	say("comparison.\n")
	say("| world, engine | list | phrases | needs | topics | adjusted Rand | by leads, 3 | by leads, 7 " +
		"|\n|---|---|---|---|---|---|---|---|")
	var thin, dense []float64
	for _, l := range test {
		needs := slices.Clone(l.needs)
		slices.Sort(needs)
		topics := m.Group(l.ideas, topic.Shared)
		a := l.agreement(topics)
		name := "thin, all hobbies"
		if l.dense {
			name, dense = "dense, "+l.hobby, append(dense, a)
		} else {
			thin = append(thin, a)
		}
		say("| %d, %s | %s | %d | %d | %d | %.3f | %.3f | %.3f |", l.world, l.engine, name, len(l.ideas),
			len(slices.Compact(needs)),
			len(topics), a, l.agreement(l.byLeads(3)), l.agreement(l.byLeads(7)))
	}
	say("\nMean of the thin lists %.3f, of the dense ones %.3f.\n", stat.Mean(thin, nil), stat.Mean(dense, nil))
	say("In dense lists the engines of the stand-in answer neighbouring needs (\"can you see mercury with a " +
		"telescope\", \"... with a")
	say("small telescope\") with mostly the same pages, since few are written for each; whether one article " +
		"answers both is then a")
	say("matter of taste, and the hidden needs say no.")
	return b.String()
}

func oneIf(holds bool) float64 {
	if holds {
		return 1
	}
	return 0
}
