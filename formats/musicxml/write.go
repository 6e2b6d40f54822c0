package musicxml

import (
	"encoding/xml"
	"io"
	"math"
	"slices"
	"strconv"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/song"
)

// Software is what a file says it was written by; Read knows its own files by it.
const Software = "Valleyside"

// Write writes a song, what is played of each part as music has it, as an uncompressed
// partwise score. Parts stand in the order of the roadmap, a rehearsal mark over each; a
// part that the roadmap leaves out stands after the end.
func Write(w io.Writer, s *song.Song, music []play.Music) error {
	if _, err := io.WriteString(w, xml.Header+`<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">`+"\n"); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", " ")
	if err := e.Encode(score(s, music)); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// score makes the elements.
func score(s *song.Song, music []play.Music) *scorePartwise {
	slots := layout(s, music)
	out := &scorePartwise{Version: "4.0", Work: &work{s.Title}, Identification: &identification{
		Encoding: &encoding{Software: []string{Software}, Supports: []supports{{Element: "print", Attribute: "new-system", Type: "yes", Value: "yes"}}},
		Fields:   fields(s),
	}}
	if s.By != "" {
		out.Identification.Creators = []typedText{{"composer", s.By}}
	}
	divisions := divide(slots)
	for i, name := range append([]string{"Guitar"}, play.Players(s)...) {
		id := strconv.Itoa(i + 1)
		out.PartList.Parts = append(out.PartList.Parts, scorePart{ID: "P" + id, Name: name,
			Instrument: &scoreInstrument{"P" + id + "-I1", name}, MIDI: &midiInstrument{"P" + id + "-I1", channel(i), steelGuitar}})
		w := writer{song: s, player: i, divisions: divisions, last: map[neck.String]*note{}, kinds: knownKinds{}}
		for j := range slots {
			w.measure(&slots[j], j+1 == len(slots))
		}
		for _, m := range w.measures { // when no later note changes an earlier one any more
			for j, e := range m.Elements {
				if n, ok := e.(*note); ok {
					m.Elements[j] = printNote(n)
				}
			}
		}
		out.Parts = append(out.Parts, part{ID: "P" + id, Measures: w.measures})
	}
	return out
}

// steelGuitar is the number of a steel-stringed guitar among the General MIDI sounds,
// from 1.
const steelGuitar = 26

// channel is the MIDI channel of a player, from 1; the tenth is for drums.
func channel(player int) int {
	c := player%15 + 1
	if c >= 10 {
		c++
	}
	return c
}

// fields are the settings for which the format has no place of their own.
func fields(s *song.Song) []field {
	list := []field{{"time", s.Meter.String()}, {"tempo", number(s.Tempo)}, {"feel", s.Feel.String()}, {"tuning", s.Tuning.String()}}
	if s.Key.Valid() {
		list = append(list, field{"key", s.Key.String()})
	}
	if s.Names != song.Unsaid {
		list = append(list, field{"chords", s.Names.String()})
	}
	for i := range s.Parts {
		list = append(list, field{partField, s.Parts[i].Name}, field{partTimeField, s.Parts[i].Meter.String()})
	}
	return list
}

// The names of the fields that name the parts in their order, each with its time, which
// no bar of it may have.
const (
	partField     = "part"
	partTimeField = "part-time"
)

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// mostDivisions is into how many parts a quarter note is divided at most; what is finer
// goes to the nearest.
const mostDivisions = 1 << 24

// divide notates all measures, and finds into how many parts a quarter note has to be
// divided so that every note begins with one.
func divide(slots []slot) int64 {
	d := int64(1)
	add := func(at pitch.Frac) {
		if n := at.Den(); d <= mostDivisions && d%n != 0 {
			d = pitch.LCM(d, at.Mul(pitch.Whole(4)).Den())
		}
	}
	for i := range slots {
		s := &slots[i]
		add(s.measure.Lead)
		for k := range s.bars {
			s.bars[k].pieces = notate(s.measure, s.onsets(k))
			for _, p := range s.bars[k].pieces {
				add(p.to)
			}
		}
	}
	return min(d, mostDivisions)
}

// onsets lists where something begins in a measure for a player, words included.
func (s *slot) onsets(player int) []pitch.Frac {
	list := make([]pitch.Frac, 0, len(s.bars[player].events)+2)
	for i := range s.bars[player].events {
		list = append(list, s.bars[player].events[i].Start)
	}
	if player == 0 && s.words != nil {
		for _, verse := range s.words {
			for _, w := range verse {
				list = append(list, w.at)
			}
		}
		slices.SortFunc(list, pitch.Frac.Cmp)
		list = slices.Compact(list)
	}
	return list
}

// writer writes the measures of a player.
type writer struct {
	song      *song.Song
	player    int
	divisions int64
	measures  []measure
	elements  []any
	counted   int
	meter     song.Meter
	key       pitch.Key
	feel      song.Feel
	tempo     float64 // quarter notes per minute
	ring      bool    // all notes of the part ring
	same      bool    // the measure before is the same as the one before it
	kinds     knownKinds
	sounding  *event
	held      []*note               // the notes that were written last, where they may go on
	last      map[neck.String]*note // by string: the note that sounds
}

func (w *writer) add(e any) { w.elements = append(w.elements, e) }

// duration is how long a stretch of a bar lasts in divisions.
func (w *writer) duration(from, to pitch.Frac) string {
	at := func(f pitch.Frac) int64 { return int64(math.Round(f.Float() * 4 * float64(w.divisions))) }
	return strconv.FormatInt(at(to)-at(from), 10)
}

func (w *writer) measure(s *slot, last bool) {
	w.elements, w.ring = nil, s.part.Ring
	m := measure{}
	if s.measure.Lead.Num() > 0 {
		m.Implicit, m.Number = "yes", "X"+strconv.Itoa(len(w.measures))
	} else {
		w.counted++
		m.Number = strconv.Itoa(w.counted)
	}
	if s.line && len(w.measures) > 0 {
		w.add(&printing{NewSystem: "yes"})
	}
	if s.begins {
		w.add(&barline{At: "left", Style: "heavy-light", Repeat: &repeat{Direction: "forward"}})
	}
	w.attributes(s)
	if s.leg {
		w.leg(s)
	}
	if s.times > 0 && s.ofLine && w.player == 0 {
		w.add(&direction{Placement: "above", Types: []directionType{{Words: []string{"×" + strconv.Itoa(s.times)}}}})
	}
	w.notes(s)
	if s.fine && !last && w.player == 0 {
		w.add(&direction{Placement: "above", Types: []directionType{{Words: []string{"Fine"}}}, Sound: &sound{Fine: "yes"}})
	}
	switch {
	case s.times > 0:
		w.add(&barline{At: "right", Style: "light-heavy", Repeat: &repeat{Direction: "backward", Times: s.times}})
	case last || s.fine:
		w.add(&barline{At: "right", Style: "light-heavy"})
	}
	m.Elements = w.elements
	w.measures = append(w.measures, m)
}

// attributes writes what changes in the staff at a measure.
func (w *writer) attributes(s *slot) {
	a := attributes{}
	first := len(w.measures) == 0
	if first {
		a.Divisions = strconv.FormatInt(w.divisions, 10)
	}
	if first || s.part.Key != w.key {
		w.key = s.part.Key
		a.Keys = []key{writeKey(w.key)}
	}
	if first || s.measure.Meter != w.meter {
		w.meter = s.measure.Meter
		a.Times = []timeSign{{[]string{strconv.Itoa(w.meter.Count)}, []string{strconv.Itoa(w.meter.Unit)}}}
	}
	if first {
		a.Clefs = []clef{{Sign: "TAB", Line: 5}}
		a.Staff = []staffDetails{w.staff()}
	}
	if same := s.bars[w.player].same; same != w.same {
		kind := "stop"
		if same {
			kind = "start"
		}
		a.Styles = []measureStyle{{Repeat: &measureRepeat{kind, map[string]string{"start": "1"}[kind]}}}
		w.same = same
	}
	if a.Divisions != "" || a.Keys != nil || a.Times != nil || a.Styles != nil {
		w.add(&a)
	}
	if s.bars[w.player].unsure {
		w.add(&direction{Placement: "above", Types: []directionType{{Words: []string{unsureWord}}}})
	}
}

func writeKey(k pitch.Key) key {
	fifths, mode := 0, "none"
	if k.Valid() {
		fifths, mode = k.Signature(), string(k.Mode)
	}
	return key{&fifths, mode}
}

// staff is the staff of tablature: six lines, the lowest for the thickest string.
func (w *writer) staff() staffDetails {
	d := staffDetails{Lines: neck.Strings, Capo: w.song.Capo}
	for i, s := range w.song.Tuning.Spelled() {
		d.Tuning = append(d.Tuning, staffTuning{i + 1, string(s.Letter), alter(s.Note), s.Octave})
	}
	return d
}

// leg writes what stands above the first bar of a part.
func (w *writer) leg(s *slot) {
	p := s.part
	if w.player == 0 {
		w.add(&direction{Placement: "above", Types: []directionType{{Rehearsal: []string{p.Name}}}})
	}
	quarters := p.Tempo * p.Meter.Beat().Float() * 4
	if w.player == 0 && (quarters != w.tempo || p.Feel != w.feel) {
		d := &direction{Placement: "above", Types: []directionType{{Metronome: beatMark(p)}}, Sound: &sound{Tempo: number(quarters)}}
		if p.Feel != w.feel {
			d.Sound.Swing = writeSwing(p.Feel)
		}
		w.tempo, w.feel = quarters, p.Feel
		w.add(d)
	}
	pluck := ""
	if p.Plucked {
		pluck = pluckWord
	}
	for _, said := range [][2]string{{"", pluck}, {"", p.Note}, {cueWord, p.Cue}, {soundWord, p.Sound}} {
		if w.player == 0 && said[1] != "" {
			w.add(&direction{Placement: "above", Types: []directionType{{Words: []string{said[0] + said[1]}}}})
		}
	}
}

// What stands before the cue and the sound of a part, where it is played without a pick,
// and at a bar of which nobody is sure.
const (
	pluckWord  = "with the fingers"
	unsureWord = "?"
	cueWord    = "Cue: "
	soundWord  = "Sound: "
)

func beatMark(p *song.Part) *metronome {
	m := &metronome{Unit: "quarter", Minute: number(p.Tempo)}
	if p.Meter.Compound() {
		m.Dots = []empty{{}}
		return m
	}
	m.Unit = map[int]string{1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd"}[p.Meter.Unit]
	return m
}

// writeSwing is how the eighths of a feel relate.
func writeSwing(f song.Feel) *swing {
	if f == (song.Feel{}) {
		return &swing{Straight: &empty{}}
	}
	if f == song.Swing {
		return &swing{First: 2, Second: 1, Type: "eighth"}
	}
	first, second := int64(math.Round(f.Share*1000)), int64(math.Round((100-f.Share)*1000))
	r := pitch.F(first, second)
	return &swing{First: int(r.Num()), Second: int(r.Den()), Type: "eighth"}
}

// notes writes what a player has in a measure, each stretch with what sounds in it.
func (w *writer) notes(s *slot) {
	b := &s.bars[w.player]
	next := 0
	for i := range b.pieces {
		p := &b.pieces[i]
		begins := next < len(b.events) && b.events[next].Start == p.from
		if begins {
			e := &b.events[next]
			next++
			w.sounding, w.held = nil, nil
			if e.Sounds() {
				w.sounding = e
			} else {
				clear(w.last)
			}
			w.names(e)
		}
		first := len(w.elements)
		w.piece(s, p, begins)
		if n, ok := w.elements[first].(*note); ok && w.player == 0 {
			n.Lyrics = lyrics(s, p.from)
		}
	}
}

// names writes the chord's name over an event.
func (w *writer) names(e *event) {
	switch e.Kind {
	case song.Chord:
		h := writeHarmony(e.Chord, e.fingering(), w.kinds)
		if e.given {
			h.Type = explicit
		}
		w.add(h)
	case song.NoChord:
		w.add(noChord())
	}
}

// piece writes the notes of a stretch, or a rest.
func (w *writer) piece(s *slot, p *piece, begins bool) {
	make := func() *note {
		n := &note{Duration: w.duration(p.from, p.to), Voice: "1", Type: p.kind}
		for range p.dots {
			n.Dots = append(n.Dots, empty{})
		}
		if p.mod != (timeMod{1, 1}) {
			n.TimeMod = &p.mod
		}
		return n
	}
	tuplets := func(n *note) {
		if p.begins {
			n.notation().Tuplets = append(n.notation().Tuplets, tuplet{Type: "start"})
		}
		if p.ends {
			n.notation().Tuplets = append(n.notation().Tuplets, tuplet{Type: "stop"})
		}
	}
	var played []*note
	e := w.sounding
	goes := e != nil && !begins && len(w.held) > 0 // on from the stretch before
	if e != nil && (begins || goes) {
		played = w.struck(e, make, begins)
	}
	if len(played) == 0 {
		n := make()
		n.Rest = &rest{}
		if p.from == s.measure.Lead && p.to == s.measure.Meter.Bar() && p.from.Num() == 0 {
			n.Rest.Measure, n.Type, n.Dots = "yes", "", nil
		}
		tuplets(n)
		w.add(n)
		w.held = nil
		return
	}
	for i, n := range played {
		if i > 0 {
			n.Chord = &empty{}
		} else {
			tuplets(n)
		}
		if goes {
			w.held[i].tied("start")
			n.tied("stop")
		}
		w.add(n)
	}
	if goes {
		for s, n := range w.last { // the note goes on in another
			for i := range w.held {
				if n == w.held[i] {
					w.last[s] = played[i]
				}
			}
		}
	}
	w.held = played
	if e.Event.Dead() {
		w.held = nil
	}
}

// tied writes that a note is tied, both as it sounds and as it looks.
func (n *note) tied(kind string) {
	n.Ties = append(n.Ties, tie{kind})
	n.notation().Tied = append(n.notation().Tied, tie{kind})
	slices.SortStableFunc(n.Ties, func(a, b tie) int { return order(a) - order(b) })
}

// order puts the end of a tie before the beginning of the next.
func order(t tie) int { return map[string]int{"stop": 0, "start": 1}[t.Type] }

func (n *note) notation() *notations {
	if n.Notations == nil {
		n.Notations = []notations{{}}
	}
	return &n.Notations[0]
}

func (n *note) head() *notehead {
	if n.Notehead == nil {
		n.Notehead = &notehead{Shape: "normal"}
	}
	return n.Notehead
}

func (n *note) technical() *technical {
	if n.notation().Technical == nil {
		n.notation().Technical = &technical{}
	}
	return n.notation().Technical
}

func (n *note) articulation() *articulations {
	if n.notation().Articulations == nil {
		n.notation().Articulations = &articulations{}
	}
	return n.notation().Articulations
}

// lyrics are the words that are sung from a moment on.
func lyrics(s *slot, at pitch.Frac) (list []lyric) {
	for verse, words := range s.words {
		for _, word := range words {
			if word.at == at {
				list = append(list, lyric{Number: strconv.Itoa(verse + 1), Syllabic: []string{"single"}, Text: []string{word.text}})
			}
		}
	}
	return list
}
