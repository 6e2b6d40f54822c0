// Package grade measures how hard music is to play: what each moment asks of
// the hands, in numbers that can be explained, and from them the work of a
// version, the demand of a bar and the grade.
//
// Each demand is measured on its own scale, from 0 up, by a function of its
// own; one table weighs them. A moment's total is their sum, its work grows
// faster than that (Work), and a grade looks at the hardest places most (Of).
// The scales were set by hand so that shapes and changes that teachers call
// equally hard come out alike; only the orders between them are promised.
package grade

import (
	"math"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Demand is one kind of difficulty.
type Demand int

// The demands that are measured.
const (
	Reach    Demand = iota // how far the fingers are spread
	Fingers                // how many have to be held down
	Force                  // a finger across several strings
	Muting                 // strings that must be kept silent
	Shift                  // the way along the neck against the time for it
	Change                 // fingers placed against the time for it
	Crossing               // strings that the pick crosses against the time for it
	Speed                  // strokes a second
	Rhythm                 // strokes off the beat, small subdivisions, ties
	Ornament               // hammer-ons, bends and the like
	Unlearnt               // what this player has to learn first
	demands
)

func (d Demand) String() string {
	return [...]string{"reach", "fingers", "force", "muting", "shift", "change", "crossing", "speed", "rhythm", "ornament", "unlearnt"}[d]
}

// weights says what each demand counts for, once it is measured on its own
// scale. The comment says what the scale's 1 is.
var weights = [demands]float64{
	Reach:    0.55, // two fingers as far apart as they can be
	Fingers:  1,    // about six fingers; one is 0.05, four are 0.5
	Force:    1,    // more than a full barre at the first fret, which is 0.77
	Muting:   0.1,  // one string inside a shape
	Shift:    0.9,  // 600 mm in a second
	Change:   0.8,  // ten fingers placed in a second
	Crossing: 0.25, // twenty strings in a second
	Speed:    1,    // as many strokes as the player is comfortable with
	Rhythm:   0.3,  // a stroke on a 32nd
	Ornament: 1,    // about a bend of three semitones
	Unlearnt: 0.5,  // one thing to learn
}

// Profile is how much of each demand a moment makes, already weighted.
type Profile [demands]float64

// Total is the sum of the demands.
func (p Profile) Total() float64 {
	sum := 0.0
	for _, d := range p {
		sum += d
	}
	return sum
}

// Worst is the demand that weighs most.
func (p Profile) Worst() Demand {
	worst := Demand(0)
	for d := range demands {
		if p[d] > p[worst] {
			worst = d
		}
	}
	return worst
}

func (p *Profile) add(d Demand, measured float64) { p[d] += weights[d] * measured }

// Moment is one stroke and what leads to it.
type Moment struct {
	// From and To are the fingering before and the one that is played; hand.Lifted
	// where nothing came before or nothing is fretted.
	From, To hand.Fingering
	// Shift is how far the hand moves along the neck for it, mm, and over how
	// many frets.
	Shift float64
	Frets int
	// Seconds is the time since the stroke before, 0 where there is none.
	Seconds float64
	// Pace is the time from stroke to stroke around it, seconds; 0 where the
	// moment is not picked.
	Pace float64
	// Count is the place in the beat, 0 to 1 of it; Tied tells that the sound
	// goes on over the next beat.
	Count pitch.Frac
	Tied  bool
	// Palm tells that the palm mutes it.
	Palm bool
	// Written is the event whose ornaments are played, nil where they are not.
	Written *song.Event
}

// Profile measures what a moment asks of a player.
func (m *Moment) Profile(p hand.At) Profile {
	d := Hold(m.To, p)
	if m.Seconds > 0 {
		c := hand.Between(m.From, m.To)
		d.add(Shift, ShiftDemand(m.Shift, m.Seconds))
		d.add(Change, ChangeDemand(Placing(c), m.Seconds))
		d.add(Crossing, CrossingDemand(Strings(c, p.Picking), m.Seconds))
	}
	for i, v := range m.fixed(p) {
		d[i] += v
	}
	return d
}

// Fixed is the part of a moment's demand that does not depend on where it is
// fretted.
func (m *Moment) Fixed(p hand.At) float64 { return m.fixed(p).Total() }

func (m *Moment) fixed(p hand.At) Profile {
	var d Profile
	if m.Pace > 0 {
		d.add(Speed, SpeedDemand(1/m.Pace, p))
	}
	d.add(Rhythm, RhythmDemand(m.Count, m.Tied))
	if m.Written != nil {
		d.add(Ornament, OrnamentDemand(m.Written, p))
	}
	d.add(Unlearnt, UnlearntDemand(TechniqueSkills(m.Written, m.Palm), p))
	return d
}

// Hold measures what a fingering asks while it is held.
func Hold(f hand.Fingering, p hand.At) Profile {
	h := hand.Held{Fingering: f}
	h.Reach, h.Needed = f.Span(p.Neck)
	return Held(&h, p)
}

// Held is Hold for a fingering whose span is known.
func Held(h *hand.Held, p hand.At) Profile {
	var d Profile
	f := h.Fingering
	d.add(Muting, MutingDemand(f))
	if !f.Fretted() {
		return d
	}
	d.add(Reach, reachDemand(h.Reach, h.Needed, p))
	b := f.Build()
	d.add(Fingers, FingersDemand(b))
	d.add(Force, ForceDemand(b, p))
	if p.New != 0 {
		d.add(Unlearnt, UnlearntDemand(ShapeSkills(f), p))
	}
	return d
}

// Taught is the way to hold a shape that is taught of those that a player can,
// and how much it asks while it is held. ok is false where they cannot hold it.
func Taught(frets neck.Frets, p hand.At) (f hand.Fingering, hold float64, ok bool) {
	best, ok := p.Taught(frets)
	if !ok {
		return best.Fingering, 0, false
	}
	d := Held(&best, p)
	return best.Fingering, d.Total(), true
}

// Gap measures changes that have the same time, fast: the search does nothing
// more often. Its totals are those that Moment.Profile adds up.
type Gap struct{ shift, change, crossing float64 }

// Over is the gap of so many seconds; 0 is where nothing came before, and
// nothing has to be changed.
func Over(seconds float64) Gap {
	if seconds <= 0 {
		return Gap{}
	}
	s := max(seconds, shortest)
	return Gap{1 / s / shiftPerSecond, 1 / s / placedPerSecond, 1 / s / crossedPerSecond}
}

// Total is the weighted demand of a change: mm along the neck, fingers by
// Placing and strings by Strings.
func (g Gap) Total(mm, placing, strings float64) float64 {
	if g.shift == 0 {
		return 0
	}
	return weights[Shift]*(min(mm*g.shift, mostShift)+mm/shiftWay) +
		weights[Change]*min(placing*g.change, mostPlaced) +
		weights[Crossing]*min(strings*g.crossing, mostCrossed)
}

// Work is what a moment of that total demand costs: a moment that is twice as
// hard costs between two and four times as much, so that one hard spot is not
// bought with a little ease everywhere else.
func Work(total float64) float64 { return total * (1 + total) }

// Of draws the demand of a stretch of music from the totals of its moments:
// the hardest places count most. It is 0 where there are none.
func Of(moments []float64) float64 {
	if len(moments) == 0 {
		return 0
	}
	sum, worst := 0.0, 0.0
	for _, m := range moments {
		sum += m * m * m * m
		worst = max(worst, m)
	}
	return 0.5*worst + 0.5*math.Sqrt(math.Sqrt(sum/float64(len(moments))))
}

// Scale turns a demand into a grade from 1.0 to 10.0, rounded to a tenth.
func Scale(demand float64) float64 {
	g := 1 + 9*(1-math.Exp(-demand/1.6))
	return math.Round(g*10) / 10
}
