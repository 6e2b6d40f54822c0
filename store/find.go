package store

import (
	"context"
	"database/sql/driver"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
	"modernc.org/sqlite"
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

// between tells whether a sign stands between words.
func between(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.IsMark(r) }

// matching is a query of the index: all words, each as the beginning of one, in a column of a
// studio's texts. It is empty where there is no word.
func matching(studio int64, column, words string) string {
	fields := strings.FieldsFunc(words, between)
	if len(fields) == 0 {
		return ""
	}
	const most = 12
	query := fmt.Sprintf("of:s%d AND %s:(", studio, column)
	for i, f := range fields[:min(len(fields), most)] {
		if i > 0 {
			query += " AND "
		}
		query += `"` + f + `"*` // a word has no quote
	}
	return query + ")"
}

// How many texts with the words in them are looked at, the newest first: of songs, students, lessons
// and words, and of notes, of which there are most.
const farHits, farNotes = 2000, 200

// Find looks for words in all that a studio has written down: of each kind at most so many, those
// first that have the words in their title, then the newest. What is deleted is not found.
func (s *Store) Find(ctx context.Context, studio int64, words string, most int) ([]Found, error) {
	query := matching(studio, "{title body}", words)
	if query == "" {
		return nil, nil
	}
	const few = "rowid <= 7 + 8 * (SELECT max(id) FROM (SELECT max(id) AS id FROM songs UNION ALL SELECT max(id) FROM students UNION ALL SELECT max(id) FROM lessons UNION ALL SELECT max(id) FROM words))"
	return list[Found](ctx, s.read, `WITH near AS (SELECT at, max(titled) AS titled FROM (
				SELECT * FROM (SELECT rowid AS at, 1 AS titled FROM found WHERE found MATCH :titles AND `+few+` ORDER BY rowid DESC LIMIT :far)
				UNION ALL SELECT * FROM (SELECT rowid, 0 FROM found WHERE found MATCH :query AND `+few+` ORDER BY rowid DESC LIMIT :far)
				UNION ALL SELECT * FROM (SELECT rowid, 0 FROM found WHERE found MATCH :query ORDER BY rowid DESC LIMIT :notes)
			) GROUP BY at),
		best AS (SELECT at, rank FROM (SELECT at, row_number() OVER (PARTITION BY at % 8 ORDER BY titled DESC, at DESC) AS rank FROM near) WHERE rank <= :tries),
		hits AS MATERIALIZED (SELECT f.rowid / 8 AS id, f.rowid % 8 AS kind, b.rank, excerpt(f.body, :words) AS excerpt FROM best b JOIN found f ON f.rowid = b.at)
		SELECT kind, id, owner_id, title, day, at, archived, excerpt FROM (SELECT h.kind, h.id, 0 AS owner_id, s.title, 0 AS day, s.updated_at AS at, s.archived_at > 0 AS archived, h.excerpt, h.rank AS rank
			FROM hits h CROSS JOIN songs s ON h.kind = 0 AND s.id = h.id AND s.studio_id = :studio AND s.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, 0, t.name, 0, t.created_at, t.archived_at > 0, h.excerpt, h.rank
			FROM hits h CROSS JOIN students t ON h.kind = 1 AND t.id = h.id AND t.studio_id = :studio AND t.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, l.song_id, l.name, 0, l.created_at, l.archived_at > 0, h.excerpt, h.rank
			FROM hits h CROSS JOIN lessons l ON h.kind = 2 AND l.id = h.id AND l.studio_id = :studio AND l.deleted_at = 0
			JOIN songs g ON g.studio_id = l.studio_id AND g.id = l.song_id AND g.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, n.student_id, t.name, n.day, 0, 0, h.excerpt, h.rank
			FROM hits h CROSS JOIN hours n ON h.kind = 3 AND n.id = h.id AND n.studio_id = :studio JOIN students t ON t.studio_id = n.studio_id AND t.id = n.student_id AND t.deleted_at = 0
		UNION ALL SELECT h.kind, h.id, w.student_id, t.name, 0, w.said_at, 0, h.excerpt, h.rank
			FROM hits h CROSS JOIN words w ON h.kind = 4 AND w.id = h.id AND w.studio_id = :studio JOIN students t ON t.studio_id = w.studio_id AND t.id = w.student_id AND t.deleted_at = 0
		) ORDER BY rank, kind LIMIT :most`, args{"studio": studio, "query": query, "words": words, "titles": matching(studio, "title", words), "most": most, "tries": most, "far": farHits, "notes": farNotes})
}

// excerptWords is how many words of a text are shown around one that was found, and how many of
// them stand before it.
const excerptWords, excerptBefore = 12, 4

// The index can cut out what was found as well, but goes through all hits again for each of them.
func init() {
	sqlite.MustRegisterDeterministicScalarFunction("excerpt", 2, func(_ *sqlite.FunctionContext, of []driver.Value) (driver.Value, error) {
		body, _ := of[0].(string)
		words, _ := of[1].(string)
		return excerpt(body, words), nil
	})
}

// excerpt cuts out of a text what stands around the first of its words that begins with one of
// those that are looked for, which stand between \x02 and \x03. Without one it is the beginning.
func excerpt(body, words string) string {
	begins := strings.FieldsFunc(plainly(words), between)
	type word struct{ from, to int }
	var list []word
	first := -1
	for from := 0; from < len(body) && (first < 0 || len(list) < first-excerptBefore+excerptWords); {
		if begin := strings.IndexFunc(body[from:], func(r rune) bool { return !between(r) }); begin < 0 {
			break
		} else {
			from += begin
		}
		to := len(body)
		if end := strings.IndexFunc(body[from:], between); end >= 0 {
			to = from + end
		}
		if first < 0 && beginsOne(body[from:to], begins) {
			first = len(list)
		}
		list, from = append(list, word{from, to}), to
	}
	if len(list) == 0 {
		return ""
	}
	list = list[max(first-excerptBefore, 0):]
	list = list[:min(excerptWords, len(list))]
	var b strings.Builder
	if list[0].from > 0 {
		b.WriteString("…")
	}
	at := list[0].from
	for _, w := range list {
		b.WriteString(body[at:w.from])
		if beginsOne(body[w.from:w.to], begins) {
			b.WriteString("\x02" + body[w.from:w.to] + "\x03")
		} else {
			b.WriteString(body[w.from:w.to])
		}
		at = w.to
	}
	if at < len(body) {
		b.WriteString("…")
	}
	return b.String()
}

// beginsOne tells whether a word begins with one of some.
func beginsOne(word string, begins []string) bool {
	word = plainly(word)
	return slices.ContainsFunc(begins, func(b string) bool { return strings.HasPrefix(word, b) })
}

// plainly is a text as the index compares it: in small letters, without accents.
func plainly(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFD.String(s))
}
