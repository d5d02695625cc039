package store

import (
	"slices"
	"testing"
)

// TestBranches: an idea is on the branch by which it came first; a seed that was dug is below its idea's; and branches
// are made again from where ideas were found, as files of earlier versions need it.
func TestBranches(t *testing.T) {
	s, n := open(t)
	find := func(phrase, kind, query, seed string) {
		t.Helper()
		_, err := s.AddIdeas(ctx, n.ID, []Find{{Idea: Idea{Phrase: phrase, Words: 1}, Origin: Origin{Kind: kind, Query: query,
			Seed: seed}}})
		if err != nil {
			t.Fatal(err)
		}
	}
	find("moon", "seed", "moon", "moon")
	find("moon map", "letter", "moon m", "moon")
	find("moon map", "list", "my list", "line 1")
	find("moon", "list", "my list", "line 2")
	find("mars", "list", "my list", "line 3")
	from := uint(2)
	if err := s.AddSeeds(ctx, []Seed{{NicheID: n.ID, Phrase: "moon"}, {NicheID: n.ID, Phrase: "moon map",
		FromIdea: &from}}); err != nil {
		t.Fatal(err)
	}
	find("moon map kit", "question", "what moon map", "moon map")
	check := func(when string) {
		t.Helper()
		rows, err := s.Branches(ctx, n.ID)
		if err != nil {
			t.Fatal(err)
		}
		of := map[uint]string{0: "none"}
		for _, b := range rows {
			of[b.ID] = b.Kind + " " + b.Seed
		}
		var got []string
		for id := range uint(4) {
			i, err := s.Idea(ctx, n.ID, id+1)
			if err != nil {
				t.Fatal(err)
			}
			got = append(got, of[i.BranchID])
		}
		if want := []string{"seed moon", "letter moon", "list my list", "question moon map"}; !slices.Equal(got, want) {
			t.Errorf("%s: %q", when, got)
		}
		if last := rows[len(rows)-1]; of[last.From] != "letter moon" {
			t.Errorf("%s: %+v comes from %s", when, last, of[last.From])
		}
	}
	check("as they came")
	for _, statement := range []string{"UPDATE ideas SET branch_id = 0", "DELETE FROM branches"} {
		if err := s.db.Exec(statement).Error; err != nil {
			t.Fatal(err)
		}
	}
	if err := s.growBranches(ctx, n.ID); err != nil {
		t.Fatal(err)
	}
	check("made again")
	same, err := s.Branch(ctx, n.ID, "letter", "moon")
	again, err2 := s.Branch(ctx, n.ID, "letter", "moon")
	if err != nil || err2 != nil || same != again || same == 0 {
		t.Error(same, again, err, err2)
	}
}
