package serp

import (
	"fmt"
	"net/url"
	"regexp"
	"strings"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

// ballot collects votes for page types, with the reasons (all weights ours).
type ballot struct {
	votes map[PageType]float64
	why   map[PageType][]string
}

func (b *ballot) vote(t PageType, n float64, why string) {
	b.votes[t] += n
	b.why[t] = append(b.why[t], why)
}

// winner returns the type with most votes; ties go to the earlier in order.
func (b *ballot) winner() (PageType, string) {
	order := []PageType{Home, Thread, Encyclopedia, Video, Tool, Product, Shelf, Review, Comparison, HowTo, Official,
		Article}
	best := Article
	for _, t := range order {
		if b.votes[t] > b.votes[best] {
			best = t
		}
	}
	return best, strings.Join(b.why[best], ", ")
}

var schemaVotes = map[string]struct {
	t PageType
	n float64
}{
	"product": {Product, 2.5}, "offercatalog": {Shelf, 4}, "collectionpage": {Shelf, 3},
	"itemlist": {Comparison, 1.5}, "review": {Review, 2.5}, "howto": {HowTo, 4}, "recipe": {HowTo, 4},
	"qapage": {Thread, 4}, "discussionforumposting": {Thread, 4}, "question": {Thread, 1},
	"videoobject": {Video, 2.5}, "webapplication": {Tool, 4}, "softwareapplication": {Tool, 3},
	"article": {Article, 1.5}, "blogposting": {Article, 1.5}, "newsarticle": {Article, 1.5},
	"techarticle": {Article, 1.5}, "definedterm": {Encyclopedia, 3}, "governmentservice": {Official, 4},
	"dataset": {Official, 2}, "report": {Official, 3}, "faqpage": {Article, 1},
}

var pathVotes = []struct {
	re *regexp.Regexp
	t  PageType
	n  float64
}{
	{regexp.MustCompile(`/(forums?|threads?|topics?|questions?|discussions?|t)/`), Thread, 3},
	{regexp.MustCompile(`/(products?|items?|p|dp)/`), Product, 2.5},
	{regexp.MustCompile(`/(category|categories|collections?|shop|shelf|browse|c)/`), Shelf, 2.5},
	{regexp.MustCompile(`/(wiki|entry|lexicon|encyclopedia)/`), Encyclopedia, 4},
	{regexp.MustCompile(`/(watch|videos?)/`), Video, 3},
	{regexp.MustCompile(`/(tools?|calculators?)/`), Tool, 3},
	{regexp.MustCompile(`/reviews?/`), Review, 1.5},
	{regexp.MustCompile(`/(how-to|howto|guides?|tutorials?)/`), HowTo, 0.5},
}

var titleVotes = []struct {
	re  *regexp.Regexp
	t   PageType
	n   float64
	why string
}{
	{regexp.MustCompile(`(^|\b\d+ )(the )?(\d+ )?(best|top|greatest)\b`), Comparison, 2.5, "title lists the best"},
	{regexp.MustCompile(`\b(vs|versus|compared)\b`), Comparison, 2.5, "title compares"},
	{regexp.MustCompile(`\b(picks|tested|buying guide|buyer's|choosing)\b`), Comparison, 1.5, "title helps to choose"},
	{regexp.MustCompile(`\breview\b`), Review, 2, "title says review"},
	{regexp.MustCompile(`\bhow to\b|step by step|\bdiy\b`), HowTo, 2, "title says how to"},
	{regexp.MustCompile(`\bcalculator\b|\bplanner\b|\bgenerator\b`), Tool, 2, "title names a tool"},
	{regexp.MustCompile(`\b(buy|shop|for sale|prices)\b`), Shelf, 1.5, "title offers for sale"},
	{regexp.MustCompile(`\bvideo\b`), Video, 1, "title says video"},
}

// TypeOf says what type a page is, and from what it was told. p may be nil:
// then only the URL and the title shown by the engine speak.
func TypeOf(rawURL, title string, p *Page) (PageType, string) {
	b := &ballot{map[PageType]float64{}, map[PageType][]string{}}
	path := "/"
	if u, err := url.Parse(rawURL); err == nil {
		path = strings.ToLower(u.EscapedPath())
	}
	if strings.Trim(path, "/") == "" {
		b.vote(Home, 5, "stands at the root")
	}
	for _, v := range pathVotes {
		if m := v.re.FindString(path + "/"); m != "" {
			b.vote(v.t, v.n, "address holds "+m)
		}
	}
	if p != nil && p.Title != "" {
		title = p.Title
	}
	norm := phrase.Normal(title)
	for _, v := range titleVotes {
		if v.re.MatchString(norm) {
			b.vote(v.t, v.n, v.why)
		}
	}
	if p != nil {
		pageVotes(b, p)
		doubts(b, p)
	}
	b.vote(Article, 0.5, "text on a subject")
	return b.winner()
}

func pageVotes(b *ballot, p *Page) {
	seen := map[string]bool{}
	for _, t := range p.SchemaTypes {
		t = strings.ToLower(t)
		if v, ok := schemaVotes[t]; ok && !seen[t] {
			seen[t] = true
			b.vote(v.t, v.n, "marked up as "+t)
		}
	}
	switch og := strings.ToLower(p.OpenGraph); {
	case strings.HasPrefix(og, "product"):
		b.vote(Product, 1.5, "Open Graph says product")
	case strings.HasPrefix(og, "video"):
		b.vote(Video, 3, "Open Graph says video")
	case og == "article":
		b.vote(Article, 0.5, "Open Graph says article")
	}
	switch {
	case p.CartButtons >= 3:
		b.vote(Shelf, 4, fmt.Sprintf("%d add-to-cart buttons", p.CartButtons))
	case p.CartButtons >= 1:
		b.vote(Product, 2.5, "one thing to put in a basket")
	case p.Prices >= 3:
		n := 1.5
		if p.Words >= 2*ThinWords && b.votes[Review] == 0 {
			n = 2.6 // much text around them: it is about what to buy
		}
		b.vote(Comparison, n, fmt.Sprintf("%d prices, nothing for sale", p.Prices))
	}
	if p.Replies >= 2 {
		b.vote(Thread, 1.5, fmt.Sprintf("%d replies", p.Replies))
	}
	if p.Steps >= 4 {
		b.vote(HowTo, 1.5, fmt.Sprintf("%d numbered steps", p.Steps))
	}
	if p.Videos > 0 && p.Words < 250 {
		b.vote(Video, 1.5, "a video and few words")
	}
	if p.Inputs >= 2 && p.CartButtons == 0 {
		b.vote(Tool, 1.5, "a form to fill in")
	}
	if publisherIs(p, institutionTypes) && !seen["blogposting"] { // institutions keep blogs too
		b.vote(Official, 3, "published by an institution")
	}
}

// doubts take back what a title promises and the page does not hold: a list of the best
// without a price, a how-to without a step, a shop without anything to buy.
func doubts(b *ballot, p *Page) {
	if b.votes[Comparison] > 0 && p.Prices < 2 && p.CartButtons == 0 {
		b.vote(Article, 1.5, "compares by its title only: it names no prices")
	}
	if b.votes[HowTo] > 0 && p.Steps == 0 {
		b.vote(Article, 1.2, "no numbered steps")
	}
	if b.votes[Shelf] > 0 && p.CartButtons == 0 && p.Words >= ThinWords {
		b.votes[Shelf] /= 2
	}
}

// institutionName tells institutions whose host says what they are.
var institutionName = regexp.MustCompile(`(^|[-.])(library|museum|university|college|observatory|` +
	`institute|academy|ministry|archive)([-.]|$)`)

var institutionTypes = map[string]bool{"governmentorganization": true, "educationalorganization": true,
	"collegeoruniversity": true, "researchorganization": true, "museum": true, "library": true}

func publisherIs(p *Page, types map[string]bool) bool {
	for _, t := range p.Publisher {
		if types[strings.ToLower(t)] {
			return true
		}
	}
	return false
}

// BigStanding is the site standing from which a site that publishes articles is
// a big publisher (ours).
const BigStanding = 65

var institutionHost = regexp.MustCompile(`\.(gov|edu|mil|int)(\.[a-z]{2})?$|\.ac\.[a-z]{2}$`)

// KindOf says what kind of site a page stands on.
func KindOf(rawURL string, t PageType, p *Page, standing float64, s links.Suffixes) (SiteKind, string) {
	host := links.Host(rawURL)
	switch {
	case s.FreeHost(host):
		return FreeHost, "anyone can have a name there"
	case institutionHost.MatchString(host):
		return Institution, "by its domain"
	case institutionName.MatchString(host) && t != Shelf && t != Product:
		return Institution, "by its name"
	case p != nil && publisherIs(p, institutionTypes):
		return Institution, "says so in its markup"
	case t == Encyclopedia:
		return Reference, "the page is an entry"
	case t == Thread, strings.HasPrefix(host, "forum"), strings.Contains(host, "-forum"):
		return Community, "people answer one another"
	}
	if t == Shelf || t == Product {
		if p != nil && ownBrand(p) {
			return Maker, "sells what it makes"
		}
		return Marketplace, "sells"
	}
	if p != nil && publisherIs(p, map[string]bool{"brand": true, "corporation": true, "manufacturer": true}) {
		return Maker, "says so in its markup"
	}
	if p != nil && publisherIs(p, map[string]bool{"store": true, "onlinestore": true}) {
		return Marketplace, "says so in its markup"
	}
	if standing >= BigStanding {
		return Publisher, fmt.Sprintf("standing %.0f", standing)
	}
	return NicheSite, fmt.Sprintf("standing %.0f, writes about the subject", standing)
}

func ownBrand(p *Page) bool {
	site := phrase.Normal(p.SiteName)
	if site == "" || len(p.Brands) == 0 {
		return false
	}
	for _, b := range p.Brands {
		b = phrase.Normal(b)
		if b == "" || !strings.HasPrefix(site, b) && !strings.HasPrefix(b, site) {
			return false
		}
	}
	return true
}

// firmly says how strong a sign of its site's kind a page is: what is told by name,
// markup or host counts for more than what a single page happens to be (ours).
var firmly = map[SiteKind]float64{FreeHost: 3, Institution: 2, Reference: 1.5, Community: 2, Maker: 1.5,
	Marketplace: 1, Publisher: 1, NicheSite: 1}

// KindOfSite tells the kind of a site from what each of its known pages says; "" when
// none is known. Ties go to the kind that was told first.
func KindOfSite(pages []SiteKind) (kind SiteKind, because string) {
	votes, count := map[SiteKind]float64{}, map[SiteKind]int{}
	for _, k := range pages {
		votes[k] += firmly[k]
		count[k]++
	}
	for _, k := range pages {
		if votes[k] > votes[kind] {
			kind = k
		}
	}
	return kind, fmt.Sprintf("as %d of its %d pages say that are known", count[kind], len(pages))
}

// joinKinds gives the pages of one site one kind: a shop's article is still a shop's.
// What a page alone shows for certain stays: a thread is people answering one another
// wherever it stands.
func joinKinds(entries []Entry) {
	bySite := map[string][]SiteKind{}
	for _, e := range entries {
		bySite[e.Site] = append(bySite[e.Site], e.Kind)
	}
	for i := range entries {
		e := &entries[i]
		if kind, because := KindOfSite(bySite[e.Site]); kind != e.Kind && !sure[e.Kind] {
			e.Kind, e.KindBecause = kind, because
		}
	}
}

var sure = map[SiteKind]bool{Community: true, FreeHost: true, Institution: true, Reference: true}
