package neck

import (
	"math"

	"valleyside/core/pitch"
)

// A4 is the usual concert pitch, Hz.
const A4 = 440.0

// Hz is what the open string s sounds where A4 is a4 hertz, the offset of the
// tuning counted in.
func (t Tuning) Hz(s String, a4 float64) float64 {
	return t.Open(s).Hz(a4) * math.Exp2(t.Cents/1200)
}

// Retuned is what one string has to do to get from one tuning to another.
type Retuned struct {
	String    String
	From, To  pitch.Spelled
	Semitones float64 // up where above 0; whole unless an offset is part of it
	Tension   float64 // change of tension, percent: (f2/f1)² − 1
	Hz        float64 // to tune to
}

// CautionKind is what to watch out for when strings are retuned.
type CautionKind uint8

// The kinds of cautions.
const (
	GoesUp      CautionKind = iota // String goes up Semitones: it may snap
	AllUp                          // all strings go up beyond the usual tension
	SlightlyUp                     // the same by less than a half step
	BackToUsual                    // all strings go up, back to the usual tension
	Slack                          // a string goes Semitones down: it rattles
	Floating                       // a floating bridge moves them all
	DownFirst                      // those that go down come first
	CapoInstead                    // the same sound from Tuning with a capo at fret Capo
)

// Caution is something to watch out for. Which fields are set depends on its
// kind.
type Caution struct {
	Kind      CautionKind
	String    String
	Semitones float64
	Tension   float64 // percent
	Tuning    string
	Capo      int
}

// slackFrom is by how many semitones a string goes down before it is slack.
const slackFrom = 4

// Retune lists what every string has to do to get from one tuning to another,
// thick strings first, and what to watch out for. Going back to the usual pitch
// does not bend the neck.
func Retune(from, to Tuning, a4 float64) (strings [Strings]Retuned, cautions []Caution) {
	const least = 1e-9
	a, b := from.Spelled(), to.Spelled()
	up, beyond, moved, most, lowest := 0, 0, 0, 0.0, 0.0
	for i := range strings {
		s := StringAt(i)
		f1, f2 := from.Hz(s, a4), to.Hz(s, a4)
		r := Retuned{String: s, From: a[i], To: b[i], Hz: f2,
			Semitones: 12 * math.Log2(f2/f1), Tension: 100 * ((f2/f1)*(f2/f1) - 1)}
		if math.Abs(r.Semitones) < least {
			r.Semitones, r.Tension = 0, 0
		} else {
			moved++
		}
		over := 12 * math.Log2(f2/Standard.Hz(s, a4)) // the usual pitch
		if r.Semitones > 0 {
			up++
		}
		if r.Semitones > 0 && over > least {
			beyond++
		}
		most, lowest = max(most, r.Semitones), min(lowest, r.Semitones)
		strings[i] = r
		if r.Semitones >= 2-least {
			cautions = append(cautions, Caution{Kind: GoesUp, String: s, Semitones: round2(r.Semitones), Tension: r.Tension})
		}
	}
	switch {
	case up == Strings && beyond == 0:
		cautions = append(cautions, Caution{Kind: BackToUsual})
	case up == Strings && most >= 1-least:
		cautions = append(cautions, Caution{Kind: AllUp})
	case up == Strings:
		cautions = append(cautions, Caution{Kind: SlightlyUp})
	}
	if lowest <= -slackFrom+least {
		cautions = append(cautions, Caution{Kind: Slack, Semitones: round2(lowest)})
	}
	if beyond > 0 && most >= 1-least {
		if c, ok := capoInstead(from, to); ok {
			cautions = append(cautions, c)
		}
	}
	if moved > 0 {
		cautions = append(cautions, Caution{Kind: Floating})
	}
	if most > 0 && up < moved {
		cautions = append(cautions, Caution{Kind: DownFirst})
	}
	return strings, cautions
}

// capoInstead finds a known tuning that sounds like another one with a capo, and
// for which no string goes up: open A is open G with a capo at fret 2.
func capoInstead(from, to Tuning) (Caution, bool) {
	const highest = 5
	for capo := 1; capo <= highest; capo++ {
		for _, k := range known {
			if k.t.Up(capo).open != to.open {
				continue
			}
			up := false
			for s := String(1); s <= Strings; s++ {
				up = up || k.t.Open(s) > from.Open(s)
			}
			if !up {
				return Caution{Kind: CapoInstead, Tuning: k.names[0], Capo: capo}, true
			}
		}
	}
	return Caution{}, false
}

func round2(v float64) float64 { return math.Round(v*100) / 100 }

// OffsetKind is what is odd about an offset.
type OffsetKind uint8

// The kinds of offsets.
const (
	Plain      OffsetKind = iota
	HalfSteps             // it is whole half steps
	OctaveSlip            // what is heard is the note in another octave, or nearly
	AtPitch               // it is not off at all
	OtherNote             // what is heard is another note
)

// OffsetNote is what to know of how far a record seems to be off.
type OffsetNote struct {
	Kind      OffsetKind
	Semitones int    // HalfSteps
	Heard     string // OctaveSlip, OtherNote: the note that is heard
	Cents     float64
}

// How far a record may be off and still be at pitch, in cents, and by how many half steps
// one is tuned or played at most: beyond that it is another note that is heard.
const (
	inTune        = 3
	mostHalfSteps = 3
)

// Odd says what is odd about a record that is off by so many cents from a note:
// nothing at all, whole half steps, an octave, or that it is another note.
func Odd(cents float64, note pitch.Spelled) OffsetNote {
	const near = 12
	if octaves := math.Round(cents / 1200); octaves != 0 && note.Valid() && math.Abs(cents-1200*octaves) < 150 {
		note.Octave += int(octaves)
		return OffsetNote{Kind: OctaveSlip, Heard: note.String(), Cents: math.Round(cents - 1200*octaves)}
	}
	n := math.Round(cents / 100)
	switch {
	case math.Abs(cents) < inTune:
		return OffsetNote{Kind: AtPitch}
	case math.Abs(n) > mostHalfSteps && note.Valid():
		heard := pitch.Key{}.Spell(note.Pitch() + pitch.Pitch(n))
		return OffsetNote{Kind: OtherNote, Heard: heard.String(), Cents: math.Round(cents - 100*n)}
	case n != 0 && math.Abs(cents-100*n) <= near:
		return OffsetNote{Kind: HalfSteps, Semitones: int(n)}
	}
	return OffsetNote{}
}

// Cents is how far a heard frequency lies from a note, in cents: above 0 it is
// sharp. hz must be above 0.
func Cents(hz float64, note pitch.Pitch, a4 float64) float64 {
	return 1200 * math.Log2(hz/note.Hz(a4))
}

// Rate is the speed at which a record that is off by so many cents sounds at
// concert pitch. Its tempo changes by the same factor.
func Rate(cents float64) float64 { return math.Exp2(-cents / 1200) }
