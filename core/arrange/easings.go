package arrange

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Easing is one of the ways in which the chords of a part are made easier for a hand.
type Easing struct {
	School  voicing.School // of easier chords; empty where it is a capo
	Capo    int            // the fret that it goes to; 0 for none
	Shapes  []string       // with a capo: what is fingered, each once
	Without []Spared       // the chords that lose something by it, each once
	Version Version
}

// Spared is a chord that is played without some of its degrees.
type Spared struct{ Of, Lost string }

// spared lists the chords of a version that lose a degree other than their fifth.
func spared(v *Version) (list []Spared) {
	for i := range v.Bars {
		for j := range v.Bars[i].Events {
			e := &v.Bars[i].Events[j]
			for _, why := range e.Why {
				c, ok := why.(Colours)
				one := Spared{e.From.Chord.Symbol, c.Lost}
				if ok && c.Lost != "" && c.Lost != "5" && !slices.Contains(list, one) {
					list = append(list, one)
				}
			}
		}
	}
	return list
}

// Easings lists the ways to make the chords of a part easier: shapes that this hand has, all
// of the chord where it can be; fewer strings; a capo. Each is easier than the part as it is
// written and has other shapes than those before it. Where there is none, nothing in the part
// is hard for this hand.
func (a *Arranger) Easings(part int) (list []Easing) {
	if a.Refused(part, EasyChords) != nil {
		return nil
	}
	written := a.Version(part, AsWritten, Way{})
	add := func(e Easing) {
		if e.Version.Grade >= written.Grade || sameNotes(&e.Version, &written) {
			return
		}
		if !slices.ContainsFunc(list, func(had Easing) bool { return sameNotes(&had.Version, &e.Version) }) {
			e.Without = spared(&e.Version)
			list = append(list, e)
		}
	}
	for _, school := range []voicing.School{voicing.All, voicing.Few} {
		add(Easing{School: school, Version: a.Version(part, EasyChords, Way{School: school})})
	}
	if e, ok := a.withCapo(part); ok {
		add(e)
	}
	return list
}

// withCapo is the part with the capo that spares shapes of the song that are hard.
func (a *Arranger) withCapo(part int) (e Easing, ok bool) {
	fret, shapes := a.Capo()
	if fret == 0 || !a.named(part, nil) {
		return e, false
	}
	moved := *a.set.heard
	moved.Capo, moved.Names = fret, song.Sounding
	return Easing{Capo: fret, Shapes: shapes, Version: New(&moved, a.set.options).Version(part, AsWritten, Way{})}, true
}

// Capo is the fret of the capo that spares most shapes that are hard of a song that has none,
// and what is fingered then, each once; 0 where none spares any. It is for the parts whose
// chords are named and not voiced.
func (a *Arranger) Capo() (fret int, shapes []string) {
	s := a.set.heard
	if s.Lift().Any() || a.set.rewrites() {
		return 0, nil
	}
	var chords []chord.Chord
	var key pitch.Key
	for i := range s.Parts {
		if before := len(chords); a.named(i, &chords) && before == 0 {
			key = s.Parts[i].Key
		}
	}
	if len(chords) == 0 {
		return 0, nil
	}
	// What is hard is what everybody's shapes ask for: those that a hand has instead are offered
	// by themselves.
	everybody := hand.Player{Scale: a.set.at.Scale, New: a.set.at.New}
	places := a.set.options.Book.Capos(chords, voicing.Config{In: a.set.in, Player: everybody, Key: key})
	without := slices.IndexFunc(places, func(c voicing.Capo) bool { return c.Fret == 0 })
	best := places[0]
	if best.Fret == 0 || best.Barres+best.New >= places[without].Barres+places[without].New {
		return 0, nil
	}
	for _, c := range best.Shapes {
		shapes = append(shapes, c.Symbol)
	}
	return best.Fret, shapes
}

// named tells whether a part has chords that are named and not voiced and no notes, and adds
// those that a list does not have.
func (a *Arranger) named(part int, list *[]chord.Chord) (ok bool) {
	var more []chord.Chord
	bars := a.set.heard.Parts[part].Bars()
	for i := range bars {
		for j := range bars[i].Events {
			ev := &bars[i].Events[j]
			if ev.Kind == song.Notes && ev.Sounds() || ev.Kind == song.Chord && ev.Frets != neck.NoFrets {
				return false
			}
			if ev.Kind == song.Chord {
				more = append(more, ev.Chord)
			}
		}
	}
	if list == nil {
		return len(more) > 0
	}
	for _, c := range more {
		if !slices.ContainsFunc(*list, func(had chord.Chord) bool { return had.Symbol == c.Symbol }) {
			*list = append(*list, c)
		}
	}
	return len(more) > 0
}
