package neck

import "valleyside/core/pitch"

// Instrument is a guitar as it is played: its tuning without the capo, and the
// neck with it. It is a value. The zero Tuning is not usable.
type Instrument struct {
	Tuning Tuning
	Neck
}

// Open is what the open strings sound, the capo counted in.
func (in Instrument) Open() Tuning { return in.Tuning.Up(in.Capo) }

// Pitch is what a string sounds at a fret that is counted from the capo.
func (in Instrument) Pitch(s String, fret int) pitch.Pitch {
	return in.Tuning.Open(s) + pitch.Pitch(fret+in.Capo)
}

// Fret is where string s sounds p, counted from the capo; below 0 or above
// LastFret where it does not.
func (in Instrument) Fret(s String, p pitch.Pitch) int {
	return int(p-in.Tuning.Open(s)) - in.Capo
}

// Has tells whether string s sounds p on its neck.
func (in Instrument) Has(s String, p pitch.Pitch) bool {
	fret := in.Fret(s, p)
	return fret >= 0 && fret <= in.LastFret()
}

// Compass is the lowest and the highest note of the instrument.
func (in Instrument) Compass() (low, high pitch.Pitch) {
	low, high = in.Tuning.Open(6), in.Tuning.Open(6)
	for s := String(1); s < Strings; s++ {
		low, high = min(low, in.Tuning.Open(s)), max(high, in.Tuning.Open(s))
	}
	return low + pitch.Pitch(in.Capo), high + pitch.Pitch(MaxFret)
}

// Sounds lists what a shape sounds, low E first; silent strings are left out.
func (in Instrument) Sounds(f Frets) []pitch.Pitch {
	var list []pitch.Pitch
	for i, fret := range f {
		if fret >= 0 {
			list = append(list, in.Pitch(StringAt(i), int(fret)))
		}
	}
	return list
}

// Classes is the set of pitch classes of a shape, Lowest the one that sounds
// lowest, on whichever string; 0 where nothing sounds.
func (in Instrument) Classes(f Frets) (set pitch.Set, lowest pitch.Class) {
	low := pitch.Pitch(1 << 20)
	for i, fret := range f {
		if fret >= 0 {
			p := in.Pitch(StringAt(i), int(fret))
			set, low = set.With(p.Class()), min(low, p)
		}
	}
	if set == 0 {
		return 0, 0
	}
	return set, low.Class()
}

// StringSet is a set of strings. It is a value; the zero StringSet is empty.
type StringSet uint8

// With is the set and s.
func (t StringSet) With(s String) StringSet { return t | 1<<s }

// Has tells whether s is in the set.
func (t StringSet) Has(s String) bool { return t&(1<<s) != 0 }

// Open is the set of the strings that a shape lets sound open.
func (f Frets) Open() (set StringSet) {
	for i, fret := range f {
		if fret == 0 {
			set = set.With(StringAt(i))
		}
	}
	return set
}
