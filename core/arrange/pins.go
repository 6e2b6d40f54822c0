package arrange

import (
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
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
	NotThere   UnmetKind = iota // the notes are not in the pinned place
	NoSuchHand                  // the hand cannot hold the shape
	NoFinger                    // the finger cannot hold it
	NoSuchBar                   // the part has no such bar, or its line no such pass
)

// pin takes away the choices that the teacher's pins rule out. A pin is never
// refused for a shape that the hand can hold; one that leaves nothing is
// reported, and the choices that come nearest to it stay.
func (p *plan) pin() {
	p.nowhere()
	for i := range p.need {
		if p.score.events[i].from.Dead() {
			continue
		}
		for _, pin := range p.way.Pins {
			if pin.speaksOf(&p.score.events[i], p.score) {
				p.need[i].pinned = true
				p.keepPinned(i, pin)
			}
		}
	}
}

func (p Pin) speaksOf(e *event, s *score) bool {
	of := s.of[e.bar]
	return (p.Bar == 0 || p.Bar == of.bar+1) && (p.Pass == 0 || of.from <= p.Pass && p.Pass <= of.to) && (!p.Event || p.Start == e.from.Start)
}

// nowhere reports the pins that speak of nothing in the part: its bars, or the
// passes of a line, have become fewer.
func (p *plan) nowhere() {
	for _, pin := range p.way.Pins {
		if pin.Bar > 0 && p.score.barOf(pin.Bar-1, pin.Pass) < 0 {
			p.unmet = append(p.unmet, Unmet{Pin: pin, Bar: pin.Bar, Start: pin.Start, Why: NoSuchBar})
		}
	}
}

// keepPinned keeps the choices of a need that come nearest to a pin.
func (p *plan) keepPinned(i int, pin Pin) {
	k := p.kinds[p.need[i].kind]
	e := &p.score.events[i]
	more := p.pinnedChoices(i, &k, pin)
	if pin.What == PinShape && len(more) > 0 {
		k.why = []Fact{{Kind: Chosen, Of: subject(k.why)}} // what spoke for the rung's own shapes speaks of them alone
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
	}
	k.choices, k.states = left, nil
	p.need[i].kind = p.addKind(k)
}

// subject is the note or chord that facts speak of.
func subject(facts []Fact) string {
	for _, f := range facts {
		if f.Of != "" {
			return f.Of
		}
	}
	return ""
}

// pinnedChoices are ways that a pin asks for beyond those that the rung has: any
// shape that the hand can hold, and the shapes of the rung with another finger.
func (p *plan) pinnedChoices(i int, k *kind, pin Pin) []choice {
	e := &p.score.events[i]
	more := kind{}
	c := chooser{set: p.set, rung: p.rung, way: p.way, key: p.key, content: &p.score.contents[e.content], open: p.score.open, kind: &more}
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
	for _, by := range f.Fingers {
		if by != hand.None {
			return int(max(by, p.Finger) - min(by, p.Finger))
		}
	}
	return 1 // an open string takes no finger
}
