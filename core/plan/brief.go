package plan

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/serp"
)

// Brief is what a writer needs for one article.
type Brief struct {
	Titles    []string      // each holds the lead phrase
	Kind      serp.PageType // what to write
	Also      serp.PageType // a second kind that searchers want; "" when there is none
	Words     int           // median of the ten that fit; 0 when none could be read
	Least     int           // words of the shorter half's middle, and of the longer one's: the range to write
	Most      int
	Questions []Heading // in the searchers' own words
	Headings  []Heading // that several of the ten have
	Mention   []Mention
	Read      int      // pages of the ten that could be read
	Lack      []string // what the weak ones of the ten lack, that this article should have
	Facts     []string // what the ten carry beside text
	Links     int      // solid links to aim for
	Linkers   []string // sites that link to the ten, the most trusted first
	PublishBy time.Time
	Because   string // what length and kind were told from

	spelt map[string]string // words that the pages write with capital letters, as they do, by their small form
}

// Heading is a subheading, and how many of the ten have one that says the same.
type Heading struct {
	Text string
	Have int
}

// Mention is a word to mention, and how many of the pages that were read do.
type Mention struct {
	Word string
	Do   int
}

// Subject is what a brief is made of.
type Subject struct {
	Lead      string   // normal form
	Support   []string // the topic's other phrases
	Related   []string // questions that the engine shows beside the results
	Lang      string
	Reading   serp.Reading
	Pages     []*serp.Page // of the ten that could be read, any order
	Modifiers []phrase.Modifier
	Elsewhere func(phrase string) bool // another article of the plan answers it; nil where there is none
	Links     int
	PublishBy time.Time
}

// How much goes into a brief.
const (
	mostTitles    = 4
	mostQuestions = 8
	mostHeadings  = 8
	mostMentions  = 12
	mostLinkers   = 8
	fewestHaving  = 2 // of the ten, for a heading to be theirs
	// headings about the subject that are enough: where there are fewer, those that may stand anywhere are told
	enoughHeadings = 3
	longestTitle   = 65 // characters; engines cut longer ones (common practice, no source)
)

// BriefOf writes the brief.
func BriefOf(s Subject) Brief {
	b := Brief{Links: s.Links, PublishBy: s.PublishBy, Read: len(s.Pages)}
	var fitting []serp.Entry
	advice := s.Reading.Article()
	b.Kind, b.Also = advice.Kind, advice.Also
	for _, e := range s.Reading.Ten() {
		if e.Type.Want() == s.Reading.Majority {
			fitting = append(fitting, e)
		}
	}
	var lengths []int
	for _, e := range fitting {
		if e.Words > 0 {
			lengths = append(lengths, e.Words)
		}
	}
	if n := len(lengths); n > 0 {
		slices.Sort(lengths)
		b.Words = (lengths[(n-1)/2] + lengths[n/2]) / 2
		b.Least, b.Most = lengths[n/4], lengths[n-1-n/4]
	}
	b.Because = fmt.Sprintf("%s; %d answer what most of them do, and the middle one of these has %d words",
		advice.Because, len(fitting), b.Words)
	texts := readTexts(s)
	if s.Elsewhere == nil {
		s.Elsewhere = func(string) bool { return false }
	}
	b.spelt = spelling(s)
	b.Questions = questions(s, texts)
	b.Headings = theirs(s, texts, b.Questions)
	b.Mention = mentions(s, texts)
	b.Titles = titles(s, b)
	b.Lack, b.Facts, b.Linkers = lacks(s.Reading), facts(s.Pages), linkers(s.Reading)
	return b
}

// text is what of a page is compared: its stems, and its headings' keys.
type text struct {
	stems    map[string]bool   // said in a title or heading, or twice
	headings map[string]string // by variant key
}

func readTexts(s Subject) []text {
	out := make([]text, len(s.Pages))
	for i, p := range s.Pages {
		t := text{map[string]bool{}, map[string]string{}}
		for _, part := range append([]string{p.Title}, p.Headings...) {
			for _, stem := range phrase.Stems(phrase.Normal(part), s.Lang) {
				t.stems[stem] = true
			}
		}
		once := map[string]bool{}
		for _, stem := range phrase.Stems(phrase.Normal(p.Text), s.Lang) {
			if once[stem] {
				t.stems[stem] = true
			}
			once[stem] = true
		}
		for _, h := range p.Headings {
			if key := phrase.VariantKey(phrase.Normal(h), s.Lang); key != "" && t.headings[key] == "" {
				t.headings[key] = h
			}
		}
		out[i] = t
	}
	return out
}

// having counts the pages with a heading that says all telling stems of a phrase, and less than half as many
// others: “clean a lens” does not answer what a lens is.
func having(q string, lang string, texts []text) (n int) {
	stems := telling(q, lang)
	if len(stems) == 0 {
		return 0
	}
	for _, t := range texts {
		for _, h := range t.headings {
			said := telling(phrase.Normal(h), lang)
			missing := func(stem string) bool { return !slices.Contains(said, stem) }
			if !slices.ContainsFunc(stems, missing) && 2*(len(said)-len(stems)) < len(stems) {
				n++
				break
			}
		}
	}
	return n
}

// questions are the topic's phrases that ask, and those the engine shows, without
// variants of one another.
func questions(s Subject, texts []text) []Heading {
	var out []Heading
	seen := map[string]bool{phrase.VariantKey(s.Lead, s.Lang): true}
	var found []string // titles, by which slips of typing are told
	for _, e := range s.Reading.Ten() {
		found = append(found, e.Title)
	}
	about := heartOf(s)
	for i, q := range slices.Concat(s.Support, s.Related) {
		if q = phrase.Normal(q); !phrase.Has(phrase.Shapes(q, s.Lang), phrase.Question) {
			continue
		}
		if s.Elsewhere(q) ||
			i >= len(s.Support) && (besideTheSubject(s.Lead, q, s.Lang) || !about.holds(q, s.Lang)) {
			continue
		}
		q = phrase.AsRead(q, found, s.Lang)
		key := phrase.VariantKey(q, s.Lang)
		if seen[key] || phrase.Slipped(q, s.Lead) ||
			slices.ContainsFunc(out, func(o Heading) bool { return phrase.Slipped(q, o.Text) }) {
			continue
		}
		seen[key] = true
		if out = append(out, Heading{q, having(q, s.Lang, texts)}); len(out) == mostQuestions {
			break
		}
	}
	return out
}

// besideTheSubject holds when all that a question has in common with a lead stands behind a preposition in both: “is
// baking good for beginners” beside “best telescope for beginners”; or when it is how they ask.
func besideTheSubject(lead, q, lang string) bool {
	ahead := append(subject(phrase.Ahead(lead, lang), lang), subject(phrase.Ahead(q, lang), lang)...)
	of, common := subject(lead, lang), false
	for _, stem := range subject(q, lang) {
		if slices.Contains(of, stem) {
			if common = true; slices.Contains(ahead, stem) {
				return false
			}
		}
	}
	return common || askedAlike(lead, q, lang)
}

// askedAlike holds when two phrases share words of how one asks, such as should, i or buy: then the engine may relate
// them for these alone. What has no word in common was related for what it is about.
func askedAlike(lead, q, lang string) bool {
	words := phrase.Words(lead)
	return slices.ContainsFunc(phrase.Words(q), func(w string) bool {
		return slices.Contains(words, w) && !plainWords[w] && !phrase.Has(phrase.Shapes(w, lang), phrase.Question)
	})
}

// plainWords are shared by phrases that have nothing to do with each other.
var plainWords = map[string]bool{"a": true, "an": true, "the": true, "to": true, "of": true, "in": true, "on": true,
	"at": true, "for": true, "with": true, "from": true, "by": true, "and": true, "or": true}

// subject are the telling stems but for words that say how something is sought and not what: “which cheese press
// should i buy” has nothing in common with “should i buy a telescope”.
func subject(normal, lang string) []string {
	words := slices.DeleteFunc(phrase.Words(normal), func(w string) bool {
		return phrase.Has(phrase.Shapes(w, lang), phrase.Buying) || phrase.Has(phrase.Shapes(w, lang), phrase.Verdict)
	})
	if len(words) == 0 {
		return nil
	}
	rest := strings.Join(words, " ")
	if !slices.ContainsFunc(words, func(w string) bool {
		return !Praises(w, lang) && !phrase.IsLight(w, lang) && !phrase.IsFunctionWord(w, lang)
	}) {
		return nil
	}
	return telling(rest, lang)
}

// telling are the content stems of a phrase but for best, get and the like, rising; all where there are no others.
func telling(normal, lang string) []string {
	words := slices.DeleteFunc(phrase.Words(normal), func(w string) bool {
		return Praises(w, lang) || phrase.IsLight(w, lang) || phrase.IsFunctionWord(w, lang)
	})
	if len(words) == 0 {
		words = phrase.Words(normal)
	}
	return slices.Sorted(slices.Values(phrase.ContentStems(strings.Join(words, " "), lang)))
}

// theirs are subheadings that several of the ten have: those about the subject, then others; of each those
// that most have first. What only says the lead once more is the title, and left out.
func theirs(s Subject, texts []text, asked []Heading) []Heading {
	count := map[string]int{}
	form := map[string]string{}
	for _, t := range texts {
		for key, h := range t.headings {
			count[key]++
			if was, some := form[key]; !some || h < was {
				form[key] = h
			}
		}
	}
	for _, q := range asked {
		delete(count, phrase.VariantKey(q.Text, s.Lang))
	}
	for _, e := range s.Reading.Ten() { // what is a page's title leads to that page
		delete(count, phrase.VariantKey(phrase.Normal(e.Title), s.Lang))
	}
	about := map[string]bool{} // stems of the subject: a heading that says none may stand anywhere
	for _, p := range append([]string{s.Lead}, s.Support...) {
		for _, stem := range phrase.ContentStems(p, s.Lang) {
			about[stem] = true
		}
	}
	for _, m := range s.Modifiers {
		about[m.Stem] = true
	}
	lead := telling(s.Lead, s.Lang)
	var out, general []Heading
	for key, n := range count {
		switch {
		case n < fewestHaving, saysNothing(form[key], lead, s.Lang), s.Elsewhere(phrase.Normal(form[key])):
		case slices.ContainsFunc(phrase.ContentStems(phrase.Normal(form[key]), s.Lang), func(stem string) bool {
			return about[stem]
		}):
			out = append(out, Heading{form[key], n})
		default:
			general = append(general, Heading{form[key], n})
		}
	}
	most := func(a, b Heading) int { return cmp.Or(b.Have-a.Have, strings.Compare(a.Text, b.Text)) }
	slices.SortFunc(out, most)
	slices.SortFunc(general, most)
	general = slices.DeleteFunc(general, func(h Heading) bool { return 2*h.Have < len(texts) })
	if len(out) < enoughHeadings {
		out = append(out, general...)
	}
	return out[:min(mostHeadings, len(out))]
}

// saysNothing reports whether a heading only says the lead once more, or what may stand on any page.
func saysNothing(heading string, lead []string, lang string) bool {
	normal := phrase.Normal(heading)
	if anywhere[normal] {
		return true
	}
	for _, stem := range telling(normal, lang) {
		if !slices.Contains(lead, stem) && !phrase.Asks(stem, lang) && !overview[stem] {
			return false
		}
	}
	return len(lead) > 0
}

// overview are stems of words that headings of an overview say beside the subject (common practice, no source).
var overview = map[string]bool{"about": true, "short": true, "overview": true, "summari": true}

// anywhere are headings that may stand on any page (common practice, no source).
var anywhere = map[string]bool{"further reading": true, "answers": true, "comments": true, "related": true,
	"related articles": true, "about the author": true, "sources": true, "references": true, "see also": true,
	"share": true, "newsletter": true, "introduction": true, "conclusion": true, "table of contents": true,
	"worth knowing": true, "good to know": true, "faq": true, "questions": true, "summary": true, "all steps": true}

// mentions are the modifiers, each with how many of the pages say it.
func mentions(s Subject, texts []text) (out []Mention) {
	for _, m := range s.Modifiers[:min(mostMentions, len(s.Modifiers))] {
		one := Mention{Word: m.Word}
		for _, t := range texts {
			if t.stems[m.Stem] {
				one.Do++
			}
		}
		if 2*one.Do >= len(texts) { // what most of the pages say
			out = append(out, one)
		}
	}
	return out
}

// lackWords say what a weak reason means for whoever writes against it. Weaknesses of
// a site are no advice for an article.
var lackWords = []struct {
	weak serp.Weakness
	say  string
}{
	{serp.WeakTitle, "the phrase in the title"},
	{serp.WeakElse, "an answer to just this"},
	{serp.WeakThin, "enough text"},
	{serp.WeakStale, "a recent date"},
}

// lacks counts what the footholds of the ten are weak in.
func lacks(r serp.Reading) []string {
	var out []string
	for _, l := range lackWords {
		n, all := 0, 0
		for _, e := range r.Ten() {
			if !e.Foothold {
				continue
			}
			all++
			if e.Has(l.weak) {
				n++
			}
		}
		if n > 0 {
			out = append(out, fmt.Sprintf("%s (%d of the %d weakest pages on page one lack it)", l.say, n, all))
		}
	}
	return out
}

// facts say what the pages carry beside text, where two or more do.
func facts(pages []*serp.Page) (out []string) {
	for _, f := range []struct {
		says string
		has  func(*serp.Page) bool
	}{
		{"a table", func(p *serp.Page) bool { return len(p.Tables) > 0 }},
		{"a list of steps", func(p *serp.Page) bool { return p.Steps >= 3 }},
		{"prices", func(p *serp.Page) bool { return p.Prices > 0 }},
		{"a video", func(p *serp.Page) bool { return p.Videos > 0 }},
		{"something to fill in or reckon with", func(p *serp.Page) bool { return p.Inputs > 1 }},
	} {
		n := 0
		for _, p := range pages {
			if f.has(p) {
				n++
			}
		}
		if n >= fewestHaving && 5*n >= 2*len(pages) {
			out = append(out, fmt.Sprintf("%s (%d of %d pages have it)", f.says, n, len(pages)))
		}
	}
	count := map[string]int{}
	for _, p := range pages {
		for _, t := range slices.Compact(slices.Sorted(slices.Values(p.Tables))) {
			count[t]++
		}
	}
	var heads []string
	for t, n := range count {
		if n >= fewestHaving {
			heads = append(heads, fmt.Sprintf("a table of: %s (%d of %d)", t, n, len(pages)))
		}
	}
	slices.SortFunc(heads, func(a, b string) int {
		return strings.Compare(a, b)
	})
	return append(out, heads[:min(3, len(heads))]...)
}

// linkers are sites that link to the ten and do not stand there themselves.
func linkers(r serp.Reading) []string {
	standing := map[string]float64{}
	for _, e := range r.Ten() {
		for _, l := range e.Profile.Strongest {
			if l.Standing >= links.SolidStanding {
				standing[l.Site] = l.Standing
			}
		}
	}
	for _, e := range r.Ten() {
		delete(standing, e.Site)
	}
	var out []string
	for site := range standing {
		out = append(out, site)
	}
	slices.SortFunc(out, func(a, b string) int {
		return cmp.Or(cmp.Compare(standing[b], standing[a]), strings.Compare(a, b))
	})
	return out[:min(mostLinkers, len(out))]
}
