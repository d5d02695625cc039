// Package naming makes the domain names that a phrase could have: its words joined, and
// near-matches with a hyphen, or a word before or after.
package naming

import (
	"slices"
	"strings"

	"cleverniche/core/phrase"

	"golang.org/x/net/idna"
)

// Name is a domain name that a phrase could have.
type Name struct {
	Domain string // in ASCII (RFC 5891)
	Exact  bool   // its words joined, without more
}

// Words are those that are put before or after a phrase that is taken (common practice,
// no source).
var (
	before = []string{"my", "the"}
	after  = []string{"guide", "hub"}
)

// longestLabel is that of RFC 1035 §2.3.4.
const longestLabel = 63

// Endings reads endings as people write them: "com, .org net". Those that cannot be one
// are returned apart.
func Endings(text string) (endings, wrong []string) {
	for _, one := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return r == ',' || r == ';' || r == ' ' || r == '\t' || r == '\n'
	}) {
		one = strings.Trim(one, ".")
		ascii, err := idna.Lookup.ToASCII(one)
		switch {
		case err != nil || ascii == "" || len(ascii) < 2 || strings.ContainsAny(ascii, "/:@_*"):
			wrong = append(wrong, one)
		case !slices.Contains(endings, ascii):
			endings = append(endings, ascii)
		}
	}
	return endings, wrong
}

// Of lists the names that a phrase in normal form could have under endings, the exact ones
// first; none where it makes no name.
func Of(normal string, endings []string) (out []Name) {
	words := phrase.Words(normal)
	joined, hyphened := strings.Join(words, ""), strings.Join(words, "-")
	add := func(label string, exact bool) {
		ascii, err := idna.Lookup.ToASCII(label)
		if err != nil || ascii == "" || len(ascii) > longestLabel {
			return
		}
		for _, end := range endings {
			name := Name{ascii + "." + end, exact}
			if !slices.ContainsFunc(out, func(n Name) bool { return n.Domain == name.Domain }) {
				out = append(out, name)
			}
		}
	}
	add(joined, true)
	add(hyphened, false)
	for _, w := range before {
		add(w+joined, false)
	}
	for _, w := range after {
		add(joined+w, false)
	}
	return out
}
