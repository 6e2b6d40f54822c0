package song_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// What a sheet's names mean: what it says, else its voicings, else the key where it fits
// one reading alone, else shapes.
func TestNaming(t *testing.T) {
	for _, c := range []struct {
		why, sheet string
		want       song.Naming
		warned     int
	}{
		{"nothing is lifted", "A:\n| G D |", song.Shapes, 0},
		{"players mean the shape", "capo: 2\nA:\n| G D Em C |", song.Shapes, 0},
		{"the key of what sounds", "key: A\ncapo: 2\nA:\n| G D Em C |", song.Shapes, 0},
		{"the key fits what sounds alone", "key: G\ncapo: 2\nA:\n| G D Em C |", song.Sounding, 1},
		{"said", "key: G\ncapo: 2\nchords: sounding\nA:\n| G D Em C |", song.Sounding, 0},
		{"said otherwise than the key", "key: G\ncapo: 2\nchords: shapes\nA:\n| G D Em C |", song.Shapes, 1},
		{"a minor key with its leading note", "key: C minor\ncapo: 3\nA:\n| Am F C G E7 |", song.Shapes, 0},
		{"a blues", "key: A\ncapo: 2\nA:\n| G7 C7 D7 G7 |", song.Shapes, 0},
		{"power chords, by the tonic", "key: A\ncapo: 2\nA:\n| G5 C5 D5 G5 |", song.Shapes, 0},
		{"half a step down, named by what sounds", "key: Eb minor\ntuning: half step down\nA:\n| Eb5 Gb5 Ab5 |", song.Sounding, 0},
		{"half a step down, by shapes", "tuning: half step down\nA:\n| E5 G5 A5 |", song.Shapes, 0},
		{"a voicing is louder than the key", "key: G\ncapo: 2\nA:\n| G=320003 D |", song.Shapes, 1},
		{"a voicing of what sounds", "capo: 2\nA:\n| A=320003 D |", song.Sounding, 0},
		{"two voicings that do not agree", "key: A\ncapo: 2\nA:\n| G=320003 D E=xx0232 |", song.Shapes, 1},
		{"a part in the other reading", "key: A\ncapo: 2\nA:\n| G D Em C G D Em C |\nB:\n| A E |", song.Shapes, 1},
		{"a name that fits neither says nothing", "capo: 2\nA:\n| G=x02210 D |", song.Shapes, 0},
		{"an open tuning alone lifts nothing", "tuning: open G\nkey: C\nA:\n| G C |", song.Shapes, 0},
		{"an open tuning with a capo", "tuning: open G\ncapo: 2\nkey: A\nA:\n| G C D G |", song.Shapes, 0},
		{"drop C is drop D, lowered", "tuning: drop C\nkey: C minor\nA:\n| D5 F5 G5 D5 |", song.Shapes, 0},
		{"no key and no voicing", "capo: 5\nA:\n| 0E 3A |", song.Shapes, 0},
	} {
		s := sheet.Parse("title: N\n" + c.sheet + "\n")
		require.True(t, s.OK(), "%s: %v", c.why, s.Problems)
		assert.Equal(t, c.want, s.Song.Naming(), c.why)
		assert.Len(t, s.Problems, c.warned, "%s: %v", c.why, s.Problems)
	}
}

// A chord has three names where strings are lifted: as it is typed, as it is fingered and as
// it sounds.
func TestLift(t *testing.T) {
	parse := func(s string) chord.Chord {
		c, err := chord.Parse(s)
		require.NoError(t, err)
		return c
	}
	a, _ := pitch.ParseKey("A")
	flat, _ := pitch.ParseKey("Gb major")
	shapes, sounding := song.Lift{By: 2, Names: song.Shapes}, song.Lift{By: 2, Names: song.Sounding}
	assert.Equal(t, "F#m7/E", shapes.Sounds(parse("Em7/D"), a).Symbol)
	assert.Equal(t, "Em7/D", shapes.Shape(parse("Em7/D"), a).Symbol)
	assert.Equal(t, "F#m7/E", sounding.Sounds(parse("F#m7/E"), a).Symbol)
	assert.Equal(t, "Em7/D", sounding.Shape(parse("F#m7/E"), a).Symbol)
	assert.Equal(t, "Cb", shapes.Sounds(parse("A"), flat).Symbol, "spelled by the key of what sounds")
	assert.Equal(t, "A", shapes.Sounds(parse("G"), pitch.Key{}).Symbol)
	assert.Equal(t, "G", song.Lift{}.Sounds(parse("G"), a).Symbol)
	assert.False(t, song.Lift{}.Any())
}

func TestMoved(t *testing.T) {
	for text, want := range map[string]int{"standard": 0, "half step down": -1, "whole step down": -2, "drop D": 0, "drop C": -2, "open G": 0, "C# F# B E G# C#": -3, "F A# D# G# C F": 1, "standard -35 cents": 0} {
		tuning, err := neck.Parse(text)
		require.NoError(t, err)
		from, by := tuning.Moved()
		assert.Equal(t, want, by, text)
		assert.Equal(t, tuning, from.Up(by), text)
	}
}

// Somebody may play another player's line: it comes first, what the first one has stands
// beside it, and parts without such a line stay as they are.
func TestAs(t *testing.T) {
	s := sheet.Parse("title: P\nA:\n| 0A - 3A - |\nwords | Lantern |\nlead | 5G 7G 5B 8B |\nlow | 0E - - - |\nB:\n| 0E - - - |\n").Song
	lead := s.As(func(int) string { return "lead" })
	require.Len(t, lead.Parts, 2)
	a := lead.Parts[0]
	assert.Equal(t, 5, a.Bars()[0].Events[0].Notes[0].Fret)
	assert.Equal(t, []string{song.FirstPlayer, "low"}, a.Players())
	assert.Equal(t, s.Parts[0].Lines[0].Bars, a.Lines[0].Beside[0].Bars)
	assert.Equal(t, s.Parts[0].Lines[0].Words, a.Lines[0].Words, "its bars are as long")
	assert.Equal(t, s.PartID(0), lead.PartID(0))
	assert.Equal(t, s.Parts[1], lead.Parts[1], "nobody else plays there")
	assert.Same(t, s, s.As(func(int) string { return "" }))
	assert.Same(t, s, s.As(func(int) string { return "drums" }))
}
