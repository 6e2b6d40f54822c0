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
	Goal    string    // LeadsTo and StandsFor: the chord that follows, or would
	For     string    // StandsFor: the dominant in whose place it stands
	Key     pitch.Key // LeadingNote, DorianFour, Parallel and FromMode
	Chord   string
	// Dominant tells that a chord that leads does so as a dominant.
	Dominant bool
}

// Any tells whether anything is borrowed.
func (b Borrowed) Any() bool { return len(b.Foreign) > 0 }

// borrowed says what a chord has that the key has not. next is the chord after
// it, the zero Chord where there is none.
func borrowed(c, next chord.Chord, key pitch.Key) Borrowed {
	b := Borrowed{Chord: c.Symbol}
	for _, t := range c.Tones {
		if key.Contains(t.Class()) {
			continue
		}
		own := key.Tonic
		for _, n := range key.Scale() {
			if n.Letter == t.Note.Letter {
				own = n
			}
		}
		b.Foreign = append(b.Foreign, Foreign{t.Note, own})
	}
	if b.Any() {
		b.trace(c, next, key)
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
// explanation first.
func (b *Borrowed) trace(c, next chord.Chord, key pitch.Key) {
	tonic := key.Tonic.Class()
	above := c.Root.Class().Above(tonic)
	minorish := !key.Contains(tonic.Up(4))
	major, seven := c.Has(4), c.Has(10)
	diminished := c.Has(3) && c.Has(6)
	follows := func(class pitch.Class) bool { return next.Root.Valid() && next.Root.Class() == class }
	fifthBelow := c.Root.Class().Up(5)
	parallel := pitch.Key{Tonic: key.Tonic, Mode: pitch.Minor}
	if minorish {
		parallel.Mode = pitch.Major
	}
	within := c.Classes().In(setOf(parallel))
	switch {
	case minorish && (above == 7 && major || above == 11 && diminished):
		b.Origin, b.Key = LeadingNote, key
	case diminished && !c.Has(10) && b.leads(c, next, key):
	case minorish && above == 5 && major && !c.Has(11) && !follows(fifthBelow):
		b.Origin, b.Key = DorianFour, key
	case major && seven && next.Root.Valid() && follows(c.Root.Class().Up(-1)):
		b.Origin, b.Goal = StandsFor, triad(next)
		b.For = key.SpellClass(c.Root.Class().Up(6)).String() + "7"
	case major && !c.Has(11) && fifthBelow != tonic && key.Contains(fifthBelow) && (follows(fifthBelow) || above != 0 && above != 5 && (seven || !within)):
		b.Origin, b.Dominant, b.Goal = LeadsTo, true, goal(fifthBelow, next, key)
	case major && seven && (above == 0 || above == 5) && !minorish:
		b.Origin = BluesSeven
	case major && !seven && above == 1:
		b.Origin = Neapolitan
	case within || c.Classes().In(harmonic(parallel)):
		b.Origin, b.Key = Parallel, parallel
	default:
		for _, mode := range []pitch.Mode{pitch.Mixolydian, pitch.Dorian, pitch.Lydian, pitch.Phrygian} {
			if k := (pitch.Key{Tonic: key.Tonic, Mode: mode}); c.Classes().In(setOf(k)) {
				b.Origin, b.Key = FromMode, k
				return
			}
		}
	}
}

// leads finds the chord that a diminished chord leads to: the next one where it
// lies a half step above one of its tones, or that of the key above its root.
func (b *Borrowed) leads(c, next chord.Chord, key pitch.Key) bool {
	to := c.Root.Class().Up(1)
	if c.Has(9) && next.Root.Valid() && c.Classes().Has(next.Root.Class().Up(-1)) {
		to = next.Root.Class()
	}
	if !key.Contains(to) {
		return false
	}
	b.Origin, b.Goal = LeadsTo, goal(to, next, key)
	return true
}

// goal names the chord on a step: the next one where it is that, or else the
// triad that the key has there.
func goal(class pitch.Class, next chord.Chord, key pitch.Key) string {
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
