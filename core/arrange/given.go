package arrange

import (
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// given keeps the fingers that are typed with the notes or the voicing of an event, in
// every shape that has the same string stopped at the same fret; one finger alone is
// one finger. Where the hand cannot hold a shape so, it is said and held otherwise.
func (c *chooser) given() {
	frets, fingers := givenFingers(c.content.from)
	if fingers == [neck.Strings]song.Finger{} || c.rung.rung == OneFinger {
		return
	}
	keeps := func(f *hand.Fingering) bool {
		for i, by := range fingers {
			if by != 0 && f.Frets[i] == frets[i] && f.Fingers[i] != hand.Finger(by) {
				return false
			}
		}
		return true
	}
	var kept []choice
	var seen []neck.Frets
	for _, ch := range c.choices {
		if keeps(&ch.Fingering) {
			kept = append(kept, ch)
		}
	}
	for _, ch := range slices.Clone(c.choices) {
		if slices.Contains(seen, ch.Frets) || slices.ContainsFunc(kept, func(k choice) bool { return k.Frets == ch.Frets }) {
			continue
		}
		seen = append(seen, ch.Frets)
		for _, f := range c.set.at.Fingerings(ch.Frets) {
			if keeps(&f) {
				next := c.add(f, ch.taste-grade.Place(int(ch.base)), ch.why...)
				next.remarks = ch.remarks
				kept = append(kept, *next)
			}
		}
	}
	if len(kept) == 0 {
		c.say(Reason{Why: FingersNotKept})
		return
	}
	c.choices = kept
}

// givenFingers are the frets of an event and the fingers that are typed with them.
func givenFingers(e *song.Event) (frets neck.Frets, fingers [neck.Strings]song.Finger) {
	if e.Kind == song.Chord {
		return e.Frets, e.Fingers
	}
	frets = neck.NoFrets
	for _, n := range e.Notes {
		if i := n.String.Index(); !n.Dead {
			frets[i], fingers[i] = int8(n.Fret), n.Finger
		}
	}
	return frets, fingers
}
