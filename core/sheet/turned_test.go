package sheet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is no slot, but a note typed the wrong way round, is said to be one.
func TestTurnedNotes(t *testing.T) {
	for typed, meant := range map[string]string{
		"A3": "3A", "E0": "0E", "D12": "12D", "G10b2": "10Gb2", "e3": "3e", "B24": "24B", "hA3": "h3A", `\D8`: `\8D`, "A3*": "3A*",
		"A7+9D": "7A+9D", "7A+D9": "7A+9D", "A07+9D": "7A+9D", "G8~'": "8G~'",
	} {
		s := Parse(fmt.Sprintf("title: T\nA:\n| 0E %s |\n", typed))
		require.Len(t, s.Problems, 1, typed)
		assert.Equal(t, Problem{3, 6, Error, fmt.Sprintf("%q has the string before the fret", typed), "write " + meant}, s.Problems[0])
		assert.True(t, Parse(fmt.Sprintf("title: T\nA:\n| 0E %s |\n", meant)).OK(), meant)
	}
	for _, typed := range []string{"A25", "C3", "F12", "A3x", "A", "A3+3A", "E0b1", "Am3", "/E0", "A7+", "+A7", "H7"} {
		s := Parse(fmt.Sprintf("title: T\nA:\n| 0E %s |\n", typed))
		for _, p := range s.Problems {
			assert.NotContains(t, p.Message, "string before the fret", typed)
		}
	}
}

// A chord among single notes that looks like a note turned round is noticed, and only
// that.
func TestTurnedChords(t *testing.T) {
	for bars, at := range map[string][]int{
		"| 0A A7 3A 5A |":                    {6},
		"| 0A - A7* - 3A - 5A - |":           {8},
		"| 0A - 3A 5A | 5A D9 0A - |":        {19},
		"| (0E G7) 3E 5E 3E |":               {7},
		"| 0A A7 3A D7 5A - - - |":           {6, 12},
		"| 0E 3E 0E A7 | - 3E 0E 0E |":       nil, // half a bar long: the riff comes to rest on it
		"| 0A A5 3A 5A |":                    nil, // a power chord
		"| 0A C7 3A 5A |":                    nil, // there is no string C
		"| 0A A7=x02020 3A 5A |":             nil, // with a voicing it is a chord
		"| 0A A7 3A C |":                     nil, // chords stand beside it
		"| A7 0A 3A 5A |":                    nil, // nothing before it says what is meant
		"| 0A 3A 5A A7 |":                    nil,
		"| 0A 3A+5D A7 3A |":                 nil, // two notes at once before it
		"| 0A A7 0E A7 | 0D D7 0A D7 |":      nil, // a bass note and a strum in turn
		"| 0E - E7 - 2A - E7 - |":            nil,
		"| 0A A7 A7 | 0E A7 A7 |":            nil,
		"| 0A A7 0A 3A | 0A A7 0A 5A |":      {6, 20}, // in two bars of a riff
		"| 0A . A7 3A |":                     nil,
		"| 0A A7 3A 5A |\n| A7 - - - |":      nil, // it is a chord elsewhere
		"| 0A A7 3A 5A |\n| Am A7 Dm A7 |":   nil,
		"| 0A A7 3A 5A |\n| D7 - - - |":      {6},
		"| 0A A7m 3A 5A |\n| Dm - - - |":     nil, // no chord at all, said elsewhere
		"| 0A 3A - - |\nlead | 0A A7 3A - |": {11},
	} {
		s := Parse("title: T\nA:\n" + bars + "\n")
		var got []int
		for _, p := range s.Problems {
			if p.Severity == Warning && strings.Contains(p.Message, "among single notes") {
				got = append(got, p.Column)
				assert.True(t, s.OK(), "%s: it stays a chord", bars)
			}
		}
		assert.Equal(t, at, got, bars)
	}
	s := Parse("title: T\nA:\n| 0A A7 3A 5A |\n")
	assert.Equal(t, []Problem{{3, 6, Warning, "A7 among single notes is read as a chord", "write 7A for the note; where the chord is meant, give its voicing after ="}}, s.Problems)
}
