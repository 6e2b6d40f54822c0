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

// written writes fingerings as frets are written: "x-1-3".
func written(list []Fingering) []string {
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
		got := written(Fingerings(shape(t, text)))
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
			require.LessOrEqual(t, f.Count(), 5, "four fingers and the thumb")
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
	strokes := func(b song.Bar) []song.Stroke { return Strokes(Moments(b, song.FourFour), Alternate) }
	assert.Equal(t, "vvvv", read(strokes(bar(4))), "beats are down")
	assert.Equal(t, "v^v^v^v^", read(strokes(bar(8))), "down on the beat, up on the and")
	assert.Equal(t, "v.v^.^v^", read(strokes(bar(8, 1, 4))), "the hand keeps moving in rests")
	assert.Equal(t, "v^v^v^v^v^v^v^v^", read(strokes(bar(16))))
	assert.Equal(t, "v^vv^vv^vv^v", read(strokes(bar(12))), "triplets begin each beat down")
	mixed := song.Bar{Events: []song.Event{
		{Start: pitch.F(0, 1), Kind: song.Strum}, {Start: pitch.F(1, 8), Kind: song.Strum}, {Start: pitch.F(3, 16), Kind: song.Strum},
	}}
	assert.Equal(t, "vv^", read(strokes(mixed)), "among sixteenths the and is down")
	written := bar(4)
	written.Events[1].Stroke = song.Up
	written.Events[2] = song.Event{Start: pitch.F(1, 2), Kind: song.Notes, Notes: []song.Note{{String: 3, Fret: 2, By: song.Hammered}}}
	assert.Equal(t, "v^.v", read(strokes(written)), "what is written stays, a hammer-on needs no pick")
}

// oneOfAHand says again, string by string and without a search, which
// fingerings are those of a hand.
func oneOfAHand(f Fingering) bool {
	at := map[Finger]int8{}
	strings := map[Finger][]int{}
	for i, by := range f.Fingers {
		if (f.Frets[i] > 0) != (by != None) {
			return false
		}
		if by == None {
			continue
		}
		if fret, used := at[by]; used && fret != f.Frets[i] {
			return false
		}
		at[by] = f.Frets[i]
		strings[by] = append(strings[by], i)
	}
	if thumb, used := strings[Thumb]; used {
		if len(thumb) != 1 || thumb[0] != 0 || len(at) == 1 {
			return false
		}
		if d := int(at[Thumb]) - f.Base(); d < -1 || d > 1 {
			return false
		}
	}
	last := None
	for by := Index; by <= Little; by++ {
		own, used := strings[by]
		if !used {
			continue
		}
		for i := own[0]; i <= own[len(own)-1]; i++ {
			if fret := f.Frets[i]; fret < at[by] || fret == at[by] && f.Fingers[i] != by && f.Fingers[i] != Thumb {
				return false // a barre presses what lies under it
			}
		}
		if last != None {
			before := strings[last]
			switch {
			case at[by] < at[last],
				at[by] == at[last] && own[0] < before[len(before)-1],
				int(by-last) > int(at[by]-at[last])+1:
				return false
			}
		}
		last = by
	}
	return true
}

// Every fingering of a hand is listed once, and no other.
func TestFingeringsAreComplete(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			if rapid.Bool().Draw(t, "sounds") {
				frets[i] = int8(rapid.IntRange(0, 4).Draw(t, "fret"))
			}
		}
		want := map[Fingering]bool{}
		var try func(i int, f Fingering)
		try = func(i int, f Fingering) {
			if i == neck.Strings {
				if oneOfAHand(f) {
					want[f] = true
				}
				return
			}
			if frets[i] <= 0 {
				try(i+1, f)
				return
			}
			for by := Index; by <= Thumb; by++ {
				f.Fingers[i] = by
				try(i+1, f)
			}
		}
		try(0, Fingering{Frets: frets})
		got := Fingerings(frets)
		require.Len(t, got, len(want), "%s", frets)
		for _, f := range got {
			require.True(t, want[f], "%v", f)
			delete(want, f)
		}
	})
}

func TestPlayable(t *testing.T) {
	f := func(frets string, by ...Finger) Fingering {
		g := Fingering{Frets: shape(t, frets)}
		for i, k := 0, 0; i < neck.Strings; i++ {
			if g.Frets[i] > 0 {
				g.Fingers[i] = by[k]
				k++
			}
		}
		return g
	}
	power, high := f("13xxxx", 1, 3), f("79xxxx", 1, 3)
	child := Player{Reach: 66, Scale: neck.ChildScale}.Usual()
	assert.True(t, power.Playable(Player{}.Usual()))
	assert.False(t, power.Playable(child), "60 mm along the neck are too far for index and ring")
	assert.True(t, f("13xxxx", 1, 4).Playable(child), "but not for the little finger")
	assert.True(t, high.Playable(child), "and higher up they are near enough")
	assert.False(t, f("13xxxx", 1, 4).Playable(Player{NoLittle: true}.Usual()))
	barre := f("133211", 1, 3, 4, 2, 1, 1)
	assert.True(t, barre.Playable(Player{}.Usual()))
	assert.False(t, barre.Playable(Player{NoBarre: true}.Usual()))
	thumb := f("1x3211", Thumb, 3, 2, 1, 1)
	assert.False(t, thumb.Playable(Player{}.Usual()))
	assert.True(t, thumb.Playable(Player{Thumb: true}.Usual()))
	assert.Equal(t, 2, Fingering{Frets: shape(t, "x3x5xx")}.Sounding())
	assert.Equal(t, 1, Fingering{Frets: shape(t, "x3x5xx")}.Inside())
}

func TestChanges(t *testing.T) {
	f := func(frets string, by string) Fingering {
		g := Fingering{Frets: shape(t, frets)}
		for i, c := range by {
			if c >= '1' && c <= '4' {
				g.Fingers[i] = Finger(c - '0')
			}
		}
		return g
	}
	am, c, e := f("x02210", "--231-"), f("x32010", "-32-1-"), f("022100", "-231--")
	assert.Equal(t, Change{Kept: 2, Moved: 1}, Between(am, c), "index and middle stay, the ring moves to the A string")
	assert.Equal(t, Change{Moved: 3, Crossed: 1}, Between(am, e), "one shape, a string thicker: everything jumps")
	assert.Equal(t, Change{Slid: 2}, Between(f("x35xxx", "-13---"), f("x57xxx", "-13---")))
	assert.Equal(t, Change{Lifted: 2}, Between(f("x35xxx", "-13---"), f("x0xxxx", "------")))
	assert.Equal(t, Change{Placed: 2}, Between(Silent, f("x35xxx", "-13---")))
	anchors, guides := Anchors(am, c)
	assert.Equal(t, []neck.String{4, 2}, anchors)
	assert.Empty(t, guides)
	_, guides = Anchors(f("x35xxx", "-13---"), f("x57xxx", "-13---"))
	assert.Equal(t, []neck.String{5, 4}, guides)
}

func TestSchoolsOfPicking(t *testing.T) {
	read := func(strokes []song.Stroke) string {
		s := ""
		for _, k := range strokes {
			s += [...]string{".", "v", "^"}[k]
		}
		return s
	}
	at := func(places ...pitch.Frac) (list []Moment) {
		for _, p := range places {
			list = append(list, Moment{Beats: p, Picked: true})
		}
		return list
	}
	f := pitch.F
	gallop := at(f(0, 1), f(1, 2), f(3, 4), f(1, 1), f(3, 2), f(7, 4))
	assert.Equal(t, "vv^vv^", read(Strokes(gallop, Alternate)), "down, down-up")
	assert.Equal(t, "vv^vv^", read(Strokes(gallop, AllDown)), "also where all is down")
	assert.Equal(t, 2, Gallops(gallop))
	eighths := at(f(0, 1), f(1, 2), f(1, 1), f(3, 2))
	assert.Equal(t, "vvvv", read(Strokes(eighths, AllDown)))
	assert.Equal(t, 0, Gallops(eighths))
	strings := []neck.String{6, 5, 4, 4, 5, 3}
	run := at(f(0, 1), f(1, 4), f(1, 2), f(3, 4), f(1, 1), f(5, 4))
	for i, s := range strings {
		run[i].Low, run[i].High = s, s
	}
	assert.Equal(t, "vvv^^v", read(Strokes(run, Economy)), "each stroke goes towards the next string")
	run[1].Written = song.Up
	assert.Equal(t, "v^", read(Strokes(run, Economy))[:2], "what is written stays")
}

func TestSkillsAreWrittenAndReadBack(t *testing.T) {
	for s := range Skills(1 << len(SkillNames())) {
		back, err := ParseSkills(s.String())
		require.NoError(t, err)
		require.Equal(t, s, back)
	}
	_, err := ParseSkills("bends, juggling")
	assert.ErrorContains(t, err, "juggling")
	for _, s := range Schools {
		back, err := ParseSchool(string(s))
		require.NoError(t, err)
		assert.Equal(t, s, back)
	}
	_, err = ParseSchool("sideways")
	assert.Error(t, err)
}
