package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
)

// lockTail is what the name of the file ends in by which programs that use a data file know of
// each other.
const lockTail = ".lock"

// Trouble is something that is wrong with the data file itself, and what to do about it.
type Trouble struct {
	Says, Do string
	Err      error
}

func (t *Trouble) Error() string { return t.Says + ": " + t.Do }

func (t *Trouble) Unwrap() error { return t.Err }

// prepare makes what the data file needs, and looks whether it can be written. It reports whether
// the file was there.
func prepare(path string) (there bool, err error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return false, fmt.Errorf("making the folder of the data file: %w", err)
	}
	at, err := os.Stat(path)
	there = err == nil && at.Size() > 0
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600) // its other files take over its rights
	if err == nil {
		err = f.Close()
	}
	if err != nil {
		t := unwritable
		t.Err = err
		return there, fmt.Errorf("the data file %s: %w", path, &t)
	}
	for _, tail := range tails {
		if at, err := os.Stat(path + tail); err == nil && at.Mode().Perm()&0o077 != 0 {
			if err := os.Chmod(path+tail, 0o600); err != nil {
				return there, fmt.Errorf("keeping others from reading the data file: %w", err)
			}
		}
	}
	return there, nil
}

// Alone runs do while no other program has the data file open.
func Alone(path string, do func() error) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	lock := flock.New(path + lockTail)
	got, err := lock.TryLock()
	if err != nil {
		return err
	}
	if !got {
		return fmt.Errorf("the data file %s is in use by another program: end that first", path)
	}
	defer lock.Unlock()
	return do()
}

// Remove removes a data file, unless a program uses it.
func Remove(path string) error {
	return Alone(path, func() error { return removeFiles(path) })
}

func removeFiles(path string) error {
	for _, tail := range tails {
		if err := os.Remove(path + tail); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}

// Look checks the whole data file, and returns a Trouble when it is damaged.
func (s *Store) Look(ctx context.Context) error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	found, err := unsound(ctx, pool, 3)
	if err != nil || len(found) == 0 {
		return err
	}
	t := damaged
	t.Err = errors.New(strings.Join(found, "; "))
	return &t
}
