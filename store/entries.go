package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Entry is one stretch of practice.
type Entry struct {
	ID           int64   `json:"id"`
	StudioID     int64   `db:"studio_id" json:"-"`
	StudentID    int64   `db:"student_id" json:"student_id"`
	AssignmentID int64   `db:"assignment_id" json:"assignment_id"`
	Part         string  `json:"part"`
	Rung         string  `json:"rung"`
	Tempo        float64 `json:"tempo"`
	Clean        int     `json:"clean"` // passes in a row without a slip
	Minutes      int     `json:"minutes"`
	Word         string  `json:"word"`
	PractisedAt  Moment  `db:"practised_at" json:"practised_at"`
	SentID       string  `db:"sent_id" json:"-"`
}

// AddEntry logs practice. When it returns, the entry is on the disk. An entry
// that was sent before, by its SentID, is not logged again.
func (s *Store) AddEntry(ctx context.Context, e Entry) error { return addEntry(ctx, s.db, e) }

// AddEntries logs several stretches of practice, all or none.
func (s *Store) AddEntries(ctx context.Context, entries []Entry) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		for _, e := range entries {
			if err := addEntry(ctx, tx, e); err != nil {
				return err
			}
		}
		return nil
	})
}

func addEntry(ctx context.Context, q querier, e Entry) error {
	_, err := insert(ctx, q, `INSERT INTO entries
		(studio_id, student_id, assignment_id, part, rung, tempo, clean, minutes, word, practised_at, sent_id)
		VALUES (:studio, :student, :assignment, :part, :rung, :tempo, :clean, :minutes, :word, :at, :sent)
		ON CONFLICT (student_id, sent_id) DO NOTHING`,
		args{"studio": e.StudioID, "student": e.StudentID, "assignment": e.AssignmentID, "part": e.Part, "rung": e.Rung,
			"tempo": e.Tempo, "clean": e.Clean, "minutes": e.Minutes, "word": e.Word, "at": e.PractisedAt, "sent": e.SentID})
	return err
}

// EntriesOf lists what a student has practised, the newest first.
func (s *Store) EntriesOf(ctx context.Context, studio, student int64) ([]Entry, error) {
	return list[Entry](ctx, s.db, "SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student ORDER BY practised_at DESC, id DESC",
		args{"studio": studio, "student": student})
}

// Entries lists what has been practised in a studio since a moment, the
// newest first.
func (s *Store) Entries(ctx context.Context, studio int64, since Moment) ([]Entry, error) {
	return list[Entry](ctx, s.db, "SELECT * FROM entries WHERE studio_id = :studio AND practised_at >= :since ORDER BY practised_at DESC, id DESC",
		args{"studio": studio, "since": since})
}

// DeleteEntry removes an entry that was logged by mistake.
func (s *Store) DeleteEntry(ctx context.Context, studio, student, id int64) error {
	return change(ctx, s.db, "DELETE FROM entries WHERE studio_id = :studio AND student_id = :student AND id = :id",
		args{"studio": studio, "student": student, "id": id})
}
