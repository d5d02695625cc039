package plan

import (
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/phrase"
)

// Shown is what a page says of a phrase where engines and searchers look first.
type Shown struct {
	Read                        bool     // it could be read
	Title, Description, Heading bool     // each says all that the phrase says
	Lacks                       []string // words of the phrase that its title lacks, where it says others of it
	Words                       int
	Followed                    int // followed sites that link to it
}

// ShownBy reads whether texts of a page say all of a phrase's content stems.
func ShownBy(normal, lang, title, description string, headings []string) Shown {
	out := Shown{Read: true, Title: phrase.Says(title, normal, lang),
		Description: phrase.Says(description, normal, lang)}
	said := phrase.Stems(phrase.Normal(title), lang)
	for _, w := range phrase.Words(normal) {
		if !phrase.IsFunctionWord(w, lang) && !slices.Contains(said, phrase.Stem(w, lang)) {
			out.Lacks = append(out.Lacks, w)
		}
	}
	if len(out.Lacks) == len(phrase.ContentStems(normal, lang)) {
		out.Lacks = nil
	}
	for _, h := range headings {
		out.Heading = out.Heading || phrase.Says(h, normal, lang)
	}
	return out
}

// Standing is where my page stands for a phrase, against the first result.
type Standing struct {
	Position int // of my page; 0 when it is not among the results
	Below    int // how far down it was looked for; 0 is the ten
	Mine     Shown
	First    Shown
	Median   int    // words of the ten
	Kind     string // of my page, where it serves another intent than most of the ten: "a product"; "" where it does not
	Kinds    string // what the ten mostly are then: "7 comparisons"
}

// thinShare is the share of the middle length of the ten under which a page of mine is short (ours, as
// for the ten).
const thinShare = 0.5

// Place says where the page stands.
func (s Standing) Place() string {
	switch {
	case s.Position > 0:
		return fmt.Sprint(s.Position)
	case s.Below > 0:
		return fmt.Sprintf("below %d", s.Below)
	}
	return "not in the top ten"
}

// Next says what to do next for the page, the first thing that is missing: what one's own hand can do
// before what needs others.
func (s Standing) Next() string {
	switch {
	case s.Position == 1:
		return "Ranks first: keep it up to date"
	case !s.Mine.Read:
		return "Check why your page cannot be read"
	case s.Kind != "":
		return fmt.Sprintf("Write another page: yours is %s, and the top ten has %s", s.Kind, s.Kinds)
	case !s.Mine.Title && len(s.Mine.Lacks) > 0:
		return fmt.Sprintf("Add “%s” to the title", strings.Join(s.Mine.Lacks, " "))
	case !s.Mine.Title:
		return "Use the phrase in the title"
	case !s.Mine.Heading:
		return "Use the phrase in a heading"
	case !s.Mine.Description:
		return "Use the phrase in the meta description"
	case s.Median > 0 && float64(s.Mine.Words) < thinShare*float64(s.Median):
		return fmt.Sprintf("Write more: %d words; the top ten have %d (median)", s.Mine.Words, s.Median)
	case s.First.Followed > s.Mine.Followed:
		return fmt.Sprintf("Get links: %s, no. 1 has %d", sites(s.Mine.Followed), s.First.Followed)
	case s.Position == 0 && s.Below == 0:
		return "Look for its place below the top ten"
	case s.Position == 0:
		return "Wait, or link to it from your other pages: it says what it should"
	}
	return "Link to it from your other pages"
}

// sites counts linking sites.
func sites(n int) string {
	if n == 1 {
		return "1 linking site"
	}
	return fmt.Sprintf("%d linking sites", n)
}
