package arrange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// The shares of the ways into a part are those of the roadmap.
func TestSeamsOfTheRoadmap(t *testing.T) {
	s := read(t, "order: A x2, B, A, B x3\nA:\n| 0A 3A |\nB:\n| 0E 3E |\nC:\n| 5E |\n")
	a := New(s, Options{Tempo: 60})
	in := a.score(0).ways
	assert.InDelta(t, 1.0/3, in.beginning, 1e-9, "once at the beginning")
	assert.InDelta(t, 1.0/3, in.loop, 1e-9, "once from itself")
	require.Len(t, in.in, 1)
	assert.InDelta(t, 1.0/3, in.in[0].share, 1e-9, "once from B")
	assert.InDelta(t, 2, in.in[0].seconds, 1e-9, "the last note of B lasts two beats")
	require.Len(t, in.out, 1)
	assert.InDelta(t, 2.0/3, in.out[0].share, 1e-9, "twice on to B")
	assert.InDelta(t, 2, in.back, 1e-9)
	b := a.score(1).ways
	assert.InDelta(t, 0.5, b.loop, 1e-9)
	assert.Zero(t, b.beginning)
	alone := a.score(2).ways
	assert.Equal(t, 1.0, alone.beginning, "a part that the roadmap leaves out stands alone")
	assert.Empty(t, alone.out)
}

// A line that is repeated comes back to its start: what that takes is measured
// and said.
func TestTheWayBackIsMeasured(t *testing.T) {
	once := New(read(t, "tempo: 160\nA:\n| 1E 3E 5E 7E 9E 11E 13E 15E |\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true})
	again := New(read(t, "tempo: 160\nA:\n| 1E 3E 5E 7E 9E 11E 13E 15E | x4\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true})
	assert.Greater(t, again.Grade, once.Grade)
	assert.Equal(t, LineAgain, again.Bars[0].Hardest().Hard.Over)
	loop := New(read(t, "tempo: 160\norder: A x4\nA:\n| 1E 3E 5E 7E 9E 11E 13E 15E |\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true})
	assert.Equal(t, PartAgain, loop.Bars[0].Hardest().Hard.Over)
	assert.LessOrEqual(t, again.Work/4, loop.Work+1e-9, "four passes cost no more than four times one")
}

// What comes next decides where a phrase ends, where nothing else does.
func TestNeighboursDecideTies(t *testing.T) {
	version := func(next string) Version {
		return New(read(t, "tempo: 200\norder: A, B\nA:\n| 9D - 9D - |\nB:\n| "+next+" |\n"), Options{}).Version(0, OneFinger, Way{FullRhythm: true})
	}
	low, high := version("1E 1E 1E 1E"), version("12E 12e 12e 12E")
	assert.LessOrEqual(t, low.Bars[0].Events[1].Base, high.Bars[0].Events[1].Base)
	assert.NotEqual(t, low.Work, high.Work)
}

// Alternatives are other ways to play a bar, the cheapest first, that say what
// they are; a lick is answered in the other octave as well.
func TestAlternatives(t *testing.T) {
	a := New(read(t, "A:\n| 3A+5D 5A+7D 0E 7E |\n"), Options{})
	list := a.Alternatives(0, AsWritten, Way{Replace: true}, 1, 0)
	assert.NotEmpty(t, list)
	last := -1.0
	for _, alternative := range list {
		assert.NotEmpty(t, alternative.Is)
		assert.Len(t, alternative.Shapes, 4)
		assert.GreaterOrEqual(t, alternative.Cost, last, "cheapest first")
		last = alternative.Cost
	}
	lick := New(read(t, "A:\n| 5D 7D 5G 7G |\n"), Options{}).Alternatives(0, AsWritten, Way{}, 1, 0)
	octave := false
	for _, alternative := range lick {
		_, here := alternative.Is[0].(OctaveElsewhere)
		octave = octave || here
	}
	assert.True(t, octave, "%v", lick)
	silent := New(read(t, "A:\n| . |\n| - |\n"), Options{})
	assert.Equal(t, Silence, silent.Version(0, OneFinger, Way{}).Bars[0].Why[0].Fact)
	assert.Equal(t, GoesOn, silent.Version(0, OneFinger, Way{}).Bars[1].Why[0].Fact)
	assert.Empty(t, silent.Alternatives(0, OneFinger, Way{}, 1, 0))
}

// Strokes follow the school of the player, and where it is economy the strings
// of the version.
func TestStrokesOfVersions(t *testing.T) {
	strokes := func(body string, p hand.Player, r Rung) string {
		text := ""
		for _, b := range New(read(t, body), Options{Player: p}).Version(0, r, Way{FullRhythm: true}).Bars {
			for _, e := range b.Events {
				text += [...]string{".", "v", "^"}[e.Stroke]
			}
		}
		return text
	}
	const run = "A:\n| 5E 5A 5D 5G 5D 5A 5E 5E |\n"
	assert.Equal(t, "v^v^v^v^", strokes(run, hand.Player{}, AsWritten))
	assert.Equal(t, "vvvvvvvv", strokes(run, hand.Player{Picking: hand.AllDown}, AsWritten))
	assert.Equal(t, "vvv^^^^v", strokes(run, hand.Player{Picking: hand.Economy}, AsWritten), "towards the next string; on one string they alternate")
	const hammered = "A:\n| 5E h7E 5A h7A |\n"
	assert.Equal(t, "v.v.", strokes(hammered, hand.Player{}, AsWritten))
	assert.Equal(t, "vvvv", strokes(hammered, hand.Player{}, OneFinger), "picked instead")
	gallop := New(read(t, "tempo: 60\nA:\n| (0E - 0E 0E) (0E . 0E 0E) 0E 0E |\n"), Options{}).Version(0, OneFinger, Way{FullRhythm: true})
	assert.Contains(t, gallop.Why, GallopPicked)
	assert.Equal(t, "vv^vv^vv", strokes("tempo: 60\nA:\n| (0E - 0E 0E) (0E - 0E 0E) 0E 0E |\n", hand.Player{Picking: hand.AllDown}, AsWritten))
}

// Bent notes and harmonics are named as they sound, capos counted in.
func TestWhatSounds(t *testing.T) {
	names := func(body string, r Rung) []string {
		var list []string
		for _, e := range New(read(t, body), Options{}).Version(0, r, Way{}).Bars[0].Events {
			for _, n := range e.Notes {
				list = append(list, n.Pitch.String())
			}
		}
		return list
	}
	assert.Equal(t, []string{"E4", "G4"}, names("A:\n| 7Gb2 12Go |\n", AsWritten))
	assert.Equal(t, []string{"E4", "G4"}, names("A:\n| 7Gb2 12Go |\n", OneFinger))
	assert.Equal(t, []string{"C3"}, names("key: C minor\ncapo: 3\nA:\n| 0A |\n", AsWritten))
	low, err := neck.Parse("whole step down")
	require.NoError(t, err)
	v := New(read(t, "A:\n| 0A+2D |\n"), Options{Tuning: &low}).Version(0, AsWritten, Way{})
	assert.Equal(t, "A2", v.Bars[0].Events[0].Notes[0].Pitch.String())
	assert.Equal(t, "E3", v.Bars[0].Events[0].Notes[1].Pitch.String())
	assert.Contains(t, v.Why, InTuning{"whole step down"})
	assert.Contains(t, v.Why, OpenLost(1))
	drop, err := neck.Parse("drop D")
	require.NoError(t, err)
	same := New(read(t, "A:\n| 12A h14A 5D 3E |\n"), Options{Tuning: &drop}).Version(0, AsWritten, Way{})
	assert.Equal(t, "12A 14A 5D 5E", played(same), "only what lies on a string that changed is placed anew")
}

// A school that the teacher wishes for one version goes before the studio's.
func TestSchoolsOfEasierChords(t *testing.T) {
	s := read(t, "key: C\nA:\n| C - Am7 - |\n")
	o := Options{Book: book, School: "letter"}
	assert.LessOrEqual(t, len(New(s, o).Version(0, EasyChords, Way{}).Bars[0].Events[0].Notes), 3)
	open := New(s, o).Version(0, EasyChords, Way{School: "open"})
	assert.GreaterOrEqual(t, len(open.Bars[0].Events[0].Notes), 4)
	assert.Equal(t, "x32010", open.Bars[0].Events[0].Fingering.Frets.String())
	w, err := ParseWay("school open\nplaces free")
	require.NoError(t, err)
	assert.Equal(t, "places free\nschool open", w.String())
	_, err = ParseWay("school of rock")
	assert.Error(t, err)
	old := "thicken everything\nbar 1: string A\nbar 2: with the teeth\nplaces free"
	w, err = ParseWay(old)
	assert.ErrorContains(t, err, "everything")
	assert.True(t, w.Replace, "what comes after it is read")
	pin, err := ParsePin("bar 1: string D")
	require.NoError(t, err)
	w = w.Pin(pin)
	assert.Equal(t, "places free\nbar 1: string D\nthicken everything\nbar 2: with the teeth", w.String(), "what is not understood is kept")
	assert.Equal(t, "places free\nbar 1: string D\nthicken everything", w.Without("bar 2: with the teeth").String())
	shape, _ := neck.ParseFrets("x35553")
	pinned := Way{}.Pin(Pin{Bar: 1, Event: true, Start: pitch.Whole(0), What: PinShape, Shape: shape})
	v := New(s, o).Version(0, EasyChords, pinned)
	assert.Empty(t, v.Unmet)
	assert.Equal(t, shape, v.Bars[0].Events[0].Fingering.Frets, "any shape can be chosen")
	riff := New(read(t, "A:\n| h5A 7A |\n"), o)
	assert.False(t, riff.HasChords(0))
	assert.Equal(t, song.NoStroke, riff.Version(0, EasyChords, Way{}).Bars[0].Events[0].Stroke, "a riff is played as it is written")
}
