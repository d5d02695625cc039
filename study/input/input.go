package input

import (
	"errors"
	"fmt"
	"strings"

	"cleverniche/store"
)

// Clip cuts a text to so many characters, with an ellipsis where something is missing.
func Clip(s string, n int) string {
	r := []rune(strings.ToValidUTF8(s, "\ufffd"))
	if len(r) > n {
		return string(r[:n]) + "…"
	}
	return string(r)
}

// IdeasWord is "idea" or "ideas".
func IdeasWord(n int) string {
	if n == 1 {
		return "idea"
	}
	return "ideas"
}

// Error is something the user gave that cannot be used. Field names it.
type Error struct{ Field, Reason string }

func (e *Error) Error() string { return e.Reason }

// Bad says what is wrong with what was given for a field.
func Bad(field, format string, args ...any) error {
	return &Error{field, fmt.Sprintf(format, args...)}
}

// ErrNotFound is returned for a niche, idea or job that is not there.
var ErrNotFound = store.ErrNotFound

// Trouble is something that is wrong with the data file, and what to do about it.
type Trouble = store.Trouble

// TroubleOf returns what an error says of the data file; nil when it is none of its.
func TroubleOf(err error) *Trouble {
	var t *Trouble
	if errors.As(store.TroubleIn(err), &t) {
		return t
	}
	return nil
}

// Sentence writes a text as a sentence.
func Sentence(text string) string {
	for i, r := range text {
		return strings.ToUpper(string(r)) + strings.TrimSuffix(text[i+len(string(r)):], ".") + "."
	}
	return text
}
