package arrange

import (
	"math"

	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// The search finds, among all sequences of the events' choices, the one of
// least work. A state of an event is a choice and the place of the hand: that
// of its index finger, or, where nothing is fretted, any place that the part
// uses, so that the hand can move while an open string sounds. Going from one
// state to the next costs the work of the stroke it leads to and the tastes.
//
// The work is that of the part as it is played. A line that is played three
// times counts three times, and from its end it has to find its way back to
// its start, twice. The part as a whole goes on to its neighbours in the
// roadmap, or to itself.
//
// It is dynamic programming. Where a way back has to be remembered, the table
// has a lane for each state that it may lead to, so that it stays exact. Time
// and memory grow with the number of events.

// pair is what a change between each two choices of two kinds takes.
type pair struct {
	placing, strings []float64
	columns          int
}

// pairOf finds or makes the pair of two kinds.
func (w *work) pairOf(a, b *kind) *pair {
	key := [2]int32{a.id, b.id}
	if p := w.pairs[key]; p != nil {
		return p
	}
	n := len(a.choices) * len(b.choices)
	both := make([]float64, 2*n)
	p := &pair{placing: both[:n], strings: both[n:], columns: len(b.choices)}
	for i := range a.choices {
		for j := range b.choices {
			c := a.choices[i].grip.To(&b.choices[j].grip)
			p.placing[i*p.columns+j] = grade.Placing(c)
			p.strings[i*p.columns+j] = grade.Strings(c, w.options.Player.Picking)
		}
	}
	w.pairs[key] = p
	return p
}

// rests lists where the hand may wait while nothing is fretted: wherever any
// choice of the part has it, and at the first fret. Pins do not change that.
func (w *work) rests() {
	used := [neck.MaxFret + 1]bool{1: true}
	w.bases = w.bases[:0]
	for i := range w.needs {
		for j := range w.needs[i].choices {
			used[w.needs[i].choices[j].base] = true
		}
	}
	for b := 1; b < len(used); b++ {
		if used[b] {
			w.bases = append(w.bases, int8(b))
		}
	}
}

func (w *work) statesOf(k *kind) []state {
	var states []state
	for c := range k.choices {
		if base := k.choices[c].base; base > 0 {
			states = append(states, state{int32(c), base})
			continue
		}
		for _, base := range w.bases {
			states = append(states, state{int32(c), base})
		}
	}
	return states
}

// edge is the cost of going from a state of one kind to a state of another in
// some seconds, where the other's event asks for fixed beside it.
type edge struct {
	*work
	a, b  *kind
	pair  *pair
	gap   grade.Gap
	fixed float64
}

func (w *work) edge(a *kind, b *need, seconds float64) edge {
	return edge{w, a, b.kind, w.pairOf(a, b.kind), grade.Over(seconds), b.fixed}
}

// demand is the total demand of the stroke that an edge leads to.
func (e *edge) demand(from, to state) float64 {
	i := int(from.choice)*e.pair.columns + int(to.choice)
	return e.fixed + e.b.choices[to.choice].hold +
		e.gap.Total(e.along[from.base][to.base], e.pair.placing[i], e.pair.strings[i])
}

func (e *edge) cost(from, to state) float64 {
	return grade.Work(e.demand(from, to)) + e.b.choices[to.choice].taste + tastePerMM*e.along[from.base][to.base]
}

// opening is the cost of a state before which nothing sounds.
func (n *need) opening(s state) float64 {
	c := &n.choices[s.choice]
	return grade.Work(n.fixed+c.hold) + c.taste
}

// table holds the least cost to each state of an event, with a lane for each
// state that is remembered: cost[state*lanes+lane].
type table struct {
	cost  []float64
	lanes int
}

// steps remembers where each cost of a table came from, so that the way can be
// found again.
type steps struct {
	from  []uint16
	lanes int
}

// advance goes on from event a to event b.
func (w *work) advance(t table, a, b int, weight float64) (table, steps) {
	from, to := w.needs[a].states, w.needs[b].states
	e := w.edge(w.needs[a].kind, &w.needs[b], w.needs[b].gap)
	next := table{make([]float64, len(to)*t.lanes), t.lanes}
	back := steps{make([]uint16, len(to)*t.lanes), t.lanes}
	for i := range next.cost {
		next.cost[i] = math.Inf(1)
	}
	// This is edge.cost for every pair of states, with what they share taken
	// out of the loops: nearly all the time of a search is spent here.
	for k := range from {
		before := t.cost[k*t.lanes : (k+1)*t.lanes]
		row := int(from[k].choice) * e.pair.columns
		placing, strings := e.pair.placing[row:row+e.pair.columns], e.pair.strings[row:row+e.pair.columns]
		along := &w.along[from[k].base]
		for j := range to {
			c := &e.b.choices[to[j].choice]
			mm := along[to[j].base]
			total := e.fixed + c.hold + e.gap.Total(mm, placing[to[j].choice], strings[to[j].choice])
			add := weight * (grade.Work(total) + c.taste + tastePerMM*mm)
			if t.lanes == 1 {
				if sum := before[0] + add; sum < next.cost[j] {
					next.cost[j], back.from[j] = sum, uint16(k)
				}
				continue
			}
			best, way := next.cost[j*t.lanes:(j+1)*t.lanes], back.from[j*t.lanes:(j+1)*t.lanes]
			for l, sum := range before {
				if sum += add; sum < best[l] {
					best[l], way[l] = sum, uint16(k)
				}
			}
		}
	}
	return next, back
}

// track is how the search came to an event: through the table of the part, or
// through that of the repeated line which the event is part of.
type track struct {
	steps
	inLine bool
}

// search finds the path of least work.
func (w *work) search() {
	for i := range w.needs {
		if k := w.needs[i].kind; k.states == nil {
			k.states = w.statesOf(k)
		}
	}
	w.path, w.cost = make([]int, len(w.needs)), 0
	if len(w.needs) == 0 {
		return
	}
	first := w.needs[0].states
	lanes := 1
	if w.ways.loop > 0 {
		lanes = len(first)
	}
	t := table{make([]float64, len(first)*lanes), lanes}
	for k := range first {
		for l := range lanes {
			t.cost[k*lanes+l] = w.entry(first[k])
			if lanes > 1 && l != k {
				t.cost[k*lanes+l] = math.Inf(1)
			}
		}
	}
	tracks := make([]track, len(w.needs))
	through := map[int]steps{} // by the first event of a repeated line
	for _, line := range w.lines {
		if line.start == line.end {
			continue
		}
		if line.start > 0 {
			t, tracks[line.start].steps = w.advance(t, line.start-1, line.start, 1)
		}
		if line.times == 1 {
			for i := line.start + 1; i < line.end; i++ {
				t, tracks[i].steps = w.advance(t, i-1, i, 1)
			}
			continue
		}
		t, through[line.start] = w.throughLine(t, line, tracks)
	}
	last := len(w.needs) - 1
	end, lane := w.exit(t, last)
	w.back(tracks, through, end, lane)
}

// throughLine goes through a line that is played several times: a table of its
// own remembers its first state until the way back to it is paid.
func (w *work) throughLine(t table, line span, tracks []track) (table, steps) {
	first := w.needs[line.start].states
	own := table{make([]float64, len(first)*len(first)), len(first)}
	for i := range own.cost {
		own.cost[i] = math.Inf(1)
	}
	for k := range first {
		own.cost[k*len(first)+k] = 0
	}
	times := float64(line.times)
	for i := line.start + 1; i < line.end; i++ {
		own, tracks[i].steps = w.advance(own, i-1, i, times)
		tracks[i].inLine = true
	}
	states := w.needs[line.end-1].states
	e := w.edge(w.needs[line.end-1].kind, &w.needs[line.start], line.back)
	next := table{make([]float64, len(states)*t.lanes), t.lanes}
	way := steps{make([]uint16, len(states)*t.lanes), t.lanes}
	for j := range states {
		for l := range t.lanes {
			next.cost[j*t.lanes+l] = math.Inf(1)
		}
		for m := range first {
			add := own.cost[j*len(first)+m] + (times-1)*e.cost(states[j], first[m])
			for l := range t.lanes {
				if c := t.cost[m*t.lanes+l] + add; c < next.cost[j*t.lanes+l] {
					next.cost[j*t.lanes+l], way.from[j*t.lanes+l] = c, uint16(m)
				}
			}
		}
	}
	return next, way
}

// exit closes the part: on to its neighbours, and back to its own start.
func (w *work) exit(t table, last int) (end, lane int) {
	w.cost = math.Inf(1)
	states, first := w.needs[last].states, w.needs[0].states
	e := w.edge(w.needs[last].kind, &w.needs[0], w.ways.back)
	for k := range states {
		out := w.leaving(states[k])
		for l := range t.lanes {
			c := t.cost[k*t.lanes+l] + out
			if t.lanes > 1 || w.ways.loop > 0 {
				c += w.ways.loop * e.cost(states[k], first[l])
			}
			if c < w.cost {
				w.cost, end, lane = c, k, l
			}
		}
	}
	return end, lane
}

// back follows the tracks from the end to the start.
func (w *work) back(tracks []track, through map[int]steps, end, lane int) {
	at := end
	for n := len(w.lines) - 1; n >= 0; n-- {
		line := w.lines[n]
		if line.start == line.end {
			continue
		}
		start := at
		if s, ok := through[line.start]; ok {
			start = int(s.from[at*s.lanes+lane])
		}
		for i := line.end - 1; i > line.start; i-- {
			w.path[i] = at
			l := lane
			if tracks[i].inLine {
				l = start
			}
			at = int(tracks[i].from[at*tracks[i].lanes+l])
		}
		w.path[line.start] = at
		if line.start > 0 {
			s := tracks[line.start]
			at = int(s.from[at*s.lanes+lane])
		}
	}
}

// entry is what the ways into the part cost a state of its first event, but
// for the way from its own end.
func (w *work) entry(s state) float64 {
	n := &w.needs[0]
	cost := w.ways.beginning * n.opening(s)
	for _, in := range w.ways.in {
		cost += in.share * w.neighbour(in, func(k *kind) edge { return w.edge(k, n, in.seconds) }, func(e *edge, other state) float64 { return e.cost(other, s) })
	}
	return cost
}

// leaving is what the ways out of the part cost a state of its last event.
func (w *work) leaving(s state) float64 {
	cost := 0.0
	for _, out := range w.ways.out {
		cost += out.share * w.neighbour(out, func(k *kind) edge {
			return w.edge(w.needs[len(w.needs)-1].kind, &need{kind: k}, out.seconds)
		}, func(e *edge, other state) float64 { return e.cost(s, other) })
	}
	return cost
}

// neighbour is the cheapest way to or from what sounds beyond a seam.
func (w *work) neighbour(s seam, edgeTo func(*kind) edge, cost func(*edge, state) float64) float64 {
	k := w.kindOf(kindKey{s.content, true, 0})
	if k.states == nil {
		k.states = w.statesOf(k)
	}
	e := edgeTo(k)
	best := math.Inf(1)
	for _, other := range k.states {
		best = min(best, cost(&e, other))
	}
	return best
}

// total adds up what a path costs. It is what the search makes as small as it
// can be, said again without the search.
func (w *work) total(path []int) float64 {
	if len(w.needs) == 0 {
		return 0
	}
	at := func(i int) state { return w.needs[i].states[path[i]] }
	sum := w.entry(at(0)) + w.leaving(at(len(path)-1))
	step := func(a, b int, seconds, times float64) {
		e := w.edge(w.needs[a].kind, &w.needs[b], seconds)
		sum += times * e.cost(at(a), at(b))
	}
	if w.ways.loop > 0 {
		step(len(path)-1, 0, w.ways.back, w.ways.loop)
	}
	for _, line := range w.lines {
		for i := line.start; i < line.end; i++ {
			switch {
			case i > line.start:
				step(i-1, i, w.needs[i].gap, float64(line.times))
			case i > 0:
				step(i-1, i, w.needs[i].gap, 1)
			}
		}
		if line.times > 1 && line.end > line.start {
			step(line.end-1, line.start, line.back, float64(line.times-1))
		}
	}
	return sum
}

// oneString plays the whole part on a single string if its range fits one, at
// the sounding octave or else at another, and otherwise falls back to the
// nearest places.
func (w *work) oneString() {
	type attempt struct {
		string neck.String
		whole  int
		cost   float64
	}
	best := attempt{cost: math.Inf(1)}
	try := func(s neck.String, whole int) bool {
		w.whole = whole
		w.prepare()
		if !w.only(s) {
			return false
		}
		w.search()
		return true
	}
	unmet := w.version.Unmet
	for _, whole := range []int{0, -1, 1} {
		for s := neck.String(neck.Strings); s >= 1; s-- {
			if !w.fits(s, whole) {
				continue
			}
			w.version.Unmet = nil
			if try(s, whole) && w.cost < best.cost {
				best = attempt{s, whole, w.cost}
			}
		}
		if best.string != 0 {
			break
		}
	}
	w.version.Unmet = nil
	if best.string == 0 {
		w.whole = 0
		w.prepare()
		w.version.Unmet = unmet
		w.version.Why = []string{"the part's range does not fit one string, so the nearest places are used"}
		w.search()
		return
	}
	try(best.string, best.whole)
	w.version.Why = []string{"all of it lies on the " + best.string.String() + " string"}
	if best.whole != 0 {
		w.version.Why = append(w.version.Why, "all of it is moved "+octaves(best.whole)+", since no string has its range where it sounds")
	}
}

// fits tells whether a string has all notes of the part.
func (w *work) fits(s neck.String, whole int) bool {
	for i := range w.events {
		c := &w.contents[w.events[i].content]
		if c.from.Dead() {
			continue
		}
		fret := w.tuning.Fret(s, c.harmony.bass+pitch.Pitch(12*whole))
		if fret < 0 || fret > w.neck.LastFret() {
			return false
		}
	}
	return true
}

// only leaves the choices on one string. It tells whether every event has one.
func (w *work) only(s neck.String) bool {
	kept := map[int32]*kind{}
	for i := range w.needs {
		n := &w.needs[i]
		if k := kept[n.id]; k != nil {
			n.kind = k
			continue
		}
		k := kind{dead: n.dead, why: n.why}
		for _, c := range n.choices {
			if c.Frets == neck.NoFrets || c.Frets.On(s) >= 0 {
				k.choices = append(k.choices, c)
			}
		}
		if len(k.choices) == 0 {
			return false
		}
		old := n.id
		n.kind = w.newKind(k)
		kept[old] = n.kind
	}
	return true
}
