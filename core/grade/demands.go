package grade

import (
	"math/bits"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// The scales on which the demands are measured, before weights makes one measure
// of them. They were set by hand against pairs of which teachers agree which is
// easier: the pairs of docs/judgement.md hold them, and TestOrdersThatMustHold where
// it names them. Times below shortest, in seconds, are measured as that; the
// demand of one change is cut off where more is impossible anyway.
const (
	shortest = 0.02

	// Reach.
	beyondReach   = 4.0  // a stretch that the hand does not have
	beyondByShare = 10.0 // and for its share beyond that

	// Fingers.
	littleDown = 0.04 // more than another finger
	thumbDown  = 0.1

	// Force: strings under one finger beyond the first, and their square, more so
	// near the nut.
	forceString   = 0.05
	forceSquare   = 0.01
	forceAnywhere = 0.6 // of what it takes at the nut beyond that
	acousticForce = 1.4 // stiffer strings
	secondBarre   = 0.08

	// Muting.
	muteBeside = 0.25 // the strings on one side of a shape that is strummed, against one inside it

	// Shift.
	shiftPerSecond = 600.0 // mm
	shiftWay       = 1500.0
	mostShift      = 6.0

	// Change: what a finger counts that does more, or less, than come from the air.
	jumpsString     = 1.05
	slidesAlong     = 0.4
	laysAcross      = 0.4 // for each string beyond two
	placedPerSecond = 10.0
	mostPlaced      = 6.0

	// Crossing.
	skipsString      = 0.5 // more for each string that is skipped
	economyCrossing  = 0.5 // of it, where the stroke goes that way anyway
	crossedPerSecond = 20.0
	mostCrossed      = 3.0

	// Speed.
	mostSpeed = 9.0

	// Rhythm: where a stroke falls, by what the beat is divided into.
	onHalf    = 0.2
	onThird   = 0.4
	onQuarter = 0.5
	onSixth   = 0.8
	onFiner   = 1.0
	tiedOver  = 0.4

	// Ornament.
	bendAtAll   = 0.25
	bendByStep  = 0.25 // for each half step
	bendSteel   = 1.5  // on stiffer strings
	harmonicAsk = 0.15
	glideAsk    = 0.05 // a slide from nowhere, or to nowhere
	vibratoAsk  = 0.15
)

// fingersHeld is the demand of so many fingers, techniqueAsks that of a note that
// is not picked.
var (
	fingersHeld   = [...]float64{0, 0.05, 0.15, 0.3, 0.5, 0.7}
	techniqueAsks = [...]float64{song.Picked: 0, song.Hammered: 0.1, song.PulledOff: 0.15, song.Slid: 0.1, song.Tapped: 0.5, song.Released: 0.1}
)

// reachDemand is 0 where the fingers lie at one fret and 1 where two of them
// are as far apart along the neck as those two can be; it grows with the cube,
// since a hand is at ease over most of its reach. Where the straight distance
// is beyond the reach it grows steeply.
func reachDemand(reach, needed float64, p hand.At) float64 {
	s := needed / p.Reach
	d := s * s * s
	if over := reach/p.Reach - 1; over > 0 {
		d += beyondReach + beyondByShare*over
	}
	return d
}

// FingersDemand grows with the number of fingers that are down; the little
// finger counts a bit more than another, and so does the thumb.
func FingersDemand(b hand.Build) float64 {
	d := fingersHeld[b.Count]
	if b.Little {
		d += littleDown
	}
	if b.Thumb {
		d += thumbDown
	}
	return d
}

// ForceDemand grows with the strings under one finger and is largest near the
// nut, where the strings are stiffest. Acoustic strings are stiffer.
func ForceDemand(b hand.Build, p hand.At) float64 {
	if b.BarreStrings == 0 {
		return 0
	}
	n := p.Neck
	near := max(1-n.Position(b.BarreFret)/n.Position(12-n.Capo), 0) // 1 at the nut, 0 at its fret 12
	k := float64(b.BarreStrings - 1)
	d := (forceString*k + forceSquare*k*k) * (forceAnywhere + near)
	d += secondBarre * float64(b.Barres-1)
	if p.Acoustic {
		d *= acousticForce
	}
	return d
}

// MutingDemand counts the silent strings inside a shape; the strings beside
// one that is strummed count a quarter each. A single note is picked, not
// strummed.
func MutingDemand(f hand.Fingering) float64 {
	if f.Sounding() < 2 {
		return 0
	}
	d := float64(f.Inside())
	if f.Lowest() < 6 {
		d += muteBeside
	}
	if f.Highest() > 1 {
		d += muteBeside
	}
	return d
}

// ShiftDemand is the speed at which the hand has to move: 1 at 600 mm in a
// second. The way itself counts a little, however long there is for it.
func ShiftDemand(mm, seconds float64) float64 {
	return min(mm/max(seconds, shortest)/shiftPerSecond, mostShift) + mm/shiftWay
}

// Placing counts the fingers that a change puts down: one that jumps to
// another string is a little harder than one that comes from the air, one that
// slides along its string much easier, and one that stays costs nothing.
func Placing(c hand.Change) float64 {
	return float64(c.Placed) + jumpsString*float64(c.Moved) + slidesAlong*float64(c.Slid) + laysAcross*float64(c.Laid)
}

// ChangeDemand is how quickly fingers have to be placed: 1 at ten in a second.
func ChangeDemand(placing, seconds float64) float64 {
	return min(placing/max(seconds, shortest)/placedPerSecond, mostPlaced)
}

// Strings counts the strings that the pick crosses; each that is skipped
// counts half again. In economy picking the stroke goes that way anyway.
func Strings(c hand.Change, way hand.Picking) float64 {
	n := float64(c.Crossed) + skipsString*float64(max(c.Crossed-1, 0))
	if way == hand.Economy {
		n *= economyCrossing
	}
	return n
}

// CrossingDemand grows with the strings to cross and the speed of it: 1 at
// twenty strings in a second.
func CrossingDemand(strings, seconds float64) float64 {
	return min(strings/max(seconds, shortest)/crossedPerSecond, mostCrossed)
}

// SpeedDemand is 1 where the strokes come as fast as the player is comfortable
// with, and grows with the cube: half of that speed is no trouble.
func SpeedDemand(perSecond float64, p hand.At) float64 {
	share := perSecond / p.Pace()
	return min(share*share*share, mostSpeed)
}

// RhythmDemand is 0 on the beat and grows with the subdivision that a stroke
// falls on; a sound that is tied over the next beat takes away the beat to
// hold on to.
func RhythmDemand(count pitch.Frac, tied bool) float64 {
	d := onFiner
	switch count.Den() {
	case 1:
		d = 0
	case 2:
		d = onHalf
	case 3:
		d = onThird
	case 4:
		d = onQuarter
	case 6, 8:
		d = onSixth
	}
	if tied {
		d += tiedOver
	}
	return d
}

// OrnamentDemand adds up the ornaments of an event as it is written.
func OrnamentDemand(e *song.Event, p hand.At) float64 {
	d := 0.0
	for _, n := range e.Notes {
		d += techniqueAsks[n.By]
		if n.Bend != 0 {
			bend := bendAtAll + bendByStep*float64(n.Bend)/100
			if p.Acoustic {
				bend *= bendSteel
			}
			d += bend
		}
		if n.Harmonic {
			d += harmonicAsk
		}
		for _, glide := range []song.Glide{n.In, n.Off} {
			if glide != song.NoGlide {
				d += glideAsk
			}
		}
	}
	if e.Vibrato {
		d += vibratoAsk
	}
	return d
}

// TechniqueSkills is what a player must have learnt for the ornaments of an
// event (nil: none) and for palm muting.
func TechniqueSkills(e *song.Event, palm bool) hand.Skills {
	var s hand.Skills
	if palm {
		s |= hand.PalmMuting
	}
	if e == nil {
		return s
	}
	if e.Vibrato {
		s |= hand.Vibrato
	}
	for _, n := range e.Notes {
		s |= [...]hand.Skills{song.Picked: 0, song.Hammered: hand.HammerOns, song.PulledOff: hand.PullOffs, song.Slid: hand.Slides, song.Tapped: hand.Tapping, song.Released: hand.Bends}[n.By]
		if n.Bend != 0 {
			s |= hand.Bends
		}
		if n.In != song.NoGlide || n.Off != song.NoGlide {
			s |= hand.Slides
		}
		if n.Harmonic {
			s |= hand.Harmonics
		}
	}
	return s
}

// ShapeSkills is what a player must have learnt for a shape.
func ShapeSkills(f hand.Fingering) hand.Skills {
	var s hand.Skills
	b := f.Build()
	switch n := b.Count; {
	case f.Sounding() == 2 && f.Inside() == 1 && octaveForm(f):
		s |= hand.OctaveShapes
	case n == 2:
		s |= hand.TwoFingers
	case n > 2:
		s |= hand.ThreeFingers
	}
	if b.Barred() {
		s |= hand.Barres
	}
	return s
}

// octaveForm tells whether two strings with one between are taken as an octave is: two frets
// up, three across the B string, or at one fret where the sixth string is tuned down; other
// pairs, sixths and tenths, are two notes that go together.
func octaveForm(f hand.Fingering) bool {
	low, high := f.Lowest(), f.Highest()
	d := f.Frets.On(high) - f.Frets.On(low)
	return d == 2 || d == 3 || d == 0 && low == neck.Strings
}

// UnlearntDemand counts what a player still has to learn of some skills.
func UnlearntDemand(needed hand.Skills, p hand.At) float64 {
	return float64(bits.OnesCount16(uint16(needed & p.New)))
}
