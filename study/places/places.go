package places

import (
	"slices"
	"strings"
	"sync"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// Names are countries or languages by their English names, in order, with their codes.
type Names struct {
	list []string
	code map[string]string // by name in lower case, and by code in lower case
	name map[string]string // by code
}

func (n *Names) add(code, name string) {
	if name == "" || n.name[code] != "" {
		return
	}
	n.list, n.name[code] = append(n.list, name), name
	n.code[strings.ToLower(name)], n.code[strings.ToLower(code)] = code, code
}

// List is all names, in alphabetical order.
func (n *Names) List() []string { return n.list }

// Code is the code of a name, or of itself; "" when there is none.
func (n *Names) Code(text string) string { return n.code[strings.ToLower(strings.TrimSpace(text))] }

// Name is the name of a code; the code itself where it has none.
func (n *Names) Name(code string) string {
	if name := n.name[code]; name != "" {
		return name
	}
	return code
}

func newNames() *Names { return &Names{code: map[string]string{}, name: map[string]string{}} }

// pairs are all that two letters can be.
func pairs(first byte) (out []string) {
	for a := first; a < first+26; a++ {
		for b := first; b < first+26; b++ {
			out = append(out, string([]byte{a, b}))
		}
	}
	return out
}

// Countries are those of ISO 3166-1, by the names that Unicode's CLDR has for them.
var Countries = sync.OnceValue(func() *Names {
	n := newNames()
	for _, code := range pairs('A') {
		r, err := language.ParseRegion(code)
		if err == nil && r.IsCountry() && r.Canonicalize().String() == code && r.M49() > 0 { // none of the past
			n.add(code, display.English.Regions().Name(r))
		}
	}
	slices.Sort(n.list)
	return n
})

// Languages are those of ISO 639-1.
var Languages = sync.OnceValue(func() *Names {
	n := newNames()
	for _, code := range pairs('a') {
		if b, err := language.ParseBase(code); err == nil && b.String() == code {
			n.add(code, display.English.Languages().Name(b))
		}
	}
	slices.Sort(n.list)
	return n
})
