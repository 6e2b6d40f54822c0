package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// What is done with whole database files: they are locked, copied, checked, put
// back, and a demo's are told from a studio's.

// private is the mode of every file: the studio's alone.
const private = 0o600

// ErrServed means that a server, or something else that needs the file to itself,
// has it.
var ErrServed = errors.New("it is being served")

// prepare makes a file that does not exist yet, so that nobody else can read it
// from the first byte on, and takes others' rights away from one that does.
func prepare(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, private)
	if err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	for _, end := range []string{"", "-wal", "-shm"} {
		info, err := os.Stat(path + end)
		if err == nil && info.Mode().Perm()&0o077 != 0 {
			if err := os.Chmod(path+end, private); err != nil {
				return err
			}
		}
	}
	return nil
}

// checkName refuses what is no name of a file: SQLite would make a database that
// is gone when it is closed.
func checkName(path string) error {
	if strings.TrimSpace(path) == "" {
		return errors.New("the name of the database is empty; name a file")
	}
	if path == ":memory:" {
		return errors.New(":memory: is no file; what is in it would be lost")
	}
	return nil
}

// known is the newest schema that this program knows.
func known() (int64, error) {
	files, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return 0, err
	}
	newest := int64(0)
	for _, f := range files {
		number, _, _ := strings.Cut(filepath.Base(f), "_")
		n, err := strconv.ParseInt(number, 10, 64)
		if err != nil {
			return 0, fmt.Errorf("migration %s has no number", f)
		}
		newest = max(newest, n)
	}
	return newest, nil
}

// checkSchema refuses a database that a newer program has made.
func (s *Store) checkSchema(ctx context.Context) error {
	newest, err := known()
	if err != nil {
		return err
	}
	there, err := get[int](ctx, s.read, "SELECT EXISTS (SELECT 1 FROM sqlite_master WHERE name = 'goose_db_version')", args{})
	if err != nil || there == 0 {
		return err
	}
	has, err := get[int64](ctx, s.read, "SELECT COALESCE(max(version_id), 0) FROM goose_db_version WHERE is_applied", args{})
	if err != nil {
		return err
	}
	if has > newest {
		return fmt.Errorf("a newer Valleyside has made it (schema %d, this one knows %d); take a Valleyside that knows schema %d or later", has, newest, has)
	}
	return nil
}

// Lock keeps a database file to one server. Release it at the end.
type Lock struct{ file *os.File }

// LockFile takes the lock of a database file; ErrServed where another has it.
func LockFile(path string) (*Lock, error) {
	if err := checkName(path); err != nil {
		return nil, err
	}
	f, err := os.OpenFile(path+".lock", os.O_RDWR|os.O_CREATE, private)
	if err != nil {
		return nil, fmt.Errorf("lock %s: %w", path, err)
	}
	if err := tryLock(f); err != nil {
		f.Close()
		return nil, fmt.Errorf("%s: %w", path, ErrServed)
	}
	return &Lock{f}, nil
}

// Release gives the lock back. The file stays: another may be waiting for it.
func (l *Lock) Release() { l.file.Close() }

// Backup writes a consistent copy of a database file to another that must not
// exist yet. The database may be in use; nothing in it is changed. The copy is
// checked before it has its name: a half-written one never has it.
func Backup(ctx context.Context, from, to string) error {
	if err := checkName(to); err != nil {
		return fmt.Errorf("back up: %w", err)
	}
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("back up to %s: the file exists; name a new one", to)
	}
	part := to + ".part"
	defer os.Remove(part)
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("back up to %s: %w", to, err)
	}
	s, err := openOnly(ctx, from)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.copyTo(ctx, part); err != nil {
		return fmt.Errorf("back up to %s: %w", to, err)
	}
	if err := Check(ctx, part); err != nil {
		return fmt.Errorf("back up to %s: the copy is not good: %w", to, err)
	}
	if err := settle(part, to); err != nil {
		return fmt.Errorf("back up to %s: %w", to, err)
	}
	return nil
}

// OpenExisting is Open for a database that has to be there.
func OpenExisting(ctx context.Context, path string) (*Store, error) {
	s, err := openOnly(ctx, path)
	if err != nil {
		return nil, err
	}
	s.Close()
	return Open(ctx, path)
}

// openOnly opens a database that must exist, to read it: the file cannot be
// written through it.
func openOnly(ctx context.Context, path string) (*Store, error) {
	if err := checkName(path); err != nil {
		return nil, err
	}
	if _, err := os.Stat(path); err != nil {
		return nil, fmt.Errorf("there is no database %s", path)
	}
	db, err := connection(path, "mode=ro")
	if err != nil {
		return nil, err
	}
	if _, err := db.ExecContext(ctx, "SELECT count(*) FROM sqlite_master"); err != nil && nobodyWrites(path) {
		db.Close() // on a disk that takes no file to read it by
		if db, err = connection(path, "mode=ro&immutable=1"); err != nil {
			return nil, err
		}
	}
	s := &Store{db, &reader{DB: db}}
	if err := s.checkSchema(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("open database %s: %w", path, err)
	}
	return s, nil
}

// nobodyWrites tells whether a database file holds all that was written to it: one
// that is open for writing has a log beside it.
func nobodyWrites(path string) bool {
	info, err := os.Stat(path + "-wal")
	return err != nil || info.Size() == 0
}

// copyTo writes the database to a new file that is the studio's alone.
func (s *Store) copyTo(ctx context.Context, path string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE|os.O_EXCL, private)
	if err != nil {
		return err
	}
	f.Close()
	_, err = s.db.ExecContext(ctx, "VACUUM INTO ?", path)
	return err
}

// settle gives a file its name once it is on the disk.
func settle(part, to string) error {
	f, err := os.Open(part)
	if err != nil {
		return err
	}
	err = errors.Join(f.Sync(), f.Close())
	if err != nil {
		return err
	}
	if err := os.Rename(part, to); err != nil {
		return err
	}
	if dir, err := os.Open(filepath.Dir(to)); err == nil {
		dir.Sync() //nolint:errcheck // not every system can
		dir.Close()
	}
	return nil
}

// Check tells what is wrong with a database file; nil is a good one.
func Check(ctx context.Context, path string) error {
	s, err := openOnly(ctx, path)
	if err != nil {
		return err
	}
	defer s.Close()
	wrong, err := list[string](ctx, s.read, "PRAGMA integrity_check(5)", args{})
	if err != nil {
		return fmt.Errorf("%s is no database, or a damaged one: %w", path, err)
	}
	if len(wrong) != 1 || wrong[0] != "ok" {
		return fmt.Errorf("%s is damaged: %s", path, strings.Join(wrong, "; "))
	}
	lost, err := get[int](ctx, s.read, "SELECT count(*) FROM pragma_foreign_key_check", args{})
	if err != nil {
		return err
	}
	if lost > 0 {
		return fmt.Errorf("%s is damaged: %d rows point at nothing", path, lost)
	}
	is, err := get[int](ctx, s.read, "SELECT EXISTS (SELECT 1 FROM sqlite_master WHERE name = 'studios')", args{})
	if err != nil {
		return err
	}
	if is == 0 {
		return fmt.Errorf("%s is no database of Valleyside", path)
	}
	return nil
}

// Restore puts a copy in the place of a database that nothing serves. The copy is
// checked first and stays where it is; what was there is kept beside it, under the
// name that is returned, empty where there was nothing.
func Restore(ctx context.Context, copyOf, path string, now time.Time) (kept string, err error) {
	lock, err := LockFile(path)
	if err != nil {
		return "", err
	}
	defer lock.Release()
	if err := Check(ctx, copyOf); err != nil {
		return "", err
	}
	part := path + ".part"
	defer os.Remove(part)
	if err := os.Remove(part); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	s, err := openOnly(ctx, copyOf)
	if err != nil {
		return "", err
	}
	defer s.Close()
	if err := s.copyTo(ctx, part); err != nil {
		return "", fmt.Errorf("restore %s: %w", path, err)
	}
	if _, err := os.Stat(path); err == nil {
		kept = fmt.Sprintf("%s.before-%s", path, now.Format("2006-01-02-150405"))
		if err := setAside(ctx, path, kept); err != nil {
			return "", fmt.Errorf("restore %s: %w", path, err)
		}
	}
	return kept, settle(part, path)
}

// setAside gives a database that a copy is about to take the place of a second
// name. It keeps its own until the copy has it: at every moment there is a whole
// database under it.
func setAside(ctx context.Context, path, kept string) error {
	if s, err := connect(path); err == nil {
		s.db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)") //nolint:errcheck // a damaged one is kept as it is
		s.Close()
	}
	for _, end := range []string{"", "-wal"} {
		err := os.Link(path+end, kept+end)
		if err != nil && !errors.Is(err, fs.ErrNotExist) && !errors.Is(err, fs.ErrExist) {
			err = os.Rename(path+end, kept+end) // a disk that knows no second names
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	for _, end := range []string{"-wal", "-shm"} { // what is left of the old would be read into the new
		if err := os.Remove(path + end); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// demoMark is the application id of a demo's file, by which it is told from a
// studio's.
const demoMark = 0x56444d4f

// OpenDemo opens the file of a demo, or makes it: fill fills one that is new. A
// file that is not marked as a demo is refused, and one that was not filled to its
// end is made again, as is any with fresh. The caller has its lock.
func OpenDemo(ctx context.Context, path string, fresh bool, fill func(*Store) error) (*Store, error) {
	if err := checkName(path); err != nil {
		return nil, err
	}
	if info, err := os.Stat(path); err == nil && info.Size() > 0 {
		mark, whole, err := marksOf(path)
		switch {
		case err != nil:
			return nil, fmt.Errorf("open demo %s: %w", path, err)
		case mark != demoMark:
			return nil, fmt.Errorf("%s is not a demo's file; it is left as it is. Name another with --db, or serve it with 'valleyside serve'", path)
		case fresh || !whole:
			for _, end := range []string{"-wal", "-shm", ""} {
				if err := os.Remove(path + end); err != nil && !errors.Is(err, fs.ErrNotExist) {
					return nil, fmt.Errorf("cannot make the demo anew: %w", err)
				}
			}
		}
	}
	if err := prepare(path); err != nil {
		return nil, fmt.Errorf("open demo %s: %w", path, err)
	}
	if err := markDemo(ctx, path); err != nil {
		return nil, fmt.Errorf("open demo %s: %w", path, err)
	}
	s, err := Open(ctx, path)
	if err != nil {
		return nil, err
	}
	if err := fill(s); err != nil {
		s.Close()
		return nil, err
	}
	for _, query := range []string{"PRAGMA user_version = 1", "PRAGMA wal_checkpoint(TRUNCATE)"} { // whole, and on the disk
		if _, err := s.db.ExecContext(ctx, query); err != nil {
			s.Close()
			return nil, fmt.Errorf("open demo %s: %w", path, err)
		}
	}
	return s, nil
}

// markDemo marks a file as a demo's, before anything else is in it: without a log
// beside it that could hold the mark alone.
func markDemo(ctx context.Context, path string) error {
	db, err := sqlx.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath())
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.ExecContext(ctx, fmt.Sprintf("PRAGMA application_id = %d", demoMark))
	return err
}

// marksOf reads what a file is marked as, from its header: 4 bytes at 68 are its
// application id, 4 at 60 its user version. https://sqlite.org/fileformat.html
func marksOf(path string) (mark uint32, whole bool, err error) {
	f, err := os.Open(path)
	if err != nil {
		return 0, false, err
	}
	defer f.Close()
	header := make([]byte, 100)
	if _, err := io.ReadFull(f, header); err != nil {
		return 0, false, errors.New("it is no database")
	}
	number := func(at int) uint32 {
		return uint32(header[at])<<24 | uint32(header[at+1])<<16 | uint32(header[at+2])<<8 | uint32(header[at+3])
	}
	return number(68), number(60) == 1, nil
}
