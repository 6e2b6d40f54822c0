package arrange

import (
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// moved puts a pitch where its phrase goes, and on the neck where even that
// does not help.
func (c *chooser) moved(p pitch.Pitch) pitch.Pitch {
	p += pitch.Pitch(12 * c.octaves)
	if c.reachable(p) {
		return p
	}
	for by := 1; by <= 8; by++ {
		for _, sign := range []int{1, -1} {
			if q := p + pitch.Pitch(12*by*sign); c.reachable(q) {
				c.say(Moved{by * sign, false})
				return q
			}
		}
	}
	return p
}

// reachable tells whether some string has a pitch on its neck.
func (c *chooser) reachable(p pitch.Pitch) bool {
	for s := neck.String(1); s <= neck.Strings; s++ {
		if c.set.in.Has(s, p) {
			return true
		}
	}
	return false
}

// places offers every place of a pitch that is not further up the neck than what
// was typed, or all where there is no such place, with fingers up to last.
func (c *chooser) places(p pitch.Pitch, last hand.Finger) {
	typed := c.typedTop()
	for s := neck.String(neck.Strings); s >= 1; s-- {
		if !c.set.in.Has(s, p) {
			continue
		}
		fret := c.set.in.Fret(s, p)
		if c.keeps && c.octaves == 0 && !c.wrote(s, fret) || fret == 0 && c.bends() {
			continue
		}
		taste := 0.0
		if typed >= 0 && !c.wrote(s, fret) {
			taste = tasteElsewhere
			if !c.rung.literal { // what is nearest is nearest to where it was typed
				taste = tasteNearest
			}
			switch {
			case c.free || c.way.Replace && c.rung.literal:
				taste = 0
			case fret > typed+mostAbove:
				taste += tasteTooHigh
			case fret == 0 && typed > leadFret:
				taste += tasteOpenHigh
			}
		}
		c.onString(s, fret, last, taste)
		if n := len(c.choices); fret == 0 && typed > 0 && n > 0 {
			c.choices[n-1].opened = !c.wrote(s, 0)
		}
	}
	if len(c.choices) == 0 && c.keeps {
		c.keeps = false
		c.places(p, last)
		return
	}
	if len(c.choices) == 0 {
		c.choices = []choice{{Fingering: hand.Lifted}}
		c.say(Reason{Why: OffTheNeck})
	}
}

// typedTop is the highest fret of an event as it is typed, of a chord with its voicing
// that of its root; −1 where its place is not given or not kept.
func (c *chooser) typedTop() int {
	e, h := c.content.from, &c.content.harmony
	switch {
	case c.octaves != 0 || c.set.rewrites():
	case e.Kind == song.Notes:
		return topFret(e)
	case h.at != 0:
		return int(e.Frets.On(h.at))
	}
	return -1
}

// wrote tells whether the sheet has a note at a place, of a chord its root.
func (c *chooser) wrote(s neck.String, fret int) bool {
	if e, h := c.content.from, &c.content.harmony; e.Kind == song.Chord {
		return h.at == s && int(e.Frets.On(s)) == fret
	}
	for _, n := range c.content.from.Notes {
		at := n.Fret
		if !c.rung.literal {
			at += int(bentBy(n)) // where the bend goes to
		}
		if n.String == s && at == fret {
			return true
		}
	}
	return false
}

// onString offers one note at its place with each finger of a hand that lies
// over it: one finger a fret from the index on, the index may reach a fret
// back, the little finger one further.
func (c *chooser) onString(s neck.String, fret int, last hand.Finger, taste float64) {
	if fret == 0 {
		c.add(hand.Single(s, 0, hand.None), taste)
		return
	}
	for finger := hand.Index; finger <= last; finger++ {
		if finger == hand.Little && c.set.at.NoLittle {
			break
		}
		f := hand.Single(s, fret, finger)
		if base := fret - int(finger) + 1; base >= 1 {
			c.at(f, base, taste+c.bending(finger))
		}
		if last == hand.Index {
			continue
		}
		switch {
		case finger == hand.Index && fret < c.set.in.LastFret():
			c.at(f, fret+1, taste+tasteBack+c.bending(finger))
		case finger == hand.Little && fret > int(hand.Little):
			c.at(f, fret-int(hand.Little), taste+tasteStretch+c.bending(finger))
		case finger == hand.Ring && fret > int(hand.Ring) && c.bends():
			c.at(f, fret-int(hand.Ring), taste) // the others come together behind it
		}
	}
}

// at adds a fingering of a hand whose index lies over a fret.
func (c *chooser) at(f hand.Fingering, base int, taste float64) {
	ch := c.add(f, taste)
	ch.base = int8(base)
	ch.taste = taste + grade.Place(base)
	if c.rung.literal && !c.way.Replace && !c.set.rewrites() { // the place is given, the position is free
		ch.taste = taste
		if c.open && base <= firstFrets {
			ch.taste += tasteFirst * float64(base-1)
		}
	}
}

// firstFrets are those that a hand among open strings lies over.
const firstFrets = 4

// bends tells whether the note is bent.
func (c *chooser) bends() bool {
	n, ok := single(c.content.from)
	return ok && c.rung.literal && n.Bend > 0
}

// bentBy is by how many semitones a note is bent, to the nearest.
func bentBy(n song.Note) pitch.Pitch { return pitch.Pitch((n.Bend + 50) / 100) }

// bending is the taste against bending with a finger: a whole step is the ring's
// with the others behind it, half a step any finger's but the little one.
func (c *chooser) bending(finger hand.Finger) float64 {
	if !c.rung.literal {
		return 0
	}
	for _, n := range c.content.from.Notes {
		switch {
		case n.Bend >= 150:
			return tasteBend * [...]float64{hand.Index: 3, hand.Middle: 1, hand.Ring: 0, hand.Little: 2}[finger]
		case n.Bend > 0 && finger == hand.Little:
			return 3 * tasteBend
		}
	}
	return 0
}

// placed puts the sounding notes of an event wherever they lie together.
func (c *chooser) placed() {
	h := &c.content.harmony
	because := Reason{Why: ElsewhereFree}
	if c.set.rewrites() {
		because.Why = OtherTuning
	}
	for _, note := range c.content.from.Notes {
		if note.Dead {
			c.dead = append(c.dead, note.String)
		}
	}
	c.say(because)
	if len(h.pitches) == 1 {
		because.Of = c.content.names.At(h.pitches[0]).Note.String()
		c.why[0] = because
		p := c.moved(h.pitches[0])
		if n, _ := single(c.content.from); c.rung.literal {
			p -= bentBy(n) // it is the fret that is placed
		}
		c.places(p, hand.Little)
		return
	}
	c.spread(0, neck.Strings+1, neck.NoFrets)
	if len(c.choices) == 0 {
		c.why = nil
		c.twoNote()
		c.say(Reason{Why: NotTogether})
	}
}

// spread tries every way to lay the pitches from the k-th on strings thinner
// than below.
func (c *chooser) spread(k int, below neck.String, frets neck.Frets) {
	h := &c.content.harmony
	if k == len(h.pitches) {
		taste := tasteElsewhere
		if !c.set.rewrites() && c.isWritten(frets) {
			taste = 0
		}
		c.shape(frets, taste)
		return
	}
	for s := below - 1; s >= 1; s-- {
		p := h.pitches[k] + pitch.Pitch(12*c.octaves)
		if !c.set.in.Has(s, p) {
			continue
		}
		next := frets
		next[s.Index()] = int8(c.set.in.Fret(s, p))
		c.spread(k+1, s, next)
	}
}

// isWritten tells whether a shape is where the notes are typed.
func (c *chooser) isWritten(frets neck.Frets) bool {
	for _, n := range c.content.from.Notes {
		if !n.Dead && frets.On(n.String) != n.Fret {
			return false
		}
	}
	return true
}
