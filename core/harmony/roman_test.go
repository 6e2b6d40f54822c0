package harmony

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
)

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
