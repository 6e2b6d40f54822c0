package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
)

// Link opens a student's own page. Its secret is not kept.
type Link struct {
	ID        int64   `json:"id"`
	StudentID int64   `db:"student_id" json:"student_id"`
	Name      string  `json:"name"` // what it is for
	MadeAt    Instant `db:"made_at" json:"made_at"`
}

// ListedLink is a link and whose it is.
type ListedLink struct {
	Link
	Student string
}

// Links lists the links of a studio's students, the newest first, as many from the offset on
// as are asked for.
func (s *Store) Links(ctx context.Context, studio int64, most, offset int) ([]ListedLink, error) {
	return list[ListedLink](ctx, s.read, `SELECT l.id, l.student_id, l.name, l.made_at, t.name AS student FROM links l
		JOIN students t ON t.studio_id = l.studio_id AND t.id = l.student_id AND t.deleted_at = 0
		WHERE l.studio_id = :studio ORDER BY l.made_at DESC, l.id DESC LIMIT :most OFFSET :offset`,
		args{"studio": studio, "most": limit(most), "offset": offset})
}

// WithoutLink is how many students of a studio have no link.
func (s *Store) WithoutLink(ctx context.Context, studio int64) (int, error) {
	return get[int](ctx, s.read, `SELECT count(*) FROM students t WHERE t.studio_id = :studio AND t.deleted_at = 0 AND t.archived_at = 0
		AND NOT EXISTS (SELECT 1 FROM links l WHERE l.studio_id = t.studio_id AND l.student_id = t.id)`, args{"studio": studio})
}

// LinksOf lists the links of a student, the newest first.
func (s *Store) LinksOf(ctx context.Context, studio, student int64) ([]Link, error) {
	return list[Link](ctx, s.read, `SELECT id, student_id, name, made_at FROM links
		WHERE studio_id = :studio AND student_id = :student ORDER BY made_at DESC, id DESC`, args{"studio": studio, "student": student})
}

// AddLink gives a student one more link, with a secret token of 128 random bits.
// Only its hash is kept, so this is the one time it is seen.
func (s *Store) AddLink(ctx context.Context, studio, student int64, name string, now Instant) (token string, err error) {
	if _, err := s.Student(ctx, studio, student); err != nil {
		return "", err
	}
	secret := make([]byte, 16)
	rand.Read(secret)
	token = base64.RawURLEncoding.EncodeToString(secret)
	_, err = s.insert(ctx, "INSERT INTO links (studio_id, student_id, name, hash, made_at) VALUES (:studio, :student, :name, :hash, :now)",
		args{"studio": studio, "student": student, "name": name, "hash": hashLink(token), "now": now})
	return token, err
}

// EndLink takes one link of a student away.
func (s *Store) EndLink(ctx context.Context, studio, student, id int64) error {
	return s.change(ctx, "DELETE FROM links WHERE studio_id = :studio AND student_id = :student AND id = :id",
		args{"studio": studio, "student": student, "id": id})
}

// StudentByLink finds the student whose link carries a token.
func (s *Store) StudentByLink(ctx context.Context, token string) (Student, error) {
	return get[Student](ctx, s.read, studentColumns+` JOIN links l ON l.studio_id = t.studio_id AND l.student_id = t.id
		WHERE l.hash = :hash AND t.deleted_at = 0`, args{"hash": hashLink(token)})
}

func hashLink(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}
