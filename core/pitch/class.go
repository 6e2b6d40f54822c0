package pitch

import (
	"iter"
	"math/bits"
)

// Class is a pitch class: 0 is C, 11 is B. Arithmetic on it goes round.
type Class int

// Up is the class a number of semitones above c, or below it.
func (c Class) Up(semitones int) Class { return Class(mod(int(c)+semitones, 12)) }

// Above is how many semitones c lies above another class, 0 to 11.
func (c Class) Above(root Class) int { return mod(int(c-root), 12) }

// Set is a set of pitch classes. It is a value; the zero Set is empty.
type Set uint16

// SetOf is the set of some classes.
func SetOf(classes ...Class) (s Set) {
	for _, c := range classes {
		s = s.With(c)
	}
	return s
}

// With is s and c.
func (s Set) With(c Class) Set { return s | 1<<mod(int(c), 12) }

// Without is s but for c.
func (s Set) Without(c Class) Set { return s &^ (1 << mod(int(c), 12)) }

// Minus is what of s is not in t.
func (s Set) Minus(t Set) Set { return s &^ t }

// Has tells whether c is in s.
func (s Set) Has(c Class) bool { return s&(1<<mod(int(c), 12)) != 0 }

// In tells whether all of s is in t.
func (s Set) In(t Set) bool { return s&^t == 0 }

// Len is how many classes s has.
func (s Set) Len() int { return bits.OnesCount16(uint16(s)) }

// From is s counted from a root: its class n is n semitones above the root.
func (s Set) From(root Class) Set {
	n := mod(int(root), 12)
	return (s>>n | s<<(12-n)) & 0xfff
}

// All goes through the classes of s from C upwards.
func (s Set) All() iter.Seq[Class] {
	return func(yield func(Class) bool) {
		for ; s != 0; s &= s - 1 {
			if !yield(Class(bits.TrailingZeros16(uint16(s)))) {
				return
			}
		}
	}
}
