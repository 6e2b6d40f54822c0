package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Rows of programs that knew parts and steps by words are brought up to date song by song,
// each in one go: what the words meant is the caller's to say.

// OldSong is a song whose parts are known by their names, with all that names them.
type OldSong struct {
	Song        Song
	Saves       []Save       // the oldest first
	Known       [][]SongPart // of each version what its parts are known by, where they are known already
	Ways        []OldWay
	Lessons     []Lesson // with their parts and plans
	Assignments []Assignment
	Practised   []OldPractice
}

// OldWay is a way that names its part.
type OldWay struct {
	Part string
	Rung arrange.Rung
	Way  string
}

// OldPractice is what entries of an assignment name, each once.
type OldPractice struct {
	AssignmentID int64 `db:"assignment_id"`
	Part, Step   string
}

// Upgraded is what an old song is now: lessons and assignments in their order.
type Upgraded struct {
	NextPart    song.PartID
	Parts       [][]SongPart // of each version
	Ways        []Way
	Lessons     []Lesson
	Assignments []Assignment
	Practised   []Practised // in their order
}

// Practised is what entries are of.
type Practised struct {
	PartID song.PartID // −1 where nobody knows
	Step   string
	Some   bool
}

// OldSongs lists the songs that are to be brought up to date, of a studio or with 0 of all.
func (s *Store) OldSongs(ctx context.Context, studio int64) ([]Owner, error) {
	return list[Owner](ctx, s.read, `SELECT studio_id, id, 0 AS student_id FROM songs s WHERE (:studio = 0 OR studio_id = :studio) AND (next_part = 0
		OR EXISTS (SELECT 1 FROM lessons l JOIN lesson_parts p ON p.lesson_id = l.id AND p.part_id = 0 WHERE l.song_id = s.id)
		OR EXISTS (SELECT 1 FROM assignments a JOIN assignment_parts p ON p.assignment_id = a.id AND p.part_id = 0 WHERE a.song_id = s.id)
		OR EXISTS (SELECT 1 FROM old_ways w WHERE w.song_id = s.id)) ORDER BY id`, args{"studio": studio})
}

// UpgradeSong brings a song up to date with all that belongs to it.
func (s *Store) UpgradeSong(ctx context.Context, studio, id int64, what func(*OldSong) Upgraded) error {
	err := s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "song": id}
		var old OldSong
		var err error
		if old.Song, err = get[Song](ctx, tx, songColumns+" WHERE s.studio_id = :studio AND s.id = :song", a); err != nil {
			return err
		}
		a["next"] = old.Song.NextPart
		if old.Saves, err = list[Save](ctx, tx, "SELECT version, sheet, saved_at FROM song_versions WHERE studio_id = :studio AND song_id = :song ORDER BY version", a); err != nil {
			return err
		}
		for i := 0; old.Song.NextPart != 0 && i < len(old.Saves); i++ {
			known, err := list[SongPart](ctx, tx, songPartColumns, args{"studio": studio, "song": id, "version": old.Saves[i].No})
			if err != nil {
				return err
			}
			old.Known = append(old.Known, known)
		}
		if old.Ways, err = list[OldWay](ctx, tx, "SELECT part, rung, way FROM old_ways WHERE studio_id = :studio AND song_id = :song ORDER BY part, rung", a); err != nil {
			return err
		}
		if old.Lessons, err = list[Lesson](ctx, tx, `SELECT *, 0 AS students FROM lessons l WHERE studio_id = :studio AND song_id = :song
			AND (:next = 0 OR EXISTS (SELECT 1 FROM lesson_parts p WHERE p.lesson_id = l.id AND p.part_id = 0)) ORDER BY id`, a); err != nil {
			return err
		}
		if old.Assignments, err = list[Assignment](ctx, tx, `SELECT *, '' AS sheet, 0 AS latest FROM assignments a WHERE studio_id = :studio AND song_id = :song
			AND (:next = 0 OR EXISTS (SELECT 1 FROM assignment_parts p WHERE p.assignment_id = a.id AND p.part_id = 0)) ORDER BY id`, a); err != nil {
			return err
		}
		lessons, err := partsOf(ctx, tx, "lesson", a)
		if err != nil {
			return err
		}
		given, err := partsOf(ctx, tx, "assignment", a)
		if err != nil {
			return err
		}
		for i := range old.Lessons {
			old.Lessons[i].Parts = lessons[old.Lessons[i].ID]
		}
		for i := range old.Assignments {
			old.Assignments[i].Parts = given[old.Assignments[i].ID]
		}
		old.Practised, err = list[OldPractice](ctx, tx, `SELECT DISTINCT e.assignment_id, e.part, e.step FROM assignments a
			CROSS JOIN entries e ON e.studio_id = a.studio_id AND e.assignment_id = a.id AND e.part_id = 0
			WHERE a.studio_id = :studio AND a.song_id = :song ORDER BY e.assignment_id, e.part, e.step`, a)
		if err != nil {
			return err
		}
		return upgrade(ctx, tx, &old, what(&old))
	})
	if err != nil {
		return fmt.Errorf("bring song %d up to date: %w", id, err)
	}
	return nil
}

func upgrade(ctx context.Context, tx *sqlx.Tx, old *OldSong, now Upgraded) error {
	studio, id := old.Song.StudioID, old.Song.ID
	a := args{"studio": studio, "song": id, "next": max(now.NextPart, old.Song.NextPart, 1)}
	for i, v := range old.Saves {
		if old.Known != nil {
			break
		}
		if err := setSongParts(ctx, tx, studio, id, v.No, now.Parts[i]); err != nil {
			return err
		}
	}
	for _, w := range now.Ways {
		if err := run(ctx, tx, "INSERT OR REPLACE INTO ways (studio_id, song_id, part_id, rung, way) VALUES (:studio, :song, :part, :rung, :way)",
			args{"studio": studio, "song": id, "part": w.PartID, "rung": w.Rung, "way": w.Way}); err != nil {
			return err
		}
	}
	if err := run(ctx, tx, "DELETE FROM old_ways WHERE studio_id = :studio AND song_id = :song", a); err != nil {
		return err
	}
	for _, l := range now.Lessons {
		if err := setParts(ctx, tx, "lesson", studio, l.ID, l.Parts); err != nil {
			return err
		}
		if err := run(ctx, tx, "UPDATE lessons SET plan = :plan WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": l.ID, "plan": l.Plan}); err != nil {
			return err
		}
	}
	for i, p := range now.Practised {
		was := old.Practised[i]
		if err := run(ctx, tx, `UPDATE entries SET part_id = :part, step = :step, some = :some
			WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = 0 AND part = :was AND step = :words`,
			args{"studio": studio, "assignment": was.AssignmentID, "was": was.Part, "words": was.Step, "part": p.PartID, "step": p.Step, "some": p.Some}); err != nil {
			return err
		}
	}
	for _, g := range now.Assignments {
		if err := setParts(ctx, tx, "assignment", studio, g.ID, g.Parts); err != nil {
			return err
		}
		if err := run(ctx, tx, "UPDATE assignments SET plan = :plan WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": g.ID, "plan": g.Plan}); err != nil {
			return err
		}
		if err := standAgain(ctx, tx, studio, g.ID); err != nil {
			return err
		}
	}
	return run(ctx, tx, "UPDATE songs SET next_part = :next WHERE studio_id = :studio AND id = :song", a)
}
