package arrange

import (
	"slices"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// harmony is what an event means: the notes it sounds, the root of them, and
// the fifth that may stand above that root.
type harmony struct {
	pitches []pitch.Pitch // as written, lowest first; empty for a chord by name
	root    pitch.Pitch   // where the root sounds
	bass    pitch.Pitch   // where the lowest note sounds; root where none is named
	fifth   int           // semitones above the root: 7, or 6 or 8 where it is altered
	altered bool
	chord   bool // several notes or a chord by name
}

// harmonyOf reads an event that has pitches.
func (a *Arranger) harmonyOf(e *song.Event) harmony {
	if e.Kind == song.Chord {
		h := harmony{chord: true}
		h.fifth, h.altered = e.Chord.Fifth()
		h.root = a.lowest(e.Chord.Root.Class())
		h.bass = a.lowest(e.Chord.Lowest().Class())
		for i, fret := range e.Frets {
			if fret >= 0 {
				p := a.written.Pitch(neck.StringAt(i), int(fret))
				h.pitches = append(h.pitches, p)
			}
		}
		slices.Sort(h.pitches)
		// A voicing that is given says where its root sounds.
		for _, p := range slices.Backward(h.pitches) {
			if p.Class() == e.Chord.Root.Class() {
				h.root = p
			}
			if p.Class() == e.Chord.Lowest().Class() {
				h.bass = p
			}
		}
		return h
	}
	h := harmony{fifth: 7}
	for _, n := range e.Notes {
		if !n.Dead {
			h.pitches = append(h.pitches, n.Pitch(a.written))
		}
	}
	slices.Sort(h.pitches)
	h.chord = len(h.pitches) > 1
	h.root = rootOf(h.pitches)
	h.bass = h.root
	has := func(semitones int) bool {
		return slices.ContainsFunc(h.pitches, func(p pitch.Pitch) bool { return (p - h.root).Class() == semitones })
	}
	// A diminished or augmented fifth in the shape contradicts a plain one.
	if !has(7) && has(6) {
		h.fifth, h.altered = 6, true
	} else if !has(7) && has(8) && has(4) {
		h.fifth, h.altered = 8, true
	}
	return h
}

// lowest is the lowest place on the neck, as the song is tuned, that gives a
// pitch class: where a power chord's root lies on the thick strings.
func (a *Arranger) lowest(class int) pitch.Pitch {
	p := a.written.Open(6)
	return p + pitch.Pitch(((class-p.Class())%12+12)%12)
}

// rootOf finds the root of notes that sound together: the one above which the
// others make the best chord. A fifth says most, then a third, then a seventh;
// of equals the lowest is the root. So the upper note of a fourth and of a
// sixth is the root, and the lower one of a fifth or a third.
func rootOf(pitches []pitch.Pitch) pitch.Pitch {
	if len(pitches) == 0 {
		return 0
	}
	worth := [12]int{7: 8, 4: 4, 3: 4, 10: 1, 11: 1, 6: 2, 8: 1, 2: 0, 5: -1}
	best, root := -100, pitches[0]
	for _, candidate := range pitches {
		score := 0
		for _, p := range pitches {
			score += worth[(p - candidate).Class()]
		}
		if score > best {
			best, root = score, candidate
		}
	}
	return root
}

// spelling names the notes of an event: a chord's by the chord, a line's by
// the key of the part.
type spelling struct {
	key   pitch.Key
	notes []pitch.Note
}

// namesOf gives the spelling of an event in a key. Power chords spell their
// fifth from their root, so that no key turns it into another interval.
func namesOf(key pitch.Key, e *song.Event, h harmony) spelling {
	s := spelling{key: key}
	if e.Kind == song.Chord {
		for _, t := range e.Chord.Tones {
			s.notes = append(s.notes, t.Note)
		}
		if e.Chord.Bass.Valid() {
			s.notes = append(s.notes, e.Chord.Bass)
		}
		s.notes = append(s.notes, e.Chord.Root.Up(5, 7))
		return s
	}
	root := key.SpellClass(h.root.Class())
	s.notes = []pitch.Note{root, root.Up(5, h.fifth)}
	return s
}

// At names a sounding pitch.
func (s spelling) At(p pitch.Pitch) pitch.Spelled {
	for _, n := range s.notes {
		if n.Class() == p.Class() {
			return n.At(p)
		}
	}
	return s.key.Spell(p)
}
