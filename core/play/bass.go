package play

import (
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// lowestBass is the lowest note of a bass, E1; what it plays lies within the octave
// above.
const lowestBass = pitch.Pitch(28)

// BassPlayer is the player's name of what Bass plays.
const BassPlayer = "bass"

// Bass is what a bass would play beside a timeline that was worked out of a song with
// the same options: with each chord its bass, and of what is written in notes the lowest
// one on the first beat of the bar and where the bar is halved, each until the next.
func Bass(s *song.Song, t *Timeline, o Options) []Strike {
	if o.Tempo == 0 {
		o.Tempo = s.Tempo
	}
	b := builder{song: s, options: o, timeline: t}
	written := make([][]song.Bar, len(s.Parts))
	open, above := s.Open(), pitch.Pitch(s.Above())
	var list []Strike
	for i, bar := range t.Bars {
		p := &s.Parts[bar.Part]
		if written[bar.Part] == nil {
			written[bar.Part] = p.Bars()
		}
		w := &written[bar.Part][bar.Number-1]
		m, clock := p.Measure(w), b.clock(p)
		for j := range w.Events {
			e := &w.Events[j]
			at := bar.At + clock.In(m, e.Start)
			if !e.Sounds() {
				stopAt(list, at)
				continue
			}
			low, ok := lowest(e, open, above)
			if !ok || e.Kind != song.Chord && !leads(e.Start, m) {
				continue
			}
			stopAt(list, at)
			note := lowestBass + (low-lowestBass%12+24)%12
			list = append(list, Strike{At: at, Length: t.Seconds - at, Pitch: p.Key.Spell(note), Hz: b.hz(note), Loud: loudPlain, From: -1, Player: BassPlayer, Bar: i, Start: e.Start})
		}
	}
	return list
}

// leads tells whether a place in a bar is where a bass plays of itself: at its beginning
// and where it is halved.
func leads(at pitch.Frac, m song.Measure) bool {
	return at == m.Lead || at.Num() == 0 || at.Mul(pitch.Whole(2)) == m.Meter.Bar()
}

// stopAt ends the last of some strikes.
func stopAt(list []Strike, at float64) {
	if n := len(list); n > 0 {
		list[n-1].Length = min(list[n-1].Length, at-list[n-1].At)
	}
}

// lowest is the bass of an event: that of a chord's name, above which it sounds so many
// semitones, or its lowest note.
func lowest(e *song.Event, open neck.Tuning, above pitch.Pitch) (pitch.Pitch, bool) {
	if e.Kind == song.Chord {
		return pitch.Pitch(e.Chord.Lowest().Class()) + above + 12, true
	}
	low, ok := pitch.Pitch(0), false
	for _, n := range e.Notes {
		if p := n.Pitch(open); !n.Dead && (!ok || p < low) {
			low, ok = p, true
		}
	}
	return low, ok
}
