package arrange

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Tastes decide between versions of nearly the same work: low on the neck
// rather than high, where the teacher typed it rather than elsewhere, and a
// hand that stays in its place however slow the music is.
const (
	tastePerFret   = 0.02
	tasteHigh      = 0.004 // for the square of the frets above the seventh
	tasteElsewhere = 0.02
	tastePerMM     = 1.0 / 400
)

// tasteOf is the taste against a place of the hand.
func tasteOf(base int) float64 {
	high := float64(max(base-7, 0))
	return tastePerFret*float64(base) + tasteHigh*high*high
}

// crowded is how much harder to hold than the easiest fingering of a shape
// another may be, to be worth a thought for the sake of what comes before and
// after it.
const crowded = 0.35

// kind is what the events that may be played in the same ways share.
type kind struct {
	id      int32
	choices []choice // never empty
	states  []state
	dead    []neck.String
	why     reason
}

// kindKey tells kinds apart.
type kindKey struct {
	content int
	main    bool // thickened, on the rungs that thicken
	octaves int8 // by which its phrase moves
}

// choice is one way to play an event.
type choice struct {
	hand.Fingering
	hold  float64 // demand of holding it
	taste float64
	base  int8 // Fingering.Base, kept at hand for the search
	grip  hand.Grip
	why   string // what speaks for it, beside the kind's reason
	shown *shown // made when it is first written
}

// state is a choice and where the hand is while it sounds.
type state struct {
	choice int32
	base   int8
}

// reason is why an event is played as it is: what it is, and because of what.
// Kept apart, the events of a bar that share a reason can share the words.
type reason struct{ what, because string }

func (r reason) String() string {
	if r.what == "" {
		return r.because
	}
	return r.what + ", " + r.because
}

// newKind numbers a kind.
func (w *work) newKind(k kind) *kind {
	k.id = w.count
	w.count++
	return &k
}

// kindOf finds or makes the kind of an event.
func (w *work) kindOf(key kindKey) *kind {
	if k := w.kinds[key]; k != nil {
		return k
	}
	k := w.newKind(kind{})
	c := chooser{work: w, kind: k, content: &w.contents[key.content], octaves: int(key.octaves)}
	c.choose(key.main)
	k.choices = uncrowded(k.choices)
	w.kinds[key] = k
	return k
}

// uncrowded leaves out fingerings that are much harder to hold than another of
// the same shape.
func uncrowded(choices []choice) []choice {
	if len(choices) < 2 {
		return choices
	}
	easiest := make(map[neck.Frets]float64, len(choices))
	for _, c := range choices {
		if best, ok := easiest[c.Frets]; !ok || c.hold < best {
			easiest[c.Frets] = c.hold
		}
	}
	return slices.DeleteFunc(choices, func(c choice) bool { return c.hold > easiest[c.Frets]+crowded })
}

// chooser fills in the ways in which an event can be played on a rung.
type chooser struct {
	*work
	*kind
	*content
	octaves int
}

// choose fills in the choices.
func (c *chooser) choose(main bool) {
	e := c.from
	switch {
	case e.Dead():
		c.strikeDead()
	case c.rung == EasyChords && e.Kind == song.Chord:
		c.easier()
	case c.literal():
		c.asWritten()
	case c.rung == OneFinger:
		c.single()
	case !main:
		c.single()
		c.why.because += ", passing, so it stays single"
	case c.rung == TwoNote:
		c.twoNote()
	case c.rung == Octave:
		c.octave()
	case c.rung == ThreeNote:
		c.threeNote()
	}
	if c.octaves != 0 && !e.Dead() {
		c.why.because += ", moved " + octaves(c.octaves) + " with its phrase to lie on this neck"
	}
}

// octaves counts octaves in words, with their direction.
func octaves(n int) string {
	direction := "up"
	if n < 0 {
		direction, n = "down", -n
	}
	if n == 1 {
		return "an octave " + direction
	}
	return fmt.Sprintf("%d octaves %s", n, direction)
}

// strikeDead leaves a dead strum or a dead note as it is: the fretting hand lies on
// the strings wherever it is.
func (c *chooser) strikeDead() {
	c.why = reason{"dead strum", "the hand eases off and lies on the strings"}
	for _, note := range c.from.Notes {
		c.dead = append(c.dead, note.String)
	}
	if len(c.dead) == 0 {
		c.dead = []neck.String{6, 5, 4, 3, 2, 1}
	} else {
		c.why = reason{"dead note", "the finger touches the string without pressing"}
	}
	c.choices = []choice{{Fingering: hand.Silent}}
}

// moved puts a pitch where its phrase goes, and on the neck where even that
// does not help.
func (c *chooser) moved(p pitch.Pitch) (pitch.Pitch, string) {
	p += pitch.Pitch(12 * c.octaves)
	if c.reachable(p) {
		return p, ""
	}
	for by := 1; by <= 8; by++ {
		for _, sign := range []int{1, -1} {
			if q := p + pitch.Pitch(12*by*sign); c.reachable(q) {
				return q, ", moved " + octaves(by*sign) + " to lie on this neck"
			}
		}
	}
	return p, ""
}

// reachable tells whether some string has a pitch on its neck.
func (w *work) reachable(p pitch.Pitch) bool {
	for s := neck.String(1); s <= neck.Strings; s++ {
		if fret := w.tuning.Fret(s, p); fret >= 0 && fret <= w.neck.LastFret() {
			return true
		}
	}
	return false
}

// note is the pitch that stands for an event when only one may sound, and the
// reason.
func (c *chooser) note() (pitch.Pitch, reason) {
	e, h := c.from, &c.harmony
	switch {
	case e.Kind == song.Chord && e.Chord.Bass.Valid():
		return h.bass, reason{e.Chord.Bass.String(), "the bass that " + e.Chord.String() + " names"}
	case e.Kind == song.Chord:
		return h.root, reason{e.Chord.Root.String(), "the root of " + e.Chord.String()}
	case h.chord:
		return h.root, reason{c.part.Key.SpellClass(h.root.Class()).String(), "the root of " + c.called()}
	}
	return h.root, reason{c.part.Key.SpellClass(h.root.Class()).String(), "the line itself" + stepsDown(e)}
}

// stepsDown says what becomes of the ornaments of a line when it is made
// easier.
func stepsDown(e *song.Event) string {
	for _, n := range e.Notes {
		switch {
		case n.Bend != 0:
			return ", the bend becomes its target note"
		case n.Harmonic:
			return ", the harmonic is fretted where it sounds"
		case n.By == song.Hammered:
			return ", picked instead of hammered on"
		case n.By == song.PulledOff:
			return ", picked instead of pulled off"
		case n.By == song.Slid:
			return ", a plain shift instead of the slide"
		case n.By == song.Tapped:
			return ", picked instead of tapped"
		}
	}
	if e.Vibrato {
		return ", without the vibrato"
	}
	return ""
}

// single offers every place on the neck that gives the one note.
func (c *chooser) single() {
	p, why := c.note()
	p, moved := c.moved(p)
	c.why = why
	c.why.because += moved
	c.places(p)
}

// places offers every place of a pitch.
func (c *chooser) places(p pitch.Pitch) {
	last := hand.Little
	if c.rung == OneFinger {
		last = hand.Index
	}
	for s := neck.String(neck.Strings); s >= 1; s-- {
		fret := c.tuning.Fret(s, p)
		if fret < 0 || fret > c.neck.LastFret() {
			continue
		}
		for finger := hand.Index; finger <= last; finger++ {
			if finger > hand.Index && (fret == 0 || int(finger) > fret) {
				break
			}
			if finger == hand.Little && c.options.Player.NoLittle {
				break
			}
			c.add(hand.Single(s, fret, finger), c.elsewhere(s, fret), "")
		}
	}
	if len(c.choices) == 0 {
		c.choices = []choice{{Fingering: hand.Silent}}
		c.why.because += ", left out: no string has it"
	}
}

// elsewhere is the taste against playing a note where it is not written.
func (c *chooser) elsewhere(s neck.String, fret int) float64 {
	if c.from.Kind != song.Notes {
		return 0
	}
	for _, n := range c.from.Notes {
		if n.String == s && n.Fret == fret {
			return 0
		}
	}
	return tasteElsewhere
}

// add adds a fingering.
func (c *chooser) add(f hand.Fingering, taste float64, why string) {
	base := f.Base()
	c.choices = append(c.choices, choice{Fingering: f, hold: grade.Hold(f, c.options.Player).Total(),
		taste: taste + tasteOf(base), grip: f.Grip(), why: why, base: int8(min(base, neck.MaxFret))})
}

// shape adds the fingerings of pitches that lie on strings gap apart, the
// lowest on string low.
func (c *chooser) shape(low neck.String, gap int, why string, pitches ...pitch.Pitch) {
	frets := neck.NoFrets
	for i, p := range pitches {
		s := low - neck.String(i*gap)
		if s < 1 {
			return
		}
		fret := c.tuning.Fret(s, p)
		if fret < 0 || fret > c.neck.LastFret() {
			return
		}
		frets[s.Index()] = int8(fret)
	}
	for _, f := range c.options.Player.Fingerings(frets) {
		if powerHand(f) {
			c.add(f, 0, why)
		}
	}
}

// powerHand tells whether a fingering is one that power chords and octaves are
// taught with, so that the hand keeps its form wherever they lie: the index at
// the lowest fret, the middle only at the next one, ring or little finger
// further up; a barre is that of the index or the ring.
func powerHand(f hand.Fingering) bool {
	_, strings := f.Barre()
	low, high := int8(neck.MaxFret+1), int8(0)
	for _, fret := range f.Frets {
		if fret > 0 {
			low, high = min(low, fret), max(high, fret)
		}
	}
	for i, by := range f.Fingers {
		switch above := f.Frets[i] - low; {
		case by == hand.None:
		case by == hand.Thumb,
			low == high && strings > 0 && by != hand.Index && by != hand.Ring,
			low < high && above == 0 && by != hand.Index,
			low < high && above == 1 && by != hand.Middle,
			low < high && above > 1 && by < hand.Ring:
			return false
		}
	}
	return true
}

// alone falls back to the single note where no shape can be played.
func (c *chooser) alone(because string) {
	if len(c.choices) == 0 {
		c.single()
		c.why.because += ", alone: " + because
	}
}

func (c *chooser) noShape(what string) string {
	return fmt.Sprintf("no %s lies on this neck within a reach of %.0f mm", what, c.options.Player.Reach)
}

// power names the power chord of an event.
func (c *chooser) power() string {
	h := &c.harmony
	root := c.names.At(h.root).Note
	switch {
	case h.altered && h.fifth == 6:
		return fmt.Sprintf("%s with its flat fifth", root)
	case h.altered && h.fifth == 8:
		return fmt.Sprintf("%s with its sharp fifth", root)
	}
	return root.String() + "5"
}

// called is what to call several notes that are written as frets: a power
// chord by its name, anything else by the number of its notes.
func (c *chooser) called() string {
	for _, p := range c.harmony.pitches {
		if above := (p - c.harmony.root).Class(); above != 0 && above != 7 {
			return fmt.Sprintf("the %d notes", len(c.harmony.pitches))
		}
	}
	return c.part.Key.SpellClass(c.harmony.root.Class()).String() + "5"
}

// asInSheet is the reason of what is played as it is written.
const asInSheet = "as the sheet has it"

// standsFor says what a thickened event stands for.
func (c *chooser) standsFor(what string) reason {
	e, h := c.from, &c.harmony
	switch {
	case e.Kind == song.Chord && h.altered:
		return reason{what, "since a plain fifth would contradict " + e.Chord.String()}
	case e.Kind == song.Chord && what == e.Chord.String():
		return reason{what, asInSheet}
	case e.Kind == song.Chord:
		return reason{what, "for " + e.Chord.String()}
	case h.chord && h.altered:
		return reason{what, "as the written notes have it"}
	case h.chord && what == c.called():
		return reason{what, asInSheet}
	case h.chord:
		return reason{what, "for " + c.called()}
	}
	return reason{what, "on the line" + stepsDown(e)}
}

// twoNote offers power chords: the fifth above the root on the next thinner
// string, or below it on the next thicker one.
func (c *chooser) twoNote() {
	root, moved := c.moved(c.harmony.root)
	c.why = c.standsFor(c.power())
	c.why.because += moved
	fifth := pitch.Pitch(c.harmony.fifth)
	for s := neck.String(neck.Strings); s >= 1; s-- {
		why := ""
		if c.tuning.Fret(s, root) == 0 {
			why = "open root"
		} else if s > 1 && c.tuning.Fret(s, root) == c.tuning.Fret(s-1, root+fifth) {
			why = "one finger across both strings"
		}
		c.shape(s, 1, why, root, root+fifth)
	}
	// Upside down is for when one finger must do, or when it keeps a bass
	// that the sheet names.
	bass := c.from.Chord.Bass
	turned := "upside down, the fifth below its root"
	switch {
	case c.from.Kind == song.Chord && bass.Valid() && bass.Class() == (root+fifth).Class():
		upright := c.choices
		c.choices = nil
		c.upsideDown(fmt.Sprintf("%s, which keeps the bass %s", turned, bass), root, fifth)
		if len(c.choices) == 0 {
			c.choices = upright
		}
	case len(c.choices) == 0:
		c.upsideDown(turned+", because the hand does not reach it the other way", root, fifth)
	case c.options.Player.New&hand.TwoFingers != 0:
		c.upsideDown(turned+", so that one finger does", root, fifth)
	}
	c.alone(c.noShape("power chord"))
}

func (c *chooser) upsideDown(why string, root, fifth pitch.Pitch) {
	for s := neck.String(neck.Strings); s >= 2; s-- {
		c.shape(s, 1, why, root+fifth-12, root)
	}
}

// octave offers the note and its octave two strings further, the string
// between muted.
func (c *chooser) octave() {
	p, why := c.note()
	p, moved := c.moved(p)
	c.why = reason{why.what, why.because + moved + ", with its octave"}
	for s := neck.String(neck.Strings); s >= 3; s-- {
		c.shape(s, 2, "", p, p+12)
	}
	for s := neck.String(neck.Strings); s >= 3 && len(c.choices) == 0; s-- {
		c.shape(s, 2, "the octave added below", p-12, p)
	}
	c.alone(c.noShape("octave"))
}

// threeNote offers root, fifth and octave on three neighbouring strings.
func (c *chooser) threeNote() {
	root, moved := c.moved(c.harmony.root)
	fifth := pitch.Pitch(c.harmony.fifth)
	for s := neck.String(neck.Strings); s >= 3; s-- {
		c.shape(s, 1, "", root, root+fifth, root+12)
	}
	if len(c.choices) == 0 {
		c.twoNote()
		c.why.because += ", two notes: " + c.noShape("three-note shape")
		return
	}
	c.why = c.standsFor(c.power())
	if c.why.because == asInSheet {
		c.why.because = "with the octave added"
	} else {
		c.why.because = "with the octave, " + c.why.because
	}
	c.why.because += moved
}

// asWritten keeps the places that the teacher typed and looks for the fingers;
// a chord without a voicing gets one.
func (c *chooser) asWritten() {
	c.why = reason{"", "as written"}
	frets := neck.NoFrets
	ornamented := c.from.Vibrato
	for _, n := range c.from.Notes {
		ornamented = ornamented || n.By != song.Picked || n.Bend != 0 || n.Harmonic
	}
	switch {
	case c.options.Tuning != nil, c.way.Replace && c.from.Kind == song.Notes && !ornamented:
		c.placed()
		return
	case c.from.Kind == song.Chord && c.from.Frets == neck.NoFrets:
		c.voiced()
		return
	case c.from.Kind == song.Chord:
		frets = c.from.Frets
		c.why = reason{c.from.Chord.String(), "in the voicing that is written"}
	}
	for _, note := range c.from.Notes {
		if !note.Dead {
			frets[note.String.Index()] = int8(note.Fret)
		} else {
			c.dead = append(c.dead, note.String)
		}
	}
	c.typed(frets)
}

// typed offers the fingerings of a shape that has to stay as it is; where the
// player cannot hold it, the best there is, and says so.
func (c *chooser) typed(frets neck.Frets) {
	for _, f := range c.options.Player.Fingerings(frets) {
		c.add(f, 0, "")
	}
	if len(c.choices) > 0 {
		return
	}
	all := hand.Fingerings(frets)
	if len(all) == 0 {
		c.why.because += "; four fingers are not enough for this shape"
		c.choices = []choice{{Fingering: hand.Fingering{Frets: frets}, hold: beyond}}
		return
	}
	for _, f := range all {
		c.add(f, 0, "")
	}
	best := slices.MinFunc(c.choices, func(a, b choice) int { return int(math.Copysign(1, a.hold-b.hold)) })
	c.choices = []choice{best}
	p := c.options.Player
	switch reach := best.Reach(p.Neck()); {
	case reach > p.Reach:
		c.why.because += fmt.Sprintf("; its reach of %.0f mm is more than the hand's %.0f", reach, p.Reach)
	case p.NoLittle && best.Uses(hand.Little):
		c.why.because += "; it does not go without the little finger"
	case p.NoBarre:
		c.why.because += "; it does not go without a barre"
	default:
		c.why.because += fmt.Sprintf("; its fingers spread further than a hand of %.0f mm lets them", p.Reach)
	}
}

// beyond is the demand of a shape for which a hand has not enough fingers.
const beyond = 10

// voiced gives a chord by name the voicings that are easiest to hold, of those
// that sound as it usually does.
func (c *chooser) voiced() {
	symbol := c.from.Chord
	for i, v := range c.options.Book.Usual(symbol, c.tuning, c.options.Player, usualVoicings) {
		// The list is in the order of what a player would take first.
		c.add(v.Fingering, float64(i)*tastePerVoicing, "")
	}
	c.why = reason{symbol.String(), "with its notes, the bass lowest"}
	if len(c.choices) > 0 {
		return
	}
	c.twoNote()
	c.why.because += fmt.Sprintf(", because no full voicing lies within a reach of %.0f mm", c.options.Player.Reach)
}

// easier gives a chord by name what its school has to stand for it: of all its
// voicings those that are least work with what they lose weighed in.
func (c *chooser) easier() {
	symbol := c.from.Chord
	school := c.options.School
	if c.way.School != "" {
		school = c.way.School
	}
	cfg := voicing.Config{Tuning: c.tuning, Player: c.options.Player, School: school, Key: c.part.Key}
	for _, v := range c.options.Book.Choices(symbol, cfg, easierVoicings) {
		why := "all of it"
		switch {
		case len(v.Lost) > 0 && len(v.Added) > 0:
			why = fmt.Sprintf("without its %s, with %s: %s", strings.Join(v.Lost, " "), v.Added[0], v.Is)
		case len(v.Lost) > 0:
			why = fmt.Sprintf("without its %s: %s", strings.Join(v.Lost, " "), v.Is)
		case len(v.Added) > 0:
			why = fmt.Sprintf("with %s: %s", v.Added[0], v.Is)
		case v.Is != symbol.Symbol:
			why = "as " + v.Is
		}
		if len(v.Warnings) > 0 {
			why += ", " + v.Warnings[0]
		}
		c.add(v.Fingering, v.Taste(), why)
	}
	for _, shape := range c.pinnedShapes() {
		known := slices.ContainsFunc(c.choices, func(o choice) bool { return o.Frets == shape })
		if v, ok := voicing.Describe(symbol, cfg, shape); ok && !known {
			c.add(v.Fingering, v.Taste(), "as you chose")
		}
	}
	c.why = reason{symbol.String(), strings.ToLower(school.Title())}
	if len(c.choices) > 0 {
		return
	}
	c.twoNote()
	c.why.because += ", because no voicing of that kind lies within the hand's reach"
}

// pinnedShapes lists the shapes that the teacher has pinned for events that
// sound like this one: they may be of any school.
func (c *chooser) pinnedShapes() []neck.Frets {
	var shapes []neck.Frets
	for _, p := range c.way.Pins {
		if p.What != PinShape {
			continue
		}
		for i := range c.events {
			e := &c.events[i]
			if &c.contents[e.content] == c.content && p.speaksOf(e) && !slices.Contains(shapes, p.Shape) {
				shapes = append(shapes, p.Shape)
			}
		}
	}
	return shapes
}

// easierVoicings is how many voicings of a chord are weighed to make it easier.
const easierVoicings = 12

// How many usual voicings of a chord are weighed, and the taste against the
// next in their order.
const (
	usualVoicings   = 6
	tastePerVoicing = 0.08
)

// placed puts the sounding notes of an event wherever they lie together.
func (c *chooser) placed() {
	h := &c.harmony
	if c.from.Kind == song.Chord {
		c.voiced()
		return
	}
	elsewhere := "placed where it is least work"
	if c.options.Tuning != nil {
		elsewhere = "placed in the other tuning"
	}
	for _, note := range c.from.Notes {
		if note.Dead {
			c.dead = append(c.dead, note.String)
		}
	}
	if len(h.pitches) == 1 {
		p, moved := c.moved(h.pitches[0])
		c.why = reason{c.names.At(p).Note.String(), elsewhere + stepsDown(c.from) + moved}
		c.places(p)
		return
	}
	c.why = reason{fmt.Sprintf("the %d notes", len(h.pitches)), elsewhere}
	c.spread(0, neck.Strings+1, neck.NoFrets)
	if len(c.choices) == 0 {
		c.twoNote()
		c.why.because += ", because the notes as written do not lie together: what is lost is the rest of them"
	}
}

// spread tries every way to lay the pitches from the k-th on strings thinner
// than below.
func (c *chooser) spread(k int, below neck.String, frets neck.Frets) {
	h := &c.harmony
	if k == len(h.pitches) {
		taste := tasteElsewhere
		if c.options.Tuning == nil && c.isWritten(frets) {
			taste = 0
		}
		for _, f := range c.options.Player.Fingerings(frets) {
			c.add(f, taste, "")
		}
		return
	}
	for s := below - 1; s >= 1; s-- {
		fret := c.tuning.Fret(s, h.pitches[k]+pitch.Pitch(12*c.octaves))
		if fret < 0 || fret > c.neck.LastFret() {
			continue
		}
		next := frets
		next[s.Index()] = int8(fret)
		c.spread(k+1, s, next)
	}
}

// isWritten tells whether a shape is where the notes are typed.
func (c *chooser) isWritten(frets neck.Frets) bool {
	for _, n := range c.from.Notes {
		if !n.Dead && frets.On(n.String) != n.Fret {
			return false
		}
	}
	return true
}
