package voicing

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/pitch"
)

func keyOf(t *testing.T, name string) pitch.Key {
	k, err := pitch.ParseKey(name)
	require.NoError(t, err)
	return k
}

// What a singer says, and by how many semitones the song moves.
func TestParseSinger(t *testing.T) {
	for text, want := range map[string]Asked{
		"a third lower": {-3, -4}, "a minor third lower": {-3}, "a major third higher": {4}, "a fourth up": {5}, "a fifth down": {-7},
		"half a step down": {-1}, "a whole step up": {2}, "a tone lower": {-2}, "two frets up": {2}, "3 semitones lower": {-3}, "-3": {-3}, "2": {2},
		"an octave lower": {-12}, "in A": {-3}, "in Eb": {3}, "in F#": {6}, "a second lower": {-2, -1},
		"A3 to D5 for C4 to F5": {-3}, "A3–E5 for C4–F5": {-2, -3, -1}, "G3 to D5 for C4 to C5": {-2, -1, -3},
	} {
		got, err := ParseSinger(text, keyOf(t, "C"))
		require.NoError(t, err, text)
		if len(got) > 2 {
			assert.ElementsMatch(t, want[:min(3, len(want))], got[:min(3, len(got))], text)
			continue
		}
		assert.Equal(t, want, got, text)
	}
	for text, problem := range map[string]string{
		"": "nothing that a singer", "lower": "nothing that a singer", "a third": "nothing that a singer", "40": "nothing that a singer", "in H": "H",
		"D5 to A3 for C4 to F5": "a range goes up", "A3 to D4 for C4 to F5": "the tune spans 17 semitones and the voice 5",
	} {
		_, err := ParseSinger(text, keyOf(t, "C"))
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), problem, text)
	}
}

// A song for a voice: the keys are those that were asked for, and the shapes sound them
// over the capo.
func TestForSinger(t *testing.T) {
	var chords []chord.Chord
	for _, name := range []string{"C", "G", "Am", "F"} {
		chords = append(chords, parse(t, name))
	}
	list := new(Book).ForSinger(chords, Asked{-3, -4}, Config{Key: keyOf(t, "C")})
	require.Len(t, list, 2)
	keys := map[string]int{}
	for _, one := range list {
		keys[one.Key.String()] = one.Semitones
		for i, c := range chords {
			assert.Equal(t, c.Root.Class().Up(one.Semitones), one.Sounds[i].Root.Class())
			assert.Equal(t, one.Sounds[i].Root.Class(), one.Capo.Shapes[i].Root.Class().Up(one.Capo.Fret), "the shape sounds it over the capo")
		}
	}
	assert.Equal(t, map[string]int{"A major": -3, "Ab major": -4}, keys)
	assert.Equal(t, "A major", list[0].Key.String(), "open shapes without a capo or with one at 2")
	assert.LessOrEqual(t, list[0].Capo.Barres, list[1].Capo.Barres)

	pairs := ForTwo(new(Book).Capos(chords, Config{Key: keyOf(t, "C")}))
	require.NotEmpty(t, pairs)
	for _, p := range pairs {
		assert.GreaterOrEqual(t, p[1].Fret-p[0].Fret, 3)
		for i := range chords {
			assert.Equal(t, p[0].Shapes[i].Root.Class().Up(p[0].Fret), p[1].Shapes[i].Root.Class().Up(p[1].Fret), "both sound the same")
		}
	}
	assert.Equal(t, [2]int{0, 5}, [2]int{pairs[0][0].Fret, pairs[0][1].Fret}, "C shapes below, G shapes above")
}
