package hand

import (
	"math/bits"

	"valleyside/core/neck"
)

// Change is what the fingers and the pick do to go from one fingering to the
// next. Fingers that are down in both are kept where they lie on the same
// string and fret, slid where they follow their string to another fret, and
// moved where they jump to another string.
type Change struct {
	Kept, Slid, Moved, Placed, Lifted int
	Laid                              int // strings that a finger comes to lie across, beyond two: that is no barre yet
	Crossed                           int // strings that the pick moves across
}

// Grip is a fingering by its fingers rather than by its strings: for each the
// strings it stops and their fret. Changes are worked out between grips; keep
// them where there are many.
type Grip struct {
	fingers [fingers]grip
	low     neck.String
}

type grip struct {
	strings uint8
	fret    int8
}

// across counts the strings from the thickest to the thinnest that a finger stops.
func (g grip) across() int { return bits.Len8(g.strings) - bits.TrailingZeros8(g.strings|1<<7) }

// Grip is f by its fingers.
func (f Fingering) Grip() Grip {
	g := Grip{low: f.Lowest()}
	for i, by := range f.Fingers {
		if by != None {
			g.fingers[by].strings |= 1 << i
			g.fingers[by].fret = f.Frets[i]
		}
	}
	return g
}

// Between is the change from one fingering to the next.
func Between(from, to Fingering) Change {
	a, b := from.Grip(), to.Grip()
	return a.To(&b)
}

// To is the change from g to the next grip.
func (g *Grip) To(next *Grip) Change {
	var c Change
	for finger := Index; finger <= Thumb; finger++ {
		a, b := g.fingers[finger], next.fingers[finger]
		switch {
		case a == b:
			if a.strings != 0 {
				c.Kept++
			}
		case b.strings == 0:
			c.Lifted++
		case a.strings == 0:
			c.Placed++
		case a.strings&b.strings == 0:
			c.Moved++
		case a.fret != b.fret:
			c.Slid++
		default:
			c.Kept++
		}
		if across := b.across(); across > flatBeside && a != b {
			lies := flatBeside
			if a.strings&b.strings != 0 { // it slides, or rolls
				lies = max(a.across(), flatBeside)
			}
			c.Laid += max(across-lies, 0)
		}
	}
	// The pick goes from the thickest string that is struck before to the
	// thickest that is struck next: there the stroke begins.
	if g.low != 0 && next.low != 0 {
		c.Crossed = int(max(g.low-next.low, next.low-g.low))
	}
	return c
}

// Anchors lists the strings on which a finger stays where it is, Guides those
// along which one slides to another fret.
func Anchors(from, to Fingering) (anchors, guides []neck.String) {
	for i, by := range to.Fingers {
		if by == None || from.Fingers[i] != by {
			continue
		}
		if from.Frets[i] == to.Frets[i] {
			anchors = append(anchors, neck.StringAt(i))
		} else {
			guides = append(guides, neck.StringAt(i))
		}
	}
	return anchors, guides
}
