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

func TestSections(t *testing.T) {
	for _, c := range []struct{ chords, home, want string }{
		{"C Am F G C Am F G", "", "0 C major"},
		{"C Am F G C A7 D Bm G A D Bm G A D", "", "0 C major, 5 D major"},
		{"G Em C D G Eb Ab Fm Db Eb Ab", "", "0 G major, 5 Ab major"},
		{"C A7 D7 G7 C", "C major", "0 C major"},
		{"Cmaj7 Gm7 C7 Fmaj7 Dm7 G7 Cmaj7", "C major", "0 C major"},
		{"C E7 Am D7 G7 C", "", "0 C major"},
		{"Am F C G Am Dm E7 Am", "", "0 A minor"},
		{"A7 D7 A7 E7 D7 A7", "", "0 A major"},
		{"C Fm C Ab Bb C", "C major", "0 C major"},
		{"Dm Bb F C Dm Bb F C Em C G D Em C G D", "", "0 D minor, 8 E minor"},
		{"F", "", "0 F major"},
	} {
		k := pitch.Key{}
		if c.home != "" {
			k = key(t, c.home)
		}
		var got []string
		for _, s := range Sections(chords(t, c.chords), k) {
			got = append(got, fmt.Sprintf("%d %s", s.From, s.Key))
		}
		assert.Equal(t, c.want, strings.Join(got, ", "), c.chords)
	}
	assert.Empty(t, Sections(nil, pitch.Key{}))
}

// A song that goes up by any step in the middle has two keys as far apart, and each
// chord the same number before and after.
func TestASongThatGoesUp(t *testing.T) {
	round := "C G Am F C G Am F C F G C"
	for up := 1; up < 12; up++ {
		if up == 5 || up == 7 { // its neighbours have all but one of its notes
			continue
		}
		list := chords(t, round)
		for _, c := range list[:len(list):len(list)] {
			list = append(list, c.Transposed(up, key(t, "C major").Transposed(up)))
		}
		sections := Sections(list, pitch.Key{})
		require.Len(t, sections, 2, "%d: %v", up, sections)
		assert.Equal(t, pitch.Class(0).Up(up), sections[1].Key.Tonic.Class())
		n := InSections(list, sections, Tonic)
		require.Len(t, n, len(list))
		for i := range n[:len(n)/2] {
			assert.Equal(t, n[i].Number, n[i+len(n)/2].Number, "%d, chord %d", up, i)
		}
	}
}

// A map of keys covers all chords, each once.
func TestSectionsCoverAllChords(t *testing.T) {
	all := chords(t, "C Eb7 Ab F#m7b5 B7 Em Bb Gm A D Bm E7 C# F#m")
	for n := range len(all) + 1 {
		at := 0
		for _, s := range Sections(all[:n], pitch.Key{}) {
			assert.Equal(t, at, s.From)
			assert.Greater(t, s.To, s.From)
			at = s.To
		}
		assert.Equal(t, n, at)
	}
}

func TestMap(t *testing.T) {
	for body, want := range map[string]string{
		"key: C\nA:\n| C Am F G | C |\n":                                                  "0.1 C major",
		"key: C\nA:\n| C Am F G | C |\nB:\nkey: D\n| D Bm G A |\n":                        "0.1 C major, 1.1 D major",
		"A:\n| C Am F G | C Am F G |\n| D Bm G A | D Bm G A | D |\n":                      "0.1 C major, 0.3 D major",
		"key: A\ncapo: 2\nA:\n| G D Em C | G D Em C |\nB:\n| A E F#m D | A E F#m D | A |": "0.1 A major, 1.1 B major",
		"A:\n| xE - . - |\n": "",
	} {
		s := sheet.Parse("title: T\n" + body)
		var got []string
		for _, k := range Map(s.Song) {
			got = append(got, fmt.Sprintf("%d.%d %s", k.Part, k.Bar, k.Key))
		}
		assert.Equal(t, want, strings.Join(got, ", "), body)
	}
}

func TestRead(t *testing.T) {
	read := func(text string, k pitch.Key) string {
		list, in, err := Read(text, k, Relative)
		require.NoError(t, err, text)
		var names []string
		for _, c := range list {
			names = append(names, c.Symbol)
		}
		return strings.Join(names, " ") + " in " + in.String()
	}
	assert.Equal(t, "C G Am F in ", read("C / G / Am / F", pitch.Key{}))
	assert.Equal(t, "C G/B Am in ", read("| C, G/B | Am - |", pitch.Key{}))
	assert.Equal(t, "C G Am F in C major", read("1 5 6m 4", pitch.Key{}))
	assert.Equal(t, "A E F#m D in A major", read("I V vi IV", key(t, "A major")))
	_, _, err := Read("C G Amx", pitch.Key{}, Relative)
	var word *WordError
	require.ErrorAs(t, err, &word)
	assert.Equal(t, 3, word.At)
	var syntax *chord.SyntaxError
	assert.ErrorAs(t, err, &syntax)
}

// How often a chord is struck before the next comes says nothing of the key.
func TestStrokesAreNoKeys(t *testing.T) {
	const bars = "| C | A7 | Dm | G7 | C | E7 | Am | D7 | G |\n"
	for _, head := range []string{"", "key: C major\n", "key: G major\n"} {
		plain := sheet.Parse("title: T\n" + head + "A:\n" + bars).Song
		for _, pattern := range []string{"d d d d", "d - d u - u d u", "d u d u d u d u d u d u d u d u"} {
			struck := sheet.Parse("title: T\n" + head + "A:\nstrum: " + pattern + "\n" + bars).Song
			require.Greater(t, len(struck.Parts[0].Bars()[0].Events), 3)
			assert.Equal(t, Map(plain), Map(struck), head+pattern)
			assert.Equal(t, KeysOfSong(plain), KeysOfSong(struck), head+pattern)
		}
	}
}
