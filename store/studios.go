package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Studio is a teacher's studio and its settings.
type Studio struct {
	ID          int64   `json:"id"`
	Name        string  `json:"name"`
	StringNames string  `db:"string_names" json:"string_names"` // six, low to high
	Counting    string  `json:"counting"`
	ChordSchool string  `db:"chord_school" json:"chord_school"` // of easier chords
	Numbering   string  `json:"numbering"`                      // of minor songs
	TimeZone    string  `db:"time_zone" json:"time_zone"`       // of its days; empty is the machine's
	Shapes      string  `json:"shapes"`                         // on paper: lying or upright
	Paper       string  `json:"paper"`                          // a4 or letter
	OpenHours   string  `db:"open_hours" json:"open_hours"`     // when lessons are given, as typed
	CreatedAt   Instant `db:"created_at" json:"created_at"`
}

// Teacher signs in to a studio.
type Teacher struct {
	ID       int64
	StudioID int64 `db:"studio_id"`
	Name     string
	Email    string
	Password string // hashed
	// Generation is that of the sessions that are good.
	Generation int64
}

// HasStudio tells whether any studio has been set up.
func (s *Store) HasStudio(ctx context.Context) (bool, error) {
	n, err := get[int](ctx, s.read, "SELECT EXISTS (SELECT 1 FROM studios)", args{})
	return n == 1, err
}

// SetUp is AddStudio for the first one; where there is one already it fails with
// ErrConflict, however many try at once.
func (s *Store) SetUp(ctx context.Context, name string, t Teacher, now Instant) (studio int64, err error) {
	return s.addStudio(ctx, name, t, now, true)
}

// AddStudio sets up a studio and its teacher.
func (s *Store) AddStudio(ctx context.Context, name string, t Teacher, now Instant) (studio int64, err error) {
	return s.addStudio(ctx, name, t, now, false)
}

func (s *Store) addStudio(ctx context.Context, name string, t Teacher, now Instant, first bool) (studio int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
		if first {
			there, err := get[int](ctx, tx, "SELECT EXISTS (SELECT 1 FROM studios)", args{})
			if err != nil {
				return err
			}
			if there == 1 {
				return ErrConflict
			}
		}
		studio, err = insert(ctx, tx, "INSERT INTO studios (name, created_at) VALUES (:name, :now)", args{"name": name, "now": now})
		if err != nil {
			return err
		}
		_, err = insert(ctx, tx, "INSERT INTO teachers (studio_id, name, email, password) VALUES (:studio, :name, :email, :password)",
			args{"studio": studio, "name": t.Name, "email": t.Email, "password": t.Password})
		return err
	})
	return studio, err
}

// TeacherByEmail finds the teacher who signs in with an address.
func (s *Store) TeacherByEmail(ctx context.Context, email string) (Teacher, error) {
	return get[Teacher](ctx, s.read, "SELECT * FROM teachers WHERE email = :email", args{"email": email})
}

// Teacher finds a teacher of a studio.
func (s *Store) Teacher(ctx context.Context, studio, id int64) (Teacher, error) {
	return get[Teacher](ctx, s.read, "SELECT * FROM teachers WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
}

// SignedIn is a studio and one of its teachers.
type SignedIn struct {
	Studio
	Teacher Teacher
}

// SignedIn reads a studio with one of its teachers.
func (s *Store) SignedIn(ctx context.Context, studio, teacher int64) (SignedIn, error) {
	return get[SignedIn](ctx, s.read, `SELECT s.*, t.id AS "teacher.id", t.studio_id AS "teacher.studio_id", t.name AS "teacher.name", t.email AS "teacher.email",
		t.password AS "teacher.password", t.generation AS "teacher.generation" FROM studios s JOIN teachers t ON t.studio_id = s.id
		WHERE s.id = :studio AND t.id = :teacher`, args{"studio": studio, "teacher": teacher})
}

// SetPassword replaces a teacher's hashed password and ends all their sessions.
func (s *Store) SetPassword(ctx context.Context, studio, teacher int64, hash string) error {
	return s.change(ctx, "UPDATE teachers SET password = :hash, generation = generation + 1 WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": teacher, "hash": hash})
}

// SetHash replaces the hash of a password that stays the same.
func (s *Store) SetHash(ctx context.Context, studio, teacher int64, hash string) error {
	return s.change(ctx, "UPDATE teachers SET password = :hash WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": teacher, "hash": hash})
}

// Session reads what is kept of a session that has not ended.
func (s *Store) Session(ctx context.Context, token string) ([]byte, error) {
	return get[[]byte](ctx, s.read, "SELECT data FROM sessions WHERE token = :token AND julianday('now') < expiry", args{"token": token})
}

// EndSessions ends all sessions of a teacher for good, also those of requests that
// are under way.
func (s *Store) EndSessions(ctx context.Context, studio, teacher int64) error {
	return s.change(ctx, "UPDATE teachers SET generation = generation + 1 WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": teacher})
}

// SetEmail changes the address that a teacher signs in with; ErrConflict where
// another has it.
func (s *Store) SetEmail(ctx context.Context, studio, teacher int64, email string) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "id": teacher, "email": email}
		taken, err := get[int](ctx, tx, "SELECT EXISTS (SELECT 1 FROM teachers WHERE email = :email AND id <> :id)", a)
		if err != nil {
			return err
		}
		if taken == 1 {
			return ErrConflict
		}
		return change(ctx, tx, "UPDATE teachers SET email = :email WHERE studio_id = :studio AND id = :id", a)
	})
}

// SetCodes replaces a teacher's recovery codes, which are given as their hashes.
func (s *Store) SetCodes(ctx context.Context, studio, teacher int64, hashes [][]byte) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "id": teacher}
		if _, err := get[int](ctx, tx, "SELECT 1 FROM teachers WHERE studio_id = :studio AND id = :id", a); err != nil {
			return err
		}
		if _, err := sqlx.NamedExecContext(ctx, tx, "DELETE FROM recovery_codes WHERE studio_id = :studio AND teacher_id = :id", a); err != nil {
			return err
		}
		for _, hash := range hashes {
			a["hash"] = hash
			if _, err := insert(ctx, tx, "INSERT INTO recovery_codes (studio_id, teacher_id, hash) VALUES (:studio, :id, :hash)", a); err != nil {
				return err
			}
		}
		return nil
	})
}

// CodesLeft is how many recovery codes a teacher has.
func (s *Store) CodesLeft(ctx context.Context, studio, teacher int64) (int, error) {
	return get[int](ctx, s.read, "SELECT count(*) FROM recovery_codes WHERE studio_id = :studio AND teacher_id = :id", args{"studio": studio, "id": teacher})
}

// Recover sets a teacher's password by a recovery code, which is used up, and ends
// all their sessions. ErrNotFound where the code is none of theirs.
func (s *Store) Recover(ctx context.Context, studio, teacher int64, code []byte, password string) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "id": teacher, "code": code, "password": password}
		if err := change(ctx, tx, "DELETE FROM recovery_codes WHERE studio_id = :studio AND teacher_id = :id AND hash = :code", a); err != nil {
			return err
		}
		return change(ctx, tx, "UPDATE teachers SET password = :password, generation = generation + 1 WHERE studio_id = :studio AND id = :id", a)
	})
}

// mostBrowsers is how many browsers of a teacher are remembered.
const mostBrowsers = 20

// KnowBrowser remembers a browser in which a teacher has signed in, by the hash of
// what it carries.
func (s *Store) KnowBrowser(ctx context.Context, studio, teacher int64, hash []byte, now Instant) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		a := args{"studio": studio, "id": teacher, "hash": hash, "now": now, "most": mostBrowsers}
		for _, query := range []string{
			`INSERT INTO known_browsers (studio_id, teacher_id, hash, seen_at) VALUES (:studio, :id, :hash, :now)
				ON CONFLICT (teacher_id, hash) DO UPDATE SET seen_at = excluded.seen_at`,
			`DELETE FROM known_browsers WHERE studio_id = :studio AND teacher_id = :id AND hash NOT IN
				(SELECT hash FROM known_browsers WHERE studio_id = :studio AND teacher_id = :id ORDER BY seen_at DESC LIMIT :most)`,
		} {
			if _, err := sqlx.NamedExecContext(ctx, tx, query, a); err != nil {
				return err
			}
		}
		return nil
	})
}

// KnowsBrowser tells whether a teacher has signed in in a browser before.
func (s *Store) KnowsBrowser(ctx context.Context, studio, teacher int64, hash []byte) (bool, error) {
	n, err := get[int](ctx, s.read, "SELECT EXISTS (SELECT 1 FROM known_browsers WHERE studio_id = :studio AND teacher_id = :id AND hash = :hash)",
		args{"studio": studio, "id": teacher, "hash": hash})
	return n == 1, err
}

// Studio reads a studio.
func (s *Store) Studio(ctx context.Context, studio int64) (Studio, error) {
	return get[Studio](ctx, s.read, "SELECT * FROM studios WHERE id = :studio", args{"studio": studio})
}

// SetStudio changes the settings of a studio. In another zone days begin at other
// times, so that its standings are made again.
func (s *Store) SetStudio(ctx context.Context, st Studio) error {
	return s.in(ctx, func(tx *sqlx.Tx) error {
		before, err := get[Studio](ctx, tx, "SELECT * FROM studios WHERE id = :id", args{"id": st.ID})
		if err != nil {
			return err
		}
		err = change(ctx, tx, `UPDATE studios SET name = :name, string_names = :names, counting = :counting,
			chord_school = :school, numbering = :numbering, time_zone = :zone, shapes = :shapes, paper = :paper WHERE id = :id`,
			args{"id": st.ID, "name": st.Name, "names": st.StringNames, "counting": st.Counting, "school": st.ChordSchool, "numbering": st.Numbering, "zone": st.TimeZone, "shapes": st.Shapes, "paper": st.Paper})
		if err == nil && before.ChordSchool != st.ChordSchool {
			err = stale(ctx, tx, st.ID, 0)
		}
		if err != nil || before.TimeZone == st.TimeZone {
			return err
		}
		return restand(ctx, tx, st.ID)
	})
}
