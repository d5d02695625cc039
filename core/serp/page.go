// Package serp reads one results page: how well each result fits the phrase,
// what kind of page and site it is, why it is weak, and which are footholds.
package serp

import (
	"time"

	"cleverniche/core/intent"
	"cleverniche/core/links"
)

// Page is what was read of one fetched page. A reader of HTML fills it in.
type Page struct {
	URL         string // after redirects
	Canonical   string
	SiteName    string
	Title       string
	Description string
	H1          []string
	Headings    []string // h2 to h4
	Text        string   // the main text, without navigation and boilerplate
	Words       int      // words in Text
	SchemaTypes []string // schema.org types, from JSON-LD or microdata
	Publisher   []string // schema.org types of the organisation behind the site
	Brands      []string // brands of the products described
	OpenGraph   string   // og:type
	Prices      int      // amounts of money in the text
	CartButtons int      // things one can put into a basket
	Replies     int      // answers or comments by several people
	Steps       int      // items of the longest ordered list
	Videos      int
	Inputs      int      // fields of forms in the main text
	Anchors     []string // what links in the main text say
	Lang        string   // of the text, as the page says: BCP 47; "" it does not
	SignsIn     bool     // it asks for a password
	Tables      []string // headings of tables in the main text, with commas between them
	Reactions   *Reactions
	Published   time.Time
	Modified    time.Time
}

// Touched is the latest date the page gives itself, or the zero time.
func (p *Page) Touched() time.Time {
	if p.Modified.After(p.Published) {
		return p.Modified
	}
	return p.Published
}

// Result is one organic result with all that was fetched about it.
type Result struct {
	Position     int // from 1
	URL          string
	Title        string // as the engine shows it
	Snippet      string
	Page         *Page  // nil when it could not be read
	PageError    string // why not
	Profile      links.Profile
	LinksKnown   bool    // else Profile has at most a standing, the usual one of such a site's pages
	SiteKnown    bool    // SiteStanding is known
	Referring    *int    // sites that link to its site, followed or not; nil where that is not known
	SiteStanding float64 // 0 when the graph does not know the site
}

// PageType is what a page is, seen by a searcher.
type PageType string

// The page types.
const (
	Home         PageType = "home page"
	Shelf        PageType = "shop shelf"
	Product      PageType = "product"
	Comparison   PageType = "comparison"
	Review       PageType = "single review"
	HowTo        PageType = "how-to"
	Article      PageType = "article"
	Thread       PageType = "thread"
	Video        PageType = "video"
	Encyclopedia PageType = "encyclopedia"
	Tool         PageType = "tool"
	Official     PageType = "official"
	Unknown      PageType = "unread"
)

// Want is what a page of this type answers.
func (t PageType) Want() intent.Class {
	switch t {
	case Home:
		return intent.Find
	case Comparison, Review:
		return intent.Compare
	case Shelf, Product:
		return intent.Buy
	}
	return intent.Learn // a tool, too: who asks when Mars rises buys nothing
}

// SiteKind is what stands behind a page.
type SiteKind string

// The site kinds.
const (
	Institution SiteKind = "institution"
	Reference   SiteKind = "encyclopedia"
	Marketplace SiteKind = "marketplace"
	Maker       SiteKind = "maker"
	Publisher   SiteKind = "big publisher"
	NicheSite   SiteKind = "niche site"
	Community   SiteKind = "community"
	FreeHost    SiteKind = "free host"
)
