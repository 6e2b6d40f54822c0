package hand

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

func shape(t *testing.T, s string) neck.Frets {
	f, err := neck.ParseFrets(s)
	require.NoError(t, err)
	return f
}

// fingers writes fingerings as frets are written: "x-1-3".
func fingers(list []Fingering) []string {
	var out []string
	for _, f := range list {
		s := ""
		for i, by := range f.Fingers {
			switch {
			case f.Frets[i] < 0:
				s += "x"
			case by == None:
				s += "0"
			default:
				s += by.String()
			}
		}
		out = append(out, s)
	}
	return out
}

func TestFingeringsThatAHandWouldUse(t *testing.T) {
	cases := map[string]struct{ has, lacks []string }{
		"13xxxx":      {[]string{"13xxxx", "14xxxx", "12xxxx"}, []string{"31xxxx", "11xxxx"}},
		"022100":      {[]string{"023100"}, []string{"032100"}},
		"133211":      {[]string{"134211"}, nil},
		"55xxxx":      {[]string{"11xxxx", "12xxxx", "33xxxx"}, []string{"21xxxx"}},
		"x02220":      {[]string{"x01230", "x01110"}, nil},
		"5x5xxx":      {[]string{"1x2xxx", "2x3xxx"}, []string{"1x1xxx"}}, // a barre would press the string between
		"x02020":      {[]string{"x01020"}, []string{"x01010"}},           // and here stop an open one
		"000000":      {[]string{"000000"}, nil},
		"1-3-5-7-9-x": {nil, []string{"12345x"}},
	}
	for text, want := range cases {
		got := fingers(Fingerings(shape(t, text)))
		for _, w := range want.has {
			assert.Contains(t, got, w, text)
		}
		for _, w := range want.lacks {
			assert.NotContains(t, got, w, text)
		}
	}
	assert.Empty(t, Fingerings(shape(t, "1-3-5-7-9-x")), "five fingers are not to be had")
}

func TestShapeMeasures(t *testing.T) {
	f := Fingerings(shape(t, "133211"))
	var barre Fingering
	for _, g := range f {
		if g.Fingers == [6]Finger{1, 3, 4, 2, 1, 1} {
			barre = g
		}
	}
	fret, strings := barre.Barre()
	assert.Equal(t, 1, fret)
	assert.Equal(t, 6, strings)
	assert.Equal(t, 4, barre.Count())
	assert.Equal(t, 1, barre.Base())
	power := Fingerings(shape(t, "13xxxx"))[0]
	assert.InDelta(t, 67.3, power.Reach(neck.Neck{}), 0.5, "67 mm along, 7 across")
	assert.Equal(t, neck.String(6), power.Lowest())
	assert.Equal(t, neck.String(5), power.Highest())
	assert.Equal(t, 0, Single(6, 0, Index).Base(), "an open string leaves the hand free")
	assert.Equal(t, 5, Single(6, 7, Ring).Base())
}

func TestMutes(t *testing.T) {
	by := func(f Fingering) map[neck.String]string {
		m := map[neck.String]string{}
		for _, mute := range f.Mutes() {
			m[mute.String] = mute.By
		}
		return m
	}
	octave := Silent
	octave.Frets, octave.Fingers = shape(t, "x3x5xx"), [6]Finger{0, 1, 0, 3, 0, 0}
	assert.Equal(t, map[neck.String]string{
		6: "tip of the index", 4: "index leaning on it", 2: "underside of the index", 1: "underside of the index",
	}, by(octave))
	open := Silent
	open.Frets, open.Fingers = shape(t, "x02xxx"), [6]Finger{0, 0, 1, 0, 0, 0}
	assert.Equal(t, "thumb over the top", by(open)[6])
	assert.Equal(t, "fretting hand lying flat", by(Single(6, 0, None))[1])
	assert.Equal(t, "palm", by(Single(3, 5, Index))[6])
	assert.Empty(t, Silent.Mutes())
}

// A muted string is a silent one, and every silent one is muted.
func TestEveryStringIsSoundedOrMuted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			frets[i] = int8(rapid.IntRange(-1, 5).Draw(t, "fret"))
		}
		for _, f := range Fingerings(frets) {
			require.LessOrEqual(t, f.Count(), 4)
			if f.Lowest() == 0 {
				continue
			}
			silent := map[neck.String]bool{}
			for i, fret := range frets {
				require.Equal(t, fret > 0, f.Fingers[i] != None)
				if fret < 0 {
					silent[neck.StringAt(i)] = true
				}
			}
			for _, m := range f.Mutes() {
				require.True(t, silent[m.String])
				require.NotEmpty(t, m.By)
				delete(silent, m.String)
			}
			require.Empty(t, silent)
		}
	})
}

func TestAlternateStrokes(t *testing.T) {
	bar := func(den int64, skip ...int64) song.Bar {
		var b song.Bar
		for i := range den {
			e := song.Event{Start: pitch.F(i, den), Length: pitch.F(1, den), Kind: song.Strum}
			for _, s := range skip {
				if s == i {
					e.Kind = song.Rest
				}
			}
			b.Events = append(b.Events, e)
		}
		return b
	}
	read := func(strokes []song.Stroke) string {
		s := ""
		for _, k := range strokes {
			s += [...]string{".", "v", "^"}[k]
		}
		return s
	}
	four := song.FourFour
	assert.Equal(t, "vvvv", read(Strokes(bar(4), four)), "beats are down")
	assert.Equal(t, "v^v^v^v^", read(Strokes(bar(8), four)), "down on the beat, up on the and")
	assert.Equal(t, "v.v^.^v^", read(Strokes(bar(8, 1, 4), four)), "the hand keeps moving in rests")
	assert.Equal(t, "v^v^v^v^v^v^v^v^", read(Strokes(bar(16), four)))
	assert.Equal(t, "v^vv^vv^vv^v", read(Strokes(bar(12), four)), "triplets begin each beat down")
	mixed := song.Bar{Events: []song.Event{
		{Start: pitch.F(0, 1), Kind: song.Strum}, {Start: pitch.F(1, 8), Kind: song.Strum}, {Start: pitch.F(3, 16), Kind: song.Strum},
	}}
	assert.Equal(t, "vv^", read(Strokes(mixed, four)), "among sixteenths the and is down")
	written := bar(4)
	written.Events[1].Stroke = song.Up
	written.Events[2] = song.Event{Start: pitch.F(1, 2), Kind: song.Notes, Notes: []song.Note{{String: 3, Fret: 2, By: song.Hammered}}}
	assert.Equal(t, "v^.v", read(Strokes(written, four)), "what is written stays, a hammer-on needs no pick")
}
