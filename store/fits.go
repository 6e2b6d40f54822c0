package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"fmt"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Names is a list of words that is kept as JSON.
type Names []string

// Value writes them.
func (n Names) Value() (driver.Value, error) {
	b, err := json.Marshal(append([]string{}, n...))
	return string(b), err
}

// Scan reads what Value writes.
func (n *Names) Scan(kept any) error {
	text, ok := kept.(string)
	if !ok {
		return fmt.Errorf("%v is no list of names", kept)
	}
	return json.Unmarshal([]byte(text), n)
}

// SongFit is how far away a song is for a student.
type SongFit struct {
	StudioID  int64 `db:"studio_id"`
	StudentID int64 `db:"student_id"`
	SongID    int64 `db:"song_id"`
	Stale     bool
	Ready     string       // as skill.Ready; empty until it is worked out
	Rung      arrange.Rung // on which it is that
	Missing   Names        // what is to be learnt, what comes first at the beginning
	FirstKind string       `db:"first_kind"` // of that, as skill.Kind
}

// staleFits has the fits of a studio worked out again: of one student or with 0 of all, of one song
// or with 0 of all.
func staleFits(ctx context.Context, q querier, studio, student, song int64) error {
	return run(ctx, q, `INSERT INTO song_fits (studio_id, student_id, song_id, stale, ready, rung, missing)
		SELECT s.studio_id, t.id, s.id, 1, '', '', '[]' FROM songs s JOIN students t ON t.studio_id = s.studio_id AND t.deleted_at = 0 AND t.archived_at = 0
		WHERE s.studio_id = :studio AND s.deleted_at = 0 AND s.archived_at = 0 AND (:student = 0 OR t.id = :student) AND (:song = 0 OR s.id = :song)
		ON CONFLICT (student_id, song_id) DO UPDATE SET stale = 1`, args{"studio": studio, "student": student, "song": song})
}

// StaleFits lists the students of whom fits are to be worked out, of a studio or with 0 of all.
func (s *Store) StaleFits(ctx context.Context, studio int64) ([]Owner, error) {
	return list[Owner](ctx, s.read, `SELECT DISTINCT f.studio_id, f.student_id AS id, f.student_id FROM song_fits f
		JOIN students t ON t.studio_id = f.studio_id AND t.id = f.student_id AND t.deleted_at = 0
		WHERE f.stale = 1 AND (:studio = 0 OR f.studio_id = :studio)`, args{"studio": studio})
}

// SongNeeds is what a song asks for, as its sum has it.
type SongNeeds struct {
	SongID int64 `db:"song_id"`
	Needs  string
}

// UnfitSongs lists the songs that are to be fitted to a student, with what they ask for; those of
// which that is not known yet are left out.
func (s *Store) UnfitSongs(ctx context.Context, studio, student int64) ([]SongNeeds, error) {
	return list[SongNeeds](ctx, s.read, `SELECT f.song_id, q.needs FROM song_fits f JOIN song_sums q ON q.studio_id = f.studio_id AND q.song_id = f.song_id AND q.needs <> ''
		WHERE f.studio_id = :studio AND f.student_id = :student AND f.stale = 1`, args{"studio": studio, "student": student})
}

// LearntPart is a part that a student has learnt, with what its song asks for.
type LearntPart struct {
	SongNeeds
	PartID song.PartID `db:"part_id"`
	Rung   arrange.Rung
}

// LearntParts lists what a student has learnt, in whatever lesson.
func (s *Store) LearntParts(ctx context.Context, studio, student int64) ([]LearntPart, error) {
	return list[LearntPart](ctx, s.read, `SELECT DISTINCT a.song_id, d.part_id, d.rung, q.needs FROM assignments a
		JOIN standings d ON d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = '' AND d.learnt > 0
		JOIN song_sums q ON q.studio_id = a.studio_id AND q.song_id = a.song_id AND q.needs <> ''
		WHERE a.studio_id = :studio AND a.student_id = :student`, args{"studio": studio, "student": student})
}

// SetFits keeps how far away songs are for a student.
func (s *Store) SetFits(ctx context.Context, studio, student int64, fits []SongFit) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		for _, f := range fits {
			err := run(ctx, tx, "UPDATE song_fits SET stale = 0, ready = :ready, rung = :rung, missing = :missing, first_kind = :kind WHERE studio_id = :studio AND student_id = :student AND song_id = :song",
				args{"studio": studio, "student": student, "song": f.SongID, "ready": f.Ready, "rung": f.Rung, "missing": f.Missing, "kind": f.FirstKind})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// ListedFit is a fit with what a list shows of its song.
type ListedFit struct {
	SongFit
	Title string
	Grade float64
	Given bool // the student has it
}

// FitsOf lists the songs of a studio that are so far away for a student, those first that are it as
// they are meant, from easy to hard, at most
// so many from the offset on.
func (s *Store) FitsOf(ctx context.Context, studio, student int64, ready string, most, offset int) ([]ListedFit, error) {
	return list[ListedFit](ctx, s.read, `SELECT f.*, g.title, COALESCE(q.grade, 0) AS grade,
			EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = f.studio_id AND a.student_id = f.student_id AND a.song_id = f.song_id AND a.ended_at = 0) AS given
		FROM song_fits f JOIN songs g ON g.studio_id = f.studio_id AND g.id = f.song_id AND g.deleted_at = 0
		LEFT JOIN song_sums q ON q.studio_id = f.studio_id AND q.song_id = f.song_id
		WHERE f.studio_id = :studio AND f.student_id = :student AND f.ready = :ready AND g.archived_at = 0 ORDER BY f.rung IN ('two-note', 'one-finger'), grade, g.title COLLATE NOCASE, g.id LIMIT :most OFFSET :offset`,
		args{"studio": studio, "student": student, "ready": ready, "most": most, "offset": offset})
}

// FitCount is how many songs are so far away for a student.
type FitCount struct {
	Ready string
	N     int
	Stale int // that are being worked out
}

// CountFits counts the songs of a student by how far away they are.
func (s *Store) CountFits(ctx context.Context, studio, student int64) ([]FitCount, error) {
	return list[FitCount](ctx, s.read, `SELECT f.ready, count(*) AS n, sum(f.stale) AS stale FROM song_fits f JOIN songs g ON g.studio_id = f.studio_id AND g.id = f.song_id AND g.deleted_at = 0 AND g.archived_at = 0
		WHERE f.studio_id = :studio AND f.student_id = :student GROUP BY f.ready`, args{"studio": studio, "student": student})
}

// FitOf is how far away a song is for a student.
func (s *Store) FitOf(ctx context.Context, studio, student, song int64) (SongFit, error) {
	return get[SongFit](ctx, s.read, "SELECT * FROM song_fits WHERE studio_id = :studio AND student_id = :student AND song_id = :song AND ready <> ''",
		args{"studio": studio, "student": student, "song": song})
}

// FitsOfSong lists how far away a song is for some students.
func (s *Store) FitsOfSong(ctx context.Context, studio, song int64) ([]SongFit, error) {
	return list[SongFit](ctx, s.read, "SELECT * FROM song_fits WHERE studio_id = :studio AND song_id = :song AND ready <> ''", args{"studio": studio, "song": song})
}
