package serp

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"testing/quick"
)

func TestRBOByHand(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{
		{"a b c", "a b c", 1},
		{"a b c", "d e f", 0},
		{"", "", 1},
		{"", "a", 0},
		// X = 1, 1, 3: (0.1/0.9)·(1·0.9 + ½·0.81 + 1·0.729) + 0.729.
		{"a b c", "a c b", 0.1/0.9*(0.9+0.405+0.729) + 0.729},
		// X = 0, 1, 2 of three: (0.1/0.9)·(0 + ½·0.81 + ⅔·0.729) + ⅔·0.729.
		{"a b c", "b d a", 0.1/0.9*(0.405+0.486) + 0.486},
		// Uneven, s = 1, l = 2: X = 1, 1; the second term is 1·1/(1·2)·0.81.
		{"a", "a b", 0.1/0.9*(0.9+0.405+0.405) + 0.81},
		{"a a b", "a b b", 1}, // what is listed twice counts where it stands first
	} {
		if got := RBO(strings.Fields(c.a), strings.Fields(c.b), 0.9); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%q and %q: %v, by hand %v", c.a, c.b, got, c.want)
		}
	}
}

func TestRBOProperties(t *testing.T) {
	check := func(seed uint64, at uint8) bool {
		rng := rand.New(rand.NewPCG(seed, 1))
		a := rng.Perm(12)
		b := slices.Clone(a)[:4+rng.IntN(8)]
		rng.Shuffle(len(b), func(i, j int) { b[i], b[j] = b[j], b[i] })
		x := RBO(a, b, Persistence)
		if x < 0 || x > 1+1e-12 || math.Abs(x-RBO(b, a, Persistence)) > 1e-12 {
			return false
		}
		// A swap nearer the top costs more.
		i := int(at) % 10
		swapped := func(i int) float64 {
			c := slices.Clone(a)
			c[i], c[i+1] = c[i+1], c[i]
			return RBO(a, c, Persistence)
		}
		return swapped(i) < swapped(i+1) && math.Abs(RBO(a, a, Persistence)-1) < 1e-12
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestSteadiness(t *testing.T) {
	shop := Snapshot{strings.Fields("a b c d e"), []PageType{Shelf, Shelf, Shelf, Shelf, Article}}
	same := Snapshot{strings.Fields("a b c e d"), []PageType{Shelf, Shelf, Shelf, Article, Shelf}}
	facts := Snapshot{strings.Fields("p q r s e"), []PageType{Encyclopedia, Encyclopedia, Encyclopedia, Encyclopedia,
		Article}}
	other := Snapshot{strings.Fields("v w x y z"), []PageType{Shelf, Shelf, Shelf, Shelf, Article}}
	if got := SteadinessOf([]Snapshot{shop}); got.Known {
		t.Errorf("one moment tells %+v", got)
	}
	if got := SteadinessOf([]Snapshot{shop, same, shop}); !got.Steady || len(got.Swings) != 0 {
		t.Errorf("nearly the same: %+v", got)
	}
	if got := SteadinessOf([]Snapshot{shop, facts, shop, facts}); got.Steady ||
		!slices.Equal(got.Swings, []PageType{Shelf, Encyclopedia}) {
		t.Errorf("two meanings: %+v", got)
	}
	if got := SteadinessOf([]Snapshot{shop, other}); got.Steady || got.Swings != nil {
		t.Errorf("pages change and types do not: %+v", got)
	}
}

func TestConcentration(t *testing.T) {
	for text, want := range map[string]float64{"": 0, "a": 1, "a a": 1, "a b": 0.5, "a a b b c c d d": 0.25,
		"a a b": 5. / 9} {
		if got, _ := Concentration(strings.Fields(text)); math.Abs(got-want) > 1e-12 {
			t.Errorf("%q: %v, want %v", text, got, want)
		}
	}
}
