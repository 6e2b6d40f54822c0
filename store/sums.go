package store

import (
	"context"
	"strings"

	"github.com/jmoiron/sqlx"

	"valleyside/core/song"
)

// What is worked out of songs and of what is assigned stands beside them, so that no list
// works anything out. A sum is stale once something that it is made of has changed; what it
// says is shown until it is made again.

// SongSum is what lists show of a song.
type SongSum struct {
	StudioID int64 `db:"studio_id"`
	SongID   int64 `db:"song_id"`
	Stale    bool
	Rules    int // of the program that made it
	Grade    float64
	Problems int
	Facts    string // JSON, as its maker has them
	Hill     string
	Trouble  string      // why it could not be worked out; empty where it could
	Needs    string      // JSON, what it asks of a player on each of its rungs
	Skills   []SongSkill `db:"-"` // what it shares with other songs
}

// AssignmentSum is what lists show of what is assigned.
type AssignmentSum struct {
	StudioID     int64 `db:"studio_id"`
	AssignmentID int64 `db:"assignment_id"`
	Stale        bool
	Rules        int
	Facts        string
	Grades       Reals // of its parts, in their order
	Hill         string
	Trouble      string
	Steps        []AssignmentStep `db:"-"`
}

// AssignmentStep is a step of what is assigned.
type AssignmentStep struct {
	StudioID     int64 `db:"studio_id"`
	AssignmentID int64 `db:"assignment_id"`
	Position     int
	Step         string      // as lesson.StepID is written
	PartID       song.PartID `db:"part_id"` // 0 is none
	Title        string
	Start        float64
	Goal         float64
	Passes       int
	Minutes      int
	Day          int
}

// ListedSong is a song without its sheet, and its sum; one that has none yet is stale.
type ListedSong struct {
	Song
	Grade    float64
	Problems int
	Facts    string
	Hill     string
	Trouble  string
	Stale    bool
	Students int // who have it
}

// SongFilter is which songs are listed, and in which order. What is empty holds for all.
type SongFilter struct {
	Find     string // words in the title
	Key      string // as it is called
	Tuning   string
	Tag      string
	Skill    string  // its kind and its key, divided by a space
	Low, Top float64 // grades as written; a Top of 0 is none
	Archived bool    // those that are put away, in place of those that are not
	Order    SongOrder
}

// SongOrder is an order of songs.
type SongOrder string

// The orders: by title, the easiest first, the latest change first, who have it most first.
const (
	ByTitle    SongOrder = "title"
	ByGrade    SongOrder = "grade"
	ByChange   SongOrder = "change"
	ByStudents SongOrder = "students"
)

// ListedSongs lists songs of a studio, as many from the offset on as are asked for; 0 is all.
func (s *Store) ListedSongs(ctx context.Context, studio int64, f SongFilter, most, offset int) ([]ListedSong, error) {
	skill, key, _ := strings.Cut(f.Skill, " ")
	where := ""
	for _, only := range []struct {
		given bool
		where string
	}{
		{f.Find != "", " AND instr(folded(s.title), folded(:find)) > 0"},
		{f.Key != "", " AND q.song_key = :key"},
		{f.Tuning != "", " AND q.tuning = :tuning"},
		{f.Low > 0 || f.Top > 0, " AND q.grade >= :low AND (:top = 0 OR q.grade < :top)"},
		{f.Tag != "", " AND EXISTS (SELECT 1 FROM tags g WHERE g.studio_id = s.studio_id AND g.kind = 'song' AND g.of_id = s.id AND g.tag = :tag)"},
		{f.Skill != "", " AND EXISTS (SELECT 1 FROM song_skills k WHERE k.studio_id = s.studio_id AND k.song_id = s.id AND k.kind = :skill AND k.key = :skill_key)"},
	} {
		if only.given {
			where += only.where
		}
	}
	// The rows of the page are chosen first: what is shown of a song is looked up for them alone.
	const students = "(SELECT count(*) FROM assignments a WHERE a.studio_id = s.studio_id AND a.song_id = s.id AND a.ended_at = 0)"
	order := map[SongOrder]string{ByTitle: "", ByGrade: "COALESCE(q.grade, 0), ", ByChange: "s.updated_at DESC, ", ByStudents: students + " DESC, "}[f.Order] + "s.title COLLATE NOCASE, s.id"
	return list[ListedSong](ctx, s.read, `WITH page AS (SELECT s.id FROM songs s LEFT JOIN song_sums q ON q.studio_id = s.studio_id AND q.song_id = s.id
			WHERE s.studio_id = :studio AND s.deleted_at = 0 AND (s.archived_at > 0) = :archived`+where+` ORDER BY `+order+` LIMIT :most OFFSET :offset)
		SELECT s.id, s.studio_id, s.title, s.version, s.next_part, s.example, s.updated_at, s.archived_at, '' AS sheet, `+students+` AS students,
			CASE WHEN s.draft IS NULL THEN NULL ELSE '' END AS draft,
			COALESCE(q.grade, 0) AS grade, COALESCE(q.problems, 0) AS problems, COALESCE(q.facts, '') AS facts, COALESCE(q.hill, '') AS hill,
			COALESCE(q.trouble, '') AS trouble, COALESCE(q.stale, 1) AS stale
		FROM page p JOIN songs s ON s.studio_id = :studio AND s.id = p.id LEFT JOIN song_sums q ON q.studio_id = s.studio_id AND q.song_id = s.id ORDER BY `+order,
		args{"studio": studio, "find": f.Find, "key": f.Key, "tuning": f.Tuning, "low": f.Low, "top": f.Top, "tag": f.Tag, "skill": skill, "skill_key": key,
			"archived": f.Archived, "most": limit(most), "offset": offset})
}

// Facets are what songs of a studio can be told apart by.
type Facets struct {
	Keys, Tunings []string
	Archived      int // songs that are put away
}

// SongFacets lists the keys and tunings of the songs of a studio, of those that are put away or
// deleted as well.
func (s *Store) SongFacets(ctx context.Context, studio int64) (f Facets, err error) {
	a := args{"studio": studio}
	if f.Keys, err = list[string](ctx, s.read, "SELECT DISTINCT song_key FROM song_sums WHERE studio_id = :studio AND song_key > '' ORDER BY song_key", a); err != nil {
		return f, err
	}
	if f.Tunings, err = list[string](ctx, s.read, "SELECT DISTINCT tuning FROM song_sums WHERE studio_id = :studio AND tuning > '' ORDER BY tuning", a); err != nil {
		return f, err
	}
	f.Archived, err = get[int](ctx, s.read, "SELECT count(*) FROM songs WHERE studio_id = :studio AND deleted_at = 0 AND archived_at > 0", a)
	return f, err
}

// CountSongs is how many songs a studio has.
func (s *Store) CountSongs(ctx context.Context, studio int64) (int, error) {
	return get[int](ctx, s.read, "SELECT count(*) FROM songs WHERE studio_id = :studio AND deleted_at = 0", args{"studio": studio})
}

// SetSongSum keeps the sum of a version of a song; of another version it is stale. Whom it fits is
// worked out again.
func (s *Store) SetSongSum(ctx context.Context, sum SongSum, version int) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		err := run(ctx, tx, `INSERT INTO song_sums (studio_id, song_id, stale, rules, grade, problems, facts, hill, trouble, needs)
			SELECT studio_id, id, version <> :version, :rules, :grade, :problems, :facts, :hill, :trouble, :needs FROM songs WHERE studio_id = :studio AND id = :song
			ON CONFLICT (song_id) DO UPDATE SET stale = excluded.stale, rules = excluded.rules, grade = excluded.grade, problems = excluded.problems,
				facts = excluded.facts, hill = excluded.hill, trouble = excluded.trouble, needs = excluded.needs`,
			args{"studio": sum.StudioID, "song": sum.SongID, "version": version, "rules": sum.Rules, "grade": sum.Grade, "problems": sum.Problems,
				"facts": sum.Facts, "hill": sum.Hill, "trouble": sum.Trouble, "needs": sum.Needs})
		if err != nil {
			return err
		}
		if err := setSkills(ctx, tx, sum.StudioID, sum.SongID, sum.Skills); err != nil {
			return err
		}
		return staleFits(ctx, tx, sum.StudioID, 0, sum.SongID)
	})
}

// Owner is something of a studio that is to be worked out.
type Owner struct {
	StudioID  int64 `db:"studio_id"`
	ID        int64
	StudentID int64 `db:"student_id"` // whose it is; 0 for a song
}

// StaleSongs lists songs whose sums are stale, missing or made by other rules: of a studio,
// or with 0 of all.
func (s *Store) StaleSongs(ctx context.Context, studio int64, rules, most int) ([]Owner, error) {
	return list[Owner](ctx, s.read, `SELECT s.studio_id, s.id, 0 AS student_id FROM songs s LEFT JOIN song_sums q ON q.song_id = s.id
		WHERE s.deleted_at = 0 AND (:studio = 0 OR s.studio_id = :studio) AND (q.song_id IS NULL OR q.stale = 1 OR q.rules <> :rules) LIMIT :most`,
		args{"studio": studio, "rules": rules, "most": limit(most)})
}

// StaleAssignments lists what is assigned, and not over, whose sum is stale, missing or made
// by other rules: of a studio, or with 0 of all.
func (s *Store) StaleAssignments(ctx context.Context, studio int64, rules, most int) ([]Owner, error) {
	return list[Owner](ctx, s.read, `SELECT a.studio_id, a.id, a.student_id FROM assignments a JOIN students t ON t.id = a.student_id AND t.deleted_at = 0
		LEFT JOIN assignment_sums q ON q.assignment_id = a.id
		WHERE a.ended_at = 0 AND (:studio = 0 OR a.studio_id = :studio) AND (q.assignment_id IS NULL OR q.stale = 1 OR q.rules <> :rules) LIMIT :most`,
		args{"studio": studio, "rules": rules, "most": limit(most)})
}

// Sums lists the sums of what is assigned in a studio, or to one student; without their
// steps. 0 is everybody.
func (s *Store) Sums(ctx context.Context, studio int64, students ...int64) (map[int64]AssignmentSum, error) {
	rows, err := list[AssignmentSum](ctx, s.read, `SELECT q.* FROM assignments a JOIN assignment_sums q ON q.studio_id = a.studio_id AND q.assignment_id = a.id
		WHERE a.studio_id = :studio AND a.student_id`+among, args{"studio": studio, "students": numbersOf(students)})
	sums := make(map[int64]AssignmentSum, len(rows))
	for _, r := range rows {
		sums[r.AssignmentID] = r
	}
	return sums, err
}

// StepsOf lists the steps of what is assigned to a student, by assignment, in their order.
func (s *Store) StepsOf(ctx context.Context, studio, student int64) (map[int64][]AssignmentStep, error) {
	rows, err := list[AssignmentStep](ctx, s.read, `SELECT q.* FROM assignments a JOIN assignment_steps q ON q.studio_id = a.studio_id AND q.assignment_id = a.id
		WHERE a.studio_id = :studio AND a.student_id = :student AND a.ended_at = 0 ORDER BY q.assignment_id, q.position`, args{"studio": studio, "student": student})
	steps := map[int64][]AssignmentStep{}
	for _, r := range rows {
		steps[r.AssignmentID] = append(steps[r.AssignmentID], r)
	}
	return steps, err
}

// MadeOf is what the sum of an assignment was made of, for which it holds.
type MadeOf struct {
	Assignment Assignment
	Student    Student
	School     string // of the studio's chords
}

// SetAssignmentSum keeps the sum of something that is assigned, with its steps. Where what
// it was made of has changed meanwhile, it is kept as stale.
func (s *Store) SetAssignmentSum(ctx context.Context, sum AssignmentSum, of MadeOf) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": sum.StudioID, "id": sum.AssignmentID, "student": of.Student.ID}
		now, err := s.assignments(ctx, tx, assignmentColumns+" AND a.id = :id", a)
		if err != nil || len(now) == 0 {
			return err // it is not there any more
		}
		student, err := get[Student](ctx, tx, studentColumns+" WHERE t.studio_id = :studio AND t.id = :student", a)
		if err != nil {
			return err
		}
		school, err := get[string](ctx, tx, "SELECT chord_school FROM studios WHERE id = :studio", a)
		if err != nil {
			return err
		}
		a["stale"] = !now[0].like(&of.Assignment) || student != of.Student || school != of.School
		a["rules"], a["facts"], a["grades"], a["hill"], a["trouble"] = sum.Rules, sum.Facts, sum.Grades, sum.Hill, sum.Trouble
		err = run(ctx, tx, `INSERT INTO assignment_sums (studio_id, assignment_id, stale, rules, facts, grades, hill, trouble)
			VALUES (:studio, :id, :stale, :rules, :facts, :grades, :hill, :trouble)
			ON CONFLICT (assignment_id) DO UPDATE SET stale = excluded.stale, rules = excluded.rules, facts = excluded.facts, grades = excluded.grades,
				hill = excluded.hill, trouble = excluded.trouble`, a)
		if err != nil {
			return err
		}
		if err := run(ctx, tx, "DELETE FROM assignment_steps WHERE studio_id = :studio AND assignment_id = :id", a); err != nil {
			return err
		}
		for i := range sum.Steps {
			step := sum.Steps[i]
			step.StudioID, step.AssignmentID, step.Position = sum.StudioID, sum.AssignmentID, i
			if _, err := sqlx.NamedExecContext(ctx, tx, `INSERT INTO assignment_steps
				(studio_id, assignment_id, position, step, part_id, title, start, goal, passes, minutes, day)
				VALUES (:studio_id, :assignment_id, :position, :step, :part_id, :title, :start, :goal, :passes, :minutes, :day)`, &step); err != nil {
				return err
			}
		}
		return nil
	})
}

// stale marks the sums of what is assigned in a studio, or to one student; for 0 those of
// its songs as well.
func stale(ctx context.Context, q querier, studio, student int64) error {
	if student == 0 {
		if err := run(ctx, q, "UPDATE song_sums SET stale = 1 WHERE studio_id = :studio", args{"studio": studio}); err != nil {
			return err
		}
	}
	return run(ctx, q, `UPDATE assignment_sums SET stale = 1 WHERE studio_id = :studio
		AND (:student = 0 OR assignment_id IN (SELECT id FROM assignments WHERE studio_id = :studio AND student_id = :student))`,
		args{"studio": studio, "student": student})
}

// SongSum reads the sum of a song; one that has none yet is stale.
func (s *Store) SongSum(ctx context.Context, studio, song int64) (SongSum, error) {
	sums, err := list[SongSum](ctx, s.read, "SELECT studio_id, song_id, stale, rules, grade, problems, facts, hill, trouble, needs FROM song_sums WHERE studio_id = :studio AND song_id = :song",
		args{"studio": studio, "song": song})
	if err != nil || len(sums) == 0 {
		return SongSum{StudioID: studio, SongID: song, Stale: true}, err
	}
	return sums[0], nil
}
