package store

import (
	"cmp"
	"context"
	"slices"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Lesson is a song made ready to teach: a rung for each part, and the tempo
// to reach.
type Lesson struct {
	ID          int64   `json:"id"`
	StudioID    int64   `db:"studio_id" json:"-"`
	SongID      int64   `db:"song_id" json:"song_id"`
	Name        string  `json:"name"`
	TargetTempo float64 `db:"target_tempo" json:"target_tempo"`
	Plan        string  `json:"plan,omitempty"` // what was changed in its steps, as lesson.Plan is written
	CreatedAt   Instant `db:"created_at" json:"created_at"`
	DeletedAt   Instant `db:"deleted_at" json:"deleted_at,omitempty"`
	ArchivedAt  Instant `db:"archived_at" json:"archived_at,omitempty"` // put away; 0 is not
	Parts       []Part  `db:"-" json:"parts"`
	Students    int     `json:"-"` // to whom it is assigned
}

// Part is the rung that is chosen for a part, and the way it is made. An empty
// rung leaves the part out for now. The way of a lesson's part is that of its
// song; an assignment keeps the one of its day.
type Part struct {
	PartID song.PartID  `db:"part_id" json:"part_id"`
	Part   string       `json:"part"` // as it is called
	Rung   arrange.Rung `json:"rung"`
	Way    string       `json:"way,omitempty"`
	// Own is how the teacher wants it made for those who have this lesson alone, in place of
	// how it is made for everybody; of a lesson, and empty where it is not.
	Own    string `json:"own,omitempty"`
	Player string `json:"player,omitempty"` // whose line is learnt; empty is the first one's
	// Target is the tempo that a part of an assignment is to reach, beats per minute.
	Target float64 `json:"target,omitempty"`
}

// Assignment is a lesson in a student's hands, as it was on the day it was
// assigned.
type Assignment struct {
	ID          int64   `json:"id"`
	StudioID    int64   `db:"studio_id" json:"-"`
	StudentID   int64   `db:"student_id" json:"student_id"`
	LessonID    int64   `db:"lesson_id" json:"lesson_id"`
	SongID      int64   `db:"song_id" json:"song_id"`
	SongSave    int     `db:"song_version" json:"song_version"`
	Name        string  `json:"name"`
	TargetTempo float64 `db:"target_tempo" json:"target_tempo"`
	Plan        string  `json:"plan,omitempty"`
	AssignedAt  Instant `db:"assigned_at" json:"assigned_at"`
	EndedAt     Instant `db:"ended_at" json:"ended_at"`
	Sheet       string  `json:"-"`
	// Latest is the newest version of the song.
	Latest int    `json:"-"`
	Parts  []Part `db:"-" json:"parts"`
}

// like tells whether two assignments are worked out alike.
func (a *Assignment) like(b *Assignment) bool {
	return a.SongID == b.SongID && a.SongSave == b.SongSave && a.TargetTempo == b.TargetTempo && a.Plan == b.Plan && a.Name == b.Name && slices.Equal(a.Parts, b.Parts)
}

// lessonColumns reads lessons whose song is still there.
const lessonColumns = `SELECT l.*, (SELECT count(*) FROM assignments a WHERE a.lesson_id = l.id AND a.ended_at = 0) AS students
	FROM lessons l JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id AND g.deleted_at = 0
	WHERE l.studio_id = :studio AND l.deleted_at = 0`

// Lessons lists the lessons of a studio by name.
func (s *Store) Lessons(ctx context.Context, studio int64) ([]Lesson, error) {
	return s.lessons(ctx, lessonColumns+" ORDER BY l.name COLLATE NOCASE, l.id", args{"studio": studio})
}

// ListedLesson is a lesson with its song, without what is in it.
type ListedLesson struct {
	Lesson
	Song  string
	Grade float64 // of the song as written
	Had   int     // students who have had it and finished
}

// LessonFilter is which lessons are listed. What is empty holds for all.
type LessonFilter struct {
	Find     string // words in the name or in the title of the song
	Tag      string
	Song     int64
	Archived bool // those that are put away, in place of those that are not
	Order    LessonOrder
}

// LessonOrder is an order of lessons.
type LessonOrder string

// The orders: by name, the newest first, who have it most first.
const (
	ByName     LessonOrder = "name"
	ByAge      LessonOrder = "new"
	ByWhoHasIt LessonOrder = "students"
)

// ListedLessons lists lessons of a studio, as many from the offset on as are asked for; 0 is all.
func (s *Store) ListedLessons(ctx context.Context, studio int64, f LessonFilter, most, offset int) ([]ListedLesson, error) {
	const students = "(SELECT count(*) FROM assignments a WHERE a.studio_id = l.studio_id AND a.song_id = l.song_id AND a.lesson_id = l.id AND a.ended_at = 0)"
	order := map[LessonOrder]string{ByName: "", ByAge: "l.created_at DESC, ", ByWhoHasIt: students + " DESC, "}[f.Order] + "l.name COLLATE NOCASE, l.id"
	return list[ListedLesson](ctx, s.read, `WITH page AS (SELECT l.id FROM lessons l JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id AND g.deleted_at = 0
			WHERE l.studio_id = :studio AND l.deleted_at = 0 AND (l.archived_at > 0) = :archived AND (:song = 0 OR l.song_id = :song)
				AND (:find = '' OR instr(folded(l.name), folded(:find)) > 0 OR instr(folded(g.title), folded(:find)) > 0)
				AND (:tag = '' OR EXISTS (SELECT 1 FROM tags t WHERE t.studio_id = l.studio_id AND t.kind = 'lesson' AND t.of_id = l.id AND t.tag = :tag))
			ORDER BY `+order+` LIMIT :most OFFSET :offset)
		SELECT l.id, l.studio_id, l.song_id, l.name, l.target_tempo, l.created_at, l.archived_at, g.title AS song, COALESCE(q.grade, 0) AS grade, `+students+` AS students,
			(SELECT count(*) FROM assignments a WHERE a.studio_id = l.studio_id AND a.song_id = l.song_id AND a.lesson_id = l.id AND a.ended_at > 0) AS had
		FROM page p JOIN lessons l ON l.studio_id = :studio AND l.id = p.id JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id
		LEFT JOIN song_sums q ON q.studio_id = l.studio_id AND q.song_id = l.song_id ORDER BY `+order,
		args{"studio": studio, "find": f.Find, "tag": f.Tag, "song": f.Song, "archived": f.Archived, "most": limit(most), "offset": offset})
}

// CountArchivedLessons is how many lessons of a studio are put away.
func (s *Store) CountArchivedLessons(ctx context.Context, studio int64) (int, error) {
	return get[int](ctx, s.read, "SELECT count(*) FROM lessons WHERE studio_id = :studio AND deleted_at = 0 AND archived_at > 0", args{"studio": studio})
}

// LessonNames lists the lessons of a studio that are not put away by name, their numbers and names
// alone.
func (s *Store) LessonNames(ctx context.Context, studio int64) ([]Lesson, error) {
	return list[Lesson](ctx, s.read, `SELECT l.id, l.studio_id, l.name FROM lessons l JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id AND g.deleted_at = 0
		WHERE l.studio_id = :studio AND l.deleted_at = 0 AND l.archived_at = 0 ORDER BY l.name COLLATE NOCASE, l.id`, args{"studio": studio})
}

// LessonsOfSong lists the lessons that are made of a song.
func (s *Store) LessonsOfSong(ctx context.Context, studio, song int64) ([]Lesson, error) {
	return s.lessons(ctx, lessonColumns+" AND l.song_id = :song ORDER BY l.id", args{"studio": studio, "song": song})
}

// Lesson reads one lesson.
func (s *Store) Lesson(ctx context.Context, studio, id int64) (Lesson, error) {
	l, err := s.lessons(ctx, lessonColumns+" AND l.id = :id", args{"studio": studio, "id": id})
	if err == nil && len(l) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Lesson{}, err
	}
	return l[0], nil
}

func (s *Store) lessons(ctx context.Context, query string, a args) ([]Lesson, error) {
	lessons, err := list[Lesson](ctx, s.read, query, a)
	if err != nil {
		return nil, err
	}
	parts, err := partsOf(ctx, s.read, "lesson", a)
	for i := range lessons {
		lessons[i].Parts = parts[lessons[i].ID]
	}
	return lessons, err
}

// partsQueries read the parts of lessons and assignments.
var partsQueries = map[string]string{
	"lesson": `SELECT p.lesson_id AS owner, p.part_id, p.part, p.rung, p.player, COALESCE(NULLIF(p.own, ''), w.way, '') AS way, p.own, 0.0 AS target FROM lesson_parts p
		JOIN lessons o ON o.studio_id = p.studio_id AND o.id = p.lesson_id
		LEFT JOIN ways w ON w.studio_id = p.studio_id AND w.song_id = o.song_id AND w.part_id = p.part_id AND w.player = p.player AND w.rung = p.rung
		WHERE p.studio_id = :studio`,
	"assignment": `SELECT p.assignment_id AS owner, p.part_id, p.part, p.rung, p.player, p.way, p.target FROM assignment_parts p
		JOIN assignments o ON o.studio_id = p.studio_id AND o.id = p.assignment_id WHERE p.studio_id = :studio`,
}

// partsOf reads the parts of all lessons or assignments of a studio, by the
// id of what they belong to; with an id, a song, a lesson or students among the arguments
// those of these alone.
func partsOf(ctx context.Context, q querier, of string, a args) (map[int64][]Part, error) {
	query := partsQueries[of]
	for _, of := range [][2]string{{"id", " AND o.id = :id"}, {"song", " AND o.song_id = :song"}, {"lesson", " AND o.lesson_id = :lesson"},
		{"student", " AND o.student_id = :student"}, {"students", " AND o.student_id" + among}} {
		if _, given := a[of[0]]; given {
			query += of[1]
		}
	}
	rows, err := list[struct {
		Owner int64
		Part
	}](ctx, q, query+" ORDER BY p."+of+"_id, p.position", a)
	parts := map[int64][]Part{}
	for _, r := range rows {
		parts[r.Owner] = append(parts[r.Owner], r.Part)
	}
	return parts, err
}

// setParts replaces the parts of a lesson or an assignment.
func setParts(ctx context.Context, tx *sqlx.Tx, of string, studio, id int64, parts []Part) error {
	a := args{"studio": studio, "id": id}
	if _, err := sqlx.NamedExecContext(ctx, tx, "DELETE FROM "+of+"_parts WHERE studio_id = :studio AND "+of+"_id = :id", a); err != nil {
		return err
	}
	way, value := "", ""
	if of == "assignment" {
		way, value = ", way, target", ", :way, :target"
	}
	if of == "lesson" {
		way, value = ", own", ", :own"
	}
	for i, p := range parts {
		a["position"], a["part_id"], a["part"], a["rung"], a["player"], a["way"], a["own"], a["target"] = i, p.PartID, p.Part, p.Rung, p.Player, p.Way, p.Own, p.Target
		_, err := insert(ctx, tx, "INSERT INTO "+of+"_parts (studio_id, "+of+"_id, position, part_id, part, rung, player"+way+") VALUES (:studio, :id, :position, :part_id, :part, :rung, :player"+value+")", a)
		if err != nil {
			return err
		}
	}
	return nil
}

// AddLesson adds a lesson to the studio that l names.
func (s *Store) AddLesson(ctx context.Context, l Lesson) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		id, err = insert(ctx, tx, `INSERT INTO lessons (studio_id, song_id, name, target_tempo, plan, created_at)
			VALUES (:studio, :song, :name, :tempo, :plan, :now)`,
			args{"studio": l.StudioID, "song": l.SongID, "name": l.Name, "tempo": l.TargetTempo, "plan": l.Plan, "now": l.CreatedAt})
		if err != nil {
			return err
		}
		return setParts(ctx, tx, "lesson", l.StudioID, id, l.Parts)
	})
	return id, err
}

// SetLesson changes a lesson's name, tempo and rungs.
func (s *Store) SetLesson(ctx context.Context, l Lesson) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, "UPDATE lessons SET name = :name, target_tempo = :tempo WHERE studio_id = :studio AND id = :id AND deleted_at = 0",
			args{"studio": l.StudioID, "id": l.ID, "name": l.Name, "tempo": l.TargetTempo})
		if err != nil {
			return err
		}
		return setParts(ctx, tx, "lesson", l.StudioID, l.ID, l.Parts)
	})
}

// SetPlan keeps what was changed in the steps of a lesson.
func (s *Store) SetPlan(ctx context.Context, studio, lesson int64, plan string) error {
	return s.change(ctx, "UPDATE lessons SET plan = :plan WHERE studio_id = :studio AND id = :id AND deleted_at = 0",
		args{"studio": studio, "id": lesson, "plan": plan})
}

// DeleteLesson hides a lesson. What was assigned of it stays assigned.
func (s *Store) DeleteLesson(ctx context.Context, studio, id int64, now Instant) error {
	return s.setDeleted(ctx, "lessons", studio, id, now)
}

// Give puts a lesson into a student's hands as it is: a has the version of the song, the
// parts with their ways and targets, the plan. A student who has it already gets it brought
// up to date, and keeps what was practised.
func (s *Store) Give(ctx context.Context, a Assignment) (id int64, err error) {
	with := args{"studio": a.StudioID, "student": a.StudentID, "lesson": a.LessonID, "song": a.SongID, "version": a.SongSave,
		"name": a.Name, "tempo": a.TargetTempo, "plan": a.Plan, "now": a.AssignedAt}
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		there, err := get[int](ctx, tx, `SELECT EXISTS (SELECT 1 FROM students WHERE studio_id = :studio AND id = :student AND deleted_at = 0)
			AND EXISTS (SELECT 1 FROM lessons WHERE studio_id = :studio AND id = :lesson AND song_id = :song AND deleted_at = 0)`, with)
		if err != nil || there == 0 {
			return cmp.Or(err, ErrNotFound)
		}
		id, err = get[int64](ctx, tx, `SELECT id FROM assignments
			WHERE studio_id = :studio AND student_id = :student AND lesson_id = :lesson AND ended_at = 0`, with)
		switch {
		case err == nil:
			with["id"] = id
			err = change(ctx, tx, `UPDATE assignments SET song_version = :version, name = :name, target_tempo = :tempo, plan = :plan
				WHERE studio_id = :studio AND id = :id`, with)
		case err == ErrNotFound:
			id, err = insert(ctx, tx, `INSERT INTO assignments
				(studio_id, student_id, lesson_id, song_id, song_version, name, target_tempo, plan, assigned_at)
				VALUES (:studio, :student, :lesson, :song, :version, :name, :tempo, :plan, :now)`, with)
		}
		if err != nil {
			return err
		}
		if err := setParts(ctx, tx, "assignment", a.StudioID, id, a.Parts); err != nil {
			return err
		}
		if err := run(ctx, tx, "UPDATE assignment_sums SET stale = 1 WHERE studio_id = :studio AND assignment_id = :id", args{"studio": a.StudioID, "id": id}); err != nil {
			return err
		}
		return standAgain(ctx, tx, a.StudioID, id)
	})
	return id, err
}

// assigned are assignments with the versions of their songs, of students that are there.
const assigned = ` FROM assignments a
	JOIN song_versions v ON v.song_id = a.song_id AND v.version = a.song_version AND v.studio_id = a.studio_id
	JOIN songs g ON g.id = a.song_id AND g.studio_id = a.studio_id
	JOIN students t ON t.id = a.student_id AND t.studio_id = a.studio_id AND t.deleted_at = 0
	WHERE a.studio_id = :studio`

const assignmentColumns = "SELECT a.*, v.sheet, g.version AS latest" + assigned

// EverAssigned lists what a student has been assigned, what has ended as well, the newest
// first.
func (s *Store) EverAssigned(ctx context.Context, studio, student int64) ([]Assignment, error) {
	return s.assignments(ctx, s.read, assignmentColumns+" AND a.student_id = :student ORDER BY a.ended_at = 0 DESC, a.assigned_at DESC, a.id DESC",
		args{"studio": studio, "student": student})
}

// AssignmentsOf lists what some students have been assigned, the newest first.
func (s *Store) AssignmentsOf(ctx context.Context, studio int64, students ...int64) ([]Assignment, error) {
	return s.assignments(ctx, s.read, assignmentColumns+" AND a.student_id"+among+" AND a.ended_at = 0 ORDER BY a.assigned_at DESC, a.id DESC",
		args{"studio": studio, "students": numbersOf(students)})
}

// ListedAssignments lists what some students have been assigned, the newest first, without
// sheets and plans.
func (s *Store) ListedAssignments(ctx context.Context, studio int64, students ...int64) ([]Assignment, error) {
	return s.assignments(ctx, s.read, `SELECT a.id, a.studio_id, a.student_id, a.lesson_id, a.song_id, a.song_version, a.name, a.target_tempo, a.assigned_at,
		a.ended_at, '' AS plan, '' AS sheet, g.version AS latest`+assigned+" AND a.student_id"+among+" AND a.ended_at = 0 ORDER BY a.assigned_at DESC, a.id DESC",
		args{"studio": studio, "students": numbersOf(students)})
}

// AssignmentsOfLesson lists to whom a lesson is assigned, the newest first, without the
// sheets.
func (s *Store) AssignmentsOfLesson(ctx context.Context, studio, lesson int64) ([]Assignment, error) {
	return s.assignments(ctx, s.read, "SELECT a.*, '' AS sheet, g.version AS latest"+assigned+" AND a.lesson_id = :lesson AND a.ended_at = 0 ORDER BY a.assigned_at DESC, a.id DESC",
		args{"studio": studio, "lesson": lesson})
}

// OwnersOf lists the students who have some assignments.
func (s *Store) OwnersOf(ctx context.Context, studio int64, assignments ...int64) ([]int64, error) {
	return list[int64](ctx, s.read, `SELECT DISTINCT student_id FROM assignments WHERE studio_id = :studio AND ended_at = 0
		AND id IN (SELECT value FROM json_each(:ids))`, args{"studio": studio, "ids": numbersOf(assignments)})
}

// Assignment reads one assignment of a student.
func (s *Store) Assignment(ctx context.Context, studio, student, id int64) (Assignment, error) {
	found, err := s.assignments(ctx, s.read, assignmentColumns+" AND a.student_id = :student AND a.id = :id",
		args{"studio": studio, "student": student, "id": id})
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Assignment{}, err
	}
	return found[0], nil
}

func (s *Store) assignments(ctx context.Context, q querier, query string, a args) ([]Assignment, error) {
	found, err := list[Assignment](ctx, q, query, a)
	if err != nil {
		return nil, err
	}
	parts, err := partsOf(ctx, q, "assignment", a)
	for i := range found {
		found[i].Parts = parts[found[i].ID]
	}
	return found, err
}

// EndAssignment takes a lesson from a student; what was practised stays. With
// 0 it gives it back.
func (s *Store) EndAssignment(ctx context.Context, studio, student, id int64, at Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, "UPDATE assignments SET ended_at = :at WHERE studio_id = :studio AND student_id = :student AND id = :id",
			args{"studio": studio, "student": student, "id": id, "at": at})
		if err != nil || at != 0 {
			return err
		}
		return standAgain(ctx, tx, studio, id) // the song may have been practised meanwhile
	})
}
