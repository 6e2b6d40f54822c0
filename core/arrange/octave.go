package arrange

import (
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// octave offers the note and its octave two strings further, the string
// between muted.
func (c *chooser) octave() {
	h := &c.content.harmony
	if c.written(2) && h.pitches[1]-h.pitches[0] == 12 && c.asTyped() {
		c.say(Reason{TypedShape, c.content.names.At(h.root).Note.String()})
		return
	}
	p := c.moved(c.note())
	c.say(Reason{Why: WithOctave})
	c.roots(p, func(s neck.String, _ int, taste float64) { c.shape(c.lay(s, 2, p, p+12), taste) })
	for s := neck.String(neck.Strings); s >= 4 && len(c.choices) == 0; s-- {
		c.shape(c.lay(s, 2, p-12, p), tasteTurned)
	}
	if s := c.openOctave(p); len(c.choices) == 0 && s != 0 {
		c.why = nil
		c.oneFinger()
		c.say(RingsBetween{s - 1})
		return
	}
	c.alone()
}

// openOctave is the open string that has a pitch where its octave is open as well, two
// strings further: no finger is there for the string between. 0 where there is none.
func (c *chooser) openOctave(p pitch.Pitch) neck.String {
	for s := neck.String(neck.Strings); s > 2; s-- {
		if c.set.in.Has(s, p) && c.set.in.Fret(s, p) == 0 && c.set.in.Has(s-2, p+12) && c.set.in.Fret(s-2, p+12) == 0 {
			return s
		}
	}
	return 0
}
