package hand

import (
	"math"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Strike is something in a bar that may need a stroke of the pick.
type Strike struct {
	Beats   pitch.Frac // from the start of the bar, in Pulses of the metre
	Picked  bool
	Written song.Stroke // as the sheet has it; NoStroke where it has none
	// Low and High are the thickest and the thinnest string that is struck;
	// only Economy asks for them.
	Low, High neck.String
}

// Strokes gives the pick's direction for each strike of a bar.
//
// Alternate is down on the beat and up between; where the bar has sixteenths,
// down on the eighths and up between them; a gallop comes out as down, down-up.
// AllDown is down throughout but for the last stroke of a gallop. Economy
// strikes towards the string that is struck next (see economize). A stroke that
// is written stays.
func Strokes(strikes []Strike, picking Picking) []song.Stroke {
	strokes := make([]song.Stroke, len(strikes))
	grid := int64(2)
	for i := range strikes {
		if d := strikes[i].Beats.Den(); strikes[i].Picked && d%2 == 0 && d > grid {
			grid = d
		}
	}
	for i := range strikes {
		m := &strikes[i]
		switch {
		case !m.Picked:
			continue
		case m.Written != song.NoStroke:
			strokes[i] = m.Written
		case picking == AllDown:
			strokes[i] = song.Down
			if endsGallop(strikes, i) {
				strokes[i] = song.Up
			}
		default:
			strokes[i] = onGrid(m.Beats, grid)
		}
	}
	if picking == Economy {
		economize(strikes, strokes)
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

// What economy picking weighs: on strings that both have, strokes alternate; then a
// string that the pick travels in the air, a stroke away from the string that is
// struck next, and one against the beat; most where several on one string begin.
// So two notes on each string stay down, up, and three on each go as they travel.
const (
	twice       = 10_000
	beginsOff   = 150
	inTheAir    = 100
	awayFrom    = 3
	againstBeat = 2
)

// economize turns the strokes of a bar so that the pick travels least. A
// down-stroke ends on the thinner side of its strings and an up-stroke on the
// thicker; the next begins on the other. After a beat or more the hand begins
// anew. What is on the grid comes in.
func economize(strikes []Strike, strokes []song.Stroke) {
	type way struct {
		cost int
		from int // index of the stroke before, in ways
	}
	both := [2]song.Stroke{song.Down, song.Up}
	picked := make([]int, 0, len(strikes))
	for i := range strikes {
		if strikes[i].Picked {
			picked = append(picked, i)
		}
	}
	ways := make([][2]way, len(picked))
	for k, i := range picked {
		m := &strikes[i]
		for d, stroke := range both {
			w := &ways[k][d]
			if m.Written != song.NoStroke && m.Written != stroke {
				w.cost = math.MaxInt / 2
				continue
			}
			if stroke != strokes[i] {
				w.cost += againstBeat
			}
			begins := k == 0 || !follows(&strikes[picked[k-1]], m)
			if k+1 < len(picked) && follows(m, &strikes[picked[k+1]]) {
				switch to := toward(m, &strikes[picked[k+1]]); {
				case to == both[1-d]:
					w.cost += awayFrom
				case to == song.NoStroke && begins && stroke != strokes[i]:
					w.cost += beginsOff
				}
			}
			if k == 0 {
				continue
			}
			before := &strikes[picked[k-1]]
			cost := func(e int) int {
				if begins {
					return ways[k-1][e].cost
				}
				cost := ways[k-1][e].cost + inTheAir*travel(before, m, both[e], stroke)
				if both[e] == stroke && toward(before, m) == song.NoStroke {
					cost += twice
				}
				return cost
			}
			if cost(1) < cost(0) {
				w.from = 1
			}
			w.cost += cost(w.from)
		}
	}
	at := 0
	if k := len(picked) - 1; k >= 0 && ways[k][1].cost < ways[k][0].cost {
		at = 1
	}
	for k := len(picked) - 1; k >= 0; k-- {
		strokes[picked[k]] = both[at]
		at = ways[k][at].from
	}
}

// follows tells whether two strikes are less than a beat apart, and the strings of
// both are known.
func follows(from, to *Strike) bool {
	return from.Low != 0 && to.Low != 0 && to.Beats.Sub(from.Beats).Less(pitch.Whole(1))
}

// toward is the stroke that goes from the strings of a moment to those of the next;
// NoStroke where they have one in common.
func toward(m, next *Strike) song.Stroke {
	switch {
	case next.Low < m.High: // thinner strings carry lower numbers
		return song.Down
	case next.High > m.Low:
		return song.Up
	}
	return song.NoStroke
}

// travel counts the strings between the end of a stroke and the beginning of the
// next.
func travel(from, to *Strike, first, second song.Stroke) int {
	end, begin := from.High-1, to.Low // the strings are counted by what lies beneath them
	if first == song.Up {
		end = from.Low
	}
	if second == song.Up {
		begin = to.High - 1
	}
	return int(max(end-begin, begin-end))
}

// endsGallop tells whether moment i is the last of a gallop: a beat of an
// eighth and two sixteenths, in that order.
func endsGallop(strikes []Strike, i int) bool {
	if i < 2 {
		return false
	}
	last := strikes[i].Beats
	if last.Den() != 4 || last.Num()%4 != 3 {
		return false
	}
	start := last.Floor()
	return strikes[i-1].Picked && strikes[i-1].Beats == pitch.F(2*start+1, 2) &&
		strikes[i-2].Picked && strikes[i-2].Beats == pitch.Whole(start)
}

// Gallops counts the gallops of a bar.
func Gallops(strikes []Strike) int {
	n := 0
	for i := range strikes {
		if strikes[i].Picked && endsGallop(strikes, i) {
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
