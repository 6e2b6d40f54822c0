package arrange

import (
	"math"

	"valleyside/core/grade"
	"valleyside/core/hand"
	theory "valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// search is a score with the ways in which each of its events can be played.
type search struct {
	set    setup
	score  *score
	rung   *rungRow
	way    Way
	key    pitch.Key // of the part, the likeliest where one is needed and none is given
	whole  int       // octaves by which the whole part moves, for one string
	offers []offer   // all that there are
	known  map[offerKey]int
	need   []need // one for each event, in order
	bases  []int8 // where the hand may wait while nothing is fretted
	unmet  []Unmet
}

// need is the offer for an event and what its stroke asks whatever it is played
// with.
type need struct {
	offer  int
	fixed  float64 // demand
	pinned bool
}

// solution is the choice of least work: a state for each event.
type solution struct {
	*search
	states []state
	cost   float64
	exact  bool // no other takes less work
}

// newSearch gives every event its choices.
func newSearch(set setup, s *score, rung *rungRow, way Way, whole int) *search {
	p := &search{set: set, score: s, rung: rung, way: way, key: s.part.Key, whole: whole, known: map[offerKey]int{}, need: make([]need, len(s.events))}
	if !p.key.Valid() && (way.Thicken == Thirds || way.Thicken == Sixths) {
		if guesses := theory.KeysOfSong(set.song); len(guesses) > 0 {
			p.key = guesses[0].Key
		}
	}
	moved := p.movePhrases()
	main := p.mainEvents()
	for i := range s.events {
		e := &s.events[i]
		n := &p.need[i]
		n.offer = p.offerOf(offerKey{content: e.content, main: main[i], octaves: moved[i] + int8(whole), held: e.held, keeps: e.keeps})
		m := p.moment(i)
		n.fixed = m.Fixed(set.at)
	}
	p.pin()
	return p
}

// kindOf finds or makes what is offered for an event.
func (p *search) offerOf(key offerKey) int {
	if key.held >= 0 && (!p.rung.literal || p.set.rewrites()) {
		key.held = -1
	}
	if k, ok := p.known[key]; ok {
		return k
	}
	c := chooser{set: p.set, rung: p.rung, way: p.way, key: p.key, content: &p.score.contents[key.content],
		main: key.main, open: p.score.open, octaves: int(key.octaves), keeps: key.keeps, free: key.free, offer: &offer{}}
	if key.held >= 0 {
		c.held = &p.score.held[key.held]
	}
	c.choose()
	c.given()
	p.known[key] = p.addOffer(*c.offer)
	return p.known[key]
}

func (p *search) addOffer(k offer) int {
	k.id = len(p.offers)
	p.offers = append(p.offers, k)
	return k.id
}

// moment is what is known of event i before its fingering is.
func (p *search) moment(i int) grade.Moment {
	e := &p.score.events[i]
	m := grade.Moment{Seconds: e.gap, Count: e.count, Tied: e.tied, Palm: e.from.Muted(p.score.part)}
	if p.rung.literal {
		m.Written = e.from
	}
	if p.score.strokes[p.picking()][i] != song.NoStroke {
		m.Pace = e.pace
	}
	return m
}

// picking tells which of the strokes are those of the rung: on the easier ones
// everything is picked, since ornaments become picked notes.
func (p *search) picking() int {
	if p.rung.literal {
		return 0
	}
	return 1
}

// mainEvents tells, for each event, whether it is one that a thickened version
// makes big: all, or with Accents the first and the longest of each bar and what
// is accented; what is typed as several notes or by name always, and the single notes
// beside it never.
func (p *search) mainEvents() []bool {
	events := p.score.events
	main := make([]bool, len(events))
	beside := p.score.besideChords()
	for first := 0; first < len(events); {
		end := first
		longest, sounding := -1, -1
		for ; end < len(events) && events[end].bar == events[first].bar; end++ {
			e := &events[end]
			n, one := single(e.from)
			main[end] = p.way.Thicken != Accents || e.from.Accent || several(e.from)
			if one && p.rung.notes > 0 && (n.Harmonic || beside[end]) {
				main[end] = false
			}
			if e.from.Dead() || beside[end] {
				continue
			}
			if sounding < 0 {
				sounding = end
			}
			if longest < 0 || events[longest].length.Less(e.length) {
				longest = end
			}
		}
		if sounding >= 0 && p.way.Thicken == Accents {
			main[sounding], main[longest] = true, true
		}
		first = end
	}
	return main
}

// movePhrases is by how many octaves each event moves so that it lies on the
// neck: whole phrases move, never a note alone.
func (p *search) movePhrases() []int8 {
	events := p.score.events
	moved := make([]int8, len(events))
	low, high := p.set.in.Compass()
	low, high = low-pitch.Pitch(12*p.whole), high-pitch.Pitch(12*p.whole)
	for first := 0; first < len(events); {
		end := first
		lowest, highest := pitch.Pitch(math.MaxInt32), pitch.Pitch(math.MinInt32)
		for ; end < len(events); end++ {
			e := &events[end]
			if end > first && p.score.breath(end) {
				break
			}
			if !e.from.Dead() {
				a, b := p.span(&p.score.contents[e.content].harmony)
				lowest, highest = min(lowest, a), max(highest, b)
			}
		}
		by := int8(0)
		for lowest+12*pitch.Pitch(by) < low && highest+12*pitch.Pitch(by+1) <= high {
			by++
		}
		for highest+12*pitch.Pitch(by) > high && lowest+12*pitch.Pitch(by-1) >= low {
			by--
		}
		for i := first; i < end; i++ {
			moved[i] = by
		}
		first = end
	}
	return moved
}

// span is what an event needs to have on the neck.
func (p *search) span(h *harmony) (low, high pitch.Pitch) {
	switch {
	case p.rung.literal && len(h.pitches) > 0:
		return h.pitches[0], h.pitches[len(h.pitches)-1]
	case p.rung.notes == 0 || p.rung.rung == Octave:
		return h.bass, h.bass
	}
	return h.root, h.root
}

// node tells which events are one choice: the same event of bars that are
// written alike, and of cells that come again within a bar; and a chord, or whatever is
// made of several notes, wherever the part has it.
type node struct{ offer, bar, slot int }

func (p *search) nodeOf(i int) node {
	n := &p.need[i]
	e := &p.score.events[i]
	if k := &p.offers[n.offer]; !n.pinned && k.many() && !(p.rung.literal && e.from.Kind == song.Notes) {
		return node{offer: n.offer, bar: -1}
	}
	if n.pinned {
		return node{n.offer, e.bar, e.slot}
	}
	return node{n.offer, p.score.same[e.bar], e.cell}
}

// many tells whether all ways of an offer sound several strings.
func (k *offer) many() bool {
	for i := range k.choices {
		if k.choices[i].voice.Strings < 2 {
			return false
		}
	}
	return true
}

// rests lists where the hand may wait while nothing is fretted: wherever any
// choice of the part has it, and at the first fret.
func (p *search) rests() {
	used := [neck.MaxFret + 1]bool{1: true}
	p.bases = p.bases[:0]
	for i := range p.need {
		k := &p.offers[p.need[i].offer]
		for j := range k.choices {
			used[k.choices[j].base] = true
		}
	}
	for b := 1; b < len(used); b++ {
		if used[b] {
			p.bases = append(p.bases, int8(b))
		}
	}
}

func (p *search) statesOf(k *offer) []state {
	if k.states != nil {
		return k.states
	}
	for c := range k.choices {
		if base := k.choices[c].base; base > 0 {
			k.states = append(k.states, state{int32(c), base})
			continue
		}
		for _, base := range p.bases {
			k.states = append(k.states, state{int32(c), base})
		}
	}
	return k.states
}

// change is what a change between each two choices of two offers takes.
type change struct {
	placing, strings, taste float64
	hops                    bool // a finger hops along its string
}

// changes makes changes and remembers them by their offers. Most are alike, so
// that each is kept once and the rest is numbers.
type changes struct {
	*search
	known map[[2]int][]uint16 // by offers: which change, by choices
	table []change
	index map[change]uint16
}

// newChanges is for one search: the next one works in the same memory.
func newChanges(p *search) *changes {
	b := p.set.bench
	if b.changes == nil {
		b.changes = map[[2]int][]uint16{}
	}
	clear(b.changes)
	return &changes{search: p, known: b.changes, index: map[change]uint16{}}
}

// of is the change from one choice to another.
func (c *changes) of(x, y *choice) change {
	to := x.grip.To(&y.grip)
	wrong, hops := c.fingers(x, y)
	if x.Frets == y.Frets && x.Fingers != y.Fingers {
		wrong += tasteFidget
	}
	if x.Frets != y.Frets && x.voice.Strings > 1 && y.voice.Strings > 1 {
		wrong += grade.LettingGo(hand.LetGo(&x.Fingering, &y.Fingering))
	}
	if x.opened && y.base > lowRoot || y.opened && x.base > lowRoot {
		wrong += tasteOpenAway
	}
	return change{grade.Placing(to), grade.Strings(to, c.set.at.Picking), grade.Leap(x.voice, y.voice) + wrong, hops}
}

// number is the number of a change in the table.
func (c *changes) number(ch change) uint16 {
	n, ok := c.index[ch]
	if !ok {
		n = uint16(len(c.table))
		c.table = append(c.table, ch)
		c.index[ch] = n
	}
	return n
}

func (c *changes) between(a, b *offer) []uint16 {
	key := [2]int{a.id, b.id}
	if list, ok := c.known[key]; ok {
		return list
	}
	list := make([]uint16, len(a.choices)*len(b.choices))
	last := uint16(0)
	for i := range a.choices {
		for j := range b.choices {
			ch := c.of(&a.choices[i], &b.choices[j])
			if len(c.table) == 0 || c.table[last] != ch {
				last = c.number(ch)
			}
			list[i*len(b.choices)+j] = last
		}
	}
	c.known[key] = list
	return list
}

// fingers is the taste against a finger that does not do what a legato note asks:
// a slide keeps its finger, a hammered note has a higher one than the note it
// comes from, a pulled-off one a lower. hops tells that a finger hops along its
// string where no slide is written.
func (c *changes) fingers(x, y *choice) (taste float64, hops bool) {
	if !x.line || !y.line || !c.rung.literal && x.voice.Strings+y.voice.Strings < 4 {
		return 0, false
	}
	s := y.Lowest()
	if x.Lowest() != s {
		return 0, false
	}
	i := s.Index()
	a, b := x.Fingers[i], y.Fingers[i]
	fretted := x.Frets[i] > 0 && y.Frets[i] > 0
	const wrong = 100 // nothing is worth a legato note that no hand plays so
	switch y.by {
	case song.Slid, song.Released:
		if fretted && a != b {
			return wrong, false
		}
	case song.Hammered:
		if fretted && b <= a {
			return wrong, false
		}
		return weakLegato(fretted, a, b, x.Frets[i], y.Frets[i]), false
	case song.PulledOff:
		if fretted && b >= a && x.Frets[i] != y.Frets[i] {
			return wrong, false
		}
		return weakLegato(fretted, b, a, y.Frets[i], x.Frets[i]), false
	default:
		return 0, fretted && a == b && x.Frets[i] != y.Frets[i]
	}
	return 0, false
}

// weakLegato is the taste against fingers that spread for a hammered or a pulled
// note: each fret between the two that has no finger of its own.
func weakLegato(fretted bool, low, high hand.Finger, from, to int8) float64 {
	if !fretted {
		return 0
	}
	return tasteSpread * math.Max(float64(to-from)-float64(high-low), 0)
}

// step is the cost of going from states of one offer to those of another in some
// seconds, where the other's event asks for fixed beside it.
type step struct {
	changes *changes
	a, b    *offer
	list    []uint16
	gap     grade.Gap
	quick   bool // there is no time for a shift that is meant
	fixed   float64
}

// meant is the time from which on a finger that goes along its string is a shift
// that is meant, in seconds.
const meant = 0.6

func (c *changes) step(a, b *offer, fixed, seconds float64) step {
	return step{c, a, b, c.between(a, b), grade.Over(seconds), seconds < meant, fixed}
}

// demandOf is the total demand of a stroke that is come to from another.
func (c *changes) demandOf(a, b *offer, from, to state, fixed, seconds float64) float64 {
	s := step{changes: c, a: a, b: b, gap: grade.Over(seconds), fixed: fixed}
	return s.demand(from, to, c.of(&a.choices[from.choice], &b.choices[to.choice]))
}

func (s *step) demand(from, to state, ch change) float64 {
	return s.fixed + s.b.choices[to.choice].hold + s.gap.Total(s.changes.along(from.base, to.base), ch.placing, ch.strings)
}

// cost is the work of it, and the tastes of the change.
func (s *step) cost(from, to state) float64 {
	ch := s.changes.table[s.list[int(from.choice)*len(s.b.choices)+int(to.choice)]]
	way := grade.Way(s.changes.along(from.base, to.base))
	switch b := &s.b.choices[to.choice]; {
	case b.by == song.Slid:
		way = 0 // the slide is the way
	case (s.changes.rung.literal || b.line && b.voice.Strings > 1) && from.base != to.base && (b.line || b.voice.Strings == 1) && (s.a.choices[from.choice].line || s.a.choices[from.choice].voice.Strings <= 1):
		way += grade.Position
	}
	if ch.hops && s.quick {
		way += grade.Hop
	}
	return grade.Work(s.demand(from, to, ch)) + ch.taste + way
}

func (p *search) along(a, b int8) float64 {
	if a == b {
		return 0
	}
	return p.set.in.Along(int(a), int(b))
}

// passage is a change from one node to another: what it asks for whatever is
// played, and the time there is.
type passage struct {
	from, to       int
	fixed, seconds float64
}

// solve finds the choice of least work. Every change counts as often as it is
// played: a line that is played three times finds its way back to its start
// twice, and the part goes on to its neighbours in the roadmap, or to itself.
func (p *search) solve() *solution {
	p.rests()
	for i := range p.offers {
		p.offers[i].states = nil
	}
	sol := &solution{search: p, states: make([]state, len(p.need)), exact: true}
	first, last := p.score.ends()
	if first < 0 {
		return sol
	}
	b := p.set.bench
	b.clear(len(p.need))
	g, byKey := &b.graph, b.nodes
	c := newChanges(p)
	nodes := make([]int, len(p.need))
	offerOfNode := []int{}
	add := func(k int) int {
		states := p.statesOf(&p.offers[k])
		offerOfNode = append(offerOfNode, k)
		if len(b.zeros) < len(states) {
			b.zeros = make([]float64, 2*len(states))
		}
		return g.Node(b.zeros[:len(states)])
	}
	for i := range p.need {
		if p.score.events[i].from.Dead() {
			continue
		}
		key := p.nodeOf(i)
		n, ok := byKey[key]
		if !ok {
			n = add(p.need[i].offer)
			byKey[key] = n
		}
		nodes[i] = n
	}
	// What is played again and again is linked once, with the weight of all.
	visits := make([]float64, len(byKey), len(byKey)+len(p.score.ways.in)+len(p.score.ways.out)) // by node
	link := func(from, to int, fixed, seconds, weight float64) {
		w := passage{from, to, fixed, seconds}
		if _, ok := b.weights[w]; !ok {
			b.ways = append(b.ways, w)
		}
		b.weights[w] += weight
	}
	arrive := func(n int, weight float64) {
		if n == len(visits) { // a neighbour
			visits = append(visits, 0)
		}
		visits[n] += weight
	}
	k := &p.offers[p.need[first].offer]
	for j, st := range k.states {
		g.Add(nodes[first], j, p.score.ways.beginning*(grade.Work(p.need[first].fixed+k.choices[st.choice].hold)))
	}
	arrive(nodes[first], p.score.ways.beginning)
	p.eachStep(func(from, to int, seconds, weight float64) {
		link(nodes[from], nodes[to], p.need[to].fixed, seconds, weight)
		arrive(nodes[to], weight)
	})
	for _, in := range p.score.ways.in {
		n := add(p.offerOf(offerKey{content: in.content, main: true, held: -1}))
		arrive(n, 0)
		link(n, nodes[first], p.need[first].fixed, in.seconds, in.share)
		arrive(nodes[first], in.share)
	}
	for _, out := range p.score.ways.out {
		n := add(p.offerOf(offerKey{content: out.content, main: true, held: -1}))
		link(nodes[last], n, 0, out.seconds, out.share)
		arrive(n, out.share)
	}
	for _, w := range b.ways {
		weight := b.weights[w]
		a, b := &p.offers[offerOfNode[w.from]], &p.offers[offerOfNode[w.to]]
		s := c.step(a, b, w.fixed, w.seconds)
		g.Link(w.from, w.to, weight, func(i int, row []float64) {
			for j := range row {
				row[j] = s.cost(a.states[i], b.states[j])
			}
		})
	}
	for n, weight := range visits { // the tastes of being there
		k := &p.offers[offerOfNode[n]]
		for j, st := range k.states {
			g.Add(n, j, weight*k.choices[st.choice].taste)
		}
	}
	found := g.Solve()
	sol.cost, sol.exact = found.Total, found.Exact
	at := func(i int) state { return p.offers[p.need[i].offer].states[found.States[nodes[i]]] }
	hand := at(first).base
	for i := range sol.states {
		if p.score.events[i].from.Dead() {
			sol.states[i].base = hand
			continue
		}
		sol.states[i] = at(i)
		hand = sol.states[i].base
	}
	return sol
}

// eachStep calls f for every change within the part, with its time and how
// often it is played: from one event that sounds a pitch to the next.
func (p *search) eachStep(f func(from, to int, seconds, weight float64)) {
	s := p.score
	for _, line := range s.lines {
		if line.first < 0 {
			continue
		}
		for i := line.first; i <= line.last; i++ {
			switch e := &s.events[i]; {
			case e.before < 0 || e.from.Dead():
			case i > line.first:
				f(e.before, i, e.gap, float64(line.times))
			default:
				f(e.before, i, e.gap, 1)
			}
		}
		if line.times > 1 {
			f(line.last, line.first, line.back, float64(line.times-1))
		}
	}
	if s.ways.loop > 0 {
		first, last := s.ends()
		f(last, first, s.ways.back, s.ways.loop)
	}
}

// solve makes a version's solution: the score as the rung has it, its choices,
// and the best of them.
func solve(set setup, s *score, rung *rungRow, way Way) (*solution, []Fact) {
	if rung.strums && s.arpeggio() {
		s = s.strummed(set)
	}
	if !rung.literal && !way.FullRhythm {
		s = s.certain(set).thinned(set)
	}
	if rung.rung == OneFinger && way.Prefer == OneString {
		return oneString(set, s, rung, way)
	}
	return newSearch(set, s, rung, way, 0).solve(), nil
}

// oneString plays the whole part on a single string if its range fits one, at
// the sounding octave or else at another, and otherwise falls back to the
// nearest places.
func oneString(set setup, s *score, rung *rungRow, way Way) (*solution, []Fact) {
	var best *solution
	var on neck.String
	for _, whole := range []int{0, -1, 1} {
		for str := neck.String(neck.Strings); str >= 1; str-- {
			if !s.fits(set.in, str, whole) {
				continue
			}
			p := newSearch(set, s.unkept(), rung, way, whole)
			if !p.only(str) {
				continue
			}
			if sol := p.solve(); best == nil || sol.cost < best.cost {
				best, on = sol, str
			}
		}
		if best != nil {
			why := []Fact{AllOnString{on}}
			if whole != 0 {
				why = append(why, AllMoved{whole})
			}
			return best, why
		}
	}
	return newSearch(set, s, rung, way, 0).solve(), []Fact{NoOneString}
}

// unkept is the score in which no note keeps to its string.
func (s *score) unkept() *score {
	t := *s
	t.events = append([]event(nil), s.events...)
	for i := range t.events {
		t.events[i].keeps = false
	}
	return &t
}

// fits tells whether a string has all notes of the part.
func (s *score) fits(in neck.Instrument, str neck.String, whole int) bool {
	for i := range s.events {
		c := &s.contents[s.events[i].content]
		if !c.from.Dead() && !in.Has(str, c.harmony.bass+pitch.Pitch(12*whole)) {
			return false
		}
	}
	return true
}

// only leaves the choices on one string. It tells whether every event has one.
func (p *search) only(s neck.String) bool {
	for i := range p.offers {
		var left []choice
		for _, c := range p.offers[i].choices {
			if c.Frets == neck.NoFrets || c.Frets.On(s) >= 0 && c.Sounding() == 1 {
				c.taste = grade.Place(int(c.base))
				left = append(left, c)
			}
		}
		if len(left) == 0 {
			return false
		}
		p.offers[i].choices = left
	}
	return true
}
