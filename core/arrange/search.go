package arrange

import (
	"math"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
)

// state is a choice for one event together with the place of the hand.
type state struct {
	place
	cost float64
	from int // index of the state before
}

// search finds the way through the choices of all needs that costs the hands
// least: each choice costs what it takes to hold, each step from one to the
// next the shift, the fingers to place and the strings to cross, against the
// time there is. Where no finger is down the hand may be anywhere, so that it
// can move while an open string sounds. Time and memory grow with the number
// of events.
func (w *work) search(needs []need) []place {
	if len(needs) == 0 {
		return nil
	}
	n := w.options.Player.Neck()
	var positions []int
	var used [neck.MaxFret + 1]bool
	for i := range needs {
		for j := range needs[i].choices {
			if b := needs[i].choices[j].base; b > 0 && b <= neck.MaxFret && !used[b] {
				used[b] = true
				positions = append(positions, b)
			}
		}
	}
	if len(positions) == 0 {
		positions = []int{1}
	}
	layers := make([][]state, len(needs))
	for i := range needs {
		layers[i] = states(&needs[i], positions)
		if i == 0 {
			continue
		}
		w.step(n, layers[i-1], layers[i], &needs[i-1], &needs[i])
	}
	last := layers[len(layers)-1]
	best := 0
	for j := range last {
		if last[j].cost < last[best].cost {
			best = j
		}
	}
	path := make([]place, len(needs))
	for i := len(needs) - 1; i >= 0; i-- {
		path[i] = layers[i][best].place
		best = layers[i][best].from
	}
	return path
}

// states lists the states of one event.
func states(n *need, positions []int) []state {
	var list []state
	for c := range n.choices {
		if base := n.choices[c].base; base > 0 {
			list = append(list, state{place: place{c, base}, cost: n.choices[c].cost})
			continue
		}
		for _, base := range positions {
			list = append(list, state{place: place{c, base}, cost: n.choices[c].cost})
		}
	}
	return list
}

// step adds the cheapest way from the states before to each of the states
// after.
func (w *work) step(n neck.Neck, before, after []state, from, to *need) {
	seconds := to.at - from.at
	moves := make([]float64, len(from.choices)*len(to.choices))
	for a := range from.choices {
		for b := range to.choices {
			moves[a*len(to.choices)+b] = w.changeCost(from.choices[a].Fingering, to.choices[b].Fingering, seconds)
		}
	}
	for j := range after {
		best, way := math.Inf(1), 0
		for k := range before {
			cost := before[k].cost + moves[before[k].choice*len(to.choices)+after[j].choice]
			if before[k].base != after[j].base && cost < best {
				cost += shiftCost(n.Along(before[k].base, after[j].base), seconds)
			}
			if cost < best {
				best, way = cost, k
			}
		}
		after[j].cost += best
		after[j].from = way
	}
}

// changeCost is what a change of fingering costs apart from the way along the
// neck. A finger that has to jump to another fret without the hand moving, or
// to another string, is awkward.
func (w *work) changeCost(from, to hand.Fingering, seconds float64) float64 {
	cost := grade.Move(from, to, 0, seconds).Total()
	cost += 0.03 * float64(grade.Crossed(from, to))
	for i, by := range to.Fingers {
		if by == hand.None {
			continue
		}
		for j, before := range from.Fingers {
			if before == by && i != j && from.Frets[j] != to.Frets[i] {
				cost += 0.05
			}
		}
	}
	return cost
}

// shiftCost is what moving the hand costs: the demand of the shift, and the
// way itself, so that the hand stays where it is however slow the music.
func shiftCost(mm, seconds float64) float64 {
	return grade.ShiftDemand(mm, seconds) + mm/400
}

// oneString plays the whole part on a single string if its range fits one,
// and otherwise falls back to the nearest places.
func (w *work) oneString() {
	best := math.Inf(1)
	for s := neck.String(neck.Strings); s >= 1; s-- {
		needs := make([]need, len(w.needs))
		fits := true
		for i, n := range w.needs {
			needs[i] = n
			needs[i].choices = nil
			for _, c := range n.choices {
				if c.Frets == neck.NoFrets || c.Frets.On(s) >= 0 {
					needs[i].choices = append(needs[i].choices, c)
				}
			}
			if len(needs[i].choices) == 0 {
				fits = false
				break
			}
		}
		if !fits {
			continue
		}
		path := w.search(needs)
		if cost := w.pathCost(needs, path); cost < best {
			best, w.path = cost, path
			w.version.Why = []string{"all of it lies on the " + s.String() + " string"}
			w.needsOn = needs
		}
	}
	if math.IsInf(best, 1) {
		w.version.Why = []string{"the part's range does not fit one string, so the nearest places are used"}
		w.path = w.search(w.needs)
		return
	}
	w.needs = w.needsOn
}

// pathCost adds up what a path costs.
func (w *work) pathCost(needs []need, path []place) float64 {
	n := w.options.Player.Neck()
	sum := 0.0
	for i := range needs {
		c := needs[i].choices[path[i].choice]
		sum += c.cost
		if i > 0 {
			seconds := needs[i].at - needs[i-1].at
			sum += w.changeCost(needs[i-1].choices[path[i-1].choice].Fingering, c.Fingering, seconds)
			if path[i].base != path[i-1].base {
				sum += shiftCost(n.Along(path[i-1].base, path[i].base), seconds)
			}
		}
	}
	return sum
}
