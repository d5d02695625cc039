package standin

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
)

// line is a sentence with its gaps.
type line []gap

// said is a line with what fills its gaps. Nothing is written out before somebody asks
// for the page; to weigh it, the numbers of its words are enough.
type said struct {
	line line
	with []*value // one for each gap that is no literal
}

// String writes the sentence.
func (s said) String() string {
	var b strings.Builder
	at := 0
	for _, g := range s.line {
		if g.slot == "" {
			b.WriteString(g.literal)
			continue
		}
		g.write(&b, s.with[at])
		at++
	}
	return capital(b.String())
}

// words is about how many words the sentence has.
func (s said) words() int {
	n := len(s.with)
	for _, g := range s.line {
		n += len(g.tokens)
	}
	return n
}

// paragraph is some sentences.
type paragraph []said

// String writes the sentences one after the other.
func (p paragraph) String() string {
	all := make([]string, len(p))
	for i, s := range p {
		all[i] = s.String()
	}
	return strings.Join(all, " ")
}

// lines reads sentences into lines of the world's words.
func (w *World) lines(texts []string) []line {
	out := make([]line, len(texts))
	for i, text := range texts {
		out[i] = parseGaps(text)
		for j := range out[i] {
			if out[i][j].slot == "" {
				out[i][j].tokens = w.lexicon.all(out[i][j].literal)
			}
		}
	}
	return out
}

// saying is what pages can say whose need holds some slots: lines about what it holds,
// and lines of the hobby that are about nothing in particular.
type saying struct{ own, free []line }

// sayingOf finds what pages on a need can say; every gap is one that the need holds.
func (w *World) sayingOf(n *need) *saying {
	return w.sayingFor(n.hobby, n.bind)
}

func (w *World) sayingFor(hobby int, bind map[string]*value) *saying {
	key := fmt.Sprint(hobby, sortedKeys(bind))
	if s := w.sayings[key]; s != nil {
		return s
	}
	s := &saying{}
	for _, l := range w.sentences[hobby] {
		gaps, held := 0, true
		for _, g := range l {
			if g.slot != "" {
				gaps++
				held = held && bind[g.key()] != nil
			}
		}
		if gaps == 0 {
			s.free = append(s.free, l)
		} else if held {
			s.own = append(s.own, l)
		}
	}
	w.sayings[key] = s
	return s
}

// document is the page before it is HTML.
type document struct {
	Title, Heading string
	Lead           string // begins the description; may be empty
	Description    said
	Intro          paragraph
	Sections       []section
	Steps          paragraph // one sentence a step
	Products       []product
	Facts          []fact // a table of two columns
	Replies        []reply
	Author         string
	Picture        string // what the picture shows; "" when there is none
}

type fact struct{ Name, Value string }

type reply struct {
	By, On string
	Text   paragraph
}

type section struct {
	Heading    string
	Paragraphs []paragraph
}

type product struct {
	Name, Brand string
	Price       int
	Weight      int // grams
	Stock       string
	Verdict     string
}

// lengths is how many words a page of a kind has: fewest and most.
var lengths = [pageKinds][2]int{
	pageHome: {70, 160}, pageShelf: {60, 200}, pageProduct: {90, 220}, pageComparison: {420, 1150},
	pageReview: {350, 950}, pageHowTo: {260, 900}, pageArticle: {260, 950}, pageThread: {80, 300},
	pageVideo: {40, 110}, pageEntry: {260, 850}, pageTool: {90, 220}, pageOfficial: {220, 750},
}

var authors = strings.Fields("Ansel Brida Corin Dalia Edmer Frida Gorm Hesper Ilka Joren Kestrel Lunet Marit " +
	"Nuala Orrin Petra")

// write composes the page. It depends on the page only, and is always the same.
func (w *World) write(p *page) document {
	rng := w.random("text", p.site.domain, p.path)
	d := document{Title: p.title, Heading: p.title, Author: authors[rng.IntN(len(authors))]}
	if rng.Float64() < 0.35 && p.need != nil && !p.exact {
		d.Heading = headline(w.looseSubject(p, rng))
	}
	v := w.voice(p, rng)
	d.Description, _ = v.sentence()
	if p.need != nil && rng.Float64() < 0.3+0.5*p.quality {
		d.Lead = capital(p.subject) + ": "
	}
	d.Intro = v.paragraph(3)
	if p.need != nil && rng.Float64() < 0.6 {
		d.Picture = pictureOf[p.kind] + " " + p.subject
	}
	span := lengths[p.kind]
	want := span[0] + int(float64(span[1]-span[0])*(0.25*rng.Float64()+0.75*p.quality*rng.Float64()+0.1))
	for have := 50; have < want; {
		s := section{Heading: v.heading()}
		for range 2 + rng.IntN(2) {
			text := v.paragraph(3 + rng.IntN(3))
			if len(text) == 0 {
				break
			}
			s.Paragraphs = append(s.Paragraphs, text)
			for _, one := range text {
				have += one.words()
			}
			if have >= want {
				break
			}
		}
		if len(s.Paragraphs) == 0 {
			break // all is said
		}
		d.Sections = append(d.Sections, s)
	}
	w.furnish(&d, p, rng, v)
	return d
}

// describe is how the page describes itself.
func (d document) describe() string {
	if len(d.Description.line) == 0 {
		return d.Title
	}
	return d.Lead + d.Description.String()
}

// furnish adds what the kind of page has beside text.
func (w *World) furnish(d *document, p *page, rng *rand.Rand, v *voice) {
	switch p.kind {
	case pageEntry, pageOfficial, pageProduct:
		for _, at := range rng.Perm(len(factNames))[:3+rng.IntN(len(factNames)-3)] {
			v, _ := w.endless(factNames[at].Value, rng)
			d.Facts = append(d.Facts, fact{factNames[at].Name, v.one})
		}
	}
	switch p.kind {
	case pageHowTo:
		d.Steps = w.stepsFor(p, rng)
	case pageShelf:
		d.Products = w.productsFor(p, 4+rng.IntN(9), rng)
	case pageProduct:
		d.Products = w.productsFor(p, 1, rng)
	case pageComparison:
		compared := w.productsFor(p, 3+rng.IntN(4), rng)
		for i := range min(len(d.Sections), len(compared)) {
			v.say(d, i, v.w.costs, compared[i].Name, fmt.Sprint(compared[i].Price))
		}
		if rng.Float64() < 0.7 {
			d.Products = compared
		}
	case pageReview:
		if of := w.productsFor(p, 1, rng); len(of) > 0 && len(d.Sections) > 0 {
			v.say(d, 0, v.w.costs, of[0].Name, fmt.Sprint(of[0].Price))
		}
	}
	for i := range p.replies {
		by, _ := w.endless("name", rng)
		on := p.published.AddDate(0, 0, 1+i*3)
		if text := v.paragraph(1 + rng.IntN(3)); len(text) > 0 {
			d.Replies = append(d.Replies, reply{by.one, on.Format("2 January 2006"), text})
		}
	}
}

const costs = "The {model} costs about ${price}."

// say adds a line to a section.
func (v *voice) say(d *document, section int, l line, with ...string) {
	s := said{line: l}
	for _, text := range with {
		s.with = append(s.with, &value{one: text, many: text})
	}
	d.Sections[section].Paragraphs = append(d.Sections[section].Paragraphs, paragraph{s})
}

// stepsFor are steps of what the page's need is to do, in their order.
func (w *World) stepsFor(p *page, rng *rand.Rand) paragraph {
	steps := w.steps[p.hobby]["any"]
	if p.about != nil {
		tags := []string{p.about.template.Steps}
		for _, slot := range []string{"task", "care"} {
			if v := p.about.bind[slot]; v != nil {
				tags = append(tags, v.tags...)
			}
		}
		for _, tag := range tags {
			if list := w.steps[p.hobby][tag]; list != nil {
				steps = list
			}
		}
	}
	var out paragraph
	for i, l := range steps {
		if rest := len(steps) - i; len(out)+rest <= 4 || rng.Float64() < 0.75 {
			out = append(out, said{line: l})
		}
	}
	return out
}

// pictureOf begins what a picture on a kind of page is said to show.
var pictureOf = [pageKinds]string{pageHome: "Our bench:", pageShelf: "The shelf:", pageProduct: "The box:",
	pageComparison: "Side by side:", pageReview: "On the table:", pageHowTo: "Half way:", pageArticle: "A sketch:",
	pageThread: "My attempt:", pageVideo: "A still:", pageEntry: "Plate:", pageTool: "The scale:", pageOfficial: "Notice:"}

// factNames are what tables of facts tell, and the endless stock it comes from.
var factNames = []fact{{"First made", "year"}, {"Known since", "year"}, {"Made in", "town"}, {"Number", "code"},
	{"Described by", "name"}, {"Kept at", "club"}, {"Length in mm", "size"}}

// productsFor are things that a page sells or compares: those that its need names, of
// different makers, or the things of the hobby.
func (w *World) productsFor(p *page, n int, rng *rand.Rand) []product {
	var out []product
	add := func(name, brand string, price float64) {
		name = titleCase(name)
		if !slices.ContainsFunc(out, func(o product) bool { return o.Name == name }) {
			out = append(out, makeProduct(name, titleCase(brand), price, rng))
		}
	}
	slots := w.slots[p.hobby]
	var gear *value
	if p.need != nil {
		for _, slot := range []string{"model", "model2"} {
			if m := p.need.bind[slot]; m != nil {
				add(m.one, m.maker, m.price)
			}
		}
		if gear = p.need.bind["gear"]; gear == nil && len(out) > 0 {
			for _, m := range slots["model"] {
				if len(out) < n && p.need.bind["model"].suits(m, true) && rng.Float64() < 0.5 {
					add(m.one, m.maker, m.price)
				}
			}
		}
	}
	makers := slots["maker"]
	for try := 0; len(out) < n && try < 4*n && len(makers) > 0; try++ {
		brand, thing := makers[rng.IntN(len(makers))].one, gear
		if p.site.brand != "" {
			brand = p.site.brand
		}
		if thing == nil || p.site.brand != "" && len(out) > 0 {
			thing = slots["gear"][rng.IntN(len(slots["gear"]))]
		}
		grade := [...]string{"", "", " basic", " plus", " compact"}[rng.IntN(5)]
		add(brand+" "+thing.one+grade, brand, max(thing.price, 8)*(0.7+0.8*rng.Float64()))
	}
	return out[:min(n, len(out))]
}

func makeProduct(name, brand string, price float64, rng *rand.Rand) product {
	return product{Name: name, Brand: brand, Price: int(price), Weight: 150 + 10*rng.IntN(600),
		Stock:   [...]string{"in stock", "a few left", "to order"}[rng.IntN(3)],
		Verdict: [...]string{"sound", "good value", "for the patient", "dear", "the one we kept"}[rng.IntN(5)]}
}

// voice writes sentences on a page's subject, none twice.
type voice struct {
	w                 *World
	p                 *page
	rng               *rand.Rand
	own, free, asides []line
	loyal             float64 // how often it speaks of the subject's own things
	near              []*query
	echoed, headed    int
	headings          []string
}

// strays is how many of a page's sentences are about people and places.
const strays = 0.3

func (w *World) voice(p *page, rng *rand.Rand) *voice {
	v := &voice{w: w, p: p, rng: rng, loyal: 0.35 + 0.5*p.quality, asides: w.asides[p.hobby]}
	s := w.silent[p.hobby]
	if p.about != nil {
		v.near, s = p.about.queries, p.about.lines
	}
	v.own, v.free, v.asides = v.mixed(s.own), v.mixed(s.free), v.mixed(v.asides)
	return v
}

// mixed is the lines in another order.
func (v *voice) mixed(list []line) []line {
	out := slices.Clone(list)
	v.rng.Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out
}

var echoes = []string{
	"People who ask about {ask} want a plain answer, and here it is.",
	"Everything on {ask} in one place, as far as we know it.",
	"On {ask} opinions differ less than one would think.",
	"We are often asked about {ask}.",
	"This page is about {ask} and what comes with it.",
	"Those who came here for {ask} can skip the next paragraph.",
	"Much of what is written on {ask} was copied from somewhere.",
}

// sentence is the next one; ok is false when all is said.
func (v *voice) sentence() (s said, ok bool) {
	if len(v.near) > 0 && v.echoed < len(echoes) && v.rng.Float64() < 0.03+0.12*v.p.quality {
		v.echoed++
		at := (v.echoed + int(v.p.key%7)) % len(echoes)
		return said{v.w.echoes[at], []*value{v.near[v.rng.IntN(len(v.near))].said}}, true
	}
	from := [...]*[]line{&v.own, &v.free, &v.asides}
	first := 1
	if u := v.rng.Float64(); u < strays {
		first = 2
	} else if v.rng.Float64() < v.loyal {
		first = 0
	}
	for k := range from {
		list := from[(first+k)%3]
		if len(*list) == 0 {
			continue
		}
		l := (*list)[0]
		*list = (*list)[1:]
		return v.filled(l), true
	}
	return said{}, false
}

// filled fills the gaps with what the need holds, or from a stock.
func (v *voice) filled(l line) said {
	s := said{line: l}
	for _, g := range l {
		if g.slot == "" {
			continue
		}
		if v.p.about != nil && v.p.about.bind[g.key()] != nil {
			s.with = append(s.with, v.p.about.bind[g.key()])
		} else {
			s.with = append(s.with, v.fromStock(g))
		}
	}
	return s
}

func (v *voice) fromStock(g gap) *value {
	if one, ok := v.w.endless(g.slot, v.rng); ok {
		return one
	}
	list := v.w.stock[v.p.hobby][g.slot]
	return list[v.rng.IntN(len(list))]
}

// typed is how people type who are in a hurry: one word in sixty is misspelt.
func typed(s string, rng *rand.Rand) string {
	words := strings.Fields(s)
	for i, word := range words {
		if len(word) > 4 && rng.IntN(60) == 0 {
			words[i] = misspell(word, rng)
		}
	}
	return strings.Join(words, " ")
}

func (v *voice) paragraph(n int) paragraph {
	var out paragraph
	for range n {
		if s, ok := v.sentence(); ok {
			out = append(out, s)
		}
	}
	return out
}

var plainHeadings = []string{"What we found", "Before you begin", "What it costs", "Common mistakes",
	"Questions people ask", "In short", "What you need", "How we tried it", "Further notes", "Where we would start",
	"What readers say", "When to leave it"}

// heading is the next one, none twice.
func (v *voice) heading() string {
	h := ""
	if len(v.near) > 0 && v.rng.Float64() < 0.15+0.4*v.p.quality {
		if q := v.near[v.rng.IntN(len(v.near))]; !q.typo {
			h = headline(q.text)
		}
	}
	if h == "" || slices.Contains(v.headings, h) {
		h = plainHeadings[(int(v.p.key%11)+5*v.headed)%len(plainHeadings)]
		v.headed++
	}
	v.headings = append(v.headings, h)
	return h
}
