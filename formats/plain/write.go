package plain

import (
	"fmt"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/song"
)

// Text puts a text together: lines, settings, and what stands at the head of a song and
// of a part.
type Text struct{ text strings.Builder }

func (o *Text) String() string { return o.text.String() }

// Line writes a line, without spaces at its end.
func (o *Text) Line(s string) {
	o.text.WriteString(strings.TrimRight(s, " "))
	o.text.WriteByte('\n')
}

// Set writes a setting, or nothing where it has no value.
func (o *Text) Set(name, value string) {
	if value != "" {
		o.Line(name + ": " + value)
	}
}

// Song writes the title of a song, who made it and its settings with the roadmap; how the
// strings are tuned where that is asked for.
func (o *Text) Song(s *song.Song, tuned bool) {
	o.Line(s.Title)
	if s.By != "" {
		o.Line("by " + s.By)
	}
	o.Line("")
	o.Set("Key", s.Key.String())
	o.Set("Time", s.Meter.String())
	o.Set("Tempo", Number(s.Tempo))
	if s.Feel != (song.Feel{}) {
		o.Set("Feel", s.Feel.String())
	}
	if tuned {
		o.Set("Tuning", tuning(s.Tuning))
	}
	if s.Capo > 0 {
		o.Set("Capo", strconv.Itoa(s.Capo))
	}
	o.naming(s)
	var legs []string
	for _, l := range s.Order {
		leg := s.Parts[l.Part].Name
		if l.Times > 1 {
			leg += " x" + strconv.Itoa(l.Times)
		}
		legs = append(legs, leg)
	}
	o.Set("Order", strings.Join(legs, ", "))
}

// Part writes the name of a part and the settings in which it differs from its song.
func (o *Text) Part(s *song.Song, p *song.Part) {
	o.Line("")
	o.Line("[" + p.Name + "]")
	if p.Key != s.Key {
		o.Set("Key", p.Key.String())
	}
	if p.Meter != s.Meter {
		o.Set("Time", p.Meter.String())
	}
	if p.Tempo != s.Tempo {
		o.Set("Tempo", Number(p.Tempo))
	}
	if p.Feel != s.Feel {
		o.Set("Feel", p.Feel.String())
	}
	if len(p.Lines) > 0 {
		if m := p.Measure(&p.Lines[0].Bars[0]); m.Lead.Num() > 0 {
			o.Set("Pickup", m.Length().Div(m.Meter.Beat()).String())
		}
	}
	o.Set("Note", p.Note)
	o.Set("Cue", p.Cue)
	o.Set("Sound", p.Sound)
	if p.Plucked {
		o.Set("Pluck", "yes")
	}
}

// Number writes a number as short as it can be.
func Number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// tuning is a tuning by its notes, low to high, and its offset.
func tuning(t neck.Tuning) string {
	without := t
	without.Cents = 0
	text := t.Letters()
	if again, err := neck.Parse(text); err != nil || again.Up(0) != without {
		names := make([]string, 0, neck.Strings)
		for _, n := range t.Spelled() {
			names = append(names, n.String())
		}
		text = strings.Join(names, " ")
	}
	if t.Cents != 0 {
		text += " " + Number(t.Cents) + " cents"
	}
	return text
}

// naming writes what the names of chords are where what is fingered and what sounds have
// different ones, with the first of them as it is heard or held.
func (o *Text) naming(s *song.Song) {
	lift := s.Lift()
	for i := range s.Parts {
		p := &s.Parts[i]
		for _, b := range p.Bars() {
			for j := range b.Events {
				switch e := &b.Events[j]; {
				case e.Kind != song.Chord || !lift.Any():
					continue
				case lift.Shapes():
					o.Set("Chords", fmt.Sprintf("%s (%s sounds %s)", lift.Names, e.Chord.Symbol, lift.Sounds(e.Chord, p.Key).Symbol))
				default:
					o.Set("Chords", fmt.Sprintf("%s (%s is fingered as %s)", lift.Names, e.Chord.Symbol, lift.Shape(e.Chord, p.Key).Symbol))
				}
				return
			}
		}
	}
	o.Set("Chords", s.Names.String())
}
