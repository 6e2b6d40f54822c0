package draw

import (
	"html/template"
	"math"
	"slices"
	"strconv"
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

// dateWidth is how wide a date under the chart is, px.
const dateWidth = 40

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
	c := frame("chart", "img", ch.Label, ch.Width, ch.Height)
	step := 10.0
	for (high-low)/step > 5 {
		step *= 2
	}
	for v := low + step; v < high; v += step {
		c.path("grid").M(left, y(v)).H(ch.Width - right).end()
		c.text("axis", left-6, y(v)+4, bpm(v))
	}
	c.path("target").M(left, y(ch.Target)).H(ch.Width - right).end()
	c.text("target-text", ch.Width-right, y(ch.Target)-6, "target "+bpm(ch.Target))
	every := math.Max(7, math.Ceil(days/6/7)*7)
	for d := 0.0; d <= days; d += every {
		t := from.Add(time.Duration(d*24) * time.Hour)
		anchor := "middle"
		if d == 0 {
			anchor = "start"
		} else if x(t) > ch.Width-right-dateWidth/2 {
			anchor = "end" // nothing is cut off
		}
		written := t.Format("2 Jan")
		if t.Year() != ch.Until.Year() {
			written = t.Format("2 Jan 06")
		}
		c.begin("text", "axis").set("text-anchor", anchor).at("x", x(t)).at("y", ch.Height-5).say(written).end()
	}
	ch.trace(c, x, y)
	for _, p := range ch.Points {
		c.circle(marked("entry", "clean", p.Clean), x(p.At), y(p.Tempo), 3.5).title(p.Label).end()
	}
	return c.svg()
}

// trace joins the clean entries.
func (ch Chart) trace(c *canvas, x func(time.Time) float64, y func(float64) float64) {
	clean := slices.DeleteFunc(slices.Clone(ch.Points), func(p Point) bool { return !p.Clean })
	if len(clean) == 0 {
		return
	}
	d := c.path("trace").M(x(clean[0].At), y(clean[0].Tempo))
	for _, p := range clean[1:] {
		d.L(x(p.At), y(p.Tempo))
	}
	d.end()
}

// bpm writes a tempo.
func bpm(v float64) string { return strconv.FormatFloat(v, 'f', 0, 64) }
