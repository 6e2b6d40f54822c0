package store

import (
	"archive/zip"
	"bufio"
	"context"
	"database/sql"
	"encoding/json"
	"io"

	"github.com/jmoiron/sqlx"
)

// An export is a zip of files of JSON lines, a line for each row, one file for each kind of
// row, in the order in which they are taken in again. It begins with one that says what it
// is.

// Header says what an export is.
type Header struct {
	Form int    `json:"form"` // of the export: 2
	Of   string `json:"of"`   // studio or student
}

// exportForm is the form of exports that is written.
const exportForm = 2

// headerFile is the name of the file with the header.
const headerFile = "valleyside.json"

// Export writes all that a studio holds, for taking it elsewhere: its
// songs with every version and what was typed, its lessons, students, assignments
// and practice, what is finished or deleted as well. It is one moment of the
// studio, however long it takes, and is written row by row.
func (s *Store) Export(ctx context.Context, studio int64, w io.Writer) error {
	return s.exported(ctx, w, "studio", args{"studio": studio}, everything)
}

// ExportStudent writes all that there is about one student, with the songs and lessons that
// were given to them, so that it stands alone.
func (s *Store) ExportStudent(ctx context.Context, studio, student int64, w io.Writer) error {
	if _, err := s.Student(ctx, studio, student); err != nil {
		return err
	}
	return s.exported(ctx, w, "student", args{"studio": studio, "student": student}, ofStudent)
}

// section is one kind of row of an export.
type section struct {
	name  string
	write func(ctx context.Context, e *exporter) error
}

var everything = []section{
	{"studio", rows[Studio]("SELECT * FROM studios WHERE id = :studio")},
	{"songs", rows[Song](songColumns + " WHERE s.studio_id = :studio ORDER BY s.id")},
	{"versions", rows[ExportedSave]("SELECT song_id, version, sheet, saved_at FROM song_versions WHERE studio_id = :studio ORDER BY song_id, version")},
	{"parts", rows[SongPart]("SELECT * FROM song_parts WHERE studio_id = :studio ORDER BY song_id, version, position")},
	{"typed", rows[ExportedTyped]("SELECT song_id, sheet, typed_at FROM typed WHERE studio_id = :studio ORDER BY song_id, typed_at")},
	{"ways", rows[Way]("SELECT * FROM ways WHERE studio_id = :studio ORDER BY song_id, part_id, player, rung")},
	{"lessons", withParts("lesson", "SELECT l.*, 0 AS students FROM lessons l WHERE l.studio_id = :studio ORDER BY l.id", func(l *Lesson, parts map[int64][]Part) { l.Parts = parts[l.ID] })},
	{"templates", rows[Template]("SELECT * FROM templates WHERE studio_id = :studio ORDER BY name")},
	{"students", rows[Student](studentColumns + " WHERE t.studio_id = :studio ORDER BY t.id")},
	{"links", rows[Link]("SELECT id, student_id, name, made_at FROM links WHERE studio_id = :studio ORDER BY id")},
	{"assignments", withParts("assignment", "SELECT a.*, '' AS sheet, 0 AS latest FROM assignments a WHERE a.studio_id = :studio ORDER BY a.id", func(a *Assignment, parts map[int64][]Part) { a.Parts = parts[a.ID] })},
	{"series", withStudents("SELECT * FROM series WHERE studio_id = :studio ORDER BY id", "SELECT series_id, student_id FROM series_students WHERE studio_id = :studio ORDER BY series_id, student_id")},
	{"changes", rows[Change]("SELECT * FROM changes WHERE studio_id = :studio ORDER BY series_id, day")},
	{"holidays", rows[Holiday]("SELECT * FROM holidays WHERE studio_id = :studio ORDER BY id")},
	{"hours", hours("SELECT * FROM hours WHERE studio_id = :studio ORDER BY id")},
	{"tasks", rows[Task]("SELECT * FROM tasks WHERE studio_id = :studio ORDER BY student_id, position")},
	{"words", rows[Word]("SELECT * FROM words WHERE studio_id = :studio ORDER BY id")},
	{"tags", rows[Tag]("SELECT * FROM tags WHERE studio_id = :studio ORDER BY kind, of_id, tag")},
	{"entries", rows[Entry]("SELECT * FROM entries WHERE studio_id = :studio ORDER BY id")},
}

const givenSongs = "(SELECT song_id FROM assignments WHERE studio_id = :studio AND student_id = :student)"

// givenSave holds for the versions of the songs of a student that are the latest, or were
// given.
const givenSave = `v.studio_id = :studio AND (v.song_id IN ` + givenSongs + ` AND v.version = s.version
	OR EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = :studio AND a.student_id = :student AND a.song_id = v.song_id AND a.song_version = v.version))`

var ofStudent = []section{
	{"student", rows[Student](studentColumns + " WHERE t.studio_id = :studio AND t.id = :student")},
	{"songs", rows[Song]("SELECT s.id, s.studio_id, s.title, s.version, s.next_part, s.updated_at, s.deleted_at, v.sheet FROM songs s JOIN song_versions v ON v.studio_id = s.studio_id AND v.song_id = s.id AND v.version = s.version WHERE s.studio_id = :studio AND s.id IN " + givenSongs + " ORDER BY s.id")},
	{"versions", rows[ExportedSave]("SELECT v.song_id, v.version, v.sheet, v.saved_at FROM song_versions v JOIN songs s ON s.studio_id = v.studio_id AND s.id = v.song_id WHERE " + givenSave + " ORDER BY v.song_id, v.version")},
	{"parts", rows[SongPart]("SELECT v.* FROM song_parts v JOIN songs s ON s.studio_id = v.studio_id AND s.id = v.song_id WHERE " + givenSave + " ORDER BY v.song_id, v.version, v.position")},
	{"lessons", withParts("lesson", "SELECT l.*, 0 AS students FROM lessons l WHERE l.studio_id = :studio AND l.id IN (SELECT lesson_id FROM assignments WHERE studio_id = :studio AND student_id = :student) ORDER BY l.id", func(l *Lesson, parts map[int64][]Part) { l.Parts = parts[l.ID] })},
	{"links", rows[Link]("SELECT id, student_id, name, made_at FROM links WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
	{"assignments", withParts("assignment", "SELECT a.*, '' AS sheet, 0 AS latest FROM assignments a WHERE a.studio_id = :studio AND a.student_id = :student ORDER BY a.id", func(a *Assignment, parts map[int64][]Part) { a.Parts = parts[a.ID] })},
	{"series", withStudents(timetableOf+" ORDER BY s.id", "SELECT series_id, student_id FROM series_students WHERE studio_id = :studio AND student_id = :student")},
	{"changes", rows[Change]("SELECT c.* FROM series_students m JOIN changes c ON c.studio_id = m.studio_id AND c.series_id = m.series_id WHERE m.studio_id = :studio AND m.student_id = :student ORDER BY c.series_id, c.day")},
	{"hours", hours("SELECT * FROM hours WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
	{"tasks", rows[Task]("SELECT * FROM tasks WHERE studio_id = :studio AND student_id = :student ORDER BY position")},
	{"words", rows[Word]("SELECT id, studio_id, student_id, word, said_at, answer, answered_at, wish, CASE WHEN song_id IN " + givenSongs + " THEN song_id ELSE 0 END AS song_id, way, sent_id FROM words WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
	{"tags", rows[Tag]("SELECT * FROM tags WHERE studio_id = :studio AND kind = 'student' AND of_id = :student ORDER BY tag")},
	{"entries", rows[Entry]("SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
}

// ExportedSave is a sheet as it was saved once.
type ExportedSave struct {
	SongID  int64   `db:"song_id" json:"song_id"`
	Save    int     `db:"version" json:"version"`
	Sheet   string  `json:"sheet"`
	SavedAt Instant `db:"saved_at" json:"saved_at"`
}

// ExportedTyped is something that was typed and not saved.
type ExportedTyped struct {
	SongID  int64   `db:"song_id" json:"song_id"`
	Sheet   string  `json:"sheet"`
	TypedAt Instant `db:"typed_at" json:"typed_at"`
}

// exporter writes rows of one moment.
type exporter struct {
	tx   *sqlx.Tx
	args args
	w    *bufio.Writer
}

func (s *Store) exported(ctx context.Context, w io.Writer, of string, a args, sections []section) error {
	tx, err := s.read.BeginTxx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // it only reads
	z := zip.NewWriter(w)
	e := &exporter{tx: tx, args: a, w: bufio.NewWriter(nil)}
	file := func(name string, write func() error) error {
		f, err := z.Create(name)
		if err != nil {
			return err
		}
		e.w.Reset(f)
		if err := write(); err != nil {
			return err
		}
		return e.w.Flush()
	}
	if err := file(headerFile, func() error { return e.row(Header{exportForm, of}) }); err != nil {
		return err
	}
	for _, sec := range sections {
		if err := file(sec.name+".jsonl", func() error { return sec.write(ctx, e) }); err != nil {
			return err
		}
	}
	return z.Close()
}

func (e *exporter) row(v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	e.w.Write(b)
	return e.w.WriteByte('\n')
}

// rows writes the rows of a query.
func rows[T any](query string) func(context.Context, *exporter) error {
	return eachRow(query, func(context.Context, *exporter) (func(*T), error) { return func(*T) {}, nil })
}

// withParts writes the rows of a query with the parts of each.
func withParts[T any](of, query string, set func(*T, map[int64][]Part)) func(context.Context, *exporter) error {
	return eachRow(query, func(ctx context.Context, e *exporter) (func(*T), error) {
		parts, err := partsOf(ctx, e.tx, of, args{"studio": e.args["studio"]})
		return func(v *T) { set(v, parts) }, err
	})
}

// withStudents writes the series of a query with the students of each.
func withStudents(query, students string) func(context.Context, *exporter) error {
	return eachRow(query, func(ctx context.Context, e *exporter) (func(*Series), error) {
		who, err := studentsOf(ctx, e.tx, students, e.args)
		return func(one *Series) { one.Students = who[one.ID] }, err
	})
}

// hours writes the hours of a query with what was done in each.
func hours(query string) func(context.Context, *exporter) error {
	return eachRow(query, func(ctx context.Context, e *exporter) (func(*Hour), error) {
		items, err := list[HourItem](ctx, e.tx, `SELECT i.* FROM hours h JOIN hour_items i ON i.hour_id = h.id
			WHERE h.studio_id = :studio ORDER BY i.hour_id, i.position`, args{"studio": e.args["studio"]})
		of := map[int64][]HourItem{}
		for _, it := range items {
			of[it.HourID] = append(of[it.HourID], it)
		}
		return func(h *Hour) { h.Items = of[h.ID] }, err
	})
}

func eachRow[T any](query string, prepare func(context.Context, *exporter) (func(*T), error)) func(context.Context, *exporter) error {
	return func(ctx context.Context, e *exporter) error {
		finish, err := prepare(ctx, e)
		if err != nil {
			return err
		}
		return each(ctx, e.tx, query, e.args, func(v *T) error {
			finish(v)
			return e.row(*v)
		})
	}
}
