package store

import (
	"context"
	"fmt"
	"strings"
	"unicode"
)

// FoundKind is what something is that was found.
type FoundKind int

// The kinds, as the numbers of their rows in the index end.
const (
	FoundSong FoundKind = iota
	FoundStudent
	FoundLesson
	FoundNote // of a lesson hour
	FoundWord // of a student
)

// Found is something that was looked for.
type Found struct {
	Kind     FoundKind
	ID       int64
	OwnerID  int64  `db:"owner_id"` // the student of a note or a word, the song of a lesson; 0 else
	Title    string // of a note or a word the name of its student
	Day      int    // of an hour, as core/progress counts days; 0 else
	At       Instant
	Archived bool
	Excerpt  string // around the words, which stand between \x02 and \x03
}

// matching is a query of the index: all words, each as the beginning of one, in a studio. It is
// empty where there is no word.
func matching(studio int64, words string) string {
	fields := strings.FieldsFunc(words, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.IsMark(r) })
	if len(fields) == 0 {
		return ""
	}
	const most = 12
	query := fmt.Sprintf("of:s%d AND {title body}:(", studio)
	for i, f := range fields[:min(len(fields), most)] {
		if i > 0 {
			query += " AND "
		}
		query += `"` + f + `"*` // a word has no quote
	}
	return query + ")"
}

// Find looks for words in all that a studio has written down: the best first, at most so many.
// What is deleted is not found.
func (s *Store) Find(ctx context.Context, studio int64, words string, most int) ([]Found, error) {
	query := matching(studio, words)
	if query == "" {
		return nil, nil
	}
	return list[Found](ctx, s.read, `WITH hits AS (
			SELECT f.rowid / 8 AS id, f.rowid % 8 AS kind, b.score AS rank, snippet(found, 2, char(2), char(3), '…', 12) AS excerpt
			FROM (SELECT rowid AS at, bm25(found, 0, 8, 1) AS score FROM found WHERE found MATCH :query ORDER BY score LIMIT :tries) b
			JOIN found f ON f.rowid = b.at WHERE found MATCH :query)
		SELECT kind, id, owner_id, title, day, at, archived, excerpt FROM (SELECT h.kind, h.id, 0 AS owner_id, s.title, 0 AS day, s.updated_at AS at, s.archived_at > 0 AS archived, h.excerpt, h.rank AS rank
			FROM hits h JOIN songs s ON h.kind = 0 AND s.id = h.id AND s.studio_id = :studio AND s.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, 0, t.name, 0, t.created_at, t.archived_at > 0, h.excerpt, h.rank
			FROM hits h JOIN students t ON h.kind = 1 AND t.id = h.id AND t.studio_id = :studio AND t.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, l.song_id, l.name, 0, l.created_at, l.archived_at > 0, h.excerpt, h.rank
			FROM hits h JOIN lessons l ON h.kind = 2 AND l.id = h.id AND l.studio_id = :studio AND l.deleted_at = 0
			JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id AND g.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, n.student_id, t.name, n.day, 0, 0, h.excerpt, h.rank
			FROM hits h JOIN hours n ON h.kind = 3 AND n.id = h.id AND n.studio_id = :studio JOIN students t ON t.studio_id = n.studio_id AND t.id = n.student_id AND t.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, w.student_id, t.name, 0, w.said_at, 0, h.excerpt, h.rank
			FROM hits h JOIN words w ON h.kind = 4 AND w.id = h.id AND w.studio_id = :studio JOIN students t ON t.studio_id = w.studio_id AND t.id = w.student_id AND t.deleted_at = 0
		) ORDER BY rank LIMIT :most`, args{"studio": studio, "query": query, "most": most, "tries": 2 * most})
}
