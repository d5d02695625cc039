package standin

import (
	"math/rand/v2"
	"slices"
	"strings"
)

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
