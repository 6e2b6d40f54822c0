package sheet

import (
	"strings"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Spot is what stands at a place in a sheet, as where the cursor is. A field that has
// nothing to say there is zero.
type Spot struct {
	Line *Line // nil beyond the end of the sheet
	Part int   // index into Song.Parts, −1 above the first
	Bar  int   // written bar of the part, from 1
	// Typed is the bar as it is typed, Slot the innermost slot, Group the brackets that
	// it stands in. Of a Bracket itself, the cursor is on its opening sign.
	Typed *Bar
	Slot  *Slot
	Group *Slot
	// Event is what begins at the slot, or what it holds, and Since the bar of the player
	// in which it begins, from 1: for the first player the written bar of the part. It is
	// nil in a bar that could not be read.
	Event   *song.Event
	Since   int
	Measure song.Measure // of the bar
}

// At tells what stands at a line and column, in characters, from 1. What lies between
// two signs belongs to the one before.
func (s *Sheet) At(line, column int) Spot {
	spot := Spot{Part: -1}
	if line < 1 || line > len(s.Lines) {
		return spot
	}
	spot.Line = &s.Lines[line-1]
	starts := s.starts()
	spot.Part = starts[line-1].part
	if spot.Part < 0 || len(spot.Line.Bars) == 0 {
		if spot.Line.Words != nil {
			spot.Bar = starts[line-1].bar
		}
		return spot
	}
	i := len(spot.Line.Bars) - 1
	for i > 0 && spot.Line.Bars[i].Column >= column {
		i--
	}
	spot.Typed = &spot.Line.Bars[i]
	if starts[line-1].bar > 0 {
		spot.Bar = starts[line-1].bar + i
	}
	if spot.Bar > s.Song.Parts[spot.Part].Written() {
		spot.Bar = 0
	}
	spot.find(spot.Typed.Slots, column)
	s.follow(&spot, line)
	return spot
}

// find goes down to the slot that a column belongs to.
func (spot *Spot) find(slots []Slot, column int) {
	for len(slots) > 0 {
		i := len(slots) - 1
		for i > 0 && slots[i].Column > column {
			i--
		}
		spot.Slot = &slots[i]
		if spot.Slot.Kind != Bracket || column <= spot.Slot.Column || len(spot.Slot.Group) == 0 {
			return
		}
		spot.Group, slots = spot.Slot, spot.Slot.Group
	}
}

// follow finds the event of a slot among those of the song.
func (s *Sheet) follow(spot *Spot, line int) {
	p := &s.Song.Parts[spot.Part]
	if spot.Bar > 0 {
		spot.Measure = p.Measure(&p.Bars()[spot.Bar-1])
	}
	if spot.Slot == nil || spot.Slot.Kind == Bracket {
		return
	}
	bars := barsOf(p, spot.Line.Player)
	if spot.Line.Player == "" {
		bars = bars[:spot.Bar]
	}
	for i := range bars {
		for j := range bars[i].Events {
			e := &bars[i].Events[j]
			here := e.Line == line && e.Column == spot.Slot.Column
			before := e.Line < line || e.Line == line && e.Column < spot.Slot.Column
			if here && spot.Event == nil || spot.Slot.Kind == Sustain && (here || before) {
				spot.Event, spot.Since = e, i+1
			}
		}
	}
}

// start is where a line of a sheet belongs: the part, −1 for none, and of a line of bars
// the written bar with which it begins, from 1, 0 where that is none.
type start struct{ part, bar int }

// starts tells of every line where it belongs.
func (s *Sheet) starts() []start {
	list := make([]start, len(s.Lines))
	part, next, beside, like := -1, 1, 1, false
	seen := map[string]bool{}
	for i := range s.Lines {
		l := &s.Lines[i]
		switch {
		case l.Kind == PartName:
			part, next, beside, like = -1, 1, 1, false
			if i, ok := s.Song.PartNamed(l.Text); ok && !seen[l.Text] {
				part = i
			}
			seen[l.Text] = true
		case l.Kind == Setting:
			like = like || strings.HasPrefix(l.Text, "like:")
		}
		list[i].part = part
		switch bars := len(l.Bars); {
		case part < 0 || bars == 0 && l.Words == nil:
		case l.From > 0:
			list[i].bar = l.From
			if l.Player == "" {
				beside = l.From
			}
		case l.Player == "" && like: // it could not be placed
		case l.Player == "":
			list[i].bar, beside, next = next, next, next+bars
		default:
			list[i].bar = beside
		}
	}
	return list
}

// Pickup is how long the first bar is to be, in beats, of a part that has a pickup and no
// bars yet; it is 0 where the next bar is a whole one.
func (s *Sheet) Pickup(part int) pitch.Frac {
	none := pitch.Whole(0)
	if part < 0 || s.Song.Parts[part].Written() > 0 {
		return none
	}
	for i, at := range s.starts() {
		if text, ok := strings.CutPrefix(s.Lines[i].Text, "pickup: "); ok && at.part == part && s.Lines[i].Kind == Setting {
			if beats, err := parseBeats(text); err == nil {
				return beats
			}
		}
	}
	return none
}

// Begin is where in a sheet something begins: line and column, from 1.
type Begin struct{ Line, Column int }

// Begins is where a part begins, and its written bars. A bar that is taken over from
// another part begins nowhere: its place is zero.
type Begins struct {
	Begin
	Bars []Begin
}

// Begins tells of every part where it begins.
func (s *Sheet) Begins() []Begins {
	list := make([]Begins, len(s.Song.Parts))
	for i := range list {
		list[i].Bars = make([]Begin, s.Song.Parts[i].Written())
	}
	for n, at := range s.starts() {
		l := &s.Lines[n]
		if at.part < 0 {
			continue
		}
		b := &list[at.part]
		if l.Kind == PartName {
			b.Begin = Begin{n + 1, 1}
		}
		if l.Player != "" || at.bar == 0 {
			continue
		}
		for i := range l.Bars {
			if bar := at.bar + i; bar <= len(b.Bars) && b.Bars[bar-1] == (Begin{}) {
				b.Bars[bar-1] = Begin{n + 1, l.Bars[i].Column}
			}
		}
	}
	return list
}
