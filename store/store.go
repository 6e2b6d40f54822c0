// Package store keeps studios, songs, lessons and practice in SQLite. Every
// function that touches a studio's rows takes the studio's id and sees no
// other's. Times come from the caller.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound means that a row does not exist in this studio.
var ErrNotFound = errors.New("not found")

// Store is an open database. It is safe for use by several goroutines. What only
// reads has connections of its own, which write nothing: a disk that is full or
// slow, or a queue of writers, keeps nobody from reading.
type Store struct {
	db   *sqlx.DB
	read *reader
}

// Instant is a time in seconds since 1970, UTC; 0 is never.
type Instant int64

// At is the moment of a time.
func At(t time.Time) Instant { return Instant(t.Unix()) }

// Time is the moment as a time, in UTC.
func (m Instant) Time() time.Time { return time.Unix(int64(m), 0).UTC() }

// Open opens the database in a file, makes it where it does not exist, and
// brings its tables up to date. One that a newer program has made is refused.
func Open(ctx context.Context, path string) (*Store, error) { return OpenTelling(ctx, path, nil) }

// OpenTelling is Open, which tells before each step that brings the tables of a studio up to
// date how far it is; nil tells nobody.
func OpenTelling(ctx context.Context, path string, report func(step, of int)) (*Store, error) {
	if err := checkName(path); err != nil {
		return nil, err
	}
	if err := prepare(path); err != nil {
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	s, err := connect(path)
	if err != nil {
		return nil, err
	}
	if err := s.checkSchema(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	if err := s.migrate(ctx, report); err != nil {
		s.Close()
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	if err := s.undoTakings(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	return s, nil
}

// connect opens a database file as it is.
func connect(path string) (*Store, error) {
	const writing = "_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)&_pragma=secure_delete(1)&_txlock=immediate"
	db, err := connection(path, writing)
	if err != nil {
		return nil, err
	}
	read, err := connection(path, writing+"&_pragma=query_only(1)")
	if err != nil {
		db.Close()
		return nil, err
	}
	return &Store{db, &reader{DB: read}}, nil
}

// connection opens a database file with some options of SQLite.
func connection(path, options string) (*sqlx.DB, error) {
	db, err := sqlx.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?_pragma=busy_timeout(10000)&_pragma=cache_size(-2000)&"+options)
	if err != nil {
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	db.SetMaxOpenConns(4)
	db.SetMaxIdleConns(4)
	return db, nil
}

func (s *Store) migrate(ctx context.Context, report func(step, of int)) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, s.db.DB, dir, goose.WithSlog(slog.New(slog.DiscardHandler)))
	if err != nil {
		return err
	}
	is, of, err := p.GetVersions(ctx)
	if err != nil {
		return err
	}
	for step := is; step < of; step++ {
		if is > 0 && report != nil { // a new file has nothing to wait for
			report(int(step-is)+1, int(of-is))
		}
		if _, err := p.UpByOne(ctx); err != nil {
			return err
		}
	}
	return nil
}

// DB is the underlying database, for the session store.
func (s *Store) DB() *sql.DB { return s.db.DB }

// Close closes the database.
func (s *Store) Close() error { return errors.Join(s.read.Close(), s.db.Close()) }

// in runs f in a transaction: that of the change which the context is of, or one of its own.
func (s *Store) in(ctx context.Context, f func(tx *sqlx.Tx) error) error {
	if tx := s.changing(ctx); tx != nil {
		return f(tx)
	}
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // a no-op once committed
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// querier is a database or a transaction.
type querier interface{ sqlx.ExtContext }

// reader is a database that is only read. Its queries are compiled once: they are
// few, and asked for every page.
type reader struct {
	*sqlx.DB
	compiled sync.Map // of a query's text, *sqlx.NamedStmt
}

func (r *reader) statement(ctx context.Context, query string) (*sqlx.NamedStmt, error) {
	if st, ok := r.compiled.Load(query); ok {
		return st.(*sqlx.NamedStmt), nil
	}
	st, err := r.PrepareNamedContext(ctx, query)
	if err != nil {
		return nil, err
	}
	first, there := r.compiled.LoadOrStore(query, st)
	if there {
		st.Close()
	}
	return first.(*sqlx.NamedStmt), nil
}

// Numbers and Reals are lists of numbers, as JSON in a column.
type (
	Numbers []int
	Reals   []float64
)

// Value writes them.
func (n Numbers) Value() (driver.Value, error) { return jsonOf([]int(n)) }

// Scan reads them.
func (n *Numbers) Scan(from any) error { return scanned(from, (*[]int)(n)) }

// Value writes them.
func (n Reals) Value() (driver.Value, error) { return jsonOf([]float64(n)) }

// Scan reads them.
func (n *Reals) Scan(from any) error { return scanned(from, (*[]float64)(n)) }

// folded is a text without the difference of large and small letters, of any alphabet, which
// SQLite's own lower does for the English one alone.
func init() {
	sqlite.MustRegisterDeterministicScalarFunction("folded", 1, func(_ *sqlite.FunctionContext, of []driver.Value) (driver.Value, error) {
		text, _ := of[0].(string)
		return strings.ToLower(text), nil
	})
}

// among is the condition that a number is one of :students, which numbersOf writes.
const among = " IN (SELECT value FROM json_each(:students))"

func numbersOf(ids []int64) string {
	text, _ := json.Marshal(append([]int64{}, ids...)) // numbers can always be written
	return string(text)
}

func jsonOf[V any](list []V) (driver.Value, error) {
	if list == nil {
		return "[]", nil
	}
	b, err := json.Marshal(list)
	return string(b), err
}

func scanned(from, to any) error {
	text, ok := from.(string)
	if !ok {
		return fmt.Errorf("a list of numbers is %T", from)
	}
	return json.Unmarshal([]byte(text), to)
}

// args are the named parameters of a query.
type args = map[string]any

// get reads one row.
func get[T any](ctx context.Context, q querier, query string, a args) (T, error) {
	var row T
	var err error
	q = within(ctx, q)
	if r, ok := q.(*reader); ok {
		var st *sqlx.NamedStmt
		if st, err = r.statement(ctx, query); err == nil {
			err = st.GetContext(ctx, &row, a)
		}
	} else {
		var bound string
		var bind []any
		if bound, bind, err = sqlx.Named(query, a); err == nil {
			err = sqlx.GetContext(ctx, q, &row, bound, bind...)
		}
	}
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return row, err
}

// list reads all rows.
func list[T any](ctx context.Context, q querier, query string, a args) ([]T, error) {
	var rows []T
	q = within(ctx, q)
	if r, ok := q.(*reader); ok {
		st, err := r.statement(ctx, query)
		if err != nil {
			return nil, err
		}
		err = st.SelectContext(ctx, &rows, a)
		return rows, err
	}
	bound, bind, err := sqlx.Named(query, a)
	if err != nil {
		return nil, err
	}
	err = sqlx.SelectContext(ctx, q, &rows, bound, bind...)
	return rows, err
}

// each reads rows one after the other, however many there are.
func each[T any](ctx context.Context, q querier, query string, a args, f func(*T) error) error {
	rows, err := sqlx.NamedQueryContext(ctx, q, query, a)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var row T
		if err := rows.StructScan(&row); err != nil {
			return err
		}
		if err := f(&row); err != nil {
			return err
		}
	}
	return rows.Err()
}

// insert, run and change are those of a querier in a transaction.
func (s *Store) insert(ctx context.Context, query string, a args) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error { id, err = insert(ctx, tx, query, a); return err })
	return id, err
}

func (s *Store) run(ctx context.Context, query string, a args) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return run(ctx, tx, query, a) })
}

func (s *Store) change(ctx context.Context, query string, a args) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return change(ctx, tx, query, a) })
}

// insert adds a row and returns its id.
func insert(ctx context.Context, q querier, query string, a args) (int64, error) {
	r, err := sqlx.NamedExecContext(ctx, q, query, a)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// run changes whatever rows there are.
func run(ctx context.Context, q querier, query string, a args) error {
	_, err := sqlx.NamedExecContext(ctx, q, query, a)
	return err
}

// change updates rows and fails with ErrNotFound where none matches.
func change(ctx context.Context, q querier, query string, a args) error {
	r, err := sqlx.NamedExecContext(ctx, q, query, a)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}
