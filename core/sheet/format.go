package sheet

import (
	"strconv"
	"strings"
	"unicode/utf8"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// Format writes the sheet in its canonical layout. Reading it again gives the
// same song; comments and blank lines stay where they were, and lines with
// errors stay as they were typed.
func (s *Sheet) Format() string {
	var b strings.Builder
	for i := 0; i < len(s.Lines); {
		if s.Lines[i].Kind != Music {
			b.WriteString(s.plain(s.Lines[i]))
			b.WriteByte('\n')
			i++
			continue
		}
		end := i
		for end < len(s.Lines) && s.Lines[end].Kind == Music {
			end++
		}
		s.block(&b, s.Lines[i:end])
		i = end
	}
	// Blank lines at the end would not be read again.
	return strings.TrimRight(b.String(), "\n") + "\n"
}

func (s *Sheet) plain(l Line) string {
	if l.Kind == PartName {
		return l.Text + ":"
	}
	return strings.TrimRight(l.Text, " \t")
}

// block writes lines of bars that follow one another with their bar lines
// aligned.
func (s *Sheet) block(b *strings.Builder, lines []Line) {
	texts := make([][]string, len(lines))
	var widths []int
	lead := 0
	for i, l := range lines {
		if head := l.head(); head != "" {
			lead = max(lead, utf8.RuneCountInString(head)+1)
		}
		meter := song.FourFour
		if l.Part >= 0 && l.Part < len(s.Song.Parts) {
			meter = s.Song.Parts[l.Part].Meter
		}
		cells := l.Words
		for _, bar := range l.Bars {
			cells = append(cells, formatBar(bar, meter))
		}
		for j, text := range cells {
			texts[i] = append(texts[i], text)
			if j == len(widths) {
				widths = append(widths, 0)
			}
			widths[j] = max(widths[j], utf8.RuneCountInString(text))
		}
	}
	for i, l := range lines {
		b.WriteString(l.head())
		b.WriteString(strings.Repeat(" ", lead-utf8.RuneCountInString(l.head())))
		for j, text := range texts[i] {
			b.WriteString("| " + text)
			b.WriteString(strings.Repeat(" ", widths[j]-utf8.RuneCountInString(text)+1))
		}
		b.WriteString("|")
		if l.Times > 1 {
			b.WriteString(" x" + strconv.Itoa(l.Times))
		}
		b.WriteByte('\n')
	}
}

// head is what stands before the first bar line: the number of the bar that is
// replaced, and who plays it.
func (l *Line) head() string {
	if l.From == 0 {
		return l.Player
	}
	return strings.TrimSpace(strconv.Itoa(l.From) + " " + l.Player)
}

// formatBar writes the slots of a bar, its beats set apart where the slots
// divide evenly among them.
func formatBar(b Bar, meter song.Meter) string {
	sure := ""
	if b.Unsure {
		sure = " " + unsureSign
	}
	if b.Same {
		return "%" + sure
	}
	var out strings.Builder
	if b.Meter != (song.Meter{}) {
		meter = b.Meter
		out.WriteString("[" + meter.String() + "] ")
	}
	n, beats := len(b.Slots), int(meter.Bar().Div(meter.Beat()).Floor())
	for i, s := range b.Slots {
		if i > 0 {
			out.WriteByte(' ')
			if n > beats && n%beats == 0 && i%(n/beats) == 0 {
				out.WriteByte(' ')
			}
		}
		formatSlot(&out, s)
	}
	return out.String() + sure
}

func formatSlot(b *strings.Builder, s Slot) {
	switch s.Kind {
	case Sustain:
		b.WriteByte('-')
	case Bracket:
		b.WriteByte('(')
		for i, inner := range s.Group {
			if i > 0 {
				b.WriteByte(' ')
			}
			formatSlot(b, inner)
		}
		b.WriteByte(')')
	default:
		e := s.Event
		if s.Number != "" {
			e.Chord.Symbol = s.Number
		}
		b.WriteString(FormatEvent(&e))
	}
}

// FormatEvent writes an event as the slot that is typed for it.
func FormatEvent(e *song.Event) string {
	var b strings.Builder
	switch e.Kind {
	case song.Rest:
		return "."
	case song.NoChord:
		return "NC"
	case song.Strum:
		b.WriteByte('x')
	case song.Chord:
		b.WriteString(e.Chord.Symbol)
		if e.Frets != neck.NoFrets {
			formatVoicing(&b, e)
		}
	case song.Notes:
		for i, n := range e.Notes {
			if i > 0 {
				b.WriteByte('+')
			}
			formatNote(&b, n)
		}
	}
	for _, mark := range []struct {
		on   bool
		sign byte
	}{
		{e.Vibrato, '~'}, {e.Short, '\''}, {e.Ring, '_'}, {e.PalmMute, '*'}, {e.Accent, '!'},
		{e.Stroke == song.Down, 'v'}, {e.Stroke == song.Up, '^'}, {e.Optional, '?'},
	} {
		if mark.on {
			b.WriteByte(mark.sign)
		}
	}
	return b.String()
}

func formatNote(b *strings.Builder, n song.Note) {
	for sign, t := range techniques {
		if n.By == t {
			b.WriteByte(sign)
		}
	}
	glide(b, n.In)
	if n.Dead {
		b.WriteByte('x')
	} else {
		b.WriteString(strconv.Itoa(n.Fret))
	}
	b.WriteString(n.String.String())
	if n.Bend != 0 {
		b.WriteString("b" + strconv.FormatFloat(float64(n.Bend)/100, 'f', -1, 64))
	}
	if n.Harmonic {
		b.WriteByte('o')
	}
	glide(b, n.Off)
	formatFingers(b, n)
}

func glide(b *strings.Builder, g song.Glide) {
	for sign, of := range glides {
		if g == of {
			b.WriteByte(sign)
		}
	}
}
