// Package voicing finds ways to play a chord that is given by name.
package voicing

import (
	"cmp"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
)

const (
	window  = 4 // frets from the lowest to the highest fretted note
	highest = 12
	most    = 6 // voicings that are worth comparing in a progression
)

// What a voicing costs beyond holding it.
const (
	thinSound   = 0.18 // for each string that could sound and does not
	mutedInside = 0.7  // a silent string between sounding ones
	noFifth     = 0.2
	perFret     = 0.07
	openUpHigh  = 0.6 // open strings beside frets from the fifth up
)

// Voicing is a way to play a chord.
type Voicing struct {
	hand.Fingering
	Cost float64 // what it costs to hold it and how thin it sounds; less is better
}

// Find lists the voicings of a chord that are easiest to hold, best first:
// the bass lowest, every tone there but for a plain fifth of a four-note
// chord, no other note, within the player's reach. tuning counts from the
// capo. The list is empty where the hand can play none.
func Find(c chord.Chord, tuning neck.Tuning, player hand.Player) []Voicing {
	player = player.Usual()
	s := search{chord: c, tuning: tuning, player: player}
	for _, t := range c.Tones {
		class := (c.Root.Class() + t.Semitones) % 12
		s.wanted[class] = true
		if t.Degree != "5" || len(c.Tones) < 4 {
			s.needed = append(s.needed, class)
		}
	}
	s.bass = c.Lowest().Class()
	s.wanted[s.bass] = true
	last := min(highest, player.Neck().LastFret())
	for base := 1; base+window-1 <= last; base++ {
		s.base = base
		s.extend(0, neck.NoFrets, gaps{})
	}
	slices.SortStableFunc(s.found, func(a, b Voicing) int { return cmp.Compare(a.Cost, b.Cost) })
	return s.found[:min(most, len(s.found))]
}

type search struct {
	chord  chord.Chord
	tuning neck.Tuning
	player hand.Player
	wanted [12]bool
	needed []int
	bass   int
	base   int
	found  []Voicing
}

// gaps follows the strings of a shape from the thick side: whether any sounds
// yet, and how many silent ones lie between those that do.
type gaps struct {
	started       bool
	open, between int // silent since the last sounding string; before it
}

// mostInside is how many silent strings a voicing may have between sounding
// ones.
const mostInside = 1

// extend tries every fret of the window on the strings from index i.
func (s *search) extend(i int, f neck.Frets, g gaps) {
	if i == neck.Strings {
		s.consider(f, g.between)
		return
	}
	silent := g
	if g.started {
		silent.open++
	}
	s.extend(i+1, f, silent)
	if g.between+g.open > mostInside {
		return
	}
	sounding := gaps{started: true, between: g.between + g.open}
	for fret := 0; fret < s.base+window; fret++ {
		if fret > 0 && fret < s.base {
			fret = s.base
		}
		class := s.tuning.Pitch(neck.StringAt(i), fret).Class()
		if !s.wanted[class] || (!g.started && class != s.bass) {
			continue
		}
		next := f
		next[i] = int8(fret)
		s.extend(i+1, next, sounding)
	}
}

// consider keeps a shape that is the chord and that the hand can hold. inside
// counts the silent strings between sounding ones.
func (s *search) consider(f neck.Frets, inside int) {
	var has [12]bool
	sounding, low, high := 0, -1, 0
	lowest, base := s.tuning.Open(1)+neck.MaxFret, neck.MaxFret
	for i, fret := range f {
		if fret < 0 {
			continue
		}
		p := s.tuning.Pitch(neck.StringAt(i), int(fret))
		has[p.Class()] = true
		sounding++
		if low < 0 {
			low, lowest = i, p
		} else if p < lowest {
			return // the bass must be the lowest note in any tuning
		}
		if fret > 0 {
			base = min(base, int(fret))
		}
		high = i
	}
	// A shape belongs to the window that begins with its lowest fret; one of
	// open strings alone to the first.
	if sounding < min(3, len(s.needed)) || (base != s.base && (base < neck.MaxFret || s.base > 1)) {
		return
	}
	for _, class := range s.needed {
		if !has[class] {
			return
		}
	}
	best := Voicing{Cost: -1}
	for _, g := range s.player.Fingerings(f) {
		cost := grade.Hold(g, s.player).Total()
		if best.Cost < 0 || cost < best.Cost {
			best = Voicing{g, cost}
		}
	}
	if best.Cost < 0 {
		return
	}
	best.Cost += thinSound*float64(low+neck.Strings-1-high) + mutedInside*float64(inside) + perFret*float64(best.Base())
	if best.Base() >= 5 && slices.Contains(f[:], 0) {
		best.Cost += openUpHigh
	}
	for _, t := range s.chord.Tones {
		if !has[(s.chord.Root.Class()+t.Semitones)%12] {
			best.Cost += noFifth
		}
	}
	s.found = append(s.found, best)
}
