package words

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/formats/plain"
	"valleyside/formats/take"
)

// Limits of what is read.
const (
	MaxBytes = 512 << 10
	maxBars  = 2000
)

// Options say how a text is read.
type Options struct {
	// PerBar is how many chords have a bar between them where no bar lines stand; 0 is
	// guessed from how many stand on a line.
	PerBar int
}

// Read reads words with chords above them, or in brackets among them. The error says why
// there is nothing to be read.
func Read(data []byte, o Options, problems *take.Problems) (*take.Score, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the text has more than %d KB", MaxBytes>>10)
	}
	text := strings.NewReplacer("\r\n", "\n", "\r", "\n", "\t", "        ", "\u00a0", " ", "♯", "#", "♭", "b").Replace(strings.ToValidUTF8(string(data), "?"))
	r := reader{Around: plain.New(problems), lines: strings.Split(text, "\n")}
	for i := range r.lines {
		r.lines[i] = strings.TrimRight(r.lines[i], " ")
		r.Score.Own = r.Score.Own || r.lines[i] == written
	}
	if r.perBar = o.PerBar; r.perBar < 1 || r.perBar > 8 {
		r.perBar = r.guess()
	}
	r.read()
	if len(r.Score.Bars) == 0 {
		return nil, errors.New("there are no chords in it: a line of chord names stands above the words, or they stand in brackets among them")
	}
	if r.guessed && o.PerBar == 0 {
		r.Problems.Say("", "say how many chords have a bar between them, or write bar lines, if that is not so", "no bar lines stand in it; %s taken", perBar(r.perBar))
	}
	if slices.ContainsFunc(r.Score.Bars[1:], func(b take.Bar) bool { return b.Section != "" }) && r.Score.Bars[0].Section == "" {
		r.Score.Bars[0].Section = "Verse"
	}
	r.player.Placed, r.player.Tuning, r.player.Capo = true, r.Tuning, r.Capo
	r.Score.Players = []take.Player{r.player}
	r.Score.Own = false // its chords are not tied to shapes
	return r.Score, nil
}

func perBar(n int) string {
	if n == 1 {
		return "a bar for each chord is"
	}
	return fmt.Sprintf("a bar for every %d chords is", n)
}

// Is tells whether a text looks like words with chords: at least two lines of chords or
// with chords in brackets.
func Is(data []byte) bool {
	n := 0
	for _, l := range strings.Split(string(data[:min(len(data), MaxBytes)]), "\n") {
		l = strings.TrimRight(strings.ReplaceAll(l, "\t", "        "), " \r")
		if list, ok := chordLine(l); ok && len(list) > 0 || len(bracketed(l)) > 0 {
			n++
		}
	}
	return n >= 1
}

type reader struct {
	plain.Around
	lines   []string
	player  take.Player
	perBar  int
	guessed bool // bars were made of chords without bar lines
	line    bool // the next bar begins a line
	next    bool // and a part without a name of its own
}

// token is a word of a line of chords, and its column.
type token struct {
	at   int
	text string
}

// chordLine cuts a line of chords; ok is false where a word of it is none.
func chordLine(line string) (list []token, ok bool) {
	chords := 0
	runes := []rune(strings.ReplaceAll(line, "|", " | "))
	column := make([]int, 0, len(runes)) // of each rune in the line as it is
	at := 0
	for _, c := range line {
		if c == '|' {
			column = append(column, at, at, at)
		} else {
			column = append(column, at)
		}
		at++
	}
	for i := 0; i < len(runes); {
		if runes[i] == ' ' {
			i++
			continue
		}
		j := i
		for j < len(runes) && runes[j] != ' ' {
			j++
		}
		text := string(runes[i:j])
		if strings.HasPrefix(text, "(") && strings.HasSuffix(text, ")") { // a chord that may be left out
			text = text[1 : len(text)-1]
		}
		i, j = j, i
		switch {
		case text == "|" || text == stays || text == riff || text == "-" || text == "." || text == "%" || timesPattern.MatchString(text) || text == ":" || text == "||":
		case text == noChord || text == "NC" || text == "N.C":
			chords++
			text = noChord
		default:
			if _, err := chord.Parse(text); err != nil {
				return nil, false
			}
			chords++
		}
		list = append(list, token{column[j], text})
	}
	bars := strings.Contains(line, "|")
	return list, chords > 0 || bars && len(list) > 0
}

var (
	timesPattern   = regexp.MustCompile(`^[x×](\d{1,2})$|^(\d{1,2})[x×]$`)
	bracketPattern = regexp.MustCompile(`\[([A-G][^\]\s]{0,12}|N\.?C\.?)\]`)
	bracePattern   = regexp.MustCompile(`^\s*\{\s*([a-z_]+)\s*(?::\s*(.*?))?\s*\}\s*$`)
)

// bracketed finds chords in brackets among words.
func bracketed(line string) (list []token) {
	for _, m := range bracketPattern.FindAllStringSubmatchIndex(line, -1) {
		name := line[m[2]:m[3]]
		if _, err := chord.Parse(name); err == nil || strings.HasPrefix(name, "N") {
			list = append(list, token{m[0], name})
		}
	}
	if len(list) == 1 && strings.TrimSpace(line) == "["+list[0].text+"]" && len(list[0].text) == 1 {
		return nil // rather a part's name
	}
	return list
}

// Guessed is how many chords Read takes for a bar of a text without bar lines.
func Guessed(data []byte) int {
	r := reader{lines: strings.Split(string(data), "\n")}
	return r.guess()
}

// guess is how many chords have a bar between them, from how many stand on most lines:
// a line of words mostly has four bars, or two.
func (r *reader) guess() int {
	var counts []int
	for _, l := range r.lines {
		n := len(bracketed(l))
		if list, ok := chordLine(l); ok && !strings.Contains(l, "|") {
			n = len(list)
		}
		if n > 0 {
			counts = append(counts, n)
		}
	}
	if len(counts) == 0 {
		return 1
	}
	slices.Sort(counts)
	if counts[len(counts)/2] >= 6 {
		return 2
	}
	return 1
}

func (r *reader) read() {
	for i := 0; i < len(r.lines); i++ {
		line := r.lines[i]
		switch list, ok := chordLine(line); {
		case line == written || strings.TrimSpace(line) == "":
			if r.Section == "" && len(r.Score.Bars) > 0 && line == "" {
				r.paragraph(i)
			}
		case bracePattern.MatchString(line):
			r.brace(bracePattern.FindStringSubmatch(line))
		case len(bracketed(line)) > 0:
			r.among(line)
		case ok && !(len(list) == 1 && len(r.Score.Bars) == 0 && r.Score.Title == ""):
			below := ""
			if i+1 < len(r.lines) && r.isWords(r.lines[i+1]) {
				below = r.lines[i+1]
				i++
			}
			r.above(snapped(list, []rune(below)), below)
		case r.Line(line):
		case len(r.Score.Bars) == 0 && r.Head(line):
		default:
			r.Problems.Say("line "+strconv.Itoa(i+1), "write the chords above it", "words without chords are left out: %s", short(line))
		}
		if len(r.Score.Bars) > maxBars {
			r.Problems.Say("line "+strconv.Itoa(i+1), "split the song", "it has more than %d bars; the rest is left out", maxBars)
			return
		}
	}
}

// paragraph begins a part at an empty line of a text that names none.
func (r *reader) paragraph(at int) {
	for _, l := range r.lines {
		if plain.IsHeading(l) && len(bracketed(l)) == 0 {
			return
		}
	}
	for _, l := range r.lines[at:] {
		if l != "" {
			r.next = true
			return
		}
	}
}

func short(s string) string {
	s = strings.TrimSpace(s)
	if runes := []rune(s); len(runes) > 40 {
		return string(runes[:40]) + "…"
	}
	return s
}

// isWords tells whether a line is sung.
func (r *reader) isWords(line string) bool {
	if strings.TrimSpace(line) == "" || line == written || plain.IsHeading(line) || plain.IsSetting(line) || bracePattern.MatchString(line) {
		return false
	}
	_, ok := chordLine(line)
	return !ok && len(bracketed(line)) == 0
}

// brace reads a line in braces: a title, a part or a setting.
func (r *reader) brace(m []string) {
	name, value := m[1], m[2]
	switch name {
	case "t", "title":
		r.Score.Title = value
	case "st", "subtitle", "artist", "composer":
		if r.Score.By == "" {
			r.Score.By = value
		}
	case "key", "time", "tempo", "capo":
		r.Line(name + ": " + value)
	case "soc", "start_of_chorus":
		r.Line("[" + or(value, "Chorus") + "]")
	case "sov", "start_of_verse":
		r.Line("[" + or(value, "Verse") + "]")
	case "sob", "start_of_bridge":
		r.Line("[" + or(value, "Bridge") + "]")
	case "c", "comment", "ci", "cb":
		r.Line(value)
	}
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// among reads words with chords in brackets.
func (r *reader) among(line string) {
	var list []token
	text := ""
	from := 0
	for _, t := range bracketed(line) {
		text += line[from:t.at]
		name := t.text
		if strings.HasPrefix(name, "N") {
			name = noChord
		}
		list = append(list, token{len([]rune(text)), name})
		from = t.at + len(t.text) + 2
	}
	text += line[from:]
	r.above(list, text)
}

// above reads a line of chords, and what is sung below it.
func (r *reader) above(list []token, below string) {
	r.line = true
	runes := []rune(below)
	var bars [][]token
	times := 0
	if slices.ContainsFunc(list, func(t token) bool { return t.text == "|" || t.text == "||" }) {
		var bar []token
		for _, t := range list {
			switch {
			case t.text == "|" || t.text == "||":
				if len(bar) > 0 {
					bars = append(bars, bar)
				}
				bar = nil
			case timesPattern.MatchString(t.text):
				m := timesPattern.FindStringSubmatch(t.text)
				times, _ = strconv.Atoi(m[1] + m[2])
			case t.text != ":":
				bar = append(bar, t)
			}
		}
		if len(bar) > 0 {
			bars = append(bars, bar)
		}
	} else {
		r.guessed = true
		list = slices.DeleteFunc(list, func(t token) bool {
			if m := timesPattern.FindStringSubmatch(t.text); m != nil {
				times, _ = strconv.Atoi(m[1] + m[2])
				return true
			}
			return t.text == "-" || t.text == stays || t.text == "."
		})
		for from := 0; from < len(list); from += r.perBar {
			bars = append(bars, list[from:min(from+r.perBar, len(list))])
		}
	}
	first := len(r.Score.Bars)
	for i, bar := range bars {
		end := len(runes)
		if i+1 < len(bars) {
			end = bars[i+1][0].at
		}
		r.bar(bar, runes, end, i == 0)
	}
	if times > 1 && times < 100 && len(bars) > 0 {
		r.Score.Bars[first].Repeat = true
		last := &r.Score.Bars[len(r.Score.Bars)-1]
		last.Times, last.OfLine = times, true
	}
}

// snapped moves chords that stand above the inside of a word to where a word begins, if
// one begins at most two letters away: people do not count the columns.
func snapped(list []token, words []rune) []token {
	const near = 2
	begins := func(at int) bool {
		return at >= 0 && at < len(words) && words[at] != ' ' && (at == 0 || words[at-1] == ' ')
	}
	list = slices.Clone(list)
	taken := -1
	for i := range list {
		at := list[i].at
		for _, by := range []int{0, -1, 1, -near, near} {
			if begins(at+by) && at+by > taken {
				list[i].at = at + by
				break
			}
		}
		taken = list[i].at
	}
	return list
}

// bar adds a bar of some chords, which share it equally, with the words from the first of
// them on to a column.
func (r *reader) bar(list []token, words []rune, end int, first bool) {
	b := r.Bar()
	at := len(r.Score.Bars)
	b.Line = r.line
	r.line = false
	if r.next {
		b.Section, r.next = "Verse", false
	}
	if b.Section != "" && r.Pickup.Num() > 0 {
		if length := r.Pickup.Mul(b.Meter.Beat()); length.Less(b.Length) {
			b.Length, b.Pickup = length, true
		}
	}
	shares := int64(len(list))
	if !r.Score.Own && r.perBar > 1 && len(list) < r.perBar && r.guessed {
		shares = int64(r.perBar)
	}
	each := b.Length.Div(pitch.Whole(shares))
	for i, t := range list {
		when := take.At{Bar: at, Start: each.Mul(pitch.Whole(int64(i)))}
		switch t.text {
		case stays, "-", ".":
		case "%":
			if at > 0 {
				r.same(at)
			}
		case riff:
			r.player.Chords = append(r.player.Chords, take.Chord{At: when, None: true, Frets: neck.NoFrets})
			r.Problems.Say("bar "+strconv.Itoa(at+1), "type its notes", "a riff is named but its notes are not in the text")
		case noChord:
			r.player.Chords = append(r.player.Chords, take.Chord{At: when, None: true, Frets: neck.NoFrets})
		default:
			r.player.Chords = append(r.player.Chords, take.Chord{At: when, Symbol: t.text, Frets: neck.NoFrets})
		}
		from, to := t.at, end
		if i == 0 && first {
			from = 0 // what is sung before the first chord of a line
		}
		if i+1 < len(list) {
			to = list[i+1].at
		}
		if text := cut(words, from, to); text != "" {
			r.player.Words = append(r.player.Words, take.Word{At: when, Text: text})
		}
	}
	r.Score.Bars = append(r.Score.Bars, b)
}

// same gives a bar the chords of the one before.
func (r *reader) same(bar int) {
	for _, c := range r.player.Chords {
		if c.Bar == bar-1 {
			c.Bar = bar
			r.player.Chords = append(r.player.Chords, c)
		}
	}
}

// cut is a piece of a text between two columns; a word that is cut in two gets a hyphen.
func cut(words []rune, from, to int) string {
	from, to = min(from, len(words)), min(to, len(words))
	if from >= to {
		return ""
	}
	text := strings.Join(strings.Fields(string(words[from:to])), " ")
	if text != "" && to < len(words) && unicode.IsLetter(words[to]) && unicode.IsLetter(words[to-1]) {
		text += "-"
	}
	return text
}
