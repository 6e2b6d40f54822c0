package arrange

import (
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// below is the note a third or a sixth below another in a key: the key's note
// that many letters down. A melody note that is foreign to the key may lie so far
// from it that it is no such interval; then it is the smaller one.
func below(p pitch.Pitch, name pitch.Note, number int, key pitch.Key) pitch.Pitch {
	small := map[int]int{3: 3, 6: 8}[number]
	letter := name.Up(9-number, 0).Letter // down a third is up a sixth
	for _, n := range key.Scale() {
		if n.Letter == letter {
			if d := name.Class().Above(n.Class()); d == small || d == small+1 {
				return p - pitch.Pitch(d)
			}
		}
	}
	return p - pitch.Pitch(small)
}

// harmonized sets the third or the sixth of the key below a note of the line,
// which stays on top: a third on the next thicker string, a sixth on the one
// after that, the string between muted.
func (c *chooser) harmonized(number int) {
	p := c.note()
	c.why = nil // what is said of the line alone
	p = c.moved(p)
	name := c.key.SpellClass(p.Class())
	low := below(p, name, number, c.key)
	typed := -1
	if c.octaves == 0 && !c.set.rewrites() {
		typed = topFret(c.content.from)
	}
	gap := number / 3
	for s := neck.String(neck.Strings - gap); s >= 1; s-- {
		fret := c.set.in.Fret(s, p)
		taste := 0.0
		if typed >= 0 && !c.wrote(s, fret) {
			taste = tasteElsewhere
			if fret > typed+mostAbove {
				taste = tasteTooHigh
			}
		}
		c.shape(c.lay(s+neck.String(gap), gap, low, p), taste)
	}
	if len(c.choices) == 0 {
		c.places(p, hand.Little)
		c.say(NoneBelow{number, name.String()})
		return
	}
	c.say(Below{number, c.key.SpellClass(low.Class()).String() + "+" + name.String()})
	c.reduce()
}
