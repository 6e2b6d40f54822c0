package tab

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
	"valleyside/core/song"
	"valleyside/formats/plain"
	"valleyside/formats/take"
)

// system is a block of strings with what stands above and below it.
type system struct {
	strings   []stringLine // the thin string first
	names     []word
	strokes   []word
	accents   []word
	muted     string
	ringing   string
	count     []word
	sung      [][]word
	edges     []int  // columns of the bar lines, of double ones the second
	behind    []word // what stands behind the last bar line, and in which lines
	ahead     []int  // of double bar lines the first, of others the same
	begins    []bool
	ends      []int // by bar: how often what began is played; 0 where nothing ends
	of        neck.Tuning
	firstLine int
	open      []pitch.Pitch // what its strings sound where it is no guitar of six; nil else
}

// word is a word of a row and its column.
type word struct {
	at   int
	text string
}

// wordsOfRow cuts a row at its blanks.
func wordsOfRow(row string) (list []word) {
	at := -1
	for i, c := range row + " " {
		switch {
		case c != ' ' && at < 0:
			at = i
		case c == ' ' && at >= 0:
			list = append(list, word{at, row[at:i]})
			at = -1
		}
	}
	return list
}

// block reads some lines of strings.
func (r *Reader) block(lines []stringLine) {
	s := system{strings: lines, firstLine: lines[0].line + 1, of: r.Tuning}
	where := "line " + strconv.Itoa(s.firstLine)
	if len(lines) != neck.Strings {
		if !r.others(&s) {
			r.Problems.Say(where, "add the lines that are missing, or name the strings", "%d strings tuned like that are no guitar's and no bass's; these lines are left out", len(lines))
			return
		}
	} else if r.ofGuitar(); !r.tune(&s) {
		r.Problems.Say(where, "name the strings e B G D A E from the top", "the strings' names are no tuning of a guitar; they are taken as they are usually written")
	}
	if !r.Score.Own {
		s.flush()
	}
	r.above(&s)
	r.below(&s)
	s.bars()
	if len(s.edges) < 2 {
		return
	}
	if !r.Score.Own {
		s.align()
		for _, w := range s.behind {
			r.Problems.Say("line "+strconv.Itoa(w.at), "add it as a note of the part", "what stands behind the last bar line is left out: %s", w.text)
		}
	}
	r.bars(&s)
}

// tune reads the names of the strings: which end is up, and how they are tuned.
func (r *Reader) tune(s *system) bool {
	names := make([]string, neck.Strings)
	for i, l := range s.strings {
		if l.name == "" || unicode.IsDigit(rune(l.name[0])) {
			if l.name == "6" && i == 0 {
				slices.Reverse(s.strings)
			}
			return true
		}
		names[i] = upper(l.name)
	}
	down := slices.Clone(names) // low to high where the thin string is on top
	slices.Reverse(down)
	first, errFirst := neck.Parse(strings.Join(down, " "))
	second, errSecond := neck.Parse(strings.Join(names, " "))
	far := func(t neck.Tuning) (sum int) {
		for k := neck.String(1); k <= neck.Strings; k++ {
			d := int(t.Open(k) - neck.Standard.Open(k))
			sum += d * d
		}
		return sum
	}
	upside := s.strings[0].name == "E" && s.strings[neck.Strings-1].name == "e"
	switch {
	case errFirst != nil && errSecond != nil:
		return false
	case errFirst != nil || upside && errSecond == nil || errSecond == nil && far(second) < far(first):
		slices.Reverse(s.strings)
		first = second
	}
	if !r.Tuned {
		r.Tuning = first
	}
	return true
}

// mostStrings is how many strings an instrument has at most that is read.
const mostStrings = 8

// otherStrings are the usual open strings, from the top line down, of basses with four and five
// strings and guitars with seven and eight.
var otherStrings = map[int][]pitch.Pitch{4: {43, 38, 33, 28}, 5: {43, 38, 33, 28, 23}, 7: {64, 59, 55, 50, 45, 40, 35}, 8: {64, 59, 55, 50, 45, 40, 35, 30}}

// flush puts the first bar lines under one another: a string with a longer name than the others,
// F#, is often pushed behind them by it.
func (s *system) flush() {
	at := make([]int, len(s.strings))
	for k, l := range s.strings {
		at[k] = l.at
	}
	slices.Sort(at)
	for k := range s.strings {
		if l := &s.strings[k]; l.text[0] == '|' {
			l.at = at[len(at)/2]
		}
	}
}

// upper is a string's name as that of a note.
func upper(name string) string {
	if name == "" {
		return ""
	}
	return strings.ToUpper(name[:1]) + name[1:]
}

// others reads the names of the strings of another instrument than a guitar of six: what they sound
// open. ok is false where they are none that is known.
func (r *Reader) others(s *system) (ok bool) {
	usual, known := otherStrings[len(s.strings)]
	if !known {
		return false
	}
	// farthest is how far strings are tuned from the usual ones, in semitones.
	const farthest = 2
	tuned := func() (open []pitch.Pitch, far int) {
		for k, l := range s.strings {
			at := usual[k]
			if note, err := pitch.ParseNote(upper(l.name)); err == nil {
				d := (int(note.Class()) - int(at)%12 + 18) % 12
				at += pitch.Pitch(d - 6)
				far = max(far, d-6, 6-d)
			}
			open = append(open, at)
		}
		return open, far
	}
	open, far := tuned()
	if far > farthest {
		slices.Reverse(s.strings)
		if open, far = tuned(); far > farthest {
			return false
		}
	}
	s.open = open
	instrument := fmt.Sprintf("a guitar of %d strings", len(open))
	if len(open) < neck.Strings {
		instrument = fmt.Sprintf("a bass of %d strings", len(open))
		if r.player == "" && r.players[""] != nil && r.players[""].Placed { // beside a guitar
			r.Play(bassPlayer)
		}
	}
	r.Problems.Say(r.player, "", "%s is read as such; its notes are put on the six strings of a guitar", instrument)
	r.of().Placed = false
	return true
}

// ofGuitar says that lines of six strings come, which are no bass's.
func (r *Reader) ofGuitar() {
	if r.player == bassPlayer {
		r.player = ""
	}
}

// bassPlayer is what a bass is called that has no other name.
const bassPlayer = "Bass"

// above reads the rows over a block, up to an empty line or what is no row.
func (r *Reader) above(s *system) {
	for i := s.strings[0].line - 1; ; i-- {
		if top := min(s.strings[0].line, s.strings[len(s.strings)-1].line) - 1; i > top {
			i = top
		}
		if i < 0 {
			return
		}
		row := r.lines[i]
		if _, tab := cutString(row); row == "" || tab {
			return
		}
		list := wordsOfRow(row)
		switch {
		case all(list, isStroke):
			s.strokes = list
		case all(list, func(t string) bool { return strings.Trim(t, ">.") == "" }):
			s.accents = list
		case marksRow(row, mutedWord, "P.M."):
			s.muted = marked(row)
		case marksRow(row, ringWord, "let ring", "ring"):
			s.ringing = marked(row)
		case all(list, isName):
			s.names = append(s.names, list...)
		case s.count == nil && r.isCountRow(list):
			s.count = list
		default:
			return
		}
		r.used[i] = true
	}
}

// isRow tells whether a line may be a row over a block: strokes, accents, what holds, names or counts.
func isRow(row string) bool {
	list := wordsOfRow(row)
	return all(list, isStroke) || all(list, func(t string) bool { return strings.Trim(t, ">.") == "" }) || all(list, isName) ||
		marksRow(row, mutedWord, "P.M.") || marksRow(row, ringWord, "let ring", "ring") || isCount(list)
}

// below reads the rows under a block: the count, strokes, and what is sung.
func (r *Reader) below(s *system) {
	last := max(s.strings[0].line, s.strings[len(s.strings)-1].line)
	for i := last + 1; i < len(r.lines) && r.lines[i] != ""; i++ {
		row := r.lines[i]
		if _, tab := cutString(row); tab || plain.IsHeading(row) && r.Score.Own || plain.IsSetting(row) || strings.HasSuffix(row, playsWord) {
			return
		}
		list := wordsOfRow(row)
		switch {
		case s.count == nil && s.sung == nil && r.isCountRow(list):
			s.count = list
		case s.strokes == nil && all(list, isStroke):
			s.strokes = list
		case timesPattern.MatchString(row) && len(list) <= 2 || plain.IsHeading(row):
			return
		case r.Score.Own || s.count != nil && strings.HasPrefix(row, "  "):
			s.sung = append(s.sung, phrases(row))
		case i == last+1 && isSung(row):
			s.sung = append(s.sung, list)
		default:
			return
		}
		r.used[i] = true
	}
}

// wordPattern is a word of two letters or more.
var wordPattern = regexp.MustCompile(`\pL\pL`)

// isSung tells whether a row right below the strings is sung: words, and nothing that only remarks
// have.
func isSung(row string) bool {
	return wordPattern.MatchString(row) && !strings.ContainsAny(row, "()[]{}*#:=|<>/\\0123456789") && strings.HasPrefix(row, " ")
}

// phrases cuts a row of words where there are two blanks or more.
func phrases(row string) (list []word) {
	at := -1
	runes := []rune(row + "  ")
	for i, c := range runes {
		switch {
		case c != ' ' && at < 0:
			at = i
		case c == ' ' && at >= 0 && i+1 < len(runes) && runes[i+1] == ' ':
			list = append(list, word{at, string(runes[at:i])})
			at = -1
		}
	}
	return list
}

func all(list []word, is func(string) bool) bool {
	return len(list) > 0 && !slices.ContainsFunc(list, func(w word) bool { return !is(w.text) })
}

// isStroke tells whether a word over a column says how it is struck: a stroke, or the
// letters of the fingers that pluck, thick strings first.
func isStroke(t string) bool {
	return isPlucked(t) || t == "v" || t == "^" || t == "V" || t == "D" || t == "U" || t == "d" || t == "u" || t == "↓" || t == "↑"
}

func isPlucked(t string) bool { return strings.Trim(t, song.Plucks) == "" }

// isOwn tells whether a word over a bar is its own time, or that nobody is sure of it.
func isOwn(t string) bool {
	t, unsure := strings.CutSuffix(t, "?")
	return unsure && t == "" || strings.HasPrefix(t, "[") && strings.HasSuffix(t, "]")
}

func isName(t string) bool {
	if t == "N.C." || t == "NC" || isOwn(t) {
		return true
	}
	_, err := chord.Parse(t)
	return err == nil
}

// isCountRow tells whether the words of a row are counted: beats, syllables, silences in
// brackets, also where they run into each other.
func (r *Reader) isCountRow(list []word) bool {
	return isCount(list) || r.Score.Own && isSyllables(list)
}

// isCount tells whether the words of a row are counted, with a beat among them.
func isCount(list []word) bool {
	return isSyllables(list) && slices.ContainsFunc(list, func(w word) bool { return strings.ContainsAny(w.text, "123456789") })
}

// isSyllables tells whether they are what is counted.
func isSyllables(list []word) bool {
	return all(list, func(t string) bool {
		for _, w := range []string{"trip", "let", "ta"} {
			t = strings.ReplaceAll(t, w, "")
		}
		return strings.Trim(t, "0123456789()&+eatl.") == ""
	})
}

// marksRow tells whether a row says over which columns something holds.
func marksRow(row string, words ...string) bool {
	rest := row
	for _, w := range words {
		rest = strings.ReplaceAll(rest, w, "")
	}
	return rest != row && strings.Trim(rest, " -_.|~=>") == ""
}

// marked is a row with a sign in every column for which it holds: from its word to where
// the dashes end.
func marked(row string) string {
	out := []byte(strings.Repeat(" ", len(row)))
	on := false
	for i := range len(row) {
		switch c := row[i]; {
		case c == ' ' && !(i+1 < len(row) && unicode.IsLetter(rune(row[i+1])) && i > 0 && unicode.IsLetter(rune(row[i-1]))):
			on = false
		default:
			on = true
		}
		if on {
			out[i] = '*'
		}
	}
	return string(out)
}

// holds tells whether a mark holds at a column.
func holds(row string, at int) bool { return at < len(row) && row[at] == '*' }

// char is the sign of a string at a column; a dash beyond its end.
func (s *system) char(k, at int) byte {
	l := &s.strings[k]
	if at < l.at || at-l.at >= len(l.text) {
		return '-'
	}
	return l.text[at-l.at]
}

// bars finds the bar lines: columns in which most strings have one.
func (s *system) bars() {
	end := 0
	for _, l := range s.strings {
		end = max(end, l.at+len(l.text))
	}
	lines := func(at int) (n int) {
		for k := range s.strings {
			if c := s.char(k, at); c == '|' || c == '[' || c == ']' {
				n++
			}
		}
		return n
	}
	for at := s.strings[0].at; at < end; at++ {
		if lines(at) >= 4 {
			if n := len(s.edges); n > 0 && s.blank(s.edges[n-1]+1, at) && at-s.edges[n-1] <= 2 {
				s.edges[n-1] = at // a double line
				continue
			}
			s.edges, s.ahead = append(s.edges, at), append(s.ahead, at)
		}
	}
	if len(s.edges) == 0 || s.edges[0] > s.strings[0].at+1 {
		s.edges, s.ahead = slices.Insert(s.edges, 0, s.strings[0].at-1), slices.Insert(s.ahead, 0, s.strings[0].at-1)
	}
	last := 0
	for _, l := range s.strings {
		text := strings.TrimRight(l.text, " ")
		if i := strings.LastIndexAny(text, "|-"); i >= 0 {
			last = max(last, l.at+i)
		}
	}
	if n := len(s.edges); s.edges[n-1] < last-1 {
		s.edges, s.ahead = append(s.edges, last+1), append(s.ahead, last+1)
	}
	s.begins, s.ends = make([]bool, len(s.edges)), make([]int, len(s.edges))
	times := 0
	for _, l := range s.strings {
		tail := l.text
		if i := s.edges[len(s.edges)-1] - l.at; i >= 0 && i < len(tail) {
			tail = tail[i:]
		} else {
			continue
		}
		if m := timesPattern.FindStringSubmatch(tail); m != nil {
			times, _ = strconv.Atoi(m[1] + m[2] + m[3])
		} else if words := strings.Trim(tail, "|-:*o "); words != "" {
			s.behind = append(s.behind, word{l.line + 1, words})
		}
	}
	for i := range len(s.edges) - 1 {
		colons := func(at int) (n int) {
			for k := range s.strings {
				if c := s.char(k, at); c == ':' || c == '*' || c == 'o' {
					n++
				}
			}
			return n
		}
		s.begins[i] = colons(s.edges[i]+1) >= 2
		if colons(s.ahead[i+1]-1) >= 2 {
			s.ends[i] = 2
		}
	}
	if n := len(s.edges) - 2; times > 1 && n >= 0 {
		s.ends[n] = min(times, 99)
	}
}

// blank tells whether nothing stands between two columns.
func (s *system) blank(from, to int) bool {
	for at := from; at < to; at++ {
		for k := range s.strings {
			if c := s.char(k, at); c != '-' && c != '|' && c != ' ' && c != ':' {
				return false
			}
		}
	}
	return true
}

// bars reads the bars of a block.
func (r *Reader) bars(s *system) {
	p := r.of()
	first := len(r.Score.Bars)
	if !r.Score.Own && r.player == "" && r.last != "" { // others stand beside the lines right above them
		r.Play("")
	}
	r.last = r.player
	if r.player != "" {
		first = r.start + r.beside[r.player]
		r.beside[r.player] += len(s.edges) - 1
	}
	for i := range len(s.edges) - 1 {
		at := first + i
		m := readMeasure(r, s, i, at == r.part && r.Pickup.Num() > 0)
		if r.player == "" {
			r.Score.Bars = append(r.Score.Bars, r.newBar(s, i, m))
		} else if at >= len(r.Score.Bars) {
			r.Problems.Say("line "+strconv.Itoa(s.firstLine), "write as many bars beside the others", "%s has more bars than the lines above; the rest is left out", r.player)
			break
		}
		r.put(s, p, at, m)
	}
}

// newBar is a bar of the first player.
func (r *Reader) newBar(s *system, i int, m *measured) take.Bar {
	b := r.Bar()
	b.Meter, b.Length, b.Pickup = m.meter, m.end.Sub(m.lead), m.lead.Num() > 0
	b.Line, b.Repeat, b.Times, b.OfLine = i == 0, s.begins[i], s.ends[i], s.ends[i] > 0
	return b
}

// put puts what is in a bar to a player.
func (r *Reader) put(s *system, p *take.Player, bar int, m *measured) {
	if r.has[r.player] == nil {
		r.has[r.player] = map[int]bool{}
	}
	r.has[r.player][bar] = true
	if m.unsure {
		p.Unsure = append(p.Unsure, bar)
	}
	for _, e := range m.events {
		for _, n := range e.notes {
			p.Sounds = append(p.Sounds, take.Sound{At: take.At{Bar: bar, Start: e.at.Sub(m.lead)}, Length: e.length, Note: n,
				Pitch: s.pitch(r, n), Marks: e.marks})
		}
	}
	for _, at := range m.rests {
		r.rests[r.player] = append(r.rests[r.player], take.At{Bar: bar, Start: at.Sub(m.lead)})
	}
	for _, n := range m.names {
		one := take.Chord{At: take.At{Bar: bar, Start: n.at.Sub(m.lead)}, Symbol: n.text, None: n.text == "N.C." || n.text == "NC", Frets: neck.NoFrets}
		for _, e := range m.events {
			if e.at == n.at && r.Score.Own && s.open == nil {
				for _, k := range e.notes {
					if !k.Dead {
						one.Frets[k.String.Index()] = int8(k.Fret)
					}
				}
			}
		}
		p.Chords = append(p.Chords, one)
	}
	for _, w := range m.sung {
		p.Words = append(p.Words, take.Word{At: take.At{Bar: bar, Start: w.at.Sub(m.lead)}, Verse: w.verse, Text: w.text})
	}
}

// pitch is what a note sounds.
func (s *system) pitch(r *Reader, n song.Note) pitch.Pitch {
	switch k := int(n.String) - 1; {
	case s.open != nil && k >= 0:
		return s.open[k] + pitch.Pitch(n.Fret+r.Capo)
	case k < 0: // it has none
		return 0
	}
	return r.Tuning.Up(r.Capo).Pitch(n.String, n.Fret)
}

// measured is a bar that has been read.
type measured struct {
	meter  song.Meter
	lead   pitch.Frac
	end    pitch.Frac
	events []struck
	rests  []pitch.Frac
	names  []timedText
	unsure bool
	sung   []timedText
}

// struck is what is struck at a moment.
type struck struct {
	at     pitch.Frac
	length pitch.Frac // 0 until it is known
	column int
	notes  []song.Note
	marks  song.Marks
}

type timedText struct {
	at    pitch.Frac
	verse int
	text  string
}
