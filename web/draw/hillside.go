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

// top is the grade that fills the picture; what is harder is cut off there.
const top = 8.0

// height turns a demand into a share of the picture's height: the same for
// every song, so that hills can be compared.
func height(demand float64) float64 {
	return min((grade.Scale(demand)-1)/(top-1), 1)
}

// slope draws a smooth line from the ground over one height for each bar and
// back to the ground.
func slope(edges []float64, demand func(i int) float64, ground, room float64) string {
	n := len(edges) - 1
	var b strings.Builder
	x, y := edges[0], ground
	fmt.Fprintf(&b, "M%s %s", px(x), px(y))
	to := func(nextX, nextY float64) {
		mid := (x + nextX) / 2
		fmt.Fprintf(&b, "C%s %s %s %s %s %s", px(mid), px(y), px(mid), px(nextY), px(nextX), px(nextY))
		x, y = nextX, nextY
	}
	for i := range n {
		to((edges[i]+edges[i+1])/2, ground-height(demand(i))*(room-6))
	}
	to(edges[n], ground)
	return b.String()
}

// hillsOver draws the ridge of the bars as written and the path of the version
// in front of it, with peaks marked and their reason to point at.
func hillsOver(c *canvas, bars []Bar, edges []float64, above, room float64) {
	ground := above + room
	c.f(`<path class="ridge" d="%s"/>`, slope(edges, func(i int) float64 { return bars[i].Ridge }, ground, room))
	c.f(`<path class="path" d="%s"/>`, slope(edges, func(i int) float64 { return bars[i].Demand }, ground, room))
	for i := range bars {
		x := (edges[i] + edges[i+1]) / 2
		if grade.Scale(bars[i].Demand) >= steep {
			y := ground - height(bars[i].Demand)*(room-6)
			c.f(`<path class="peak" d="M%s %sl-4 -6h8z"/>`, px(x), px(y-1))
		}
		if bars[i].Why != "" {
			c.f(`<rect class="point" x="%s" y="%s" width="%s" height="%s"><title>Bar %d, %s</title></rect>`,
				px(edges[i]), px(above), px(edges[i+1]-edges[i]), px(room), bars[i].Number, html.EscapeString(bars[i].Why))
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
