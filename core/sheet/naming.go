package sheet

import (
	"fmt"
	"strings"

	"valleyside/core/song"
)

// agree warns of what does not agree on what the names of chords mean where all
// strings are lifted alike, and of a capo over names that the key alone makes those of
// what sounds.
func (p *parser) agree() {
	s := p.sheet.Song
	for _, d := range s.Disagreements() {
		part := &s.Parts[d.Part]
		if d.Event != nil {
			name := d.Event.Chord.Symbol
			if d.Reading == song.Shapes {
				p.warnf(d.Event.Line, d.Event.Column, "name what is fingered, "+song.Lift{By: s.Lifted(), Names: song.Sounding}.Shape(d.Event.Chord, part.Key).Symbol+", or write chords: sounding above the first part",
					"%s names what its voicing sounds, the other names of the sheet are shapes", name)
			} else {
				p.warnf(d.Event.Line, d.Event.Column, "name what sounds, "+song.Lift{By: s.Lifted(), Names: song.Shapes}.Sounds(d.Event.Chord, part.Key).Symbol+", or write chords: shapes above the first part",
					"%s names the shape of its voicing, the other names of the sheet are what sounds", name)
			}
			continue
		}
		if e := firstName(part); e != nil {
			other := map[song.Naming]song.Naming{song.Shapes: song.Sounding, song.Sounding: song.Shapes}[d.Reading]
			p.warnf(e.Line, e.Column, fmt.Sprintf("mend its key, or move its chords into that of the others; chords: %s would read all names the other way", other),
				"the chords of %s fit its key only as %s, those of the sheet are %s", part.Name, reading(other), reading(d.Reading))
		}
	}
	if s.Names != song.Unsaid || s.Capo == 0 || s.Naming() != song.Sounding || s.Voiced() {
		return
	}
	for i := range p.sheet.Lines {
		l := &p.sheet.Lines[i]
		if l.Kind != Setting || !strings.HasPrefix(l.Text, "capo: ") {
			continue
		}
		for j := range s.Parts {
			if e := firstName(&s.Parts[j]); e != nil {
				shape := s.Lift().Shape(e.Chord, s.Parts[j].Key)
				p.warnf(i+1, 1, "write chords: sounding if that is meant; where the names are what is fingered, write chords: shapes, or the key that sounds",
					"in this key the names are read as what sounds: %s is fingered as %s over the capo", e.Chord.Symbol, shape.Symbol)
				return
			}
		}
	}
}

// reading says what names are, in the middle of a sentence.
func reading(n song.Naming) string {
	if n == song.Sounding {
		return "what sounds"
	}
	return "shapes"
}

// firstName is the first chord of a part that is given by name; nil where there is none.
func firstName(p *song.Part) *song.Event {
	bars := p.Bars()
	for b := range bars {
		for i := range bars[b].Events {
			if e := &bars[b].Events[i]; e.Kind == song.Chord {
				return e
			}
		}
	}
	return nil
}
