// Package hand holds what two hands do on a guitar: which finger stops which
// string, how far they reach, what mutes the strings that must not sound, what
// a change from one shape to the next takes, and which way the pick moves.
package hand

import (
	"math"
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

// Lifted is the fingering in which nothing sounds.
var Lifted = Fingering{Frets: neck.NoFrets}

// Single is one note, stopped by one finger or open.
func Single(s neck.String, fret int, by Finger) Fingering {
	f := Lifted
	f.Frets[s.Index()] = int8(fret)
	if fret > 0 {
		f.Fingers[s.Index()] = by
	}
	return f
}

// Fretted tells whether any finger is down.
func (f Fingering) Fretted() bool { return f.Fingers != [neck.Strings]Finger{} }

// Build is what a fingering is made of.
type Build struct {
	Count         int // fingers that are down; a barre counts as one
	Little, Thumb bool
	// BarreFret and BarreStrings are those of the longest barre; both are 0
	// where no finger stops more than one string. Barres is how many there are.
	BarreFret, BarreStrings, Barres int
}

// Build looks at all fingers at once.
func (f *Fingering) Build() Build {
	var b Build
	var first [fingers]int8 // index of the string, from 1
	var laid [fingers]bool
	for i, by := range f.Fingers {
		if by == None {
			continue
		}
		at := int8(i + 1)
		if first[by] == 0 {
			first[by] = at
			b.Count++
			continue
		}
		if !laid[by] {
			laid[by] = true
			b.Barres++
		}
		if strings := int(at-first[by]) + 1; strings > b.BarreStrings {
			b.BarreFret, b.BarreStrings = int(f.Frets[i]), strings
		}
	}
	b.Little, b.Thumb = first[Little] != 0, first[Thumb] != 0
	return b
}

// Count is how many fingers are down; a barre counts as one.
func (f Fingering) Count() int { return f.Build().Count }

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
	b := f.Build()
	return b.BarreFret, b.BarreStrings
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
	reach, _ := f.Span(n)
	return reach
}

// spread is the share of a hand's reach that two fingers can span along the
// neck: index and little finger all of it, neighbours much less; index and middle
// two frets at the nut, as in Eb xx1343, for a usual hand.
var spread = [Thumb][Thumb]float64{
	Index:  {Middle: 0.56, Ring: 0.8, Little: 1},
	Middle: {Ring: 0.4, Little: 0.65},
	Ring:   {Little: 0.45},
}

// Span is the Reach of f, and the reach that a hand needs to have so that no
// two of its fingers are further apart along the neck than they spread, both
// in mm.
func (f Fingering) Span(n neck.Neck) (reach, needed float64) {
	var r ruler
	r.measure(n, f.Frets)
	return r.span(&f)
}

// ruler holds where the strings of a shape are stopped, in mm along and across
// the neck.
type ruler struct{ x, y [neck.Strings]float64 }

func (r *ruler) measure(n neck.Neck, frets neck.Frets) {
	for i, fret := range frets {
		if fret > 0 {
			r.x[i], r.y[i] = n.Position(int(fret)), n.Across(neck.StringAt(i), int(fret))
		}
	}
}

// span is Fingering.Span for a shape that has been measured.
func (r *ruler) span(f *Fingering) (reach, needed float64) {
	h := Held{}
	for i, a := range f.Fingers {
		for j := i + 1; j < neck.Strings; j++ {
			if b := f.Fingers[j]; a != None && b != None && a != Thumb && b != Thumb && a != b {
				r.widen(&h, i, j, a, b)
			}
		}
	}
	return h.Reach, h.Needed
}

// widen makes a span as wide as two fingers on two strings need it.
func (r *ruler) widen(h *Held, i, j int, a, b Finger) {
	dx, dy := r.x[i]-r.x[j], r.y[i]-r.y[j]
	if square := dx*dx + dy*dy; square > h.Reach*h.Reach {
		h.Reach = math.Sqrt(square)
	}
	h.Needed = max(h.Needed, math.Abs(dx)/spread[min(a, b)][max(a, b)])
}

// Playable tells whether a player's hand can hold f: within the reach, no two
// fingers further apart than they spread, and only what the player uses.
func (f Fingering) Playable(p At) bool {
	reach, needed := f.Span(p.Neck)
	return p.uses(&f) && reach <= p.Reach && needed <= p.Reach
}

// uses tells whether f needs nothing that p does not use.
func (p *Player) uses(f *Fingering) bool {
	b := f.Build()
	return !(p.NoLittle && b.Little) && (p.Thumb || !b.Thumb) && !(p.NoBarre && b.Barred())
}

// How many strings a finger lies across without that being a barre to a teacher: beside
// other fingers, and by itself, as it does in a drop tuning. Beginners start with both.
const (
	flatBeside = 2
	flatAlone  = 3
)

// Flat tells whether a finger lies across more than beginners start with: that is learnt.
func (b *Build) Flat() bool { return b.BarreStrings > flatBeside || b.Barres > 1 }

// Barred tells whether a fingering has what a teacher calls a barre: four strings under a
// finger, three where others are down too, two where all four fingers are down, or two
// fingers that lie flat.
func (b *Build) Barred() bool {
	if b.Barres > 0 && b.Count >= int(Little) {
		return true
	}
	return b.Flat() && (b.BarreStrings > flatAlone || b.Count > 1 || b.Barres > 1)
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
