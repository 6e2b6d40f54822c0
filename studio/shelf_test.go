package studio_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

// shelve adds a song with a title and parts.
func shelve(t *testing.T, h *studio.House, home int64, title, text string) int64 {
	id, err := h.AddSong(t.Context(), home, title, "title: "+title+"\n\n"+text, store.At(noon))
	require.NoError(t, err)
	return id
}

// The shelf follows what changes: a song, a hand, what the teacher says is known, what was learnt.
func TestShelf(t *testing.T) {
	h, home := empty(t)
	ctx := t.Context()
	add := func(title, text string) int64 { return shelve(t, h, home, title, text) }
	open := add("Open", "A:\n| Em - - - G - - - |\n")
	barre := add("Barre", "A:\n| F - - - Bm - - - |\n")
	line := add("Line", "tempo: 70\nA:\n| 0E 2E 3E 5E |\n")
	student, err := h.Store.AddStudent(ctx, store.Student{StudioID: home, Name: "Pia", Reach: 100, Scale: 648, NotesPerSecond: 4, Known: "Em", Unlearnt: "barres", LessonDay: -1, CreatedAt: store.At(noon)})
	require.NoError(t, err)
	shelf := func() map[int64]store.SongFit {
		require.NoError(t, h.Catch(ctx, home, nil))
		counts, err := h.Store.CountFits(ctx, home, student)
		require.NoError(t, err)
		for _, c := range counts {
			assert.Zero(t, c.Stale, "all of it is worked out")
		}
		fits := map[int64]store.SongFit{}
		for _, ready := range []string{"", "ready now", "one thing to learn first", "later"} {
			list, err := h.Store.FitsOf(ctx, home, student, ready, 50, 0)
			require.NoError(t, err)
			for _, f := range list {
				fits[f.SongID] = f.SongFit
			}
		}
		return fits
	}
	is := func(f store.SongFit) string { return f.Ready + ", " + string(f.Rung) }
	first := shelf()
	assert.Equal(t, "one thing to learn first, as-written", is(first[open]))
	assert.Equal(t, "G 320003", first[open].Missing[0])
	assert.Equal(t, "one thing to learn first, as-written", is(first[barre]), "two shapes and the barre are one")
	assert.Equal(t, "ready now, as-written", is(first[line]))

	// What the teacher says.
	st, err := h.Store.Student(ctx, home, student)
	require.NoError(t, err)
	st.Known, st.NotesPerSecond = "open chords", 1
	require.NoError(t, h.Store.SetStudent(ctx, st))
	assert.Equal(t, "ready now, as-written", is(shelf()[open]))
	st.NotesPerSecond = 0.5
	require.NoError(t, h.Store.SetStudent(ctx, st))
	assert.NotEqual(t, "ready now, as-written", is(shelf()[line]), "slower than it asks")
	st.NotesPerSecond = 4
	require.NoError(t, h.Store.SetStudent(ctx, st))

	// What was learnt: the barres of another song with the same shapes.
	other := add("Other", "A:\n| Bm - - - F - - - |\n")
	assert.Equal(t, "one thing to learn first, as-written", is(shelf()[other]))
	lesson, err := h.Store.AddLesson(ctx, store.Lesson{StudioID: home, SongID: barre, Name: "B", TargetTempo: 100, Parts: []store.Part{{PartID: 1, Part: "A", Rung: "as-written"}}, CreatedAt: store.At(noon)})
	require.NoError(t, err)
	given, err := h.Give(ctx, home, lesson, student, store.At(noon))
	require.NoError(t, err)
	for day := range 2 {
		require.NoError(t, h.Store.AddEntry(ctx, store.Entry{StudioID: home, StudentID: student, AssignmentID: given, PartID: song.PartID(1), Rung: "as-written", Tempo: 120, Clean: 3, Minutes: 5,
			PractisedAt: store.At(noon.AddDate(0, 0, day)), SentID: string(rune('a' + day))}))
	}
	fits := shelf()
	assert.Equal(t, "ready now, as-written", is(fits[barre]))
	assert.Equal(t, "ready now, as-written", is(fits[other]), "it has nothing else")

	// A song that changes, one that is deleted, a student who comes later.
	const bent = "title: Line\ntempo: 70\n\nA:\n| 0E 2E 3E 5Eb1 |\n"
	_, err = h.SaveSong(ctx, home, line, 0, "Line", bent, sheet.Parse(bent), store.At(noon))
	require.NoError(t, err)
	st.Unlearnt = "bends"
	require.NoError(t, h.Store.SetStudent(ctx, st))
	assert.Equal(t, "bends", shelf()[line].Missing[0])
	require.NoError(t, h.Store.DeleteSong(ctx, home, line, store.At(noon)))
	assert.NotContains(t, shelf(), line)
	_, err = h.Store.AddStudent(ctx, store.Student{StudioID: home, Name: "Bo", Reach: 100, Scale: 648, NotesPerSecond: 4, LessonDay: -1, CreatedAt: store.At(noon)})
	require.NoError(t, err)
	require.NoError(t, h.Store.Restore(ctx, home, store.OnSong, line))
	require.NoError(t, h.Catch(ctx, home, nil))
	all, err := h.Store.FitsOfSong(ctx, home, line)
	require.NoError(t, err)
	assert.Len(t, all, 2)
}
