package arrange

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// mostAlternatives is how many alternatives a bar is given.
const mostAlternatives = 4

// mostOfPhrase is how many more of the whole phrase.
const mostOfPhrase = 3

// Alternative is another way to play a bar or the phrase that it is part of, the
// rest of the version staying as it is.
type Alternative struct {
	// From and To are the bars, counted from 1.
	From, To int
	// Cost is the work that it takes more than the version's own.
	Cost float64
	// Is says what it is, by which it is told from the others; Buys what speaks for it.
	Is, Buys []Fact
	// Shapes are its frets, a shape for each event that is fretted or open, and
	// Pins what makes the version take it.
	Shapes []neck.Frets
	Pins   []Pin
}

// wish is what an alternative asks of every event of a bar or a phrase.
type wish struct {
	octaves int
	free    bool // the notes may lie elsewhere than where they are typed
	whole   bool // nothing stays as it is
	allows  func(*choice) bool
}

// Alternatives lists other ways to play one bar, counted from 1, of a version:
// all on one string, with more open strings or none, without a barre or the
// little finger, elsewhere on the neck; and, for the phrase that it is part of,
// the same notes in the other octave or elsewhere as a whole. Each is the best of
// its like beside a version that stays as it is. With a pass they are for that
// pass of a repeated line alone; 0 is every pass.
func (a *Arranger) Alternatives(part int, rung Rung, way Way, bar, pass int) []Alternative {
	sol, _ := solve(a.set, a.apart(part, way), rung.row(), way)
	s := sol.score
	at := s.barOf(bar-1, pass)
	first := slices.IndexFunc(s.events, func(e event) bool { return e.bar == at })
	if first < 0 {
		return nil
	}
	end := first
	for end < len(sol.need) && s.events[end].bar == at {
		end++
	}
	found := sol.instead(nil, first, end, pass, wishes(sol, first, end), mostAlternatives)
	from, to := s.phraseOf(first)
	return sol.instead(found, from, to, pass, phraseWishes(sol, from, to), len(found)+mostOfPhrase)
}

// instead adds to a list what wishes find for the events from first to before end,
// the least work first, until there are so many.
func (sol *solution) instead(list []Alternative, first, end, pass int, wishes []wish, most int) []Alternative {
	var found []Alternative
	own := sol.local(first, end, wish{allows: func(*choice) bool { return true }}, true)
	if own == nil {
		return list // nothing but dead strokes
	}
	mine := figuresOf(sol, own)
	same := func(shapes []neck.Frets) func(Alternative) bool {
		return func(f Alternative) bool { return slices.Equal(f.Shapes, shapes) }
	}
	for _, w := range wishes {
		alt := sol.local(first, end, w, false)
		if alt == nil {
			continue
		}
		shapes := alt.shapes()
		if w.octaves != 0 && !sol.moves(own.shapes(), shapes, w.octaves) || slices.Equal(shapes, own.shapes()) || slices.ContainsFunc(found, same(shapes)) || slices.ContainsFunc(list, same(shapes)) {
			continue
		}
		its := figuresOf(sol, alt)
		one := Alternative{Cost: alt.cost - own.cost, Shapes: shapes, Is: its.is(mine, w.octaves), Buys: buys(mine, its)}
		one.From, one.To = sol.score.of[sol.score.events[first].bar].bar+1, sol.score.of[sol.score.events[end-1].bar].bar+1
		for i, at := range alt.events {
			e := &sol.score.events[at]
			one.Pins = append(one.Pins, Pin{Bar: sol.score.of[e.bar].bar + 1, Pass: pass, Event: true, Start: e.from.Start, What: PinShape, Shape: shapes[i]})
		}
		found = append(found, one)
	}
	slices.SortStableFunc(found, func(a, b Alternative) int { return cmp.Compare(a.Cost, b.Cost) })
	for _, one := range found {
		if len(list) == most {
			break
		}
		if !slices.ContainsFunc(list, one.alike) { // of two that are called the same, the one of less work
			list = append(list, one)
		}
	}
	return list
}

// alike tells whether two alternatives would be called the same.
func (a Alternative) alike(b Alternative) bool {
	return a.From == b.From && a.To == b.To && slices.Equal(a.Is, b.Is)
}

// moves tells whether shapes sound what others do, so many octaves higher.
func (p *search) moves(from, to []neck.Frets, octaves int) bool {
	for i := range from {
		a, b := p.set.in.Sounds(from[i]), p.set.in.Sounds(to[i])
		if len(a) != len(b) {
			return false
		}
		for k := range a {
			if b[k]-a[k] != pitch.Pitch(12*octaves) {
				return false
			}
		}
	}
	return true
}

// phraseOf is the phrase that an event is part of: it ends with its line, and where
// a beat of silence follows.
func (s *score) phraseOf(i int) (first, end int) {
	for first, end = i, i+1; first > 0 && !s.breath(first); first-- {
	}
	for end < len(s.events) && !s.breath(end) {
		end++
	}
	return first, end
}

// breath tells whether a phrase begins with event i.
func (s *score) breath(i int) bool {
	before, e := &s.events[i-1], &s.events[i]
	return e.line != before.line || e.place-before.place-before.length.Float() >= s.part.Meter.Beat().Float()-1e-9
}

// wishes lists what may be asked of a bar.
func wishes(sol *solution, first, end int) []wish {
	list := []wish{}
	ask := func(allows func(*choice) bool) { list = append(list, wish{allows: allows}) }
	for s := neck.String(1); s <= neck.Strings; s++ {
		ask(func(c *choice) bool { return c.Lowest() == s })
	}
	ask(func(c *choice) bool { return c.Frets.Open() == 0 })
	ask(func(c *choice) bool { return c.Build().Barres == 0 })
	ask(func(c *choice) bool { return !c.Uses(hand.Little) })
	ask(func(c *choice) bool { return slices.Max(c.Frets[:]) <= 4 })
	for low := int8(3); low <= 12; low += 2 {
		ask(within(low))
	}
	played := map[neck.Frets]bool{}
	for i := first; i < end; i++ {
		c := sol.offers[sol.need[i].offer].choices[sol.states[i].choice]
		if !played[c.Frets] { // every event otherwise than it is now, as far as it can
			played[c.Frets] = true
			shape := c.Frets
			ask(func(c *choice) bool { return c.Frets != shape })
		}
	}
	return list
}

// within allows what lies in five frets.
func within(low int8) func(*choice) bool {
	return func(c *choice) bool {
		for _, fret := range c.Frets {
			if fret >= 0 && (fret < low || fret > low+4) {
				return false
			}
		}
		return true
	}
}

// phraseWishes lists what may be asked of a lick as a whole: the other octave, or
// the same notes in another stretch of the neck.
func phraseWishes(sol *solution, first, end int) []wish {
	for i := first; i < end; i++ {
		e := sol.score.events[i].from
		if _, one := single(e); !one && !e.Dead() {
			return nil
		}
	}
	list := make([]wish, 0, 16)
	for _, by := range []int{1, -1} {
		list = append(list, wish{by, true, true, func(c *choice) bool { return c.Sounding() > 0 }})
	}
	for low := int8(0); low <= 12; low++ {
		list = append(list, wish{0, true, true, within(low)})
	}
	return list
}

// stretch is some events of a solution played in some way: those that sound a pitch.
type stretch struct {
	events []int
	offers []*offer
	states []state
	cost   float64
}

func (s *stretch) shapes() []neck.Frets {
	list := make([]neck.Frets, len(s.offers))
	for i, k := range s.offers {
		list[i] = k.choices[s.states[i].choice].Frets
	}
	return list
}

// local finds the best way through the events from first to before end that a
// wish allows, what comes before and after staying as it is; nil where there is
// none. With as it is measured as the solution has it.
func (sol *solution) local(first, end int, w wish, as bool) *stretch {
	// A copy whose offers may grow without touching the solution's.
	p := *sol.search
	p.offers = slices.Clone(sol.search.offers)
	p.known = map[offerKey]int{}
	c := newChanges(&p)
	g := &p.set.bench.graph
	g.Reset()
	s := &stretch{}
	allowed := map[int][]int{}
	offers := make([]int, 0, end-first)
	nodes := make([]int, end-first) // by event
	for i := first; i < end; i++ {
		e := &p.score.events[i]
		if e.from.Dead() {
			continue
		}
		at := p.need[i].offer
		if w.free {
			at = p.offerOf(offerKey{content: e.content, main: true, octaves: int8(w.octaves), held: -1, free: true})
		}
		nodes[i-first] = len(offers)
		offers, s.events = append(offers, at), append(s.events, i)
	}
	any := false
	for n, at := range offers {
		k := &p.offers[at]
		states := p.statesOf(k)
		own := make([]float64, len(states))
		var ok []int
		for j, st := range states {
			ch := &k.choices[st.choice]
			own[j] = ch.taste
			if as && st == sol.states[s.events[n]] || !as && w.allows(ch) {
				ok = append(ok, j)
			}
		}
		any = any || len(ok) > 0
		if len(ok) == 0 { // not here: as it is
			if w.whole {
				return nil
			}
			for j, st := range states {
				if st == sol.states[s.events[n]] {
					ok = append(ok, j)
				}
			}
		}
		allowed[g.Node(own)] = ok
	}
	if !any {
		return nil
	}
	link := func(from, to int, a, b int, fixed, seconds, weight float64, fromState, toState *state) {
		step := c.step(&p.offers[a], &p.offers[b], fixed, seconds)
		switch {
		case fromState != nil:
			for j, st := range p.offers[b].states {
				g.Add(to, j, weight*step.cost(*fromState, st))
			}
		case toState != nil:
			for i, st := range p.offers[a].states {
				g.Add(from, i, weight*step.cost(st, *toState))
			}
		default:
			g.Link(from, to, weight, func(i int, row []float64) {
				for j := range row {
					row[j] = step.cost(p.offers[a].states[i], p.offers[b].states[j])
				}
			})
		}
	}
	in := func(i int) bool { return i >= first && i < end }
	p.eachStep(func(from, to int, seconds, weight float64) {
		fixed := p.need[to].fixed
		switch {
		case in(from) && in(to):
			a, b := nodes[from-first], nodes[to-first]
			link(a, b, offers[a], offers[b], fixed, seconds, weight, nil, nil)
		case in(to):
			b := nodes[to-first]
			link(0, b, p.need[from].offer, offers[b], fixed, seconds, weight, &sol.states[from], nil)
		case in(from):
			a := nodes[from-first]
			link(a, 0, offers[a], p.need[to].offer, fixed, seconds, weight, nil, &sol.states[to])
		}
	})
	found := g.Among(allowed)
	s.cost = found.Total
	for n, at := range offers {
		k := &p.offers[at]
		s.offers, s.states = append(s.offers, k), append(s.states, k.states[found.States[n]])
	}
	return s
}

// figure is what ways through a bar are compared by.
type figure struct {
	barres, fingers, strings, kept, open, low, high, sounding int
	only                                                      neck.String
	lowest                                                    neck.String
	little                                                    bool
	shift, reach                                              float64
	from, to                                                  int8 // the places of the hand
}

func figuresOf(sol *solution, s *stretch) figure {
	f := figure{low: math.MaxInt}
	var used neck.StringSet
	for i := range s.offers {
		c := &s.offers[i].choices[s.states[i].choice]
		f.barres += c.Build().Barres
		f.fingers += c.Count()
		f.little = f.little || c.Uses(hand.Little)
		f.sounding += c.Sounding()
		if base := c.base; base > 0 {
			if f.from == 0 {
				f.from = base
			}
			f.from, f.to = min(f.from, base), max(f.to, base)
		}
		f.reach = max(f.reach, c.Reach(sol.set.in.Neck))
		for j, fret := range c.Frets {
			if fret < 0 {
				continue
			}
			str := neck.StringAt(j)
			if !used.Has(str) {
				used, f.only = used.With(str), str
				f.strings++
			}
			f.lowest = max(f.lowest, str)
			if fret == 0 {
				f.open++
			} else {
				f.low, f.high = min(f.low, int(fret)), max(f.high, int(fret))
			}
		}
		if i > 0 {
			before := &s.offers[i-1].choices[s.states[i-1].choice]
			f.shift += sol.along(s.states[i-1].base, s.states[i].base)
			f.kept += hand.Between(before.Fingering, c.Fingering).Kept
		}
	}
	if f.low == math.MaxInt {
		f.low = 0
	}
	return f
}

// is says what a way through a bar is: in another octave, on one string, or where the
// hand is, with open strings or without and on how many where the version has it otherwise.
func (f *figure) is(own figure, octaves int) []Fact {
	var list []Fact
	if octaves != 0 {
		list = append(list, OctaveElsewhere{octaves, int(own.lowest - f.lowest)})
	}
	switch {
	case f.strings == 1:
		list = append(list, OnString{f.only})
	case f.from == 0:
		list = append(list, AllOpen)
	case f.from == f.to:
		list = append(list, InPosition(f.from))
	default:
		list = append(list, InFrets{f.low, f.high})
	}
	if f.strings > 1 && f.from > 0 && (f.open > 0) != (own.open > 0) {
		list = append(list, map[bool]Plain{true: WithOpen, false: WithoutOpen}[f.open > 0])
	}
	if f.strings > 1 && f.strings != own.strings {
		list = append(list, OnStrings(f.strings))
	}
	return list
}

// buys says what a way through a bar has that the version's own has not.
func buys(own, other figure) []Fact {
	var list []Fact
	say := func(better bool, f Fact) {
		if better {
			list = append(list, f)
		}
	}
	say(other.barres < own.barres, NoBarreThere)
	say(!other.little && own.little, NoLittleThere)
	say(other.reach < own.reach-15, LessReach(own.reach-other.reach))
	say(other.sounding > own.sounding, Fuller)
	say(other.fingers < own.fingers, FewerFingers)
	say(other.shift < own.shift-10, LessMoving(own.shift-other.shift))
	say(other.kept > own.kept, MoreStay)
	say(other.open > own.open && own.open > 0, MoreOpen)
	say(other.open == 0 && own.open > 0, OneSound)
	const most = 2
	return list[:min(len(list), most)]
}
