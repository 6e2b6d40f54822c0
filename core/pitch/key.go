package pitch

import (
	"strings"
)

// Mode is the scale that a key is built on.
type Mode string

// The modes a key can have. Ionian and aeolian are read as major and minor.
const (
	Major      Mode = "major"
	Minor      Mode = "minor"
	Dorian     Mode = "dorian"
	Phrygian   Mode = "phrygian"
	Lydian     Mode = "lydian"
	Mixolydian Mode = "mixolydian"
	Locrian    Mode = "locrian"
)

// modes gives, for each mode, the steps of its scale in semitones above the
// tonic, and how far the lowest note of the twelve that spell it lies below the
// tonic on the line of fifths.
var modes = map[Mode]struct {
	steps [7]int
	below int
}{
	Major:      {[7]int{0, 2, 4, 5, 7, 9, 11}, 5},
	Lydian:     {[7]int{0, 2, 4, 6, 7, 9, 11}, 5},
	Mixolydian: {[7]int{0, 2, 4, 5, 7, 9, 10}, 5},
	// Below a minor third the chromatic note between 4 and 5 is the flat
	// fifth of the blues, so the window starts one fifth lower.
	Minor:    {[7]int{0, 2, 3, 5, 7, 8, 10}, 6},
	Dorian:   {[7]int{0, 2, 3, 5, 7, 9, 10}, 6},
	Phrygian: {[7]int{0, 1, 3, 5, 7, 8, 10}, 6},
	Locrian:  {[7]int{0, 1, 3, 5, 6, 8, 10}, 6},
}

// Key is a tonic and a mode. The zero Key means that none is given; it spells
// with the accidentals a guitarist meets most: C# Eb F# G# Bb.
type Key struct {
	Tonic Note
	Mode  Mode
}

// Valid tells whether a key is given.
func (k Key) Valid() bool { return k.Tonic.Valid() }

func (k Key) String() string {
	if !k.Valid() {
		return ""
	}
	return k.Tonic.String() + " " + string(k.Mode)
}

// ParseKey reads a key as people write it: "A minor", "Am", "F# major", "Bb",
// "D dorian".
func ParseKey(s string) (Key, error) {
	tonic, rest := CutNote(strings.TrimSpace(s))
	if !tonic.Valid() {
		return Key{}, Malformedf("write a note and a mode, like A minor or Bb major", "%q is not a key", s)
	}
	if tonic.Accidental < -1 || tonic.Accidental > 1 {
		return Key{}, Malformedf("write the key with one sharp or flat at most", "%q has no key signature", s)
	}
	mode := Mode(strings.ToLower(strings.TrimSpace(rest)))
	switch mode {
	case "", "maj", "ionian":
		mode = Major
	case "m", "min", "aeolian":
		mode = Minor
		if strings.TrimSpace(rest) == "M" {
			mode = Major
		}
	}
	if _, ok := modes[mode]; !ok {
		return Key{}, Malformedf("use major, minor, dorian, phrygian, lydian, mixolydian or locrian", "%q is not a mode", strings.TrimSpace(rest))
	}
	return Key{Tonic: tonic, Mode: mode}, nil
}

// Scale lists the seven notes of k from its tonic.
func (k Key) Scale() [7]Note {
	var scale [7]Note
	for i, step := range modes[k.Mode].steps {
		scale[i] = k.Tonic.Up(i+1, step)
	}
	return scale
}

// Contains tells whether the pitch class belongs to the scale of k.
func (k Key) Contains(class Class) bool {
	for _, step := range modes[k.Mode].steps {
		if step == class.Above(k.Tonic.Class()) {
			return true
		}
	}
	return false
}

// SpellClass names a pitch class the way k does: notes of the key by their
// degree, the five others as the raised or lowered degree that is closest to
// the key on the line of fifths.
func (k Key) SpellClass(class Class) Note {
	first := -3 // Eb Bb F C G D A E B F# C# G#
	if k.Valid() {
		first = k.Tonic.fifths() - modes[k.Mode].below
	}
	for f := first; f < first+12; f++ {
		n := noteAtFifth(f)
		if n.Class() != class.Up(0) {
			continue
		}
		if k.Valid() && n.Awkward() && !k.Contains(class) {
			return Key{}.SpellClass(class) // no key asks for a Bbb or an E#
		}
		return n
	}
	panic("twelve fifths name every pitch class")
}

// Spell names a pitch the way k does.
func (k Key) Spell(p Pitch) Spelled { return k.SpellClass(p.Class()).At(p) }

// signs counts the sharps and flats of the key's scale; double ones count four
// times, so that they are avoided.
func (k Key) signs() int {
	n := 0
	for _, note := range k.Scale() {
		n += int(note.Accidental) * int(note.Accidental)
	}
	return n
}

// Transposed is k some semitones higher, spelled with the fewest signs; of two
// that have equally many the one with sharps. No key stays none.
func (k Key) Transposed(semitones int) Key {
	if !k.Valid() {
		return k
	}
	class := k.Tonic.Class().Up(semitones)
	best := Key{}
	for _, letter := range []byte("CDEFGAB") {
		for _, sign := range []int8{0, 1, -1} {
			at := Key{Note{letter, sign}, k.Mode}
			if at.Tonic.Class() != class {
				continue
			}
			if !best.Valid() || at.signs() < best.signs() || at.signs() == best.signs() && sign > 0 {
				best = at
			}
		}
	}
	return best
}

// Signature is how many sharps (above 0) or flats (below 0) the key has.
func (k Key) Signature() int {
	n := 0
	for _, note := range k.Scale() {
		n += int(note.Accidental)
	}
	return n
}

// Relative is the major key of the same notes, from which minor songs are
// numbered in one of two schools.
func (k Key) Relative() Key {
	scale := k.Scale()
	for _, n := range scale {
		major := Key{n, Major}
		same := true
		for _, m := range scale {
			same = same && major.Contains(m.Class())
		}
		if same {
			return major
		}
	}
	return k
}
