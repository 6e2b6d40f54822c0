package voicing

import (
	"cmp"
	"math/bits"
	"slices"
	"sync"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
)

// highest is the highest fret of a voicing, counted from the capo.
const highest = 15

// mostInside is how many silent strings a voicing may have between sounding
// ones.
const mostInside = 1

// shape is a full voicing: of the tones of a chord and its bass, with no other
// note.
type shape struct {
	hand.Fingering
	hold    float64
	classes uint16
	bass    int // the pitch class that sounds lowest
}

// Book remembers the shapes of chords. The zero Book is empty and ready; it
// may be used by several goroutines.
type Book struct {
	mu     sync.Mutex
	known  map[bookKey][]shape
	chosen map[choiceKey][]Voicing
}

// choiceKey is what the choices for a chord depend on.
type choiceKey struct {
	chord string
	pin   neck.Frets
	cfg   Config
}

type bookKey struct {
	degrees string // of the chord, with its root and bass
	tuning  neck.Tuning
	player  hand.Player
	kind    kind
}

// kind is which of the full voicings of a chord are listed: the fewer, the
// sooner.
type kind uint8

const (
	whole  kind = iota // all of them
	rooted             // those with their root
	usual              // those on their bass that miss nothing but a plain fifth of four tones
)

// mostRemembered bounds a book.
const mostRemembered = 256

// shapes lists the full voicings of a chord.
func (b *Book) shapes(c chord.Chord, t neck.Tuning, p hand.Player, k kind) []shape {
	p.LeftHanded, p.NotesPerSecond, p.Picking = false, 0, "" // none of these changes a shape
	key := bookKey{c.Canonical(), t, p, k}
	b.mu.Lock()
	found, ok := b.known[key]
	b.mu.Unlock()
	if ok {
		return found
	}
	found = enumerate(c, t, p.Usual(), k)
	if k == usual {
		byUse(c, found)
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.known == nil || len(b.known) >= mostRemembered {
		b.known = map[bookKey][]shape{}
	}
	b.known[key] = found
	return found
}

// enumerate lists every full voicing that a player can hold: at least three
// strings (two of a power chord), frets up to highest, at most one string
// silent between sounding ones and a finger next to it, every tone there but those that a chord can do
// without: a plain fifth; the root of a seventh chord, which the bass may play;
// and of richer chords as many tensions below the topmost as there are beyond
// a seventh chord. Those of a kind are fewer.
func enumerate(c chord.Chord, t neck.Tuning, p hand.Player, k kind) []shape {
	s := search{tuning: t, player: p, neck: p.Neck(), bass: -1}
	root := c.Root.Class()
	for _, tone := range c.Tones {
		bit := uint16(1) << ((root + tone.Semitones) % 12)
		s.wanted |= bit
		if !spare(c, tone) || k == rooted && tone.Degree == "1" || k == usual && (tone.Degree != "5" || len(c.Tones) < 4) {
			s.needed |= bit
		}
	}
	if k == usual {
		s.bass = c.Lowest().Class()
	}
	s.mostLost = max(len(c.Tones)-3, 1)
	if len(c.Tones) < 3 {
		s.mostLost = 0
		s.needed = s.wanted
	}
	s.tones = s.wanted
	if c.Bass.Valid() {
		s.wanted |= 1 << c.Bass.Class()
	}
	s.strings, s.fingers = min(3, len(c.Tones)), 4
	if p.Thumb {
		s.fingers++
	}
	for i := range neck.Strings {
		for fret := 0; fret <= min(highest, s.neck.LastFret()); fret++ {
			if s.wanted&(1<<t.Pitch(neck.StringAt(i), fret).Class()) != 0 {
				s.frets[i] = append(s.frets[i], int8(fret))
			}
		}
	}
	// How far up a hand that lies at a fret can get.
	for low := range s.reach {
		s.reach[low] = int8(low)
		for s.reach[low] < neck.MaxFret && s.neck.Along(low, int(s.reach[low])+1) <= p.Reach {
			s.reach[low]++
		}
	}
	s.extend(0, neck.NoFrets, held{low: neck.MaxFret + 1})
	return s.found
}

// spare tells whether a chord can do without a tone.
func spare(c chord.Chord, t chord.Tone) bool {
	switch t.Degree {
	case "5":
		return true
	case "1":
		return len(c.Tones) > 3
	case "9", "11", "b9", "#9", "#11":
		return len(c.Tones) > 4 && t != c.Tones[len(c.Tones)-1]
	}
	return false
}

type search struct {
	tuning   neck.Tuning
	player   hand.Player
	neck     neck.Neck
	wanted   uint16 // pitch classes that may sound
	tones    uint16 // those of the chord
	needed   uint16 // those that must
	mostLost int
	bass     int // the class that has to sound lowest; -1 where any may
	strings  int // that have to sound at least
	fingers  int // that the player has
	frets    [neck.Strings][]int8
	reach    [neck.MaxFret + 1]int8
	found    []shape
}

// held is what is known of the strings so far.
type held struct {
	classes       uint16
	sounding      int
	open, between int // silent since the last sounding string; before it
	low, high     int8
}

// extend tries everything on the strings from index i.
func (s *search) extend(i int, f neck.Frets, h held) {
	if i == neck.Strings {
		s.consider(f, h)
		return
	}
	if bits.OnesCount16(s.needed&^h.classes) > neck.Strings-i || fingers(f) > s.fingers {
		return
	}
	silent := h
	if h.sounding > 0 {
		silent.open++
	}
	if silent.sounding+neck.Strings-1-i >= s.strings {
		s.extend(i+1, f, silent)
	}
	if h.between+h.open > mostInside {
		return
	}
	for _, fret := range s.frets[i] {
		next := h
		if over := s.player.Thumb && i == 0; fret > 0 && !over { // the thumb reaches from the other side
			next.low, next.high = min(h.low, fret), max(h.high, fret)
			if next.high > s.reach[next.low] {
				continue
			}
		}
		next.classes |= 1 << s.tuning.Pitch(neck.StringAt(i), int(fret)).Class()
		next.sounding++
		next.between, next.open = h.between+h.open, 0
		g := f
		g[i] = fret
		s.extend(i+1, g, next)
	}
}

// consider keeps a shape that is the chord and that the hand can hold.
func (s *search) consider(f neck.Frets, h held) {
	if h.sounding < s.strings || s.needed&^h.classes != 0 || !mutable(f) || fingers(f) > s.fingers {
		return
	}
	if bits.OnesCount16(s.tones&^h.classes) > s.mostLost {
		return
	}
	low := s.tuning.Open(1) + 2*neck.MaxFret
	for i, fret := range f {
		if fret >= 0 {
			low = min(low, s.tuning.Pitch(neck.StringAt(i), int(fret)))
		}
	}
	if s.bass >= 0 && low.Class() != s.bass {
		return
	}
	g, hold, ok := grade.Easiest(f, s.player)
	if !ok {
		return
	}
	s.found = append(s.found, shape{g, hold, h.classes, low.Class()})
}

// fingers is how many fingers a shape takes at least: strings at one fret share
// one where nothing between them has to sound below it.
func fingers(f neck.Frets) int {
	n := 0
	for i, fret := range f {
		if fret <= 0 {
			continue
		}
		n++
		for j := i - 1; j >= 0 && f[j] >= fret; j-- {
			if f[j] == fret {
				n--
				break
			}
		}
	}
	return n
}

// mutable tells whether a finger lies next to every silent string inside a
// shape, to lean on it.
func mutable(f neck.Frets) bool {
	sounding := false
	for i := range neck.Strings - 1 {
		sounding = sounding || f[i] >= 0
		if sounding && f[i] < 0 && f[i-1] <= 0 && f[i+1] <= 0 && slices.ContainsFunc(f[i+1:], func(fret int8) bool { return fret >= 0 }) {
			return false
		}
	}
	return true
}

// What a voicing costs beyond holding it, where a chord is to sound as usual.
const (
	thinSound   = 0.18 // for each string that could sound and does not
	mutedInside = 0.7  // a silent string between sounding ones
	noFifth     = 0.2
	perFret     = 0.07
	openUpHigh  = 0.6 // open strings beside frets from the fifth up
)

// Usual lists the voicings that a player would take for a chord by its name,
// best first: the bass lowest, nothing missing but a plain fifth, as full as
// is easy.
func (b *Book) Usual(c chord.Chord, t neck.Tuning, p hand.Player, most int) []Voicing {
	shapes := b.shapes(c, t, p, usual)
	best := make([]Voicing, min(most, len(shapes)))
	for i := range best {
		s := &shapes[i]
		best[i] = Voicing{Fingering: s.Fingering, Hold: s.hold, Ease: ease(s.Fingering, s.hold), Fidelity: 1 - missesFifth(c, s.classes)}
	}
	return best
}

// missesFifth is what a usual voicing costs that misses the fifth.
func missesFifth(c chord.Chord, classes uint16) float64 {
	for _, tone := range c.Tones {
		if classes&(1<<((c.Root.Class()+tone.Semitones)%12)) == 0 {
			return noFifth
		}
	}
	return 0
}

// byUse sorts usual voicings, the best first.
func byUse(c chord.Chord, shapes []shape) {
	type candidate struct {
		shape
		cost float64
	}
	list := make([]candidate, len(shapes))
	for i, s := range shapes {
		base := s.Base()
		cost := s.hold + missesFifth(c, s.classes) + thinSound*float64(neck.Strings-s.Sounding()-s.Inside()) + mutedInside*float64(s.Inside()) + perFret*float64(base)
		if base >= 5 && slices.Contains(s.Frets[:], 0) {
			cost += openUpHigh
		}
		list[i] = candidate{s, cost}
	}
	slices.SortStableFunc(list, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	for i := range list {
		shapes[i] = list[i].shape
	}
}
