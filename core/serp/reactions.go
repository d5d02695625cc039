package serp

import (
	"net/url"
	"regexp"
	"strings"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

// Reactions is what a page says readers did with it: by its counters (schema.org InteractionCounter, commentCount,
// AggregateRating), and the comments that stand on it. Nobody can check the counters; −1 is not said.
type Reactions struct {
	Comments int     `json:"comments"` // by its counter, or as many as stand on it
	Counted  bool    `json:"counted,omitempty"`
	Shares   int     `json:"shares"`
	Likes    int     `json:"likes"`
	Ratings  int     `json:"ratings"` // how many rated it, or what it is about
	Rating   float64 `json:"rating"`  // the mean, as it is said
}

// NoReactions is of a page that says nothing of its readers.
func NoReactions() Reactions { return Reactions{Comments: -1, Shares: -1, Likes: -1, Ratings: -1} }

// Any reports whether something is said.
func (r Reactions) Any() bool {
	return r.Comments >= 0 || r.Shares >= 0 || r.Likes >= 0 || r.Ratings >= 0
}

// AddressKind is where on its site a page stands, by its address alone.
type AddressKind string

// The kinds of address.
const (
	FrontPage AddressKind = "front page"
	SubSite   AddressKind = "sub-site" // the front page of a host of its own under the site, or of somebody's folder
	Section   AddressKind = "section"
	DeepPage  AddressKind = "deep page"
)

var (
	aPageRE = regexp.MustCompile(`(?i)(\.[a-z]{3,5}$)|(-[^-/]+-)|(^\d+$)`) // an ending, three words, a number
	userRE  = regexp.MustCompile(`^~`)
)

// AddressOf tells what kind of address a page has. One step below the front is a section unless its last part looks
// like a page: it has an ending, three words or more, or is a number (ours).
func AddressOf(rawURL string, suffixes links.Suffixes) AddressKind {
	u, err := url.Parse(rawURL)
	if err != nil {
		return DeepPage
	}
	host := links.Host(rawURL)
	site := suffixes.Site(host)
	own := host == site || host == "www."+site
	parts := strings.FieldsFunc(u.EscapedPath(), func(r rune) bool { return r == '/' })
	asked := u.RawQuery != ""
	switch {
	case len(parts) == 0 && !asked && own:
		return FrontPage
	case len(parts) == 0 && !asked, len(parts) == 1 && userRE.MatchString(parts[0]):
		return SubSite
	case len(parts) == 1 && !asked && !aPageRE.MatchString(parts[0]):
		return Section
	}
	return DeepPage
}

// Part is a piece of a text, and whether it is a word of the phrase.
type Part struct {
	Text string
	Hit  bool
}

// Titled is how a title says the phrase.
type Titled struct {
	Parts   []Part // the title, in order
	How     string // exact, in order, other order, in part, not at all
	Missing []string
}

// How a title says a phrase.
const (
	TitleExact   = "exact phrase"
	TitleOrder   = "all words, in order"
	TitleOther   = "all words, other order"
	TitlePart    = "some words"
	TitleNothing = "none of the words"
)

// Titled tells how a title says the phrase, and marks its words in it: by stem, as fits do.
func (q Query) Titled(title string) Titled {
	wanted := map[string]bool{}
	for _, s := range q.stems {
		wanted[s] = true
	}
	there := map[string]bool{}
	out := Titled{Parts: Mark(title, func(word string) bool {
		s := q.stem(phrase.Normal(word))
		there[s] = there[s] || wanted[s]
		return wanted[s]
	})}
	for _, s := range q.stems {
		if !there[s] {
			out.Missing = append(out.Missing, q.wordOf(s))
		}
	}
	switch l := q.in(title); {
	case l.share == exactShare:
		out.How = TitleExact
	case l.share == orderedShare:
		out.How = TitleOrder
	case len(out.Missing) == 0 && len(q.stems) > 0:
		out.How = TitleOther
	case len(there) == 0 || len(out.Missing) == len(q.stems):
		out.How = TitleNothing
	default:
		out.How = TitlePart
	}
	return out
}

// Says reports whether a word of a text is one of the phrase's, by stem.
func (q Query) Says(word string) bool {
	s := q.stem(phrase.Normal(word))
	for _, want := range q.stems {
		if s == want {
			return true
		}
	}
	return false
}

// Mark cuts a text into its words and what stands between them (UAX #29), and marks those that hit; what is alike
// and side by side is one part.
func Mark(text string, hit func(word string) bool) (out []Part) {
	add := func(s string, is bool) {
		if s == "" {
			return
		}
		if n := len(out); n > 0 && out[n-1].Hit == is && !is {
			out[n-1].Text += s
			return
		}
		out = append(out, Part{s, is})
	}
	phrase.EachWord(text, func(before, word string) {
		add(before, false)
		add(word, word != "" && hit(word))
	})
	return out
}
