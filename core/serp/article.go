package serp

import (
	"fmt"
	"strings"
)

// Advice is the kind of article that fits a results page.
type Advice struct {
	Kind    PageType // what to write
	Also    PageType // a second kind, where searchers want more than one thing; "" else
	Because string
}

// writes is what a niche site can write where engines serve something else: it is no
// shop and no encyclopedia (common practice, no source).
var writes = map[PageType]PageType{Shelf: Comparison, Product: Review, Home: Article, Thread: Article, Video: HowTo,
	Encyclopedia: Article, Official: Article, Unknown: Article}

// Articles are the kinds of page that a niche site writes, in the order they are told.
var Articles = []PageType{Article, HowTo, Comparison, Review, Tool}

// written is the article that serves those whom a page of the type serves.
func (t PageType) written() PageType {
	if w, ok := writes[t]; ok {
		return w
	}
	return t
}

// Counted is so many of the type: "1 how-to", "3 shop shelves".
func (t PageType) Counted(n int) string {
	name := string(t)
	switch {
	case n == 1:
	case t == Shelf:
		name = "shop shelves"
	case t == Encyclopedia || t == Official:
		name += " pages"
	case t == Unknown:
		name = "of no known kind"
	default:
		name += "s"
	}
	return fmt.Sprintf("%d %s", n, name)
}

// One is the type with its article: "an article", "a how-to".
func (t PageType) One() string {
	if t != "" && strings.ContainsRune("aeiou", rune(t[0])) {
		return "an " + string(t)
	}
	return "a " + string(t)
}

// secondKind is the share of the ten from which a second kind is named (ours).
const secondKind = 0.3

// Article says which kind of article fits what the ten serve: the commonest, put into
// what a niche site can write.
func (r Reading) Article() Advice {
	ten := r.Ten()
	if len(ten) == 0 {
		return Advice{Kind: Article, Because: "there are no results to go by"}
	}
	served, fits := map[PageType]int{}, map[PageType]int{}
	for _, e := range ten {
		served[e.Type]++
		fits[e.Type.written()]++
	}
	var out Advice
	for _, t := range allTypes { // in a fixed order, so that ties fall the same way
		switch n := fits[t]; {
		case n > fits[out.Kind]:
			out.Kind, out.Also = t, out.Kind
		case n > fits[out.Also]:
			out.Also = t
		}
	}
	if float64(fits[out.Also]) < secondKind*float64(len(ten)) {
		out.Also = ""
	}
	var parts []string
	for _, t := range append(allTypes, Unknown) {
		if served[t] > 0 && t.written() == out.Kind {
			parts = append(parts, t.Counted(served[t]))
		}
	}
	out.Because = fmt.Sprintf("of %d results, %s", len(ten), strings.Join(parts, ", "))
	if out.Also != "" {
		out.Because += fmt.Sprintf("; %d would be served by %s", fits[out.Also], out.Also.One())
	}
	return out
}
