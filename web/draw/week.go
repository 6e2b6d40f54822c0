package draw

import (
	"fmt"
	"html/template"
	"slices"
)

// Week is a week of lessons in proportion to the clock, a column for each day.
type Week struct {
	Label string // the text form
	Days  []WeekDay
	Width float64 // px
}

// WeekDay is a column.
type WeekDay struct {
	Title   string
	Note    string // why it is free
	Today   bool
	Lessons []WeekLesson // in the order in which they begin; without a time first
}

// WeekLesson is a lesson, from one minute of the day to another; From is −1 where it has no time.
type WeekLesson struct {
	From, To int
	Time     string
	Who      string
	Mark     string // what is to be said of it
	Class    string
	Link     string
	Label    string // the text form
	Chosen   bool
}

// Sizes of a week, px.
const (
	weekClock  = 44.0 // the column of the hours
	weekHead   = 36.0
	weekLoose  = 20.0 // a lesson without a time
	weekMinute = 1.15
	weekLine   = 15.0
	weekPad    = 5.0
)

// SVG draws the week.
func (w Week) SVG() template.HTML {
	first, last, loose := 24*60, 0, 0
	for _, d := range w.Days {
		n := 0
		for _, l := range d.Lessons {
			if l.From < 0 {
				n++
				continue
			}
			first, last = min(first, l.From), max(last, l.To)
		}
		loose = max(loose, n)
	}
	if first > last {
		first, last = 14*60, 18*60 // a week without lessons has an afternoon
	}
	first, last = first/60*60, (last+59)/60*60
	top := weekHead + weekLoose*float64(loose) + 8
	y := func(at int) float64 { return top + float64(at-first)*weekMinute }
	height := y(last) + 8
	c := frame("week", "group", w.Label, w.Width, height)
	column := (w.Width - weekClock) / float64(max(len(w.Days), 1))
	for at := first; at <= last; at += 60 {
		c.text("clock", 0, y(at)+4, fmt.Sprintf("%02d:00", at/60%24))
		c.path("hour").M(weekClock, y(at)).H(w.Width).end()
	}
	for i, d := range w.Days {
		left := weekClock + float64(i)*column
		if d.Note != "" {
			c.rect("free", left, weekHead, column, height-weekHead).end()
		}
		c.path("edge").M(left, 0).V(height).end()
		if d.Today {
			c.rect("today", left, weekHead-4, column, 4).end()
		}
		c.begin("svg", "").at("x", left).at("y", 0).at("width", column).at("height", weekHead-4)
		c.text("head", weekPad+2, 20, d.Title)
		if d.Note != "" {
			c.text("note", weekPad+56, 20, d.Note)
		}
		c.end()
		lane, lanes := sideBySide(d.Lessons)
		n := 0
		for k, l := range d.Lessons {
			if l.From < 0 {
				l.draw(c, left+2, weekHead+weekLoose*float64(n), column-4, weekLoose-2)
				n++
				continue
			}
			width := (column - 2) / float64(lanes[k])
			l.draw(c, left+2+float64(lane[k])*width, y(l.From)+1, width-2, max(float64(l.To-l.From)*weekMinute-2, weekLine+4))
		}
	}
	return c.svg()
}

// draw draws a lesson as a link; what has no room in it is cut off.
func (l *WeekLesson) draw(c *canvas, x, y, width, height float64) {
	class := "lesson " + l.Class
	if l.Chosen {
		class += " chosen"
	}
	c.begin("a", class).set("href", l.Link).set("aria-label", l.Label)
	c.begin("svg", "").at("x", x).at("y", y).at("width", width).at("height", height)
	c.rect("box", 0.5, 0.5, width-1, height-1).end()
	c.rect("bar", 0, 0, 4, height).end()
	lines := []struct{ class, text string }{{"time", l.Time}, {"who", l.Who}, {"mark", l.Mark}}
	lines = slices.DeleteFunc(lines, func(line struct{ class, text string }) bool { return line.text == "" })
	for i := range lines[:len(lines)-1] { // read one after the other, they are words
		lines[i].text += " "
	}
	at := 13.0
	if height < 2*weekLine+4 { // in one line
		x := 8.0
		for _, line := range lines {
			c.text(line.class, x, min(at, height-4), line.text)
			x += 7.2*float64(len([]rune(line.text))) + 6
		}
	} else {
		for _, line := range lines {
			c.text(line.class, 8, at, line.text)
			at += weekLine
		}
	}
	c.end().end()
}

// sideBySide puts lessons that overlap side by side: the lane of each, of how many.
func sideBySide(lessons []WeekLesson) (lane, lanes []int) {
	lane, lanes = make([]int, len(lessons)), make([]int, len(lessons))
	for begin := 0; begin < len(lessons); {
		end, until := begin, -1
		var ends []int // of each lane
		for ; end < len(lessons) && (end == begin || lessons[end].From < until); end++ {
			l := &lessons[end]
			i := slices.IndexFunc(ends, func(e int) bool { return e <= l.From })
			if i < 0 {
				i, ends = len(ends), append(ends, 0)
			}
			lane[end], ends[i] = i, l.To
			until = max(until, l.To)
		}
		for i := begin; i < end; i++ {
			lanes[i] = len(ends)
		}
		begin = end
	}
	return lane, lanes
}
