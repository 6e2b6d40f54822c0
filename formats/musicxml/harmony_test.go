package musicxml

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Every chord that has a usual name comes back with its tones and its bass, on any root,
// from what it is printed as and from what the format says of it alone.
func TestEveryChordComesBack(t *testing.T) {
	for _, root := range []string{"C", "F#", "Bb", "E"} {
		for _, suffix := range suffixes {
			for _, low := range []string{"", "/G", "/C#"} {
				c, err := chord.Parse(root + suffix + low)
				if err != nil {
					continue // a bass that is the root
				}
				h := writeHarmony(c, hand.Fingering{Frets: neck.NoFrets}, knownKinds{})
				for _, printed := range []bool{true, false} {
					as := *h
					if !printed {
						as.Kind.Text = nil
					}
					symbol, none, ok := readHarmony(&as)
					require.True(t, ok && !none, "%s as %s, printed %t", c.Symbol, h.Kind.Kind, printed)
					again, err := chord.Parse(symbol)
					require.NoError(t, err, symbol)
					assert.Equal(t, c.Classes(), again.Classes(), "%s came back as %s", c.Symbol, symbol)
					assert.Equal(t, c.Lowest().Class(), again.Lowest().Class(), "%s came back as %s", c.Symbol, symbol)
				}
			}
		}
	}
}

// What the kinds of the format mean, as the standard defines them.
func TestKinds(t *testing.T) {
	for kind, notes := range map[string]string{
		"major": "C E G", "minor": "C Eb G", "augmented": "C E G#", "diminished": "C Eb Gb", "dominant": "C E G Bb",
		"major-seventh": "C E G B", "minor-seventh": "C Eb G Bb", "diminished-seventh": "C Eb Gb A", "augmented-seventh": "C E G# Bb",
		"half-diminished": "C Eb Gb Bb", "major-minor": "C Eb G B", "major-sixth": "C E G A", "minor-sixth": "C Eb G A",
		"dominant-ninth": "C E G Bb D", "major-ninth": "C E G B D", "minor-ninth": "C Eb G Bb D",
		"suspended-second": "C D G", "suspended-fourth": "C F G", "power": "C G",
	} {
		symbol, _, ok := readHarmony(&harmony{Root: &root{Step: rootStep{Step: "C"}}, Kind: kindOf(kind)})
		require.True(t, ok, kind)
		assert.Equal(t, classes(t, notes), parsed(t, symbol).Classes(), "%s is %s", kind, symbol)
	}
	for _, c := range []struct {
		kind    string
		changes []degree
		notes   string
	}{
		{"dominant", []degree{{9, "-1", "add"}}, "C E G Bb Db"},
		{"dominant", []degree{{5, "1", "alter"}}, "C E G# Bb"},
		{"major", []degree{{9, "0", "add"}}, "C E G D"},
		{"major", []degree{{7, "1", "add"}}, "C E G B"},
		{"major", []degree{{7, "0", "add"}}, "C E G Bb"},
		{"minor-seventh", []degree{{5, "-1", "alter"}}, "C Eb Gb Bb"},
		{"dominant-ninth", []degree{{3, "0", "subtract"}, {4, "0", "add"}}, "C F G Bb D"},
	} {
		symbol, _, ok := readHarmony(&harmony{Root: &root{Step: rootStep{Step: "C"}}, Kind: kindOf(c.kind), Degrees: c.changes})
		require.True(t, ok, c)
		assert.Equal(t, classes(t, c.notes), parsed(t, symbol).Classes(), "%v is %s", c, symbol)
	}
}

func kindOf(name string) kind { return kind{Kind: name} }

func parsed(t *testing.T, symbol string) chord.Chord {
	c, err := chord.Parse(symbol)
	require.NoError(t, err, symbol)
	return c
}

func classes(t *testing.T, notes string) (set pitch.Set) {
	for _, name := range split(notes) {
		n, err := pitch.ParseNote(name)
		require.NoError(t, err)
		set = set.With(n.Class())
	}
	return set
}

func split(s string) (list []string) {
	word := ""
	for _, r := range s + " " {
		if r == ' ' {
			list = append(list, word)
			word = ""
			continue
		}
		word += string(r)
	}
	return list
}

func TestOddHarmonies(t *testing.T) {
	_, none, ok := readHarmony(noChord())
	assert.True(t, none && ok)
	for _, h := range []*harmony{
		{Kind: kindOf("major")},
		{Root: &root{Step: rootStep{Step: "H"}}, Kind: kindOf("major")},
		{Root: &root{Step: rootStep{Step: "C"}, Alter: "9"}, Kind: kindOf("major")},
		{Root: &root{Step: rootStep{Step: "C"}}, Kind: kindOf("major"), Bass: &bass{Step: "X"}},
		{Root: &root{Step: rootStep{Step: "C"}}, Kind: kindOf("other")},
		{Root: &root{Step: rootStep{Step: "C"}}},
	} {
		_, _, ok := readHarmony(h)
		assert.False(t, ok, "%+v", h)
	}
	wrong := "nonsense"
	symbol, _, ok := readHarmony(&harmony{Root: &root{Step: rootStep{Step: "D"}}, Kind: kind{Text: &wrong, Kind: "minor"}})
	assert.True(t, ok)
	assert.Equal(t, "Dm", symbol, "what is printed makes no sense, what it is does")
	lies := "7"
	symbol, _, _ = readHarmony(&harmony{Root: &root{Step: rootStep{Step: "D"}}, Kind: kind{Text: &lies, Kind: "minor"}})
	assert.Equal(t, "Dm", symbol, "what it is counts, not what is printed")
}

// Diagrams come back, high up the neck as well.
func TestFrames(t *testing.T) {
	for _, text := range []string{"x32010", "022100", "x02210", "x-14-16-16-x-x", "133211", "xx0232", "12-12-12-12-12-12"} {
		frets, err := neck.ParseFrets(text)
		require.NoError(t, err)
		f := writeFrame(hand.Fingering{Frets: frets})
		assert.Equal(t, frets, readFrame(f), text)
		assert.GreaterOrEqual(t, f.Frets, 4)
		for _, n := range f.Notes {
			if n.Fret > 0 {
				first := max(f.First, 1)
				assert.True(t, n.Fret >= first && n.Fret < first+f.Frets, "%s: fret %d lies in the diagram", text, n.Fret)
			}
		}
	}
	assert.Equal(t, neck.NoFrets, readFrame(nil))
	assert.Equal(t, neck.NoFrets, readFrame(&frame{Strings: 4}))
}

// suffixes are those of chords that have a usual name.
var suffixes = []string{"", "m", "dim", "aug", "5", "sus4", "sus2", "6", "m6", "7", "maj7", "m7", "m(maj7)", "dim7", "m7b5", "aug7", "maj7#5", "maj7b5", "7b5", "add9", "madd9", "6/9", "m6/9", "9", "maj9", "m9", "m(maj9)", "7sus4", "9sus4", "7sus2", "7b9", "7#9", "7#11", "7b13", "maj7#11", "9#11", "9b5", "9#5", "maj9#11", "m9b5", "maj9#5", "11", "m11", "maj11", "13", "maj13", "m13", "13sus4", "7b9sus4", "13b9", "13#9", "13#11", "maj13#11", "7b5b9", "7b5#9", "7#5b9", "7#5#9", "7b9#11", "7b9b13", "7#9#11", "7#9b13", "7#9b9", "7alt", "add11", "madd11", "add#11", "addb9", "maddb9", "addb13", "maddb13", "sus4add9", "6sus4", "6sus2", "m7add11", "7add13", "m7add13", "maj7add13", "7add11", "mb6", "dimadd9", "dim(maj7)", "dim9", "augadd9", "sus2add#11", "5add9", "5addb9", "13b9#11", "m7b9"}
