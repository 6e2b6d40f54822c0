package store

import "context"

// Had is a lesson in a student's hands with what became of it, what is finished as well.
type Had struct {
	ID         int64
	StudentID  int64   `db:"student_id"`
	LessonID   int64   `db:"lesson_id"`
	SongID     int64   `db:"song_id"`
	Name       string  // of the lesson
	Student    string  // their name
	Song       string  // its title as it is now
	Target     float64 // beats per minute
	AssignedAt Instant `db:"assigned_at"`
	EndedAt    Instant `db:"ended_at"` // 0 is not
	Parts      int     // that it has
	Learnt     int     // of them
	Minutes    int     // practised
	LastAt     Instant `db:"last_at"` // practised last; 0 is never
	Gone       bool    // the lesson is deleted
}

// History lists who had a song and what became of it, or with a student what they had: what is not
// finished first, then the latest, at most so many. 0 is any.
func (s *Store) History(ctx context.Context, studio, song, student int64, most int) ([]Had, error) {
	where := ""
	if song != 0 {
		where += " AND a.song_id = :song"
	}
	if student != 0 {
		where += " AND a.student_id = :student"
	}
	return list[Had](ctx, s.read, `SELECT a.id, a.student_id, a.lesson_id, a.song_id, a.name, t.name AS student, g.title AS song, a.target_tempo AS target, a.assigned_at, a.ended_at,
			(SELECT count(*) FROM assignment_parts p WHERE p.studio_id = a.studio_id AND p.assignment_id = a.id) AS parts,
			COALESCE((SELECT count(DISTINCT d.part_id) FROM standings d WHERE d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = '' AND d.learnt > 0), 0) AS learnt,
			COALESCE((SELECT sum(d.minutes) FROM standings d WHERE d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = ''), 0) AS minutes,
			COALESCE((SELECT max(d.last_at) FROM standings d WHERE d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = ''), 0) AS last_at,
			NOT EXISTS (SELECT 1 FROM lessons l WHERE l.studio_id = a.studio_id AND l.id = a.lesson_id AND l.deleted_at = 0 AND g.deleted_at = 0) AS gone
		FROM assignments a JOIN students t ON t.studio_id = a.studio_id AND t.id = a.student_id AND t.deleted_at = 0
		JOIN songs g ON g.studio_id = a.studio_id AND g.id = a.song_id
		WHERE a.studio_id = :studio`+where+` ORDER BY a.ended_at > 0, a.assigned_at DESC, a.id DESC LIMIT :most`,
		args{"studio": studio, "song": song, "student": student, "most": most})
}

// Sat is when and how long somebody practised.
type Sat struct {
	At      Instant
	Minutes int
}

// SatBetween lists when a student practised from one moment to before another, in the order of
// time.
func (s *Store) SatBetween(ctx context.Context, studio, student int64, from, to Instant) ([]Sat, error) {
	return list[Sat](ctx, s.read, `SELECT practised_at AS at, minutes FROM entries WHERE studio_id = :studio AND student_id = :student
		AND practised_at >= :from AND practised_at < :to ORDER BY practised_at`, args{"studio": studio, "student": student, "from": from, "to": to})
}

// LearntThen is a part that was learnt on a day, as core/progress counts days.
type LearntThen struct {
	Day        int
	Part, Name string // of the part and of the lesson
	LessonID   int64  `db:"lesson_id"`
}

// LearntBetween lists what a student learnt from one day to another, in the order of time.
func (s *Store) LearntBetween(ctx context.Context, studio, student int64, from, to int) ([]LearntThen, error) {
	return list[LearntThen](ctx, s.read, `SELECT d.learnt AS day, p.part, a.name, a.lesson_id FROM assignments a
		JOIN standings d ON d.studio_id = a.studio_id AND d.assignment_id = a.id AND d.step = '' AND d.learnt BETWEEN :from AND :to
		JOIN assignment_parts p ON p.studio_id = a.studio_id AND p.assignment_id = a.id AND p.part_id = d.part_id AND p.rung = d.rung
		WHERE a.studio_id = :studio AND a.student_id = :student ORDER BY d.learnt, a.id, p.position`, args{"studio": studio, "student": student, "from": from, "to": to})
}

// HoursBetween lists the lesson hours of a student that have notes, from one day to another, in
// the order of time.
func (s *Store) HoursBetween(ctx context.Context, studio, student int64, from, to int) ([]Hour, error) {
	return list[Hour](ctx, s.read, `SELECT * FROM hours WHERE studio_id = :studio AND student_id = :student AND day BETWEEN :from AND :to ORDER BY day`,
		args{"studio": studio, "student": student, "from": from, "to": to})
}

// FirstPractice is when a student practised first; 0 is never.
func (s *Store) FirstPractice(ctx context.Context, studio, student int64) (Instant, error) {
	return get[Instant](ctx, s.read, "SELECT COALESCE(min(practised_at), 0) FROM entries WHERE studio_id = :studio AND student_id = :student", args{"studio": studio, "student": student})
}
