package arrange

import (
	"fmt"
	"slices"
)

// Rung is a kind of version: a step of the ladder from the easiest to the part
// as it is written.
type Rung string

// The rungs, roughly from the bottom of the ladder; which is easier than which
// in a part is measured, not assumed.
const (
	OneFinger Rung = "one-finger"
	TwoNote   Rung = "two-note"
	Octave    Rung = "octave"
	ThreeNote Rung = "three-note"
	// EasyChords plays chords by easier voicings that are chosen together, an
	// arpeggio as the chords that it spells, and what else is written in notes as
	// it is written.
	EasyChords Rung = "easy-chords"
	AsWritten  Rung = "as-written"
)

// rungRow is what sets one rung apart from the others.
type rungRow struct {
	rung  Rung
	title string
	// literal rungs play notes as they are written, with their ornaments.
	literal bool
	// strums makes an arpeggio the chords that it spells.
	strums bool
	// notes is how many notes it makes of one; what is written with as many is
	// that version already. 0 leaves notes as they are.
	notes int
	// refuses says why a part is not offered on the rung; nil offers it.
	refuses func(*score, setup) Fact
	// choose fills in the ways in which an event with a pitch can be played.
	choose func(*chooser)
}

// rows has a row for each rung.
var rows = []rungRow{
	{rung: OneFinger, title: "One finger", refuses: always, choose: (*chooser).oneFinger},
	{rung: TwoNote, title: "Two notes", notes: 2, refuses: noPower, choose: (*chooser).twoNote},
	{rung: Octave, title: "Octaves", notes: 2, refuses: noPower, choose: (*chooser).octave},
	{rung: ThreeNote, title: "Three notes", notes: 3, refuses: noPower, choose: (*chooser).threeNote},
	{rung: EasyChords, title: "Easier chords", literal: true, strums: true, refuses: noChords, choose: (*chooser).easier},
	{rung: AsWritten, title: "As written", literal: true, refuses: always, choose: (*chooser).asWritten},
}

// Rungs lists all rungs.
var Rungs = func() []Rung {
	list := make([]Rung, len(rows))
	for i := range rows {
		list[i] = rows[i].rung
	}
	return list
}()

// ParseRung reads the name of a rung.
func ParseRung(s string) (Rung, error) {
	if r := Rung(s); r.Valid() {
		return r, nil
	}
	return "", fmt.Errorf("%q is not a rung; use one-finger, two-note, octave, three-note, easy-chords or as-written", s)
}

// Valid tells whether there is such a rung.
func (r Rung) Valid() bool { return slices.Contains(Rungs, r) }

func (r Rung) row() *rungRow {
	for i := range rows {
		if rows[i].rung == r {
			return &rows[i]
		}
	}
	return &rows[len(rows)-1]
}

// Title is what the rung is called on a page.
func (r Rung) Title() string { return r.row().title }

// Literal tells whether notes are played as they are written, with their ornaments.
func (r Rung) Literal() bool { return r.row().literal }

// always offers a rung.
func always(*score, setup) Fact { return nil }

// noChords refuses easier chords where there are none to make easier.
func noChords(s *score, _ setup) Fact {
	if !s.hasChords() && !s.arpeggio() {
		return NoChordsHere
	}
	return nil
}

// noPower refuses chords on every note where they make no sense: on a lead line,
// on an arpeggio, and where they would have to lie too far up the neck.
func noPower(s *score, set setup) Fact {
	switch {
	case s.arpeggio():
		return ArpeggioHere
	case s.lead():
		return LeadLine
	}
	if typed, needed := s.tooHigh(set); needed > 0 {
		return TooHigh{typed, needed}
	}
	return nil
}
