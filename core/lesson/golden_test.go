package lesson_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/words"
)

var update = flag.Bool("update", false, "write the golden lessons anew")

// students for whom each lesson is made.
var students = []struct {
	name, known string
	lesson.Student
}{
	{"a child of nine in the first year", "", lesson.Student{Minutes: 10, Player: hand.Player{Reach: 72, Scale: 578, NotesPerSecond: 3, Acoustic: true, NoBarre: true,
		New: hand.ThreeFingers | hand.Barres | hand.Bends | hand.PalmMuting}}},
	{"a grown-up with the open chords", "open chords", lesson.Student{Minutes: 15, Player: hand.Player{Reach: 112, NotesPerSecond: 5, New: hand.Barres | hand.Bends}}},
	{"somebody who plays in a band", "open chords, seventh chords, power chords, barre chords, octaves, palm muting, hammer-ons, pull-offs, slides, vibrato, bends", lesson.Student{Minutes: 30,
		Player: hand.Player{Reach: 125, NotesPerSecond: 9}}},
}

// Lessons that a teacher has reason to agree with: each file says why, holds the song,
// and what each student gets. What comes out differently is looked at before it is
// taken over with -update.
func TestGoldenLessons(t *testing.T) {
	files, err := filepath.Glob("testdata/lessons/*.txt")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 10)
	for _, file := range files {
		a, err := txtar.ParseFile(file)
		require.NoError(t, err)
		require.NotEmpty(t, strings.TrimSpace(string(a.Comment)), "%s: why a teacher agrees", file)
		s := sheet.Parse(string(a.Files[0].Data))
		require.True(t, s.OK(), "%s: %v", file, s.Problems)
		want := map[string]string{}
		rung := arrange.Rung("") // one for all parts and students, where the file has one
		keep := 1
		for _, f := range a.Files[1:] {
			if f.Name == "rung" {
				rung, err = arrange.ParseRung(strings.TrimSpace(string(f.Data)))
				require.NoError(t, err)
				keep = 2
			}
			want[f.Name] = string(f.Data)
		}
		a.Files = a.Files[:keep]
		for _, st := range students {
			st.Student.Known, err = lesson.ParseKnown(st.known)
			require.NoError(t, err)
			got := told(made(s, st.Student, rung))
			a.Files = append(a.Files, txtar.File{Name: st.name, Data: []byte(got)})
			if !*update {
				assert.Equal(t, want[st.name], got, "%s: %s", file, st.name)
			}
		}
		if *update {
			require.NoError(t, os.WriteFile(file, txtar.Format(a), 0o644))
		}
	}
}

// made is the lesson of a song on a rung, or those that are suggested.
func made(s *sheet.Sheet, st lesson.Student, all arrange.Rung) *lesson.Lesson {
	a := arrange.New(s.Song, arrange.Options{Player: st.Player})
	chosen := make([]lesson.Chosen, len(s.Song.Parts))
	ladders := make([][]arrange.Version, len(s.Song.Parts))
	for i := range ladders {
		ladders[i] = a.Ladder(i, nil)
	}
	for _, p := range fit.Song(s.Song, ladders, st).Parts {
		rung := all
		if rung == "" {
			rung = p.Version.Rung
		}
		v := a.Version(p.Part, rung, arrange.Way{})
		chosen[p.Part] = lesson.Chosen{Version: &v, Next: fit.Next(s.Song, p.Part, ladders[p.Part], rung)}
	}
	return lesson.Build(s.Song, chosen, st, s.Song.Tempo)
}

// told is a lesson as a list.
func told(l *lesson.Lesson) string {
	var b strings.Builder
	var sp words.Speaker
	fmt.Fprintf(&b, "%d minutes, %d days\n", l.Minutes, l.Days)
	for i := range l.Steps {
		s := &l.Steps[i]
		rung := ""
		if s.Kind == lesson.Whole && (i == 0 || l.Steps[i-1].Kind != lesson.Whole) {
			rung = " (" + strings.ToLower(s.Rung.Title()) + ")"
		}
		fmt.Fprintf(&b, "day %d %s: %s%s, %s, %d×, %d minutes. %s\n", s.Day, s.Kind, sp.StepTitle(l.Song, s), rung, sp.Tempos(s), s.Passes, s.Minutes, strings.Join(sp.Step(s), ". "))
	}
	return b.String()
}
