package phrase

import (
	"strings"
	"testing"
)

func TestAsRead(t *testing.T) {
	ten := func(titles string) []string { return strings.Split(titles, "|") }
	presses := ten("Best Cheese Press|The Cheese Press Handbook|Cheese Presses, compared|Build a Press|Feta at Home")
	for name, c := range map[string]struct {
		phrase string
		titles []string
		lang   string
		want   string
	}{
		"a letter missing":           {"chese press", presses, "en", "cheese press"},
		"a letter too many":          {"cheeese press", presses, "en", "cheese press"},
		"a wrong letter":             {"cheeze press", presses, "en", "cheese press"},
		"two letters changed places": {"cehese press", presses, "en", "cheese press"},
		"two slips":                  {"chezze press", presses, "en", "chezze press"},
		"the first letter":           {"sheese press", presses, "en", "sheese press"},
		// said in two titles, “presses” in one
		"one of its forms":        {"chese prses", presses, "en", "cheese press"},
		"a title says it":         {"chese press", append(presses, "Chese is a word"), "en", "chese press"},
		"too few say the other":   {"build a pres", ten("Build a Press|x|y|z"), "en", "build a pres"},
		"one title is not enough": {"chese", ten("Cheese"), "en", "chese"},
		"nothing found":           {"chese press", nil, "en", "chese press"},
		"a digit":                 {"vat12 review", ten("Vat13 review|Vat13 review"), "en", "vat12 review"},
		"short words":             {"cat bed", ten("Car bed|Car bed"), "en", "cat bed"},
		// wood is there already
		"a word of its own":         {"good wood type", ten("Wood Type|Gold Wood Type|Gold"), "en", "gold wood type"},
		"a function word":           {"press from", ten("Press Form|Press Form"), "en", "press from"},
		"what stands between words": {"chese-press & brie", presses, "en", "cheese-press & brie"},
		"letters beyond ASCII":      {"käsepfane", ten("Käsepfanne im Test|Die Käsepfanne"), "de", "käsepfanne"},
		// three letters are few
		"a language without a stemmer": {"сирр рецепт", ten("Сир рецепт|Сир"), "uk",
			"сирр рецепт"},
	} {
		if got := AsRead(c.phrase, c.titles, c.lang); got != c.want {
			t.Errorf("%s: %q is read as %q, want %q", name, c.phrase, got, c.want)
		}
	}
}

func TestSaid(t *testing.T) {
	titles := strings.Split("Goat Cheese Recipe|Easy goat cheeses|Homemade goat cheese|The cheese of "+
		"goats|Goat|Home|At home|For the home|Recipes|x", "|")
	if got, want := strings.Join(Said(titles, "en"), " "), "chees goat home"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	if got := Said(nil, "en"); len(got) != 0 {
		t.Errorf("no titles say %q", got)
	}
}

// FuzzAsRead: what is read has as many words, and is in normal form.
func FuzzAsRead(f *testing.F) {
	f.Add("chese press", "Best Cheese Press|Cheese")
	f.Add("ﬀ İ\xff", "|||İ̇")
	f.Fuzz(func(t *testing.T, raw, titles string) {
		p, err := Parse(raw)
		if err != nil {
			return
		}
		got := AsRead(p, strings.Split(titles, "|"), "en")
		if Normal(got) != got || len(Words(got)) != len(Words(p)) {
			t.Errorf("%q is read as %q", p, got)
		}
	})
}

func BenchmarkAsRead(b *testing.B) {
	titles := strings.Split(strings.Repeat("The Best Cheese Press for Beginners, Compared|", 10), "|")
	for b.Loop() {
		AsRead("chese press for beginers", titles, "en")
	}
}
