package chord

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func spell(c Chord) string {
	var parts []string
	for _, t := range c.Tones {
		parts = append(parts, t.Note.String())
	}
	return strings.Join(parts, " ")
}

func TestTones(t *testing.T) {
	cases := map[string]string{
		"C": "C E G", "Am": "A C E", "Em7": "E G B D", "A5": "A E", "D/F#": "D F# A", "Cmaj7": "C E G B",
		"CM7": "C E G B", "CΔ": "C E G B", "Cmin": "C Eb G", "C-7": "C Eb G Bb", "Bdim": "B D F", "B°7": "B D F Ab",
		"Bm7b5": "B D F A", "Bø": "B D F A", "C+": "C E G#", "Caug7": "C E G# Bb", "C7+": "C E G# Bb", "Dsus4": "D G A", "Dsus2": "D E A",
		"Asus": "A D E", "Cadd9": "C E G D", "Cmadd9": "C Eb G D", "C6": "C E G A", "C6/9": "C E G A D", "C69": "C E G A D",
		"Eb7#9": "Eb G Bb Db F#", "Eb7b9": "Eb G Bb Db Fb", "G13": "G B D F A E", "Am11": "A C E G B D",
		"C9": "C E G Bb D", "Cmaj9": "C E G B D", "Cm(maj7)": "C Eb G B", "CmM7": "C Eb G B", "Cmmaj9": "C Eb G B D",
		"C7(b9)": "C E G Bb Db", "C7b9#11": "C E G Bb Db F#", "C7b5": "C E Gb Bb", "C7#5": "C E G# Bb",
		"Gno3": "G D", "Comit5": "C E", "F#m": "F# A C#", "Bb7": "Bb D F Ab", "C♯m": "C# E G#", "G7sus4": "G C D F",
		"Fmaj7#11": "F A C E B", "C7alt": "C E Gb G# Bb Db D#",
		"C13#9": "C E G Bb D# A", "C13b9": "C E G Bb Db A", "C9b5": "C E Gb Bb D", "C9#5": "C E G# Bb D",
	}
	for symbol, want := range cases {
		c, err := Parse(symbol)
		if assert.NoError(t, err, symbol) {
			assert.Equal(t, want, spell(c), symbol)
			assert.Equal(t, symbol, c.String())
		}
	}
}

func TestFifths(t *testing.T) {
	cases := map[string]int{"C": 7, "C5": 7, "Bdim": 6, "Bm7b5": 6, "C+": 8, "C7#5": 8, "Csus4": 7, "C7#11": 7, "Cno5": 7, "C7b5": 6}
	for symbol, want := range cases {
		c, err := Parse(symbol)
		require.NoError(t, err, symbol)
		got, altered := c.Fifth()
		assert.Equal(t, want, got, symbol)
		assert.Equal(t, want != 7, altered, symbol)
	}
	c, _ := Parse("D/F#")
	assert.Equal(t, "F#", c.Lowest().String())
	assert.True(t, c.Has(4))
	assert.False(t, c.Has(3))
}

func TestSyntaxErrorsSayWhere(t *testing.T) {
	cases := map[string]int{"H": 0, "": 0, "Cfoo": 1, "Cm7x": 3, "C/H": 2, "C7b": 2, "Bbq": 2, "C/": 2, "Cadd": 1, "F#qq/A": 2}
	for symbol, at := range cases {
		_, err := Parse(symbol)
		var syntax *SyntaxError
		if assert.True(t, errors.As(err, &syntax), symbol) {
			assert.Equal(t, at, syntax.Offset, symbol)
			assert.Contains(t, err.Error(), "expected")
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"C", "Em7b5/G#", "C7(b9,#11)", "Fmaj7#11no3", "B°7", "6/9"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		c, err := Parse(s)
		if err == nil && len(c.Tones) == 0 {
			t.Fatalf("%q has no tones", s)
		}
		if err != nil {
			_ = err.Error()
		}
	})
}
