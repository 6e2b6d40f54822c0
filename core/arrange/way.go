package arrange

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Prefer is how a one-finger version uses the strings.
type Prefer string

// The ways of using the strings. The zero Prefer is Nearest.
const (
	Nearest   Prefer = "nearest"    // least work, strings may change
	OneString Prefer = "one-string" // the whole part on one string where it fits
)

// Thicken is which notes of a line become chords, or what is set below the line
// instead.
type Thicken string

// The ways of thickening. The zero Thicken is All.
const (
	All     Thicken = "all"     // every note
	Accents Thicken = "accents" // the first and the longest of the bar, and accents
	Thirds  Thicken = "thirds"  // two notes: the third of the key below every note
	Sixths  Thicken = "sixths"  // two notes: the sixth
)

// Thickenings lists the ways of thickening that a rung has.
func (r Rung) Thickenings() []Thicken {
	switch {
	case r == TwoNote:
		return []Thicken{All, Accents, Thirds, Sixths}
	case r.row().notes > 0:
		return []Thicken{All, Accents}
	}
	return nil
}

// Title is what the way of thickening is called on a page.
func (t Thicken) Title() string {
	switch t {
	case Accents:
		return "accents only"
	case Thirds:
		return "thirds below the line"
	case Sixths:
		return "sixths below the line"
	}
	return "every note"
}

// ParseThicken reads a way of thickening.
func ParseThicken(s string) (Thicken, error) {
	for _, t := range TwoNote.Thickenings() {
		if s == string(t) {
			return t, nil
		}
	}
	return "", fmt.Errorf("%q is no way to thicken a line; use all, accents, thirds or sixths", s)
}

// Way is how the teacher wants a version of a part made. The zero Way leaves
// everything to the program.
type Way struct {
	Prefer     Prefer
	Thicken    Thicken
	Replace    bool // as written: the same notes may lie elsewhere
	FullRhythm bool // nothing is left out, however fast
	// School is where easier chords come from; empty is that of the studio.
	School voicing.School
	Pins   []Pin
	// Unread are lines that are not understood, of another program or of an older
	// one. They decide nothing and are kept as they are.
	Unread []string
}

// Pin is something that the teacher has decided for a bar or an event.
type Pin struct {
	Bar     int        // from 1; 0 means every bar
	Of      string     // where Bar is 0: only where this chord is written by name
	Pass    int        // of a bar whose line is repeated, from 1; 0 means every pass
	Event   bool       // only the event that starts at Start
	Start   pitch.Frac // in whole notes from the start of the bar
	What    Pinned
	Shape   neck.Frets  // for PinShape
	On      neck.String // for PinString: the thickest string that sounds; for PinFinger: where the finger lies, 0 for the thickest fretted string
	Low, To int         // for PinRegion: frets, open strings counting as 0
	Finger  hand.Finger // for PinFinger
}

// Pinned is what a pin decides.
type Pinned uint8

// What a pin can decide.
const (
	PinShape  Pinned = iota // exactly these frets
	PinString               // the string that the lowest note lies on
	PinRegion               // a stretch of the neck
	PinFinger               // a finger
)

// String writes a pin so that ParsePin reads it back, as in "bar 3 at 1/4:
// shape x57xxx", "bar 2: string A", "bar 2 pass 3: string A", "all: frets 3-8",
// "chord C: shape x32010", "bar 1 at 0: finger 3 on G".
func (p Pin) String() string {
	where := "all"
	if p.Of != "" {
		where = "chord " + p.Of
	}
	if p.Bar > 0 {
		where = fmt.Sprintf("bar %d", p.Bar)
	}
	if p.Pass > 0 {
		where += fmt.Sprintf(" pass %d", p.Pass)
	}
	if p.Event {
		where += " at " + p.Start.String()
	}
	return where + ": " + p.decision()
}

func (p Pin) decision() string {
	switch p.What {
	case PinShape:
		return "shape " + p.Shape.String()
	case PinString:
		return "string " + p.On.String()
	case PinRegion:
		return fmt.Sprintf("frets %d-%d", p.Low, p.To)
	}
	if p.On != 0 {
		return "finger " + p.Finger.String() + " on " + p.On.String()
	}
	return "finger " + p.Finger.String()
}

// ParsePin reads a pin.
func ParsePin(s string) (Pin, error) {
	p := Pin{Start: pitch.Whole(0), Shape: neck.NoFrets}
	fail := func(why string) (Pin, error) {
		return Pin{}, fmt.Errorf("pin %q: %s; write it like \"bar 3 at 1/4: shape x57xxx\", \"chord C: shape x32010\", \"bar 2: string A\", \"all: frets 3-8\" or \"bar 1: finger 3 on G\"", s, why)
	}
	where, what, ok := strings.Cut(s, ":")
	if !ok {
		return fail("there is no colon")
	}
	fields := strings.Fields(where)
	switch {
	case len(fields) > 0 && fields[0] == "all":
		fields = fields[1:]
	case len(fields) == 2 && fields[0] == "chord":
		p.Of, fields = fields[1], nil
	case len(fields) > 1 && fields[0] == "bar":
		n, err := strconv.Atoi(fields[1])
		if err != nil || n < 1 {
			return fail(fmt.Sprintf("%q is not the number of a bar", fields[1]))
		}
		p.Bar, fields = n, fields[2:]
		if len(fields) > 1 && fields[0] == "pass" {
			if p.Pass, err = strconv.Atoi(fields[1]); err != nil || p.Pass < 1 {
				return fail(fmt.Sprintf("%q is not the number of a pass", fields[1]))
			}
			fields = fields[2:]
		}
	default:
		return fail("it does not say which bar")
	}
	if len(fields) == 2 && fields[0] == "at" {
		if err := p.Start.UnmarshalText([]byte(fields[1])); err != nil {
			return fail(fmt.Sprintf("%q is not a place in the bar", fields[1]))
		}
		p.Event, fields = true, nil
	}
	if len(fields) > 0 {
		return fail(fmt.Sprintf("%q is not understood", strings.Join(fields, " ")))
	}
	kind, value, _ := strings.Cut(strings.TrimSpace(what), " ")
	value = strings.TrimSpace(value)
	switch kind {
	case "shape":
		shape, err := neck.ParseFrets(value)
		if err != nil {
			return fail(err.Error())
		}
		p.What, p.Shape = PinShape, shape
	case "string":
		str, ok := neck.ParseString(value)
		if !ok {
			return fail(fmt.Sprintf("%q is not a string", value))
		}
		p.What, p.On = PinString, str
	case "frets":
		low, to, _ := strings.Cut(value, "-")
		a, err1 := strconv.Atoi(low)
		b, err2 := strconv.Atoi(to)
		if err1 != nil || err2 != nil || a < 0 || b < a || b > neck.MaxFret {
			return fail(fmt.Sprintf("%q is not a stretch of frets", value))
		}
		p.What, p.Low, p.To = PinRegion, a, b
	case "finger":
		finger, on, some := strings.Cut(value, " on ")
		n, err := strconv.Atoi(finger)
		if err != nil || n < 1 || n > 4 {
			return fail(fmt.Sprintf("%q is not a finger", finger))
		}
		if some {
			if p.On, some = neck.ParseString(strings.TrimSpace(on)); !some {
				return fail(fmt.Sprintf("%q is not a string", on))
			}
		}
		p.What, p.Finger = PinFinger, hand.Finger(n)
	default:
		return fail(fmt.Sprintf("%q is nothing that can be pinned", kind))
	}
	return p, nil
}

// String writes a way so that ParseWay reads it back, a line for each wish.
// The zero Way is empty.
func (w Way) String() string {
	var lines []string
	if w.Prefer == OneString {
		lines = append(lines, "prefer "+string(OneString))
	}
	if w.Thicken != "" && w.Thicken != All {
		lines = append(lines, "thicken "+string(w.Thicken))
	}
	if w.Replace {
		lines = append(lines, "places free")
	}
	if w.FullRhythm {
		lines = append(lines, "rhythm full")
	}
	if w.School != "" {
		lines = append(lines, "school "+string(w.School))
	}
	for _, p := range w.Pins {
		lines = append(lines, p.String())
	}
	lines = append(lines, w.Unread...)
	return strings.Join(lines, "\n")
}

// ParseWay reads a way. It reads all that it understands; the error is of the first
// line that it does not, and every such line is among the unread.
func ParseWay(text string) (w Way, first error) {
	for _, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if err := w.read(line); err != nil {
			w.Unread = append(w.Unread, line)
			first = cmp.Or(first, err)
		}
	}
	return w, first
}

// read adds what a line says to a way.
func (w *Way) read(line string) error {
	kind, value, _ := strings.Cut(line, " ")
	switch {
	case line == "":
	case line == "prefer "+string(OneString):
		w.Prefer = OneString
	case line == "places free":
		w.Replace = true
	case line == "rhythm full":
		w.FullRhythm = true
	case kind == "thicken":
		thicken, err := ParseThicken(value)
		if err != nil {
			return err
		}
		w.Thicken = thicken
	case kind == "school":
		school, err := voicing.ParseSchool(value)
		if err != nil {
			return err
		}
		w.School = school
	default:
		p, err := ParsePin(line)
		if err != nil {
			return err
		}
		w.Pins = append(w.Pins, p)
	}
	return nil
}

// Pin returns a way with one more pin. It takes the place of pins of the same
// kind that speak of the same event, bar or chord.
func (w Way) Pin(p Pin) Way {
	w = w.unpin(func(q Pin) bool {
		return q.What == p.What && q.Bar == p.Bar && q.Of == p.Of && q.Pass == p.Pass && (q.Event == p.Event && q.Start == p.Start || !p.Event) &&
			(p.What != PinFinger || q.On == p.On || !p.Event)
	})
	w.Pins = append(w.Pins, p)
	return w
}

// Apart returns a way in which a shape that is pinned for every place of a chord is pinned
// for each of them, so that one can be let go. A place that has a shape of its own keeps it.
func (w Way) Apart(of string, p *song.Part) Way {
	at := slices.IndexFunc(w.Pins, func(q Pin) bool { return q.Of == of && q.What == PinShape })
	if at < 0 {
		return w
	}
	all := w.Pins[at]
	w = w.unpin(func(q Pin) bool { return q == all })
	bars := p.Bars()
	for b := range bars {
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			one := Pin{Bar: b + 1, Event: true, Start: e.Start, What: PinShape, Shape: all.Shape}
			own := func(q Pin) bool { return q.What == PinShape && q.Bar == one.Bar && q.Event && q.Start == one.Start }
			if e.Kind == song.Chord && e.Chord.Symbol == of && !slices.ContainsFunc(w.Pins, own) {
				w.Pins = append(w.Pins, one)
			}
		}
	}
	return w
}

// Without returns a way without a pin or an unread line, which is given as it is
// written; "all pins" takes all pins away.
func (w Way) Without(pin string) Way {
	w.Unread = slices.DeleteFunc(slices.Clone(w.Unread), func(line string) bool { return line == pin })
	return w.unpin(func(q Pin) bool { return pin == "all pins" || q.String() == pin })
}

func (w Way) unpin(gone func(Pin) bool) Way {
	var kept []Pin
	for _, q := range w.Pins {
		if !gone(q) {
			kept = append(kept, q)
		}
	}
	w.Pins = kept
	return w
}
