package store

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// TestBackupsReplaceNothing: neither the data file itself, by whatever name, nor any other file.
func TestBackupsReplaceNothing(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	want := rowsOf(t, s)
	link, other := filepath.Join(t.TempDir(), "link.db"), filepath.Join(t.TempDir(), "other.txt")
	os.Symlink(s.path, link)
	os.WriteFile(other, []byte("mine"), 0o600)
	for _, to := range []string{s.path, s.path + "-wal", s.path + lockTail, link, other, filepath.Dir(other)} {
		if err := s.Backup(ctx, to); !errors.Is(err, os.ErrExist) {
			t.Errorf("a backup to %s: %v", to, err)
		}
	}
	if text := mustRead(t, other); string(text) != "mine" {
		t.Errorf("the other file is %q", text)
	}
	if !slices.Equal(rowsOf(t, s), want) || s.Look(ctx) != nil {
		t.Error("the data file is not as it was")
	}
}

// TestAFileThatIsTakenAway from under a program takes nothing more that would be lost, and is saved.
func TestAFileThatIsTakenAway(t *testing.T) {
	for what, take := range map[string]func(path string) error{
		"deleted":  os.Remove,
		"renamed":  func(path string) error { return os.Rename(path, path+".old") },
		"replaced": func(path string) error { return errors.Join(os.Remove(path), os.WriteFile(path, nil, 0o600)) },
	} {
		s, n := open(t)
		s.AddIdeas(ctx, n.ID, finds("a", "b"))
		if err := s.Still(); err != nil {
			t.Fatal(err)
		}
		want := rowsOf(t, s)
		if err := take(s.path); err != nil {
			t.Fatal(err)
		}
		for range 2 {
			_, err := s.Decide(ctx, n.ID, []uint{1}, 1, "x")
			var trouble *Trouble
			if !errors.As(err, &trouble) || !strings.Contains(err.Error(), "deleted or replaced") {
				t.Errorf("%s: %v", what, err)
			}
		}
		if err := s.SaveDemand(ctx, n.ID, []Idea{{ID: 2, DemandError: "?"}}); err == nil {
			t.Errorf("%s: figures are kept", what)
		}
		saved, _ := filepath.Glob(globOf(s.path) + ".rescued-*")
		if len(saved) != 1 {
			t.Fatalf("%s: saved are %v", what, saved)
		}
		back, err := Open(saved[0], time.Now)
		if err != nil {
			t.Fatal(err)
		}
		if !slices.Equal(rowsOf(t, back), want) {
			t.Errorf("%s: what was saved is not what was there", what)
		}
		back.Close()
	}
}

// TestALostLogIsNoticed: a data file that is moved without the file of its last writes lacks them.
func TestALostLogIsNoticed(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	s.Checkpoint(ctx)
	s.Decide(ctx, n.ID, []uint{1}, 1, "x")
	s.Decide(ctx, n.ID, []uint{2}, 1, "y")
	for _, whole := range []bool{true, false} {
		to := filepath.Join(t.TempDir(), "moved.db")
		os.WriteFile(to, mustRead(t, s.path), 0o600)
		os.WriteFile(to+lockTail, mustRead(t, s.path+lockTail), 0o600)
		if whole {
			os.WriteFile(to+"-wal", mustRead(t, s.path+"-wal"), 0o600)
		}
		for _, first := range []bool{true, false} {
			moved, err := Open(to, time.Now)
			if err != nil {
				t.Fatal(err)
			}
			lacks := moved.Missing()
			if (lacks != nil) != (first && !whole) || lacks != nil && !strings.Contains(lacks.Error(), "the last 2 changes") {
				t.Errorf("whole %v, first %v: %v", whole, first, lacks)
			}
			if _, err := moved.Decide(ctx, n.ID, []uint{1}, 2, "z"); err != nil {
				t.Error(err)
			}
			moved.Close()
		}
	}
}

// TestANewFileLacksNothing, whatever was acknowledged of the one that had its name.
func TestANewFileLacksNothing(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	s.Decide(ctx, n.ID, []uint{1}, 1, "x")
	s.Close()
	if err := Remove(s.path); err != nil {
		t.Fatal(err)
	}
	for range 2 {
		anew, err := Open(s.path, time.Now)
		if err != nil {
			t.Fatal(err)
		}
		if lacks := anew.Missing(); lacks != nil {
			t.Error(lacks)
		}
		anew.Close()
	}
}

// TestARestoreThatIsKilled has not begun, or is finished by the next program; what was there is kept.
func TestARestoreThatIsKilled(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	backup := filepath.Join(t.TempDir(), "backup.db")
	if err := s.Backup(ctx, backup); err != nil {
		t.Fatal(err)
	}
	want := rowsOf(t, s)
	s.Decide(ctx, n.ID, []uint{1}, 1, "x")
	now := rowsOf(t, s)
	main, log := mustRead(t, s.path), mustRead(t, s.path+"-wal")
	for killed := range 6 {
		path := filepath.Join(t.TempDir(), "d.db")
		os.WriteFile(path, main, 0o600)
		os.WriteFile(path+"-wal", log, 0o600)
		os.WriteFile(path+lockTail, nil, 0o600)
		kept := path + ".replaced-then"
		os.WriteFile(path+restored, mustRead(t, backup), 0o600)
		steps := []func() error{
			func() error { return os.WriteFile(path+restoring, []byte(kept), 0o600) },
			func() error { return os.Link(path, kept) },
			func() error { return os.Link(path+"-wal", kept+"-wal") },
			func() error { return os.Remove(path + "-wal") },
			func() error { return os.Rename(path+restored, path) },
		}
		for _, step := range steps[:killed] {
			if err := step(); err != nil {
				t.Fatal(err)
			}
		}
		again, err := Open(path, time.Now)
		if err != nil {
			t.Fatalf("killed after %d steps: %v", killed, err)
		}
		if got := rowsOf(t, again); !slices.Equal(got, want) && !(killed == 0 && slices.Equal(got, now)) {
			t.Errorf("killed after %d steps there are %d rows of %d", killed, len(got), len(want))
		}
		again.Close()
		if killed == 0 {
			continue
		}
		was, err := Open(kept, time.Now)
		if err != nil {
			t.Fatal(err)
		}
		if !slices.Equal(rowsOf(t, was), now) {
			t.Errorf("killed after %d steps what was there is not kept", killed)
		}
		was.Close()
	}
}

// TestOnlyOursIsRestored: no other program's file, nor one of a newer version.
func TestOnlyOursIsRestored(t *testing.T) {
	s, _ := open(t)
	path := filepath.Join(t.TempDir(), "d.db")
	for says, make := range map[string]func(db *sql.DB) error{
		"no data file": func(db *sql.DB) error {
			_, err := db.Exec("DROP TABLE ideas")
			return err
		},
		"newer version": func(db *sql.DB) error {
			_, err := db.Exec("INSERT INTO migrations (id) VALUES ('99-later')")
			return err
		},
	} {
		from := filepath.Join(t.TempDir(), "from.db")
		if err := s.Backup(ctx, from); err != nil {
			t.Fatal(err)
		}
		db, err := sql.Open(driverName, from)
		if err == nil {
			err = make(db)
		}
		db.Close()
		if err != nil {
			t.Fatal(err)
		}
		_, err = Restore(context.Background(), path, from, time.Now())
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
		if _, err := os.Stat(path); err == nil {
			t.Errorf("%s is a data file now", says)
		}
	}
}

// TestClosedIsWhole: once it is closed, the data file by itself has all that was done, also where somebody still reads.
func TestClosedIsWhole(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	rows, err := s.read(ctx).Raw("SELECT id FROM ideas").Rows()
	if err != nil || !rows.Next() {
		t.Fatal("nothing is read", err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	alone := filepath.Join(t.TempDir(), "alone.db")
	if err := os.WriteFile(alone, []byte(mustRead(t, s.path)), 0o600); err != nil {
		t.Fatal(err)
	}
	pool, err := sql.Open(driverName, addressOf(alone, "mode=rw"))
	if err != nil {
		t.Fatal(err)
	}
	defer pool.Close()
	ideas := 0
	if err := pool.QueryRow("SELECT count(*) FROM ideas").Scan(&ideas); err != nil || ideas != 2 {
		t.Errorf("the file by itself has %d ideas, %v", ideas, err)
	}
}
