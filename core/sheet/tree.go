package sheet

import "valleyside/core/song"

// LineKind says what a line of a sheet is.
type LineKind uint8

// The kinds of lines.
const (
	AsTyped LineKind = iota // kept as it stands: it has an error
	Blank
	Comment
	Setting
	PartName
	Music
)

// Line is one line of a sheet, as it is read and as it is written back. Which fields are
// set depends on its kind.
type Line struct {
	Kind   LineKind
	Text   string   // Comment, PartName, Setting in its canonical form, or the line AsTyped
	Player string   // Music: who plays it, empty for the first player
	From   int      // Music: the bar that it replaces, in a part that is like another; 0 elsewhere
	Bars   []Bar    // Music
	Words  []string // Music: what is sung to each bar; such a line has no Bars
	Times  int      // Music: how often it is played
	Part   int      // Music: index of the part that it belongs to
}

// Bar is a bar as it is typed.
type Bar struct {
	Same   bool       // typed as %
	Unsure bool       // a ? stands behind its last slot
	Meter  song.Meter // that is written in front of it; the zero Meter is none
	Slots  []Slot     // they share the bar equally
	Column int        // where it begins, in characters, from 1; 0 where it was not read
}

// SlotKind says what a slot is.
type SlotKind uint8

// The kinds of slots.
const (
	Plays   SlotKind = iota // an event of any kind, silence as well
	Sustain                 // -
	Bracket                 // ( … )
)

// Slot is one slot of a bar.
type Slot struct {
	Kind   SlotKind
	Event  song.Event // of one that Plays: without its time
	Group  []Slot     // of a Bracket: they share it equally
	Number string     // of a chord that is typed as a degree of the key
	Column int        // in characters, from 1; 0 where it was not read
	Unread bool       // what is typed there is no sign; silence stands in for it
}

// Each calls do for every slot of a line that is no Bracket, in the order in which they
// are typed, with the index of its bar.
func (l *Line) Each(do func(bar int, s *Slot)) {
	var walk func(bar int, slots []Slot)
	walk = func(bar int, slots []Slot) {
		for i := range slots {
			if slots[i].Kind == Bracket {
				walk(bar, slots[i].Group)
			} else {
				do(bar, &slots[i])
			}
		}
	}
	for i := range l.Bars {
		walk(i, l.Bars[i].Slots)
	}
}
