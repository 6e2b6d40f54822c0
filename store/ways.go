package store

import (
	"context"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Way is how a version of a part of a song is to be made, in the words of
// arrange.Way.
type Way struct {
	StudioID int64        `db:"studio_id" json:"-"`
	SongID   int64        `db:"song_id" json:"song_id"`
	PartID   song.PartID  `db:"part_id" json:"part_id"`
	Player   string       `json:"player,omitempty"` // whose line it is; empty is the first one's
	Rung     arrange.Rung `json:"rung"`
	Way      string       `json:"way"`
	LessonID int64        `db:"lesson_id" json:"-"` // for whose student alone it holds; 0 is everybody
}

const waysColumns = "SELECT *, 0 AS lesson_id FROM ways WHERE studio_id = :studio AND song_id = :song ORDER BY part_id, player, rung"

// ownWaysColumns are the ways that hold for one lesson alone.
const ownWaysColumns = `SELECT p.studio_id, l.song_id, p.part_id, p.player, p.rung, p.own AS way, p.lesson_id FROM lesson_parts p
	JOIN lessons l ON l.studio_id = p.studio_id AND l.id = p.lesson_id
	WHERE p.studio_id = :studio AND l.song_id = :song AND p.own <> '' ORDER BY p.lesson_id, p.position`

// WaysOf lists the ways of a song.
func (s *Store) WaysOf(ctx context.Context, studio, song int64) ([]Way, error) {
	return list[Way](ctx, s.read, waysColumns, args{"studio": studio, "song": song})
}

// ChangeWay changes how a version is made: how is given the way as it is,
// and what it returns is kept. An empty way leaves everything to the program.
func (s *Store) ChangeWay(ctx context.Context, studio, of int64, part song.PartID, player string, rung arrange.Rung, how func(way string) (string, error)) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "song": of, "part": part, "player": player, "rung": rung}
		if _, err := get[int](ctx, tx, "SELECT 1 FROM songs WHERE studio_id = :studio AND id = :song AND deleted_at = 0", a); err != nil {
			return err
		}
		way, err := get[string](ctx, tx, "SELECT way FROM ways WHERE studio_id = :studio AND song_id = :song AND part_id = :part AND player = :player AND rung = :rung", a)
		if err != nil && err != ErrNotFound {
			return err
		}
		if way, err = how(way); err != nil {
			return err
		}
		a["way"] = way
		if way == "" {
			return run(ctx, tx, "DELETE FROM ways WHERE studio_id = :studio AND song_id = :song AND part_id = :part AND player = :player AND rung = :rung", a)
		}
		return run(ctx, tx, `INSERT INTO ways (studio_id, song_id, part_id, player, rung, way) VALUES (:studio, :song, :part, :player, :rung, :way)
			ON CONFLICT (song_id, part_id, player, rung) DO UPDATE SET way = excluded.way WHERE studio_id = excluded.studio_id`, a)
	})
}
