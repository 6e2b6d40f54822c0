package hand

import "valleyside/core/song"

// Moments lists the moments of a bar as it is written.
func Moments(b song.Bar, meter song.Meter) []Moment {
	list := make([]Moment, len(b.Events))
	for i := range b.Events {
		e := &b.Events[i]
		list[i] = Moment{Beats: e.Start.Div(meter.Pulse()), Picked: Picked(e), Written: e.Stroke}
		for _, n := range e.Notes {
			if list[i].Low == 0 {
				list[i].Low = n.String
			}
			list[i].High = n.String
		}
	}
	return list
}
