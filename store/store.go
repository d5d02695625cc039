package store

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Store is the open data file. It may be used from many goroutines.
type Store struct {
	db      *gorm.DB
	writing sync.Mutex // SQLite has one writer: wait here, not in its busy loop
	now     func() time.Time
}

// ErrNotFound is returned for a row that is not there.
var ErrNotFound = errors.New("not found")

// Open opens the data file, makes it and its folder when they are not there, and
// brings it to the present schema. now is the clock.
func Open(path string, now func() time.Time) (*Store, error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return nil, fmt.Errorf("making the folder of the data file: %w", err)
	}
	dsn := (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(),
		RawQuery: "_journal_mode=WAL&_foreign_keys=on&_busy_timeout=8000&_synchronous=NORMAL&_txlock=immediate"}).String()
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: true,
		NowFunc: func() time.Time { return now().UTC() },
	})
	if err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", path, err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(6)
	s := &Store{db: db, now: func() time.Time { return now().UTC() }}
	if err := s.migrate(); err != nil {
		pool.Close()
		return nil, fmt.Errorf("bringing the data file %s up to date: %w", path, err)
	}
	return s, nil
}

// Close closes the data file.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

func (s *Store) read(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

// write runs do in one transaction: all of it happens, or nothing.
func (s *Store) write(ctx context.Context, do func(tx *gorm.DB) error) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	return s.db.WithContext(ctx).Transaction(do)
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
