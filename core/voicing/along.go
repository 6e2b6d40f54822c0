package voicing

import (
	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Moved is a shape moved along the neck: its fretted strings by so many frets, what is
// open stays open.
type Moved struct {
	Frets neck.Frets
	Name  chord.Name  // the first of its names; the zero Name where it has none
	Root  neck.String // the thickest string that sounds the root; 0 where none does
	Only  bool        // nothing is open: it is one shape wherever it lies
}

// Along moves a shape to every place of the neck up to highest, with its names there and
// where the root is. A shape without a fretted string stays where it is.
func Along(frets neck.Frets, in neck.Instrument, key pitch.Key) []Moved {
	low, top, open := int8(neck.MaxFret), int8(0), false
	for _, fret := range frets {
		if fret > 0 {
			low, top = min(low, fret), max(top, fret)
		}
		open = open || fret == 0
	}
	if top == 0 {
		return nil
	}
	var list []Moved
	for base := int8(1); base+top-low <= int8(min(highest, in.LastFret())); base++ {
		m := Moved{Frets: frets, Only: !open}
		for i, fret := range frets {
			if fret > 0 {
				m.Frets[i] = fret - low + base
			}
		}
		classes, bass := in.Classes(m.Frets)
		if names := chord.Names(classes, bass, key); len(names) > 0 {
			m.Name = names[0]
			for i, fret := range m.Frets {
				if fret >= 0 && m.Root == 0 && in.Pitch(neck.StringAt(i), int(fret)).Class() == m.Name.Root.Class() {
					m.Root = neck.StringAt(i)
				}
			}
		}
		list = append(list, m)
	}
	return list
}
