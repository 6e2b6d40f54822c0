package draw

import (
	"fmt"
	"html"
	"html/template"
	"strings"

	"valleyside/core/grade"
)

// steep is the grade from which a bar is marked as a peak.
const steep = 5.0

// height turns a demand into a share of the picture's height: the same for
// every song, so that hills can be compared.
func height(demand float64) float64 { return (grade.Scale(demand) - 1) / 9 }

// slope draws a smooth line through one height for each bar, closed at the
// ground.
func slope(edges []float64, demand func(i int) float64, ground, room float64) string {
	n := len(edges) - 1
	y := func(i int) float64 { return ground - height(demand(i))*(room-4) }
	var b strings.Builder
	fmt.Fprintf(&b, "M%s %sL%s %s", px(edges[0]), px(ground), px(edges[0]), px(y(0)))
	px0, py0 := edges[0], y(0)
	for i := range n {
		x := (edges[i] + edges[i+1]) / 2
		mid := (px0 + x) / 2
		fmt.Fprintf(&b, "C%s %s %s %s %s %s", px(mid), px(py0), px(mid), px(y(i)), px(x), px(y(i)))
		px0, py0 = x, y(i)
	}
	fmt.Fprintf(&b, "L%s %sL%s %sZ", px(edges[n]), px(py0), px(edges[n]), px(ground))
	return b.String()
}

// hillsOver draws the ridge of the bars as written and the path of the version
// in front of it, with peaks marked and their reason to point at.
func hillsOver(c *canvas, bars []Bar, edges []float64, top, room float64) {
	ground := top + room
	c.f(`<path class="ridge" d="%s"/>`, slope(edges, func(i int) float64 { return max(bars[i].Ridge, bars[i].Demand*0) }, ground, room))
	c.f(`<path class="path" d="%s"/>`, slope(edges, func(i int) float64 { return bars[i].Demand }, ground, room))
	for i := range bars {
		x := (edges[i] + edges[i+1]) / 2
		if grade.Scale(bars[i].Demand) >= steep {
			y := ground - height(bars[i].Demand)*(room-4)
			c.f(`<path class="peak" d="M%s %sl-4 -6h8z"/>`, px(x), px(y-1))
		}
		if bars[i].Why != "" {
			c.f(`<rect class="point" x="%s" y="%s" width="%s" height="%s"><title>Bar %d, %s</title></rect>`,
				px(edges[i]), px(top), px(edges[i+1]-edges[i]), px(room), bars[i].Number, html.EscapeString(bars[i].Why))
		}
	}
}

// Hill is a hillside on its own.
type Hill struct {
	Ridge []float64 // demands per bar as written
	Path  []float64 // demands per bar of the version; nil draws the ridge alone
	// Walked is the share of the way that has been walked, 0 to 1.
	Walked        float64
	Width, Height float64
	Label         string // the text form
}

// SVG draws the hillside.
func (h Hill) SVG() template.HTML {
	n := max(len(h.Ridge), len(h.Path))
	if n == 0 {
		return ""
	}
	edges := make([]float64, n+1)
	for i := range edges {
		edges[i] = h.Width * float64(i) / float64(n)
	}
	at := func(list []float64) func(int) float64 {
		return func(i int) float64 {
			if i < len(list) {
				return list[i]
			}
			return 0
		}
	}
	var c canvas
	c.f(`<svg class="hill" role="img" aria-label="%s" viewBox="0 0 %s %s" preserveAspectRatio="none">`,
		html.EscapeString(h.Label), px(h.Width), px(h.Height))
	c.f(`<path class="ridge" d="%s"/>`, slope(edges, at(h.Ridge), h.Height, h.Height))
	if h.Path != nil {
		c.f(`<path class="path" d="%s"/>`, slope(edges, at(h.Path), h.Height, h.Height))
	}
	if h.Walked > 0 {
		c.f(`<path class="walked" d="M0 %sH%s"/>`, px(h.Height-1.5), px(min(h.Walked, 1)*h.Width))
	}
	c.f(`</svg>`)
	return template.HTML(c.String())
}
