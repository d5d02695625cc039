package standin

import (
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// value is one way to fill a slot.
type value struct {
	one, many string
	price     float64 // dollars; 0 when it is no thing one buys
	weight    float64
	maker     string   // of a model
	tags      []string // what it is, or goes with
	families  []string // with what other values of its slot it is compared
	plural    bool     // it has no singular
	proper    *value   // the same as one writes who takes care; nil as it is
	tokens    [2][]int32
}

// setProper notes how the value is written by those who take care.
func (v *value) setProper(names []string) {
	written := func(s string) string {
		words := strings.Split(s, " ")
		for i, w := range words {
			if slices.Contains(names, w) {
				words[i] = capital(w)
			}
		}
		return strings.Join(words, " ")
	}
	if one, many := written(v.one), written(v.many); one != v.one || many != v.many {
		careful := *v
		careful.one, careful.many = one, many
		v.proper = &careful
	}
}

// readValue reads "one/many =price @tag ^family", of which only the first must be
// there. @plural says that it has no singular. rank is how common it is among those of
// its slot, the commonest being 0.
func readValue(s string, rank int) *value {
	v := &value{weight: 1 / math.Pow(float64(rank+1), 1.05)}
	var text []string
	for _, word := range strings.Fields(s) {
		switch word[0] {
		case '=':
			v.price, _ = strconv.ParseFloat(word[1:], 64)
		case '@':
			v.tags = append(v.tags, word[1:])
		case '^':
			v.families = append(v.families, word[1:])
		default:
			text = append(text, word)
		}
	}
	v.plural = slices.Contains(v.tags, "plural")
	v.one, v.many, _ = strings.Cut(strings.Join(text, " "), "/")
	if v.many == "" {
		v.many = v.one
	}
	return v
}

// suits reports whether two values go together. Of one slot, they are compared with
// each other: they share a family. Of two slots, they share a tag, or one of them has
// none; and a number is a price that is paid for such things.
func (v *value) suits(other *value, sameSlot bool) bool {
	if sameSlot {
		return v.one != other.one && share(v.families, other.families)
	}
	if number, err := strconv.ParseFloat(other.one, 64); err == nil && v.price > 0 {
		return number >= 0.4*v.price && number <= 3*v.price
	}
	return len(v.tags) == 0 || len(other.tags) == 0 || share(v.tags, other.tags)
}

func share(a, b []string) bool {
	return slices.ContainsFunc(a, func(s string) bool { return s != "plural" && slices.Contains(b, s) })
}

func (v *value) withArticle() string {
	if v.one == v.many || strings.HasPrefix(v.one, "the ") || strings.HasPrefix(v.one, "a ") {
		return v.one
	}
	if strings.ContainsRune("aeiou8", rune(v.one[0])) {
		return "an " + v.one
	}
	return "a " + v.one
}

// gap is a piece of a wording: literal text, or a slot to fill.
type gap struct {
	literal string
	tokens  []int32 // of the literal, in a line of the world's vocabulary
	slot    string  // "" for literal text
	second  bool    // another value than the first of that slot
	plural  bool
	article bool
	my      bool
	verb    string // is, does or are, to agree with the value
}

var gapRE = regexp.MustCompile(`\{(is |does |are )?(a |my )?([a-z]+)(2?)(\+?)\}`)

func parseGaps(s string) []gap {
	var out []gap
	at := 0
	for _, m := range gapRE.FindAllStringSubmatchIndex(s, -1) {
		if m[0] > at {
			out = append(out, gap{literal: s[at:m[0]]})
		}
		g := gap{slot: s[m[6]:m[7]], second: m[8] < m[9], plural: m[10] < m[11]}
		if m[2] >= 0 {
			g.verb = s[m[2]:m[3]]
		}
		if m[4] >= 0 {
			g.article, g.my = s[m[4]:m[5]] == "a ", s[m[4]:m[5]] == "my "
		}
		out = append(out, g)
		at = m[1]
	}
	if at < len(s) {
		out = append(out, gap{literal: s[at:]})
	}
	return out
}

var choiceRE = regexp.MustCompile(`\(([^()]*)\)`)

// wordings writes the choices of each line out: "(a|b) c" is "a c" and "b c".
func wordings(lines []string) []string {
	var out []string
	for _, line := range lines {
		m := choiceRE.FindStringSubmatchIndex(line)
		if m == nil {
			out = append(out, strings.Join(strings.Fields(line), " "))
			continue
		}
		for _, choice := range strings.Split(line[m[2]:m[3]], "|") {
			out = append(out, wordings([]string{line[:m[0]] + choice + line[m[1]:]})...)
		}
	}
	return out
}

func (g gap) key() string {
	if g.second {
		return g.slot + "2"
	}
	return g.slot
}

// fill puts values into the gaps; pick chooses one for a gap that has none.
func fill(gaps []gap, bind map[string]*value, pick func(gap) *value) string {
	var b strings.Builder
	for _, g := range gaps {
		if g.slot == "" {
			b.WriteString(g.literal)
			continue
		}
		v, ok := bind[g.key()]
		if !ok {
			v = pick(g)
		}
		g.write(&b, v)
	}
	return b.String()
}

var pluralVerbs = map[string]string{"is ": "are ", "does ": "do "}

// write puts the value into the gap, with its verb and article.
func (g gap) write(b *strings.Builder, v *value) {
	switch verb := g.verb; {
	case v.plural && verb != "are ":
		b.WriteString(pluralVerbs[verb])
	case verb == "are " && v.one == v.many && !v.plural: // what has no plural
		b.WriteString("is ")
	default:
		b.WriteString(verb)
	}
	switch {
	case g.plural:
		b.WriteString(v.many)
	case g.article:
		b.WriteString(v.withArticle())
	case g.my:
		b.WriteString("my " + v.one)
	default:
		b.WriteString(v.one)
	}
}
