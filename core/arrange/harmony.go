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
	tune    pitch.Pitch   // of two notes the one that is the tune; root elsewhere
	at      neck.String   // the string of a chord's root as its voicing has it; 0 where it is not given
	fifth   int           // semitones above the root: 7, or 6 or 8 where it is altered
	altered bool
	chord   bool // several notes or a chord by name
	power   bool // only roots and fifths
	turned  bool // written notes of which the root is not the lowest
}

// same tells whether two events mean the same notes.
func (h harmony) same(g harmony) bool {
	return h.root == g.root && h.bass == g.bass && h.fifth == g.fifth && slices.Equal(h.pitches, g.pitches)
}

// harmonyOf reads an event that has pitches. Of a figure the root is the bass
// that stays; run is the lowest note of a tapped run that the event begins, tune the
// voice of two notes that is played alone.
func harmonyOf(e *song.Event, in neck.Instrument, figure bool, run pitch.Pitch, tune voice) harmony {
	if e.Kind == song.Chord {
		h := named(e, in)
		h.tune = h.root
		return h
	}
	h := harmony{fifth: 7}
	open := in.Open()
	for _, n := range e.Notes {
		if !n.Dead {
			h.pitches = append(h.pitches, n.Pitch(open))
		}
	}
	if run != 0 {
		h.pitches = []pitch.Pitch{run}
	}
	slices.Sort(h.pitches)
	h.chord = len(h.pitches) > 1
	h.root = rootOf(h.pitches)
	if figure {
		h.root = h.pitches[0]
	}
	h.turned = h.chord && h.root != h.pitches[0]
	if len(h.pitches) > 2 { // in the register of the lowest note
		for h.root-12 >= h.pitches[0]-6 {
			h.root -= 12
		}
	}
	h.bass = h.root
	switch h.tune = h.root; tune {
	case lowerVoice:
		h.tune = h.pitches[0]
	case upperVoice:
		h.tune = h.pitches[len(h.pitches)-1]
	}
	has := func(semitones int) bool {
		return slices.ContainsFunc(h.pitches, func(p pitch.Pitch) bool { return p.Class().Above(h.root.Class()) == semitones })
	}
	h.power = !slices.ContainsFunc(h.pitches, func(p pitch.Pitch) bool {
		above := p.Class().Above(h.root.Class())
		return above != 0 && above != 7
	})
	// A diminished or augmented fifth in the shape contradicts a plain one.
	if !has(7) && has(6) {
		h.fifth, h.altered = 6, true
	} else if !has(7) && has(8) && has(4) {
		h.fifth, h.altered = 8, true
	}
	return h
}

// named reads a chord by its name. A voicing that is given says where its root and its
// bass sound, as far as a power chord would have them there: on the thick strings, on
// the open 4th, or wherever a power chord itself is typed. What is typed on thin strings
// has its root at the usual place.
func named(e *song.Event, in neck.Instrument) harmony {
	h := harmony{chord: true, power: len(e.Chord.Tones) == 2}
	h.fifth, h.altered = e.Chord.Fifth()
	root, bass := e.Chord.Root.Class(), e.Chord.Lowest().Class()
	h.root, h.bass = lowestOf(root, in), lowestOf(bass, in)
	first := true
	for i, fret := range e.Frets {
		if fret < 0 {
			continue
		}
		s := neck.StringAt(i)
		p := in.Pitch(s, int(fret))
		h.pitches = append(h.pitches, p)
		if thick := s >= 5 || s == 4 && fret == 0 || h.power; thick {
			if p.Class() == root && h.at == 0 {
				h.root, h.at = p, s
			}
			if p.Class() == bass && first {
				h.bass = p
			}
		}
		first = false
	}
	if !e.Chord.Bass.Valid() {
		h.bass = h.root
	}
	slices.Sort(h.pitches)
	return h
}

// lowestOf is the lowest place on the neck that gives a pitch class: where a
// power chord's root lies on the thick strings.
func lowestOf(class pitch.Class, in neck.Instrument) pitch.Pitch {
	p := in.Pitch(6, 0)
	return p + pitch.Pitch(class.Above(p.Class()))
}

// rootOf finds the root of notes that sound together: the one above which the
// others make the best chord. A fifth says most, then a third, then a seventh;
// of equals the lowest is the root. So the upper note of a fourth is the root,
// and the lower one of a fifth or a third; of a sixth it is the upper, which is
// the melody of two notes that move together.
func rootOf(pitches []pitch.Pitch) pitch.Pitch {
	if len(pitches) == 0 {
		return 0
	}
	worth := [12]int{7: 8, 4: 4, 3: 4, 10: 1, 11: 1, 6: 2, 8: 1, 2: 0, 5: -1}
	best, root := -100, pitches[0]
	for _, candidate := range pitches {
		score := 0
		for _, p := range pitches {
			score += worth[p.Class().Above(candidate.Class())]
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

// namesOf gives the spelling of an event of a part: as the names of chords speak of
// it, and as it sounds.
func (set *setup) namesOf(part int, e *song.Event, h harmony) (names, heard spelling) {
	names = spell(set.song.Parts[part].Key, e, h)
	if set.song == set.heard {
		return names, names
	}
	key, up := set.heard.Parts[part].Key, *e
	if e.Kind == song.Chord {
		up.Chord = set.lift.Sounds(e.Chord, key)
	}
	h.root += pitch.Pitch(set.above())
	return names, spell(key, &up, h)
}

// above is by how many semitones what sounds lies above what names say.
func (set *setup) above() int {
	if set.song == set.heard {
		return 0
	}
	return set.lift.By
}

// spell gives the spelling of an event in a key. Power chords spell their
// fifth from their root, so that no key turns it into another interval.
func spell(key pitch.Key, e *song.Event, h harmony) spelling {
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
