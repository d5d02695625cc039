package phrase

import (
	"errors"
	"slices"
	"strings"
)

// Gap stands in a pattern for one word or more.
const Gap = "*"

// ErrNoWord is returned for a pattern of nothing but gaps.
var ErrNoWord = errors.New("a pattern needs at least one word beside its gaps")

// Pattern is a phrase with gaps, such as "can you see * with binoculars": each gap
// stands for one word or more.
type Pattern struct {
	parts [][]string // words between the gaps; an empty first or last part is a gap at that end
	stems []string   // content stems of all parts
	lang  string
}

// ParsePattern reads a pattern in a language. Gaps beside one another are one.
func ParsePattern(raw, lang string) (Pattern, error) {
	p := Pattern{lang: lang}
	for i, part := range strings.Split(raw, Gap) {
		words := strings.Fields(Normal(part))
		last := len(p.parts) - 1
		if i > 1 && len(words) == 0 && len(p.parts[last]) == 0 {
			continue
		}
		if i > 1 && last >= 1 && len(p.parts[last]) == 0 {
			p.parts[last] = words
			continue
		}
		p.parts = append(p.parts, words)
	}
	var all []string
	for _, words := range p.parts {
		all = append(all, words...)
	}
	if len(all) == 0 {
		return p, ErrNoWord
	}
	p.stems = ContentStems(strings.Join(all, " "), lang)
	return p, nil
}

// String writes the pattern in normal form.
func (p Pattern) String() string {
	parts := make([]string, len(p.parts))
	for i, words := range p.parts {
		parts[i] = strings.Join(words, " ")
	}
	return strings.TrimSpace(strings.Join(parts, " "+Gap+" "))
}

// Exact reports whether a phrase in normal form fits the pattern: its words in this
// order, nothing but what the gaps stand for between, before and after them.
func (p Pattern) Exact(normal string) bool { return Fits(strings.Fields(normal), p.parts) }

// Parts are the words between the gaps; an empty first or last part is a gap at that end.
func (p Pattern) Parts() [][]string { return p.parts }

// Fits reports whether words fit the parts of a pattern, as Exact says; words may be told by numbers.
func Fits[T comparable](words []T, parts [][]T) bool {
	first := parts[0]
	if len(words) < len(first) || !slices.Equal(words[:len(first)], first) {
		return false
	}
	words = words[len(first):]
	if len(parts) == 1 {
		return len(words) == 0
	}
	last := parts[len(parts)-1]
	for _, part := range parts[1 : len(parts)-1] {
		at := 1 // the gap before it takes one word at least
		for ; at+len(part) <= len(words) && !slices.Equal(words[at:at+len(part)], part); at++ {
		}
		if at+len(part) > len(words) {
			return false
		}
		words = words[at+len(part):] // the first place is the best: it leaves most
	}
	return len(words) > len(last) && slices.Equal(words[len(words)-len(last):], last)
}

// Near reports whether a phrase in normal form holds all the pattern's stems, in any
// order and form. What is exact is near too, unless the pattern has function words
// only.
func (p Pattern) Near(normal string) bool {
	if len(p.stems) == 0 {
		return p.Exact(normal)
	}
	have := Stems(normal, p.lang)
	for _, s := range p.stems {
		if !slices.Contains(have, s) {
			return false
		}
	}
	return true
}
