package store

import (
	"bufio"
	"context"
	"database/sql"
	"encoding/json"
	"io"

	"github.com/jmoiron/sqlx"
)

// Everything is what an export of a studio holds, for whoever reads one.
type Everything struct {
	Studio      Studio            `json:"studio"`
	Songs       []Song            `json:"songs"`
	Versions    []exportedVersion `json:"versions"`
	Typed       []exportedTyped   `json:"typed"`
	Ways        []Way             `json:"ways"`
	Lessons     []Lesson          `json:"lessons"`
	Templates   []Template        `json:"templates"`
	Students    []Student         `json:"students"`
	Links       []Link            `json:"links"`
	Assignments []Assignment      `json:"assignments"`
	Entries     []Entry           `json:"entries"`
}

// Export writes all that a studio holds as JSON, for taking it elsewhere: its
// songs with every version and what was typed, its lessons, students, assignments
// and practice, what is finished or deleted as well. It is one moment of the
// studio, however long it takes, and is written row by row.
func (s *Store) Export(ctx context.Context, studio int64, w io.Writer) error {
	return s.exported(ctx, w, args{"studio": studio}, everything)
}

// ExportStudent writes all that there is about one student, with the songs and lessons that
// were given to them, so that it stands alone.
func (s *Store) ExportStudent(ctx context.Context, studio, student int64, w io.Writer) error {
	if _, err := s.Student(ctx, studio, student); err != nil {
		return err
	}
	return s.exported(ctx, w, args{"studio": studio, "student": student}, ofStudent)
}

// section is one list of an export, or one thing alone where its name is that of
// one.
type section struct {
	name  string
	write func(ctx context.Context, e *exporter) error
}

// alone tells whether a section is one thing.
func (s section) alone() bool { return s.name == "studio" || s.name == "student" }

var everything = []section{
	{"studio", rows[Studio]("SELECT * FROM studios WHERE id = :studio")},
	{"songs", rows[Song]("SELECT s.*, v.sheet FROM songs s JOIN song_versions v ON v.studio_id = s.studio_id AND v.song_id = s.id AND v.version = s.version WHERE s.studio_id = :studio ORDER BY s.id")},
	{"versions", rows[exportedVersion]("SELECT song_id, version, sheet, saved_at FROM song_versions WHERE studio_id = :studio ORDER BY song_id, version")},
	{"typed", rows[exportedTyped]("SELECT song_id, sheet, typed_at FROM typed WHERE studio_id = :studio ORDER BY song_id, typed_at")},
	{"ways", rows[Way]("SELECT * FROM ways WHERE studio_id = :studio ORDER BY song_id, part, rung")},
	{"lessons", withParts("lesson", "SELECT l.*, 0 AS students FROM lessons l WHERE l.studio_id = :studio ORDER BY l.id", func(l *Lesson, parts map[int64][]Part) { l.Parts = parts[l.ID] })},
	{"templates", rows[Template]("SELECT * FROM templates WHERE studio_id = :studio ORDER BY name")},
	{"students", rows[Student](studentColumns + " WHERE t.studio_id = :studio ORDER BY t.id")},
	{"links", rows[Link]("SELECT id, student_id, name, made_at FROM links WHERE studio_id = :studio ORDER BY id")},
	{"assignments", withParts("assignment", "SELECT a.*, '' AS sheet, 0 AS latest FROM assignments a WHERE a.studio_id = :studio ORDER BY a.id", func(a *Assignment, parts map[int64][]Part) { a.Parts = parts[a.ID] })},
	{"entries", rows[Entry]("SELECT * FROM entries WHERE studio_id = :studio ORDER BY id")},
}

var ofStudent = []section{
	{"student", rows[Student](studentColumns + " WHERE t.studio_id = :studio AND t.id = :student")},
	{"songs", rows[Song]("SELECT s.id, s.studio_id, s.title, s.version, s.updated_at, s.deleted_at, v.sheet FROM songs s JOIN song_versions v ON v.studio_id = s.studio_id AND v.song_id = s.id AND v.version = s.version WHERE s.studio_id = :studio AND s.id IN (SELECT song_id FROM assignments WHERE studio_id = :studio AND student_id = :student) ORDER BY s.id")},
	{"versions", rows[exportedVersion](`SELECT v.song_id, v.version, v.sheet, v.saved_at FROM song_versions v JOIN songs s ON s.studio_id = v.studio_id AND s.id = v.song_id
		WHERE v.studio_id = :studio AND (v.song_id IN (SELECT song_id FROM assignments WHERE studio_id = :studio AND student_id = :student) AND v.version = s.version
			OR EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = :studio AND a.student_id = :student AND a.song_id = v.song_id AND a.song_version = v.version)) ORDER BY v.song_id, v.version`)},
	{"lessons", withParts("lesson", "SELECT l.*, 0 AS students FROM lessons l WHERE l.studio_id = :studio AND l.id IN (SELECT lesson_id FROM assignments WHERE studio_id = :studio AND student_id = :student) ORDER BY l.id", func(l *Lesson, parts map[int64][]Part) { l.Parts = parts[l.ID] })},
	{"links", rows[Link]("SELECT id, student_id, name, made_at FROM links WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
	{"assignments", withParts("assignment", "SELECT a.*, '' AS sheet, 0 AS latest FROM assignments a WHERE a.studio_id = :studio AND a.student_id = :student ORDER BY a.id", func(a *Assignment, parts map[int64][]Part) { a.Parts = parts[a.ID] })},
	{"entries", rows[Entry]("SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student ORDER BY id")},
}

type exportedVersion struct {
	SongID  int64  `db:"song_id" json:"song_id"`
	Version int    `json:"version"`
	Sheet   string `json:"sheet"`
	SavedAt Moment `db:"saved_at" json:"saved_at"`
}

type exportedTyped struct {
	SongID  int64  `db:"song_id" json:"song_id"`
	Sheet   string `json:"sheet"`
	TypedAt Moment `db:"typed_at" json:"typed_at"`
}

// exporter writes rows of one moment.
type exporter struct {
	tx    *sqlx.Tx
	args  args
	w     *bufio.Writer
	first bool
}

func (s *Store) exported(ctx context.Context, w io.Writer, a args, sections []section) error {
	tx, err := s.read.BeginTxx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // it only reads
	e := &exporter{tx: tx, args: a, w: bufio.NewWriter(w)}
	for i, sec := range sections {
		lead := ",\n"
		if i == 0 {
			lead = "{\n"
		}
		e.w.WriteString(lead + `  "` + sec.name + `": `)
		e.first = true
		if !sec.alone() {
			e.w.WriteByte('[')
		}
		if err := sec.write(ctx, e); err != nil {
			return err
		}
		if !sec.alone() {
			e.w.WriteString("\n  ]")
		}
	}
	e.w.WriteString("\n}\n")
	return e.w.Flush()
}

func (e *exporter) row(v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	if !e.first {
		e.w.WriteByte(',')
	}
	e.first = false
	e.w.WriteString("\n    ")
	_, err = e.w.Write(b)
	return err
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

func eachRow[T any](query string, prepare func(context.Context, *exporter) (func(*T), error)) func(context.Context, *exporter) error {
	return func(ctx context.Context, e *exporter) error {
		finish, err := prepare(ctx, e)
		if err != nil {
			return err
		}
		bound, bind, err := sqlx.Named(query, e.args)
		if err != nil {
			return err
		}
		found, err := e.tx.QueryxContext(ctx, bound, bind...)
		if err != nil {
			return err
		}
		defer found.Close()
		for found.Next() {
			var v T
			if err := found.StructScan(&v); err != nil {
				return err
			}
			finish(&v)
			if err := e.row(v); err != nil {
				return err
			}
		}
		return found.Err()
	}
}
