package standin

import (
	"slices"
	"strings"
	"testing"
)

// TestGoesTogether: tags, families and prices say what a phrase may hold together.
func TestGoesTogether(t *testing.T) {
	read := func(s string) *value { return readValue(s, 0) }
	for _, c := range []struct {
		a, b string
		same bool
		want bool
	}{
		{"mount =300 @steady", "shaking @steady @tube", false, true},
		{"mount =300 @steady", "foggy @lens", false, false},
		{"mount =300 @steady", "in ohio", false, true}, // what has no tag goes with all
		{"mount =300", "100", false, false},            // nobody pays a third
		{"mount =300", "500", false, true},
		{"scope ^optic", "binoculars @plural ^optic", true, true},
		{"scope ^optic", "chair ^seat", true, false},
		{"scope ^optic", "scope ^optic", true, false},
		{"binoculars @plural", "boots @plural", false, false}, // a plural is no likeness
	} {
		if got := read(c.a).suits(read(c.b), c.same); got != c.want {
			t.Errorf("%q and %q: %v", c.a, c.b, got)
		}
	}
	if v := read("night glass/night glasses =12.5 @a @b ^c"); v.one != "night glass" || v.many != "night glasses" ||
		v.price != 12.5 || !slices.Equal(v.tags, []string{"a", "b"}) || !slices.Equal(v.families, []string{"c"}) {
		t.Errorf("%+v", v)
	}
}

// TestPhrasesGoTogether in the worlds that ship: what is compared is of one family, and a
// price is one that is paid for the thing.
func TestPhrasesGoTogether(t *testing.T) {
	pairs := 0
	for _, n := range grown().needs {
		for _, m := range n.template.Match {
			a, b, _ := strings.Cut(m, "~")
			x, y := n.bind[a], n.bind[b]
			if x == nil || y == nil {
				continue
			}
			if pairs++; !x.suits(y, strings.TrimSuffix(a, "2") == strings.TrimSuffix(b, "2")) {
				t.Errorf("%q holds %q with %q", n.queries[0].text, x.one, y.one)
			}
		}
	}
	if pairs < 800 {
		t.Errorf("%d pairs", pairs)
	}
}

const least = `name: Kites
slug: kites
words: [kite]
slots: {gear: [stunt kite/stunt kites =60 @flown], fault: [tangled @flown]}
sentences: ["{gear+} fly."]
sites: {first: [wind, sky], second: [barn, shed]}
needs:
  - {name: fix, intent: learn, weight: 1, worth: 0.1, match: [gear~fault], serves: {howto: 1},
     wordings: ["(why|how) is my {gear} {fault}"]}
`

// TestReadScenario: a file is read, sampled, and refused with the place that is wrong.
func TestReadScenario(t *testing.T) {
	s, err := ReadScenario("kites.yaml", []byte(least))
	if err != nil {
		t.Fatal(err)
	}
	drawn, total := Sample(s, 1000, 1, clock)
	if len(drawn) != total || !slices.ContainsFunc(drawn, func(p Sampled) bool {
		return p.Phrase == "how is my stunt kite tangled" && p.Searches > 0
	}) {
		t.Errorf("of %d phrases %d are drawn: %+v", total, len(drawn), drawn)
	}
	for _, c := range []struct{ from, to, says string }{
		{"match: [gear~fault]", "match: [gear]", "not two slots"},
		{"is my {gear}", "is a {gear}", "article before a gap"},
		{"{fault}\"", "{falt}\"", "no slot"},
		{"intent: learn", "intent: wonder", "not learn, find, compare or buy"},
		{"match: [gear~fault]", "only: {geer: [a]}", "geer"},
		{"(why|how)", "(why", "cannot be read"},
		{"words: [kite]", "wrds: [kite]", "wrds"},
		{"[tangled @flown]", `["@flown"]`, "says nothing"},
	} {
		if !strings.Contains(least, c.from) {
			t.Fatalf("%q is not in the file", c.from)
		}
		if _, err := ReadScenario("kites.yaml", []byte(strings.Replace(least, c.from, c.to, 1))); err == nil ||
			!strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.to, err)
		}
	}
}
