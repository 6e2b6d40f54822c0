package arrange

import (
	"cmp"
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// asWritten keeps the places that the teacher typed and looks for the fingers;
// a chord without a voicing gets its usual shape.
func (c *chooser) asWritten() {
	e := c.content.from
	switch {
	case e.Kind == song.Chord && e.Frets == neck.NoFrets:
		c.voiced()
		return
	case c.set.rewrites() && (c.set.options.Unplaced || !c.unchanged()), c.way.Replace && e.Kind == song.Notes && len(grade.Trimmings(e)) == 0:
		c.placed()
		return
	case c.octaves != 0 || c.free:
		c.placed()
		return
	}
	frets := neck.NoFrets
	if e.Kind == song.Chord {
		frets = e.Frets
		c.say(Reason{TypedVoicing, e.Chord.String()})
	} else {
		c.say(Reason{Why: TypedNotes})
	}
	for _, note := range e.Notes {
		if !note.Dead {
			frets[note.String.Index()] = int8(note.Fret)
		} else {
			c.dead = append(c.dead, note.String)
		}
	}
	if n, ok := single(e); ok && n.By == song.Tapped {
		// The picking hand makes it: no finger of the other, no travel.
		tap := hand.Lifted
		tap.Frets = frets
		c.add(tap, 0)
		c.choices[0].hold = 0
		return
	}
	c.typed(frets)
}

// unchanged tells whether another tuning leaves all strings of an event as they
// were.
func (c *chooser) unchanged() bool {
	e := c.content.from
	if e.Kind != song.Notes {
		for i, fret := range e.Frets {
			s := neck.StringAt(i)
			if fret >= 0 && c.set.in.Pitch(s, 0) != c.set.written.Pitch(s, 0) {
				return false
			}
		}
		return e.Frets != neck.NoFrets
	}
	for _, n := range e.Notes {
		if c.set.in.Pitch(n.String, 0) != c.set.written.Pitch(n.String, 0) {
			return false
		}
	}
	return true
}

// typed offers the fingerings of a shape that has to stay as it is; where the
// player cannot hold it, the best there is, and says so.
func (c *chooser) typed(frets neck.Frets) {
	if c.small(frets, 0) {
		return
	}
	if best, ok := c.sayWhyNot(frets, ""); ok {
		c.add(best, 0)
		return
	}
	c.choices = []choice{{Fingering: hand.Fingering{Frets: frets}, hold: beyond, voice: c.voice(frets)}}
}

// sayWhyNot says why the player cannot hold a shape, and gives the easiest of
// the ways that another hand has; ok is false where four fingers are not enough.
func (c *chooser) sayWhyNot(frets neck.Frets, of string) (best hand.Fingering, ok bool) {
	all := hand.Fingerings(frets)
	if len(all) == 0 {
		c.say(Reason{BeyondFour, of})
		return best, false
	}
	best = slices.MinFunc(all, func(a, b hand.Fingering) int { return cmp.Compare(c.hold(a), c.hold(b)) })
	p := c.set.at
	switch reach := best.Reach(p.Neck); {
	case reach > p.Reach:
		c.say(BeyondReach{int(reach + 0.5), int(p.Reach), of})
	case p.NoLittle && best.Uses(hand.Little):
		c.say(Reason{NeedsLittle, of})
	case p.NoBarre:
		c.say(Reason{NeedsBarre, of})
	default:
		c.say(BeyondSpread{int(p.Reach), of})
	}
	return best, true
}

// beyond is the demand of a shape for which a hand has not enough fingers.
const beyond = 10

// voiced gives a chord by name its usual shape, the first that the hand can
// hold.
func (c *chooser) voiced() {
	symbol := c.content.from.Chord
	everybody := c.set.options.Book.Usual(symbol, c.set.in, hand.Player{Scale: c.set.at.Scale}, 1)
	for _, v := range c.set.options.Book.Usual(symbol, c.set.in, c.set.at.Player, 3) {
		if c.shape(v.Frets, 0) {
			kind := UsualShape
			if len(everybody) == 0 || v.Frets != everybody[0].Frets || v.Fidelity < 1 && len(symbol.Tones) == 3 {
				kind = SomeShape
			}
			c.say(Reason{kind, symbol.String()})
			return
		}
	}
	c.twoNote()
	c.say(NoShape{int(c.set.at.Reach)})
}
