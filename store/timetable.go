package store

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/base64"

	"github.com/jmoiron/sqlx"

	"valleyside/core/timetable"
)

// Series is a lesson that comes again, or a single one, of one student or of several together.
type Series struct {
	ID         int64   `json:"id"`
	StudioID   int64   `db:"studio_id" json:"-"`
	FirstDay   int     `db:"first_day" json:"first_day"` // days as core/progress counts them
	LastDay    int     `db:"last_day" json:"last_day"`   // 0 is none
	Every      int     `json:"every"`                    // weeks; 0 is a single lesson
	At         int     `json:"at"`                       // minutes from midnight; −1 is no time
	Minutes    int     `json:"minutes"`
	MakesUp    int64   `db:"makes_up" json:"makes_up,omitempty"` // the series of a lesson that it makes up
	MakesUpDay int     `db:"makes_up_day" json:"makes_up_day,omitempty"`
	Students   []int64 `db:"-" json:"students"`
}

// Rule says when the lessons of a series are.
func (s *Series) Rule() timetable.Series {
	return timetable.Series{ID: s.ID, First: s.FirstDay, Last: s.LastDay, Every: s.Every, At: s.At, Minutes: s.Minutes}
}

// Change is what was done to the lesson of a series on a day.
type Change struct {
	StudioID int64          `db:"studio_id" json:"-"`
	SeriesID int64          `db:"series_id" json:"series_id"`
	Day      int            `json:"day"`
	Kind     timetable.Kind `json:"kind"`
	ToDay    int            `db:"to_day" json:"to_day,omitempty"`
	ToAt     int            `db:"to_at" json:"to_at,omitempty"`
}

// Holiday is when a studio gives no lessons.
type Holiday struct {
	ID       int64  `json:"id"`
	StudioID int64  `db:"studio_id" json:"-"`
	FirstDay int    `db:"first_day" json:"first_day"`
	LastDay  int    `db:"last_day" json:"last_day"`
	Name     string `json:"name"`
}

// Timetable is what a studio's lessons are worked out from.
type Timetable struct {
	Series   []Series
	Changes  []Change
	Holidays []Holiday
}

// Lessons lists the lessons from a day to another, those as well that do not take place.
func (t *Timetable) Lessons(from, to int) []timetable.Lesson {
	var series []timetable.Series
	for _, s := range t.Series {
		series = append(series, s.Rule())
	}
	var changes []timetable.Change
	for _, c := range t.Changes {
		changes = append(changes, timetable.Change{Series: c.SeriesID, Day: c.Day, Kind: c.Kind, ToDay: c.ToDay, ToAt: c.ToAt})
	}
	return timetable.Between(series, changes, t.Free(), from, to)
}

// Free are the holidays.
func (t *Timetable) Free() (list []timetable.Holiday) {
	for _, h := range t.Holidays {
		list = append(list, timetable.Holiday{First: h.FirstDay, Last: h.LastDay, Name: h.Name})
	}
	return list
}

// With is the series that a lesson is of; nil where it is not there.
func (t *Timetable) With(id int64) *Series {
	for i := range t.Series {
		if t.Series[i].ID == id {
			return &t.Series[i]
		}
	}
	return nil
}

// timetableQuery asks for the series that have lessons from a day to another, or from which one was
// moved there, each by an index of its own.
const timetableQuery = `SELECT s.* FROM series s WHERE s.studio_id = :studio AND s.every > 0 AND s.last_day = 0 AND s.first_day <= :to
	UNION SELECT s.* FROM series s WHERE s.studio_id = :studio AND s.every > 0 AND s.last_day >= :from AND s.first_day <= :to
	UNION SELECT s.* FROM series s WHERE s.studio_id = :studio AND s.every = 0 AND s.first_day BETWEEN :from AND :to
	UNION SELECT s.* FROM changes c JOIN series s ON s.studio_id = c.studio_id AND s.id = c.series_id
		WHERE c.studio_id = :studio AND c.kind = 'moved' AND c.to_day BETWEEN :from AND :to`

// timetableOf is that of one student.
const timetableOf = `SELECT s.* FROM series_students m JOIN series s ON s.studio_id = m.studio_id AND s.id = m.series_id WHERE m.studio_id = :studio AND m.student_id = :student`

// Timetable reads what the lessons of a studio from a day to another are worked out from, or with a
// student those of theirs, whenever they are. Series whose students are all deleted are left out.
func (s *Store) Timetable(ctx context.Context, studio, student int64, from, to int) (t Timetable, err error) {
	a := args{"studio": studio, "student": student, "from": from, "to": to}
	query := timetableQuery
	if student != 0 {
		query = timetableOf
	}
	series, err := list[Series](ctx, s.read, query, a)
	if err != nil {
		return t, err
	}
	ids := make([]int64, len(series))
	for i := range series {
		ids[i] = series[i].ID
	}
	a["ids"] = numbersOf(ids)
	who, err := studentsOf(ctx, s.read, `SELECT m.series_id, m.student_id FROM series_students m CROSS JOIN students t ON t.studio_id = m.studio_id AND t.id = m.student_id AND t.deleted_at = 0
		WHERE m.studio_id = :studio AND m.series_id IN (SELECT value FROM json_each(:ids)) ORDER BY m.series_id, t.name COLLATE NOCASE, t.id`, a)
	if err != nil {
		return t, err
	}
	for _, one := range series {
		if one.Students = who[one.ID]; len(one.Students) > 0 {
			t.Series = append(t.Series, one)
		}
	}
	changes := `SELECT * FROM changes WHERE studio_id = :studio AND day BETWEEN :from AND :to
		UNION SELECT * FROM changes WHERE studio_id = :studio AND kind = 'moved' AND to_day BETWEEN :from AND :to`
	if student != 0 {
		changes = `SELECT * FROM changes WHERE studio_id = :studio AND series_id IN (SELECT value FROM json_each(:ids))
			AND (day BETWEEN :from AND :to OR kind = 'moved' AND to_day BETWEEN :from AND :to)`
	}
	t.Changes, err = list[Change](ctx, s.read, changes, a)
	if err != nil {
		return t, err
	}
	t.Holidays, err = list[Holiday](ctx, s.read, "SELECT * FROM holidays WHERE studio_id = :studio AND last_day >= :from AND first_day <= :to ORDER BY first_day, id", a)
	return t, err
}

func studentsOf(ctx context.Context, q querier, query string, a args) (map[int64][]int64, error) {
	type row struct {
		SeriesID  int64 `db:"series_id"`
		StudentID int64 `db:"student_id"`
	}
	rows, err := list[row](ctx, q, query, a)
	of := map[int64][]int64{}
	for _, r := range rows {
		of[r.SeriesID] = append(of[r.SeriesID], r.StudentID)
	}
	return of, err
}

// AddSeries adds a series with its students.
func (s *Store) AddSeries(ctx context.Context, one Series) (id int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error { id, err = addSeries(ctx, tx, one); return err })
	return id, err
}

func addSeries(ctx context.Context, tx querier, one Series) (int64, error) {
	id, err := insert(ctx, tx, `INSERT INTO series (studio_id, first_day, last_day, every, at, minutes, makes_up, makes_up_day)
		VALUES (:studio, :first, :last, :every, :at, :minutes, :of, :day)`,
		args{"studio": one.StudioID, "first": one.FirstDay, "last": one.LastDay, "every": one.Every, "at": one.At, "minutes": one.Minutes, "of": one.MakesUp, "day": one.MakesUpDay})
	for _, student := range one.Students {
		if err == nil {
			err = change(ctx, tx, `INSERT INTO series_students (studio_id, series_id, student_id) SELECT studio_id, :series, id FROM students
				WHERE studio_id = :studio AND id = :student`, args{"studio": one.StudioID, "series": id, "student": student})
		}
	}
	return id, err
}

// EndSeries has a series end before a day; one that has not begun by then is removed.
func (s *Store) EndSeries(ctx context.Context, studio, id int64, day int) error {
	return s.in(ctx, func(tx *sqlx.Tx) error { return endSeries(ctx, tx, studio, id, day) })
}

func endSeries(ctx context.Context, tx *sqlx.Tx, studio, id int64, day int) error {
	a := args{"studio": studio, "id": id, "day": day}
	one, err := get[Series](ctx, tx, "SELECT * FROM series WHERE studio_id = :studio AND id = :id", a)
	if err != nil {
		return err
	}
	if one.FirstDay >= day || one.Every == 0 {
		return run(ctx, tx, "DELETE FROM series WHERE studio_id = :studio AND id = :id", a)
	}
	return run(ctx, tx, "UPDATE series SET last_day = :day - 1 WHERE studio_id = :studio AND id = :id", a)
}

// SetPlace gives a student a place of their own every week from a day on, or with weekday −1 none.
// What they had alone until then ends; a place that is shared with others stays.
func (s *Store) SetPlace(ctx context.Context, studio, student int64, weekday, at, minutes, day int) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		alone, err := list[Series](ctx, tx, timetableOf+` AND s.every > 0 AND s.last_day = 0
			AND NOT EXISTS (SELECT 1 FROM series_students o WHERE o.series_id = s.id AND o.student_id <> :student)`, args{"studio": studio, "student": student})
		if err != nil {
			return err
		}
		for _, one := range alone {
			minutes = cmp.Or(minutes, one.Minutes)
			if err := endSeries(ctx, tx, studio, one.ID, day); err != nil {
				return err
			}
		}
		if weekday < 0 {
			return nil
		}
		_, err = addSeries(ctx, tx, weekly(studio, student, weekday, at, minutes, day))
		return err
	})
}

// usualLesson is how many minutes a lesson has of which nothing is said.
const usualLesson = 45

// weekly is a place every week, from the first such weekday since a day on.
func weekly(studio, student int64, weekday, at, minutes, day int) Series {
	first := day + (weekday-int(timetable.Weekday(day))+7)%7
	return Series{StudioID: studio, FirstDay: first, Every: 1, At: at, Minutes: cmp.Or(minutes, usualLesson), Students: []int64{student}}
}

// SetChange moves or cancels the lesson of a series on a day.
func (s *Store) SetChange(ctx context.Context, c Change) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		return change(ctx, tx, `INSERT INTO changes (studio_id, series_id, day, kind, to_day, to_at)
			SELECT studio_id, id, :day, :kind, :to_day, :to_at FROM series WHERE studio_id = :studio AND id = :series
			ON CONFLICT (series_id, day) DO UPDATE SET kind = excluded.kind, to_day = excluded.to_day, to_at = excluded.to_at`,
			args{"studio": c.StudioID, "series": c.SeriesID, "day": c.Day, "kind": c.Kind, "to_day": c.ToDay, "to_at": c.ToAt})
	})
}

// DeleteChange has the lesson of a series on a day be as always.
func (s *Store) DeleteChange(ctx context.Context, studio, series int64, day int) error {
	return s.change(ctx, "DELETE FROM changes WHERE studio_id = :studio AND series_id = :series AND day = :day", args{"studio": studio, "series": series, "day": day})
}

// Owed lists the lessons since a day that were cancelled in time and are not made up yet, the
// oldest first, each with its series.
func (s *Store) Owed(ctx context.Context, studio int64, since int) ([]Change, error) {
	return list[Change](ctx, s.read, `SELECT c.* FROM changes c WHERE c.studio_id = :studio AND c.day >= :since AND c.kind = 'in time'
		AND NOT EXISTS (SELECT 1 FROM series m WHERE m.studio_id = c.studio_id AND m.makes_up = c.series_id AND m.makes_up_day = c.day AND m.makes_up > 0)
		ORDER BY c.day, c.series_id`, args{"studio": studio, "since": since})
}

// SeriesWith reads some series, with their students.
func (s *Store) SeriesWith(ctx context.Context, studio int64, ids ...int64) ([]Series, error) {
	a := args{"studio": studio, "ids": numbersOf(ids)}
	series, err := list[Series](ctx, s.read, "SELECT * FROM series WHERE studio_id = :studio AND id IN (SELECT value FROM json_each(:ids))", a)
	if err != nil {
		return nil, err
	}
	who, err := studentsOf(ctx, s.read, "SELECT series_id, student_id FROM series_students WHERE studio_id = :studio AND series_id IN (SELECT value FROM json_each(:ids))", a)
	for i := range series {
		series[i].Students = who[series[i].ID]
	}
	return series, err
}

// AddHoliday adds days without lessons.
func (s *Store) AddHoliday(ctx context.Context, h Holiday) (id int64, err error) {
	return s.insert(ctx, "INSERT INTO holidays (studio_id, first_day, last_day, name) VALUES (:studio, :first, :last, :name)",
		args{"studio": h.StudioID, "first": h.FirstDay, "last": h.LastDay, "name": h.Name})
}

// Holiday reads days without lessons.
func (s *Store) Holiday(ctx context.Context, studio, id int64) (Holiday, error) {
	return get[Holiday](ctx, s.read, "SELECT * FROM holidays WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
}

// DeleteHoliday removes days without lessons.
func (s *Store) DeleteHoliday(ctx context.Context, studio, id int64) error {
	return s.change(ctx, "DELETE FROM holidays WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
}

// SetOpenHours keeps when lessons are given, as typed.
func (s *Store) SetOpenHours(ctx context.Context, studio int64, hours string) error {
	return s.change(ctx, "UPDATE studios SET open_hours = :hours WHERE id = :studio", args{"studio": studio, "hours": hours})
}

// Calendar is an address at which a calendar finds lessons: of a studio, or of a student.
type Calendar struct {
	StudioID  int64   `db:"studio_id"`
	StudentID int64   `db:"student_id"` // 0 is the whole studio
	Names     bool    // whether it says who comes
	MadeAt    Instant `db:"made_at"`
}

// CalendarOf reads the address of a studio, or of a student; ErrNotFound where there is none.
func (s *Store) CalendarOf(ctx context.Context, studio, student int64) (Calendar, error) {
	return get[Calendar](ctx, s.read, "SELECT studio_id, student_id, names, made_at FROM calendars WHERE studio_id = :studio AND student_id = :student", args{"studio": studio, "student": student})
}

// SetCalendar makes an address, in the place of the one that was there, and gives its secret. Only
// its hash is kept.
func (s *Store) SetCalendar(ctx context.Context, c Calendar) (token string, err error) {
	if c.StudentID != 0 {
		if _, err := s.Student(ctx, c.StudioID, c.StudentID); err != nil {
			return "", err
		}
	}
	secret := make([]byte, 16)
	rand.Read(secret)
	token = base64.RawURLEncoding.EncodeToString(secret)
	return token, s.run(ctx, `INSERT INTO calendars (studio_id, student_id, hash, names, made_at) VALUES (:studio, :student, :hash, :names, :now)
		ON CONFLICT (studio_id, student_id) DO UPDATE SET hash = excluded.hash, names = excluded.names, made_at = excluded.made_at`,
		args{"studio": c.StudioID, "student": c.StudentID, "hash": hashLink(token), "names": c.Names, "now": c.MadeAt})
}

// EndCalendar ends an address.
func (s *Store) EndCalendar(ctx context.Context, studio, student int64) error {
	return s.change(ctx, "DELETE FROM calendars WHERE studio_id = :studio AND student_id = :student", args{"studio": studio, "student": student})
}

// CalendarBy finds the calendar whose address carries a token; that of a student who is deleted is
// none.
func (s *Store) CalendarBy(ctx context.Context, token string) (Calendar, error) {
	return get[Calendar](ctx, s.read, `SELECT c.studio_id, c.student_id, c.names, c.made_at FROM calendars c WHERE c.hash = :hash
		AND (c.student_id = 0 OR EXISTS (SELECT 1 FROM students t WHERE t.studio_id = c.studio_id AND t.id = c.student_id AND t.deleted_at = 0))`, args{"hash": hashLink(token)})
}

// withoutStudents removes what was of students who are not there any more.
func withoutStudents(ctx context.Context, tx *sqlx.Tx) error {
	if err := run(ctx, tx, "DELETE FROM series WHERE NOT EXISTS (SELECT 1 FROM series_students m WHERE m.series_id = series.id)", args{}); err != nil {
		return err
	}
	if err := forgetAbout(ctx, tx); err != nil {
		return err
	}
	return run(ctx, tx, "DELETE FROM calendars WHERE student_id > 0 AND NOT EXISTS (SELECT 1 FROM students t WHERE t.id = calendars.student_id)", args{})
}
