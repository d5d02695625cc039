package standin

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// document is the written page, before it is HTML.
type document struct {
	Title, Description, Heading string
	Intro                       string
	Sections                    []section
	Steps                       []string
	Products                    []product
	Facts                       []fact // a table of two columns
	Replies                     []reply
	Author                      string
	Picture                     string // what the picture shows; "" when there is none
}

type fact struct{ Name, Value string }

type reply struct{ By, On, Text string }

type section struct {
	Heading    string
	Paragraphs []string
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
	pageHome: {90, 200}, pageShelf: {90, 240}, pageProduct: {120, 300}, pageComparison: {800, 2100},
	pageReview: {600, 1500}, pageHowTo: {450, 1400}, pageArticle: {420, 1500}, pageThread: {120, 420},
	pageVideo: {50, 130}, pageEntry: {500, 1400}, pageTool: {120, 280}, pageOfficial: {400, 1200},
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
	voice := w.voice(p, rng)
	d.Description = voice.sentence()
	if p.need != nil && rng.Float64() < 0.3+0.5*p.quality {
		d.Description = capital(p.subject) + ": " + d.Description
	}
	d.Intro = voice.paragraph(3)
	if p.need != nil && rng.Float64() < 0.6 {
		d.Picture = pictureOf[p.kind] + " " + p.subject
	}
	span := lengths[p.kind]
	want := span[0] + int(float64(span[1]-span[0])*(0.25*rng.Float64()+0.75*p.quality*rng.Float64()+0.1))
	for have := 50; have < want; {
		s := section{Heading: voice.heading()}
		for range 2 + rng.IntN(2) {
			text := voice.paragraph(3 + rng.IntN(3))
			s.Paragraphs = append(s.Paragraphs, text)
			have += strings.Count(text, " ") + 1
			if have >= want {
				break
			}
		}
		d.Sections = append(d.Sections, s)
	}
	w.furnish(&d, p, rng, voice)
	return d
}

// furnish adds what the kind of page has beside text.
func (w *World) furnish(d *document, p *page, rng *rand.Rand, v *voice) {
	switch p.kind {
	case pageEntry, pageOfficial, pageProduct:
		for _, name := range factNames[:3+rng.IntN(len(factNames)-3)] {
			value, _ := w.endless([...]string{"count", "town", "year", "code", "name"}[rng.IntN(5)], rng)
			d.Facts = append(d.Facts, fact{name, value})
		}
	}
	switch p.kind {
	case pageHowTo:
		for range 4 + rng.IntN(5) {
			d.Steps = append(d.Steps, v.sentence())
		}
	case pageShelf:
		d.Products = w.productsFor(p, 4+rng.IntN(9), rng)
	case pageProduct:
		d.Products = w.productsFor(p, 1, rng)
	case pageComparison, pageReview:
		compared := w.productsFor(p, 3+rng.IntN(4), rng)
		for i := range min(len(d.Sections), len(compared)) {
			d.Sections[i].Paragraphs = append(d.Sections[i].Paragraphs,
				fmt.Sprintf("The %s costs about $%d.", compared[i].Name, compared[i].Price))
		}
		if p.kind == pageComparison && rng.Float64() < 0.7 {
			d.Products = compared
		}
	}
	for i := range p.replies {
		by, _ := w.endless("name", rng)
		on := p.published.AddDate(0, 0, 1+i*3)
		d.Replies = append(d.Replies, reply{by, on.Format("2 January 2006"), v.typed(v.paragraph(1 + rng.IntN(3)))})
	}
}

// pictureOf begins what a picture on a kind of page is said to show.
var pictureOf = [pageKinds]string{pageHome: "Our bench:", pageShelf: "The shelf:", pageProduct: "The box:",
	pageComparison: "Side by side:", pageReview: "On the table:", pageHowTo: "Half way:", pageArticle: "A sketch:",
	pageThread: "My attempt:", pageVideo: "A still:", pageEntry: "Plate:", pageTool: "The scale:", pageOfficial: "Notice:"}

var factNames = []string{"First made", "Made in", "Number", "Known to", "Kept at", "Listed as", "Reported by"}

func (w *World) productsFor(p *page, n int, rng *rand.Rand) []product {
	models := w.slots[p.hobby]["model"]
	var out []product
	if p.need != nil {
		if m, ok := p.need.bind["model"]; ok {
			out = append(out, makeProduct(m, rng))
		}
	}
	for len(out) < n && len(models) > 0 {
		m := models[rng.IntN(len(models))]
		if p.site.brand != "" {
			m.maker = p.site.brand
			m.one = p.site.brand + " " + strings.Join(strings.Fields(m.one)[1:], " ")
		}
		out = append(out, makeProduct(m, rng))
	}
	return out[:min(n, len(out))]
}

func makeProduct(m value, rng *rand.Rand) product {
	return product{Name: titleCase(m.one), Brand: titleCase(m.maker), Price: int(m.price), Weight: 150 + 10*rng.IntN(600),
		Stock:   [...]string{"in stock", "a few left", "to order"}[rng.IntN(3)],
		Verdict: [...]string{"sound", "good value", "for the patient", "dear", "the one we kept"}[rng.IntN(5)]}
}

// voice writes sentences on a page's subject.
type voice struct {
	w     *World
	p     *page
	rng   *rand.Rand
	lines [][]gap
	loyal float64 // how often it says the subject's own things
	near  []*query
}

// strays is how many of a page's sentences have nothing to do with its hobby.
const strays = 0.35

func (w *World) voice(p *page, rng *rand.Rand) *voice {
	v := &voice{w: w, p: p, rng: rng, lines: w.sentences[p.hobby], loyal: 0.35 + 0.5*p.quality}
	if p.about != nil {
		v.near = p.about.queries
	}
	return v
}

var echoes = []string{
	"People who ask about %s want a plain answer, and here it is.",
	"Everything on %s in one place, as far as we know it.",
	"On %s opinions differ less than one would think.",
	"We are often asked about %s.",
	"This page is about %s and what comes with it.",
}

func (v *voice) sentence() string {
	if len(v.near) > 0 && v.rng.Float64() < 0.03+0.12*v.p.quality {
		return fmt.Sprintf(echoes[v.rng.IntN(len(echoes))], v.near[v.rng.IntN(len(v.near))].text)
	}
	if asides := v.w.asides[v.p.hobby]; len(asides) > 0 && v.rng.Float64() < strays {
		return capital(fill(asides[v.rng.IntN(len(asides))], nil, v.fromStock))
	}
	var bind map[string]value
	if v.p.about != nil && v.rng.Float64() < v.loyal {
		bind = v.p.about.bind
	}
	text := fill(v.lines[v.rng.IntN(len(v.lines))], bind, func(g gap) value {
		list := v.w.slots[v.p.hobby][g.slot]
		return list[int(float64(len(list))*v.rng.Float64()*v.rng.Float64())]
	})
	return capital(text)
}

func (v *voice) fromStock(g gap) value {
	if text, ok := v.w.endless(g.slot, v.rng); ok {
		return value{one: text, many: text}
	}
	list := v.w.stock[v.p.hobby][g.slot]
	return list[v.rng.IntN(len(list))]
}

// typed is how people type who are in a hurry: one word in sixty is misspelt.
func (v *voice) typed(s string) string {
	words := strings.Fields(s)
	for i, word := range words {
		if len(word) > 4 && v.rng.IntN(60) == 0 {
			words[i] = misspell(word, v.rng)
		}
	}
	return strings.Join(words, " ")
}

func (v *voice) paragraph(n int) string {
	s := make([]string, n)
	for i := range s {
		s[i] = v.sentence()
	}
	return strings.Join(s, " ")
}

var plainHeadings = []string{"What we found", "Before you begin", "What it costs", "Common mistakes",
	"Questions people ask", "In short", "What you need", "How we tried it", "Further notes"}

func (v *voice) heading() string {
	if len(v.near) > 0 && v.rng.Float64() < 0.15+0.4*v.p.quality {
		return headline(v.near[v.rng.IntN(len(v.near))].text)
	}
	return plainHeadings[v.rng.IntN(len(plainHeadings))]
}
