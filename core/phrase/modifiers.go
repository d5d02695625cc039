package phrase

import (
	"cmp"
	"slices"
	"strings"
)

// Modifier is a word that phrases add to a seed.
type Modifier struct {
	Word     string // in the form that is searched most
	Stem     string
	Ideas    int     // phrases that add it
	Searches float64 // of these phrases together
}

// Searched is a phrase in normal form and how often it is searched a month; 0 where
// that is not known.
type Searched struct {
	Phrase   string
	Searches float64
}

// Modifiers lists the words that the phrases add to the seed, those of most searches
// first. Words of one stem are one modifier; function words and the seed's own are
// none, and a phrase that says a word twice adds it once.
func Modifiers(seed string, phrases []Searched, lang string) []Modifier {
	own := map[string]bool{}
	for _, s := range Stems(Normal(seed), lang) {
		own[s] = true
	}
	type tally struct {
		Modifier
		forms map[string]float64
	}
	byStem := map[string]*tally{}
	for _, p := range phrases {
		seen := map[string]bool{}
		for _, word := range Words(p.Phrase) {
			stem := Stem(word, lang)
			if IsFunctionWord(word, lang) || own[stem] || seen[stem] {
				continue
			}
			seen[stem] = true
			t := byStem[stem]
			if t == nil {
				t = &tally{Modifier{Stem: stem}, map[string]float64{}}
				byStem[stem] = t
			}
			t.Ideas++
			t.Searches += p.Searches
			t.forms[word] += p.Searches + 1e-9 // so that a form counts that nobody searched
		}
	}
	out := make([]Modifier, 0, len(byStem))
	for _, t := range byStem {
		for form, n := range t.forms {
			if best := t.forms[t.Word]; t.Word == "" || n > best || n == best && form < t.Word {
				t.Word = form
			}
		}
		out = append(out, t.Modifier)
	}
	slices.SortFunc(out, func(a, b Modifier) int {
		return cmp.Or(cmp.Compare(b.Searches, a.Searches), cmp.Compare(b.Ideas, a.Ideas), strings.Compare(a.Stem, b.Stem))
	})
	return out
}
