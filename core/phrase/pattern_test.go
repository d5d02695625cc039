package phrase

import (
	"slices"
	"strings"
	"testing"
)

func TestPattern(t *testing.T) {
	for _, c := range []struct {
		pattern, phrase string
		exact, near     bool
	}{
		{"can you see * with binoculars", "can you see saturn with binoculars", true, true},
		{"can you see * with binoculars", "can you see the rings of saturn with binoculars", true, true},
		{"can you see * with binoculars", "can you see with binoculars", false, true},
		{"can you see * with binoculars", "can you see saturn with small binoculars", false, true},
		{"can you see * with binoculars", "seeing mars with a binocular", false, true},
		{"can you see * with binoculars", "can you see saturn", false, false},
		{"best * for *", "best telescope for kids", true, true},
		{"best * for *", "best telescope for", false, true},
		{"best * for *", "best for kids", false, true},
		{"best * for *", "the best telescope for kids", false, true},
		{"* telescope", "best telescope", true, true},
		{"* telescope", "telescope", false, true},
		{"telescope *", "telescope for kids", true, true},
		{"* telescope *", "best telescope for kids", true, true},
		{"* telescope *", "best telescope", false, true},
		{"a * b * a", "a x b y a", true, true},
		{"a * b * a", "a b b a a", true, true},
		{"a * b * a", "a b b a", false, true},
		{"how to *", "how to clean a lens", true, true},
		{"how to *", "clean a lens", false, false},
		{"star chart", "star chart", true, true},
		{"star chart", "star charts", false, true},
		{"Best ** Telescope", "best small telescope", true, true},
	} {
		p, err := ParsePattern(c.pattern, "en")
		if err != nil {
			t.Errorf("%s: %v", c.pattern, err)
			continue
		}
		if got := p.Exact(c.phrase); got != c.exact {
			t.Errorf("%s is exact for %s: %v", c.pattern, c.phrase, got)
		}
		if got := p.Near(c.phrase); got != c.near {
			t.Errorf("%s is near to %s: %v", c.pattern, c.phrase, got)
		}
	}
	for _, bad := range []string{"", "*", " * * ", "?!"} {
		if p, err := ParsePattern(bad, "en"); err == nil {
			t.Errorf("%q is a pattern: %s", bad, p)
		}
	}
	for raw, want := range map[string]string{"Can you see * ?": "can you see *", "* * a **  * b": "* a * b", "x": "x"} {
		if p, err := ParsePattern(raw, "en"); err != nil || p.String() != want {
			t.Errorf("%q is written %q, %v", raw, p, err)
		}
	}
}

// FuzzPattern: filling the gaps of a pattern gives a phrase that fits it exactly.
func FuzzPattern(f *testing.F) {
	f.Add("can you see * with *", "two words")
	f.Add("* a * a", "a")
	f.Add("**x*", "é")
	f.Fuzz(func(t *testing.T, raw, word string) {
		p, err := ParsePattern(raw, "en")
		word, wrong := Parse(word)
		if err != nil || wrong != nil || strings.Contains(word, Gap) {
			return
		}
		if again, err := ParsePattern(p.String(), "en"); err != nil || again.String() != p.String() {
			t.Fatalf("%q is written %q, and that %q", raw, p, again)
		}
		filled := strings.Join(strings.Fields(strings.ReplaceAll(p.String(), Gap, word)), " ")
		if !p.Exact(filled) {
			t.Errorf("%q does not fit %q", filled, p)
		}
	})
}

func TestModifiers(t *testing.T) {
	got := Modifiers("telescope", []Searched{{"best telescope for kids", 100}, {"telescopes for kids", 40},
		{"telescope for a kid", 30},
		{"best best telescope", 10}, {"telescope", 900}, {"telescope stand", 0}}, "en")
	want := []Modifier{{"kids", "kid", 3, 170}, {"best", "best", 2, 110}, {"stand", "stand", 1, 0}}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%+v, want %+v", got[i], want[i])
		}
	}
	if got := Modifiers("telescope", nil, "en"); len(got) != 0 {
		t.Errorf("nothing adds %+v", got)
	}
}

func TestModelNumbersAndBrands(t *testing.T) {
	for s, want := range map[string]bool{"halvorn ax15": true, "10x50 binoculars": true, "scout 80ed review": true,
		"telescope under 200": false,
		"21st century moon":   false, "90s telescopes": false, "50mm lens": false, "best 2024": false, "3 am sky": false,
		"vat 12": false} {
		if got := Has(Shapes(s, "en"), Model); got != want {
			t.Errorf("%q names a model: %v", s, got)
		}
	}
	brands := []string{"halvorn", "tarnova optics", ""}
	for s, want := range map[string]string{"tarnova optics review": "tarnova optics", "tarnova review": "",
		"halvornish": "", "old halvorn": "halvorn"} {
		if got := HoldsBrand(s, brands); got != want {
			t.Errorf("%q names %q", s, got)
		}
		if Has(Shapes(s, "en", brands...), Brand) != (want != "") {
			t.Errorf("%q has the shape of a brand, or lacks it", s)
		}
	}
	if sorted := slices.Sorted(slices.Values(AllShapes)); len(slices.Compact(sorted)) != len(AllShapes) {
		t.Error("a shape stands twice")
	}
}
