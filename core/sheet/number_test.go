package sheet_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

// Where chords are numbers a bar means what it would with their names, and what was typed
// stays.
func TestChordsInNumbers(t *testing.T) {
	for _, c := range []struct{ head, typed, means string }{
		{"key: C major", "| 1 5 6m 4 |", "| C G Am F |"},
		{"key: C major", "| I V vi IV |", "| C G Am F |"},
		{"key: A minor", "| 6m 4 1 5 |", "| Am F C G |"},
		{"key: A minor", "| i VI III VII |", "| Am F C G |"},
		{"key: D major", "| 1 - - - 5(7) - 2m7 b7 |", "| D - - - A7 - Em7 C |"},
		{"key: C major", "| iv ivv iv^ iii~ |", "| Fm Fmv Fm^ Em~ |"},
		{"key: G major", "| 1/3v 5/7^ (1 4) . |", "| G/Bv D/F#^ (G C) . |"},
		{"key: C major", "| 1=x32010 5=320003! 6m? - ? |", "| C=x32010 G=320003! Am? - ? |"},
		{"key: C major", "| 1 Am 7A 5D+5G | V7/vi vi NC x |", "| C Am 7A 5D+5G | E7 Am NC x |"},
		{"key: Bb major\ncapo: 3", "| 1 4 |", "| Bb Eb |"},
	} {
		got := sheet.Parse("title: T\n" + c.head + "\nchords: numbers\nA:\n" + c.typed + "\n")
		require.True(t, got.OK(), "%s: %v", c.typed, got.Problems)
		want := sheet.Parse("title: T\n" + c.head + "\nchords: sounding\nA:\n" + c.means + "\n")
		require.True(t, want.OK(), "%s: %v", c.means, want.Problems)
		assert.Equal(t, sheet.Write(want.Song), sheet.Write(got.Song), c.typed)
		flat := func(s string) string { return strings.Join(strings.Fields(s), " ") }
		assert.Contains(t, flat(got.Format()), flat(c.typed), "what was typed stays")
		assert.Equal(t, got.Format(), sheet.Parse(got.Format()).Format())
		assert.Contains(t, got.Format(), "chords: numbers\n")
	}
}

func TestNumbersFollowTheKey(t *testing.T) {
	s := sheet.Parse("title: T\nkey: C major\nchords: numbers\nA:\n| 1 | 5 |\nB:\nkey: D major\nlike: A\n2 | 4 |\nC:\nkey: E major\n| 1 |\n")
	require.Empty(t, s.Problems)
	var names []string
	for i := range s.Song.Parts {
		for _, b := range s.Song.Parts[i].Bars() {
			for _, e := range b.Events {
				names = append(names, e.Chord.Symbol)
			}
		}
	}
	assert.Equal(t, "C G D G E", strings.Join(names, " "), "the second bar of B is its fourth, the first as in A in its own key")
}

func TestNumbersTranspose(t *testing.T) {
	s := sheet.Parse("title: T\nkey: C major\nchords: numbers\nA:\n| 1 5 6m 0A |\n")
	to, err := pitch.ParseKey("D major")
	require.NoError(t, err)
	moved, err := s.Transpose(to, false)
	require.NoError(t, err)
	assert.Contains(t, moved.Text, "| 1 5 6m 2A |")
	assert.Contains(t, sheet.Write(sheet.Parse(moved.Text).Song), "| D A Bm 2A |")
}

func TestNumbersThatAreNone(t *testing.T) {
	for body, says := range map[string]string{
		"chords: numbers\nA:\n| 1 |":                                                           "say which key",
		"key: C major\nA:\n| 1 5 |":                                                            "has no string",
		"key: C major\nchords: numbers\nA:\n| 1q |":                                            "not the number of a chord",
		"key: C major\nchords: numbers\nA:\n| 1=99 |":                                          "has 2 strings",
		"key: C major\nchords: numbers\nA:\n| 8 |":                                             "has no string",
		"key: C major\nchords: numbers\nA:\n| 5( 4 |":                                          "",
		"key: C major\nchords: number\nA:\n| C |":                                              "",
		"key: C major\nchords: numbers\nA:\n| V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V/V |": "not the number",
	} {
		s := sheet.Parse("title: T\n" + body + "\n")
		require.NotEmpty(t, s.Problems, body)
		assert.Contains(t, s.Problems[0].Message+s.Problems[0].Mend, says, body)
	}
}
