package store

import (
	"context"
	"slices"

	"github.com/jmoiron/sqlx"
)

// Binned is something that was deleted and can still be brought back.
type Binned struct {
	Kind      Tagged
	ID        int64
	Name      string
	DeletedAt Instant `db:"deleted_at"`
	Had       int     // students who have it, or have had it: it is not erased then
}

// Bin lists what was deleted in a studio within the last thirty days, the latest first.
func (s *Store) Bin(ctx context.Context, studio int64, now Instant) ([]Binned, error) {
	return list[Binned](ctx, s.read, `SELECT 'song' AS kind, id, title AS name, deleted_at, (SELECT count(DISTINCT a.student_id) FROM assignments a WHERE a.studio_id = songs.studio_id AND a.song_id = songs.id) AS had
			FROM songs WHERE studio_id = :studio AND deleted_at > :since
		UNION ALL SELECT 'lesson', id, name, deleted_at, (SELECT count(DISTINCT a.student_id) FROM assignments a WHERE a.studio_id = lessons.studio_id AND a.lesson_id = lessons.id)
			FROM lessons WHERE studio_id = :studio AND deleted_at > :since
		UNION ALL SELECT 'student', id, name, deleted_at, 0 FROM students WHERE studio_id = :studio AND deleted_at > :since
		ORDER BY deleted_at DESC, kind, id`, args{"studio": studio, "since": now - Instant(kept.Seconds())})
}

// Restore brings back something that was deleted, a lesson with its song.
func (s *Store) Restore(ctx context.Context, studio int64, kind Tagged, id int64) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		if err := setDeleted(ctx, tx, kind.table(), studio, id, 0); err != nil {
			return err
		}
		switch kind { // others may have come meanwhile
		case OnLesson:
			song, err := get[int64](ctx, tx, "SELECT song_id FROM lessons WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
			if err == nil {
				err = setDeleted(ctx, tx, OnSong.table(), studio, song, 0)
			}
			if err != nil {
				return err
			}
			return staleFits(ctx, tx, studio, 0, song)
		case OnSong:
			return staleFits(ctx, tx, studio, 0, id)
		case OnStudent:
			return staleFits(ctx, tx, studio, id, 0)
		}
		return nil
	})
}

// Erase removes for good something that was deleted: a song or a lesson where no student has had
// it, ErrChanged otherwise. Nothing of it is left in the file.
func (s *Store) Erase(ctx context.Context, studio int64, kind Tagged, id int64, now Instant) error {
	in, err := s.Bin(ctx, studio, now)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(in, func(b Binned) bool { return b.Kind == kind && b.ID == id })
	switch {
	case i < 0:
		return ErrNotFound
	case in[i].Had > 0:
		return ErrChanged
	case kind == OnStudent:
		return s.EraseStudent(ctx, studio, id)
	}
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, "DELETE FROM "+kind.table()+" WHERE studio_id = :studio AND id = :id AND deleted_at > 0", args{"studio": studio, "id": id})
		if err != nil {
			return err
		}
		return forgetAbout(ctx, tx)
	})
	if err != nil {
		return err
	}
	return s.emptyLog(ctx)
}
