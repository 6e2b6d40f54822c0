// Package harmony reads songs in their key: which key they are in, which
// numbers their chords have, what is borrowed and from where, and which scale a
// riff uses in which position.
package harmony

import (
	"valleyside/core/chord"
	"valleyside/core/pitch"
)

// Numbering is the way of numbering minor songs. The ways agree on all others,
// which are numbered from their own tonic.
type Numbering string

// The ways of numbering.
const (
	Relative Numbering = "relative" // from the relative major: the minor chord is 6
	Tonic    Numbering = "tonic"    // from the tonic: it is 1, the major a third above b3
	Roman    Numbering = "roman"    // the same in Roman numerals
)

// ParseNumbering reads the name of a way of numbering; nothing is Relative.
func ParseNumbering(s string) (Numbering, error) {
	switch Numbering(s) {
	case "", Relative:
		return Relative, nil
	case Tonic, Roman:
		return Numbering(s), nil
	}
	return "", pitch.Malformedf("use relative, tonic or roman", "%q is not a way of numbering", s)
}

// Number is a chord in its key.
type Number struct {
	Chord  chord.Chord
	Number string // the degree and the quality, such as "6m", "b7" or "5(7)"
	// Borrowed is what the key does not have; its zero value is nothing.
	Borrowed Borrowed
}

// Numbers numbers chords in a key by their letters: in C an F# is #4, a Gb b5.
// What stands around a chord may say where it comes from.
func Numbers(chords []chord.Chord, key pitch.Key, numbering Numbering) []Number {
	from := key.Tonic
	if numbering == Relative && key.Mode == pitch.Minor {
		from = key.Relative().Tonic
	}
	list := make([]Number, len(chords))
	in := around{chords: chords, key: key, blues: isBlues(chords, key)}
	for i, c := range chords {
		n := Number{Chord: c, Number: degree(c.Root, from, key).String() + suffix(c)}
		if c.Bass.Valid() {
			n.Number += "/" + degree(c.Bass, from, key).String()
		}
		if numbering == Roman {
			n.Number = roman(c, key)
		}
		n.Borrowed = in.borrowed(i)
		list[i] = n
	}
	return list
}

// degree is the number of a note above a tonic. One that is spelled far from
// the key is taken as the key spells it.
func degree(n, from pitch.Note, key pitch.Key) chord.Degree {
	d := chord.DegreeOf(n, from)
	if d.Alter < -1 || d.Alter > 1 {
		return chord.DegreeOf(key.SpellClass(n.Class()), from)
	}
	return d
}

// suffix is the quality of a chord as it is written after its number.
func suffix(c chord.Chord) string {
	s := c.Suffix()
	if s != "" && s[0] >= '0' && s[0] <= '9' {
		s = "(" + s + ")" // so that the 5 of a seventh chord does not read as 57
	}
	return s
}
