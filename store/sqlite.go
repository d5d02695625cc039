package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"net/url"
	"os"
	"reflect"
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
	noIndex   = " NOT INDEXED"
	rareIndex = " INDEXED BY ideas_rare"
	byIDs     = "+niche_id = ? AND id IN ? AND removed_at IS NULL" // the sign keeps it off the whole niche's index
	byRising  = "+niche_id = ? AND id BETWEEN (SELECT min(id) FROM ideas WHERE niche_id = ?) AND " +
		"(SELECT max(id) FROM ideas WHERE niche_id = ?)" // through no index that would have to be sorted
	withoutRowID = " WITHOUT ROWID"
	beginReading = "BEGIN DEFERRED"
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

// jsonRow is an expression that writes a row of a table as a JSON object (RFC 8259), its members named like the
// columns: the database does that many times as fast as the driver can hand the values over. Times become
// those of RFC 3339.
func jsonRow(row any) string {
	var members []string
	for _, f := range reflect.VisibleFields(reflect.TypeOf(row)) {
		column := ColumnOf(f)
		value := "json_quote(" + column + ")"
		switch kind := f.Type; {
		case kind == reflect.TypeFor[time.Time](), kind == reflect.TypeFor[*time.Time]():
			value = "json_quote(replace(" + column + ", ' ', 'T'))"
		case kind.Kind() == reflect.Bool, kind == reflect.TypeFor[*bool]():
			value = "CASE " + column + " WHEN 0 THEN 'false' WHEN 1 THEN 'true' ELSE 'null' END"
		}
		if kind := f.Type; kind.Kind() >= reflect.Int && kind.Kind() <= reflect.Uint64 || kind == reflect.TypeFor[*int]() ||
			kind == reflect.TypeFor[*int64]() {
			value = "ifnull(" + column + ", 'null')"
		}
		members = append(members, fmt.Sprintf(`'"%s":' || %s`, column, value))
	}
	return "'{' || " + strings.Join(members, " || ',' || ") + " || '}'"
}

const driverName = "sqlite3"

// tails are what the names of a data file's files end in.
var tails = []string{"", "-wal", "-shm"}

// connector makes connections to the file, each once check lets it: by then another file may have its name.
type connector struct {
	address string
	check   func() error
}

func (c connector) Connect(ctx context.Context) (driver.Conn, error) {
	if err := c.check(); err != nil {
		return nil, err
	}
	conn, err := c.Driver().Open(c.address)
	if err != nil {
		return nil, err
	}
	if _, err := conn.(driver.ExecerContext).ExecContext(ctx, settings, nil); err != nil {
		return nil, errors.Join(err, conn.Close())
	}
	return conn, nil
}

// settings are those of each connection: pages that a change touches are kept until it ends, and what is in the log is
// brought into the file after 64 MB. With SQLite's own, 2,000 new ideas wrote each page twice and more.
const settings = "PRAGMA cache_size = -16384; PRAGMA wal_autocheckpoint = 16384"

func (c connector) Driver() driver.Driver { return &sqlite3.SQLiteDriver{} }

// connect opens the file for so many at once.
func connect(path, synchronous string, most int, now func() time.Time, check func() error) (*gorm.DB, error) {
	pool := sql.OpenDB(connector{addressOf(path, "mode=rw&_journal_mode=WAL&_foreign_keys=on&_busy_timeout=8000&"+
		"_txlock=immediate&_synchronous="+synchronous), check})
	pool.SetMaxOpenConns(most)
	db, err := gorm.Open(sqlite.New(sqlite.Config{Conn: pool}), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: true, NowFunc: now,
	})
	if err != nil {
		return nil, errors.Join(TroubleIn(err), pool.Close())
	}
	return db, nil
}

// addressOf is a file as SQLite opens it, whatever its name.
func addressOf(path, options string) string {
	return (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: options}).String()
}

// openToRead opens a file that is not written to.
func openToRead(path string) (*sql.DB, error) {
	return sql.Open(driverName, addressOf(path, "mode=ro"))
}

// troubles are those that SQLite tells of, by its result codes (sqlite.org/rescode.html).
var troubles = map[sqlite3.ErrNo]Trouble{
	sqlite3.ErrFull: {Says: "the disk is full, so nothing was changed",
		Do: "free some space, then try again"},
	sqlite3.ErrReadonly: {Says: "the data file cannot be written to",
		Do: "allow this user to write to it and its folder, or choose another file with --data"},
	sqlite3.ErrCorrupt: {Says: "the data file is damaged",
		Do: "stop the program, copy the file, and restore a backup: cleverniche restore FILE"},
	sqlite3.ErrNotADB: {Says: "this is not a data file of Clever Niche, or it is damaged",
		Do: "choose another file with --data, or restore a backup: cleverniche restore FILE"},
	sqlite3.ErrIoErr: {Says: "the disk reports an error",
		Do: "check the system log, and restore a backup on another disk: cleverniche restore FILE"},
	sqlite3.ErrCantOpen: {Says: "the data file cannot be opened",
		Do: "check that its folder exists and this user may write to it"},
	sqlite3.ErrBusy: {Says: "another program is using the data file",
		Do: "try again, or stop the other program"},
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

// ours returns why a file is no data file that this version can use; nil when it is one.
func ours(ctx context.Context, pool *sql.DB) error {
	known := map[string]bool{firstStep: true}
	for _, step := range steps {
		known[step.name] = true
	}
	done := map[string]bool{}
	rows, err := pool.QueryContext(ctx, "SELECT id FROM migrations")
	if err != nil {
		return fmt.Errorf("it is no data file of this program: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return err
		}
		if done[id] = true; id != "SCHEMA_INIT" && done[firstStep] && !known[id] {
			return errors.New("it is of a newer version of this program: restore it with that one")
		}
	}
	var tables int
	err = pool.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name IN "+
		"('niches', 'ideas', 'decisions', 'answers')").Scan(&tables)
	if err == nil && (!done[firstStep] || tables != 4) {
		err = errors.New("it is no data file of this program")
	}
	return errors.Join(err, rows.Err())
}

// checkpoint brings what is in the log into the file, as far as nobody needs it there.
func checkpoint(ctx context.Context, pool *sql.DB) error {
	var busy, inLog, brought int
	return TroubleIn(pool.QueryRowContext(ctx, "PRAGMA wal_checkpoint(PASSIVE)").Scan(&busy, &inLog, &brought))
}

// errUnsound is of a copy of a file that is damaged.
var errUnsound = errors.New("the copy is not sound: the data file is damaged")

// copyPool copies what a pool reads to a file.
func copyPool(ctx context.Context, from *sql.DB, to string) error {
	conn, err := from.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return copyDatabase(ctx, conn, to)
}

// copyDatabase copies what a connection reads to a file, which it checks before it gives it its name.
func copyDatabase(ctx context.Context, from *sql.Conn, to string) (err error) {
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
	pool, err := sql.Open(driverName, addressOf(temporary, ""))
	if err != nil {
		return err
	}
	defer pool.Close()
	dest, err := pool.Conn(ctx)
	if err != nil {
		return err
	}
	err = dest.Raw(func(dest any) error {
		return from.Raw(func(src any) error {
			b, err := dest.(*sqlite3.SQLiteConn).Backup("main", src.(*sqlite3.SQLiteConn), "main")
			if err != nil {
				return err
			}
			_, err = b.Step(-1)
			return errors.Join(err, b.Finish())
		})
	})
	err = errors.Join(err, dest.Close())
	if err != nil {
		return TroubleIn(err)
	}
	// A copy that belongs to no log of writes is whole by itself.
	var said string
	if err := pool.QueryRowContext(ctx, "PRAGMA journal_mode = DELETE").Scan(&said); err != nil {
		return TroubleIn(err)
	}
	if found, err := unsound(ctx, pool, 1); err != nil || len(found) > 0 {
		return errors.Join(errUnsound, err)
	}
	if err := pool.Close(); err != nil {
		return err
	}
	return intoPlace(temporary, to)
}
