package plan

import (
	"fmt"

	"cleverniche/core/phrase"
)

// Shown is what a page says of a phrase where engines and searchers look first.
type Shown struct {
	Read                        bool // it could be read
	Title, Description, Heading bool // each says all that the phrase says
	Words                       int
	Followed                    int // followed sites that link to it
}

// ShownBy reads whether texts of a page say all of a phrase's content stems.
func ShownBy(normal, lang, title, description string, headings []string) Shown {
	stems := phrase.ContentStems(normal, lang)
	says := func(text string) bool {
		there := map[string]bool{}
		for _, s := range phrase.Stems(phrase.Normal(text), lang) {
			there[s] = true
		}
		for _, s := range stems {
			if !there[s] {
				return false
			}
		}
		return len(stems) > 0
	}
	out := Shown{Read: true, Title: says(title), Description: says(description)}
	for _, h := range headings {
		out.Heading = out.Heading || says(h)
	}
	return out
}

// Standing is where my page stands for a phrase, against the first result.
type Standing struct {
	Position int // of my page; 0 when it is not among the results
	Mine     Shown
	First    Shown
	Median   int // words of the ten
}

// thinShare is the share of the middle length of the ten under which a page of mine is short (ours, as
// for the ten).
const thinShare = 0.5

// Next says what to do next for the page, the first thing that is missing: what one's own hand can do
// before what needs others.
func (s Standing) Next() string {
	switch {
	case s.Position == 1:
		return "keep it fresh: it stands first"
	case !s.Mine.Read:
		return "see why my page cannot be read"
	case !s.Mine.Title:
		return "say the phrase in the title"
	case !s.Mine.Heading:
		return "say it in a heading"
	case !s.Mine.Description:
		return "say it in the description"
	case s.Median > 0 && float64(s.Mine.Words) < thinShare*float64(s.Median):
		return fmt.Sprintf("write more: %d words, the middle of the ten has %d", s.Mine.Words, s.Median)
	case s.First.Followed > s.Mine.Followed:
		return fmt.Sprintf("get links: %d sites link to it, to the first %d", s.Mine.Followed, s.First.Followed)
	case s.Position == 0:
		return "wait, or link to it from my other pages: it says what it should"
	}
	return "link to it from my other pages"
}
