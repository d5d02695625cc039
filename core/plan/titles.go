package plan

import (
	"slices"
	"strings"
	"unicode"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"
)

// heart is what the results of a lead are about, whichever way somebody asks: the stems of the lead that nearly all of
// them say in title or address.
type heart struct {
	stems []string
	any   bool // the lead compares: one of them is enough
}

// heartOf finds it; where no title says a word of the lead, there is none.
func heartOf(s Subject) heart {
	lead := telling(s.Lead, s.Lang)
	count, most := map[string]int{}, 0
	for _, e := range s.Reading.Ten() {
		said := phrase.Stems(phrase.Normal(e.Title+" "+strings.NewReplacer("-", " ", "/", " ").Replace(e.URL)), s.Lang)
		for _, stem := range lead {
			if slices.Contains(said, stem) {
				count[stem]++
				most = max(most, count[stem])
			}
		}
	}
	h := heart{any: phrase.Has(phrase.Shapes(s.Lead, s.Lang), phrase.Comparison)}
	for _, stem := range lead {
		if count[stem] > 0 && count[stem] >= most-1 {
			h.stems = append(h.stems, stem)
		}
	}
	return h
}

// holds reports whether a phrase is about it.
func (h heart) holds(q, lang string) bool {
	said := phrase.Stems(q, lang)
	n := 0
	for _, stem := range h.stems {
		if slices.Contains(said, stem) {
			n++
		}
	}
	return n == len(h.stems) || h.any && n > 0
}

// shortened is a phrase with what the lead names already as “it” or “one”: “can you see saturn in the city”
// behind “how to find saturn” is “can you see it in the city”. ok is false where that cannot be told.
func (h heart) shortened(words []string, lang string) (out []string, ok bool) {
	at := -1
	for i, w := range words {
		if slices.Contains(h.stems, phrase.Stem(w, lang)) {
			if at >= 0 || len(h.stems) > 1 {
				return nil, false
			}
			at = i
		}
	}
	switch {
	case at < 0:
		return words, true
	case lang != "en", strings.HasSuffix(words[at], "s"), // one, or several?
		at+1 < len(words) && !phrase.IsFunctionWord(words[at+1], lang): // “a saturn filter”
		return nil, false
	}
	before, it := at, "it"
	if at > 0 {
		switch words[at-1] {
		case "a", "an":
			before, it = at-1, "one"
		case "the", "my", "your", "this":
			before = at - 1
		default:
			if !phrase.IsFunctionWord(words[at-1], lang) && !phrase.IsLight(words[at-1], lang) && at > 1 {
				return nil, false // “raw milk”
			}
		}
	}
	return slices.Concat(words[:before], []string{it}, words[at+1:]), true
}

// spelling finds how the pages write the words of a brief that they mostly begin with a capital letter, such as names,
// or write in capital letters throughout. What begins a sentence tells nothing, nor what stands in a heading where most
// words do: small words stand on both sides of what tells something.
func spelling(s Subject) map[string]string {
	wanted := map[string]map[string]int{}
	for _, p := range slices.Concat([]string{s.Lead}, s.Support, s.Related) {
		for _, w := range phrase.Words(phrase.Normal(p)) {
			if !phrase.IsFunctionWord(w, s.Lang) {
				wanted[w] = map[string]int{}
			}
		}
	}
	for _, page := range s.Pages {
		fields := strings.Fields(page.Text)
		for i := 1; i+1 < len(fields); i++ {
			if !small(fields[i-1]) || !small(fields[i+1]) {
				continue
			}
			w := strings.TrimFunc(fields[i], func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
			if forms := wanted[strings.ToLower(w)]; forms != nil {
				forms[w]++
			}
		}
	}
	out := map[string]string{}
	for w, forms := range wanted {
		all, best := 0, w
		for form, n := range forms {
			if all += n; n > forms[best] || n == forms[best] && form < best {
				best = form
			}
		}
		if best != w && 3*forms[best] >= 2*all && all >= fewestSpelt {
			out[w] = best
		}
	}
	for _, w := range initialisms {
		out[w] = strings.ToUpper(w)
	}
	if s.Lang == "en" {
		out["i"] = "I"
	}
	return out
}

// small holds for a word that begins with a small letter and ends no sentence.
func small(word string) bool {
	for _, r := range word {
		return unicode.IsLower(r) && !strings.ContainsAny(word, ".!?:")
	}
	return false
}

// fewestSpelt is how often pages have to write a word before one spells it as they do (ours).
const fewestSpelt = 3

// initialisms are written in capital letters everywhere (common practice, no source).
var initialisms = []string{"diy", "pdf", "faq", "usb", "led", "tv", "uk", "usa"}

// Sentence is a phrase as it begins a sentence, with names as the pages write them.
func (b Brief) Sentence(normal string) string { return capital(b.Spelt(normal)) }

// Spelt is a phrase within a sentence, with names as the pages write them.
func (b Brief) Spelt(normal string) string {
	words := strings.Split(normal, " ")
	for i, w := range words {
		if form, some := b.spelt[strings.TrimSuffix(w, "?")]; some {
			words[i] = form + strings.TrimPrefix(w, strings.TrimSuffix(w, "?"))
		}
	}
	return strings.Join(words, " ")
}

// titled sets a phrase as one types it into a site: in English every word but the small ones begins with a capital
// letter (common practice, no source), elsewhere the first.
func (b Brief) titled(normal, lang string) string {
	normal = b.Spelt(normal)
	if lang == "en" {
		words := strings.Split(normal, " ")
		for i, w := range words {
			little := phrase.IsFunctionWord(w, lang) && len(w) <= 3 && !short[w] || smallAll[w]
			if i == 0 || !little {
				words[i] = capital(w)
			}
		}
		return strings.Join(words, " ")
	}
	return capital(normal)
}

// smallAll are longer words that stay small in a title.
var smallAll = map[string]bool{"vs": true, "with": true, "from": true, "into": true, "than": true}

// short are small words that begin with a capital letter in a title all the same.
var short = map[string]bool{"i": true, "is": true, "are": true, "be": true, "do": true, "did": true, "can": true,
	"was": true, "my": true, "you": true, "it": true, "its": true, "how": true, "who": true, "why": true, "our": true,
	"his": true, "her": true, "one": true}

// capital begins with a capital letter.
func capital(s string) string {
	for _, r := range s {
		return strings.ToUpper(string(r)) + strings.TrimPrefix(s, string(r))
	}
	return s
}

// tail is what a title may say of an article's kind (common practice, no source).
func tail(kind serp.PageType, shapes []phrase.Shape) string {
	switch {
	case phrase.Has(shapes, phrase.Comparison):
		return "which one suits you"
	case kind == serp.HowTo:
		return "step by step"
	case kind == serp.Comparison && !phrase.Has(shapes, phrase.Question):
		return "our picks"
	case kind == serp.Article, kind == serp.Comparison:
		return "what to know first"
	}
	return ""
}

// titles are proposals that hold the lead phrase: alone, and with what other searchers add or ask, in
// their words. What is added is a piece of what they type, from the first word that the lead has not to the
// last, with what leads to it: words picked out make no sense. What the lead names is not named twice.
func titles(s Subject, b Brief) []string {
	shapes := phrase.Shapes(s.Lead, s.Lang)
	lead, between := b.titled(s.Lead, s.Lang), ": "
	if before, after, inside := strings.Cut(s.Lead, " how to "); inside && s.Lang == "en" {
		lead = b.titled(before, s.Lang) + ": How to " + b.titled(after, s.Lang)
		if !strings.Contains(after, " ") {
			lead += " It"
		}
		between = " – "
	}
	out := []string{lead}
	if phrase.Has(shapes, phrase.Question) && !strings.HasPrefix(s.Lead, "how to ") {
		out[0] += "?"
		between = "? "
	}
	add := func(words []string, mark string) {
		t := lead + between + b.titled(strings.Join(words, " "), s.Lang) + mark
		if len(words) > 0 && len(out) < mostTitles && len([]rune(t)) <= longestTitle && !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	own, about := phrase.Stems(s.Lead, s.Lang), heartOf(s)
	for _, other := range s.Support { // what another wording adds
		if has := phrase.Shapes(other, s.Lang); phrase.Has(has, phrase.Question) || phrase.Has(has, phrase.Buying) {
			continue // a question is asked as a whole below; “for sale” adds nothing to a title
		}
		if words, ok := about.shortened(added(other, s, own), s.Lang); ok && len(words) > 1 {
			add(words, "") // a single word is no title
		}
	}
	for _, q := range b.Questions {
		words, ok := about.shortened(phrase.Words(q.Text), s.Lang)
		twice := slices.ContainsFunc(telling(strings.Join(words, " "), s.Lang), func(stem string) bool {
			return slices.Contains(own, stem)
		})
		if ok && !twice && !phrase.Has(phrase.Shapes(q.Text, s.Lang), phrase.HowTo) {
			add(words, "?")
		}
	}
	if rest := tail(b.Kind, shapes); rest != "" {
		add(strings.Split(rest, " "), "")
	}
	return out
}

// added is what a wording adds to a lead, from the first word of its own to the last; nothing where that says nothing
// of the subject.
func added(other string, s Subject, own []string) []string {
	words := phrase.Words(other)
	first, last := -1, -1
	says := false
	for i, w := range words {
		form := func(o string) bool { return strings.HasPrefix(w, o) || strings.HasPrefix(o, w) } // lens, lenses
		stem := phrase.Stem(w, s.Lang)
		if !slices.Contains(own, stem) && !Praises(w, s.Lang) && !phrase.IsFunctionWord(w, s.Lang) &&
			!slices.ContainsFunc(phrase.Words(s.Lead), form) {
			if first < 0 {
				first = i
			}
			last, says = i, says || !phrase.Asks(stem, s.Lang) && !compares[w]
		}
	}
	if !says || phrase.IsLight(words[last], s.Lang) || compares[words[last]] {
		return nil
	}
	for first > 0 && phrase.IsFunctionWord(words[first-1], s.Lang) {
		first-- // “with a fibre cloth”
	}
	return words[first : last+1]
}

// compares are words that only say that one compares.
var compares = map[string]bool{"difference": true, "differences": true, "between": true}

// Praises holds for words such as best and top, which say nothing of the subject.
func Praises(word, lang string) bool {
	return phrase.Has(phrase.Shapes(word, lang), phrase.List) || word == "good"
}
