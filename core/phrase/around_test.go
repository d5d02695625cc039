package phrase

import (
	"slices"
	"strings"
	"testing"
)

// TestAround: each language has every kind of word, once, in the form in which phrases are kept.
func TestAround(t *testing.T) {
	if got := AroundLanguages(); !slices.Equal(got, []string{"de", "en", "es", "fr"}) {
		t.Errorf("languages are %q", got)
	}
	for _, lang := range AroundLanguages() {
		a := AroundIn(lang)
		for _, list := range [][]string{a.Questions, a.Prepositions, a.Behind, a.Before} {
			if len(list) < 5 {
				t.Errorf("%s: only %q", lang, list)
			}
			for _, w := range list {
				if Normal(w) != w || strings.TrimSpace(w) == "" {
					t.Errorf("%s: %q is %q in normal form", lang, w, Normal(w))
				}
			}
		}
	}
	if a := AroundIn("xx"); len(a.Questions)+len(a.Prepositions) != 0 {
		t.Errorf("of a language without a file: %+v", a)
	}
	if got := AroundIn("fr").Questions; !slices.Contains(got, "où") {
		t.Errorf("French asks %q", got)
	}
}

// TestHoldsAny: whole words and phrases count, parts of words do not.
func TestHoldsAny(t *testing.T) {
	terms := []string{"job", "near me", ""}
	for phrase, want := range map[string]string{"telescope jobs": "", "telescope job": "job", "job": "job",
		"shops near me": "near me", "near menlo": "", "": ""} {
		if got := HoldsAny(phrase, terms); got != want {
			t.Errorf("%q holds %q", phrase, got)
		}
	}
}
