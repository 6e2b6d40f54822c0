package harmony

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Guess is a key and how well it fits; the best has 1.
type Guess struct {
	Key   pitch.Key
	Score float64
}

// What speaks for a key, in the measure of one foreign note in each of four
// chords. Held by TestKeys, TestCadencesNameTheirKey and the keys of
// docs/judgement.md.
const (
	firstTonic  = 2.2 // the first chord is the tonic: a form that loops comes back to it
	lastTonic   = 1.6
	leadsHome   = 0.8 // a dominant before the tonic
	onlySeventh = 2.4 // the dominant seventh that is of the key, and of no other major one, before its tonic
	foreignTone = 1.0
	foreignRoot = 1.0 // more, where it is the root
	perForeign  = 4.0
	modal       = 0.8 // a mode is said only where it explains more than major or minor
	lydianToo   = 1.2
	scoreRange  = 6.0
	passing     = 0.3 // the share of a diminished seventh that counts
	dwells      = 1.5 // the share of the notes that the tonic has
)

// modes are the modes that a song may be in, with what speaks against each.
var modes = []struct {
	mode    pitch.Mode
	against float64
}{{pitch.Major, 0}, {pitch.Minor, 0}, {pitch.Dorian, modal}, {pitch.Mixolydian, modal}, {pitch.Phrygian, modal}, {pitch.Lydian, lydianToo}}

// ear is what is known of a song when its key is looked for.
type ear struct {
	chords      []chord.Chord
	notes       [12]float64 // how long each class sounds
	sounding    float64
	first, last pitch.Class // of the notes
	heard       bool        // any note at all
}

// Keys lists the likely keys of chords, best first: those that have their
// notes, that begin and end on the tonic, and in which the dominant leads back
// to it. A seventh on 1, 4 and 5 is a blues and not foreign; a chord without a
// third fits major and minor. Keys are spelled as the chords are.
func Keys(chords []chord.Chord) []Guess {
	e := ear{chords: chords}
	return e.guess()
}

// KeysOfSong lists the likely keys of a song, by its chords and notes.
func KeysOfSong(s *song.Song) []Guess {
	var e ear
	named := s.Named()
	open := named.Open()
	for i := range s.Parts {
		bars := s.Parts[i].Bars()
		for b := range bars {
			for j := range bars[b].Events {
				ev := &bars[b].Events[j]
				if ev.Kind == song.Chord && !bars[b].StruckAgain(j) {
					e.chords = append(e.chords, ev.Chord)
				}
				for _, n := range ev.Notes {
					if !n.Dead {
						e.hear(n.Pitch(open).Class(), ev.Length.Float())
					}
				}
			}
		}
	}
	list := e.guess()
	if above := s.Above(); above != 0 {
		for i := range list {
			list[i].Key = list[i].Key.Transposed(above)
		}
	}
	return list
}

func (e *ear) hear(class pitch.Class, length float64) {
	e.notes[class] += length
	e.sounding += length
	if !e.heard {
		e.first, e.heard = class, true
	}
	e.last = class
}

func (e *ear) guess() []Guess {
	if len(e.chords) == 0 && !e.heard {
		return nil
	}
	var list []Guess
	for class := range pitch.Class(12) {
		for _, m := range modes {
			k := e.spelled(class, m.mode)
			list = append(list, Guess{k, e.fits(k) - m.against})
		}
	}
	slices.SortStableFunc(list, func(a, b Guess) int { return cmp.Compare(b.Score, a.Score) })
	best := list[0].Score
	for i := range list {
		list[i].Score = math.Round(100*max(1-(best-list[i].Score)/scoreRange, 0)) / 100
	}
	return list
}

// spelled is the key on a class, spelled as the chords spell it.
func (e *ear) spelled(class pitch.Class, mode pitch.Mode) pitch.Key {
	plain := pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: mode}.Transposed(int(class))
	flats := 0
	for _, c := range e.chords {
		if c.Root.Class() == class && c.Root.Accidental >= -1 && c.Root.Accidental <= 1 {
			return pitch.Key{Tonic: c.Root, Mode: mode}
		}
		flats -= int(c.Root.Accidental)
	}
	if flat := (pitch.Note{Letter: plain.Tonic.Up(2, 1).Letter, Accidental: -1}); flats > 0 && plain.Tonic.Accidental > 0 && flat.Class() == class {
		return pitch.Key{Tonic: flat, Mode: mode}
	}
	return plain
}

// fits is how much speaks for a key.
func (e *ear) fits(k pitch.Key) float64 {
	score := e.chordsFit(k)
	if e.heard {
		outside := 0.0
		for class, w := range e.notes {
			if !k.Contains(pitch.Class(class)) {
				outside += w / e.sounding
			}
		}
		tonic := k.Tonic.Class()
		score += dwells*e.notes[tonic]/e.sounding - 2*perForeign*outside
		if e.first == tonic {
			score += firstTonic / 2
		}
		if e.last == tonic {
			score += lastTonic / 2
		}
	}
	return score
}

func (e *ear) chordsFit(k pitch.Key) float64 {
	if len(e.chords) == 0 {
		return 0
	}
	foreign, score := 0.0, 0.0
	last := len(e.chords) - 1
	home := 0.0
	for i, c := range e.chords {
		foreign += foreignIn(c, k)
		if i > 0 && isTonic(c, k) && isDominant(e.chords[i-1], k) {
			home = max(home, leads(e.chords[i-1], c, k))
		}
	}
	score += home
	first := isTonic(e.chords[0], k)
	if first {
		score += firstTonic
	}
	switch {
	case isTonic(e.chords[last], k):
		score += lastTonic
	case first && isDominant(e.chords[last], k) && (k.Mode == pitch.Major || k.Mode == pitch.Minor):
		score += leads(e.chords[last], e.chords[0], k) // from where it loops
	}
	return score - perForeign*foreign/float64(len(e.chords))
}

// isTonic tells whether a chord is the tonic of a key; one without a third is
// that of the major and of the minor key.
func isTonic(c chord.Chord, k pitch.Key) bool {
	minor := !k.Contains(k.Tonic.Class().Up(4))
	return c.Root.Class() == k.Tonic.Class() && !(minor && c.Has(4)) && (minor || !c.Has(3) || c.Has(4))
}

func isDominant(c chord.Chord, k pitch.Key) bool {
	return c.Root.Class() == k.Tonic.Class().Up(7) && c.Has(4)
}

// leads is how much a dominant that goes to a tonic says of a key. A tonic with a
// seventh may be a dominant itself, on its way further round the circle.
func leads(dominant, tonic chord.Chord, k pitch.Key) float64 {
	if k.Mode == pitch.Major && dominant.Has(10) && !tonic.Has(10) {
		return onlySeventh
	}
	return leadsHome
}

// foreignIn counts what a chord has that a key has not.
func foreignIn(c chord.Chord, k pitch.Key) float64 {
	above := c.Root.Class().Above(k.Tonic.Class())
	minor := !k.Contains(k.Tonic.Class().Up(4))
	n := 0.0
	for _, t := range c.Tones {
		up := t.Class().Above(k.Tonic.Class())
		switch {
		case k.Contains(t.Class()),
			!minor && t.Degree.Semitones() == 10 && (above == 0 || above == 5 || above == 7), // a blues
			k.Mode == pitch.Minor && up == 11 && (above == 7 || above == 11):                 // the leading note
		case t.Degree.Number == 1:
			n += foreignTone + foreignRoot
		default:
			n += foreignTone
		}
	}
	if c.Has(3) && c.Has(6) && c.Has(9) { // a diminished seventh passes through
		n *= passing
	}
	return n
}
