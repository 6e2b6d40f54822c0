package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Song is a song of a studio in its latest version.
type Song struct {
	ID        int64   `json:"id"`
	StudioID  int64   `db:"studio_id" json:"-"`
	Title     string  `json:"title"`
	Version   int     `json:"version"`
	Sheet     string  `json:"sheet"`
	Draft     *string `json:"draft,omitempty"` // typed since the last save
	UpdatedAt Moment  `db:"updated_at" json:"updated_at"`
	DeletedAt Moment  `db:"deleted_at" json:"-"`
}

// SongVersion is a sheet as it was saved once.
type SongVersion struct {
	Version int
	Sheet   string
	SavedAt Moment `db:"saved_at"`
}

const songColumns = `SELECT s.*, v.sheet FROM songs s
	JOIN song_versions v ON v.studio_id = s.studio_id AND v.song_id = s.id AND v.version = s.version`

// Songs lists the songs of a studio by title.
func (s *Store) Songs(ctx context.Context, studio int64) ([]Song, error) {
	return list[Song](ctx, s.db, songColumns+` WHERE s.studio_id = :studio AND s.deleted_at = 0 ORDER BY s.title COLLATE NOCASE, s.id`, args{"studio": studio})
}

// Song reads one song.
func (s *Store) Song(ctx context.Context, studio, id int64) (Song, error) {
	return get[Song](ctx, s.db, songColumns+` WHERE s.studio_id = :studio AND s.id = :id AND s.deleted_at = 0`, args{"studio": studio, "id": id})
}

// AddSong adds a song with its first version.
func (s *Store) AddSong(ctx context.Context, studio int64, title, sheet string, now Moment) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		id, err = insert(ctx, tx, "INSERT INTO songs (studio_id, title, version, updated_at) VALUES (:studio, :title, 1, :now)",
			args{"studio": studio, "title": title, "now": now})
		if err != nil {
			return err
		}
		return addVersion(ctx, tx, studio, id, 1, sheet, now)
	})
	return id, err
}

func addVersion(ctx context.Context, tx *sqlx.Tx, studio, song int64, version int, sheet string, now Moment) error {
	_, err := insert(ctx, tx, `INSERT INTO song_versions (studio_id, song_id, version, sheet, saved_at)
		VALUES (:studio, :song, :version, :sheet, :now)`,
		args{"studio": studio, "song": song, "version": version, "sheet": sheet, "now": now})
	return err
}

// SaveSong saves a new version of a song and drops its draft. Saving what is
// there already makes no new version.
func (s *Store) SaveSong(ctx context.Context, studio, id int64, title, sheet string, now Moment) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		song, err := get[Song](ctx, tx, songColumns+" WHERE s.studio_id = :studio AND s.id = :id AND s.deleted_at = 0", args{"studio": studio, "id": id})
		if err != nil {
			return err
		}
		if song.Sheet != sheet {
			song.Version++
			if err := addVersion(ctx, tx, studio, id, song.Version, sheet, now); err != nil {
				return err
			}
		}
		return change(ctx, tx, `UPDATE songs SET title = :title, version = :version, draft = NULL, updated_at = :now
			WHERE studio_id = :studio AND id = :id`,
			args{"studio": studio, "id": id, "title": title, "version": song.Version, "now": now})
	})
}

// SaveDraft keeps what has been typed since the last save; nil drops it.
func (s *Store) SaveDraft(ctx context.Context, studio, id int64, draft *string) error {
	return change(ctx, s.db, "UPDATE songs SET draft = :draft WHERE studio_id = :studio AND id = :id AND deleted_at = 0",
		args{"studio": studio, "id": id, "draft": draft})
}

// SongVersions lists the versions of a song, newest first.
func (s *Store) SongVersions(ctx context.Context, studio, id int64) ([]SongVersion, error) {
	return list[SongVersion](ctx, s.db, `SELECT version, sheet, saved_at FROM song_versions
		WHERE studio_id = :studio AND song_id = :id ORDER BY version DESC`, args{"studio": studio, "id": id})
}

// SongVersion reads one version of a song, also of one that was deleted
// since: lessons that were assigned keep it.
func (s *Store) SongVersion(ctx context.Context, studio, id int64, version int) (SongVersion, error) {
	return get[SongVersion](ctx, s.db, `SELECT version, sheet, saved_at FROM song_versions
		WHERE studio_id = :studio AND song_id = :id AND version = :version`, args{"studio": studio, "id": id, "version": version})
}

// DeleteSong hides a song; RestoreSong brings it back.
func (s *Store) DeleteSong(ctx context.Context, studio, id int64, now Moment) error {
	return setDeleted(ctx, s.db, "songs", studio, id, now)
}

// RestoreSong brings a deleted song back.
func (s *Store) RestoreSong(ctx context.Context, studio, id int64) error {
	return setDeleted(ctx, s.db, "songs", studio, id, 0)
}

// setDeleted marks a row of a table as deleted, or with 0 as not.
func setDeleted(ctx context.Context, q querier, table string, studio, id int64, at Moment) error {
	return change(ctx, q, "UPDATE "+table+" SET deleted_at = :at WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": id, "at": at})
}
