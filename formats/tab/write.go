// Package tab writes songs as plain tablature, six lines of text as people share them,
// with the count below and the strokes above; and reads such text as it comes.
package tab

import (
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/song"
	"valleyside/formats/plain"
)

// Columns is how wide a line of the text is, but for a bar that alone is wider.
const Columns = 80

// written stands at the end of a text of this program, by which Read knows it.
const written = "Tab written by Valleyside."

// Write writes a song, what is played of each part as music has it: the parts as they are
// written, with the roadmap at the top. In each beat the columns are in proportion to the
// time, so that the rhythm can be read from them.
func Write(w io.Writer, s *song.Song, music []play.Music) error {
	out := &printer{song: s}
	out.Song(s, true)
	for i := range s.Parts {
		out.part(&s.Parts[i], &music[i])
	}
	out.Line("")
	out.Line(written)
	_, err := io.WriteString(w, out.String())
	return err
}

// printer puts the text together.
type printer struct {
	plain.Text
	song *song.Song
}

// part writes a part: its name, what is its own, and its lines for every player.
func (o *printer) part(p *song.Part, m *play.Music) {
	o.Part(o.song, p)
	typed := m.Version.Typed(p)
	of := m.Version.TypedBars(p)
	at := 0
	for i := range typed.Lines {
		l := &typed.Lines[i]
		bars := make([]measure, len(l.Bars))
		for j := range l.Bars {
			pass := max(of[at+j][1], 1)
			bars[j] = newMeasure(o, p, &l.Bars[j], m.Version.In(of[at+j][0]-1, pass), wordsOf(l, j))
		}
		o.systems(bars, l.Times, map[bool]string{true: firstPlayer}[len(play.Players(o.song)) > 0])
		if of[at][1] <= 1 { // beside the first pass
			o.beside(p, m, of[at][0]-1)
		}
		at += len(l.Bars)
	}
}

// beside writes what other players have beside the line on which a written bar begins,
// counted from 0.
func (o *printer) beside(p *song.Part, m *play.Music, written int) {
	line := 0
	for first := 0; line < len(p.Lines) && first < written; line++ {
		first += len(p.Lines[line].Bars)
	}
	if line >= len(p.Lines) {
		return
	}
	for i := range p.Lines[line].Beside {
		voice := &p.Lines[line].Beside[i]
		k := slices.IndexFunc(m.Beside, func(side play.Side) bool { return side.Player == voice.Player })
		if k < 0 { // nothing but silence in the whole part
			bars := make([]measure, len(voice.Bars))
			for j := range bars {
				bars[j] = newMeasure(o, p, &voice.Bars[j], &arrange.Bar{}, nil)
			}
			o.systems(bars, voice.Times, voice.Player)
			continue
		}
		side := &m.Beside[k]
		first := 0
		for i := range line {
			first += len(side.Part.Lines[i].Bars)
		}
		l := &side.Version.Typed(&side.Part).Lines[line]
		bars := make([]measure, len(l.Bars))
		for j := range l.Bars {
			bars[j] = newMeasure(o, &side.Part, &l.Bars[j], side.Version.In(first+j, 1), nil)
		}
		o.systems(bars, l.Times, side.Player)
	}
}

// systems writes the bars of a line, as many beside each other as there is room for.
func (o *printer) systems(bars []measure, times int, player string) {
	for from := 0; from < len(bars); {
		width := len(o.label(1)) + 1
		to := from
		for to < len(bars) && (to == from || width+bars[to].width+1 <= Columns-4) {
			width += bars[to].width + 1
			to++
		}
		o.Line("")
		if player != "" && (from == 0 || player != firstPlayer) {
			o.Line(player + playsWord)
		}
		o.system(bars[from:to], times > 1 && from == 0, times > 1 && to == len(bars), times)
		from = to
	}
}

// playsWord stands behind the name of a player above the lines.
const playsWord = " plays:"

// firstPlayer is what the first player is called where there are others.
const firstPlayer = "Guitar"

// label is what stands before the line of a string.
func (o *printer) label(s neck.String) string {
	widest := 1
	names := o.song.Tuning.Spelled()
	for _, n := range names {
		widest = max(widest, len(n.Note.String()))
	}
	name := names[s.Index()].Note.String()
	if s == 1 {
		name = strings.ToLower(name[:1]) + name[1:]
	}
	return name + strings.Repeat(" ", widest-len(name))
}

// system writes some bars beside each other.
func (o *printer) system(bars []measure, begins, ends bool, times int) {
	left := strings.Repeat(" ", len(o.label(1))+1)
	if begins {
		left += " "
	}
	above := func(row func(*measure) []byte) {
		text := left
		for i := range bars {
			text += pad(string(row(&bars[i])), bars[i].width) + " "
		}
		if strings.TrimSpace(text) != "" {
			o.Line(text)
		}
	}
	above(func(m *measure) []byte { return m.times })
	above(func(m *measure) []byte { return m.names })
	above(func(m *measure) []byte { return m.ringing })
	above(func(m *measure) []byte { return m.muted })
	above(func(m *measure) []byte { return m.accents })
	above(func(m *measure) []byte { return m.strokes })
	for s := neck.String(1); s <= neck.Strings; s++ {
		text := o.label(s) + "|"
		if begins {
			text += ":"
		}
		for i := range bars {
			text += string(bars[i].strings[s-1])
			if ends && i == len(bars)-1 {
				text += ":"
			}
			text += "|"
		}
		if ends && s == 1 {
			text += " x" + strconv.Itoa(times)
		}
		o.Line(text)
	}
	above(func(m *measure) []byte { return m.count })
	for v := range len(bars[0].words) {
		text := left
		for i := range bars {
			text += pad(bars[i].words[v], bars[i].width) + " "
		}
		o.Line(text)
	}
}

func pad(s string, width int) string {
	return s + strings.Repeat(" ", max(width-utf8.RuneCountInString(s), 0))
}

// measure is a bar as text: rows of equal width.
type measure struct {
	part    *song.Part
	time    song.Measure
	unsure  bool
	width   int
	beats   []beat
	strings [neck.Strings][]byte // thin first
	times   []byte               // the bar's own time
	names   []byte
	accents []byte
	muted   []byte
	ringing []byte
	strokes []byte
	count   []byte
	words   []string
	sung    [][]song.Sung // by verse
	places  []placed
}

// beat is a beat of a bar: from where to where, in how many slots, each how wide, and its
// first column.
type beat struct {
	from, to pitch.Frac
	slots    int64
	wide     int
	column   int
}

// placed is an event with its signs.
type placed struct {
	event  *song.Event
	stroke song.Stroke
	pluck  string // the letters of the fingers that pluck it, thick strings first
	muted  bool
	signs  [neck.Strings]sign
	left   int // columns before its own
	right  int // columns from its own on
}

// sign is what stands on a string: a prefix that ends before the column of the event, and
// the rest.
type sign struct{ before, text string }

// mostSlots is into how many slots a beat is divided at most; what is finer stands at the
// nearest column.
const mostSlots = 48

func newMeasure(o *printer, p *song.Part, b *song.Bar, v *arrange.Bar, sung [][]song.Sung) measure {
	m := measure{part: p, time: p.Measure(b), unsure: b.Unsure, sung: sung}
	next := 0
	for i := range b.Events {
		e := &b.Events[i]
		for next < len(v.Events) && v.Events[next].Start.Less(e.Start) {
			next++
		}
		one := placed{event: e}
		if next < len(v.Events) && v.Events[next].Start == e.Start && e.Sounds() {
			one.stroke, one.muted = v.Events[next].Stroke, v.Events[next].Muted
			one.sign(o, &v.Events[next])
			one.pluck = v.Events[next].Plucked()
			one.right = max(one.right, len(one.pluck))
		}
		if !e.Sounds() {
			one.left, one.right = 1, 2 // its count stands in brackets
		}
		m.places = append(m.places, one)
	}
	m.divide()
	return m
}

// sign writes the signs of an event.
func (d *placed) sign(o *printer, v *arrange.Event) {
	e := d.event
	notes := e.Notes
	if e.Kind == song.Chord {
		for i, fret := range e.Frets {
			if fret >= 0 {
				notes = append(notes, song.Note{String: neck.StringAt(i), Fret: int(fret)})
			}
		}
	}
	for _, s := range v.Dead {
		if !slices.ContainsFunc(notes, func(n song.Note) bool { return n.String == s }) {
			notes = append(notes, song.Note{String: s, Dead: true})
		}
	}
	for _, n := range notes {
		g := signOf(n)
		if e.Vibrato {
			g.text += "~"
		}
		if e.Optional {
			g.before, g.text = "("+g.before, g.text+")"
		}
		d.signs[n.String-1] = g
		d.left, d.right = max(d.left, len(g.before)), max(d.right, len(g.text))
		if n.In != song.NoGlide {
			d.left = max(d.left, 2) // so that it is not taken for a slide from the note before
		}
	}
}

// signOf is how a note is written. A slide is drawn upwards where nothing says that it
// goes down, which the string before it decides.
func signOf(n song.Note) sign {
	if n.Dead {
		return sign{text: "x"}
	}
	g := sign{text: strconv.Itoa(n.Fret)}
	switch n.By {
	case song.Hammered:
		g.before = "h"
	case song.PulledOff:
		g.before = "p"
	case song.Slid:
		g.before = "s"
	case song.Tapped:
		g.before = "t"
	case song.Released:
		g.before = "r"
	}
	switch n.In {
	case song.Rising:
		g.before = "/"
	case song.Falling:
		g.before = "\\"
	}
	if n.Harmonic {
		g.before, g.text = "<", g.text+">"
	}
	if n.Bend != 0 {
		g.text += "b" + plain.Number(float64(n.Fret)+float64(n.Bend)/100)
	}
	switch n.Off {
	case song.Rising:
		g.text += "/"
	case song.Falling:
		g.text += "\\"
	}
	return g
}

// divide shares the bar among beats and gives each its columns.
func (m *measure) divide() {
	each := m.time.Meter.Beat()
	end := m.time.Meter.Bar()
	for at := m.time.Lead; at.Less(end); {
		to := each.Mul(pitch.Whole(at.Div(each).Floor() + 1))
		if end.Less(to) {
			to = end
		}
		b := beat{from: at, to: to, slots: 1, wide: 2}
		for i := range m.places {
			if s := m.places[i].event.Start; at.Less(s) && s.Less(to) {
				if b.slots = pitch.LCM(b.slots, s.Sub(at).Div(to.Sub(at)).Den()); b.slots > mostSlots {
					b.slots = mostSlots
				}
			}
		}
		for _, verse := range m.sung {
			for _, w := range verse {
				if s := w.Start; at.Less(s) && s.Less(to) {
					b.slots = min(pitch.LCM(b.slots, s.Sub(at).Div(to.Sub(at)).Den()), mostSlots)
				}
			}
		}
		m.beats = append(m.beats, b)
		at = to
	}
	for !m.fits() {
		continue
	}
	m.draw()
}

// column is where a moment of the bar stands.
func (m *measure) column(at pitch.Frac) int {
	for i := len(m.beats) - 1; i >= 0; i-- {
		if b := &m.beats[i]; !at.Less(b.from) {
			in := at.Sub(b.from).Div(b.to.Sub(b.from)).Mul(pitch.Whole(b.slots))
			return b.column + int(in.Float()*float64(b.wide)+0.5)
		}
	}
	return 1
}

// fits gives the beats their columns, and where signs or names would run into each other
// widens one of them; it is done when none do.
func (m *measure) fits() bool {
	m.width = 1
	if len(m.places) > 0 && m.places[0].left > 0 && m.places[0].event.Start == m.time.Lead {
		m.width += m.places[0].left
	}
	for i := range m.beats {
		m.beats[i].column = m.width
		m.width += int(m.beats[i].slots) * m.beats[i].wide
	}
	widen := func(from, to pitch.Frac) bool {
		widest := -1
		for i := range m.beats {
			b := &m.beats[i]
			if from.Less(b.to) && (b.from.Less(to) || b.from == from) && b.wide < 60 && (widest < 0 || int(b.slots)*b.wide < int(m.beats[widest].slots)*m.beats[widest].wide) {
				widest = i
			}
		}
		if widest < 0 {
			return false
		}
		m.beats[widest].wide++
		return true
	}
	end := m.time.Meter.Bar()
	if own := m.own(); own != "" && m.width < len(own) && widen(m.time.Lead, end) {
		return false
	}
	named := -1
	for i := range m.places {
		d := &m.places[i]
		here := m.column(d.event.Start)
		to, room := end, m.width-here
		if i+1 < len(m.places) {
			to = m.places[i+1].event.Start
			room = m.column(to) - here - m.places[i+1].left
		}
		if need := d.right + 1; room < need && d.right > 0 && !(i+1 < len(m.places) && m.places[i+1].left > 0 && room >= d.right) && widen(d.event.Start, to) {
			return false
		}
		if name := nameOf(d.event); name != "" {
			if named >= 0 {
				before := &m.places[named]
				if here-m.column(before.event.Start) <= len(nameOf(before.event)) && widen(before.event.Start, d.event.Start) {
					return false
				}
			}
			if m.width-here <= len(name) && widen(d.event.Start, end) {
				return false
			}
			named = i
		}
	}
	for _, verse := range m.sung {
		for i, w := range verse {
			to, room := end, m.width-m.column(w.Start)-1
			if i+1 < len(verse) {
				to = verse[i+1].Start
				room = m.column(to) - m.column(w.Start) - 1 // two blanks between them
			}
			if room <= utf8.RuneCountInString(w.Text) && widen(w.Start, to) {
				return false
			}
		}
	}
	return true
}

// nameOf is the name over an event.
func nameOf(e *song.Event) string {
	switch e.Kind {
	case song.Chord:
		if strings.ContainsFunc(e.Chord.Symbol, func(r rune) bool { return r >= utf8.RuneSelf }) {
			return e.Chord.Canonical()
		}
		return e.Chord.Symbol
	case song.NoChord:
		return "N.C."
	}
	return ""
}

// own is what stands over a bar: its time, where it has one of its own, and a ? where
// whoever wrote it is not sure.
func (m *measure) own() string {
	text := ""
	if m.time.Meter != m.part.Meter {
		text = "[" + m.time.Meter.String() + "]"
	}
	if m.unsure {
		text += "?"
	}
	return text
}

// draw writes the rows.
func (m *measure) draw() {
	for s := range m.strings {
		m.strings[s] = []byte(strings.Repeat("-", m.width))
	}
	blank := func() []byte { return []byte(strings.Repeat(" ", m.width)) }
	m.times, m.names, m.accents, m.muted, m.ringing, m.strokes, m.count = blank(), blank(), blank(), blank(), blank(), blank(), blank()
	put(m.times, 0, m.own())
	for i := range m.beats {
		b := &m.beats[i]
		put(m.count, b.column, m.time.Meter.Syllable(b.from, song.ByBeat))
	}
	m.sing()
	for i := range m.places {
		d := &m.places[i]
		e := d.event
		at := m.column(e.Start)
		for s, g := range d.signs {
			if g.text != "" {
				put(m.strings[s], at-len(g.before), g.before+g.text)
			}
		}
		if name := nameOf(e); name != "" {
			put(m.names, at, name)
		}
		syllable := strings.Replace(m.time.Meter.Syllable(e.Start, song.ByBeat), "·", ".", 1)
		if !e.Sounds() {
			put(m.count, at-1, "("+string([]rune(syllable)[:1])+")")
			continue
		}
		if m.count[at] == ' ' && (at == 0 || m.count[at-1] == ' ') {
			room := at
			for room < m.width && m.count[room] == ' ' {
				room++
			}
			text := syllable
			if next := m.next(i); min(room, next)-at <= len(text) {
				text = string([]rune(text)[:1])
			}
			if text != "." {
				put(m.count, at, text)
			}
		}
		mark := ""
		if e.Accent {
			mark += ">"
		}
		if e.Short {
			mark += "."
		}
		put(m.accents, at, mark)
		switch {
		case d.pluck != "":
			put(m.strokes, at, d.pluck)
		case d.stroke == song.Down:
			put(m.strokes, at, "v")
		case d.stroke == song.Up:
			put(m.strokes, at, "^")
		}
		if d.muted {
			m.stretch(m.muted, at, i, mutedWord)
		}
		if e.Rings(m.part) && !d.muted {
			m.stretch(m.ringing, at, i, ringWord)
		}
	}
}

// The words over what is palm muted, and over what rings.
const (
	mutedWord = "PM"
	ringWord  = "LR"
)

// next is the column of the event after one.
func (m *measure) next(i int) int {
	if i+1 < len(m.places) {
		return m.column(m.places[i+1].event.Start)
	}
	return m.width
}

// stretch marks the columns of an event with a word and dashes.
func (m *measure) stretch(row []byte, at, i int, word string) {
	to := min(m.next(i), m.width)
	for c := at; c < to; c++ {
		row[c] = '-'
	}
	if at == 0 || row[at-1] == ' ' || m.first(at) {
		put(row, at, word)
	}
}

// first tells whether a column is that of the first event.
func (m *measure) first(at int) bool {
	return len(m.places) > 0 && m.column(m.places[0].event.Start) == at
}

// put writes a text into a row, as far as there is room.
func put(row []byte, at int, text string) {
	if at < 0 {
		at = 0
	}
	copy(row[min(at, len(row)):], text)
}

// wordsOf are the words of a bar of a line, by verse.
func wordsOf(l *song.Line, bar int) [][]song.Sung {
	verses := make([][]song.Sung, len(l.Words))
	for i, verse := range l.Words {
		for _, s := range verse {
			if s.Bar == bar {
				verses[i] = append(verses[i], s)
			}
		}
		slices.SortStableFunc(verses[i], func(a, b song.Sung) int { return a.Start.Cmp(b.Start) })
	}
	return verses
}

// sing writes what is sung, each piece below its moment.
func (m *measure) sing() {
	for _, verse := range m.sung {
		var row []rune
		for _, s := range verse {
			for len(row) < m.column(s.Start) {
				row = append(row, ' ')
			}
			row = append(row, []rune(s.Text+" ")...)
		}
		m.words = append(m.words, strings.TrimRight(string(row), " "))
	}
}
