// Package hand holds what two hands do on a guitar: which finger stops which
// string, how far they reach, what mutes the strings that must not sound, and
// which way the pick moves.
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

// Player is a student's hand and instrument, as far as a version is made for
// them. Zero fields mean the usual.
type Player struct {
	Reach          float64 // widest distance between two fretted notes, mm
	Scale          float64 // scale length, mm
	NotesPerSecond float64 // comfortable picking speed
	Capo           int
	LeftHanded     bool
}

// What a player has where nothing else is said.
const (
	UsualReach          = 120.0
	UsualNotesPerSecond = 6.0
)

// Usual fills the zero fields of p.
func (p Player) Usual() Player {
	if p.Reach <= 0 {
		p.Reach = UsualReach
	}
	if p.Scale <= 0 {
		p.Scale = neck.UsualScale
	}
	if p.NotesPerSecond <= 0 {
		p.NotesPerSecond = UsualNotesPerSecond
	}
	return p
}

// Neck is the neck that p plays on.
func (p Player) Neck() neck.Neck { return neck.Neck{Scale: p.Scale, Capo: p.Capo} }

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
	var seen [Thumb + 1]bool
	n := 0
	for _, finger := range f.Fingers {
		if finger != None && !seen[finger] {
			seen[finger] = true
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
		if base == 0 || by == Index || b < base {
			base = b
		}
		if by == Index {
			return b
		}
	}
	return base
}

// Reach is the widest distance between two fretted notes on a neck, in mm,
// measured on a straight line.
func (f Fingering) Reach(n neck.Neck) float64 {
	widest := 0.0
	for i := range f.Frets {
		for j := i + 1; j < neck.Strings; j++ {
			if f.Frets[i] > 0 && f.Frets[j] > 0 && f.Fingers[i] != f.Fingers[j] {
				d := n.Distance(neck.StringAt(i), int(f.Frets[i]), neck.StringAt(j), int(f.Frets[j]))
				widest = max(widest, d)
			}
		}
	}
	return widest
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

// Fingerings lists every way in which four fingers can stop a shape: fingers
// in the order of the frets, on one fret in the order of the strings from the
// thick side, or as a barre where nothing below it has to sound. It is empty
// where four fingers are not enough.
func Fingerings(frets neck.Frets) []Fingering {
	var order []int // string indexes by fret, then from the thick side
	for fret := int8(1); fret <= neck.MaxFret; fret++ {
		for i, f := range frets {
			if f == fret {
				order = append(order, i)
			}
		}
	}
	var found []Fingering
	var assign func(k int, f Fingering)
	assign = func(k int, f Fingering) {
		if k == len(order) {
			found = append(found, f)
			return
		}
		i := order[k]
		lowest := Index
		if k > 0 {
			prev := order[k-1]
			last := f.Fingers[prev]
			lowest = last + 1
			if frets[prev] == frets[i] && barreFits(frets, prev, i) {
				g := f
				g.Fingers[i] = last
				assign(k+1, g)
			}
		}
		for finger := lowest; finger <= Little; finger++ {
			// A finger more than one place further than its fret is a
			// knot, not a fingering.
			if k > 0 {
				first := order[0]
				if int(finger-f.Fingers[first]) > int(frets[i]-frets[first])+k {
					break
				}
			}
			g := f
			g.Fingers[i] = finger
			assign(k+1, g)
		}
	}
	assign(0, Fingering{Frets: frets})
	return found
}

// barreFits tells whether one finger can lie across the strings from i to j:
// those between must sound at its fret or above.
func barreFits(frets neck.Frets, i, j int) bool {
	for k := i + 1; k < j; k++ {
		if frets[k] < frets[i] {
			return false
		}
	}
	return true
}

// Mute is a string that must not sound, and what stops it.
type Mute struct {
	String neck.String `json:"string"`
	By     string      `json:"by"`
}

// Mutes lists what stops each string that f leaves silent, thick strings
// first. Nothing is listed where no string sounds.
func (f Fingering) Mutes() []Mute {
	low, high := f.Lowest(), f.Highest()
	if low == 0 {
		return nil
	}
	var mutes []Mute
	for i, fret := range f.Frets {
		if fret >= 0 {
			continue
		}
		s := neck.StringAt(i)
		m := Mute{String: s}
		switch {
		case s < low && s > high:
			m.By = "index leaning on it"
			if by := f.below(i); by > Index {
				m.By = by.Name() + " leaning on it"
			} else if by == None {
				m.By = "the fretting finger next to it"
			}
		case s == low+1 && f.Frets.On(low) > 0:
			m.By = "tip of the " + f.Fingers[low.Index()].Name()
		case s > low && f.Frets.On(low) == 0:
			m.By = "thumb over the top"
		case s > low:
			m.By = "palm"
		case f.Fretted():
			m.By = "underside of the index"
		default:
			m.By = "fretting hand lying flat"
		}
		mutes = append(mutes, m)
	}
	return mutes
}

// below is the finger on the nearest thicker string that sounds.
func (f Fingering) below(index int) Finger {
	for i := index - 1; i >= 0; i-- {
		if f.Frets[i] >= 0 {
			return f.Fingers[i]
		}
	}
	return None
}
