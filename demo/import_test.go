package demo_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/demo"
	"valleyside/store"
)

var noon = time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)

// load is the demo in a file of its own.
func load(t *testing.T) (*store.Store, int64) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "demo.db"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, demo.Fill(t.Context(), st, noon))
	return st, 1
}

// empty is a studio of its own with nothing in it.
func empty(t *testing.T) (*store.Store, int64) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "other.db"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	id, err := st.AddStudio(t.Context(), "Empty", store.Teacher{Name: "E", Email: "e@empty.example", Password: account.Hash("long enough now")}, store.At(noon))
	require.NoError(t, err)
	return st, id
}

func exported(t *testing.T, st *store.Store, studio int64) []byte {
	var b bytes.Buffer
	require.NoError(t, st.Export(t.Context(), studio, &b))
	return b.Bytes()
}

// numbered is an export with the numbers of its rows counted from 1 in their order; the
// links of students, which are not taken in, are left out.
func numbered(t *testing.T, export []byte) map[string]any {
	var all map[string]any
	require.NoError(t, json.Unmarshal(export, &all))
	delete(all, "links")
	of := map[string]string{"songs": "song_id", "lessons": "lesson_id", "students": "student_id", "assignments": "assignment_id"}
	numbers := map[string]map[any]int{}
	for section, name := range of {
		numbers[name] = map[any]int{}
		for i, row := range all[section].([]any) {
			numbers[name][row.(map[string]any)["id"]] = i + 1
		}
	}
	for _, rows := range all {
		list, ok := rows.([]any)
		if !ok {
			list = []any{rows}
		}
		for i, row := range list {
			r := row.(map[string]any)
			for name := range numbers {
				if id, ok := r[name]; ok {
					r[name] = numbers[name][id]
				}
			}
			if _, ok := r["id"]; ok {
				r["id"] = i + 1
			}
		}
	}
	return all
}

// The export of a studio that was taken into an empty one is the same export.
func TestStudioComesBack(t *testing.T) {
	from, home := load(t)
	first := exported(t, from, home)
	var taken store.Taken
	require.NoError(t, json.Unmarshal(first, &taken))
	require.Empty(t, taken.Check())
	st, id := empty(t)
	require.NoError(t, st.Import(t.Context(), id, &taken))
	assert.Equal(t, numbered(t, first), numbered(t, exported(t, st, id)))
	assert.ErrorIs(t, st.Import(t.Context(), id, &taken), store.ErrNotEmpty, "a whole studio goes only into an empty one")
}

// A student that was taken along comes back with songs, lessons and practice; taken in where
// the songs are, none is there twice.
func TestStudentComesBack(t *testing.T) {
	from, home := load(t)
	students, err := from.Students(t.Context(), home)
	require.NoError(t, err)
	for _, who := range students {
		var b bytes.Buffer
		require.NoError(t, from.ExportStudent(t.Context(), home, who.ID, &b))
		read := func() *store.Taken {
			var taken store.Taken
			require.NoError(t, json.Unmarshal(b.Bytes(), &taken))
			require.Empty(t, taken.Check(), who.Name)
			return &taken
		}
		st, id := empty(t)
		require.NoError(t, st.Import(t.Context(), id, read()), who.Name)
		again, err := st.Students(t.Context(), id)
		require.NoError(t, err)
		require.Len(t, again, 1)
		assert.Equal(t, who.Name, again[0].Name)
		assert.Len(t, read().Entries, count(t, st, id, again[0].ID), who.Name)

		before, err := from.Songs(t.Context(), home)
		require.NoError(t, err)
		require.NoError(t, from.Import(t.Context(), home, read()), who.Name)
		after, err := from.Songs(t.Context(), home)
		require.NoError(t, err)
		assert.Len(t, after, len(before), "the songs are there already")
	}
}

// count counts the entries of a student.
func count(t *testing.T, st *store.Store, studio, student int64) int {
	var b bytes.Buffer
	require.NoError(t, st.ExportStudent(t.Context(), studio, student, &b))
	var taken store.Taken
	require.NoError(t, json.Unmarshal(b.Bytes(), &taken))
	return len(taken.Entries)
}

// What does not hold together is refused with a list, and nothing of it is taken in.
func TestFaultsOfAnExport(t *testing.T) {
	from, home := load(t)
	whole := exported(t, from, home)
	for name, break_ := range map[string]func(*store.Taken){
		"its song is not there":     func(k *store.Taken) { k.Lessons[0].SongID = 999 },
		"is no rung":                func(k *store.Taken) { k.Lessons[0].Parts[0].Rung = "escalator" },
		"entry 1 is of a student":   func(k *store.Taken) { k.Entries[0].AssignmentID = 999 },
		"the reach is 9000":         func(k *store.Taken) { k.Students[0].Reach = 9000 },
		"the time of the lesson is": func(k *store.Taken) { k.Students[0].LessonTime = "tea" },
		"the saved version of":      func(k *store.Taken) { k.Songs[0].Version = 77 },
		"is there twice, or has no": func(k *store.Taken) {
			k.Versions[1].SongID = k.Versions[0].SongID
			k.Versions[1].Version = k.Versions[0].Version
		},
		"its student, lesson or song is":  func(k *store.Taken) { k.Assignments[0].StudentID = 999 },
		"of a song or a rung that is not": func(k *store.Taken) { k.Ways = append(k.Ways, store.Way{SongID: 999, Part: "A", Rung: "octave"}) },
	} {
		var taken store.Taken
		require.NoError(t, json.Unmarshal(whole, &taken))
		break_(&taken)
		assert.Contains(t, fmt.Sprint(taken.Check()), name)
	}
}
