package demo_test

import (
	"bytes"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
	"valleyside/demo"
	"valleyside/store"
	"valleyside/studio"
)

// The songs of the demo show what a studio meets: keys, tunings, metres and
// styles.
func TestSongs(t *testing.T) {
	has := map[string]bool{}
	keys, meters := map[pitch.Key]bool{}, map[song.Meter]bool{}
	for _, name := range demo.Sheets() {
		s := sheet.Parse(demo.Sheet(name))
		require.Empty(t, s.Problems, name)
		keys[s.Song.Key], meters[s.Song.Meter] = true, true
		drop, _ := neck.Parse("drop D")
		has["drop tuning"] = has["drop tuning"] || s.Song.Tuning == drop
		has["open tuning"] = has["open tuning"] || s.Song.Tuning != drop && s.Song.Tuning != neck.Standard
		has["capo"] = has["capo"] || s.Song.Capo > 0
		has["swing"] = has["swing"] || s.Song.Feel == song.Swing
		chords := true
		for i := range s.Song.Parts {
			p := &s.Song.Parts[i]
			has["two players"] = has["two players"] || len(p.Players()) > 0
			has["palm muting"] = has["palm muting"] || p.PalmMute
			has["ringing"] = has["ringing"] || p.Ring
			has["a pickup"] = has["a pickup"] || p.Lines[0].Bars[0].Lead.Num() > 0
			has["words"] = has["words"] || len(p.Lines[0].Words) > 0
			for _, b := range p.Bars() {
				for _, e := range b.Events {
					chords = chords && e.Kind != song.Notes
				}
			}
		}
		has["only chords"] = has["only chords"] || chords
	}
	for _, what := range []string{"drop tuning", "open tuning", "capo", "swing", "two players", "palm muting", "only chords", "ringing", "a pickup", "words"} {
		assert.True(t, has[what], "no song with: %s", what)
	}
	assert.True(t, meters[song.Meter{Count: 6, Unit: 8}])
	assert.GreaterOrEqual(t, len(keys), 8)
	assert.GreaterOrEqual(t, len(meters), 4)
}

func TestStudio(t *testing.T) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "demo.db"))
	require.NoError(t, err)
	defer st.Close()
	now := time.Date(2026, 3, 17, 12, 0, 0, 0, time.UTC)
	for range 2 { // the second time it is there already
		require.NoError(t, demo.Fill(t.Context(), st, now))
	}
	all := everything(t, st)
	assert.GreaterOrEqual(t, len(all.Students), 8)
	assert.Len(t, all.Songs, len(demo.Sheets()))
	today := 0
	for _, s := range all.Students {
		if s.LessonDay == int(now.Weekday()) {
			today++
		}
	}
	assert.Positive(t, today, "somebody comes today")
	sheets := map[[2]int64]string{}
	for _, v := range all.Versions {
		sheets[[2]int64{v.SongID, int64(v.Version)}] = v.Sheet
	}
	players := map[int64]hand.Player{}
	for _, s := range all.Students {
		players[s.ID] = studio.Player(&s)
	}
	tempos := map[int64]float64{}
	for _, a := range all.Assignments {
		tempos[a.ID] = a.TargetTempo
		for _, p := range a.Parts {
			typed := sheet.Parse(sheets[[2]int64{a.SongID, int64(a.SongSave)}]).Song
			part := slices.IndexFunc(typed.Parts, func(has song.Part) bool { return has.Name == p.Part })
			if !assert.GreaterOrEqual(t, part, 0, "%s has no part %s", a.Name, p.Part) {
				continue
			}
			versions := arrange.New(typed, arrange.Options{Player: players[a.StudentID], Tempo: a.TargetTempo}).Ladder(part, nil)
			picked := slices.IndexFunc(versions, func(v arrange.Version) bool { return v.Rung == p.Rung })
			written := slices.IndexFunc(versions, func(v arrange.Version) bool { return v.Rung == arrange.AsWritten })
			if assert.GreaterOrEqual(t, picked, 0, "%s, %s: %s is not offered", a.Name, p.Part, p.Rung) {
				assert.LessOrEqual(t, versions[picked].Grade, versions[written].Grade, "%s, %s: %s makes it harder", a.Name, p.Part, p.Rung)
			}
		}
	}
	days := map[store.Instant]bool{}
	for _, e := range all.Entries {
		assert.LessOrEqual(t, e.PractisedAt, store.At(now), "nothing was practised in the future")
		assert.Contains(t, tempos, e.AssignmentID)
		days[e.PractisedAt/(24*60*60)] = true
	}
	assert.Greater(t, len(days), 20, "some weeks of practice")
}

// everything is what an export of the demo holds.
func everything(t *testing.T, st *store.Store) (all struct {
	Students []store.Student
	Songs    []store.Song
	Versions []struct {
		SongID  int64 `json:"song_id"`
		Version int
		Sheet   string
	}
	Assignments []store.Assignment
	Entries     []store.Entry
}) {
	var b bytes.Buffer
	require.NoError(t, st.Export(t.Context(), 1, &b))
	a, err := store.OpenArchive(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	require.NoError(t, store.Each(a, "students", func(r *store.Student) error { all.Students = append(all.Students, *r); return nil }))
	require.NoError(t, store.Each(a, "songs", func(r *store.Song) error { all.Songs = append(all.Songs, *r); return nil }))
	require.NoError(t, store.Each(a, "assignments", func(r *store.Assignment) error { all.Assignments = append(all.Assignments, *r); return nil }))
	require.NoError(t, store.Each(a, "entries", func(r *store.Entry) error { all.Entries = append(all.Entries, *r); return nil }))
	require.NoError(t, store.Each(a, "versions", func(r *struct {
		SongID  int64 `json:"song_id"`
		Version int
		Sheet   string
	}) error {
		all.Versions = append(all.Versions, *r)
		return nil
	}))
	return all
}

// The rungs of the demo show every kind of reason.
func TestReasons(t *testing.T) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "demo.db"))
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, demo.Fill(t.Context(), st, time.Date(2026, 3, 17, 12, 0, 0, 0, time.UTC)))
	students, err := st.Students(t.Context(), 1)
	require.NoError(t, err)
	students = append(students, store.Student{})
	var all strings.Builder
	for _, name := range demo.Sheets() {
		s := sheet.Parse(demo.Sheet(name)).Song
		for _, student := range students {
			a := arrange.New(s, arrange.Options{Player: studio.Player(&student)})
			for i := range s.Parts {
				for _, v := range append(a.Ladder(i, nil), a.Version(i, arrange.OneFinger, arrange.Way{Prefer: arrange.OneString}),
					a.Version(i, arrange.TwoNote, arrange.Way{Thicken: arrange.Accents})) {
					all.WriteString(said(&v, s.Parts[i].Meter))
				}
			}
		}
	}
	for _, reason := range []string{"the line itself", "the bass that", "as the sheet has it", "as written", "on the notes of the line",
		"octave is added", "open root", "one finger across both strings", "upside down", "since a plain fifth would contradict", "passing note", "two notes as written",
		"the bend becomes its target", "dead strum", "dead note", "in the voicing that is written", "in its usual shape", "left out", "all on the", "stays at fret",
		"the hard change", "one finger slides along", "the same as bar", "the shape of bar", "lies on the", "does not fit one string",
		"left to the second player", "the hand stays in one place", "more than the hand's"} {
		assert.True(t, strings.Contains(strings.ToLower(all.String()), reason), reason)
	}
}

// said is everything that a version says.
func said(v *arrange.Version, m song.Meter) string {
	var sp words.Speaker
	lines := sp.Version(v)
	for i := range v.Bars {
		lines = append(lines, sp.Bar(&v.Bars[i])...)
		for j := range v.Bars[i].Events {
			lines = append(lines, sp.Event(&v.Bars[i].Events[j]))
		}
	}
	return strings.Join(lines, "\n") + "\n"
}

// What the teacher of the demo has changed in a lesson is all there, and somebody is in
// the middle of the steps.
func TestLessonsOfTheDemo(t *testing.T) {
	st, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "demo.db"))
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, demo.Fill(t.Context(), st, time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)))
	home, err := st.Studio(t.Context(), 1)
	require.NoError(t, err)
	house := studio.New(st, nil)
	students, err := st.Students(t.Context(), 1)
	require.NoError(t, err)
	changed, begun := 0, 0
	for _, who := range students {
		given, err := st.AssignmentsOf(t.Context(), 1, who.ID)
		require.NoError(t, err)
		rows, err := st.StandingsOf(t.Context(), 1, who.ID)
		require.NoError(t, err)
		kept, err := st.StepsOf(t.Context(), 1, who.ID)
		require.NoError(t, err)
		for _, a := range given {
			ids, err := st.SongParts(t.Context(), 1, a.SongID, a.SongSave)
			require.NoError(t, err)
			taught, err := house.Teach(t.Context(), studio.Lookup{Home: &home, Sheet: a.Sheet, IDs: ids, Parts: a.Parts, Plan: a.Plan, Who: who, Target: a.TargetTempo})
			require.NoError(t, err)
			assert.Empty(t, taught.Lost, a.Name)
			if a.Plan != "" {
				changed++
				assert.NotEmpty(t, taught.Out)
			}
			require.Len(t, kept[a.ID], len(taught.Steps), "the steps were worked out")
			for i, step := range taught.Steps {
				assert.Equal(t, step.ID.String(), kept[a.ID][i].Step)
			}
			for _, row := range rows {
				if row.AssignmentID == a.ID && row.Step != "" {
					id, err := lesson.ParseStepID(row.Step)
					require.NoError(t, err)
					assert.NotNil(t, taught.Step(id), row.Step)
					begun++
				}
			}
		}
	}
	assert.Positive(t, changed)
	assert.Positive(t, begun)
}
