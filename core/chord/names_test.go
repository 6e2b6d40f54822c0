package chord

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/pitch"
)

// roots are the seventeen spellings of the twelve roots.
var roots = []string{"C", "C#", "Db", "D", "D#", "Eb", "E", "F", "F#", "Gb", "G", "G#", "Ab", "A", "A#", "Bb", "B"}

// typed are qualities as people type them.
var typed = []string{"", "m", "min", "-", "maj", "M", "dim", "°", "o", "aug", "+", "5", "sus", "sus2", "sus4", "6", "m6", "69", "6/9", "m6/9",
	"7", "maj7", "M7", "Δ", "Δ7", "m7", "min7", "-7", "mM7", "m(maj7)", "dim7", "°7", "ø", "ø7", "m7b5", "7+", "aug7", "7#5", "7b5", "7♭5",
	"9", "maj9", "m9", "add9", "madd9", "11", "m11", "13", "maj13", "m13", "7sus4", "9sus4", "13sus4", "7b9", "7#9", "7(b9,#11)", "7alt",
	"13#11", "maj7#11", "7b9b13", "add11", "no3", "no5", "7omit5", "maj7b5", "9#5", "m9b5", "addb9", "sus4add9"}

// Every root with every quality is read, spelled by its degrees, written back
// in its plain spelling, and read the same again.
func TestEveryRootAndQuality(t *testing.T) {
	require.GreaterOrEqual(t, len(typed), 60)
	for _, root := range roots {
		for _, quality := range typed {
			for _, bass := range []string{"", "/G", "/Db"} {
				c, err := Parse(root + quality + bass)
				require.NoError(t, err)
				for _, tone := range c.Tones {
					steps := (int(tone.Note.Letter-'A') - int(c.Root.Letter-'A') + 14) % 7
					require.Equal(t, (int(tone.Degree.Number)-1)%7, steps, "%s of %s is a %s", tone.Note, c, tone.Degree)
					require.Equal(t, tone.Degree.Semitones(), tone.Class().Above(c.Root.Class()), "%s of %s", tone.Note, c)
				}
				again, err := Parse(c.Canonical())
				require.NoError(t, err, "%s is written as %s", c, c.Canonical())
				require.Equal(t, c.Tones, again.Tones, "%s is written as %s", c, c.Canonical())
				require.Equal(t, c.Bass, again.Bass)
				require.Equal(t, c.Canonical(), again.Canonical())
			}
		}
	}
}

// Every usual quality, on every root and with its root in the bass, is named
// as itself; with another tone in the bass it is among the first three.
func TestNamesOfFullChords(t *testing.T) {
	first, all := 0, 0
	for _, root := range roots {
		for _, q := range qualities {
			c, err := Parse(root + q.Suffix)
			require.NoError(t, err)
			var classes pitch.Set
			for _, tone := range c.Tones {
				classes = classes.With(tone.Class())
			}
			for _, low := range c.Tones {
				names := Names(classes, low.Note.Class(), pitch.Key{})
				require.NotEmpty(t, names)
				if low.Degree.Number != 1 {
					continue
				}
				if !q.rare {
					all++
				}
				if sameChord(names[0], c) {
					if !q.rare {
						first++
					}
				} else if root == "C" {
					t.Logf("%s is called %s first", c, names[0].Name)
				}
				found := false
				for _, n := range names[:min(4, len(names))] {
					found = found || sameChord(n, c)
				}
				assert.True(t, found, "%s is called %s", c, names[0].Name)
			}
		}
	}
	assert.Greater(t, float64(first)/float64(all), 0.95)
}

// sameChord tells whether a name means the notes of a chord on its root.
func sameChord(n Name, c Chord) bool {
	if n.Root.Class() != c.Root.Class() || !n.Exact() || len(n.Tones) != len(c.Tones) {
		return false
	}
	has := map[pitch.Class]bool{}
	for _, tone := range n.Tones {
		has[tone.Class()] = true
	}
	for _, tone := range c.Tones {
		if !has[tone.Note.Class()] {
			return false
		}
	}
	return true
}

func TestNames(t *testing.T) {
	bits := func(notes ...string) (classes pitch.Set, bass pitch.Class) {
		for i, s := range notes {
			n, err := pitch.ParseNote(s)
			require.NoError(t, err)
			classes = classes.With(n.Class())
			if i == 0 {
				bass = n.Class()
			}
		}
		return classes, bass
	}
	cases := []struct {
		notes   []string
		want    string
		missing string
	}{
		{[]string{"C", "E", "G"}, "C", ""},
		{[]string{"E", "G", "C"}, "C/E", ""},
		{[]string{"A", "C", "E", "G"}, "Am7", ""},
		{[]string{"C", "E", "G", "A"}, "C6", ""},
		{[]string{"B", "D", "F", "Ab"}, "Bdim7", ""},
		{[]string{"D", "C", "E", "G"}, "C/D", ""},
		{[]string{"E", "B"}, "E5", ""},
		{[]string{"G", "B", "F"}, "G7", "5"},
		{[]string{"C", "E"}, "C E, a major third", ""},
		{[]string{"A", "C"}, "A C, a minor third", ""},
		{[]string{"Eb", "G", "Bb", "Db", "F#"}, "Eb7#9", ""},
		{[]string{"C", "F#", "Bb", "E", "A"}, "C13#11", "5 9"},
		{[]string{"D", "G", "A"}, "Dsus4", ""},
		{[]string{"F", "A", "C", "E", "G"}, "Fmaj9", ""},
	}
	for _, c := range cases {
		classes, bass := bits(c.notes...)
		names := Names(classes, bass, pitch.Key{})
		require.NotEmpty(t, names)
		assert.Equal(t, c.want, names[0].Name, "%v", c.notes)
		assert.Equal(t, c.missing, Degrees(names[0].Missing), "%v", c.notes)
	}
	classes, bass := bits("F#", "A#", "C#")
	gb, _ := pitch.ParseKey("Db major")
	assert.Equal(t, "Gb", Names(classes, bass, gb)[0].Name, "spelled by the key")
	assert.Equal(t, "F#", Names(classes, bass, pitch.Key{})[0].Name)
	// Without its root a chord is named by what the bass plays.
	classes, _ = bits("E", "G", "Bb")
	c, _ := pitch.ParseNote("C")
	assert.Equal(t, "C7", Names(classes, c.Class(), pitch.Key{})[0].Name)
	classes, bass = bits("E", "G", "Bb")
	assert.Equal(t, "Edim", Names(classes, bass, pitch.Key{})[0].Name)
}

func TestTransposed(t *testing.T) {
	for symbol, want := range map[string]string{"Em7": "Gm7", "D/F#": "F/A", "Bbmaj7": "Dbmaj7", "C7alt": "Eb7alt", "A(add9)": "C(add9)"} {
		c, err := Parse(symbol)
		require.NoError(t, err)
		key, _ := pitch.ParseKey("Bb major")
		up := c.Transposed(3, key)
		assert.Equal(t, want, up.Symbol)
		again, err := Parse(up.Symbol)
		require.NoError(t, err)
		assert.Equal(t, again.Tones, up.Tones)
	}
}

func BenchmarkNames(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		Names(0b010010010001, 0, pitch.Key{})
	}
}
