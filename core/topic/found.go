package topic

import (
	"cleverniche/core/intent"
	"cleverniche/core/phrase"
)

// Numbers numbers pages and stems from 0 as they are met. Ideas that are grouped together
// are numbered by the same; numbers that lie close together group quickest.
type Numbers map[string]uint32

// Of is the number of a page, by its URL, or of a stem.
func (n Numbers) Of(name string) uint32 {
	number, known := n[name]
	if !known {
		number = uint32(len(n))
		n[name] = number
	}
	return number
}

// Found is what grouping looks at of what was found for a phrase: the URLs of its results, in their
// order, its content stems, as the titles read it, and those that many titles say. It can be kept. What of the stems
// says what the phrase is about is told when it is used.
type Found struct{ Pages, Stems, Said []string }

// FoundFor reads what was found for a phrase in normal form.
func FoundFor(normal, lang string, urls, titles []string) Found {
	return Found{urls, phrase.ContentStems(phrase.AsRead(normal, titles, lang), lang), phrase.Said(titles, lang)}
}

// Put puts the numbers of what was found into an idea, whose phrase is known.
func (n Numbers) Put(to *Idea, f Found, lang string) {
	to.Results, to.Stems, to.Said = n.all(f.Pages), n.all(phrase.Subject(f.Stems, lang)), n.all(f.Said)
}

// Found is an idea in normal form with what was found for it: the URLs and the titles of
// its results, in their order.
func (n Numbers) Found(normal, lang string, searches float64, urls, titles []string) Idea {
	i := Idea{Phrase: normal, Searches: searches, Variant: phrase.VariantKey(normal, lang)}
	i.Intent = Asked(normal, lang)
	n.Put(&i, FoundFor(normal, lang, urls, titles), lang)
	return i
}

// Asked is Idea.Intent of a phrase in normal form.
func Asked(normal, lang string) int8 {
	return int8(intent.FromWords(normal, lang).Shares.Leading())
}

func (n Numbers) all(names []string) (out []uint32) {
	for _, name := range names {
		out = append(out, n.Of(name))
	}
	return out
}
