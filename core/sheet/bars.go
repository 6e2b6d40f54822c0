package sheet

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// musicLine reads a line of bars and adds it to the part.
func (p *parser) musicLine(n, column int, text string) {
	if head, _, _ := strings.Cut(text, "|"); isWords(head) {
		p.wordsLine(n, column, text)
		return
	}
	before := len(p.sheet.Problems)
	l := Line{Kind: Music, Times: 1, Part: len(p.sheet.Song.Parts) - 1}
	head, _, _ := strings.Cut(text, "|")
	names := strings.Fields(head)
	if len(names) > 0 && p.like.of != "" {
		if from, err := strconv.Atoi(names[0]); err == nil && from > 0 {
			l.From, names = from, names[1:]
		}
	}
	l.Player = strings.Join(names, " ")
	if l.Player != "" && !validPlayer(l.Player) {
		mend := "write the player's name in plain words before the first |"
		if _, err := strconv.Atoi(l.Player); err == nil {
			mend = "remove it; a bar's number stands only in a part that has a line like: Verse"
		} else if looksLikeMusic(l.Player) {
			mend = "begin the line with |"
		}
		p.errorf(n, column, mend, "%q before the first bar line is not a player's name", l.Player)
	}
	body := []rune(text[len(head):])
	at := column + utf8.RuneCountInString(head)
	last := len(body) - 1
	for body[last] != '|' {
		last--
	}
	// What follows the last bar line is a repeat, or a bar that was not
	// closed yet.
	tail := strings.TrimSpace(string(body[last+1:]))
	if rest, times := cutTimes(tail); tail != "" && (times > 0 || strings.HasSuffix(tail, "x0")) && rest == "" {
		if times < 1 || times > MaxTimes {
			p.errorf(n, at+last+1, fmt.Sprintf("repeat the line 1 to %d times", MaxTimes), "a line cannot be repeated that many times")
			times = 1
		}
		l.Times = times
		body = body[:last+1]
	} else if tail != "" {
		body = append(body, ' ', '|')
	}
	if len(body) == 1 {
		p.errorf(n, at, "write slots and a second | after it", "the line has no bar")
	}
	start := 0
	for i := 1; i < len(body); i++ {
		if body[i] == '|' {
			l.Bars = append(l.Bars, p.bar(n, at+start, body[start+1:i]))
			start = i
		}
	}
	if len(p.sheet.Problems) > before && !p.onlyWarnings(before) {
		l.Kind, l.Text = AsTyped, text
	}
	p.keep(l)
	switch {
	case p.parts == 0:
		p.errorf(n, column, "put a part's name and a colon above the bars, like Verse:", "these bars belong to no part")
	case p.part == nil || len(l.Bars) == 0 || (l.Kind == AsTyped && l.Player != "" && !validPlayer(l.Player)):
	case p.bars+len(l.Bars) > MaxBars:
		if !p.full {
			p.errorf(n, column, "use repeats (x3, %) or split the song", "the sheet has more than %d bars", MaxBars)
		}
		p.full = true
	default:
		p.add(n, column, l)
	}
}

// add adds a line of bars to the part, or keeps it for the bars that it replaces.
func (p *parser) add(n, column int, l Line) {
	p.bars += len(l.Bars)
	one := typedLine{place{n, column}, l}
	switch {
	case p.like.of == "":
		p.music = append(p.music, one)
		p.place(n, column, l)
	case l.From == 0:
		p.errorf(n, column, "write the number of the first bar that is replaced in front, as in 4 | C5 - D5 - |",
			"the part is like %s and takes over its bars", p.like.of)
	case l.Times > 1:
		p.errorf(n, column, "remove the repeat; the bars are played as often as those that they replace", "a line that replaces bars cannot be repeated")
	default:
		p.like.replaced = append(p.like.replaced, one)
	}
}

func (p *parser) onlyWarnings(from int) bool {
	for _, q := range p.sheet.Problems[from:] {
		if q.Severity == Error {
			return false
		}
	}
	return true
}

// validPlayer tells whether a text can name a player: words that start with a
// letter and are not slots themselves.
func validPlayer(s string) bool {
	first, _ := utf8.DecodeRuneInString(s)
	if !unicode.IsLetter(first) || looksLikeMusic(s) || len(s) > 40 {
		return false
	}
	for _, r := range s {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune(" -_'.", r) {
			return false
		}
	}
	return true
}

// unsureSign stands behind the last slot of a bar that the teacher is not sure of.
const unsureSign = "?"

// bar reads what stands between two bar lines. column is that of the first.
func (p *parser) bar(n, column int, inside []rune) Bar {
	b := Bar{Column: column}
	list := words(inside, column+1, p.numbers)
	if len(list) > 0 && strings.HasPrefix(list[0].text, "[") {
		text := strings.TrimSuffix(list[0].text[1:], "]")
		m, err := song.ParseMeter(text)
		if err != nil || text == list[0].text[1:] {
			p.errorf(n, list[0].column, "write the time of a single bar like [2/4] and a space after it", "%q is not the time of a bar", list[0].text)
			return b
		}
		b.Meter, list = m, list[1:]
	}
	if last := len(list) - 1; last > 0 && list[last].text == unsureSign {
		b.Unsure, list = true, list[:last]
	}
	if len(list) == 1 && list[0].text == "%" {
		if b.Meter != (song.Meter{}) {
			p.errorf(n, column, "write | % | alone, or the bar out", "%% is in the time of the bar that it repeats")
		}
		b.Same = true
		return b
	}
	if len(list) == 0 {
		p.errorf(n, column, "write . for a bar of silence, or remove one bar line", "the bar is empty")
		return b
	}
	var count int
	pair(list)
	b.Slots, _ = p.slots(n, list, 0, &count)
	if count > MaxSlots {
		p.errorf(n, column, "split the bar in two", "the bar has %d slots, the limit is %d", count, MaxSlots)
		b.Slots = nil
	}
	return b
}

// slots reads the words of a bar or of a group up to the bracket that closes
// it, and returns what follows.
func (p *parser) slots(n int, list []word, depth int, count *int) ([]Slot, []word) {
	var slots []Slot
	for len(list) > 0 {
		w := list[0]
		list = list[1:]
		switch w.text {
		case closeBracket:
			if depth > 0 {
				return slots, list
			}
			p.errorf(n, w.column, "remove it, or open the group with ( before its first slot", "this bracket closes nothing")
		case openBracket:
			g := Slot{Kind: Bracket, Column: w.column}
			if depth == MaxNesting {
				p.errorf(n, w.column, "write the rhythm with fewer brackets", "brackets are nested more than %d deep", MaxNesting)
			}
			if !w.closed {
				p.errorf(n, w.column, "close the group with )", "this bracket is not closed in its bar")
			}
			g.Group, list = p.slots(n, list, depth+1, count)
			if len(g.Group) == 0 {
				p.errorf(n, w.column, "write the slots of the group inside the brackets", "the brackets are empty")
			}
			slots = append(slots, g)
		default:
			*count++
			s, err := p.readSlot(w.text)
			if err != nil {
				p.errorf(n, w.column+err.at, err.mend, "%s", err.message)
				s = Slot{Event: song.Event{Kind: song.Rest}, Unread: true}
			}
			for _, note := range s.Event.Notes {
				if capo := p.sheet.Song.Capo; note.Fret+capo > neck.MaxFret {
					p.errorf(n, w.column, fmt.Sprintf("with the capo at %d frets go to %d", capo, neck.MaxFret-capo), "fret %d is off the neck above the capo", note.Fret)
				}
			}
			s.Column = w.column
			s.Event.Line, s.Event.Column = n, w.column
			slots = append(slots, s)
		}
	}
	return slots, list
}

// pair marks the opening brackets of a bar that are closed in it.
func pair(list []word) {
	var open []int
	for i := range list {
		switch list[i].text {
		case openBracket:
			open = append(open, i)
		case closeBracket:
			if last := len(open) - 1; last >= 0 {
				list[open[last]].closed = true
				open = open[:last]
			}
		}
	}
}

// place turns a line of bars into events and adds it to the part.
func (p *parser) place(n, column int, l Line) {
	bars := make([]song.Bar, len(l.Bars))
	for i, b := range l.Bars {
		bars[i].Unsure = b.Unsure
		if b.Same {
			bars[i].Same = true
			switch prev := p.previous(l.Player, bars[:i]); {
			case prev == nil:
				p.errorf(n, b.Column, "write the bar out", "%% has no bar before it to repeat")
			case prev.Lead.Num() > 0:
				p.errorf(n, b.Column, "write the bar out", "%% cannot repeat a pickup")
			default:
				p.repeat(&bars[i], prev, l.Player)
			}
			continue
		}
		p.measure(&bars[i], l, i)
		f := filler{parser: p, line: n, player: l.Player, bar: &bars[i]}
		f.fill(b.Slots, bars[i].Lead, p.part.Measure(&bars[i]).Length())
	}
	if l.Player == "" {
		line := song.Line{Bars: bars, Times: l.Times}
		for _, v := range p.orphans {
			p.attach(&line, v, p.orphan)
		}
		p.orphans = nil
		p.part.Lines = append(p.part.Lines, line)
		return
	}
	v := song.Voice{Player: l.Player, Bars: bars, Times: l.Times}
	if len(p.part.Lines) == 0 {
		if len(p.orphans) == 0 {
			p.orphan = place{n, column}
		}
		p.orphans = append(p.orphans, v)
		return
	}
	p.attach(&p.part.Lines[len(p.part.Lines)-1], v, place{n, column})
}

// measure gives the i-th bar of a line its time: its own, that of the bar that it
// runs beside, or what is left for a pickup.
func (p *parser) measure(b *song.Bar, l Line, i int) {
	b.Meter = l.Bars[i].Meter
	lines := p.part.Lines
	if l.Player != "" && len(lines) > 0 {
		if main := lines[len(lines)-1]; main.Times == l.Times && i < len(main.Bars) {
			b.Lead = main.Bars[i].Lead
			if b.Meter == (song.Meter{}) {
				b.Meter = main.Bars[i].Meter
			}
		}
		return
	}
	if i > 0 || len(lines) > 0 || p.pickup.beats.Num() == 0 {
		return
	}
	m := p.part.Measure(b)
	length := m.Meter.Beat().Mul(p.pickup.beats)
	if !length.Less(m.Meter.Bar()) {
		if l.Player == "" {
			p.errorf(p.pickup.place.line, p.pickup.place.column, "give it fewer beats than a bar has, or leave the line out", "the pickup is as long as a whole bar")
		}
		return
	}
	b.Lead = m.Meter.Bar().Sub(length)
}

// repeat fills a bar with the events of the one before it.
func (p *parser) repeat(b, prev *song.Bar, player string) {
	b.Events, b.Meter = slices.Clone(prev.Events), prev.Meter
	lead := p.part.Measure(b).Length()
	if len(b.Events) > 0 {
		lead = b.Events[0].Start
	}
	// A bar that begins with a held sound holds the end of the one before.
	if e := p.held[player]; e != nil {
		e.Length = e.Length.Add(lead)
	}
	if n := len(b.Events); n > 0 {
		p.held[player] = &b.Events[n-1]
	}
}

// barCount says how many bars there are.
func barCount(n int) string {
	if n == 1 {
		return "one bar"
	}
	return strconv.Itoa(n) + " bars"
}

// attach puts a player's line beside the first player's.
func (p *parser) attach(l *song.Line, v song.Voice, at place) {
	have, want := len(v.Bars)*v.Times, len(l.Bars)*l.Times
	if have != want {
		p.errorf(at.line, at.column, "give both lines the same number of bars, repeats counted",
			"%s has %s, the line it runs beside has %s", v.Player, barCount(have), barCount(want))
		return
	}
	if p.part.Lasts(v.Bars, v.Times) != p.part.Lasts(l.Bars, l.Times) {
		p.errorf(at.line, at.column, "write the same [times] in front of its bars", "%s takes another time than the line it runs beside", v.Player)
		return
	}
	for _, o := range l.Beside {
		if o.Player == v.Player {
			p.errorf(at.line, at.column, "give the player another name, or put the line below the next line of bars",
				"%s already has a line here", v.Player)
			return
		}
	}
	l.Beside = append(l.Beside, v)
}

// previous is the bar of a player before the next one of a line.
func (p *parser) previous(player string, line []song.Bar) *song.Bar {
	if len(line) > 0 {
		return &line[len(line)-1]
	}
	for i := len(p.part.Lines) - 1; i >= 0; i-- {
		l := &p.part.Lines[i]
		if player == "" {
			return &l.Bars[len(l.Bars)-1]
		}
		for _, v := range l.Beside {
			if v.Player == player {
				return &v.Bars[len(v.Bars)-1]
			}
		}
	}
	return nil
}

// closePart ends the part that is being read.
func (p *parser) closePart() {
	p.takeOver()
	if p.part != nil {
		for _, e := range strummed(p.part) {
			p.warnf(e.Line, e.Column, "write the bar's strokes out", "%s does not go into this bar, which is played as it is typed", p.part.Strum)
		}
	}
	for _, v := range p.orphans {
		p.errorf(p.orphan.line, p.orphan.column, "write the first player's line without a name, and this one below it",
			"%s has no line to run beside", v.Player)
	}
	p.orphans = nil
	if p.part != nil && len(p.part.Lines) == 0 && len(p.sheet.Lines) > 0 && !p.full {
		p.warnf(p.partLineNumber(), 1, "write its bars below the name, like | 0E - 3E - |", "%s has no bars", p.part.Name)
	}
}

// partLineNumber finds the line of the part that was read last.
func (p *parser) partLineNumber() int {
	for i := len(p.sheet.Lines) - 1; i >= 0; i-- {
		if p.sheet.Lines[i].Kind == PartName {
			return i + 1
		}
	}
	return 1
}

// filler puts the slots of one bar into it as events.
type filler struct {
	*parser
	line   int
	player string
	bar    *song.Bar
}

// fill shares the time from start among slots.
func (f *filler) fill(slots []Slot, start, length pitch.Frac) {
	if len(slots) == 0 {
		return
	}
	each := length.Div(pitch.Whole(int64(len(slots))))
	for _, s := range slots {
		f.slot(s, start, each)
		start = start.Add(each)
	}
}

// release warns of a string that is let down and was not bent.
func (f *filler) release(e *song.Event) {
	for _, n := range e.Notes {
		if n.By != song.Released {
			continue
		}
		before := f.held[f.player]
		if before == nil || !slices.ContainsFunc(before.Notes, func(o song.Note) bool { return o.String == n.String && o.Bend != 0 }) {
			f.warnf(f.line, e.Column, "write the bend before it, like 7Gb2 r7G", "the %s string is let down here, but it was not bent", n.String)
		}
	}
}

func (f *filler) slot(s Slot, start, length pitch.Frac) {
	switch s.Kind {
	case Bracket:
		f.fill(s.Group, start, length)
		return
	case Sustain:
		if e := f.held[f.player]; e != nil {
			e.Length = e.Length.Add(length)
			return
		}
		f.warnf(f.line, s.Column, "begin with a note, or with . for silence", "nothing sounds yet that could go on")
		s.Event = song.Event{Kind: song.Rest, Line: f.line, Column: s.Column}
	}
	e := s.Event
	e.Start, e.Length = start, length
	f.release(&e)
	if s.Number != "" { // in the key of the part, which may be like one in another
		if c, err := chord.ParseNumber(s.Number, f.part.Key, true); err == nil && c.Symbol != e.Chord.Symbol {
			e.Chord, e.Frets = c, neck.NoFrets
		}
	}
	// Events are reached through the slice, which may move while it grows.
	f.bar.Events = append(f.bar.Events, e)
	f.held[f.player] = &f.bar.Events[len(f.bar.Events)-1]
}
