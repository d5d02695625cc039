package phrase

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

func ExampleCrossing() {
	c := Crossing{Lists: [][]string{{"telescope", "binoculars"}, {"kids", "beginners"}}, Glue: []string{"for"}}
	fmt.Println(c.Count(), slices.Collect(c.All()))
	c = Crossing{Pattern: "can you see * with *", Lists: [][]string{{"Saturn", "Mars"}, {"binoculars"}}}
	fmt.Println(c.Name(), slices.Collect(c.All()))
	// Output:
	// 4 [telescope for kids binoculars for kids telescope for beginners binoculars for beginners]
	// can you see * with * [can you see saturn with binoculars can you see mars with binoculars]
}

// TestCrossingAgainstLoops: a crossing is what loops within loops make, however many lists, orders and words between.
func TestCrossingAgainstLoops(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	words := func(prefix string) (out []string) {
		for i := range 1 + rng.IntN(4) {
			out = append(out, fmt.Sprint(prefix, i))
		}
		return out
	}
	for range 200 {
		c := Crossing{Turned: rng.IntN(2) == 0, Lists: [][]string{words("a"), words("b")}}
		if rng.IntN(2) == 0 {
			c.Lists = append(c.Lists, words("c"))
		}
		glue := []string{""}
		if rng.IntN(2) == 0 {
			c.Glue = []string{"for", ""}
			glue = c.Glue
		}
		var want []string
		add := func(parts ...string) {
			for _, g := range glue {
				want = append(want, Normal(strings.Join(parts, " "+g+" ")))
			}
		}
		third := []string{""}
		if len(c.Lists) == 3 {
			third = c.Lists[2]
		}
		for _, a := range c.Lists[0] {
			for _, b := range c.Lists[1] {
				for _, x := range third {
					switch {
					case x == "":
						add(a, b)
						if c.Turned {
							add(b, a)
						}
					case c.Turned:
						for _, p := range [][]string{{a, b, x}, {a, x, b}, {b, a, x}, {b, x, a}, {x, a, b}, {x, b, a}} {
							add(p...)
						}
					default:
						add(a, b, x)
					}
				}
			}
		}
		got := slices.Sorted(c.All())
		if slices.Sort(want); !slices.Equal(got, want) || c.Count() != len(want) {
			t.Fatalf("%+v: %d counted\n%q\n%q", c, c.Count(), got, want)
		}
		sample := c.Sample(20)
		for _, p := range sample {
			if !slices.Contains(want, p) {
				t.Fatalf("%q is none of them", p)
			}
		}
		if len(sample) < min(10, len(want)) || len(sample) > 20 {
			t.Fatalf("%d samples of %d", len(sample), len(want))
		}
	}
}

// TestCrossingsThatAreNone say why, and millions are refused with their number before one is made.
func TestCrossingsThatAreNone(t *testing.T) {
	long := make([]string, 300)
	for i := range long {
		long[i] = fmt.Sprint("w", i)
	}
	many := make([][]string, 40)
	for i := range many {
		many[i] = long
	}
	for _, c := range []Crossing{{}, {Lists: [][]string{{"a"}}}, {Lists: [][]string{{"a"}, {}}},
		{Pattern: "no gap", Lists: [][]string{{"a"}}}, {Pattern: "a * b *", Lists: [][]string{{"a"}}},
		{Pattern: "*", Lists: [][]string{{"a"}}}} {
		if c.Check() == nil {
			t.Errorf("%+v is used", c)
		}
	}
	for lists, want := range map[int]int{3: 27_000_000, 2: 90_000, 40: math.MaxInt} {
		c := Crossing{Lists: many[:lists]}
		if c.Count() != want {
			t.Errorf("%d lists: %d", lists, c.Count())
		}
		var over *CrossingError
		if err := c.Check(); errors.As(err, &over) != (want > MostCrossed) || over != nil && over.Phrases != want {
			t.Errorf("%d lists: %v", lists, err)
		}
	}
	twice := Crossing{Lists: [][]string{{"Moon", "moon", "🔭"}, {"map", "map!"}}}
	if got := slices.Collect(twice.All()); len(got) != 2 { // “moon map”, and “map” where a word is none
		t.Errorf("%q", got)
	}
}

func TestEnds(t *testing.T) {
	var list []string
	for _, what := range []string{"telescope", "mount", "eyepiece", "filter"} {
		list = append(list, "best "+what+" for beginners", "how to clean a "+what, what+" for kids")
	}
	starts, ends := Ends(list, []string{"telescopes"}, "en", 10)
	if !slices.Equal(starts, []string{"best", "how to clean"}) {
		t.Errorf("starts %q", starts)
	}
	if !slices.Equal(ends, []string{"for beginners", "for kids"}) {
		t.Errorf("ends %q", ends)
	}
}

func BenchmarkCrossing(b *testing.B) {
	lists := make([][]string, 3)
	for l, n := range []int{100, 100, 10} {
		for i := range n {
			lists[l] = append(lists[l], fmt.Sprint("word", l, " ", i))
		}
	}
	c := Crossing{Lists: lists}
	b.Run("previewed", func(b *testing.B) {
		for b.Loop() {
			if c.Check() != nil || len(c.Sample(20)) != 20 {
				b.Fatal("no preview")
			}
		}
	})
	b.Run("made", func(b *testing.B) {
		for b.Loop() {
			n := 0
			for range c.All() {
				n++
			}
			if n != 100_000 {
				b.Fatal(n)
			}
		}
	})
}
