package hand

import "valleyside/core/song"

// Strikes lists the strikes of a bar as it is written.
func Strikes(b song.Bar, meter song.Meter) []Strike {
	list := make([]Strike, len(b.Events))
	for i := range b.Events {
		e := &b.Events[i]
		list[i] = Strike{Beats: e.Start.Div(meter.Pulse()), Picked: Picked(e), Written: e.Stroke}
		for _, n := range e.Notes {
			if list[i].Low == 0 {
				list[i].Low = n.String
			}
			list[i].High = n.String
		}
	}
	return list
}
