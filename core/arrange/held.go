package arrange

import (
	"valleyside/core/neck"
	"valleyside/core/song"
)

// holds are the voicings that are typed in a part: each holds for its chord until another
// is typed, and for the places before it.
type holds map[string]neck.Frets

// holding begins a part: what is typed first of a chord holds from its beginning.
func holding(p *song.Part) holds {
	h := holds{}
	for l := range p.Lines {
		for b := range p.Lines[l].Bars {
			events := p.Lines[l].Bars[b].Events
			for i := range events {
				if e := &events[i]; e.Kind == song.Chord && e.Frets != neck.NoFrets {
					if _, ok := h[e.Chord.Symbol]; !ok {
						h[e.Chord.Symbol] = e.Frets
					}
				}
			}
		}
	}
	return h
}

// of is an event as the voicings before it have it, in the order in which they are
// typed.
func (h holds) of(e *song.Event) *song.Event {
	if e.Kind != song.Chord {
		return e
	}
	if e.Frets != neck.NoFrets {
		h[e.Chord.Symbol] = e.Frets
		return e
	}
	frets, ok := h[e.Chord.Symbol]
	if !ok {
		return e
	}
	held := *e
	held.Frets = frets
	return &held
}
