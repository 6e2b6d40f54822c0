package arrange

import (
	"valleyside/core/neck"
	"valleyside/core/song"
)

// voice is which of two notes that sound together is played where only one may sound.
type voice uint8

const (
	rootVoice  voice = iota // the root of what they are
	lowerVoice              // the thicker string
	upperVoice              // the thinner string
)

// pair tells whether an event is two notes with a pitch.
func pair(e *song.Event) bool {
	return e.Kind == song.Notes && len(e.Notes) == 2 && !e.Notes[0].Dead && !e.Notes[1].Dead
}

// voicesOf is the voice of a part's pairs that is its tune, one and the same throughout:
// the one that moves where the other stays, the root where all are power chords, else the
// upper one unless the lower is a bass that walks on the two thick strings.
func voicesOf(p *song.Part, open neck.Tuning) voice {
	lower, upper := map[song.Note]bool{}, map[song.Note]bool{}
	powers, bass, figure := true, true, false
	for l := range p.Lines {
		for b := range p.Lines[l].Bars {
			events := p.Lines[l].Bars[b].Events
			for i, is := range figures(events) {
				figure = figure || is && pair(&events[i])
			}
			for i := range events {
				e := &events[i]
				if !pair(e) {
					continue
				}
				low, high := e.Notes[0], e.Notes[1]
				lower[low], upper[high] = true, true
				bass = bass && low.String >= 5
				powers = powers && powerPair(low, high, open)
			}
		}
	}
	switch {
	case len(lower) == 0 || !figure && powers:
		return rootVoice
	case figure || len(lower) == 1:
		return upperVoice
	case len(upper) == 1 || bass:
		return lowerVoice
	}
	return upperVoice
}

// powerPair tells whether two notes lie as a power chord does, or an octave: a fifth, plain
// or diminished, or on the thick strings the fourth that is one upside down.
func powerPair(low, high song.Note, open neck.Tuning) bool {
	switch d := open.Pitch(high.String, high.Fret) - open.Pitch(low.String, low.Fret); d {
	case 6, 7, 12:
		return true
	case 5:
		return low.String >= 5
	}
	return false
}
