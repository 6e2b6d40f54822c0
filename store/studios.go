package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Studio is a teacher's studio and its settings.
type Studio struct {
	ID          int64  `json:"id"`
	Name        string `json:"name"`
	StringNames string `db:"string_names" json:"string_names"` // six, low to high
	Counting    string `json:"counting"`
	ChordSchool string `db:"chord_school" json:"chord_school"` // of easier chords
	Numbering   string `json:"numbering"`                      // of minor songs
	CreatedAt   Moment `db:"created_at" json:"created_at"`
}

// Teacher signs in to a studio.
type Teacher struct {
	ID       int64
	StudioID int64 `db:"studio_id"`
	Name     string
	Email    string
	Password string // hashed
}

// HasStudio tells whether any studio has been set up.
func (s *Store) HasStudio(ctx context.Context) (bool, error) {
	n, err := get[int](ctx, s.db, "SELECT EXISTS (SELECT 1 FROM studios)", args{})
	return n == 1, err
}

// AddStudio sets up a studio and its teacher.
func (s *Store) AddStudio(ctx context.Context, name string, t Teacher, now Moment) (studio int64, err error) {
	err = s.in(ctx, func(tx *sqlx.Tx) error {
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
	return get[Teacher](ctx, s.db, "SELECT * FROM teachers WHERE email = :email", args{"email": email})
}

// Teacher finds a teacher of a studio.
func (s *Store) Teacher(ctx context.Context, studio, id int64) (Teacher, error) {
	return get[Teacher](ctx, s.db, "SELECT * FROM teachers WHERE studio_id = :studio AND id = :id", args{"studio": studio, "id": id})
}

// SetPassword replaces a teacher's hashed password.
func (s *Store) SetPassword(ctx context.Context, studio, teacher int64, hash string) error {
	return change(ctx, s.db, "UPDATE teachers SET password = :hash WHERE studio_id = :studio AND id = :id",
		args{"studio": studio, "id": teacher, "hash": hash})
}

// Studio reads a studio.
func (s *Store) Studio(ctx context.Context, studio int64) (Studio, error) {
	return get[Studio](ctx, s.db, "SELECT * FROM studios WHERE id = :studio", args{"studio": studio})
}

// SetStudio changes the settings of a studio.
func (s *Store) SetStudio(ctx context.Context, st Studio) error {
	return change(ctx, s.db, `UPDATE studios SET name = :name, string_names = :names, counting = :counting,
		chord_school = :school, numbering = :numbering WHERE id = :id`,
		args{"id": st.ID, "name": st.Name, "names": st.StringNames, "counting": st.Counting, "school": st.ChordSchool, "numbering": st.Numbering})
}
