package harmony

import (
	"valleyside/core/chord"
	"valleyside/core/pitch"
)

// Origin is where a borrowed chord comes from or goes to.
type Origin uint8

// The origins.
const (
	Unknown     Origin = iota
	LeadingNote        // the dominant of a minor key with its raised seventh
	LeadsTo            // the dominant or the diminished chord below Goal
	TwoOf              // with the dominant For that follows the two of Goal
	StandsFor          // Goal's dominant, a tritone away; For is that dominant
	Neapolitan         // the major chord a half step above the tonic
	DorianFour         // the major 4 of a minor key
	BluesSeven         // the flat seventh on 1 or 4
	Parallel           // from Key, on the same tonic
	FromMode           // from the mode Key
)

// Foreign is a note that a key does not have, and the one that it has on the
// same letter.
type Foreign struct{ Note, Own pitch.Note }

// Borrowed is what a chord has that its key has not, and where it comes from.
type Borrowed struct {
	Foreign []Foreign // empty for a chord of the key
	Origin  Origin
	Goal    string    // LeadsTo, TwoOf and StandsFor: the chord that follows, or would
	For     string    // TwoOf and StandsFor: the dominant with which or in whose place it stands
	Key     pitch.Key // LeadingNote, DorianFour, Parallel and FromMode
	Chord   string
	// Dominant tells that a chord that leads does so as a dominant, Comes that its Goal
	// does follow.
	Dominant, Comes bool
}

// Any tells whether anything is borrowed.
func (b Borrowed) Any() bool { return len(b.Foreign) > 0 }

// around is a row of chords in a key.
type around struct {
	chords []chord.Chord
	key    pitch.Key
	blues  bool
}

// isBlues tells whether chords are a blues: sevenths on 1 and 4, and no tonic without
// one. None of its sevenths is foreign.
func isBlues(chords []chord.Chord, key pitch.Key) bool {
	one, four := false, false
	for _, c := range chords {
		switch above := c.Root.Class().Above(key.Tonic.Class()); {
		case above == 0 && !c.Has(10):
			return false
		case above == 0:
			one = one || c.Has(4)
		case above == 5:
			four = four || c.Has(4) && c.Has(10)
		}
	}
	return one && four
}

// next is the first chord after the i-th that is another one, and the one after that;
// the zero Chord where there is none.
func (in *around) next(i int) (next, after chord.Chord) {
	last := in.chords[i].Root.Class()
	for _, c := range in.chords[i+1:] {
		switch {
		case c.Root.Class() == last:
		case next.Root.Valid():
			return next, c
		default:
			next, last = c, c.Root.Class()
		}
	}
	return next, after
}

// borrowed says what the i-th chord has that the key has not.
func (in *around) borrowed(i int) Borrowed {
	c := in.chords[i]
	b := Borrowed{Chord: c.Symbol}
	for _, t := range c.Tones {
		above := c.Root.Class().Above(in.key.Tonic.Class())
		if in.key.Contains(t.Class()) || in.blues && t.Degree.Semitones() == 10 && (above == 0 || above == 5 || above == 7) {
			continue
		}
		own := in.key.Tonic
		for _, n := range in.key.Scale() {
			if n.Letter == t.Note.Letter {
				own = n
			}
		}
		b.Foreign = append(b.Foreign, Foreign{t.Note, own})
	}
	if b.Any() {
		next, after := in.next(i)
		b.trace(c, next, after, in.key)
	}
	return b
}

// harmonic is the parallel key with its leading note, as a set.
func harmonic(k pitch.Key) pitch.Set {
	set := setOf(k)
	if k.Mode == pitch.Minor {
		set = set.With(k.Tonic.Class().Up(11))
	}
	return set
}

func setOf(k pitch.Key) (s pitch.Set) {
	for _, n := range k.Scale() {
		s = s.With(n.Class())
	}
	return s
}

// trace finds where a borrowed chord comes from or goes to, the nearest
// explanation first. A chord leads only to what follows it.
func (b *Borrowed) trace(c, next, after chord.Chord, key pitch.Key) {
	tonic := key.Tonic.Class()
	above := c.Root.Class().Above(tonic)
	minorish := !key.Contains(tonic.Up(4))
	major, seven := c.Has(4), c.Has(10)
	diminished := c.Has(3) && c.Has(6)
	follows := func(c chord.Chord, class pitch.Class) bool { return c.Root.Valid() && c.Root.Class() == class }
	fifthBelow := c.Root.Class().Up(5)
	parallel := pitch.Key{Tonic: key.Tonic, Mode: pitch.Minor}
	if minorish {
		parallel.Mode = pitch.Major
	}
	within := c.Classes().In(setOf(parallel))
	// A dominant has its seventh, or is a triad that no mode on the tonic explains.
	dominant := major && !c.Has(11) && fifthBelow != tonic
	mode, moded := modeOf(c, key)
	switch {
	case minorish && (above == 7 && major || above == 11 && diminished):
		b.Origin, b.Key = LeadingNote, key
	case c.Has(3) && (seven || !diminished) && follows(next, fifthBelow) && next.Has(4) && next.Has(10) && fifthBelow.Up(5) != tonic:
		goal := fifthBelow.Up(5)
		b.Origin, b.For, b.Goal, b.Comes = TwoOf, next.Symbol, goalOf(goal, after, key), follows(after, goal)
	case diminished && !c.Has(10) && b.leads(c, next, key):
	case minorish && above == 5 && major && !c.Has(11) && !follows(next, fifthBelow):
		b.Origin, b.Key = DorianFour, key
	case major && seven && follows(next, c.Root.Class().Up(-1)):
		b.Origin, b.Goal = StandsFor, triad(next)
		b.For = key.SpellClass(c.Root.Class().Up(6)).String() + "7"
	case dominant && follows(next, fifthBelow) && (seven || key.Contains(fifthBelow)):
		b.Origin, b.Dominant, b.Comes, b.Goal = LeadsTo, true, true, goalOf(fifthBelow, next, key)
	case major && seven && (above == 0 || above == 5) && !minorish:
		b.Origin = BluesSeven
	case major && !seven && above == 1:
		b.Origin = Neapolitan
	case dominant && key.Contains(fifthBelow) && !within && (seven || !moded) && above != 0 && above != 5:
		b.Origin, b.Dominant, b.Goal = LeadsTo, true, goalOf(fifthBelow, next, key)
	case minorish && moded && mode.Mode == pitch.Dorian:
		b.Origin, b.Key = FromMode, mode
	case within || c.Classes().In(harmonic(parallel)):
		b.Origin, b.Key = Parallel, parallel
	case moded:
		b.Origin, b.Key = FromMode, mode
	}
}

// modeOf is the mode on the tonic of a key that has all notes of a chord; ok is false
// where none has.
func modeOf(c chord.Chord, key pitch.Key) (k pitch.Key, ok bool) {
	modes := []pitch.Mode{pitch.Mixolydian, pitch.Dorian, pitch.Lydian, pitch.Phrygian}
	if !key.Contains(key.Tonic.Class().Up(4)) {
		modes = []pitch.Mode{pitch.Dorian, pitch.Phrygian, pitch.Mixolydian, pitch.Lydian}
	}
	for _, mode := range modes {
		if k = (pitch.Key{Tonic: key.Tonic, Mode: mode}); c.Classes().In(setOf(k)) {
			return k, true
		}
	}
	return pitch.Key{}, false
}

// leads finds the chord that a diminished chord leads to: the next one where it
// lies a half step above one of its tones, or that of the key above its root.
func (b *Borrowed) leads(c, next chord.Chord, key pitch.Key) bool {
	to := c.Root.Class().Up(1)
	if c.Has(9) && next.Root.Valid() && c.Classes().Has(next.Root.Class().Up(-1)) {
		to = next.Root.Class()
	}
	if !key.Contains(to) && !(next.Root.Valid() && next.Root.Class() == to) {
		return false
	}
	b.Origin, b.Goal, b.Comes = LeadsTo, goalOf(to, next, key), next.Root.Valid() && next.Root.Class() == to
	return true
}

// goalOf names the chord on a step: the next one where it is that, or else the
// triad that the key has there.
func goalOf(class pitch.Class, next chord.Chord, key pitch.Key) string {
	if next.Root.Valid() && next.Root.Class() == class {
		return triad(next)
	}
	n := key.SpellClass(class).String()
	switch {
	case key.Contains(class.Up(4)):
		return n
	case key.Contains(class.Up(7)):
		return n + "m"
	}
	return n + "dim"
}

// triad names a chord without what stands above its triad.
func triad(c chord.Chord) string {
	if c.Has(3) && !c.Has(4) {
		return c.Root.String() + "m"
	}
	return c.Root.String()
}
