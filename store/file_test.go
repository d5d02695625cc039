package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// rowsOf is every row of every table of a data file, as text.
func rowsOf(t *testing.T, s *Store) (out []string) {
	t.Helper()
	tables, err := s.db.Migrator().GetTables()
	if err != nil {
		t.Fatal(err)
	}
	slices.Sort(tables)
	for _, table := range tables {
		rows, err := s.db.Table(table).Rows()
		if err != nil {
			t.Fatal(err)
		}
		columns, _ := rows.Columns()
		for rows.Next() {
			values, into := make([]any, len(columns)), make([]any, len(columns))
			for i := range values {
				into[i] = &values[i]
			}
			if err := rows.Scan(into...); err != nil {
				t.Fatal(err)
			}
			out = append(out, fmt.Sprint(table, columns, values))
		}
		rows.Close()
	}
	slices.Sort(out)
	return out
}

// TestBackupsHoldEveryRow as it was when they were made, while others write, and come back.
func TestBackupsHoldEveryRow(t *testing.T) {
	s, n := open(t)
	folder := t.TempDir()
	var want [][]string
	for day := range 3 {
		s.AddIdeas(ctx, n.ID, finds(fmt.Sprint("a", day), fmt.Sprint("b", day)))
		if _, err := s.Decide(ctx, n.ID, []uint{uint(1 + day)}, 1, fmt.Sprint(day)); err != nil {
			t.Fatal(err)
		}
		want = append(want, rowsOf(t, s))
		if err := s.Backup(ctx, filepath.Join(folder, fmt.Sprint(day, ".db"))); err != nil {
			t.Fatal(err)
		}
	}
	end := make(chan bool)
	go func() {
		defer close(end)
		for i := range 300 {
			s.Decide(ctx, n.ID, []uint{1}, int8(i%3), fmt.Sprint("more", i))
		}
	}()
	for i := range 5 {
		to := filepath.Join(folder, fmt.Sprint("busy", i, ".db"))
		if err := s.Backup(ctx, to); err != nil {
			t.Error(err)
		}
		if copied, err := Open(to, time.Now); err != nil || copied.Look(ctx) != nil {
			t.Errorf("a copy made while others write: %v", err)
		} else {
			copied.Close()
		}
	}
	<-end
	path := filepath.Join(t.TempDir(), "restored.db")
	for day := range 3 {
		kept, err := Restore(ctx, path, filepath.Join(folder, fmt.Sprint(day, ".db")), time.Now())
		if err != nil || (kept == "") != (day == 0) {
			t.Fatal(kept, err)
		}
		back, err := Open(path, time.Now)
		if err != nil {
			t.Fatal(err)
		}
		if got := rowsOf(t, back); !slices.Equal(got, want[day]) {
			t.Errorf("day %d: %d rows came back of %d", day, len(got), len(want[day]))
		}
		if day == 2 {
			if _, err := Restore(ctx, path, filepath.Join(folder, "0.db"), time.Now()); err == nil ||
				!strings.Contains(err.Error(), "in use") {
				t.Errorf("restored under a program that works: %v", err)
			}
		}
		back.Close()
	}
	for _, no := range []string{"not there.db", "text.db"} {
		from := filepath.Join(folder, no)
		if no == "text.db" {
			os.WriteFile(from, []byte(strings.Repeat("no data file ", 1000)), 0o600)
		}
		before, _ := os.ReadFile(path)
		if _, err := Restore(ctx, path, from, time.Now()); err == nil {
			t.Errorf("%s is restored", no)
		}
		if after, _ := os.ReadFile(path); !slices.Equal(before, after) {
			t.Errorf("%s changed the data file", no)
		}
	}
}

// TestWhatIsWrittenIsInTheFile after a checkpoint, so that a copy of it alone misses nothing.
func TestWhatIsWrittenIsInTheFile(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	s.Decide(ctx, n.ID, []uint{1}, 1, "x")
	for i := range 3 { // and what comes after it is written as before
		if err := s.Checkpoint(ctx); err != nil {
			t.Fatal(err)
		}
		if err := s.SaveDemand(ctx, n.ID, []Idea{{ID: 2, DemandError: fmt.Sprint(i)}}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Checkpoint(ctx); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(s.path)
	if err != nil {
		t.Fatal(err)
	}
	to := filepath.Join(t.TempDir(), "copy.db")
	os.WriteFile(to, data, 0o600)
	copied, err := Open(to, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	defer copied.Close()
	if i, err := copied.Idea(ctx, n.ID, 1); err != nil || i.Decision != 1 {
		t.Errorf("%+v, %v", i.Decision, err)
	}
}

// TestTheFileIsItsOwners, and other troubles with it are told with what to do.
func TestTroublesOfTheFile(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b", "c"))
	for _, tail := range tails {
		if at, err := os.Stat(s.path + tail); err != nil || at.Mode().Perm() != 0o600 {
			t.Errorf("%s: %v, %v", tail, at.Mode(), err)
		}
	}
	if err := Remove(s.path); err == nil || !strings.Contains(err.Error(), "in use by another program") {
		t.Errorf("removed under a program that works: %v", err)
	}
	tells := func(what string, err error, says string) {
		t.Helper()
		var trouble *Trouble
		if !errors.As(err, &trouble) || !strings.Contains(trouble.Error(), says) {
			t.Errorf("%s: %v", what, err)
		}
	}
	s.db.Exec("PRAGMA max_page_count = 1")
	s.later.Exec("PRAGMA max_page_count = 1")
	var many []Find
	for i := range 3000 {
		many = append(many, finds(fmt.Sprint("phrase ", i))...)
	}
	pool, _ := s.db.DB()
	pool.SetMaxOpenConns(2) // one is spare
	s.db.Exec("PRAGMA max_page_count = 1")
	_, err := s.AddIdeas(ctx, n.ID, many)
	tells("a full disk", err, "the disk is full, so nothing was changed")
	if spans, count, _ := s.Spans(ctx, n.ID, 1); count != 3 {
		t.Errorf("%d ideas after that, %v", count, spans)
	}
	path := s.path
	s.Checkpoint(ctx)
	s.Close()

	data, _ := os.ReadFile(path)
	for at := len(data) / 3; at < len(data)*2/3; at++ {
		data[at] = byte(at * 7)
	}
	bad := filepath.Join(t.TempDir(), "bad.db")
	os.WriteFile(bad, data, 0o644)
	damaged, err := Open(bad, time.Now)
	if err == nil {
		tells("a damaged file", damaged.Look(context.Background()), "restore a backup: cleverniche restore FILE")
		damaged.Close()
	} else {
		tells("a damaged file", err, "restore a backup: cleverniche restore FILE")
	}
	text := filepath.Join(t.TempDir(), "text.db")
	os.WriteFile(text, []byte(strings.Repeat("this is no database ", 500)), 0o600)
	_, err = Open(text, time.Now)
	tells("a text", err, "not a data file of Clever Niche")
	newer := filepath.Join(t.TempDir(), "newer.db")
	os.WriteFile(newer, mustRead(t, path), 0o600)
	one, err := Open(newer, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	one.db.Exec("INSERT INTO migrations (id) VALUES ('99-later')")
	one.Close()
	_, err = Open(newer, time.Now)
	tells("a newer file", err, "written by a newer version")
}

func mustRead(t *testing.T, path string) []byte {
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// TestACopyFromBefore is kept when the schema changes, the last few of them.
func TestACopyFromBefore(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a"))
	path := s.path
	last := steps[len(steps)-1]
	s.db.Exec("DELETE FROM migrations WHERE id = ?", last.name)
	for _, statement := range slices.Backward(last.statements) { // what the last step makes
		words := strings.Fields(statement)
		switch {
		case strings.HasPrefix(statement, "CREATE TABLE"):
			s.db.Exec("DROP TABLE " + words[2])
		case strings.HasPrefix(statement, "CREATE INDEX"):
			s.db.Exec("DROP INDEX " + words[2])
		case strings.HasPrefix(statement, "CREATE UNIQUE INDEX"):
			s.db.Exec("DROP INDEX " + words[3])
		case strings.HasPrefix(statement, "ALTER TABLE") && words[4] == "COLUMN":
			s.db.Exec("ALTER TABLE " + words[2] + " DROP COLUMN " + words[5])
		}
	}
	want := rowsOf(t, s)
	s.Close()
	stem := strings.TrimSuffix(path, ".db") + "-before-"
	for i := range 4 {
		old := fmt.Sprint(stem, i, ".db")
		os.WriteFile(old, nil, 0o600)
		os.Chtimes(old, time.Unix(int64(i), 0), time.Unix(int64(i), 0))
	}
	again, err := Open(path, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	again.Close()
	copies, _ := filepath.Glob(stem + "*.db")
	if len(copies) != keptBefore || !slices.Contains(copies, stem+last.name+".db") || slices.Contains(copies,
		stem+"0.db") {
		t.Fatalf("kept are %v", copies)
	}
	pool := stem + last.name + ".db"
	db, err := connect(pool, "FULL", 1, time.Now, func() error { return nil })
	if err != nil {
		t.Fatal(err)
	}
	if got := rowsOf(t, &Store{db: db}); !slices.Equal(got, want) {
		t.Errorf("%d rows of %d", len(got), len(want))
	}
}
