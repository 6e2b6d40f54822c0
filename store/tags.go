package store

import (
	"cmp"
	"context"

	"github.com/jmoiron/sqlx"
)

// Tagged is what tags are put on.
type Tagged string

// What they are put on. Students with the same tag are a group.
const (
	OnSong    Tagged = "song"
	OnLesson  Tagged = "lesson"
	OnStudent Tagged = "student"
)

// table is where they are.
func (k Tagged) table() string { return string(k) + "s" }

// Tag is a tag and on what it is.
type Tag struct {
	StudioID int64  `db:"studio_id" json:"-"`
	Kind     Tagged `json:"kind"`
	OfID     int64  `db:"of_id" json:"of_id"`
	Tag      string `json:"tag"`
}

// SetTags puts tags on something in place of those that it has.
func (s *Store) SetTags(ctx context.Context, studio int64, kind Tagged, id int64, tags []string) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "kind": kind, "id": id}
		there, err := get[bool](ctx, tx, "SELECT EXISTS (SELECT 1 FROM "+kind.table()+" WHERE studio_id = :studio AND id = :id AND deleted_at = 0)", a)
		if err != nil || !there {
			return cmp.Or(err, ErrNotFound)
		}
		if err := run(ctx, tx, "DELETE FROM tags WHERE studio_id = :studio AND kind = :kind AND of_id = :id", a); err != nil {
			return err
		}
		for _, a["tag"] = range tags {
			if err := run(ctx, tx, "INSERT INTO tags (studio_id, kind, of_id, tag) VALUES (:studio, :kind, :id, :tag) ON CONFLICT DO NOTHING", a); err != nil {
				return err
			}
		}
		return nil
	})
}

// TagsOf lists the tags of some things of a kind, by what they are on.
func (s *Store) TagsOf(ctx context.Context, studio int64, kind Tagged, ids ...int64) (map[int64][]string, error) {
	rows, err := list[Tag](ctx, s.read, `SELECT * FROM tags WHERE studio_id = :studio AND kind = :kind AND of_id IN (SELECT value FROM json_each(:ids))
		ORDER BY of_id, tag`, args{"studio": studio, "kind": kind, "ids": numbersOf(ids)})
	tags := map[int64][]string{}
	for _, r := range rows {
		tags[r.OfID] = append(tags[r.OfID], r.Tag)
	}
	return tags, err
}

// CountedTag is a tag and on how many things it is.
type CountedTag struct {
	Tag string
	N   int
}

// TagsOn lists the tags on things of a kind that are there, with words in them: "" is all.
func (s *Store) TagsOn(ctx context.Context, studio int64, kind Tagged, find string) ([]CountedTag, error) {
	return list[CountedTag](ctx, s.read, `SELECT min(g.tag) AS tag, count(*) AS n FROM tags g JOIN `+kind.table()+` o ON o.studio_id = g.studio_id AND o.id = g.of_id AND o.deleted_at = 0
		WHERE g.studio_id = :studio AND g.kind = :kind AND instr(folded(g.tag), folded(:find)) > 0 GROUP BY g.tag ORDER BY g.tag`,
		args{"studio": studio, "kind": kind, "find": find})
}

// Archive puts something away: it is kept as it is, and stands in no list. With 0 it is there
// again.
func (s *Store) Archive(ctx context.Context, studio int64, kind Tagged, id int64, at Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, "UPDATE "+kind.table()+" SET archived_at = :at WHERE studio_id = :studio AND id = :id AND deleted_at = 0",
			args{"studio": studio, "id": id, "at": at})
		if err != nil || at > 0 {
			return err
		}
		switch kind { // what was worked out meanwhile was without it
		case OnSong:
			return staleFits(ctx, tx, studio, 0, id)
		case OnStudent:
			return staleFits(ctx, tx, studio, id, 0)
		}
		return nil
	})
}
