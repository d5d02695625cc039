package store

import (
	"bytes"
	"errors"
	"strings"
	"testing"
	"time"
)

// TestNobodySeesHalfANiche: while a file is read its niche is in no list; what was not read to its end is erased, and
// what was deleted, after its time.
func TestNobodySeesHalfANiche(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b", "c"))
	if err := s.AddSeeds(ctx, []Seed{{NicheID: n.ID, Phrase: "a", FromIdea: ref(uint(1))}}); err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := s.WriteWhole(ctx, n.ID, "page", &file); err != nil {
		t.Fatal(err)
	}
	seen, there, broken := 0, 1, errors.New("the program is killed")
	checks := Checks{Niche: func(n *Niche) error { n.Name = "Other"; return nil },
		Origin: func(*Origin) error { return nil }, Seed: func(*Seed) error { return nil },
		Topic: func(*TopicEdit) error { return nil }, OwnPage: func(*OwnPage) error { return nil },
		Rival: func(*Rival) error { return nil }, Ranks: func(*RivalPhrase) error { return nil },
		Evidence: func(Document) error { return nil }, Page: func(string, []byte) error { return nil },
		Idea: func(*Idea) error {
			all, err := s.Niches(ctx)
			if seen++; len(all) != there {
				t.Errorf("%d niches are seen while one is read", len(all))
			}
			return err
		}}
	read := func() (Niche, error) {
		return s.ReadWhole(ctx, bytes.NewReader(file.Bytes()), int64(file.Len()), checks)
	}
	whole, err := read()
	if all, _ := s.Niches(ctx); err != nil || seen != 3 || len(all) != 2 || whole.Staged {
		t.Fatalf("%d ideas, %d niches, %v", seen, len(all), err)
	}
	rows, _ := s.Rows(ctx)
	there = 2
	checks.Seed = func(*Seed) error { return broken }
	if _, err := read(); !errors.Is(err, broken) {
		t.Errorf("read to its end: %v", err)
	}
	if after, _ := s.Rows(ctx); after != rows {
		t.Errorf("%d rows stay", after-rows)
	}
	half := Niche{Name: "Half", Country: "US", Language: "en", Currency: "USD", Staged: true}
	if err := s.CreateNiche(ctx, &half); err != nil {
		t.Fatal(err)
	}
	s.AddIdeas(ctx, half.ID, finds("x", "y"))
	if err := s.DeleteNiche(ctx, whole.ID, true); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Niche(ctx, whole.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("a deleted niche is there: %v", err)
	}
	if err := s.EraseNiche(ctx, n.ID); err != nil {
		t.Error(err)
	}
	if _, err := s.Niche(ctx, n.ID); err != nil {
		t.Errorf("a niche in use is erased: %v", err)
	}
	now := s.now()
	if ids, _ := s.Outlived(ctx, now.Add(-time.Hour), now.Add(-time.Hour)); len(ids) != 0 {
		t.Errorf("too soon: %v", ids)
	}
	ids, err := s.Outlived(ctx, now.Add(time.Hour), now.Add(time.Hour))
	if err != nil || len(ids) != 2 {
		t.Fatal(ids, err)
	}
	for _, id := range ids {
		if err := s.EraseNiche(ctx, id); err != nil {
			t.Error(err)
		}
	}
	if left := strings.Join(rowsOf(t, s), "\n"); strings.Contains(left, "Half") || strings.Contains(left, "Other") {
		t.Error("something of them stays")
	}
}
