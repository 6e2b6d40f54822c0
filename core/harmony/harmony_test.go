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
		numbering   Numbering
		want        string
	}{
		{"Em C G D", "G major", Relative, "6m 4 1 5"},
		{"Am F C G", "A minor", Relative, "6m 4 1 5"},
		{"Am F C G", "A minor", Tonic, "1m b6 b3 b7"},
		{"C/G Dm7 G7sus4 B5", "C major", Relative, "1/5 2m7 5(7sus4) 7(5)"},
		{"E7 D A", "A mixolydian", Tonic, "5(7) 4 1"},
		{"Gm Cm D7", "G minor", Tonic, "1m 4m 5(7)"},
		{"Bbm Eb Ab", "Ab", Tonic, "2m 5 1"},
		{"C F#dim7 Gb7 C#m7", "C major", Tonic, "1 #4dim7 b5(7) #1m7"}, // by the letter
		{"D C G D", "D mixolydian", Relative, "1 b7 4 1"},
		{"Dm G Am", "D dorian", Tonic, "1m 4 5m"},
		{"Am F#m7b5 F E", "A minor", Tonic, "1m 6m7b5 b6 5"},
	} {
		var got []string
		for _, n := range Numbers(chords(t, c.chords), key(t, c.key), c.numbering) {
			got = append(got, n.Number)
		}
		assert.Equal(t, c.want, strings.Join(got, " "), c.chords)
	}
}

// What is borrowed says where it comes from, or which chord it leads to.
func TestBorrowed(t *testing.T) {
	minor, major := key(t, "C minor"), key(t, "A major")
	for _, c := range []struct {
		chords, key string
		at          int
		want        Borrowed
	}{
		{"E7", "A minor", 0, Borrowed{Origin: LeadingNote, Key: key(t, "A minor")}},
		{"G#dim", "A minor", 0, Borrowed{Origin: LeadingNote, Key: key(t, "A minor")}},
		{"Fm", "C major", 0, Borrowed{Origin: Parallel, Key: minor}},
		{"Bb", "C major", 0, Borrowed{Origin: Parallel, Key: minor}},
		{"C Dm7b5 G7", "C major", 1, Borrowed{Origin: Parallel, Key: minor}},
		{"C G7b9 C", "C major", 1, Borrowed{Origin: Parallel, Key: minor}},
		{"C#m", "A minor", 0, Borrowed{Origin: Parallel, Key: major}},
		{"D7", "C major", 0, Borrowed{Origin: LeadsTo, Goal: "G", Dominant: true}},
		{"C A7 Dm", "C major", 1, Borrowed{Origin: LeadsTo, Goal: "Dm", Dominant: true, Comes: true}},
		{"C E F Fm", "C major", 1, Borrowed{Origin: LeadsTo, Goal: "Am", Dominant: true}},
		{"C G#dim7 Am", "C major", 1, Borrowed{Origin: LeadsTo, Goal: "Am", Comes: true}},
		{"C#dim7 Dm7", "C major", 0, Borrowed{Origin: LeadsTo, Goal: "Dm", Comes: true}},
		{"Dm7 Db7 Cmaj7", "C major", 1, Borrowed{Origin: StandsFor, Goal: "C", For: "G7"}},
		{"C Db/F G7", "C major", 1, Borrowed{Origin: Neapolitan}},
		{"D", "A minor", 0, Borrowed{Origin: DorianFour, Key: key(t, "A minor")}},
		{"C Bbmaj7 F", "C major", 1, Borrowed{Origin: FromMode, Key: key(t, "C mixolydian")}},
		{"A7 E7", "A major", 0, Borrowed{Origin: BluesSeven}},
		{"Cmaj7 Gm7 C7 Fmaj7", "C major", 1, Borrowed{Origin: TwoOf, For: "C7", Goal: "F", Comes: true}},
		{"Cmaj7 Gm7 C7 Fmaj7", "C major", 2, Borrowed{Origin: LeadsTo, Goal: "F", Dominant: true, Comes: true}},
		{"C Em7b5 A7 F", "C major", 1, Borrowed{Origin: TwoOf, For: "A7", Goal: "Dm"}},
		{"C Em7b5 A7 F", "C major", 2, Borrowed{Origin: LeadsTo, Goal: "Dm", Dominant: true}},
		{"C Fm7 Bb7 Eb", "C major", 1, Borrowed{Origin: TwoOf, For: "Bb7", Goal: "Eb", Comes: true}},
		{"C Eb7 Ab C", "C major", 1, Borrowed{Origin: LeadsTo, Goal: "Ab", Dominant: true, Comes: true}},
		{"C D F C", "C major", 1, Borrowed{Origin: FromMode, Key: key(t, "C lydian")}},
		{"C D D7 G", "C major", 1, Borrowed{Origin: LeadsTo, Goal: "G", Dominant: true, Comes: true}},
		{"C E7 E7 F", "C major", 2, Borrowed{Origin: LeadsTo, Goal: "Am", Dominant: true}},
		{"Am Bm E Am", "A minor", 1, Borrowed{Origin: FromMode, Key: key(t, "A dorian")}},
		{"A7 D7 E7", "A major", 0, Borrowed{}}, {"A7 D7 E7", "A major", 1, Borrowed{}}, {"G7 C7 D7", "G major", 2, Borrowed{}},
		{"Am", "A minor", 0, Borrowed{}}, {"G7", "C major", 0, Borrowed{}}, {"E5", "A minor", 0, Borrowed{}},
	} {
		n := Numbers(chords(t, c.chords), key(t, c.key), Tonic)[c.at]
		got := n.Borrowed
		got.Foreign, got.Chord = nil, ""
		assert.Equal(t, c.want, got, "%s in %s", c.chords, c.key)
		assert.Equal(t, c.want.Origin != Unknown, n.Borrowed.Any())
	}
	foreign := Numbers(chords(t, "E7"), key(t, "A minor"), Tonic)[0].Borrowed.Foreign
	assert.Equal(t, []Foreign{{pitch.Note{Letter: 'G', Accidental: 1}, pitch.Note{Letter: 'G'}}}, foreign)
}

func TestKeys(t *testing.T) {
	for symbols, want := range map[string]string{
		"Em C G D": "E minor", "C G Am F": "C major", "G D Em C G": "G major", "Am Dm E7 Am": "A minor",
		"A7 D7 E7": "A major", "Dm G Dm G": "D dorian", "Em F Em F": "E phrygian", "D C G D": "D mixolydian", "A5 C5 D5": "A minor",
		"Gb Abm Db": "Gb major", "G#m E B F#": "G# minor", "Am G F E": "A minor", "Dm7b5 G7 Cm": "C minor", "Em7 A7 Dmaj7": "D major",
		"Bb Gm Eb F Bb": "Bb major", "F#m D A E": "F# minor", "D G A7 D": "D major", "Cm Ab Eb Bb": "C minor",
	} {
		guesses := Keys(chords(t, symbols))
		var best []string
		for _, g := range guesses[:1] {
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
	assert.Equal(t, []Outside{{pitch.Note{Letter: 'E', Accidental: -1}, true}, {pitch.Note{Letter: 'G', Accidental: 1}, false}}, OutsideKey(borrowed, 0))
	assert.Empty(t, OutsideKey(sheet.Parse("title: T\nA:\n| 0A |\n").Song, 0))
}

func TestNumberings(t *testing.T) {
	for _, s := range []Numbering{Relative, Tonic, Roman} {
		back, err := ParseNumbering(string(s))
		require.NoError(t, err)
		assert.Equal(t, s, back)
	}
	_, err := ParseNumbering("greek")
	assert.Error(t, err)
}
