package hand

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/neck"
)

// Each thing that speaks against a form, with its number: worked out by hand for a form
// that has it and as little else as may be.
func TestWhatSpeaksAgainstAForm(t *testing.T) {
	for _, c := range []struct {
		frets, fingers string
		want           float64
	}{
		{"x02210", "x02310", 0.2},               // the ring finger is one fret back
		{"x133xx", "x124xx", 0.45 + 0.2 + 0.15}, // the middle finger spreads, the little one is used
		{"x57xxx", "x24xxx", 0.05 + 0.15},       // the hand is one fret lower, little
		{"xx0232", "xx0132", 0.21},              // the index is one fret up among open strings
		{"x6677x", "x1123x", 0.25 + 0.2},
		{"133211", "134211", 0.25 + 0.15 + 0.2},
		{"1x3211", "Tx3211", 0.5 + 0.25},
		{"333xxx", "111xxx", 0.1},
		{"x55555", "x11111", 0.9},
		{"x242xx", "x131xx", 0.9},                // two strings with one between
		{"x24242", "x13141", 0.25 + 0.15 + 0.2},  // on three strings it is no such thing
		{"x13331", "x13331", 0.25 + 0.3},         // the ring finger across the top
		{"x1233x", "x1233x", 0.65},               // a finger would be to spare
		{"x122xx", "x122xx", 1.2},                // the middle finger across two
		{"122211", "122211", 0.25 + 1.2 + 0.6},   // and above an index
		{"1121xx", "1123xx", 0.25 + 3.0 + 2*0.2}, // a finger beside the index on its own fret
		{"xx5577", "xx1133", 0.25 + 0.65 + 0.6},
		{"x1333x", "x1234x", 0.45 + 0.2 + 0.15}, // a finger each
	} {
		frets, err := neck.ParseFrets(c.frets)
		assert.NoError(t, err)
		f := Fingering{Frets: frets}
		for i, by := range c.fingers {
			f.Fingers[i] = map[rune]Finger{'1': Index, '2': Middle, '3': Ring, '4': Little, 'T': Thumb}[by]
		}
		assert.InDelta(t, c.want, f.form(), 1e-9, "%s by %s", c.frets, c.fingers)
	}
}
