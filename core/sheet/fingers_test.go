package sheet

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Fingers of both hands are read, and written as they are typed; what is no finger says
// where and how to mend it.
func TestFingersAreTyped(t *testing.T) {
	event := func(slot string) *song.Event {
		s := Parse("title: T\nA:\n| " + slot + " |\n")
		require.True(t, s.OK(), "%s: %v", slot, s.Problems)
		e := &s.Song.Parts[0].Lines[0].Bars[0].Events[0]
		assert.Equal(t, slot, FormatEvent(e))
		return e
	}
	assert.Equal(t, song.Note{String: 5, Fret: 3, Finger: 2}, event("3A:2").Notes[0])
	assert.Equal(t, song.Note{String: 3, Pluck: song.PluckI}, event("0G:i").Notes[0])
	assert.Equal(t, song.Note{String: 5, Fret: 3, Finger: 2, Pluck: song.PluckP}, event("3A:2p").Notes[0])
	assert.Equal(t, song.Note{String: 6, Fret: 2, Finger: 5}, event("2E:T!").Notes[0])
	two := event("3A:1+5D:4*?").Notes
	assert.Equal(t, []song.Finger{1, 4}, []song.Finger{two[0].Finger, two[1].Finger})
	assert.Equal(t, song.Finger(3), event("7Gb2:3~").Notes[0].Finger)
	g := event("G=320003:21xxx3!")
	assert.Equal(t, [neck.Strings]song.Finger{2, 1, 0, 0, 0, 3}, g.Fingers)
	assert.True(t, g.Accent)
	for slot, problem := range map[string]string{
		"0A:2":              "3:5: error: an open string has no finger; remove :2 or give the note a fret",
		"3A:":               "3:5: error: \":\" is no finger; write :1 to :4 or :T for the fretting hand, :p :i :m :a for the picking hand, or both, like 3A:2p",
		"3A:7":              "3:5: error: \":7\" is no finger; write :1 to :4 or :T for the fretting hand, :p :i :m :a for the picking hand, or both, like 3A:2p",
		"C=x32010:32":       "3:12: error: \"32\" is not a finger for each string; write six signs low to high, like C=x32010:x32x1x",
		"C=x32010:132x1x":   "3:12: error: the E string is not fretted; write x for it",
		"C=x32010:x3xx1x":   "3:14: error: the D string has no finger; give it one, or leave the fingers out",
		"C=x32010:x32x7x":   "3:16: error: \"7\" is no finger; fingers are 1 to 4 and T for the thumb, x where there is none",
		"C=x32010:x32x1x?!": "",
	} {
		s := Parse("title: T\nA:\n| " + slot + " |\n")
		if problem == "" {
			assert.True(t, s.OK(), slot)
			continue
		}
		require.NotEmpty(t, s.Problems, slot)
		assert.Equal(t, problem, s.Problems[0].String(), slot)
	}
}

// A finger goes with its note into another key, but not to an open string.
func TestFingersInAnotherKey(t *testing.T) {
	s := Parse("title: T\nkey: A minor\nA:\n| 5A:3 1A:1 C=x32010:x32x1x - |\n")
	to, err := pitch.ParseKey("G# minor")
	require.NoError(t, err)
	moved, err := s.Transpose(to, false)
	require.NoError(t, err)
	assert.Contains(t, moved.Text, "| 4A:3 0A ")
	assert.True(t, Parse(moved.Text).OK(), moved.Text)
}
