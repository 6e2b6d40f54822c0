package store

import (
	"context"
	"errors"

	"github.com/jmoiron/sqlx"

	"valleyside/core/song"
)

// Song is a song of a studio as it was saved last; Save is the number of that.
type Song struct {
	ID       int64   `json:"id"`
	StudioID int64   `db:"studio_id" json:"-"`
	Title    string  `json:"title"`
	Save     int     `db:"version" json:"version"`
	Sheet    string  `json:"sheet"`
	Draft    *string `json:"draft,omitempty"` // typed since the last save
	DraftAt  Instant `db:"draft_at" json:"-"`
	// DraftNo is another once a draft was saved, thrown away or replaced.
	DraftNo   int64       `db:"draft_no" json:"-"`
	NextPart  song.PartID `db:"next_part" json:"next_part"`
	Example   bool        `json:"-"`
	UpdatedAt Instant     `db:"updated_at" json:"updated_at"`
	DeletedAt Instant     `db:"deleted_at" json:"deleted_at,omitempty"`
	// ArchivedAt is when it was put away; 0 is not.
	ArchivedAt Instant `db:"archived_at" json:"archived_at,omitempty"`
}

// Save is a sheet as it was saved once, under its number.
type Save struct {
	No      int `db:"version"`
	Sheet   string
	SavedAt Instant `db:"saved_at"`
}

const songColumns = `SELECT s.*, v.sheet FROM songs s
	JOIN song_versions v ON v.studio_id = s.studio_id AND v.song_id = s.id AND v.version = s.version`

// Songs lists the songs of a studio by title.
func (s *Store) Songs(ctx context.Context, studio int64) ([]Song, error) {
	return list[Song](ctx, s.read, songColumns+` WHERE s.studio_id = :studio AND s.deleted_at = 0 ORDER BY s.title COLLATE NOCASE, s.id`, args{"studio": studio})
}

// SongName is a song by its number and title.
type SongName struct {
	ID    int64
	Title string
}

// SongNames lists the songs of a studio that are not put away by title, their numbers and titles
// alone.
func (s *Store) SongNames(ctx context.Context, studio int64) ([]SongName, error) {
	return list[SongName](ctx, s.read, "SELECT id, title FROM songs WHERE studio_id = :studio AND deleted_at = 0 AND archived_at = 0 ORDER BY title COLLATE NOCASE, id", args{"studio": studio})
}

// Song reads one song.
func (s *Store) Song(ctx context.Context, studio, id int64) (Song, error) {
	return get[Song](ctx, s.read, songColumns+` WHERE s.studio_id = :studio AND s.id = :id AND s.deleted_at = 0`, args{"studio": studio, "id": id})
}

// SongPart is what a part of a saved song is known by, as core/song gives it.
type SongPart struct {
	StudioID int64       `db:"studio_id" json:"-"`
	SongID   int64       `db:"song_id" json:"song_id"`
	Save     int         `db:"version" json:"version"`
	Position int         `json:"position"`
	PartID   song.PartID `db:"part_id" json:"part_id"`
	Name     string      `json:"name"`
	Bars     Numbers     `json:"bars"`
	NextBar  int         `db:"next_bar" json:"next_bar"`
}

// Identity is what the part is known by.
func (p *SongPart) Identity() song.Identity {
	return song.Identity{ID: p.PartID, Bars: p.Bars, Next: p.NextBar}
}

// NewSave is a sheet that is saved, with what its parts are known by.
type NewSave struct {
	Title, Sheet string
	Parts        []SongPart
	NextPart     song.PartID // a number that no part has had
}

// AddSong adds a song with its first save.
func (s *Store) AddSong(ctx context.Context, studio int64, v NewSave, now Instant) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		id, err = addSong(ctx, tx, Song{StudioID: studio, Title: v.Title, Save: 1, Sheet: v.Sheet, NextPart: v.NextPart, UpdatedAt: now}, v.Parts)
		return err
	})
	return id, err
}

func addSong(ctx context.Context, tx *sqlx.Tx, g Song, parts []SongPart) (id int64, err error) {
	id, err = insert(ctx, tx, "INSERT INTO songs (studio_id, title, version, next_part, updated_at) VALUES (:studio, :title, :version, :next, :now)",
		args{"studio": g.StudioID, "title": g.Title, "version": g.Save, "next": g.NextPart, "now": g.UpdatedAt})
	if err != nil {
		return 0, err
	}
	return id, addSave(ctx, tx, g.StudioID, id, g.Save, g.Sheet, parts, g.UpdatedAt)
}

func addSave(ctx context.Context, tx *sqlx.Tx, studio, song int64, version int, sheet string, parts []SongPart, now Instant) error {
	_, err := insert(ctx, tx, `INSERT INTO song_versions (studio_id, song_id, version, sheet, saved_at)
		VALUES (:studio, :song, :version, :sheet, :now)`,
		args{"studio": studio, "song": song, "version": version, "sheet": sheet, "now": now})
	if err != nil {
		return err
	}
	return setSongParts(ctx, tx, studio, song, version, parts)
}

// setSongParts keeps what the parts of a save are known by.
func setSongParts(ctx context.Context, tx *sqlx.Tx, studio, song int64, version int, parts []SongPart) error {
	for i, p := range parts {
		_, err := sqlx.NamedExecContext(ctx, tx, `INSERT INTO song_parts (studio_id, song_id, version, position, part_id, name, bars, next_bar)
			VALUES (:studio, :song, :version, :position, :part, :name, :bars, :next)`,
			args{"studio": studio, "song": song, "version": version, "position": i, "part": p.PartID, "name": p.Name, "bars": p.Bars, "next": p.NextBar})
		if err != nil {
			return err
		}
	}
	return nil
}

const songPartColumns = "SELECT * FROM song_parts WHERE studio_id = :studio AND song_id = :song AND version = :version ORDER BY position"

// SongParts lists what the parts of a save of a song are known by, in their order.
func (s *Store) SongParts(ctx context.Context, studio, song int64, version int) ([]SongPart, error) {
	return list[SongPart](ctx, s.read, songPartColumns, args{"studio": studio, "song": song, "version": version})
}

// PartNames are the names of all parts that a song has had, as they were called last.
func (s *Store) PartNames(ctx context.Context, studio, of int64) (map[song.PartID]string, error) {
	rows, err := list[SongPart](ctx, s.read, "SELECT * FROM song_parts WHERE studio_id = :studio AND song_id = :song ORDER BY version, position", args{"studio": studio, "song": of})
	names := map[song.PartID]string{}
	for _, r := range rows {
		names[r.PartID] = r.Name
	}
	return names, err
}

// PartCalled is the part of a song that was called by a name last, also once; 0 where none
// ever was.
func (s *Store) PartCalled(ctx context.Context, studio, of int64, name string) (song.PartID, error) {
	return get[song.PartID](ctx, s.read, `SELECT COALESCE((SELECT part_id FROM song_parts WHERE studio_id = :studio AND song_id = :song AND name = :name COLLATE NOCASE
		ORDER BY version DESC, position LIMIT 1), 0)`, args{"studio": studio, "song": of, "name": name})
}

// ErrConflict means that what was sent is based on something that is not the
// latest any more.
var ErrConflict = errors.New("it has been changed since")

// Before is what a song is before it is saved anew.
type Before struct {
	Song  Song
	Parts []SongPart
	Ways  []Way
}

// Followed is a new save of a song, and what has become of what belonged to the one
// before.
type Followed struct {
	NewSave
	Beside map[song.PartID][]song.PartID // parts that stand beside one that was cut: lessons that have it get them too
	Ways   []Way
}

// SaveSong saves a song anew, based on an earlier one; base 0 takes
// whichever is there. Where that is not the latest any more nothing is saved, and
// the song comes back as it is with ErrConflict. A draft that is not what is saved
// is kept among what was typed. Saving what is there already makes no new save; else
// follow says what the new one is, given what was there before.
func (s *Store) SaveSong(ctx context.Context, studio, id int64, base int, title, sheet string, now Instant, follow func(Before) Followed) (song Song, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		if song, err = songIn(ctx, tx, studio, id); err != nil {
			return err
		}
		if base != 0 && base != song.Save && song.Sheet != sheet {
			return ErrConflict
		}
		if song.Sheet != sheet {
			before := Before{Song: song}
			a := args{"studio": studio, "song": id, "version": song.Save}
			if before.Parts, err = list[SongPart](ctx, tx, songPartColumns, a); err != nil {
				return err
			}
			if before.Ways, err = list[Way](ctx, tx, waysColumns, a); err != nil {
				return err
			}
			own, err := list[Way](ctx, tx, ownWaysColumns, a)
			if err != nil {
				return err
			}
			before.Ways = append(before.Ways, own...)
			next := follow(before)
			song.Save++
			song.NextPart = next.NextPart
			if err := addSave(ctx, tx, studio, id, song.Save, sheet, next.Parts, now); err != nil {
				return err
			}
			if err := followSong(ctx, tx, studio, id, &next); err != nil {
				return err
			}
		}
		if song.Draft != nil && *song.Draft != sheet {
			if err := keepTyped(ctx, tx, studio, id, *song.Draft, song.DraftAt); err != nil {
				return err
			}
		}
		song.Title, song.Sheet, song.Draft, song.DraftNo = title, sheet, nil, song.DraftNo+1
		return change(ctx, tx, `UPDATE songs SET title = :title, version = :version, next_part = :next, draft = NULL, draft_no = :no, updated_at = :now
			WHERE studio_id = :studio AND id = :id`,
			args{"studio": studio, "id": id, "title": title, "version": song.Save, "next": song.NextPart, "no": song.DraftNo, "now": now})
	})
	return song, err
}

// followSong brings the ways and the lessons of a song to its new save.
func followSong(ctx context.Context, tx *sqlx.Tx, studio, id int64, next *Followed) error {
	a := args{"studio": studio, "song": id}
	if err := run(ctx, tx, "DELETE FROM ways WHERE studio_id = :studio AND song_id = :song", a); err != nil {
		return err
	}
	for _, w := range next.Ways {
		if w.LessonID != 0 {
			if err := run(ctx, tx, "UPDATE lesson_parts SET own = :way WHERE studio_id = :studio AND lesson_id = :lesson AND part_id = :part AND player = :player",
				args{"studio": studio, "lesson": w.LessonID, "part": w.PartID, "player": w.Player, "way": w.Way}); err != nil {
				return err
			}
			continue
		}
		if err := run(ctx, tx, "INSERT INTO ways (studio_id, song_id, part_id, player, rung, way) VALUES (:studio, :song, :part, :player, :rung, :way)",
			args{"studio": studio, "song": id, "part": w.PartID, "player": w.Player, "rung": w.Rung, "way": w.Way}); err != nil {
			return err
		}
	}
	if err := run(ctx, tx, "UPDATE song_sums SET stale = 1 WHERE studio_id = :studio AND song_id = :song", a); err != nil {
		return err
	}
	names := map[song.PartID]string{}
	for _, p := range next.Parts {
		names[p.PartID] = p.Name
		a["part"], a["name"] = p.PartID, p.Name
		if err := run(ctx, tx, `UPDATE lesson_parts SET part = :name WHERE studio_id = :studio AND part_id = :part AND part <> :name
			AND lesson_id IN (SELECT id FROM lessons WHERE studio_id = :studio AND song_id = :song)`, a); err != nil {
			return err
		}
	}
	if len(next.Beside) == 0 {
		return nil
	}
	lessons, err := list[int64](ctx, tx, "SELECT id FROM lessons WHERE studio_id = :studio AND song_id = :song", a)
	if err != nil {
		return err
	}
	for _, lesson := range lessons {
		of, err := partsOf(ctx, tx, "lesson", args{"studio": studio, "id": lesson})
		if err != nil {
			return err
		}
		var parts []Part
		for _, p := range of[lesson] {
			parts = append(parts, p)
			for _, beside := range next.Beside[p.PartID] {
				more := p
				more.PartID, more.Part = beside, names[beside]
				parts = append(parts, more)
			}
		}
		if err := setParts(ctx, tx, "lesson", studio, lesson, parts); err != nil {
			return err
		}
	}
	return nil
}

func songIn(ctx context.Context, tx *sqlx.Tx, studio, id int64) (Song, error) {
	return get[Song](ctx, tx, songColumns+" WHERE s.studio_id = :studio AND s.id = :id AND s.deleted_at = 0", args{"studio": studio, "id": id})
}

// onScreen is how long a text stood, in seconds, that is worth keeping when the
// next one takes its place.
const onScreen = 10

// SaveDraft keeps what has been typed since the last save, by a page that knows
// the draft by its number. Where the number is another by now, the text is kept
// among what was typed instead, and ErrConflict says so.
func (s *Store) SaveDraft(ctx context.Context, studio, id, no int64, sheet string, now Instant) error {
	late := false
	err := s.in(ctx, func(tx *sqlx.Tx) error {
		song, err := songIn(ctx, tx, studio, id)
		if err != nil {
			return err
		}
		if late = song.DraftNo != no; late {
			return keepTyped(ctx, tx, studio, id, sheet, now)
		}
		if song.Draft != nil && *song.Draft == sheet {
			return nil
		}
		if song.Draft != nil && now-song.DraftAt >= onScreen {
			if err := keepTyped(ctx, tx, studio, id, *song.Draft, song.DraftAt); err != nil {
				return err
			}
		}
		var draft *string
		if sheet != song.Sheet {
			draft = &sheet
		}
		return setDraft(ctx, tx, studio, id, no, draft, now)
	})
	if err == nil && late {
		err = ErrConflict
	}
	return err
}

// ReplaceDraft puts a text in the place of a draft, nil for none, and keeps the
// draft that was there among what was typed; kept is its id there, 0 for none.
func (s *Store) ReplaceDraft(ctx context.Context, studio, id int64, sheet *string, now Instant) (kept int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		song, err := songIn(ctx, tx, studio, id)
		if err != nil {
			return err
		}
		if song.Draft != nil && (sheet == nil || *song.Draft != *sheet) {
			if err := keepTyped(ctx, tx, studio, id, *song.Draft, song.DraftAt); err != nil {
				return err
			}
			kept, err = get[int64](ctx, tx, "SELECT COALESCE(max(id), 0) FROM typed WHERE studio_id = :studio AND song_id = :id AND sheet = :sheet",
				args{"studio": studio, "id": id, "sheet": *song.Draft})
			if err != nil {
				return err
			}
		}
		return setDraft(ctx, tx, studio, id, song.DraftNo+1, sheet, now)
	})
	return kept, err
}

func setDraft(ctx context.Context, tx *sqlx.Tx, studio, id, no int64, draft *string, now Instant) error {
	return change(ctx, tx, "UPDATE songs SET draft = :draft, draft_at = :now, draft_no = :no WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": id, "draft": draft, "now": now, "no": no})
}

// Typed is a text that was typed once.
type Typed struct {
	ID      int64
	Sheet   string
	TypedAt Instant `db:"typed_at"`
}

// mostTyped is how many texts are kept of a song beside its saves.
const mostTyped = 100

// keepTyped keeps a text, unless it is there already, and lets the oldest go.
func keepTyped(ctx context.Context, tx *sqlx.Tx, studio, song int64, sheet string, at Instant) error {
	a := args{"studio": studio, "song": song, "sheet": sheet, "at": at, "most": mostTyped}
	for _, query := range []string{
		"DELETE FROM typed WHERE studio_id = :studio AND song_id = :song AND sheet = :sheet",
		`INSERT INTO typed (studio_id, song_id, sheet, typed_at) SELECT :studio, :song, :sheet, :at
			WHERE NOT EXISTS (SELECT 1 FROM song_versions WHERE studio_id = :studio AND song_id = :song AND sheet = :sheet)`,
		`DELETE FROM typed WHERE studio_id = :studio AND song_id = :song AND id NOT IN
			(SELECT id FROM typed WHERE studio_id = :studio AND song_id = :song ORDER BY typed_at DESC, id DESC LIMIT :most)`,
	} {
		if _, err := sqlx.NamedExecContext(ctx, tx, query, a); err != nil {
			return err
		}
	}
	return nil
}

// KeepTyped keeps a text that was typed, to be brought back.
func (s *Store) KeepTyped(ctx context.Context, studio, song int64, sheet string, now Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		if _, err := songIn(ctx, tx, studio, song); err != nil {
			return err
		}
		return keepTyped(ctx, tx, studio, song, sheet, now)
	})
}

// TypedOf lists what was typed of a song and is not saved, the newest first.
func (s *Store) TypedOf(ctx context.Context, studio, song int64) ([]Typed, error) {
	return list[Typed](ctx, s.read, `SELECT id, sheet, typed_at FROM typed WHERE studio_id = :studio AND song_id = :song
		ORDER BY typed_at DESC, id DESC`, args{"studio": studio, "song": song})
}

// Typed reads one text that was typed.
func (s *Store) Typed(ctx context.Context, studio, song, id int64) (Typed, error) {
	return get[Typed](ctx, s.read, "SELECT id, sheet, typed_at FROM typed WHERE studio_id = :studio AND song_id = :song AND id = :id",
		args{"studio": studio, "song": song, "id": id})
}

// Saves lists the saves of a song, newest first.
func (s *Store) Saves(ctx context.Context, studio, id int64) ([]Save, error) {
	return list[Save](ctx, s.read, `SELECT version, sheet, saved_at FROM song_versions
		WHERE studio_id = :studio AND song_id = :id ORDER BY version DESC`, args{"studio": studio, "id": id})
}

// SavedSheet reads one save of a song, also of one that was deleted
// since: lessons that were assigned keep it.
func (s *Store) SavedSheet(ctx context.Context, studio, id int64, version int) (Save, error) {
	return get[Save](ctx, s.read, `SELECT version, sheet, saved_at FROM song_versions
		WHERE studio_id = :studio AND song_id = :id AND version = :version`, args{"studio": studio, "id": id, "version": version})
}

// DeleteSong hides a song.
func (s *Store) DeleteSong(ctx context.Context, studio, id int64, now Instant) error {
	return s.setDeleted(ctx, "songs", studio, id, now)
}

func (s *Store) setDeleted(ctx context.Context, table string, studio, id int64, at Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return setDeleted(ctx, tx, table, studio, id, at) })
}

// setDeleted marks a row of a table as deleted, or with 0 as not.
func setDeleted(ctx context.Context, q querier, table string, studio, id int64, at Instant) error {
	return change(ctx, q, "UPDATE "+table+" SET deleted_at = :at WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": id, "at": at})
}
