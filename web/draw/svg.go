package draw

import (
	"html"
	"html/template"
	"math"
	"strconv"
)

// canvas is an SVG picture, written element by element: begin opens an element,
// set and at give it attributes, say and further elements are its content, end
// closes it. Lengths are px with one decimal; texts and values are escaped here
// and nowhere else.
type canvas struct {
	out  []byte
	open []string // the elements that are not closed yet
	tag  bool     // the last one can still be given attributes
}

// frame begins a picture that is named by a label.
func frame(class, role, label string, width, height float64) *canvas {
	c := &canvas{out: make([]byte, 0, 4096)}
	c.begin("svg", class).set("role", role).set("aria-label", label)
	c.write(` viewBox="0 0 `)
	c.number(width, ' ')
	c.number(height, '"')
	return c
}

// sized gives a picture its size in that of the text, of which one is 16 px
// unless the reader has it otherwise.
func (c *canvas) sized(width, height float64) *canvas {
	rem := func(v float64) string { return strconv.FormatFloat(v/16, 'f', 3, 64) + "rem" }
	return c.set("width", rem(width)).set("height", rem(height))
}

// svg ends the picture.
func (c *canvas) svg() template.HTML {
	for len(c.open) > 0 {
		c.end()
	}
	return template.HTML(c.out)
}

// begin opens an element.
func (c *canvas) begin(name, class string) *canvas {
	c.inside()
	c.write("<")
	c.write(name)
	c.open, c.tag = append(c.open, name), true
	if class != "" {
		c.set("class", class)
	}
	return c
}

// set gives the element that was opened last an attribute.
func (c *canvas) set(name, value string) *canvas {
	c.write(" ")
	c.write(name)
	c.write(`="`)
	c.write(html.EscapeString(value))
	c.write(`"`)
	return c
}

// at is set with a length.
func (c *canvas) at(name string, v float64) *canvas {
	c.write(" ")
	c.write(name)
	c.write(`="`)
	c.number(v, '"')
	return c
}

// say writes text into the element that was opened last.
func (c *canvas) say(text string) *canvas {
	c.inside()
	c.write(html.EscapeString(text))
	return c
}

// end closes the element that was opened last.
func (c *canvas) end() *canvas {
	last := len(c.open) - 1
	if c.tag {
		c.write("/>")
	} else {
		c.write("</")
		c.write(c.open[last])
		c.write(">")
	}
	c.open, c.tag = c.open[:last], false
	return c
}

// text writes words at a place.
func (c *canvas) text(class string, x, y float64, words string) {
	c.begin("text", class).at("x", x).at("y", y).say(words).end()
}

// circle begins a circle.
func (c *canvas) circle(class string, x, y, radius float64) *canvas {
	return c.begin("circle", class).at("cx", x).at("cy", y).at("r", radius)
}

// rect begins a rectangle.
func (c *canvas) rect(class string, x, y, width, height float64) *canvas {
	return c.begin("rect", class).at("x", x).at("y", y).at("width", width).at("height", height)
}

// title is what is shown when the element that was opened last is pointed at.
func (c *canvas) title(words string) *canvas {
	c.inside()
	c.write("<title>")
	c.write(html.EscapeString(words))
	c.write("</title>")
	return c
}

// path begins a path; pen draws it.
func (c *canvas) path(class string) pen {
	c.begin("path", class).write(` d="`)
	return pen{c}
}

// pen draws a path with the commands of SVG: capitals go to a place, the others
// go on from where the pen is.
type pen struct{ *canvas }

func (d pen) M(x, y float64) pen                 { return d.step('M', x, y) }
func (d pen) L(x, y float64) pen                 { return d.step('L', x, y) }
func (d pen) H(x float64) pen                    { return d.step('H', x) }
func (d pen) V(y float64) pen                    { return d.step('V', y) }
func (d pen) C(ax, ay, bx, by, x, y float64) pen { return d.step('C', ax, ay, bx, by, x, y) }
func (d pen) l(x, y float64) pen                 { return d.step('l', x, y) }
func (d pen) h(x float64) pen                    { return d.step('h', x) }
func (d pen) v(y float64) pen                    { return d.step('v', y) }
func (d pen) z() pen                             { return d.step('z') }

func (d pen) step(command byte, numbers ...float64) pen {
	d.out = append(d.out, command)
	for i, v := range numbers {
		if i > 0 {
			d.write(" ")
		}
		d.out = appendLength(d.out, v)
	}
	return d
}

// end ends the path.
func (d pen) end() {
	d.write(`"`)
	d.canvas.end()
}

// inside closes the tag of the element that was opened last, whose content
// follows.
func (c *canvas) inside() {
	if c.tag {
		c.write(">")
		c.tag = false
	}
}

func (c *canvas) write(text string) { c.out = append(c.out, text...) }

// number writes a length and what follows it.
func (c *canvas) number(v float64, after byte) {
	c.out = append(appendLength(c.out, v), after)
}

// appendLength writes a length without needless digits.
func appendLength(out []byte, v float64) []byte {
	const most = 1e9 // further than any picture
	tenths := int64(math.RoundToEven(min(max(v, -most), most) * 10))
	if tenths < 0 {
		out, tenths = append(out, '-'), -tenths
	}
	out = strconv.AppendInt(out, tenths/10, 10)
	if d := tenths % 10; d != 0 {
		out = append(out, '.', '0'+byte(d))
	}
	return out
}

// marked is a class with another one where that holds.
func marked(class, more string, holds bool) string {
	if holds {
		return class + " " + more
	}
	return class
}
