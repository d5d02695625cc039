package store

import (
	"errors"
	"testing"
)

// TestNoWriteIsLostWithoutAWord: what was changed since one looked is not written over, what one did not touch stays.
func TestNoWriteIsLostWithoutAWord(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a"))
	mine, theirs := n, n
	mine.OwnSite, theirs.WeekHours = "mine.example", 9
	if err := errors.Join(s.SaveNiche(ctx, n, theirs), s.SaveNiche(ctx, n, mine)); err != nil {
		t.Fatal(err)
	}
	if now, _ := s.Niche(ctx, n.ID); now.OwnSite != "mine.example" || now.WeekHours != 9 {
		t.Errorf("the settings are %+v", now)
	}
	again := n
	again.WeekHours = 20
	if err := s.SaveNiche(ctx, n, again); !errors.Is(err, ErrChanged) {
		t.Errorf("written over: %v", err)
	}
	empty := ""
	if err := s.SaveNote(ctx, n.ID, Idea{ID: 1, Note: "theirs"}, &empty, "x"); err != nil {
		t.Fatal(err)
	}
	if err := s.SaveNote(ctx, n.ID, Idea{ID: 1, Note: "mine"}, &empty, "y"); !errors.Is(err, ErrChanged) {
		t.Errorf("a note is written over: %v", err)
	}
	if err := s.SetColumns(ctx, n.ID, &empty, "searches"); err != nil {
		t.Fatal(err)
	}
	if err := s.SetColumns(ctx, n.ID, &empty, "cpc"); !errors.Is(err, ErrChanged) {
		t.Errorf("columns are written over: %v", err)
	}
	if i, _ := s.Idea(ctx, n.ID, 1); i.Note != "theirs" {
		t.Errorf("the note is %q", i.Note)
	}
}

// TestIdeasLeaveAndComeBack: what is taken out is in no list, comes back by undoing as it was, or by being found again.
func TestIdeasLeaveAndComeBack(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b", "c"))
	s.Decide(ctx, n.ID, []uint{2}, 1, "keep")
	there := func() (out []uint) {
		for _, id := range []uint{1, 2, 3} {
			if _, err := s.Idea(ctx, n.ID, id); err == nil {
				out = append(out, id)
			}
		}
		_, count, _ := s.Spans(ctx, n.ID, 1)
		if count != len(out) {
			t.Errorf("%d ideas are listed, %v are there", count, out)
		}
		return out
	}
	if got, err := s.RemoveIdeas(ctx, n.ID, []uint{1, 2, 2}, "out"); got != 2 || err != nil || len(there()) != 1 {
		t.Fatalf("%d left: %v", got, err)
	}
	if _, err := s.RemoveIdeas(ctx, n.ID, []uint{1}, "again"); !errors.Is(err, ErrNotFound) {
		t.Errorf("taken out twice: %v", err)
	}
	if undone, err := s.UndoDecision(ctx, n.ID); len(undone) != 2 || err != nil || len(there()) != 3 {
		t.Fatalf("%d came back: %v", len(undone), err)
	}
	if i, _ := s.Idea(ctx, n.ID, 2); i.Decision != 1 {
		t.Error("what was decided on it is lost")
	}
	s.RemoveIdeas(ctx, n.ID, []uint{2}, "out")
	if added, err := s.AddIdeas(ctx, n.ID, finds("b")); added != 1 || err != nil || len(there()) != 3 {
		t.Errorf("found again: %d, %v", added, err)
	}
	if i, _ := s.Idea(ctx, n.ID, 2); i.Decision != 0 {
		t.Error("found again, it is decided on")
	}
	err := s.EditTopics(ctx, n.ID, AnyRevision, func() string { return "x" }, func(e *TopicTx) error {
		one := TopicEdit{State: "to write"}
		return errors.Join(e.Save(&one), e.Put(one.ID, []uint{3}))
	})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.RemoveIdeas(ctx, n.ID, []uint{1, 3}, "planned"); !errors.Is(err, ErrPlanned) || len(there()) != 3 {
		t.Errorf("one of the plan: %v", err)
	}
}

// TestImportsAreUndone: what came leaves, what was filled is empty again, what was there stays.
func TestImportsAreUndone(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	want, _ := s.all(n.ID)
	now := s.now()
	list := func(many int) (out []Arrival) {
		for i, f := range finds("b", "c", "d") {
			f.Idea.Searches, f.Idea.DemandAt, f.Idea.DemandSource = &many, &now, ImportSource+" “list.csv”"
			out = append(out, Arrival{f, i + 1})
		}
		return out
	}
	if did, err := s.ImportIdeas(ctx, n.ID, list(70), "1 list.csv", "list.csv"); did.Added != 2 || did.Changed != 1 ||
		err != nil {
		t.Fatal(did, err)
	}
	revision, _ := s.Niche(ctx, n.ID)
	if did, err := s.ImportIdeas(ctx, n.ID, list(70), "1 list.csv", "list.csv"); did.Added+did.Changed != 0 || err != nil {
		t.Errorf("the same list once more: %+v, %v", did, err)
	}
	if again, _ := s.Niche(ctx, n.ID); again.Revision != revision.Revision {
		t.Error("nothing changed, and the revision did")
	}
	if i, _ := s.Idea(ctx, n.ID, 2); i.Searches == nil || *i.Searches != 70 {
		t.Error("a gap is not filled")
	}
	if undone, _ := s.UndoDecision(ctx, n.ID); len(undone) != 0 {
		t.Error("an import is undone by a key")
	}
	got, err := s.Imports(ctx, n.ID, 5)
	if len(got) != 1 || err != nil || got[0].Added != 2 || got[0].Changed != 1 || got[0].Batch != "1 list.csv" {
		t.Fatalf("%+v, %v", got, err)
	}
	if did, err := s.ImportIdeas(ctx, n.ID, list(90), "2 newer.csv", "newer.csv"); did.Changed != 3 || err != nil {
		t.Errorf("a newer list: %+v, %v", did, err)
	}
	if _, err := s.UndoImport(ctx, n.ID, "2 newer.csv"); err != nil {
		t.Error(err)
	}
	if i, _ := s.Idea(ctx, n.ID, 2); i.Searches == nil || *i.Searches != 70 {
		t.Errorf("after undoing the newer one: %+v", i)
	}
	s.SaveDemand(ctx, n.ID, []Idea{{ID: 2, Searches: ref(50), DemandAt: &now, DemandSource: "a source"}})
	if did, _ := s.ImportIdeas(ctx, n.ID, list(90), "3 newer.csv", "newer.csv"); did.Changed != 2 {
		t.Errorf("what a source said is written over: %+v", did)
	}
	if _, err := s.UndoImport(ctx, n.ID, "3 newer.csv"); err != nil {
		t.Error(err)
	}
	s.SaveDemand(ctx, n.ID, []Idea{{ID: 2, Searches: ref(70), DemandAt: &now, DemandSource: ImportSource}})
	if n, err := s.UndoImport(ctx, n.ID, got[0].Batch); n != 3 || err != nil {
		t.Fatal(n, err)
	}
	after, _ := s.all(n.ID)
	for i, idea := range after {
		if i < len(want) && (idea.Searches != nil || idea.DemandSource != "" || idea.RemovedAt != nil) ||
			i >= len(want) && idea.RemovedAt == nil {
			t.Errorf("%+v", idea)
		}
	}
	if _, err := s.UndoImport(ctx, n.ID, got[0].Batch); !errors.Is(err, ErrNotFound) {
		t.Errorf("undone twice: %v", err)
	}
}
