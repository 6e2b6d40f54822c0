package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"valleyside/core/lesson"
	"valleyside/core/play"
	"valleyside/core/progress"
	"valleyside/core/sheet"
)

// Standing is where a student is with a version of a part: what core/progress has
// to know of all its entries, kept up with every one of them.
type Standing struct {
	StudioID     int64 `db:"studio_id"`
	AssignmentID int64 `db:"assignment_id"`
	Part         string
	Rung         string
	Entries      int
	Minutes      int
	Clean        float64
	Days         int
	Day          string
	Tries        int
	Tempo        float64
	LastAt       Moment `db:"last_at"`
}

// Progress is the standing as core/progress reads it, its times in a zone.
func (s *Standing) Progress(zone *time.Location) progress.Standing {
	p := progress.Standing{Entries: s.Entries, Clean: s.Clean, Days: s.Days, Day: s.Day, Tries: s.Tries, Tempo: s.Tempo}
	if s.Entries > 0 {
		p.Last = s.LastAt.Time().In(zone)
	}
	return p
}

func (s *Standing) set(p progress.Standing) {
	s.Entries, s.Clean, s.Days, s.Day, s.Tries, s.Tempo, s.LastAt = p.Entries, p.Clean, p.Days, p.Day, p.Tries, p.Tempo, At(p.Last)
}

// Standings lists where the students of a studio are with what is assigned.
func (s *Store) Standings(ctx context.Context, studio int64) ([]Standing, error) {
	return list[Standing](ctx, s.read, `SELECT d.* FROM standings d JOIN assignments a ON a.studio_id = d.studio_id AND a.id = d.assignment_id
		WHERE d.studio_id = :studio AND a.ended_at = 0`, args{"studio": studio})
}

// StandingsOf lists where one student is with what is assigned.
func (s *Store) StandingsOf(ctx context.Context, studio, student int64) ([]Standing, error) {
	return list[Standing](ctx, s.read, `SELECT d.* FROM standings d JOIN assignments a ON a.studio_id = d.studio_id AND a.id = d.assignment_id
		WHERE d.studio_id = :studio AND a.student_id = :student AND a.ended_at = 0`, args{"studio": studio, "student": student})
}

// Zone is the zone of a studio's days; one that this machine does not know is its
// own.
func (st *Studio) Zone() *time.Location {
	if st.TimeZone == "" {
		return time.Local
	}
	zone, err := time.LoadLocation(st.TimeZone)
	if err != nil {
		return time.Local
	}
	return zone
}

func zoneOf(ctx context.Context, q querier, studio int64) (*time.Location, error) {
	st, err := get[Studio](ctx, q, "SELECT * FROM studios WHERE id = :studio", args{"studio": studio})
	return st.Zone(), err
}

// progressEntry is an entry as core/progress reads it.
func progressEntry(e *Entry, zone *time.Location) progress.Entry {
	return progress.Entry{Tempo: e.Tempo, Clean: e.Clean, At: e.PractisedAt.Time().In(zone), Some: !lesson.OfWhole(e.Step)}
}

// stand brings a standing up to date with an entry that is new.
func stand(ctx context.Context, tx *sqlx.Tx, e *Entry) error {
	a := args{"studio": e.StudioID, "assignment": e.AssignmentID, "part": e.Part, "rung": e.Rung}
	zone, err := zoneOf(ctx, tx, e.StudioID)
	if err != nil {
		return err
	}
	target, err := targetOf(ctx, tx, a)
	if err != nil {
		return err
	}
	row, err := get[Standing](ctx, tx, "SELECT * FROM standings WHERE studio_id = :studio AND assignment_id = :assignment AND part = :part AND rung = :rung", a)
	if err != nil && err != ErrNotFound {
		return err
	}
	row.StudioID, row.AssignmentID, row.Part, row.Rung = e.StudioID, e.AssignmentID, e.Part, e.Rung
	next, ok := row.Progress(zone).With(progressEntry(e, zone), target)
	if !ok { // it was made before one that is there already
		return standOf(ctx, tx, a, target, zone)
	}
	row.set(next)
	row.Minutes += e.Minutes
	return keepStanding(ctx, tx, &row)
}

// targetOf is the tempo that a part of an assignment is to reach; one that is not
// among its parts any more has that of the whole.
func targetOf(ctx context.Context, q querier, a args) (float64, error) {
	return get[float64](ctx, q, `SELECT COALESCE((SELECT target FROM assignment_parts WHERE studio_id = :studio AND assignment_id = :assignment AND part = :part AND target > 0),
		(SELECT target_tempo FROM assignments WHERE studio_id = :studio AND id = :assignment), 0)`, a)
}

// standOf makes one standing again of all its entries.
func standOf(ctx context.Context, tx *sqlx.Tx, a args, target float64, zone *time.Location) error {
	entries, err := list[Entry](ctx, tx, `SELECT * FROM entries WHERE studio_id = :studio AND assignment_id = :assignment AND part = :part AND rung = :rung
		ORDER BY practised_at, id`, a)
	if err != nil {
		return err
	}
	if len(entries) == 0 {
		_, err := sqlx.NamedExecContext(ctx, tx, "DELETE FROM standings WHERE studio_id = :studio AND assignment_id = :assignment AND part = :part AND rung = :rung", a)
		return err
	}
	row := Standing{StudioID: entries[0].StudioID, AssignmentID: entries[0].AssignmentID, Part: entries[0].Part, Rung: entries[0].Rung}
	var p progress.Standing
	for i := range entries {
		p, _ = p.With(progressEntry(&entries[i], zone), target)
		row.Minutes += entries[i].Minutes
	}
	row.set(p)
	return keepStanding(ctx, tx, &row)
}

func keepStanding(ctx context.Context, tx *sqlx.Tx, row *Standing) error {
	_, err := sqlx.NamedExecContext(ctx, tx, `INSERT INTO standings
		(studio_id, assignment_id, part, rung, entries, minutes, clean, days, day, tries, tempo, last_at)
		VALUES (:studio_id, :assignment_id, :part, :rung, :entries, :minutes, :clean, :days, :day, :tries, :tempo, :last_at)
		ON CONFLICT (assignment_id, part, rung) DO UPDATE SET entries = excluded.entries, minutes = excluded.minutes, clean = excluded.clean,
			days = excluded.days, day = excluded.day, tries = excluded.tries, tempo = excluded.tempo, last_at = excluded.last_at`, row)
	return err
}

// standAgain makes all standings of an assignment again: its targets may have
// changed.
func standAgain(ctx context.Context, tx *sqlx.Tx, studio, assignment int64) error {
	zone, err := zoneOf(ctx, tx, studio)
	if err != nil {
		return err
	}
	parts, err := list[Standing](ctx, tx, "SELECT DISTINCT part, rung FROM entries WHERE studio_id = :studio AND assignment_id = :assignment",
		args{"studio": studio, "assignment": assignment})
	if err != nil {
		return err
	}
	for _, p := range parts {
		a := args{"studio": studio, "assignment": assignment, "part": p.Part, "rung": p.Rung}
		target, err := targetOf(ctx, tx, a)
		if err != nil {
			return err
		}
		if err := standOf(ctx, tx, a, target, zone); err != nil {
			return err
		}
	}
	return nil
}

// setTargets fills in the tempo that each part is to reach where the song is
// played at a target.
func setTargets(parts []Part, text string, target float64) {
	song := sheet.Parse(text).Song
	for i := range parts {
		parts[i].Target = target
		if at, ok := song.PartNamed(parts[i].Part); ok {
			parts[i].Target = play.Tempo(song, &song.Parts[at], target)
		}
	}
}

// fillStandings makes the targets and standings of assignments from before they
// were kept.
func (s *Store) fillStandings(ctx context.Context) error {
	old, err := list[Assignment](ctx, s.read, `SELECT a.*, v.sheet, 0 AS latest FROM assignments a
		JOIN song_versions v ON v.studio_id = a.studio_id AND v.song_id = a.song_id AND v.version = a.song_version
		WHERE EXISTS (SELECT 1 FROM assignment_parts p WHERE p.assignment_id = a.id AND p.target = 0)`, args{})
	if err != nil {
		return err
	}
	for _, a := range old {
		err := s.in(ctx, func(tx *sqlx.Tx) error {
			of, err := partsOf(ctx, tx, "assignment", args{"studio": a.StudioID, "id": a.ID})
			if err != nil {
				return err
			}
			parts := of[a.ID]
			setTargets(parts, a.Sheet, a.TargetTempo)
			if err := setParts(ctx, tx, "assignment", a.StudioID, a.ID, parts); err != nil {
				return err
			}
			return standAgain(ctx, tx, a.StudioID, a.ID)
		})
		if err != nil {
			return fmt.Errorf("standing of assignment %d: %w", a.ID, err)
		}
	}
	return nil
}
