package ideas_test

import (
	"path/filepath"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// TestListsFillGaps: a list's cost alone is taken, also for an idea that is there; a newer list says something newer.
func TestListsFillGaps(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	for _, list := range []string{"moon", "phrase,cpc\nmoon,0.30\n", "phrase,searches,cpc\nmoon,90,0.80\n",
		"phrase,searches\nmoon,50\n"} {
		if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list)); err != nil {
			t.Fatal(err)
		}
	}
	b, _ := s.Ideas.Table(ctx, n)
	idea := studytest.Tell(t, s, n, studytest.Named(b, "moon")).Idea
	if idea.Value(sieve.CPC).Number != 0.8 || idea.Value(sieve.Searches).Number != 50 {
		t.Errorf("cost %v, searches %v", idea.Value(sieve.CPC), idea.Value(sieve.Searches))
	}
	if source, at := idea.Said(sieve.CPC); source != store.ImportSource+" “list”" || at.IsZero() {
		t.Errorf("the cost is said by %q, %v", source, at)
	}
	if !b.Table.Lets(0, sieve.At(sieve.ByCost, 0.8)) {
		t.Error("the cost fills no column")
	}
}

// TestEurosAreNoDollars: a cost in another currency is shown, and compared with nothing.
func TestEurosAreNoDollars(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("phrase,searches,cpc\nmoon,100,€0.50\nmars,100,$0.20\n"))
	b, _ := s.Ideas.Table(ctx, n)
	for phrase, known := range map[string]bool{"moon": false, "mars": true} {
		st := studytest.Tell(t, s, n, studytest.Named(b, phrase))
		if part := st.Commercial.Parts[2]; part.Known != known {
			t.Errorf("%s: %+v", phrase, part)
		}
		if st.Ceiling <= 0 {
			t.Errorf("%s has no ceiling", phrase)
		}
	}
	if b.UsualCPC() != 200_000 {
		t.Errorf("usual cost %d", b.UsualCPC())
	}
}

func TestTheTableFollowsOtherPrograms(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := studytest.Open(t, &studytest.Fake{}, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	if b, _ := s.Ideas.Table(ctx, n); b.Len() != 0 {
		t.Fatal("a new niche has ideas")
	}
	other, _ := studytest.Open(t, &studytest.Fake{}, path, nil)
	other.Imports.Take(ctx, n, "x", strings.NewReader("one\ntwo\nthree words here"))
	b, _ := s.Ideas.Table(ctx, n)
	if b.Len() != 3 {
		t.Fatalf("%d ideas are seen", b.Len())
	}
	other.Ideas.Decide(ctx, n.ID, []uint{studytest.Named(b, "two")}, sieve.Dropped)
	b, _ = s.Ideas.Table(ctx, n)
	open := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}
	if b.Pass(open).Count != 2 || b.Len() != 3 {
		t.Error("another program's decision is not seen")
	}
	stops, found := b.LetThrough("Two", open)
	if !found || len(stops) != 1 || open.Filters[stops[0].At].By != sieve.ByDecision ||
		!stops[0].Out {
		t.Errorf("why not: %+v %v", stops, found)
	}
	undone, _ := s.Ideas.Undo(ctx, n.ID)
	if !strings.Contains(undone.Says, "Dropping “two”") || len(undone.Ideas) != 1 {
		t.Errorf("undo says %+v", undone)
	}
	if undone, _ := s.Ideas.Undo(ctx, n.ID); undone.Says != "" {
		t.Errorf("undo of nothing says %q", undone.Says)
	}
}

// TestUndoOfWhatLeft: an idea may have left with the import that brought it, after it was decided on.
func TestUndoOfWhatLeft(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "x", strings.NewReader("one\n"))
	b, _ := s.Ideas.Table(ctx, n)
	s.Ideas.Decide(ctx, n.ID, []uint{studytest.Named(b, "one")}, sieve.Kept)
	imports, err := s.Imports.Imports(ctx, n.ID, 5)
	if err != nil || len(imports) != 1 {
		t.Fatal(imports, err)
	}
	if left, err := s.Imports.Undo(ctx, n.ID, imports[0].Batch); left != 1 || err != nil {
		t.Fatal(left, err)
	}
	if undone, err := s.Ideas.Undo(ctx, n.ID); err != nil || undone.Says != "Keeping 1 idea was undone." {
		t.Errorf("undo says %q, %v", undone.Says, err)
	}
}
