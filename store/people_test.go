package store

import (
	"errors"
	"testing"
	"time"
)

// TestOwnBudget: what somebody may spend a day is bounded beside the budget of all, and theirs alone counts.
func TestOwnBudget(t *testing.T) {
	s, _ := open(t)
	if err := s.Invite(ctx, Invitation{Hash: "h", Name: "Ben", Role: "editor",
		EndsAt: s.now().Add(time.Hour).UTC()}); err != nil {
		t.Fatal(err)
	}
	m, err := s.Accept(ctx, "h", "hash")
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Invite(ctx, Invitation{Hash: "i", Name: "Ada", Role: "owner",
		EndsAt: s.now().Add(time.Hour).UTC()}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Accept(ctx, "i", "hash"); err != nil {
		t.Fatal(err)
	}
	if err := s.ChangeMember(ctx, m.ID, "editor", 100, "owner"); err != nil {
		t.Fatal(err)
	}
	since := s.now().Add(-time.Hour)
	n := 0
	spend := func(person string, micros int64) error {
		n++
		return s.Spend(As(ctx, person), []Entry{{Call: string(rune('a' + n)), Question: "results", Source: "x",
			Key: string(rune('a' + n)), Micros: micros}}, since, 1000)
	}
	if err := spend("Ada", 500); err != nil {
		t.Fatal(err)
	}
	if err := spend("Ben", 80); err != nil {
		t.Errorf("within his own: %v", err)
	}
	if err := spend("Ben", 30); !errors.Is(err, ErrOwnBudget) {
		t.Errorf("over his own: %v", err)
	}
	if err := spend("Ben", 20); err != nil {
		t.Errorf("what is left of it: %v", err)
	}
	if err := spend("Ada", 390); err != nil {
		t.Errorf("who has none: %v", err)
	}
	if err := spend("Ada", 20); !errors.Is(err, ErrBudget) {
		t.Errorf("over that of all: %v", err)
	}
	if err := s.ChangeMember(ctx, 2, "reader", 0, "owner"); !errors.Is(err, ErrLastOwner) {
		t.Errorf("the last owner: %v", err)
	}
}

// TestUndoOnesOwn: one takes back what one did oneself, and nothing that somebody else changed since.
func TestUndoOnesOwn(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	ada, ben := As(ctx, "Ada"), As(ctx, "Ben")
	decide := func(person string, id uint, to int8, batch string) {
		t.Helper()
		if _, err := s.Decide(As(ctx, person), n.ID, []uint{id}, to, batch); err != nil {
			t.Fatal(err)
		}
	}
	decide("Ada", 1, 1, "one")
	decide("Ben", 2, 2, "two")
	if rows, err := s.UndoDecision(ada, n.ID); err != nil || len(rows) != 1 || rows[0].IdeaID != 1 {
		t.Fatalf("%+v, %v", rows, err)
	}
	if rows, err := s.UndoDecision(ada, n.ID); err != nil || len(rows) != 0 {
		t.Errorf("another's: %+v, %v", rows, err)
	}
	decide("Ada", 2, 1, "three") // what Ben dropped is kept now
	if rows, err := s.UndoDecision(ben, n.ID); !errors.Is(err, ErrSince) {
		t.Errorf("changed since: %+v, %v", rows, err)
	}
	if rows, err := s.UndoDecision(ada, n.ID); err != nil || len(rows) != 1 {
		t.Errorf("%+v, %v", rows, err)
	}
	if rows, err := s.UndoDecision(ben, n.ID); err != nil || len(rows) != 1 {
		t.Errorf("once hers is taken back: %+v, %v", rows, err)
	}
}
