package voicing

import (
	"cmp"
	"slices"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// highest is the highest fret of a voicing, counted from the capo.
const highest = 15

// mostInside is how many silent strings a voicing may have between sounding
// ones.
const mostInside = 1

// openUpTo is the highest fret beside which a string may sound open, but for
// drones: beyond it the two do not blend.
const openUpTo = 5

// shape is a full voicing: of the tones of a chord and its bass, with no other
// note.
type shape struct {
	hand.Fingering
	hold    float64
	classes pitch.Set
	bass    pitch.Class // what sounds lowest
}

// Book remembers the shapes of chords. The zero Book is empty and ready; it
// may be used by several goroutines.
type Book struct {
	once  sync.Once
	known *lru.Cache[bookKey, []shape]
	lists *lru.Cache[listKey, []Voicing]
}

// open makes an empty book ready.
func (b *Book) open() {
	b.once.Do(func() {
		b.known, _ = lru.New[bookKey, []shape](mostRemembered) // it fails for no size alone
		b.lists, _ = lru.New[listKey, []Voicing](mostRemembered)
	})
}

// listKey is what the candidates for a chord depend on.
type listKey struct {
	chord string
	cfg   Config
}

type bookKey struct {
	degrees string // of the chord, with its root and bass
	tuning  neck.Tuning
	at      hand.At
	kind    kind
}

// kind is which of the full voicings of a chord are listed: the fewer, the
// sooner.
type kind uint8

const (
	whole  kind = iota // all of them
	rooted             // those with their root
	few                // those of three or four strings, with their root
	usual              // those on their bass that miss nothing but a plain fifth of four tones
	every              // whatever a hand can hold: also with strings open below high frets
)

// mostRemembered bounds a book: about as many as there are chords by name.
const mostRemembered = 1024

// shapes lists the full voicings of a chord.
func (b *Book) shapes(c chord.Chord, in neck.Instrument, p hand.Player, k kind) []shape {
	p.LeftHanded, p.NotesPerSecond, p.Picking = false, 0, "" // none of these changes a shape
	at := p.At(in.Neck)
	key := bookKey{c.Canonical(), in.Tuning, at, k}
	b.open()
	found, ok := b.known.Get(key)
	if ok {
		return found
	}
	found = enumerate(c, in, at, k)
	if k == usual {
		byUse(c, found)
	}
	b.known.Add(key, found)
	return found
}

// enumerate lists every full voicing that a player can hold: at least three
// strings (two of a power chord), frets up to highest, no string open beside a
// fret above openUpTo, at most one string silent between sounding ones and a
// finger next to it, every tone there but those that a chord can do without: a
// plain fifth; the root of a seventh chord, which the bass may play; and of
// richer chords as many tensions below the topmost as there are beyond a
// seventh chord. Those of a kind are fewer.
func enumerate(c chord.Chord, in neck.Instrument, p hand.At, k kind) []shape {
	s := search{in: in, player: p, bass: -1, most: neck.Strings, openTo: openUpTo, inside: mostInside}
	for _, tone := range c.Tones {
		s.wanted = s.wanted.With(tone.Class())
		if !spare(c, tone) || k != whole && k != every && tone.Degree.Number == 1 || k == usual && (tone.Degree.Number != 5 || len(c.Tones) < 4) {
			s.needed = s.needed.With(tone.Class())
		}
	}
	switch k {
	case usual:
		s.bass = c.Lowest().Class()
	case few:
		s.most = fewStrings
	case every:
		s.openTo, s.inside = neck.MaxFret, mostInside+1
	}
	s.mostLost = max(len(c.Tones)-3, 1)
	if len(c.Tones) < 3 {
		s.mostLost = 0
		s.needed = s.wanted
	}
	s.tones = s.wanted
	if c.Bass.Valid() {
		s.wanted = s.wanted.With(c.Bass.Class())
	}
	s.strings, s.fingers = min(3, len(c.Tones)), 4
	if p.Thumb {
		s.fingers++
	}
	for i := range neck.Strings {
		open := in.Pitch(neck.StringAt(i), 0).Class()
		for fret := 0; fret <= min(highest, in.LastFret()); fret++ {
			if s.wanted.Has(open.Up(fret)) {
				s.frets[i] = append(s.frets[i], int8(fret))
				s.sounds[i] = append(s.sounds[i], open.Up(fret))
			}
		}
	}
	// How far up a hand that lies at a fret can get.
	for low := range s.reach {
		s.reach[low] = int8(low)
		for s.reach[low] < neck.MaxFret && in.Along(low, int(s.reach[low])+1) <= p.Reach {
			s.reach[low]++
		}
	}
	s.extend(0, neck.NoFrets, held{low: neck.MaxFret + 1})
	return s.found
}

// spare tells whether a chord can do without a tone.
func spare(c chord.Chord, t chord.Tone) bool {
	switch d := t.Degree; {
	case d == chord.Degree{Number: 5}:
		return true
	case d.Number == 1:
		return len(c.Tones) > 3
	case d.Alter != 0 && (d.Number == 5 || d.Number == 9):
		return otherWay(c, d) // one of the two is enough
	case d.Number == 9, d == chord.Degree{Number: 11}, d == chord.Degree{Number: 11, Alter: 1}:
		return len(c.Tones) > 4 && t != c.Tones[len(c.Tones)-1]
	}
	return false
}

// otherWay tells whether a chord has a degree altered the other way as well.
func otherWay(c chord.Chord, d chord.Degree) bool {
	return slices.ContainsFunc(c.Tones, func(t chord.Tone) bool { return t.Degree == chord.Degree{Number: d.Number, Alter: -d.Alter} })
}

type search struct {
	in       neck.Instrument
	player   hand.At
	wanted   pitch.Set // what may sound
	tones    pitch.Set // the chord's
	needed   pitch.Set // those that must
	mostLost int
	bass     pitch.Class // has to sound lowest; −1 where any may
	strings  int         // that have to sound at least
	most     int         // and at most
	openTo   int8        // the highest fret beside an open string
	inside   int         // strings that may be silent between sounding ones
	fingers  int         // that the player has
	frets    [neck.Strings][]int8
	sounds   [neck.Strings][]pitch.Class // what they give
	reach    [neck.MaxFret + 1]int8
	found    []shape
}

// held is what is known of the strings so far.
type held struct {
	classes       pitch.Set
	sounding      int
	open, between int  // silent since the last sounding string; before it
	low, high     int8 // of what the fingers of the hand stop
	top           int8 // of all, the thumb's included
	opened        bool
}

// extend tries everything on the strings from index i.
func (s *search) extend(i int, f neck.Frets, h held) {
	if i == neck.Strings {
		s.consider(f, h)
		return
	}
	if s.needed.Minus(h.classes).Len() > neck.Strings-i || fingers(f) > s.fingers {
		return
	}
	silent := h
	if h.sounding > 0 {
		silent.open++
	}
	if silent.sounding+neck.Strings-1-i >= s.strings {
		s.extend(i+1, f, silent)
	}
	if h.between+h.open > s.inside || h.sounding == s.most {
		return
	}
	for k, fret := range s.frets[i] {
		next := h
		if over := s.player.Thumb && i == 0; fret > 0 && !over { // the thumb reaches from the other side
			next.low, next.high = min(h.low, fret), max(h.high, fret)
			if next.high > s.reach[next.low] {
				continue
			}
		}
		next.opened, next.top = h.opened || fret == 0, max(h.top, fret)
		if next.opened && next.top > s.openTo {
			continue
		}
		next.classes = h.classes.With(s.sounds[i][k])
		next.sounding++
		next.between, next.open = h.between+h.open, 0
		g := f
		g[i] = fret
		s.extend(i+1, g, next)
	}
}

// consider keeps a shape that is the chord and that the hand can hold.
func (s *search) consider(f neck.Frets, h held) {
	if h.sounding < s.strings || !s.needed.In(h.classes) || !hand.Silenceable(f) || fingers(f) > s.fingers {
		return
	}
	if s.tones.Minus(h.classes).Len() > s.mostLost {
		return
	}
	_, low := s.in.Classes(f)
	if s.bass >= 0 && low != s.bass {
		return
	}
	g, hold, ok := grade.Taught(f, s.player)
	if !ok {
		return
	}
	s.found = append(s.found, shape{g, hold, h.classes, low})
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

// What a voicing costs beyond holding it, where a chord is to sound as usual
// and no usual shape is known. Held by the shapes in other tunings of
// docs/judgement.md.
const (
	thinSound   = 0.18 // for each string that could sound and does not
	mutedInside = 0.7  // a silent string between sounding ones
	noFifth     = 0.2
	perFret     = 0.07
)

// Usual lists the voicings that a player would take for a chord by its name,
// best first: the usual shapes that the hand can hold, and where there are none
// those on their bass with nothing missing but a plain fifth, as full as is
// easy. A hand that cannot hold the first takes what is easy low on the neck before it
// goes up: the usual shapes without their thick strings, and others that are all of it.
func (b *Book) Usual(c chord.Chord, in neck.Instrument, p hand.Player, most int) []Voicing {
	var best []Voicing
	at := p.At(in.Neck)
	f := finder{chord: c, cfg: Config{In: in, Player: p}.usual()}
	first := false
	known := usualShapes(c, in)
	for i, frets := range known {
		g, hold, ok := grade.Taught(frets, at)
		first = first || ok && i == 0
		if ok && len(best) < most {
			best = append(best, f.voicing(g, All, hold))
		}
	}
	switch {
	case len(best) > 0 && (first || best[0].Base() <= lowPlace):
		return best
	case len(known) > 0:
		if low := f.lowDown(b, known); len(low) > 0 {
			return append(low, best...)[:min(most, len(low)+len(best))]
		}
		if len(best) > 0 {
			return best
		}
	}
	shapes := b.shapes(c, in, p, usual)
	for _, s := range shapes[:min(most, len(shapes))] {
		best = append(best, f.voicing(s.Fingering, All, s.hold))
	}
	return best
}

// lowDown lists what a hand that cannot hold the usual shapes of a chord has low on the
// neck, the best first.
func (f *finder) lowDown(b *Book, known []neck.Frets) []Voicing {
	var shapes []shape
	for _, frets := range known {
		thin := frets
		for s := neck.String(neck.Strings); s > fewStrings; s-- {
			thin[s.Index()] = neck.Silent
		}
		if v, ok := f.measure(thin, Few); ok && v.Sounding() >= 3 && top(thin) <= lowPlace && !f.chord.Bass.Valid() && f.chord.Classes().In(v.classes) {
			shapes = append(shapes, shape{v.Fingering, v.Hold - thinnedIsUsual, v.classes, v.low.Class()})
		}
	}
	for _, s := range b.shapes(f.chord, f.cfg.In, f.cfg.Player, usual) {
		if top(s.Frets) <= lowPlace && s.Inside() == 0 {
			shapes = append(shapes, s)
		}
	}
	byUse(f.chord, shapes)
	var list []Voicing
	for _, s := range shapes {
		if v, ok := f.measure(s.Frets, All); ok && !slices.ContainsFunc(list, func(o Voicing) bool { return o.Frets == v.Frets }) {
			list = append(list, v)
		}
	}
	return list
}

// thinnedIsUsual is how much easier a usual shape without its thick strings counts.
const thinnedIsUsual = 0.9

// byUse sorts usual voicings, the best first.
func byUse(c chord.Chord, shapes []shape) {
	type candidate struct {
		shape
		cost float64
	}
	list := make([]candidate, len(shapes))
	for i, s := range shapes {
		cost := s.hold + thinSound*float64(neck.Strings-s.Sounding()-s.Inside()) + mutedInside*float64(s.Inside()) + perFret*float64(s.Base())
		if !c.Classes().In(s.classes) {
			cost += noFifth
		}
		list[i] = candidate{s, cost}
	}
	slices.SortStableFunc(list, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	for i := range list {
		shapes[i] = list[i].shape
	}
}
