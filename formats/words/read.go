package words

import (
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

// maxBars is how many bars are read at most.
const maxBars = 2000

// Normal is a text with the signs that people's programs put in the place of ours.
func Normal(text string) string {
	return strings.NewReplacer("\t", "        ", "\u00a0", " ", "♯", "#", "♭", "b").Replace(text)
}

// New begins to read the lines of a text, of which it is given those with chords. perBar is how many
// chords have a bar between them where no bar lines stand; 0 is guessed from how many stand on a
// line.
func New(around *plain.Around, lines []string, perBar int) *Reader {
	r := &Reader{Around: around, asked: perBar >= 1 && perBar <= MostPerBar, perBar: perBar}
	if !r.asked {
		r.perBar = Guessed(lines)
	}
	return r
}

// longestLine is how long a line of chords is at most.
const longestLine = 2000

// MostPerBar is how many chords a bar has at most.
const MostPerBar = 8

// Player is whose chords and words have been read.
func (r *Reader) Player() take.Player {
	if r.guessed && !r.asked {
		r.Problems.Say("", "say how many chords have a bar between them, or write bar lines, if that is not so", "no bar lines stand in it; %s taken", perBar(r.perBar))
	}
	r.player.Placed, r.player.Tuning, r.player.Capo = true, r.Tuning, r.Capo
	return r.player
}

// Again plays bars that have been read once more at the end.
func (r *Reader) Again(from, to, at int) { r.player.Again(from, to, at) }

func perBar(n int) string {
	if n == 1 {
		return "a bar for each chord is"
	}
	return fmt.Sprintf("a bar for every %d chords is", n)
}

// Reader reads lines of chords, and what is sung below them.
type Reader struct {
	*plain.Around
	player  take.Player
	perBar  int
	asked   bool // somebody said so
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
	list, odd, ok := someChords(line)
	return list, ok && len(odd) == 0
}

// IsChords tells whether a line is one of chords, in which some words may be odd that only stand
// among chords, or chords stand in brackets among its words.
func IsChords(line string) bool {
	_, odd, ok := someChords(line)
	return ok && !slices.ContainsFunc(odd, func(t token) bool { return !oddPattern.MatchString(t.text) }) || len(bracketed(line)) > 0
}

// oddPattern is a word that is no chord and stands among chords: a remark in brackets, or what looks
// like one.
var oddPattern = regexp.MustCompile(`^\(.*\)?$|^.*\)$|^[A-G](?:#|b)?(?:m|maj|min|sus|add|dim|aug|M|\d|[-+/°ø(]).*$|^\*+$|^(?i:etc\.?|hold|stop|riff|n\.?c\.?)$`)

// remarkBehind is a remark right behind a chord: G(hold).
var remarkBehind = regexp.MustCompile(`^([A-G][^()\s]{0,12})(\([^)]*\)|\*+)$`)

// someChords cuts a line of chords, and lists the words of it that are none; ok is false where it has
// no chord or more odd words than chords.
func someChords(line string) (list, odd []token, ok bool) {
	if len(line) > longestLine {
		return nil, nil, false
	}
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
		for open := false; j < len(runes) && (open || runes[j] != ' '); j++ { // (let ring) is one word
			open = open && runes[j] != ')' || runes[j] == '(' && slices.Contains(runes[j:], ')')
		}
		typed := string(runes[i:j])
		text := typed
		if strings.HasPrefix(text, "(") && strings.HasSuffix(text, ")") && len(text) > 1 { // a chord that may be left out
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
				m := remarkBehind.FindStringSubmatch(text)
				if m != nil {
					_, err = chord.Parse(m[1])
				}
				if m == nil || err != nil {
					odd = append(odd, token{column[j], typed})
					continue
				}
				odd = append(odd, token{column[j], m[2]})
				text = m[1]
			}
			chords++
		}
		list = append(list, token{column[j], text})
	}
	bars := strings.Contains(line, "|")
	return list, odd, chords > 0 && chords >= len(odd) || bars && len(list) > 0 && len(odd) == 0
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

// Guessed is how many chords have a bar in lines without bar lines, from how many stand on most: a
// line of words mostly has four bars, or two.
func Guessed(lines []string) int {
	var counts []int
	for _, l := range lines {
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

// Chords reads a line of chords, with what is sung below it; the number of the line, from 1, is said
// where a word of it is none. Chords may stand in brackets among words as well.
func (r *Reader) Chords(line, below string, number int) {
	where := "line " + strconv.Itoa(number)
	if len(r.Score.Bars) > maxBars {
		r.Problems.Say(where, "split the song", "it has more than %d bars; the rest is left out", maxBars)
		return
	}
	if len(bracketed(line)) > 0 {
		r.among(line)
		return
	}
	list, odd, _ := someChords(line)
	for _, t := range odd {
		if strings.HasPrefix(t.text, "(") || strings.HasPrefix(t.text, "*") || strings.HasSuffix(t.text, ")") {
			r.Problems.Say(where, "add it as a note of the part", "what is remarked among the chords is left out: %s", short(t.text))
			continue
		}
		r.Problems.Say(where, "write it as you would type it", "the chord %q is not understood and left out", short(t.text))
	}
	r.above(snapped(list, []rune(below)), below)
}

// Paragraph says that a part begins which has no name.
func (r *Reader) Paragraph() { r.next = true }

func short(s string) string {
	s = strings.TrimSpace(s)
	if runes := []rune(s); len(runes) > 40 {
		return string(runes[:40]) + "…"
	}
	return s
}

// Brace reads a line in braces: a title, a part or a setting. ok is false where it is none.
func (r *Reader) Brace(line string) (ok bool) {
	m := bracePattern.FindStringSubmatch(line)
	if m == nil {
		return false
	}
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
	case "sot", "start_of_tab":
		r.Line("[" + or(value, "Tab") + "]")
	case "chorus":
		r.Line("[" + or(value, "Chorus") + "]")
	case "c", "comment", "ci", "cb":
		r.Line(value)
	}
	return true
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// among reads words with chords in brackets.
func (r *Reader) among(line string) {
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
func (r *Reader) above(list []token, below string) {
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
func (r *Reader) bar(list []token, words []rune, end int, first bool) {
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
func (r *Reader) same(bar int) {
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
