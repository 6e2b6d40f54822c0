package song

// Finger is a finger of the fretting hand that a note was given: 1 the index to 4 the
// little finger, 5 the thumb, 0 none.
type Finger uint8

// Pluck is the finger of the picking hand that plucks a note.
type Pluck uint8

// The fingers of the picking hand by the letters that they have in print.
const (
	NoPluck Pluck = iota
	PluckP        // the thumb
	PluckI        // the index
	PluckM        // the middle
	PluckA        // the ring finger
)

// Plucks are the letters of the picking hand, in the order of its fingers.
const Plucks = "pima"

// String is the letter of a finger; empty for none.
func (p Pluck) String() string {
	if p == NoPluck {
		return ""
	}
	return Plucks[p-1 : p]
}

// MarshalText writes the letter.
func (p Pluck) MarshalText() ([]byte, error) { return []byte(p.String()), nil }
