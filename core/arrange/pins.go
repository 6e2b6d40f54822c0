package arrange

import (
	"fmt"
	"slices"

	"valleyside/core/hand"
	"valleyside/core/neck"
)

// Unmet is a pin that cannot be kept.
type Unmet struct {
	Pin    Pin
	Bar    int
	Beat   string
	Reason string // why not, and what is played instead
}

// String says which pin it is, where, and what is played instead.
func (u Unmet) String() string { return fmt.Sprintf("bar %d on %s: %s", u.Bar, u.Beat, u.Reason) }

// pin takes away the choices that the teacher's pins rule out. A pin that
// leaves nothing is reported, and the choices that come nearest to it stay.
func (w *work) pin() {
	for i := range w.needs {
		n := &w.needs[i]
		if n.from.Dead() {
			continue
		}
		for _, p := range w.way.Pins {
			if p.speaksOf(n.event) {
				n.pinned = true
				w.keepPinned(n, p)
			}
		}
	}
}

func (p Pin) speaksOf(e *event) bool {
	return (p.Bar == 0 || p.Bar == e.bar+1) && (!p.Event || p.Start == e.from.Start)
}

// keepPinned keeps the choices of a need that come nearest to a pin.
func (w *work) keepPinned(n *need, p Pin) {
	nearest := -1
	for c := range n.choices {
		if d := p.distance(n.choices[c].Fingering); nearest < 0 || d < nearest {
			nearest = d
		}
	}
	var left []choice
	for _, c := range n.choices {
		if p.distance(c.Fingering) == nearest {
			left = append(left, c)
		}
	}
	if nearest > 0 {
		w.version.Unmet = append(w.version.Unmet, Unmet{Pin: p, Bar: n.bar + 1, Beat: n.beat,
			Reason: fmt.Sprintf("%s cannot be had here: %s; the nearest is %s", p.decision(), w.whyNot(n, p), left[0].Frets)})
	}
	if len(left) < len(n.choices) {
		n.kind = w.newKind(kind{choices: left, dead: n.dead, why: n.why})
	}
}

// whyNot says what the event could be instead.
func (w *work) whyNot(n *need, p Pin) string {
	var shapes []string
	for _, c := range n.choices {
		if s := c.Frets.String(); !slices.Contains(shapes, s) {
			shapes = append(shapes, s)
		}
	}
	if p.What == PinFinger {
		return "that finger cannot hold " + n.why.what
	}
	const most = 4
	if len(shapes) > most {
		shapes = append(shapes[:most], "…")
	}
	return fmt.Sprintf("%s lies at %s", n.why.what, join(shapes))
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
