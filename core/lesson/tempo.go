package lesson

import (
	"math"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/song"
)

// How a teacher goes about tempo and time. No step asks more than a third over the one
// before it.
const (
	usualPasses = 3    // clean ones in a row
	mostOfGoal  = 0.6  // of what the hardest bar asks: where a part begins at the fastest
	leastOfGoal = 0.25 // where it begins at the slowest
	ofComfort   = 0.6  // of the comfortable pace: clean at once
	stage       = 1.32 // of the tempo before: what one step goes up by at most
	climb       = 1.08 // of the tempo before: what one round goes up by at most
	slowest     = 20.0 // beats a minute
	fastest     = 400.0

	UsualMinutes = 10 // of practice a day
	pause        = 3  // seconds between two passes
	mostMinutes  = 60 // for one step
	leastMinutes = 2
)

func (s Student) minutes() int {
	if s.Minutes > 0 {
		return s.Minutes
	}
	return UsualMinutes
}

// Climb lists the tempos of a step, from its start to its goal: each is at most 8 % above
// the one before, and not less than 4 % where there is so much to climb.
func Climb(start, goal float64) []float64 {
	if goal <= start {
		return []float64{goal}
	}
	n := math.Ceil(math.Log(goal/start)/math.Log(climb) - 1e-9)
	list := make([]float64, 0, int(n)+1)
	for i := range int(n) {
		list = append(list, whole(start*math.Pow(goal/start, float64(i)/n)))
	}
	return append(list, goal)
}

// whole is a tempo as a metronome has it.
func whole(tempo float64) float64 { return math.Round(tempo) }

// stages are the tempos from which and up to which a part is learnt: the first is where
// it is clean at once, the last is the goal. Slow is slowBeat or more, where the click has no
// finer beat to tick.
func stages(goal, asks, pace, least float64) (list []float64, byPace bool) {
	share := mostOfGoal
	if asks > 0 && ofComfort*pace/asks < share {
		share, byPace = max(ofComfort*pace/asks, leastOfGoal), true
	}
	start := min(max(math.Floor(share*goal+1e-9), slowest), goal)
	if least = min(least, math.Floor(mostOfGoal*goal)); start < least {
		start, byPace = least, false
	}
	n := max(int(math.Ceil(math.Log(goal/start)/math.Log(stage)-1e-9)), 1)
	for i := range n {
		list = append(list, whole(start*math.Pow(goal/start, float64(i)/float64(n))))
	}
	return append(list, goal), byPace
}

// slowBeat is the slowest beat that is easy to keep; the dotted beats of a compound time are
// ticked in three.
const slowBeat = 50.0

// least is the slowest tempo in which a part is practised.
func (v *view) least() float64 {
	if v.part.Meter.Compound() {
		return slowest
	}
	return slowBeat
}

// asks is how many strokes a second a version asks for: over a bar, or half as many as over
// a beat, where two quicker notes are no pace yet.
func (v *view) asksFor() (most float64) {
	for i := range v.version.Bars {
		inBar, inBeat := v.strokes(i)
		most = max(most, inBar, inBeat/beatLeeway)
	}
	return most
}

// goesAt is the tempo up to which a part goes with all the strokes that it is written with, for
// a pace in strokes a second: over its densest beat.
func (v *view) goesAt(pace float64) float64 {
	most := 0.0
	for i := range v.version.Bars {
		full := fuller(&v.version.Bars[i])
		_, inBeat := v.strokesIn(&full, i)
		most = max(most, inBeat)
	}
	return math.Floor(v.version.Tempo * pace / max(most, pace/fastest))
}

// fuller is a bar with what thinning left out of it in its place.
func fuller(b *arrange.Bar) arrange.Bar {
	full := *b
	if len(b.Dropped) == 0 {
		return full
	}
	full.Events = slices.Clone(b.Events)
	for _, d := range b.Dropped {
		if d.What != arrange.OptionalNote {
			full.Events = append(full.Events, arrange.Event{Start: d.Start, Stroke: song.Down, From: struck})
		}
	}
	slices.SortFunc(full.Events, func(x, y arrange.Event) int { return x.Start.Cmp(y.Start) })
	return full
}

// struck is a note that is picked, whatever it is.
var struck = &song.Event{Notes: []song.Note{{}}}

// strokes counts the strokes a second of a bar, from 0: over all of it, of a pickup over the
// bar of which it is a part, and over its densest beat.
func (v *view) strokes(bar int) (inBar, inBeat float64) {
	return v.strokesIn(&v.version.Bars[bar], bar)
}

func (v *view) strokesIn(b *arrange.Bar, bar int) (inBar, inBeat float64) {
	clock := v.part.Clock(v.version.Tempo)
	beat := v.part.Meter.Pulse()
	picked, most := 0, 0
	for j := range b.Events {
		e := &b.Events[j]
		if !hand.Picked(e.From) {
			continue
		}
		picked++
		n := 0
		for k := j; k < len(b.Events) && b.Events[k].Start.Less(e.Start.Add(beat)); k++ {
			if hand.Picked(b.Events[k].From) {
				n++
			}
		}
		most = max(most, n)
	}
	whole := max(v.seconds[bar], clock.Seconds(b.Measure.Meter.Bar().Float()))
	return float64(picked) / whole, float64(most) / clock.Seconds(beat.Float())
}

// minutes is how long it takes about to get something clean that lasts so many seconds
// at the goal: each tempo on the way so often in a row, with so many tries for one that
// is clean.
func minutes(seconds, start, goal float64, passes int, tries float64) int {
	total := 0.0
	for _, tempo := range Climb(start, goal) {
		total += (seconds*goal/tempo + pause) * float64(passes) * tries
	}
	return min(max(int(math.Ceil(total/60)), leastMinutes), mostMinutes)
}
