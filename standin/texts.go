package standin

import (
	"fmt"
	"slices"
	"strings"
)

// Part is a part of what pages say: a section, or how a page, a question or an answer begins.
type Part struct {
	As    string   `yaml:"as"`    // intro, ask, reply, tips or reader; "" a section
	For   []string `yaml:"for"`   // names of the needs' templates whose pages have it; none: any
	Heads []string `yaml:"heads"` // its heading, one of these
	Shop  bool     `yaml:"shop"`  // it is what shops say on their pages, who say nothing else
	Tells []string `yaml:"tells"` // slots: what is known of the need's values in them is told in it, too
	Lines []string `yaml:"lines"` // in their order; "(a|b)" is one of both
}

// line is a sentence with its gaps.
type line []gap

// texts is what the pages of a hobby can say.
type texts struct {
	parts []part
	free  []line            // of the hobby, about nothing in particular
	knows map[string][]line // by value, or by slot and value
	facts map[string][]fact
	steps map[string][]line
}

// part is a Part of the world's words. Each line has one or more ways to say it.
type part struct {
	as    string
	shop  bool
	of    []string
	heads []line
	tells []string
	lines [][]line
}

// readTexts reads what the scenario's pages say.
func (w *World) readTexts(s *Scenario) *texts {
	t := &texts{knows: map[string][]line{}, facts: map[string][]fact{}, steps: map[string][]line{}}
	for _, p := range s.Parts {
		one := part{as: p.As, shop: p.Shop, of: p.For, heads: w.lines(p.Heads), tells: p.Tells}
		for _, l := range p.Lines {
			one.lines = append(one.lines, w.lines(wordings([]string{l})))
		}
		t.parts = append(t.parts, one)
	}
	var own [][]line // what names something of the hobby
	for _, l := range w.lines(s.Sentences) {
		if len(l) == 1 && l[0].slot == "" {
			t.free = append(t.free, l)
		} else {
			own = append(own, []line{l})
		}
	}
	if len(own) > 0 {
		t.parts = append(t.parts, part{as: asTips, lines: own})
	}
	for _, name := range sortedKeys(s.Knows) {
		for _, text := range s.Knows[name] {
			if of, is, ok := strings.Cut(strings.TrimPrefix(text, "="), ": "); ok && text[0] == '=' {
				t.facts[name] = append(t.facts[name], fact{of, is})
			} else {
				t.knows[name] = append(t.knows[name], w.lines([]string{text})...)
			}
		}
	}
	for _, tag := range sortedKeys(s.Steps) {
		t.steps[tag] = w.lines(s.Steps[tag])
	}
	return t
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

// The parts that are no sections of a need.
const (
	asIntro  = "intro"
	asAsk    = "ask"
	asReply  = "reply"
	asTips   = "tips"
	asReader = "reader"
)

// saying is what pages on needs of one template and with the same slots can say: the parts whose gaps they hold.
type saying struct {
	intro, ask, reply, reader [][]line
	offer                     [][]line // how a shop's page begins
	sections                  []part
	tips                      []part
}

// sayingOf finds what pages on a need can say.
func (w *World) sayingOf(n *need) *saying { return w.sayingFor(n.hobby, n.template.Name, n.bind) }

func (w *World) sayingFor(hobby int, template string, bind map[string]*value) *saying {
	key := fmt.Sprint(hobby, template, sortedKeys(bind))
	if s := w.sayings[key]; s != nil {
		return s
	}
	s := &saying{}
	held := func(l line) bool {
		return !slices.ContainsFunc(l, func(g gap) bool {
			return g.slot != "" && bind[g.key()] == nil && !isEndless(g.slot)
		})
	}
	for _, p := range w.texts[hobby].parts {
		if len(p.of) > 0 && !slices.Contains(p.of, template) {
			continue
		}
		one := part{as: p.as, shop: p.shop, heads: keep(p.heads, held), tells: keep(p.tells, func(slot string) bool {
			return bind[slot] != nil
		})}
		for _, ways := range p.lines {
			if ways = keep(ways, held); len(ways) > 0 {
				one.lines = append(one.lines, ways)
			}
		}
		switch {
		case p.as == asIntro && p.shop:
			s.offer = append(s.offer, one.lines...)
		case p.as == asIntro:
			s.intro = append(s.intro, one.lines...)
		case p.as == asAsk && (len(p.of) > 0 || len(s.ask) == 0):
			s.ask = append(s.ask, one.lines...)
		case p.as == asReply:
			s.reply = append(s.reply, one.lines...)
		case p.as == asReader:
			s.reader = append(s.reader, one.lines...)
		case p.as == asTips:
			s.tips = append(s.tips, one)
		case p.as == "" && len(one.heads) > 0 && (len(one.lines) > 0 || len(one.tells) > 0):
			s.sections = append(s.sections, one)
		}
	}
	w.sayings[key] = s
	return s
}

// keep is what of a list is to be kept.
func keep[T any](list []T, is func(T) bool) (out []T) {
	for _, one := range list {
		if is(one) {
			out = append(out, one)
		}
	}
	return out
}

// about is what is known of the value in a slot of a need.
func (t *texts) about(slot string, v *value) []line {
	if list := t.knows[slot+" "+v.one]; list != nil {
		return list
	}
	return t.knows[v.one]
}

// factsOf are the facts on the values of a need.
func (t *texts) factsOf(bind map[string]*value) (out []fact) {
	for _, slot := range mainSlots {
		if v := bind[slot]; v != nil {
			out = append(out, t.facts[v.one]...)
		}
	}
	return out
}
