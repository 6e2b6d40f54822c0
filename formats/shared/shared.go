// Package shared reads the text in which people share songs: tab, chords over words, headings and
// settings in words of their own, one below the other. It knows of each line as what it was read,
// and can be told otherwise; formats/tab and formats/words know how strings and chords are read.
package shared

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"valleyside/core/sheet"
	"valleyside/formats/plain"
	"valleyside/formats/tab"
	"valleyside/formats/take"
	"valleyside/formats/words"
)

// MaxBytes is how long a text is at most.
const MaxBytes = 512 << 10

// Kind is what a line is read as.
type Kind string

// The kinds. A line can be told to be one of Choices.
const (
	Blank   Kind = ""
	Title   Kind = "title"
	By      Kind = "written by"
	Setting Kind = "setting"
	Part    Kind = "part"
	Player  Kind = "player"
	Chords  Kind = "chords"
	Words   Kind = "words"
	Strings Kind = "tab"
	Marks   Kind = "signs of the tab" // above or below the strings
	LeftOut Kind = "left out"
)

// Choices are the kinds that a line can be told to be.
var Choices = []Kind{Title, Part, Chords, Words, LeftOut}

// Line is a line of the text, and what it was read as.
type Line struct {
	Text string
	As   Kind
	Told bool // somebody said so
}

// Options say how a text is read.
type Options struct {
	PerBar int          // how many chords have a bar between them where no bar lines stand; 0 is guessed
	As     map[int]Kind // by line, from 0: what it is
}

// Is tells whether a text looks like one: some strings of tab, or a line of chords.
func Is(text string) bool {
	list := linesOf(text)
	for i, l := range list {
		if words.IsChords(l) || tab.Strings(list, i) > 0 {
			return true
		}
	}
	return false
}

// IsTab tells whether strings of tab stand in a text.
func IsTab(text string) bool {
	list := linesOf(text)
	for i := range list {
		if tab.Strings(list, i) > 0 {
			return true
		}
	}
	return false
}

func linesOf(text string) []string {
	list := strings.Split(words.Normal(tab.Normal(text)), "\n")
	for i := range list {
		list[i] = strings.TrimRight(list[i], " ")
	}
	return list
}

// reader goes through the lines.
type reader struct {
	*plain.Around
	text   []string // as it is
	lines  []string // as tab and chords have them
	kinds  []Line
	told   map[int]Kind
	tab    *tab.Reader
	words  *words.Reader
	strums map[int]bool
	parts  []part
	named  map[string]int // parts with bars, by their names in small letters
	headed bool           // lines of the text name parts
	first  string         // who plays what is not said to be somebody's
}

// part is one that has been named, with the bars that it has.
type part struct {
	name     string
	line     int // of the text, from 1
	from, to int
}

// Read reads a text. The error says why there is nothing to be read; the lines are there in any
// case.
func Read(text string, o Options, problems *take.Problems) (*take.Score, []Line, error) {
	if len(text) > MaxBytes {
		return nil, nil, fmt.Errorf("the text has more than %d KB", MaxBytes>>10)
	}
	r := reader{Around: plain.New(problems), lines: linesOf(text), text: strings.Split(text, "\n"), told: o.As, strums: map[int]bool{}, named: map[string]int{}}
	r.headed = slices.ContainsFunc(r.lines, plain.IsHeading)
	r.Score.Own = slices.Contains(r.lines, words.Written)
	r.kinds = make([]Line, len(r.lines))
	for i := range r.lines {
		r.kinds[i].Text = strings.TrimRight(r.text[i], " ")
		if k, ok := o.As[i]; ok && slices.Contains(Choices, k) {
			r.kinds[i].Told = true
			if k == LeftOut {
				r.lines[i] = ""
			}
		}
	}
	r.tab = tab.New(r.Around, r.lines)
	r.words = words.New(r.Around, r.lines, o.PerBar)
	r.read()
	if len(r.Score.Bars) == 0 {
		return nil, r.kinds, errors.New("there are neither strings of tab in it, six lines under one another like e|--0--3--|, nor chords, above the words or in brackets among them")
	}
	r.finish()
	r.Score.Own = false // its chords are not tied to shapes
	return r.Score, r.kinds, nil
}

// is tells whether somebody said that a line is of a kind.
func (r *reader) is(i int, k Kind) bool { return r.told[i] == k }

// read goes through the text.
func (r *reader) read() {
	for i := 0; i < len(r.lines); i++ {
		if len(r.Score.Bars) > mostBars {
			r.Problems.Say("line "+strconv.Itoa(i+1), "split the song", "it has more than %d bars; the rest is left out", mostBars)
			break
		}
		switch n := tab.Strings(r.lines, i); {
		case r.is(i, LeftOut):
			r.kinds[i].As = LeftOut
		case n > 0 && !r.kinds[i].Told:
			r.tab.Block(i, n)
			for k := i; k < i+n; k++ {
				r.kinds[k].As = Strings
			}
			i += n - 1
		default:
			i = r.line(i)
		}
	}
	r.ended()
	for i := range r.kinds {
		if r.tab.Used(i) {
			r.kinds[i].As = Marks
		}
	}
	r.leftOut()
}

// line reads a line that is no string, with the one below it where that is sung to it; it returns
// the last that it has read.
func (r *reader) line(i int) int {
	line := r.lines[i]
	text := strings.TrimSpace(line)
	as := func(k Kind) { r.kinds[i].As = k }
	switch {
	case line == words.Written:
		return i
	case text == "":
		if !r.kinds[i].Told && !r.headed && len(r.strums) > 0 && i > 0 && r.lines[i-1] != "" {
			r.paragraph(i)
		}
		return i
	case r.is(i, Title):
		r.Score.Title = text
		as(Title)
		return i
	case r.is(i, Part):
		r.part(i, "["+strings.Trim(text, "[]():")+"]")
		as(Part)
		return i
	case r.is(i, Chords):
		return r.chords(i, line)
	case r.is(i, Words):
		as(Words)
		r.Problems.Say("line "+strconv.Itoa(i+1), "write the chords above it", "words without chords are left out: %s", short(text))
		return i
	case r.tab.Used(i), !plain.IsHeading(text) && tab.Belongs(r.lines, i):
		as(LeftOut) // or read with the strings, which comes out later
		return i
	}
	if name, rest, ok := plain.Heading(text); ok && words.IsChords(rest) && !words.IsChords(text) {
		if !plain.IsHeading(name) {
			name = "[" + name + "]"
		}
		r.part(i, name)
		return r.chords(i, strings.Repeat(" ", strings.Index(line, rest))+rest)
	}
	if name := playerOf(text); name != "" {
		r.player(name)
		as(Player)
		return i
	}
	if words.IsChords(line) && !(len(r.Score.Bars) == 0 && r.Score.Title == "" && len(strings.Fields(line)) == 1) {
		return r.chords(i, line)
	}
	if short := strings.TrimSpace(inBrackets.ReplaceAllString(text, "")); short != text && short != "" && plain.IsHeading(short) && !plain.IsHeading(text) {
		text = short // Riff (both guitars)
	}
	if m := repeatPattern.FindStringSubmatch(text); m != nil && plain.IsHeading(m[1]) {
		text = m[1]
	}
	if before := r.Begun; r.known(text) {
		if r.Begun > before {
			r.begun(i)
			as(Part)
			if againPattern.MatchString(text) {
				r.ended()
				r.Began = true
			}
		} else {
			as(Setting)
		}
		return i
	}
	title := r.Score.Title
	if len(r.Score.Bars) == 0 && r.Head(text) {
		if as(By); r.Score.Title != title {
			as(Title)
		}
		return i
	}
	as(LeftOut)
	return i
}

// known reads a heading, a setting or a line in braces.
func (r *reader) known(text string) bool {
	if strings.HasPrefix(text, "{") {
		return r.words.Brace(text)
	}
	return r.Line(text)
}

// part begins a part with the name that a line has.
func (r *reader) part(i int, heading string) {
	r.Line(heading)
	r.begun(i)
}

// begun notes that a part has begun.
func (r *reader) begun(i int) {
	r.ended()
	r.tab.Part()
	r.parts = append(r.parts, part{r.Section, i + 1, len(r.Score.Bars), -1})
}

// ended notes with which bar the last part ends. One without bars that is named like one above is
// that one again.
func (r *reader) ended() {
	if len(r.parts) == 0 || r.parts[len(r.parts)-1].to >= 0 {
		return
	}
	p := &r.parts[len(r.parts)-1]
	name := strings.ToLower(p.name)
	of, known := r.named[name]
	if p.to = len(r.Score.Bars); p.from < p.to {
		if !known {
			r.named[name] = len(r.parts) - 1
		}
		return
	}
	if p.to > mostBars {
		return
	}
	if !known {
		r.Problems.Say("line "+strconv.Itoa(p.line), "", "nothing stands below %s, which is left out", p.name)
		return
	}
	q := r.parts[of]
	r.tab.Again(q.from, q.to, p.from)
	r.words.Again(q.from, q.to, p.from)
	for bar := q.from; bar < q.to; bar++ {
		again := r.Score.Bars[bar]
		again.Name = strconv.Itoa(len(r.Score.Bars) + 1)
		if bar == q.from {
			again.Section, again.Legs = q.name, max(1, min(r.times(p), sheet.MaxTimes))
		}
		r.Score.Bars = append(r.Score.Bars, again)
		if r.strums[bar] {
			r.strums[bar-q.from+p.from] = true
		}
	}
	p.to = len(r.Score.Bars)
}

// mostBars is how many bars are read.
const mostBars = 2000

// times is how often a part that is only named is played.
func (r *reader) times(p *part) int {
	if m := timesBehind.FindStringSubmatch(r.lines[p.line-1]); m != nil {
		n, _ := strconv.Atoi(m[1] + m[2])
		return n
	}
	return 1
}

// inBrackets is a remark behind something.
var inBrackets = regexp.MustCompile(`\s*\([^)]*\)$`)

// againPattern is the line in braces that means the chorus above.
var againPattern = regexp.MustCompile(`^\{\s*chorus\b`)

// repeatPattern says that a part is played again.
var repeatPattern = regexp.MustCompile(`(?i)^[(\[]?(?:repeat|play|back to)\s+(.+?)[)\]]?$`)

var timesBehind = regexp.MustCompile(`(?i)(?:[x×]\s*(\d{1,2})|(\d{1,2})\s*[x×])\)?\s*$`)

// chords reads a line of chords, and the words below it; it returns the last line that it has read.
func (r *reader) chords(i int, line string) int {
	r.kinds[i].As = Chords
	below, number := "", i+1
	if next := i + 1; next < len(r.lines) && r.isSung(next) {
		i++
		below = r.lines[i]
		r.kinds[i].As = Words
	}
	bars := len(r.Score.Bars)
	r.words.Chords(line, below, number)
	for ; bars < len(r.Score.Bars); bars++ {
		r.strums[bars] = true
	}
	return i
}

// isSung tells whether a line is sung to the chords above it.
func (r *reader) isSung(i int) bool {
	text := strings.TrimSpace(r.lines[i])
	if k, ok := r.told[i]; ok {
		return k == Words
	}
	return text != "" && !plain.IsHeading(text) && !plain.IsSetting(text) && !strings.HasPrefix(text, "{") && playerOf(text) == "" &&
		!words.IsChords(r.lines[i]) && tab.Strings(r.lines, i) == 0 && !tab.Belongs(r.lines, i)
}

// paragraph begins a part at an empty line of a text that names none.
func (r *reader) paragraph(at int) {
	for _, l := range r.lines[at:] {
		if l != "" {
			if words.IsChords(l) {
				r.words.Paragraph()
			}
			return
		}
	}
}

// playerPattern is a line that says who plays what comes below it.
var playerPattern = regexp.MustCompile(`(?i)^[\[(]?((?:gtrs?|gt|guitars?|gits?|bass|lead|rhythm|acoustic|electric)\.?(?:\s*(?:gtr|guitar|bass))?\.?\s*(?:\d|I{1,3})?)(?:\s*\([^)]*\))?[\])]?\s*:?$`)

// playerOf is the name of a player that a line is, empty where it is none.
func playerOf(text string) string {
	if m := playerPattern.FindStringSubmatch(text); m != nil {
		return strings.TrimSpace(m[1])
	}
	return ""
}

// player says whose lines come next: the first that is named is the first player.
func (r *reader) player(name string) {
	if r.first == "" {
		r.first = name
	}
	if strings.EqualFold(r.first, name) {
		r.tab.Play("")
		return
	}
	r.tab.Play(sheet.PlayerName(name))
}

// leftOut lists the lines of which nothing was read.
func (r *reader) leftOut() {
	for i := range r.kinds {
		if l := &r.kinds[i]; l.As == LeftOut && !l.Told && strings.ContainsFunc(l.Text, func(c rune) bool { return unicode.IsLetter(c) || unicode.IsDigit(c) }) {
			r.Problems.Say("line "+strconv.Itoa(i+1), "say below what it is, or leave it", "nothing was read of it: %s", short(l.Text))
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

// finish puts the players together: who plays the strings strikes the chords between them.
func (r *reader) finish() {
	bars := r.Score.Bars
	if bars[0].Section == "" && slices.ContainsFunc(bars[1:], func(b take.Bar) bool { return b.Section != "" }) && r.strums[0] {
		bars[0].Section = "Verse"
	}
	if len(r.strums) == 0 {
		r.Score.Players = r.tab.Players()
		return
	}
	sung := r.words.Player()
	if len(r.strums) == len(bars) {
		r.Score.Players = []take.Player{sung}
		return
	}
	r.Score.Players = r.tab.Players()
	p := &r.Score.Players[0]
	p.Chords, p.Words, p.Strums = append(p.Chords, sung.Chords...), append(p.Words, sung.Words...), r.strums
}
