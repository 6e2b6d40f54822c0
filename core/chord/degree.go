package chord

import (
	"strconv"
	"strings"

	"valleyside/core/pitch"
)

// Degree is a step above the root of a chord, or above a tonic, as musicians
// write it: its number and how many semitones it is raised or, below 0, lowered
// from the major scale. b3 is {3, -1}, #11 is {11, 1}.
type Degree struct{ Number, Alter int8 }

// scale gives each number the semitones it has in a major scale.
var scale = [14]int{1: 0, 2: 2, 3: 4, 4: 5, 5: 7, 6: 9, 7: 11, 9: 2, 11: 5, 13: 9}

// known tells whether chords have a degree of that number.
func known(number int) bool {
	return number == 1 || number > 0 && number < len(scale) && scale[number] > 0
}

// Semitones is how far d lies above the root, 0 to 11.
func (d Degree) Semitones() int { return (scale[d.Number] + int(d.Alter) + 12) % 12 }

// Above is the note that lies d above a root, spelled by its letter.
func (d Degree) Above(root pitch.Note) pitch.Note {
	return root.Up(int(d.Number), scale[d.Number]+int(d.Alter))
}

// DegreeOf is the degree of a note above a tonic, by its letter: in C an F# is
// #4 and a Gb b5.
func DegreeOf(n, tonic pitch.Note) Degree {
	d := Degree{Number: int8((int(n.Letter)-int(tonic.Letter)+7)%7) + 1}
	d.Alter = int8((n.Class().Above(tonic.Class())-scale[d.Number]+18)%12 - 6)
	return d
}

// IsThird tells whether d is a third or stands in its place.
func (d Degree) IsThird() bool { return d.Number >= 2 && d.Number <= 4 }

// IsSeventh tells whether d is a seventh or the sixth in its place.
func (d Degree) IsSeventh() bool { return d.Number == 6 || d.Number == 7 }

func (d Degree) String() string {
	return strings.Repeat("b", int(max(-d.Alter, 0))) + strings.Repeat("#", int(max(d.Alter, 0))) + strconv.Itoa(int(d.Number))
}

// MarshalText writes d as in String, for JSON.
func (d Degree) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// Degrees writes a list with spaces between.
func Degrees(list []Degree) string {
	words := make([]string, len(list))
	for i, d := range list {
		words[i] = d.String()
	}
	return strings.Join(words, " ")
}
