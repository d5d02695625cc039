package topic

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
)

// alike are ideas that are all one need by their pages and words.
func alike(n int) (out []Idea) {
	for i := range n {
		out = append(out, Idea{Phrase: fmt.Sprintf("idea %d", i), Searches: float64(100 - i),
			Results: []uint32{1, 2, 3, 4, 5, 6, 7, 8}, Stems: []uint32{1, 2}})
	}
	return out
}

// members are the topics as sorted lists of ideas, by their leads.
func members(topics []Group) (out [][]int) {
	for _, t := range topics {
		list := []int{t.Lead()}
		for _, m := range t.Members[1:] {
			list = append(list, m.Idea)
		}
		slices.Sort(list[1:])
		out = append(out, list)
	}
	return out
}

func TestByHand(t *testing.T) {
	other := Idea{Phrase: "other", Searches: 50, Results: []uint32{11, 12, 13}, Stems: []uint32{9}}
	unseen := Idea{Phrase: "unseen", Searches: 5, Variant: "unseen"}
	for name, c := range map[string]struct {
		ideas []Idea
		hands []Hand
		want  [][]int
	}{
		"nothing by hand": {alike(4), nil, [][]int{{0, 1, 2, 3}}},
		"split":           {alike(4), []Hand{{Topic: 1}, {Topic: 2}, {Topic: 1}, {Topic: 2}}, [][]int{{0, 2}, {1, 3}}},
		"joined": {append(alike(2), other), []Hand{{Topic: 1}, {Topic: 1}, {Topic: 1}},
			[][]int{{0, 1, 2}}},
		"a new idea joins what it is like": {append(alike(3), other), []Hand{{Topic: 1}, {}, {}, {Topic: 2}},
			[][]int{{0, 1, 2}, {3}}},
		"what is closed is not joined": {alike(3), []Hand{{Topic: 1, Closed: true}, {Topic: 1, Closed: true}, {}},
			[][]int{{0, 1}, {2}}},
		"not even by a variant": {append(alike(1), Idea{Phrase: "x", Searches: 2, Variant: "v"},
			Idea{Phrase: "y", Searches: 1, Variant: "v"}), []Hand{{}, {Topic: 1, Closed: true}, {}}, [][]int{{0}, {1}, {2}}},
		"a lead by hand": {alike(3), []Hand{{}, {}, {Topic: 1, Leads: true}}, [][]int{{2, 0, 1}}},
		"not looked up, put there by hand": {append(alike(2), unseen), []Hand{{}, {Topic: 1}, {Topic: 1}},
			[][]int{{0, 1, 2}}},
		"not looked up, taken out by hand": {append(alike(1), Idea{Phrase: "x", Searches: 2, Variant: "v"},
			Idea{Phrase: "y", Searches: 1, Variant: "v"}), []Hand{{}, {Topic: 1}, {Topic: 2}}, [][]int{{0}, {1}, {2}}},
	} {
		if got := members(Calibrated.Grouped(c.ideas, c.hands, Shared).Groups); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	g := Calibrated.Grouped(alike(4), []Hand{{Topic: 1}, {Topic: 2}, {Topic: 1}, {Topic: 2}}, Shared)
	closed := []Hand{{Topic: 1, Closed: true}, {}, {Topic: 2}}
	fits := Calibrated.Grouped(alike(3), closed, Shared).Fitting(closed, Calibrated.Together)
	if len(fits) != 1 || len(fits[0]) != 1 || fits[0][0].Topic != 1 {
		t.Errorf("what would join the closed topic: %+v", fits)
	}
	if why := g.Groups[0].Members[1].Because("idea 0"); why != "moved here by you" {
		t.Errorf("because: %s", why)
	}
	if near := g.Near(0, 5); len(near) != 1 || near[0].Topic != 1 || near[0].Alike < 0.9 {
		t.Errorf("near what was split off: %+v", near)
	}
}

// TestHandsHold groups ideas at random: what was put together is together, what was put apart
// is apart, each idea is in one topic, and the order in which ideas come does not matter.
func TestHandsHold(t *testing.T) {
	rng := rand.New(rand.NewPCG(17, 1))
	for range 200 {
		n := 1 + rng.IntN(40)
		ideas, hands := make([]Idea, n), make([]Hand, n)
		for i := range ideas {
			ideas[i] = Idea{Phrase: fmt.Sprint(i), Searches: float64(rng.IntN(9)), Stems: []uint32{uint32(rng.IntN(3))}}
			for range rng.IntN(9) {
				ideas[i].Results = append(ideas[i].Results, uint32(rng.IntN(15)))
			}
			if rng.IntN(3) == 0 {
				hands[i].Topic = int32(1 + rng.IntN(4))
			}
		}
		topics := Calibrated.Grouped(ideas, hands, 2).Groups
		in := make([]int, n)
		count := 0
		for k, one := range topics {
			for _, m := range one.Members {
				in[m.Idea] = k
				count++
			}
		}
		if count != n {
			t.Fatalf("%d ideas of %d are in topics", count, n)
		}
		for i := range ideas {
			for j := range ideas {
				if a, b := hands[i].Topic, hands[j].Topic; a != 0 && b != 0 && (a == b) != (in[i] == in[j]) {
					t.Fatalf("ideas of hands %d and %d are in topics %d and %d", a, b, in[i], in[j])
				}
			}
		}
		turn := rng.Perm(n)
		ideas2, hands2 := make([]Idea, n), make([]Hand, n)
		for i, to := range turn {
			ideas2[to], hands2[to] = ideas[i], hands[i]
		}
		again := Calibrated.Grouped(ideas2, hands2, 2).Groups
		for k, one := range again {
			if ideas2[one.Lead()].Phrase != ideas[topics[k].Lead()].Phrase || len(one.Members) != len(topics[k].Members) {
				t.Fatalf("in another order topic %d is another one", k)
			}
		}
	}
}

func TestGrid(t *testing.T) {
	one := []Idea{{Results: []uint32{7, 8, 9}}, {Results: []uint32{8, 7, 5}}}
	two := []Idea{{Results: []uint32{4, 8, 7, 4}}, {}}
	g := GridOf([][]Idea{one, two}, 4)
	want, either := []uint32{7, 8, 9, 5}, []uint32{8, 7, 9, 5} // both stand as high, on average
	if !reflect.DeepEqual(g.Pages, want) && !reflect.DeepEqual(g.Pages, either) {
		t.Errorf("pages %v, want %v", g.Pages, want)
	}
	for row, want := range map[int]int{0: 1, 1: 2, 2: 3} { // where page 7 stands
		if got := g.Places[row][slices.Index(g.Pages, 7)]; got != want {
			t.Errorf("page 7 stands for idea %d on %d, want %d", row, got, want)
		}
	}
	if len(g.Places) != 4 || slices.Max(g.Places[3]) != 0 {
		t.Errorf("places %v", g.Places)
	}
	if none := GridOf(nil, 5); len(none.Pages) != 0 || len(none.Places) != 0 {
		t.Errorf("of nothing: %+v", none)
	}
}

func TestHubs(t *testing.T) {
	topics := []Subject{
		{Stems: []string{"telescop"}, Searches: 900},
		{Stems: []string{"telescop", "beginn"}, Searches: 500, Results: []uint32{1, 2, 3}},
		{Stems: []string{"telescop", "beginn", "kid"}, Searches: 50},
		{Stems: []string{"telescop", "beginn", "cheap"}, Searches: 40},
		{Stems: []string{"telescop", "dew"}, Searches: 30},
		{Stems: []string{"telescop", "mount"}, Searches: 20},
		{Stems: []string{"star", "chart"}, Searches: 10},
		{Stems: []string{"beginn", "scope", "first"}, Searches: 9, Results: []uint32{2, 3, 8}},
	}
	if got, want := Hubs(topics, nil), []int{NoHub, NoHub, 1, 1, 0, 0, NoHub, 1}; !reflect.DeepEqual(got, want) {
		t.Errorf("hubs %v, want %v", got, want)
	}
	if got := Hubs([]Subject{{Stems: []string{"moon"}}, {Stems: []string{"moon", "map"}}}, nil); got[1] != NoHub {
		t.Errorf("with one spoke: %v", got)
	}
	// What all of them say makes none of them a hub, whatever pages they share.
	crowd := make([]Subject, 20)
	for i := range crowd {
		crowd[i] = Subject{Stems: []string{"moon", fmt.Sprint("a", i), fmt.Sprint("b", i)}, Results: []uint32{1, 2, 3}}
	}
	crowd[0].Stems = []string{"moon", "milk"}
	if got := Hubs(crowd, nil); slices.ContainsFunc(got, func(h int) bool { return h != NoHub }) {
		t.Errorf("a crowd: %v", got)
	}
	// by hand: the kids' one stands alone, and the chart hangs on the dew heater, which is a hub by that
	given := map[int]int{2: NoHub, 6: 4}
	got := Hubs(topics, given)
	if got[2] != NoHub || got[6] != 4 || got[4] != NoHub {
		t.Errorf("by hand: %v", got)
	}
	for i, h := range got {
		if h != NoHub && got[h] != NoHub {
			t.Errorf("%d hangs on %d, which hangs on %d", i, h, got[h])
		}
	}
	// A chain by hand, as a file may bring one: everything hangs on its end. A circle hangs on nothing.
	got = Hubs(topics, map[int]int{2: 3, 3: 4, 4: 5, 5: 6, 0: 1, 1: 0, 7: 1})
	if want := []int{NoHub, NoHub, 6, 6, 6, 6, NoHub, NoHub}; !reflect.DeepEqual(got, want) {
		t.Errorf("a chain and a circle: %v, want %v", got, want)
	}
	if len(Hubs(nil, nil)) != 0 {
		t.Error("hubs of nothing")
	}
}

func TestOneSubject(t *testing.T) {
	for _, c := range []struct {
		a, b []string
		want bool
	}{
		{[]string{"telescop", "dew"}, []string{"dew", "telescop", "stop"}, true},
		{[]string{"telescop", "dew"}, []string{"telescop", "mount", "wobbl"}, false},
		{nil, nil, false},
	} {
		if got := OneSubject(c.a, c.b); got != c.want {
			t.Errorf("%v and %v: %v", c.a, c.b, got)
		}
	}
}
