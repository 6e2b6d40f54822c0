package hand

import (
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Strokes gives the pick's direction for each event of a bar in alternate
// picking: down on the beat, up between; where the bar has sixteenths, down
// on the eighths and up between them. A stroke that is written stays. Events
// that are not picked have none.
func Strokes(bar song.Bar, meter song.Meter) []song.Stroke {
	beat := meter.Beat()
	grid := int64(2)
	for i := range bar.Events {
		if d := bar.Events[i].Start.Div(beat).Den(); bar.Events[i].Sounds() && d%2 == 0 && d > grid {
			grid = d
		}
	}
	strokes := make([]song.Stroke, len(bar.Events))
	for i := range bar.Events {
		e := &bar.Events[i]
		switch {
		case !Picked(e):
		case e.Stroke != song.NoStroke:
			strokes[i] = e.Stroke
		default:
			pos := e.Start.Div(beat)
			in := pos.Sub(pitch.Whole(pos.Floor()))
			steps := in.Mul(pitch.Whole(grid))
			if grid%in.Den() != 0 { // triplets and the like count their own
				steps = in.Mul(pitch.Whole(in.Den()))
			}
			strokes[i] = song.Down
			if steps.Floor()%2 == 1 {
				strokes[i] = song.Up
			}
		}
	}
	return strokes
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
