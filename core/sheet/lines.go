package sheet

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// DefaultTempo is the tempo of a song that gives none, in beats per minute.
const DefaultTempo = 100

func newSong() *song.Song {
	return &song.Song{Meter: song.FourFour, Tempo: DefaultTempo, Tuning: neck.Standard}
}

// line reads one line of the sheet.
func (p *parser) line(n int, raw string) {
	text := strings.TrimSpace(raw)
	column := utf8.RuneCountInString(raw[:strings.Index(raw, text)]) + 1
	colon, barLine := strings.Index(text, ":"), strings.Index(text, "|")
	switch {
	case text == "":
		p.keep(Line{Kind: Blank})
	case text[0] == '#':
		p.keep(Line{Kind: Comment, Text: text})
	case barLine >= 0 && begun(text, barLine):
		p.keep(Line{Kind: Blank})
	case barLine == 0 && colon == len(text)-1 && namesPart(text[1:colon]):
		p.partLine(n, column+1, strings.TrimSpace(text[1:colon]))
	case barLine >= 0 && (colon < 0 || barLine < colon):
		p.musicLine(n, column, text)
	case colon == len(text)-1 && !isSetting(strings.ToLower(strings.TrimSpace(text[:colon]))):
		p.partLine(n, column, strings.TrimSpace(text[:colon]))
	case colon > 0:
		p.settingLine(n, column, text)
	default:
		mend := "write a setting like tempo: 104, a part name like Verse:, or bars between | lines"
		if looksLikeMusic(text) {
			mend = "put bar lines around it: | " + text + " |"
		}
		p.errorf(n, column, mend, "this line is no setting, part name or line of bars")
		p.keep(Line{Text: text})
	}
}

// begun tells whether a line is a bar line with nothing after it, as the editor begins one
// at the end of a line of bars: nothing is written there yet.
func begun(text string, barLine int) bool {
	head := strings.TrimSpace(text[:barLine])
	return strings.TrimSpace(text[barLine+1:]) == "" && (head == "" || validPlayer(head)) && !isWords(head)
}

// namesPart tells whether what is written after a bar line that was begun, up to a colon, is
// the name of a part.
func namesPart(text string) bool {
	name := strings.TrimSpace(text)
	return name != "" && !strings.ContainsAny(name, "|:,") && !isSetting(strings.ToLower(name)) && !looksLikeMusic(name)
}

// looksLikeMusic tells whether every word of a text is a slot.
func looksLikeMusic(text string) bool {
	for _, f := range strings.Fields(strings.NewReplacer("(", " ", ")", " ").Replace(text)) {
		if _, err := parseSlot(f); err != nil {
			return false
		}
	}
	return true
}

func (p *parser) partLine(n, column int, name string) {
	p.closePart()
	p.keep(Line{Kind: PartName, Text: name})
	p.part, p.own, p.held, p.pickup, p.like, p.music = nil, map[string]bool{}, map[string]*song.Event{}, pickup{}, like{}, nil
	p.parts++
	s := p.sheet.Song
	switch {
	case p.parts > MaxParts:
		if p.parts == MaxParts+1 {
			p.errorf(n, column, "join parts, or split the song into two sheets", "the sheet has more than %d parts", MaxParts)
		}
		return
	case name == "" || strings.ContainsAny(name, ",|"):
		p.errorf(n, column, "name the part with plain words, like Verse:", "%q cannot name a part", name)
		return
	case utf8.RuneCountInString(name) > longestName:
		p.errorf(n, column, fmt.Sprintf("keep part names under %d characters", longestName), "the part's name is too long")
		return
	}
	if rest, times := cutTimes(name); times > 0 {
		p.errorf(n, column, fmt.Sprintf("write %s: here and put x%d behind it in the order", rest, times), "a part's name cannot end with a repeat")
		return
	}
	if _, taken := s.PartNamed(name); taken {
		p.errorf(n, column, "give one of the two another name", "there are two parts called %s", name)
		return
	}
	s.Parts = append(s.Parts, song.Part{Name: name, Key: s.Key, Meter: s.Meter, Tempo: s.Tempo, Feel: s.Feel})
	p.part = &s.Parts[len(s.Parts)-1]
}

// cutTimes splits " x3" or " ×3" from the end of s. times is 0 where there is
// none.
func cutTimes(s string) (rest string, times int) {
	s = strings.TrimSpace(s)
	digits := strings.TrimRight(s, "0123456789")
	if digits == s {
		return s, 0
	}
	head := strings.TrimRight(digits, " ")
	for _, sign := range []string{"x", "×", "X"} {
		if before, ok := strings.CutSuffix(head, sign); ok && (before == "" || strings.HasSuffix(before, " ")) {
			times, err := strconv.Atoi(s[len(digits):])
			if err != nil {
				times = math.MaxInt
			}
			return strings.TrimSpace(before), times
		}
	}
	return s, 0
}

// settingLine reads "name: value".
func (p *parser) settingLine(n, column int, text string) {
	typed, value, _ := strings.Cut(text, ":")
	name := strings.ToLower(strings.TrimSpace(typed))
	valueColumn := column + utf8.RuneCountInString(typed) + 1
	trimmed := strings.TrimSpace(value)
	if trimmed != "" {
		valueColumn += utf8.RuneCountInString(value[:strings.Index(value, trimmed)])
	}
	value = trimmed
	inPart := p.parts > 0
	here := ofSong
	if inPart {
		here = ofPart
	}
	known := settingNamed(name)
	l := Line{Kind: Setting, Text: strings.TrimSpace(name + ": " + value)}
	fail := func(mend, format string, args ...any) {
		p.errorf(n, valueColumn, mend, format, args...)
		p.keep(Line{Text: text})
	}
	switch {
	case known == nil:
		allowed := settingNames(here)
		mend := "settings here are " + strings.Join(allowed, ", ")
		if near := nearest(name, allowed); near != "" {
			mend = fmt.Sprintf("did you mean %s? %s", near, mend)
		}
		p.warnf(n, column, mend, "setting %q is not known and has no effect", strings.TrimSpace(typed))
		l.Text = strings.TrimSpace(strings.TrimSpace(typed) + ": " + value)
		p.keep(l)
		return
	case known.scope&here == 0 && inPart:
		p.warnf(n, column, "move the line above the first part", "%s belongs to the whole song and has no effect in a part", name)
		p.keep(l)
		return
	case known.scope&here == 0:
		p.warnf(n, column, "move the line below a part's name", "%s belongs to a part and has no effect here", name)
		p.keep(l)
		return
	case inPart && name == "time" && p.part != nil && len(p.part.Lines) > 0:
		fail("move the line above the part's bars, write [2/4] in front of a single bar, or begin a new part", "the time changes in the middle of a part")
		return
	case name == "pickup" && p.part != nil && (len(p.part.Lines) > 0 || len(p.orphans) > 0):
		fail("move the line above the part's bars", "a pickup is the first bar of a part")
		return
	case value == "":
		fail("write its value after the colon, or remove the line", "%s has no value", name)
		return
	}
	if p.own == nil {
		p.own = map[string]bool{}
	}
	if p.own[name] {
		p.warnf(n, column, "remove one of the two lines", "%s is set twice; this one counts", name)
	}
	p.own[name] = true
	if inPart && p.part == nil { // a part that could not be taken
		p.part = new(song.Part)
		defer func() { p.part = nil }()
	}
	p.at = place{n, valueColumn}
	value, err := known.read(p, value)
	if err != nil {
		fail(err.Mend, "%s", err.What)
		return
	}
	l.Text = name + ": " + value
	p.keep(l)
}

// nearest finds the word of a list that differs from s by the fewest letters,
// if they are few.
func nearest(s string, list []string) string {
	best, found := 3, ""
	for _, w := range list {
		if d := distance(strings.ToLower(s), strings.ToLower(w)); d < best && d < len(w) {
			best, found = d, w
		}
	}
	return found
}

// distance counts the letters to insert, remove or replace between two short
// words.
func distance(a, b string) int {
	if len(a) > 80 || len(b) > 80 {
		return math.MaxInt
	}
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		diagonal := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := 1
			if a[i] == b[j] {
				cost = 0
			}
			next := min(row[j]+1, row[j+1]+1, diagonal+cost)
			diagonal, row[j+1] = row[j+1], next
		}
	}
	return row[len(b)]
}

// finish checks what can only be known at the end.
func (p *parser) finish() {
	p.closePart()
	p.noticeTurned()
	p.agree()
	if !p.titled {
		p.errorf(1, 1, "begin the sheet with title: and the song's name", "the song has no title")
	}
	s := p.sheet.Song
	if p.order.text == "" {
		for i := range s.Parts {
			s.Order = append(s.Order, song.Leg{Part: i, Times: 1})
		}
		return
	}
	var canonical []string
	failed := false
	column := p.order.column
	for _, piece := range strings.Split(p.order.text, ",") {
		lead := utf8.RuneCountInString(piece) - utf8.RuneCountInString(strings.TrimLeftFunc(piece, unicode.IsSpace))
		name, times := cutTimes(piece)
		if times == 0 && !strings.HasSuffix(strings.TrimSpace(piece), "x0") {
			times = 1
		}
		index := slices.IndexFunc(s.Parts, func(q song.Part) bool { return strings.EqualFold(q.Name, name) })
		if exact, ok := s.PartNamed(name); ok {
			index = exact
		}
		switch {
		case name == "":
			p.errorf(p.order.line, column+lead, "write part names with commas between them", "a part's name is missing in the order")
			failed = true
		case index < 0:
			var names []string
			for _, q := range s.Parts {
				names = append(names, q.Name)
			}
			mend := fmt.Sprintf("add a part %s: or correct the name", name)
			if near := nearest(name, names); near != "" {
				mend = fmt.Sprintf("did you mean %s?", near)
			}
			p.errorf(p.order.line, column+lead, mend, "the order names %s, but there is no such part", name)
			failed = true
		case times < 1 || times > MaxTimes:
			p.errorf(p.order.line, column+lead, fmt.Sprintf("repeat it 1 to %d times", MaxTimes), "a part cannot be repeated that many times")
			failed = true
		default:
			s.Order = append(s.Order, song.Leg{Part: index, Times: times})
			text := s.Parts[index].Name
			if times > 1 {
				text += " x" + strconv.Itoa(times)
			}
			canonical = append(canonical, text)
		}
		column += utf8.RuneCountInString(piece) + 1
	}
	if !failed {
		p.sheet.Lines[p.order.index].Text = "order: " + strings.Join(canonical, ", ")
	}
}
