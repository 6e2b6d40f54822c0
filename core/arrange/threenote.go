package arrange

import (
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// threeNote offers root, fifth and octave on three neighbouring strings.
func (c *chooser) threeNote() {
	h := &c.content.harmony
	switch {
	case c.written(3) && c.asTyped():
		c.say(Reason{TypedShape, c.called()})
		return
	case c.written(2) && !h.power:
		if c.withOctave() {
			c.say(Reason{WithOctave, c.called()})
			return
		}
		if c.asTyped() {
			c.say(Reason{StaysTwo, c.called()})
			return
		}
	case c.written(2) && h.turned:
		if c.withRootBelow() {
			c.say(Reason{WithRootBelow, c.called()})
			return
		}
	}
	c.standsFor()
	root := c.moved(h.root)
	fifth := pitch.Pitch(h.fifth)
	c.roots(root, func(s neck.String, _ int, taste float64) { c.shape(c.lay(s, 1, root, root+fifth, root+12), taste) })
	if len(c.choices) == 0 {
		c.why = nil
		c.twoNote()
		c.say(NoShape{int(c.set.at.Reach)})
		return
	}
	c.say(Reason{Why: WithOctave})
}

// withRootBelow adds the root an octave lower to a fourth, on the next thicker
// string: the three notes of the power chord whose upper two are written.
func (c *chooser) withRootBelow() bool {
	notes := c.content.from.Notes
	low := notes[0].String + 1
	root := c.content.harmony.root - 12
	if low > neck.Strings || !c.set.in.Has(low, root) {
		return false
	}
	frets := c.typedFrets()
	frets[low.Index()] = int8(c.set.in.Fret(low, root))
	return c.shape(frets, 0)
}

// withOctave adds the bass's octave to two notes over a bass that stays.
func (c *chooser) withOctave() bool {
	h := &c.content.harmony
	notes := c.content.from.Notes
	if h.turned || len(notes) != 2 || notes[0].String != notes[1].String+1 || notes[1].String < 2 {
		return false
	}
	at := notes[1].String - 1
	octave := h.pitches[0] + 12
	if h.pitches[1] >= octave || !c.set.in.Has(at, octave) {
		return false
	}
	frets := c.typedFrets()
	frets[at.Index()] = int8(c.set.in.Fret(at, octave))
	return c.shape(frets, 0)
}
