package draw

import (
	"fmt"
	"html/template"
	"math"

	"valleyside/core/arrange"
	"valleyside/core/grade"
)

// steep is the grade from which a stroke is marked as a peak.
const steep = 5.0

// usualTop is the demand that fills a picture where nothing else is said; what is
// harder is cut off there.
const usualTop = 3.4

// Highest is the demand of the hardest of some strokes, at least that of a
// gentle hill, so that easy music does not look steep.
func Highest(lists ...[]arrange.Foot) float64 {
	top := 0.8
	for _, list := range lists {
		for _, f := range list {
			top = max(top, f.Demand)
		}
	}
	return top
}

// height turns a demand into a share of the picture's height, where top fills
// it.
func height(demand, top float64) float64 {
	if top == 0 {
		top = usualTop
	}
	return min((grade.Scale(demand)-1)/(grade.Scale(top)-1), 1)
}

// slope draws a smooth line from the ground over the strokes and back to it. The
// strokes are points of x and height.
func slope(d pen, points [][2]float64, left, right, ground, room float64) {
	x, y := left, ground
	d.M(x, y)
	to := func(nextX, nextY float64) {
		mid := (x + nextX) / 2
		d.C(mid, y, mid, nextY, nextX, nextY)
		x, y = nextX, nextY
	}
	for _, p := range thinned(points, right-left) {
		to(p[0], ground-p[1]*(room-6))
	}
	to(right, ground)
	d.end()
}

// thinned leaves no more points than can be told apart, and of those that fall
// together the highest, so that no peak is lost.
func thinned(points [][2]float64, width float64) [][2]float64 {
	const closest = 3.0
	most := int(width / closest)
	if len(points) <= most || most < 1 {
		return points
	}
	var kept [][2]float64
	for _, p := range points {
		last := len(kept) - 1
		if last >= 0 && p[0]-kept[last][0] < closest {
			if p[1] > kept[last][1] {
				kept[last] = p
			}
			continue
		}
		kept = append(kept, p)
	}
	return kept
}

// hillsOver draws the ridge of the bars as written and the path of the version
// in front of it, with peaks marked and their reason to point at.
func hillsOver(c *canvas, bars []Bar, edges []float64, above, room float64, s Style) {
	ground := above + room
	points := func(of func(*Bar) []arrange.Foot) (list [][2]float64) {
		for i := range bars {
			left := edges[i] + bars[i].pad()
			for _, f := range of(&bars[i]) {
				list = append(list, [2]float64{left + f.At*(edges[i+1]-left), height(f.Demand, s.Top)})
			}
		}
		return list
	}
	right := edges[len(bars)]
	if ridge := points(func(b *Bar) []arrange.Foot { return b.Ridge }); ridge != nil {
		slope(c.path("ridge"), ridge, edges[0], right, ground, room)
	}
	path := points(func(b *Bar) []arrange.Foot { return b.Path })
	slope(c.path("path"), path, edges[0], right, ground, room)
	n := 0
	for i := range bars {
		for _, f := range bars[i].Path {
			if p := path[n]; grade.Scale(f.Demand) >= steep && peak(bars[i].Path, f) {
				c.path("peak").M(p[0], math.Max(ground-p[1]*(room-6)-1, above+6)).l(-4, -6).h(8).z().end()
			}
			n++
		}
		if bars[i].Hardest != nil {
			why := fmt.Sprintf("Bar %d: %s", bars[i].Number, s.Speaker.Hard(bars[i].Hardest, bars[i].Meter))
			c.rect("point", edges[i], above, edges[i+1]-edges[i], room).title(why).end()
		}
	}
}

// peak tells whether a stroke is the hardest of its bar.
func peak(bar []arrange.Foot, f arrange.Foot) bool {
	for _, other := range bar {
		if other.Demand > f.Demand || other.Demand == f.Demand && other.At < f.At {
			return false
		}
	}
	return true
}

// Hill is a hillside on its own.
type Hill struct {
	Bars  int            // how many it is wide
	Ridge []arrange.Foot // the strokes as written
	Path  []arrange.Foot // the strokes of the version; nil draws the ridge alone
	Top   float64
	// Walked is the share of the way that has been walked, 0 to 1.
	Walked        float64
	Width, Height float64
	Label         string // the text form
}

// SVG draws the hillside.
func (h Hill) SVG() template.HTML {
	if h.Bars == 0 {
		return ""
	}
	points := func(list []arrange.Foot) [][2]float64 {
		out := make([][2]float64, len(list))
		for i, f := range list {
			out[i] = [2]float64{h.Width * f.At / float64(h.Bars), height(f.Demand, h.Top)}
		}
		return out
	}
	c := frame("hill", "img", h.Label, h.Width, h.Height).set("preserveAspectRatio", "none")
	slope(c.path("ridge"), points(h.Ridge), 0, h.Width, h.Height, h.Height)
	if h.Path != nil {
		slope(c.path("path"), points(h.Path), 0, h.Width, h.Height, h.Height)
	}
	if h.Walked > 0 {
		c.path("walked").M(0, h.Height-1.5).H(min(h.Walked, 1) * h.Width).end()
	}
	return c.svg()
}
