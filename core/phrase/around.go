package phrase

import (
	"embed"
	"slices"
	"strings"
	"sync"
)

// wordFiles are the words that people put around a subject, a file a language.
//
//go:embed words/*.txt
var wordFiles embed.FS

// Around are the words that people of a language put around a subject, most asked first, in normal form.
type Around struct {
	Questions    []string // before it
	Prepositions []string // behind it
	Behind       []string // of comparing, behind it
	Before       []string // of comparing, before it
}

var arounds = sync.OnceValue(func() map[string]Around {
	out := map[string]Around{}
	entries, err := wordFiles.ReadDir("words")
	if err != nil {
		panic(err) // they are compiled in
	}
	for _, e := range entries {
		text, err := wordFiles.ReadFile("words/" + e.Name())
		if err != nil {
			panic(err)
		}
		lang := strings.TrimSuffix(e.Name(), ".txt")
		out[lang] = readAround(string(text))
	}
	return out
})

func readAround(text string) (a Around) {
	kinds := map[string]*[]string{"questions": &a.Questions, "prepositions": &a.Prepositions, "behind": &a.Behind,
		"before": &a.Before}
	for _, line := range strings.Split(text, "\n") {
		kind, list, is := strings.Cut(line, ":")
		into := kinds[strings.TrimSpace(kind)]
		if !is || strings.HasPrefix(line, "#") || into == nil {
			continue
		}
		for _, word := range strings.Split(list, ",") {
			if word = Normal(word); word != "" && !slices.Contains(*into, word) {
				*into = append(*into, word)
			}
		}
	}
	return a
}

// AroundIn returns the words that people of a language (ISO 639-1) put around a subject; none of one that has no file.
func AroundIn(lang string) Around { return arounds()[lang] }

// AroundLanguages lists the languages whose words are known, in order.
func AroundLanguages() (out []string) {
	for lang := range arounds() {
		out = append(out, lang)
	}
	slices.Sort(out)
	return out
}

// HoldsAny returns the first of some words or phrases, all in normal form, that stands in a phrase in normal form as
// whole words; "" where none does.
func HoldsAny(normal string, terms []string) string {
	padded := " " + normal + " "
	for _, t := range terms {
		if t != "" && strings.Contains(padded, " "+t+" ") {
			return t
		}
	}
	return ""
}
