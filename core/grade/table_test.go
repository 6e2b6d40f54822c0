package grade

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// A number for each demand, worked out by hand from the millimetres of the neck and the
// scales that are written beside them. Whoever changes a scale changes its numbers here, on
// purpose.
func TestNumbers(t *testing.T) {
	// 648 mm: fret n lies 648·(1 − 2^(−n/12)) from the nut.
	at := func(fret float64) float64 { return 648 * (1 - math.Exp2(-fret/12)) }
	far := hand.Player{Reach: 120}.At(neck.Neck{})
	for _, c := range []struct {
		what      string
		got, want float64
	}{
		{"reach: half of it is an eighth", reachDemand(60, 60, far), 0.125},
		{"reach: all of it", reachDemand(120, 120, far), 1},
		{"reach: a quarter beyond", reachDemand(150, 150, far), 1.25*1.25*1.25 + 4 + 10*0.25},
		{"reach: not along the neck, but beyond", reachDemand(132, 60, far), 0.125 + 4 + 10*0.1},
		{"fingers: one", FingersDemand(hand.Build{Count: 1}), 0.05},
		{"fingers: four with the little one", FingersDemand(hand.Build{Count: 4, Little: true}), 0.54},
		{"fingers: two with the thumb", FingersDemand(hand.Build{Count: 2, Thumb: true}), 0.25},
		{"force: none", ForceDemand(hand.Build{}, far), 0},
		// Six strings are five beyond the first: 0.05·5 + 0.01·25 = 0.5; at fret 1 of an octave of 324 mm.
		{"force: a full barre at fret 1", ForceDemand(hand.Build{BarreStrings: 6, BarreFret: 1, Barres: 1}, far), 0.5 * (0.6 + 1 - at(1)/324)},
		{"force: at fret 5", ForceDemand(hand.Build{BarreStrings: 6, BarreFret: 5, Barres: 1}, far), 0.5 * (0.6 + 1 - at(5)/324)},
		{"force: beyond the octave it is no lighter", ForceDemand(hand.Build{BarreStrings: 6, BarreFret: 15, Barres: 1}, far), 0.3},
		{"force: two strings at fret 1", ForceDemand(hand.Build{BarreStrings: 2, BarreFret: 1, Barres: 1}, far), 0.06 * (0.6 + 1 - at(1)/324)},
		{"force: two barres", ForceDemand(hand.Build{BarreStrings: 2, BarreFret: 12, Barres: 2}, far), 0.06*0.6 + 0.08},
		// Fret 1 behind a capo at 5 is fret 6 of the guitar, whose fret 12 is fret 7 there.
		{"force: behind a capo", ForceDemand(hand.Build{BarreStrings: 6, BarreFret: 1, Barres: 1}, hand.Player{}.At(neck.Neck{Capo: 5})), 0.5 * (0.6 + 1 - at(6)/324)},
		{"force: steel", ForceDemand(hand.Build{BarreStrings: 2, BarreFret: 12, Barres: 1}, hand.Player{Acoustic: true}.At(neck.Neck{})), 0.06 * 0.6 * 1.4},
		{"shift: 300 mm in a second", ShiftDemand(300, 1), 300.0/600 + 300.0/1500},
		{"shift: a way that takes its time", ShiftDemand(150, 100), 0.0025 + 0.1},
		{"shift: no time at all", ShiftDemand(600, 0), 6 + 0.4},
		{"placing: one from the air, one that jumps, one that slides", Placing(hand.Change{Placed: 1, Moved: 1, Slid: 1}), 1 + 1.05 + 0.4},
		{"placing: a finger laid across six strings", Placing(hand.Change{Placed: 1, Laid: 4}), 1 + 4*0.4},
		{"change: five in half a second", ChangeDemand(5, 0.5), 1},
		{"change: no more than is possible", ChangeDemand(5, 0.001), 6},
		{"strings: one beside", Strings(hand.Change{Crossed: 1}, hand.Alternate), 1},
		{"strings: three", Strings(hand.Change{Crossed: 3}, hand.Alternate), 4},
		{"strings: three on the way", Strings(hand.Change{Crossed: 3}, hand.Economy), 2},
		{"crossing: two in a tenth", CrossingDemand(2, 0.1), 1},
		{"crossing: no more than is possible", CrossingDemand(9, 0.01), 3},
		{"speed: half is an eighth", SpeedDemand(3, far), 0.125},
		{"speed: as comfortable", SpeedDemand(6, far), 1},
		{"speed: twice", SpeedDemand(12, far), 8},
		{"speed: no more than is possible", SpeedDemand(60, far), 9},
		{"rhythm: on the beat", RhythmDemand(pitch.Whole(0), false), 0},
		{"rhythm: on the and", RhythmDemand(pitch.F(1, 2), false), 0.2},
		{"rhythm: a third", RhythmDemand(pitch.F(2, 3), false), 0.4},
		{"rhythm: on the e", RhythmDemand(pitch.F(1, 4), false), 0.5},
		{"rhythm: a sixth", RhythmDemand(pitch.F(1, 6), false), 0.8},
		{"rhythm: an eighth of a beat", RhythmDemand(pitch.F(3, 8), false), 0.8},
		{"rhythm: finer", RhythmDemand(pitch.F(1, 16), false), 1},
		{"rhythm: tied over", RhythmDemand(pitch.F(1, 2), true), 0.6},
		{"work: twice as hard", Work(1), 2},
		{"work: a half", Work(0.5), 0.75},
		{"of: one hard place in sixteen", Of(append(make([]float64, 15), 2)), 0.5*2 + 0.5*1},
		{"scale: 1.6", Scale(1.6), 6.7}, // 1 + 9·(1 − 1/e)
	} {
		assert.InDelta(t, c.want, c.got, 1e-9, c.what)
	}
	mute := func(frets string, fingers ...hand.Finger) float64 {
		return MutingDemand(fingering(t, frets, fingers...))
	}
	assert.Equal(t, 0.0, mute("022100", 2, 3, 1), "all six sound")
	assert.Equal(t, 0.25, mute("x32010", 3, 2, 1), "one beside")
	assert.Equal(t, 0.5, mute("x35xxx", 1, 3), "both sides")
	assert.Equal(t, 1.5, mute("x3x5xx", 1, 3), "and one inside")
	assert.Equal(t, 0.0, mute("x3xxxx", 1), "a note is picked")
	orn := func(n song.Note, marks song.Marks, p hand.At) float64 {
		return OrnamentDemand(&song.Event{Notes: []song.Note{n}, Marks: marks}, p)
	}
	for _, c := range []struct {
		got, want float64
	}{
		{orn(song.Note{By: song.Hammered}, song.Marks{}, far), 0.1}, {orn(song.Note{By: song.PulledOff}, song.Marks{}, far), 0.15}, {orn(song.Note{By: song.Slid}, song.Marks{}, far), 0.1},
		{orn(song.Note{By: song.Tapped}, song.Marks{}, far), 0.5}, {orn(song.Note{By: song.Released}, song.Marks{}, far), 0.1},
		{orn(song.Note{Bend: 200}, song.Marks{}, far), 0.75}, {orn(song.Note{Bend: 200}, song.Marks{}, hand.Player{Acoustic: true}.At(neck.Neck{})), 1.125},
		{orn(song.Note{Harmonic: true}, song.Marks{Vibrato: true}, far), 0.3}, {orn(song.Note{In: song.Rising, Off: song.Falling}, song.Marks{}, far), 0.1},
	} {
		assert.InDelta(t, c.want, c.got, 1e-9)
	}
	// Weighed together: F5 at fret 1, held by index and ring.
	f5 := fingering(t, "13xxxx", 1, 3)
	held := Hold(f5, far)
	assert.InDelta(t, 0.15, held[Fingers], 1e-9)
	assert.InDelta(t, 0.1*0.25, held[Muting], 1e-9)
}
