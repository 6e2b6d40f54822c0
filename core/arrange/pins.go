package arrange

import (
	"cmp"
	"slices"
	"strings"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Unmet is a pin that cannot be kept.
type Unmet struct {
	Pin    Pin
	Bar    int
	Start  pitch.Frac
	Beat   string // the count syllable
	Why    UnmetKind
	Of     string       // what is played there
	Could  []neck.Frets // where it lies, at most a few
	Played neck.Frets   // what is played instead
}

// UnmetKind is why a pin cannot be kept.
type UnmetKind uint8

// The reasons.
const (
	NotThere    UnmetKind = iota // the notes are not in the pinned place
	NoSuchHand                   // the hand cannot hold the shape
	NoFinger                     // the finger cannot hold it
	NoSuchBar                    // the part has no such bar, or its line no such pass
	NoStroke                     // nothing is struck there
	NoSuchChord                  // the part has no such chord by name
	OtherNotes                   // it is kept, but has notes that are not those of what is played: Of them
)

// pin takes away the choices that the teacher's pins rule out. A pin is never
// refused for a shape that the hand can hold; one that leaves nothing is
// reported, and the choices that come nearest to it stay.
func (p *search) pin() {
	p.nowhere()
	pins := slices.Clone(p.way.Pins)
	slices.SortStableFunc(pins, func(a, b Pin) int { return cmp.Compare(a.meant(), b.meant()) })
	for i := range p.need {
		if p.score.events[i].from.Dead() {
			continue
		}
		var kept []Pin // of this event
		for _, pin := range pins {
			if pin.speaksOf(&p.score.events[i], p.score) {
				p.need[i].pinned = true
				if p.keepPinned(i, pin, kept) {
					kept = append(kept, pin)
				}
			}
		}
	}
}

// meant is how much a pin means one place: what is pinned for one holds against what
// is pinned for all.
func (p Pin) meant() int {
	switch {
	case p.Event:
		return 4
	case p.Pass > 0:
		return 3
	case p.Bar > 0:
		return 2
	case p.Of != "":
		return 1
	}
	return 0
}

func (p Pin) speaksOf(e *event, s *score) bool {
	of := s.of[e.bar]
	if p.Of != "" && (e.from.Kind != song.Chord || e.from.Chord.Symbol != p.Of) {
		return false
	}
	return (p.Bar == 0 || p.Bar == of.bar+1) && (p.Pass == 0 || of.from <= p.Pass && p.Pass <= of.to) && (!p.Event || p.Start == e.from.Start)
}

// nowhere reports the pins that speak of nothing in the part: its bars, or the
// passes of a line, have become fewer, nothing is struck there, or the chord has gone.
func (p *search) nowhere() {
	for _, pin := range p.way.Pins {
		u := Unmet{Pin: pin, Bar: pin.Bar, Start: pin.Start}
		switch {
		case pin.Bar > 0 && p.score.barOf(pin.Bar-1, pin.Pass) < 0:
			u.Why = NoSuchBar
		case slices.ContainsFunc(p.score.events, func(e event) bool { return !e.from.Dead() && pin.speaksOf(&e, p.score) }):
			continue
		case pin.Of != "":
			u.Why, u.Of = NoSuchChord, pin.Of
		case pin.Event:
			u.Why = NoStroke
		default:
			continue // a bar of rests: nothing is lost
		}
		p.unmet = append(p.unmet, u)
	}
}

// keepPinned keeps the choices of a need that come nearest to a pin, beside those that
// are kept already. It tells whether the pin is kept too.
func (p *search) keepPinned(i int, pin Pin, kept []Pin) bool {
	k := p.offers[p.need[i].offer]
	if pin.What == PinFinger && pin.On != 0 && !pin.Event && !slices.ContainsFunc(k.choices, func(c choice) bool { return c.Frets.On(pin.On) > 0 }) {
		return true // of a bar it speaks where its string is stopped
	}
	e := &p.score.events[i]
	more := slices.DeleteFunc(p.pinnedChoices(i, &k, pin), func(c choice) bool {
		return slices.ContainsFunc(kept, func(q Pin) bool { return q.What == PinFinger && q.distance(c.Fingering) > 0 })
	})
	if pin.What == PinShape && len(more) > 0 {
		k.why = []Fact{Reason{Chosen, subject(k.why)}} // what spoke for the rung's own shapes speaks of them alone
	}
	choices := slices.Concat(k.choices, more)
	nearest := -1
	for c := range choices {
		if d := pin.distance(choices[c].Fingering); nearest < 0 || d < nearest {
			nearest = d
		}
	}
	var left []choice
	for _, c := range choices {
		if pin.distance(c.Fingering) == nearest {
			left = append(left, c)
		}
	}
	if nearest > 0 {
		u := Unmet{Pin: pin, Bar: p.score.of[e.bar].bar + 1, Start: e.from.Start, Beat: e.beat, Of: subject(k.why), Played: left[0].Frets}
		switch pin.What {
		case PinFinger:
			u.Why = NoFinger
		case PinShape:
			u.Why = NoSuchHand
		}
		const most = 4
		for _, c := range k.choices {
			if len(u.Could) < most && !slices.Contains(u.Could, c.Frets) {
				u.Could = append(u.Could, c.Frets)
			}
		}
		p.unmet = append(p.unmet, u)
	} else if others := p.others(i, pin); others != "" && len(more) > 0 {
		p.unmet = append(p.unmet, Unmet{Pin: pin, Bar: p.score.of[e.bar].bar + 1, Start: e.from.Start, Beat: e.beat, Of: others, Why: OtherNotes})
	}
	k.choices, k.states = left, nil
	p.need[i].offer = p.addOffer(k)
	return nearest == 0
}

// others names the notes of a pinned shape that are not those of what is played.
func (p *search) others(i int, pin Pin) string {
	if pin.What != PinShape {
		return ""
	}
	e := &p.score.events[i]
	content := &p.score.contents[e.content]
	h := &content.harmony
	own := pitch.SetOf()
	if e.from.Kind == song.Chord {
		own = e.from.Chord.Classes().With(e.from.Chord.Lowest().Class())
	}
	for _, q := range h.pitches {
		own = own.With(q.Class())
	}
	open := p.set.written.Open()
	for _, n := range e.from.Notes { // a bent note is fretted lower than it sounds
		own = own.With(open.Pitch(n.String, n.Fret).Class())
	}
	if !p.rung.literal {
		own = own.With(h.root.Class()).With(h.root.Class().Up(h.fifth))
	}
	var names []string
	for _, q := range p.set.in.Sounds(pin.Shape) {
		if name := content.names.At(q).Note.String(); !own.Has(q.Class()) && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return strings.Join(names, " ")
}

// subject is the note or chord that facts speak of.
func subject(facts []Fact) string {
	for _, f := range facts {
		if of := About(f); of != "" {
			return of
		}
	}
	return ""
}

// pinnedChoices are ways that a pin asks for beyond those that the rung has: any
// shape that the hand can hold, and the shapes of the rung with another finger.
func (p *search) pinnedChoices(i int, k *offer, pin Pin) []choice {
	e := &p.score.events[i]
	more := offer{}
	c := chooser{set: p.set, rung: p.rung, way: p.way, key: p.key, content: &p.score.contents[e.content], open: p.score.open, offer: &more}
	switch pin.What {
	case PinShape:
		if slices.ContainsFunc(k.choices, func(ch choice) bool { return ch.Frets == pin.Shape }) {
			return nil
		}
		for _, f := range p.set.at.Fingerings(pin.Shape) {
			c.add(f, 0)
		}
		if len(more.choices) > 0 {
			return more.choices
		}
		if f := (hand.Fingering{Frets: pin.Shape}); pin.Shape.Open() != 0 && f.Sounding() == len(openStrings(pin.Shape)) {
			c.add(f, 0) // nothing is fretted
		}
	case PinFinger:
		var seen []neck.Frets
		for _, ch := range k.choices {
			if slices.Contains(seen, ch.Frets) {
				continue
			}
			seen = append(seen, ch.Frets)
			for _, f := range p.set.at.Fingerings(ch.Frets) {
				if pin.distance(f) == 0 && !slices.ContainsFunc(k.choices, func(old choice) bool { return old.Fingering == f }) {
					next := c.add(f, ch.taste-grade.Place(int(ch.base)), ch.why...)
					next.remarks = ch.remarks
				}
			}
		}
	}
	return more.choices
}

func openStrings(f neck.Frets) (list []neck.String) {
	for i, fret := range f {
		if fret == 0 {
			list = append(list, neck.StringAt(i))
		}
	}
	return list
}

// distance is how far a fingering is from what a pin wants; 0 keeps it.
func (p Pin) distance(f hand.Fingering) int {
	if f.Frets == neck.NoFrets {
		return 0
	}
	switch p.What {
	case PinShape:
		d := 0
		for i := range f.Frets {
			a, b := int(f.Frets[i]), int(p.Shape[i])
			switch {
			case a < 0 && b < 0:
			case a < 0 || b < 0:
				d += 5
			default:
				d += max(a-b, b-a)
			}
		}
		return d
	case PinString:
		return int(max(f.Lowest()-p.On, p.On-f.Lowest()))
	case PinRegion:
		d := 0
		for _, fret := range f.Frets {
			if fret >= 0 {
				d += max(p.Low-int(fret), int(fret)-p.To, 0)
			}
		}
		return d
	}
	for i, by := range f.Fingers {
		if by != hand.None && (p.On == 0 || p.On.Index() == i) {
			return int(max(by, p.Finger) - min(by, p.Finger))
		}
	}
	return 10 // an open string takes no finger
}
