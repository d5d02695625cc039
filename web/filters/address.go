package filters

import (
	"errors"
	"net/url"
	"slices"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// Pairs reads an address query or a form, in order. What cannot be read is left out.
func Pairs(text string) (out []sieve.Pair) {
	for _, one := range strings.Split(text, "&") {
		key, value, _ := strings.Cut(one, "=")
		key, err1 := url.QueryUnescape(key)
		value, err2 := url.QueryUnescape(value)
		if key != "" && err1 == nil && err2 == nil {
			out = append(out, sieve.Pair{Key: key, Value: value})
		}
	}
	return out
}

// Query writes what of a sieve differs from a base.
func Query(s, base sieve.Sieve) string {
	s.Filters = slices.DeleteFunc(slices.Clone(s.Filters), func(m sieve.Filter) bool { return m.By == nil })
	var out []string
	for _, p := range s.Pairs(base) {
		out = append(out, url.QueryEscape(p.Key)+"="+url.QueryEscape(p.Value))
	}
	return strings.Join(out, "&")
}

// Of reads the sieve that a request carries, which names its stage, too.
func Of(r *frame.Request, stage, text string) (sieve.Sieve, frame.Stage, error) {
	at, err := r.Stage(stage)
	if err != nil {
		if at, err = r.Stage("sift"); err != nil {
			return sieve.Sieve{}, at, err
		}
	}
	asked, _, err := lengthen(r, Pairs(text))
	by, _ := sieve.Read(asked, at.First)
	return by, at, err
}

// A sieve that is too long for an address is kept with the data file, and its address names it.
const (
	mostQuery = 1500
	keyLong   = "long"
)

// short is how the filters of one sieve are written in addresses: as they are, or by a key.
type short struct{ filters, key string }

func shorten(r *frame.Request, by, base sieve.Sieve) (s short, err error) {
	by.Sort, by.Down, by.Then, by.Up = base.Sort, base.Down, base.Then, base.Up
	if s.filters = Query(by, base); len(s.filters) > mostQuery {
		s.key, err = r.Study.Sieves.Shorten(r.Context(), s.filters)
	}
	return s, err
}

// of is an address query with the filters in short.
func (s short) of(query string) string {
	rest, ok := strings.CutPrefix(query, s.filters)
	if s.key == "" || !ok {
		return query
	}
	return keyLong + "=" + s.key + rest
}

// lengthen puts the filters in the place of their key. problem says that there are none.
func lengthen(r *frame.Request, asked []sieve.Pair) (out []sieve.Pair, problem string, err error) {
	for _, p := range asked {
		if p.Key != keyLong {
			out = append(out, p)
			continue
		}
		text, err := r.Study.Sieves.Lengthen(r.Context(), p.Value)
		switch {
		case errors.Is(err, input.ErrNotFound):
			problem = "The link has a sieve that this data file no longer has. It was ignored."
		case err != nil:
			return nil, "", err
		}
		out = append(out, Pairs(text)...)
	}
	return out, problem, nil
}
