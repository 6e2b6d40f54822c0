package store

import (
	"context"

	"github.com/jmoiron/sqlx"

	"valleyside/core/schedule"
	"valleyside/core/song"
)

// Hour is a lesson hour of a student.
type Hour struct {
	ID        int64      `json:"id"`
	StudioID  int64      `db:"studio_id" json:"-"`
	StudentID int64      `db:"student_id" json:"student_id"`
	Day       int        `json:"day"`          // as core/progress counts days
	Note      string     `json:"note"`         // what was done, in two lines
	Items     []HourItem `db:"-" json:"items"` // in their order
}

// HourItem is something that is done in an hour.
type HourItem struct {
	HourID       int64         `db:"hour_id" json:"-"`
	Position     int           `json:"-"`
	Kind         schedule.Kind `json:"kind"`
	Minutes      int           `json:"minutes"`
	AssignmentID int64         `db:"assignment_id" json:"assignment_id,omitempty"` // 0 where it is of none
	PartID       song.PartID   `db:"part_id" json:"part_id,omitempty"`
	Step         string        `json:"step,omitempty"` // as lesson.StepID is written; empty for the part as a whole
	Title        string        `json:"title"`          // as it was called then
	Why          string        `json:"why"`            // as it was said then
	Done         bool          `json:"done"`
}

// HoursOf lists the hours of a student, the newest first, at most so many.
func (s *Store) HoursOf(ctx context.Context, studio, student int64, most int) ([]Hour, error) {
	a := args{"studio": studio, "student": student, "most": limit(most)}
	hours, err := list[Hour](ctx, s.read, "SELECT * FROM hours WHERE studio_id = :studio AND student_id = :student ORDER BY day DESC LIMIT :most", a)
	if err != nil {
		return nil, err
	}
	return hours, withItems(ctx, s.read, hours)
}

// withItems reads what was done in some hours.
func withItems(ctx context.Context, q querier, hours []Hour) error {
	ids := make([]int64, len(hours))
	for i := range hours {
		ids[i] = hours[i].ID
	}
	items, err := list[HourItem](ctx, q, "SELECT * FROM hour_items WHERE hour_id IN (SELECT value FROM json_each(:ids)) ORDER BY hour_id, position", args{"ids": numbersOf(ids)})
	of := map[int64][]HourItem{}
	for _, it := range items {
		of[it.HourID] = append(of[it.HourID], it)
	}
	for i := range hours {
		hours[i].Items = of[hours[i].ID]
	}
	return err
}

// setItems puts items into the place of those of an hour.
func setItems(ctx context.Context, tx *sqlx.Tx, hour int64, items []HourItem) error {
	if err := run(ctx, tx, "DELETE FROM hour_items WHERE hour_id = :hour", args{"hour": hour}); err != nil {
		return err
	}
	for i := range items {
		it := items[i]
		it.HourID, it.Position = hour, i
		if _, err := sqlx.NamedExecContext(ctx, tx, `INSERT INTO hour_items (hour_id, position, kind, minutes, assignment_id, part_id, step, title, why, done)
			VALUES (:hour_id, :position, :kind, :minutes, :assignment_id, :part_id, :step, :title, :why, :done)`, it); err != nil {
			return err
		}
	}
	return nil
}

// LastNotes are the last notes of some students.
func (s *Store) LastNotes(ctx context.Context, studio int64, students ...int64) (map[int64]Hour, error) {
	rows, err := list[Hour](ctx, s.read, `SELECT h.* FROM json_each(:students) JOIN hours h
			ON h.id = (SELECT id FROM hours WHERE student_id = json_each.value AND note <> '' ORDER BY day DESC LIMIT 1)
		WHERE h.studio_id = :studio`, args{"studio": studio, "students": numbersOf(students)})
	of := map[int64]Hour{}
	for _, h := range rows {
		of[h.StudentID] = h
	}
	return of, err
}

// SetHour changes the hour of a student on a day: how is given it as it is, and what it returns is
// kept.
func (s *Store) SetHour(ctx context.Context, studio, student int64, day int, how func(Hour) (Hour, error)) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "student": student, "day": day}
		if _, err := get[int](ctx, tx, "SELECT 1 FROM students WHERE studio_id = :studio AND id = :student AND deleted_at = 0", a); err != nil {
			return err
		}
		found, err := list[Hour](ctx, tx, "SELECT * FROM hours WHERE studio_id = :studio AND student_id = :student AND day = :day", a)
		if err == nil {
			err = withItems(ctx, tx, found)
		}
		if err != nil {
			return err
		}
		h := Hour{StudioID: studio, StudentID: student, Day: day}
		if len(found) > 0 {
			h = found[0]
		}
		if h, err = how(h); err != nil {
			return err
		}
		if a["note"] = h.Note; h.ID == 0 {
			h.ID, err = insert(ctx, tx, "INSERT INTO hours (studio_id, student_id, day, note) VALUES (:studio, :student, :day, :note)", a)
		} else {
			a["id"] = h.ID
			err = run(ctx, tx, "UPDATE hours SET note = :note WHERE studio_id = :studio AND id = :id", a)
		}
		if err != nil {
			return err
		}
		return setItems(ctx, tx, h.ID, h.Items)
	})
}

// Task is a step that the teacher wants to be practised first.
type Task struct {
	StudioID     int64  `db:"studio_id" json:"-"`
	StudentID    int64  `db:"student_id" json:"student_id"`
	AssignmentID int64  `db:"assignment_id" json:"assignment_id"`
	Step         string `json:"step"`
	Position     int    `json:"position"`
}

// TasksOf lists the tasks of a student in their order.
func (s *Store) TasksOf(ctx context.Context, studio, student int64) ([]Task, error) {
	return list[Task](ctx, s.read, "SELECT * FROM tasks WHERE studio_id = :studio AND student_id = :student ORDER BY position", args{"studio": studio, "student": student})
}

// SetTasks has a student practise some steps first, and none that were wanted before.
func (s *Store) SetTasks(ctx context.Context, studio, student int64, tasks []Task) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "student": student}
		if _, err := get[int](ctx, tx, "SELECT 1 FROM students WHERE studio_id = :studio AND id = :student AND deleted_at = 0", a); err != nil {
			return err
		}
		if err := run(ctx, tx, "DELETE FROM tasks WHERE studio_id = :studio AND student_id = :student", a); err != nil {
			return err
		}
		for i, t := range tasks {
			a["assignment"], a["step"], a["position"] = t.AssignmentID, t.Step, i
			if err := change(ctx, tx, `INSERT INTO tasks (studio_id, student_id, assignment_id, step, position)
				SELECT studio_id, student_id, id, :step, :position FROM assignments WHERE studio_id = :studio AND student_id = :student AND id = :assignment
				ON CONFLICT DO UPDATE SET position = excluded.position`, a); err != nil {
				return err
			}
		}
		return nil
	})
}

// Word is a short word of a student to the teacher, or a song that they wish for, and the answer.
type Word struct {
	ID         int64   `json:"id"`
	StudioID   int64   `db:"studio_id" json:"-"`
	StudentID  int64   `db:"student_id" json:"student_id"`
	Word       string  `json:"word"`
	SaidAt     Instant `db:"said_at" json:"said_at"`
	Answer     string  `json:"answer,omitempty"`
	AnsweredAt Instant `db:"answered_at" json:"answered_at,omitempty"` // 0 is not yet
	Wish       bool    `json:"wish,omitempty"`                         // the word is the name of a song
	SongID     int64   `db:"song_id" json:"song_id,omitempty"`         // of the song on the shelf; 0 is none
	Way        Names   `json:"way,omitempty"`                          // through what the way leads to it, as it was answered
	SentID     string  `db:"sent_id" json:"-"`
}

// WordsOf lists the words of a student, the newest first, at most so many.
func (s *Store) WordsOf(ctx context.Context, studio, student int64, most int) ([]Word, error) {
	return list[Word](ctx, s.read, "SELECT * FROM words WHERE studio_id = :studio AND student_id = :student ORDER BY said_at DESC, id DESC LIMIT :most",
		args{"studio": studio, "student": student, "most": limit(most)})
}

// OpenWord is a word that waits for its answer, and whose it is.
type OpenWord struct {
	Word
	Student string
}

// OpenWords lists the words of a studio that wait for their answers, the oldest first, at most so
// many.
func (s *Store) OpenWords(ctx context.Context, studio int64, most int) ([]OpenWord, error) {
	return list[OpenWord](ctx, s.read, `SELECT w.*, t.name AS student FROM words w JOIN students t ON t.studio_id = w.studio_id AND t.id = w.student_id AND t.deleted_at = 0
		WHERE w.studio_id = :studio AND w.answered_at = 0 ORDER BY w.said_at LIMIT :most`, args{"studio": studio, "most": most})
}

// AddWord keeps a word of a student. One that was sent before, by its SentID, is not kept again.
func (s *Store) AddWord(ctx context.Context, w Word) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return addWord(ctx, tx, &w) })
}

func addWord(ctx context.Context, q querier, w *Word) error {
	_, err := sqlx.NamedExecContext(ctx, q, `INSERT INTO words (studio_id, student_id, word, said_at, answer, answered_at, wish, song_id, way, sent_id)
		VALUES (:studio_id, :student_id, :word, :said_at, :answer, :answered_at, :wish, :song_id, :way, :sent_id) ON CONFLICT (student_id, sent_id) DO NOTHING`, w)
	return err
}

// AnswerWord answers a word of a student.
func (s *Store) AnswerWord(ctx context.Context, studio, student, id int64, answer string, now Instant) error {
	return s.change(ctx, "UPDATE words SET answer = :answer, answered_at = :now WHERE studio_id = :studio AND student_id = :student AND id = :id",
		args{"studio": studio, "student": student, "id": id, "answer": answer, "now": now})
}

// WishOf reads a wish of a student.
func (s *Store) WishOf(ctx context.Context, studio, student, id int64) (Word, error) {
	return get[Word](ctx, s.read, "SELECT * FROM words WHERE studio_id = :studio AND student_id = :student AND id = :id AND wish = 1",
		args{"studio": studio, "student": student, "id": id})
}

// WishesOf lists the songs that a student wishes for, the open ones first, at most so many.
func (s *Store) WishesOf(ctx context.Context, studio, student int64, most int) ([]Word, error) {
	return list[Word](ctx, s.read, `SELECT * FROM words WHERE studio_id = :studio AND student_id = :student AND wish = 1
		ORDER BY answered_at > 0, said_at DESC, id DESC LIMIT :most`, args{"studio": studio, "student": student, "most": most})
}

// OpenWishes is how many wishes of a student wait for their answers.
func (s *Store) OpenWishes(ctx context.Context, studio, student int64) (int, error) {
	return get[int](ctx, s.read, "SELECT count(*) FROM words WHERE +studio_id = :studio AND student_id = :student AND wish = 1 AND answered_at = 0", args{"studio": studio, "student": student})
}

// SetWish says which song of the shelf a wish is; 0 is none.
func (s *Store) SetWish(ctx context.Context, studio, student, id, song int64) error {
	return s.change(ctx, `UPDATE words SET song_id = :song WHERE studio_id = :studio AND student_id = :student AND id = :id AND wish = 1
		AND (:song = 0 OR EXISTS (SELECT 1 FROM songs WHERE studio_id = :studio AND id = :song AND deleted_at = 0))`,
		args{"studio": studio, "student": student, "id": id, "song": song})
}

// AnswerWish answers a wish, with the way that leads to it.
func (s *Store) AnswerWish(ctx context.Context, studio, student, id int64, answer string, way Names, now Instant) error {
	return s.change(ctx, "UPDATE words SET answer = :answer, way = :way, answered_at = :now WHERE studio_id = :studio AND student_id = :student AND id = :id AND wish = 1",
		args{"studio": studio, "student": student, "id": id, "answer": answer, "way": way, "now": now})
}

// DeleteWord removes a word of a student.
func (s *Store) DeleteWord(ctx context.Context, studio, student, id int64) error {
	return s.change(ctx, "DELETE FROM words WHERE studio_id = :studio AND student_id = :student AND id = :id",
		args{"studio": studio, "student": student, "id": id})
}
