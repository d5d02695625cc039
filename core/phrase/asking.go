package phrase

import (
	"regexp"
	"sync"
)

// asking are the stems of the words that say how somebody asks, by language.
var asking = sync.OnceValue(func() map[string]map[string]bool {
	out := map[string]map[string]bool{}
	for lang, lex := range lexicons {
		stems := map[string]bool{}
		for _, words := range []map[string]bool{lex.asking, lex.light} {
			for w := range words {
				stems[Stem(w, lang)] = true
			}
		}
		for w := range lex.negations {
			delete(stems, Stem(w, lang))
		}
		out[lang] = stems
	}
	return out
})

// yearRE holds for the year that is put behind a phrase to get what is new: “best telescope 2026”.
var yearRE = regexp.MustCompile(`^20\d\d$`)

// Asks holds for the stem of a word that says how somebody asks: best, reviews, recipe, which year's. In a language
// whose words are not known it holds for years alone.
func Asks(stem, lang string) bool { return asking()[lang][stem] || yearRE.MatchString(stem) }

// Subject is what content stems say of the subject: without those of words that say how somebody asks and
// not about what; see Asks. Where nothing else is said, all of them are.
func Subject(stems []string, lang string) []string {
	var out []string
	for _, s := range stems {
		if !Asks(s, lang) {
			out = append(out, s)
		}
	}
	if len(out) == 0 {
		return stems
	}
	return out
}
