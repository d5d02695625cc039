package phrase

import (
	"fmt"
	"slices"
	"testing"
)

func ExampleNearest() {
	best, ok := Nearest("telescopes made for a beginner", []Searched{{"telescope for kids", 900},
		{"telescope for beginners", 700}, {"beginner telescopes", 800}, {"telescope", 9000}}, "en")
	fmt.Println(best.Phrase, ok)
	_, ok = Nearest("yurt insulation", []Searched{{"telescope", 9000}}, "en")
	fmt.Println(ok)
	// Output:
	// beginner telescopes true
	// false
}

// TestLikeness is that of sets: the same for both orders, 1 for the same words in whatever form and order.
func TestLikeness(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{
		{"moon map", "maps of the moon", 1}, {"moon map", "moon", 0.5}, {"moon map kit", "moon filter kit", 0.5},
		{"moon map", "star wheel", 0}, {"the", "the", 1}, {"the", "of", 0}, {"moon moon map", "map moon", 1},
	} {
		if got := Likeness(c.a, c.b, "en"); got != c.want || got != Likeness(c.b, c.a, "en") {
			t.Errorf("%s, %s: %v", c.a, c.b, got)
		}
	}
	list := []string{"moon", "moon map", "maps of the moon", "star", "moon"}
	if got := Like("moon map", list, "en", 5); !slices.Equal(got, []string{"maps of the moon", "moon"}) {
		t.Errorf("%q", got)
	}
}
