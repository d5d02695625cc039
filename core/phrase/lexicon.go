package phrase

import (
	"regexp"
	"strings"
)

// lexicon holds the words by which the shapes of a language are told. Each has a file
// of its own, lexicon_en.go and so on; a phrase in another language has no shape, never a wrong one.
type lexicon struct {
	questions, lists, verdicts, locals, buying, sites, prepositions map[string]bool
	phrases                                                         map[Shape][]string
	function                                                        map[string]bool
	light                                                           map[string]bool // see IsLight
	// places are where people look for something nearby; doubtful ones count behind one of nearIn.
	// firsts are the words with which their names begin.
	places, doubtful, nearIn, firsts map[string]bool
	asking                           map[string]bool // see Subject; beside light ones
	negations                        map[string]bool // of the light ones: they change the subject
	// last are words that ask for a site where they end the phrase.
	last       map[string]bool
	lastBuying map[string]bool // the same, for what is for sale
	// comparative is how one thing is set against another: "gentler than"; it may be nil.
	comparative *regexp.Regexp
	// blind takes out what looks like a sign and is none; it may be nil.
	blind *strings.Replacer
	// superlative holds for a word that means the most of something, "quietest", by its
	// form; the words that only look like one are in its exceptions.
	superlative func(w string) bool
	most        string // the word that makes one of the next
}

// lexicons are the languages whose words are known.
var lexicons = map[string]lexicon{"en": inEnglish}
