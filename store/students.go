package store

import (
	"cmp"
	"context"
	"time"

	"github.com/jmoiron/sqlx"

	"valleyside/core/timetable"
)

const secondsOfDay = 24 * 60 * 60

// Student is a student of a studio. No more is kept of them than the lessons
// need.
type Student struct {
	ID             int64   `json:"id"`
	StudioID       int64   `db:"studio_id" json:"-"`
	Name           string  `json:"name"`
	About          string  `json:"about"`
	Reach          float64 `json:"reach_mm"`
	Scale          float64 `json:"scale_mm"`
	NotesPerSecond float64 `db:"notes_per_second" json:"notes_per_second"`
	LeftHanded     bool    `db:"left_handed" json:"left_handed"`
	Acoustic       bool    `json:"acoustic"`
	NoBarre        bool    `db:"no_barre" json:"no_barre"`
	NoLittle       bool    `db:"no_little" json:"no_little"`
	Thumb          bool    `json:"thumb"`
	Picking        string  `json:"picking"`
	Unlearnt       string  `json:"unlearnt"` // skills, as hand.Skills writes them
	Known          string  `json:"known"`    // as lesson.ParseKnown reads it
	Minutes        int     `json:"minutes"`  // of practice a day
	// LessonDay and LessonTime are the latest place that comes again, of which the timetable has the
	// rest: 0 Sunday to 6 Saturday, −1 none, and a time like 16:30. With a new student it is theirs
	// every week.
	LessonDay  int     `db:"lesson_day" json:"lesson_day"`
	LessonTime string  `db:"lesson_time" json:"lesson_time"`
	CreatedAt  Instant `db:"created_at" json:"created_at"`
	DeletedAt  Instant `db:"deleted_at" json:"deleted_at,omitempty"`
	ArchivedAt Instant `db:"archived_at" json:"archived_at,omitempty"` // put away; 0 is not
}

const studentColumns = `SELECT t.id, t.studio_id, t.name, t.about, t.reach, t.scale, t.notes_per_second, t.left_handed, t.acoustic,
	t.no_barre, t.no_little, t.thumb, t.picking, t.unlearnt, t.known, t.minutes, t.created_at, t.deleted_at, t.archived_at,
	COALESCE((SELECT (s.first_day + 4) % 7 ` + placeOf + `), -1) AS lesson_day,
	COALESCE((SELECT CASE WHEN s.at < 0 THEN '' ELSE printf('%02d::%02d', s.at / 60, s.at % 60) END ` + placeOf + `), '') AS lesson_time FROM students t`

// placeOf is the latest place of a student that comes again.
const placeOf = `FROM series_students m JOIN series s ON s.id = m.series_id WHERE m.student_id = t.id AND s.every > 0 AND s.last_day = 0 ORDER BY s.first_day DESC, s.id DESC LIMIT 1`

// Students lists the students of a studio by name.
func (s *Store) Students(ctx context.Context, studio int64) ([]Student, error) {
	return list[Student](ctx, s.read, studentColumns+" WHERE t.studio_id = :studio AND t.deleted_at = 0 ORDER BY t.name COLLATE NOCASE, t.id", args{"studio": studio})
}

// StudentFilter is which students are listed. What is empty holds for all.
type StudentFilter struct {
	Find     string // words in the name
	Group    string // a tag
	Archived bool   // those that are put away, in place of those that are not
	Order    StudentOrder
}

// StudentOrder is an order of students.
type StudentOrder string

// The orders: by name, by their place in the week, who has not practised for longest first, the
// newest first.
const (
	ByStudentName StudentOrder = "name"
	ByPlace       StudentOrder = "place"
	ByRest        StudentOrder = "rest"
	ByComing      StudentOrder = "new"
)

// ListedStudents lists students of a studio, as many from the offset on as are asked for;
// 0 is all.
func (s *Store) ListedStudents(ctx context.Context, studio int64, f StudentFilter, most, offset int) ([]Student, error) {
	order := map[StudentOrder]string{ByStudentName: "", ByPlace: "lesson_day < 0, (lesson_day + 6) % 7, lesson_time, ", ByComing: "t.created_at DESC, ",
		ByRest: `(SELECT max(d.last_at) FROM assignments a JOIN standings d ON d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = ''
			WHERE a.studio_id = t.studio_id AND a.student_id = t.id AND a.ended_at = 0), `}[f.Order] + "t.name COLLATE NOCASE, t.id"
	return list[Student](ctx, s.read, studentColumns+` WHERE t.studio_id = :studio AND t.deleted_at = 0 AND (t.archived_at > 0) = :archived AND (:find = '' OR instr(folded(t.name), folded(:find)) > 0)
		AND (:group = '' OR EXISTS (SELECT 1 FROM tags g WHERE g.studio_id = t.studio_id AND g.kind = 'student' AND g.of_id = t.id AND g.tag = :group))
		ORDER BY `+order+` LIMIT :most OFFSET :offset`,
		args{"studio": studio, "find": f.Find, "group": f.Group, "archived": f.Archived, "most": limit(most), "offset": offset})
}

// CountArchived is how many students of a studio are put away.
func (s *Store) CountArchived(ctx context.Context, studio int64) (int, error) {
	return get[int](ctx, s.read, "SELECT count(*) FROM students WHERE studio_id = :studio AND deleted_at = 0 AND archived_at > 0", args{"studio": studio})
}

// StudentsWith lists some students of a studio by name.
func (s *Store) StudentsWith(ctx context.Context, studio int64, ids ...int64) ([]Student, error) {
	return list[Student](ctx, s.read, studentColumns+" WHERE t.studio_id = :studio AND t.deleted_at = 0 AND t.id"+among+" ORDER BY t.name COLLATE NOCASE, t.id",
		args{"studio": studio, "students": numbersOf(ids)})
}

// NamesOf lists some students of a studio by name, their numbers and names alone.
func (s *Store) NamesOf(ctx context.Context, studio int64, ids ...int64) ([]Student, error) {
	return list[Student](ctx, s.read, "SELECT t.id, t.studio_id, t.name FROM students t WHERE t.studio_id = :studio AND t.deleted_at = 0 AND t.id"+among+" ORDER BY t.name COLLATE NOCASE, t.id",
		args{"studio": studio, "students": numbersOf(ids)})
}

// AnyStudents tells whether a studio has students.
func (s *Store) AnyStudents(ctx context.Context, studio int64) (bool, error) {
	return get[bool](ctx, s.read, "SELECT EXISTS (SELECT 1 FROM students WHERE studio_id = :studio AND deleted_at = 0)", args{"studio": studio})
}

// StudentNames lists the students of a studio by name, their numbers and names alone.
func (s *Store) StudentNames(ctx context.Context, studio int64) ([]Student, error) {
	return list[Student](ctx, s.read, "SELECT id, studio_id, name FROM students WHERE studio_id = :studio AND deleted_at = 0 AND archived_at = 0 ORDER BY name COLLATE NOCASE, id",
		args{"studio": studio})
}

// Student reads one student.
func (s *Store) Student(ctx context.Context, studio, id int64) (Student, error) {
	return get[Student](ctx, s.read, studentColumns+" WHERE t.studio_id = :studio AND t.id = :id AND t.deleted_at = 0", args{"studio": studio, "id": id})
}

// usualMinutes are those of a student of whom nothing is said.
const usualMinutes = 10

func (st *Student) args() args {
	return args{"studio": st.StudioID, "id": st.ID, "name": st.Name, "about": st.About, "reach": st.Reach, "scale": st.Scale,
		"nps": st.NotesPerSecond, "left": st.LeftHanded, "acoustic": st.Acoustic, "no_barre": st.NoBarre, "no_little": st.NoLittle,
		"thumb": st.Thumb, "picking": st.Picking, "unlearnt": st.Unlearnt, "known": st.Known, "minutes": cmp.Or(st.Minutes, usualMinutes), "now": st.CreatedAt}
}

// AddStudent adds a student to the studio that st names.
func (s *Store) AddStudent(ctx context.Context, st Student) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error { id, err = addStudent(ctx, tx, st); return err })
	return id, err
}

// AddStudents adds several students, all or none.
func (s *Store) AddStudents(ctx context.Context, students []Student) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		for _, st := range students {
			if _, err := addStudent(ctx, tx, st); err != nil {
				return err
			}
		}
		return nil
	})
}

func addStudent(ctx context.Context, q querier, st Student) (int64, error) {
	id, err := insert(ctx, q, `INSERT INTO students
		(studio_id, name, about, reach, scale, notes_per_second, left_handed, acoustic, no_barre, no_little, thumb, picking, unlearnt,
			known, minutes, created_at)
		VALUES (:studio, :name, :about, :reach, :scale, :nps, :left, :acoustic, :no_barre, :no_little, :thumb, :picking, :unlearnt,
			:known, :minutes, :now)`, st.args())
	if err == nil {
		err = staleFits(ctx, q, st.StudioID, id, 0)
	}
	if err != nil || st.LessonDay < 0 {
		return id, err
	}
	at := timetable.NoTime
	if clock, err := time.Parse("15:04", st.LessonTime); err == nil {
		at = clock.Hour()*60 + clock.Minute()
	}
	_, err = addSeries(ctx, q, weekly(st.StudioID, id, st.LessonDay%7, at, 0, int(st.CreatedAt)/secondsOfDay))
	return id, err
}

// SetStudent changes a student, but for their place. What was worked out for the hand of before is stale.
func (s *Store) SetStudent(ctx context.Context, st Student) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, `UPDATE students SET name = :name, about = :about, reach = :reach, scale = :scale,
		notes_per_second = :nps, left_handed = :left, acoustic = :acoustic, no_barre = :no_barre, no_little = :no_little, thumb = :thumb,
		picking = :picking, unlearnt = :unlearnt, known = :known, minutes = :minutes
		WHERE studio_id = :studio AND id = :id AND deleted_at = 0`, st.args())
		if err != nil {
			return err
		}
		if err := stale(ctx, tx, st.StudioID, st.ID); err != nil {
			return err
		}
		return staleFits(ctx, tx, st.StudioID, st.ID, 0)
	})
}

// DeleteStudent hides a student and ends their links, which stay ended should the
// student come back.
func (s *Store) DeleteStudent(ctx context.Context, studio, id int64, now Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		if err := setDeleted(ctx, tx, "students", studio, id, now); err != nil {
			return err
		}
		_, err := sqlx.NamedExecContext(ctx, tx, "DELETE FROM links WHERE studio_id = :studio AND student_id = :id", args{"studio": studio, "id": id})
		return err
	})
}

// kept is how long what was deleted can be brought back, and a change taken back.
const kept = 30 * 24 * time.Hour

// EraseStudent removes a student for good, with their links, what they were
// assigned and what they practised. Nothing of them is left in the file: what is
// deleted is written over, and the log beside the file is emptied.
func (s *Store) EraseStudent(ctx context.Context, studio, id int64) error {
	err := s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "id": id}
		if err := unname(ctx, tx, "t.studio_id = :studio AND t.id = :id", a); err != nil {
			return err
		}
		if err := change(ctx, tx, "DELETE FROM students WHERE studio_id = :studio AND id = :id", a); err != nil {
			return err
		}
		return withoutStudents(ctx, tx)
	})
	if err != nil {
		return err
	}
	return s.emptyLog(ctx)
}

// unname takes the names of some students out of the names of lessons that were made for them,
// also where others have those.
func unname(ctx context.Context, tx *sqlx.Tx, which string, a args) error {
	for _, of := range []string{"lessons", "assignments"} {
		lesson := map[string]string{"lessons": "o.id", "assignments": "o.lesson_id"}[of]
		err := run(ctx, tx, "UPDATE "+of+` SET name = (SELECT g.title FROM songs g WHERE g.studio_id = `+of+`.studio_id AND g.id = `+of+`.song_id)
			WHERE id IN (SELECT o.id FROM `+of+` o JOIN assignments a ON a.studio_id = o.studio_id AND a.lesson_id = `+lesson+`
				JOIN students t ON t.studio_id = a.studio_id AND t.id = a.student_id WHERE `+which+` AND instr(folded(o.name), folded(t.name)) > 0)`, a)
		if err != nil {
			return err
		}
	}
	return nil
}

// EraseDeleted removes for good what was deleted so long ago that it is not brought back any
// more, and tells how much: students, the lessons and songs that no student has ever had, and what
// the journal has of changes. A lesson and a song that somebody has had stay, unseen, for what they
// have.
func (s *Store) EraseDeleted(ctx context.Context, now Instant) (int64, error) {
	n := int64(0)
	err := s.in(ctx, func(tx *sqlx.Tx) error {
		if err := unname(ctx, tx, "t.deleted_at > 0 AND t.deleted_at <= :before", args{"before": now - Instant(kept.Seconds())}); err != nil {
			return err
		}
		for _, query := range []string{
			"DELETE FROM students WHERE deleted_at > 0 AND deleted_at <= :before",
			"DELETE FROM lessons WHERE deleted_at > 0 AND deleted_at <= :before AND NOT EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = lessons.studio_id AND a.lesson_id = lessons.id)",
			"DELETE FROM songs WHERE deleted_at > 0 AND deleted_at <= :before AND NOT EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = songs.studio_id AND a.song_id = songs.id)",
			"DELETE FROM journal WHERE at <= :before",
		} {
			r, err := sqlx.NamedExecContext(ctx, tx, query, args{"before": now - Instant(kept.Seconds())})
			if err != nil {
				return err
			}
			gone, err := r.RowsAffected()
			if err != nil {
				return err
			}
			n += gone
		}
		if n == 0 {
			return nil
		}
		return withoutStudents(ctx, tx)
	})
	if err != nil || n == 0 {
		return n, err
	}
	return n, s.emptyLog(ctx)
}

// emptyLog moves what the log has into the file, where deleted rows are zeros.
func (s *Store) emptyLog(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return err
}
