package neck

import (
	"fmt"
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

// Retune lists what every string has to do to get from one tuning to another,
// thick strings first, and what to watch out for.
func Retune(from, to Tuning, a4 float64) (strings [Strings]Retuned, warnings []string) {
	a, b := from.Spelled(), to.Spelled()
	up, moved, most := 0, 0, 0.0
	for i := range strings {
		s := StringAt(i)
		f1, f2 := from.Hz(s, a4), to.Hz(s, a4)
		r := Retuned{String: s, From: a[i], To: b[i], Hz: f2,
			Semitones: 12 * math.Log2(f2/f1), Tension: 100 * ((f2/f1)*(f2/f1) - 1)}
		if math.Abs(r.Semitones) < 1e-9 {
			r.Semitones, r.Tension = 0, 0
		} else {
			moved++
		}
		if r.Semitones > 0 {
			up++
		}
		most = max(most, r.Semitones)
		strings[i] = r
		if r.Semitones >= 2-1e-9 {
			warnings = append(warnings, fmt.Sprintf("the %s string goes up %g semitones, %.0f %% more tension: it can snap, keep the face away", s, round2(r.Semitones), r.Tension))
		}
	}
	if up == Strings {
		warnings = append(warnings, "all strings go up: that bends the neck; lighter strings, or a capo instead, are kinder to it")
	}
	if moved > 0 {
		warnings = append(warnings, "on a floating bridge each string moves the others: go round at least twice")
	}
	if most > 0 && up < Strings {
		warnings = append(warnings, "tune the strings that go down first, so that the neck is never pulled harder than in the end")
	}
	return strings, warnings
}

func round2(v float64) float64 { return math.Round(v*100) / 100 }

// Cents is how far a heard frequency lies from a note, in cents: above 0 it is
// sharp. hz must be above 0.
func Cents(hz float64, note pitch.Pitch, a4 float64) float64 {
	return 1200 * math.Log2(hz/note.Hz(a4))
}

// Rate is the speed at which a record that is off by so many cents sounds at
// concert pitch. Its tempo changes by the same factor.
func Rate(cents float64) float64 { return math.Exp2(-cents / 1200) }
