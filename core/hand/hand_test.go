package hand

import (
	"strings"
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

// fingers writes who stops which string, as in "0-3-2-0-1-0" without the dashes.
func fingered(t *testing.T, frets, fingers string) Fingering {
	f := Lifted
	f.Frets = shape(t, frets)
	for i, r := range fingers {
		if r >= '1' && r <= '4' {
			f.Fingers[i] = Finger(r - '0')
		}
	}
	return f
}

// Shapes as they are taught, thick to thin; where teachers differ, all ways.
func TestForms(t *testing.T) {
	for frets, want := range map[string]string{
		"022100": "023100", "x02210": "x02310", "x32010": "x32010", "320003": "210003 320004", "xx0232": "xx0132", "x02220": "x01230",
		"022000": "023000", "020100": "020100", "x02010": "x02010", "xx0231": "xx0231", "x21202": "x21304", "320001": "320001",
		"x32310": "x32410", "xx3210": "xx3210", "x32030": "x21030 x32040", "xx0233": "xx0123 xx0134", "xx0212": "xx0213",
		"200232": "100243", "xx3211": "xx3211", "133211": "134211", "133111": "134111", "131211": "131211", "132211": "142311",
		"x13331": "x13331 x12341", "x13321": "x13421", "x13131": "x13141", "x13231": "x13241", "244222": "134111", "x24432": "x13421",
		"xx1212": "xx1324", "x1212x": "x1324x", "x2123x": "x2134x x2133x", "x3233x": "x2133x x2134x", "x32333": "x21333",
		"13xxxx": "13xxxx", "x133xx": "x133xx x134xx", "x3x5xx": "x1x3xx", "xx3x6x": "xx1x4x", "x55xxx": "x11xxx", "333xxx": "111xxx",
		"02xxxx": "01xxxx 02xxxx", "x42xxx": "x31xxx", "xx543x": "xx321x", "xx778x": "xx112x xx123x", "x02222": "x01111",
	} {
		got, ok := Player{}.At(neck.Neck{}).Taught(shape(t, frets))
		assert.True(t, ok, frets)
		assert.Contains(t, strings.Fields(want), written([]Fingering{got.Fingering})[0], frets)
	}
}

// A barre is the index over the lowest fret with no other finger at it, and
// there is one, but for a ring finger above an index.
func TestOneBarre(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			frets[i] = int8(rapid.IntRange(-1, 4).Draw(t, "fret"))
		}
		held, ok := Player{}.At(neck.Neck{}).Taught(frets)
		if !ok {
			return
		}
		for _, f := range (Player{}).At(neck.Neck{}).Fingerings(frets) {
			h := f
			require.LessOrEqual(t, held.Form, h.form()+1e-9, "%v is taught and not %v", held.Fingers, f.Fingers)
			if h.Build().Barres < held.Build().Barres {
				require.Less(t, held.Form, h.form()+1e-9, "a barre is not bought twice")
			}
		}
	})
}

func TestMutes(t *testing.T) {
	by := func(f Fingering, ringing ...neck.String) map[neck.String]Mute {
		var set neck.StringSet
		for _, s := range ringing {
			set = set.With(s)
		}
		m := map[neck.String]Mute{}
		for _, mute := range f.Mutes(set, false) {
			s := mute.String
			mute.String = 0
			m[s] = mute
		}
		return m
	}
	type mutes = map[neck.String]Mute
	assert.Equal(t, mutes{6: {0, ByTip, Index}, 4: {0, ByLeaning, Index}, 2: {0, ByUnderside, Index}, 1: {0, ByUnderside, Index}},
		by(fingered(t, "x3x5xx", "x1x3xx")), "an octave")
	assert.Equal(t, mutes{6: {0, ByThumb, None}, 3: {0, ByUnderside, Index}, 2: {0, ByUnderside, Index}, 1: {0, ByUnderside, Index}},
		by(fingered(t, "x02xxx", "x01xxx")), "an open root")
	assert.Equal(t, mutes{6: {0, ByPalm, None}, 5: {0, ByPalm, None}}, by(fingered(t, "xx0232", "xx0132")), "the thumb does not reach two")
	assert.Equal(t, mutes{6: {0, ByTip, Ring}}, by(fingered(t, "x32010", "x32010")))
	assert.Equal(t, mutes{5: {0, ByTip, Index}, 3: {0, ByUnderside, Index}, 2: {0, ByUnderside, Index}, 1: {0, ByUnderside, Index}},
		by(fingered(t, "0x2xxx", "0x1xxx")), "the tip reaches back to the string between")
	assert.Equal(t, mutes{3: {0, ByHand, None}, 2: {0, ByHand, None}, 1: {0, ByHand, None}}, by(fingered(t, "000xxx", "000xxx")))
	assert.Equal(t, mutes{3: {0, NotStruck, None}, 2: {0, NotStruck, None}, 1: {0, NotStruck, None}}, by(fingered(t, "320xxx", "210xxx")),
		"no finger lies flat across an open string")
	assert.Equal(t, Mute{0, ByUnderside, Ring}, by(fingered(t, "x204xx", "x103xx"))[2], "the index cannot pass the open string")
	assert.Empty(t, by(Single(3, 5, Index)), "a picked note needs none")
	assert.Equal(t, mutes{6: {0, ByPalm, None}}, by(Single(3, 5, Index), 6), "but of what rings on")
	assert.Equal(t, mutes{4: {0, ByTip, Index}}, by(Single(3, 5, Index), 4))
	assert.Empty(t, Lifted.Mutes(0, false))
}

// Each mute is one that a hand can do, by its own rule, and every string of a
// strummed shape that is silent has one.
func TestEveryMuteIsPossible(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			frets[i] = int8(rapid.IntRange(-1, 5).Draw(t, "fret"))
		}
		thumb := rapid.Bool().Draw(t, "thumb")
		for _, f := range Fingerings(frets) {
			low, high := f.Lowest(), f.Highest()
			if low == 0 {
				continue
			}
			silent := 0
			for _, fret := range frets {
				if fret < 0 {
					silent++
				}
			}
			mutes := f.Mutes(neck.StringSet(rapid.Uint8().Draw(t, "ringing")), thumb)
			if low != high {
				require.Len(t, mutes, silent)
			}
			for _, m := range mutes {
				i := m.String.Index()
				require.Negative(t, frets[i], "only a silent string is muted")
				switch m.Stop {
				case ByTip:
					require.Equal(t, m.Finger, f.Fingers[i+1], "on the next thinner string")
					require.NotEqual(t, None, m.Finger)
				case ByLeaning:
					require.Equal(t, m.Finger, f.Fingers[i-1], "on the next thicker string")
					require.NotEqual(t, None, m.Finger)
				case ByUnderside:
					require.True(t, f.Uses(m.Finger))
					require.Less(t, m.String, high)
					for k := i; k >= 0 && f.Fingers[k] != m.Finger; k-- {
						require.NotZero(t, frets[k], "an open string lies between")
					}
				case ByThumb:
					require.True(t, m.String == 6 || thumb && m.String == 5)
					require.False(t, f.Uses(Thumb))
				case ByPalm:
					for s := m.String; s <= neck.Strings; s++ {
						require.Negative(t, frets[s.Index()], "a string below sounds")
					}
				case ByHand:
					require.False(t, f.Fretted())
					require.Less(t, m.String, high)
				}
			}
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
	strokes := func(b song.Bar) []song.Stroke { return Strokes(Strikes(b, song.FourFour), Alternate) }
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
	for flat := Ring; flat <= Little; flat++ { // no finger but the index behind one that lies across three strings
		if own := strings[flat]; len(own) > 0 && own[len(own)-1]-own[0] >= 2 {
			for by := Middle; by < flat; by++ {
				if own := strings[by]; len(own) > 0 && own[len(own)-1] > strings[flat][len(strings[flat])-1] {
					return false
				}
			}
		}
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
	child := Player{Reach: 66, Scale: neck.ChildScale}.At(neck.Neck{})
	assert.True(t, power.Playable(Player{}.At(neck.Neck{})))
	assert.False(t, power.Playable(child), "60 mm along the neck are too far for index and ring")
	assert.True(t, f("13xxxx", 1, 4).Playable(child), "but not for the little finger")
	assert.True(t, high.Playable(child), "and higher up they are near enough")
	assert.False(t, f("13xxxx", 1, 4).Playable(Player{NoLittle: true}.At(neck.Neck{})))
	barre := f("133211", 1, 3, 4, 2, 1, 1)
	assert.True(t, barre.Playable(Player{}.At(neck.Neck{})))
	assert.False(t, barre.Playable(Player{NoBarre: true}.At(neck.Neck{})))
	thumb := f("1x3211", Thumb, 3, 2, 1, 1)
	assert.False(t, thumb.Playable(Player{}.At(neck.Neck{})))
	assert.True(t, thumb.Playable(Player{Thumb: true}.At(neck.Neck{})))
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
	assert.Equal(t, Change{Placed: 2}, Between(Lifted, f("x35xxx", "-13---")))
	barre := f("133211", "134211")
	assert.Equal(t, Change{Kept: 2, Moved: 1, Placed: 1, Laid: 4, Crossed: 1}, Between(c, barre), "the index rolls from one string over six")
	assert.Equal(t, Change{Slid: 4}, Between(barre, f("355433", "134211")), "a barre that slides is down already")
	assert.Equal(t, Change{Placed: 4, Laid: 4}, Between(Lifted, barre))
	anchors, guides := Anchors(am, c)
	assert.Equal(t, []neck.String{4, 2}, anchors)
	assert.Empty(t, guides)
	_, guides = Anchors(f("x35xxx", "-13---"), f("x57xxx", "-13---"))
	assert.Equal(t, []neck.String{5, 4}, guides)
}

func TestWaysOfPicking(t *testing.T) {
	read := func(strokes []song.Stroke) string {
		s := ""
		for _, k := range strokes {
			s += [...]string{".", "v", "^"}[k]
		}
		return s
	}
	at := func(places ...pitch.Frac) (list []Strike) {
		for _, p := range places {
			list = append(list, Strike{Beats: p, Picked: true})
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
	run := at(f(0, 1), f(1, 4))
	run[0].Low, run[0].High, run[1].Low, run[1].High = 6, 6, 5, 5
	run[1].Written = song.Up
	assert.Equal(t, "v^", read(Strokes(run, Economy)), "what is written stays")
}

// Economy goes towards the string that is struck next, and the pick travels as little
// as it can.
func TestEconomy(t *testing.T) {
	for _, c := range []struct {
		why, strokes string
		strings      []neck.String
		slot         int64 // of the beat
	}{
		{"three up, and one that lies below", "vv^^", []neck.String{5, 4, 3, 4}, 2},
		{"three up, and one that lies above", "vvvv", []neck.String{5, 4, 3, 2}, 2},
		{"three on each string", "v^vv^vv^v", []neck.String{6, 6, 6, 5, 5, 5, 4, 4, 4}, 3},
		{"and back, begun on the beat", "v^v^v^^v^", []neck.String{4, 4, 4, 5, 5, 5, 6, 6, 6}, 3},
		{"two on each string stay on the beat", "v^v^v^v^", []neck.String{6, 6, 5, 5, 4, 4, 3, 3}, 4},
		{"one string", "v^v^v^v^", []neck.String{6, 6, 6, 6, 6, 6, 6, 6}, 4},
		{"over and back", "vvv^^^", []neck.String{6, 5, 4, 3, 4, 5}, 4},
		{"with time between, each begins on its beat", "vvv", []neck.String{3, 4, 5}, 1},
	} {
		run := make([]Strike, len(c.strings))
		for i, s := range c.strings {
			run[i] = Strike{Beats: pitch.F(int64(i), c.slot), Picked: true, Low: s, High: s}
		}
		got := ""
		for _, k := range Strokes(run, Economy) {
			got += [...]string{".", "v", "^"}[k]
		}
		assert.Equal(t, c.strokes, got, c.why)
	}
}

// However it begins, no other strokes take less of the pick's travel, tried out.
func TestEconomyAgainstEveryWay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		run := make([]Strike, rapid.IntRange(1, 8).Draw(t, "strokes"))
		for i := range run {
			low := rapid.IntRange(1, 6).Draw(t, "low")
			run[i] = Strike{Beats: pitch.F(int64(i), 4), Picked: true, Low: neck.String(low), High: neck.String(rapid.IntRange(1, low).Draw(t, "high"))}
		}
		// The pick passes strings one by one; a place is the gap above string 6, which is
		// 6, to the gap below string 1, which is 0.
		way := func(strokes []song.Stroke) (gaps int) {
			at := -1
			for i, m := range run {
				if i > 0 && strokes[i] == strokes[i-1] && m.Low >= run[i-1].High && run[i-1].Low >= m.High {
					gaps += 100 // on one string they alternate
				}
				begin, end := int(m.Low), int(m.High)-1
				if strokes[i] == song.Up {
					begin, end = end, begin
				}
				if at >= 0 {
					gaps += max(begin-at, at-begin)
				}
				at = end
			}
			return gaps
		}
		strokes := Strokes(run, Economy)
		own := way(strokes)
		for bits := range 1 << len(run) {
			other := make([]song.Stroke, len(run))
			for i := range other {
				other[i] = song.Down + song.Stroke(bits>>i&1)
			}
			if other[0] == strokes[0] {
				require.GreaterOrEqual(t, way(other), own, "%v", other)
			}
		}
	})
}

func TestSkillsAreWrittenAndReadBack(t *testing.T) {
	for s := range Skills(1 << len(SkillNames())) {
		back, err := ParseSkills(s.String())
		require.NoError(t, err)
		require.Equal(t, s, back)
	}
	_, err := ParseSkills("bends, juggling")
	assert.ErrorContains(t, err, "juggling")
	for _, s := range Pickings {
		back, err := ParsePicking(string(s))
		require.NoError(t, err)
		assert.Equal(t, s, back)
	}
	_, err = ParsePicking("sideways")
	assert.Error(t, err)
}

// Of two barres the longest counts, wherever the other lies.
func TestBuildOfTwoBarres(t *testing.T) {
	f := Fingering{Frets: neck.Frets{1, 1, 1, 3, 3, -1}, Fingers: [neck.Strings]Finger{Index, Index, Index, Ring, Ring, None}}
	b := f.Build()
	assert.Equal(t, [4]int{1, 3, 2, 2}, [4]int{b.BarreFret, b.BarreStrings, b.Barres, b.Count})
	f = Fingering{Frets: neck.Frets{3, 3, 1, 1, 1, 1}, Fingers: [neck.Strings]Finger{Ring, Ring, Index, Index, Index, Index}}
	b = f.Build()
	assert.Equal(t, [4]int{1, 4, 2, 2}, [4]int{b.BarreFret, b.BarreStrings, b.Barres, b.Count})
}

// The picking hand has the fingers that a teacher gives it.
func TestPluck(t *testing.T) {
	for _, c := range []struct {
		strings []neck.String
		want    string
	}{
		{[]neck.String{6}, "p"}, {[]neck.String{4}, "p"}, {[]neck.String{3}, "i"}, {[]neck.String{2}, "m"}, {[]neck.String{1}, "a"},
		{[]neck.String{5, 3}, "pi"}, {[]neck.String{5, 3, 2, 1}, "pima"}, {[]neck.String{3, 2, 1}, "ima"},
		{[]neck.String{5, 4, 3, 2}, "pima"}, {[]neck.String{6, 4}, "pi"}, {[]neck.String{4, 2, 1}, "pma"},
		{[]neck.String{6, 5, 4, 3, 2, 1}, "pppima"},
	} {
		got := ""
		for _, by := range Pluck(c.strings, nil) {
			got += by.String()
		}
		assert.Equal(t, c.want, got, "%v", c.strings)
	}
	typed := Pluck([]neck.String{5, 3}, []song.Note{{String: 5}, {String: 3, Pluck: song.PluckA}})
	assert.Equal(t, []song.Pluck{song.PluckP, song.PluckA}, typed)
}

// What a teacher calls a barre: four strings, the index below other fingers over three, or
// two fingers flat; not two strings of a power chord, nor three of one in a drop tuning.
func TestBarred(t *testing.T) {
	for shape, want := range map[string]bool{
		"133211 134211": true, "xx3211 --3211": false, "x22200 -111--": false, "555xxx 111---": false, "02xxxx -1----": false,
		"x24442 -13331": true, "5555xx 1111--": true, "xx0211 ---211": false, "x02220 --111-": false, "222xx3 111--2": true,
	} {
		frets, fingers, _ := strings.Cut(shape, " ")
		f := Fingering{}
		var err error
		f.Frets, err = neck.ParseFrets(frets)
		require.NoError(t, err)
		for i, by := range fingers {
			if by != '-' {
				f.Fingers[i] = Finger(by - '0')
			}
		}
		b := f.Build()
		assert.Equal(t, want, b.Barred(), shape)
	}
}
