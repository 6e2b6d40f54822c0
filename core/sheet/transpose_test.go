package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

func TestTranspose(t *testing.T) {
	to := func(s string) pitch.Key {
		k, err := pitch.ParseKey(s)
		require.NoError(t, err)
		return k
	}
	s := Parse("title: T\nkey: A minor\n\n# stays\nA:\n| Am - F#dim/C - 5A 7A (3E xE) C=x32010 D=x57775 . . | x3\n\nB:\nkey: C major\n| 12Do 24e 0E Bb |\n")
	require.True(t, s.OK(), "%v", s.Problems)
	up, err := s.Transpose(to("C minor"), false)
	require.NoError(t, err)
	for _, want := range []string{"key: C minor", "# stays", "Cm -", "Adim/Eb", "8A 10A", "(6E xE)", " Eb ", "F=x-8-10-10-10-8", "x3", "key: Eb major", "Db"} {
		assert.Contains(t, up.Text, want)
	}
	assert.Contains(t, strings.Join(up.Notes, "; "), "x32010 has open strings, which do not move along: Eb is left to its usual shape")
	assert.NotEmpty(t, up.Notes, "the harmonic and the last fret")
	off := Parse("title: T\nkey: E minor\nA:\n| 0E 3E 2A 0E |\n| 3E 5E 7A 3E |\n")
	lower, err := off.Transpose(to("D minor"), false)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(lower.Notes, "; "), "A: it moves 10 frets up as a whole, since 2 frets the other way would leave the neck")
	assert.Contains(t, lower.Text, "| 10E 13E 12A 10E |")
	wide := Parse("title: T\nkey: E minor\nA:\n| 0E 3E 2A 0E |\n| 22e 24e 20e 22e |\n")
	lower, err = wide.Transpose(to("D minor"), false)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(lower.Notes, "; "), "A: a line would leave the neck and moves as a whole, an octave higher")
	assert.Contains(t, lower.Text, "| 20e 22e 18e 20e |", "the line that fits stays")
	high, err := off.Transpose(to("Eb minor"), true)
	require.NoError(t, err)
	assert.Contains(t, high.Notes[0], "the capo sits at fret 11")
	down, err := s.Transpose(to("G minor"), false)
	require.NoError(t, err)
	assert.Contains(t, down.Text, "3A 5A")
	capo, err := s.Transpose(to("C minor"), true)
	require.NoError(t, err)
	assert.Contains(t, capo.Text, "key: C minor\ncapo: 3\n")
	assert.Contains(t, capo.Text, "5A 7A", "the frets stay")
	assert.Contains(t, capo.Text, "C=x32010", "and so does the shape, with its name")
	_, err = s.Transpose(to("C major"), false)
	assert.ErrorContains(t, err, "a minor key is needed, such as C minor")
	_, err = Parse("title: T\nA:\n| 0A |\n").Transpose(to("C major"), false)
	assert.ErrorContains(t, err, "has no key")
	_, err = Parse("title: T\nkey: C\ncapo: 5\nA:\n| 0A |\n").Transpose(to("B major"), true)
	assert.ErrorContains(t, err, "fret 16")
	_, err = Parse("title: T\nkey: C\nA:\n| 99A |\n").Transpose(to("D major"), false)
	assert.ErrorContains(t, err, "errors")
}

// Whatever the song and the key, the notes move by the interval, give or take
// octaves, the rhythm stays, and going back gives the chords again.
func TestTransposeProperties(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		body := "title: T\nkey: A minor\ntuning: " + rapid.SampledFrom([]string{"standard", "drop D", "open G"}).Draw(t, "tuning") + "\nA:\n|"
		for range rapid.IntRange(1, 8).Draw(t, "slots") {
			body += " " + rapid.SampledFrom([]string{"0E", "24e", "5A+7D", "12Go", "7Gb2", "Am7", "D/F#", "Bb", "E7=020100", "x", "-", ".", "(3A 0D)"}).Draw(t, "slot")
		}
		s := Parse(body + " |\n")
		by := rapid.IntRange(0, 11).Draw(t, "by")
		to := s.Song.Key.Transposed(by)
		up, err := s.Transpose(to, false)
		require.NoError(t, err)
		u := Parse(up.Text)
		require.True(t, u.OK(), "%s\n%v", up.Text, u.Problems)
		a, b := s.Song.Parts[0].Bars(), u.Song.Parts[0].Bars()
		require.Len(t, b, len(a))
		for i := range a {
			require.Len(t, b[i].Events, len(a[i].Events))
			for j := range a[i].Events {
				x, y := &a[i].Events[j], &b[i].Events[j]
				require.Equal(t, x.Start, y.Start)
				require.Equal(t, x.Length, y.Length)
				if x.Kind == song.Chord {
					require.Equal(t, x.Chord.Root.Class().Up(by), y.Chord.Root.Class())
				}
				classes := func(e *song.Event, open func(song.Note) pitch.Pitch, by int) map[pitch.Class]int {
					m := map[pitch.Class]int{}
					for _, n := range e.Notes {
						m[open(n).Class().Up(by)]++
					}
					return m
				}
				require.Equal(t, classes(x, func(n song.Note) pitch.Pitch { return n.Pitch(s.Song.Open()) }, by),
					classes(y, func(n song.Note) pitch.Pitch { return n.Pitch(u.Song.Open()) }, 0), up.Text)
			}
		}
		back, err := u.Transpose(s.Song.Key, false)
		require.NoError(t, err)
		w := Parse(back.Text)
		for j := range a[0].Events {
			x, y := &a[0].Events[j], &w.Song.Parts[0].Bars()[0].Events[j]
			require.Equal(t, x.Chord.Classes(), y.Chord.Classes(), "%s comes back as %s", x.Chord, y.Chord)
		}
	})
}

// Six half steps are as far up as down: a shape goes up where both lie on the neck, and
// the shorter way else.
func TestShapesGoTheShorterWay(t *testing.T) {
	for _, c := range []struct{ key, from, want string }{
		{"Gb major", "C=8-10-10-9-8-8", "Gb=14-16-16-15-14-14"},
		{"G major", "C=8-10-10-9-8-8", "G=355433"},
		{"F major", "C=8-10-10-9-8-8", "F=13-15-15-14-13-13"},
	} {
		key, err := pitch.ParseKey(c.key)
		require.NoError(t, err)
		moved, err := Parse("title: T\nkey: C major\nA:\n| "+c.from+" |\n").Transpose(key, false)
		require.NoError(t, err)
		assert.Contains(t, moved.Text, c.want)
	}
}
