package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"time"
)

// page is one page of a site: what it is about and how it is made. Its text is
// written anew, always the same, whenever it is asked for.
type page struct {
	id         int
	site       *site
	kind       pageKind
	hobby      int
	need       *need // what its title promises; nil for a home page
	about      *need // what its text is about: another need on a lying page
	subject    string
	title      string
	path       string
	titleWords string // its words, each with a blank on both sides
	titleStems string // and their stems
	exact      bool   // the title holds the subject as people type it
	quality    float64
	published  time.Time
	modified   time.Time   // when it was last touched before the world was founded
	touched    []time.Time // and since
	indexed    time.Time   // when the engines found it
	replies    int
	attract    float64
	fault      fault
	out        []*link
	in         []*link
	trial      bool // published as an experiment
	removed    bool
	key        uint32 // a number that depends on its address only
}

// fault is what is wrong with how a page is served.
type fault int

const (
	sound        fault = iota
	moved              // redirects
	gone               // linked, but not there
	broken             // its server fails
	oldCharset         // in another charset than most
	wrongCharset       // in another charset than it says
	mistyped           // declared to be plain text
	slow               // takes its time
	soup               // HTML that no validator would pass
)

func (p *page) url() string { return "http://" + p.site.domain + p.path }

// published pages by kind: path prefixes and how often the title holds the
// wording as typed.
var kindHabits = [pageKinds]struct {
	prefixes []string
	exact    float64
	attract  float64
}{
	pageHome:       {[]string{"/"}, 0, 8},
	pageShelf:      {[]string{"/shop/", "/category/", "/browse/"}, 0.35, 1.2},
	pageProduct:    {[]string{"/product/", "/p/"}, 0.5, 0.7},
	pageComparison: {[]string{"/", "/best/", "/guides/"}, 0.62, 1.6},
	pageReview:     {[]string{"/reviews/", "/"}, 0.65, 1},
	pageHowTo:      {[]string{"/how-to/", "/guides/", "/"}, 0.6, 1.2},
	pageArticle:    {[]string{"/", "/blog/", "/learn/"}, 0.5, 1},
	pageThread:     {[]string{"/thread/", "/questions/"}, 0.34, 0.35},
	pageVideo:      {[]string{"/watch/"}, 0.5, 0.5},
	pageEntry:      {[]string{"/wiki/", "/entry/"}, 0.25, 3},
	pageTool:       {[]string{"/tools/"}, 0.55, 1.8},
	pageOfficial:   {[]string{"/", "/public/"}, 0.35, 1.6},
}

// urn draws needs for one kind of site in one hobby.
type urn struct {
	needs []*need
	sums  []float64
}

func (u *urn) draw(rng *rand.Rand) *need {
	at := sort.SearchFloat64s(u.sums, rng.Float64()*u.sums[len(u.sums)-1])
	return u.needs[min(at, len(u.needs)-1)]
}

// urnFor is what sites of a kind write on, by how much is written on it.
func (w *World) urnFor(kind siteKind, hobby int, brand string) *urn {
	u := &urn{}
	sum := 0.0
	for _, n := range w.needs {
		if n.hobby != hobby || brand != "" && n.holds("maker") != brand && n.madeBy("model") != brand {
			continue
		}
		serves := 0.0
		for _, k := range plans[kind].publishes {
			serves += n.serves[k]
		}
		if n.template.Brand && n.template.Intent == "find" && kind != maker {
			continue
		}
		if serves > 0 {
			sum += serves * math.Sqrt(n.base)
			u.needs = append(u.needs, n)
			u.sums = append(u.sums, sum)
		}
	}
	return u
}

// holds is what a slot of the need holds, madeBy its maker; "" when it has no such slot.
func (n *need) holds(slot string) string {
	if v := n.bind[slot]; v != nil {
		return v.one
	}
	return ""
}

func (n *need) madeBy(slot string) string {
	if v := n.bind[slot]; v != nil {
		return v.maker
	}
	return ""
}

// growPages lets owners write what they like, and all others what is asked for: the
// more a need is searched, the more pages set out to answer it, the known sites first.
func (w *World) growPages() {
	for _, st := range w.siteList {
		rng := w.random("pages", st.domain)
		w.addHome(st, rng)
		if st.kind != linkRing && !w.isOwn(st) {
			continue
		}
		count := w.pageCount(st, rng)
		for try := 0; len(st.pages) < count+1 && try < 40*count; try++ {
			if n, kind, ok := w.choose(st, rng); ok && (st.kind == linkRing || n.base < ownMost && n.base > ownLeast) {
				w.addPage(st, n, kind, rng)
			}
		}
	}
	market := w.newMarket()
	for _, n := range w.needs {
		market.answer(n)
	}
	w.natural = slices.Clone(w.pages)
}

// What the owner of a demo site wrote on before they knew better: on what is searched
// neither all too much nor hardly at all.
const (
	ownLeast = 30
	ownMost  = 2500
)

// kindOf draws a kind of page that the need calls for.
func (w *World) kindOf(n *need, rng *rand.Rand) pageKind {
	u := rng.Float64()
	for k, share := range n.serves {
		if u -= share; u < 0 {
			return pageKind(k)
		}
	}
	return pageArticle
}

// choose draws what a site writes on next, and what kind of page that will be;
// ok is false when the draw fell on what it has already.
func (w *World) choose(st *site, rng *rand.Rand) (n *need, kind pageKind, ok bool) {
	h := st.hobbies[rng.IntN(len(st.hobbies))]
	key := fmt.Sprint(st.kind, h, st.brand)
	if w.urns[key] == nil {
		w.urns[key] = w.urnFor(st.kind, h, st.brand)
	}
	if len(w.urns[key].needs) == 0 {
		return nil, 0, false
	}
	n = w.urns[key].draw(rng)
	kind = w.kindFor(n, st.kind, rng)
	// A thread on a need may stand many times on a forum, an article not.
	return n, kind, kind == pageThread || !slices.ContainsFunc(st.pages, func(p *page) bool {
		return p.need == n && p.kind == kind && !p.trial
	})
}

func (w *World) pageCount(st *site, rng *rand.Rand) int {
	if w.isOwn(st) {
		return w.scenarios[st.hobbies[0]].Own.Articles
	}
	p := plans[st.kind]
	return p.fewest + rng.IntN(p.most-p.fewest)
}

// isOwn reports whether the site is one that a user of the demo owns.
func (w *World) isOwn(st *site) bool {
	own := w.scenarios[st.hobbies[0]].Own
	return own != nil && st.domain == own.Domain
}

func (w *World) kindFor(n *need, kind siteKind, rng *rand.Rand) pageKind {
	kinds := plans[kind].publishes
	sum := 0.0
	for _, k := range kinds {
		sum += n.serves[k]
	}
	u := rng.Float64() * sum
	for _, k := range kinds {
		if u -= n.serves[k]; u < 0 {
			return k
		}
	}
	return kinds[0]
}

func (w *World) addHome(st *site, rng *rand.Rand) {
	h := st.hobbies[0]
	p := &page{site: st, kind: pageHome, hobby: h, path: "/", quality: st.quality,
		title: st.title + ": " + strings.ToLower(w.scenarios[h].Name), published: st.born, modified: st.born,
		attract: st.authority * kindHabits[pageHome].attract}
	if st.brand != "" {
		for _, n := range w.needs {
			if n.template.Intent == "find" && n.holds("maker") == st.brand {
				p.need, p.about, p.subject, p.exact, n.owner = n, n, st.brand, true, p
			}
		}
		p.title = st.title + " | official site"
	}
	p.modified = w.Founded.AddDate(0, 0, -rng.IntN(200))
	p.indexed = p.published.Add(indexDelay(st, rng))
	w.registerPage(p)
}

// addPage adds a page that was there when the world was founded.
func (w *World) addPage(st *site, n *need, kind pageKind, rng *rand.Rand) {
	p := w.newPage(st, n, kind, rng)
	p.published, p.modified = w.datesOf(st, rng)
	p.indexed = p.published.Add(indexDelay(st, rng))
}

// newPage makes a page on a need and registers it; its dates are the caller's.
func (w *World) newPage(st *site, n *need, kind pageKind, rng *rand.Rand) *page {
	habit := kindHabits[kind]
	p := &page{site: st, kind: kind, hobby: n.hobby, need: n, about: n}
	p.quality = math.Max(0.02, math.Min(0.99, st.quality+0.15*rng.NormFloat64()+care(n)))
	q := n.queries[w.popular(n, rng)]
	p.subject = q.text
	p.exact = rng.Float64() < habit.exact*(0.55+0.75*p.quality)+0.1*math.Max(0, math.Log10(n.base/1000))
	p.title = w.titleOf(p, rng)
	p.path = w.pathOf(p, habit.prefixes[(st.style+int(kind))%len(habit.prefixes)])
	if kind == pageThread {
		p.replies = 1 + int(rng.ExpFloat64()*4)
	} else if rng.Float64() < 0.2 {
		p.replies = rng.IntN(4)
	}
	p.attract = st.authority * habit.attract * math.Exp(1.1*rng.NormFloat64()) * (0.3 + p.quality) * fame(n)
	switch u := rng.Float64(); {
	case u < 0.012:
		p.fault = moved
	case u < 0.018:
		p.fault = gone
	case u < 0.024:
		p.fault = broken
	case u < 0.034:
		p.fault = oldCharset
	case u < 0.037:
		p.fault = wrongCharset
	case u < 0.039:
		p.fault = mistyped
	case u < 0.042:
		p.fault = slow
	case u < 0.056:
		p.fault = soup
	case u < 0.072 && p.quality < 0.6: // a lying page: promises what its text lacks
		p.about = w.needs[(n.id+17)%len(w.needs)]
	}
	w.registerPage(p)
	return p
}

// care is how much better than others of its site a page on a need is made: the more it
// is searched the more care is taken. fame is how much more such pages are linked.
func care(n *need) float64 {
	if n.missed {
		return -0.32
	}
	return 0.13 * math.Max(-1, math.Min(1, math.Log10(n.base/1000)))
}

func fame(n *need) float64 {
	if n.missed {
		return 0.2
	}
	return math.Pow(math.Max(n.base, 20)/300, 0.4)
}

// popular draws one of the need's wordings, the commoner ones more often.
func (w *World) popular(n *need, rng *rand.Rand) int {
	u := rng.Float64()
	if n.base >= 5000 {
		u *= u // everybody writes for the commonest
	}
	for i, q := range n.queries {
		if u -= q.share; u < 0 && !q.typo {
			return i
		}
	}
	return 0
}

func (w *World) datesOf(st *site, rng *rand.Rand) (published, modified time.Time) {
	age := w.Founded.Sub(st.born)
	published = w.Founded.Add(-time.Duration(float64(age) * math.Pow(rng.Float64(), 1.4))).Truncate(24 * time.Hour)
	modified = published
	if rng.Float64() < 0.45 {
		since := w.Founded.Sub(published)
		modified = published.Add(time.Duration(float64(since) * math.Sqrt(rng.Float64()))).Truncate(24 * time.Hour)
	}
	return published, modified
}

// exactTitles and looseTitles are how titles of a kind of page are made: of the
// wording as typed, and of the thing it is about, said another way.
var exactTitles = [pageKinds][]string{
	pageComparison: {"%s: %%d compared", "%s, tried and compared", "%s: our picks", "%s (tested)"},
	pageReview:     {"%s: a long test", "%s after a year", "%s, honestly"},
	pageHowTo:      {"%s: step by step", "%s", "%s: a patient guide", "%s (with pictures)"},
	pageThread:     {"%s?", "%s", "Question: %s", "%s – please help"},
	pageShelf:      {"%s – prices", "Buy %s", "%s in stock", "%s"},
	pageProduct:    {"%s", "%s – in stock"},
	pageVideo:      {"%s – video", "%s (watch)"},
	pageEntry:      {"%s – entry", "%s"},
	pageTool:       {"%s: calculator", "%s – planner"},
	pageOfficial:   {"%s: public information", "%s"},
	pageArticle:    {"%s", "%s: what to know", "%s, answered", "%s – notes"},
}

var looseTitles = [pageKinds][]string{
	pageComparison: {"%s Worth Your Money", "A Buyer's Notebook: %s", "Choosing Among %s", "%s We Would Buy Again"},
	pageReview:     {"%s in Daily Use", "Living with %s"},
	pageHowTo:      {"%s Made Simple", "The %s Handbook", "First Steps: %s"},
	pageThread:     {"New here, a question on %s", "%s advice wanted", "Stuck with %s", "%s, anyone?"},
	pageShelf:      {"%s", "All %s"},
	pageProduct:    {"%s"},
	pageVideo:      {"%s in Five Minutes"},
	pageEntry:      {"%s"},
	pageTool:       {"%s Calculator"},
	pageOfficial:   {"%s: Facts and Figures", "About %s"},
	pageArticle:    {"All About %s", "%s: a Short Introduction", "Notes on %s", "%s, and Other Questions"},
}

// titleOf writes a title: around the wording as typed when the page is exact,
// else around another way to say it.
func (w *World) titleOf(p *page, rng *rand.Rand) string {
	forms, subject := exactTitles[p.kind], p.subject
	if !p.exact {
		forms, subject = looseTitles[p.kind], w.looseSubject(p, rng)
	}
	return fmt.Sprintf(forms[rng.IntN(len(forms))], headline(subject))
}

// mainSlots are the slots that say what a need is about, the first ones more.
var mainSlots = []string{"task", "model", "gear", "optic", "target", "maker", "hobby"}

// looseSubject names what the page is about, without the wording people type.
func (w *World) looseSubject(p *page, rng *rand.Rand) string {
	for _, slot := range mainSlots {
		v, ok := p.need.bind[slot]
		switch {
		case !ok:
		case p.kind == pageShelf && v.price == 0:
		case p.kind == pageComparison || p.kind == pageShelf || rng.IntN(3) == 0:
			return v.many
		default:
			return v.one
		}
	}
	if p.kind == pageShelf {
		return w.slots[p.hobby]["gear"][rng.IntN(8)].many
	}
	return w.scenarios[p.hobby].Words[0]
}

// headline sets the first letters of a subject in capitals, as a title does.
func headline(s string) string {
	small := map[string]bool{"a": true, "an": true, "the": true, "for": true, "to": true, "with": true, "in": true,
		"of": true, "and": true, "or": true, "vs": true, "from": true, "is": true}
	words := strings.Fields(s)
	for i, word := range words {
		if i == 0 || !small[word] {
			words[i] = capital(word)
		}
	}
	return strings.Join(words, " ")
}

func titleCase(s string) string {
	words := strings.Fields(s)
	for i := range words {
		words[i] = capital(words[i])
	}
	return strings.Join(words, " ")
}

func (w *World) pathOf(p *page, prefix string) string {
	slug := strings.Join(tokens(strings.ReplaceAll(p.title, "%d", "")), "-")
	if p.exact && p.quality > 0.35 {
		slug = strings.Join(tokens(p.subject), "-")
	}
	slug = strings.NewReplacer("'", "", ".", "").Replace(slug)
	if p.kind == pageThread {
		slug = fmt.Sprintf("%d/%s", 1000+len(p.site.pages)*7, slug)
	}
	path := prefix + slug
	for n := 2; p.site.byPath[path] != nil; n++ {
		path = fmt.Sprintf("%s%s-%d", prefix, slug, n)
	}
	return path
}

func (w *World) registerPage(p *page) {
	p.id, p.key = len(w.pages), nameOf(p)
	p.title = strings.ReplaceAll(p.title, "%d", fmt.Sprint(5+len(p.site.pages)%7))
	p.site.pages = append(p.site.pages, p)
	p.site.byPath[p.path] = p
	w.pages = append(w.pages, p)
}
