package sheet

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Offer is something that may be meant by what is being typed.
type Offer struct {
	Text  string // what would stand there
	Means string // empty where it says itself
}

// Offers are what a word may become: Text of one of them takes the place of what stands
// from the column From to the cursor.
type Offers struct {
	From int     // in characters, from 1
	List []Offer // the likeliest first; empty where nothing is to be completed
}

// mostOffers is how many are made at most.
const mostOffers = 8

// Offers tells what the word may become that ends at a column of a line, which is given as
// it is typed: a setting and its value, the name of a part or a player, a chord of the
// song. Within a word there is nothing to complete.
func (s *Sheet) Offers(line, column int, typed string) Offers {
	runes := []rune(typed)
	if line < 1 || line > len(s.Lines) || column < 1 || column > len(runes)+1 || column <= len(runes) && !unicode.IsSpace(runes[column-1]) && !strings.ContainsRune("|)", runes[column-1]) {
		return Offers{}
	}
	before := string(runes[:column-1])
	colon, bar := strings.IndexByte(before, ':'), strings.IndexByte(before, '|')
	if strings.HasPrefix(strings.TrimSpace(before), "#") {
		return Offers{}
	}
	o := offering{sheet: s, line: line, starts: s.starts()}
	word := before
	switch {
	case bar >= 0 && (colon < 0 || bar < colon):
		word = before[strings.LastIndexAny(before, " |(\t")+1:]
		if head, _, _ := strings.Cut(before, "|"); word != "" && !isWords(head) {
			o.chords(word, column-utf8.RuneCountInString(word))
		}
	case colon >= 0:
		name := strings.ToLower(strings.TrimSpace(before[:colon]))
		word = before[colon+1:]
		if name == "order" {
			word = word[strings.LastIndexByte(word, ',')+1:]
		}
		word = strings.TrimLeft(word, " \t")
		o.values(name, word)
	default:
		word = strings.TrimLeft(before, " \t")
		if word != "" && column > len(runes) {
			o.names(word)
		}
	}
	list := slices.DeleteFunc(o.list, func(c Offer) bool { return c.Text == word })
	if len(list) == 0 {
		return Offers{}
	}
	return Offers{From: column - utf8.RuneCountInString(word), List: list[:min(mostOffers, len(list))]}
}

// offering collects offers.
type offering struct {
	sheet  *Sheet
	line   int // from 1
	starts []start
	list   []Offer
}

// offer adds an offer that begins like a word, whatever its capitals.
func (o *offering) offer(word, text, means string) {
	if len(text) >= len(word) && strings.EqualFold(text[:len(word)], word) {
		o.list = append(o.list, Offer{text, means})
	}
}

// names offers what a line can begin with: settings that are not there yet, parts that
// the order names, and below a part's name the players.
func (o *offering) names(word string) {
	here, inPart := ofSong, false
	own := map[string]bool{}
	for i := range o.line - 1 {
		switch l := &o.sheet.Lines[i]; l.Kind {
		case PartName:
			here, inPart, own = ofPart, true, map[string]bool{}
		case Setting:
			name, _, _ := strings.Cut(l.Text, ":")
			own[name] = true
		}
	}
	for i := range settings {
		if known := &settings[i]; known.scope&here != 0 && !own[known.name] {
			o.offer(word, known.name+": ", known.means)
		}
	}
	if inPart {
		o.offer(word, wordsName+" | ", "what is sung to the line above")
		for _, p := range o.sheet.Song.Parts {
			for _, player := range p.Players() {
				if text := player + " | "; !slices.ContainsFunc(o.list, func(c Offer) bool { return c.Text == text }) {
					o.offer(word, text, "who plays beside the line above")
				}
			}
		}
	}
	for i := range o.sheet.Lines {
		order, ok := strings.CutPrefix(o.sheet.Lines[i].Text, "order:")
		if !ok {
			continue
		}
		for _, leg := range strings.Split(order, ",") {
			name, _ := cutTimes(leg)
			if _, there := o.sheet.Song.PartNamed(name); name != "" && !there && !slices.ContainsFunc(o.list, func(c Offer) bool { return c.Text == name+":" }) {
				o.offer(word, name+":", "the order names this part")
			}
		}
	}
}

// values offers what a setting can be.
func (o *offering) values(name, word string) {
	known := settingNamed(name)
	if known == nil {
		return
	}
	for _, v := range known.values {
		o.offer(word, v.Text, v.Means)
	}
	if known.offer != nil {
		known.offer(o, word)
	}
}

// tunings offers the tunings that have a name.
func (o *offering) tunings(word string) {
	for _, known := range neck.Known() {
		t, _ := neck.Parse(known)
		o.offer(word, known, t.Letters())
	}
}

// parts offers the parts of the song, the first so many of them.
func (o *offering) parts(word string, most int) {
	for i := range o.sheet.Song.Parts[:max(min(most, len(o.sheet.Song.Parts)), 0)] {
		p := &o.sheet.Song.Parts[i]
		o.offer(word, p.Name, barCount(p.Written()))
	}
}

// keys offers the keys on a tonic, those that guitars play in most where none is typed.
func (o *offering) keys(word string) {
	names := []string{"E minor", "A minor", "G major", "C major", "D major", "A major", "E major", "D minor"}
	if word != "" {
		names = nil
		tonic := strings.ToUpper(word[:1])
		for _, mode := range []pitch.Mode{pitch.Minor, pitch.Major, pitch.Dorian, pitch.Mixolydian, pitch.Phrygian, pitch.Lydian, pitch.Locrian} {
			names = append(names, tonic+" "+string(mode), tonic+"b "+string(mode), tonic+"# "+string(mode))
		}
	}
	for _, name := range names {
		key, err := pitch.ParseKey(name)
		if err != nil || key.Signature() < -7 || key.Signature() > 7 {
			continue
		}
		scale := make([]string, 0, 7)
		for _, n := range key.Scale() {
			scale = append(scale, n.String())
		}
		o.offer(word, key.String(), strings.Join(scale, " "))
	}
}

// chords offers the chords of the song, as they are typed, those that are there most
// often first.
func (o *offering) chords(word string, column int) {
	type used struct {
		event song.Event
		times int
	}
	found := map[string]*used{}
	for i := range o.sheet.Lines {
		o.sheet.Lines[i].Each(func(_ int, slot *Slot) {
			if slot.Event.Kind != song.Chord || i == o.line-1 && slot.Column == column {
				return
			}
			plain := slot.Event
			plain.Marks = song.Marks{}
			text := FormatEvent(&plain)
			if found[text] == nil {
				found[text] = &used{event: plain}
			}
			found[text].times++
		})
	}
	texts := make([]string, 0, len(found))
	for text := range found {
		texts = append(texts, text)
	}
	slices.SortFunc(texts, func(a, b string) int {
		return cmp.Or(cmp.Compare(found[b].times, found[a].times), cmp.Compare(a, b))
	})
	for _, text := range texts {
		if !strings.HasPrefix(text, word) {
			continue
		}
		var tones []string
		for _, t := range found[text].event.Chord.Tones {
			tones = append(tones, t.Note.String())
		}
		o.list = append(o.list, Offer{text, fmt.Sprintf("%s, %s", strings.Join(tones, " "), timesUsed(found[text].times))})
	}
}

func timesUsed(n int) string {
	if n == 1 {
		return "used once"
	}
	return fmt.Sprintf("used %d times", n)
}
