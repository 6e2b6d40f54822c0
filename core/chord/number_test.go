package chord

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
		k, err := pitch.ParseKey(c.key)
		require.NoError(t, err)
		var got []string
		for _, word := range strings.Fields(c.numbers) {
			require.True(t, IsNumber(word), word)
			n, err := ParseNumber(word, k, c.numbering == "relative")
			require.NoError(t, err, word)
			got = append(got, n.Symbol)
		}
		assert.Equal(t, c.want, strings.Join(got, " "), "%s in %s", c.numbers, c.key)
	}
	for _, word := range []string{"", "b", "8", "Am", "C", "##4", "1/9x", "4/x", "1quux", "H"} {
		_, err := ParseNumber(word, pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: pitch.Major}, true)
		assert.Error(t, err, word)
	}
	_, err := ParseNumber("1", pitch.Key{}, true)
	assert.ErrorContains(t, err, "which key")
}

// A number ends where the signs of its slot begin; the v of small numerals is no stroke.
func TestCutNumber(t *testing.T) {
	for word, want := range map[string][2]string{
		"iv": {"iv", ""}, "ivv": {"iv", "v"}, "iv^": {"iv", "^"}, "5v": {"5", "v"}, "b7~*": {"b7", "~*"}, "bVIImaj7!": {"bVIImaj7", "!"}, "6m": {"6m", ""},
		"V7/vi^": {"V7/vi", "^"}, "Am": {"", "Am"}, "x": {"", "x"}, "": {"", ""},
	} {
		number, rest := CutNumber(word, "v^*!~")
		assert.Equal(t, want, [2]string{number, rest}, word)
	}
}
