package phrase

import (
	"sort"
	"strings"
	"sync"

	"github.com/blevesearch/snowballstem"
	"github.com/blevesearch/snowballstem/arabic"
	"github.com/blevesearch/snowballstem/danish"
	"github.com/blevesearch/snowballstem/dutch"
	"github.com/blevesearch/snowballstem/english"
	"github.com/blevesearch/snowballstem/finnish"
	"github.com/blevesearch/snowballstem/french"
	"github.com/blevesearch/snowballstem/german"
	"github.com/blevesearch/snowballstem/hungarian"
	"github.com/blevesearch/snowballstem/irish"
	"github.com/blevesearch/snowballstem/italian"
	"github.com/blevesearch/snowballstem/norwegian"
	"github.com/blevesearch/snowballstem/portuguese"
	"github.com/blevesearch/snowballstem/romanian"
	"github.com/blevesearch/snowballstem/russian"
	"github.com/blevesearch/snowballstem/spanish"
	"github.com/blevesearch/snowballstem/swedish"
	"github.com/blevesearch/snowballstem/tamil"
	"github.com/blevesearch/snowballstem/turkish"
	"github.com/rivo/uniseg"
)

// stemmers maps a language (ISO 639-1) to Snowball's algorithm for it: all that the
// package carries. In any other language a word is its own stem.
var stemmers = map[string]func(*snowballstem.Env) bool{
	"ar": arabic.Stem, "da": danish.Stem, "de": german.Stem, "en": english.Stem, "es": spanish.Stem,
	"fi": finnish.Stem, "fr": french.Stem, "ga": irish.Stem, "hu": hungarian.Stem, "it": italian.Stem,
	"nl": dutch.Stem, "no": norwegian.Stem, "nb": norwegian.Stem, "nn": norwegian.Stem,
	"pt": portuguese.Stem, "ro": romanian.Stem, "ru": russian.Stem, "sv": swedish.Stem,
	"ta": tamil.Stem, "tr": turkish.Stem,
}

// Words splits s at Unicode word boundaries (UAX #29) and returns the segments
// that hold a letter or a digit, in order.
func Words(s string) []string {
	if ascii, ok := wordsASCII(s); ok {
		return ascii
	}
	var out []string
	state := -1
	for len(s) > 0 {
		var w string
		w, s, state = uniseg.FirstWordInString(s, state)
		if strings.ContainsFunc(w, wordRune) {
			out = append(out, w)
		}
	}
	return out
}

// EachWord calls do for each word of a text, as Words has them, with what stands before it; what is left after the last
// word comes with an empty one. All that do is given, put together, is the text.
func EachWord(s string, do func(before, word string)) {
	before, state := "", -1
	for len(s) > 0 {
		var w string
		w, s, state = uniseg.FirstWordInString(s, state)
		if strings.ContainsFunc(w, wordRune) {
			do(before, w)
			before = ""
			continue
		}
		before += w
	}
	if before != "" {
		do(before, "")
	}
}

// wordsASCII is the fast road for text whose only characters are ASCII letters,
// digits and spaces, where the rules of UAX #29 come down to the spaces.
func wordsASCII(s string) ([]string, bool) {
	for i := 0; i < len(s); i++ {
		c := s[i]
		if !(c == ' ' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c >= 'A' && c <= 'Z') {
			return nil, false
		}
	}
	return strings.Fields(s), true
}

// stemCache remembers stems: a niche says the same few thousand words again and
// again. It is bounded, and emptied when full.
var stemCache = struct {
	sync.RWMutex
	m map[string]string
}{m: map[string]string{}}

const stemCacheSize = 1 << 16

// Stem returns the Snowball stem of one word in the language, or the word.
func Stem(word, lang string) string {
	stem := stemmers[lang]
	word = Folded(word)
	if stem == nil {
		return word
	}
	key := lang + "\x00" + word
	stemCache.RLock()
	s, ok := stemCache.m[key]
	stemCache.RUnlock()
	if ok {
		return s
	}
	env := snowballstem.NewEnv(word)
	stem(env)
	s = env.Current()
	stemCache.Lock()
	if len(stemCache.m) >= stemCacheSize {
		clear(stemCache.m)
	}
	stemCache.m[key] = s
	stemCache.Unlock()
	return s
}

// Stems returns the stems of the words of s, in order.
func Stems(s, lang string) []string {
	words := Words(s)
	for i, w := range words {
		words[i] = Stem(w, lang)
	}
	return words
}

// ContentStems returns the stems of the words that are no function words, in
// order and without repeats. A phrase of function words only keeps them all:
// it must still be comparable with something.
func ContentStems(s, lang string) []string {
	words := Words(s)
	out := unique(words, lang, func(w string) bool { return !IsFunctionWord(w, lang) })
	if len(out) == 0 {
		out = unique(words, lang, func(string) bool { return true })
	}
	return out
}

func unique(words []string, lang string, keep func(string) bool) []string {
	var out []string
	for _, w := range words {
		if !keep(w) {
			continue
		}
		stem := Stem(w, lang)
		seen := false
		for _, o := range out {
			seen = seen || o == stem
		}
		if !seen {
			out = append(out, stem)
		}
	}
	return out
}

// VariantKey is the sorted set of content stems. Phrases with one key are
// suspected variants ("telescope for beginners", "beginner telescopes"); only
// their results can confirm it. Digits and negations stay in the key.
func VariantKey(s, lang string) string {
	stems := ContentStems(s, lang)
	sort.Strings(stems)
	return strings.Join(stems, " ")
}

// Says reports whether a text says all content words of a phrase, whatever their form and order. Nothing says a phrase
// that has none.
func Says(text, of, lang string) bool {
	there := map[string]bool{}
	for _, s := range Stems(Normal(text), lang) {
		there[s] = true
	}
	stems := ContentStems(of, lang)
	for _, s := range stems {
		if !there[s] {
			return false
		}
	}
	return len(stems) > 0
}
