package lesson

import (
	"slices"
	"strings"

	"valleyside/core/play"
	"valleyside/core/song"
)

// loop joins the end of a part that comes again at once to its own beginning, before it is
// played through. A single bar is looped while it is learnt.
func (b *builder) loop(i int) {
	v := b.view(i)
	b.learn(v, 0, len(v.keys))
	last := len(v.keys)
	if last > 1 && slices.Contains(b.neighbours(), [2]int{i, i}) && !b.pairs[[2]string{v.keys[last-1], v.keys[0]}] && !b.easyLoop(v) {
		b.seam(i, i, LoopsBack)
	}
}

// seams joins a part that has been taught to those beside it in the roadmap that have been as
// well, each way once; what is joined alike is not joined again.
func (b *builder) seams(i int) {
	b.done = append(b.done, i)
	for _, pair := range b.neighbours() {
		if pair[0] != pair[1] && (pair[0] == i || pair[1] == i) && slices.Contains(b.done, pair[0]) && slices.Contains(b.done, pair[1]) {
			b.seam(pair[0], pair[1], LeadsInto)
		}
	}
}

// seam joins the last bar of a part to the beginning of one: its first bar, after a pickup the
// first whole one.
func (b *builder) seam(from, into int, why ReasonKind) {
	v, to := b.view(from), b.view(into)
	last, n := len(v.keys), Opening(to.part)
	key := [2]string{v.keys[last-1], strings.Join(to.keys[:n], " ")}
	if b.joined[key] {
		return
	}
	b.joined[key] = true
	s := b.step(Seam, v, last, last)
	s.Into, s.Why = into, []Reason{{Kind: why}}
	s.Without |= to.later
	b.add(s, v.seconds[last-1]+to.lasts(1, n), max(v.tries(last, last), to.tries(1, n)))
}

// Opening counts the bars with which a part begins: one, and a pickup before it.
func Opening(p *song.Part) int {
	if bars := p.Bars(); len(bars) > 1 && bars[0].Lead.Num() > 0 {
		return 2
	}
	return 1
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
