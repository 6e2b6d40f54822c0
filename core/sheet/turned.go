package sheet

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// turnedNote is a note whose string stands before its fret: A7 where 7A is meant.
var turnedNote = regexp.MustCompile(`^([hpstr/\\]?)([EADGBe])(\d{1,2})(\D.*)?$`)

// turned writes a slot as it is typed where the strings of its notes stand before their
// frets: "7A+9D" for "A7+9D". ok is false where they do not, or where the slot is nothing
// then either.
func turned(text string) (meant string, ok bool) {
	pieces := strings.Split(text, "+")
	for i, piece := range pieces {
		m := turnedNote.FindStringSubmatch(piece)
		if m == nil {
			continue
		}
		fret, err := strconv.Atoi(m[3])
		if err != nil || fret > neck.MaxFret {
			return "", false
		}
		pieces[i], ok = m[1]+strconv.Itoa(fret)+m[2]+m[4], true
	}
	meant = strings.Join(pieces, "+")
	if !ok || !startsNote(meant) {
		return "", false
	}
	_, wrong := parseNotes(meant)
	return meant, wrong == nil
}

// stretch is what begins in a slot of a bar and how long it lasts, as a share of it.
type stretch struct {
	slot  *Slot
	bar   int
	share pitch.Frac
}

// stretches lists what is typed on a line of bars; what a - makes longer is one.
func (l *Line) stretches() []stretch {
	var list []stretch
	var walk func(bar int, slots []Slot, share pitch.Frac)
	walk = func(bar int, slots []Slot, share pitch.Frac) {
		share = share.Mul(pitch.F(1, int64(max(len(slots), 1))))
		for i := range slots {
			switch s := &slots[i]; {
			case s.Kind == Bracket:
				walk(bar, s.Group, share)
			case s.Kind == Plays:
				list = append(list, stretch{s, bar, share})
			case len(list) > 0:
				last := &list[len(list)-1]
				last.share = last.share.Add(share)
			}
		}
	}
	for i := range l.Bars {
		walk(i, l.Bars[i].Slots, pitch.Whole(1))
	}
	return list
}

// mostOfTurned is how long a chord lasts at most that may be a note typed the wrong way
// round, as a share of its bar: a riff may well end on a chord.
var mostOfTurned = pitch.F(1, 4)

// turnedChord tells what a chord would be as a note: A7 is 7A. Power chords stand among
// single notes in many a riff and are never meant.
func turnedChord(s *Slot) (meant string, ok bool) {
	e := &s.Event
	if e.Kind != song.Chord || e.Frets != neck.NoFrets || strings.HasSuffix(e.Chord.Symbol, "5") {
		return "", false
	}
	return turned(e.Chord.Symbol)
}

// noticeTurned warns of chords that stand among single notes of which they look like one
// typed the wrong way round, and that are a chord nowhere else in the sheet.
func (p *parser) noticeTurned() {
	var suspects []*Slot
	chords := map[string]bool{} // that stand where chords do
	for i := range p.sheet.Lines {
		l := &p.sheet.Lines[i]
		may, others := false, false
		l.Each(func(_ int, s *Slot) {
			if s.Event.Kind == song.Chord {
				_, like := turnedChord(s)
				may, others = may || like, others || !like
			}
		})
		if !may {
			continue
		}
		list := l.stretches()
		for i := range list {
			if s := list[i].slot; s.Event.Kind != song.Chord {
				continue
			} else if !others && amongNotes(list, i) {
				suspects = append(suspects, s)
			} else {
				chords[s.Event.Chord.Symbol] = true
			}
		}
	}
	for _, s := range suspects {
		name := s.Event.Chord.Symbol
		if meant, ok := turnedChord(s); ok && !chords[name] {
			p.warnf(s.Event.Line, s.Column, fmt.Sprintf("write %s for the note; where the chord is meant, give its voicing after =", meant),
				"%s among single notes is read as a chord", name)
		}
	}
}

// amongNotes tells whether a chord is short, stands between single notes and is alone of
// its name in its bar: a bass note and a strum in turn are no slip.
func amongNotes(list []stretch, i int) bool {
	note := func(i int) bool {
		return i >= 0 && i < len(list) && list[i].slot.Event.Kind == song.Notes && len(list[i].slot.Event.Notes) == 1
	}
	if !note(i-1) || !note(i+1) || mostOfTurned.Less(list[i].share) {
		return false
	}
	return !slices.ContainsFunc(list, func(o stretch) bool {
		return o.slot != list[i].slot && o.bar == list[i].bar && o.slot.Event.Kind == song.Chord && o.slot.Event.Chord.Symbol == list[i].slot.Event.Chord.Symbol
	})
}
