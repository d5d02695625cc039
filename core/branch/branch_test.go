package branch

import (
	"fmt"
	"strings"
	"testing"

	"cleverniche/core/sieve"
)

func ExamplePaths() {
	paths := Paths([]Branch{{ID: 1, Kind: "question", Seed: "telescope"},
		{ID: 2, Kind: "letter", Seed: "moon filter", From: 1}, {ID: 3, Kind: "list", Seed: "my list"},
		{ID: 4, Kind: "pattern", Seed: "see * with"}})
	for id := range uint(4) {
		fmt.Println(strings.ReplaceAll(paths[id+1], sieve.LabelMark, " | "))
	}
	// Output:
	// telescope | telescope › question
	// telescope | telescope › question | moon filter | moon filter › letter
	// “my list”
	// see * with
}

// TestPathsEnd: branches that come from each other, from none, or from very deep down have a path all the same.
func TestPathsEnd(t *testing.T) {
	list := []Branch{{ID: 1, Kind: "letter", Seed: "a", From: 2}, {ID: 2, Kind: "letter", Seed: "b", From: 1},
		{ID: 3, Kind: "letter", Seed: "c", From: 999}, {ID: 4, Kind: "seed", Seed: "d", From: 4}}
	for id := uint(10); id < 100; id++ {
		list = append(list, Branch{ID: id, Kind: "letter", Seed: fmt.Sprint("deep ", id), From: id - 1})
	}
	paths := Paths(list)
	if got := strings.Split(paths[1], sieve.LabelMark); len(got) != 4 || got[3] != "a › letter" {
		t.Errorf("of two that come from each other: %q", got)
	}
	if paths[3] != "c\x1fc › letter" || paths[4] != "d" {
		t.Errorf("%q, %q", paths[3], paths[4])
	}
	if got := strings.Count(paths[99], sieve.LabelMark) + 1; got != mostDeep {
		t.Errorf("%d marks", got)
	}
}

// TestTree: what is told of a node is what is told of those below it, and of its own ideas.
func TestTree(t *testing.T) {
	paths := Paths([]Branch{{ID: 1, Kind: "seed", Seed: "telescope"}, {ID: 2, Kind: "letter", Seed: "telescope"},
		{ID: 3, Kind: "question", Seed: "telescope mount", From: 2}, {ID: 4, Kind: "list", Seed: "telescope"},
		{ID: 5, Kind: "letter", Seed: "star"}})
	sums := []sieve.BranchSum{
		{Path: paths[1], Ideas: 1, Searches: 900},
		{Path: paths[2], Ideas: 10, Searches: 500, Easy: 3, Kept: 2, Both: 1, Dropped: 4},
		{Path: paths[3], Ideas: 5, Searches: 50, Easy: 1, Kept: 1, Both: 1},
		{Path: paths[4], Ideas: 7}, {Path: "", Ideas: 2},
	}
	root := Tree(sums, paths, map[uint]int64{2: 100, 3: 50, 5: 9})
	root.Sort(OrderNamed("kept"))
	if root.Ideas != 25 || root.Micros != 159 || len(root.Kids) != 3 {
		t.Errorf("%+v", root)
	}
	seed := root.Find("telescope")
	if seed != root.Kids[0] || seed.Ideas != 16 || seed.Searches != 1450 || seed.Kept != 3 || seed.Easy != 4 ||
		seed.Both != 2 || seed.Rest() != 11 || seed.Dropped != 4 || seed.Micros != 150 || seed.Dug {
		t.Errorf("%+v", seed)
	}
	if per, ok := seed.PerKept(); !ok || per != 50 {
		t.Error(per, ok)
	}
	way := root.Find("telescope › letter")
	if way.Ideas != 15 || len(way.Kids) != 1 || !way.Kids[0].Dug || way.IsSeed() {
		t.Errorf("%+v", way)
	}
	star := root.Find("star")
	if _, ok := star.PerKept(); ok || star.Ideas != 0 || star.Micros != 9 {
		t.Errorf("what brought nothing costs all the same: %+v", star)
	}
	if list := root.Find("“telescope”"); list.Kind != listKind || list.Name != "telescope" || list.Ideas != 7 {
		t.Errorf("%+v", list)
	}
	root.Sort(OrderNamed("cost"))
	if root.Kids[1] != star || root.Find("nothing") != nil {
		t.Error("the order by cost")
	}
}

// TestMarksAreTold: no seed in normal form can be taken for a way or a list.
func TestMarksAreTold(t *testing.T) {
	for mark, way := range map[string]bool{"telescope › letter": true, "telescope": false, "“a › b”": false} {
		if IsWay(mark) != way {
			t.Errorf("%s: %v", mark, !way)
		}
	}
}
