// Package about tells what a page, or a site, seems to be about: the phrases that weigh most in it, and where on the
// page they stand.
//
// A phrase weighs as often as it stands there, more in a title than in the text, times how rare it is among the pages
// (tf–idf: Salton & Buckley 1988, "Term-weighting approaches in automatic text retrieval"), each page's weights
// scaled to length 1, as scikit-learn's TfidfVectorizer has it. Of one page alone all are as rare.
package about

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"cleverniche/core/phrase"
)

// Page is what is looked at of a page.
type Page struct {
	Title    string
	H1       []string
	Headings []string
	Anchors  []string // what links of its main part say
	Text     string   // of its main part
}

// places are where phrases stand, and how often one there counts (ours).
var places = []struct {
	Name   string
	Weight float64
	Of     func(Page) []string
}{
	{"title", 5, func(p Page) []string { return []string{p.Title} }},
	{"main heading", 4, func(p Page) []string { return p.H1 }},
	{"headings", 3, func(p Page) []string { return p.Headings }},
	{"links", 2, func(p Page) []string { return p.Anchors }},
	{"text", 1, func(p Page) []string { return []string{p.Text} }},
}

// Term is a phrase that a page or a site seems to be about.
type Term struct {
	Phrase string   // in normal form
	Weight float64  // the sum over pages
	In     []string // where it stands, on any page
	Times  int      // all over them
	Pages  int      // that it stands on
}

// Bounds of phrases that are looked at (ours).
const (
	longest   = 4     // words
	mostWords = 20000 // of a part of a page
	within    = 0.8   // of a phrase's times in a longer one, from which on it is only a part of that
)

// Terms lists the phrases that weigh most on pages, at most so many. They begin and end with words that say something
// of a subject.
func Terms(pages []Page, lang string, most int) []Term {
	all := map[string]*Term{}
	forms := map[string]map[string]int{} // of each term, by how it is written
	docs := make([]map[string]float64, len(pages))
	stem := stemmer(lang)
	for i, p := range pages {
		docs[i] = map[string]float64{}
		for _, place := range places {
			for _, part := range place.Of(p) {
				count(part, lang, func(words []string) {
					term := stem(words)
					if docs[i][term] += place.Weight; all[term] == nil {
						all[term], forms[term] = &Term{Phrase: term}, map[string]int{}
					}
					t := all[term]
					t.Times++
					forms[term][strings.Join(words, " ")]++
					if !slices.Contains(t.In, place.Name) {
						t.In = append(t.In, place.Name)
					}
				})
			}
		}
	}
	for _, weights := range Weigh(docs) {
		for term, w := range weights {
			all[term].Weight += w
			all[term].Pages++
		}
	}
	list := make([]*Term, 0, len(all))
	for _, t := range all {
		list = append(list, t)
	}
	slices.SortFunc(list, func(a, b *Term) int {
		return cmp.Or(cmp.Compare(b.Weight, a.Weight), len(b.Phrase)-len(a.Phrase), strings.Compare(a.Phrase, b.Phrase))
	})
	out := leading(list, most)
	for i, t := range out {
		best := ""
		for form, n := range forms[t.Phrase] {
			if at := forms[t.Phrase][best]; n > at || n == at && form < best {
				best = form
			}
		}
		out[i].Phrase = best
	}
	return out
}

// stemmer joins the stems of words: a word is stemmed once.
func stemmer(lang string) func(words []string) string {
	known := map[string]string{}
	var room []string
	return func(words []string) string {
		room = room[:0]
		for _, w := range words {
			s, is := known[w]
			if !is {
				s = phrase.Stem(w, lang)
				known[w] = s
			}
			room = append(room, s)
		}
		return strings.Join(room, " ")
	}
}

// leading are the first of some terms that are not parts of others.
func leading(list []*Term, most int) (out []Term) {
	candidates := list[:min(len(list), 20*most)]
	times, part := map[string]int{}, map[string]bool{}
	for _, t := range candidates {
		times[t.Phrase] = t.Times
	}
	for _, long := range candidates {
		words := strings.Fields(long.Phrase)
		for from := range words {
			for to := from + 1; to <= len(words); to++ {
				short := strings.Join(words[from:to], " ")
				n, there := times[short]
				if there && short != long.Phrase && float64(long.Times) >= within*float64(n) {
					part[short] = true
				}
			}
		}
	}
	for _, t := range candidates {
		if !part[t.Phrase] && len(out) < most {
			out = append(out, *t)
		}
	}
	return out
}

// furniture are words that stand on most sites and say nothing of a subject (ours).
var furniture = map[string]bool{"here": true, "about": true, "read": true, "more": true, "click": true, "page": true,
	"home": true, "menu": true, "example": true, "contact": true, "further": true}

// count counts the phrases of a part of a page: none goes over the end of a sentence.
func count(text, lang string, each func(words []string)) {
	light := func(w string) bool { return phrase.IsFunctionWord(w, lang) || phrase.IsLight(w, lang) || furniture[w] }
	left := mostWords
	ends := func(r rune) bool { return strings.ContainsRune(".!?;:|()[]“”\"", r) }
	for _, sentence := range strings.FieldsFunc(text, ends) {
		words := strings.Fields(phrase.Normal(sentence))
		words = words[:min(len(words), left)]
		left -= len(words)
		for from := range words {
			if light(words[from]) {
				continue
			}
			for to := from + 1; to <= min(from+longest, len(words)); to++ {
				if !light(words[to-1]) {
					each(words[from:to])
				}
			}
		}
	}
}

// Weigh turns how often terms stand in documents into their weights there: times the logarithm of how rare they are
// among the documents, ln((1+n)/(1+df))+1, each document's scaled to length 1.
func Weigh(docs []map[string]float64) []map[string]float64 {
	in := map[string]float64{}
	for _, d := range docs {
		for term := range d {
			in[term]++
		}
	}
	out := make([]map[string]float64, len(docs))
	for i, d := range docs {
		out[i] = make(map[string]float64, len(d))
		var square float64
		for term, times := range d {
			w := times * (math.Log((1+float64(len(docs)))/(1+in[term])) + 1)
			out[i][term] = w
			square += w * w
		}
		for term := range out[i] {
			out[i][term] /= math.Sqrt(square)
		}
	}
	return out
}

// Meant reports whether what a page is meant for is what it seems to be about: half of the words of the meaning, at
// least, stand in its leading phrases.
func Meant(meaning string, terms []Term, lang string) bool {
	stems := phrase.ContentStems(phrase.Normal(meaning), lang)
	if len(stems) == 0 {
		return true
	}
	there := map[string]bool{}
	for _, t := range terms {
		for _, s := range phrase.ContentStems(t.Phrase, lang) {
			there[s] = true
		}
	}
	found := 0
	for _, s := range stems {
		if there[s] {
			found++
		}
	}
	return 2*found >= len(stems)
}
