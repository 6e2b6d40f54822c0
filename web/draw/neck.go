package draw

import (
	"fmt"
	"html/template"
	"strconv"
	"strings"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/words"
)

// Shape is a shape on a strip of neck whose frets stand at their true
// distances.
type Shape struct {
	hand.Fingering
	Player  hand.Player
	Neck    neck.Neck // with its capo
	Speaker words.Speaker
	Mutes   []hand.Mute
	Dead    []neck.String // struck without a pitch
	Waits   int           // fret over which the index waits where nothing is fretted
	Width   float64       // px; 0 means 640
}

// The measures of a strip of neck, px.
const (
	stripGap   = 17.0
	stripTop   = 10.0
	stripNames = 26.0 // room for the names of the strings
	stripNut   = 26.0 // and for what sounds open
	shownFrets = 12
	fewFrets   = 5 // on a narrow strip, from the shape on where it lies higher
	narrow     = 500.0
	reachWords = 70.0 // half of what the words of a reach take
)

// SVG draws the shape, mirrored for players who play left-handed.
func (sh Shape) SVG() template.HTML {
	if sh.Width == 0 {
		sh.Width = 640
	}
	n := sh.Player.At(sh.Neck).Neck
	first, last := sh.window(n)
	left := stripNames + stripNut
	scale := (sh.Width - left - 8) / (n.Position(last) - n.Position(first))
	x := func(v float64) float64 {
		if sh.Player.LeftHanded {
			return sh.Width - v
		}
		return v
	}
	wire := func(fret int) float64 { return left + (n.Position(fret)-n.Position(first))*scale }
	dot := func(fret int) float64 {
		if fret == 0 {
			return stripNames + stripNut/2
		}
		return wire(fret) - min(11, (wire(fret)-wire(fret-1))/2)
	}
	y := func(i int) float64 { return stripTop + float64(neck.Strings-1-i)*stripGap }
	bottom := y(0)
	height := bottom + 44

	c := frame("neck", "img", sh.words(), sh.Width, height).sized(sh.Width, height)
	for fret := first; fret <= last; fret++ {
		c.path(marked("wire", "nut", fret == 0)).M(x(wire(fret)), y(neck.Strings-1)).V(bottom).end()
		if fret > first {
			c.text("fret-number", x((wire(fret)+wire(fret-1))/2), bottom+16, strconv.Itoa(fret))
		}
	}
	for i := range neck.Strings {
		c.text("name", x(10), y(i)+4, sh.Speaker.String(neck.StringAt(i)))
		c.path(marked("string", "silent", sh.Frets[i] < 0)).M(x(left-stripNut+4), y(i)).H(x(wire(last))).end()
	}
	sh.dots(c, x, y, dot)
	sh.measure(c, x, dot, bottom, n)
	return c.svg()
}

// window are the wires that are drawn: all from the nut, or on a narrow strip
// those around the shape.
func (sh Shape) window(n neck.Neck) (first, last int) {
	low, high := neck.MaxFret, 0
	for _, f := range sh.Frets {
		if f > 0 {
			low, high = min(low, int(f)), max(high, int(f))
		}
	}
	switch {
	case sh.Width >= narrow:
		last = max(shownFrets, high+1)
	case high <= fewFrets:
		last = fewFrets
	default:
		first, last = low-1, max(low-1+fewFrets, high)
	}
	if last > n.LastFret() {
		first, last = max(first-(last-n.LastFret()), 0), n.LastFret()
	}
	return first, last
}

// dots draws the fingers where they press, barres as one bar, rings where a
// string sounds open, and crosses where one is struck dead.
func (sh Shape) dots(c *canvas, x func(float64) float64, y func(int) float64, dot func(int) float64) {
	sh.barres(func(fret, first, last int) {
		at := x(dot(fret))
		c.path("barre").M(at, y(first)).V(y(last)).end()
	})
	for i, fret := range sh.Frets {
		switch {
		case fret == 0:
			c.circle("open", x(dot(0)), y(i), 6).end()
		case fret > 0:
			at := x(dot(int(fret)))
			c.circle("dot", at, y(i), 8).end()
			c.text("by", at, y(i)+4, sh.Fingers[i].String())
		}
	}
	for _, s := range sh.Dead {
		c.text("dead", x(dot(0)), y(s.Index())+4, "x")
	}
}

// barres tells of each finger that lies across several strings its fret and the first and
// the last of them, by their index.
func (sh Shape) barres(do func(fret, first, last int)) {
	for finger := hand.Index; finger <= hand.Thumb; finger++ {
		first, last := -1, -1
		for i, by := range sh.Fingers {
			if by == finger {
				if first < 0 {
					first = i
				}
				last = i
			}
		}
		if last > first {
			do(int(sh.Frets[first]), first, last)
		}
	}
}

// measure draws the reach below the strings, or where the hand waits.
func (sh Shape) measure(c *canvas, x func(float64) float64, dot func(int) float64, bottom float64, n neck.Neck) {
	low, high := 0, 0
	for i, fret := range sh.Frets {
		if by := sh.Fingers[i]; by != hand.None && by != hand.Thumb {
			if low == 0 || int(fret) < low {
				low = int(fret)
			}
			high = max(high, int(fret))
		}
	}
	at := bottom + 27
	switch reach := sh.Reach(n); {
	case high > low:
		a, b := x(dot(low)), x(dot(high))
		c.path("reach").M(a, at-3).v(5).M(a, at).H(b).M(b, at-3).v(5).end()
		middle := x(min(max((dot(low)+dot(high))/2, reachWords), sh.Width-reachWords))
		c.text("mm", middle, at+13, fmt.Sprintf("reach %.0f of %.0f mm", reach, sh.Player.Usual().Reach))
	case high == 0 && sh.Waits > 0:
		c.text("mm", x(dot(sh.Waits)), at+8, "▴ the hand waits here")
	}
}

// words says the shape without the picture.
func (sh Shape) words() string {
	var parts []string
	for i, fret := range sh.Frets {
		s := neck.StringAt(i)
		switch {
		case fret == 0:
			parts = append(parts, fmt.Sprintf("%s string open", sh.Speaker.String(s)))
		case fret > 0 && sh.Fingers[i] == hand.None:
			parts = append(parts, fmt.Sprintf("the picking hand taps fret %d of the %s string", fret, sh.Speaker.String(s)))
		case fret > 0:
			parts = append(parts, fmt.Sprintf("%s on fret %d of the %s string", sh.Fingers[i].Name(), fret, sh.Speaker.String(s)))
		}
	}
	for _, m := range sh.Mutes {
		parts = append(parts, fmt.Sprintf("%s string silent: %s", sh.Speaker.String(m.String), sh.Speaker.Mute(m)))
	}
	if len(parts) == 0 {
		return "Nothing is fretted; the hand lies on the strings."
	}
	return strings.Join(parts, "; ") + "."
}

// Tap is a neck to tap shapes on: every fret of every string is a link to the
// shape with it, or without it where it is there already. Its frets are as wide as
// each other, so that a finger hits the high ones as surely as the low ones.
type Tap struct {
	Frets      neck.Frets
	LeftHanded bool
	Speaker    words.Speaker
	Width      float64
	Link       func(neck.Frets) string
}

// SVG draws the neck.
func (t Tap) SVG() template.HTML {
	const gap, top, names = 26.0, 6.0, 22.0
	wide := (t.Width - names - 34) / shownFrets
	left := func(fret int) float64 {
		if fret == 0 {
			return names
		}
		return names + 28 + float64(fret-1)*wide
	}
	right := func(fret int) float64 {
		if fret == 0 {
			return names + 28
		}
		return names + 28 + float64(fret)*wide
	}
	x := func(v float64) float64 {
		if t.LeftHanded {
			return t.Width - v
		}
		return v
	}
	height := top + neck.Strings*gap + 18
	c := frame("neck tap", "group", "A neck to tap on", t.Width, height).sized(t.Width, height)
	for fret := range shownFrets + 1 {
		c.path(marked("wire", "nut", fret == 0)).M(x(right(fret)), top).V(top + neck.Strings*gap).end()
		if fret > 0 {
			c.text("fret-number", x((left(fret)+right(fret))/2), height-5, strconv.Itoa(fret))
		}
	}
	for i := range neck.Strings {
		s := neck.StringAt(i)
		y := top + (float64(s)-0.5)*gap
		name := t.Speaker.String(s)
		c.text("name", x(10), y+4, name)
		c.path("string").M(x(names), y).H(x(right(shownFrets))).end()
		for fret := range shownFrets + 1 {
			next := t.Frets
			held := int(t.Frets[i]) == fret
			next[i] = int8(fret)
			if held {
				next[i] = neck.Silent
			}
			a, b := x(left(fret)), x(right(fret))
			spoken := fmt.Sprintf("%s string, fret %d", name, fret)
			if held {
				spoken += ", sounding"
			}
			c.begin("a", "").set("href", t.Link(next)).set("data-swap", "")
			c.rect("hit", min(a, b), y-gap/2, max(a, b)-min(a, b), gap).end()
			c.text("spoken", min(a, b), y, spoken)
			switch {
			case held && fret == 0:
				c.circle("open", (a+b)/2, y, 7).end()
			case held:
				c.circle("dot", (a+b)/2, y, 8).end()
			}
			c.end()
		}
	}
	return c.svg()
}
