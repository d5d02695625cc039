package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// siteKind is what stands behind a site.
type siteKind int

const (
	publisher siteKind = iota
	nicheSite
	community
	freeHost
	marketplace
	maker
	encyclopedia
	institution
	videoHost
	linkRing
	siteKinds
)

func (k siteKind) String() string {
	return [...]string{"publisher", "niche", "community", "freehost", "marketplace", "maker",
		"encyclopedia", "institution", "video", "ring"}[k]
}

// pageKind is what a page is.
type pageKind int

const (
	pageHome pageKind = iota
	pageShelf
	pageProduct
	pageComparison
	pageReview
	pageHowTo
	pageArticle
	pageThread
	pageVideo
	pageEntry
	pageTool
	pageOfficial
	pageKinds
)

var pageKindNames = [...]string{"home", "shelf", "product", "comparison", "review", "howto",
	"article", "thread", "video", "entry", "tool", "official"}

func (k pageKind) String() string { return pageKindNames[k] }

func pageKindNamed(s string) pageKind {
	if i := slices.Index(pageKindNames[:], s); i >= 0 {
		return pageKind(i)
	}
	return pageArticle
}

// site is one site of the world.
type site struct {
	id        int
	domain    string
	title     string
	kind      siteKind
	hobbies   []int
	authority float64 // how much it attracts links; heavy-tailed
	size      float64 // how much it publishes, beside others; heavy-tailed
	quality   float64 // how well its pages are made, 0 to 1
	favour    float64 // what engines think of it beside all that can be seen; see Favour
	style     int     // which frame its pages have
	layout    int     // which of two bodies its kinds of page have
	country   string  // where it is at home
	markup    int     // 0 none, 1 JSON-LD, 2 microdata
	born      time.Time
	pages     []*page
	byPath    map[string]*page
	blogroll  []*page // linked from each of its pages
	brand     string  // of a maker
	called    string  // its name in lower case, with a blank on both sides
}

// plan says how a kind of site is grown.
type plan struct {
	publishes         []pageKind
	perHobby, shared  int // sites
	fewest, most      int // pages of those that write what they like
	size              float64
	authority, spread float64
	quality           float64
	oldest, youngest  int   // months
	commonest         []int // markup, drawn from
	suffix            string
}

// makerSuffix ends the names of makers' sites.
const makerSuffix = ".example"

var plans = [siteKinds]plan{
	publisher: {[]pageKind{pageComparison, pageReview, pageHowTo, pageArticle}, 2, 9, 0, 0, 9, 30, 0.7, 0.68,
		260, 90, []int{1}, ".example"},
	nicheSite: {[]pageKind{pageComparison, pageReview, pageHowTo, pageArticle, pageTool}, 104, 0, 0, 0, 1.5, 1.6, 1.0,
		0.62, 150, 4, []int{0, 1, 1, 2}, ".example"},
	community: {[]pageKind{pageThread}, 8, 4, 0, 0, 4, 9, 0.9, 0.42, 240, 50, []int{0, 1}, ".example"},
	freeHost: {[]pageKind{pageArticle, pageHowTo, pageReview}, 36, 0, 0, 0, 0.35, 0.25, 0.8, 0.45, 140, 5, []int{0},
		""},
	marketplace: {[]pageKind{pageShelf, pageProduct}, 14, 6, 0, 0, 4, 12, 1.1, 0.5, 250, 30, []int{1, 1, 2},
		".example"},
	maker: {[]pageKind{pageProduct, pageShelf, pageHowTo}, 0, 0, 0, 0, 0, 5, 0.6, 0.55, 300, 60, []int{1, 2},
		makerSuffix},
	encyclopedia: {[]pageKind{pageEntry}, 3, 3, 0, 0, 6, 60, 0.6, 0.6, 260, 120, []int{0, 1}, ".example"},
	institution: {[]pageKind{pageOfficial, pageArticle}, 7, 3, 0, 0, 1.5, 18, 0.8, 0.55, 320, 120, []int{1},
		".example"},
	videoHost: {[]pageKind{pageVideo}, 0, 3, 0, 0, 6, 70, 0.3, 0.4, 220, 150, []int{1, 2}, ".example"},
	linkRing:  {[]pageKind{pageArticle}, 0, 24, 2, 4, 0, 0.05, 0.3, 0.1, 60, 6, []int{0}, ".test"},
}

// freeSuffixes are the two free hosts of the world: under them, each name is
// somebody else's site. An operator would find them on a public suffix list.
var freeSuffixes = []string{"inkwellpages.example", "plainpost.example"}

var (
	generalFirst = strings.Fields("harrow tall outfield amber northfield linden pebble copper brisk fable willow " +
		"granite juniper marlow")
	generalSecond = strings.Fields("post review daily journal house weekly digest courier gazette monthly reader")
)

func (w *World) growSites() {
	for kind := siteKind(0); kind < siteKinds; kind++ {
		p := plans[kind]
		for i := range w.tendency.many(kind, p.shared) {
			w.addSite(kind, i, allHobbies(len(w.scenarios)), nil)
		}
		for h, s := range w.scenarios {
			for i := range p.perHobby {
				w.addSite(kind, i, []int{h}, s)
			}
		}
	}
	for h, s := range w.scenarios {
		for _, m := range w.slots[h]["maker"] {
			w.addMaker(h, m.one)
		}
		if s.Own != nil {
			w.addOwn(h, s.Own)
		}
	}
}

func allHobbies(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

func (w *World) addSite(kind siteKind, i int, hobbies []int, s *Scenario) {
	slug := "general"
	if s != nil {
		slug = s.Slug
	}
	rng := w.random("site", kind, slug, i)
	first, second := generalFirst, generalSecond
	if s != nil {
		first, second = s.Sites.First, s.Sites.Second
	}
	p := plans[kind]
	st := w.newSite(kind, hobbies, rng)
	for try := 0; ; try++ {
		a, b := first[rng.IntN(len(first))], second[rng.IntN(len(second))]
		name := siteName(kind, a, b, try, rng)
		domain := name + p.suffix
		if kind == freeHost {
			domain = name + "." + freeSuffixes[rng.IntN(len(freeSuffixes))]
		}
		if a != b && w.sites[domain] == nil {
			st.domain, st.title = domain, siteTitle(name, kind)
			break
		}
	}
	w.register(st)
}

// siteName joins two words in a way that befits the kind.
func siteName(kind siteKind, a, b string, try int, rng *rand.Rand) string {
	tail := ""
	if try > 6 {
		tail = fmt.Sprint(2 + rng.IntN(97))
	}
	switch kind {
	case community:
		return a + [...]string{"talk", "-forum", "circle", "questions"}[rng.IntN(4)] + tail
	case encyclopedia:
		return a + "lexicon" + tail
	case institution:
		return a + [...]string{"-institute", "-college", "-observatory", "-library", "-archive"}[rng.IntN(5)] + tail
	case videoHost:
		return a + "channel" + tail
	case linkRing:
		return fmt.Sprintf("%s-%s-links%d", a, b, rng.IntN(900)+100)
	case marketplace:
		return a + [...]string{"mart", "supply", "store", "goods", "market"}[rng.IntN(5)] + tail
	}
	if rng.IntN(5) == 0 {
		return a + "-" + b + tail
	}
	return a + b + tail
}

func siteTitle(name string, _ siteKind) string {
	words := strings.FieldsFunc(name, func(r rune) bool { return r == '-' })
	for i, word := range words {
		words[i] = capital(word)
	}
	return strings.Join(words, " ")
}

func capital(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	if size == 0 {
		return s
	}
	if first == '“' {
		return s[:size] + capital(s[size:])
	}
	return string(unicode.ToUpper(first)) + s[size:]
}

func (w *World) newSite(kind siteKind, hobbies []int, rng *rand.Rand) *site {
	p := plans[kind]
	age := p.youngest + rng.IntN(p.oldest-p.youngest)
	return &site{kind: kind, hobbies: hobbies,
		authority: p.authority * math.Exp(p.spread*rng.NormFloat64()) * w.tendency.raised(kind),
		size:      p.size * math.Exp(0.7*rng.NormFloat64()),
		quality:   math.Max(0.05, math.Min(0.98, p.quality+0.17*rng.NormFloat64())),
		style:     rng.IntN(3), layout: rng.IntN(2), country: countryOf(rng),
		markup: p.commonest[rng.IntN(len(p.commonest))],
		born:   w.Founded.AddDate(0, -age, -rng.IntN(28))}
}

func (w *World) addMaker(h int, brand string) {
	st := w.newSite(maker, []int{h}, w.random("maker", brand))
	st.domain = strings.ReplaceAll(brand, " ", "") + makerSuffix
	st.brand = brand
	st.title = titleCase(brand)
	w.register(st)
}

func (w *World) addOwn(h int, own *OwnSite) {
	st := w.newSite(nicheSite, []int{h}, w.random("own", own.Domain))
	st.domain, st.title, st.authority, st.quality = own.Domain, own.Title, 0.6, 0.7
	st.born = w.Founded.AddDate(0, -own.Months, 0)
	st.country = home.country
	st.markup = 1
	w.register(st)
}

func (w *World) register(st *site) {
	st.id = len(w.siteList)
	st.called = " " + strings.Join(tokens(st.title), " ") + " "
	st.byPath = map[string]*page{}
	w.sites[st.domain] = st
	w.siteList = append(w.siteList, st)
}
