package arrange

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// What a part is made of: shapes that are held while their notes are picked,
// figures over a bass, notes that recur under a moving one, lead lines. A
// version keeps to it.

// heldShape is a shape whose notes are picked one by one.
type heldShape struct {
	hand.Fingering
	chord chord.Chord // that it is taken from
}

// hold finds the stretches of single notes, or of notes pinched two at a time among
// them, that are one shape: a fret for each string, on three strings at least,
// going from string to string, which a hand can hold. Each note of it keeps its
// finger for as long as the shape lasts. Notes that are written to ring are such a
// shape in whatever order they are picked.
func (s *score) hold(set setup) {
	const leastNotes, leastStrings = 3, 3
	for first := 0; first < len(s.events); {
		bar := s.events[first].bar
		shape := neck.NoFrets
		strings, moves, pinched := 0, 0, 0
		last := neck.String(0)
		end := first
		var fits hand.Held
		rings := true
		for ; end < len(s.events) && s.events[end].bar == bar; end++ {
			notes := pickedAlone(s.events[end].from)
			next, more, ok := together(shape, notes)
			if !ok {
				break
			}
			if more > 0 {
				held, ok := set.at.Taught(next)
				if !ok || held.Reach > set.at.Reach {
					break
				}
				fits = held
				strings += more
			}
			if len(notes) > 1 {
				pinched++
			}
			if low := notes[0].String; last != 0 && last != low {
				moves++
			}
			last, shape = notes[0].String, next
			rings = rings && s.events[end].from.Rings(s.part)
		}
		n := end - first
		whole := end == len(s.events) || s.events[end].bar != bar
		runs := 2*pinched <= n && moves*4 >= (n-1)*3 && (n > leastNotes || whole)
		if strings >= leastStrings && n >= leastNotes && (runs || rings) && fits.Fretted() {
			if c, ok := chordOf(set.written, shape, s.part.Key); ok {
				for i := first; i < end; i++ {
					s.events[i].held = len(s.held)
				}
				of := set.pickedFrom(c, shape, s.part.Key)
				s.held = append(s.held, heldShape{set.fingersOf(of, fits.Fingering), of})
			}
		}
		if end == first {
			end++
		}
		first = end
	}
}

// fingersOf are the fingers of a picked shape: those of the usual shape of its chord, of
// which it is a part, or else those that it was given.
func (set *setup) fingersOf(c chord.Chord, picked hand.Fingering) hand.Fingering {
	for _, v := range set.options.Book.Usual(c, set.written, set.at.Player, 2) {
		if covers(v.Frets, picked.Frets) {
			for i := range picked.Frets {
				if picked.Frets[i] > 0 {
					picked.Fingers[i] = v.Fingers[i]
				}
			}
			return picked
		}
	}
	return picked
}

// pickedAlone are the one or two notes of an event that are picked plainly; none
// where it is anything else.
func pickedAlone(e *song.Event) []song.Note {
	if e.Kind != song.Notes || len(e.Notes) == 0 || len(e.Notes) > 2 {
		return nil
	}
	for _, n := range e.Notes {
		if n.Dead || n.By != song.Picked || n.Bend != 0 || n.Harmonic {
			return nil
		}
	}
	return e.Notes
}

// together is a shape with more notes, and how many strings they add; ok is false
// where there are none, or where one is at another fret of its string.
func together(shape neck.Frets, notes []song.Note) (next neck.Frets, more int, ok bool) {
	for _, n := range notes {
		i := n.String.Index()
		if shape[i] >= 0 && int(shape[i]) != n.Fret {
			return shape, 0, false
		}
		if shape[i] < 0 {
			shape[i] = int8(n.Fret)
			more++
		}
	}
	return shape, more, len(notes) > 0
}

// bassString is the thinnest string on which the lowest note of an arpeggio is its
// bass.
const bassString neck.String = 5

// pickedFrom is the chord from whose usual shape some notes are picked, where
// they spell another one by themselves: a root and a fifth are picked from the
// key's chord on that root, a chord over its third from the whole of it. Half of
// the strings, the lowest with them, have to be those of the usual shape.
func (set *setup) pickedFrom(spelled chord.Chord, picked neck.Frets, key pitch.Key) chord.Chord {
	symbol := ""
	low := hand.Fingering{Frets: picked}.Lowest()
	switch root := spelled.Root; {
	case spelled.Bass.Valid() && low >= bassString:
		return spelled // the bass is the point of it
	case spelled.Bass.Valid() && spelled.Classes().Has(spelled.Bass.Class()):
		symbol = root.String() + spelled.Suffix()
	case len(spelled.Tones) == 2 && key.Valid() && key.Contains(root.Class().Up(4)):
		symbol = root.String()
	case len(spelled.Tones) == 2 && key.Valid() && key.Contains(root.Class().Up(3)):
		symbol = root.String() + "m"
	}
	whole, err := chord.Parse(symbol)
	if err != nil {
		return spelled
	}
	usual := set.options.Book.Usual(whole, set.written, set.at.Player, 1)
	if len(usual) == 0 {
		return spelled
	}
	strings, same := 0, 0
	for i := neck.Strings - 1; i >= 0; i-- { // the lowest comes last
		if picked[i] < 0 {
			continue
		}
		strings++
		if picked[i] == usual[0].Frets[i] {
			same++
		}
	}
	if 2*same < strings || usual[0].Frets.On(low) != picked.On(low) {
		return spelled
	}
	return whole
}

// several tells whether an event is a chord by name or several notes with a pitch.
func several(e *song.Event) bool {
	sounding := 0
	for _, n := range e.Notes {
		if !n.Dead {
			sounding++
		}
	}
	return e.Kind == song.Chord || sounding > 1
}

// besideChords tells which single notes of the part stand among chords and stay what they
// are: those of a bar that has chords, chugs that stand in such a bar too, and fills on
// the thin strings.
func (s *score) besideChords() []bool {
	beside := make([]bool, len(s.events))
	mixed := make([]bool, len(s.bars))
	chords := false
	for i := range s.events {
		if several(s.events[i].from) {
			mixed[s.events[i].bar], chords = true, true
		}
	}
	if !chords {
		return beside
	}
	chugs := map[song.Note]bool{}
	for i := range s.events {
		if n, ok := single(s.events[i].from); ok && mixed[s.events[i].bar] {
			n.By = song.Picked
			chugs[n] = true
		}
	}
	for first := 0; first < len(s.events); {
		end, singles, same := first, 0, 0
		for ; end < len(s.events) && s.events[end].bar == s.events[first].bar; end++ {
			if n, ok := single(s.events[end].from); ok {
				n.By = song.Picked
				singles++
				if chugs[n] {
					same++
				}
				beside[end] = mixed[s.events[end].bar] || n.String <= 3
			}
		}
		if same == singles { // nothing but chugs
			for i := first; i < end; i++ {
				_, ok := single(s.events[i].from)
				beside[i] = beside[i] || ok
			}
		}
		first = end
	}
	return beside
}

// single is the note of an event that is one note with a pitch.
func single(e *song.Event) (song.Note, bool) {
	if e.Kind != song.Notes || len(e.Notes) != 1 || e.Notes[0].Dead {
		return song.Note{}, false
	}
	return e.Notes[0], true
}

// arpeggio tells whether most notes of the part are picked from held shapes.
func (s *score) arpeggio() bool {
	held := 0
	for i := range s.events {
		if s.events[i].held >= 0 {
			held++
		}
	}
	return held > 0 && 10*held >= 6*len(s.events)
}

// lead tells whether a part is a lead line: single notes with bends or taps, or
// most of them high up the neck, or four in ten on the three thin strings.
func (s *score) lead() bool {
	notes, bent, tapped, high, thin := 0, 0, 0, 0, 0
	for i := range s.events {
		n, ok := single(s.events[i].from)
		if !ok {
			if e := s.events[i].from; !e.Dead() {
				notes++
				if slices.ContainsFunc(e.Notes, func(n song.Note) bool { return n.Bend != 0 }) { // a unison bend
					bent++
				}
			}
			continue
		}
		notes++
		if n.Bend != 0 {
			bent++
		}
		if n.By == song.Tapped {
			tapped++
		}
		if n.Fret > leadFret && !n.Harmonic {
			high++
		}
		if n.String <= 3 && !n.Harmonic {
			thin++
		}
	}
	quick := len(s.events) > 1 && s.events[len(s.events)-1].at/float64(len(s.events)-1) < leadPace
	return tapped > 0 || 8*bent > notes || 10*thin >= 4*notes && thin > 0 || quick && 2*high > notes
}

// What makes a lead line: the fret above which it lies, and the pace in seconds
// from note to note below which it runs.
const (
	leadFret = 9
	leadPace = 0.5
)

// mostAbove is how far above what is typed a rung may lie.
const mostAbove = 2

// tooHigh finds a root of the part for which every shape would lie above fret 12
// while the notes are typed below it: the highest fret of it that is typed and
// the lowest that would be needed; 0 where there is none.
func (s *score) tooHigh(set setup) (typed, needed int) {
	const twelfth = 12
	for i := range s.events {
		e := &s.events[i]
		h := &s.contents[e.content].harmony
		if e.from.Kind != song.Notes || e.from.Dead() || len(h.pitches) == 0 {
			continue
		}
		top := topFret(e.from)
		least := 0
		for _, str := range rootStrings(e.from, h.at) {
			if fret := set.in.Fret(str, h.root); fret >= 0 && fret <= set.in.LastFret() && (least == 0 || fret < least) {
				least = fret
			}
			if set.in.Fret(str, h.root) == 0 {
				least = -1
			}
		}
		if least > twelfth && top <= twelfth {
			return top, least
		}
	}
	return 0, 0
}

// topFret is the highest fret of an event as it is typed.
func topFret(e *song.Event) int {
	top := 0
	for _, n := range e.Notes {
		if !n.Dead {
			top = max(top, n.Fret)
		}
	}
	return top
}

// rootStrings lists the strings on which the root of a power chord may stand:
// 6, 5 and 4, and a thin string where it was written there, of a chord as at says.
func rootStrings(e *song.Event, at neck.String) []neck.String {
	list := []neck.String{6, 5, 4}
	if e.Kind == song.Notes && len(e.Notes) > 0 {
		at = e.Notes[0].String
	}
	if at > 0 && at <= 3 {
		list = append(list, at)
	}
	return list
}

// figures tells which pairs of notes of a bar are one moving over a bass that
// stays, as in a fifth that goes to the sixth and back: their root is that bass. A
// figure ends where the bass changes.
func figures(events []song.Event) []bool {
	is := make([]bool, len(events))
	for first := 0; first < len(events); {
		bass := song.Note{}
		top := map[song.Note]bool{}
		pairs := 0
		end := first
		for ; end < len(events); end++ {
			e := &events[end]
			if e.Kind != song.Notes || e.Dead() || len(e.Notes) != 2 {
				continue
			}
			if pairs > 0 && e.Notes[0] != bass {
				break
			}
			bass = e.Notes[0]
			top[e.Notes[1]] = true
			pairs++
		}
		for i := first; i < end && len(top) > 1; i++ {
			is[i] = true
		}
		first = end
	}
	return is
}

// tappedRuns gives for each event of a bar the lowest note of the tapped run that
// it begins, 0 where it begins none.
func tappedRuns(events []song.Event, in neck.Instrument) []pitch.Pitch {
	lowest := make([]pitch.Pitch, len(events))
	open := in.Open()
	for i := range events {
		n, ok := single(&events[i])
		if !ok || n.By != song.Tapped {
			continue
		}
		low := n.Pitch(open)
		for j := i + 1; j < len(events); j++ {
			next, ok := single(&events[j])
			if !ok || next.By == song.Tapped || next.By == song.Picked {
				break
			}
			low = min(low, next.Pitch(open))
		}
		lowest[i] = low
	}
	return lowest
}

// pedals finds the notes that stay on their string where they are written: those
// that move over an open string that recurs, all on one string, and those that
// alternate with dead strokes of their own string.
func (s *score) pedals() {
	for first := 0; first < len(s.events); {
		end := first
		for end < len(s.events) && s.events[end].line == s.events[first].line {
			end++
		}
		s.pedal(first, end)
		first = end
	}
}

func (s *score) pedal(first, end int) {
	var dead neck.StringSet
	open := map[neck.String]int{}
	var moving []neck.String
	highest := 0
	for i := first; i < end; i++ {
		e := s.events[i].from
		for _, n := range e.Notes {
			if n.Dead {
				dead = dead.With(n.String)
			}
		}
		n, ok := single(e)
		switch {
		case !ok:
			continue
		case n.Fret == 0:
			open[n.String]++
		default:
			if !slices.Contains(moving, n.String) {
				moving = append(moving, n.String)
			}
			highest = max(highest, n.Fret)
		}
	}
	recurs := false
	for str, n := range open {
		recurs = recurs || n >= 2 && len(moving) == 1 && (str != moving[0] && highest > 2 || 3*n >= end-first || highest > 7)
	}
	for i := first; i < end; i++ {
		n, ok := single(s.events[i].from)
		s.events[i].keeps = ok && (recurs || dead.Has(n.String))
	}
}
