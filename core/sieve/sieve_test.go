package sieve

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

func sample(n int) []Idea {
	rng := rand.New(rand.NewPCG(9, 9))
	out := make([]Idea, n)
	for i := range out {
		out[i] = Idea{ID: uint(i + 1), Phrase: fmt.Sprintf("phrase %d of %d", i, rng.IntN(50)), Words: 1 + rng.IntN(8), CPC: -1, Ads: -1,
			Demand: rng.IntN(10) > 0, Searches: rng.IntN(5000), Found: int64(i)}
		if out[i].Demand && out[i].Searches < 500 {
			out[i].Under, out[i].Searches = true, 10
		}
		if rng.IntN(3) == 0 {
			out[i].Judged, out[i].Difficulty, out[i].Footholds = true, float64(rng.IntN(100)), rng.IntN(11)
		}
		out[i].Decision = Decision(rng.IntN(3))
	}
	return out
}

func allMeshes() []Mesh {
	return []Mesh{NotDropped(), WordsAtLeast(3), SearchesFrom(600, false), SearchesTo(4000), HoldsAny([]string{"of 7", "of 8", "phrase"}),
		HoldsNone([]string{"of 9"}), Judged(), DifficultyAtMost(60), FootholdsAtLeast(2)}
}

// TestPassOfNaiveCount counts again, one idea and one mesh at a time.
func TestPassOfNaiveCount(t *testing.T) {
	ideas, meshes := sample(2000), allMeshes()
	res := Pass(ideas, meshes)
	for m := range meshes {
		left, alone := 0, 0
		for _, i := range ideas {
			through := true
			for _, earlier := range meshes[:m+1] {
				through = through && earlier.Lets(i)
			}
			if through {
				left++
			}
			if !meshes[m].Lets(i) {
				alone++
			}
		}
		if res.Steps[m].Left != left || res.Steps[m].Alone != alone {
			t.Errorf("%s: left %d, alone %d; counted %d, %d", meshes[m].Name, res.Steps[m].Left, res.Steps[m].Alone, left, alone)
		}
	}
	for i, idea := range ideas {
		_, stops := Stops(idea, meshes)
		if stops == slices.Contains(res.Left, i) {
			t.Fatalf("idea %d is stopped %v and left %v", i, stops, !stops)
		}
	}
}

func TestLooserMeshNeverLetsFewerThrough(t *testing.T) {
	ideas := sample(1000)
	last := -1
	for d := 0; d <= 100; d += 5 {
		left := len(Pass(ideas, []Mesh{DifficultyAtMost(d)}).Left)
		if left < last {
			t.Errorf("difficulty at most %d lets %d through, a tighter one let %d", d, left, last)
		}
		last = left
	}
}

func TestUnmeasuredIsNotZero(t *testing.T) {
	under := Idea{Demand: true, Under: true, Searches: 10}
	unknown := Idea{}
	if SearchesFrom(100, false).Lets(under) || !SearchesFrom(100, true).Lets(under) || !SearchesFrom(100, true).Lets(unknown) {
		t.Error("the switch for unmeasured ideas does not hold")
	}
	res := Pass([]Idea{under, unknown, {Demand: true, Searches: 5}}, []Mesh{SearchesFrom(100, false)})
	if s := res.Steps[0]; s.Removed != 3 || s.Unknown != 2 {
		t.Errorf("%d removed, %d of them not measured", s.Removed, s.Unknown)
	}
}

func TestDifficultyIsComparedAsShown(t *testing.T) {
	m := DifficultyAtMost(20)
	if !m.Lets(Idea{Judged: true, Difficulty: 20.4}) || m.Lets(Idea{Judged: true, Difficulty: 20.6}) {
		t.Error("an idea shown as 20 is stopped by “at most 20”, or one shown as 21 is not")
	}
}

func TestTermsAreWholeWords(t *testing.T) {
	if got := Terms(" Best, near me\nbest;; ?"); !slices.Equal(got, []string{"best", "near me"}) {
		t.Errorf("terms %q", got)
	}
	m := HoldsAny([]string{"star"})
	if m.Lets(Idea{Phrase: "stargazing chair"}) || !m.Lets(Idea{Phrase: "north star"}) {
		t.Error("a word is found inside another")
	}
}

func TestSortPutsUnknownLast(t *testing.T) {
	ideas := []Idea{{Phrase: "c"}, {Phrase: "b", Judged: true, Difficulty: 50}, {Phrase: "a", Judged: true, Difficulty: 10}, {Phrase: "d"}}
	for _, down := range []bool{true, false} {
		order := []int{0, 1, 2, 3}
		Sort(ideas, order, ByDifficulty, down)
		if ideas[order[2]].Judged || ideas[order[3]].Judged || ideas[order[2]].Phrase != "c" {
			t.Errorf("down=%v: order %v", down, order)
		}
	}
	for by := range compare {
		order := []int{3, 2, 1, 0}
		Sort(ideas, order, by, true)
		if ok, _ := KnownColumn(by); !ok {
			t.Errorf("%s is not known", by)
		}
	}
	under := []Idea{{Phrase: "x", Demand: true, Under: true, Searches: 10}, {Phrase: "y", Demand: true, Searches: 3}}
	order := []int{0, 1}
	if Sort(under, order, BySearches, true); order[0] != 1 {
		t.Error("fewer than ten stands above three")
	}
}

func BenchmarkPassAndSort100k(b *testing.B) {
	ideas, meshes := sample(100_000), allMeshes()
	for b.Loop() {
		res := Pass(ideas, meshes)
		Sort(ideas, res.Left, BySearches, true)
	}
}
