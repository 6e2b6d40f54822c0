package harmony

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

// everyKey is the major and the minor key on each of the twelve classes.
func everyKey() (keys []pitch.Key) {
	for class := range 12 {
		for _, mode := range []pitch.Mode{pitch.Major, pitch.Minor} {
			keys = append(keys, pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: mode}.Transposed(class))
		}
	}
	return keys
}

// triads stacks thirds of a scale: what a textbook calls the chords of a key.
func triads(t *testing.T, k pitch.Key) (list []chord.Chord) {
	scale := k.Scale()
	for i := range scale {
		third := scale[(i+2)%7].Class().Above(scale[i].Class())
		fifth := scale[(i+4)%7].Class().Above(scale[i].Class())
		quality := map[[2]int]string{{4, 7}: "", {3, 7}: "m", {3, 6}: "dim"}[[2]int{third, fifth}]
		c, err := chord.Parse(scale[i].String() + quality)
		require.NoError(t, err)
		require.True(t, c.Has(third) && c.Has(fifth))
		list = append(list, c)
	}
	return list
}

func numbers(list []Number) string {
	var s []string
	for _, n := range list {
		s = append(s, n.Number)
	}
	return strings.Join(s, " ")
}

// The triads that a scale stacks are of its key in all 24 keys, have the same
// numbers in each, and nothing is said to be borrowed.
func TestChordsOfEveryKey(t *testing.T) {
	for _, k := range everyKey() {
		own := triads(t, k)
		want := map[Numbering]string{Relative: "1 2m 3m 4 5 6m 7dim", Tonic: "1 2m 3m 4 5 6m 7dim"}
		if k.Mode == pitch.Minor {
			want = map[Numbering]string{Relative: "6m 7dim 1 2m 3m 4 5", Tonic: "1m 2dim b3 4m 5m b6 b7"}
		}
		for numbering, w := range want {
			got := Numbers(own, k, numbering)
			assert.Equal(t, w, numbers(got), "%s, %s", k, numbering)
			for _, n := range got {
				assert.False(t, n.Borrowed.Any(), "%s in %s", n.Chord.Canonical(), k)
			}
		}
	}
}

// A chord of the twelve on major, minor and dominant qualities is borrowed
// exactly where one of its tones is not in the scale.
func TestBorrowedIsWhatTheScaleHasNot(t *testing.T) {
	for _, k := range everyKey() {
		for _, root := range strings.Fields("C Db D Eb E F F# G Ab A Bb B") {
			for _, quality := range []string{"", "m", "7", "maj7", "m7b5", "5", "sus4"} {
				c, err := chord.Parse(root + quality)
				require.NoError(t, err)
				foreign := 0
				for _, tone := range c.Tones {
					in := false
					for _, n := range k.Scale() {
						in = in || n.Class() == tone.Note.Class()
					}
					if !in {
						foreign++
					}
				}
				n := Numbers([]chord.Chord{c}, k, Tonic)[0]
				assert.Equal(t, foreign > 0, n.Borrowed.Any(), "%s in %s", c.Canonical(), k)
				assert.Equal(t, foreign, len(n.Borrowed.Foreign))
			}
		}
	}
}

// A cadence names its key in all 24 keys: 1 4 5 1, and 1m 4m 5(7) 1m with the
// leading note.
func TestCadencesNameTheirKey(t *testing.T) {
	for _, k := range everyKey() {
		form := []string{"", "", "", ""}
		if k.Mode == pitch.Minor {
			form = []string{"m", "m", "7", "m"}
		}
		var list []chord.Chord
		for i, step := range []int{0, 3, 4, 0} {
			c, err := chord.Parse(k.Scale()[step].String() + form[i])
			require.NoError(t, err)
			list = append(list, c)
		}
		best := Keys(list)[0]
		assert.Equal(t, k.Tonic.Class(), best.Key.Tonic.Class(), "%s", k)
		assert.Equal(t, k.Mode, best.Key.Mode, "%s", k)
		assert.Len(t, Keys(list), 72)
	}
}

// A riff moved up the neck keeps the name of its scale, moved as far.
func TestScalesMoveWithTheirRiff(t *testing.T) {
	shapes := map[string][]int{ // half steps above the tonic
		"minor pentatonic": {0, 3, 5, 7, 10}, "major pentatonic": {0, 2, 4, 7, 9}, "blues scale": {0, 3, 5, 6, 7, 10}, "major blues scale": {0, 2, 3, 4, 7, 9},
		"minor": {0, 2, 3, 5, 7, 8, 10}, "major": {0, 2, 4, 5, 7, 9, 11}, "harmonic minor": {0, 2, 3, 5, 7, 8, 11}, "melodic minor": {0, 2, 3, 5, 7, 9, 11},
		"dorian": {0, 2, 3, 5, 7, 9, 10}, "phrygian": {0, 1, 3, 5, 7, 8, 10}, "lydian": {0, 2, 4, 6, 7, 9, 11}, "mixolydian": {0, 2, 4, 5, 7, 9, 10}, "locrian": {0, 1, 3, 5, 6, 8, 10}}
	for name, steps := range shapes {
		for up := range 8 {
			k := pitch.Key{Tonic: pitch.Note{Letter: 'A'}, Mode: pitch.Minor}.Transposed(up)
			var slots []string
			for _, step := range append(steps, 0) {
				slots = append(slots, fmt.Sprintf("%dA", step+up)) // up the A string
			}
			s := sheet.Parse(fmt.Sprintf("title: T\nkey: %s\nA:\n| %s |\n", k, strings.Join(slots, " ")))
			require.True(t, s.OK(), "%v", s.Problems)
			scale, ok := ScaleOf(s.Song, 0)
			require.True(t, ok)
			assert.Equal(t, k.Tonic.String()+" "+name, scale.Name)
			assert.Zero(t, scale.Missing)
			assert.Equal(t, steps[len(steps)-1]+up, scale.Top)
		}
	}
}

// A blues of sevenths is in the key of its first chord, wherever it is played: none of its
// sevenths leads away.
func TestABluesIsAtHome(t *testing.T) {
	for _, k := range everyKey() {
		if k.Mode != pitch.Major {
			continue
		}
		scale := k.Scale()
		for _, form := range [][]int{{0, 3, 0, 4, 3, 0, 4}, {0, 0, 3, 0, 4, 3, 0}, {0, 3, 0, 4, 0}} {
			var chords []chord.Chord
			for _, step := range form {
				c, err := chord.Parse(scale[step].String() + "7")
				require.NoError(t, err)
				chords = append(chords, c)
			}
			assert.Equal(t, k, Keys(chords)[0].Key, "%v in %s", form, k)
		}
	}
}

// Chords and notes say together which key a song is in.
func TestKeysOfSongsWithBoth(t *testing.T) {
	for body, want := range map[string]string{
		"A:\n| G - C - | D - G - |\n":                     "G major",
		"A:\n| Em - - - | 0E 3E 0A 2A | Em - - - |\n":     "E minor",
		"A:\n| 3A 0D 2D 3D 0G 2G 0B 1B | F - G - | C |\n": "C major",
	} {
		s := sheet.Parse("title: T\n" + body)
		require.True(t, s.OK(), "%v", s.Problems)
		assert.Equal(t, want, KeysOfSong(s.Song)[0].Key.String(), body)
	}
	assert.Empty(t, KeysOfSong(sheet.Parse("title: T\nA:\n| xE - . - |\n").Song), "dead strings have no key")
}

// The only dominant seventh of a major key that goes to its tonic names that key,
// wherever the round of chords begins and ends; on its way round the circle of
// fifths it does not.
func TestTheDominantSeventhNamesItsKey(t *testing.T) {
	for _, k := range everyKey() {
		if k.Mode != pitch.Major {
			continue
		}
		scale := k.Scale()
		for _, round := range []string{"2m 5(7) 1 6m", "6m 2m 5(7) 1", "4 5(7) 1 6m", "1 6(7) 2(7) 5(7)", "1 3(7) 6m 4"} {
			var chords []chord.Chord
			for _, step := range strings.Fields(round) {
				c, err := chord.Parse(scale[step[0]-'1'].String() + strings.Trim(step[1:], "()"))
				require.NoError(t, err)
				chords = append(chords, c)
			}
			assert.Equal(t, k, Keys(chords)[0].Key, "%s in %s", round, k)
		}
	}
}
