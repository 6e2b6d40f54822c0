// Package words writes songs as sheets of words with the chords above them, and reads
// such sheets as they come.
package words

import (
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"valleyside/core/arrange"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/formats/plain"
)

// Written stands at the end of a text of this program, by which it is known.
const Written = "Words written by Valleyside."

// barsOnLine is how many bars stand on a line where nothing is sung.
const barsOnLine = 4

// Write writes a song as words with chords: the parts as they are written, with the
// roadmap at the top; where nothing is sung the chords bar by bar, and of a riff that has
// none what it is.
func Write(w io.Writer, s *song.Song, music []play.Music) error {
	o := printer{}
	o.Song(s, false)
	for i := range s.Parts {
		o.part(s, &s.Parts[i], music[i].Version)
	}
	o.Line("")
	o.Line(Written)
	_, err := io.WriteString(w, o.String())
	return err
}

type printer struct{ plain.Text }

func (o *printer) part(s *song.Song, p *song.Part, v *arrange.Version) {
	o.Part(s, p)
	typed := v.Typed(p)
	for i := range typed.Lines {
		l := &typed.Lines[i]
		if len(l.Words) > 0 {
			for verse := range l.Words {
				o.sung(p, l, verse)
			}
			continue
		}
		for from := 0; from < len(l.Bars); from += barsOnLine {
			to := min(from+barsOnLine, len(l.Bars))
			text := ""
			for j := from; j < to; j++ {
				text += "| "
				for _, c := range inBar(p, &l.Bars[j]) {
					text += c.name + " "
				}
			}
			text += "|"
			if l.Times > 1 && to == len(l.Bars) {
				text += " x" + strconv.Itoa(l.Times)
			}
			o.Line(text)
		}
	}
}

// named is a chord in a bar.
type named struct {
	at   pitch.Frac
	name string
}

// chords are the chords of a bar that change, and silence by name.
func chords(b *song.Bar) (list []named) {
	for i := range b.Events {
		switch e := &b.Events[i]; e.Kind {
		case song.Chord:
			list = append(list, named{e.Start, e.Chord.Symbol})
		case song.NoChord:
			list = append(list, named{e.Start, noChord})
		}
	}
	return slices.CompactFunc(list, func(a, b named) bool { return a.name == b.name })
}

const noChord = "N.C."

// inBar is how the chords of a bar are written: in the fewest equal shares of the bar that
// have each at the beginning of one; a stroke is a share on which the chord stays. A bar
// of single notes is a riff.
func inBar(p *song.Part, b *song.Bar) []named {
	list := chords(b)
	m := p.Measure(b)
	one := func(name string) []named { return []named{{m.Lead, name}} }
	switch {
	case len(list) > 0:
	case slices.ContainsFunc(b.Events, func(e song.Event) bool { return e.Kind == song.Notes && !e.Dead() }):
		return one(riff)
	case len(b.Events) == 0 || b.Events[0].Sounds():
		return one(stays)
	default:
		return one(noChord)
	}
	for n := int64(1); n <= sheet.MaxSlots; n++ {
		each := m.Length().Div(pitch.Whole(n))
		fits := !slices.ContainsFunc(list, func(c named) bool { return c.at.Sub(m.Lead).Div(each).Den() != 1 })
		if !fits && n < sheet.MaxSlots {
			continue
		}
		shares := make([]named, n)
		for i := range shares {
			shares[i] = named{m.Lead.Add(each.Mul(pitch.Whole(int64(i)))), stays}
		}
		for _, c := range list {
			shares[min(c.at.Sub(m.Lead).Div(each).Floor(), n-1)].name = c.name
		}
		return shares
	}
	return nil
}

// riff stands for a bar of single notes, stays for a share of a bar in which nothing new
// begins.
const (
	riff  = "riff"
	stays = "/"
)

// cue is what happens at a time of a line: a chord, words, or both.
type cue struct {
	bar   int
	at    pitch.Frac
	chord string
	words string
}

// sung writes a line of words with the chords above, each over the words that are sung
// with it.
func (o *printer) sung(p *song.Part, l *song.Line, verse int) {
	var list []cue
	at := func(bar int, at pitch.Frac) *cue {
		i, found := slices.BinarySearchFunc(list, cue{bar: bar, at: at}, func(a, b cue) int {
			if a.bar != b.bar {
				return a.bar - b.bar
			}
			return a.at.Cmp(b.at)
		})
		if !found {
			list = slices.Insert(list, i, cue{bar: bar, at: at})
		}
		return &list[i]
	}
	for j := range l.Bars {
		for _, c := range inBar(p, &l.Bars[j]) {
			at(j, c.at).chord = c.name
		}
	}
	for _, w := range l.Words[verse] {
		at(w.Bar, w.Start).words = w.Text
	}
	above, below := "", ""
	width := func() int { return max(utf8.RuneCountInString(above), utf8.RuneCountInString(below)) }
	for i, m := range list {
		if i > 0 && list[i-1].bar != m.bar {
			above = pad(above, width()) + "| "
			below = pad(below, utf8.RuneCountInString(above))
		}
		if m.chord != "" {
			above = pad(above, width())
			below = pad(below, utf8.RuneCountInString(above))
			above += m.chord + " "
		}
		if m.words != "" {
			below += m.words + " "
		}
	}
	o.Line("| " + strings.TrimRight(pad(above, width()), " ") + " |")
	o.Line("  " + below)
}

func pad(s string, width int) string {
	return s + strings.Repeat(" ", max(width-utf8.RuneCountInString(s), 0))
}
