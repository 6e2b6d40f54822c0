package store

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
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
	LastAt       Instant `db:"last_at"`
	Once         float64
	Clean        float64
	CleanDays    int `db:"clean_days"`
	CleanDay     int `db:"clean_day"`
	Gained       int
	Practised    int
	Tries        int
	Tempo        float64
	TargetDays   int `db:"target_days"`
	TargetDay    int `db:"target_day"`
	Learnt       int
	Failed       bool
	Looked       int
	Gap          int
	Due          int
}

// Progress is the standing as core/progress reads it, its times in a zone.
func (s *Standing) Progress(zone *time.Location) progress.Standing {
	p := progress.Standing{Entries: s.Entries, Once: s.Once, Clean: s.Clean, CleanDays: s.CleanDays, CleanDay: s.CleanDay, Gained: s.Gained, Practised: s.Practised,
		Tries: s.Tries, Tempo: s.Tempo, TargetDays: s.TargetDays, TargetDay: s.TargetDay, Learnt: s.Learnt, Failed: s.Failed, Looked: s.Looked, Gap: s.Gap}
	if s.Entries > 0 {
		p.Last = s.LastAt.Time().In(zone)
	}
	return p
}

// add brings the standing up to date with an entry; it tells whether that was made after all
// that are counted in.
func (s *Standing) add(e progress.Entry, target float64) bool {
	p, ok := s.Progress(e.At.Location()).With(e, target)
	if !ok {
		return false
	}
	s.Entries, s.LastAt, s.Once, s.Clean, s.CleanDays, s.CleanDay, s.Gained, s.Practised = p.Entries, At(p.Last), p.Once, p.Clean, p.CleanDays, p.CleanDay, p.Gained, p.Practised
	s.Tries, s.Tempo, s.TargetDays, s.TargetDay = p.Tries, p.Tempo, p.TargetDays, p.TargetDay
	s.Learnt, s.Failed, s.Looked, s.Gap, s.Due = p.Learnt, p.Failed, p.Looked, p.Gap, p.Due()
	return true
}

// StandingsOf lists where some students are with what is assigned: its parts, and its steps.
func (s *Store) StandingsOf(ctx context.Context, studio int64, students ...int64) ([]Standing, error) {
	return list[Standing](ctx, s.read, `SELECT d.* FROM assignments a JOIN standings d ON d.studio_id = a.studio_id AND d.assignment_id = a.id
		WHERE a.studio_id = :studio AND a.student_id`+among+` AND a.ended_at = 0`, args{"studio": studio, "students": numbersOf(students)})
}

// StandingsOfSong lists where students are with the parts of a song, of what is finished as well, and
// the parts of what they have or had, by assignment.
func (s *Store) StandingsOfSong(ctx context.Context, studio, song int64) ([]Standing, map[int64][]Part, error) {
	a := args{"studio": studio, "song": song}
	rows, err := list[Standing](ctx, s.read, `SELECT d.* FROM assignments a JOIN standings d ON +d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = ''
		WHERE a.studio_id = :studio AND a.song_id = :song`, a)
	if err != nil {
		return nil, nil, err
	}
	parts, err := partsOf(ctx, s.read, "assignment", a)
	return rows, parts, err
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

// When what is learnt is said, and what is due: the last days.
const (
	LearntLately = 14
	Overdue      = 3
)

// Wanting lists what wants a look in a studio on a day, as core/progress counts them, at most so
// many of each kind: who is stuck, or gains no ground; what has been due for a while; what was
// learnt lately; and of what grows what was not practised since a moment. Of each kind the latest.
func (s *Store) Wanting(ctx context.Context, studio int64, today int, since Instant, most int) ([]Wanting, error) {
	return list[Wanting](ctx, s.read, wantingQuery, args{"studio": studio, "since": since, "today": today, "most": most})
}

// wantingQuery asks for each kind, as progress.Standing.Look tells them apart, by an index of its
// own.
var wantingQuery = func() string {
	stalled := fmt.Sprintf("d.due = 0 AND d.tries < %d AND d.practised >= d.gained + %d", progress.StuckTries, progress.StalledDays)
	var each []string
	for _, kind := range []struct{ index, which, order string }{
		{"standings_stuck", fmt.Sprintf("d.due = 0 AND d.tries >= %d", progress.StuckTries), "d.last_at DESC"},
		{"standings_stalled", fmt.Sprintf("%s AND d.practised > :today - %d", stalled, progress.StalledDays), "d.last_at DESC"},
		{"standings_due", fmt.Sprintf("d.due > 0 AND d.due <= :today - %d", Overdue), "d.due DESC"},
		{"standings_learnt", fmt.Sprintf("d.due > 0 AND d.due > :today AND d.learnt > :today - %d", LearntLately), "d.learnt DESC"},
		{"standings_quiet", "d.due = 0 AND d.last_at < :since", "d.last_at DESC"},
	} {
		each = append(each, `SELECT * FROM (SELECT d.*, a.student_id, t.name AS student, a.name AS lesson, p.part, p.target
			FROM standings d INDEXED BY `+kind.index+` CROSS JOIN assignments a ON a.studio_id = d.studio_id AND a.id = d.assignment_id AND a.ended_at = 0
			JOIN assignment_parts p ON p.studio_id = d.studio_id AND p.assignment_id = d.assignment_id AND p.part_id = d.part_id AND p.rung = d.rung
			JOIN students t ON t.studio_id = a.studio_id AND t.id = a.student_id AND t.deleted_at = 0 AND t.archived_at = 0
			WHERE d.studio_id = :studio AND d.step = '' AND d.entries > 0 AND `+kind.which+` ORDER BY `+kind.order+` LIMIT :most)`)
	}
	return strings.Join(each, " UNION ALL ")
}()

// Zone is the zone of a studio's days; one that this machine does not know is its
// own.
func (st *Studio) Zone() *time.Location {
	if st.TimeZone == "" {
		return machineZone()
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

// machineZone is the zone of this machine by its name, which calendars ask for; time.Local, which
// has none, where it cannot be told.
var machineZone = sync.OnceValue(func() *time.Location {
	name, set := os.LookupEnv("TZ")
	name = strings.TrimPrefix(name, ":")
	if !set {
		link, err := filepath.EvalSymlinks("/etc/localtime")
		if err != nil {
			return time.Local
		}
		_, name, _ = strings.Cut(link, "/zoneinfo/")
	}
	zone, err := time.LoadLocation(name) // "" is UTC, as it is for TZ
	if err != nil || !set && name == "" {
		return time.Local
	}
	for month := time.January; month <= time.December; month++ { // the same hours, whatever it is called
		at := time.Date(2026, month, 1, 12, 0, 0, 0, time.UTC)
		_, is := at.In(zone).Zone()
		if _, own := at.In(time.Local).Zone(); is != own {
			return time.Local
		}
	}
	return zone
})

// zones are those that were read, by their names: a file is read for each.
var zones sync.Map

func zoneOf(ctx context.Context, q querier, studio int64) (*time.Location, error) {
	st, err := get[Studio](ctx, q, "SELECT * FROM studios WHERE id = :studio", args{"studio": studio})
	return st.Zone(), err
}

// played is a part as it was played in an entry, or a step of it.
type played struct {
	Played
	step string
	some bool // not as a whole
	in   bool // within something longer
}

// plays are what was played in an entry: its part first, then its step, then what else.
func (e *Entry) plays() []played {
	list := []played{{Played: Played{e.PartID, e.Rung}, some: e.Some}}
	if e.Step != "" {
		list = append(list, played{Played: Played{e.PartID, e.Rung}, step: e.Step})
	}
	for _, p := range e.Also {
		if p == list[0].Played {
			list[0].some, list[0].in = false, true
		} else {
			list = append(list, played{Played: p, in: true})
		}
	}
	return list
}

// as is an entry as core/progress reads it.
func (p *played) as(e *Entry, zone *time.Location) progress.Entry {
	return progress.Entry{Tempo: e.Tempo, Clean: e.Clean, At: e.PractisedAt.Time().In(zone), Some: p.some, Within: p.in}
}

// countedIn lists the assignments in which an entry of one counts: its own, and the others of the
// same song that the student has now.
func countedIn(ctx context.Context, q querier, studio, assignment int64) ([]int64, error) {
	return list[int64](ctx, q, `SELECT o.id FROM assignments a JOIN assignments o ON o.studio_id = a.studio_id AND o.student_id = a.student_id AND o.song_id = a.song_id
		WHERE a.studio_id = :studio AND a.id = :assignment AND (o.ended_at = 0 OR o.id = a.id)`, args{"studio": studio, "assignment": assignment})
}

// stand brings the standings of its part and its step up to date with an entry that is new, and
// those of what else was played in it, wherever its student has that.
func stand(ctx context.Context, tx *sqlx.Tx, e *Entry) error {
	zone, err := zoneOf(ctx, tx, e.StudioID)
	if err != nil {
		return err
	}
	in, err := countedIn(ctx, tx, e.StudioID, e.AssignmentID)
	if err != nil {
		return err
	}
	for _, assignment := range in {
		own := assignment == e.AssignmentID
		for _, p := range e.plays() {
			a := args{"studio": e.StudioID, "assignment": assignment, "part": p.PartID, "rung": p.Rung, "step": p.step}
			if !own {
				has, err := get[bool](ctx, tx, `SELECT EXISTS (SELECT 1 FROM assignment_parts WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part AND rung = :rung)`, a)
				if err != nil {
					return err
				}
				if !has || p.step != "" {
					continue
				}
			}
			target, err := targetOf(ctx, tx, a)
			if err != nil {
				return err
			}
			row, err := get[Standing](ctx, tx, `SELECT * FROM standings WHERE studio_id = :studio AND assignment_id = :assignment AND part_id = :part
				AND rung = :rung AND step = :step`, a)
			if err != nil && err != ErrNotFound {
				return err
			}
			row.StudioID, row.AssignmentID, row.PartID, row.Rung, row.Step = e.StudioID, assignment, p.PartID, p.Rung, p.step
			learnt := row.Learnt
			if !row.add(p.as(e, zone), target) { // it was made before one that is there already
				if err := standAgain(ctx, tx, e.StudioID, assignment); err != nil {
					return err
				}
				break
			}
			if p.step == "" && row.Learnt != learnt { // who has learnt something is nearer to other songs
				if err := staleFits(ctx, tx, e.StudioID, e.StudentID, 0); err != nil {
					return err
				}
			}
			if own && !p.in {
				row.Minutes += e.Minutes
			}
			if err := keepStanding(ctx, tx, &row); err != nil {
				return err
			}
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

func keepStanding(ctx context.Context, tx *sqlx.Tx, row *Standing) error {
	_, err := sqlx.NamedExecContext(ctx, tx, `INSERT OR REPLACE INTO standings
		(studio_id, assignment_id, part_id, rung, step, entries, minutes, last_at, once, clean, clean_days, clean_day, gained, practised, tries, tempo,
			target_days, target_day, learnt, failed, looked, gap, due)
		VALUES (:studio_id, :assignment_id, :part_id, :rung, :step, :entries, :minutes, :last_at, :once, :clean, :clean_days, :clean_day, :gained, :practised, :tries, :tempo,
			:target_days, :target_day, :learnt, :failed, :looked, :gap, :due)`, row)
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

// standAround makes the standings again in which an entry of an assignment counts.
func standAround(ctx context.Context, tx *sqlx.Tx, studio, assignment int64) error {
	in, err := countedIn(ctx, tx, studio, assignment)
	for _, id := range in {
		if err == nil {
			err = standAgain(ctx, tx, studio, id)
		}
	}
	return err
}

// standAgain makes all standings of an assignment again of its entries, and of those of the same
// song: its targets may have changed, or the zone of its days, or entries were removed. The
// entries are read once, in the order of time, one after the other: there may be any number of
// them.
func standAgain(ctx context.Context, tx *sqlx.Tx, studio, assignment int64) error {
	own := args{"studio": studio, "assignment": assignment}
	zone, err := zoneOf(ctx, tx, studio)
	if err != nil {
		return err
	}
	if err := run(ctx, tx, "DELETE FROM standings WHERE studio_id = :studio AND assignment_id = :assignment", own); err != nil {
		return err
	}
	parts, err := list[Part](ctx, tx, "SELECT part_id, rung FROM assignment_parts WHERE studio_id = :studio AND assignment_id = :assignment", own)
	if err != nil {
		return err
	}
	has := map[Played]bool{}
	for _, p := range parts {
		has[Played{p.PartID, p.Rung}] = true
	}
	type key struct {
		Played
		step string
	}
	rows, targets := map[key]*Standing{}, map[song.PartID]float64{}
	var order []key
	err = each(ctx, tx, `SELECT * FROM entries WHERE studio_id = :studio AND assignment_id IN (SELECT o.id FROM assignments a
			JOIN assignments o ON o.studio_id = a.studio_id AND o.student_id = a.student_id AND o.song_id = a.song_id
			WHERE a.studio_id = :studio AND a.id = :assignment)
		ORDER BY +practised_at, id`, own, func(e *Entry) error {
		theirs := e.AssignmentID == assignment
		for _, p := range e.plays() {
			if !theirs && (p.step != "" || !has[p.Played]) {
				continue
			}
			target, ok := targets[p.PartID]
			if !ok {
				if target, err = targetOf(ctx, tx, args{"studio": studio, "assignment": assignment, "part": p.PartID}); err != nil {
					return err
				}
				targets[p.PartID] = target
			}
			k := key{p.Played, p.step}
			if rows[k] == nil {
				rows[k] = &Standing{StudioID: studio, AssignmentID: assignment, PartID: p.PartID, Rung: p.Rung, Step: p.step}
				order = append(order, k)
			}
			rows[k].add(p.as(e, zone), target)
			if theirs && !p.in {
				rows[k].Minutes += e.Minutes
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, k := range order {
		if err := keepStanding(ctx, tx, rows[k]); err != nil {
			return err
		}
	}
	return nil
}
