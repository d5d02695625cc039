package serp

import (
	"fmt"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"cleverniche/core/intent"
	"cleverniche/core/phrase"
)

// The items of the checklist, in its order.
const (
	ItemTitle = iota
	ItemHeading
	ItemSubheading
	ItemAddress
	ItemDescription
	ItemFirst
	ItemBody
	ItemKind
	ItemAlone
	items
)

// Points are the most points that each item gives; they sum to 100. That the title
// and the text count is common practice; how much was found by cmd/calibrate on
// experiments, see calibrated.go.
type Points [items]float64

// ItemName names an item.
func ItemName(item int) string { return itemNames[item] }

var itemNames = [items]string{"title", "main heading", "a subheading", "address", "description",
	fmt.Sprintf("first %d words", FirstWords), "body", "kind of page", "nothing else in the title"}

// FirstWords is how many words count as the start of a text.
const FirstWords = 100

// bodyK1 is k1 of BM25's saturating term frequency tf/(tf+k1) (Robertson &
// Zaragoza 2009, "The Probabilistic Relevance Framework: BM25 and Beyond").
const bodyK1 = 1.2

// bodyScale puts a stem's frequency on the scale of k1: uses per 400 words, so
// that a long text needs more of them than a short one.
const bodyScale = 400

// How much of an item's points each degree of likeness gives (ours).
//
// firstSomeShare is what someShare was before the experiments: a title that lacks one
// word of four does nearly as well there as one that holds all in another order.
const (
	firstSomeShare = 0.4

	exactShare   = 1.0
	orderedShare = 0.85
	allShare     = 0.7
	someShare    = 0.6 // times the share of stems found; see firstSomeShare
)

// Item is one line of the checklist.
type Item struct {
	Name    string  `json:"name"`
	Points  float64 `json:"points"`
	Most    float64 `json:"most"`
	Because string  `json:"because"`
	Known   bool    `json:"known"` // false: the page could not be read, so nothing was counted
}

// Fit is how well a page answers a phrase, 0 to 100, with its checklist. When
// the page could not be read, Total is out of the known items only and Partial
// is true.
type Fit struct {
	Total   float64 `json:"total"`
	Items   []Item  `json:"items"`
	Partial bool    `json:"partial"`
}

// Query is a phrase made ready for comparing.
type Query struct {
	Phrase string // normal form
	Lang   string
	typed  string            // how it was typed, when it is read as something else
	slips  map[string]string // stems of words that were typed wrongly, and what they are read as
	stems  []string          // content stems
	weigh  map[string]weight // by stem; none where no titles are known
}

// weight is how much a word of a phrase counts: by how many of so many titles say it.
type weight struct {
	count     float64
	said, all int
}

// NewQuery prepares a phrase in normal form.
func NewQuery(normal, lang string) Query {
	return Query{Phrase: normal, Lang: lang, stems: phrase.ContentStems(normal, lang)}
}

// ReadAs is the query for what a phrase is read as, word by word; see phrase.AsRead. A
// page that says it as it was typed answers it as well.
func (q Query) ReadAs(read string) Query {
	if read == q.Phrase {
		return q
	}
	out := NewQuery(read, q.Lang)
	out.typed, out.slips = q.Phrase, map[string]string{}
	typed, meant := phrase.Words(q.Phrase), phrase.Words(read)
	for i := range min(len(typed), len(meant)) {
		if typed[i] != meant[i] {
			out.slips[phrase.Stem(typed[i], q.Lang)] = phrase.Stem(meant[i], q.Lang)
		}
	}
	return out
}

// Weighed is the query for which a word of a title counts by how many of the titles shown for the phrase say it: what
// hardly any of them says, the engine does not ask for ("for beginners"), and a page that lacks it misses little. On
// the worlds of the calibration the loss of forecasts fell from 2.477 to 2.419 by it; counting words the more the rarer
// they are (BM25's idf) made the order of results less likely than equal words.
func (q Query) Weighed(titles []string) Query {
	q.weigh = make(map[string]weight, len(q.stems))
	for _, t := range titles {
		said := map[string]bool{}
		for _, s := range q.stemsOf(phrase.Normal(t)) {
			said[s] = true
		}
		for _, s := range q.stems {
			if w := q.weigh[s]; said[s] {
				w.said++
				q.weigh[s] = w
			}
		}
	}
	for _, s := range q.stems {
		w := q.weigh[s]
		w.all = len(titles)
		w.count = (float64(w.said) + 0.5) / (float64(w.all) + 1) // never nothing
		q.weigh[s] = w
	}
	return q
}

// wordOf is a stem as the phrase says it.
func (q Query) wordOf(stem string) string {
	for _, w := range phrase.Words(q.Phrase) {
		if phrase.Stem(w, q.Lang) == stem {
			return w
		}
	}
	return stem
}

// weightOf is how much a stem counts.
func (q Query) weightOf(stem string) float64 {
	if w, known := q.weigh[stem]; known {
		return w.count
	}
	return 1
}

// stem is what a word of a text counts as.
func (q Query) stem(word string) string {
	s := phrase.Stem(word, q.Lang)
	if meant, slip := q.slips[s]; slip {
		return meant
	}
	return s
}

// stemsOf are the stems of a text in normal form, in order.
func (q Query) stemsOf(norm string) []string {
	words := phrase.Words(norm)
	for i, w := range words {
		words[i] = q.stem(w)
	}
	return words
}

// likeness is how far a short text holds the phrase.
type likeness struct {
	share float64
	why   string
	holds bool // all content stems are there
}

func (q Query) in(text string) likeness {
	norm := phrase.Normal(text)
	if norm == "" {
		return likeness{0, "empty", false}
	}
	padded := " " + norm + " "
	if strings.Contains(padded, " "+q.Phrase+" ") || q.typed != "" && strings.Contains(padded, " "+q.typed+" ") {
		return likeness{exactShare, "holds the exact phrase", true}
	}
	return q.inStems(q.stemsOf(norm))
}

func (q Query) inStems(stems []string) likeness {
	next := 0
	for _, s := range stems {
		if next < len(q.stems) && s == q.stems[next] {
			next++
		}
	}
	if len(q.stems) > 0 && next == len(q.stems) {
		return likeness{orderedShare, "holds all its words in order", true}
	}
	there := map[string]bool{}
	for _, s := range stems {
		there[s] = true
	}
	found, missing, counts, all := 0, "", 0.0, 0.0
	for _, s := range q.stems {
		if all += q.weightOf(s); there[s] {
			found++
			counts += q.weightOf(s)
		} else if missing == "" || q.weightOf(s) > q.weightOf(missing) {
			missing = s
		}
	}
	switch {
	case len(q.stems) > 0 && found == len(q.stems):
		return likeness{allShare, "holds all its words", true}
	case found > 0:
		why := fmt.Sprintf("holds %d of %d words, not “%s”", found, len(q.stems), q.wordOf(missing))
		if w, known := q.weigh[missing]; known && w.all > 0 {
			why += fmt.Sprintf(", which %d of %d titles say", w.said, w.all)
		}
		return likeness{someShare * counts / all, why, counts >= enough*all}
	}
	return likeness{0, "holds none of its words", false}
}

// enough is the share of what a phrase's words count from which on a text holds them (ours).
const enough = 0.75

// best returns the likeness of the text among several that holds most.
func (q Query) best(texts []string) likeness {
	out := likeness{0, "there is none", false}
	for _, t := range texts {
		if l := q.in(t); l.share > out.share || out.why == "there is none" {
			out = l
		}
	}
	return out
}

// FitOf goes through the checklist. majority is what most of the ten serve;
// settled is false when there is no majority, and every type fits.
func (q Query) FitOf(r Result, t PageType, majority intent.Class, settled bool) Fit {
	p := r.Page
	known := p != nil
	if p == nil {
		p = &Page{}
	}
	title := p.Title
	if title == "" {
		title = r.Title
	}
	even := q // only in titles words count by what titles say: in texts it made forecasts worse
	even.weigh = nil
	found := [items]likeness{ItemTitle: q.in(title), ItemHeading: even.best(p.H1), ItemSubheading: even.best(p.Headings),
		ItemAddress: even.in(lastSegment(r.URL)), ItemDescription: even.in(p.Description),
		ItemFirst: even.in(firstWords(p.Text)), ItemBody: even.body(p), ItemKind: typeLikeness(t, majority, settled),
		ItemAlone: q.alone(title, p.SiteName)}
	var f Fit
	for i, l := range found {
		one := Item{Name: itemNames[i], Points: Checklist[i] * l.share, Most: Checklist[i], Because: l.why, Known: true}
		if !known && i != ItemTitle && i != ItemAlone && i != ItemAddress && (i != ItemKind || t == Unknown) {
			one.Points, one.Because, one.Known = 0, "the page could not be read", false
			f.Partial = true
		}
		f.Items = append(f.Items, one)
	}
	f.Total = Checklist.Of(f.Shares())
	return f
}

// notKnown is the share of an item that could not be looked at.
const notKnown = -1

// Shares are how far each item is met, 0 to 1, in the checklist's order; −1 where
// that is not known.
func (f Fit) Shares() []float64 {
	out := make([]float64, len(f.Items))
	for i, item := range f.Items {
		if out[i] = notKnown; item.Known && item.Most > 0 {
			out[i] = item.Points / item.Most
		}
	}
	return out
}

// Of is what shares come to under the points, out of 100; what is not known is left
// out of both.
func (p Points) Of(shares []float64) float64 {
	points, most := 0.0, 0.0
	for i, share := range shares {
		if share >= 0 {
			points += p[i] * share
			most += p[i]
		}
	}
	if most == 0 {
		return 0
	}
	return 100 * points / most
}

// The sides of a page that an engine may lean on, and which items tell of each.
var (
	titleItems = []int{ItemTitle, ItemAlone}
	textItems  = []int{ItemHeading, ItemSubheading, ItemAddress, ItemDescription, ItemFirst, ItemBody}
	kindItems  = []int{ItemKind}
)

// Sides are how far title, text and kind of page fit the phrase, each 0 to 100 by the points of its items. A side of
// which nothing is known is taken to be as good as the rest.
func (f Fit) Sides() (title, text, kind float64) {
	of := func(items []int) float64 {
		points, most := 0.0, 0.0
		for _, i := range items {
			if i < len(f.Items) && f.Items[i].Known {
				points, most = points+f.Items[i].Points, most+f.Items[i].Most
			}
		}
		if most == 0 {
			return f.Total
		}
		return 100 * points / most
	}
	return of(titleItems), of(textItems), of(kindItems)
}

// SidesOf is Sides of shares under points; see Shares.
func (p Points) SidesOf(shares []float64) (title, text, kind float64) {
	f := Fit{Total: p.Of(shares)}
	for i, share := range shares {
		f.Items = append(f.Items, Item{Points: p[i] * share, Most: p[i], Known: share >= 0})
	}
	return f.Sides()
}

// Renewed is a fit that was reckoned with an earlier checklist, the first one or a later
// one, with today's points. An item that was not on it is not known.
func (f Fit) Renewed(first bool) Fit {
	shares := f.Shares()
	f.Items = slices.Clone(f.Items[:min(len(f.Items), int(items))])
	for i := range f.Items {
		if first && i != ItemBody && i != ItemKind && shares[i] <= firstSomeShare {
			shares[i] *= someShare / firstSomeShare
		}
		f.Items[i].Most, f.Items[i].Points = Checklist[i], Checklist[i]*max(0, shares[i])
	}
	for i := len(f.Items); i < int(items); i++ {
		f.Items = append(f.Items, Item{Name: itemNames[i], Most: Checklist[i],
			Because: "not looked at when it was looked up"})
		f.Partial = true
	}
	f.Total = Checklist.Of(f.Shares())
	return f
}

// divides are what stands between a title's parts: what it is about, a promise, the
// site's name.
var divides = regexp.MustCompile(` [|–—·•»/-] |: `)

// alone is the share of what a title says that the phrase says: a title that names
// seniors as well is for those who ask for them. Of a title's parts the best counts;
// numbers, function words and the site's name are left out.
func (q Query) alone(title, site string) likeness {
	wanted := map[string]bool{}
	for _, s := range q.stems {
		wanted[s] = true
	}
	named := map[string]bool{}
	for _, w := range phrase.Words(phrase.Normal(site)) {
		named[w] = true
	}
	best := likeness{0, "holds none of its words", false}
	for _, part := range divides.Split(title, -1) {
		found, others := 0, []string{}
		for _, w := range phrase.Words(phrase.Normal(part)) {
			switch {
			case phrase.IsFunctionWord(w, q.Lang) || strings.Trim(w, "0123456789") == "":
			case wanted[q.stem(w)]:
				found++
			case !named[w]:
				others = append(others, w)
			}
		}
		if found == 0 || float64(found)/float64(found+len(others)) <= best.share {
			continue
		}
		best = likeness{float64(found) / float64(found+len(others)), "says nothing else", true}
		if len(others) > 0 {
			best.why = fmt.Sprintf("also says “%s”", strings.Join(others[:min(3, len(others))], "”, “"))
		}
	}
	return best
}

func typeLikeness(t PageType, majority intent.Class, settled bool) likeness {
	switch {
	case !settled:
		return likeness{1, "the top ten have mixed intent", true}
	case t.Want() == majority:
		return likeness{1, fmt.Sprintf("%s: fits the main intent (%s)", t, majority), true}
	}
	return likeness{0, fmt.Sprintf("%s: other than the main intent (%s)", t, majority), false}
}

// body is the mean over the phrase's stems of tf/(tf+k1), scaled to reach 1 at
// six uses per bodyScale words.
func (q Query) body(p *Page) likeness {
	if p.Words == 0 || len(q.stems) == 0 {
		return likeness{0, "no text", false}
	}
	tf := map[string]int{}
	for _, s := range q.stemsOf(phrase.Normal(p.Text)) {
		tf[s]++
	}
	saturated := func(f float64) float64 { return f / (f + bodyK1) }
	sum, absent := 0.0, 0
	for _, s := range q.stems {
		if tf[s] == 0 {
			absent++
		}
		f := float64(tf[s]) * bodyScale / math.Max(bodyScale, float64(p.Words))
		sum += math.Min(1, saturated(f)/saturated(6))
	}
	why := fmt.Sprintf("uses its words in %d words of text", p.Words)
	if absent > 0 {
		why = fmt.Sprintf("lacks %d of its %d words", absent, len(q.stems))
	}
	return likeness{sum / float64(len(q.stems)), why, absent == 0}
}

func lastSegment(rawURL string) string {
	u, err := url.Parse(rawURL)
	if err != nil {
		return ""
	}
	parts := strings.Split(strings.Trim(u.Path, "/"), "/")
	seg := parts[len(parts)-1]
	if dot := strings.LastIndexByte(seg, '.'); dot > 0 {
		seg = seg[:dot]
	}
	return strings.NewReplacer("-", " ", "_", " ").Replace(seg)
}

func firstWords(text string) string {
	n := 0
	inWord := false
	for i, r := range text {
		space := r == ' ' || r == '\n' || r == '\t'
		if !space && !inWord {
			if n++; n > FirstWords {
				return text[:i]
			}
		}
		inWord = !space
	}
	return text
}
