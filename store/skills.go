package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"
)

// SongSkill is something that a song asks for in its own texture, or a riff of it: what songs
// share.
type SongSkill struct {
	SongID int64 `db:"song_id"`
	Kind   string
	Key    string
	Name   string
}

// setSkills keeps what a song asks for.
func setSkills(ctx context.Context, tx *sqlx.Tx, studio, song int64, skills []SongSkill) error {
	a := args{"studio": studio, "song": song}
	if err := run(ctx, tx, "DELETE FROM song_skills WHERE +studio_id = :studio AND song_id = :song", a); err != nil {
		return err
	}
	shelved, err := get[bool](ctx, tx, "SELECT EXISTS (SELECT 1 FROM songs WHERE studio_id = :studio AND id = :song AND deleted_at = 0 AND archived_at = 0)", a)
	if err != nil || !shelved {
		return err
	}
	for _, sk := range skills {
		a["kind"], a["key"], a["name"] = sk.Kind, sk.Key, sk.Name
		if err := run(ctx, tx, "INSERT INTO song_skills (studio_id, song_id, kind, key, name) VALUES (:studio, :song, :kind, :key, :name) ON CONFLICT DO NOTHING", a); err != nil {
			return err
		}
	}
	return nil
}

// CountedSkill is a skill and how many songs ask for it.
type CountedSkill struct {
	Kind, Key, Name string
	N               int
}

// Skills lists what at least so many songs of a studio ask for, with words in its name; "" is
// all, and riffs, which have no name that anybody looks for. With kinds it is these alone.
func (s *Store) Skills(ctx context.Context, studio int64, find string, least int, kinds ...string) ([]CountedSkill, error) {
	if len(kinds) == 0 {
		kinds = []string{"change", "family", "rhythm", "scale", "shape", "technique", "tuning"}
		if find == "" {
			kinds = append(kinds, "riff")
		}
	}
	text, err := json.Marshal(kinds)
	if err != nil {
		return nil, err
	}
	return list[CountedSkill](ctx, s.read, `SELECT kind, key, min(name) AS name, count(*) AS n FROM song_skills
		WHERE studio_id = :studio AND kind IN (SELECT value FROM json_each(:kinds))
		GROUP BY kind, key HAVING n >= :least AND (:find = '' OR instr(folded(name), folded(:find)) > 0) ORDER BY n DESC, name, key`, args{"studio": studio, "find": find, "least": least, "kinds": string(text)})
}

// SkillsOf lists what a song asks for and what its riffs are, as it shares them.
func (s *Store) SkillsOf(ctx context.Context, studio, song int64) ([]SongSkill, error) {
	return list[SongSkill](ctx, s.read, "SELECT song_id, kind, key, name FROM song_skills WHERE +studio_id = :studio AND song_id = :song ORDER BY kind, name, key",
		args{"studio": studio, "song": song})
}

// ShelvedSong is a song with what it asks for, as its sum has that.
type ShelvedSong struct {
	SongNeeds
	Title string
	Grade float64
	Given bool   // a student has it or has had it; of nobody it is false
	Fit   string // how far away it is for the student as it fits them best, as skill.Ready; empty where that is not known
	FitOn string `db:"fit_on"` // and on which rung
	Name  string // what the skill is called in it
}

const shelvedSong = `SELECT s.id AS song_id, s.title, q.needs, q.grade,
		EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = s.studio_id AND a.student_id = :student AND a.song_id = s.id) AS given,
		COALESCE((SELECT f.ready FROM song_fits f WHERE f.student_id = :student AND f.song_id = s.id AND f.studio_id = s.studio_id), '') AS fit,
		COALESCE((SELECT f.rung FROM song_fits f WHERE f.student_id = :student AND f.song_id = s.id AND f.studio_id = s.studio_id), '') AS fit_on`

// SongsWithSkill lists the songs of a studio that ask for a skill, from easy to hard as written,
// at most so many.
func (s *Store) SongsWithSkill(ctx context.Context, studio, student int64, kind, key string, most int) ([]ShelvedSong, error) {
	return list[ShelvedSong](ctx, s.read, `WITH near AS MATERIALIZED (SELECT k.song_id, k.name FROM song_skills k JOIN song_sums q ON q.studio_id = k.studio_id AND q.song_id = k.song_id
			WHERE k.studio_id = :studio AND k.kind = :kind AND k.key = :key ORDER BY q.grade, k.song_id LIMIT :most)
		`+shelvedSong+`, n.name FROM near n JOIN songs s ON s.studio_id = :studio AND s.id = n.song_id
		JOIN song_sums q ON q.studio_id = s.studio_id AND q.song_id = s.id ORDER BY q.grade, s.title COLLATE NOCASE, s.id`,
		args{"studio": studio, "student": student, "kind": kind, "key": key, "most": most})
}

// rarest is by how much of what a song asks for others are found that are like it: by what fewest
// ask for.
const rarest = 16

// SongsLike lists songs that share something with a song, those first that share what is rarest,
// at most so many.
func (s *Store) SongsLike(ctx context.Context, studio, student, song int64, most int) ([]ShelvedSong, error) {
	return list[ShelvedSong](ctx, s.read, `WITH own AS MATERIALIZED (SELECT k.kind, k.key, 1.0 / count(*) AS weight FROM song_skills o CROSS JOIN song_skills k ON k.studio_id = :studio AND k.kind = o.kind AND k.key = o.key
				WHERE +o.studio_id = :studio AND o.song_id = :song GROUP BY k.kind, k.key HAVING count(*) > 1
				ORDER BY weight DESC, k.kind, k.key LIMIT :rarest),
			near AS MATERIALIZED (SELECT k.song_id, sum(own.weight) AS weight FROM own CROSS JOIN song_skills k ON k.studio_id = :studio AND k.kind = own.kind AND k.key = own.key
				WHERE k.song_id <> :song GROUP BY k.song_id ORDER BY weight DESC, k.song_id LIMIT :most)
		`+shelvedSong+`, '' AS name FROM near n CROSS JOIN songs s ON s.studio_id = :studio AND s.id = n.song_id
		CROSS JOIN song_sums q ON q.studio_id = s.studio_id AND q.song_id = s.id ORDER BY n.weight DESC, s.title COLLATE NOCASE, s.id`,
		args{"studio": studio, "student": student, "song": song, "most": most, "rarest": rarest})
}

// Marked is a song that stands on the shelf, without what it asks for: what that is has changed
// where its mark is another.
type Marked struct {
	ShelvedSong
	Mark string
}

// Shelf lists all songs of a studio that stand on the shelf.
func (s *Store) Shelf(ctx context.Context, studio, student int64) ([]Marked, error) {
	return list[Marked](ctx, s.read, `SELECT s.id AS song_id, s.title, '' AS needs, q.grade, '' AS name, '' AS fit, '' AS fit_on, s.version || ' ' || q.rules || ' ' || q.stale || ' ' || length(q.needs) AS mark,
			EXISTS (SELECT 1 FROM assignments a WHERE a.studio_id = s.studio_id AND a.student_id = :student AND a.song_id = s.id) AS given
		FROM songs s JOIN song_sums q ON q.studio_id = s.studio_id AND q.song_id = s.id AND q.needs <> ''
		WHERE s.studio_id = :studio AND s.deleted_at = 0 AND s.archived_at = 0 ORDER BY q.grade, s.id`, args{"studio": studio, "student": student})
}

// ShelfNeeds lists what the songs of a studio ask for.
func (s *Store) ShelfNeeds(ctx context.Context, studio int64) ([]SongNeeds, error) {
	return list[SongNeeds](ctx, s.read, "SELECT song_id, needs FROM song_sums WHERE studio_id = :studio AND needs <> ''", args{"studio": studio})
}

// SongTitled finds the song of a studio with a title, whatever its letters; 0 is none.
func (s *Store) SongTitled(ctx context.Context, studio int64, title string) (int64, error) {
	ids, err := list[int64](ctx, s.read, "SELECT id FROM songs WHERE studio_id = :studio AND deleted_at = 0 AND folded(title) = folded(:title) ORDER BY archived_at > 0, id LIMIT 1",
		args{"studio": studio, "title": title})
	if err != nil || len(ids) == 0 {
		return 0, err
	}
	return ids[0], nil
}

// SkillCalled is what a skill is called in a studio; empty where no song asks for it.
func (s *Store) SkillCalled(ctx context.Context, studio int64, kind, key string) (string, error) {
	names, err := list[string](ctx, s.read, "SELECT name FROM song_skills WHERE studio_id = :studio AND kind = :kind AND key = :key ORDER BY name LIMIT 1",
		args{"studio": studio, "kind": kind, "key": key})
	if err != nil || len(names) == 0 {
		return "", err
	}
	return names[0], nil
}
