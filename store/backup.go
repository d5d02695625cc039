package store

import (
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
// that is there is replaced.
func (s *Store) Backup(ctx context.Context, to string) error {
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return fmt.Errorf("making the folder of the backup: %w", err)
	}
	pool, err := s.db.DB()
	if err == nil {
		err = copyDatabase(ctx, pool, to)
	}
	if err != nil {
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
// one that was there is kept. A file that is no data file changes nothing.
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
		var steps int
		if err := pool.QueryRowContext(ctx, "SELECT count(*) FROM migrations").Scan(&steps); err != nil {
			return fmt.Errorf("%s is no data file of this program: %w", from, err)
		}
		next := path + ".restored"
		if err := copyDatabase(ctx, pool, next); err != nil {
			return err
		}
		if _, err := os.Stat(path); err == nil {
			kept = path + ".replaced-" + now.UTC().Format("20060102T150405.000")
			for _, tail := range tails {
				if err := os.Rename(path+tail, kept+tail); err != nil && !errors.Is(err, os.ErrNotExist) {
					return err
				}
			}
		}
		return intoPlace(next, path)
	})
	return kept, err
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
	if err := s.Backup(context.Background(), stem+last+".db"); err != nil {
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
