// Package pitch holds the values music is spelled with: sounding pitches, note
// names, octaves, keys and the fractions that time is counted in. Everything
// here is a small comparable value with no state.
package pitch

import (
	"math"
	"strconv"
	"strings"
)

// Pitch is a sounding pitch in semitones of equal temperament, numbered as in
// MIDI: C4 (middle C) is 60 and A4 is 69.
type Pitch int

// Hz is the frequency of p where A4 sounds at a4 hertz (usually 440).
func (p Pitch) Hz(a4 float64) float64 { return a4 * math.Exp2(float64(p-69)/12) }

// Class is the pitch class of p.
func (p Pitch) Class() Class { return Class(mod(int(p), 12)) }

// Note is a spelled pitch class: a letter and its sharps or flats. The zero
// Note is invalid and stands for "none".
type Note struct {
	Letter     byte // 'A' to 'G'
	Accidental int8 // +1 for each sharp, −1 for each flat
}

// natural gives the pitch class of each letter, A first.
var natural = [7]int{9, 11, 0, 2, 4, 5, 7}

// Valid tells whether n names a note at all.
func (n Note) Valid() bool { return n.Letter >= 'A' && n.Letter <= 'G' }

// Class is the pitch class of n.
func (n Note) Class() Class { return Class(mod(natural[n.Letter-'A']+int(n.Accidental), 12)) }

// Awkward tells whether n is a name that players do not use where no key asks
// for it: with a double sign, or B#, E#, Cb or Fb.
func (n Note) Awkward() bool {
	switch {
	case n.Accidental < -1, n.Accidental > 1:
		return true
	case n.Accidental > 0:
		return n.Letter == 'B' || n.Letter == 'E'
	case n.Accidental < 0:
		return n.Letter == 'C' || n.Letter == 'F'
	}
	return false
}

// String writes n with # and b signs: "F#", "Bb", "C".
func (n Note) String() string {
	if !n.Valid() {
		return ""
	}
	if i := int(n.Accidental) + mostSigns; i >= 0 && i <= 2*mostSigns {
		return written[n.Letter-'A'][i]
	}
	return n.spelt()
}

// mostSigns is how many signs a note has before it is written anew each time.
const mostSigns = 2

// written are the notes with few signs, by letter and sign.
var written = func() (all [7][2*mostSigns + 1]string) {
	for letter := range all {
		for i := range all[letter] {
			all[letter][i] = Note{byte('A' + letter), int8(i - mostSigns)}.spelt()
		}
	}
	return all
}()

func (n Note) spelt() string {
	sign, count := "#", int(n.Accidental)
	if count < 0 {
		sign, count = "b", -count
	}
	return string(n.Letter) + strings.Repeat(sign, count)
}

// MarshalText writes n as in String, for JSON.
func (n Note) MarshalText() ([]byte, error) { return []byte(n.String()), nil }

// UnmarshalText reads what MarshalText wrote.
func (n *Note) UnmarshalText(text []byte) (err error) {
	if len(text) == 0 {
		*n = Note{}
		return nil
	}
	*n, err = ParseNote(string(text))
	return err
}

// ParseNote reads a note name: a letter A to G and up to two sharps or flats,
// as # b or as signs.
func ParseNote(s string) (Note, error) {
	n, rest := CutNote(s)
	if !n.Valid() || rest != "" {
		return Note{}, Malformedf("write a letter A to G with # or b, like F# or Bb", "%q is not a note name", s)
	}
	return n, nil
}

// CutNote reads a note name from the start of s and returns what follows it.
// The Note is invalid where s does not start with one.
func CutNote(s string) (Note, string) {
	if s == "" || s[0] < 'A' || s[0] > 'G' {
		return Note{}, s
	}
	n := Note{Letter: s[0]}
	s = s[1:]
	for range 2 {
		switch {
		case strings.HasPrefix(s, "#") && n.Accidental >= 0:
			n.Accidental, s = n.Accidental+1, s[1:]
		case strings.HasPrefix(s, "♯") && n.Accidental >= 0:
			n.Accidental, s = n.Accidental+1, s[len("♯"):]
		case strings.HasPrefix(s, "b") && n.Accidental <= 0:
			n.Accidental, s = n.Accidental-1, s[1:]
		case strings.HasPrefix(s, "♭") && n.Accidental <= 0:
			n.Accidental, s = n.Accidental-1, s[len("♭"):]
		}
	}
	return n, s
}

// fifths places n on the line of fifths: F −1, C 0, G 1 … B 5, F# 6, Bb −2.
func (n Note) fifths() int {
	line := [7]int{3, 5, 0, 2, 4, -1, 1} // A B C D E F G
	return line[n.Letter-'A'] + 7*int(n.Accidental)
}

// noteAtFifth is the inverse of fifths.
func noteAtFifth(f int) Note {
	letters := "FCGDAEB"
	i := mod(f+1, 7)
	return Note{Letter: letters[i], Accidental: int8((f + 1 - i) / 7)}
}

// Up returns the note that lies an interval above n: degree letters up (1 is
// the same letter, 3 a third, 5 a fifth, counting past the octave) and
// semitones in pitch. Up(3, 3) of C is Eb, Up(2, 3) is D#.
func (n Note) Up(degree, semitones int) Note {
	letter := byte('A' + mod(int(n.Letter-'A')+degree-1, 7))
	up := Note{Letter: letter}
	diff := mod(semitones-up.Class().Above(n.Class())+6, 12) - 6
	up.Accidental = int8(diff)
	return up
}

// Spelled is a note in an octave, in scientific notation: F#3, Bb2. The octave
// belongs to the letter, so Cb4 sounds as B3.
type Spelled struct {
	Note
	Octave int
}

// Pitch is the sounding pitch of s.
func (s Spelled) Pitch() Pitch {
	return Pitch(12*(s.Octave+1) + natural[s.Letter-'A'] + int(s.Accidental))
}

func (s Spelled) String() string {
	if !s.Valid() {
		return ""
	}
	return s.Note.String() + strconv.Itoa(s.Octave)
}

// MarshalText writes s as in String, for JSON.
func (s Spelled) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText reads what MarshalText wrote.
func (s *Spelled) UnmarshalText(text []byte) (err error) {
	*s, err = ParseSpelled(string(text))
	return err
}

// ParseSpelled reads a note with its octave, such as "F#3".
func ParseSpelled(s string) (Spelled, error) {
	n, rest := CutNote(s)
	octave, err := strconv.Atoi(rest)
	if !n.Valid() || err != nil || octave < -1 || octave > 9 {
		return Spelled{}, Malformedf("write a note and its octave, like F#3", "%q is not a pitch", s)
	}
	return Spelled{Note: n, Octave: octave}, nil
}

// At puts n into the octave in which it sounds as p. The caller sees to it
// that n and p have the same class.
func (n Note) At(p Pitch) Spelled {
	octave := (int(p)-natural[n.Letter-'A']-int(n.Accidental))/12 - 1
	return Spelled{Note: n, Octave: octave}
}

func mod(a, n int) int { return ((a % n) + n) % n }
