package standin

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
)

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
		v := s.with[at]
		if v.proper != nil {
			v = v.proper
		}
		g.write(&b, v)
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
	pageHome: {70, 160}, pageShelf: {60, 150}, pageProduct: {90, 220}, pageComparison: {420, 1150},
	pageReview: {350, 950}, pageHowTo: {260, 900}, pageArticle: {260, 950}, pageThread: {80, 300},
	pageVideo: {40, 110}, pageEntry: {260, 850}, pageTool: {90, 220}, pageOfficial: {220, 750},
}

// write composes the page. It depends on the page only, and is always the same.
func (w *World) write(p *page) document {
	rng := w.random("text", p.site.domain, p.path)
	d := document{Title: p.title, Heading: p.title, Author: w.nameOf("name", uint64(rng.IntN(40)))}
	if rng.Float64() < 0.35 && p.need != nil && !p.exact {
		d.Heading = headline(w.looseSubject(p, rng))
	}
	v := w.voice(p, rng)
	if p.kind == pageThread {
		d.Intro = v.asking()
	} else {
		d.Intro = v.opening()
	}
	if len(d.Intro) > 0 {
		d.Description = d.Intro[0]
	}
	if p.need != nil && rng.Float64() < 0.3+0.5*p.quality {
		d.Lead = capital(p.subject) + ": "
	}
	if p.need != nil && rng.Float64() < 0.6 {
		d.Picture = pictureOf[p.kind] + " " + p.subject
	}
	span := lengths[p.kind]
	want := span[0] + int(float64(span[1]-span[0])*(0.25*rng.Float64()+0.75*p.quality*rng.Float64()+0.1))
	if p.kind != pageThread {
		v.sections(&d, want)
		if s := v.section(v.readers()); len(s.Paragraphs) > 0 && !v.sells() {
			d.Sections = append(d.Sections, s)
		}
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
	case pageEntry, pageOfficial, pageArticle:
		if p.kind != pageArticle || p.site.layout == 0 {
			d.Facts = v.t.factsOf(v.bind)
		}
	case pageHowTo:
		d.Steps = w.stepsFor(p, rng)
	case pageShelf:
		d.Products = w.productsFor(p, 4+rng.IntN(9), rng)
	case pageProduct:
		d.Products = w.productsFor(p, 1, rng)
		for _, pr := range d.Products {
			d.Facts = []fact{{"Weight", fmt.Sprintf("%d g", pr.Weight)}, {"Maker", pr.Brand},
				{"Warranty", [...]string{"1 year", "2 years", "3 years"}[rng.IntN(3)]}, {"Availability", pr.Stock}}
		}
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
		on := p.published.AddDate(0, 0, 1+i*3)
		if text := v.answer(1 + rng.IntN(2)); len(text) > 0 {
			d.Replies = append(d.Replies, reply{w.handle(rng), on.Format("2 January 2006"), text})
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
	all := w.texts[p.hobby].steps
	steps := all["any"]
	if p.about != nil {
		tags := []string{p.about.template.Steps}
		for _, slot := range []string{"task", "care"} {
			if v := p.about.bind[slot]; v != nil {
				tags = append(append(tags, v.tags...), v.one)
			}
		}
		for _, tag := range tags {
			if list := all[tag]; list != nil {
				steps = list
			}
		}
	}
	var out paragraph
	for i, l := range steps {
		if rest := len(steps) - i; len(out)+rest <= 4 || rng.Float64() < 0.45+0.55*p.quality {
			out = append(out, said{line: l})
		}
	}
	return out
}

// pictureOf begins what a picture on a kind of page is said to show.
var pictureOf = [pageKinds]string{pageHome: "Photo:", pageShelf: "In our shop:", pageProduct: "Product photo:",
	pageComparison: "Side by side:", pageReview: "In use:", pageHowTo: "Photo:", pageArticle: "Photo:",
	pageThread: "My attempt:", pageVideo: "From the video:", pageEntry: "Figure:", pageTool: "Example:",
	pageOfficial: "Figure:"}

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
	return product{Name: name, Brand: brand, Price: int(price), Weight: 10 * int(1+price*(0.6+1.2*rng.Float64())),
		Stock:   [...]string{"in stock", "a few left", "to order"}[rng.IntN(3)],
		Verdict: [...]string{"good", "good value", "for experienced users", "expensive", "our pick"}[rng.IntN(5)]}
}
