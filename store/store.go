package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/gorm"
)

// Store is the open data file. It may be used from many goroutines.
type Store struct {
	path    string
	db      *gorm.DB
	later   *gorm.DB // commits without waiting for the disk
	lock    *flock.Flock
	writing sync.Mutex // there is one writer: wait here, not in the database
	dirty   atomic.Bool
	clock   func() time.Time
	opened  opened
	marks   *os.File
	program int64 // its number among the programs that have the file open
	missing *Trouble
}

// ErrNotFound is returned for a row that is not there.
var ErrNotFound = errors.New("not found")

// Open opens the data file, makes it and its folder when they are not there, and
// brings it to the present schema: a copy as it was is kept then. Others of its owner's
// programs may have it open; nobody else may read it. now is the clock of all that is done with it.
func Open(path string, now func() time.Time) (*Store, error) {
	if err := finishRestore(path); err != nil {
		return nil, err
	}
	there, err := prepare(path)
	if err != nil {
		return nil, err
	}
	s := &Store{path: path, lock: flock.New(path + lockTail), clock: now}
	if got, err := s.lock.TryRLock(); err != nil || !got {
		return nil, fmt.Errorf("the data file %s is being replaced by another program", path)
	}
	if err := s.open(there); err != nil {
		s.Close()
		return nil, fmt.Errorf("opening the data file %s: %w", path, err)
	}
	return s, nil
}

// Now is the time by the clock that the file was opened with, in its zone.
func (s *Store) Now() time.Time { return s.clock() }

// now is the time as it is kept.
func (s *Store) now() time.Time { return s.clock().UTC() }

func (s *Store) open(there bool) (err error) {
	if s.db, err = connect(s.path, onDisk, mostAtOnce, s.now, s.same); err != nil {
		return err
	}
	if s.later, err = connect(s.path, whenever, 1, s.now, s.same); err != nil {
		return err
	}
	if err := s.migrate(there); err != nil {
		return err
	}
	if err := s.remember(); err != nil {
		return err
	}
	return s.openMark(there)
}

// closing is how long the log is brought into the file at most when that is closed.
const closing = 3 * time.Second

// mostAtOnce is how many read at once.
const mostAtOnce = 6

// Close closes the data file. What is in the log is brought into the file first: SQLite does so only for the last one
// that leaves, and somebody may still read; then a copy of the file alone would miss the end. Nothing is lost where
// that fails.
func (s *Store) Close() error {
	var errs []error
	if s.later != nil {
		s.dirty.Store(true)
		soon, done := context.WithTimeout(context.Background(), closing)
		_ = s.Checkpoint(soon)
		done()
	}
	if s.opened.spare != nil {
		errs = append(errs, s.opened.spare.Close())
	}
	for _, db := range []*gorm.DB{s.later, s.db} {
		if db == nil {
			continue
		}
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	if s.marks != nil {
		errs = append(errs, s.marks.Close())
	}
	return errors.Join(append(errs, s.lock.Unlock())...)
}

func (s *Store) read(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

// write runs do in one transaction: all of it happens, or nothing. Once it returns, it is on the
// disk: what a user decided, and money.
func (s *Store) write(ctx context.Context, do func(tx *gorm.DB) error) error {
	var changes uint64
	err := s.transact(ctx, s.db, func(tx *gorm.DB) (err error) {
		if err = do(tx); err == nil {
			changes, err = countChange(tx)
		}
		return err
	})
	if err == nil {
		s.acknowledge(changes)
	}
	return err
}

// writeLater does it without waiting for the disk: what can be fetched or reckoned again. Programs
// that are killed lose nothing of it; a power cut may take the last of it.
func (s *Store) writeLater(ctx context.Context, do func(tx *gorm.DB) error) error {
	return s.transact(ctx, s.later, do)
}

func (s *Store) transact(ctx context.Context, db *gorm.DB, do func(tx *gorm.DB) error) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	s.dirty.Store(true)
	return TroubleIn(db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := do(tx); err != nil {
			return err
		}
		return s.Still()
	}))
}

// Rows is how many rows all tables have together.
func (s *Store) Rows(ctx context.Context) (sum int, err error) {
	tables, err := s.read(ctx).Migrator().GetTables()
	for _, name := range tables {
		var n int64
		if err = errors.Join(err, s.read(ctx).Table(name).Count(&n).Error); err != nil {
			return 0, err
		}
		sum += int(n)
	}
	return sum, err
}

// first turns GORM's missing row into ErrNotFound.
func first[T any](q *gorm.DB) (T, error) {
	var row T
	err := q.First(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrNotFound
	}
	return row, err
}

// nextRevision stamps a change to a niche's ideas.
func nextRevision(tx *gorm.DB, niche uint) (int64, error) {
	var revision int64
	err := tx.Raw("UPDATE niches SET revision = revision + 1 WHERE id = ? RETURNING revision", niche).Scan(&revision).Error
	if err == nil && revision == 0 {
		err = ErrNotFound
	}
	return revision, err
}

// snapshot lets do read what is there at one moment. It does not take the writer's place, as a transaction would.
func (s *Store) snapshot(ctx context.Context, do func(tx *gorm.DB) error) error {
	return s.read(ctx).Connection(func(tx *gorm.DB) error {
		if err := tx.Session(&gorm.Session{}).Exec(beginReading).Error; err != nil {
			return TroubleIn(err)
		}
		err := do(tx.Session(&gorm.Session{}))
		return errors.Join(err, tx.Session(&gorm.Session{}).WithContext(context.WithoutCancel(ctx)).Exec("ROLLBACK").Error)
	})
}
