package sieve

import (
	"math/rand/v2"
	"testing"
)

// TestLetItThrough: a filter that is loosened lets the idea through, and one step less does
// not; what no bar helps is said so.
func TestLetItThrough(t *testing.T) {
	all := sample(300)
	table := NewTable("en", ideas(all))
	rng := rand.New(rand.NewPCG(8, 8))
	moved, refused := 0, 0
	for _, by := range Criteria() {
		for range 60 {
			m, at := anyFilter(by, rng), rng.IntN(len(all))
			m.Unmeasured = false
			if table.Lets(at, m) {
				continue
			}
			loose, ok := table.Loosen(at, m)
			if !ok {
				refused++
				if by.Control == Bar && !table.cannotTell(m).Has(at) && by != ByRank {
					t.Errorf("%s cannot be moved for %+v", m, all[at])
				}
				continue
			}
			if !table.Lets(at, loose) {
				t.Fatalf("%s, loosened from %s, does not let %+v through", loose, m, all[at])
			}
			if by.Control != Bar || loose.Unmeasured || by.Places > 0 {
				continue
			}
			moved++
			back := loose
			if back.Number++; loose.Number > m.Number {
				back.Number -= 2
			}
			if back.Check() == nil && table.Lets(at, back) {
				t.Errorf("%s was loosened to %s, where %s is enough for %+v", m, loose, back, all[at])
			}
		}
	}
	if moved < 100 || refused == 0 {
		t.Errorf("%d bars moved, %d filters cannot be", moved, refused)
	}
	words := Holding(ByLacking, "best", "nowhere")
	one := NewTable("en", ideas([]facts{bare(1, "best chair", 2)}))
	loose, ok := one.Loosen(0, words)
	if !ok || len(loose.Terms) != 1 || loose.Terms[0] != "nowhere" || len(words.Terms) != 2 {
		t.Errorf("without the word that stops it: %v, %v", loose, ok)
	}
	if _, ok := one.Loosen(0, Holding(ByLacking, "best")); ok {
		t.Error("a filter of no words is left")
	}
}

// TestOffLetsAllThrough, and stays where it is.
func TestOffLetsAllThrough(t *testing.T) {
	table := NewTable("en", ideas(sample(50)))
	m := At(ByLength, 5)
	m.Off = true
	res := table.Pass([]Filter{m, At(ByLength, 3)})
	if s := res.Steps[0]; s.Removed != 0 || s.Left != 50 || !s.Filter.Off || res.Steps[1].Removed == 0 {
		t.Errorf("%+v", res.Steps)
	}
	for at := range 50 {
		if len(table.Stops(at, []Filter{m})) > 0 {
			t.Fatal("it stops an idea")
		}
	}
}
