package arrange

import (
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// voiceAlone is the pitch that one finger plays of an event: of two notes that sound
// together the one that is the tune.
func (c *chooser) voiceAlone() pitch.Pitch {
	h := &c.content.harmony
	if c.content.from.Kind == song.Chord || h.tune == h.root {
		return c.note()
	}
	kind := Melody
	if h.tune == h.pitches[0] {
		kind = LowerOfTwo
	}
	c.say(Reason{kind, c.content.names.At(h.tune).Note.String()})
	return h.tune
}

// note is the pitch that stands for an event when only one may sound: its root.
func (c *chooser) note() pitch.Pitch {
	e, h := c.content.from, &c.content.harmony
	name := c.content.names.At(h.root).Note.String()
	switch {
	case e.Kind == song.Chord && e.Chord.Bass.Valid():
		c.say(StandsFor{BassAlone, e.Chord.Bass.String(), e.Chord.String()})
		return h.bass
	case e.Kind == song.Chord:
		c.say(StandsFor{RootAlone, e.Chord.Root.String(), e.Chord.String()})
	case h.chord && h.turned && !h.power:
		c.say(Reason{Melody, name})
	case h.chord:
		c.say(StandsFor{RootAlone, name, c.called()})
	case e.Notes[0].By == song.Tapped:
		c.say(Reason{LowestOfRun, name})
	default:
		c.say(Reason{TheLine, name})
		c.reduce()
	}
	return h.root
}

// reduce says what becomes of the ornaments of a line when it is made easier.
func (c *chooser) reduce() {
	for _, trim := range grade.Trimmings(c.content.from) {
		if !trim.Harmonic {
			c.say(Reduced{trim})
			return
		}
	}
}

// oneFinger offers every place on the neck that gives the one note.
func (c *chooser) oneFinger() {
	if n, ok := single(c.content.from); ok && n.Harmonic && !c.set.rewrites() {
		c.say(Reason{Why: TypedNotes}) // a natural harmonic is a touch of one finger where it is
		c.add(hand.Single(n.String, n.Fret, hand.Index), 0)
		return
	}
	p := c.voiceAlone()
	c.places(c.moved(p), hand.Index)
}
