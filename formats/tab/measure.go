package tab

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// scanned is a bar whose signs have been read, before its rhythm is known.
type scanned struct {
	from, to int // the columns of what is in it
	pickup   bool
	events   []struck
	wide     []bool // by event: all its frets have two digits
	rests    []int  // columns of silences that are counted
	own      bool   // the text is of our own: brackets are around what some play
}

// align moves names that others wrote over a block to what they are meant for: what begins
// below them or nearly so, or next behind them.
func (s *system) align() {
	var columns []int
	for i := range len(s.edges) - 1 {
		b := scanned{from: s.edges[i] + 1, to: s.ahead[i+1]}
		for k := range s.strings {
			b.scan(s, k)
		}
		b.gather()
		for _, e := range b.events {
			columns = append(columns, e.column)
		}
	}
	const behind = 6
	for i := range s.names {
		w := &s.names[i]
		k, _ := slices.BinarySearch(columns, w.at-1)
		if k < len(columns) && columns[k]-w.at <= behind && !isOwn(w.text) {
			w.at = columns[k]
		}
	}
}

// readMeasure reads a bar of a block.
func readMeasure(r *Reader, s *system, i int, pickup bool) *measured {
	b := scanned{from: s.edges[i] + 1, to: s.ahead[i+1], pickup: pickup}
	if s.begins[i] {
		b.from++
	}
	if s.colon(b.to - 1) {
		b.to--
	}
	m := &measured{meter: r.Meter}
	for _, w := range s.names {
		if w.at >= b.from-1 && w.at < b.to && isOwn(w.text) {
			text, unsure := strings.CutSuffix(w.text, "?")
			m.unsure = unsure
			if own, err := song.ParseMeter(strings.Trim(text, "[]")); err == nil {
				m.meter = own
			}
		}
	}
	b.own = r.Score.Own
	for k := range s.strings {
		b.scan(s, k)
	}
	b.gather()
	m.end = m.meter.Bar()
	at, counted := r.counted(s, &b, m)
	if !counted {
		at = r.guessed(&b, m)
	}
	for j := range b.events {
		e := b.events[j]
		e.at = at(e.column)
		s.mark(r, &e)
		m.events = append(m.events, e)
	}
	for _, column := range b.rests {
		m.rests = append(m.rests, at(column))
	}
	if !counted && len(b.events) == 0 && !r.Score.Own {
		m.rests = append(m.rests, m.lead)
	}
	s.texts(r, &b, m, at)
	return m
}

// colon tells whether the sign of a repeat stands in a column.
func (s *system) colon(at int) bool {
	n := 0
	for k := range s.strings {
		if c := s.char(k, at); c == ':' || c == '*' || c == 'o' {
			n++
		}
	}
	return n >= 2
}

// scan reads the signs of a string: frets with what stands right before and behind them.
func (b *scanned) scan(s *system, k int) {
	str := neck.String(k + 1)
	char := func(at int) byte {
		if at < b.from || at >= b.to {
			return '-'
		}
		return s.char(k, at)
	}
	optional := func(at int) song.Marks {
		return song.Marks{Optional: b.own && (char(at-1) == '(' || char(at-2) == '(')}
	}
	ended := -1 // the column behind the sign before
	for at := b.from; at < b.to; {
		c := char(at)
		if c == 'x' || c == 'X' {
			b.events = append(b.events, struck{column: at, marks: optional(at), notes: []song.Note{{String: str, Dead: true}}})
			b.wide = append(b.wide, false)
			at++
			ended = at
			continue
		}
		if !digit(c) {
			at++
			continue
		}
		fret, next := number2(char, at)
		n := song.Note{String: str, Fret: fret}
		e := struck{column: at, marks: optional(at)}
		b.before(&n, char, at, ended)
		next = b.after(&n, &e, char, next)
		e.notes = []song.Note{n}
		b.events = append(b.events, e)
		b.wide = append(b.wide, fret >= 10)
		at = next
		ended = at
	}
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// number2 reads a fret: two digits where that is one, else one.
func number2(char func(int) byte, at int) (fret, next int) {
	fret, next = int(char(at)-'0'), at+1
	if digit(char(next)) {
		if two := fret*10 + int(char(next)-'0'); fret > 0 && two <= neck.MaxFret {
			return two, next + 1
		}
	}
	return fret, next
}

// before reads what stands right before a fret: how it begins.
func (b *scanned) before(n *song.Note, char func(int) byte, at, ended int) {
	c := char(at - 1)
	if c == '(' && !b.own {
		c = char(at - 2)
		at--
	}
	linked := ended >= 0 && at-1 == ended // the sign stands right behind a note
	switch c {
	case 'h', 'H':
		n.By = song.Hammered
	case 'p', 'P':
		n.By = song.PulledOff
	case 's', 'S':
		n.By = song.Slid
	case 't', 'T':
		n.By = song.Tapped
	case 'r', 'R':
		n.By = song.Released
	case '<':
		n.Harmonic = char(at+1) == '>' || char(at+2) == '>'
	case '/', '\\':
		switch {
		case linked:
			n.By = song.Slid
		case n.Fret == 0:
		case c == '/':
			n.In = song.Rising
		default:
			n.In = song.Falling
		}
	case '^':
		if linked {
			n.By = song.Hammered
		}
	}
}

// after reads what stands right behind a fret, and gives the column behind that.
func (b *scanned) after(n *song.Note, e *struck, char func(int) byte, at int) int {
	for {
		switch c := char(at); {
		case c == ')' || c == '>' || c == '*' || c == '_':
			at++
		case c == 'o' || c == 'O':
			n.Harmonic = true
			at++
		case c == '~' || c == 'V':
			e.marks.Vibrato = true
			at++
		case c == '\'' || c == '.':
			e.marks.Short = true
			at++
		case (c == 'b' || c == '^' && digit(char(at+1))) && n.Fret > 0:
			at = bent(n, char, at+1)
		case (c == '/' || c == '\\') && !digit(char(at+1)) && (b.own || char(at+1) != '(') && n.Fret > 0:
			n.Off = map[byte]song.Glide{'/': song.Rising, '\\': song.Falling}[c]
			at++
		default:
			return at
		}
	}
}

// bent reads how far a note is bent: to the fret that is named, or a whole tone.
func bent(n *song.Note, char func(int) byte, at int) int {
	n.Bend = 200
	switch c := char(at); {
	case c == '(' && digit(char(at+1)):
		to, next := number2(char, at+1)
		if char(next) == ')' {
			next++
		}
		setBend(n, float64(to))
		return next
	case digit(c):
		to, next := number2(char, at)
		v := float64(to)
		if char(next) == '/' && c == '1' && char(next+1) == '2' { // a half
			n.Bend = 100
			return next + 2
		}
		if char(next) == '.' && digit(char(next+1)) {
			digits := ""
			for next++; digit(char(next)); next++ {
				digits += string(char(next))
			}
			part, _ := strconv.ParseFloat("0."+digits, 64)
			v += part
		}
		setBend(n, v)
		return next
	case c == 'f':
		return at + 1
	}
	return at
}

// setBend bends a note to a fret; a small number is how many semitones.
func setBend(n *song.Note, to float64) {
	cents := int((to-float64(n.Fret))*100 + 0.5)
	if to < float64(n.Fret) && to > 0 && to <= 4 {
		cents = int(to * 100)
	}
	n.Bend = 200
	if cents > 0 && cents <= 400 {
		n.Bend = cents
	}
}

// gather puts together what stands in one column; a fret of two digits also with what
// stands below its second.
func (b *scanned) gather() {
	order := make([]int, len(b.events))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(x, y int) int { return cmp.Compare(b.events[x].column, b.events[y].column) })
	var events []struck
	wide := true
	for _, i := range order {
		e := b.events[i]
		if n := len(events); n > 0 {
			last := &events[n-1]
			free := !slices.ContainsFunc(last.notes, func(k song.Note) bool { return k.String == e.notes[0].String })
			if free && (e.column == last.column || e.column == last.column+1 && wide && !b.wide[i] && len(e.notes) == 1 && picked(last.notes)) {
				wide = wide && (b.wide[i] || e.column > last.column)
				last.notes = append(last.notes, e.notes...)
				last.marks.Vibrato = last.marks.Vibrato || e.marks.Vibrato
				last.marks.Short = last.marks.Short || e.marks.Short
				continue
			}
		}
		wide = b.wide[i]
		events = append(events, e)
	}
	b.events = events
}

// picked tells whether notes are struck together as they are.
func picked(notes []song.Note) bool {
	return !slices.ContainsFunc(notes, func(n song.Note) bool { return n.By != song.Picked })
}

// token is something that is counted.
type token struct {
	column int
	beat   int // from 1; 0 for a syllable
	part   pitch.Frac
	rest   bool
}

// syllables are the places of what is counted inside a beat; where one has several, one of
// them.
var syllables = map[string]pitch.Frac{"e": pitch.F(1, 4), "&": pitch.F(1, 2), "+": pitch.F(1, 2), "a": pitch.F(3, 4), "trip": pitch.F(1, 3), "t": pitch.F(1, 3), "let": pitch.F(2, 3), "l": pitch.F(2, 3), "ta": pitch.F(1, 2), ".": pitch.F(1, 2)}

// tokens cuts the words of a count into what is counted.
func tokens(list []word) (out []token) {
	for _, w := range list {
		rest := false
		for i := 0; i < len(w.text); {
			switch c := w.text[i]; {
			case c == '(':
				rest = true
				i++
			case c == ')':
				rest = false
				i++
			case digit(c):
				j := i
				for j < len(w.text) && digit(w.text[j]) {
					j++
				}
				beat, _ := strconv.Atoi(w.text[i:j])
				out = append(out, token{column: w.at + i, beat: beat, rest: rest})
				i = j
			default:
				j := i + 1
				for j < len(w.text) && unicode.IsLetter(rune(w.text[j])) && unicode.IsLetter(rune(c)) && w.text[i:j] != "e" && w.text[i:j] != "a" {
					j++
				}
				if part, ok := syllables[w.text[i:j]]; ok {
					out = append(out, token{column: w.at + i, part: part, rest: rest})
				}
				i = j
			}
		}
	}
	return out
}

// anchor is a column whose time is known.
type anchor struct {
	column int
	time   pitch.Frac
}

// counted reads the rhythm of a bar from what is counted below it; ok is false where
// nothing is, or where it makes no sense.
func (r *Reader) counted(s *system, b *scanned, m *measured) (at func(int) pitch.Frac, ok bool) {
	var list []token
	shift := 0
	if !r.Score.Own {
		shift = s.shift(b)
	}
	for _, t := range tokens(s.count) {
		if t.column += shift; t.column >= b.from && t.column < b.to {
			list = append(list, t)
		}
	}
	if len(list) == 0 {
		return nil, false
	}
	beat := m.meter.Beat()
	beats := int(m.end.Div(beat).Floor())
	if whole := beat.Mul(pitch.Whole(int64(beats))); whole.Less(m.end) {
		beats++
	}
	var anchors []anchor
	last := 0
	for i, t := range list {
		switch {
		case t.beat > 0:
			if t.beat > beats || last > 0 && t.beat != last+1 {
				return nil, false
			}
			last = t.beat
			anchors = append(anchors, anchor{t.column, beat.Mul(pitch.Whole(int64(t.beat - 1)))})
		case i == 0:
			next := beats + 1 // the beat before which it stands
			for _, u := range list {
				if u.beat > 0 {
					next = u.beat
					break
				}
			}
			if next < 2 {
				return nil, false
			}
			anchors = append(anchors, anchor{t.column, beat.Mul(pitch.Whole(int64(next - 2)).Add(t.part))})
		case last > 0 && !r.Score.Own: // others do not keep columns in proportion
			if time := beat.Mul(pitch.Whole(int64(last - 1)).Add(t.part)); anchors[len(anchors)-1].time.Less(time) {
				anchors = append(anchors, anchor{t.column, time})
			}
		}
	}
	if last != beats && !(last == 0 && len(anchors) == 1 && r.Score.Own) || !r.Score.Own && anchors[0].time.Num() > 0 && len(r.Score.Bars) != r.part {
		return nil, false // not all of the bar is counted
	}
	if lead := m.end.Sub(r.Pickup.Mul(beat)); b.pickup && lead.Num() > 0 && list[0].beat == 0 {
		anchors[0].time = lead
	}
	m.lead = anchors[0].time
	anchors = append(anchors, anchor{b.to, m.end})
	for _, t := range list {
		if t.rest {
			b.rests = append(b.rests, t.column)
		}
	}
	return func(column int) pitch.Frac {
		i := 0
		for i+2 < len(anchors) && anchors[i+1].column <= column {
			i++
		}
		from, to := anchors[i], anchors[i+1]
		in := pitch.F(int64(min(max(column-from.column, 0), to.column-from.column)), int64(max(to.column-from.column, 1)))
		if !r.Score.Own {
			in = nearest(in, to.column-from.column)
		}
		if t := from.time.Add(to.time.Sub(from.time).Mul(in)); t.Less(m.end) {
			return t
		}
		return m.end.Sub(m.end.Sub(m.lead).Mul(pitch.F(1, 64)))
	}, true
}

// shift is by how many columns the count of a system has to be moved so that most of what
// begins in a bar begins with something that is counted.
func (s *system) shift(b *scanned) (best int) {
	most := -1 << 30
	for _, by := range []int{0, 1, -1, 2, -2} {
		n := 0
		for _, t := range tokens(s.count) {
			if at := t.column + by; at < b.from && at > b.from-3 && t.beat > 0 {
				n -= len(b.events) + 1 // a beat on the bar line
			} else if slices.ContainsFunc(b.events, func(e struck) bool { return e.column == at }) {
				n++
			}
		}
		if n > most {
			best, most = by, n
		}
	}
	return best
}

// nearest is the plainest share of a beat that lies within a third of a column of one.
func nearest(in pitch.Frac, width int) pitch.Frac {
	for _, n := range []int64{1, 2, 3, 4, 6, 8, 12} {
		k := in.Mul(pitch.Whole(n)).Add(pitch.F(1, 2)).Floor()
		d := pitch.F(k, n).Sub(in).Float() * float64(width)
		if d < 0.36 && d > -0.36 {
			return pitch.F(k, n)
		}
	}
	return in
}

// spacing is how the columns of a bar are shared: so many slots, each so wide, from a column
// on.
type spacing struct {
	slots, wide, first int
}

// guessed reads the rhythm of a bar from its spacing: equal slots in which everything
// begins with one. Where there are none, the bar is marked and its events share it as
// they lie.
func (r *Reader) guessed(b *scanned, m *measured) func(int) pitch.Frac {
	width := b.to - b.from
	length := m.end
	if g, ok := r.fit(b, m, width); ok {
		if g.wide == 1 && !b.tight() { // every column is a slot: that fits anything
			r.unknown = append(r.unknown, len(r.Score.Bars)+1)
		} else {
			r.spaced = g
		}
		return func(column int) pitch.Frac {
			k := (column - b.from - g.first) / g.wide
			return length.Mul(pitch.F(int64(min(max(k, 0), g.slots-1)), int64(g.slots)))
		}
	}
	r.unknown = append(r.unknown, len(r.Score.Bars)+1)
	first := 1
	if len(b.events) > 0 { // what begins a bar seldom begins after it
		first = min(3, b.events[0].column-b.from)
	}
	for _, n := range []int{8, 16, 12, 24, 32} {
		slot := func(column int) int {
			return min(max((2*(column-b.from-first)*n+width-first)/(2*max(width-first, 1)), 0), n-1)
		}
		apart := true
		for i := 1; i < len(b.events); i++ {
			apart = apart && slot(b.events[i].column) > slot(b.events[i-1].column)
		}
		if apart {
			return func(column int) pitch.Frac { return length.Mul(pitch.F(int64(slot(column)), int64(n))) }
		}
	}
	n := int64(max(len(b.events), 1))
	return func(column int) pitch.Frac {
		k := slices.IndexFunc(b.events, func(e struck) bool { return e.column >= column })
		return length.Mul(pitch.F(int64(max(k, 0)), n))
	}
}

// tight tells whether something begins right behind something else, or the bar has hardly
// more columns than events.
func (b *scanned) tight() bool {
	for i := 1; i < len(b.events); i++ {
		if b.events[i].column-b.events[i-1].column == 1 {
			return true
		}
	}
	return len(b.events) < 2
}

// fit finds the spacing of a bar: that of the bar before where it fits, else the plainest
// one whose slots fill the bar best.
func (r *Reader) fit(b *scanned, m *measured, width int) (best spacing, ok bool) {
	if len(b.events) == 0 {
		return spacing{1, max(width, 1), 0}, true
	}
	fits := func(g spacing) bool {
		for _, e := range b.events {
			if in := e.column - b.from - g.first; in < 0 || in%g.wide != 0 || in/g.wide >= g.slots {
				return false
			}
		}
		return true
	}
	cost := func(g spacing) int { // columns that are too many or missing
		d := width - g.first - g.slots*g.wide
		switch {
		case d == -1: // no dash before the bar line
			return 1
		case d < 0 && -d <= g.wide: // nor where nothing more is played
			return 2
		case d < 0:
			return -2 * d
		}
		return d
	}
	late := func(g spacing) int { // what begins a bar seldom begins after it
		if b.events[0].column-b.from > g.first {
			return 40
		}
		return 0
	}
	if g := r.spaced; g.slots > 0 && r.spacedIn == m.meter && fits(g) && cost(g) <= g.wide && late(g) == 0 {
		return g, true
	}
	r.spacedIn = m.meter
	beats := int(m.meter.Bar().Div(m.meter.Beat()).Float() + 0.999)
	perBeat := []int{2, 4, 1, 3, 6, 8}
	if m.meter.Compound() {
		perBeat = []int{3, 6, 1, 12, 2}
	}
	least := 0
	for rank, per := range perBeat {
		slots := per * beats
		for first := 0; first <= min(8, b.events[0].column-b.from); first++ {
			for wide := 1; wide <= max(12, width/slots+1); wide++ {
				g := spacing{slots, wide, first}
				d := cost(g)
				if d > max(wide, 2) || !fits(g) {
					continue
				}
				c := 10*d + 3*rank + first + max(first-3, 0) + late(g)
				if first == 1 { // as most people write
					c -= 2
				}
				if wide == 1 { // which fits anything
					c += 10
				}
				if !ok || c < least {
					best, least, ok = g, c, true
				}
			}
		}
	}
	return best, ok
}

// mark adds to an event what stands over its column.
func (s *system) mark(r *Reader, e *struck) {
	over := func(list []word) string {
		for _, w := range list {
			if w.at == e.column {
				return w.text
			}
		}
		return ""
	}
	slices.SortFunc(e.notes, func(x, y song.Note) int { return cmp.Compare(y.String, x.String) })
	switch stroke := over(s.strokes); stroke {
	case "v", "D", "d", "↓":
		e.marks.Stroke = song.Down
	case "^", "V", "U", "u", "↑":
		e.marks.Stroke = song.Up
	default:
		if len(stroke) == len(e.notes) && isPlucked(stroke) {
			for i := range e.notes {
				e.notes[i].Pluck = song.Pluck(1 + strings.IndexByte(song.Plucks, stroke[i]))
			}
		}
	}
	a := over(s.accents)
	e.marks.Accent, e.marks.Short = strings.Contains(a, ">"), e.marks.Short || strings.Contains(a, ".")
	e.marks.PalmMute, e.marks.Ring = holds(s.muted, e.column), holds(s.ringing, e.column)
}

// texts reads the names over a bar and the words below it.
func (s *system) texts(r *Reader, b *scanned, m *measured, at func(int) pitch.Frac) {
	for _, w := range s.names {
		if w.at >= b.from-1 && w.at < b.to && !isOwn(w.text) {
			m.names = append(m.names, timedText{at(max(w.at, b.from)), 0, w.text})
		}
	}
	for verse, row := range s.sung {
		for _, w := range row {
			if w.at >= b.from-1 && w.at < b.to {
				m.sung = append(m.sung, timedText{at(w.at), verse, w.text})
			}
		}
	}
}
