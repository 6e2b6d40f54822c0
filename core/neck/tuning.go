// Package neck holds the instrument: tunings, strings and frets as values, the
// pitches they give, and the distances on the neck in millimetres.
package neck

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"valleyside/core/pitch"
)

// MaxFret is the highest fret that a neck has here.
const MaxFret = 24

// String is a string of the guitar as players number it: 1 is the thinnest,
// 6 the thickest.
type String int

// Strings is how many strings a guitar has.
const Strings = 6

// names are what the strings are called in every tuning, from string 1.
var names = [Strings]string{"e", "B", "G", "D", "A", "E"}

// String names s as the sheet does: E A D G B e from the thickest.
func (s String) String() string {
	if s < 1 || s > Strings {
		return ""
	}
	return names[s-1]
}

// ParseString reads a string's name. Only the thinnest is a small letter.
func ParseString(name string) (String, bool) {
	for i, n := range names {
		if n == name {
			return String(i + 1), true
		}
	}
	return 0, false
}

// Index places s in a list that runs from low E (0) to high e (5).
func (s String) Index() int { return Strings - int(s) }

// StringAt is the inverse of Index.
func StringAt(index int) String { return String(Strings - index) }

// Tuning is what the open strings sound. It is a value: two tunings that
// sound alike are equal. The zero Tuning is not usable; Standard is the usual
// one.
type Tuning struct {
	open [Strings]pitch.Pitch // low E to high e, without the offset
	// Cents shifts every string alike, for records that sit off pitch.
	Cents float64
}

func open(low ...pitch.Pitch) (t Tuning) {
	copy(t.open[:], low)
	return t
}

// Standard is E A D G B E.
var Standard = open(40, 45, 50, 55, 59, 64)

// known lists the tunings that have a name, with the notes as players write
// them. The first name is the one that is written back.
var known = []struct {
	names []string
	notes string
	t     Tuning
}{
	{[]string{"standard"}, "E A D G B E", Standard},
	{[]string{"half step down", "half-step down"}, "Eb Ab Db Gb Bb Eb", open(39, 44, 49, 54, 58, 63)},
	{[]string{"whole step down", "whole-step down"}, "D G C F A D", open(38, 43, 48, 53, 57, 62)},
	{[]string{"drop D"}, "D A D G B E", open(38, 45, 50, 55, 59, 64)},
	{[]string{"drop C"}, "C G C F A D", open(36, 43, 48, 53, 57, 62)},
	{[]string{"open G"}, "D G D G B D", open(38, 43, 50, 55, 59, 62)},
	{[]string{"open D"}, "D A D F# A D", open(38, 45, 50, 54, 57, 62)},
	{[]string{"open A"}, "E A E A C# E", open(40, 45, 52, 57, 61, 64)},
	{[]string{"DADGAD", "D A D G A D"}, "D A D G A D", open(38, 45, 50, 55, 57, 62)},
}

// Known lists the names of the tunings that have one.
func Known() []string {
	list := make([]string, len(known))
	for i, k := range known {
		list[i] = k.names[0]
	}
	return list
}

// Parse reads a tuning: a name ("drop D") or six notes low to high
// ("D A D G B E"), and after it, where wanted, an offset ("-35 cents"). A note
// without an octave means the one nearest to the standard string. A capo that lies on
// some strings ("standard, capo 2 on A D G") makes a tuning of its own, the frets of those
// strings counted from it.
func Parse(s string) (Tuning, error) {
	if before, after, ok := strings.Cut(s, partly); ok {
		return parsePartial(before, after)
	}
	fields := strings.Fields(s)
	var cents float64
	if n := len(fields); n >= 2 && strings.EqualFold(strings.TrimSuffix(fields[n-1], "s"), "cent") {
		c, err := strconv.ParseFloat(strings.Replace(fields[n-2], "−", "-", 1), 64)
		if err != nil || math.IsNaN(c) || math.Abs(c) > 600 {
			return Tuning{}, pitch.Malformedf("write a number from -600 to 600, like -35 cents", "%q is not an offset", fields[n-2])
		}
		cents, fields = c, fields[:n-2]
		if len(fields) == 0 {
			fields = []string{"standard"}
		}
	}
	name := strings.Join(fields, " ")
	for _, k := range known {
		for _, n := range k.names {
			if strings.EqualFold(n, name) {
				t := k.t
				t.Cents = cents
				return t, nil
			}
		}
	}
	if notes := apart(fields); notes != nil {
		fields = notes
	}
	if len(fields) != Strings {
		if notes(fields) {
			return Tuning{}, pitch.Malformedf("write six, low to high, like D A D G B E", "tuning %q has %d notes", name, len(fields))
		}
		return Tuning{}, pitch.Malformedf("write six notes low to high, or one of: "+strings.Join(Known(), ", "), "tuning %q is not known", name)
	}
	t := Tuning{Cents: cents}
	for i, f := range fields {
		p, err := parseOpen(f, Standard.open[i])
		if err != nil {
			return Tuning{}, fmt.Errorf("tuning: %w", err)
		}
		t.open[i] = p
		if d := p - Standard.open[i]; d < -12 || d > mostRaised {
			return Tuning{}, pitch.Malformedf("it must lie between -12 and +7", "tuning: %s, note %d of six, is %+d semitones from standard", f, i+1, d)
		}
	}
	return t, nil
}

// partly begins a capo that lies on some strings.
const partly = "capo "

// mostRaised is how far above standard a string is tuned.
const mostRaised = 7

// parsePartial reads a tuning with a capo on some strings: what stands before the capo,
// and its fret and strings.
func parsePartial(before, after string) (Tuning, error) {
	before = strings.TrimSpace(strings.TrimSuffix(strings.TrimRight(strings.TrimSpace(before), ","), "with"))
	if before == "" {
		before = known[0].names[0]
	}
	t, err := Parse(before)
	if err != nil {
		return t, err
	}
	at, on, _ := strings.Cut(after, " on ")
	fret, err := strconv.Atoi(strings.TrimSpace(at))
	list := strings.Fields(strings.NewReplacer(",", " ", "and", " ").Replace(on))
	if len(list) == 1 {
		list = strings.Split(list[0], "")
	}
	bad := pitch.Malformedf("write it like standard, capo 2 on A D G; one that lies on all strings is a line of its own, capo: 2", "%q is no capo on some strings", partly+after)
	if err != nil || fret < 1 || len(list) == 0 {
		return t, bad
	}
	for _, name := range list {
		s, ok := ParseString(name)
		if !ok {
			return t, bad
		}
		if t.open[s.Index()] += pitch.Pitch(fret); t.open[s.Index()]-Standard.open[s.Index()] > mostRaised {
			return t, pitch.Malformedf("it must lie between -12 and +7", "tuning: the %s string is %+d semitones from standard with that capo", s, t.open[s.Index()]-Standard.open[s.Index()])
		}
	}
	return t, nil
}

// apart takes notes apart that are written without spaces, as in DADGBE; nil
// where that is not what they are.
func apart(fields []string) []string {
	if len(fields) != 1 {
		return nil
	}
	var list []string
	for rest := fields[0]; rest != ""; {
		n, after := pitch.CutNote(strings.ToUpper(rest[:1]) + rest[1:])
		if !n.Valid() {
			return nil
		}
		list, rest = append(list, n.String()), after
	}
	if len(list) < 4 {
		return nil
	}
	return list
}

// notes tells whether all of some words are notes.
func notes(fields []string) bool {
	for _, f := range fields {
		if _, err := pitch.ParseNote(f); err != nil {
			return false
		}
	}
	return len(fields) > 1
}

// parseOpen reads one open string, with its octave or nearest to usual.
func parseOpen(s string, usual pitch.Pitch) (pitch.Pitch, error) {
	if s != "" && s[0] >= 'a' && s[0] <= 'g' {
		s = strings.ToUpper(s[:1]) + s[1:]
	}
	if strings.ContainsAny(s, "0123456789") {
		p, err := pitch.ParseSpelled(s)
		if err != nil {
			return 0, err
		}
		return p.Pitch(), nil
	}
	n, err := pitch.ParseNote(s)
	if err != nil {
		return 0, err
	}
	// Nearest to the usual pitch; a tritone away is taken as down.
	d := ((n.Class()-usual.Class()+6)%12+12)%12 - 6
	return usual + pitch.Pitch(d), nil
}

// String writes t so that Parse reads it back: its name, or else its notes,
// and the offset.
func (t Tuning) String() string {
	var b strings.Builder
	b.WriteString(t.name())
	if t.Cents != 0 {
		fmt.Fprintf(&b, " %s cents", strconv.FormatFloat(t.Cents, 'f', -1, 64))
	}
	return b.String()
}

func (t Tuning) name() string {
	for _, k := range known {
		if k.t.open == t.open {
			return k.names[0]
		}
	}
	notes := make([]string, Strings)
	for i, s := range t.Spelled() {
		notes[i] = s.Note.String()
		if p, err := parseOpen(notes[i], Standard.open[i]); err != nil || p != t.open[i] {
			notes[i] = s.String()
		}
	}
	return strings.Join(notes, " ")
}

// Open is the pitch of the open string s, without the offset in cents.
func (t Tuning) Open(s String) pitch.Pitch { return t.open[s.Index()] }

// Pitch is what string s gives at a fret.
func (t Tuning) Pitch(s String, fret int) pitch.Pitch { return t.open[s.Index()] + pitch.Pitch(fret) }

// Fret is where string s gives the pitch p. It may lie off the neck: below 0
// or above MaxFret.
func (t Tuning) Fret(s String, p pitch.Pitch) int { return int(p - t.open[s.Index()]) }

// Up is t with every string raised by n semitones, as a capo at fret n does.
func (t Tuning) Up(n int) Tuning {
	for i := range t.open {
		t.open[i] += pitch.Pitch(n)
	}
	return t
}

// Moved is by how many semitones the tuning is standard, or drop D, moved as a whole,
// and which of the two; the tuning itself and 0 where its strings are moved unlike each
// other.
func (t Tuning) Moved() (from Tuning, by int) {
	for _, from := range wholes {
		if by := int(t.open[0] - from.open[0]); from.Up(by).open == t.open {
			from.Cents = t.Cents
			return from, by
		}
	}
	return t, 0
}

// wholes are the tunings of which others are known as moved.
var wholes = []Tuning{Standard, open(38, 45, 50, 55, 59, 64)}

// Spelled names the open strings, low E to high e.
func (t Tuning) Spelled() [Strings]pitch.Spelled {
	var out [Strings]pitch.Spelled
	var notes []string
	for _, k := range known {
		if k.t.open == t.open {
			notes = strings.Fields(k.notes)
		}
	}
	for i, p := range t.open {
		out[i] = pitch.Key{}.Spell(p)
		if notes != nil {
			n, _ := pitch.ParseNote(notes[i])
			out[i] = n.At(p)
		}
	}
	return out
}

// Letters writes the open strings as one line, low to high: "D A D G B E".
func (t Tuning) Letters() string {
	s := t.Spelled()
	parts := make([]string, Strings)
	for i := range s {
		parts[i] = s[i].Note.String()
	}
	return strings.Join(parts, " ")
}
