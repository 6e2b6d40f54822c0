package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"

	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// A part of a song that is called something else now, or stands in several parts, is
// followed: lessons, ways and what was practised go on with it.

// renamed are the parts that a change of a song has given other names, and those that
// were cut into several: by the old name, the new ones.
func renamed(was, is string) map[string][]string {
	names := map[string][]string{}
	for _, c := range song.Changes(sheet.Parse(was).Song, sheet.Parse(is).Song) {
		if c.Fate == song.Renamed || c.Fate == song.Parted {
			names[c.Name] = c.Into
		}
	}
	return names
}

// first has only the first of the new names.
func first(names map[string][]string) map[string]string {
	one := make(map[string]string, len(names))
	for old, into := range names {
		one[old] = into[0]
	}
	return one
}

// follow brings the lessons and the ways of a song to the names that its parts have now.
func follow(ctx context.Context, tx *sqlx.Tx, studio, id int64, was, is string) error {
	names := renamed(was, is)
	if len(names) == 0 {
		return nil
	}
	a := args{"studio": studio, "song": id}
	for old, into := range names {
		a["old"], a["new"] = old, into[0]
		if _, err := sqlx.NamedExecContext(ctx, tx, "UPDATE OR REPLACE ways SET part = :new WHERE studio_id = :studio AND song_id = :song AND part = :old", a); err != nil {
			return err
		}
	}
	lessons, err := list[Lesson](ctx, tx, "SELECT *, 0 AS students FROM lessons WHERE studio_id = :studio AND song_id = :song", a)
	if err != nil {
		return err
	}
	for _, l := range lessons {
		parts, err := list[Part](ctx, tx, "SELECT part, rung, '' AS way, 0.0 AS target FROM lesson_parts WHERE studio_id = :studio AND lesson_id = :id ORDER BY position",
			args{"studio": studio, "id": l.ID})
		if err != nil {
			return err
		}
		if err := setParts(ctx, tx, "lesson", studio, l.ID, followed(parts, names)); err != nil {
			return err
		}
		plan, err := followPlan(l.Plan, first(names))
		if err != nil {
			return err
		}
		if err := change(ctx, tx, "UPDATE lessons SET plan = :plan WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": l.ID, "plan": plan}); err != nil {
			return err
		}
	}
	return nil
}

// followed are parts under the names that they have now; one that was cut is there with
// each of its pieces.
func followed(parts []Part, names map[string][]string) []Part {
	var list []Part
	for _, p := range parts {
		into, ok := names[p.Part]
		if !ok {
			list = append(list, p)
			continue
		}
		for _, name := range into {
			p.Part = name
			list = append(list, p)
		}
	}
	return list
}

func followPlan(text string, names map[string]string) (string, error) {
	if text == "" {
		return "", nil
	}
	var p lesson.Plan
	if json.Unmarshal([]byte(text), &p) != nil {
		return text, nil // not understood: it stays as it is
	}
	renamed, err := json.Marshal(p.Renamed(names))
	return string(renamed), err
}

// followPractice brings what was practised of an assignment to the names that the parts
// have in the song that it holds now.
func followPractice(ctx context.Context, tx *sqlx.Tx, studio, assignment int64, was, is string) error {
	names := first(renamed(was, is))
	if len(names) == 0 {
		return nil
	}
	a := args{"studio": studio, "assignment": assignment}
	steps, err := list[string](ctx, tx, "SELECT DISTINCT step FROM entries WHERE studio_id = :studio AND assignment_id = :assignment AND step <> ''", a)
	if err != nil {
		return err
	}
	for _, step := range steps {
		a["old"], a["new"] = step, lesson.RenamedKey(step, names)
		if _, err := sqlx.NamedExecContext(ctx, tx, "UPDATE entries SET step = :new WHERE studio_id = :studio AND assignment_id = :assignment AND step = :old", a); err != nil {
			return err
		}
	}
	// By way of names that no part has, so that two parts can change theirs for each other's.
	for _, pass := range []string{"UPDATE entries SET part = char(1) || :new WHERE studio_id = :studio AND assignment_id = :assignment AND part = :old",
		"UPDATE entries SET part = :new WHERE studio_id = :studio AND assignment_id = :assignment AND part = char(1) || :new"} {
		for old, to := range names {
			a["old"], a["new"] = old, to
			if _, err := sqlx.NamedExecContext(ctx, tx, pass, a); err != nil {
				return err
			}
		}
	}
	_, err = sqlx.NamedExecContext(ctx, tx, "DELETE FROM standings WHERE studio_id = :studio AND assignment_id = :assignment", a)
	return err
}
