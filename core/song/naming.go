package song

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Naming is what the names of chords mean where a capo, or a tuning that is moved as
// a whole, lifts all strings alike.
type Naming uint8

// The ways of naming.
const (
	Unsaid   Naming = iota // left to what is typed: see Song.Naming
	Shapes                 // what is fingered: G over a capo at 2 sounds A
	Sounding               // what is heard
)

var namings = [...]string{Unsaid: "", Shapes: "shapes", Sounding: "sounding"}

func (n Naming) String() string { return namings[n] }

// ParseNaming reads "shapes" or "sounding".
func ParseNaming(s string) (Naming, error) {
	for n, word := range namings {
		if word != "" && word == s {
			return Naming(n), nil
		}
	}
	return Unsaid, pitch.Malformedf("write shapes, sounding or numbers", "%q is not what chord names can mean", s)
}

// Lifted is by how many semitones the open strings sound above those whose shapes have
// the names that everybody knows: by the capo, and by a tuning that is moved as a
// whole.
func (s *Song) Lifted() int {
	_, by := s.Tuning.Moved()
	return s.Capo + by
}

// Naming is what the names of chords mean in the song, as one reading for all of it:
// what it says, or what the voicings that are typed with names spell, or what the key
// decides where it fits only one of the two; else they are shapes, as players mean
// them.
func (s *Song) Naming() Naming {
	if s.Names != Unsaid {
		return s.Names
	}
	if s.Lifted() == 0 {
		return Shapes
	}
	if voiced := s.byVoicings(); voiced != Unsaid {
		return voiced
	}
	if s.byKey(func(*Part) bool { return true }) == Sounding {
		return Sounding
	}
	return Shapes
}

// Voiced tells whether the voicings that are typed decide what names are.
func (s *Song) Voiced() bool { return s.byVoicings() != Unsaid }

// byVoicings is the reading that the voicings decide, Unsaid where there are none or
// where they do not agree.
func (s *Song) byVoicings() Naming {
	var votes [3]int
	s.eachName(func(_ *Part, e *Event) { votes[s.spelled(e)]++ })
	switch {
	case votes[Shapes] > 0 && votes[Sounding] == 0:
		return Shapes
	case votes[Sounding] > 0 && votes[Shapes] == 0:
		return Sounding
	}
	return Unsaid
}

// Above is by how many semitones what sounds lies above what the names of chords say.
func (s *Song) Above() int {
	if s.Lifted() == 0 || s.Naming() == Sounding {
		return 0
	}
	return s.Lifted()
}

// Disagreement is something typed that does not agree with what the names of chords
// mean in the rest of a song.
type Disagreement struct {
	Reading Naming // of the song
	Part    int
	Event   *Event // a chord with a voicing that spells the other reading; nil where the Part's key is what disagrees
}

// Disagreements lists what does not agree with the naming of the song: names with
// voicings that spell the other one, each once, and parts whose key fits only the other.
func (s *Song) Disagreements() (list []Disagreement) {
	if s.Lifted() == 0 {
		return nil
	}
	reading := s.Naming()
	type voiced struct {
		symbol string
		frets  neck.Frets
	}
	seen := map[voiced]bool{}
	told := make([]bool, len(s.Parts))
	s.eachName(func(p *Part, e *Event) {
		part := s.index(p)
		is := s.spelled(e)
		if key := (voiced{e.Chord.Symbol, e.Frets}); is != Unsaid && is != reading && !seen[key] {
			seen[key], told[part] = true, true
			list = append(list, Disagreement{reading, part, e})
		}
	})
	for i := range s.Parts {
		p := &s.Parts[i]
		if fits := s.byKey(func(q *Part) bool { return q == p }); !told[i] && fits != Unsaid && fits != reading {
			list = append(list, Disagreement{Reading: reading, Part: i})
		}
	}
	return list
}

func (s *Song) index(p *Part) int {
	for i := range s.Parts {
		if &s.Parts[i] == p {
			return i
		}
	}
	return -1
}

// eachName calls do for every chord by name, those of other players too.
func (s *Song) eachName(do func(p *Part, e *Event)) {
	for i := range s.Parts {
		p := &s.Parts[i]
		each := func(bars []Bar) {
			for b := range bars {
				for j := range bars[b].Events {
					if e := &bars[b].Events[j]; e.Kind == Chord {
						do(p, e)
					}
				}
			}
		}
		for _, l := range p.Lines {
			each(l.Bars)
			for _, v := range l.Beside {
				each(v.Bars)
			}
		}
	}
}

// spelled is the reading in which a name is what its voicing sounds; Unsaid where there
// is no voicing, and where both or neither fit.
func (s *Song) spelled(e *Event) Naming {
	if e.Frets == neck.NoFrets {
		return Unsaid
	}
	classes, _ := neck.Instrument{Tuning: s.Open()}.Classes(e.Frets)
	means := e.Chord.Classes().With(e.Chord.Lowest().Class())
	root := e.Chord.Root.Class()
	sounding := classes.Has(root) && classes.In(means)
	lowered := classes.From(pitch.Class(0).Up(s.Lifted()))
	shapes := lowered.Has(root) && lowered.In(means)
	switch {
	case shapes && !sounding:
		return Shapes
	case sounding && !shapes:
		return Sounding
	}
	return Unsaid
}

// What decides between two readings: how much better one has to fit a key, in the
// measure of one foreign note in each chord, and how much the tonic at either end
// counts.
const (
	fitsBetter = 0.5
	tonicThere = 0.5
)

// byKey is the reading that alone fits the keys of some parts, which are keys of what
// sounds; Unsaid where both fit as well.
func (s *Song) byKey(which func(*Part) bool) Naming {
	var fits [2]float64 // sounding, shapes
	var last struct {
		key   pitch.Key
		chord chord.Chord
	}
	chords := 0
	for shapes, lift := range []int{0, s.Lifted()} {
		chords = 0
		s.eachName(func(p *Part, e *Event) {
			if !p.Key.Valid() || !which(p) {
				return
			}
			chords++
			if chords == 1 && isTonic(e.Chord, lift, p.Key) {
				fits[shapes] += tonicThere
			}
			last.key, last.chord = p.Key, e.Chord
		})
		if chords == 0 {
			return Unsaid
		}
		s.eachName(func(p *Part, e *Event) {
			if p.Key.Valid() && which(p) {
				fits[shapes] -= float64(foreign(e.Chord, lift, p.Key)) / float64(chords)
			}
		})
		if isTonic(last.chord, lift, last.key) {
			fits[shapes] += tonicThere
		}
	}
	switch {
	case fits[0] >= fits[1]+fitsBetter:
		return Sounding
	case fits[1] >= fits[0]+fitsBetter:
		return Shapes
	}
	return Unsaid
}

// isTonic tells whether a chord that sounds so much higher is built on the tonic.
func isTonic(c chord.Chord, lift int, k pitch.Key) bool {
	return c.Root.Class().Up(lift) == k.Tonic.Class()
}

// foreign counts the notes of a chord that sounds so much higher which a key does not
// have; a seventh on 1, 4 and 5 is a blues, and the leading note of a minor key its
// own.
func foreign(c chord.Chord, lift int, k pitch.Key) (n int) {
	above := c.Root.Class().Up(lift).Above(k.Tonic.Class())
	for _, t := range c.Tones {
		up := t.Class().Up(lift).Above(k.Tonic.Class())
		switch {
		case k.Contains(t.Class().Up(lift)),
			t.Degree.Semitones() == 10 && (above == 0 || above == 5 || above == 7),
			k.Mode == pitch.Minor && up == 11 && (above == 7 || above == 11):
		default:
			n++
		}
	}
	return n
}

// Named is the song in the pitches of which the names of its chords speak: its strings
// and keys lowered by what lifts them, where names are shapes. Frets and shapes are the
// same. It shares everything else with the song; where nothing is lifted it is the song
// itself.
func (s *Song) Named() *Song {
	above := s.Above()
	if above == 0 {
		return s
	}
	named := *s
	named.Names = s.Naming()
	named.Tuning = s.Tuning.Up(-above)
	named.Key = s.Key.Transposed(-above)
	named.Parts = make([]Part, len(s.Parts))
	for i := range s.Parts {
		named.Parts[i] = s.Parts[i]
		named.Parts[i].Key = s.Parts[i].Key.Transposed(-above)
	}
	return &named
}

// Heard is the song with its chords named by what sounds. It shares everything else
// with the song; where names are that already it is the song itself.
func (s *Song) Heard() *Song {
	lift := s.Lift()
	if !lift.Shapes() {
		return s
	}
	heard := *s
	heard.Names = Sounding
	heard.Parts = make([]Part, len(s.Parts))
	for i := range s.Parts {
		p := &heard.Parts[i]
		*p = s.Parts[i]
		rename := func(bars []Bar) []Bar {
			list := slices.Clone(bars)
			for b := range list {
				list[b].Events = slices.Clone(list[b].Events)
				for j := range list[b].Events {
					if e := &list[b].Events[j]; e.Kind == Chord {
						e.Chord = lift.Sounds(e.Chord, p.Key)
					}
				}
			}
			return list
		}
		p.Lines = slices.Clone(p.Lines)
		for l := range p.Lines {
			line := &p.Lines[l]
			line.Bars, line.Beside = rename(line.Bars), slices.Clone(line.Beside)
			for v := range line.Beside {
				line.Beside[v].Bars = rename(line.Beside[v].Bars)
			}
		}
	}
	return &heard
}

// Lift is how the names of chords lie to what is fingered and to what sounds, the same
// for a whole song. The zero Lift is that of strings that nothing lifts: all three are
// one.
type Lift struct {
	By    int    // semitones from the shapes to what sounds
	Names Naming // what the names of chords are
}

// Lift is that of the song.
func (s *Song) Lift() Lift {
	if s.Lifted() == 0 {
		return Lift{}
	}
	return Lift{s.Lifted(), s.Naming()}
}

// Any tells whether what is fingered and what sounds have different names.
func (l Lift) Any() bool { return l.By != 0 }

// Shapes tells whether names are those of shapes.
func (l Lift) Shapes() bool { return l.By != 0 && l.Names != Sounding }

// Sounds is what a chord sounds that is named as in the song, in the key of what sounds.
func (l Lift) Sounds(c chord.Chord, key pitch.Key) chord.Chord {
	if !l.Shapes() {
		return c
	}
	return moved(c, key.Transposed(-l.By), key, l.By)
}

// Shape is the chord whose shape is fingered for one that is named as in the song, in
// the key of what sounds.
func (l Lift) Shape(c chord.Chord, key pitch.Key) chord.Chord {
	if l.By == 0 || l.Shapes() {
		return c
	}
	return moved(c, key, key.Transposed(-l.By), -l.By)
}

// moved is a chord so many semitones higher, from one key to another where they are
// known.
func moved(c chord.Chord, from, to pitch.Key, by int) chord.Chord {
	if from.Valid() {
		return c.Between(from, to)
	}
	return c.Transposed(by, to)
}
