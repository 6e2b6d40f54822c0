package web_test

import (
	"fmt"
	"net/http"
	"os"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/store"
)

// grown is a studio of so many students who have logged so much, most of it long
// ago, as their teachers' copies of a few songs.
func grown(b testing.TB, students, entries int) *house {
	h := open(b)
	ctx := b.Context()
	studio, err := h.store.AddStudio(ctx, "Large", store.Teacher{Name: "Ada", Email: "ada@attic.example", Password: account.Hash("long enough now")}, store.At(noon))
	require.NoError(b, err)
	song, err := h.store.AddSong(ctx, studio, "Riff", riff, store.At(noon))
	require.NoError(b, err)
	lesson, err := h.store.AddLesson(ctx, store.Lesson{StudioID: studio, SongID: song, Name: "Riff", TargetTempo: 100, Parts: []store.Part{{Part: "A", Rung: "two-note"}}})
	require.NoError(b, err)
	each := entries / students
	for i := range students {
		st, err := h.store.AddStudent(ctx, store.Student{StudioID: studio, Name: fmt.Sprintf("Student %03d", i), Reach: 110, Scale: 648, NotesPerSecond: 5, LessonDay: i % 7, LessonTime: "15:00"})
		require.NoError(b, err)
		a, err := h.store.Assign(ctx, studio, lesson, st, store.At(noon.AddDate(-3, 0, 0)))
		require.NoError(b, err)
		_, err = h.store.DB().ExecContext(ctx, `WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < ? - 1)
			INSERT INTO entries (studio_id, student_id, assignment_id, part, rung, tempo, clean, minutes, practised_at, sent_id)
			SELECT ?, ?, ?, 'A', 'two-note', 60 + i % 30, i % 5, 10, ? - (? - i) * 14400, 'e' || i FROM n`, each, studio, st, a, store.At(noon.Add(-time.Hour)), each)
		require.NoError(b, err)
		// One more by the ordinary way brings the standing up to date.
		require.NoError(b, h.store.AddEntry(ctx, store.Entry{StudioID: studio, StudentID: st, AssignmentID: a, Part: "A", Rung: "two-note", Tempo: 80, Clean: 3, Minutes: 5, PractisedAt: store.At(noon), SentID: "last"}))
	}
	return h
}

// BenchmarkGrowth asks for the pages of a studio of 300 students, whose entries are
// as many as VALLEYSIDE_ENTRIES says.
func BenchmarkGrowth(b *testing.B) {
	entries := 0
	if n, err := strconv.Atoi(os.Getenv("VALLEYSIDE_ENTRIES")); err == nil {
		entries = n
	}
	for _, n := range []int{300, max(entries, 30_000)} {
		h := grown(b, 300, n)
		v := h.signIn("ada@attic.example", "long enough now")
		for _, path := range []string{"/", "/students", "/students/1"} {
			b.Run(fmt.Sprintf("entries=%d%s", n, path), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					require.Equal(b, http.StatusOK, v.get(path).StatusCode)
				}
			})
		}
	}
}
