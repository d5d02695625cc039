package store

import (
	"context"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"os"
	"sync"

	"gorm.io/gorm"
)

// A program that has a file open goes on with it when its name is taken away or given to another file, and what it
// keeps then is lost at its end. So each write looks whether the name still leads to the file that was opened.

// opened is the file that was opened, and what became of it.
type opened struct {
	files   map[string]os.FileInfo // by the tails of their names
	spare   *sql.Conn              // that what is in it can be saved by
	once    sync.Once
	trouble *Trouble
}

// remember notes which files are open.
func (s *Store) remember() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	if s.opened.spare, err = pool.Conn(context.Background()); err != nil {
		return err
	}
	pool.SetMaxOpenConns(mostAtOnce + 1)
	files := map[string]os.FileInfo{}
	for _, tail := range tails {
		if files[tail], err = os.Stat(s.path + tail); err != nil {
			return err
		}
	}
	s.opened.files = files
	return nil
}

// same returns why the names do not lead to the files that were opened, or nil.
func (s *Store) same() error {
	for tail, was := range s.opened.files {
		is, err := os.Stat(s.path + tail)
		if err == nil && !os.SameFile(is, was) {
			err = errors.New("another file has its name")
		}
		if err != nil {
			return fmt.Errorf("%s: %w", s.path+tail, err)
		}
	}
	return nil
}

// Still returns a Trouble when the data file is not where it was opened any more. What was in it is
// saved beside its place then, once.
func (s *Store) Still() error {
	err := s.same()
	if err == nil {
		return nil
	}
	s.opened.once.Do(func() {
		t := &Trouble{Says: "the data file " + s.path + " was deleted or replaced while the program used it, so nothing " +
			"more is kept", Do: "end the program; what was in the file could not be saved", Err: err}
		to := s.path + ".rescued-" + s.now().Format(stamp)
		if err := copyDatabase(context.Background(), s.opened.spare, to); err == nil {
			t.Do = "end the program; what was in the file was saved as " + to + ": bring it back with cleverniche restore FILE"
		} else {
			t.Err = errors.Join(t.Err, err)
		}
		s.opened.trouble = t
	})
	return s.opened.trouble
}

// stamp is a moment in the name of a file.
const stamp = "20060102T150405.000"

// A mark beside the data file says how many changes were acknowledged. It is written after each of them, so the file
// never has fewer, unless a part of it was lost: its log of writes, say, by who copied the file without it.

// countChange counts a change that is to be on the disk once it is acknowledged.
func countChange(tx *gorm.DB) (changes uint64, err error) {
	err = tx.Raw("UPDATE acknowledged SET changes = changes + 1 RETURNING changes").Scan(&changes).Error
	return changes, err
}

// acknowledge notes that so many changes are on the disk. That this fails is no failure of the change.
func (s *Store) acknowledge(changes uint64) {
	if s.marks != nil {
		s.marks.WriteAt(binary.BigEndian.AppendUint64(nil, changes), 0)
	}
}

// openMark opens the mark, and looks whether the data file has all that was acknowledged, if it was there: a new one
// starts a count of its own.
func (s *Store) openMark(there bool) error {
	f, err := os.OpenFile(s.path+lockTail, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil //nolint:nilerr // a folder that only lets one write the file has no mark
	}
	s.marks, s.program = f, takeNumber(f)
	var has uint64
	if err := s.db.Raw("SELECT changes FROM acknowledged").Scan(&has).Error; err != nil {
		return TroubleIn(err)
	}
	was := make([]byte, 8)
	if n, _ := f.ReadAt(was, 0); there && n == len(was) {
		if said := binary.BigEndian.Uint64(was); said > has {
			s.missing = &Trouble{Says: fmt.Sprintf("the data file lacks the last %d changes that were made to it", said-has),
				Do: "if you moved or replaced it, perhaps without the file beside it that ends in -wal, end the program and put " +
					"both back; this is said once"}
		}
	}
	s.acknowledge(has)
	return nil
}

// Alive reports whether the program that made a call is still at work; its own store is.
func (s *Store) Alive(program int64) bool {
	return program != 0 && (program == s.program || s.marks != nil && isHeld(s.marks, program))
}

// Missing is told when changes that were acknowledged were not in the file as it was opened; nil when none were.
func (s *Store) Missing() *Trouble { return s.missing }
