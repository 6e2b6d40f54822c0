package store

import (
	"bytes"
	"cmp"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
)

// The journal keeps what a change made of rows, whatever the change was, so that it can be taken
// back: the database itself tells which rows were touched, those that went with others as well.

// ErrChanged means that what a change made has been changed again since, or is used by now: it
// cannot be taken back.
var ErrChanged = errors.New("it has been changed again since")

// journaled are the tables of what people enter. What is worked out of them is made again; a
// secret that has ended, of a link or a calendar, stays ended.
var journaled = map[string]bool{"studios": true, "songs": true, "song_versions": true, "song_parts": true, "ways": true, "templates": true, "lessons": true, "lesson_parts": true, "students": true,
	"assignments": true, "assignment_parts": true, "entries": true, "hours": true, "hour_items": true, "tasks": true, "words": true, "series": true,
	"series_students": true, "changes": true, "holidays": true, "tags": true}

// mostJournaled is how many rows a change may touch that can be taken back.
const mostJournaled = 20_000

// rowChange is what happened to a row: Old is empty for one that is new, New for one that is gone;
// of one that was changed they have the columns that are others now, and Key says which it is.
type rowChange struct {
	Table string   `json:"table"`
	Key   columns  `json:"key,omitempty"`
	Old   columns  `json:"old,omitempty"`
	New   columns  `json:"new,omitempty"`
	Deep  bool     `json:"deep,omitempty"` // it went with the row before it
	cells [2][]any // as they came, before their columns were named
}

// columns are values by the names of their columns.
type columns map[string]cell

// cell is a value as SQLite has it; bytes are kept as an object with their base64.
type cell struct{ v any }

type cellBytes struct {
	Bytes string `json:"bytes"`
}

// MarshalJSON writes a value.
func (c cell) MarshalJSON() ([]byte, error) {
	if b, ok := c.v.([]byte); ok {
		return json.Marshal(cellBytes{base64.StdEncoding.EncodeToString(b)})
	}
	return json.Marshal(c.v)
}

// UnmarshalJSON reads a value.
func (c *cell) UnmarshalJSON(text []byte) error {
	if len(text) > 0 && text[0] == '{' {
		var b cellBytes
		if err := json.Unmarshal(text, &b); err != nil {
			return err
		}
		raw, err := base64.StdEncoding.DecodeString(b.Bytes)
		c.v = raw
		return err
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&c.v); err != nil {
		return err
	}
	n, ok := c.v.(json.Number)
	if !ok {
		return nil
	}
	if i, err := n.Int64(); err == nil {
		c.v = i
		return nil
	}
	f, err := n.Float64()
	c.v = f
	return err
}

// recording is a change that is going on.
type recording struct {
	store *Store
	tx    *sqlx.Tx
	rows  []rowChange
	many  bool // more than are kept
	err   error
}

type recordingKey struct{}

// changing is the transaction of the change that a context is of; nil where it is of none.
func (s *Store) changing(ctx context.Context) *sqlx.Tx {
	if r, ok := ctx.Value(recordingKey{}).(*recording); ok && r.store == s {
		return r.tx
	}
	return nil
}

// within is what a query reads: of the change that the context is of what it has changed so far,
// in place of what is there.
func within(ctx context.Context, q querier) querier {
	if r, ok := ctx.Value(recordingKey{}).(*recording); ok && q == querier(r.store.read) {
		return r.tx
	}
	return q
}

// see takes in what the database tells of a row before it is changed.
func (r *recording) see(d sqlite.SQLitePreUpdateData) {
	if !journaled[d.TableName] || r.many || r.err != nil {
		return
	}
	if r.many = len(r.rows) == mostJournaled; r.many {
		r.rows = nil
		return
	}
	row := rowChange{Table: d.TableName, Deep: d.Depth() > 0}
	for i, read := range []func(...any) error{d.Old, d.New} {
		if i == 0 && d.Op == opInsert || i == 1 && d.Op == opDelete {
			continue
		}
		cells := make([]any, d.Count()) // which are filled themselves
		if err := read(cells...); err != nil {
			r.err = err
		}
		row.cells[i] = cells
	}
	r.rows = append(r.rows, row)
}

// What may happen to a row, as SQLite numbers it. https://sqlite.org/c3ref/c_alter_table.html
const (
	opDelete = 9
	opInsert = 18
)

// recorded runs f in a transaction, and gives what it did to rows; last is run at its end.
func (s *Store) recorded(ctx context.Context, f func(ctx context.Context, tx *sqlx.Tx) error, last func(tx *sqlx.Tx, rows []rowChange) error) error {
	conn, err := s.db.Connx(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	hook := func(see sqlite.PreUpdateHookFn) error {
		return conn.Raw(func(c any) error {
			with, ok := c.(interface {
				RegisterPreUpdateHook(sqlite.PreUpdateHookFn)
			})
			if !ok {
				return errors.New("the database does not tell of changes")
			}
			with.RegisterPreUpdateHook(see)
			return nil
		})
	}
	r := &recording{store: s}
	if err := hook(r.see); err != nil {
		return err
	}
	defer hook(nil) //nolint:errcheck // a connection that is broken is thrown away
	if r.tx, err = conn.BeginTxx(ctx, nil); err != nil {
		return err
	}
	defer r.tx.Rollback() //nolint:errcheck // a no-op once committed
	if err := f(context.WithValue(ctx, recordingKey{}, r), r.tx); err != nil {
		return err
	}
	if err := errors.Join(r.err, r.name(ctx)); err != nil {
		return err
	}
	if r.many {
		r.rows = nil
	}
	if err := last(r.tx, r.rows); err != nil {
		return err
	}
	return r.tx.Commit()
}

// name puts together what happened to each row, and gives its columns their names: a row that went
// and came again as it was has not changed.
func (r *recording) name(ctx context.Context) error {
	tables := map[string]table{}
	at := map[string]int{} // where a row stands, by its key
	var rows []rowChange
	for _, row := range r.rows {
		of, ok := tables[row.Table]
		if !ok {
			var err error
			if of, err = list[column](ctx, r.tx, "SELECT name, pk FROM pragma_table_info(:table) ORDER BY cid", args{"table": row.Table}); err != nil {
				return err
			}
			tables[row.Table] = of
		}
		old, is := row.cells[0], row.cells[1]
		if old != nil && is != nil && of.key(old) != of.key(is) { // another key: it is a change of its own
			rows = append(rows, row)
			continue
		}
		key := row.Table + cmp.Or(of.key(is), of.key(old))
		if i, again := at[key]; again {
			rows[i].cells[1] = is
			continue
		}
		at[key] = len(rows)
		rows = append(rows, row)
	}
	r.rows = slices.DeleteFunc(rows, func(row rowChange) bool { return row.cells[0] == nil && row.cells[1] == nil })
	for i := range r.rows {
		tables[r.rows[i].Table].name(&r.rows[i])
	}
	r.rows = slices.DeleteFunc(r.rows, func(row rowChange) bool { return len(row.Old)+len(row.New) == 0 })
	return nil
}

// table is the columns of a table, in their order.
type table []column

type column struct {
	Name string
	PK   int
}

// key is what a row is known by; empty for none.
func (t table) key(cells []any) (key string) {
	for i, c := range t {
		if c.PK > 0 && cells != nil {
			key += fmt.Sprintf(" %v", cells[i])
		}
	}
	return key
}

// name gives the columns of a row their names, of one that was changed those that are others.
func (t table) name(row *rowChange) {
	old, is := row.cells[0], row.cells[1]
	row.cells, row.Key = [2][]any{}, columns{}
	for i, c := range t {
		switch {
		case old == nil:
			row.New = with(row.New, c.Name, is[i])
		case is == nil:
			row.Old = with(row.Old, c.Name, old[i])
		case !same(old[i], is[i]):
			row.Old, row.New = with(row.Old, c.Name, old[i]), with(row.New, c.Name, is[i])
		}
		if c.PK > 0 && is != nil {
			row.Key[c.Name] = cell{is[i]}
		} else if c.PK > 0 {
			row.Key[c.Name] = cell{old[i]}
		}
	}
}

func with(c columns, name string, v any) columns {
	if c == nil {
		c = columns{}
	}
	c[name] = cell{v}
	return c
}

func same(a, b any) bool {
	x, ok1 := a.([]byte)
	y, ok2 := b.([]byte)
	if ok1 && ok2 {
		return bytes.Equal(x, y)
	}
	return !ok1 && !ok2 && a == b
}

// Undoable does a change of a studio, whatever functions of the store it takes, as a whole or not
// at all, and keeps how it is taken back; f says what was done. The number is that of the
// change in the journal; 0 where nothing was changed, too much to be kept, or nothing is said of it. What f reads with its
// context is as f has changed it so far.
func (s *Store) Undoable(ctx context.Context, studio int64, now Instant, f func(ctx context.Context) (what string, err error)) (id int64, err error) {
	what := ""
	err = s.recorded(ctx, func(ctx context.Context, _ *sqlx.Tx) (err error) { what, err = f(ctx); return err }, func(tx *sqlx.Tx, rows []rowChange) error {
		id, err = keepChange(ctx, tx, studio, what, now, rows)
		return err
	})
	return id, err
}

func keepChange(ctx context.Context, tx *sqlx.Tx, studio int64, what string, now Instant, rows []rowChange) (int64, error) {
	if len(rows) == 0 || what == "" {
		return 0, nil
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return 0, err
	}
	id, err := insert(ctx, tx, "INSERT INTO journal (studio_id, at, what, rows) VALUES (:studio, :now, :what, :rows)",
		args{"studio": studio, "now": now, "what": what, "rows": string(text)})
	if err != nil {
		return 0, err
	}
	for _, of := range aboutOf(rows) {
		a := args{"id": id, "studio": studio, "kind": of.kind, "ids": numbersOf(of.ids)}
		err := run(ctx, tx, "INSERT INTO journal_about (change_id, kind, of_id) SELECT :id, :kind, value FROM json_each(:ids) WHERE value <> 0 AND :kind <> '' ON CONFLICT DO NOTHING", a)
		if err == nil && of.students != "" { // and whose it is
			err = run(ctx, tx, "INSERT INTO journal_about (change_id, kind, of_id) SELECT DISTINCT :id, 'student', student_id FROM "+of.students+" IN (SELECT value FROM json_each(:ids)) AND studio_id = :studio ON CONFLICT DO NOTHING", a)
		}
		if err != nil {
			return 0, err
		}
	}
	return id, nil
}

// about is what a change is about, by their numbers; students finds whose it is, where it is not
// theirs by itself.
type about struct {
	kind     Tagged
	students string
	ids      []int64
}

// aboutOf is what some rows are about.
func aboutOf(rows []rowChange) []*about {
	const none Tagged = "" // what only leads to students
	var (
		students, songs = &about{kind: OnStudent}, &about{kind: OnSong}
		lessons         = &about{OnLesson, "assignments WHERE lesson_id", nil}
		assignments     = &about{none, "assignments WHERE id", nil}
		hours           = &about{none, "hours WHERE id", nil}
		words           = &about{none, "words WHERE id", nil}
		entries         = &about{none, "entries WHERE id", nil}
		series          = &about{none, "series_students WHERE series_id", nil}
	)
	own := map[string]*about{"students": students, "songs": songs, "lessons": lessons, "assignments": assignments, "hours": hours, "words": words, "entries": entries, "series": series}
	of := map[string]*about{"student_id": students, "song_id": songs, "lesson_id": lessons, "assignment_id": assignments, "hour_id": hours, "series_id": series}
	tags := map[string]*about{"song": songs, "lesson": lessons, "student": students}
	for i := range rows {
		r := &rows[i]
		for _, c := range []columns{r.Key, r.Old, r.New} {
			if is := own[r.Table]; is != nil {
				is.ids = append(is.ids, c.number("id"))
			}
			if kind, _ := c["kind"].v.(string); r.Table == "tags" && tags[kind] != nil {
				tags[kind].ids = append(tags[kind].ids, c.number("of_id"))
			}
			for name, is := range of {
				is.ids = append(is.ids, c.number(name))
			}
		}
	}
	return []*about{students, songs, lessons, assignments, hours, words, entries, series}
}

func (c columns) number(name string) int64 {
	n, _ := c[name].v.(int64)
	return n
}

// Journaled is a change of a studio in its journal.
type Journaled struct {
	ID       int64
	StudioID int64 `db:"studio_id"`
	At       Instant
	What     string
	UndoneAt Instant `db:"undone_at"` // 0 is not
}

// Changes lists what was changed in a studio, the newest first, as many from the offset on as are
// asked for.
func (s *Store) Changes(ctx context.Context, studio int64, most, offset int) ([]Journaled, error) {
	return list[Journaled](ctx, s.read, `SELECT id, studio_id, at, what, undone_at FROM journal WHERE studio_id = :studio
		ORDER BY at DESC, id DESC LIMIT :most OFFSET :offset`, args{"studio": studio, "most": limit(most), "offset": offset})
}

// Undo takes a change back, where all that it made is still so: otherwise it answers ErrChanged
// and leaves everything. That is a change itself, called what.
func (s *Store) Undo(ctx context.Context, studio, id int64, what func(Journaled) string, now Instant) (of Journaled, undo int64, err error) {
	var want int
	err = s.recorded(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		kept, err := get[struct {
			Journaled
			Rows string
		}](ctx, tx, "SELECT * FROM journal WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
		if err != nil {
			return err
		}
		of = kept.Journaled
		if of.UndoneAt > 0 {
			return ErrChanged
		}
		var rows []rowChange
		if err := json.Unmarshal([]byte(kept.Rows), &rows); err != nil {
			return err
		}
		want = len(rows)
		if _, err := tx.ExecContext(ctx, "PRAGMA defer_foreign_keys = 1"); err != nil { // rows come back before those that they belong to
			return err
		}
		for r := range backward(rows) {
			if err := r.takeBack(ctx, tx); err != nil {
				return err
			}
		}
		if err := remake(ctx, tx, studio, rows); err != nil {
			return err
		}
		return change(ctx, tx, "UPDATE journal SET undone_at = :now WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id, "now": now})
	}, func(tx *sqlx.Tx, rows []rowChange) error {
		if len(rows) != want { // more went with them than had come
			return ErrChanged
		}
		undo, err = keepChange(ctx, tx, studio, what(of), now, rows)
		return err
	})
	var broken *sqlite.Error
	const constraint = 19 // a row is there again, or one that it needs is gone
	if errors.As(err, &broken) && broken.Code()&0xff == constraint {
		err = ErrChanged
	}
	return of, undo, err
}

// backward are the rows in the order in which they are taken back: the last first, but a row that is
// gone before those that went with it.
func backward(rows []rowChange) iter.Seq[*rowChange] {
	return func(yield func(*rowChange) bool) {
		for end := len(rows); end > 0; {
			begin := end - 1
			for begin > 0 && rows[begin].Deep {
				begin--
			}
			group := rows[begin:end]
			end = begin
			if group[0].New != nil {
				slices.Reverse(group)
			}
			for i := range group {
				if !yield(&group[i]) {
					return
				}
			}
		}
	}
}

// takeBack makes a row again as it was.
func (r *rowChange) takeBack(ctx context.Context, tx *sqlx.Tx) error {
	a, n := args{}, 0
	bind := func(c columns, between, is string) string {
		var parts []string
		for name, v := range c {
			n++
			key := fmt.Sprintf("v%d", n)
			a[key] = v.v
			parts = append(parts, name+is+":"+key)
		}
		return strings.Join(parts, between)
	}
	query := ""
	switch {
	case r.Old == nil:
		query = "DELETE FROM " + r.Table + " WHERE " + bind(r.New, " AND ", " IS ")
	case r.New == nil:
		names := make([]string, 0, len(r.Old))
		values := make([]string, 0, len(r.Old))
		for name, v := range r.Old {
			n++
			key := fmt.Sprintf("v%d", n)
			a[key] = v.v
			names, values = append(names, name), append(values, ":"+key)
		}
		query = "INSERT INTO " + r.Table + " (" + strings.Join(names, ", ") + ") VALUES (" + strings.Join(values, ", ") + ")"
	default:
		query = "UPDATE " + r.Table + " SET " + bind(r.Old, ", ", " = ") + " WHERE " + bind(r.Key, " AND ", " IS ") + " AND " + bind(r.New, " AND ", " IS ")
	}
	err := change(ctx, tx, query, a)
	if errors.Is(err, ErrNotFound) {
		err = ErrChanged
	}
	return err
}

// remake has what is worked out of some rows made again.
func remake(ctx context.Context, tx *sqlx.Tx, studio int64, rows []rowChange) error {
	students, songs, assignments, all := map[int64]bool{}, map[int64]bool{}, map[int64]bool{}, false
	for i := range rows {
		r := &rows[i]
		switch r.Table {
		case "studios":
			all = true
		case "students":
			students[r.Key.number("id")] = true
		case "songs":
			songs[r.Key.number("id")] = true
		case "assignments":
			assignments[r.Key.number("id")] = true
		case "assignment_parts", "entries":
			assignments[max(r.Key.number("assignment_id"), r.Old.number("assignment_id"), r.New.number("assignment_id"))] = true
			if r.Table == "entries" && r.Old != nil && r.New != nil { // one that was mended names it in neither
				of, err := list[int64](ctx, tx, "SELECT assignment_id FROM entries WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": r.Key.number("id")})
				if err != nil {
					return err
				}
				for _, id := range of {
					assignments[id] = true
				}
			}
		}
	}
	delete(assignments, 0)
	if all {
		if err := stale(ctx, tx, studio, 0); err != nil {
			return err
		}
		if err := restand(ctx, tx, studio); err != nil {
			return err
		}
	}
	for id := range students {
		if err := errors.Join(stale(ctx, tx, studio, id), staleFits(ctx, tx, studio, id, 0)); err != nil {
			return err
		}
	}
	for id := range songs {
		if err := errors.Join(run(ctx, tx, "UPDATE song_sums SET stale = 1 WHERE studio_id = :studio AND song_id = :id", args{"studio": studio, "id": id}),
			staleFits(ctx, tx, studio, 0, id)); err != nil {
			return err
		}
	}
	for id := range assignments {
		if err := errors.Join(run(ctx, tx, "UPDATE assignment_sums SET stale = 1 WHERE studio_id = :studio AND assignment_id = :id", args{"studio": studio, "id": id}),
			standAround(ctx, tx, studio, id)); err != nil {
			return err
		}
	}
	return nil
}

// Forget takes a change out of the journal for good: it cannot be taken back any more.
func (s *Store) Forget(ctx context.Context, studio, id int64) error {
	if err := s.change(ctx, "DELETE FROM journal WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id}); err != nil {
		return err
	}
	return s.emptyLog(ctx)
}

// forgetAbout takes out of the journal what is about students, songs and lessons that are not there
// any more.
func forgetAbout(ctx context.Context, tx *sqlx.Tx) error {
	for _, kind := range []Tagged{OnStudent, OnSong, OnLesson} {
		if err := run(ctx, tx, "DELETE FROM journal WHERE id IN (SELECT change_id FROM journal_about WHERE kind = :kind AND of_id NOT IN (SELECT id FROM "+kind.table()+"))", args{"kind": kind}); err != nil {
			return err
		}
	}
	return nil
}
