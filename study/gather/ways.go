package gather

import (
	"errors"
	"slices"
	"strings"
	"unicode/utf8"

	"cleverniche/core/phrase"
	"cleverniche/study/ideas"
)

// Way is a way in which a seed grows, beside the suggestions for the seed itself.
type Way string

// The ways.
const (
	Letters      Way = "letters"
	Digits       Way = "digits"
	Questions    Way = "questions"
	Prepositions Way = "prepositions"
	Comparisons  Way = "comparisons"
	Between      Way = "between"
	Related      Way = "related"
	Near         Way = "near"
)

// Ways lists them, with what each looks up.
var Ways = []struct {
	Way  Way
	Says string
}{
	{Letters, "the seed plus each letter"},
	{Digits, "the seed plus each digit"},
	{Questions, "question words plus the seed"},
	{Prepositions, "the seed plus for, with, without …"},
	{Comparisons, "the seed plus vs, or …; best, alternative to … plus the seed"},
	{Between, "each letter between the words of the seed"},
	{Related, "questions that the engine shows beside its results"},
	{Near, "for seeds with *: other orders and forms of their words, too"},
}

// Usual are the ways that are taken where nobody says otherwise.
var Usual = []Way{Letters, Questions}

// ReadWays are those of some names that there are, in their order.
func ReadWays(names ...string) (out []Way) {
	for _, w := range Ways {
		if slices.Contains(names, string(w.Way)) {
			out = append(out, w.Way)
		}
	}
	return out
}

// Lacks says which of the ways bring nothing in a language, since its words are not known; "" where all do.
func Lacks(lang string) string {
	if slices.Contains(phrase.AroundLanguages(), lang) {
		return ""
	}
	return "Question words, prepositions and comparisons are not known in this language; nothing is looked up by them. " +
		"They are known in English, French, German and Spanish."
}

// grow lists what is asked to grow a seed in some ways.
func grow(seed, lang string, ways []Way) []step {
	if strings.Contains(seed, phrase.Gap) {
		return growPattern(seed, ways)
	}
	around := phrase.AroundIn(lang)
	out := []step{{Kind: ideas.FromCompletion, Query: seed, Seed: seed}}
	add := func(kind, query string) { out = append(out, step{Kind: kind, Query: query, Seed: seed}) }
	for _, w := range ways {
		switch w {
		case Letters:
			for c := 'a'; c <= 'z'; c++ {
				add(ideas.FromLetter, seed+" "+string(c))
			}
		case Digits:
			for c := '0'; c <= '9'; c++ {
				add(ideas.FromLetter, seed+" "+string(c))
			}
		case Questions:
			for _, q := range around.Questions {
				add(ideas.FromQuestion, q+" "+seed)
			}
		case Prepositions:
			for _, p := range around.Prepositions {
				add(ideas.FromPreposition, seed+" "+p)
			}
		case Comparisons:
			for _, c := range around.Behind {
				add(ideas.FromComparison, seed+" "+c)
			}
			for _, c := range around.Before {
				add(ideas.FromComparison, c+" "+seed)
			}
		case Between:
			words := strings.Fields(seed)
			for gap := 1; gap < len(words); gap++ {
				for c := 'a'; c <= 'z'; c++ {
					query := strings.Join(words[:gap], " ") + " " + string(c)
					out = append(out, step{Kind: ideas.FromBetween, Query: query, Seed: seed, Holds: true})
				}
			}
		case Related:
			out = append(out, step{Kind: ideas.FromRelated, Query: seed, Seed: seed, Results: true})
		}
	}
	return out
}

// readPattern reads a seed with gaps, in its normal form. Suggestions go on from what is typed, so that it has to begin
// with a word.
func readPattern(line string) (string, error) {
	p, err := phrase.ParsePattern(line, "")
	if err != nil {
		return "", err
	}
	text := p.String()
	if strings.HasPrefix(text, phrase.Gap) {
		return "", errors.New("a pattern has to begin with a word: suggestions go on from what is typed")
	}
	if utf8.RuneCountInString(text) > phrase.MaxRunes {
		return "", &phrase.LengthError{Runes: utf8.RuneCountInString(text)}
	}
	return text, nil
}

// growPattern lists what is asked to fill a pattern: what stands before its first gap, alone and with each letter or
// digit behind it. What fits is kept.
func growPattern(seed string, ways []Way) []step {
	before, _, _ := strings.Cut(seed, " "+phrase.Gap)
	near := slices.Contains(ways, Near)
	add := func(out []step, query string) []step {
		return append(out, step{Kind: ideas.FromPattern, Query: query, Seed: seed, Fits: true, Near: near})
	}
	out := add(nil, before)
	if slices.Contains(ways, Letters) {
		for c := 'a'; c <= 'z'; c++ {
			out = add(out, before+" "+string(c))
		}
	}
	if slices.Contains(ways, Digits) {
		for c := '0'; c <= '9'; c++ {
			out = add(out, before+" "+string(c))
		}
	}
	return out
}

// fits reports whether a phrase is one that a step is for.
func (st step) fits(normal, lang string) bool {
	if st.Holds {
		return holdsAll(normal, st.Seed)
	}
	if !st.Fits {
		return true
	}
	p, err := phrase.ParsePattern(st.Seed, lang)
	return err == nil && (p.Exact(normal) || st.Near && p.Near(normal))
}

// holdsAll reports whether a phrase holds all words of a seed, in whatever order.
func holdsAll(normal, seed string) bool {
	words := strings.Fields(normal)
	return !slices.ContainsFunc(strings.Fields(seed), func(w string) bool { return !slices.Contains(words, w) })
}
