package draw

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"time"
)

// Point is one practice entry on a tempo chart.
type Point struct {
	At    time.Time
	Tempo float64
	Clean bool
	Label string
}

// Chart is tempo over time against a target.
type Chart struct {
	Points        []Point // in the order of time
	Target        float64
	Until         time.Time // the right edge
	Width, Height float64
	Label         string
}

// SVG draws the chart: the target as a dashed line, clean entries filled and
// joined, others hollow.
func (ch Chart) SVG() template.HTML {
	if len(ch.Points) == 0 {
		return ""
	}
	const left, right, top, bottom = 36.0, 12.0, 16.0, 22.0
	from := ch.Points[0].At
	days := math.Max(ch.Until.Sub(from).Hours()/24, 7)
	low, high := ch.Target, ch.Target
	for _, p := range ch.Points {
		low, high = math.Min(low, p.Tempo), math.Max(high, p.Tempo)
	}
	low, high = math.Floor(low/10)*10-10, math.Ceil(high/10)*10+10
	x := func(t time.Time) float64 {
		return left + (ch.Width-left-right)*t.Sub(from).Hours()/24/days
	}
	y := func(v float64) float64 {
		return ch.Height - bottom - (ch.Height-top-bottom)*(v-low)/(high-low)
	}
	var c canvas
	c.f(`<svg class="chart" role="img" aria-label="%s" viewBox="0 0 %s %s">`, html.EscapeString(ch.Label), px(ch.Width), px(ch.Height))
	step := 10.0
	for (high-low)/step > 5 {
		step *= 2
	}
	for v := low + step; v < high; v += step {
		c.f(`<path class="grid" d="M%s %sH%s"/><text class="axis" x="%s" y="%s">%.0f</text>`, px(left), px(y(v)), px(ch.Width-right), px(left-6), px(y(v)+4), v)
	}
	c.f(`<path class="target" d="M%s %sH%s"/><text class="target-text" x="%s" y="%s">target %.0f</text>`,
		px(left), px(y(ch.Target)), px(ch.Width-right), px(ch.Width-right), px(y(ch.Target)-6), ch.Target)
	every := math.Max(7, math.Ceil(days/6/7)*7)
	for d := 0.0; d <= days; d += every {
		t := from.Add(time.Duration(d*24) * time.Hour)
		anchor := "middle"
		if d == 0 {
			anchor = "start"
		}
		c.f(`<text class="axis" text-anchor="%s" x="%s" y="%s">%s</text>`, anchor, px(x(t)), px(ch.Height-5), t.Format("2 Jan"))
	}
	walk := ""
	for _, p := range ch.Points {
		if p.Clean {
			verb := "L"
			if walk == "" {
				verb = "M"
			}
			walk += fmt.Sprintf("%s%s %s", verb, px(x(p.At)), px(y(p.Tempo)))
		}
	}
	if walk != "" {
		c.f(`<path class="trace" d="%s"/>`, walk)
	}
	for _, p := range ch.Points {
		class := "entry"
		if p.Clean {
			class = "entry clean"
		}
		c.f(`<circle class="%s" cx="%s" cy="%s" r="3.5"><title>%s</title></circle>`, class, px(x(p.At)), px(y(p.Tempo)), html.EscapeString(p.Label))
	}
	c.f(`</svg>`)
	return template.HTML(c.String())
}
