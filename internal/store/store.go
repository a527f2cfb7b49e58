// Package store keeps everything in one SQLite file, through GORM. It is the
// only place that knows SQL. It holds no rules: it loads what the rules need
// and writes down what they decided.
package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"time"

	_ "github.com/mattn/go-sqlite3" // with -tags sqlite_fts5
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Store is the database: one writer, a pool of readers.
type Store struct {
	writer, reader *gorm.DB
	path           string
	past           func(Past) // is told what of the past was changed; nil for nobody
}

// readers is how many queries may run beside the writer.
const readers = 4

// Open opens the database at path, makes it if it is missing, and brings its
// schema to the newest version.
func Open(path string) (*Store, error) { return OpenBy("sqlite3", path) }

// OpenBy opens it by a driver of another name, as tests do that count what is asked.
func OpenBy(driver, path string) (*Store, error) {
	writer, err := connect(driver, path, "_txlock=immediate", 1)
	if err != nil {
		return nil, err
	}
	if err := migrate(writer); err != nil {
		return nil, fmt.Errorf("bring %s to the newest schema: %w", path, err)
	}
	reader, err := connect(driver, path, "_query_only=1", readers)
	if err != nil {
		return nil, err
	}
	return &Store{writer: writer, reader: reader, path: path}, nil
}

// connect opens one side. Synchronous is FULL: a decision that was confirmed
// survives the loss of power, not only the loss of the process.
func connect(driver, path, option string, most int) (*gorm.DB, error) {
	dsn := "file:" + (&url.URL{Path: path}).EscapedPath() +
		"?_journal_mode=WAL&_foreign_keys=1&_busy_timeout=10000&_synchronous=FULL&_cache_size=-16000&_stmt_cache_size=200&" + option
	db, err := gorm.Open(sqlite.New(sqlite.Config{DriverName: driver, DSN: dsn}), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, NowFunc: func() time.Time { return time.Time{} },
	})
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(most)
	pool.SetMaxIdleConns(most)
	return db, nil
}

// Path is where the database lies.
func (s *Store) Path() string { return s.path }

// Close closes the database.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.reader, s.writer} {
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}

// Tx is what somebody sees and may change of an inbox, within one transaction
// or, when reading, one connection at a time. Every query in it is limited to
// the inbox; what is one person's, to that person.
type Tx struct {
	db  *gorm.DB
	who Who
	// people are the settings that were read, until something of a person changes.
	people map[int64]Person
	// known are the columns of tables that an archive is loaded into.
	known map[string][]string
	// passed are rows that can't be read and that a list went on without.
	passed []Unreadable
	// ending is what is written at its end; one for the transaction, whichever inbox
	// it is at.
	ending *ending
}

// Unreadable is a row that a list had to go on without.
type Unreadable struct {
	What   string
	ID     int64
	Reason error
}

// PassedOver are the rows that can't be read and that lists of this
// transaction went on without. One bad row never stops the rest.
func (tx *Tx) PassedOver() []Unreadable { return tx.passed }

// readable turns rows into what they stand for, and passes over those that
// can't be read.
func readable[R, T any](tx *Tx, what string, rows []R, id func(R) int64, read func(R) (T, error)) []T {
	out := make([]T, 0, len(rows))
	for _, r := range rows {
		t, err := read(r)
		if err != nil {
			tx.pass(what, id(r), err)
			continue
		}
		out = append(out, t)
	}
	return out
}

func (tx *Tx) pass(what string, id int64, err error) {
	tx.passed = append(tx.passed, Unreadable{what, id, err})
}

// Attempt runs fn within the transaction and takes back what it wrote if it
// fails or panics, so that the rest can go on without it.
//
// By hand: GORM knows no RELEASE.
func (tx *Tx) Attempt(fn func() error) (err error) {
	if err := tx.exec("SAVEPOINT attempt"); err != nil {
		return err
	}
	forget := tx.ending.mark()
	defer func() {
		if what := recover(); what != nil {
			err = fmt.Errorf("panic: %v", what)
		}
		if err != nil {
			forget()
			err = errors.Join(err, tx.exec("ROLLBACK TO attempt"))
		}
		err = errors.Join(err, tx.exec("RELEASE attempt"))
	}()
	return fn()
}

// Who is for whom this transaction reads or writes.
func (tx *Tx) Who() Who { return tx.who }

// ErrNotFound is returned for what isn't there, or isn't the owner's. It is
// GORM's own, so that whatever takes a single row gives it by itself.
var ErrNotFound = gorm.ErrRecordNotFound

// orNone is a row that there need not be; the zero row if there is none.
func orNone[T any](row T, err error) (T, error) {
	if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return row, err
}

// pluck gives one column of the rows of a handle.
func pluck[V, T any](ctx context.Context, rows gorm.ChainInterface[T], column string) (values []V, err error) {
	return values, rows.Select(column).Scan(ctx, &values)
}

func isNoRows(err error) bool { return errors.Is(err, sql.ErrNoRows) }

// Write runs fn in one transaction of the single writer. Nothing of it stays
// if fn returns an error. Once begun it goes on to its end, whether or not somebody
// still waits for it; so the driver need not watch, statement by statement, for that.
func (s *Store) Write(ctx context.Context, who Who, fn func(*Tx) error) error {
	var pasts map[int64]*past
	err := s.writer.WithContext(context.WithoutCancel(ctx)).Transaction(func(db *gorm.DB) error {
		tx := transaction(db, who)
		if err := fn(tx); err != nil {
			return err
		}
		err := tx.end()
		pasts = tx.ending.pasts
		return err
	})
	if err == nil {
		s.tellPast(pasts)
	}
	return err
}

// ending is what a transaction writes when all else is written: it costs little for
// many at once, and much for each.
type ending struct {
	counting
	texts   []indexed
	met     []metPerson
	history [][]any // of places
	// pasts are what of the past was changed, by inbox. What is taken back may stand in it: then more is read anew
	// than need be.
	pasts map[int64]*past
}

// mark gives what forgets all from now on, where that is taken back.
func (e *ending) mark() (back func()) {
	counted, texts, met, history := e.counting.mark(), e.texts, e.met, e.history
	return func() {
		counted()
		e.texts, e.met, e.history = texts, met, history
	}
}

func (tx *Tx) end() error {
	if err := tx.keepHistory(); err != nil {
		return err
	}
	e := *tx.ending
	for _, m := range e.moves {
		e.touch(m.owner, m.at)
	}
	*tx.ending = ending{pasts: e.pasts}
	if err := tx.keepCounts(e.came, e.moves); err != nil {
		return err
	}
	if err := tx.keepMet(e.met); err != nil {
		return err
	}
	return tx.keepIndex(e.texts)
}

func transaction(db *gorm.DB, who Who) *Tx {
	return &Tx{db: limited(db, who.Inbox), who: who, ending: &ending{}}
}

// at is the same transaction at another inbox, where nobody acts.
func (tx *Tx) at(inbox int64) *Tx {
	out := transaction(tx.db, Nobody(inbox))
	out.ending = tx.ending
	return out
}

// Read runs fn in one read transaction, so that all it sees is of one moment. Like a
// write it goes on to its end.
func (s *Store) Read(ctx context.Context, who Who, fn func(*Tx) error) error {
	return s.reader.WithContext(context.WithoutCancel(ctx)).Transaction(func(db *gorm.DB) error {
		return fn(transaction(db, who))
	}, &sql.TxOptions{ReadOnly: true})
}

func all[T any](db *gorm.DB) ([]T, error) {
	var rows []T
	err := db.Scan(&rows).Error
	return rows, err
}

// exec, query and what is made of them go past GORM, so placeholders are SQLite's
// own (?, ?1), and nothing is rebuilt. The driver keeps the latest statements
// prepared. Whoever calls them says why (“By hand”); a test sees to that.
func (tx *Tx) exec(query string, args ...any) error {
	_, err := tx.db.Statement.ConnPool.ExecContext(tx.db.Statement.Context, query, args...)
	return err
}

// execAll carries out statements without values, one after the other.
func (tx *Tx) execAll(queries ...string) error {
	for _, q := range queries {
		if err := tx.exec(q); err != nil {
			return err
		}
	}
	return nil
}

func (tx *Tx) query(query string, args ...any) (*sql.Rows, error) {
	return tx.db.Statement.ConnPool.QueryContext(tx.db.Statement.Context, query, args...)
}

// numbers reads columns of numbers of what a query gives, all as one list: where there are thousands of
// rows that is ten times as quick as row by row.
func (tx *Tx) numbers(columns, from string, args ...any) (rows [][]int64, err error) {
	var list string
	if err := tx.db.Raw("SELECT json_group_array(json_array("+columns+")) FROM "+from, args...).Scan(&list).Error; err != nil {
		return nil, err
	}
	return rows, json.Unmarshal([]byte(list), &rows)
}

// eachPair runs a query that gives pairs.
func eachPair[A, B any](tx *Tx, each func(A, B), query string, args ...any) error {
	return tx.eachRow(func(rows *sql.Rows) error {
		var a A
		var b B
		if err := rows.Scan(&a, &b); err != nil {
			return err
		}
		each(a, b)
		return nil
	}, query, args...)
}

// eachRow runs a query, and what takes a row of it.
func (tx *Tx) eachRow(take func(*sql.Rows) error, query string, args ...any) error {
	rows, err := tx.query(query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := take(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}

// insertReturning inserts a row and gives its id.
func (tx *Tx) insertReturning(query string, args ...any) (int64, error) {
	ids, err := tx.ids(query+" RETURNING id", args...)
	if err == nil && len(ids) == 0 {
		err = sql.ErrNoRows
	}
	if err != nil {
		return 0, err
	}
	return ids[0], nil
}

// ids runs a query that gives numbers.
func (tx *Tx) ids(query string, args ...any) ([]int64, error) {
	rows, err := tx.query(query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []int64
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return out, rows.Err()
}

// firstID is the first number of a query; 0 if there is none.
func (tx *Tx) firstID(query string, args ...any) (int64, error) {
	ids, err := tx.ids(query, args...)
	if len(ids) == 0 {
		return 0, err
	}
	return ids[0], err
}

// millis is how times are stored; the zero time is 0.
func millis(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return t.UnixMilli()
}

// fromMillis is the time of stored milliseconds, in UTC.
func fromMillis(ms int64) time.Time {
	if ms == 0 {
		return time.Time{}
	}
	return time.UnixMilli(ms).UTC()
}
