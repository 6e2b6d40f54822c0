package hand

import (
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Moment is something in a bar that may need a stroke of the pick.
type Moment struct {
	Beats   pitch.Frac // from the start of the bar, in Pulses of the metre
	Picked  bool
	Written song.Stroke // as the sheet has it; NoStroke where it has none
	// Low and High are the thickest and the thinnest string that is struck;
	// only Economy asks for them.
	Low, High neck.String
}

// Strokes gives the pick's direction for each moment of a bar.
//
// Alternate is down on the beat and up between; where the bar has sixteenths,
// down on the eighths and up between them; a gallop comes out as down, down-up.
// AllDown is down throughout but for the last stroke of a gallop. Economy
// strikes towards the string before: going on to a thinner string is a
// down-stroke, to a thicker one an up-stroke, and on one string the strokes
// alternate. A stroke that is written stays.
func Strokes(moments []Moment, picking Picking) []song.Stroke {
	strokes := make([]song.Stroke, len(moments))
	grid := int64(2)
	for i := range moments {
		if d := moments[i].Beats.Den(); moments[i].Picked && d%2 == 0 && d > grid {
			grid = d
		}
	}
	before := -1
	for i := range moments {
		m := &moments[i]
		switch {
		case !m.Picked:
			continue
		case m.Written != song.NoStroke:
			strokes[i] = m.Written
		case picking == AllDown:
			strokes[i] = song.Down
			if endsGallop(moments, i) {
				strokes[i] = song.Up
			}
		case picking == Economy && before >= 0 && moments[before].Low != 0 && m.Low != 0:
			strokes[i] = towards(moments[before], *m, strokes[before])
		default:
			strokes[i] = onGrid(m.Beats, grid)
		}
		before = i
	}
	return strokes
}

// onGrid is the stroke of a hand that keeps moving down and up.
func onGrid(beats pitch.Frac, grid int64) song.Stroke {
	steps := beats.Num() % beats.Den()
	if grid%beats.Den() == 0 {
		steps *= grid / beats.Den()
	} // else triplets and the like, which count their own
	if steps%2 == 1 {
		return song.Up
	}
	return song.Down
}

// towards is the stroke that carries the pick from one moment's strings on to
// the next one's.
func towards(from, to Moment, last song.Stroke) song.Stroke {
	switch {
	case to.Low < from.High: // thinner strings carry lower numbers
		return song.Down
	case to.High > from.Low:
		return song.Up
	case last == song.Down:
		return song.Up
	}
	return song.Down
}

// endsGallop tells whether moment i is the last of a gallop: a beat of an
// eighth and two sixteenths, in that order.
func endsGallop(moments []Moment, i int) bool {
	if i < 2 {
		return false
	}
	last := moments[i].Beats
	if last.Den() != 4 || last.Num()%4 != 3 {
		return false
	}
	start := last.Floor()
	return moments[i-1].Picked && moments[i-1].Beats == pitch.F(2*start+1, 2) &&
		moments[i-2].Picked && moments[i-2].Beats == pitch.Whole(start)
}

// Gallops counts the gallops of a bar.
func Gallops(moments []Moment) int {
	n := 0
	for i := range moments {
		if moments[i].Picked && endsGallop(moments, i) {
			n++
		}
	}
	return n
}

// Picked tells whether an event needs a stroke of the pick: it sounds, and at
// least one of its notes is not hammered, pulled, slid or tapped.
func Picked(e *song.Event) bool {
	if e.Kind != song.Notes {
		return e.Sounds()
	}
	for _, n := range e.Notes {
		if n.By == song.Picked {
			return true
		}
	}
	return false
}
