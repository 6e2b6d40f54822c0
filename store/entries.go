package store

import (
	"context"
	"database/sql/driver"
	"fmt"
	"strconv"
	"strings"

	"github.com/jmoiron/sqlx"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Entry is one stretch of practice.
type Entry struct {
	ID           int64 `json:"id"`
	StudioID     int64 `db:"studio_id" json:"-"`
	StudentID    int64 `db:"student_id" json:"student_id"`
	AssignmentID int64 `db:"assignment_id" json:"assignment_id"`
	// PartID is what the part is known by, −1 where nobody knows that any more; Part is what
	// it was called then.
	PartID      song.PartID  `db:"part_id" json:"part_id"`
	Part        string       `json:"part"`
	Rung        arrange.Rung `json:"rung"`
	Tempo       float64      `json:"tempo"`
	Clean       int          `json:"clean"` // passes in a row without a slip
	Minutes     int          `json:"minutes"`
	Word        string       `json:"word"`
	Step        string       `json:"step,omitempty"` // as lesson.StepID is written; empty for the part as a whole
	Some        bool         `json:"some,omitempty"` // it was not the part as a whole
	Also        Plays        `json:"also,omitempty"` // what else was played as a whole in it
	PractisedAt Instant      `db:"practised_at" json:"practised_at"`
	SentID      string       `db:"sent_id" json:"-"`
}

// Played is a version of a part that was played.
type Played struct {
	PartID song.PartID  `json:"part_id"`
	Rung   arrange.Rung `json:"rung"`
}

// Plays are kept as numbers and rungs in a line: "7 two-note, 9 octave".
type Plays []Played

// Value writes them.
func (p Plays) Value() (driver.Value, error) {
	list := make([]string, len(p))
	for i, one := range p {
		list[i] = fmt.Sprintf("%d %s", one.PartID, one.Rung)
	}
	return strings.Join(list, ", "), nil
}

// Scan reads what Value writes.
func (p *Plays) Scan(kept any) error {
	*p = nil
	text, ok := kept.(string)
	if !ok {
		return fmt.Errorf("%v is no list of what was played", kept)
	}
	if text == "" {
		return nil
	}
	for _, one := range strings.Split(text, ", ") {
		id, rung, _ := strings.Cut(one, " ")
		n, err := strconv.Atoi(id)
		if err != nil {
			return fmt.Errorf("%q was played, which is no part", one)
		}
		*p = append(*p, Played{song.PartID(n), arrange.Rung(rung)})
	}
	return nil
}

// NamedEntry is an entry with the names of its student and of the lesson that was given.
type NamedEntry struct {
	Entry
	Student string
	Lesson  string
}

// NamedEntries lists the entries of the students of a studio that are not deleted, or of one
// of them, in the order of time; 0 is all.
func (s *Store) NamedEntries(ctx context.Context, studio, student int64) ([]NamedEntry, error) {
	const named = `SELECT e.*, t.name AS student, a.name AS lesson FROM entries e
		JOIN students t ON t.studio_id = e.studio_id AND t.id = e.student_id AND t.deleted_at = 0
		JOIN assignments a ON a.studio_id = e.studio_id AND a.id = e.assignment_id WHERE e.studio_id = :studio`
	const order = " ORDER BY e.practised_at, e.id"
	if student == 0 {
		return list[NamedEntry](ctx, s.read, named+order, args{"studio": studio})
	}
	return list[NamedEntry](ctx, s.read, named+" AND e.student_id = :student"+order, args{"studio": studio, "student": student})
}

// AddEntry logs practice. When it returns, the entry is on the disk. An entry
// that was sent before, by its SentID, is not logged again.
func (s *Store) AddEntry(ctx context.Context, e Entry) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return addEntry(ctx, tx, e) })
}

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

func addEntry(ctx context.Context, tx *sqlx.Tx, e Entry) error {
	added, err := insertEntry(ctx, tx, &e)
	if err != nil || !added {
		return err
	}
	return stand(ctx, tx, &e)
}

// newEntry adds a row where there is none that was sent by the same name.
const newEntry = `INSERT INTO entries
	(studio_id, student_id, assignment_id, part_id, part, rung, tempo, clean, minutes, word, step, some, also, practised_at, sent_id)
	VALUES (:studio_id, :student_id, :assignment_id, :part_id, :part, :rung, :tempo, :clean, :minutes, :word, :step, :some, :also, :practised_at, :sent_id)
	ON CONFLICT (student_id, sent_id) DO NOTHING`

// insertEntry adds the row of an entry, and tells whether it was not there yet.
func insertEntry(ctx context.Context, q querier, e *Entry) (bool, error) {
	r, err := sqlx.NamedExecContext(ctx, q, newEntry, e)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n > 0, err
}

// EntriesOf lists what a student has practised, the newest first, at most so many
// from the offset on; 0 is all.
func (s *Store) EntriesOf(ctx context.Context, studio, student int64, most, offset int) ([]Entry, error) {
	return list[Entry](ctx, s.read, `SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student
		ORDER BY practised_at DESC, id DESC LIMIT :most OFFSET :offset`, args{"studio": studio, "student": student, "most": limit(most), "offset": offset})
}

// EntriesSince lists what a student has practised since a moment, the newest first, at most so many.
func (s *Store) EntriesSince(ctx context.Context, studio, student int64, since Instant, most int) ([]Entry, error) {
	return list[Entry](ctx, s.read, `SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student AND practised_at >= :since
		ORDER BY practised_at DESC, id DESC LIMIT :most`, args{"studio": studio, "student": student, "since": since, "most": most})
}

// EntriesOfParts lists how and when the parts of what a student has been assigned were
// practised, by assignment and part: of each at most so many, the newest first. The rest of the
// entries is left out.
func (s *Store) EntriesOfParts(ctx context.Context, studio, student int64, most int) (map[int64]map[song.PartID][]Entry, error) {
	rows, err := list[Entry](ctx, s.read, `SELECT e.assignment_id, e.part_id, e.tempo, e.clean, e.minutes, e.practised_at FROM assignments a
		JOIN assignment_parts p ON p.studio_id = a.studio_id AND p.assignment_id = a.id
		JOIN entries e ON e.id IN (SELECT l.id FROM entries l WHERE l.studio_id = a.studio_id AND l.assignment_id = a.id AND l.part_id = p.part_id
			ORDER BY l.practised_at DESC, l.id DESC LIMIT :most)
		WHERE a.studio_id = :studio AND a.student_id = :student AND a.ended_at = 0 ORDER BY e.practised_at DESC, e.id DESC`,
		args{"studio": studio, "student": student, "most": limit(most)})
	of := map[int64]map[song.PartID][]Entry{}
	for _, e := range rows {
		if of[e.AssignmentID] == nil {
			of[e.AssignmentID] = map[song.PartID][]Entry{}
		}
		of[e.AssignmentID][e.PartID] = append(of[e.AssignmentID][e.PartID], e)
	}
	return of, err
}

// SetEntry mends an entry: its tempo, clean passes, minutes and word.
func (s *Store) SetEntry(ctx context.Context, e Entry) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": e.StudioID, "student": e.StudentID, "id": e.ID, "tempo": e.Tempo, "clean": e.Clean, "minutes": e.Minutes, "word": e.Word}
		assignment, err := get[int64](ctx, tx, "SELECT assignment_id FROM entries WHERE studio_id = :studio AND student_id = :student AND id = :id", a)
		if err != nil {
			return err
		}
		if _, err := sqlx.NamedExecContext(ctx, tx, `UPDATE entries SET tempo = :tempo, clean = :clean, minutes = :minutes, word = :word
			WHERE studio_id = :studio AND student_id = :student AND id = :id`, a); err != nil {
			return err
		}
		return standAround(ctx, tx, e.StudioID, assignment)
	})
}

// limit is a number of rows as SQL has it.
func limit(most int) int {
	if most == 0 {
		return -1
	}
	return most
}

// EntryOf reads one entry of a student.
func (s *Store) EntryOf(ctx context.Context, studio, student, id int64) (Entry, error) {
	return get[Entry](ctx, s.read, "SELECT * FROM entries WHERE studio_id = :studio AND student_id = :student AND id = :id",
		args{"studio": studio, "student": student, "id": id})
}

// MinutesSince is how long a student has practised since a moment.
func (s *Store) MinutesSince(ctx context.Context, studio, student int64, since Instant) (int, error) {
	return get[int](ctx, s.read, `SELECT COALESCE(sum(minutes), 0) FROM entries WHERE studio_id = :studio AND student_id = :student AND practised_at > :since`,
		args{"studio": studio, "student": student, "since": since})
}

// RecentEntry is an entry with whose it is.
type RecentEntry struct {
	Entry
	Student string
	Lesson  string
}

// Recent lists what was practised in a studio since a moment, the newest first, at
// most so many.
func (s *Store) Recent(ctx context.Context, studio int64, since Instant, most int) ([]RecentEntry, error) {
	return list[RecentEntry](ctx, s.read, `SELECT e.*, t.name AS student, a.name AS lesson FROM entries e
		JOIN students t ON t.studio_id = e.studio_id AND t.id = e.student_id AND t.deleted_at = 0
		JOIN assignments a ON a.studio_id = e.studio_id AND a.id = e.assignment_id
		WHERE e.studio_id = :studio AND e.practised_at >= :since ORDER BY e.practised_at DESC, e.id DESC LIMIT :most`,
		args{"studio": studio, "since": since, "most": most})
}

// DeleteEntry removes an entry that was logged by mistake.
func (s *Store) DeleteEntry(ctx context.Context, studio, student, id int64) error {
	return s.deleteEntries(ctx, studio, student, "id = :id", args{"id": id}, true)
}

// DeleteEntries removes what a student logged from one moment to before another.
func (s *Store) DeleteEntries(ctx context.Context, studio, student int64, from, to Instant) error {
	return s.deleteEntries(ctx, studio, student, "practised_at >= :from AND practised_at < :to", args{"from": from, "to": to}, false)
}

// deleteEntries removes the entries of a student that a condition holds for, and
// makes the standings again that they were counted in.
func (s *Store) deleteEntries(ctx context.Context, studio, student int64, where string, a args, must bool) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a["studio"], a["student"] = studio, student
		where = " FROM entries WHERE studio_id = :studio AND student_id = :student AND " + where
		gone, err := list[int64](ctx, tx, "SELECT DISTINCT assignment_id"+where, a)
		if err != nil {
			return err
		}
		if len(gone) == 0 && must {
			return ErrNotFound
		}
		if _, err := sqlx.NamedExecContext(ctx, tx, "DELETE"+where, a); err != nil {
			return err
		}
		for _, assignment := range gone {
			if err := standAround(ctx, tx, studio, assignment); err != nil {
				return err
			}
		}
		return nil
	})
}
