// Package drill makes exercises out of the hard places of a version: for what asks
// most of the hands at a moment a sheet of its own, which can be seen, heard, played
// along to and printed, and easier ones below it.
//
// What a teacher does is in builders, a function for each kind of demand: a shift is
// slid on one string and back, a change is taken and let go in time, a stretch is
// played higher up and brought down, a crossing is played on open strings, a pace in
// bursts, an off-beat on muted strings first, a mute is plucked string by string.
package drill

import (
	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Place is a moment of a version, and what of it is practised.
type Place struct {
	Song    *song.Song
	Version *arrange.Version
	Bar     int // written, from 0
	Event   int // of the bar, from 0
	For     grade.Demand
}

// How is the way to practise something.
type How uint8

// The ways, those of one demand together, the easier after what it is easier than.
const (
	SlideBack      How = iota // slid to the place and back on one string, then as it is
	SlideHalf                 // the same over half the way
	TakeAndLetGo              // taken and let go in time
	TakeSlowly                // the same with a bar for each
	BringDown                 // the shape higher up, where frets lie closer, and brought down
	StayUp                    // only as far down as is easy
	OnOpenStrings             // the rhythm on open strings
	TwoStrings                // back and forth between the two strings
	Bursts                    // two, four, eight notes at a time
	SlowBursts                // the same at half the pace
	MutedFirst                // struck dead, then with a ghost stroke on each beat
	Subdivided                // the hand keeps moving, and the strokes of the rhythm are louder
	StringByString            // every string plucked alone, the silent ones too
	SilentStrings             // only those that must be silent
	OneByOne                  // the strings of the shape one by one, then together
	FewerStrings              // the same with the thickest of them alone
	Alone                     // the ornament by itself, again and again
	Target                    // the note that it leads to first
)

// Exercise is one sheet to practise.
type Exercise struct {
	How   How
	Bars  []song.Bar
	Meter song.Meter
	Feel  song.Feel
}

// Drill is what a hard place is practised with: the exercise itself, and those that
// are easier.
type Drill struct {
	Place     Place
	Exercises []Exercise
}

// builders make the exercises for each demand.
var builders = [...]func(*spot) []Exercise{
	grade.Reach: bringDown, grade.Fingers: oneByOne, grade.Force: bringDown, grade.Muting: stringByString,
	grade.Shift: slideBack, grade.Change: takeAndLetGo, grade.Crossing: onOpenStrings, grade.Speed: bursts,
	grade.Rhythm: mutedFirst, grade.Ornament: alone, grade.Unlearnt: unlearnt,
}

// Of makes the drill of a place. ok is false where nothing can be made of it: there is
// nothing to come from, or nothing to hold.
func Of(p Place) (d Drill, ok bool) {
	d = Drill{Place: p, Exercises: builders[p.For](newMoment(p))}
	return d, len(d.Exercises) > 0
}

// Song is an exercise as a song of one part, at the tempo at which it is practised.
func (d *Drill) Song(e *Exercise, title string, tempo float64) *song.Song {
	in := d.Place.Song
	key := in.Parts[d.Place.Version.Part].Key
	part := song.Part{Name: partName, Key: key, Meter: e.Meter, Tempo: tempo, Feel: e.Feel, Lines: []song.Line{{Bars: e.Bars, Times: 1}}}
	return &song.Song{Title: title, Key: key, Meter: e.Meter, Tempo: tempo, Feel: e.Feel, Tuning: in.Tuning, Capo: in.Capo, Names: in.Lift().Names,
		Parts: []song.Part{part}, Order: []song.Leg{{Part: 0, Times: 1}}}
}

// partName is what the one part of an exercise is called.
const partName = "Drill"

// spot is a place and what is around it.
type spot struct {
	Place
	part     *song.Part
	from, to *arrange.Event // from is nil where nothing comes before
	gap      pitch.Frac     // from one to the other, in whole notes
}

func newMoment(p Place) *spot {
	m := &spot{Place: p, part: &p.Song.Parts[p.Version.Part], to: &p.Version.Bars[p.Bar].Events[p.Event]}
	m.from, m.gap = m.before()
	return m
}

// before is the event before the place that is held by other fingers or struck on
// other strings, that of the end of the part for its first.
func (m *spot) before() (*arrange.Event, pitch.Frac) {
	bars := m.Version.Bars
	gap := m.to.Start
	for n, b, e := 0, m.Bar, m.Event-1; n <= len(bars); n++ {
		if e >= 0 {
			return &bars[b].Events[e], gap.Sub(bars[b].Events[e].Start)
		}
		gap = gap.Sub(bars[b].Measure.Lead)
		b = (b + len(bars) - 1) % len(bars)
		e = len(bars[b].Events) - 1
		gap = gap.Add(bars[b].Measure.Meter.Bar())
	}
	return nil, gap
}

// A slot is what is played on one of the equal shares of a bar; the zero slot goes on
// sounding.
type slot struct {
	event song.Event
	plays bool
}

var (
	goOn = slot{}
	rest = slot{song.Event{Kind: song.Rest}, true}
	dead = slot{song.Event{Kind: song.Strum}, true}
)

// Shape is a fingering with the name of its chord, where it has one.
type Shape struct {
	Chord chord.Chord // the zero Chord where it is written in notes
	hand.Fingering
}

// ShapeOf is what is held at an event.
func ShapeOf(e *arrange.Event) Shape {
	s := Shape{Fingering: e.Fingering}
	if e.From.Kind == song.Chord {
		s.Chord, _ = e.Name()
	}
	return s
}

// slot is the shape as it is typed: its chord with its voicing, or its notes.
func (s Shape) slot() slot {
	if s.Chord.Symbol != "" {
		return slot{song.Event{Kind: song.Chord, Chord: s.Chord, Frets: s.Frets}, true}
	}
	var e song.Event
	for _, str := range sounding(s.Fingering) {
		e.Notes = append(e.Notes, song.Note{String: str, Fret: s.Frets.On(str)})
	}
	return slot{e, len(e.Notes) > 0}
}

// bar is a bar of equal slots.
func bar(m song.Meter, slots ...slot) song.Bar {
	var b song.Bar
	each := m.Bar().Div(pitch.Whole(int64(len(slots))))
	for i, s := range slots {
		if !s.plays {
			if n := len(b.Events); n > 0 {
				b.Events[n-1].Length = b.Events[n-1].Length.Add(each)
			}
			continue
		}
		e := s.event
		e.Start, e.Length = each.Mul(pitch.Whole(int64(i))), each
		b.Events = append(b.Events, e)
	}
	return b
}
