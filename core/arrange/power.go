package arrange

import (
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// alone falls back to the single note where no shape can be played.
func (c *chooser) alone() {
	if len(c.choices) == 0 {
		c.why = nil
		c.oneFinger()
		c.say(NoShape{int(c.set.at.Reach)})
	}
}

// power names the power chord of an event.
func (c *chooser) power() string {
	h := &c.content.harmony
	root := c.content.names.At(h.root).Note.String()
	if h.altered {
		return root
	}
	return root + "5"
}

// called is what to call several notes that are written as frets.
func (c *chooser) called() string {
	h := &c.content.harmony
	if h.power {
		return c.content.names.At(h.root).Note.String() + "5"
	}
	var set pitch.Set
	var notes []string
	for _, p := range h.pitches {
		set = set.With(p.Class())
		notes = append(notes, c.content.names.At(p).Note.String())
	}
	if len(notes) == 2 {
		return strings.Join(notes, "+")
	}
	if names := chord.Names(set, h.pitches[0].Class(), c.key); len(names) > 0 {
		return names[0].Name
	}
	return ""
}

// powerFor is what is to be said of a power chord that stands for other notes.
func powerFor(set pitch.Set, root pitch.Pitch) Share {
	if set := set.From(root.Class()); set.Has(3) || set.Has(4) {
		return PowerWithout
	}
	return PowerInstead
}

// standsFor says what a thickened event stands for.
func (c *chooser) standsFor() {
	e, h := c.content.from, &c.content.harmony
	what := c.power()
	fifth := chord.Degree{Number: 5, Alter: int8(h.fifth - 7)}
	switch {
	case h.altered && e.Kind == song.Chord:
		c.say(AlteredFor{what, e.Chord.String(), fifth})
	case h.altered:
		c.say(AlteredFor{what, c.called(), fifth})
	case e.Kind == song.Chord && what != e.Chord.String():
		c.say(StandsFor{powerFor(e.Chord.Classes(), h.root), what, e.Chord.String()})
	case e.Kind == song.Chord || h.chord && h.power:
		c.say(Reason{TypedShape, what})
	case h.chord:
		var set pitch.Set
		for _, p := range h.pitches {
			set = set.With(p.Class())
		}
		c.say(StandsFor{powerFor(set, h.root), what, c.called()})
	default:
		c.say(Reason{PowerOn, what})
		c.reduce()
	}
	if e.Kind == song.Chord && e.Chord.Bass.Valid() && e.Chord.Bass.Class() != h.root.Class() {
		c.say(BassIsLost{e.Chord.Bass.String(), e.Chord.String()})
	}
}

// roots lists the strings on which a root may stand, with the taste for each. A
// power chord has its root on string 6 or 5, or on the open 4th, or where it was
// written.
func (c *chooser) roots(root pitch.Pitch, each func(s neck.String, fret int, taste float64)) {
	e := c.content.from
	typed := c.typedTop()
	type place struct {
		s     neck.String
		fret  int
		taste float64
	}
	var places []place
	fits := false
	for _, s := range rootStrings(e, c.content.harmony.at) {
		if !c.set.in.Has(s, root) {
			continue
		}
		fret := c.set.in.Fret(s, root)
		there := c.wrote(s, fret)
		if s == 4 && fret > 0 && !there {
			continue
		}
		if c.keeps && c.octaves == 0 && !there {
			continue
		}
		p := place{s, fret, 0}
		switch {
		case typed >= 0 && !there && c.content.harmony.chord:
			p.taste = tasteShape
		case typed >= 0 && !there:
			p.taste = tasteRootAway
		case typed < 0:
			p.taste = tasteUp * float64(max(fret-lowRoot, 0))
		}
		if typed >= 0 && fret > typed+mostAbove {
			p.taste += tasteTooHigh
		} else {
			fits = true
		}
		places = append(places, p)
	}
	for _, p := range places {
		if !fits || p.taste < tasteTooHigh {
			each(p.s, p.fret, p.taste)
		}
	}
}

// twoNote offers power chords: the fifth above the root on the next thinner
// string, or below it on the next thicker one.
func (c *chooser) twoNote() {
	if below := map[Thicken]int{Thirds: 3, Sixths: 6}[c.way.Thicken]; below > 0 {
		if n, ok := single(c.content.from); ok && !n.Harmonic {
			c.harmonized(below)
			return
		}
	}
	if c.written(2) && c.asTyped() {
		c.say(Reason{TypedShape, c.called()})
		return
	}
	c.standsFor()
	if c.written(2) {
		c.sayWhyNot(c.typedFrets(), c.called())
	}
	root := c.moved(c.content.harmony.root)
	fifth := pitch.Pitch(c.content.harmony.fifth)
	c.roots(root, func(s neck.String, fret int, taste float64) {
		var why []Fact
		if fret == 0 {
			why = []Fact{Reason{Why: OpenRoot}}
		} else if s > 1 && c.set.in.Fret(s, root) == c.set.in.Fret(s-1, root+fifth) {
			why = []Fact{Reason{Why: FlatFinger}}
		}
		c.shape(c.lay(s, 1, root, root+fifth), taste, why...)
	})
	// Upside down is for when one finger must do, or when it keeps a bass
	// that the sheet names.
	bass := c.content.from.Chord.Bass
	switch {
	case c.content.from.Kind == song.Chord && bass.Valid() && bass.Class() == (root+fifth).Class():
		upright := c.choices
		c.choices = nil
		c.upsideDown(root, fifth, Reason{KeepsBass, bass.String()})
		if len(c.choices) == 0 {
			c.choices = upright
		} else {
			c.why = slices.DeleteFunc(c.why, func(f Fact) bool { _, lost := f.(BassIsLost); return lost })
		}
	case len(c.choices) == 0:
		c.upsideDown(root, fifth, Reason{Why: ForReach})
	case c.set.at.New&hand.TwoFingers != 0:
		c.upsideDown(root, fifth, Reason{Why: ForOneFinger})
	}
	c.alone()
}

func (c *chooser) upsideDown(root, fifth pitch.Pitch, because Fact) {
	for s := neck.String(neck.Strings); s >= 4; s-- {
		c.shape(c.lay(s, 1, root+fifth-12, root), tasteTurned, Reason{Why: UpsideDown}, because)
	}
}
