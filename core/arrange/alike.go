package arrange

import (
	"encoding/binary"
	"slices"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// alike tells the student which bars they know already: a bar that is an
// earlier one again, its shape on other strings or frets, or its line
// elsewhere on the neck.
func alike(bars []Bar) {
	byShape, byLine := map[string]int{}, map[string]int{}
	var key []byte
	for b := range bars {
		bar := &bars[b]
		if !distinct(bar) {
			continue
		}
		key = shapeKey(key[:0], bar)
		if other, ok := byShape[string(key)]; ok {
			bar.Why = append(bar.Why, Said{Fact: sameShape(&bars[other], bar)})
		} else {
			byShape[string(key)] = b
			key = lineKey(key[:0], bar)
			if other, ok := byLine[string(key)]; ok {
				bar.Why = append(bar.Why, Said{Fact: sameLine(&bars[other], bar)})
			} else {
				byLine[string(key)] = b
			}
		}
	}
}

// distinct tells whether a bar has enough in it to be recognised.
func distinct(bar *Bar) bool {
	var first *Event
	for i := range bar.Events {
		e := &bar.Events[i]
		switch {
		case len(e.Notes) == 0:
		case first == nil:
			first = e
		case e.Fingering.Frets != first.Fingering.Frets:
			return true
		}
	}
	return false
}

// root is the thickest note of the first event that has one.
func (b *Bar) root() Note {
	for _, e := range b.Events {
		if len(e.Notes) > 0 {
			return e.Notes[0]
		}
	}
	return Note{}
}

// shapeKey is the same for bars of the same rhythm and frets whose strings lie
// equally far from that of the first note.
func shapeKey(key []byte, bar *Bar) []byte {
	root := bar.root()
	for i := range bar.Events {
		e := &bar.Events[i]
		key = timeKey(key, e)
		for _, n := range e.Notes {
			key = append(key, byte(n.String-root.String), byte(n.Fret))
		}
	}
	return key
}

// lineKey is the same for bars of the same rhythm whose notes lie equally far
// from the first.
func lineKey(key []byte, bar *Bar) []byte {
	root := bar.root().Pitch.Pitch()
	for i := range bar.Events {
		e := &bar.Events[i]
		key = timeKey(key, e)
		for _, n := range e.Notes {
			key = append(key, byte(n.Pitch.Pitch()-root))
		}
	}
	return key
}

func timeKey(key []byte, e *Event) []byte {
	key = append(key, 0xff, byte(len(e.Notes)))
	key = binary.AppendVarint(key, e.Start.Num())
	return binary.AppendVarint(key, e.Start.Den())
}

// identical tells whether two bars are the same in everything: strings, frets
// and fingers, times and lengths, ornaments and muting.
func identical(a, b *Bar) bool {
	return slices.EqualFunc(a.Events, b.Events, func(x, y Event) bool {
		return x.Start == y.Start && x.Length == y.Length && x.Fingering == y.Fingering && x.Muted == y.Muted && x.Stroke == y.Stroke &&
			slices.Equal(x.Dead, y.Dead) && x.From.Marks == y.From.Marks && slices.EqualFunc(x.From.Notes, y.From.Notes, func(m, n song.Note) bool {
			return m.By == n.By && m.Bend == n.Bend && m.Harmonic == n.Harmonic
		})
	})
}

// sameShape says how the shape of an earlier bar comes again.
func sameShape(from, to *Bar) Fact {
	over := int(from.root().String - to.root().String)
	switch {
	case over != 0:
		return ShapeOf{from.Number, over}
	case identical(from, to):
		return SameAs{from.Number}
	}
	return SameNotesAs{from.Number}
}

// sameLine says where the line of an earlier bar comes again.
func sameLine(from, to *Bar) Fact {
	a, b := from.root(), to.root()
	strings, frets := constant(from, to)
	up := int(b.Pitch.Pitch() - a.Pitch.Pitch())
	switch {
	case strings && frets && a.String == b.String:
		return ShapeAlong{from.Number, b.Fret - a.Fret}
	case up == 0:
		return LineOf{from.Number}
	}
	return LineMoved{from.Number, up}
}

// constant tells whether all notes of a bar lie equally many strings, and
// equally many frets, from those of another.
func constant(from, to *Bar) (strings, frets bool) {
	strings, frets = true, true
	a, b := from.root(), to.root()
	for i := range from.Events {
		for j := range from.Events[i].Notes {
			m, n := from.Events[i].Notes[j], to.Events[i].Notes[j]
			strings = strings && n.String-m.String == b.String-a.String
			frets = frets && n.Fret-m.Fret == b.Fret-a.Fret
		}
	}
	return strings, frets
}

// likeAnother tells whether a part as it is written is an earlier part moved to
// another pitch.
func (a *Arranger) likeAnother(part int) Fact {
	own, root, ok := a.melody(part)
	if !ok {
		return nil
	}
	for i := range part {
		other, from, ok := a.melody(i)
		switch {
		case !ok || other != own:
		case from == root:
			return NotesOfPart{a.set.song.Parts[i].Name}
		default:
			return LineOfPart{a.set.song.Parts[i].Name, int(root - from)}
		}
	}
	return nil
}

// melody is a key of the rhythm and the intervals of a part that is written in
// notes. It is remembered.
func (a *Arranger) melody(index int) (key string, root pitch.Pitch, ok bool) {
	if m, known := a.melodies[index]; known {
		return m.key, m.root, m.key != ""
	}
	var text []byte
	notes := 0
	open := a.set.written.Open()
	bars := a.set.song.Parts[index].Bars()
	for b := range bars {
		text = append(text, '|')
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			if e.Kind == song.Chord {
				a.melodies[index] = melody{}
				return "", 0, false
			}
			text = append(text, 0xff, byte(e.Kind))
			text = binary.AppendVarint(text, e.Start.Num())
			text = binary.AppendVarint(text, e.Start.Den())
			for _, n := range e.Notes {
				p := n.Pitch(open)
				if notes == 0 {
					root = p
				}
				if !n.Dead {
					notes++
					text = binary.AppendVarint(text, int64(p-root))
				}
			}
		}
	}
	m := melody{string(text), root}
	if notes < neck.Strings {
		m = melody{} // too little to be recognised
	}
	a.melodies[index] = m
	return m.key, m.root, m.key != ""
}

// melody is what Arranger.melody remembers.
type melody struct {
	key  string
	root pitch.Pitch
}
