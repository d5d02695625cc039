package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"github.com/mattn/go-sqlite3"
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

// troubles are those that SQLite tells of, by its result codes (sqlite.org/rescode.html).
var troubles = map[sqlite3.ErrNo]Trouble{
	sqlite3.ErrFull: {Says: "the disk is full, so nothing was changed",
		Do: "make room on it, and do that again"},
	sqlite3.ErrReadonly: {Says: "the data file cannot be written to",
		Do: "give this user the right to write it and its folder, or name another one with --data"},
	sqlite3.ErrCorrupt: {Says: "the data file is damaged",
		Do: "end the program, keep a copy of the file, and bring a backup back: cleverniche restore FILE"},
	sqlite3.ErrNotADB: {Says: "the data file is not one of this program's, or is damaged",
		Do: "name another one with --data, or bring a backup back: cleverniche restore FILE"},
	sqlite3.ErrIoErr: {Says: "the disk does not do what it should",
		Do: "look at the system's log, and bring a backup to another disk: cleverniche restore FILE"},
	sqlite3.ErrCantOpen: {Says: "the data file cannot be opened",
		Do: "look whether its folder is there and this user may write to it"},
	sqlite3.ErrBusy: {Says: "another program has held the data file for too long",
		Do: "try again, or end the other program"},
}

// TroubleIn makes a Trouble of an error of SQLite's that tells of the file.
func TroubleIn(err error) error {
	var from sqlite3.Error
	if errors.As(err, &from) {
		if t, ok := troubles[from.Code]; ok {
			t.Err = err
			return &t
		}
	}
	return err
}

// prepare makes what the data file needs, and looks whether it can be written. It reports whether
// the file was there.
func prepare(path string) (there bool, err error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return false, fmt.Errorf("making the folder of the data file: %w", err)
	}
	at, err := os.Stat(path)
	there = err == nil && at.Size() > 0
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600) // SQLite's other files take over its rights
	if err == nil {
		err = f.Close()
	}
	if err != nil {
		t := troubles[sqlite3.ErrReadonly]
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

// tails are what the names of a data file's files end in.
var tails = []string{"", "-wal", "-shm"}

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

// Look checks the whole data file (PRAGMA quick_check), and returns a Trouble when it is damaged.
func (s *Store) Look(ctx context.Context) error {
	var found []string
	if err := s.read(ctx).Raw("PRAGMA quick_check(3)").Scan(&found).Error; err != nil {
		return TroubleIn(err)
	}
	if len(found) == 1 && found[0] == "ok" {
		return nil
	}
	t := troubles[sqlite3.ErrCorrupt]
	t.Err = errors.New(strings.Join(found, "; "))
	return &t
}
