package topic

import "cleverniche/core/phrase"

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

// Found is an idea in normal form with what was found for it: the URLs and the titles of
// its results, in their order.
func (n Numbers) Found(normal, lang string, searches float64, urls, titles []string) Idea {
	return Idea{Phrase: normal, Searches: searches, Variant: phrase.VariantKey(normal, lang), Results: n.all(urls),
		Stems: n.all(phrase.ContentStems(phrase.AsRead(normal, titles, lang), lang)), Said: n.all(phrase.Said(titles, lang))}
}

func (n Numbers) all(names []string) (out []uint32) {
	for _, name := range names {
		out = append(out, n.Of(name))
	}
	return out
}
