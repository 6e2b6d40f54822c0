package arrange

import (
	"encoding/binary"
	"fmt"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// alike tells the student which bars they know already: a bar that is an
// earlier one again, its shape on other strings or frets, or its line
// elsewhere on the neck.
func (w *work) alike() {
	byShape, byLine := map[string]int{}, map[string]int{}
	var key []byte
	for b := range w.version.Bars {
		bar := &w.version.Bars[b]
		if !distinct(bar) {
			continue
		}
		key = shapeKey(key[:0], bar)
		if other, ok := byShape[string(key)]; ok {
			bar.Why = append(bar.Why, sameShape(&w.version.Bars[other], bar))
		} else {
			byShape[string(key)] = b
			key = lineKey(key[:0], bar)
			if other, ok := byLine[string(key)]; ok {
				bar.Why = append(bar.Why, sameLine(&w.version.Bars[other], bar))
			} else {
				byLine[string(key)] = b
			}
		}
	}
}

// distinct tells whether a bar has enough in it to be recognised.
func distinct(bar *Bar) bool {
	first := Event{}
	for _, e := range bar.Events {
		switch {
		case len(e.Notes) == 0:
		case first.Notes == nil:
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

// sameShape says how the shape of an earlier bar comes again.
func sameShape(from, to *Bar) string {
	switch by := from.root().String - to.root().String; {
	case by == 0:
		return fmt.Sprintf("the same as bar %d", from.Number)
	case by > 0:
		return fmt.Sprintf("the shape of bar %d, %s thinner", from.Number, counted(int(by), "string"))
	default:
		return fmt.Sprintf("the shape of bar %d, %s thicker", from.Number, counted(int(-by), "string"))
	}
}

// sameLine says where the line of an earlier bar comes again.
func sameLine(from, to *Bar) string {
	a, b := from.root(), to.root()
	strings, frets := constant(from, to)
	distance := int(b.Pitch.Pitch() - a.Pitch.Pitch())
	switch {
	case strings && frets && a.String == b.String:
		direction := "higher"
		by := b.Fret - a.Fret
		if by < 0 {
			direction, by = "lower", -by
		}
		return fmt.Sprintf("the shape of bar %d, %s %s", from.Number, counted(by, "fret"), direction)
	case strings && !frets && a.String != b.String:
		return fmt.Sprintf("the line of bar %d on other strings; its frets differ where strings are tuned differently", from.Number)
	case distance == 0:
		return fmt.Sprintf("the line of bar %d in another place", from.Number)
	}
	return fmt.Sprintf("the line of bar %d, %s", from.Number, interval(distance))
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

func counted(n int, what string) string {
	if n == 1 {
		return "one " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// interval names a distance in semitones.
func interval(semitones int) string {
	direction := "higher"
	if semitones < 0 {
		direction, semitones = "lower", -semitones
	}
	names := [...]string{"", "a half step", "a whole step", "a minor third", "a major third", "a fourth", "a tritone", "a fifth",
		"a minor sixth", "a major sixth", "a minor seventh", "a major seventh", "an octave"}
	if semitones < len(names) {
		return names[semitones] + " " + direction
	}
	return fmt.Sprintf("%d half steps %s", semitones, direction)
}

// likeAnother tells whether the part as it is written is an earlier part moved
// to another pitch.
func (w *work) likeAnother() string {
	own, root, ok := w.melody(w.index)
	if !ok {
		return ""
	}
	for i := range w.index {
		other, from, ok := w.melody(i)
		switch {
		case !ok || other != own:
		case from == root:
			return fmt.Sprintf("the same notes as %s", w.song.Parts[i].Name)
		default:
			return fmt.Sprintf("the line of %s, %s", w.song.Parts[i].Name, interval(int(root-from)))
		}
	}
	return ""
}

// melody is a key of the rhythm and the intervals of a part that is written in
// notes. It is remembered.
func (a *Arranger) melody(index int) (key string, root pitch.Pitch, ok bool) {
	if m, known := a.melodies[index]; known {
		return m.key, m.root, m.key != ""
	}
	var text []byte
	notes := 0
	bars := a.song.Parts[index].Bars()
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
				p := n.Pitch(a.written)
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
