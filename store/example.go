package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// First is what a new studio has, examples not counted.
type First struct {
	Songs, Lessons, Students, Assigned, Links bool
	Examples                                  bool // there are songs or students that are examples
	Anybody                                   bool // there are students, examples or not
}

// Done tells whether the first lesson is in a student's hands.
func (f First) Done() bool { return f.Songs && f.Lessons && f.Assigned && f.Links }

// FirstSteps reads how far a studio is.
func (s *Store) FirstSteps(ctx context.Context, studio int64) (First, error) {
	return get[First](ctx, s.read, `SELECT
		EXISTS (SELECT 1 FROM songs WHERE studio_id = :studio AND deleted_at = 0 AND example = 0) AS songs,
		EXISTS (SELECT 1 FROM lessons l JOIN songs g ON g.id = l.song_id AND g.example = 0 WHERE l.studio_id = :studio AND l.deleted_at = 0) AS lessons,
		EXISTS (SELECT 1 FROM students WHERE studio_id = :studio AND deleted_at = 0 AND example = 0) AS students,
		EXISTS (SELECT 1 FROM assignments a JOIN students t ON t.id = a.student_id AND t.example = 0 AND t.deleted_at = 0 WHERE a.studio_id = :studio) AS assigned,
		EXISTS (SELECT 1 FROM links l JOIN students t ON t.id = l.student_id AND t.example = 0 WHERE l.studio_id = :studio) AS links,
		EXISTS (SELECT 1 FROM songs WHERE studio_id = :studio AND deleted_at = 0 AND example = 1)
			OR EXISTS (SELECT 1 FROM students WHERE studio_id = :studio AND deleted_at = 0 AND example = 1) AS examples,
		EXISTS (SELECT 1 FROM students WHERE studio_id = :studio AND deleted_at = 0) AS anybody`, args{"studio": studio})
}

// MarkExample marks a song and a student as examples.
func (s *Store) MarkExample(ctx context.Context, studio, song, student int64) error {
	a := args{"studio": studio, "song": song, "student": student}
	return s.in(ctx, func(tx *sqlx.Tx) error {
		if err := change(ctx, tx, "UPDATE songs SET example = 1 WHERE studio_id = :studio AND id = :song", a); err != nil {
			return err
		}
		return change(ctx, tx, "UPDATE students SET example = 1 WHERE studio_id = :studio AND id = :student", a)
	})
}

// RemoveExamples takes the examples out: students for good, songs too unless
// somebody who is no example has been given one, who keeps it.
func (s *Store) RemoveExamples(ctx context.Context, studio int64, now Instant) error {
	a := args{"studio": studio, "now": now}
	return s.in(ctx, func(tx *sqlx.Tx) error {
		for _, query := range []string{
			"DELETE FROM students WHERE studio_id = :studio AND example = 1",
			"UPDATE songs SET deleted_at = :now WHERE studio_id = :studio AND example = 1 AND EXISTS (SELECT 1 FROM assignments a WHERE a.song_id = songs.id)",
			"DELETE FROM songs WHERE studio_id = :studio AND example = 1 AND deleted_at = 0",
		} {
			if _, err := sqlx.NamedExecContext(ctx, tx, query, a); err != nil {
				return err
			}
		}
		return nil
	})
}
