package arrange

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
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

// withCapo is the part with a capo where that spares shapes that are hard, of a song that has
// none, whose chords are named and not voiced.
func (a *Arranger) withCapo(part int) (e Easing, ok bool) {
	s := a.set.heard
	var chords []chord.Chord
	if s.Lift().Any() || a.set.rewrites() {
		return e, false
	}
	bars := s.Parts[part].Bars()
	for i := range bars {
		for j := range bars[i].Events {
			ev := &bars[i].Events[j]
			if ev.Kind == song.Notes && ev.Sounds() || ev.Kind == song.Chord && ev.Frets != neck.NoFrets {
				return e, false
			}
			if ev.Kind == song.Chord && !slices.ContainsFunc(chords, func(c chord.Chord) bool { return c.Symbol == ev.Chord.Symbol }) {
				chords = append(chords, ev.Chord)
			}
		}
	}
	if len(chords) == 0 {
		return e, false
	}
	// What is hard is what everybody's shapes ask for: those that a hand has instead are offered
	// by themselves.
	everybody := hand.Player{Scale: a.set.at.Scale, New: a.set.at.New}
	places := a.set.options.Book.Capos(chords, voicing.Config{In: a.set.in, Player: everybody, Key: s.Parts[part].Key})
	without := slices.IndexFunc(places, func(c voicing.Capo) bool { return c.Fret == 0 })
	best := places[0]
	if best.Fret == 0 || best.Barres+best.New >= places[without].Barres+places[without].New {
		return e, false
	}
	moved := *s
	moved.Capo, moved.Names = best.Fret, song.Sounding
	for _, c := range best.Shapes {
		e.Shapes = append(e.Shapes, c.Symbol)
	}
	e.Capo, e.Version = best.Fret, New(&moved, a.set.options).Version(part, AsWritten, Way{})
	return e, true
}
