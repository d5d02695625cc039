package phrase

import (
	"regexp"
	"slices"
	"strings"
	"unicode"
)

// Shape is a form that a phrase has; several may hold at once.
type Shape string

// The shapes that are told from the words alone.
const (
	Question    Shape = "question"
	Comparison  Shape = "comparison"
	List        Shape = "list"
	Verdict     Shape = "verdict"
	HowTo       Shape = "how-to"
	Local       Shape = "local"
	Place       Shape = "place" // it says where: see PlaceIn
	Price       Shape = "price"
	Preposition Shape = "preposition"
	Buying      Shape = "buying"
	Site        Shape = "site"
	Model       Shape = "model number"
	Brand       Shape = "brand" // of the words that the niche calls brands; see HoldsBrand
)

// AllShapes lists the shapes in the order in which they are told.
var AllShapes = []Shape{HowTo, Question, Comparison, List, Verdict, Local, Place, Price, Buying, Site, Preposition,
	Model, Brand}

// named is a set of names of several words, with commas between them.
func named(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Split(s, ",") {
		m[strings.Join(strings.Fields(w), " ")] = true
	}
	return m
}

// firstWords are those with which names begin.
func firstWords(sets ...map[string]bool) map[string]bool {
	m := map[string]bool{}
	for _, names := range sets {
		for name := range names {
			first, _, _ := strings.Cut(name, " ")
			m[first] = true
		}
	}
	return m
}

func set(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// IsFunctionWord holds for the closed-class words of the language: articles,
// prepositions, pronouns, auxiliaries. Negations are not among them.
func IsFunctionWord(w, lang string) bool { return lexicons[lang].function[w] }

// IsLight holds for words that say hardly anything by themselves, such as get and much (ours).
func IsLight(w, lang string) bool { return lexicons[lang].light[w] }

// Ahead is what a phrase says ahead of its first preposition: all of it when it has none, nothing when it
// begins with one.
func Ahead(normal, lang string) string {
	words := Words(normal)
	for i, w := range words {
		if lexicons[lang].prepositions[w] {
			return strings.Join(words[:i], " ")
		}
	}
	return normal
}

// A price is named by a bound, or by what somebody has to spend at the end ("a decent one around 150").
var priceRE = regexp.MustCompile(`\b(under|below|less than|over|cheaper than)\s+\$?\d+|` +
	`\b(around|about|up to|for)\s+\$?\d{2,5}(\s+(dollars|bucks|usd|euros?|pounds))?$`)

// Shapes returns the shapes of a phrase in normal form, in a fixed order. brands are
// the niche's brand words, in normal form; they may be none.
func Shapes(s, lang string, brands ...string) []Shape {
	lex, ok := lexicons[lang]
	if !ok {
		return nil
	}
	words := strings.Fields(s)
	if len(words) == 0 {
		return nil
	}
	padded := " " + s + " "
	if lex.blind != nil {
		padded = lex.blind.Replace(padded)
		words = strings.Fields(padded)
	}
	if len(words) == 0 {
		return nil
	}
	holds := func(shape Shape) bool {
		for _, p := range lex.phrases[shape] {
			if strings.Contains(padded, p) {
				return true
			}
		}
		return false
	}
	any := func(m map[string]bool) bool {
		for _, w := range words {
			if m[w] {
				return true
			}
		}
		return false
	}
	var out []Shape
	add := func(shape Shape, when bool) {
		if when {
			out = append(out, shape)
		}
	}
	add(HowTo, holds(HowTo))
	add(Question, lex.questions[words[0]])
	add(Comparison, holds(Comparison) || lex.comparative != nil && lex.comparative.MatchString(s))
	add(List, lex.lists[words[0]] || lex.lists["best"] && strings.Contains(padded, " best ") ||
		words[0] == lex.most && len(words) > 1 || slices.ContainsFunc(words, lex.superlative))
	add(Verdict, any(lex.verdicts) || holds(Verdict))
	add(Local, any(lex.locals) || holds(Local))
	add(Place, PlaceIn(s, lang) != "")
	add(Price, priceRE.MatchString(s))
	add(Buying, any(lex.buying) || lex.lastBuying[words[len(words)-1]] || holds(Buying) || amountRE.MatchString(s) &&
		!lex.questions[words[0]])
	add(Site, any(lex.sites) || lex.last[words[len(words)-1]] || holds(Site))
	add(Preposition, len(words) > 2 && any(lex.prepositions))
	add(Model, slices.ContainsFunc(words, isModel))
	add(Brand, HoldsBrand(s, brands) != "")
	return out
}

// PlaceIn is what a phrase in normal form says of where it is wanted: “in chicago”, “near me”, or a
// place's name; "" where it says nothing of it.
func PlaceIn(s, lang string) string {
	lex := lexicons[lang]
	padded := " " + s + " "
	for _, p := range lex.phrases[Local] {
		if strings.Contains(padded, p) {
			return strings.TrimSpace(p)
		}
	}
	words := strings.Fields(s)
	for _, w := range words {
		if lex.locals[w] {
			return w
		}
	}
	return lex.placeIn(words)
}

// mostPlace is of how many words a place's name is at most.
const mostPlace = 3

// placeIn is the first place that words name, with the word before it that says so.
func (lex lexicon) placeIn(words []string) string {
	for i := range words {
		if !lex.firsts[words[i]] {
			continue
		}
		for n := min(mostPlace, len(words)-i); n > 0; n-- {
			name := strings.Join(words[i:i+n], " ")
			near := i > 0 && lex.nearIn[words[i-1]]
			switch {
			case near && (lex.places[name] || lex.doubtful[name]):
				return words[i-1] + " " + name
			case lex.places[name] && !lex.doubtful[name]:
				return name
			}
		}
	}
	return ""
}

// isModel holds for a word that mixes letters and digits as makers' numbers do: "ax15",
// "10x50" and "80ed", but no ordinal, decade, quantity with a unit or plain number
// ("1st", "90s", "50mm", "2024").
func isModel(w string) bool {
	digits, letters := 0, 0
	for _, r := range w {
		switch {
		case unicode.IsDigit(r):
			digits++
		case unicode.IsLetter(r):
			letters++
		}
	}
	return digits > 0 && letters > 0 && !quantityRE.MatchString(w)
}

// amountRE holds for a phrase that ends in how much of something is wanted: "cheese wax 5 lb".
var amountRE = regexp.MustCompile(`[a-z] \d+ ?(lbs?|oz|kg|pack|pk|pcs|count|ct|gallons?|quarts?)$`)

var quantityRE = regexp.MustCompile(`^\d+([.,]\d+)?(st|nd|rd|th|s|mm|cm|m|km|in|ft|g|kg|lb|lbs|oz|ml|l|w|v|mah|gb|tb|` +
	`k|x|d|am|pm|hr|hrs|h|min|yr|yrs|year|inch)$`)

// HoldsBrand returns the first of the brand words, in normal form, that a phrase in
// normal form holds whole; "" when there is none.
func HoldsBrand(s string, brands []string) string {
	padded := " " + s + " "
	for _, b := range brands {
		if b != "" && strings.Contains(padded, " "+b+" ") {
			return b
		}
	}
	return ""
}

// Has reports whether shape is among shapes.
func Has(shapes []Shape, shape Shape) bool {
	for _, s := range shapes {
		if s == shape {
			return true
		}
	}
	return false
}
