package study_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/study/studytest"
)

// TestCopiesOfTheDays are kept for seven days, four weeks and twelve months, and each is whole.
func TestCopiesOfTheDays(t *testing.T) {
	now := time.Date(2024, 1, 1, 9, 0, 0, 0, time.UTC)
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Now = func() time.Time { return now } })
	s.Imports.Take(ctx, n, "list", strings.NewReader("moon map"))
	folder := filepath.Join(t.TempDir(), "copies")
	os.MkdirAll(folder, 0o700)
	stranger := filepath.Join(folder, "cleverniche-notes.db")
	os.WriteFile(stranger, nil, 0o600)
	const days = 800
	for range days - 1 { // a whole copy each day would take long: these are names
		os.WriteFile(filepath.Join(folder, "cleverniche-"+now.Format(time.DateOnly)+".db"), nil, 0o600)
		now = now.AddDate(0, 0, 1)
	}
	for range 2 {
		if err := s.CopyOfTheDay(ctx, folder); err != nil {
			t.Fatal(err)
		}
	}
	var kept []string
	entries, _ := os.ReadDir(folder)
	for _, e := range entries {
		if e.Name() != filepath.Base(stranger) {
			kept = append(kept, strings.TrimSuffix(strings.TrimPrefix(e.Name(), "cleverniche-"), ".db"))
		}
	}
	// 800 days from 1 January 2024 end on Tuesday, 10 March 2026; reckoned by hand.
	want := []string{"2025-04-30", "2025-05-31", "2025-06-30", "2025-07-31", "2025-08-31", "2025-09-30", "2025-10-31",
		"2025-11-30", "2025-12-31", "2026-01-31", "2026-02-22", "2026-02-28", "2026-03-01", "2026-03-04", "2026-03-05",
		"2026-03-06", "2026-03-07", "2026-03-08", "2026-03-09", "2026-03-10"}
	if !slices.Equal(kept, want) {
		t.Errorf("kept are %v", kept)
	}
	if _, err := os.Stat(stranger); err != nil {
		t.Error("a file of somebody else's is gone")
	}
	copied, _ := studytest.Open(t, &studytest.Fake{}, filepath.Join(folder,
		"cleverniche-"+now.Format(time.DateOnly)+".db"), nil)
	b, err := copied.Ideas.Table(ctx, n)
	if err != nil || b.Len() != 1 {
		t.Errorf("%d ideas in the copy, %v", b.Len(), err)
	}
}
