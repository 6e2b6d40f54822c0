// Package draw makes the pictures of the pages: tab, hillsides and tempo
// charts, as SVG that carries a text form of itself. Colours come from the
// style sheet.
package draw

import (
	"crypto/sha256"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/words"
)

// Style is how a studio wants its tab.
type Style struct {
	Speaker words.Speaker
	Width   float64 // of a line of bars, px; 0 means 640
	Fingers bool    // beside the frets
	Strokes bool    // above the strings
	NoCount bool    // no count below them
	Places  bool    // each bar is something that can be pressed and marked
	Top     float64 // the demand that fills the hillside; 0 means that of a steep one
}

// Bar is a bar ready to be drawn.
type Bar struct {
	Number  int
	Pass    int          // the one pass of its line for which it is; 0 is every pass
	Of      *arrange.Bar // what the version has there
	Meter   song.Meter
	Time    string         // its time signature, where it has one of its own
	Unsure  bool           // whoever wrote it is not sure of it
	Words   [][]song.Sung  // what is sung to it, by verse
	Columns []Column       // in the order of time
	Times   int            // the bar ends a line that is played this often
	Demand  float64        // of the version
	Path    []arrange.Foot // of the version, stroke by stroke
	Ridge   []arrange.Foot // of the bar as written
	Hardest *arrange.Event
}

// Column is everything that happens at one moment of a bar.
type Column struct {
	At     pitch.Frac
	Length float64 // in whole notes, at most to the end of the bar
	Marks  []Mark
	Above  string // chord name
	Also   string // the other one: what a shape sounds over a capo, or what is fingered for what sounds
	Stroke song.Stroke
	Pluck  string // the letters of the picking hand, where there is no pick
	Sounds bool
	Rest   bool
	Muted  bool
	Accent bool
	Pinned bool
	// Link makes the column something to choose; Chosen is the one that is.
	Link   string
	Chosen bool
	room   float64 // the least width it is given
}

// Mark is one sign on a string line.
type Mark struct {
	String neck.String
	Text   string
	Finger hand.Finger
}

// Written makes the bars of a part as they are typed. lift is that of the song.
func Written(p *song.Part, lift song.Lift) []Bar {
	return sung(p, writtenBars(p, lineBars(p), lift))
}

// WithPath adds the path of a version to bars that are drawn as they are typed.
func WithPath(bars []Bar, v *arrange.Version) []Bar {
	for i := range bars {
		bars[i].Demand, bars[i].Hardest, bars[i].Path = v.Bars[i].Demand, v.Bars[i].Hardest(), v.Bars[i].Feet()
	}
	return bars
}

// Beside makes the bars of another player.
func Beside(p *song.Part, player string, lift song.Lift) []Bar {
	var lines []song.Voice
	for _, l := range p.Lines {
		for _, v := range l.Beside {
			if v.Player == player {
				lines = append(lines, v)
			}
		}
	}
	return writtenBars(p, lines, lift)
}

func lineBars(p *song.Part) []song.Voice {
	lines := make([]song.Voice, len(p.Lines))
	for i, l := range p.Lines {
		lines[i] = song.Voice{Bars: l.Bars, Times: l.Times}
	}
	return lines
}

func writtenBars(p *song.Part, lines []song.Voice, lift song.Lift) []Bar {
	var bars []Bar
	for _, l := range lines {
		for i := range l.Bars {
			b := newBar(len(bars)+1, p, &l.Bars[i], lift)
			for j := range l.Bars[i].Events {
				e := &l.Bars[i].Events[j]
				c := b.column(e.Start)
				c.Stroke, c.Marks, c.Muted = e.Stroke, typed(e), e.Muted(p)
				c.Pluck = plucked(p, e)
			}
			if i == len(l.Bars)-1 {
				b.Times = l.Times
			}
			bars = append(bars, b)
		}
	}
	return bars
}

// newBar lays out the moments of a bar.
func newBar(number int, p *song.Part, from *song.Bar, lift song.Lift) Bar {
	m := p.Measure(from)
	b := Bar{Number: number, Meter: m.Meter, Times: 1, Unsure: from.Unsure}
	if from.Meter != (song.Meter{}) {
		b.Time = m.Meter.String()
	}
	end := m.Meter.Bar()
	add := func(at pitch.Frac) *Column {
		b.Columns = append(b.Columns, Column{At: at})
		return &b.Columns[len(b.Columns)-1]
	}
	if len(from.Events) == 0 || m.Lead.Less(from.Events[0].Start) {
		add(m.Lead) // the bar before goes on
	}
	for i := range from.Events {
		e := &from.Events[i]
		c := add(e.Start)
		c.Sounds, c.Accent = e.Sounds(), e.Accent
		c.Rest = e.Kind == song.Rest || e.Kind == song.NoChord
		switch e.Kind {
		case song.Chord:
			if e.Stroke != song.NoStroke && from.StruckAgain(i) {
				break // its strokes say that it is struck
			}
			c.Above = e.Chord.Symbol
			switch {
			case lift.Shapes():
				c.Also = lift.Sounds(e.Chord, p.Key).Symbol
			case lift.Any():
				c.Also = lift.Shape(e.Chord, p.Key).Symbol
			}
		case song.NoChord:
			c.Above = "N.C."
		}
	}
	for i := range b.Columns {
		next := end
		if i+1 < len(b.Columns) {
			next = b.Columns[i+1].At
		}
		b.Columns[i].Length = next.Sub(b.Columns[i].At).Float()
	}
	return b
}

func (b *Bar) column(at pitch.Frac) *Column {
	i, found := slices.BinarySearchFunc(b.Columns, at, func(c Column, at pitch.Frac) int { return c.At.Cmp(at) })
	if !found {
		return &Column{}
	}
	return &b.Columns[i]
}

// bracketed is a sign, in brackets where not everybody plays it.
func bracketed(e *song.Event, text string) string {
	if e.Optional {
		return "(" + text + ")"
	}
	return text
}

// plucked are the letters of notes that are plucked, as they are typed or, in a part
// that is played without a pick, as their strings have them.
func plucked(p *song.Part, e *song.Event) (letters string) {
	if p.Plucked && e.Stroke == song.NoStroke {
		for _, by := range hand.Pluck(e.Strings(), e.Notes) {
			letters += by.String()
		}
		return letters
	}
	for _, n := range e.Notes {
		letters += n.Pluck.String()
	}
	return letters
}

// typed lists the signs of an event as it is written.
func typed(e *song.Event) []Mark {
	var marks []Mark
	switch e.Kind {
	case song.Notes:
		for _, n := range e.Notes {
			finger := hand.Finger(n.Finger)
			n.Finger, n.Pluck = 0, song.NoPluck // they have places of their own
			one := song.Event{Kind: song.Notes, Notes: []song.Note{n}}
			text := sheet.FormatEvent(&one)
			// The string is where the sign stands.
			text = strings.Replace(text, n.String.String(), "", 1)
			if e.Vibrato {
				text += "~"
			}
			if e.Short {
				text += "'"
			}
			if e.Ring {
				text += "_"
			}
			marks = append(marks, Mark{n.String, bracketed(e, text), finger})
		}
	case song.Chord:
		for i, f := range e.Frets {
			if f >= 0 {
				marks = append(marks, Mark{neck.StringAt(i), bracketed(e, strconv.Itoa(int(f))), hand.Finger(e.Fingers[i])})
			}
		}
	case song.Strum:
		for s := neck.String(5); s >= 2; s-- {
			marks = append(marks, Mark{String: s, Text: bracketed(e, "x")})
		}
	}
	return marks
}

// Version makes the bars of a version on the time axis of the part as it is
// written. ridge is the part as written, nil for none.
func Version(p *song.Part, v, ridge *arrange.Version) []Bar {
	bars := Written(p, v.Lift)
	for i := range bars {
		bars[i].play(p, v.Rung, &v.Bars[i])
		if ridge != nil {
			bars[i].Ridge = ridge.Bars[i].Feet()
		}
	}
	return bars
}

// WithPasses puts the bars of passes that differ after the line that they are a
// pass of.
func WithPasses(bars []Bar, p *song.Part, v *arrange.Version) []Bar {
	if len(v.Passes) == 0 {
		return bars
	}
	written := Written(p, v.Lift)
	var list []Bar
	at := 0
	for _, line := range p.Lines {
		end := at + len(line.Bars)
		list = append(list, bars[at:end]...)
		for pass := 1; pass <= line.Times; pass++ {
			for i := range v.Passes {
				if of := &v.Passes[i]; of.Pass == pass && of.Number > at && of.Number <= end {
					b := written[of.Number-1]
					b.Columns = slices.Clone(b.Columns)
					b.Pass, b.Times, b.Ridge = pass, 1, bars[of.Number-1].Ridge
					b.play(p, v.Rung, &of.Bar)
					list = append(list, b)
				}
			}
		}
		at = end
	}
	return list
}

// play puts into a bar what a version has there.
func (b *Bar) play(p *song.Part, rung arrange.Rung, from *arrange.Bar) {
	b.Of = from
	b.Demand, b.Hardest, b.Path = from.Demand, from.Hardest(), from.Feet()
	for j := range b.Columns {
		b.Columns[j].Marks, b.Columns[j].Sounds = nil, false
	}
	for i := range from.Events {
		e := &from.Events[i]
		c := b.column(e.Start)
		c.Sounds = true
		c.Stroke, c.Muted, c.Pinned, c.Pluck = e.Stroke, e.Muted, e.Pinned, e.Plucked()
		if (rung == arrange.AsWritten || rung == arrange.EasyChords) && e.From.Kind == song.Notes {
			c.Marks = typed(e.Placed())
		} else {
			for _, n := range e.Notes {
				c.Marks = append(c.Marks, Mark{String: n.String, Text: bracketed(e.From, strconv.Itoa(n.Fret))})
			}
			for _, s := range e.Dead {
				c.Marks = append(c.Marks, Mark{String: s, Text: bracketed(e.From, "x")})
			}
		}
		for k := range c.Marks {
			if s := c.Marks[k].String; e.Fingering.Frets.On(s) > 0 {
				c.Marks[k].Finger = e.Fingering.Fingers[s.Index()]
			}
		}
	}
}

// name is the number of a bar, and which pass it is for.
func (b *Bar) name() string {
	if b.Pass > 0 {
		return fmt.Sprintf("%d, pass %d", b.Number, b.Pass)
	}
	return strconv.Itoa(b.Number)
}

// text writes a bar as one would read it aloud: on each count the stroke, and of each
// note its fret, its string and its finger.
func (b *Bar) text(sp words.Speaker) string {
	var parts []string
	for _, c := range b.Columns {
		if !c.Sounds {
			continue
		}
		var notes []string
		for _, k := range c.Marks {
			note := k.Text + " on " + aloud(sp, k.String)
			if k.Finger != hand.None {
				note += " " + k.Finger.Name()
			}
			notes = append(notes, note)
		}
		what := strings.Join(notes, " and ")
		if c.Above != "" {
			name := c.Above
			if c.Also != "" {
				name += " (" + c.Also + ")"
			}
			what = strings.TrimSpace(name + " " + what)
		}
		at := b.Meter.Syllable(c.At, sp.Counting)
		if c.Stroke != song.NoStroke {
			at += " " + c.Stroke.String()
		}
		if c.Pluck != "" {
			at += " " + c.Pluck
		}
		parts = append(parts, at+": "+what)
	}
	text := "nothing new"
	if len(parts) > 0 {
		text = strings.Join(parts, ", ")
	}
	if b.Times > 1 {
		text += fmt.Sprintf("; its line is played %d times", b.Times)
	}
	return text
}

// aloud is a string's name as it is heard: where the two outer strings are called alike,
// the thick and the thin one are told apart.
func aloud(sp words.Speaker, s neck.String) string {
	name := sp.String(s)
	if strings.EqualFold(sp.String(1), sp.String(neck.Strings)) {
		switch s {
		case 1:
			return "thin " + name
		case neck.Strings:
			return "thick " + name
		}
	}
	return name
}

// The measures of a line of tab, px.
const (
	stringGap  = 12.0
	barPad     = 12.0
	timeRoom   = 14.0
	unsureRoom = 12.0
	wordRoom   = 16.0
	nameWidth  = 18.0
	hillHeight = 54.0
	aboveRoom  = 16.0
	strokeRoom = 13.0
	countRoom  = 22.0
	widest     = 1.8 // how far a line of few bars is drawn out
)

// column widths follow the time but never crowd the signs.
func (c *Column) width(s Style) float64 {
	w := max(16+60*c.Length, c.room)
	for _, m := range c.Marks {
		need := 13 + 8*float64(len([]rune(m.Text)))
		if s.Fingers && m.Finger != hand.None {
			need += 7
		}
		w = max(w, need)
	}
	named := 8 * float64(len([]rune(c.Above)))
	if c.Also != "" {
		named += 6.5*float64(len([]rune(c.Also))) + 5
	}
	return max(w, named+8)
}

func (b *Bar) width(s Style) float64 {
	w := b.pad() + barPad
	for i := range b.Columns {
		w += b.Columns[i].width(s)
	}
	return max(w, 56)
}

// pad is the room before the first column of a bar: for its time, where it has one
// of its own.
func (b *Bar) pad() float64 {
	switch {
	case b.Time != "":
		return barPad + timeRoom
	case b.Unsure:
		return barPad + unsureRoom
	}
	return barPad
}

// sectionBars is after how many bars a line of tab ends in any case, but for a last half
// section, which is not left alone. So bars that change move no others than those of their
// section.
const sectionBars = 16

// Tab draws bars as lines of tab, one picture each. With hills it stands the
// hillside of the bars above them.
func Tab(bars []Bar, s Style, hills bool) []template.HTML {
	var pictures []template.HTML
	for _, l := range Lines(bars, s, hills) {
		pictures = append(pictures, l.SVG())
	}
	return pictures
}

// Line is a line of tab that is laid out and not drawn yet.
type Line struct {
	bars    []Bar
	style   Style
	stretch float64 // of its columns, so that it fills its width
	hills   bool
}

// Lines lays bars out as Tab draws them.
func Lines(bars []Bar, s Style, hills bool) []Line {
	if s.Width == 0 {
		s.Width = 640
	}
	var lines []Line
	for len(bars) > 0 {
		n := len(bars)
		if n > sectionBars+sectionBars/2 {
			n = sectionBars
		}
		section := bars[:n]
		bars = bars[n:]
		for _, n := range counts(section, s) {
			_, used := fill(section[:n], s, math.Inf(1))
			lines = append(lines, Line{section[:n], s, min((s.Width-nameWidth)/(used-nameWidth), widest), hills})
			section = section[n:]
		}
	}
	return lines
}

// Fingerprint is the same for lines that are drawn alike. It is much less work than
// drawing them.
func (l *Line) Fingerprint() [sha256.Size]byte {
	list := []any{l.style, l.stretch, l.hills}
	for i := range l.bars {
		b := &l.bars[i]
		list = append(list, b.Number, b.Pass, b.Meter, b.Time, b.Unsure, b.Words, b.Columns, b.Times, b.Path, b.Ridge)
		if b.Hardest != nil {
			list = append(list, l.style.Speaker.Hard(b.Hardest, b.Meter))
		}
	}
	return song.Fingerprint(list...)
}

// Stack draws two versions of the same bars under one another on one time
// axis: the lines of both in turn.
func Stack(over, under []Bar, s Style) (lines [][2]template.HTML) {
	for i := range over {
		for j := range over[i].Columns {
			a, b := &over[i].Columns[j], &under[i].Columns[j]
			room := max(a.width(s), b.width(s))
			a.room, b.room = room, room
		}
	}
	above, below := Tab(over, s, true), Tab(under, s, true)
	for i := range above {
		lines = append(lines, [2]template.HTML{above[i], below[i]})
	}
	return lines
}

// counts says how many bars stand on each line.
func counts(bars []Bar, s Style) (list []int) {
	limit := balanced(bars, s)
	for rest := bars; len(rest) > 0; {
		n, _ := fill(rest, s, limit)
		list = append(list, n)
		rest = rest[n:]
	}
	if last := len(list) - 1; last > 0 && list[last] == 1 && list[last-1] > 2 {
		if n, _ := fill(bars[len(bars)-2:], s, s.Width); n == 2 { // no bar is left alone
			list[last-1], list[last] = list[last-1]-1, 2
		}
	}
	return list
}

// fill counts the bars that fit on a line of a width, at least one, and the
// width that they take.
func fill(bars []Bar, s Style, limit float64) (n int, used float64) {
	used = nameWidth
	for n < len(bars) && (n == 0 || used+bars[n].width(s) <= limit) {
		used += bars[n].width(s)
		n++
	}
	return n, used
}

// balanced is the smallest width at which the bars take no more lines than
// they must, so that the last one is not much shorter than the others.
func balanced(bars []Bar, s Style) float64 {
	lines := func(limit float64) (count int) {
		for rest := bars; len(rest) > 0; count++ {
			n, _ := fill(rest, s, limit)
			rest = rest[n:]
		}
		return count
	}
	least := lines(s.Width)
	low, high := 0.0, s.Width
	for high-low > 4 {
		if mid := (low + high) / 2; lines(mid) > least {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// SVG draws the line.
func (l *Line) SVG() template.HTML {
	bars, s, stretch, hills := l.bars, l.style, l.stretch, l.hills
	top := 4.0
	if hills {
		top += hillHeight + 4
	}
	top += aboveRoom
	if s.Strokes {
		top += strokeRoom
	}
	bottom := top + 5*stringGap
	height := bottom + 12
	if !s.NoCount {
		height = bottom + countRoom + 4
	}
	rows := 0
	for i := range bars {
		rows = max(rows, len(bars[i].Words))
	}
	height += float64(rows) * wordRoom
	width := nameWidth
	edges := []float64{width}
	for i := range bars {
		width += bars[i].width(s) * stretch
		edges = append(edges, width)
	}
	var label []string
	for i := range bars {
		name := bars[i].name()
		if bars[i].Time != "" {
			name += ", in " + bars[i].Time
		}
		if bars[i].Unsure {
			name += ", not sure"
		}
		if words := bars[i].sungText(); words != "" {
			name += `, sung “` + words + `”`
		}
		label = append(label, fmt.Sprintf("Bar %s: %s.", name, bars[i].text(s.Speaker)))
	}
	role := "img"
	if linked(bars) {
		role = "group"
	}
	c := frame("tab", role, strings.Join(label, " "), width+1, height).sized(width+1, height)
	if rows > 0 {
		first := height - float64(rows)*wordRoom + 10
		for i := range bars {
			bars[i].sing(c, s, edges[i], stretch, first)
		}
	}
	if s.Places {
		for i := range bars {
			bars[i].place(c, edges[i], edges[i+1], bottom+4)
		}
	}
	if hills {
		hillsOver(c, bars, edges, 2, hillHeight, s)
	}
	for i := range neck.Strings {
		st := neck.StringAt(i)
		y := stringY(st, top)
		c.path("string").M(nameWidth, y).H(width).end()
		c.text("name", 3, y+3.5, s.Speaker.String(st))
	}
	for i := range bars {
		bars[i].draw(c, s, edges[i], edges[i+1], top, bottom, stretch)
	}
	c.path("barline").M(edges[0], top).V(bottom).end()
	return c.svg()
}

func linked(bars []Bar) bool {
	return slices.ContainsFunc(bars, func(b Bar) bool {
		return slices.ContainsFunc(b.Columns, func(c Column) bool { return c.Link != "" })
	})
}

func stringY(s neck.String, top float64) float64 { return top + float64(s-1)*stringGap }

func (b *Bar) draw(c *canvas, s Style, left, right, top, bottom, stretch float64) {
	c.path("barline").M(right, top).V(bottom).end()
	number := strconv.Itoa(b.Number)
	if b.Unsure {
		number += " ?"
	}
	c.text("number", left+2, top-6, number)
	if above, below, ok := strings.Cut(b.Time, "/"); ok {
		c.text("time", left+timeRoom/2+2, top+2*stringGap, above)
		c.text("time", left+timeRoom/2+2, top+4*stringGap, below)
	}
	switch {
	case b.Pass > 0:
		c.text("times", right-3, top-6, "pass "+strconv.Itoa(b.Pass))
	case b.Times > 1:
		c.text("times", right-3, top-6, "×"+strconv.Itoa(b.Times))
	}
	x := left + b.pad()*stretch
	var centres []float64
	for i := range b.Columns {
		col := &b.Columns[i]
		w := col.width(s) * stretch
		cx := x + 7
		centres = append(centres, cx)
		if col.Link != "" {
			b.link(c, s, col, x-barPad/2, w, top, bottom)
		}
		col.draw(c, s, cx, top)
		if col.Link != "" {
			c.end()
		}
		x += w
	}
	if !s.NoCount {
		b.counts(c, s, centres, x, bottom)
	}
}

// place is where a bar is pressed to play from it, and marked while it sounds.
func (b *Bar) place(c *canvas, left, right, bottom float64) {
	c.rect("place", left, 2, right-left, bottom-2).set("data-bar", strconv.Itoa(b.Number))
	if b.Pass > 0 {
		c.set("data-pass", strconv.Itoa(b.Pass))
	}
	c.end()
}

// link opens what makes a column a thing to choose.
func (b *Bar) link(c *canvas, s Style, col *Column, x, width, top, bottom float64) {
	c.begin("a", marked("event", "chosen", col.Chosen)).set("href", col.Link).set("data-swap", "").set("tabindex", "-1")
	if col.Chosen {
		c.set("aria-current", "true")
	}
	c.rect("hit", x, top-8, width, bottom-top+16).end()
	c.text("spoken", x, top, fmt.Sprintf("Bar %s on %s: ", b.name(), b.Meter.Syllable(col.At, s.Speaker.Counting)))
}

func (col *Column) draw(c *canvas, s Style, x, top float64) {
	if col.Above != "" {
		y := top - 6
		if s.Strokes {
			y -= strokeRoom
		}
		c.begin("text", "chord").at("x", x-4).at("y", y).say(col.Above)
		if col.Also != "" {
			c.begin("tspan", "also").at("dx", 4).say(col.Also).end()
		}
		c.end()
	}
	if s.Strokes && col.Pluck != "" {
		c.text("pluck", x, top-6, col.Pluck)
	} else if s.Strokes && col.Stroke != song.NoStroke {
		y := top - 6
		if col.Stroke == song.Down {
			c.path("stroke").M(x-3.5, y).v(-6).h(7).v(6).end()
		} else {
			c.path("stroke").M(x-3.5, y-6.5).l(3.5, 6.5).l(3.5, -6.5).end()
		}
	}
	if col.Rest {
		c.path("rest").M(x-3.5, top+2.5*stringGap).h(7).end()
	}
	if col.Muted && len(col.Marks) > 0 {
		c.path("palm").M(x-4, top+5*stringGap+5).h(8).end()
	}
	if col.Pinned {
		c.path("pin").M(x-4.5, top-9).h(9).end()
	}
	for _, m := range col.Marks {
		y := stringY(m.String, top)
		c.text(marked("fret", "accent", col.Accent), x, y+4.5, m.Text)
		if s.Fingers && m.Finger != hand.None {
			c.text("finger", x+3+4*float64(len([]rune(m.Text))), y+0.5, m.Finger.String())
		}
	}
}

// counts writes the count under every slot and every beat; what sounds is
// marked.
func (b *Bar) counts(c *canvas, s Style, centres []float64, end, bottom float64) {
	y := bottom + countRoom - 3
	beat := b.Meter.Beat()
	at := pitch.Whole(0)
	for i := range b.Columns {
		col := &b.Columns[i]
		// Beats that pass while something is held.
		next := end
		if i+1 < len(b.Columns) {
			next = centres[i+1]
		}
		c.text(marked("count", "on", col.Sounds), centres[i], y, b.Meter.Syllable(col.At, s.Speaker.Counting))
		for !col.At.Less(at) {
			at = at.Add(beat)
		}
		for at.Sub(col.At).Float() < col.Length-1e-9 {
			share := at.Sub(col.At).Float() / col.Length
			c.text("count", centres[i]+share*(next-centres[i]), y, b.Meter.Syllable(at, s.Speaker.Counting))
			at = at.Add(beat)
		}
	}
}
