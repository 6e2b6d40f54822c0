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
	"valleyside/core/song"
)

// What is worth a step of its own; grades and demands as core/grade has them.
const (
	hardChange   = 0.45 // of a change, from which it is drilled
	easyChange   = 0.25 // of a change to a shape that is new, below which it comes by itself
	newShapeAsks = 1.5  // more of a change, for each of its shapes that is new
	mostChanges  = 3    // of one part
	easyPart     = 0.3  // of the hardest bar, below which a part is learnt in one go
	standsOut    = 1.15
	hardPlace    = 0.45 // from which a place is worth a drill
	mostPlaces   = 3    // of one part
	rhythmBars   = 4    // of one step
	ahead        = 3    // shapes of the song that are taught before its first part
	accumulated  = 16   // bars, up to which pieces are joined to the end of the part
)

// rhythm puts the rhythm of a part before its notes where it is not plain.
func (b *builder) rhythm(i int) {
	v := b.view(i)
	var why []Reason
	first, last := 0, 0
	goes, full := v.goesAt(b.student.Player.Pace()), false
	for j := range v.version.Bars {
		bar := &v.version.Bars[j]
		if goes >= v.least() {
			written := fuller(bar)
			bar = &written
		}
		key := rhythmKey(bar)
		if b.rhythms[key] {
			continue
		}
		b.rhythms[key] = true
		reasons := hard(bar, v.part)
		if b.student.begins() {
			reasons = append(reasons, b.first(bar)...)
		}
		if len(reasons) > 0 && (first == 0 || j+1 < first+rhythmBars) {
			first, last = cmp.Or(first, j+1), j+1
			why = append(why, reasons...)
			full = full || len(bar.Events) > len(v.version.Bars[j].Events)
		}
	}
	passes := v.lastPasses()
	if _, known := b.differs(i); known {
		passes = nil // it is taught by what differs
	}
	for _, differs := range passes {
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
	if r := s.Why[0]; r.Kind == OffBeat {
		bar := &v.version.Bars[r.Bar-1]
		if at := slices.IndexFunc(bar.Events, func(e arrange.Event) bool { return e.Start == r.At }); at >= 0 {
			s.places = []drill.Place{b.place(v, r.Bar-1, at, grade.Rhythm)}
		}
	}
	if full {
		s.Full, s.Goal = true, min(s.Goal, goes)
		s.Start = min(s.Start, s.Goal)
		s.Why = append(s.Why, Reason{Kind: GoesUpTo, Most: s.Goal})
	}
	b.add(s, v.lasts(first, last), 1.3)
}

// first says what of the rhythm of a bar somebody meets who has not played yet: a pickup, and
// two strokes in a beat, once each.
func (b *builder) first(bar *arrange.Bar) (why []Reason) {
	if bar.Measure.Lead.Num() > 0 && len(bar.Events) > 0 && !b.pickedUp {
		b.pickedUp = true
		why = append(why, Reason{Kind: PicksUp, Bar: bar.Number, At: bar.Events[0].Start, Meter: bar.Measure.Meter})
	}
	beat := bar.Measure.Meter.Beat()
	for i := range bar.Events {
		e := &bar.Events[i]
		if on := e.Start.Div(beat); on.Den() != 1 && !b.halved {
			b.halved = true
			why = append(why, Reason{Kind: TwoToABeat, Bar: bar.Number, At: e.Start, Meter: bar.Measure.Meter})
		}
	}
	return why
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

// shapesAhead teaches the first shapes of the whole song that the student does not have: they
// take days to settle, and come up while the first part is learnt.
func (b *builder) shapesAhead() {
	for _, i := range b.order() {
		b.newShapes(i, ahead)
	}
}

// newShapes teaches the shapes of a part that the student does not have, once each, until the
// lesson has so many.
func (b *builder) newShapes(i, most int) {
	v := b.view(i)
	for j := range v.holds {
		h := &v.holds[j]
		key := keyOf(h.Frets)
		if !isShape(h.Fingering) || b.shapes[key] || b.has(h) {
			continue
		}
		if len(b.shapes) == most {
			return
		}
		b.tellApart(h)
		b.shapes[key] = true
		s := b.step(Shape, v, h.bar+1, h.bar+1)
		s.Goal, s.Passes, s.Without = s.Start, takes, 0
		s.Shapes = []Held{h.Held}
		_, strings := h.Fingering.Barre()
		s.Why = []Reason{{Kind: NewShape, N: h.Fingering.Count(), Strings: strings}}
		hold := grade.Hold(h.Fingering, b.at)
		s.places = []drill.Place{b.place(v, h.bar, h.at, hold.Worst())}
		if muted(h.Frets) && hold.Worst() != grade.Muting {
			s.places = append(s.places, b.place(v, h.bar, h.at, grade.Muting))
		}
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
	return b.student.Known.Holds(h.Name, h.Frets)
}

// takes is how often a shape is taken, shapeBeats how long the practice of one lasts.
const (
	takes       = 5
	shapeBeats  = 8
	changeBeats = 16
)

// change is one from a shape to another, as hard as it is anywhere in a part.
type change struct {
	from, to *hold
	total    float64
	times    int
}

// weighs is how much a change of a part counts: as hard as it is, and more the oftener it comes.
func (c change) weighs() float64 { return c.total * math.Sqrt(float64(c.times)) }

// changesOf lists the changes of a part that have not been drilled and do not come by
// themselves, as from one new shape to another never do, the hardest first and each as often as
// it comes.
func (b *builder) changesOf(v *view) (list []change) {
	for j := 1; j < len(v.holds); j++ {
		from, to := &v.holds[j-1], &v.holds[j]
		if !isShape(from.Fingering) || !isShape(to.Fingering) || from.Frets == to.Frets || b.changes[pairOf(from, to)] {
			continue
		}
		total, _ := b.profile(from, to)
		at := slices.IndexFunc(list, func(c change) bool { return pairOf(c.from, c.to) == pairOf(from, to) })
		switch {
		case total < easyChange && !(b.shapes[keyOf(from.Frets)] && b.shapes[keyOf(to.Frets)]):
		case at < 0:
			list = append(list, change{from, to, total, 1})
		case total > list[at].total:
			list[at] = change{from, to, total, list[at].times + 1}
		default:
			list[at].times++
		}
	}
	slices.SortStableFunc(list, func(x, y change) int { return cmp.Compare(y.total, x.total) })
	return list
}

// hardOf lists the changes of a list that are hard, in the same order.
func hardOf(list []change) []change {
	return slices.DeleteFunc(slices.Clone(list), func(c change) bool { return c.total < hardChange })
}

// drilled chooses the changes of a part that are worth a step: the hard ones that weigh most,
// and for each shape that is new the one with it that does, since a shape is learnt with its
// change.
func (b *builder) drilled(all []change) (list []change) {
	heaviest := slices.Clone(all)
	slices.SortStableFunc(heaviest, func(x, y change) int { return cmp.Compare(y.weighs(), x.weighs()) })
	list = hardOf(heaviest)
	list = list[:min(mostChanges, len(list))]
	for _, c := range heaviest {
		for _, h := range []*hold{c.from, c.to} {
			key := keyOf(h.Frets)
			if b.shapes[key] && !b.changed[key] && !slices.ContainsFunc(list, func(c change) bool { return keyOf(c.from.Frets) == key || keyOf(c.to.Frets) == key }) {
				list = append(list, c)
			}
		}
	}
	return list
}

// hardChanges drills changes of a part, two shapes at a time, the hardest first.
func (b *builder) hardChanges(i int) {
	v := b.view(i)
	all := b.changesOf(v)
	drilled := b.drilled(all)
	for _, c := range all {
		if !slices.Contains(drilled, c) {
			continue
		}
		b.changed[keyOf(c.from.Frets)], b.changed[keyOf(c.to.Frets)] = true, true
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
	if v.distinct() < 2 || demands[worst] < easyPart || v.chords() || b.knows(v, 0, n) {
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
		if k == 1 && k < len(starts)-1 && n <= accumulated {
			break // only the first is missing: that is the part
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

// chords tells whether a part is chords on the beat and nothing else: what is hard about it are
// its shapes and changes, which have steps of their own, so that it is not taken to pieces.
func (v *view) chords() bool {
	for i := range v.version.Bars {
		bar := &v.version.Bars[i]
		for j := range bar.Events {
			if !isShape(bar.Events[j].Fingering) {
				return false
			}
		}
		if len(hard(bar, v.part)) > 0 {
			return false
		}
	}
	return true
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
			s.places = append(s.places, p)
		}
	}
	b.learn(v, from, to)
	b.add(s, v.lasts(from+1, to), v.tries(from+1, to))
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
		if !v.chords() {
			b.piece(v, max(fresh[k]-1, 0), fresh[to-1]+1, places, Reason{Kind: NewHere, From: fresh[k] + 1, To: fresh[to-1] + 1})
		}
		k = to
	}
	b.loop(i)
	if len(fresh) == 0 {
		s := b.step(Whole, v, 1, len(v.keys))
		s.Start, s.Goal, s.Passes, s.Why = v.nearly(), v.version.Tempo, 1, []Reason{{Kind: AsOne}}
		b.add(s, v.part.Seconds(v.version.Tempo), v.tries(1, len(v.keys)))
		return
	}
	why := Reason{Kind: NewHere, From: fresh[0] + 1, To: fresh[0] + 1}
	for k := 1; k < len(fresh) && fresh[k] == fresh[k-1]+1; k++ {
		why.To++
	}
	tempos := b.days(v)
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
	s.Start, s.Goal, s.Why, s.places = start, goal, []Reason{why}, places
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
						s.places = []drill.Place{b.place(v, j, k, grade.Ornament)}
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

// missing is what has to be there before a version is begun with: its hardest change at its
// tempo, or else what is beyond the student.
func (b *builder) missing(v *view) Reason {
	r := Reason{Kind: NextRung, Grade: v.version.Grade}
	fresh := newBuilder(b.song, b.chosen, b.student, b.tempo)
	if list := hardOf(fresh.changesOf(v)); len(list) > 0 && list[0].from.Name != list[0].to.Name {
		r.Hard, r.Most = &arrange.Hard{From: list[0].from.Name, To: list[0].to.Name}, v.version.Tempo
		return r
	}
	var a Asks
	if a.limits(v, b.student); len(a.Limits) > 0 {
		r.Limit = &a.Limits[0]
	}
	return r
}

// next offers the next rung of a part, for when this one is ready.
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
