package pitch

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPitchAndHz(t *testing.T) {
	for name, want := range map[string]float64{"A4": 440, "E2": 82.41, "E4": 329.63, "C4": 261.63} {
		s, err := ParseSpelled(name)
		require.NoError(t, err)
		assert.InDelta(t, want, s.Pitch().Hz(440), 0.005, name)
		assert.Equal(t, name, s.String())
	}
}

func TestOctaveBelongsToTheLetter(t *testing.T) {
	for name, midi := range map[string]Pitch{"Cb4": 59, "B3": 59, "B#3": 60, "C4": 60, "E#2": 41, "Fb4": 64} {
		s, err := ParseSpelled(name)
		require.NoError(t, err)
		assert.Equal(t, midi, s.Pitch(), name)
		assert.Equal(t, s, s.Note.At(midi), name)
	}
}

func TestBadNames(t *testing.T) {
	for _, bad := range []string{"", "H", "c", "F#x", "C###", "Cb#"} {
		_, err := ParseNote(bad)
		assert.Error(t, err, bad)
	}
	for _, bad := range []string{"C", "C#", "Cx4", "C99"} {
		_, err := ParseSpelled(bad)
		assert.Error(t, err, bad)
	}
}

func TestUpSpellsByDegree(t *testing.T) {
	cases := []struct {
		root              string
		degree, semitones int
		want              string
	}{
		{"C", 5, 7, "G"}, {"F#", 5, 7, "C#"}, {"Bb", 5, 7, "F"}, {"B", 5, 7, "F#"}, {"B", 5, 6, "F"},
		{"C", 5, 8, "G#"}, {"C", 3, 3, "Eb"}, {"C", 2, 3, "D#"}, {"Eb", 9, 3, "F#"}, {"Eb", 9, 1, "Fb"},
		{"G", 7, 10, "F"}, {"A", 13, 8, "F"}, {"Ab", 3, 3, "Cb"}, {"G#", 3, 4, "B#"},
	}
	for _, c := range cases {
		n, err := ParseNote(c.root)
		require.NoError(t, err)
		assert.Equal(t, c.want, n.Up(c.degree, c.semitones).String(), "%v", c)
	}
}

func TestKeysSpellTheirScale(t *testing.T) {
	cases := map[string]string{
		"C": "CDEFGAB", "A minor": "ABCDEFG", "Bb major": "BbCDEbFGA", "F# minor": "F#G#ABC#DE",
		"D dorian": "DEFGABC", "E mixolydian": "EF#G#ABC#D", "Gb": "GbAbBbCbDbEbF", "B locrian": "BCDEFGA",
	}
	for name, want := range cases {
		k, err := ParseKey(name)
		require.NoError(t, err, name)
		got := ""
		for _, n := range k.Scale() {
			got += n.String()
			assert.True(t, k.Contains(n.Class()))
			assert.Equal(t, n, k.SpellClass(n.Class()), "%s in %s", n, name)
		}
		assert.Equal(t, want, got, name)
	}
}

func TestChromaticNotes(t *testing.T) {
	cases := []struct {
		key   string
		class Class
		want  string
	}{
		{"A minor", 8, "G#"}, // the leading note
		{"A minor", 3, "Eb"}, // the flat fifth of the blues
		{"C", 10, "Bb"}, {"C", 6, "F#"}, {"E major", 2, "D"}, {"Eb major", 6, "Gb"}, {"D", 5, "F"},
		{"", 6, "F#"}, {"", 10, "Bb"}, {"", 1, "C#"},
	}
	for _, c := range cases {
		var k Key
		if c.key != "" {
			k, _ = ParseKey(c.key)
		}
		assert.Equal(t, c.want, k.SpellClass(c.class).String(), "%v", c)
	}
}

func TestParseKey(t *testing.T) {
	for text, want := range map[string]string{
		"Am": "A minor", "a": "", "A": "A major", "AM": "A major", "Bb minor": "Bb minor", "F# ionian": "F# major",
		"C aeolian": "C minor", "H minor": "", "C sharp": "", "Cbb": "",
	} {
		k, err := ParseKey(text)
		if want == "" {
			assert.Error(t, err, text)
			continue
		}
		require.NoError(t, err, text)
		assert.Equal(t, want, k.String())
	}
}

func TestEveryPitchIsSpelledAsItSounds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		k := Key{
			Tonic: Note{rapid.SampledFrom([]byte("ABCDEFG")).Draw(t, "letter"), int8(rapid.IntRange(-1, 1).Draw(t, "acc"))},
			Mode:  rapid.SampledFrom([]Mode{Major, Minor, Dorian, Phrygian, Lydian, Mixolydian, Locrian}).Draw(t, "mode"),
		}
		p := Pitch(rapid.IntRange(20, 100).Draw(t, "pitch"))
		s := k.Spell(p)
		require.Equal(t, p, s.Pitch())
		back, err := ParseSpelled(s.String())
		require.NoError(t, err)
		require.Equal(t, s, back)
	})
}

func TestFracAgreesWithFloat(t *testing.T) {
	gen := rapid.Custom(func(t *rapid.T) Frac {
		return F(rapid.Int64Range(-500, 500).Draw(t, "num"), rapid.Int64Range(1, 96).Draw(t, "den"))
	})
	rapid.Check(t, func(t *rapid.T) {
		a, b := gen.Draw(t, "a"), gen.Draw(t, "b")
		require.InDelta(t, a.Float()+b.Float(), a.Add(b).Float(), 1e-9)
		require.InDelta(t, a.Float()-b.Float(), a.Sub(b).Float(), 1e-9)
		require.InDelta(t, a.Float()*b.Float(), a.Mul(b).Float(), 1e-9)
		require.Equal(t, a.Float() < b.Float(), a.Less(b))
		require.Equal(t, a, a.Add(b).Sub(b))
		require.EqualValues(t, math.Floor(a.Float()), a.Floor())
		text, _ := a.MarshalText()
		var back Frac
		require.NoError(t, back.UnmarshalText(text))
		require.Equal(t, a, back)
	})
	var f Frac
	assert.Error(t, f.UnmarshalText([]byte("1/0")))
	assert.Error(t, f.UnmarshalText([]byte("a")))
	assert.Panics(t, func() { F(1, 0) })
}

// A transposed key has the fewest signs, its scale moved by the interval.
func TestTransposedKeys(t *testing.T) {
	for _, c := range []struct {
		key  string
		by   int
		want string
	}{
		{"C major", 1, "Db major"}, {"C major", 3, "Eb major"}, {"C major", 6, "F# major"}, {"A minor", 3, "C minor"}, {"A minor", -1, "G# minor"},
		{"E minor", 2, "F# minor"}, {"G major", -2, "F major"}, {"D dorian", 4, "F# dorian"}, {"A minor", 12, "A minor"},
	} {
		k, err := ParseKey(c.key)
		require.NoError(t, err)
		assert.Equal(t, c.want, k.Transposed(c.by).String(), "%s by %d", c.key, c.by)
	}
	rapid.Check(t, func(t *rapid.T) {
		k := Key{Note{rapid.SampledFrom([]byte("ABCDEFG")).Draw(t, "letter"), 0}, rapid.SampledFrom([]Mode{Major, Minor, Dorian, Lydian}).Draw(t, "mode")}
		by := rapid.IntRange(-24, 24).Draw(t, "by")
		up := k.Transposed(by)
		for i, n := range k.Scale() {
			require.Equal(t, n.Class().Up(by), up.Scale()[i].Class())
		}
		require.LessOrEqual(t, up.Signature(), 7)
		require.GreaterOrEqual(t, up.Signature(), -7)
	})
}

// The circle of fifths: each fifth up is one sharp more.
func TestSignatures(t *testing.T) {
	for i, key := range []string{"Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#"} {
		k, err := ParseKey(key)
		require.NoError(t, err)
		assert.Equal(t, i-7, k.Signature(), key)
	}
	for key, want := range map[string]string{"A minor": "C major", "E minor": "G major", "D dorian": "C major", "G mixolydian": "C major", "Bb major": "Bb major", "F# minor": "A major"} {
		k, err := ParseKey(key)
		require.NoError(t, err)
		assert.Equal(t, want, k.Relative().String(), key)
	}
}

func TestNotesInJSON(t *testing.T) {
	for _, name := range []string{"C", "F#", "Bb", "Ebb", ""} {
		n, _ := ParseNote(name)
		text, err := n.MarshalText()
		require.NoError(t, err)
		assert.Equal(t, name, string(text))
		var back Note
		require.NoError(t, back.UnmarshalText(text))
		assert.Equal(t, n, back)
	}
	var n Note
	assert.Error(t, n.UnmarshalText([]byte("H")))
	var f Frac
	assert.Error(t, f.UnmarshalText([]byte("1/0")))
	require.NoError(t, f.UnmarshalText([]byte("6/8")))
	assert.Equal(t, F(3, 4), f)
}
