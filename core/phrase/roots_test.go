package phrase

import (
	"fmt"
	"testing"
)

// TestRoots: worked by hand.
func TestRoots(t *testing.T) {
	list := []Rooted{{"moon map for kids", 100, true}, {"best moon map", 50, false}, {"moon maps on canvas", 10, true},
		{"star chart for beginners", 70, false}, {"star chart for kids", 20, false}, {"star charts", 5, false},
		{"large red star chart", 1, false}, {"red star wheel", 9, false}, {"moon moon map", 1, false}}
	got := Roots(list, "en", nil, 10)
	want := "moon map 4 161 2; star chart 4 96 0"
	said := ""
	for i, r := range got {
		if i > 0 {
			said += "; "
		}
		said += fmt.Sprintf("%s %d %g %d", r.Phrase, r.Ideas, r.Searches, r.Easy)
	}
	if said != want {
		t.Errorf("%s instead of %s", said, want)
	}
	if got := Roots(list, "en", []string{"Moon Maps"}, 10); len(got) != 1 || got[0].Phrase != "star chart" {
		t.Errorf("without what is known: %+v", got)
	}
	longer := []Rooted{{"solar eclipse glasses safe", 1, false}, {"solar eclipse glasses near me", 1, false},
		{"best solar eclipse glasses", 1, false}, {"solar eclipse glasses", 1, false}}
	if got := Roots(longer, "en", nil, 10); len(got) != 1 || got[0].Phrase != "solar eclipse glasses" {
		t.Errorf("a longer one stands for its parts: %+v", got)
	}
	if got := Roots(nil, "en", nil, 10); len(got) != 0 {
		t.Errorf("of nothing: %+v", got)
	}
}

// BenchmarkRoots is what the roots of a hundred thousand phrases take.
func BenchmarkRoots(b *testing.B) {
	words := []string{"moon", "map", "star", "chart", "lens", "filter", "for", "kids", "best", "red", "mount", "with",
		"glass", "kit", "night", "sky", "scope", "guide", "cheap", "large"}
	var list []Rooted
	for i := range 100_000 {
		list = append(list, Rooted{Phrase: fmt.Sprintf("%s %s %s %s %d", words[i%20], words[i/20%20], words[i/400%20],
			words[i/8000%20], i%997)})
	}
	for b.Loop() {
		Roots(list, "en", nil, 100)
	}
}
