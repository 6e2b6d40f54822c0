package sheet

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Transposed is a sheet in another key.
type Transposed struct {
	Text  string
	Notes []string // what could not simply be moved, and what became of it
}

// Transpose writes the sheet in another key of the same mode. Chords are
// spelled by the new key; frets move along the neck, a part as a whole, up or
// down by whichever fits and is less. With a capo the frets stay, and the names of
// shapes, and the capo takes the key up. Sheets with errors, and songs without a key, are refused.
func (s *Sheet) Transpose(to pitch.Key, capo bool) (Transposed, error) {
	from := s.Song.Key
	switch {
	case !s.OK():
		return Transposed{}, fmt.Errorf("the sheet has errors; mend them first")
	case !from.Valid():
		return Transposed{}, fmt.Errorf("the song has no key; add a line such as key: A minor")
	case from.Mode != to.Mode:
		return Transposed{}, fmt.Errorf("the song is in %s; a %s key is needed, such as %s %s", from, from.Mode, to.Tonic, from.Mode)
	}
	by := to.Tonic.Class().Above(from.Tonic.Class())
	t := transposer{sheet: s, by: by, to: to, capo: capo, shapes: s.Song.Naming() == song.Shapes, last: neck.MaxFret - s.Song.Capo}
	if capo {
		at := s.Song.Capo + by
		if at > MaxCapo {
			return Transposed{}, fmt.Errorf("the capo would have to sit at fret %d, the limit is %d; transpose by moving instead", at, MaxCapo)
		}
		if at > highCapo {
			t.notes = append(t.notes, fmt.Sprintf("the capo sits at fret %d, where it sounds thin and leaves little neck; moving the frets down by %d is nearer", at, 12-by))
		}
	}
	out := &Sheet{Song: s.Song, Lines: make([]Line, 0, len(s.Lines)+1)}
	hasCapo := slices.ContainsFunc(s.Lines, func(l Line) bool { return l.Kind == Setting && strings.HasPrefix(l.Text, "capo: ") })
	shifts := t.shifts()
	part := -1
	for _, l := range s.Lines {
		switch {
		case l.Kind == PartName:
			part++
		case l.Kind == Setting && strings.HasPrefix(l.Text, "key: "):
			l.Text = "key: " + t.keyOf(part).String()
			if part < 0 && capo && !hasCapo && by > 0 {
				out.Lines = append(out.Lines, l)
				l = Line{Kind: Setting, Text: "capo: " + strconv.Itoa(s.Song.Capo+by)}
			}
		case l.Kind == Setting && strings.HasPrefix(l.Text, "capo: ") && capo:
			l.Text = "capo: " + strconv.Itoa(s.Song.Capo+by)
		case l.Kind == Music:
			l.Bars = slices.Clone(l.Bars)
			keys := [2]pitch.Key{s.Song.Parts[l.Part].Key, t.keyOf(l.Part)}
			if !keys[0].Valid() {
				keys[0] = from
			}
			if above := s.Song.Above(); above != 0 { // their names are of other keys
				keys = [2]pitch.Key{keys[0].Transposed(-above), keys[1].Transposed(-above)}
			}
			t.where = s.Song.Parts[l.Part].Name
			shift := t.phrase(l, shifts[voice{l.Part, l.Player}])
			for i := range l.Bars {
				t.where = fmt.Sprintf("%s, %d", s.Song.Parts[l.Part].Name, i+1)
				l.Bars[i].Slots = t.slots(l.Bars[i].Slots, shift, keys)
			}
		}
		out.Lines = append(out.Lines, l)
	}
	return Transposed{Text: out.Format(), Notes: t.notes}, nil
}

// highCapo is the highest fret at which a capo is put without a second thought.
const highCapo = 7

// transposer moves the slots of a sheet.
type transposer struct {
	sheet  *Sheet
	by     int // semitones up, 0 to 11
	to     pitch.Key
	capo   bool
	shapes bool // names are those of shapes, which a capo leaves as they are
	last   int  // highest fret
	where  string
	notes  []string
}

// voice is what moves as a whole: the line of a player in a part.
type voice struct {
	part   int
	player string
}

// keyOf is the new key of a part; −1 is the song's.
func (t *transposer) keyOf(part int) pitch.Key {
	old := t.sheet.Song.Key
	if part >= 0 {
		if k := t.sheet.Song.Parts[part].Key; k.Valid() {
			old = k
		}
	}
	if old == t.sheet.Song.Key {
		return t.to
	}
	return old.Transposed(t.by)
}

// shifts finds for every voice by how many frets it moves: the way up or the
// way down, whichever keeps more notes on the neck, and of two that keep all
// the shorter.
func (t *transposer) shifts() map[voice]int {
	frets := map[voice][]int{}
	for _, l := range t.sheet.Lines {
		if l.Kind != Music {
			continue
		}
		v := voice{l.Part, l.Player}
		frets[v] = append(frets[v], []int{}...) // there, also without a note
		for _, b := range l.Bars {
			eachEvent(b.Slots, func(e *song.Event) {
				for _, n := range e.Notes {
					if !n.Dead && !n.Harmonic {
						frets[v] = append(frets[v], n.Fret)
					}
				}
			})
		}
	}
	shifts := map[voice]int{}
	for v, list := range frets {
		best, off := 0, -1
		for _, shift := range []int{t.by, t.by - 12} {
			outside := 0
			for _, f := range list {
				if f+shift < 0 || f+shift > t.last {
					outside++
				}
			}
			if off < 0 || outside < off || outside == off && abs(shift) < abs(best) {
				best, off = shift, outside
			}
		}
		shifts[v] = best
		if shorter := min(t.by, 12-t.by); abs(best) != shorter && len(list) > 0 && !t.capo {
			t.where = t.sheet.Song.Parts[v.part].Name
			t.say("it moves %d frets %s as a whole, since %d frets the other way would leave the neck", abs(best), map[bool]string{true: "up", false: "down"}[best > 0], shorter)
		}
	}
	return shifts
}

func abs(n int) int { return max(n, -n) }

// eachEvent calls f for every event among slots.
func eachEvent(slots []Slot, f func(*song.Event)) {
	for i := range slots {
		switch slots[i].Kind {
		case Bracket:
			eachEvent(slots[i].Group, f)
		case Plays:
			f(&slots[i].Event)
		}
	}
}

// slots is a moved copy.
func (t *transposer) slots(list []Slot, shift int, keys [2]pitch.Key) []Slot {
	list = slices.Clone(list)
	for i := range list {
		switch s := &list[i]; s.Kind {
		case Bracket:
			s.Group = t.slots(s.Group, shift, keys)
		case Plays:
			t.event(&s.Event, shift, keys)
		}
	}
	return list
}

func (t *transposer) say(format string, a ...any) {
	if n := t.where + ": " + fmt.Sprintf(format, a...); !slices.Contains(t.notes, n) {
		t.notes = append(t.notes, n)
	}
}

// event moves one event.
func (t *transposer) event(e *song.Event, shift int, keys [2]pitch.Key) {
	if e.Kind == song.Chord && !(t.capo && t.shapes) {
		e.Chord = e.Chord.Between(keys[0], keys[1])
		if e.Frets != neck.NoFrets && !t.capo {
			e.Frets, e.Fingers = t.shape(e.Frets, e.Chord.Symbol), [neck.Strings]song.Finger{}
		}
	}
	if t.capo {
		return
	}
	e.Notes = slices.Clone(e.Notes)
	taken := map[neck.String]bool{}
	for i := range e.Notes {
		taken[e.Notes[i].String] = true
	}
	for i := range e.Notes {
		t.note(&e.Notes[i], shift, taken)
	}
	slices.SortFunc(e.Notes, func(a, b song.Note) int { return int(b.String - a.String) })
}

// phrase is by how many frets a line of music moves: by an octave more or less
// than its voice where one of its notes would have no place on the neck, and
// all of them do there. What leaves the neck moves as a whole.
func (t *transposer) phrase(l Line, shift int) int {
	if t.capo {
		return shift
	}
	open := t.sheet.Song.Open()
	low, high := pitch.Pitch(1000), pitch.Pitch(0)
	for _, b := range l.Bars {
		eachEvent(b.Slots, func(e *song.Event) {
			for _, n := range e.Notes {
				if !n.Dead {
					low, high = min(low, n.Pitch(open)), max(high, n.Pitch(open))
				}
			}
		})
	}
	lowest, highest := open.Open(neck.Strings), open.Open(1)+pitch.Pitch(t.last)
	fits := func(shift int) bool {
		return low+pitch.Pitch(shift) >= lowest && high+pitch.Pitch(shift) <= highest
	}
	if low > high || fits(shift) {
		return shift
	}
	for _, by := range []int{12, -12} {
		if fits(shift + by) {
			t.say("a line would leave the neck and moves as a whole, an octave %s", map[int]string{12: "higher", -12: "lower"}[by])
			return shift + by
		}
	}
	return shift
}

// shape moves a voicing. One with open strings does not move: it is left to the
// usual shape of the chord, as is one that does not fit.
func (t *transposer) shape(f neck.Frets, name string) neck.Frets {
	if slices.Contains(f[:], 0) {
		t.say("%s has open strings, which do not move along: %s is left to its usual shape", f, name)
		return neck.NoFrets
	}
	shifts := []int{t.by, t.by - 12}
	if t.by > 6 {
		slices.Reverse(shifts)
	}
	for _, shift := range shifts {
		moved, fits := f, true
		for i := range moved {
			if moved[i] >= 0 {
				moved[i] += int8(shift)
				fits = fits && moved[i] >= 0 && int(moved[i]) <= t.last
			}
		}
		if fits {
			return moved
		}
	}
	t.say("the voicing of %s does not fit the neck there and is left to the program", name)
	return neck.NoFrets
}

// note moves one note along its string, or to another string where it would
// leave the neck.
func (t *transposer) note(n *song.Note, shift int, taken map[neck.String]bool) {
	if n.Dead {
		return
	}
	open := t.sheet.Song.Open()
	fret, lowest := n.Fret+shift, 0
	if n.Bend != 0 {
		lowest = 1 // an open string cannot be bent
	}
	if !n.Harmonic && fret >= lowest && fret <= t.last {
		if n.Fret = fret; fret == 0 {
			n.Finger = 0
		}
		return
	}
	n.Finger = 0
	// Harmonics lie only at their own frets, so they are fretted where they
	// sound.
	bend := pitch.Pitch((n.Bend + 50) / 100)
	sounds := n.Pitch(open) - bend + pitch.Pitch(shift)
	was := FormatEvent(&song.Event{Kind: song.Notes, Notes: []song.Note{*n}})
	for _, octave := range []pitch.Pitch{0, 12, -12, 24, -24} {
		for _, s := range nearestStrings(n.String) {
			f := open.Fret(s, sounds+octave)
			if f < lowest || f > t.last || taken[s] && s != n.String {
				continue
			}
			delete(taken, n.String)
			taken[s] = true
			n.String, n.Fret, n.Harmonic = s, f, false
			now := FormatEvent(&song.Event{Kind: song.Notes, Notes: []song.Note{*n}})
			switch {
			case octave != 0:
				t.say("%s has no place there and sounds in another octave, as %s", was, now)
			default:
				t.say("%s lies on another string or fret, as %s", was, now)
			}
			return
		}
	}
	t.say("%s has no place on this neck and stays where it is: mend it by hand", was)
}

// nearestStrings lists the strings from one outwards.
func nearestStrings(s neck.String) []neck.String {
	list := []neck.String{s}
	for d := neck.String(1); d < neck.Strings; d++ {
		for _, at := range []neck.String{s + d, s - d} {
			if at >= 1 && at <= neck.Strings {
				list = append(list, at)
			}
		}
	}
	return list
}
