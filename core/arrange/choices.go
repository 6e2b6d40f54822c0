package arrange

import (
	"cmp"
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// What speaks against a way to play an event beside the work, in the measure of
// grade.Work. Held by the riffs of docs/judgement.md.
const (
	tasteElsewhere = 0.12 // a note that is not where it is written
	tasteShape     = 3.0  // a root of several notes that are written together, the same
	tasteOpenAway  = 0.8  // an open string that is not written, next to a hand above lowRoot
	tasteOpenHigh  = 0.5  // an open string for a note that is written high up
	tasteUp        = 0.08 // for each fret of a root above lowRoot, where nothing says where it lies
	tasteFirst     = 0.03 // for each fret from the first position, among open strings
	tasteTooHigh   = 50.0 // more than two frets above what was typed, where the note is elsewhere too
	tasteBack      = 0.4  // the index a fret back
	tasteStretch   = 0.3  // the little finger a fret further
	tasteSpread    = 0.6  // a fret between the fingers of a legato pair beyond one for each
	tasteFidget    = 0.6  // other fingers for the shape that was played just before
	tasteNotPicked = 0.5  // another shape for a chord than the one that is picked in the sheet
	tasteForm      = 0.5  // for a form of the hand away from what is taught
	tasteTurned    = 0.1  // a power chord upside down
	tasteBend      = 0.4  // for each finger by which a bend is not the ring's
)

// lowRoot is the fret up to which a root is low on the neck.
const lowRoot = 5

// crowded is how far a form may be from the one that is taught and still be
// worth a thought for the sake of what comes before and after it: two fingers
// may be others, a chord is held as it is taught.
const (
	crowded      = 0.46
	crowdedPower = 0.12 // a shape that is moved about
	crowdedChord = 0.005
)

// kind is what the events that may be played in the same ways share.
type kind struct {
	id      int
	choices []choice // never empty
	states  []state
	dead    []neck.String
	why     []Fact
}

// choice is one way to play an event.
type choice struct {
	hand.Fingering
	hold    float64 // demand of holding it
	taste   float64
	base    int8 // fret of the index finger; 0 where the hand may be anywhere
	grip    hand.Grip
	voice   grade.Voice
	by      song.Technique // of a single note that is played as it is written
	opened  bool           // an open string for a note that is written fretted
	why     []Fact         // what speaks for it, beside the kind's reason
	remarks []voicing.Remark
}

// state is a choice and where the hand is while it sounds.
type state struct {
	choice int32
	base   int8
}

// kindKey tells kinds apart.
type kindKey struct {
	content int
	main    bool // thickened, on the rungs that thicken
	octaves int8 // by which its phrase moves
	held    int  // the held shape that it is part of, −1 for none
	keeps   bool // stays on its string
	free    bool // lies wherever its notes are, as an alternative
}

// chooser fills in the ways in which an event can be played on a rung.
type chooser struct {
	set     setup
	rung    *kindOfRung
	way     Way
	key     pitch.Key
	content *content
	held    *heldShape
	keeps   bool
	main    bool
	open    bool // the part has open strings
	free    bool // the notes may lie elsewhere
	octaves int
	*kind
}

// choose fills in the choices.
func (c *chooser) choose() {
	switch e := c.content.from; {
	case e.Dead():
		c.strikeDead()
	case c.rung.literal && c.held != nil && c.octaves == 0 && !c.set.rewrites():
		c.fromHeld()
	case !c.main && !c.rung.literal:
		c.oneFinger()
		c.say(Fact{Kind: Single})
	default:
		c.rung.choose(c)
	}
	if c.octaves != 0 && !c.content.from.Dead() {
		c.say(Fact{Kind: MovedPhrase, N: c.octaves})
	}
}

func (c *chooser) say(f Fact) { c.why = append(c.why, f) }

// add adds a fingering.
func (c *chooser) add(f hand.Fingering, taste float64, why ...Fact) *choice {
	base := f.Base()
	for _, fact := range why { // what holds for some fingers of a shape only
		if fact.Kind == FlatFinger && f.Build().Barres == 0 || fact.Kind == ForOneFinger && f.Count() > 1 {
			other := fact.Kind
			why = slices.DeleteFunc(slices.Clone(why), func(g Fact) bool { return g.Kind == other })
			break
		}
	}
	ch := choice{Fingering: f, hold: c.hold(f), taste: taste + grade.Place(base), grip: f.Grip(),
		voice: c.voice(f.Frets), why: why, base: int8(min(base, neck.MaxFret))}
	if n, ok := single(c.content.from); ok && c.rung.literal {
		ch.by = n.By
	}
	c.choices = append(c.choices, ch)
	return &c.choices[len(c.choices)-1]
}

func (c *chooser) hold(f hand.Fingering) float64 {
	d := grade.Hold(f, c.set.at)
	return d.Total()
}

// voice is a shape as the ear takes it.
func (c *chooser) voice(f neck.Frets) grade.Voice {
	v := grade.Voice{}
	for i, fret := range f {
		if fret < 0 {
			continue
		}
		p := int16(c.set.in.Pitch(neck.StringAt(i), int(fret)))
		if v.Strings == 0 {
			v.Low, v.High = p, p
		}
		v.Low, v.High = min(v.Low, p), max(v.High, p)
		v.Strings++
	}
	return v
}

// shape adds the forms of a shape that are taught or nearly so. It tells whether
// the hand can hold it.
func (c *chooser) shape(frets neck.Frets, taste float64, why ...Fact) bool {
	if frets == neck.NoFrets {
		return false
	}
	var buffer [24]hand.Held
	held := c.set.at.AppendHeld(buffer[:0], frets)
	if len(held) == 0 {
		return false
	}
	least := held[0].Form
	for i := range held {
		least = min(least, held[i].Form)
	}
	added := false
	sounding := (hand.Fingering{Frets: frets}).Sounding()
	margin := crowded
	switch {
	case fretted(frets) > 2 || sounding > 3:
		margin = crowdedChord
	case !c.rung.literal || c.content.harmony.power && fretted(frets) == 2 && sounding == 2:
		margin = crowdedPower
	}
	for i := range held {
		if h := &held[i]; h.Form <= least+margin {
			c.add(h.Fingering, taste+tasteForm*(h.Form-least), why...)
			added = true
		}
	}
	return added
}

// fretted counts the strings that a shape stops.
func fretted(f neck.Frets) (n int) {
	for _, fret := range f {
		if fret > 0 {
			n++
		}
	}
	return n
}

// lay puts pitches on strings gap apart, the lowest on string low; NoFrets where
// one of them is not there.
func (c *chooser) lay(low neck.String, gap int, pitches ...pitch.Pitch) neck.Frets {
	frets := neck.NoFrets
	for i, p := range pitches {
		s := low - neck.String(i*gap)
		if s < 1 || !c.set.in.Has(s, p) {
			return neck.NoFrets
		}
		frets[s.Index()] = int8(c.set.in.Fret(s, p))
	}
	return frets
}

// strikeDead leaves a dead strum or a dead note as it is: the fretting hand lies on
// the strings wherever it is.
func (c *chooser) strikeDead() {
	for _, note := range c.content.from.Notes {
		c.dead = append(c.dead, note.String)
	}
	if len(c.dead) == 0 {
		c.dead = []neck.String{6, 5, 4, 3, 2, 1}
		c.say(Fact{Kind: DeadStrum})
	} else {
		c.say(Fact{Kind: DeadNote})
	}
	c.choices = []choice{{Fingering: hand.Lifted}}
}

// fromHeld plays a note of a shape that stays down while its notes are picked:
// with the shape's finger, the whole hand where it is.
func (c *chooser) fromHeld() {
	f := hand.Lifted
	for _, n := range c.content.from.Notes {
		i := n.String.Index()
		f.Frets[i], f.Fingers[i] = int8(n.Fret), c.held.Fingers[i]
	}
	ch := c.add(f, 0)
	ch.hold, ch.grip, ch.base = c.hold(c.held.Fingering), c.held.Grip(), int8(c.held.Base())
	ch.taste = grade.Place(int(ch.base))
	c.say(Fact{Kind: HeldShape, Of: c.held.chord.Symbol})
}

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
				c.say(Fact{Kind: MovedNote, N: by * sign})
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

// note is the pitch that stands for an event when only one may sound.
func (c *chooser) note() pitch.Pitch {
	e, h := c.content.from, &c.content.harmony
	name := c.content.names.At(h.root).Note.String()
	switch {
	case e.Kind == song.Chord && e.Chord.Bass.Valid():
		c.say(Fact{Kind: BassOf, Of: e.Chord.Bass.String(), For: e.Chord.String()})
		return h.bass
	case e.Kind == song.Chord:
		c.say(Fact{Kind: RootOf, Of: e.Chord.Root.String(), For: e.Chord.String()})
	case h.chord && h.turned && !h.power:
		c.say(Fact{Kind: Melody, Of: name})
	case h.chord:
		c.say(Fact{Kind: RootOf, Of: name, For: c.called()})
	case e.Notes[0].By == song.Tapped:
		c.say(Fact{Kind: LowestOfRun, Of: name})
	default:
		c.say(Fact{Kind: TheLine, Of: name})
		c.reduce()
	}
	return h.root
}

// reduce says what becomes of the ornaments of a line when it is made easier.
func (c *chooser) reduce() {
	for _, trim := range grade.Trimmings(c.content.from) {
		if !trim.Harmonic {
			c.say(Fact{Kind: Reduced, Trim: trim})
			return
		}
	}
}

// oneFinger offers every place on the neck that gives the one note.
func (c *chooser) oneFinger() {
	if n, ok := single(c.content.from); ok && n.Harmonic && !c.set.rewrites() {
		c.say(Fact{Kind: TypedNotes}) // a natural harmonic is a touch of one finger where it is
		c.add(hand.Single(n.String, n.Fret, hand.Index), 0)
		return
	}
	p := c.note()
	c.places(c.moved(p), hand.Index)
}

// places offers every place of a pitch that is not further up the neck than what
// was typed, or all where there is no such place, with fingers up to last.
func (c *chooser) places(p pitch.Pitch, last hand.Finger) {
	e := c.content.from
	typed := -1
	if e.Kind == song.Notes && c.octaves == 0 && !c.set.rewrites() {
		typed = topFret(e)
	}
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
		c.say(Fact{Kind: OffTheNeck})
	}
}

// wrote tells whether the sheet has a note at a place.
func (c *chooser) wrote(s neck.String, fret int) bool {
	for _, n := range c.content.from.Notes {
		if n.String == s && n.Fret == fret {
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

// alone falls back to the single note where no shape can be played.
func (c *chooser) alone() {
	if len(c.choices) == 0 {
		c.why = nil
		c.oneFinger()
		c.say(Fact{Kind: NoShape, N: int(c.set.at.Reach)})
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
func powerFor(set pitch.Set, root pitch.Pitch) FactKind {
	if set := set.From(root.Class()); set.Has(3) || set.Has(4) {
		return PowerFor
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
		c.say(Fact{Kind: AlteredFor, Of: what, For: e.Chord.String(), Degree: fifth})
	case h.altered:
		c.say(Fact{Kind: AlteredFor, Of: what, For: c.called(), Degree: fifth})
	case e.Kind == song.Chord && what != e.Chord.String():
		c.say(Fact{Kind: powerFor(e.Chord.Classes(), h.root), Of: what, For: e.Chord.String()})
	case e.Kind == song.Chord || h.chord && h.power:
		c.say(Fact{Kind: TypedShape, Of: what})
	case h.chord:
		var set pitch.Set
		for _, p := range h.pitches {
			set = set.With(p.Class())
		}
		c.say(Fact{Kind: powerFor(set, h.root), Of: what, For: c.called()})
	default:
		c.say(Fact{Kind: PowerOn, Of: what})
		c.reduce()
	}
	if e.Kind == song.Chord && e.Chord.Bass.Valid() && e.Chord.Bass.Class() != h.root.Class() {
		c.say(Fact{Kind: BassIsLost, Of: e.Chord.Bass.String(), For: e.Chord.String()})
	}
}

// written tells whether an event is typed as so many notes, which then are its
// version already.
func (c *chooser) written(notes int) bool {
	return c.content.from.Kind == song.Notes && len(c.content.harmony.pitches) == notes && c.octaves == 0 && !c.set.rewrites()
}

// asTyped offers the shape as it is typed, if the hand can hold it.
func (c *chooser) asTyped() bool { return c.small(c.typedFrets(), 0) }

// typedFrets are the frets of the notes that are typed.
func (c *chooser) typedFrets() neck.Frets {
	frets := neck.NoFrets
	for _, n := range c.content.from.Notes {
		if !n.Dead {
			frets[n.String.Index()] = int8(n.Fret)
		}
	}
	return frets
}

// small adds a small shape of the sheet: one with a single finger like a note,
// with the finger that its place gives it.
func (c *chooser) small(frets neck.Frets, taste float64, why ...Fact) bool {
	fretted := -1
	for i, fret := range frets {
		if fret > 0 && fretted >= 0 {
			return c.shape(frets, taste, why...)
		}
		if fret > 0 {
			fretted = i
		}
	}
	if fretted < 0 {
		c.add(hand.Fingering{Frets: frets}, taste, why...)
		return true
	}
	before := len(c.choices)
	c.onString(neck.StringAt(fretted), int(frets[fretted]), hand.Little, taste)
	for i := before; i < len(c.choices); i++ {
		ch := &c.choices[i]
		ch.Frets, ch.why = frets, why
		ch.hold, ch.grip, ch.voice = c.hold(ch.Fingering), ch.Grip(), c.voice(frets)
	}
	return len(c.choices) > before
}

// roots lists the strings on which a root may stand, with the taste for each. A
// power chord has its root on string 6 or 5, or on the open 4th, or where it was
// written.
func (c *chooser) roots(root pitch.Pitch, each func(s neck.String, fret int, taste float64)) {
	e := c.content.from
	typed := -1
	if e.Kind == song.Notes && c.octaves == 0 && !c.set.rewrites() {
		typed = topFret(e)
	}
	type place struct {
		s     neck.String
		fret  int
		taste float64
	}
	var places []place
	fits := false
	for _, s := range rootStrings(e) {
		if !c.set.in.Has(s, root) {
			continue
		}
		fret := c.set.in.Fret(s, root)
		there := c.wrote(s, fret)
		if s == 4 && fret > 0 && (e.Kind == song.Chord || !c.near(4)) {
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
			p.taste = tasteElsewhere
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

// near tells whether what is written lies on a string or one next to it.
func (c *chooser) near(s neck.String) bool {
	for _, n := range c.content.from.Notes {
		if n.String >= s-1 && n.String <= s+1 {
			return true
		}
	}
	return false
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
		c.say(Fact{Kind: TypedShape, Of: c.called()})
		return
	}
	c.standsFor()
	if c.written(2) {
		c.sayWhyNot(c.typedFrets())
		c.why[len(c.why)-1].Of = c.called()
	}
	root := c.moved(c.content.harmony.root)
	fifth := pitch.Pitch(c.content.harmony.fifth)
	c.roots(root, func(s neck.String, fret int, taste float64) {
		var why []Fact
		if fret == 0 {
			why = []Fact{{Kind: OpenRoot}}
		} else if s > 1 && c.set.in.Fret(s, root) == c.set.in.Fret(s-1, root+fifth) {
			why = []Fact{{Kind: FlatFinger}}
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
		c.upsideDown(root, fifth, Fact{Kind: KeepsBass, Of: bass.String()})
		if len(c.choices) == 0 {
			c.choices = upright
		} else {
			c.why = slices.DeleteFunc(c.why, func(f Fact) bool { return f.Kind == BassIsLost })
		}
	case len(c.choices) == 0:
		c.upsideDown(root, fifth, Fact{Kind: ForReach})
	case c.set.at.New&hand.TwoFingers != 0:
		c.upsideDown(root, fifth, Fact{Kind: ForOneFinger})
	}
	c.alone()
}

func (c *chooser) upsideDown(root, fifth pitch.Pitch, because Fact) {
	for s := neck.String(neck.Strings); s >= 4; s-- {
		c.shape(c.lay(s, 1, root+fifth-12, root), tasteTurned, Fact{Kind: UpsideDown}, because)
	}
}

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

// threeNote offers root, fifth and octave on three neighbouring strings.
func (c *chooser) threeNote() {
	h := &c.content.harmony
	switch {
	case c.written(3) && c.asTyped():
		c.say(Fact{Kind: TypedShape, Of: c.called()})
		return
	case c.written(2) && !h.power:
		if c.withOctave() {
			c.say(Fact{Kind: WithOctave, Of: c.called()})
			return
		}
		if c.asTyped() {
			c.say(Fact{Kind: StaysTwo, Of: c.called()})
			return
		}
	case c.written(2) && h.turned:
		if c.withRootBelow() {
			c.say(Fact{Kind: WithRootBelow, Of: c.called()})
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
		c.say(Fact{Kind: NoShape, N: int(c.set.at.Reach)})
		return
	}
	c.say(Fact{Kind: WithOctave})
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
		c.say(Fact{Kind: TypedVoicing, Of: e.Chord.String()})
	} else {
		c.say(Fact{Kind: TypedNotes})
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
	if best, ok := c.sayWhyNot(frets); ok {
		c.add(best, 0)
		return
	}
	c.choices = []choice{{Fingering: hand.Fingering{Frets: frets}, hold: beyond, voice: c.voice(frets)}}
}

// sayWhyNot says why the player cannot hold a shape, and gives the easiest of
// the ways that another hand has; ok is false where four fingers are not enough.
func (c *chooser) sayWhyNot(frets neck.Frets) (best hand.Fingering, ok bool) {
	all := hand.Fingerings(frets)
	if len(all) == 0 {
		c.say(Fact{Kind: BeyondFour})
		return best, false
	}
	best = slices.MinFunc(all, func(a, b hand.Fingering) int { return cmp.Compare(c.hold(a), c.hold(b)) })
	p := c.set.at
	switch reach := best.Reach(p.Neck); {
	case reach > p.Reach:
		c.say(Fact{Kind: BeyondReach, N: int(reach + 0.5), Most: int(p.Reach)})
	case p.NoLittle && best.Uses(hand.Little):
		c.say(Fact{Kind: NeedsLittle})
	case p.NoBarre:
		c.say(Fact{Kind: NeedsBarre})
	default:
		c.say(Fact{Kind: BeyondSpread, Most: int(p.Reach)})
	}
	return best, true
}

// beyond is the demand of a shape for which a hand has not enough fingers.
const beyond = 10

// voiced gives a chord by name its usual shape, the first that the hand can
// hold.
func (c *chooser) voiced() {
	symbol := c.content.from.Chord
	for i, v := range c.set.options.Book.Usual(symbol, c.set.in, c.set.at.Player, 3) {
		if c.shape(v.Frets, 0) {
			kind := UsualShape
			if i > 0 || v.Fidelity < 1 && len(symbol.Tones) == 3 {
				kind = SomeShape
			}
			c.say(Fact{Kind: kind, Of: symbol.String()})
			return
		}
	}
	c.twoNote()
	c.say(Fact{Kind: NoShape, N: int(c.set.at.Reach)})
}

// wholePicked is how many strings of a shape are picked where it is strummed as it
// is.
const wholePicked = 4

// easierVoicings is how many voicings of a chord are weighed to make it easier.
const easierVoicings = 8

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
	list := c.set.options.Book.Choices(symbol, cfg, easierVoicings)
	for i := range list {
		c.stands(&list[i], symbol.String())
		if ch := &c.choices[len(c.choices)-1]; c.content.picked != (neck.Frets{}) && !covers(ch.Frets, c.content.picked) {
			ch.taste += tasteNotPicked
		}
	}
	c.say(Fact{Kind: Stands, Of: school.Title(), For: symbol.String()})
	if len(c.choices) > 0 {
		return
	}
	c.why = nil
	c.twoNote()
	c.say(Fact{Kind: NoShape, N: int(c.set.at.Reach)})
}

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
	why := Fact{Kind: WholeChord, Of: symbol}
	switch {
	case v.Role == voicing.Shown:
		why.Kind = UsualShape
	case len(v.Lost) > 0 || len(v.Added) > 0:
		why = Fact{Kind: Stands, Of: v.Is.Name, Lost: chord.Degrees(v.Lost)}
		for _, n := range v.Added {
			why.Added += " " + n.String()
		}
	}
	before := len(c.choices)
	if !c.shape(v.Frets, v.Taste(), why) {
		c.add(v.Fingering, v.Taste(), why)
	}
	for i := before; i < len(c.choices); i++ {
		c.choices[i].remarks = v.Remarks
	}
}

// placed puts the sounding notes of an event wherever they lie together.
func (c *chooser) placed() {
	h := &c.content.harmony
	because := Fact{Kind: ElsewhereFree}
	if c.set.rewrites() {
		because.Kind = OtherTuning
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
		c.say(Fact{Kind: NotTogether})
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
