package arrange

import (
	"valleyside/core/neck"
)

// octave offers the note and its octave two strings further, the string
// between muted.
func (c *chooser) octave() {
	h := &c.content.harmony
	if c.written(2) && h.pitches[1]-h.pitches[0] == 12 && c.asTyped() {
		c.say(Fact{Kind: TypedShape, Of: c.content.names.At(h.root).Note.String()})
		return
	}
	p := c.moved(c.note())
	c.say(Fact{Kind: WithOctave})
	c.roots(p, func(s neck.String, _ int, taste float64) { c.shape(c.lay(s, 2, p, p+12), taste) })
	for s := neck.String(neck.Strings); s >= 4 && len(c.choices) == 0; s-- {
		c.shape(c.lay(s, 2, p-12, p), tasteTurned)
	}
	c.alone()
}
