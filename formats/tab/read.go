package tab

import (
	"errors"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/plain"
	"valleyside/formats/take"
)

// maxColumns is how long a line of a string is at most.
const maxColumns = 1200

// Normal is a text with the signs that people's programs put in the place of dashes, bars and
// blanks as tab has them.
func Normal(text string) string {
	return strings.NewReplacer("\t", "        ", "–", "-", "—", "-", "│", "|", "‖", "||", "\u00a0", " ", "’", "'").Replace(text)
}

// Is tells whether a text is one of this program.
func Is(text string) bool { return slices.Contains(lines(text), written) }

// lines are those of a text, without blanks at their ends.
func lines(text string) []string {
	list := strings.Split(text, "\n")
	for i := range list {
		list[i] = strings.TrimRight(list[i], " ")
	}
	return list
}

// Read reads a text of tab alone: one of this program, or blocks of strings. The error says why there is nothing to be read.
func Read(text string, problems *take.Problems) (*take.Score, error) {
	around := plain.New(problems)
	around.Score.Own = Is(text)
	r := New(around, lines(text))
	r.read()
	if len(r.Score.Bars) == 0 {
		return nil, errors.New("there are no lines of tab in it: six lines under one another, each with - and frets, like e|--0--3--|")
	}
	r.leftOut()
	r.Score.Players = r.Players()
	return r.Score, nil
}

// New begins to read the lines of a text, of which Block reads those that are strings.
func New(around *plain.Around, lines []string) *Reader {
	return &Reader{Around: around, lines: lines, players: map[string]*take.Player{}, rests: map[string][]take.At{}, has: map[string]map[int]bool{}, used: map[int]bool{}, beside: map[string]int{}}
}

// Reader goes through the lines of a text.
type Reader struct {
	*plain.Around
	lines    []string
	player   string // whose lines come next; "" is the first
	players  map[string]*take.Player
	spaced   spacing      // of the bar before that was read by its spacing
	spacedIn song.Meter   // its time
	unknown  []int        // bars whose rhythm is a guess
	passed   []int        // lines that are neither strings nor understood by themselves
	used     map[int]bool // lines that were read with the strings above or below them
	rests    map[string][]take.At
	has      map[string]map[int]bool // by player: the bars in which there are lines of his
	part     int                     // the bar with which the part begins
	start    int                     // the bar with which the line of the first player begins
	last     string                  // whose the lines before were
	beside   map[string]int          // how many bars another player has beside it so far
}

// stringLine is a line of a string: its name, and what is behind it with the column at
// which that begins.
type stringLine struct {
	name string
	at   int
	text string
	line int
}

var (
	stringPattern = regexp.MustCompile(`^(\s*)([A-Ga-g][#b]?|[1-7])?\s*([|:\[]{1,3}|-)(.*)$`)
	tabSigns      = "-0123456789hpbrstxXoO~/\\()<>*|:^vVgT.=PM_ '"
	timesPattern  = regexp.MustCompile(`(?i)(?:^|[\s(|])(?:[x×]\s*(\d{1,2})|(\d{1,2})\s*[x×]|(?:play|repeat)\s*(\d{1,2})(?:\s*(?:times|x))?)\)?\s*$`)
)

// cutString reads a line of a string.
func cutString(line string) (stringLine, bool) {
	m := stringPattern.FindStringSubmatchIndex(line)
	if m == nil || len(line) > maxColumns {
		return stringLine{}, false
	}
	l := stringLine{at: m[6], text: line[m[6]:]}
	if m[4] >= 0 {
		l.name = line[m[4]:m[5]]
	}
	dashes, signs := 0, 0
	body := l.text
	if i := strings.LastIndexByte(body, '|'); i > 0 { // what is behind the last bar line is no tab
		body = body[:i]
	}
	for _, c := range body {
		if c == '-' {
			dashes++
		}
		if strings.ContainsRune(tabSigns, c) {
			signs++
		}
	}
	barred := line[m[6]] == '|' || m[4] >= 0
	if dashes == 0 || dashes < 3 && !barred || signs*10 < len(body)*9 || dashes*8 < len(body) {
		return stringLine{}, false
	}
	return l, true
}

// read goes through the text: blocks of strings with what belongs to them, and what
// stands between.
func (r *Reader) read() {
	begun := false
	for i := 0; i < len(r.lines); {
		n := Strings(r.lines, i)
		if n == 0 {
			if !r.between(r.lines[i], i, begun) {
				r.passed = append(r.passed, i)
			}
			i++
			continue
		}
		begun = true
		r.Block(i, n)
		i += n
	}
}

// fewest is how many lines of strings under one another are tab.
const fewest = 4

// Strings is how many lines of strings stand under one another from a line on; 0 where that are too
// few to be tab.
func Strings(lines []string, from int) (n int) {
	for from+n < len(lines) {
		if _, ok := cutString(lines[from+n]); !ok {
			break
		}
		n++
	}
	if n < fewest {
		return 0
	}
	return n
}

// Block reads some lines of strings with the rows above and below that belong to them.
func (r *Reader) Block(from, n int) {
	var block []stringLine
	for i := from; i < from+n; i++ {
		l, _ := cutString(r.lines[i])
		l.line = i
		block = append(block, l)
	}
	for len(block) > 0 {
		n := len(block)
		if n > mostStrings {
			n = neck.Strings
		}
		r.block(block[:n])
		block = block[n:]
	}
}

// Used tells whether a line was read with the strings above or below it.
func (r *Reader) Used(line int) bool { return r.used[line] }

// Play says whose lines come next; "" is the first player.
func (r *Reader) Play(player string) {
	if r.player = player; player == "" {
		r.start, r.beside = len(r.Score.Bars), map[string]int{}
	}
}

// Part says that a part begins, with lines of the first player.
func (r *Reader) Part() {
	r.part = len(r.Score.Bars)
	r.Play("")
}

// Again plays bars that have been read once more at the end.
func (r *Reader) Again(from, to, at int) {
	again := func(bar int) (int, bool) { return bar - from + at, bar >= from && bar < to }
	for name, p := range r.players {
		p.Again(from, to, at)
		for _, rest := range r.rests[name] {
			if bar, ok := again(rest.Bar); ok {
				r.rests[name] = append(r.rests[name], take.At{Bar: bar, Start: rest.Start})
			}
		}
		for bar := from; bar < to && r.has[name][bar]; bar++ {
			r.has[name][bar-from+at] = true
		}
	}
}

// between reads a line that is no string: a setting, a part's name, a player. It tells
// whether it could be used; lines above and below a block are read with it.
func (r *Reader) between(line string, at int, begun bool) bool {
	text := strings.TrimSpace(line)
	switch {
	case text == "" || text == written:
		return true
	case strings.HasSuffix(text, playsWord):
		if name := strings.TrimSuffix(text, playsWord); name == firstPlayer {
			r.Play("")
		} else {
			r.Play(sheet.PlayerName(name))
		}
		return true
	case r.Line(text):
		if !r.Began {
			r.Part()
		}
		return true
	}
	return !begun && !Belongs(r.lines, at) && r.Head(text)
}

// Belongs tells whether a line is a row of signs right above lines of strings, with others of its
// kind between.
func Belongs(lines []string, at int) bool {
	const most = 6 // rows
	for i := at; i < len(lines) && i <= at+most && lines[i] != ""; i++ {
		if _, ok := cutString(lines[i]); ok {
			return i > at
		}
		if !isRow(lines[i]) {
			return false
		}
	}
	return false
}

// Players are those that have been read, the first of them first.
func (r *Reader) Players() (list []take.Player) {
	r.guesses()
	names := make([]string, 0, len(r.players))
	for name := range r.players {
		if name != "" {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	for _, name := range append([]string{""}, names...) {
		p := r.players[name]
		if p == nil {
			p = &take.Player{Placed: true}
		}
		p.Name, p.Tuning, p.Capo = name, r.Tuning, r.Capo
		if name != "" {
			r.without(p, name)
		}
		r.lengths(p, r.rests[name])
		if r.Score.Own {
			r.held(p, name)
		}
		list = append(list, *p)
	}
	return list
}

// without finds the bars in which a player has no lines. Nobody plays there; in a text of
// this program, which has the silences of a player as well, what rang rings on.
func (r *Reader) without(p *take.Player, name string) {
	if r.Score.Own {
		p.Without = map[int]bool{}
	}
	for bar := range r.Score.Bars {
		switch {
		case r.has[name][bar]:
		case r.Score.Own:
			p.Without[bar] = true
		default:
			r.rests[name] = append(r.rests[name], take.At{Bar: bar})
		}
	}
}

// held lists the bars of a text of this program that begin with what rings on: every
// silence is counted there, in brackets. What is repeated may go on from its own end where
// the first time nothing sounds.
func (r *Reader) held(p *take.Player, name string) {
	first := func(list map[int]pitch.Frac, at take.At) {
		if before, ok := list[at.Bar]; !ok || at.Start.Less(before) {
			list[at.Bar] = at.Start
		}
	}
	silences, sounds := map[int]pitch.Frac{}, map[int]pitch.Frac{}
	for _, at := range r.rests[name] {
		first(silences, at)
	}
	for i := range p.Sounds {
		first(sounds, p.Sounds[i].At)
	}
	p.Held = map[int]pitch.Frac{}
	for bar := range r.Score.Bars {
		silence, falls := silences[bar]
		sound, plays := sounds[bar]
		if begins := falls && silence == pitch.Whole(0) || plays && sound == pitch.Whole(0); begins || !r.has[name][bar] {
			continue
		}
		p.Held[bar] = pitch.Whole(0)
		if falls && (!plays || silence.Less(sound)) {
			p.Held[bar] = silence
		}
	}
}

// lengths gives sounds their lengths: until the player does something else.
func (r *Reader) lengths(p *take.Player, rests []take.At) {
	begins := make([]pitch.Frac, len(r.Score.Bars)+1)
	for i := range r.Score.Bars {
		begins[i+1] = begins[i].Add(r.Score.Bars[i].Length)
	}
	time := func(at take.At) pitch.Frac { return begins[at.Bar].Add(at.Start) }
	slices.SortStableFunc(p.Sounds, func(a, b take.Sound) int { return time(a.At).Cmp(time(b.At)) })
	silent := make([]pitch.Frac, len(rests))
	for i, at := range rests {
		silent[i] = time(at)
	}
	slices.SortFunc(silent, pitch.Frac.Cmp)
	next := begins[len(r.Score.Bars)]
	for i := len(p.Sounds) - 1; i >= 0; i-- {
		at := time(p.Sounds[i].At)
		if i+1 < len(p.Sounds) {
			if after := time(p.Sounds[i+1].At); at.Less(after) {
				next = after
			}
		}
		end := next
		if k, found := slices.BinarySearchFunc(silent, at, pitch.Frac.Cmp); !found && k < len(silent) && silent[k].Less(end) {
			end = silent[k]
		}
		p.Sounds[i].Length = end.Sub(at)
	}
}

// guesses lists the bars whose rhythm is a guess.
func (r *Reader) guesses() {
	if len(r.unknown) == 0 {
		return
	}
	r.Problems.Say("bar "+ranges(r.unknown), "listen to it and set it right", "the spacing does not tell the rhythm, which is a guess")
}

// leftOut lists the lines of which nothing was read: neither tab, nor what belongs to any.
func (r *Reader) leftOut() {
	var lines []int
	for _, i := range r.passed {
		if !r.used[i] {
			lines = append(lines, i+1)
		}
	}
	if len(lines) > 0 {
		r.Problems.Say("line "+ranges(lines), "", "what is no tab is left out")
	}
}

// ranges writes numbers that rise: "1, 3–5".
func ranges(list []int) string {
	var names []string
	for i := 0; i < len(list); {
		j := i
		for j+1 < len(list) && list[j+1] == list[j]+1 {
			j++
		}
		name := strconv.Itoa(list[i])
		if j > i {
			name += "–" + strconv.Itoa(list[j])
		}
		names = append(names, name)
		i = j + 1
	}
	return strings.Join(names, ", ")
}

// of is the player whose lines are read.
func (r *Reader) of() *take.Player {
	if r.players[r.player] == nil {
		r.players[r.player] = &take.Player{Placed: true}
	}
	return r.players[r.player]
}
