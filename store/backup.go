package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// Backup copies the data file as it is at one moment, while it is worked on to a file that is whole or not there. One
// that is there is not replaced: an error says so.
func (s *Store) Backup(ctx context.Context, to string) error {
	if _, err := os.Lstat(to); !errors.Is(err, os.ErrNotExist) {
		return fmt.Errorf("making the backup %s: %w", to, cmp.Or(err, os.ErrExist))
	}
	return s.backup(ctx, to)
}

// backup does it in the place of what is there.
func (s *Store) backup(ctx context.Context, to string) error {
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return fmt.Errorf("making the folder of the backup: %w", err)
	}
	pool, err := s.db.DB()
	if err == nil {
		err = copyPool(ctx, pool, to)
	}
	switch {
	case errors.Is(err, errUnsound):
		t := damaged
		t.Err = err
		return fmt.Errorf("no backup was made: %w", &t)
	case err != nil:
		return fmt.Errorf("making the backup %s: %w", to, err)
	}
	return nil
}

// intoPlace gives a file that is on the disk its name, so that after a power cut the old one or
// the new one is there.
func intoPlace(temporary, to string) error {
	for _, name := range []string{temporary, filepath.Dir(to)} {
		if name != temporary {
			if err := os.Rename(temporary, to); err != nil {
				return err
			}
		}
		f, err := os.Open(name)
		if err != nil {
			return err
		}
		err = f.Sync()
		f.Close()
		if err != nil {
			return err
		}
	}
	return nil
}

// Restore puts a backup in the place of a data file that no program uses, and returns where the
// one that was there is kept. A file that is no data file, or one of a newer version, changes nothing.
//
// Killed at any moment, it has not begun, or the next program that opens the file finishes it: a note beside the file
// says that the copy is ready (restoring).
func Restore(ctx context.Context, path, from string, now time.Time) (kept string, err error) {
	if _, err := os.Stat(from); err != nil {
		return "", fmt.Errorf("the backup cannot be read: %w", err)
	}
	err = Alone(path, func() error {
		pool, err := openToRead(from)
		if err != nil {
			return err
		}
		defer pool.Close()
		if err := ours(ctx, pool); err != nil {
			return fmt.Errorf("%s: %w", from, err)
		}
		if err := copyPool(ctx, pool, path+restored); err != nil {
			return err
		}
		if _, err := os.Stat(path); err == nil {
			kept = path + ".replaced-" + now.UTC().Format(stamp)
		}
		if err := writeWhole(path+restoring, []byte(kept)); err != nil {
			return err
		}
		return replace(path)
	})
	return kept, err
}

// What the names of a restore's files end in: the copy, and the note that it is ready.
const (
	restored  = ".restored"
	restoring = ".restoring"
)

// replace does what a restore has to do once its copy is ready; what is done already is not done again.
func replace(path string) error {
	note, err := os.ReadFile(path + restoring)
	if err != nil {
		return err
	}
	for _, tail := range tails {
		if kept := string(note); kept != "" {
			err := keepAs(path+tail, kept+tail)
			if err != nil && !errors.Is(err, os.ErrNotExist) && !errors.Is(err, os.ErrExist) {
				return fmt.Errorf("keeping the data file as it was: %w", err)
			}
		}
	}
	for _, tail := range tails[1:] { // or what they hold would be taken to belong to the copy
		if err := os.Remove(path + tail); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	if err := os.Truncate(path+lockTail, 0); err != nil { // its mark is of the file that was there
		return err
	}
	if err := intoPlace(path+restored, path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return os.Remove(path + restoring)
}

// keepAs lets a file be there under a second name, too, or a copy of it where a disk has no such names.
func keepAs(name, as string) error {
	err := os.Link(name, as)
	if err == nil || errors.Is(err, os.ErrNotExist) || errors.Is(err, os.ErrExist) {
		return err
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	return writeWhole(as, data)
}

// finishRestore finishes a restore that was killed.
func finishRestore(path string) error {
	if _, err := os.Stat(path + restoring); err != nil {
		return nil //nolint:nilerr // none was
	}
	return Alone(path, func() error {
		if _, err := os.Stat(path + restoring); err != nil {
			return nil //nolint:nilerr // another program has
		}
		return replace(path)
	})
}

// writeWhole writes a small file that is whole or not there.
func writeWhole(name string, data []byte) error {
	if err := os.WriteFile(name+".part", data, 0o600); err != nil {
		return err
	}
	return intoPlace(name+".part", name)
}

// keptBefore is how many copies from before migrations are kept.
const keptBefore = 3

// keepBefore copies a data file before the schema changes, if it is going to.
func (s *Store) keepBefore() error {
	last := steps[len(steps)-1].name
	var done int64
	err := s.db.Raw("SELECT count(*) FROM migrations WHERE id = ?", last).Scan(&done).Error
	if err != nil || done > 0 {
		return nil // there is nothing to keep, or nothing changes
	}
	stem := strings.TrimSuffix(s.path, ".db") + "-before-"
	if err := s.backup(context.Background(), stem+last+".db"); err != nil {
		return err
	}
	copies, err := filepath.Glob(globOf(stem) + "*.db")
	if err != nil {
		return err
	}
	slices.SortFunc(copies, func(a, b string) int { return modified(b).Compare(modified(a)) })
	for _, old := range copies[min(len(copies), keptBefore):] {
		if err := os.Remove(old); err != nil {
			return err
		}
	}
	return nil
}

func modified(path string) time.Time {
	at, err := os.Stat(path)
	if err != nil {
		return time.Time{}
	}
	return at.ModTime()
}

// globOf is a path as a pattern that matches itself only.
func globOf(path string) string {
	return strings.NewReplacer(`\`, `\\`, "*", `\*`, "?", `\?`, "[", `\[`).Replace(path)
}

// Checkpoint brings what was written into the data file itself, so that a copy of it alone misses
// nothing; it waits for nobody.
func (s *Store) Checkpoint(ctx context.Context) error {
	if !s.dirty.Swap(false) {
		return nil
	}
	pool, err := s.later.DB()
	if err != nil {
		return err
	}
	return checkpoint(ctx, pool)
}
