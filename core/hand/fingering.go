// Package hand holds what two hands do on a guitar: which finger stops which
// string, how far they reach, what mutes the strings that must not sound, what
// a change from one shape to the next takes, and which way the pick moves.
package hand

import (
	"strconv"

	"valleyside/core/neck"
)

// Finger is a finger of the fretting hand. The zero Finger is none: the string
// is open or silent.
type Finger uint8

// The fingers.
const (
	None   Finger = 0
	Index  Finger = 1
	Middle Finger = 2
	Ring   Finger = 3
	Little Finger = 4
	Thumb  Finger = 5
)

// fingers is how many fingers there are, with one for None.
const fingers = Thumb + 1

func (f Finger) String() string {
	switch f {
	case None:
		return ""
	case Thumb:
		return "T"
	}
	return strconv.Itoa(int(f))
}

// Name is what a teacher calls the finger.
func (f Finger) Name() string {
	return [...]string{"no finger", "index", "middle", "ring", "little finger", "thumb"}[f]
}

// Fingering is a shape and the fingers that stop it, low E first. A string
// has a finger exactly where its fret is above 0. It is a value: comparable
// and safe to copy.
type Fingering struct {
	Frets   neck.Frets
	Fingers [neck.Strings]Finger
}

// Silent is the fingering in which nothing sounds.
var Silent = Fingering{Frets: neck.NoFrets}

// Single is one note, stopped by one finger or open.
func Single(s neck.String, fret int, by Finger) Fingering {
	f := Silent
	f.Frets[s.Index()] = int8(fret)
	if fret > 0 {
		f.Fingers[s.Index()] = by
	}
	return f
}

// Fretted tells whether any finger is down.
func (f Fingering) Fretted() bool { return f.Fingers != [neck.Strings]Finger{} }

// Count is how many fingers are down; a barre counts as one.
func (f Fingering) Count() int {
	var seen [fingers]bool
	n := 0
	for _, finger := range f.Fingers {
		if finger != None && !seen[finger] {
			seen[finger] = true
			n++
		}
	}
	return n
}

// Uses tells whether a finger is down.
func (f Fingering) Uses(finger Finger) bool {
	for _, by := range f.Fingers {
		if by == finger {
			return true
		}
	}
	return false
}

// Sounding is how many strings sound.
func (f Fingering) Sounding() int {
	n := 0
	for _, fret := range f.Frets {
		if fret >= 0 {
			n++
		}
	}
	return n
}

// Barre is the fret and the number of strings that a single finger lies
// across. strings is 0 where no finger stops more than one.
func (f Fingering) Barre() (fret, strings int) {
	for finger := Index; finger <= Little; finger++ {
		first, last := -1, -1
		for i, by := range f.Fingers {
			if by == finger {
				if first < 0 {
					first = i
				}
				last = i
			}
		}
		if last > first && last-first+1 > strings {
			fret, strings = int(f.Frets[first]), last-first+1
		}
	}
	return fret, strings
}

// Base is the fret at which the index finger lies or would lie, at least 1;
// 0 where no finger is down, since the hand may then be anywhere.
func (f Fingering) Base() int {
	base := 0
	for i, by := range f.Fingers {
		if by == None || by == Thumb {
			continue
		}
		b := max(int(f.Frets[i])-int(by)+1, 1)
		if by == Index {
			return b
		}
		if base == 0 || b < base {
			base = b
		}
	}
	return base
}

// Reach is the widest distance between two fretted notes on a neck, in mm,
// measured on a straight line. The thumb lies on the other side of the neck
// and does not count.
func (f Fingering) Reach(n neck.Neck) float64 {
	widest := 0.0
	for i := range f.Frets {
		for j := i + 1; j < neck.Strings; j++ {
			a, b := f.Fingers[i], f.Fingers[j]
			if a != None && b != None && a != Thumb && b != Thumb && a != b {
				d := n.Distance(neck.StringAt(i), int(f.Frets[i]), neck.StringAt(j), int(f.Frets[j]))
				widest = max(widest, d)
			}
		}
	}
	return widest
}

// spread is the share of a hand's reach that two fingers can span along the
// neck: index and little finger all of it, neighbours much less.
var spread = [Thumb][Thumb]float64{
	Index:  {Middle: 0.55, Ring: 0.8, Little: 1},
	Middle: {Ring: 0.4, Little: 0.65},
	Ring:   {Little: 0.45},
}

// Spread is how much of what two fingers can span along the neck the widest
// pair needs: 0 where all lie at one fret, 1 at the limit of a hand with that
// reach in mm.
func (f Fingering) Spread(n neck.Neck, reach float64) float64 {
	worst := 0.0
	for i, a := range f.Fingers {
		if a == None || a == Thumb {
			continue
		}
		for j, b := range f.Fingers {
			if b > a && b != Thumb {
				worst = max(worst, n.Along(int(f.Frets[i]), int(f.Frets[j]))/(reach*spread[a][b]))
			}
		}
	}
	return worst
}

// Playable tells whether a player's hand can hold f: within the reach, no two
// fingers further apart than they spread, and only what the player uses.
func (f Fingering) Playable(p Player) bool {
	if p.NoLittle && f.Uses(Little) || !p.Thumb && f.Uses(Thumb) {
		return false
	}
	if p.NoBarre {
		if _, strings := f.Barre(); strings > 0 {
			return false
		}
	}
	n := p.Neck()
	return f.Reach(n) <= p.Reach && f.Spread(n, p.Reach) <= 1
}

// Lowest and Highest are the thickest and the thinnest string that sounds, 0
// where none does.
func (f Fingering) Lowest() neck.String {
	for i, fret := range f.Frets {
		if fret >= 0 {
			return neck.StringAt(i)
		}
	}
	return 0
}

// Highest is the thinnest string that sounds, 0 where none does.
func (f Fingering) Highest() neck.String {
	for i := neck.Strings - 1; i >= 0; i-- {
		if f.Frets[i] >= 0 {
			return neck.StringAt(i)
		}
	}
	return 0
}

// Inside is how many silent strings lie between strings that sound.
func (f Fingering) Inside() int {
	low, high := f.Lowest(), f.Highest()
	if low == 0 {
		return 0
	}
	return int(low-high) + 1 - f.Sounding()
}
