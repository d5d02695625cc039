package store

import (
	"errors"
	"fmt"
	"reflect"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// A column's holds tag says what it may hold: "LEAST..MOST" a number, "tN" a text of at most so many characters. What
// comes in by a niche's file is checked by it; what comes by forms is, by the rules that say why.

// held returns why a row holds what it cannot, or nil.
func held(row any) error {
	v := reflect.ValueOf(row).Elem()
	for i := range v.NumField() {
		tag := v.Type().Field(i).Tag.Get("holds")
		if tag == "" {
			continue
		}
		f := v.Field(i)
		if f.Kind() == reflect.Pointer {
			if f.IsNil() {
				continue
			}
			f = f.Elem()
		}
		if err := holds(f, tag); err != nil {
			return fmt.Errorf("%s %w", ColumnOf(v.Type().Field(i)), err)
		}
	}
	return nil
}

func holds(f reflect.Value, tag string) error {
	if most, ok := strings.CutPrefix(tag, "t"); ok {
		n, _ := strconv.Atoi(most)
		text := f.String()
		switch {
		case utf8.RuneCountInString(text) > n:
			return fmt.Errorf("has more than %d characters", n)
		case !utf8.ValidString(text):
			return errors.New("is no text in UTF-8")
		case strings.ContainsFunc(text, func(r rune) bool {
			return unicode.IsControl(r) && !strings.ContainsRune("\n\t\x1f", r)
		}):
			return errors.New("has control characters")
		}
		return nil
	}
	least, most := rangeOf(tag)
	var x float64
	switch {
	case f.CanInt():
		x = float64(f.Int())
	case f.CanUint():
		x = float64(f.Uint())
	default:
		x = f.Float()
	}
	if !(x >= least && x <= most) {
		return fmt.Errorf("is %v, which is not between %v and %v", x, least, most)
	}
	return nil
}

func rangeOf(tag string) (least, most float64) {
	low, high, _ := strings.Cut(tag, "..")
	least, _ = strconv.ParseFloat(low, 64)
	most, _ = strconv.ParseFloat(high, 64)
	return least, most
}
