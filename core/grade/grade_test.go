package grade

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

var adult = hand.Player{}.At(neck.Neck{})

func fingering(t require.TestingT, frets string, fingers ...hand.Finger) hand.Fingering {
	f, err := neck.ParseFrets(frets)
	require.NoError(t, err)
	g := hand.Fingering{Frets: f}
	k := 0
	for i := range f {
		if f[i] > 0 {
			g.Fingers[i] = fingers[k]
			k++
		}
	}
	return g
}

func hold(f hand.Fingering, p hand.At) float64 {
	h := Hold(f, p)
	return h.Total()
}

func TestOrdersThatMustHold(t *testing.T) {
	one := hold(fingering(t, "1xxxxx", 1), adult)
	two := hold(fingering(t, "13xxxx", 1, 4), adult)
	three := hold(fingering(t, "133xxx", 1, 3, 4), adult)
	barre := hold(fingering(t, "133211", 1, 3, 4, 2, 1, 1), adult)
	assert.Less(t, one, two)
	assert.Less(t, two, three)
	assert.Less(t, three, barre, "a full first-fret barre is harder than the power chord on its root")
	drop := hold(fingering(t, "33xxxx", 1, 1), adult)
	assert.Less(t, drop, hold(fingering(t, "35xxxx", 1, 3), adult), "one finger in a drop tuning")
	open := hold(fingering(t, "02xxxx", 1), adult)
	assert.Less(t, open, two, "an open root needs one finger")
	child := hand.Player{Reach: 60, Scale: 578}.At(neck.Neck{})
	assert.Greater(t, hold(fingering(t, "13xxxx", 1, 3), child), hold(fingering(t, "13xxxx", 1, 3), adult))
}

func TestSameShapeIsNeverHarderHigherUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			if rapid.Bool().Draw(t, "sounds") {
				frets[i] = int8(rapid.IntRange(1, 5).Draw(t, "fret"))
			}
		}
		up := frets
		by := int8(rapid.IntRange(1, 12).Draw(t, "up"))
		for i := range up {
			if up[i] > 0 {
				up[i] += by
			}
		}
		for _, f := range hand.Fingerings(frets) {
			g := hand.Fingering{Frets: up, Fingers: f.Fingers}
			require.LessOrEqual(t, hold(g, adult), hold(f, adult)+1e-9)
		}
	})
}

// moment draws a stroke that follows another.
func moment(t *rapid.T) Moment {
	single := func(name string) hand.Fingering {
		return hand.Single(neck.String(rapid.IntRange(1, 6).Draw(t, name+" string")), rapid.IntRange(0, 15).Draw(t, name+" fret"), hand.Finger(rapid.IntRange(1, 4).Draw(t, name+" finger")))
	}
	return Moment{From: single("from"), To: single("to"), Shift: rapid.Float64Range(0, 400).Draw(t, "mm"),
		Seconds: rapid.Float64Range(0.03, 2).Draw(t, "seconds"), Pace: rapid.Float64Range(0.03, 2).Draw(t, "pace"), Count: pitch.F(1, 2)}
}

func total(m Moment, p hand.At) float64 {
	profile := m.Profile(p)
	return profile.Total()
}

func TestNeverHarderWhenSlower(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		fast := moment(t)
		slow := fast
		by := rapid.Float64Range(1, 5).Draw(t, "slower")
		slow.Seconds, slow.Pace = fast.Seconds*by, fast.Pace*by
		require.LessOrEqual(t, total(slow, adult), total(fast, adult))
	})
}

// The fast sums of the search are those of the plain measure.
func TestGapAgreesWithProfile(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := moment(t)
		p := adult
		p.Picking = rapid.SampledFrom(hand.Pickings).Draw(t, "picking")
		c := hand.Between(m.From, m.To)
		hold := Hold(m.To, p)
		fast := m.Fixed(p) + hold.Total() + Over(m.Seconds).Total(m.Shift, Placing(c), Strings(c, p.Picking))
		require.InDelta(t, total(m, p), fast, 1e-12)
	})
}

func TestAnAnchorNeverMakesAChangeHarder(t *testing.T) {
	from := fingering(t, "x32010", 3, 2, 1)
	anchored := fingering(t, "x02210", 2, 3, 1) // index and middle stay
	lifted := fingering(t, "x02220", 1, 2, 3)
	a := Moment{From: from, To: anchored, Seconds: 0.5, Count: pitch.Whole(0)}
	b := Moment{From: from, To: lifted, Seconds: 0.5, Count: pitch.Whole(0)}
	assert.Equal(t, 1, hand.Between(from, anchored).Moved)
	assert.Less(t, a.Profile(adult)[Change], b.Profile(adult)[Change])
	rapid.Check(t, func(t *rapid.T) {
		// The same change with one more finger that stays where it is.
		frets := neck.NoFrets
		frets[0] = int8(rapid.IntRange(2, 8).Draw(t, "anchor"))
		from := hand.Fingering{Frets: frets, Fingers: [neck.Strings]hand.Finger{1}}
		to := from
		f := frets[0] + 1
		from.Frets[2], from.Fingers[2] = f, hand.Middle
		to.Frets[3], to.Fingers[3] = f, hand.Middle
		lifted := to
		lifted.Frets[0], lifted.Fingers[0] = frets[0]-1, hand.Index // slides instead
		with, without := hand.Between(from, to), hand.Between(from, lifted)
		require.Equal(t, 1, with.Kept)
		require.LessOrEqual(t, Placing(with), Placing(without))
	})
}

// One finger across a drop-tuned power chord is easier than two fingers on the
// same root in standard tuning, for every hand that can do both.
func TestDropTunedPowerChordIsEasier(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := hand.Player{Reach: rapid.Float64Range(55, 200).Draw(t, "reach"), Scale: rapid.Float64Range(560, 660).Draw(t, "scale")}.At(neck.Neck{})
		fret := int8(rapid.IntRange(1, 12).Draw(t, "fret"))
		one := hand.Fingering{Frets: neck.Frets{fret, fret, -1, -1, -1, -1}, Fingers: [6]hand.Finger{1, 1}}
		two := hand.Fingering{Frets: neck.Frets{fret, fret + 2, -1, -1, -1, -1}, Fingers: [6]hand.Finger{1, 3}}
		one1, two2 := Hold(one, p), Hold(two, p)
		require.LessOrEqual(t, one1.Total(), two2.Total())
		from := hand.Fingering{Frets: neck.Frets{3, 3, -1, -1, -1, -1}, Fingers: [6]hand.Finger{1, 1}}
		from2 := hand.Fingering{Frets: neck.Frets{3, 5, -1, -1, -1, -1}, Fingers: [6]hand.Finger{1, 3}}
		require.LessOrEqual(t, Placing(hand.Between(from, one)), Placing(hand.Between(from2, two)))
	})
}

func TestDemandsByThemselves(t *testing.T) {
	f := pitch.F
	for _, order := range [][]pitch.Frac{{f(0, 1), f(1, 2), f(1, 4), f(1, 8)}, {f(0, 1), f(1, 2), f(1, 3), f(1, 16)}} {
		for i := 1; i < len(order); i++ {
			assert.Less(t, RhythmDemand(order[i-1], false), RhythmDemand(order[i], false))
		}
	}
	assert.Greater(t, RhythmDemand(f(1, 2), true), RhythmDemand(f(1, 2), false))
	note := func(n song.Note) *song.Event { return &song.Event{Notes: []song.Note{n}} }
	assert.Zero(t, OrnamentDemand(note(song.Note{}), adult))
	hammer, bend, wide := OrnamentDemand(note(song.Note{By: song.Hammered}), adult), OrnamentDemand(note(song.Note{Bend: 100}), adult), OrnamentDemand(note(song.Note{Bend: 200}), adult)
	assert.Less(t, hammer, bend)
	assert.Less(t, bend, wide)
	acoustic := adult
	acoustic.Acoustic = true
	assert.Greater(t, OrnamentDemand(note(song.Note{Bend: 100}), acoustic), bend)
	barre, high := fingering(t, "133211", 1, 3, 4, 2, 1, 1), fingering(t, "577655", 1, 3, 4, 2, 1, 1)
	assert.Greater(t, ForceDemand(barre.Build(), acoustic), ForceDemand(barre.Build(), adult))
	assert.Greater(t, ForceDemand(barre.Build(), adult), ForceDemand(high.Build(), adult), "stiffest at the nut")
	down := adult
	down.Picking = hand.AllDown
	assert.Greater(t, SpeedDemand(6, down), SpeedDemand(6, adult), "down strokes tire early")
	assert.Equal(t, 1.0, SpeedDemand(6, adult))
	c := hand.Change{Crossed: 3}
	assert.Less(t, Strings(c, hand.Economy), Strings(c, hand.Alternate))
	assert.Less(t, 3*Strings(hand.Change{Crossed: 1}, hand.Alternate), Strings(c, hand.Alternate), "skipped strings count more")
	assert.Zero(t, MutingDemand(fingering(t, "x3xxxx", 1)))
	assert.Less(t, MutingDemand(fingering(t, "x35xxx", 1, 3)), MutingDemand(fingering(t, "x3x5xx", 1, 3)), "a string inside an octave")
	learner := adult
	learner.New = hand.OctaveShapes | hand.Bends
	assert.Equal(t, 1.0, UnlearntDemand(ShapeSkills(fingering(t, "x3x5xx", 1, 3)), learner))
	assert.Zero(t, UnlearntDemand(ShapeSkills(fingering(t, "x35xxx", 1, 3)), learner))
	assert.Equal(t, 1.0, UnlearntDemand(TechniqueSkills(note(song.Note{Bend: 100}), true), learner))
	for _, d := range Demands() {
		assert.NotEmpty(t, d.String())
		assert.Positive(t, weights[d])
	}
}

func TestHardestPlacesCountMost(t *testing.T) {
	assert.Zero(t, Of(nil))
	even := Of([]float64{1, 1, 1, 1})
	peak := Of([]float64{0.2, 0.2, 0.2, 3.4})
	assert.InDelta(t, 1, even, 1e-9)
	assert.Greater(t, peak, even, "the same sum with a peak is harder")
	assert.Equal(t, 1.0, Scale(0))
	assert.LessOrEqual(t, Scale(100), 10.0)
	assert.Less(t, Scale(0.5), Scale(1))
}

// A spot carries the numbers of its demand.
func TestSpots(t *testing.T) {
	p := adult
	p.New = hand.Bends
	bent := &song.Event{Notes: []song.Note{{Bend: 100}}}
	m := Moment{From: fingering(t, "1xxxxx", 1), To: fingering(t, "5xxxxx", 1), Shift: 96, Frets: 4, Seconds: 0.25, Pace: 0.125, Count: pitch.F(1, 2), Tied: true, Written: bent}
	barre := Moment{From: hand.Lifted, To: fingering(t, "133211", 1, 3, 4, 2, 1, 1), Count: pitch.Whole(0)}
	octave := Moment{From: fingering(t, "xx3xxx", 1), To: fingering(t, "1x3xxx", 1, 3), Seconds: 0.5, Count: pitch.Whole(0)}
	assert.Equal(t, Spot{Demand: Shift, MM: 96, Frets: 4, Seconds: 0.25, Slid: 1}, m.Spot(Shift, p))
	assert.Equal(t, Spot{Demand: Change, Count: 1, Seconds: 0.25}, m.Spot(Change, p))
	assert.Equal(t, Spot{Demand: Speed, PerSecond: 8, Comfortable: 6}, m.Spot(Speed, p))
	assert.True(t, m.Spot(Rhythm, p).Tied)
	assert.Equal(t, []Trimming{{Bend: 100}}, Trimmings(m.Spot(Ornament, p).Written))
	assert.Equal(t, hand.Bends, m.Spot(Unlearnt, p).Skills)
	assert.Equal(t, Spot{Demand: Force, Frets: 1, Count: 6}, barre.Spot(Force, p))
	assert.Equal(t, 4, barre.Spot(Fingers, p).Count)
	assert.InDelta(t, 68, octave.Spot(Reach, p).MM, 1)
	assert.Equal(t, 120.0, octave.Spot(Reach, p).Most)
	assert.Equal(t, 1, octave.Spot(Muting, p).Count)
	assert.Equal(t, 2, octave.Spot(Crossing, p).Count)
}

// Tastes: a hand that stays, a register that holds, a texture that is kept.
func TestTastes(t *testing.T) {
	assert.Zero(t, Way(0))
	assert.Less(t, Way(10), Way(100))
	assert.Less(t, Place(3), Place(5))
	assert.Less(t, Place(7)-Place(5), Place(12)-Place(10), "higher up it counts more")
	full := Voice{Strings: 6, Low: 40, High: 64}
	assert.Zero(t, Leap(full, Voice{Strings: 5, Low: 48, High: 64}), "a string less, within an octave")
	assert.Positive(t, Leap(full, Voice{Strings: 6, Low: 53, High: 64}))
	assert.Positive(t, Leap(full, Voice{Strings: 3, Low: 40, High: 50}))
	assert.Zero(t, Leap(full, Voice{Strings: 1, Low: 80, High: 80}), "a line leaps as it likes")
}

// The way to hold a shape that is taught is found among all there are, and what
// it asks is what is said of it.
func TestTaught(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			frets[i] = int8(rapid.IntRange(-1, 5).Draw(t, "fret"))
		}
		p := hand.Player{Reach: rapid.Float64Range(40, 150).Draw(t, "reach"), NoBarre: rapid.Bool().Draw(t, "no barre"),
			New: hand.Skills(rapid.IntRange(0, 15).Draw(t, "new"))}.At(neck.Neck{})
		all := p.Fingerings(frets)
		f, got, ok := Taught(frets, p)
		if ok {
			require.Equal(t, all[0].Build().Barres, f.Build().Barres)
			require.InDelta(t, hold(f, p), got, 1e-12)
		}
		if !ok { // only hands that begin with ring or little finger are left
			for _, g := range all {
				require.False(t, g.Uses(hand.Index))
			}
		}
	})
}

// What a moment asks is named as a teacher would: no stretch where the hand has a third of
// it left, no change to an open string or to a shape that is held.
func TestWhatIsNamed(t *testing.T) {
	wide := fingering(t, "57xxxx", 1, 2) // two fingers ask little
	span := wide.Reach(neck.Neck{})
	at := func(share float64) hand.At { return hand.Player{Reach: span / share}.At(neck.Neck{}) }
	m := Moment{From: hand.Lifted, To: wide, Count: pitch.Whole(0)}
	assert.Equal(t, Reach, m.Asks(at(0.9)))
	assert.Equal(t, Reach, m.Asks(at(0.72)))
	left := m.Profile(at(0.66))
	assert.Greater(t, left[Reach], 0.9*left[Fingers], "it weighs as much, nearly")
	assert.NotEqual(t, Reach, m.Asks(at(0.66)))
	moved := Moment{From: fingering(t, "1xxxxx", 1), To: fingering(t, "xxxxx1", 1), Seconds: 0.1, Count: pitch.Whole(0)}
	assert.Equal(t, Change, moved.Asks(adult))
	open := moved
	open.To = hand.Single(5, 0, hand.None)
	open.Shift = 300
	assert.NotContains(t, []Demand{Shift, Change}, open.Asks(adult), "an open string")
	held := Moment{From: wide, To: wide, Shift: 300, Seconds: 0.1, Count: pitch.Whole(0)}
	assert.NotContains(t, []Demand{Shift, Change}, held.Asks(adult), "it is held")
}
