package hand

import "valleyside/core/neck"

// Change is what the fingers and the pick do to go from one fingering to the
// next. Fingers that are down in both are kept where they lie on the same
// string and fret, slid where they follow their string to another fret, and
// moved where they jump to another string.
type Change struct {
	Kept, Slid, Moved, Placed, Lifted int
	Crossed                           int // strings that the pick moves across
}

// Between is the change from one fingering to the next.
func Between(from, to Fingering) Change {
	type place struct {
		strings uint8
		fret    int8
	}
	var before, after [fingers]place
	for i := range from.Fingers {
		if by := from.Fingers[i]; by != None {
			before[by].strings |= 1 << i
			before[by].fret = from.Frets[i]
		}
		if by := to.Fingers[i]; by != None {
			after[by].strings |= 1 << i
			after[by].fret = to.Frets[i]
		}
	}
	var c Change
	for finger := Index; finger <= Thumb; finger++ {
		a, b := before[finger], after[finger]
		switch {
		case a.strings == 0 && b.strings == 0:
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
	}
	c.Crossed = crossed(from, to)
	return c
}

// crossed counts the strings from the thickest that is struck before to the
// thickest that is struck next: there the stroke begins.
func crossed(from, to Fingering) int {
	a, b := from.Lowest(), to.Lowest()
	if a == 0 || b == 0 {
		return 0
	}
	return int(max(a-b, b-a))
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
