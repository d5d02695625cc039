package sieve

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// TestWhatIsCarriedOverIsRight: tables made from one another, with all filters asked for
// in between, over several chunks, let the same through as one built from nothing.
func TestWhatIsCarriedOverIsRight(t *testing.T) {
	all := sample(2*chunkSize + 77)
	rng := rand.New(rand.NewPCG(5, 6))
	var filters []Filter
	for _, by := range Criteria() {
		filters = append(filters, anyFilter(by, rng), anyFilter(by, rng))
	}
	have := chunkSize - 3
	table := NewTable("en", ideas(all[:have]))
	for round := range 8 {
		table.Pass(filters)
		middle, _ := table.Middle(CPC)
		var changed []facts
		for range []int{0, 1, 40}[round%3] {
			f := all[rng.IntN(have)]
			f.Decision, f.CPC, f.Worth = Kept, float64(rng.IntN(400))/100, rng.IntN(1000)
			f.Judged, f.Difficulty = true, float64(rng.IntN(100))
			all[f.ID-1] = f
			changed = append(changed, f)
		}
		if round%2 == 1 && have < len(all) {
			next := min(len(all), have+chunkSize/2+5)
			changed = append(changed, all[have:next]...)
			have = next
		}
		old := table
		table = table.With(ideas(changed))
		fresh := NewTable("en", ideas(all[:have]))
		for _, m := range filters {
			if !slices.Equal(table.lets(m), fresh.lets(m)) {
				t.Fatalf("round %d: %s lets others through than a fresh table", round, m)
			}
			if !slices.Equal(table.cannotTell(m), fresh.cannotTell(m)) {
				t.Fatalf("round %d: %s does not know of others", round, m)
			}
		}
		if was, _ := old.Middle(CPC); was != middle {
			t.Fatalf("round %d: the old table's middle changed", round)
		}
		if got, _ := table.Middle(CPC); got != func() float64 { x, _ := fresh.Middle(CPC); return x }() {
			t.Fatalf("round %d: middle %v", round, got)
		}
	}
	if have != len(all) {
		t.Fatal("not all chunks were tried")
	}
}

func TestADecisionSharesAllElse(t *testing.T) {
	all := sample(3 * chunkSize)
	table := NewTable("en", ideas(all))
	table.Pass(eight())
	asked := table.asked
	all[chunkSize+1].Decision = 1 - all[chunkSize+1].Decision%2
	later := table.With(ideas(all[chunkSize+1 : chunkSize+2]))
	own := 0
	for _, f := range Figures() {
		if f.Unheld {
			continue
		}
		own += len(later.changedChunks(table, f))
	}
	if own != 1 {
		t.Errorf("%d chunks were copied for one decision", own)
	}
	if later.Pass(eight()); later.asked != 0 || asked != 8 {
		t.Errorf("%d filters were computed anew", later.asked)
	}
	if table.With(nil) != table {
		t.Error("no change makes another table")
	}
}

// BenchmarkMillionDecided is one decision and the next view.
func BenchmarkMillionDecided(b *testing.B) {
	all := ideas(sample(1_000_000))
	table := NewTable("en", all)
	for i := 0; b.Loop(); i++ {
		idea := all[i*7919%len(all)]
		idea.Put(Decided, Of(float64(i%2+1)))
		table = table.With([]Idea{idea})
		table.Top(table.Pass(eight()).Left, Searches, true, 0, 100)
	}
}
