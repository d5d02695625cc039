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

// voice writes sentences on a page's subject, none twice.
type voice struct {
	w      *World
	t      *texts
	p      *page
	rng    *rand.Rand
	bind   map[string]*value
	says   *saying
	used   map[*gap]bool
	near   []*query
	echoed int
	heads  map[string]bool
}

func (w *World) voice(p *page, rng *rand.Rand) *voice {
	v := &voice{w: w, t: w.texts[p.hobby], p: p, rng: rng, used: map[*gap]bool{}, heads: map[string]bool{}}
	if p.about != nil {
		v.near, v.says, v.bind = p.about.queries, p.about.lines, p.about.bind
	} else { // about nothing in particular: how to begin
		v.bind = map[string]*value{}
		if list := w.slots[p.hobby]["hobby"]; len(list) > 0 {
			v.bind["hobby"] = list[0]
		}
		v.says = w.silent[p.hobby]
	}
	return v
}

// oneOf is one way to say a line that was not said; ok is false when it was, in whatever way.
func (v *voice) oneOf(ways []line) (s said, ok bool) {
	if v.used[&ways[0][0]] {
		return said{}, false
	}
	v.used[&ways[0][0]] = true
	return v.filled(ways[v.rng.IntN(len(ways))]), true
}

// opening is how the page begins: lines of its need, or what it is asked for.
func (v *voice) opening() (out paragraph) {
	if s, ok := v.echo(0.1 + 0.35*v.p.quality); ok {
		out = append(out, s)
	}
	intro := v.says.intro
	if v.sells() && len(v.says.offer) > 0 {
		intro = v.says.offer[:min(2, len(v.says.offer))]
	}
	for _, ways := range intro {
		if s, ok := v.oneOf(ways); ok && len(out) < 3 {
			out = append(out, s)
		}
	}
	for _, l := range v.t.free {
		if s, ok := v.oneOf([]line{l}); ok && len(out) < 2 {
			return append(out, s)
		}
	}
	return out
}

// sells reports whether the page is a shop's.
func (v *voice) sells() bool { return v.p.kind == pageShelf || v.p.kind == pageProduct }

// asking is what a thread asks.
func (v *voice) asking() (out paragraph) {
	for _, ways := range v.says.ask {
		if s, ok := v.oneOf(ways); ok && (len(out) == 0 || v.rng.Float64() < 0.8) {
			out = append(out, s)
		}
	}
	return out
}

// answer is what somebody answers or remarks: of what is known of the need's things, n lines that were not said.
func (v *voice) answer(n int) (out paragraph) {
	if ways := v.says.reply; len(ways) > 0 && v.rng.Float64() < 0.6 {
		if s, ok := v.oneOf(ways[v.rng.IntN(len(ways))]); ok {
			out = append(out, s)
		}
	}
	if s, ok := v.echo(0.03 + 0.1*v.p.quality); ok {
		out = append(out, s)
	}
	var can, own [][]line
	for _, part := range v.says.sections {
		if !part.shop {
			can, own = append(can, v.known(part)...), append(own, part.lines...)
		}
	}
	for _, ways := range append(can, own...) {
		if n == 0 {
			break
		}
		if s, ok := v.oneOf(ways); ok {
			out, n = append(out, s), n-1
		}
	}
	return out
}

// known is what is known of the values in the slots that a part tells of.
func (v *voice) known(p part) (out [][]line) {
	for _, slot := range p.tells {
		for _, l := range v.t.about(slot, v.bind[slot]) {
			out = append(out, []line{l})
		}
	}
	return out
}

// linesOf are the lines of a part: its first one, what is known of its slots' values, and the rest.
func (v *voice) linesOf(p part) (out [][]line) {
	own := p.lines
	if len(own) > 0 {
		out, own = append(out, own[0]), own[1:]
	}
	return append(append(out, v.known(p)...), own...)
}

// sections writes sections until the page has so many words, or all is said. The better a page, the more of its
// subject's parts it has, and the more it says in them.
func (v *voice) sections(d *document, want int) {
	have := 50
	add := func(p part) {
		if s := v.section(p); len(s.Paragraphs) > 0 {
			d.Sections = append(d.Sections, s)
			for _, text := range s.Paragraphs {
				for _, one := range text {
					have += one.words()
				}
			}
		}
	}
	var left []part
	for _, p := range v.says.sections {
		if have >= want {
			return
		}
		if v.sells() != p.shop {
			continue
		}
		if v.rng.Float64() < 0.4+0.6*v.p.quality {
			add(p)
		} else {
			left = append(left, p)
		}
	}
	tips := part{as: asTips}
	for _, p := range v.says.tips {
		tips.heads, tips.tells = append(tips.heads, p.heads...), append(tips.tells, p.tells...)
		tips.lines = append(tips.lines, p.lines...)
	}
	for _, l := range v.mixed(v.t.free) {
		tips.lines = append(tips.lines, []line{l})
	}
	for _, p := range append([]part{tips}, left...) {
		if have >= want {
			return
		}
		add(p)
	}
}

// readers is what readers wrote in.
func (v *voice) readers() part {
	return part{as: asReader, heads: v.w.readersHeads, lines: v.mixedWays(v.says.reader)[:min(6, len(v.says.reader))]}
}

// section writes a part.
func (v *voice) section(p part) (s section) {
	said, size := paragraph(nil), 3+v.rng.IntN(2)
	end := func() {
		if len(said) > 0 {
			s.Paragraphs = append(s.Paragraphs, said)
		}
		said = nil
	}
	for i, ways := range v.linesOf(p) {
		if i > 0 && v.rng.Float64() > 0.4+0.55*v.p.quality {
			continue // a page says not all
		}
		one, ok := v.oneOf(ways)
		if !ok {
			continue
		}
		if len(said) == 0 {
			if echo, ok := v.echo(0.1 + 0.7*v.p.quality); ok {
				said = append(said, echo)
			}
		}
		said = append(said, one)
		if len(said) >= size {
			end()
		}
	}
	end()
	if len(s.Paragraphs) > 0 {
		s.Heading = v.heading(p)
	}
	return s
}

// heading is over a part: a wording of the need, or one of the part's own; none twice.
func (v *voice) heading(p part) string {
	var can []string
	if len(v.near) > 0 && v.rng.Float64() < 0.15+0.4*v.p.quality {
		if q := v.near[v.rng.IntN(len(v.near))]; !q.typo {
			can = append(can, headline(q.text))
		}
	}
	first := int(v.p.key) % max(1, len(p.heads))
	for i := range p.heads {
		can = append(can, v.filled(p.heads[(first+i)%len(p.heads)]).String())
	}
	for _, h := range append(can, plainHeadings...) {
		if !v.heads[h] {
			v.heads[h] = true
			return h
		}
	}
	return v.p.title
}

var plainHeadings = []string{"More on this", "Further notes", "Also worth a look", "In detail", "Background",
	"What else to know", "More questions", "Last remarks", "Details", "Notes"}

// mixed is lines in another order, mixedWays the same of lines with their ways.
func (v *voice) mixed(list []line) []line { return mixed(v.rng, list) }

func (v *voice) mixedWays(list [][]line) [][]line { return mixed(v.rng, list) }

func mixed[T any](rng *rand.Rand, list []T) []T {
	out := slices.Clone(list)
	rng.Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out
}

// echoes are how a page says what it is asked for, as people type it.
var echoes = []string{
	"A question we get often: “{ask}”.",
	"If you searched for “{ask}”, you are in the right place.",
	"Here is what we know about “{ask}”.",
	"Many people ask: “{ask}”.",
	"You may also have seen this as “{ask}”.",
	"In short, on “{ask}”:",
	"Related: “{ask}”.",
}

// echo is one of them, as likely as that.
func (v *voice) echo(likely float64) (s said, ok bool) {
	if v.sells() { // shops name what they have, and quote nobody
		likely /= 3
	}
	if len(v.near) == 0 || v.echoed == len(echoes) || v.rng.Float64() >= likely {
		return said{}, false
	}
	v.echoed++
	at := (v.echoed + int(v.p.key%7)) % len(echoes)
	return said{v.w.echoes[at], []*value{v.near[v.rng.IntN(len(v.near))].said}}, true
}

// filled fills the gaps with what the need holds, or from a stock.
func (v *voice) filled(l line) said {
	s := said{line: l}
	for _, g := range l {
		if g.slot == "" {
			continue
		}
		if held := v.bind[g.key()]; held != nil {
			s.with = append(s.with, held)
		} else {
			one, _ := v.w.endless(g.slot, v.rng)
			s.with = append(s.with, one)
		}
	}
	return s
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
