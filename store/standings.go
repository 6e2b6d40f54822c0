package store

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/progress"
	"valleyside/core/song"
)

// Standing is where a student is with a version of a part, or with a step of it: what
// core/progress has to know of all its entries, kept up with every one of them.
type Standing struct {
	StudioID     int64       `db:"studio_id"`
	AssignmentID int64       `db:"assignment_id"`
	PartID       song.PartID `db:"part_id"`
	Rung         arrange.Rung
	Step         string // empty is the part as a whole
	Entries      int
	Minutes      int
	Once         float64
	Clean        float64
	Days         int
	Day          string
	Tries        int
	Tempo        float64
	LastAt       Instant `db:"last_at"`
}

// Progress is the standing as core/progress reads it, its times in a zone.
func (s *Standing) Progress(zone *time.Location) progress.Standing {
	p := progress.Standing{Entries: s.Entries, Once: s.Once, Clean: s.Clean, Days: s.Days, Day: s.Day, Tries: s.Tries, Tempo: s.Tempo}
	if s.Entries > 0 {
		p.Last = s.LastAt.Time().In(zone)
	}
	return p
}

func (s *Standing) set(p progress.Standing) {
	s.Entries, s.Once, s.Clean, s.Days, s.Day, s.Tries, s.Tempo, s.LastAt = p.Entries, p.Once, p.Clean, p.Days, p.Day, p.Tries, p.Tempo, At(p.Last)
}

// StandingsOf lists where some students are with what is assigned: its parts, and its steps.
func (s *Store) StandingsOf(ctx context.Context, studio int64, students ...int64) ([]Standing, error) {
	return list[Standing](ctx, s.read, `SELECT d.* FROM assignments a JOIN standings d ON d.studio_id = a.studio_id AND d.assignment_id = a.id
		WHERE a.studio_id = :studio AND a.student_id`+among+` AND a.ended_at = 0`, args{"studio": studio, "students": numbersOf(students)})
}

// ListedStandings lists where some students are with the parts of what is assigned.
func (s *Store) ListedStandings(ctx context.Context, studio int64, students ...int64) ([]Standing, error) {
	return list[Standing](ctx, s.read, `SELECT d.* FROM assignments a JOIN standings d ON +d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = ''
		WHERE a.studio_id = :studio AND a.student_id`+among+` AND a.ended_at = 0`, args{"studio": studio, "students": numbersOf(students)})
}

// Wanting is a part of what is assigned that wants the teacher's attention: where its
// student stands with it.
type Wanting struct {
	Standing
	StudentID int64 `db:"student_id"`
	Student   string
	Lesson    string
	Part      string
	Target    float64
}

// Wanting lists what wants a look in a studio, at most so many that are ready, as many that
// are stuck and as many that were not practised since a moment; of each the latest practised.
func (s *Store) Wanting(ctx context.Context, studio int64, since Instant, most int) ([]Wanting, error) {
	return list[Wanting](ctx, s.read, wantingQuery, args{"studio": studio, "since": since, "most": most})
}

// wantingQuery asks for those that are ready, due and stuck, as progress.Standing.Status
// tells them apart, each by an index of its own.
var wantingQuery = func() string {
	var each []string
	for _, which := range []string{
		fmt.Sprintf("d.days >= %d", progress.ReadyDays),
		fmt.Sprintf("d.days < %d AND d.last_at < :since", progress.ReadyDays),
		fmt.Sprintf("d.tries >= %d AND d.days < %d AND d.last_at >= :since", progress.StuckTries, progress.ReadyDays),
	} {
		each = append(each, `SELECT * FROM (SELECT d.*, a.student_id, t.name AS student, a.name AS lesson, p.part, p.target
			FROM standings d CROSS JOIN assignments a ON a.studio_id = d.studio_id AND a.id = d.assignment_id AND a.ended_at = 0
			JOIN assignment_parts p ON p.studio_id = d.studio_id AND p.assignment_id = d.assignment_id AND p.part_id = d.part_id AND p.rung = d.rung
			JOIN students t ON t.studio_id = a.studio_id AND t.id = a.student_id AND t.deleted_at = 0
			WHERE d.studio_id = :studio AND d.step = '' AND d.entries > 0 AND `+which+` ORDER BY d.last_at DESC LIMIT :most)`)
	}
	return strings.Join(each, " UNION ALL ")
}()

// Zone is the zone of a studio's days; one that this machine does not know is its
// own.
func (st *Studio) Zone() *time.Location {
	if st.TimeZone == "" {
		return time.Local
	}
	if zone, ok := zones.Load(st.TimeZone); ok {
		return zone.(*time.Location)
	}
	zone, err := time.LoadLocation(st.TimeZone)
	if err != nil {
		return time.Local
	}
	zones.Store(st.TimeZone, zone)
	return zone
}

// zones are those that were read, by their names: a file is read for each.
var zones sync.Map

func zoneOf(ctx context.Context, q querier, studio int64) (*time.Location, error) {
	st, err := get[Studio](ctx, q, "SELECT * FROM studios WHERE id = :studio", args{"studio": studio})
	return st.Zone(), err
}

// progressEntry is an entry as core/progress reads it, for the part as a whole or for a
// step.
func progressEntry(e *Entry, zone *time.Location, step string) progress.Entry {
	return progress.Entry{Tempo: e.Tempo, Clean: e.Clean, At: e.PractisedAt.Time().In(zone), Some: step == "" && e.Some}
}

// stand brings the standings of its part and its step up to date with an entry that is new.
func stand(ctx context.Context, tx *sqlx.Tx, e *Entry) error {
	zone, err := zoneOf(ctx, tx, e.StudioID)
	if err != nil {
		return err
	}
	steps := []string{""}
	if e.Step != "" {
		steps = append(steps, e.Step)
	}
	for _, step := range steps {
		a := args{"studio": e.StudioID, "assignment": e.AssignmentID, "part": e.PartID, "rung": e.Rung, "step": step}
		target, err := targetOf(ctx, tx, a)
		if err != nil {
			return err
		}
		row, err := get[Standing](ctx, tx, `SELECT * FROM standings WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part
			AND rung = :rung AND step = :step`, a)
		if err != nil && err != ErrNotFound {
			return err
		}
		row.StudioID, row.AssignmentID, row.PartID, row.Rung, row.Step = e.StudioID, e.AssignmentID, e.PartID, e.Rung, step
		next, ok := row.Progress(zone).With(progressEntry(e, zone, step), target)
		if !ok { // it was made before one that is there already
			if err := standOf(ctx, tx, a, target, zone); err != nil {
				return err
			}
			continue
		}
		row.set(next)
		row.Minutes += e.Minutes
		if err := keepStanding(ctx, tx, &row); err != nil {
			return err
		}
	}
	return nil
}

// targetOf is the tempo that a part of an assignment is to reach; one that is not
// among its parts any more has that of the whole.
func targetOf(ctx context.Context, q querier, a args) (float64, error) {
	return get[float64](ctx, q, `SELECT COALESCE((SELECT target FROM assignment_parts WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part AND target > 0),
		(SELECT target_tempo FROM assignments WHERE studio_id = :studio AND id = :assignment), 0)`, a)
}

// standOf makes one standing again of all its entries.
func standOf(ctx context.Context, tx *sqlx.Tx, a args, target float64, zone *time.Location) error {
	entries, err := list[Entry](ctx, tx, `SELECT * FROM entries WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part AND rung = :rung
		AND (:step = '' OR step = :step) ORDER BY practised_at, id`, a)
	if err != nil {
		return err
	}
	if len(entries) == 0 {
		return run(ctx, tx, `DELETE FROM standings WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part AND rung = :rung AND step = :step`, a)
	}
	row := Standing{StudioID: entries[0].StudioID, AssignmentID: entries[0].AssignmentID, PartID: entries[0].PartID, Rung: entries[0].Rung, Step: a["step"].(string)}
	var p progress.Standing
	for i := range entries {
		p, _ = p.With(progressEntry(&entries[i], zone, row.Step), target)
		row.Minutes += entries[i].Minutes
	}
	row.set(p)
	return keepStanding(ctx, tx, &row)
}

func keepStanding(ctx context.Context, tx *sqlx.Tx, row *Standing) error {
	_, err := sqlx.NamedExecContext(ctx, tx, `INSERT INTO standings
		(studio_id, assignment_id, part_id, rung, step, entries, minutes, once, clean, days, day, tries, tempo, last_at)
		VALUES (:studio_id, :assignment_id, :part_id, :rung, :step, :entries, :minutes, :once, :clean, :days, :day, :tries, :tempo, :last_at)
		ON CONFLICT (assignment_id, part_id, rung, step) DO UPDATE SET entries = excluded.entries, minutes = excluded.minutes, once = excluded.once,
			clean = excluded.clean, days = excluded.days, day = excluded.day, tries = excluded.tries, tempo = excluded.tempo, last_at = excluded.last_at`, row)
	return err
}

// restand has all standings of a studio made again, one assignment after the other: the hour
// at which its days begin has changed.
func restand(ctx context.Context, tx *sqlx.Tx, studio int64) error {
	return run(ctx, tx, "INSERT OR IGNORE INTO restandings (studio_id, assignment_id) SELECT studio_id, id FROM assignments WHERE studio_id = :studio", args{"studio": studio})
}

// Restandings lists the assignments whose standings are to be made again, of a studio or with
// 0 of all.
func (s *Store) Restandings(ctx context.Context, studio int64) ([]Owner, error) {
	return list[Owner](ctx, s.read, "SELECT studio_id, assignment_id AS id, 0 AS student_id FROM restandings WHERE :studio = 0 OR studio_id = :studio", args{"studio": studio})
}

// Restand makes the standings of an assignment again of all its entries.
func (s *Store) Restand(ctx context.Context, studio, assignment int64) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		if err := standAgain(ctx, tx, studio, assignment); err != nil {
			return err
		}
		return run(ctx, tx, "DELETE FROM restandings WHERE studio_id = :studio AND assignment_id = :id", args{"studio": studio, "id": assignment})
	})
}

// standAgain makes all standings of an assignment again of its entries: its targets may
// have changed, or the zone of its days, or entries were removed. The entries are read once,
// in the order of time, one after the other: there may be any number of them.
func standAgain(ctx context.Context, tx *sqlx.Tx, studio, assignment int64) error {
	own := args{"studio": studio, "assignment": assignment}
	zone, err := zoneOf(ctx, tx, studio)
	if err != nil {
		return err
	}
	if err := run(ctx, tx, "DELETE FROM standings WHERE studio_id = :studio AND assignment_id = :assignment", own); err != nil {
		return err
	}
	type key struct {
		part song.PartID
		rung arrange.Rung
		step string
	}
	rows, made := map[key]*Standing{}, map[key]progress.Standing{}
	targets := map[song.PartID]float64{}
	var order []key
	err = each(ctx, tx, "SELECT * FROM entries WHERE studio_id = :studio AND assignment_id = :assignment ORDER BY +practised_at, id", own, func(e *Entry) error {
		target, ok := targets[e.PartID]
		if !ok {
			if target, err = targetOf(ctx, tx, args{"studio": studio, "assignment": assignment, "part": e.PartID}); err != nil {
				return err
			}
			targets[e.PartID] = target
		}
		steps := []string{""}
		if e.Step != "" {
			steps = append(steps, e.Step)
		}
		for _, step := range steps {
			k := key{e.PartID, e.Rung, step}
			if rows[k] == nil {
				rows[k] = &Standing{StudioID: studio, AssignmentID: assignment, PartID: e.PartID, Rung: e.Rung, Step: step}
				order = append(order, k)
			}
			made[k], _ = made[k].With(progressEntry(e, zone, step), target)
			rows[k].Minutes += e.Minutes
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, k := range order {
		rows[k].set(made[k])
		if err := keepStanding(ctx, tx, rows[k]); err != nil {
			return err
		}
	}
	return nil
}
