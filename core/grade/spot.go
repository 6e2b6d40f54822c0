package grade

import (
	"math"

	"valleyside/core/hand"
	"valleyside/core/song"
)

// Spot is what asks most of the hands at a moment, with its numbers. Which
// numbers are set depends on the demand.
type Spot struct {
	Demand Demand
	// Reach: the distance between the fingers and what the hand has, mm.
	MM, Most float64
	// Fingers: how many; Change: how many are placed; Crossing: the strings;
	// Muting: the silent strings inside the shape; Force: strings under a finger.
	Count int
	// Force: the fret of the barre. Shift: the frets that the hand moves.
	Frets int
	// Shift, Change and Crossing: the time there is.
	Seconds float64
	// Shift: fingers that stay, or slide along.
	Kept, Slid int
	// Speed: strokes a second, and how many are comfortable.
	PerSecond, Comfortable float64
	Tied                   bool        // Rhythm: held over the next beat
	Skills                 hand.Skills // Unlearnt
	Written                *song.Event // Ornament: what it is written on
}

// Trimming is something that is played on a note: a technique, a bend of some
// cents, a harmonic or a vibrato.
type Trimming struct {
	By                song.Technique
	Bend              int
	Harmonic, Vibrato bool
	In, Off           song.Glide
}

// namedStretch is the share of a hand's reach from which a stretch is called one.
const namedStretch = 2.0 / 3

// Asks is the demand of a moment that a teacher would name: the one that weighs most of
// those that are so. A stretch is none where the hand has a third of it left, nor is a change
// hard to an open string, or to a shape that is held already.
func (m *Moment) Asks(p hand.At) Demand {
	profile := m.Profile(p)
	worst := Fingers // none, where nothing is asked
	for d := range demands {
		if profile[d] > profile[worst] && m.named(d, p) {
			worst = d
		}
	}
	return worst
}

// named tells whether a demand would be called what it is.
func (m *Moment) named(d Demand, p hand.At) bool {
	switch d {
	case Reach:
		return m.To.Reach(p.Neck) >= namedStretch*p.Reach
	case Shift, Change:
		return m.To.Fretted() && m.From.Frets != m.To.Frets
	}
	return true
}

// Spot gives the numbers of one demand of a moment.
func (m *Moment) Spot(d Demand, p hand.At) Spot {
	s := Spot{Demand: d}
	if d == Shift || d == Change || d == Crossing {
		s.Seconds = m.Seconds
	}
	change := hand.Between(m.From, m.To)
	switch d {
	case Reach:
		s.MM, s.Most = m.To.Reach(p.Neck), p.Reach
	case Fingers:
		s.Count = m.To.Count()
	case Force:
		s.Frets, s.Count = m.To.Barre()
	case Muting:
		s.Count = m.To.Inside()
	case Shift:
		s.MM, s.Kept, s.Slid = m.Shift, change.Kept, change.Slid
		s.Frets = m.Frets
	case Change:
		s.Count = change.Placed + change.Moved + change.Slid
		s.Kept = change.Kept
	case Crossing:
		s.Count = change.Crossed
	case Speed:
		s.PerSecond, s.Comfortable = 1/m.Pace, p.Pace()
	case Rhythm:
		s.Tied = m.Tied
	case Ornament:
		s.Written = m.Written
	case Unlearnt:
		s.Skills = (ShapeSkills(m.To) | TechniqueSkills(m.Written, m.Palm)) & p.New
	}
	return s
}

// Trimmings lists what is played on an event beside its notes.
func Trimmings(e *song.Event) []Trimming {
	var list []Trimming
	if e == nil {
		return nil
	}
	for _, n := range e.Notes {
		if n.By != song.Picked {
			list = append(list, Trimming{By: n.By})
		}
		if n.Bend != 0 {
			list = append(list, Trimming{Bend: n.Bend})
		}
		if n.Harmonic {
			list = append(list, Trimming{Harmonic: true})
		}
		if n.In != song.NoGlide {
			list = append(list, Trimming{In: n.In})
		}
		if n.Off != song.NoGlide {
			list = append(list, Trimming{Off: n.Off})
		}
	}
	if e.Vibrato {
		list = append(list, Trimming{Vibrato: true})
	}
	return list
}

// Tastes are what speaks against a version beside the work: nothing that the
// hands feel, but what a teacher's ear and eye keep to. They are in the measure
// of Work, and the same for riffs and for progressions. They were set by hand;
// the riffs and progressions of docs/judgement.md hold them.
const (
	// The place on the neck: low rather than high, more so above the seventh
	// fret.
	tastePerFret = 0.02
	tasteHigh    = 0.006 // for the square of the frets above the seventh
	// A hand that stays in its place, however slow the music is.
	tastePerMM = 1.0 / 400
	tasteShift = 0.06
	// A finger that hops from fret to fret on its string where no slide is
	// written.
	tasteHop = 1.0
	// A line that leaves its position, beside the way.
	tastePosition = 0.25
	// Register: for each semitone that the lowest or the highest notes of two
	// shapes lie further apart than an octave.
	tasteRegister = 0.25
	// A form away from what is taught, and each string on which a finger changes that
	// could stay. Held by the fingers of docs/judgement.md.
	tasteForm  = 1.6
	tasteLetGo = 0.55
	// A bass that is named is a line: for each semitone more than a third that it
	// leaps.
	tasteBassLine = 0.1
	// Texture: for each string more than one by which two shapes differ.
	tasteTexture = 0.25
)

// Place is the taste against a place of the hand: the fret of its index finger,
// 0 where nothing is fretted.
func Place(base int) float64 {
	high := float64(max(base-7, 0))
	return tastePerFret*float64(base) + tasteHigh*high*high
}

// Way is the taste against moving the hand so far along the neck.
func Way(mm float64) float64 {
	if mm == 0 {
		return 0
	}
	return tasteShift + tastePerMM*mm
}

// Hop is the taste against a finger that hops along its string.
const Hop = tasteHop

// Position is the taste against a line that leaves its position.
const Position = tastePosition

// Voice is a shape as the ear takes it: how many strings sound, and the lowest
// and highest pitch. The zero Voice is none.
type Voice struct {
	Strings   int8
	Low, High int16
}

// OffForm is the taste against a form of the hand so far from what is taught.
func OffForm(form float64) float64 { return tasteForm * form }

// LettingGo is the taste against fingers that change where they could stay, on so many
// strings.
func LettingGo(strings int) float64 { return tasteLetGo * float64(strings) }

// BassLine is the taste against a leap of a bass that the chords name.
func BassLine(a, b Voice) float64 {
	return tasteBassLine * math.Max(math.Abs(float64(a.Low-b.Low))-4, 0)
}

// Leap is the taste against going from one shape to the next: what they lie
// further apart than an octave, and by how many strings more than one they
// differ. A single note is a line of its own and leaps as it likes.
func Leap(a, b Voice) float64 {
	if a.Strings < 2 || b.Strings < 2 {
		return 0
	}
	over := func(d int16) float64 { return math.Max(math.Abs(float64(d))-12, 0) }
	return tasteRegister*(over(a.Low-b.Low)+over(a.High-b.High)) +
		tasteTexture*math.Max(math.Abs(float64(a.Strings-b.Strings))-1, 0)
}
