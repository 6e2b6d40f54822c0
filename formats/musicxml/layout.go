package musicxml

import (
	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/song"
)

// slot is a measure of the score: a bar of a part, for all players.
type slot struct {
	part     *song.Part
	measure  song.Measure
	bars     []bar // of each player
	leg      bool  // a part begins here
	line     bool  // a line begins here
	begins   bool  // a repeat
	times    int   // what began ends here and is played so often; 0 is none
	ofLine   bool  // that is a line
	fine     bool  // the last that is played
	words    [][]sung
	unplayed bool
}

// sung is what is sung in a bar from a moment on.
type sung struct {
	at   pitch.Frac
	text string
}

// bar is what a player has in a measure.
type bar struct {
	same   bool
	unsure bool
	events []event
	pieces []piece // the notes for which there is room
}

// event is something that a player does, with its fingers.
type event struct {
	song.Event
	fingers [neck.Strings]hand.Finger
	plucks  [neck.Strings]song.Pluck
	dead    []neck.String // of a strum
	given   bool          // the sheet gives the shape of the chord
}

// layout lists the measures of a song in the order of its roadmap, and after those the
// parts that are not in it.
func layout(s *song.Song, music []play.Music) []slot {
	var slots []slot
	players := play.Players(s)
	played := make([]bool, len(s.Parts))
	parts := make([][]slot, len(s.Parts))
	for i := range s.Parts {
		parts[i] = layPart(&s.Parts[i], &music[i], players)
	}
	add := func(list []slot, times int) {
		if len(list) == 0 {
			return
		}
		from := len(slots)
		slots = append(slots, list...)
		slots[from].leg = true
		if last := len(slots) - 1; times > 1 {
			slots[from].begins, slots[last].times = true, times
		}
	}
	for _, l := range s.Order {
		played[l.Part] = true
		list := parts[l.Part]
		if !repeats(list) {
			add(list, l.Times)
			continue
		}
		for range l.Times {
			add(list, 1)
		}
	}
	if len(slots) > 0 {
		slots[len(slots)-1].fine = true
	}
	for i := range s.Parts {
		if !played[i] {
			from := len(slots)
			add(parts[i], 1)
			for j := range slots[from:] {
				slots[from+j].unplayed = true
			}
		}
	}
	return slots
}

// repeats tells whether something is repeated in some measures.
func repeats(list []slot) bool {
	for i := range list {
		if list[i].times > 0 {
			return true
		}
	}
	return false
}

// layPart lists the measures of a part. A line of which the passes differ, whose players
// repeat it differently, or into which something is held is written out.
func layPart(p *song.Part, m *play.Music, players []string) []slot {
	var slots []slot
	typed := m.Version.Typed(p)
	of := m.Version.TypedBars(p)
	sides := make([]*play.Side, len(players))
	for i, name := range players {
		for j := range m.Beside {
			if m.Beside[j].Player == name {
				sides[i] = &m.Beside[j]
			}
		}
	}
	at := 0
	for i := range typed.Lines {
		l := &typed.Lines[i]
		written, pass := of[at][0]-1, max(of[at][1], 1)
		times := l.Times
		besides := make([][]bar, len(players)) // a pass of each
		regular := of[at][1] == 0
		number := lineOf(p, written)
		for k, side := range sides {
			if side == nil {
				continue
			}
			s := &side.Part.Lines[number]
			besides[k] = sideBars(side, number)
			if s.Times != times || len(s.Bars) != len(l.Bars) || held(s) {
				regular = false
			}
		}
		passes := 1
		if (!regular || held(l)) && of[at][1] == 0 {
			times, passes = 1, l.Times
		}
		for n := range passes {
			from := len(slots)
			for j := range l.Bars {
				b := &l.Bars[j]
				s := slot{part: p, measure: p.Measure(b), line: j == 0}
				v := m.Version.In(written+j, pass)
				s.bars = append(s.bars, bar{same: b.Same, unsure: b.Unsure, events: fingered(b.Events, v)})
				for k, side := range sides {
					s.bars = append(s.bars, sideBar(p, side, besides[k], number, l, n+pass-1, j))
				}
				s.words = wordsOf(l, j)
				slots = append(slots, s)
			}
			if times > 1 {
				slots[from].begins = true
				slots[len(slots)-1].times, slots[len(slots)-1].ofLine = times, true
			}
		}
		at += len(l.Bars)
	}
	return slots
}

// held tells whether a line begins with what sounds before it, which is something else in
// its first pass than in the others.
func held(l *song.Line) bool {
	b := &l.Bars[0]
	return len(b.Events) == 0 || b.Events[0].Start != b.Lead
}

// lineOf is the index of the line on which a written bar stands, counted from 0.
func lineOf(p *song.Part, written int) int {
	for i := range p.Lines {
		if written < len(p.Lines[i].Bars) {
			return i
		}
		written -= len(p.Lines[i].Bars)
	}
	return len(p.Lines) - 1
}

// fingered are the events of a bar with the fingers of a version.
func fingered(events []song.Event, v *arrange.Bar) []event {
	list := make([]event, len(events))
	next := 0
	for i := range events {
		list[i].Event = events[i]
		for next < len(v.Events) && v.Events[next].Start.Less(events[i].Start) {
			next++
		}
		if next < len(v.Events) && v.Events[next].Start == events[i].Start && events[i].Sounds() {
			e := &v.Events[next]
			list[i].fingers, list[i].dead = e.Fingering.Fingers, e.Dead
			for _, n := range e.Notes {
				list[i].plucks[n.String.Index()] = n.Pluck
			}
			list[i].given = e.From.Kind == song.Chord && e.From.Frets == events[i].Frets
			list[i].Stroke, list[i].PalmMute = e.Stroke, e.Muted
			if one := events[i].Notes; len(one) == 1 && one[0].By != song.Picked {
				list[i].Stroke = song.NoStroke
			}
		}
	}
	return list
}

// sideBars are the bars of another player on a line, once.
func sideBars(side *play.Side, line int) []bar {
	first := 0
	for i := range line {
		first += len(side.Part.Lines[i].Bars)
	}
	typed := side.Version.Typed(&side.Part)
	bars := make([]bar, len(side.Part.Lines[line].Bars))
	for j := range bars {
		b := &typed.Lines[line].Bars[j]
		bars[j] = bar{same: b.Same, unsure: b.Unsure, events: fingered(b.Events, side.Version.In(first+j, 1))}
	}
	return bars
}

// sideBar is what another player has in a bar of a pass of a line. Where that player's
// bars are others, it is cut out of them.
func sideBar(p *song.Part, side *play.Side, bars []bar, number int, l *song.Line, pass, j int) bar {
	if side == nil {
		return bar{events: []event{{Event: song.Event{Start: l.Bars[j].Lead, Kind: song.Rest}}}}
	}
	of := side.Part.Lines[number].Bars
	same := len(of) == len(l.Bars)
	for k := 0; same && k < len(of); k++ {
		same = p.Measure(&of[k]) == p.Measure(&l.Bars[k])
	}
	if same {
		return bars[j]
	}
	// The time of the bar from the start of the line, in the bars of the other player.
	from := p.Lasts(l.Bars, pass).Add(p.Lasts(l.Bars[:j], 1))
	m := p.Measure(&l.Bars[j])
	to := from.Add(m.Length())
	at := pitch.Whole(0)
	var out bar
	for k := 0; at.Less(to) && len(of) > 0; k = (k + 1) % len(of) {
		length := p.Measure(&of[k]).Length()
		for _, e := range bars[k].events {
			when := at.Add(e.Start.Sub(of[k].Lead))
			if !when.Less(from) && when.Less(to) {
				e.Start = when.Sub(from).Add(m.Lead)
				out.events = append(out.events, e)
			}
		}
		at = at.Add(length)
	}
	return out
}

// wordsOf are the words of a bar of a line, by verse.
func wordsOf(l *song.Line, j int) [][]sung {
	if len(l.Words) == 0 {
		return nil
	}
	verses := make([][]sung, len(l.Words))
	for i, verse := range l.Words {
		for _, s := range verse {
			if s.Bar == j {
				verses[i] = append(verses[i], sung{s.Start, s.Text})
			}
		}
	}
	return verses
}
