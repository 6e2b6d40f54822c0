package arrange

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// wholePicked is how many strings of a shape are picked where it is strummed as it
// is.
const wholePicked = 4

// easierVoicings is how many voicings of a chord are weighed to make it easier, of
// moreVoicings that are looked through for what the hand has learnt.
const (
	easierVoicings = 8
	moreVoicings   = 60
)

// easier gives a chord by name what its school has to stand for it, what it
// loses weighed in; everything else stays as it is written.
func (c *chooser) easier() {
	symbol := c.content.from.Chord
	if c.content.from.Kind != song.Chord {
		c.asWritten()
		return
	}
	school := c.set.options.School
	if picked := (hand.Fingering{Frets: c.content.picked}); c.content.picked != (neck.Frets{}) && picked.Sounding() >= wholePicked {
		c.pickedShape(symbol)
	}
	if c.way.School != "" {
		school = c.way.School
	}
	cfg := voicing.Config{In: c.set.in, Player: c.set.at.Player, School: school, Key: c.key}
	list := c.within(c.set.options.Book.Choices(symbol, cfg, moreVoicings), symbol, cfg)
	barred := false // what is picked is of a barre, which its thinner half stands for
	if g, _, ok := grade.Taught(c.content.picked, c.set.at); c.content.picked != (neck.Frets{}) {
		barred = !ok || voicing.HardBarre(g)
	}
	for i := range list {
		c.stands(&list[i], symbol.String())
		if ch := &c.choices[len(c.choices)-1]; c.content.picked != (neck.Frets{}) && !covers(ch.Frets, c.content.picked) && !(barred && list[i].Thinned) {
			ch.taste += tasteNotPicked
		}
	}
	if len(c.choices) > 0 {
		return
	}
	c.why = nil
	c.twoNote()
	c.say(NoShape{int(c.set.at.Reach)})
}

// within leaves of the voicings of a chord, the best first, those that a student is given
// whose hand lacks the usual shape, or has not learnt what it asks for: three strings at
// least that ask for nothing new, near the nut, with all of the chord but its fifth; of a
// plainer chord, without its colours; with its root; and those up the neck where there is none.
// Of what is left it has as many as are weighed.
func (c *chooser) within(list []voicing.Voicing, symbol chord.Chord, cfg voicing.Config) []voicing.Voicing {
	unlearnt := func(f hand.Fingering) bool { return grade.ShapeSkills(f)&c.set.at.New != 0 }
	if len(list) > 0 && !c.lacksUsual() && !unlearnt(list[0].Fingering) {
		return list[:min(easierVoicings, len(list))]
	}
	without := func(v *voicing.Voicing, but ...int8) bool { // nothing is lost but some degrees
		return !slices.ContainsFunc(v.Lost, func(d chord.Degree) bool { return !slices.Contains(but, d.Number) })
	}
	near := func(v *voicing.Voicing) bool { return slices.Max(v.Frets[:]) <= nearNut && len(v.Added) == 0 }
	among := func(list []voicing.Voicing, does func(v *voicing.Voicing) bool) (left []voicing.Voicing) {
		for i := range list {
			if v := &list[i]; !unlearnt(v.Fingering) && v.Sounding() > 2 && does(v) {
				left = append(left, *v)
			}
		}
		return left[:min(easierVoicings, len(left))]
	}
	whole := func(v *voicing.Voicing) bool { return near(v) && without(v, 5) && triad(symbol, v.Bass) }
	if left := among(list, whole); len(left) > 0 {
		return left
	}
	for _, plain := range symbol.Plainer() {
		var left []voicing.Voicing
		for _, v := range among(c.set.options.Book.Choices(plain, cfg, moreVoicings), whole) {
			if v, ok := voicing.Describe(symbol, cfg, v.Frets); ok {
				v.School = cfg.School
				left = append(left, v)
			}
		}
		if len(left) > 0 {
			return left
		}
	}
	for _, does := range []func(v *voicing.Voicing) bool{
		func(v *voicing.Voicing) bool { return near(v) && without(v, 5, 6, 9, 11, 13) },
		func(v *voicing.Voicing) bool { return near(v) && without(v, 3, 5, 7, 9) },
		func(v *voicing.Voicing) bool { return without(v, 5) },
	} {
		if left := among(list, does); len(left) > 0 {
			return left
		}
	}
	return list[:min(easierVoicings, len(list))]
}

// triad tells whether a note may lie lowest in a chord: what the chord has there, its third or
// its fifth, no colour.
func triad(c chord.Chord, low pitch.Note) bool {
	return low.Class() == c.Lowest().Class() || slices.ContainsFunc(c.Tones, func(t chord.Tone) bool { return t.Class() == low.Class() && t.Degree.Number <= 5 })
}

// lacksUsual tells whether the usual shape of the chord is beyond this hand.
func (c *chooser) lacksUsual() bool {
	usual := c.set.options.Book.Usual(c.content.from.Chord, c.set.in, hand.Player{Scale: c.set.at.Scale}, 1)
	if len(usual) == 0 {
		return true
	}
	f, _, ok := grade.Taught(usual[0].Frets, c.set.at)
	return !ok || f.Reach(c.set.at.Neck) > c.set.at.Reach
}

// nearNut is the highest fret of what lies near the nut.
const nearNut = 4

// covers tells whether a shape has all strings of another as they are.
func covers(shape, part neck.Frets) bool {
	for i, fret := range part {
		if fret >= 0 && shape[i] != fret {
			return false
		}
	}
	return true
}

// pickedShape offers the shape itself whose notes the sheet picks one by one.
func (c *chooser) pickedShape(symbol chord.Chord) {
	cfg := voicing.Config{In: c.set.written, Player: c.set.at.Player, Key: c.key}
	if v, ok := voicing.Describe(symbol, cfg, c.content.picked); ok && !c.set.rewrites() {
		v.School, v.Thinned = voicing.Few, true
		c.stands(&v, symbol.String())
	}
}

// stands adds a voicing that stands for a chord.
func (c *chooser) stands(v *voicing.Voicing, symbol string) {
	var why Fact = Reason{WholeChord, symbol}
	switch {
	case v.Role == voicing.Shown:
		why = Reason{UsualShape, symbol}
	case len(v.Lost) > 0 || len(v.Added) > 0:
		colours := Colours{Of: v.Is.Name, Lost: chord.Degrees(v.Lost)}
		for _, n := range v.Added {
			colours.Added += " " + n.String()
		}
		why = colours
	}
	before := len(c.choices)
	if !c.shape(v.Frets, v.Taste(), why) {
		c.add(v.Fingering, v.Taste(), why)
	}
	for i := before; i < len(c.choices); i++ {
		c.choices[i].remarks = v.Remarks
	}
}
