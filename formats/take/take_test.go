package take

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// score is a score of bars that are told apart by their pitch: bar n has the note n above
// middle C on its first beat.
func score(bars ...Bar) *Score {
	s := &Score{Title: "T", Bars: bars, Players: []Player{{Name: "Voice", Tuning: neck.Standard}}}
	for i := range s.Bars {
		b := &s.Bars[i]
		b.Name = fmt.Sprint(i + 1)
		if b.Meter == (song.Meter{}) {
			b.Meter = song.FourFour
		}
		if b.Length.Num() == 0 {
			b.Length = b.Meter.Bar()
		}
		s.Players[0].Sounds = append(s.Players[0].Sounds, Sound{At: At{Bar: i}, Length: b.Length, Pitch: pitch.Pitch(60 + i)})
	}
	return s
}

// walked is which bars are played in which order.
func walked(t *testing.T, s *Score) (string, Problems) {
	var problems Problems
	g, err := s.Song(t.Context(), s.Usual(), &problems)
	require.NoError(t, err)
	g = sheet.Parse(sheet.Write(g)).Song
	music := play.Arrange(g, arrange.Options{}, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
	var list []string
	for _, k := range play.Of(g, music, play.Options{}).Strikes {
		list = append(list, fmt.Sprint(int(k.Pitch.Pitch())-59))
	}
	return strings.Join(list, " "), problems
}

// Signs, and the way that a musician takes through them.
func TestRoad(t *testing.T) {
	forward, back := Bar{Repeat: true}, Bar{Times: 2}
	one, two := []int{1}, []int{2}
	for name, c := range map[string]struct {
		bars []Bar
		want string
	}{
		"straight on":                       {[]Bar{{}, {}, {}}, "1 2 3"},
		"all of it twice":                   {[]Bar{{}, back}, "1 2 1 2"},
		"a middle that is repeated":         {[]Bar{{}, forward, back, {}}, "1 2 3 2 3 4"},
		"one bar three times":               {[]Bar{{}, {Repeat: true, Times: 3}, {}}, "1 2 2 2 3"},
		"two repeats in a row":              {[]Bar{{}, back, {}, back}, "1 2 1 2 3 4 3 4"},
		"two endings":                       {[]Bar{forward, {Endings: one, Times: 2}, {Endings: two}, {}}, "1 2 1 3 4"},
		"endings of several bars":           {[]Bar{forward, {Endings: one}, {Endings: one, Times: 2}, {Endings: two}, {Endings: two}, {}}, "1 2 3 1 4 5 6"},
		"the first ending twice":            {[]Bar{forward, {Endings: []int{1, 2}, Times: 3}, {Endings: []int{3}}}, "1 2 1 2 1 3"},
		"from the beginning":                {[]Bar{{}, {}, {Jump: Jump{Back: true}}}, "1 2 3 1 2 3"},
		"from the beginning to the end":     {[]Bar{{}, {Fine: true}, {Jump: Jump{Back: true}}}, "1 2 3 1 2"},
		"from the sign":                     {[]Bar{{}, {Segno: "s"}, {}, {Jump: Jump{Back: true, Segno: "s"}}}, "1 2 3 4 2 3 4"},
		"from the sign by the coda":         {[]Bar{{}, {Segno: "s"}, {ToCoda: "c"}, {Jump: Jump{Back: true, Segno: "s"}}, {Coda: "c"}}, "1 2 3 4 2 3 5"},
		"no repeats the second time":        {[]Bar{{}, back, {Jump: Jump{Back: true}}}, "1 2 1 2 3 1 2 3"},
		"the last ending the second time":   {[]Bar{forward, {Endings: one, Times: 2}, {Endings: two}, {Jump: Jump{Back: true}}}, "1 2 1 3 4 1 3 4"},
		"a sign that is not there":          {[]Bar{{}, {Jump: Jump{Back: true, Segno: "x"}}, {}}, "1 2"},
		"parts that come again":             {[]Bar{{Section: "A"}, {Section: "B"}, {}}, "1 2 3"},
		"a repeat in which a part begins":   {[]Bar{{Section: "A", Repeat: true}, {Section: "B", Times: 2}}, "1 2 1 2"},
		"a part that is played three times": {[]Bar{{Section: "A", Legs: 3}, {Section: "B"}}, "1 1 1 2"},
	} {
		got, _ := walked(t, score(c.bars...))
		assert.Equal(t, c.want, got, name)
	}
	_, problems := walked(t, score(Bar{}, Bar{Jump: Jump{Back: true, Segno: "x"}}))
	assert.Contains(t, problems.String(), "a sign that is not there")
}

// How parts are called, and what is one part.
func TestParts(t *testing.T) {
	order := func(s *Score) string {
		var problems Problems
		g, err := s.Song(t.Context(), s.Usual(), &problems)
		require.NoError(t, err)
		var legs []string
		for _, l := range g.Order {
			legs = append(legs, fmt.Sprintf("%s x%d", g.Parts[l.Part].Name, l.Times))
		}
		return strings.Join(legs, ", ")
	}
	same := func(s *Score, bars ...int) *Score { // bars that sound like the first of them
		for _, i := range bars[1:] {
			s.Players[0].Sounds[i].Pitch = s.Players[0].Sounds[bars[0]].Pitch
		}
		return s
	}
	assert.Equal(t, "All x1", order(score(Bar{}, Bar{})))
	assert.Equal(t, "A x1, B x1", order(score(Bar{Section: "A"}, Bar{Section: "B"})))
	assert.Equal(t, "Beginning x1, A x1", order(score(Bar{}, Bar{Section: "A"})))
	assert.Equal(t, "A x1, B x1, A x1", order(same(score(Bar{Section: "A"}, Bar{Section: "B"}, Bar{Section: "A"}), 0, 2)))
	assert.Equal(t, "A x2", order(same(score(Bar{Section: "A"}, Bar{Section: "A"}), 0, 1)))
	assert.Equal(t, "A x1, A 2 x1", order(score(Bar{Section: "A"}, Bar{Section: "A"})), "another part of the same name")
	assert.Equal(t, "A x3, B x1", order(score(Bar{Section: "A", Repeat: true, Times: 3}, Bar{Section: "B"})))
	assert.Equal(t, "Verse one x1, key part x1", order(score(Bar{Section: "Verse: one|"}, Bar{Section: "key"})), "as a sheet can have it")
}

// Pickups, bars in a time of their own, and a length that no time says.
func TestMeasures(t *testing.T) {
	text := func(s *Score) (string, Problems) {
		var problems Problems
		g, err := s.Song(t.Context(), s.Usual(), &problems)
		require.NoError(t, err)
		return sheet.Write(g), problems
	}
	got, _ := text(score(Bar{Length: pitch.F(1, 4)}, Bar{}))
	assert.Contains(t, got, "pickup: 1\n")
	got, _ = text(score(Bar{}, Bar{Length: pitch.F(1, 2)}, Bar{}))
	assert.Contains(t, got, "[2/4]")
	got, _ = text(score(Bar{}, Bar{Length: pitch.F(3, 2)}, Bar{}))
	assert.Contains(t, got, "[6/4]")
	got, problems := text(score(Bar{}, Bar{Length: pitch.F(1, 7)}, Bar{}))
	assert.Contains(t, problems.String(), "which no time signature says")
	assert.NotContains(t, got, "[1/")
	_, problems = text(score(Bar{Tempo: 90}, Bar{Tempo: 120}))
	assert.Contains(t, problems.String(), "a change of tempo inside a part")
}

// What any notes become can be held by a hand or is said, sounds at the pitches that came
// in, and lies on the neck; where every note has its place, all stay there.
func TestPlacing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := score(make([]Bar, rapid.IntRange(1, 4).Draw(t, "bars"))...)
		s.Players[0].Sounds = nil
		var want []int
		for i := range s.Bars {
			for k := range rapid.IntRange(1, 8).Draw(t, "moments") {
				notes := rapid.SliceOfNDistinct(rapid.IntRange(40, 84), 1, rapid.SampledFrom([]int{1, 1, 2, 3, 4, 6}).Draw(t, "notes"), rapid.ID[int]).Draw(t, "pitches")
				for _, n := range notes {
					s.Players[0].Sounds = append(s.Players[0].Sounds, Sound{At: At{Bar: i, Start: pitch.F(int64(k), 8)}, Length: pitch.F(1, 8), Pitch: pitch.Pitch(n)})
					want = append(want, n)
				}
			}
		}
		var problems Problems
		g, err := s.Song(t.Context(), s.Usual(), &problems)
		require.NoError(t, err)
		read := sheet.Parse(sheet.Write(g))
		require.True(t, read.OK(), "%v", read.Problems)
		music := play.Arrange(read.Song, arrange.Options{}, func(int) play.Choice { return play.Choice{Rung: arrange.AsWritten} })
		var got []int
		for _, k := range play.Of(read.Song, music, play.Options{}).Strikes {
			got = append(got, int(k.Pitch.Pitch()))
		}
		if len(problems) == 0 {
			assert.ElementsMatch(t, want, got)
		}
		for _, n := range got {
			assert.Contains(t, want, n, "nothing sounds that did not come in: %v", problems)
		}
	})
}

// A melody is put where a hand can stay: a scale of an octave needs no change of place.
func TestMelodiesLieTogether(t *testing.T) {
	s := score(Bar{})
	s.Players[0].Sounds = nil
	for i, p := range []int{55, 57, 59, 60, 62, 64, 66, 67} { // G major from the open G
		s.Players[0].Sounds = append(s.Players[0].Sounds, Sound{At: At{Start: pitch.F(int64(i), 8)}, Length: pitch.F(1, 8), Pitch: pitch.Pitch(p)})
	}
	g, err := s.Song(t.Context(), s.Usual(), new(Problems))
	require.NoError(t, err)
	low, high := 24, 0
	for _, e := range g.Parts[0].Lines[0].Bars[0].Events {
		if f := e.Notes[0].Fret; f > 0 {
			low, high = min(low, f), max(high, f)
		}
	}
	assert.LessOrEqual(t, high-low, 3, sheet.Write(g))
}

// Strokes that the hand takes anyway are not marked, others are.
func TestStrokes(t *testing.T) {
	s := score(Bar{})
	s.Players[0].Placed = true
	s.Players[0].Sounds = nil
	add := func(strokes ...song.Stroke) string {
		s.Players[0].Sounds = nil
		for i, k := range strokes {
			s.Players[0].Sounds = append(s.Players[0].Sounds, Sound{At: At{Start: pitch.F(int64(i), 8)}, Length: pitch.F(1, 8), Note: song.Note{String: 5, Fret: 3}, Pitch: 48, Marks: song.Marks{Stroke: k}})
		}
		g, err := s.Song(t.Context(), s.Usual(), new(Problems))
		require.NoError(t, err)
		return sheet.Write(g)
	}
	usual := add(song.Down, song.Up, song.Down, song.Up, song.Down, song.Up, song.Down, song.Up)
	assert.NotContains(t, usual, "v")
	assert.NotContains(t, usual, "^")
	own := add(song.Down, song.Down, song.Down, song.Down, song.Down, song.Down, song.Down, song.Down)
	assert.Contains(t, own, "3Av")
}

// Choices that are not there are refused, problems are said once.
func TestChoices(t *testing.T) {
	s := score(Bar{})
	for _, c := range []Choice{{First: 1}, {First: -1}, {First: 0, Beside: []int{0}}, {First: 0, Beside: []int{7}}} {
		_, err := s.Song(t.Context(), c, new(Problems))
		assert.Error(t, err, c)
	}
	_, err := new(Score).Song(t.Context(), Choice{}, new(Problems))
	assert.Error(t, err)
	var p Problems
	for range 3 {
		p.Say("bar 1", "mend it", "a note is %s", "odd")
	}
	assert.Equal(t, "bar 1: a note is odd; mend it\n", p.String())
	for i := range 2 * mostProblems {
		p.Say(fmt.Sprint(i), "", "x")
	}
	assert.Len(t, p, mostProblems)
}
