package arrange

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"valleyside/core/hand"
	"valleyside/core/neck"
)

// mostAlternatives is how many alternatives a bar is given.
const mostAlternatives = 3

// Alternative is another way to finger a bar, the rest of the version staying
// as it is.
type Alternative struct {
	// Cost is the work that it takes more than the version's own.
	Cost float64
	// Why says what speaks for it.
	Why []string
	// Shapes are its frets, a shape for each event of the bar that is fretted
	// or open, and Pins what makes the version take it.
	Shapes []neck.Frets
	Pins   []Pin
}

// trail is a way through the events of a bar, to one state of the last.
type trail struct {
	cost   float64
	states []int // of the events so far
}

// alternatives finds the cheapest ways through a bar that differ from the
// version's own, and from one another, in where at least one note lies.
func (w *work) alternatives(bar int) []Alternative {
	first := 0
	for first < len(w.needs) && w.needs[first].bar != bar {
		first++
	}
	end := first
	for end < len(w.needs) && w.needs[end].bar == bar {
		end++
	}
	if first == end {
		return nil
	}
	own := w.total(w.path)
	trails := w.trails(first, end)
	path := slices.Clone(w.path)
	var found []Alternative
	mine := w.frets(first, w.path[first:end])
	for _, t := range trails {
		shapes := w.frets(first, t.states)
		if slices.Equal(shapes, mine) {
			continue
		}
		copy(path[first:end], t.states)
		a := Alternative{Cost: max(w.total(path)-own, 0), Shapes: shapes, Why: w.speaksFor(first, t.states)}
		for i := range t.states {
			if n := &w.needs[first+i]; !n.from.Dead() {
				a.Pins = append(a.Pins, Pin{Bar: bar + 1, Event: true, Start: n.from.Start, What: PinShape, Shape: shapes[i]})
			}
		}
		found = append(found, a)
	}
	slices.SortStableFunc(found, func(a, b Alternative) int { return cmp.Compare(a.Cost, b.Cost) })
	return found[:min(len(found), mostAlternatives)]
}

// frets are the shapes of states of the events from first on.
func (w *work) frets(first int, states []int) []neck.Frets {
	shapes := make([]neck.Frets, len(states))
	for i, s := range states {
		n := &w.needs[first+i]
		shapes[i] = n.choices[n.states[s].choice].Frets
	}
	return shapes
}

// trails finds the cheapest ways through the events from first to before end,
// so many that the alternatives and the version's own are among them. Before
// and after them everything stays. A way back that begins and ends in these
// events is walked once for each state that it may begin in.
func (w *work) trails(first, end int) []trail {
	closed := false
	for _, line := range w.lines {
		closed = closed || line.times > 1 && line.start >= first && line.end <= end && line.end > line.start
	}
	closed = closed || w.ways.loop > 0 && first == 0 && end == len(w.needs)
	if !closed {
		return distinctShapes(w, first, w.walk(first, end, -1))
	}
	var all []trail
	for s := range w.needs[first].states {
		all = append(all, w.walk(first, end, s)...)
	}
	return distinctShapes(w, first, all)
}

// distinctShapes keeps the cheapest of the trails that lie in the same places.
func distinctShapes(w *work, first int, trails []trail) []trail {
	slices.SortStableFunc(trails, func(a, b trail) int { return cmp.Compare(a.cost, b.cost) })
	var kept []trail
	var seen [][]neck.Frets
	for _, t := range trails {
		shapes := w.frets(first, t.states)
		if slices.ContainsFunc(seen, func(s []neck.Frets) bool { return slices.Equal(s, shapes) }) {
			continue
		}
		kept, seen = append(kept, t), append(seen, shapes)
		if len(kept) > mostAlternatives {
			break
		}
	}
	return kept
}

// walk finds the cheapest trails, from one state of the first event or, with
// −1, from any.
func (w *work) walk(first, end, only int) []trail {
	path := slices.Clone(w.path)
	var layer [][]trail
	for s := range w.needs[first].states {
		if only >= 0 && s != only {
			layer = append(layer, nil)
			continue
		}
		path[first] = s
		layer = append(layer, []trail{{w.into(path, first, first, end), []int{s}}})
	}
	for i := first + 1; i < end; i++ {
		next := make([][]trail, len(w.needs[i].states))
		for s := range next {
			path[i] = s
			var reached []trail
			for p, trails := range layer {
				if len(trails) == 0 {
					continue
				}
				path[i-1] = p
				step := w.into(path, i, first, end)
				for _, t := range trails {
					reached = append(reached, trail{t.cost + step, append(slices.Clip(t.states), s)})
				}
			}
			next[s] = distinctShapes(w, first, reached)
		}
		layer = next
	}
	var done []trail
	for _, trails := range layer {
		for _, t := range trails {
			copy(path[first:end], t.states)
			t.cost += w.outOf(path, first, end)
			done = append(done, t)
		}
	}
	return distinctShapes(w, first, done)
}

// into adds up the ways to event i that come from the event before it, or from
// events outside the stretch from first to before end.
func (w *work) into(path []int, i, first, end int) float64 {
	at := func(j int) state { return w.needs[j].states[path[j]] }
	cost := 0.0
	step := func(from int, seconds, times float64) {
		e := w.edge(w.needs[from].kind, &w.needs[i], seconds)
		cost += times * e.cost(at(from), at(i))
	}
	line := w.lines[w.needs[i].line]
	switch {
	case i > line.start:
		step(i-1, w.needs[i].gap, float64(line.times))
	case i > 0:
		step(i-1, w.needs[i].gap, 1)
	}
	if outside := line.end - 1; i == line.start && line.times > 1 && (outside < first || outside >= end) {
		step(outside, line.back, float64(line.times-1))
	}
	if i == 0 {
		cost += w.entry(at(0))
		if last := len(w.needs) - 1; w.ways.loop > 0 && last >= end {
			step(last, w.ways.back, w.ways.loop)
		}
	}
	return cost
}

// outOf adds up the ways that lead out of the stretch, and those back to its
// own events.
func (w *work) outOf(path []int, first, end int) float64 {
	at := func(j int) state { return w.needs[j].states[path[j]] }
	cost := 0.0
	step := func(from, to int, seconds, times float64) {
		e := w.edge(w.needs[from].kind, &w.needs[to], seconds)
		cost += times * e.cost(at(from), at(to))
	}
	last := len(w.needs) - 1
	if end <= last {
		times := 1.0
		if line := w.lines[w.needs[end].line]; end > line.start {
			times = float64(line.times)
		}
		step(end-1, end, w.needs[end].gap, times)
	} else {
		cost += w.leaving(at(last))
		if w.ways.loop > 0 {
			step(last, 0, w.ways.back, w.ways.loop)
		}
	}
	for _, line := range w.lines {
		if line.times > 1 && line.end > line.start && line.end > first && line.end <= end {
			step(line.end-1, line.start, line.back, float64(line.times-1))
		}
	}
	return cost
}

// speaksFor says what a way through a bar has that the version's own has not.
func (w *work) speaksFor(first int, states []int) []string {
	own, other := w.measure(first, w.path[first:first+len(states)]), w.measure(first, states)
	var why []string
	say := func(better bool, format string, a ...any) {
		if better {
			why = append(why, fmt.Sprintf(format, a...))
		}
	}
	say(other.barres < own.barres, "no barre")
	say(!other.little && own.little, "without the little finger")
	say(other.fingers < own.fingers, "fewer fingers")
	say(other.strings == 1 && own.strings > 1, "all on one string")
	say(other.shift < own.shift-1, "the hand moves %.0f mm less", own.shift-other.shift)
	say(other.kept > own.kept, "more fingers stay where they are")
	say(other.open > own.open, "more open strings")
	say(other.open < own.open, "fewer open strings, the same sound throughout")
	say(other.high < own.high, "lower on the neck, frets %d to %d", other.low, other.high)
	say(other.high > own.high && own.open == other.open, "higher on the neck, where frets lie closer, %d to %d", other.low, other.high)
	if why == nil {
		why = []string{fmt.Sprintf("the same notes elsewhere, frets %d to %d", other.low, other.high)}
	}
	const most = 2
	return why[:min(len(why), most)]
}

// figures are what ways through a bar are compared by.
type figures struct {
	barres, fingers, strings, kept, open, low, high int
	little                                          bool
	shift                                           float64
}

func (w *work) measure(first int, states []int) figures {
	f := figures{low: math.MaxInt}
	var used [neck.Strings + 1]bool
	for i, s := range states {
		n := &w.needs[first+i]
		c := &n.choices[n.states[s].choice]
		if _, strings := c.Barre(); strings > 0 {
			f.barres++
		}
		f.fingers += c.Count()
		f.little = f.little || c.Uses(hand.Little)
		for j, fret := range c.Frets {
			if fret >= 0 {
				used[neck.StringAt(j)] = true
				f.low, f.high = min(f.low, int(fret)), max(f.high, int(fret))
			}
			if fret == 0 {
				f.open++
			}
		}
		if i > 0 {
			m := &w.needs[first+i-1]
			before := m.states[states[i-1]]
			f.shift += w.along[before.base][n.states[s].base]
			f.kept += hand.Between(m.choices[before.choice].Fingering, c.Fingering).Kept
		}
	}
	for _, u := range used {
		if u {
			f.strings++
		}
	}
	if f.low == math.MaxInt {
		f.low = 0
	}
	return f
}
