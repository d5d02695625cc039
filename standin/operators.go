package standin

import (
	"hash/fnv"
	"slices"
	"strings"
	"time"
)

// parsed is a search text taken apart. Four operators narrow a search:
//
//	"these words"   in the text or title, one after the other
//	intitle:word    in the title; also intitle:"these words"
//	site:host       on that site, or on a site under it
//	-word           not in the text; also -"these words"
type parsed struct {
	words   []string // as typed, without operators: what the text is about
	terms   []string // stems to look for
	phrases [][]string
	titled  [][]string
	without [][]string
	site    string
}

func (a parsed) narrow() bool {
	return a.site != "" || len(a.phrases)+len(a.titled)+len(a.without) > 0
}

// parseQuery takes a search text apart. A quote that is never closed runs to the
// end.
func parseQuery(text string) parsed {
	var a parsed
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		minus := len(text) > 1 && text[0] == '-'
		if minus {
			text = text[1:]
		}
		operator := ""
		for _, name := range []string{"intitle:", "site:"} {
			if len(text) >= len(name) && strings.EqualFold(text[:len(name)], name) {
				operator, text = name, text[len(name):]
			}
		}
		var piece string
		quoted := strings.HasPrefix(text, `"`)
		if quoted {
			piece, text, _ = strings.Cut(text[1:], `"`)
		} else {
			piece, text, _ = strings.Cut(text, " ")
		}
		a.take(operator, piece, minus, quoted)
	}
	a.terms = contentTerms(a.words)
	return a
}

func (a *parsed) take(operator, piece string, minus, quoted bool) {
	toks := tokens(piece)
	switch {
	case operator == "site:":
		a.site = strings.ToLower(strings.Trim(piece, "./"))
	case len(toks) == 0:
	case minus:
		a.without = append(a.without, toks)
	default:
		if operator != "" {
			a.titled = append(a.titled, toks)
		} else if quoted {
			a.phrases = append(a.phrases, toks)
		}
		a.words = append(a.words, toks...)
	}
}

// narrowed lists the pages that satisfy the operators, with their relevance.
func (w *World) narrowed(a parsed, at time.Time) []hit {
	var hits []hit
	scores := w.index.relevance(a.terms)
	passes := func(p *page) bool {
		return p.standsAt(at) && !p.indexed.After(at) && w.index.holds(p) && a.passes(w.index, p)
	}
	if len(a.terms) == 0 { // nothing but a site, or but words not wanted
		for _, p := range w.pages {
			if passes(p) {
				hits = append(hits, hit{p, 0.5})
			}
		}
		return hits
	}
	for _, s := range scores {
		if p := w.pages[s.page]; passes(p) {
			hits = append(hits, hit{p, s.score})
		}
	}
	return hits
}

func (a parsed) passes(ix *index, p *page) bool {
	if a.site != "" && p.site.domain != a.site && !strings.HasSuffix(p.site.domain, "."+a.site) {
		return false
	}
	for _, words := range a.titled {
		if !strings.Contains(p.titleWords, " "+strings.Join(words, " ")+" ") {
			return false
		}
	}
	for _, words := range a.phrases {
		if !ix.says(p, words) {
			return false
		}
	}
	for _, words := range a.without {
		if ix.says(p, words) {
			return false
		}
	}
	return true
}

// says reports whether the page's text or title holds the words in a row.
func (ix *index) says(p *page, words []string) bool {
	if strings.Contains(p.titleWords, " "+strings.Join(words, " ")+" ") {
		return true
	}
	want := make([]uint32, len(words))
	for i, word := range words {
		want[i] = wordNumber(word)
	}
	text := ix.texts[p.id]
	for i := 0; i+len(want) <= len(text); i++ {
		at := slices.Index(text[i:], want[0])
		if at < 0 || i+at+len(want) > len(text) {
			return false
		}
		i += at
		if slices.Equal(text[i:i+len(want)], want) {
			return true
		}
	}
	return false
}

// wordNumber stands for a word in the texts that are kept.
func wordNumber(word string) uint32 {
	h := fnv.New32a()
	h.Write([]byte(word))
	return h.Sum32()
}
