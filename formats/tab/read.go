package tab

import (
	"errors"
	"fmt"
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

// Limits of what is read.
const (
	MaxBytes   = 512 << 10
	maxColumns = 2000
)

// Read reads tab as it comes: lines of strings under one another, with whatever stands
// above and below them. The error says why there is nothing to be read.
func Read(data []byte, problems *take.Problems) (*take.Score, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the text has more than %d KB", MaxBytes>>10)
	}
	text := strings.NewReplacer("\r\n", "\n", "\r", "\n", "\t", "    ", "–", "-", "—", "-", "│", "|", "‖", "||", "\u00a0", " ", "’", "'").Replace(strings.ToValidUTF8(string(data), "?"))
	r := reader{Around: plain.New(problems), players: map[string]*take.Player{}, rests: map[string][]take.At{}, has: map[string]map[int]bool{}, used: map[int]bool{}, beside: map[string]int{}}
	lines := strings.Split(text, "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ")
		r.Score.Own = r.Score.Own || lines[i] == written
	}
	r.lines = lines
	r.read()
	if len(r.Score.Bars) == 0 {
		return nil, errors.New("there are no lines of tab in it: six lines under one another, each with - and frets, like e|--0--3--|")
	}
	return r.score(), nil
}

// Is tells whether a text looks like tab: four lines of strings or more under one another.
func Is(data []byte) bool {
	run := 0
	for _, l := range strings.Split(string(data[:min(len(data), MaxBytes)]), "\n") {
		if _, ok := cutString(strings.TrimRight(l, " \r")); !ok {
			run = 0
		} else if run++; run >= 4 {
			return true
		}
	}
	return false
}

// reader goes through the lines of a text.
type reader struct {
	plain.Around
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
	timesPattern  = regexp.MustCompile(`(?i)(?:^|[\s(|])(?:[x×]\s*(\d{1,2})|(\d{1,2})\s*[x×])\)?\s*$`)
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
func (r *reader) read() {
	begun := false
	for i := 0; i < len(r.lines); {
		var block []stringLine
		j := i
		for ; j < len(r.lines); j++ {
			l, ok := cutString(r.lines[j])
			if !ok {
				break
			}
			l.line = j
			block = append(block, l)
		}
		if len(block) < 4 {
			if !r.between(r.lines[i], i, begun) {
				r.passed = append(r.passed, i)
			}
			i++
			continue
		}
		begun = true
		for len(block) > 0 {
			n := min(len(block), neck.Strings)
			if len(block) != 2*neck.Strings && len(block) < 2*neck.Strings {
				n = len(block)
			}
			r.block(block[:n])
			block = block[n:]
		}
		i = j
	}
}

// between reads a line that is no string: a setting, a part's name, a player. It tells
// whether it could be used; lines above and below a block are read with it.
func (r *reader) between(line string, at int, begun bool) bool {
	text := strings.TrimSpace(line)
	switch {
	case text == "" || text == written:
		return true
	case strings.HasSuffix(text, playsWord):
		if name := strings.TrimSuffix(text, playsWord); name == firstPlayer {
			r.player, r.start, r.beside = "", len(r.Score.Bars), map[string]int{}
		} else {
			r.player = sheet.PlayerName(name)
		}
		return true
	case r.Line(text):
		if !r.Began {
			r.player, r.part, r.start, r.beside = "", len(r.Score.Bars), len(r.Score.Bars), map[string]int{}
		}
		return true
	}
	return !begun && !r.belongs(at) && r.Head(text)
}

// belongs tells whether a line stands right above lines of strings, with others of its
// kind between.
func (r *reader) belongs(at int) bool {
	for i := at + 1; i < len(r.lines) && i <= at+6 && r.lines[i] != ""; i++ {
		if _, ok := cutString(r.lines[i]); ok {
			return true
		}
	}
	return false
}

// score finishes the score.
func (r *reader) score() *take.Score {
	r.guesses()
	r.leftOut()
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
			p = &take.Player{}
		}
		p.Name, p.Tuning, p.Capo, p.Placed = name, r.Tuning, r.Capo, true
		if name != "" {
			r.without(p, name)
		}
		r.lengths(p, r.rests[name])
		if r.Score.Own {
			r.held(p, name)
		}
		r.Score.Players = append(r.Score.Players, *p)
	}
	return r.Score
}

// without finds the bars in which a player has no lines. Nobody plays there; in a text of
// this program, which has the silences of a player as well, what rang rings on.
func (r *reader) without(p *take.Player, name string) {
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
func (r *reader) held(p *take.Player, name string) {
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
func (r *reader) lengths(p *take.Player, rests []take.At) {
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
func (r *reader) guesses() {
	if len(r.unknown) == 0 {
		return
	}
	r.Problems.Say("bar "+ranges(r.unknown), "listen to it and set it right", "the spacing does not tell the rhythm, which is a guess")
}

// leftOut lists the lines of which nothing was read: neither tab, nor what belongs to any.
func (r *reader) leftOut() {
	var lines []int
	for _, i := range r.passed {
		if !r.used[i] {
			lines = append(lines, i+1)
		}
	}
	if len(lines) > 0 {
		r.Problems.Say("line "+ranges(lines), "paste words with chords above them by themselves", "what is no tab is left out")
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
func (r *reader) of() *take.Player {
	if r.players[r.player] == nil {
		r.players[r.player] = &take.Player{Placed: true}
	}
	return r.players[r.player]
}
