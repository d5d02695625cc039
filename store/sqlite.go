package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/mattn/go-sqlite3"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// All that is SQLite's own stands here: how a file is opened, checked, copied and brought up to date, what its
// errors mean, and what statements say to it alone. Another database has another one of these.

// How soon what is committed is on the disk (SQLite, "PRAGMA synchronous").
const (
	onDisk   = "FULL"   // at once
	whenever = "NORMAL" // once something later is, or the log is full
)

// What statements say to SQLite alone: through which index to go, and how a table is laid out.
const (
	noIndex      = " NOT INDEXED"
	rareIndex    = " INDEXED BY ideas_rare"
	byIDs        = "+niche_id = ? AND id IN ?" // the sign keeps it from going through the index of the whole niche
	withoutRowID = " WITHOUT ROWID"
)

// addedToOnly are the statements that keep the lines of a table from being changed or taken out.
func addedToOnly(table string) []string {
	return []string{
		"CREATE TRIGGER " + table + "_unchanged BEFORE UPDATE ON " + table + `
			BEGIN SELECT raise(ABORT, 'the ` + table + ` is only added to'); END`,
		"CREATE TRIGGER " + table + "_undeleted BEFORE DELETE ON " + table + `
			BEGIN SELECT raise(ABORT, 'the ` + table + ` is only added to'); END`,
	}
}

// joined is an expression that joins a column of many rows to one text: the driver takes several times as long to
// hand over a value as SQLite to read it.
func joined(column string) string { return "group_concat(ifnull(" + column + ", ''), char(31))" }

const driver = "sqlite3"

// tails are what the names of a data file's files end in.
var tails = []string{"", "-wal", "-shm"}

// connect opens the file for so many at once.
func connect(path, synchronous string, most int, now func() time.Time) (*gorm.DB, error) {
	db, err := gorm.Open(sqlite.Open(addressOf(path, "_journal_mode=WAL&_foreign_keys=on&_busy_timeout=8000&"+
		"_txlock=immediate&_synchronous="+synchronous)), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: true, NowFunc: now,
	})
	if err != nil {
		return nil, TroubleIn(err)
	}
	pool, err := db.DB()
	if err == nil {
		pool.SetMaxOpenConns(most)
	}
	return db, err
}

// addressOf is a file as SQLite opens it, whatever its name.
func addressOf(path, options string) string {
	return (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: options}).String()
}

// openToRead opens a file that is not written to.
func openToRead(path string) (*sql.DB, error) { return sql.Open(driver, addressOf(path, "mode=ro")) }

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

// What is told of a file without SQLite having said so.
var (
	damaged    = troubles[sqlite3.ErrCorrupt]
	unwritable = troubles[sqlite3.ErrReadonly]
)

// unsound is what is wrong with a file, at most so much of it; nothing when it is sound (PRAGMA quick_check).
func unsound(ctx context.Context, pool *sql.DB, most int) ([]string, error) {
	rows, err := pool.QueryContext(ctx, fmt.Sprintf("PRAGMA quick_check(%d)", most))
	if err != nil {
		return nil, TroubleIn(err)
	}
	defer rows.Close()
	var found []string
	for rows.Next() {
		var line string
		if err := rows.Scan(&line); err != nil {
			return nil, TroubleIn(err)
		}
		if line != "ok" {
			found = append(found, line)
		}
	}
	return found, TroubleIn(rows.Err())
}

// checkpoint brings what is in the log into the file, as far as nobody needs it there.
func checkpoint(ctx context.Context, pool *sql.DB) error {
	var busy, inLog, brought int
	return TroubleIn(pool.QueryRowContext(ctx, "PRAGMA wal_checkpoint(PASSIVE)").Scan(&busy, &inLog, &brought))
}

// copyDatabase copies what a pool reads to a file, which it checks before it gives it its name.
func copyDatabase(ctx context.Context, from *sql.DB, to string) (err error) {
	temporary := to + ".part"
	if err := removeFiles(temporary); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, removeFiles(temporary)) }()
	f, err := os.OpenFile(temporary, os.O_CREATE|os.O_WRONLY|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	f.Close()
	pool, err := sql.Open(driver, addressOf(temporary, ""))
	if err != nil {
		return err
	}
	defer pool.Close()
	err = withDriver(ctx, pool, func(dest *sqlite3.SQLiteConn) error {
		return withDriver(ctx, from, func(src *sqlite3.SQLiteConn) error {
			b, err := dest.Backup("main", src, "main")
			if err != nil {
				return err
			}
			_, err = b.Step(-1)
			return errors.Join(err, b.Finish())
		})
	})
	if err != nil {
		return TroubleIn(err)
	}
	// A copy that belongs to no log of writes is whole by itself.
	var said string
	if err := pool.QueryRowContext(ctx, "PRAGMA journal_mode = DELETE").Scan(&said); err != nil {
		return TroubleIn(err)
	}
	if found, err := unsound(ctx, pool, 1); err != nil || len(found) > 0 {
		return errors.Join(fmt.Errorf("the copy is not sound: %s", strings.Join(found, "; ")), err)
	}
	if err := pool.Close(); err != nil {
		return err
	}
	return intoPlace(temporary, to)
}

func withDriver(ctx context.Context, pool *sql.DB, do func(*sqlite3.SQLiteConn) error) error {
	conn, err := pool.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(c any) error { return do(c.(*sqlite3.SQLiteConn)) })
}
