package harmony

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/pitch"
)

func TestNumbersIn(t *testing.T) {
	for _, c := range []struct{ numbers, key, numbering, want string }{
		{"1 5 6m 4", "G major", "relative", "G D Em C"},
		{"I V vi IV", "G major", "relative", "G D Em C"},
		{"2m7 5(7) 1maj7", "C major", "relative", "Dm7 G7 Cmaj7"},
		{"2m7 57 1maj7", "Bb major", "relative", "Cm7 F7 Bbmaj7"},
		{"ii7 V7 Imaj7", "F major", "relative", "Gm7 C7 Fmaj7"},
		{"1 b7 4 1", "D mixolydian", "tonic", "D C G D"},
		{"6m 4 1 5", "A minor", "relative", "Am F C G"},
		{"1m b6 b3 b7", "A minor", "tonic", "Am F C G"},
		{"i VI III VII", "A minor", "relative", "Am F C G"},
		{"i bVI bIII bVII", "A minor", "tonic", "Am F C G"},
		{"viio iiø7 bVII #ivo7", "C major", "tonic", "Bdim Dm7b5 Bb F#dim7"},
		{"1/3 5/7 V7/vi vi", "C major", "tonic", "C/E G/B E7 Am"},
		{"ii7/IV V7/IV IV", "C major", "tonic", "Gm7 C7 F"},
		{"1sus4 16/9 I6/9", "C major", "tonic", "Csus4 C6/9 C6/9"},
	} {
		k := key(t, c.key)
		var got []string
		for _, word := range strings.Fields(c.numbers) {
			require.True(t, chord.IsNumber(word), word)
			n, err := chord.ParseNumber(word, k, Numbering(c.numbering) == Relative)
			require.NoError(t, err, word)
			got = append(got, n.Symbol)
		}
		assert.Equal(t, c.want, strings.Join(got, " "), "%s in %s", c.numbers, c.key)
	}
	for _, word := range []string{"", "b", "8", "Am", "C", "##4", "1/9x", "4/x", "1quux", "H"} {
		_, err := chord.ParseNumber(word, key(t, "C major"), true)
		assert.Error(t, err, word)
	}
	_, err := chord.ParseNumber("1", pitch.Key{}, true)
	assert.ErrorContains(t, err, "which key")
}

func TestRoman(t *testing.T) {
	for _, c := range []struct{ chords, key, want string }{
		{"G D Em C", "G major", "I V vi IV"},
		{"Dm7 G7 Cmaj7", "C major", "ii7 V7 Imaj7"},
		{"Am F C G", "A minor", "i bVI bIII bVII"},
		{"Bdim Dm7b5 G7 Cm", "C minor", "viio iiø7 V7 i"},
		{"C/E Caug F#dim7", "C major", "I/3 I+ #ivo7"},
	} {
		var got []string
		for _, n := range Numbers(chords(t, c.chords), key(t, c.key), Roman) {
			got = append(got, n.Number)
		}
		assert.Equal(t, c.want, strings.Join(got, " "), "%s in %s", c.chords, c.key)
	}
}

// What goes out as a number comes in as the chord, in every key and school.
func TestNumbersComeBack(t *testing.T) {
	for _, k := range everyKey() {
		for _, root := range k.Scale() {
			for _, quality := range []string{"", "m", "7", "maj7", "m7", "m7b5", "dim7", "sus4", "add9", "6"} {
				c, err := chord.Parse(root.String() + quality)
				require.NoError(t, err)
				for _, numbering := range []Numbering{Relative, Tonic, Roman} {
					n := Numbers([]chord.Chord{c}, k, numbering)[0].Number
					back, err := chord.ParseNumber(n, k, numbering == Relative)
					require.NoError(t, err, "%s in %s", n, k)
					assert.Equal(t, c.Classes(), back.Classes(), "%s in %s as %s", c.Symbol, k, n)
				}
			}
		}
	}
}
