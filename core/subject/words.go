package subject

import (
	"maps"
	"math"
	"slices"
)

// tally is how often words are said in some ideas.
type tally struct {
	ideas, words float64
	of           map[string]float64
}

// says is the logarithm of how likely a word is here, by Laplace's rule, of so many different words in all.
func (t *tally) says(word string, different int) float64 {
	return math.Log((t.of[word] + 1) / (t.words + float64(different)))
}

// odds are the log odds of words to come from here rather than from there, and the word that speaks most for here.
func (t *tally) odds(words []string, there *tally, different int) (sum float64, most string) {
	sum = math.Log(t.ideas / there.ideas)
	best := 0.0
	for _, w := range words {
		x := t.says(w, different) - there.says(w, different)
		if sum += x; x > best && t.of[w] > 0 {
			best, most = x, w
		}
	}
	return sum, most
}

// byWords tells what is not told yet by words, from what is (naive Bayes with Laplace's rule; Manning, Raghavan and
// Schütze 2008, chapter 13).
func byWords(out []Told, ideas []Idea) {
	by := map[int]*tally{}
	words := map[string]bool{}
	for i, idea := range ideas {
		p := out[i].Part
		switch {
		case idea.Hand == On:
			p = 0
		case idea.Hand == Off && p == 0:
			p = -1
		case out[i].Side == Untold:
			continue
		}
		if by[p] == nil {
			by[p] = &tally{of: map[string]float64{}}
		}
		by[p].ideas++
		for _, w := range idea.Words {
			by[p].of[w]++
			by[p].words++
			words[w] = true
		}
	}
	on := by[0]
	if on == nil {
		return
	}
	parts := slices.Sorted(maps.Keys(by))
	for i, idea := range ideas {
		if out[i].Side != Untold || idea.Hand != Untold {
			continue
		}
		best, odds, word := 0, 0.0, ""
		for _, p := range parts {
			if p == 0 {
				continue
			}
			sum, which := by[p].odds(idea.Words, on, len(words))
			if which != "" && sum > odds {
				best, odds, word = p, sum, which
			}
		}
		if p := out[i].Part; p > 0 && by[p] != nil { // where its one site leads
			if sum, _ := by[p].odds(idea.Words, on, len(words)); sum > 0 {
				out[i].Side, out[i].By = Off, Results
				continue
			}
		}
		out[i].Part = 0
		heard := slices.ContainsFunc(idea.Words, func(w string) bool { return on.of[w] > 1 })
		switch {
		case best != 0 && odds >= sure:
			out[i].Side, out[i].By, out[i].Part, out[i].Word = Off, Words, best, word
		case heard:
			out[i].Side, out[i].By = On, Words
		}
	}
}
