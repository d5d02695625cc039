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

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Store is the open data file. It may be used from many goroutines.
type Store struct {
	db      *gorm.DB
	writing sync.Mutex // SQLite has one writer: wait here, not in its busy loop
}

// ErrNotFound is returned for a row that is not there.
var ErrNotFound = errors.New("not found")

// Open opens the data file, makes it and its folder when they are not there, and
// brings it to the present schema.
func Open(path string) (*Store, error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return nil, fmt.Errorf("making the folder of the data file: %w", err)
	}
	dsn := (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(),
		RawQuery: "_journal_mode=WAL&_foreign_keys=on&_busy_timeout=8000&_synchronous=NORMAL&_txlock=immediate"}).String()
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: true,
		NowFunc: func() time.Time { return time.Now().UTC() },
	})
	if err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", path, err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(6)
	s := &Store{db: db}
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

// schema is the first state of the data file. Later ones are further migrations:
// a statement that has shipped is never edited.
var schema = []string{
	`CREATE TABLE niches (id INTEGER PRIMARY KEY, name TEXT NOT NULL, country TEXT NOT NULL, language TEXT NOT NULL,
		currency TEXT NOT NULL, own_site TEXT NOT NULL DEFAULT '', planned_links INTEGER NOT NULL DEFAULT 0,
		link_standing REAL NOT NULL, fit REAL NOT NULL, revision INTEGER NOT NULL DEFAULT 1,
		opened_at DATETIME NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE TABLE ideas (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, words INTEGER NOT NULL, variant_key TEXT NOT NULL, decision INTEGER NOT NULL DEFAULT 0,
		decided_at DATETIME, revision INTEGER NOT NULL, created_at DATETIME NOT NULL,
		demand_at DATETIME, demand_source TEXT NOT NULL DEFAULT '', demand_error TEXT NOT NULL DEFAULT '',
		searches INTEGER, under NUMERIC NOT NULL DEFAULT 0, months TEXT NOT NULL DEFAULT '', cpc_micros INTEGER,
		currency TEXT NOT NULL DEFAULT '', competition REAL, phrase_match INTEGER NOT NULL DEFAULT 0,
		broad_match INTEGER NOT NULL DEFAULT 0,
		judged_at DATETIME, judge_error TEXT NOT NULL DEFAULT '', difficulty REAL NOT NULL DEFAULT 0,
		reach REAL NOT NULL DEFAULT 0, page_one REAL NOT NULL DEFAULT 0, top_five REAL NOT NULL DEFAULT 0,
		expected REAL NOT NULL DEFAULT 0, footholds INTEGER NOT NULL DEFAULT 0, weakest REAL NOT NULL DEFAULT 0,
		want INTEGER NOT NULL DEFAULT 0, mixed NUMERIC NOT NULL DEFAULT 0)`,
	`CREATE UNIQUE INDEX ideas_phrase ON ideas (niche_id, phrase)`,
	`CREATE INDEX ideas_revision ON ideas (niche_id, revision)`,
	`CREATE TABLE origins (idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, kind TEXT NOT NULL,
		query TEXT NOT NULL, seed TEXT NOT NULL, created_at DATETIME NOT NULL, PRIMARY KEY (idea_id, kind, query)) WITHOUT ROWID`,
	`CREATE TABLE seeds (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, from_idea INTEGER REFERENCES ideas(id), created_at DATETIME NOT NULL)`,
	`CREATE UNIQUE INDEX seeds_phrase ON seeds (niche_id, phrase)`,
	`CREATE TABLE evidences (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, body BLOB NOT NULL)`,
	`CREATE TABLE answers (kind TEXT NOT NULL, key TEXT NOT NULL, source TEXT NOT NULL, body BLOB NOT NULL,
		asked_at DATETIME NOT NULL, took_ms INTEGER NOT NULL, cost_micros INTEGER NOT NULL, PRIMARY KEY (kind, key))`,
	`CREATE INDEX answers_asked ON answers (asked_at)`,
	`CREATE TABLE decisions (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, batch TEXT NOT NULL, was INTEGER NOT NULL,
		became INTEGER NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE INDEX decisions_niche ON decisions (niche_id, id)`,
	`CREATE TABLE jobs (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		kind TEXT NOT NULL, title TEXT NOT NULL, params TEXT NOT NULL, state TEXT NOT NULL, message TEXT NOT NULL DEFAULT '',
		found INTEGER NOT NULL DEFAULT 0, lookups INTEGER NOT NULL DEFAULT 0, cost_micros INTEGER NOT NULL DEFAULT 0,
		owner TEXT NOT NULL DEFAULT '', lease_until DATETIME NOT NULL, created_at DATETIME NOT NULL, finished_at DATETIME)`,
	`CREATE TABLE job_items (id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE,
		seq INTEGER NOT NULL, payload TEXT NOT NULL, state TEXT NOT NULL DEFAULT '', error TEXT NOT NULL DEFAULT '')`,
	`CREATE INDEX job_items_open ON job_items (job_id, state, seq)`,
	`CREATE TABLE tokens (key TEXT PRIMARY KEY, value BLOB NOT NULL, expires_at DATETIME)`,
}

func (s *Store) migrate() error {
	m := gormigrate.New(s.db, &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 64,
		UseTransaction: true, ValidateUnknownMigrations: true}, []*gormigrate.Migration{
		{ID: "1-first", Migrate: func(tx *gorm.DB) error {
			for _, statement := range schema {
				if err := tx.Exec(statement).Error; err != nil {
					return fmt.Errorf("%.60s…: %w", statement, err)
				}
			}
			return nil
		}},
		{ID: "2-calibration", Migrate: func(tx *gorm.DB) error {
			return tx.Exec(`ALTER TABLE niches ADD COLUMN calibration TEXT NOT NULL DEFAULT ''`).Error
		}},
		{ID: "3-reach", Migrate: func(tx *gorm.DB) error {
			for _, statement := range []string{
				`ALTER TABLE ideas ADD COLUMN links_needed INTEGER NOT NULL DEFAULT 0`,
				`ALTER TABLE ideas ADD COLUMN locked NUMERIC NOT NULL DEFAULT 0`,
				`ALTER TABLE ideas ADD COLUMN my_standing REAL`,
				`ALTER TABLE ideas ADD COLUMN my_links INTEGER`,
				`ALTER TABLE ideas ADD COLUMN my_fit REAL`,
				`UPDATE niches SET calibration = ''`, // so that the new columns are filled from the evidence
			} {
				if err := tx.Exec(statement).Error; err != nil {
					return err
				}
			}
			return nil
		}},
	})
	return m.Migrate()
}
