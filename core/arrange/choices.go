package arrange

import (
	"math"
	"slices"

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
	tasteElsewhere  = 0.12 // a note that is not where it is written
	tasteNearest    = 8.0  // the same on the easier rungs
	tasteRootAway   = 1.0  // the root of what is made of it
	tasteShape      = 3.0  // a root of several notes that are written together, the same
	tasteOpenAway   = 0.8  // an open string that is not written, next to a hand above lowRoot
	tasteOpenHigh   = 0.5  // an open string for a note that is written high up
	tasteUp         = 0.08 // for each fret of a root above lowRoot, where nothing says where it lies
	tasteFirst      = 0.03 // for each fret from the first position, among open strings
	tasteTooHigh    = 50.0 // more than two frets above what was typed, where the note is elsewhere too
	tasteBack       = 0.4  // the index a fret back
	tasteStretch    = 0.3  // the little finger a fret further
	tasteSpread     = 0.6  // a fret between the fingers of a legato pair beyond one for each
	tasteFidget     = 0.6  // other fingers for the shape that was played just before
	tasteFlatMiddle = 0.15 // two strings under the middle or the ring finger, beside the index and the little
	tasteNotPicked  = 2.0  // another shape for a chord than the one that is picked in the sheet
	tasteTurned     = 0.1  // a power chord upside down
	tasteBend       = 0.4  // for each finger by which a bend is not the ring's
)

// lowRoot is the fret up to which a root is low on the neck.
const lowRoot = 5

// crowded is how far a form of two or three notes may be from the one that is taught and
// still be worth a thought for the sake of what comes before and after it.
const (
	crowded      = 0.46
	crowdedPower = 0.12 // a shape that is moved about
)

// offer is what the events that may be played in the same ways share.
type offer struct {
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
	line    bool           // one finger holds all that is stopped of it
	by      song.Technique // of a single note that is played as it is written
	opened  bool           // an open string for a note that is written fretted
	why     []Fact         // what speaks for it, beside the offer's reason
	remarks []voicing.Remark
}

// state is a choice and where the hand is while it sounds.
type state struct {
	choice int32
	base   int8
}

// offerKey tells offers apart.
type offerKey struct {
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
	rung    *rungRow
	way     Way
	key     pitch.Key
	content *content
	held    *heldShape
	keeps   bool
	main    bool
	open    bool // the part has open strings
	free    bool // the notes may lie elsewhere
	octaves int
	*offer
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
		c.say(Reason{Why: Single})
	default:
		c.rung.choose(c)
	}
	if c.octaves != 0 && !c.content.from.Dead() {
		c.say(Moved{c.octaves, true})
	}
}

// holds tells whether the notes are picked out of a shape that stays down.
func (k *offer) holds() bool {
	return slices.ContainsFunc(k.why, func(f Fact) bool { r, ok := f.(Reason); return ok && r.Why == HeldShape })
}

func (c *chooser) say(f Fact) { c.why = append(c.why, f) }

// add adds a fingering.
func (c *chooser) add(f hand.Fingering, taste float64, why ...Fact) *choice {
	base := f.Base()
	for _, fact := range why { // what holds for some fingers of a shape only
		if fact == (Reason{Why: FlatFinger}) && f.Build().Barres == 0 || fact == (Reason{Why: ForOneFinger}) && f.Count() > 1 {
			why = slices.DeleteFunc(slices.Clone(why), func(g Fact) bool { return g == fact })
			break
		}
	}
	ch := choice{Fingering: f, hold: c.hold(f), taste: taste + grade.Place(base), grip: f.Grip(),
		voice: c.voice(f.Frets), why: why, base: int8(min(base, neck.MaxFret))}
	ch.line = ch.voice.Strings == 1
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
	sounding := (hand.Fingering{Frets: frets}).Sounding()
	if fretted(frets) > 2 || sounding > 3 {
		return c.forms(c.set.at.Forms(buffer[:0], frets), math.Inf(1), taste, why)
	}
	margin := crowded
	if !c.rung.literal || c.content.harmony.power && fretted(frets) == 2 && sounding == 2 {
		margin = crowdedPower
	}
	return c.forms(c.set.at.AppendHeld(buffer[:0], frets), margin, taste, why)
}

// forms adds those of some forms that are not further than a margin from the best. It
// tells whether there is any.
func (c *chooser) forms(held []hand.Held, margin, taste float64, why []Fact) bool {
	least := math.Inf(1)
	for i := range held {
		least = min(least, held[i].Form)
	}
	for i := range held {
		if h := &held[i]; h.Form <= least+margin {
			c.add(h.Fingering, taste+grade.OffForm(h.Form-least), why...)
		}
	}
	return len(held) > 0
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
// one of them is not there, or nothing keeps a string between them silent: of two
// open strings no finger is beside it.
func (c *chooser) lay(low neck.String, gap int, pitches ...pitch.Pitch) neck.Frets {
	frets := neck.NoFrets
	for i, p := range pitches {
		s := low - neck.String(i*gap)
		if s < 1 || !c.set.in.Has(s, p) {
			return neck.NoFrets
		}
		frets[s.Index()] = int8(c.set.in.Fret(s, p))
	}
	if !hand.Silenceable(frets) {
		return neck.NoFrets
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
		c.say(Reason{Why: DeadStrum})
	} else {
		c.say(Reason{Why: DeadNote})
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
	c.say(Reason{HeldShape, c.held.chord.Symbol})
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

// walks tells whether two strings at one fret are a double stop with a place in the hand,
// and no power chord of a drop tuning, which one finger takes all along the neck.
func (c *chooser) walks() bool {
	h := &c.content.harmony
	return pair(c.content.from) && !(h.power && !h.turned)
}

// small adds a small shape of the sheet: one with a single finger like a note, one of
// two neighbours at one fret as well, with the finger that its place gives it.
func (c *chooser) small(frets neck.Frets, taste float64, why ...Fact) bool {
	fretted, second := -1, -1
	for i, fret := range frets {
		switch {
		case fret <= 0:
		case fretted < 0:
			fretted = i
		case second < 0 && i == fretted+1 && fret == frets[fretted] && c.walks() && (hand.Fingering{Frets: frets}).Sounding() == 2:
			second = i
		default:
			return c.shape(frets, taste, why...)
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
		if second >= 0 {
			ch.Fingers[second] = ch.Fingers[fretted]
			if by := ch.Fingers[second]; by == hand.Middle || by == hand.Ring {
				ch.taste += tasteFlatMiddle
			}
		}
		ch.hold, ch.grip, ch.voice = c.hold(ch.Fingering), ch.Grip(), c.voice(frets)
		ch.line = second >= 0 || ch.voice.Strings == 1
	}
	return len(c.choices) > before
}
