package draw

import (
	"fmt"
	"html"
	"html/template"
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
	reachWords = 66.0 // half of what the words of a reach take
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

	var c canvas
	c.f(`<svg class="neck" role="img" aria-label="%s" viewBox="0 0 %s %s" width="%srem" height="%srem">`,
		html.EscapeString(sh.words()), px(sh.Width), px(height), rem(sh.Width), rem(height))
	for fret := first; fret <= last; fret++ {
		class := "wire"
		if fret == 0 {
			class = "wire nut"
		}
		c.f(`<path class="%s" d="M%s %sV%s"/>`, class, px(x(wire(fret))), px(y(neck.Strings-1)), px(bottom))
		if fret > first {
			c.f(`<text class="fret-number" x="%s" y="%s">%d</text>`, px(x((wire(fret)+wire(fret-1))/2)), px(bottom+16), fret)
		}
	}
	for i := range neck.Strings {
		s := neck.StringAt(i)
		name := sh.Speaker.String(s)
		class := "string"
		if sh.Frets[i] < 0 {
			class = "string silent"
		}
		c.f(`<text class="name" x="%s" y="%s">%s</text><path class="%s" d="M%s %sH%s"/>`, px(x(10)), px(y(i)+4), html.EscapeString(name),
			class, px(x(left-stripNut+4)), px(y(i)), px(x(wire(last))))
	}
	sh.dots(&c, x, y, dot)
	sh.measure(&c, x, dot, bottom, n)
	c.f(`</svg>`)
	return template.HTML(c.String())
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
			at := x(dot(int(sh.Frets[first])))
			c.f(`<path class="barre" d="M%s %sV%s"/>`, px(at), px(y(first)), px(y(last)))
		}
	}
	for i, fret := range sh.Frets {
		switch {
		case fret == 0:
			c.f(`<circle class="open" cx="%s" cy="%s" r="6"/>`, px(x(dot(0))), px(y(i)))
		case fret > 0:
			c.f(`<circle class="dot" cx="%s" cy="%s" r="8"/><text class="by" x="%s" y="%s">%s</text>`,
				px(x(dot(int(fret)))), px(y(i)), px(x(dot(int(fret)))), px(y(i)+4), sh.Fingers[i])
		}
	}
	for _, s := range sh.Dead {
		c.f(`<text class="dead" x="%s" y="%s">x</text>`, px(x(dot(0))), px(y(s.Index())+4))
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
		c.f(`<path class="reach" d="M%s %sv5M%s %sH%sM%s %sv5"/><text class="mm" x="%s" y="%s">reach %.0f of %.0f mm</text>`,
			px(x(dot(low))), px(at-3), px(x(dot(low))), px(at), px(x(dot(high))), px(x(dot(high))), px(at-3),
			px(x(min(max((dot(low)+dot(high))/2, reachWords), sh.Width-reachWords))), px(at+13), reach, sh.Player.Usual().Reach)
	case high == 0 && sh.Waits > 0:
		c.f(`<text class="mm" x="%s" y="%s">▴ the hand waits here</text>`, px(x(dot(sh.Waits))), px(at+8))
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
	var c canvas
	c.f(`<svg class="neck tap" role="group" aria-label="A neck to tap on" viewBox="0 0 %s %s" width="%srem" height="%srem">`, px(t.Width), px(height), rem(t.Width), rem(height))
	for fret := range shownFrets + 1 {
		class := "wire"
		if fret == 0 {
			class = "wire nut"
		}
		c.f(`<path class="%s" d="M%s %sV%s"/>`, class, px(x(right(fret))), px(top), px(top+neck.Strings*gap))
		if fret > 0 {
			c.f(`<text class="fret-number" x="%s" y="%s">%d</text>`, px(x((left(fret)+right(fret))/2)), px(height-5), fret)
		}
	}
	for i := range neck.Strings {
		s := neck.StringAt(i)
		y := top + (float64(s)-0.5)*gap
		name := t.Speaker.String(s)
		c.f(`<text class="name" x="%s" y="%s">%s</text><path class="string" d="M%s %sH%s"/>`, px(x(10)), px(y+4), html.EscapeString(name), px(x(names)), px(y), px(x(right(shownFrets))))
		for fret := range shownFrets + 1 {
			next := t.Frets
			held := int(t.Frets[i]) == fret
			next[i] = int8(fret)
			if held {
				next[i] = neck.Silent
			}
			a, b := x(left(fret)), x(right(fret))
			c.f(`<a href="%s" data-swap=""><rect class="hit" x="%s" y="%s" width="%s" height="%s"/><text class="spoken" x="%s" y="%s">%s string, fret %d%s</text>`,
				html.EscapeString(t.Link(next)), px(min(a, b)), px(y-gap/2), px(max(a, b)-min(a, b)), px(gap), px(min(a, b)), px(y), html.EscapeString(t.Speaker.String(s)), fret, map[bool]string{true: ", sounding"}[held])
			switch {
			case held && fret == 0:
				c.f(`<circle class="open" cx="%s" cy="%s" r="7"/>`, px((a+b)/2), px(y))
			case held:
				c.f(`<circle class="dot" cx="%s" cy="%s" r="8"/>`, px((a+b)/2), px(y))
			}
			c.f(`</a>`)
		}
	}
	c.f(`</svg>`)
	return template.HTML(c.String())
}
