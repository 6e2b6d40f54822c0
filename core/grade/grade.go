// Package grade measures how hard music is to play: what each moment asks of
// the hands, in numbers that can be explained, and from them the demand of a
// bar and the grade of a version.
package grade

import (
	"fmt"
	"math"

	"valleyside/core/hand"
	"valleyside/core/neck"
)

// Demand is one kind of difficulty.
type Demand int

// The demands that are measured.
const (
	Reach    Demand = iota // how far the fingers are spread
	Fingers                // how many have to be placed
	Barre                  // a finger across several strings
	Shift                  // the way along the neck against the time for it
	Change                 // fingers placed against the time for it
	Crossing               // strings the pick moves across
	Speed                  // strokes per second
	demands
)

func (d Demand) String() string {
	return [...]string{"reach", "fingers", "barre", "shift", "change", "crossing", "speed"}[d]
}

// weights says what each demand counts for, once it is measured on its own
// scale. A power chord at fret 1 in adult hands comes to about 0.5, a full
// barre there to about 1.2.
var weights = [demands]float64{
	Reach:    0.55,
	Fingers:  1.0,
	Barre:    1.0,
	Shift:    0.9,
	Change:   0.5,
	Crossing: 0.25,
	Speed:    1.0,
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

// Hold measures what a fingering asks while it is held: its reach, fingers
// and barre.
func Hold(f hand.Fingering, p hand.Player) Profile {
	var d Profile
	if !f.Fretted() {
		return d
	}
	d[Reach] = weights[Reach] * ReachDemand(f, p)
	d[Fingers] = weights[Fingers] * FingersDemand(f)
	d[Barre] = weights[Barre] * BarreDemand(f, p.Neck())
	return d
}

// spread is the share of a hand's reach that two fingers can span: index and
// little finger all of it, neighbours much less.
var spread = [hand.Thumb][hand.Thumb]float64{
	hand.Index:  {hand.Middle: 0.55, hand.Ring: 0.8, hand.Little: 1},
	hand.Middle: {hand.Ring: 0.4, hand.Little: 0.65},
	hand.Ring:   {hand.Little: 0.45},
}

// ReachDemand is 0 where the fingers lie at one fret and 1 where two of them
// are as far apart along the neck as those two can be. Where the straight
// distance is beyond the reach of the hand it grows steeply.
func ReachDemand(f hand.Fingering, p hand.Player) float64 {
	n := p.Neck()
	worst := 0.0
	for i := range f.Frets {
		for j := range f.Frets {
			a, b := f.Fingers[i], f.Fingers[j]
			if a == hand.None || b <= a || b == hand.Thumb {
				continue
			}
			apart := n.Along(int(f.Frets[i]), int(f.Frets[j]))
			worst = max(worst, apart/(p.Reach*spread[a][b]))
		}
	}
	d := worst * worst * worst
	if over := f.Reach(n)/p.Reach - 1; over > 0 {
		d += 4 + 10*over
	}
	return d
}

// FingersDemand grows with the number of fingers that are down; the little
// finger alone counts a bit more than another.
func FingersDemand(f hand.Fingering) float64 {
	d := [...]float64{0, 0.05, 0.15, 0.3, 0.5, 0.7}[f.Count()]
	for _, by := range f.Fingers {
		if by == hand.Little {
			return d + 0.06
		}
	}
	return d
}

// BarreDemand grows with the strings under the finger and is largest near the
// nut, where the strings stand highest and stiffest.
func BarreDemand(f hand.Fingering, n neck.Neck) float64 {
	fret, strings := f.Barre()
	if strings == 0 {
		return 0
	}
	near := 1 - n.Position(fret)/n.Position(12) // 1 at the nut, 0 at fret 12
	return 0.05*float64(strings-1) + 0.12*float64(strings-1)*max(near, 0)
}

// ShiftDemand is the speed at which the hand has to move: 1 at 600 mm in a
// second. The way itself counts a little, however long there is for it.
func ShiftDemand(mm, seconds float64) float64 {
	if mm == 0 {
		return 0
	}
	return min(mm/max(seconds, 0.02)/600, 6) + mm/1500
}

// ChangeDemand is how quickly fingers have to be placed anew: 1 at ten
// fingers in a second.
func ChangeDemand(placed int, seconds float64) float64 {
	return min(float64(placed)/max(seconds, 0.02)/10, 6)
}

// CrossingDemand grows with the strings that the pick moves across and the
// speed of it: 1 at twenty strings in a second.
func CrossingDemand(strings int, seconds float64) float64 {
	return min(float64(strings)/max(seconds, 0.02)/20, 3)
}

// SpeedDemand is 1 where the strokes come as fast as the player is comfortable
// with, and grows with the square.
func SpeedDemand(perSecond float64, p hand.Player) float64 {
	share := perSecond / p.NotesPerSecond
	return min(share*share, 9)
}

// Placed counts the fingers that have to be put down to go from one fingering
// to the next: those that are not already there.
func Placed(from, to hand.Fingering) int {
	var counted [hand.Thumb + 1]bool
	n := 0
	for i, by := range to.Fingers {
		if by == hand.None || counted[by] {
			continue
		}
		if from.Fingers[i] != by || from.Frets[i] != to.Frets[i] {
			counted[by] = true
			n++
		}
	}
	return n
}

// Move measures a change from one fingering to the next: mm along the neck
// and seconds from one stroke to the other.
func Move(from, to hand.Fingering, mm, seconds float64) Profile {
	var d Profile
	d[Shift] = weights[Shift] * ShiftDemand(mm, seconds)
	d[Change] = weights[Change] * ChangeDemand(Placed(from, to), seconds)
	d[Crossing] = weights[Crossing] * CrossingDemand(Crossed(from, to), seconds)
	return d
}

// Crossed counts the strings between the places where two shapes are struck.
func Crossed(from, to hand.Fingering) int {
	a, b := from.Lowest(), to.Lowest()
	if a == 0 || b == 0 {
		return 0
	}
	return int(max(a-b, b-a))
}

// Strokes measures a stroke that follows the one before by so many seconds.
func Strokes(seconds float64, p hand.Player) Profile {
	var d Profile
	if seconds > 0 {
		d[Speed] = weights[Speed] * SpeedDemand(1/seconds, p)
	}
	return d
}

// Plus adds two profiles.
func (p Profile) Plus(q Profile) Profile {
	for d := range p {
		p[d] += q[d]
	}
	return p
}

// Of draws the demand of a stretch of music from the totals of its moments:
// the hardest places count most. It is 0 where there are none.
func Of(moments []float64) float64 {
	const power = 4
	sum, worst := 0.0, 0.0
	for _, m := range moments {
		sum += math.Pow(m, power)
		worst = max(worst, m)
	}
	if len(moments) == 0 {
		return 0
	}
	return 0.5*worst + 0.5*math.Pow(sum/float64(len(moments)), 1.0/power)
}

// Scale turns a demand into a grade from 1.0 to 10.0, rounded to a tenth.
func Scale(demand float64) float64 {
	g := 1 + 9*(1-math.Exp(-demand/1.6))
	return math.Round(g*10) / 10
}

// Words explains a demand of a moment with its numbers.
func Words(d Demand, from, to hand.Fingering, mm, seconds float64, p hand.Player) string {
	switch d {
	case Reach:
		return fmt.Sprintf("reach of %.0f mm, the hand has %.0f", to.Reach(p.Neck()), p.Reach)
	case Fingers:
		if n := to.Count(); n != 1 {
			return fmt.Sprintf("%d fingers to hold", n)
		}
		return "one finger to hold"
	case Barre:
		fret, strings := to.Barre()
		return fmt.Sprintf("barre over %d strings at fret %d", strings, fret)
	case Shift:
		stays := "no finger stays"
		if Anchored(from, to) {
			stays = "one finger stays"
		}
		return fmt.Sprintf("shift of %.0f mm in %.2f s, %s", mm, seconds, stays)
	case Change:
		if n := Placed(from, to); n != 1 {
			return fmt.Sprintf("%d fingers to place in %.2f s", n, seconds)
		}
		return fmt.Sprintf("a finger to place in %.2f s", seconds)
	case Crossing:
		if n := Crossed(from, to); n != 1 {
			return fmt.Sprintf("the pick crosses %d strings in %.2f s", n, seconds)
		}
		return fmt.Sprintf("the pick crosses a string in %.2f s", seconds)
	}
	return fmt.Sprintf("%.1f strokes a second, %.1f are comfortable", 1/seconds, p.NotesPerSecond)
}

// Anchored tells whether a finger stays where it is from one fingering to the
// next.
func Anchored(from, to hand.Fingering) bool {
	for i, by := range to.Fingers {
		if by != hand.None && from.Fingers[i] == by && from.Frets[i] == to.Frets[i] {
			return true
		}
	}
	return false
}
