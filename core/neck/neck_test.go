package neck

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
)

func TestTunings(t *testing.T) {
	cases := []struct{ text, letters, canonical string }{
		{"standard", "E A D G B E", "standard"},
		{"Drop d", "D A D G B E", "drop D"},
		{"D A D G B E", "D A D G B E", "drop D"},
		{"half step down", "Eb Ab Db Gb Bb Eb", "half step down"},
		{"Eb Ab Db Gb Bb Eb", "Eb Ab Db Gb Bb Eb", "half step down"},
		{"drop C", "C G C F A D", "drop C"},
		{"open A", "E A E A C# E", "open A"},
		{"open D", "D A D F# A D", "open D"},
		{"D A D G A D", "D A D G A D", "DADGAD"},
		{"standard -35 cents", "E A D G B E", "standard -35 cents"},
		{"-35 cents", "E A D G B E", "standard -35 cents"},
		{"E A D G C F", "E A D G C F", "E A D G C F"},
		{"B1 A D G B E", "B A D G B E", "B A D G B E"},
	}
	for _, c := range cases {
		tuning, err := Parse(c.text)
		require.NoError(t, err, c.text)
		assert.Equal(t, c.letters, tuning.Letters(), c.text)
		assert.Equal(t, c.canonical, tuning.String(), c.text)
		again, err := Parse(tuning.String())
		require.NoError(t, err, c.text)
		assert.Equal(t, tuning, again, c.text)
	}
	for _, bad := range []string{"", "E A D G B", "nonsense", "E A D G B H", "standard x cents", "E9 A D G B E"} {
		_, err := Parse(bad)
		assert.Error(t, err, bad)
	}
}

func TestOpenPitches(t *testing.T) {
	got := ""
	for _, s := range Standard.Spelled() {
		got += s.String() + " "
	}
	assert.Equal(t, "E2 A2 D3 G3 B3 E4 ", got)
	assert.Equal(t, pitch.Pitch(52), Standard.Pitch(5, 7), "fret 7 of A is E3")
	assert.Equal(t, 7, Standard.Fret(5, 52))
	assert.Equal(t, pitch.Pitch(42), Standard.Up(2).Open(6))
}

func TestStringNames(t *testing.T) {
	for s := String(1); s <= Strings; s++ {
		back, ok := ParseString(s.String())
		assert.True(t, ok)
		assert.Equal(t, s, back)
		assert.Equal(t, s, StringAt(s.Index()))
	}
	_, ok := ParseString("a")
	assert.False(t, ok)
}

// The measures of a 648 mm neck: a power chord at fret 1 spans 67 mm, at fret
// 7 47 mm.
func TestMillimetres(t *testing.T) {
	var n Neck
	assert.InDelta(t, 67, n.Along(1, 3), 0.5)
	assert.InDelta(t, 47, n.Along(7, 9), 0.5)
	assert.InDelta(t, 324, n.Position(12), 1e-9)
	assert.InDelta(t, 7.0, n.Across(6, 0)-n.Across(5, 0), 1e-9)
	assert.InDelta(t, 8.7, n.Across(6, 12)-n.Across(5, 12), 1e-9)
	assert.InDelta(t, math.Hypot(n.Along(1, 3), n.Across(6, 1)-n.Across(5, 3)), n.Distance(6, 1, 5, 3), 1e-9)
	assert.Less(t, Neck{Scale: ChildScale}.Along(1, 3), n.Along(1, 3))
	capo := Neck{Capo: 2}
	assert.InDelta(t, n.Along(3, 5), capo.Along(1, 3), 1e-9)
	assert.Equal(t, 22, capo.LastFret())
}

func TestFrets(t *testing.T) {
	for _, text := range []string{"x32010", "x-10-12-12-x-x", "022100", "x577xx"} {
		f, err := ParseFrets(text)
		require.NoError(t, err, text)
		assert.Equal(t, text, f.String())
		b, err := json.Marshal(f)
		require.NoError(t, err)
		var back Frets
		require.NoError(t, json.Unmarshal(b, &back))
		assert.Equal(t, f, back)
	}
	b, _ := json.Marshal(Frets{Silent, 3, 2, 0, 1, 0})
	assert.Equal(t, "[null,3,2,0,1,0]", string(b))
	for _, bad := range []string{"", "x3201", "x-25-1-1-1-1", "xxxxxx", "x320a0", "1-2-3", "x-+1-1-1-1-1"} {
		_, err := ParseFrets(bad)
		assert.Error(t, err, bad)
	}
}

func TestAnyTuningIsWrittenAndReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tuning := Standard
		for i := range tuning.open {
			tuning.open[i] += pitch.Pitch(rapid.IntRange(-12, 7).Draw(t, "shift"))
		}
		tuning.Cents = float64(rapid.IntRange(-100, 100).Draw(t, "cents"))
		back, err := Parse(tuning.String())
		require.NoError(t, err)
		require.Equal(t, tuning, back)
	})
}

// A capo on some strings is a tuning of its own.
func TestPartialCapo(t *testing.T) {
	for text, want := range map[string]string{
		"standard, capo 2 on A D G": "E B E A B E", "capo 2 on ADG": "E B E A B E", "drop D with capo 2 on A, D and G": "D B E A B E",
		"capo 5 on e": "E A D G B A", "standard capo 2 on A D G B e": "E B E A C# F#",
	} {
		got, err := Parse(text)
		require.NoError(t, err, text)
		notes, err := Parse(want)
		require.NoError(t, err)
		assert.Equal(t, notes, got, text)
		again, err := Parse(got.String())
		require.NoError(t, err)
		assert.Equal(t, got, again, "it is written as its notes")
	}
	for text, problem := range map[string]string{
		"capo 2": "no capo on some strings", "capo on A": "no capo on some strings", "capo 2 on H": "no capo on some strings",
		"nonsense, capo 2 on A": "not known", "capo 9 on A": "+9 semitones from standard",
	} {
		_, err := Parse(text)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), problem, text)
	}
}
