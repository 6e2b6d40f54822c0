package store

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// said is a change with what it is called.
func said(what string, f func(ctx context.Context) error) func(ctx context.Context) (string, error) {
	return func(ctx context.Context) (string, error) { return what, f(ctx) }
}

// dump is all that the tables of people's work hold.
func dump(t *testing.T, s *Store) map[string][]map[string]any {
	t.Helper()
	all := map[string][]map[string]any{}
	for table := range journaled {
		rows, err := s.db.Queryx("SELECT * FROM " + table + " ORDER BY 1, 2, 3")
		require.NoError(t, err)
		for rows.Next() {
			row := map[string]any{}
			require.NoError(t, rows.MapScan(row))
			all[table] = append(all[table], row)
		}
		require.NoError(t, rows.Close())
	}
	return all
}

// Whatever a change does, taking it back leaves all as it was, and taking that back does it again.
func TestWhatIsDoneCanBeTakenBack(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	series, err := s.AddSeries(ctx, Series{StudioID: studio, FirstDay: 100, Every: 1, At: 600, Minutes: 45, Students: []int64{g.student}})
	require.NoError(t, err)
	for _, sent := range []string{"a", "b", "c"} {
		require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "A", Rung: "one-finger", Tempo: 80.5, Clean: 2, Minutes: 5, PractisedAt: 3 * day, SentID: sent}))
	}
	for name, do := range map[string]func(ctx context.Context) error{
		"add a song": func(ctx context.Context) error {
			return second(s.AddSong(ctx, studio, NewSave{Title: "New", Sheet: "title: New\n", NextPart: 2, Parts: []SongPart{{PartID: 1, Name: "A", Bars: Numbers{1}, NextBar: 2}}}, 4*day))
		},
		"delete a song":    func(ctx context.Context) error { return s.DeleteSong(ctx, studio, g.song, 4*day) },
		"delete a student": func(ctx context.Context) error { return s.DeleteStudent(ctx, studio, g.student, 4*day) },
		"delete a lesson":  func(ctx context.Context) error { return s.DeleteLesson(ctx, studio, g.lesson, 4*day) },
		"add a place": func(ctx context.Context) error {
			return second(s.AddSeries(ctx, Series{StudioID: studio, FirstDay: 101, Every: 2, At: 700, Minutes: 30, Students: []int64{g.student}}))
		},
		"remove a place": func(ctx context.Context) error { return s.EndSeries(ctx, studio, series, 0) },
		"end a place":    func(ctx context.Context) error { return s.EndSeries(ctx, studio, series, 120) },
		"delete entries": func(ctx context.Context) error { return s.DeleteEntries(ctx, studio, g.student, 0, 9*day) },
		"mend an entry": func(ctx context.Context) error {
			return s.SetEntry(ctx, Entry{ID: 2, StudioID: studio, StudentID: g.student, Tempo: 90, Clean: 1, Minutes: 9, Word: "ü"})
		},
		"tags": func(ctx context.Context) error { return s.SetTags(ctx, studio, OnSong, g.song, []string{"one", "two"}) },
		"a note": func(ctx context.Context) error {
			return s.SetHour(ctx, studio, g.student, 100, func(h Hour) (Hour, error) {
				h.Note, h.Items = "new", []HourItem{{Kind: "work", Title: "x"}}
				return h, nil
			})
		},
		"put away": func(ctx context.Context) error { return s.Archive(ctx, studio, OnStudent, g.student, 4*day) },
		"finish":   func(ctx context.Context) error { return s.EndAssignment(ctx, studio, g.student, g.assignment, 4*day) },
		"several at once": func(ctx context.Context) error {
			st, err := s.Student(ctx, studio, g.student)
			require.NoError(t, err)
			st.Reach, st.Known = 99.5, "Em"
			require.NoError(t, s.SetStudent(ctx, st))
			is, err := s.Student(ctx, studio, g.student)
			require.NoError(t, err)
			assert.Equal(t, 99.5, is.Reach, "a change sees what it has changed")
			return s.SetPlace(ctx, studio, g.student, 3, 620, 0, 130)
		},
	} {
		before, standings := dump(t, s), standingsIn(t, s)
		id, err := s.Undoable(ctx, studio, 5*day, said(name, do))
		require.NoError(t, err, name)
		require.Positive(t, id, name)
		after, stood := dump(t, s), standingsIn(t, s)
		require.NotEqual(t, before, after, name)
		of, again, err := s.Undo(ctx, studio, id, func(j Journaled) string { return "back: " + j.What }, 6*day)
		require.NoError(t, err, name)
		assert.Equal(t, name, of.What)
		assert.Equal(t, before, dump(t, s), name)
		assert.Equal(t, standings, standingsIn(t, s), name)
		_, _, err = s.Undo(ctx, studio, id, func(Journaled) string { return "" }, 6*day)
		assert.ErrorIs(t, err, ErrChanged, "%s: once is enough", name)
		_, last, err := s.Undo(ctx, studio, again, func(Journaled) string { return "again" }, 7*day)
		require.NoError(t, err, name)
		assert.Equal(t, after, dump(t, s), "%s again", name)
		assert.Equal(t, stood, standingsIn(t, s), name)
		_, _, err = s.Undo(ctx, studio, last, func(Journaled) string { return "back" }, 8*day)
		require.NoError(t, err, name)
		assert.Equal(t, before, dump(t, s), name)
	}
}

// standingsIn is where students are, as it was worked out.
func standingsIn(t *testing.T, s *Store) []Standing {
	rows, err := list[Standing](t.Context(), s.db, "SELECT * FROM standings ORDER BY assignment_id, part_id, rung, step", args{})
	require.NoError(t, err)
	return rows
}

// What has been changed again since, or is used by now, is not taken back, and nothing of it
// halfway.
func TestWhatWasChangedSinceIsNotTakenBack(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	do := func(f func(ctx context.Context) error) int64 {
		id, err := s.Undoable(ctx, studio, day, said("x", f))
		require.NoError(t, err)
		require.Positive(t, id)
		return id
	}
	refused := func(id int64, why string) {
		before := dump(t, s)
		_, _, err := s.Undo(ctx, studio, id, func(Journaled) string { return "" }, day)
		require.ErrorIs(t, err, ErrChanged, why)
		require.Equal(t, before, dump(t, s), why)
	}
	set := func(name string, minutes int) func(ctx context.Context) error {
		return func(ctx context.Context) error {
			st, err := s.Student(ctx, studio, g.student)
			require.NoError(t, err)
			st.Name, st.Minutes = name, minutes
			return s.SetStudent(ctx, st)
		}
	}
	first := do(set("Pia B", 20))
	do(set("Pia C", 20))
	refused(first, "the name is another by now")
	other := do(set("Pia C", 30))
	do(set("Pia D", 30))
	_, _, err := s.Undo(ctx, studio, other, func(Journaled) string { return "" }, day)
	require.NoError(t, err, "another column was changed since")
	st, err := s.Student(ctx, studio, g.student)
	require.NoError(t, err)
	assert.Equal(t, "Pia D", st.Name)
	assert.Equal(t, 20, st.Minutes)

	var lesson int64
	made := do(func(ctx context.Context) (err error) {
		lesson, err = s.AddLesson(ctx, Lesson{StudioID: studio, SongID: g.song, Name: "New", TargetTempo: 90, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}}, CreatedAt: day})
		return err
	})
	require.NoError(t, second(s.assign(ctx, studio, lesson, g.student, day)))
	refused(made, "somebody has it by now")

	gone := do(func(ctx context.Context) error { return s.DeleteEntry(ctx, studio, g.student, 1) })
	require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "Verse", Rung: "two-note", Tempo: 70, PractisedAt: day, SentID: "first"}))
	refused(gone, "an entry of its name is there again")

	id, err := s.Undoable(ctx, studio, day, said("x", func(ctx context.Context) error {
		require.NoError(t, s.SetTags(ctx, studio, OnSong, g.song, []string{"half"}))
		return ErrConflict
	}))
	require.ErrorIs(t, err, ErrConflict)
	assert.Zero(t, id)
	tags, err := s.TagsOf(ctx, studio, OnSong, g.song)
	require.NoError(t, err)
	assert.Empty(t, tags, "as a whole or not at all")
	id, err = s.Undoable(ctx, studio, day, said("x", func(ctx context.Context) error { return nil }))
	require.NoError(t, err)
	assert.Zero(t, id, "nothing was changed")
}

// The journal keeps nothing of who is erased, nor longer than thirty days, nor what is forgotten;
// secrets that have ended it never has.
func TestTheJournalForgets(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	do := func(what string, f func(ctx context.Context) error) int64 {
		id, err := s.Undoable(ctx, studio, 40*day, said(what, f))
		require.NoError(t, err)
		return id
	}
	token, err := s.AddLink(ctx, studio, g.student, "", day)
	require.NoError(t, err)
	do("entry of Pia", func(ctx context.Context) error { return s.DeleteEntry(ctx, studio, g.student, 1) })
	do("finished for Pia", func(ctx context.Context) error { return s.EndAssignment(ctx, studio, g.student, g.assignment, day) })
	do("group of Pia", func(ctx context.Context) error { return s.SetTags(ctx, studio, OnStudent, g.student, []string{"band"}) })
	series, err := s.AddSeries(ctx, Series{StudioID: studio, FirstDay: 100, Every: 1, At: 600, Minutes: 45, Students: []int64{g.student}})
	require.NoError(t, err)
	do("moved (Pia)", func(ctx context.Context) error {
		return s.SetChange(ctx, Change{StudioID: studio, SeriesID: series, Day: 107, Kind: "late"})
	})
	do("steps of Lesson, Pia", func(ctx context.Context) error { return s.SetPlan(ctx, studio, g.lesson, `{"x":1}`) })
	tagged := do("tags of a song", func(ctx context.Context) error { return s.SetTags(ctx, studio, OnSong, g.song, []string{"old"}) })
	gone := do("deleted Pia", func(ctx context.Context) error { return s.DeleteStudent(ctx, studio, g.student, 40*day) })
	what := func() (list []string) {
		changes, err := s.Changes(ctx, studio, 0, 0)
		require.NoError(t, err)
		for _, c := range changes {
			list = append(list, c.What)
		}
		return list
	}
	assert.Equal(t, []string{"deleted Pia", "tags of a song", "steps of Lesson, Pia", "moved (Pia)", "group of Pia", "finished for Pia", "entry of Pia"}, what())
	_, _, err = s.Undo(ctx, studio, gone, func(j Journaled) string { return "back: " + j.What }, 41*day)
	require.NoError(t, err)
	_, err = s.StudentByLink(ctx, token)
	assert.ErrorIs(t, err, ErrNotFound, "a link that has ended stays ended")

	require.NoError(t, s.DeleteStudent(ctx, studio, g.student, 41*day))
	require.NoError(t, s.Erase(ctx, studio, OnStudent, g.student, 42*day))
	assert.Equal(t, []string{"tags of a song"}, what(), "what is about them is gone with them")
	alone := added(t, s, studio, "Alone", "title: Alone\n")
	do("tags of Alone", func(ctx context.Context) error { return s.SetTags(ctx, studio, OnSong, alone, []string{"x"}) })
	require.NoError(t, s.DeleteSong(ctx, studio, alone, 42*day))
	require.NoError(t, s.Erase(ctx, studio, OnSong, alone, 43*day))
	assert.Equal(t, []string{"tags of a song"}, what(), "so is what is about a song that is erased")
	require.NoError(t, s.Forget(ctx, studio, tagged))
	assert.Empty(t, what())
	do("tags again", func(ctx context.Context) error { return s.SetTags(ctx, studio, OnSong, g.song, []string{"new"}) })
	n, err := s.EraseDeleted(ctx, 69*day)
	require.NoError(t, err)
	assert.Zero(t, n)
	n, err = s.EraseDeleted(ctx, 71*day)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)
	assert.Empty(t, what())
}

// More rows than are kept are changed all the same, and the journal says nothing of it.
func TestTooMuchIsNotKept(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	_, err := s.db.ExecContext(ctx, `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
		INSERT INTO entries (studio_id, student_id, assignment_id, part, rung, tempo, clean, minutes, practised_at, sent_id) SELECT ?, ?, ?, 'Verse', 'two-note', 60, 1, 1, 99, 'n' || i FROM n`,
		mostJournaled+1, studio, g.student, g.assignment)
	require.NoError(t, err)
	id, err := s.Undoable(ctx, studio, day, said("much", func(ctx context.Context) error { return s.DeleteEntries(ctx, studio, g.student, 0, 9*day) }))
	require.NoError(t, err)
	assert.Zero(t, id)
	left, err := s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	assert.Empty(t, left)
}
