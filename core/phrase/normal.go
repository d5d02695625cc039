// Package phrase says what one search phrase is: its normal form, its words,
// its stems, the key under which suspected variants meet, and its shape.
//
// Normal form is NFKC in small letters (Unicode UAX #15, and section 3.13 of the Unicode
// Standard), words follow UAX #29, stems are Snowball's.
package phrase

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"
)

// MaxRunes is the longest phrase accepted, in Unicode code points after
// normalising. Ours: the longest queries seen in published logs are far below.
const MaxRunes = 160

// ErrEmpty is returned by Parse for text without a single letter or digit.
var ErrEmpty = errors.New("there is no word in it")

// ErrEncoding is returned by Parse for bytes that are not UTF-8.
var ErrEncoding = errors.New("it is not valid UTF-8 text")

// LengthError is returned by Parse for a phrase longer than MaxRunes.
type LengthError struct{ Runes int }

func (e *LengthError) Error() string {
	return fmt.Sprintf("it is %d characters long; a phrase has at most %d", e.Runes, MaxRunes)
}

// Parse returns the normal form of raw, or ErrEmpty, ErrEncoding or a
// *LengthError. Two texts with one normal form are the same idea.
func Parse(raw string) (string, error) {
	if !utf8.ValidString(raw) {
		return "", ErrEncoding
	}
	// A bound before normalising, so that a hostile megabyte costs nothing:
	// one code point grows to at most 18 under NFKC, and never to nothing but
	// ignorable ones and punctuation, of which an honest phrase has few.
	if n := utf8.RuneCountInString(raw); n > 16*MaxRunes {
		return "", &LengthError{n}
	}
	s := Normal(raw)
	if s == "" {
		return "", ErrEmpty
	}
	if n := utf8.RuneCountInString(s); n > MaxRunes {
		return "", &LengthError{n}
	}
	return s, nil
}

// Normal returns the normal form of s: NFKC, in small letters, default-ignorable
// code points removed, white space collapsed, punctuation and symbols removed
// but for ' - & + . / inside a phrase. It is idempotent.
func Normal(s string) string {
	if plain, ok := normalASCII(s); ok {
		return plain
	}
	s = norm.NFKC.String(strings.ToValidUTF8(s, " "))
	return tidy(norm.NFKC.String(cases.Lower(language.Und).String(s)))
}

// Folded is a word as words are compared: with full case folding (section 3.13 of the Unicode Standard), by which
// “größtes” and “grösstes” are one. People read the normal form, which is in small letters.
func Folded(word string) string {
	for i := 0; i < len(word); i++ {
		if word[i] >= utf8.RuneSelf {
			return cases.Fold().String(word)
		}
	}
	return word
}

// normalASCII is the common case: nothing to fold beyond A to Z.
func normalASCII(s string) (string, bool) {
	for i := 0; i < len(s); i++ {
		if s[i] >= utf8.RuneSelf {
			return "", false
		}
	}
	return tidy(strings.ToLower(s)), true
}

// tidy drops what is not text and trims each token and the whole phrase.
func tidy(s string) string {
	var b strings.Builder
	b.Grow(len(s))
	for _, r := range s {
		switch {
		case ignorable(r):
		case r == '’' || r == '‘' || r == 'ʼ' || r == '`' || r == '´':
			b.WriteByte('\'')
		case r == '‐' || r == '‑' || r == '–' || r == '—' || r == '−':
			b.WriteByte('-')
		case inner(r) || unicode.IsLetter(r) || unicode.IsMark(r) || unicode.IsNumber(r):
			b.WriteRune(r)
		default:
			b.WriteByte(' ')
		}
	}
	tokens := strings.Fields(b.String())
	kept := tokens[:0]
	for _, t := range tokens {
		t = strings.TrimLeft(t, "'-./")
		t = strings.TrimRight(t, "'-./")
		if t != "" {
			kept = append(kept, t)
		}
	}
	out := strings.Trim(strings.Join(kept, " "), " &+'-./")
	if !strings.ContainsFunc(out, wordRune) {
		return ""
	}
	// "c++" keeps its plusses: the outermost trim is for lone signs only.
	if n := len(kept); n > 0 && strings.HasSuffix(kept[n-1], "+") && strings.ContainsFunc(kept[n-1], wordRune) {
		out += kept[n-1][len(strings.TrimRight(kept[n-1], "+")):]
	}
	return out
}

func inner(r rune) bool { return strings.ContainsRune("'-&+./", r) }

func wordRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsNumber(r) }

// ignorable holds for the default-ignorable code points met in pasted text:
// soft hyphen, joiners, direction marks, variation selectors, byte order mark.
func ignorable(r rune) bool {
	switch {
	case r == 0x00AD, r == 0x034F, r == 0x061C, r == 0xFEFF,
		r >= 0x200B && r <= 0x200F, r >= 0x202A && r <= 0x202E,
		r >= 0x2060 && r <= 0x206F, r >= 0xFE00 && r <= 0xFE0F,
		r >= 0xE0000 && r <= 0xE0FFF:
		return true
	}
	return false
}
