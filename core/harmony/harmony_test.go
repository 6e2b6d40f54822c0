package harmony

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
)

func chords(t *testing.T, symbols string) (list []chord.Chord) {
	for _, s := range strings.Fields(symbols) {
		c, err := chord.Parse(s)
		require.NoError(t, err)
		list = append(list, c)
	}
	return list
}

func key(t *testing.T, s string) pitch.Key {
	k, err := pitch.ParseKey(s)
	require.NoError(t, err)
	return k
}

func TestNumbers(t *testing.T) {
	for _, c := range []struct {
		chords, key string
		school      School
		want        string
	}{
		{"Em C G D", "G major", Relative, "6m 4 1 5"},
		{"Am F C G", "A minor", Relative, "6m 4 1 5"},
		{"Am F C G", "A minor", Tonic, "1m b6 b3 b7"},
		{"C/G Dm7 G7sus4 B5", "C major", Relative, "1/5 2m7 5(7sus4) 7(5)"},
		{"E7 D A", "A mixolydian", Tonic, "5(7) 4 1"},
		{"Gm Cm D7", "G minor", Tonic, "1m 4m 5(7)"},
		{"Bbm Eb Ab", "Ab", Tonic, "2m 5 1"},
	} {
		var got []string
		for _, n := range Numbers(chords(t, c.chords), key(t, c.key), c.school) {
			got = append(got, n.Number)
		}
		assert.Equal(t, c.want, strings.Join(got, " "), c.chords)
	}
}

func TestBorrowed(t *testing.T) {
	for _, c := range []struct{ chord, key, why string }{
		{"E7", "A minor", "G# where the key has G: the leading note, from the harmonic minor"},
		{"Fm", "C major", "Ab where the key has A: the parallel minor"},
		{"Bb", "C major", "Bb where the key has B: the parallel minor"},
		{"D7", "C major", "F# where the key has F: the dominant of G"},
		{"D", "A minor", "F# where the key has F: the parallel major"},
		{"G#dim", "A minor", "G# where the key has G: the leading note, from the harmonic minor"},
		{"Am", "A minor", ""}, {"G7", "C major", ""}, {"E5", "A minor", ""},
	} {
		n := Numbers(chords(t, c.chord), key(t, c.key), Tonic)[0]
		assert.Equal(t, c.why, n.Why, "%s in %s", c.chord, c.key)
		assert.Equal(t, c.why != "", n.Borrowed)
	}
}

func TestKeys(t *testing.T) {
	for symbols, want := range map[string]string{
		"Em C G D": "E minor", "C G Am F": "C major", "G D Em C G": "G major", "Am Dm E7 Am": "A minor",
		"Bb Gm Eb F Bb": "Bb major", "F#m D A E": "F# minor", "D G A7 D": "D major", "Cm Ab Eb Bb": "C minor",
	} {
		guesses := Keys(chords(t, symbols))
		var best []string
		for _, g := range guesses[:2] {
			best = append(best, g.Key.String())
		}
		assert.Contains(t, best, want, symbols)
		assert.Equal(t, 1.0, guesses[0].Score)
		assert.GreaterOrEqual(t, guesses[1].Score, guesses[2].Score)
	}
	assert.Equal(t, "G major", Keys(chords(t, "G D Em C G"))[0].Key.String())
	assert.Equal(t, "A minor", Keys(chords(t, "Am Dm E7 Am"))[0].Key.String())
	assert.Empty(t, Keys(nil))
	s := sheet.Parse("title: T\nA:\n| 0A 3A 5A 2D 5D 2D 0D 0A |\n").Song
	assert.Contains(t, []string{"A minor", "C major"}, KeysOfSong(s)[0].Key.String())
	assert.Equal(t, "A minor", KeysOfSong(s)[0].Key.String(), "it begins and ends there")
}

func TestScales(t *testing.T) {
	scale := func(body string) (Scale, bool) {
		s := sheet.Parse("title: T\n" + body)
		require.True(t, s.OK(), "%v", s.Problems)
		return ScaleOf(s.Song, 0)
	}
	for body, want := range map[string]string{
		"key: A minor\nA:\n| 5E 8E 5A 7A 5D 7D |\n":       "A minor pentatonic",
		"key: A minor\nA:\n| 5E 8E 5A 6A 7A 5D |\n":       "A blues scale",
		"key: A minor\nA:\n| 5E 7E 8E 5A 7A 8A 5D |\n":    "A minor",
		"key: A minor\nA:\n| 5E 7E 8E 5A 7A 4D 5D |\n":    "A dorian",
		"key: E minor\nA:\n| 0E 1E 3E 0A |\n":             "E phrygian",
		"A:\n| 3E - - 5E 2A 5A 2D 0E |\n":                 "G major pentatonic",
		"key: D major\nA:\n| 5A 7A 4D 5D 7D 4G 5G 0D |\n": "D mixolydian",
	} {
		s, ok := scale(body)
		assert.True(t, ok, body)
		assert.Equal(t, want, s.Name, body)
	}
	s, _ := scale("key: A minor\nA:\n| 5E 8E 5A 7A 5D 7D 0A |\n")
	assert.Equal(t, [2]int{5, 8}, [2]int{s.Low, s.Top})
	_, ok := scale("A:\n| 0E 1E 2E 3E 4E 5E 6E |\n")
	assert.False(t, ok, "chromatic runs have none")
	_, ok = scale("A:\n| Em |\n")
	assert.False(t, ok)
	borrowed := sheet.Parse("title: T\nkey: A minor\nA:\n| 5E 6A 4E 0A xE |\n").Song
	assert.Equal(t, []string{"Eb, the flat fifth", "G#"}, Foreign(borrowed, 0))
	assert.Empty(t, Foreign(sheet.Parse("title: T\nA:\n| 0A |\n").Song, 0))
}

func TestSchools(t *testing.T) {
	for _, s := range []School{Relative, Tonic} {
		back, err := ParseSchool(string(s))
		require.NoError(t, err)
		assert.Equal(t, s, back)
	}
	_, err := ParseSchool("roman")
	assert.Error(t, err)
}
