package sheet

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// slotError is what is wrong with one slot. at counts characters from the
// start of the slot.
type slotError struct {
	at            int
	message, mend string
}

// bracket is a word of the scanner that opens or closes a group.
const (
	openBracket  = "("
	closeBracket = ")"
)

// word is a piece of a bar: a slot or a bracket.
type word struct {
	text   string
	column int
	closed bool // of an opening bracket: it is closed in its bar
}

// longestSymbol is how far a bracket in a chord symbol may be from the one that
// closes it.
const longestSymbol = 64

// words splits the inside of a bar at spaces and brackets. A bracket that
// belongs to a chord symbol, as in C7(b9), stays in its word; to a number, as in 5(7), where
// chords are typed as such.
func words(inside []rune, column int, numbers bool) []word {
	var list []word
	for i := 0; i < len(inside); {
		r := inside[i]
		switch {
		case unicode.IsSpace(r):
			i++
		case r == '(' || r == ')':
			list = append(list, word{text: string(r), column: column + i})
			i++
		default:
			start := i
			for i < len(inside) && !unicode.IsSpace(inside[i]) && inside[i] != ')' {
				if inside[i] == '(' {
					end := closing(inside[:min(i+longestSymbol, len(inside))], i)
					if end < 0 || !begins(inside[start:i], numbers) {
						break
					}
					i = end
				}
				i++
			}
			list = append(list, word{text: string(inside[start:i]), column: column + start})
		}
	}
	return list
}

// begins tells whether a chord's symbol or number begins like this.
func begins(text []rune, numbers bool) bool {
	return text[0] >= 'A' && text[0] <= 'G' || numbers && chord.IsNumber(string(text))
}

// closing finds the bracket that closes the one at i before the next space.
func closing(inside []rune, i int) int {
	for j := i + 1; j < len(inside) && !unicode.IsSpace(inside[j]) && inside[j] != '('; j++ {
		if inside[j] == ')' {
			return j
		}
	}
	return -1
}

// parseSlot reads one slot that is not a group.
func parseSlot(text string) (Slot, *slotError) {
	text = strings.ReplaceAll(text, "’", "'")
	s, err := parseEvent(text)
	if err != nil {
		if meant, ok := turned(text); ok {
			return s, &slotError{0, fmt.Sprintf("%q has the string before the fret", text), "write " + meant}
		}
	}
	return s, err
}

// readSlot reads one slot, which where chords are typed as numbers may be one.
func (p *parser) readSlot(text string) (Slot, *slotError) {
	s, err := parseSlot(text)
	if err == nil || !p.numbers || !chord.IsNumber(text) {
		return s, err
	}
	typed, voicing, voiced := strings.Cut(text, "=")
	number, marks := typed, ""
	if !voiced {
		number, marks = chord.CutNumber(typed, eventSigns)
	}
	key := p.sheet.Song.Key
	if p.part != nil {
		key = p.part.Key
	}
	c, bad := chord.ParseNumber(number, key, true)
	if bad != nil {
		return s, &slotError{0, malformed(bad).What, malformed(bad).Mend}
	}
	// What is left is read as it is behind a chord's name.
	rest := marks
	if voiced {
		rest = "=" + voicing
	}
	s, err = parseChord("C" + rest)
	if err != nil {
		err.at += len([]rune(number)) - 1
		return s, err
	}
	s.Event.Chord, s.Number = c, number
	return s, nil
}

// eventSigns are the marks of an event that may stand behind a chord.
const eventSigns = "v^*!~'_?"

// parseEvent reads a slot as what it begins like.
func parseEvent(text string) (Slot, *slotError) {
	switch text {
	case "-", "–", "—", "−":
		return Slot{Kind: Sustain}, nil
	case ".":
		return Slot{Event: song.Event{Kind: song.Rest}}, nil
	case "NC", "N.C.":
		return Slot{Event: song.Event{Kind: song.NoChord}}, nil
	case unsureSign:
		return Slot{}, &slotError{0, "? stands behind the last slot of a bar that you are not sure of, or behind a note that not everybody plays", "write what is played before it, or . for silence"}
	case "%":
		return Slot{}, &slotError{0, "% repeats a whole bar and stands alone in it", "write | % | for the bar, or - for a slot that goes on"}
	}
	first := text[0]
	switch {
	case first >= 'A' && first <= 'G':
		return parseChord(text)
	case first == 'x' && !startsNote(text):
		return parseStrum(text)
	case startsNote(text):
		return parseNotes(text)
	}
	return Slot{}, unknownSlot(text)
}

// startsNote tells whether a slot begins like a note: 7A, h7A, xA.
func startsNote(text string) bool {
	rest := strings.TrimLeft(text[:1], `hpstr/\`) + text[1:]
	if rest == "" {
		return false
	}
	if rest[0] >= '0' && rest[0] <= '9' {
		return true
	}
	if text[0] != 'x' || len(text) < 2 {
		return false
	}
	_, ok := neck.ParseString(text[1:2])
	return ok
}

func unknownSlot(text string) *slotError {
	mend := "write a note like 7A, a chord like Em7, x for a dead strum, - to hold or . for silence"
	if len(text) > 1 && text[0] >= 'a' && text[0] <= 'g' {
		mend = fmt.Sprintf("chords begin with a capital: %s%s; a note has its fret first, like 7A", strings.ToUpper(text[:1]), text[1:])
	}
	if n, err := strconv.Atoi(strings.TrimLeft(text, "x×")); err == nil && n > 0 && (text[0] == 'x' || strings.HasPrefix(text, "×")) {
		mend = "a repeat stands after the last bar line: … | x" + strconv.Itoa(n)
	}
	return &slotError{0, fmt.Sprintf("%q is not a slot", text), mend}
}

// parseStrum reads x with its marks.
func parseStrum(text string) (Slot, *slotError) {
	s := Slot{Event: song.Event{Kind: song.Strum}}
	rest, err := cutMarks(text[1:], &s.Event.Marks)
	if err != nil || rest != "" {
		return Slot{}, unknownSlot(text)
	}
	return s, nil
}

// parseChord reads a chord by name, with its voicing after = where one is
// given.
func parseChord(text string) (Slot, *slotError) {
	s := Slot{Event: song.Event{Kind: song.Chord, Frets: neck.NoFrets}}
	end := len(strings.TrimRight(text, eventSigns))
	symbol, shape, voiced := strings.Cut(text[:end], "=")
	if _, err := cutMarks(text[end:], &s.Event.Marks); err != nil {
		return Slot{}, &slotError{len([]rune(text[:end])), err.message, err.mend}
	}
	c, err := chord.Parse(symbol)
	var syntax *chord.SyntaxError
	if errors.As(err, &syntax) {
		e := &slotError{len([]rune(symbol[:syntax.Offset])), err.Error(), "expected " + syntax.Want}
		e.message, _, _ = strings.Cut(e.message, "; expected")
		return Slot{}, e
	}
	s.Event.Chord = c
	if voiced {
		shape, fingers, fingered := strings.Cut(shape, ":")
		f, err := neck.ParseFrets(shape)
		if err != nil {
			bad := malformed(err)
			return Slot{}, &slotError{len([]rune(symbol)) + 1, bad.What, bad.Mend}
		}
		s.Event.Frets = f
		if fingered {
			if err := parseFingers(fingers, &s.Event); err != nil {
				err.at += len([]rune(symbol)) + 1 + len([]rune(shape)) + 1
				return Slot{}, err
			}
		}
	}
	return s, nil
}

// parseNotes reads one note or several joined by +.
func parseNotes(text string) (Slot, *slotError) {
	s := Slot{Event: song.Event{Kind: song.Notes}}
	at := 0
	for i, piece := range strings.Split(text, "+") {
		if i > 0 {
			at++
		}
		n, err := parseNote(piece, &s.Event.Marks)
		if err != nil {
			err.at += at
			return Slot{}, err
		}
		if slices.ContainsFunc(s.Event.Notes, func(o song.Note) bool { return o.String == n.String }) {
			return Slot{}, &slotError{at, fmt.Sprintf("the %s string is played twice at once", n.String), "put one of the two notes on another string"}
		}
		s.Event.Notes = append(s.Event.Notes, n)
		at += len([]rune(piece))
	}
	slices.SortFunc(s.Event.Notes, func(a, b song.Note) int { return int(b.String) - int(a.String) })
	return s, nil
}

var (
	techniques = map[byte]song.Technique{'h': song.Hammered, 'p': song.PulledOff, 's': song.Slid, 't': song.Tapped, 'r': song.Released}
	glides     = map[byte]song.Glide{'/': song.Rising, '\\': song.Falling}
)

// parseNote reads one note and adds the marks of its event to m.
func parseNote(text string, m *song.Marks) (song.Note, *slotError) {
	var n song.Note
	rest := text
	at := func() int { return len([]rune(text)) - len([]rune(rest)) }
	if rest == "" {
		return n, &slotError{0, "a note is missing beside +", "write both notes, like 7A+9D"}
	}
	if t, ok := techniques[rest[0]]; ok {
		n.By, rest = t, rest[1:]
	} else if g, ok := glides[rest[0]]; ok {
		n.In, rest = g, rest[1:]
	}
	if strings.HasPrefix(rest, "x") && n.By == song.Picked && n.In == song.NoGlide {
		n.Dead, rest = true, rest[1:]
	} else {
		digits := rest[:len(rest)-len(strings.TrimLeft(rest, "0123456789"))]
		if digits == "" {
			return n, &slotError{at(), fmt.Sprintf("%q has no fret", text), "write the fret before the string, like 7A"}
		}
		fret, err := strconv.Atoi(digits)
		if err != nil || fret > neck.MaxFret {
			return n, &slotError{at(), fmt.Sprintf("fret %s is off the neck", digits), fmt.Sprintf("frets go from 0 to %d", neck.MaxFret)}
		}
		if fret == 0 && n.In != song.NoGlide {
			return n, &slotError{at(), "an open string cannot be slid into", "remove the slide or give the note a fret"}
		}
		n.Fret, rest = fret, rest[len(digits):]
	}
	name := ""
	if rest != "" {
		name = rest[:1]
	}
	s, ok := neck.ParseString(name)
	if !ok {
		const mend = "strings are E A D G B e, low to high"
		if _, lower := neck.ParseString(strings.ToUpper(name)); lower {
			return n, &slotError{at(), fmt.Sprintf("%q is not a string", name), fmt.Sprintf("%s; write %s", mend, strings.ToUpper(name))}
		}
		return n, &slotError{at(), fmt.Sprintf("%q has no string", text), "write the string after the fret, like 7A; " + mend}
	}
	n.String, rest = s, rest[1:]
	for rest != "" {
		switch rest[0] {
		case 'b':
			amount := rest[1 : len(rest)-len(strings.TrimLeft(rest[1:], "0123456789."))]
			v, err := strconv.ParseFloat(amount, 64)
			switch {
			case err != nil || v < 0.01 || v > 4:
				return n, &slotError{at(), fmt.Sprintf("bend %q is not a number of semitones", "b"+amount), "write b1, b2 or b0.5, at most b4"}
			case n.Dead || n.Fret == 0:
				return n, &slotError{at(), "only a fretted note can be bent", "remove the bend or give the note a fret"}
			}
			n.Bend, rest = int(math.Round(v*100)), rest[1+len(amount):]
		case ':':
			left, err := cutFingers(rest, &n)
			if err != nil {
				err.at += at()
				return n, err
			}
			rest = left
		case 'o':
			n.Harmonic, rest = true, rest[1:]
		case '/', '\\':
			if n.Dead || n.Fret == 0 {
				return n, &slotError{at(), "only a fretted note can be slid off", "remove the slide or give the note a fret"}
			}
			if off := glides[rest[0]]; n.Off != song.NoGlide && n.Off != off {
				return n, &slotError{at(), "a note cannot be slid off up and down at once", "keep / or \\"}
			}
			n.Off, rest = glides[rest[0]], rest[1:]
		default:
			after, err := cutMarks(rest, m)
			if err != nil {
				err.at += at()
				return n, err
			}
			if after == rest {
				return n, &slotError{at(), fmt.Sprintf("%q after the note is not a mark", rest),
					"marks are b1 ~ ' o / \\ _ after the note, :3 for a finger, * for palm muted, ! for an accent, v and ^ for strokes, ? where not everybody plays it; join notes with +"}
			}
			rest = after
		}
	}
	return n, nil
}

// cutMarks reads the marks of an event from the start of s into m.
func cutMarks(s string, m *song.Marks) (rest string, err *slotError) {
	for i, r := range s {
		switch r {
		case 'v', '^':
			stroke := song.Down
			if r == '^' {
				stroke = song.Up
			}
			if m.Stroke != song.NoStroke && m.Stroke != stroke {
				return s, &slotError{len([]rune(s[:i])), "a stroke cannot go down and up at once", "keep v or ^"}
			}
			m.Stroke = stroke
		case '!':
			m.Accent = true
		case '*':
			m.PalmMute = true
		case '\'':
			m.Short = true
		case '~':
			m.Vibrato = true
		case '_':
			m.Ring = true
		case '?':
			m.Optional = true
		default:
			return s[i:], nil
		}
	}
	return "", nil
}
