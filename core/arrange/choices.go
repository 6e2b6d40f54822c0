package arrange

import (
	"fmt"
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// What a choice costs beyond the work of the hand.
const (
	upsideDown = 0.25 // the root is not the lowest note
	perFret    = 0.004
	offWritten = 0.02 // another place than the one the teacher typed
)

// reason is why an event is played as it is: what it is, and because of what.
// Kept apart, the events of a bar that share a reason can share the words.
type reason struct{ what, because string }

func (r reason) String() string {
	if r.what == "" {
		return r.because
	}
	return r.what + ", " + r.because
}

// octaves counts octaves in words, with their direction.
func octaves(n int) string {
	direction := "up"
	if n < 0 {
		direction, n = "down", -n
	}
	if n == 1 {
		return "an octave " + direction
	}
	return fmt.Sprintf("%d octaves %s", n, direction)
}

// choose fills in the ways in which an event can be played on this rung.
func (w *work) choose(n *need, main bool) {
	e := n.from
	if e.Dead() {
		w.chooseDead(n)
		return
	}
	h := w.harmony(e)
	if w.rung == AsWritten {
		w.chooseWritten(n, h)
		return
	}
	switch {
	case w.rung == OneFinger:
		w.chooseSingle(n, h)
	case !main:
		w.chooseSingle(n, h)
		n.why.because += ", passing, so it stays single"
	case w.rung == TwoNote:
		w.chooseTwoNote(n, h)
	case w.rung == Octave:
		w.chooseOctave(n, h)
	case w.rung == ThreeNote:
		w.chooseThreeNote(n, h)
	}
}

// chooseDead leaves a dead strum or a dead note as it is: the fretting hand
// lies on the strings wherever it is.
func (w *work) chooseDead(n *need) {
	n.why = reason{"dead strum", "the hand eases off and lies on the strings"}
	for _, note := range n.from.Notes {
		n.dead = append(n.dead, note.String)
	}
	if len(n.dead) == 0 {
		n.dead = []neck.String{6, 5, 4, 3, 2, 1}
	} else {
		n.why = reason{"dead note", "the finger touches the string without pressing"}
	}
	n.choices = []choice{{Fingering: hand.Silent}}
}

// single is the pitch that stands for an event when only one may sound, and
// the reason.
func (w *work) single(e *song.Event, h harmony) (pitch.Pitch, reason) {
	switch {
	case e.Kind == song.Chord && e.Chord.Bass.Valid():
		return h.bass, reason{e.Chord.Bass.String(), "the bass that " + e.Chord.String() + " names"}
	case e.Kind == song.Chord:
		return h.root, reason{e.Chord.Root.String(), "the root of " + e.Chord.String()}
	case h.chord:
		return h.root, reason{w.part.Key.SpellClass(h.root.Class()).String(), "the root of " + w.called(h)}
	}
	return h.root, reason{w.part.Key.SpellClass(h.root.Class()).String(), "the line itself" + ornaments(e)}
}

// ornaments says what becomes of the ornaments of a line when it is made
// easier.
func ornaments(e *song.Event) string {
	for _, n := range e.Notes {
		switch {
		case n.Bend != 0:
			return ", the bend becomes its target note"
		case n.Harmonic:
			return ", the harmonic is fretted where it sounds"
		case n.By == song.Hammered:
			return ", picked instead of hammered on"
		case n.By == song.PulledOff:
			return ", picked instead of pulled off"
		case n.By == song.Slid:
			return ", a plain shift instead of the slide"
		case n.By == song.Tapped:
			return ", picked instead of tapped"
		}
	}
	return ""
}

// chooseSingle offers every place on the neck that gives the one note.
func (w *work) chooseSingle(n *need, h harmony) {
	p, why := w.single(n.from, h)
	n.why = why
	by := []hand.Finger{hand.Index}
	if w.rung != OneFinger {
		by = []hand.Finger{hand.Index, hand.Middle, hand.Ring, hand.Little}
	}
	p, moved := w.onNeck(p)
	if moved != 0 {
		n.why.because += ", moved by " + octaves(moved) + " to lie on this neck"
	}
	for s := neck.String(neck.Strings); s >= 1; s-- {
		fret := w.tuning.Fret(s, p)
		if fret < 0 || fret > w.lastFret() {
			continue
		}
		for _, finger := range by {
			if finger > hand.Index && (fret == 0 || int(finger) > fret) {
				break
			}
			w.offer(n, hand.Single(s, fret, finger), w.away(n.from, s, fret), "")
		}
	}
}

// away is what it costs to play a note in another place than the one where it
// is written.
func (w *work) away(e *song.Event, s neck.String, fret int) float64 {
	if e.Kind != song.Notes {
		return 0
	}
	for _, n := range e.Notes {
		if n.String == s && n.Fret == fret {
			return 0
		}
	}
	return offWritten
}

func (w *work) lastFret() int { return w.options.Player.Neck().LastFret() }

// onNeck moves a pitch by octaves until the neck has it.
func (w *work) onNeck(p pitch.Pitch) (pitch.Pitch, int) {
	moved := 0
	low, high := w.tuning.Open(6), w.tuning.Open(1)
	for s := neck.String(1); s <= neck.Strings; s++ {
		low, high = min(low, w.tuning.Open(s)), max(high, w.tuning.Open(s))
	}
	for p < low {
		p, moved = p+12, moved+1
	}
	for p > high+pitch.Pitch(w.lastFret()) {
		p, moved = p-12, moved-1
	}
	return p, moved
}

// offer adds a fingering to the choices of a need.
func (w *work) offer(n *need, f hand.Fingering, cost float64, why string) {
	cost += grade.Hold(f, w.options.Player).Total()
	base := f.Base()
	cost += perFret * float64(base)
	n.choices = append(n.choices, choice{Fingering: f, cost: cost, why: why, base: base})
}

// offerShape adds the fingerings of pitches that lie on strings gap apart,
// the lowest on string low. It tells whether the hand can reach any.
func (w *work) offerShape(n *need, low neck.String, gap int, cost float64, why string, pitches ...pitch.Pitch) (fits bool) {
	frets := neck.NoFrets
	for i, p := range pitches {
		s := low - neck.String(i*gap)
		if s < 1 {
			return false
		}
		fret := w.tuning.Fret(s, p)
		if fret < 0 || fret > w.lastFret() {
			return false
		}
		frets[s.Index()] = int8(fret)
	}
	for _, f := range hand.Fingerings(frets) {
		if f.Reach(w.options.Player.Neck()) <= w.options.Player.Reach {
			w.offer(n, f, cost, why)
			fits = true
		}
	}
	return fits
}

// fallBack gives a need its single note where no shape can be played.
func (w *work) fallBack(n *need, h harmony, because string) {
	if len(n.choices) > 0 {
		return
	}
	w.chooseSingle(n, h)
	n.why.because += ", alone: " + because
}

func (w *work) noShape(what string) string {
	return fmt.Sprintf("no %s lies on this neck within a reach of %.0f mm", what, w.options.Player.Reach)
}

// powerName names the power chord of an event.
func (w *work) powerName(e *song.Event, h harmony) string {
	root := w.names(e).At(h.root).Note
	switch {
	case h.altered && h.fifth == 6:
		return fmt.Sprintf("%s with its flat fifth", root)
	case h.altered && h.fifth == 8:
		return fmt.Sprintf("%s with its sharp fifth", root)
	}
	return root.String() + "5"
}

// called is what to call several notes that are written as frets: a power
// chord by its name, anything else by the number of its notes.
func (w *work) called(h harmony) string {
	for _, p := range h.pitches {
		if above := (p - h.root).Class(); above != 0 && above != 7 {
			return fmt.Sprintf("the %d notes", len(h.pitches))
		}
	}
	return w.part.Key.SpellClass(h.root.Class()).String() + "5"
}

// reasonBig says what a thickened event stands for.
func (w *work) reasonBig(e *song.Event, h harmony, what string) reason {
	switch {
	case e.Kind == song.Chord && h.altered:
		return reason{what, "since a plain fifth would contradict " + e.Chord.String()}
	case e.Kind == song.Chord && what == e.Chord.String():
		return reason{what, "as the sheet has it"}
	case e.Kind == song.Chord:
		return reason{what, "for " + e.Chord.String()}
	case h.chord && h.altered:
		return reason{what, "as the written notes have it"}
	case h.chord && what == w.called(h):
		return reason{what, "as the sheet has it"}
	case h.chord:
		return reason{what, "for " + w.called(h)}
	}
	return reason{what, "on the line" + ornaments(e)}
}

// chooseTwoNote offers power chords: the fifth above the root on the next
// thinner string, or below it on the next thicker one.
func (w *work) chooseTwoNote(n *need, h harmony) {
	root, _ := w.onNeck(h.root)
	name := w.powerName(n.from, h)
	n.why = w.reasonBig(n.from, h, name)
	fifth := pitch.Pitch(h.fifth)
	for s := neck.String(neck.Strings); s >= 1; s-- {
		why := ""
		if w.tuning.Fret(s, root) == 0 {
			why = "open root"
		} else if s > 1 && w.tuning.Fret(s, root) == w.tuning.Fret(s-1, root+fifth) {
			why = "one finger across both strings"
		}
		w.offerShape(n, s, 1, 0, why, root, root+fifth)
	}
	// Upside down is for when one finger must do, or when it keeps a bass
	// that the sheet names.
	c := n.from.Chord
	keeps := n.from.Kind == song.Chord && c.Bass.Valid() && c.Bass.Class() == (root+fifth).Class()
	if why := "upside down, the fifth below its root"; keeps {
		w.offerUpsideDown(n, -1, fmt.Sprintf("%s, which keeps the bass %s", why, c.Bass), root, fifth)
	} else if len(n.choices) == 0 {
		w.offerUpsideDown(n, 0, why+", because the hand does not reach it the other way", root, fifth)
	}
	w.fallBack(n, h, w.noShape("power chord"))
}

func (w *work) offerUpsideDown(n *need, cost float64, why string, root, fifth pitch.Pitch) {
	for s := neck.String(neck.Strings); s >= 2; s-- {
		w.offerShape(n, s, 1, cost, why, root+fifth-12, root)
	}
}

// chooseOctave offers the note and its octave two strings further, the string
// between muted.
func (w *work) chooseOctave(n *need, h harmony) {
	p, why := w.single(n.from, h)
	p, _ = w.onNeck(p)
	n.why = reason{why.what, why.because + ", with its octave"}
	for s := neck.String(neck.Strings); s >= 3; s-- {
		w.offerShape(n, s, 2, 0, "", p, p+12)
	}
	for s := neck.String(neck.Strings); s >= 3 && len(n.choices) == 0; s-- {
		w.offerShape(n, s, 2, 0, "the octave added below", p-12, p)
	}
	w.fallBack(n, h, w.noShape("octave"))
}

// chooseThreeNote offers root, fifth and octave on three neighbouring
// strings.
func (w *work) chooseThreeNote(n *need, h harmony) {
	root, _ := w.onNeck(h.root)
	fifth := pitch.Pitch(h.fifth)
	n.why = w.reasonBig(n.from, h, w.powerName(n.from, h)+" with its octave")
	for s := neck.String(neck.Strings); s >= 3; s-- {
		w.offerShape(n, s, 1, 0, "", root, root+fifth, root+12)
	}
	if len(n.choices) == 0 {
		w.chooseTwoNote(n, h)
		n.why.because += ", two notes: " + w.noShape("three-note shape")
	}
}

// chooseWritten keeps the places that the teacher typed and looks for the
// fingers; a chord without a voicing gets one.
func (w *work) chooseWritten(n *need, h harmony) {
	n.why = reason{"", "as written"}
	frets := neck.NoFrets
	switch {
	case w.options.Tuning != nil:
		w.chooseRetuned(n, h)
		return
	case n.from.Kind == song.Chord && n.from.Frets == neck.NoFrets:
		w.chooseVoicing(n)
		return
	case n.from.Kind == song.Chord:
		frets = n.from.Frets
		n.why = reason{n.from.Chord.String(), "in the voicing that is written"}
	default:
		for _, note := range n.from.Notes {
			if !note.Dead {
				frets[note.String.Index()] = int8(note.Fret)
			} else {
				n.dead = append(n.dead, note.String)
			}
		}
	}
	for _, f := range hand.Fingerings(frets) {
		w.offer(n, f, 0, "")
	}
	if len(n.choices) == 0 {
		n.why.because += "; four fingers are not enough for this shape"
		n.choices = []choice{{Fingering: hand.Fingering{Frets: frets}, cost: 10}}
		return
	}
	best := slices.MinFunc(n.choices, func(a, b choice) int { return int(1000 * (a.cost - b.cost)) })
	if reach := best.Reach(w.options.Player.Neck()); reach > w.options.Player.Reach {
		n.why.because += fmt.Sprintf("; its reach of %.0f mm is more than the hand's %.0f", reach, w.options.Player.Reach)
	}
}

// chooseVoicing gives a chord by name the voicings that are easiest to hold.
func (w *work) chooseVoicing(n *need) {
	c := n.from.Chord
	found, ok := w.voicings[c.Symbol]
	if !ok {
		found = voicing.Find(c, w.tuning, w.options.Player)
		w.voicings[c.Symbol] = found
	}
	for _, f := range found {
		n.choices = append(n.choices, choice{Fingering: f.Fingering, cost: f.Cost, base: f.Base()})
	}
	n.why = reason{c.String(), "with its notes, the bass lowest"}
	if len(n.choices) > 0 {
		return
	}
	w.chooseTwoNote(n, w.harmony(n.from))
	n.why.because += fmt.Sprintf(", because no full voicing lies within a reach of %.0f mm", w.options.Player.Reach)
}

// chooseRetuned places the sounding notes of an event in another tuning.
func (w *work) chooseRetuned(n *need, h harmony) {
	if n.from.Kind == song.Chord {
		w.chooseVoicing(n)
		return
	}
	if len(h.pitches) == 1 {
		w.chooseSingle(n, h)
		return
	}
	n.why = reason{fmt.Sprintf("the %d notes", len(h.pitches)), "placed in the other tuning"}
	var spread func(k int, below neck.String, frets neck.Frets)
	spread = func(k int, below neck.String, frets neck.Frets) {
		if k == len(h.pitches) {
			for _, f := range hand.Fingerings(frets) {
				if f.Reach(w.options.Player.Neck()) <= w.options.Player.Reach {
					w.offer(n, f, 0, "")
				}
			}
			return
		}
		for s := below - 1; s >= 1; s-- {
			fret := w.tuning.Fret(s, h.pitches[k])
			if fret < 0 || fret > w.lastFret() {
				continue
			}
			next := frets
			next[s.Index()] = int8(fret)
			spread(k+1, s, next)
		}
	}
	spread(0, neck.Strings+1, neck.NoFrets)
	if len(n.choices) == 0 {
		w.chooseTwoNote(n, h)
		n.why.because += ", because the notes do not lie together in the other tuning"
	}
}
