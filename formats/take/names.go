package take

import (
	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// From how many strings on a shape is rather a chord than a riff, and how far-fetched its
// name may be.
const (
	chordStrings = 4
	plainName    = 3.0
)

// names calls full chords of music from elsewhere by their names, with the shapes that
// were played, where the name is plain and says just what sounds: a chord by name is what
// easier versions are made of. Over a capo it is the shape that is named, as players do.
func (b *builder) names() {
	if b.score.Own {
		return
	}
	type shape struct {
		frets neck.Frets
		part  int
	}
	known := map[shape]*chord.Chord{}
	in := neck.Instrument{Tuning: b.song.Tuning}
	for i := range b.voices {
		b.eachStruck(b.voices[i].player, func(part int, e *song.Event) {
			if e.Kind != song.Notes || len(e.Notes) < chordStrings || !plainNotes(e.Notes) {
				return
			}
			s := shape{neck.NoFrets, part}
			for _, n := range e.Notes {
				s.frets[n.String.Index()] = int8(n.Fret)
			}
			c, seen := known[s]
			if !seen {
				set, low := in.Classes(s.frets)
				if set.Len() >= 3 {
					if list := chord.Names(set, low, b.song.Parts[part].Key); len(list) > 0 && list[0].Exact() && list[0].Cost < plainName {
						if parsed, err := chord.Parse(list[0].Name); err == nil {
							c = &parsed
						}
					}
				}
				known[s] = c
			}
			if c != nil {
				*e = song.Event{Start: e.Start, Length: e.Length, Kind: song.Chord, Chord: *c, Frets: s.frets, Marks: e.Marks}
			}
		})
	}
}
