package draw

import (
	"html/template"
	"strconv"

	"valleyside/core/neck"
)

// The measures of a shape that stands upright, px.
const (
	uprightGap  = 18.0
	uprightTop  = 24.0 // room for what sounds open and what is silent
	uprightLong = 120.0
	uprightSide = 30.0 // room for the numbers of the frets
)

// Upright draws the shape with the neck standing, as it is often drawn on paper: the thick
// string on the left, on the right for players who play left-handed. The frets stand at
// their true distances from each other.
func (sh Shape) Upright() template.HTML {
	n := sh.Player.At(sh.Neck).Neck
	sh.Width = narrow - 1 // only the frets around it
	first, last := sh.window(n)
	width := uprightSide + 5*uprightGap + 14
	x := func(i int) float64 {
		if sh.Player.LeftHanded {
			i = neck.Strings - 1 - i
		}
		return uprightSide + float64(i)*uprightGap
	}
	scale := uprightLong / (n.Position(last) - n.Position(first))
	y := func(fret int) float64 { return uprightTop + (n.Position(fret)-n.Position(first))*scale }
	c := frame("neck upright", "img", sh.words(), width, uprightTop+uprightLong+10).sized(width, uprightTop+uprightLong+10)
	left, right := min(x(0), x(neck.Strings-1)), max(x(0), x(neck.Strings-1))
	for fret := first; fret <= last; fret++ {
		c.path(marked("wire", "nut", fret == 0)).M(left, y(fret)).H(right).end()
		if fret > first {
			c.text("fret-number", uprightSide-17, (y(fret)+y(fret-1))/2+4, strconv.Itoa(fret))
		}
	}
	for i := range neck.Strings {
		c.path(marked("string", "silent", sh.Frets[i] < 0)).M(x(i), uprightTop).V(y(last)).end()
	}
	sh.stand(c, x, y)
	return c.svg()
}

// stand draws the fingers of a shape that stands upright.
func (sh Shape) stand(c *canvas, x func(int) float64, y func(int) float64) {
	middle := func(fret int) float64 { return (y(fret) + y(fret-1)) / 2 }
	sh.barres(func(fret, first, last int) { c.path("barre").M(x(first), middle(fret)).H(x(last)).end() })
	for i, fret := range sh.Frets {
		switch {
		case fret == 0:
			c.circle("open", x(i), uprightTop-11, 6).end()
		case fret < 0:
			c.text("dead", x(i), uprightTop-7, "x")
		default:
			c.circle("dot", x(i), middle(int(fret)), 8).end()
			c.text("by", x(i), middle(int(fret))+4, sh.Fingers[i].String())
		}
	}
}
