package lesson

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/drill"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/play"
	"valleyside/core/song"
)

// What is worth a step of its own; grades and demands as core/grade has them.
const (
	hardChange   = 0.45 // of a change, below which it comes by itself
	newShapeAsks = 1.5  // more of a change, for each of its shapes that is new
	mostChanges  = 3    // of one part
	easyPart     = 0.3  // of the hardest bar, below which a part is learnt in one go
	standsOut    = 1.15
	hardPlace    = 0.45 // from which a place is worth a drill
	mostPlaces   = 3    // of one part
	rhythmBars   = 4    // of one step
	accumulated  = 16   // bars, up to which pieces are joined to the end of the part
)

// rhythm puts the rhythm of a part before its notes where it is not plain.
func (b *builder) rhythm(i int) {
	v := b.view(i)
	var why []Reason
	first, last := 0, 0
	for j := range v.version.Bars {
		bar := &v.version.Bars[j]
		key := rhythmKey(bar)
		if b.rhythms[key] {
			continue
		}
		b.rhythms[key] = true
		reasons := hard(bar, v.part)
		if len(reasons) > 0 && (first == 0 || j+1 < first+rhythmBars) {
			first, last = cmp.Or(first, j+1), j+1
			why = append(why, reasons...)
		}
	}
	for _, differs := range v.lastPasses() {
		from, to := max(differs-1, 1), differs
		switch {
		case first == 0:
			first, last = from, to
		case to < first+rhythmBars:
			last = max(last, to)
		default:
			continue
		}
		why = append(why, Reason{Kind: PassDiffers, Bar: differs})
	}
	if first == 0 {
		return
	}
	s := b.step(Rhythm, v, first, last)
	s.Why = eachOnce(why)
	b.add(s, v.lasts(first, last), 1.3)
}

// eachOnce keeps the first reason of each kind, at most two.
func eachOnce(why []Reason) (list []Reason) {
	slices.SortStableFunc(why, func(a, b Reason) int { return cmp.Compare(a.Kind, b.Kind) })
	for _, r := range why {
		if n := len(list); n < 2 && (n == 0 || list[n-1].Kind != r.Kind) {
			list = append(list, r)
		}
	}
	return list
}

// hard says what is not plain about the rhythm of a bar.
func hard(bar *arrange.Bar, p *song.Part) (why []Reason) {
	m := bar.Measure.Meter
	beat := m.Beat()
	starts := map[pitch.Frac]bool{}
	for i := range bar.Events {
		starts[bar.Events[i].Start] = true
	}
	var first *arrange.Event
	offs, alone, thirds := 0, 0, 0
	for i := range bar.Events {
		e := &bar.Events[i]
		pos := e.Start.Div(beat)
		on := beat.Mul(pitch.Whole(pos.Floor()))
		if on == e.Start {
			continue
		}
		offs++
		if pos.Den()%3 == 0 {
			thirds++
		}
		next := on.Add(beat)
		tied := next.Less(m.Bar()) && next.Less(e.Start.Add(e.Length)) && !starts[next]
		if tied || !starts[on] && !on.Less(bar.Measure.Lead) {
			if alone++; first == nil {
				first = e
			}
		}
	}
	if first != nil {
		why = append(why, Reason{Kind: OffBeat, N: alone, Bar: bar.Number, At: first.Start, Meter: m})
	}
	if forth, back := gallops(bar); forth || back {
		r := Reason{Kind: Galloping, Bar: bar.Number}
		if !forth {
			r.Kind = GallopingBack
		}
		why = append(why, r)
	}
	if p.Feel.Share != 0 && m.Unit == 4 && offs > 0 {
		why = append(why, Reason{Kind: Swung, Bar: bar.Number})
	}
	if thirds > 0 && !m.Compound() {
		why = append(why, Reason{Kind: Tripping, Bar: bar.Number})
	}
	if m.Count == 5 || m.Count == 7 || m.Count > 9 && m.Count != 12 {
		why = append(why, Reason{Kind: OddTime, N: m.Count, Bar: bar.Number, Meter: m})
	}
	return why
}

// gallops tells whether a bar has a beat of an eighth and two sixteenths, and whether it
// has one of them the other way round.
func gallops(bar *arrange.Bar) (forth, back bool) {
	pulse := bar.Measure.Meter.Pulse()
	quarters := map[int64]uint8{} // by pulse: on which of its quarters something is struck
	for i := range bar.Events {
		if bar.Events[i].Stroke == song.NoStroke {
			continue
		}
		at := bar.Events[i].Start.Div(pulse).Mul(pitch.Whole(4))
		if at.Den() == 1 {
			quarters[at.Num()/4] |= 1 << (at.Num() % 4)
		}
	}
	for _, q := range quarters {
		forth = forth || q == 0b1101
		back = back || q == 0b0111
	}
	return forth, back
}

// lastPasses lists the bars in which the line after a repeated one goes on differently,
// with another rhythm: the changed last pass.
func (v *view) lastPasses() (list []int) {
	at := 0
	for i := range v.part.Lines {
		l := &v.part.Lines[i]
		if i > 0 && v.part.Lines[i-1].Times > 1 && len(v.part.Lines[i-1].Bars) == len(l.Bars) {
			n := len(l.Bars)
			same, differs := 0, 0
			for j := range n {
				if rhythmKey(&v.version.Bars[at-n+j]) == rhythmKey(&v.version.Bars[at+j]) {
					same++
				} else if differs == 0 {
					differs = at + j + 1
				}
			}
			if differs > 0 && (same > 0 || n == 1) {
				list = append(list, differs)
			}
		}
		at += len(l.Bars)
	}
	return list
}

// newShapes teaches the shapes of a part that the student does not have, once each.
func (b *builder) newShapes(i int) {
	v := b.view(i)
	for j := range v.holds {
		h := &v.holds[j]
		key := keyOf(h.Frets)
		if !isShape(h.Fingering) || b.shapes[key] || b.has(h) {
			continue
		}
		b.tellApart(h)
		b.shapes[key] = true
		s := b.step(Shape, v, h.bar+1, h.bar+1)
		s.Goal, s.Passes, s.Without = s.Start, takes, 0
		s.Shapes = []Held{h.Held}
		_, strings := h.Fingering.Barre()
		s.Why = []Reason{{Kind: NewShape, N: h.Fingering.Count(), Strings: strings}}
		hold := grade.Hold(h.Fingering, b.at)
		s.Places = []drill.Place{b.place(v, h.bar, h.at, hold.Worst())}
		b.add(s, 60/s.Start*shapeBeats, 1+hold.Total())
	}
}

// tellApart marks a shape that is new where the student has another one of its name, or has
// met one.
func (b *builder) tellApart(h *hold) {
	key := keyOf(h.Frets)
	first, met := b.named[h.Name]
	if !met {
		b.named[h.Name] = key
	}
	h.Another = met && first != key || h.Name != "" && b.student.Known.hasNamed(h.Name)
}

// has tells whether the student has a shape, or one that it is a part of.
func (b *builder) has(h *hold) bool {
	known := &b.student.Known
	return known.Has(h.Frets) || known.names[h.Name] || known.covers(h.Frets)
}

// takes is how often a shape is taken, shapeBeats how long the practice of one lasts.
const (
	takes       = 5
	shapeBeats  = 8
	changeBeats = 16
)

func (b *builder) place(v *view, bar, event int, what grade.Demand) drill.Place {
	return drill.Place{Song: b.song, Version: v.version, Bar: bar, Event: event, For: what}
}

// change is one from a shape to another, as hard as it is anywhere in a part.
type change struct {
	from, to *hold
	total    float64
}

// changesOf lists the changes of a part that ask most and have not been drilled, the
// hardest first.
func (b *builder) changesOf(v *view) (list []change) {
	for j := 1; j < len(v.holds); j++ {
		from, to := &v.holds[j-1], &v.holds[j]
		if !isShape(from.Fingering) || !isShape(to.Fingering) || from.Frets == to.Frets || b.changes[pairOf(from, to)] {
			continue
		}
		total, _ := b.profile(from, to)
		at := slices.IndexFunc(list, func(c change) bool { return pairOf(c.from, c.to) == pairOf(from, to) })
		switch {
		case total < hardChange:
		case at < 0:
			list = append(list, change{from, to, total})
		case total > list[at].total:
			list[at] = change{from, to, total}
		}
	}
	slices.SortStableFunc(list, func(x, y change) int { return cmp.Compare(y.total, x.total) })
	return list
}

// hardChanges drills the changes of a part that ask most, two shapes at a time.
func (b *builder) hardChanges(i int) {
	v := b.view(i)
	list := b.changesOf(v)
	for _, c := range list[:min(mostChanges, len(list))] {
		b.changes[pairOf(c.from, c.to)] = true
		s := b.step(Change, v, min(c.from.bar, c.to.bar)+1, max(c.from.bar, c.to.bar)+1)
		s.Shapes, s.Without = []Held{c.from.Held, c.to.Held}, 0
		_, m := b.profile(c.from, c.to)
		p := m.Profile(b.at)
		worst := grade.Change
		if p[grade.Shift] > p[grade.Change] {
			worst = grade.Shift
		}
		s.Why = []Reason{{Kind: HardChange, Bar: c.to.bar + 1, Event: c.to.event, Meter: v.version.Bars[c.to.bar].Measure.Meter,
			Hard: &arrange.Hard{Spot: m.Spot(worst, b.at), From: c.from.Name, To: c.to.Name}}}
		anchors, guides := hand.Anchors(c.from.Fingering, c.to.Fingering)
		switch {
		case worst != grade.Change: // it says so itself
		case len(anchors) > 0:
			s.Why = append(s.Why, Reason{Kind: FingerStays, String: stringOf(anchors)})
		case len(guides) > 0:
			s.Why = append(s.Why, Reason{Kind: FingerSlides, String: stringOf(guides)})
		}
		b.add(s, 60/v.version.Tempo*changeBeats, 1+c.total)
	}
}

// pairOf is the same for a change and the way back.
func pairOf(from, to *hold) [2]neck.Frets {
	if slices.Compare(from.Frets[:], to.Frets[:]) > 0 {
		return [2]neck.Frets{to.Frets, from.Frets}
	}
	return [2]neck.Frets{from.Frets, to.Frets}
}

// pieces takes a part apart: its hardest bar first, then the end, joined backwards. What
// is known from a part before is left out, and so is all of it where the part is easy.
func (b *builder) pieces(i int) {
	v := b.view(i)
	n := len(v.version.Bars)
	worst := 0
	var demands []float64
	for j := range v.version.Bars {
		if demands = append(demands, v.version.Bars[j].Demand); v.version.Bars[j].Demand > v.version.Bars[worst].Demand {
			worst = j
		}
	}
	places := b.places(v)
	b.drills(v, places)
	if v.distinct() < 2 || demands[worst] < easyPart || b.knows(v, 0, n) {
		return
	}
	slices.Sort(demands)
	if hardest := v.version.Bars[worst].Hardest(); hardest != nil && hardest.Demand >= hardPlace && demands[len(demands)-1] > standsOut*demands[(len(demands)-1)/2] && !b.bars[v.keys[worst]] {
		b.piece(v, worst, worst+1, places, Reason{Kind: HardestBar, Bar: worst + 1, Event: v.version.Bars[worst].Hardest(), Meter: v.version.Bars[worst].Measure.Meter})
	}
	starts := v.phrases()
	for k := len(starts) - 1; k > 0; k-- {
		from, to := starts[k], n
		if n > accumulated && k+1 < len(starts) {
			to = starts[k+1]
		}
		if k == len(starts)-1 {
			if !b.knows(v, from, to) {
				b.piece(v, from, to, places, Reason{Kind: EndFirst, From: from + 1, To: to})
			}
			continue
		}
		if n > accumulated {
			to = n
			if k+2 < len(starts) {
				to = starts[k+2]
			}
		}
		if !b.knows(v, from, to) {
			b.piece(v, from, to, places, Reason{Kind: JoinedTo, From: from + 1, To: starts[k+1], Bar: to})
		}
	}
	if n > accumulated && !b.knows(v, 0, starts[min(2, len(starts)-1)]) {
		b.piece(v, 0, starts[min(2, len(starts)-1)], places, Reason{Kind: JoinedTo, From: 1, To: starts[1], Bar: starts[min(2, len(starts)-1)]})
	}
}

// distinct counts the bars that are not played alike.
func (v *view) distinct() int {
	keys := slices.Clone(v.keys)
	slices.Sort(keys)
	return len(slices.Compact(keys))
}

// phrases are the bars, from 0, with which the pieces of a part begin: single bars of a
// short one, and never more than four bars or a line.
func (v *view) phrases() (starts []int) {
	n := len(v.version.Bars)
	size := 1
	switch {
	case n > 8:
		size = 4
	case n > 4:
		size = 2
	}
	at := 0
	for _, l := range v.part.Lines {
		from := 0
		for from < len(l.Bars) {
			starts = append(starts, at+from)
			if from += size; at+from == size && l.Bars[0].Lead.Num() > 0 {
				from++ // a pickup goes with its bar
			}
		}
		at += len(l.Bars)
	}
	return starts
}

// knows tells whether the bars from to before to, counted from 0, have all been taught,
// and the ways from one to the next.
func (b *builder) knows(v *view, from, to int) bool {
	for j := from; j < to; j++ {
		if !b.bars[v.keys[j]] || j > from && !b.pairs[[2]string{v.keys[j-1], v.keys[j]}] {
			return false
		}
	}
	return true
}

func (b *builder) learn(v *view, from, to int) {
	for j := from; j < to; j++ {
		b.bars[v.keys[j]] = true
		if j > from {
			b.pairs[[2]string{v.keys[j-1], v.keys[j]}] = true
		}
	}
}

func (b *builder) piece(v *view, from, to int, places []drill.Place, why Reason) {
	s := b.step(Piece, v, from+1, to)
	s.Why = []Reason{why}
	for _, p := range places {
		if p.Bar >= from && p.Bar < to {
			s.Places = append(s.Places, p)
		}
	}
	b.learn(v, from, to)
	b.add(s, v.lasts(from+1, to), v.tries(from+1, to))
}

// places lists the hard places of a part, the hardest first, each for something else.
func (b *builder) places(v *view) (list []drill.Place) {
	type spot struct {
		bar, event int
		demand     float64
		what       grade.Demand
	}
	var spots []spot
	for j := range v.version.Bars {
		for k := range v.version.Bars[j].Events {
			if e := &v.version.Bars[j].Events[k]; e.Demand >= hardPlace && e.Hard != nil {
				spots = append(spots, spot{j, k, e.Demand, e.Hard.Spot.Demand})
			}
		}
	}
	slices.SortStableFunc(spots, func(x, y spot) int { return cmp.Compare(y.demand, x.demand) })
	had := map[grade.Demand]bool{}
	for _, s := range spots {
		if !had[s.what] && len(list) < mostPlaces {
			had[s.what] = true
			list = append(list, b.place(v, s.bar, s.event, s.what))
		}
	}
	return list
}

// drills gives a change that has a step of its own the drill for its way along the neck;
// the change itself is what is played in it.
func (b *builder) drills(v *view, places []drill.Place) {
	for i := range b.steps {
		s := &b.steps[i]
		if s.Kind != Change || s.Part != v.index {
			continue
		}
		for _, p := range places {
			if e := &v.version.Bars[p.Bar].Events[p.Event]; e == s.Why[0].Event && p.For == grade.Shift {
				s.Places = append(s.Places, p)
			}
		}
	}
}

// seams joins the end of a part to its own beginning, and to those of the parts beside
// it in the roadmap that have been taught.
func (b *builder) seams(i int) {
	v := b.view(i)
	b.learn(v, 0, len(v.keys)) // before it is played through, its seams are
	b.done = append(b.done, i)
	for _, pair := range b.neighbours() {
		if pair[0] != i && pair[1] != i || !slices.Contains(b.done, pair[0]) || !slices.Contains(b.done, pair[1]) {
			continue
		}
		from, to := b.view(pair[0]), b.view(pair[1])
		last := len(from.keys)
		key := [2]string{from.keys[last-1], to.keys[0]}
		if b.pairs[key] {
			continue
		}
		b.pairs[key] = true
		why := Reason{Kind: LeadsInto}
		if pair[0] == pair[1] {
			if last == 1 || b.easyLoop(from) {
				continue // a bar is looped while it is learnt
			}
			why.Kind = LoopsBack
		}
		s := b.step(Seam, from, last, last)
		s.Into, s.Why = pair[1], []Reason{why}
		s.Without |= to.later
		b.add(s, from.seconds[last-1]+to.seconds[0], max(from.tries(last, last), to.tries(1, 1)))
	}
}

// easyLoop tells whether a part comes round to its beginning by itself.
func (b *builder) easyLoop(v *view) bool {
	if len(v.holds) < 2 {
		return true
	}
	from, to := &v.holds[len(v.holds)-1], v.holds[0]
	bar := &v.version.Bars[from.bar]
	left := bar.Measure.Meter.Bar().Sub(from.event.Start)
	to.seconds = v.part.Clock(v.version.Tempo).Seconds(left.Float())
	total, _ := b.profile(from, &to)
	return total < hardChange
}

// neighbours lists which part comes after which, each pair once, in the order of the
// roadmap.
func (b *builder) neighbours() (list [][2]int) {
	add := func(from, to int) {
		pair := [2]int{from, to}
		if b.learnt(from) && b.learnt(to) && !slices.Contains(list, pair) {
			list = append(list, pair)
		}
	}
	for k, leg := range b.song.Order {
		if leg.Times > 1 {
			add(leg.Part, leg.Part)
		}
		if k+1 < len(b.song.Order) {
			add(leg.Part, b.song.Order[k+1].Part)
		}
	}
	return list
}

func (b *builder) learnt(i int) bool {
	return i < len(b.chosen) && b.chosen[i].Version != nil && len(b.chosen[i].Version.Bars) > 0
}

// part takes a part up to its tempo, a stage at a time.
func (b *builder) part(i int) {
	v := b.view(i)
	tempos := b.days(v)
	for k := 1; k < len(tempos); k++ {
		var places []drill.Place
		why := Reason{Kind: GoesOn}
		if k == 1 {
			why = Reason{Kind: SlowStart, N: int(100 * v.stages[0] / v.version.Tempo)}
			if v.byPace {
				why.Kind, why.Most = PaceStart, b.student.Player.Pace()
			}
			if !b.hasPiece(i) {
				places = b.places(v)
			}
		}
		b.whole(v, tempos[k-1], tempos[k], why, places)
	}
}

// differs lists the bars of a part that are not known, from 0; ok tells that at least half of
// them are known from another one, so that it is taught by what differs.
func (b *builder) differs(i int) (fresh []int, ok bool) {
	v := b.view(i)
	for j, key := range v.keys {
		if !b.bars[key] {
			fresh = append(fresh, j)
		}
	}
	return fresh, 2*len(fresh) <= len(v.keys)
}

// whatDiffers teaches a part by its bars that are not known, each run of them with the bar
// before it, and then in one go.
func (b *builder) whatDiffers(i int, fresh []int) {
	v := b.view(i)
	places := b.places(v)
	b.drills(v, places)
	for k := 0; k < len(fresh); {
		to := k + 1
		for to < len(fresh) && fresh[to] == fresh[to-1]+1 {
			to++
		}
		b.piece(v, max(fresh[k]-1, 0), fresh[to-1]+1, places, Reason{Kind: NewHere, Bar: fresh[k] + 1})
		k = to
	}
	b.seams(i)
	why := Reason{Kind: AsOne}
	tempos := b.days(v)
	if len(fresh) > 0 {
		why = Reason{Kind: NewHere, Bar: fresh[0] + 1}
	}
	from := v.stages[1] // where what is new in it is clean
	if reached := b.reached(i); reached > 0 {
		from = min(from, reached)
	}
	for k := 1; k < len(tempos); k++ {
		if tempos[k] > from || k == len(tempos)-1 {
			b.whole(v, tempos[k-1], tempos[k], why, nil)
			why = Reason{Kind: GoesOn}
		}
	}
}

// reached is the highest tempo that the steps of a part go up to so far, 0 for none.
func (b *builder) reached(part int) (goal float64) {
	for i := range b.steps {
		if s := &b.steps[i]; s.Part == part && s.Kind != Form && s.Kind != Seam {
			goal = max(goal, s.Goal)
		}
	}
	return goal
}

// whole plays a part through, from one tempo up to another; where that is more than a stage
// above what was reached, a stage first.
func (b *builder) whole(v *view, start, goal float64, why Reason, places []drill.Place) {
	if mid := whole(b.reached(v.index) * stage); mid > start && mid < goal {
		b.whole(v, start, mid, why, places)
		start, why, places = mid, Reason{Kind: GoesOn}, nil
	}
	s := b.step(Whole, v, 1, len(v.keys))
	s.Start, s.Goal, s.Why, s.Places = start, goal, []Reason{why}, places
	b.add(s, v.part.Seconds(v.version.Tempo), v.tries(1, len(v.keys)))
}

func (b *builder) hasPiece(i int) bool {
	return slices.ContainsFunc(b.steps, func(s Step) bool { return s.Part == i && s.Kind == Piece })
}

// days are the stages of a part, those that take longer than the practice of a day cut into
// shorter ones.
func (b *builder) days(v *view) (list []float64) {
	seconds, tries := v.part.Seconds(v.version.Tempo), v.tries(1, len(v.keys))
	var cut func(from, to float64)
	cut = func(from, to float64) {
		mid := whole(math.Sqrt(from * to))
		if to > from*climb*climb && mid > from && mid < to && minutes(seconds, from, to, usualPasses, tries) > b.student.minutes() {
			cut(from, mid)
			cut(mid, to)
			return
		}
		list = append(list, to)
	}
	list = append(list, v.stages[0])
	for k := 1; k < len(v.stages); k++ {
		cut(v.stages[k-1], v.stages[k])
	}
	return list
}

// form joins parts, two by two, and then all of them.
func (b *builder) form() {
	complete := len(b.song.Order) > 0
	for _, leg := range b.song.Order {
		complete = complete && b.learnt(leg.Part)
	}
	const joined = 2
	n := 0
	had := map[[2]int]bool{}
	for _, pair := range b.neighbours() {
		if pair[0] == pair[1] || n == joined || had[[2]int{pair[1], pair[0]}] {
			continue
		}
		had[pair] = true
		from, to := &b.song.Parts[pair[0]], &b.song.Parts[pair[1]]
		n++
		s := b.formStep(from.Written() + to.Written())
		s.Part, s.Into, s.Why = pair[0], pair[1], []Reason{{Kind: TwoJoined}}
		s.Goal = whole(b.tempo / formStage)
		b.add(s, from.Seconds(play.Tempo(b.song, from, b.tempo))+to.Seconds(play.Tempo(b.song, to, b.tempo)), 1.3)
	}
	road := play.Plan(b.song, b.tempo)
	if !complete || len(b.song.Order) == 1 && b.song.Order[0].Times == 1 {
		return
	}
	s := b.formStep(road.Bars)
	s.Passes, s.Why = 1, []Reason{{Kind: AllOfIt, N: road.Bars, Seconds: road.Seconds}}
	b.add(s, road.Seconds, 1.3)
	if b.cued() && len(b.order()) > 1 {
		s := b.formStep(road.Bars)
		s.Start, s.Passes, s.Why = s.Goal, 1, []Reason{{Kind: ByCues}}
		b.add(s, road.Seconds, 2)
	}
}

// formStage is how far below the tempo two parts are joined.
const formStage = 1.1

func (b *builder) formStep(bars int) Step {
	return Step{Kind: Form, Part: -1, Into: -1, From: 1, To: bars, Start: whole(b.tempo / stage), Goal: b.tempo, Passes: usualPasses, Without: b.later()}
}

// later is what is left for the finish in any part.
func (b *builder) later() (t Touches) {
	for _, i := range b.order() {
		t |= b.view(i).later
	}
	return t
}

// cued tells whether any part has words or a sound to know it by.
func (b *builder) cued() bool {
	return slices.ContainsFunc(b.song.Parts, func(p song.Part) bool {
		return p.Cue != "" || slices.ContainsFunc(p.Lines, func(l song.Line) bool { return len(l.Words) > 0 })
	})
}

// finish adds what was left for later, one thing at a time, what adds most for what it
// costs first.
func (b *builder) finish(i int) {
	v := b.view(i)
	n := len(v.keys)
	for _, t := range v.later.List() {
		s := b.step(Finish, v, 1, n)
		s.Start, s.Goal = v.nearly(), v.version.Tempo
		v.later &^= 1 << t
		s.Touch, s.Without = t, v.later
		count := 0
		for j := range v.version.Bars {
			for k := range v.version.Bars[j].Events {
				if touched(v.version, v.part, &v.version.Bars[j].Events[k], t) {
					if count++; count == 1 && t >= HammerOns {
						s.Places = []drill.Place{b.place(v, j, k, grade.Ornament)}
					}
				}
			}
		}
		s.Why = []Reason{{Kind: AddsTouch, N: count, Touch: t}}
		b.add(s, v.part.Seconds(v.version.Tempo), 1.3)
	}
}

// nearly is the last stage of a part before its tempo.
func (v *view) nearly() float64 { return max(v.stages[len(v.stages)-2], whole(v.version.Tempo/stage)) }

// next offers the next rung of a part, for when this one is ready.
// missing is what has to be there before a version is begun with: its hardest change at its
// tempo, or else what is beyond the student.
func (b *builder) missing(v *view) Reason {
	r := Reason{Kind: NextRung, Grade: v.version.Grade}
	fresh := newBuilder(b.song, b.chosen, b.student, b.tempo)
	if list := fresh.changesOf(v); len(list) > 0 && list[0].from.Name != list[0].to.Name {
		r.Hard, r.Most = &arrange.Hard{From: list[0].from.Name, To: list[0].to.Name}, v.version.Tempo
		return r
	}
	var a Asks
	if a.limits(v, b.student); len(a.Limits) > 0 {
		r.Limit = &a.Limits[0]
	}
	return r
}

func (b *builder) next(i int) {
	next := b.chosen[i].Next
	if next == nil {
		return
	}
	v := b.look(i, next)
	s := b.step(Finish, v, 1, len(v.keys))
	s.Why = []Reason{b.missing(v)}
	b.add(s, v.part.Seconds(v.version.Tempo), v.tries(1, len(v.keys)))
}
