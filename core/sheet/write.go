package sheet

import (
	"slices"
	"sort"
	"strconv"
	"strings"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Write writes a song as a sheet in the canonical layout, each rhythm in the fewest
// slots that it can be typed in; a part that differs from one above in a few bars is
// written as like it. Reading it gives the same song.
func Write(s *song.Song) string {
	w := &writer{song: s}
	w.settings()
	for i := range s.Parts {
		w.lines = append(w.lines, Line{Kind: Blank})
		w.part(i)
	}
	sheet := Sheet{Song: s, Lines: w.lines}
	return sheet.Format()
}

// oneLine makes a text that comes from elsewhere a single line.
var oneLine = strings.NewReplacer("\n", " ", "\r", " ")

// writer puts the lines of a sheet together.
type writer struct {
	song  *song.Song
	lines []Line
}

func (w *writer) set(name, value string) {
	if value != "" {
		w.lines = append(w.lines, Line{Kind: Setting, Text: name + ": " + oneLine.Replace(value)})
	}
}

func (w *writer) settings() {
	for i := range settings {
		if known := &settings[i]; known.scope&ofSong != 0 {
			w.set(known.name, known.write(w, nil, nil))
		}
	}
}

// order is the roadmap where it is another than all parts once.
func (w *writer) order() string {
	s := w.song
	if slices.EqualFunc(s.Order, upTo(len(s.Parts)), func(l song.Leg, i int) bool { return l == song.Leg{Part: i, Times: 1} }) {
		return ""
	}
	var legs []string
	for _, l := range s.Order {
		leg := s.Parts[l.Part].Name
		if l.Times > 1 {
			leg += " x" + strconv.Itoa(l.Times)
		}
		legs = append(legs, leg)
	}
	return strings.Join(legs, ", ")
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func upTo(n int) []int {
	list := make([]int, n)
	for i := range list {
		list[i] = i
	}
	return list
}

// part writes a part: its settings where they differ from those that it has anyway,
// and its bars, or those that differ from the part that it is like.
func (w *writer) part(index int) {
	p := &w.song.Parts[index]
	w.lines = append(w.lines, Line{Kind: PartName, Text: p.Name})
	as := song.Part{Key: w.song.Key, Meter: w.song.Meter, Tempo: w.song.Tempo, Feel: w.song.Feel}
	of := w.like(index)
	if of >= 0 {
		as = w.song.Parts[of]
		w.set("like", as.Name)
	}
	for i := range settings {
		if known := &settings[i]; known.scope&ofPart != 0 {
			w.set(known.name, known.write(w, p, &as))
		}
	}
	if of >= 0 {
		w.differences(index, of)
		return
	}
	for i := range p.Lines {
		l := &p.Lines[i]
		w.bars(index, "", l.Bars, l.Times, lastBar(p.Lines[:i], ""))
		for _, verse := range l.Words {
			w.words(index, p, l, verse)
		}
		for _, v := range l.Beside {
			w.bars(index, v.Player, v.Bars, v.Times, lastBar(p.Lines[:i], v.Player))
		}
	}
}

// leadOf is what the pickup of a part leaves out; 0 where it has none.
func leadOf(p *song.Part) pitch.Frac {
	if len(p.Lines) == 0 {
		return pitch.Frac{}
	}
	return p.Lines[0].Bars[0].Lead
}

// lastBar is the last bar of a player on some lines, nil where there is none.
func lastBar(lines []song.Line, player string) *song.Bar {
	for i := len(lines) - 1; i >= 0; i-- {
		if player == "" {
			return &lines[i].Bars[len(lines[i].Bars)-1]
		}
		for _, v := range lines[i].Beside {
			if v.Player == player {
				return &v.Bars[len(v.Bars)-1]
			}
		}
	}
	return nil
}

// bars writes a line of bars. before is the bar before the first of them.
func (w *writer) bars(part int, player string, bars []song.Bar, times int, before *song.Bar) {
	l := Line{Kind: Music, Player: player, Times: times, Part: part}
	for i := range bars {
		l.Bars = append(l.Bars, w.bar(&w.song.Parts[part], &bars[i], before))
		before = &bars[i]
	}
	w.lines = append(w.lines, l)
}

// bar writes one bar.
func (w *writer) bar(p *song.Part, b, before *song.Bar) Bar {
	if b.Same && before != nil && before.Lead.Num() == 0 && sameBar(b, before) {
		return Bar{Same: true, Unsure: b.Unsure}
	}
	m := p.Measure(b)
	slots, _ := divide(m, b.Events)
	return Bar{Meter: b.Meter, Unsure: b.Unsure, Slots: slots}
}

// divide finds the slots in which the events of a bar are typed; ok is false where the
// limits of a sheet do not allow it.
func divide(m song.Measure, events []song.Event) (slots []Slot, ok bool) {
	if len(events) > MaxSlots {
		return nil, false
	}
	for _, effort := range []splitter{{}, {every: true}, {every: true, fewest: true}} {
		effort.memo = map[[3]pitch.Frac]split{}
		if effort.best(events, m.Lead, m.Meter.Bar(), 0).cost == 0 {
			continue
		}
		if slots = effort.slots(events, m.Lead, m.Meter.Bar(), 0); count(slots) <= MaxSlots {
			return slots, true
		}
	}
	return slots, false
}

// sameBar tells whether two bars are played alike, wherever they stand in a sheet.
func sameBar(a, b *song.Bar) bool {
	return a.Meter == b.Meter && a.Lead == b.Lead && slices.EqualFunc(a.Events, b.Events, func(x, y song.Event) bool {
		return x.Start == y.Start && x.Kind == y.Kind && x.Chord.Symbol == y.Chord.Symbol && x.Frets == y.Frets && x.Fingers == y.Fingers && x.Marks == y.Marks && slices.Equal(x.Notes, y.Notes)
	})
}

// words writes a verse to a line of bars.
func (w *writer) words(part int, p *song.Part, l *song.Line, verse []song.Sung) {
	cells := make([]string, len(l.Bars))
	for i := range cells {
		var sung []song.Sung
		for _, s := range verse {
			if s.Bar == i {
				sung = append(sung, s)
			}
		}
		cells[i] = cell(p, &l.Bars[i], sung)
	}
	w.lines = append(w.lines, Line{Kind: Music, Player: wordsName, Words: cells, Times: 1, Part: part})
}

// cell writes the words of a bar with as few steps from anchor to anchor as bring
// each to its moment; words between the anchors go to the one before.
func cell(p *song.Part, b *song.Bar, sung []song.Sung) string {
	if len(sung) == 0 {
		return ""
	}
	for n := 1; n <= MaxSlots; n++ {
		anchors := p.Anchors(b, n)
		pieces := make([]string, n)
		placed := 0
		for _, s := range sung {
			if i := slices.Index(anchors, s.Start); i >= 0 && i < n {
				pieces[i] = s.Text
				placed++
			}
		}
		if placed == len(sung) {
			return strings.TrimSpace(strings.Join(pieces, " "+nextWord+" "))
		}
	}
	var texts []string
	for _, s := range sung {
		texts = append(texts, s.Text)
	}
	return strings.Join(texts, " ")
}

// like finds a part above that one can be written as like: its lines as long and as
// often played, by the same players, and two bars in three alike; −1 where there is
// none.
func (w *writer) like(index int) int {
	p := &w.song.Parts[index]
	for i := range index {
		q := &w.song.Parts[i]
		if !sameShape(p, q) {
			continue
		}
		different, all := 0, 0
		for _, player := range append(p.Players(), "") {
			different += len(differing(p, q, player))
			all += p.Written()
		}
		if 3*different <= all {
			return i
		}
	}
	return -1
}

// sameShape tells whether a part has the lines of another, with the same players,
// words and time, so that only bars have to be replaced.
func sameShape(p, q *song.Part) bool {
	if p.Written() < 2 || leadOf(p) != leadOf(q) || p.Meter != q.Meter {
		return false
	}
	same := func(b song.Bar) bool { return b.Same }
	return slices.EqualFunc(p.Lines, q.Lines, func(a, b song.Line) bool {
		return a.Times == b.Times && len(a.Bars) == len(b.Bars) && !slices.ContainsFunc(a.Bars, same) &&
			slices.EqualFunc(a.Words, b.Words, slices.Equal[[]song.Sung]) && slices.EqualFunc(a.Beside, b.Beside, func(v, u song.Voice) bool {
			return v.Player == u.Player && v.Times == u.Times && len(v.Bars) == len(u.Bars) && !slices.ContainsFunc(v.Bars, same)
		})
	})
}

// barsOf lists the bars that a player has in a part, in the order in which they are
// typed.
func barsOf(p *song.Part, player string) (bars []song.Bar) {
	for _, l := range p.Lines {
		if player == "" {
			bars = append(bars, l.Bars...)
		}
		for _, v := range l.Beside {
			if v.Player == player {
				bars = append(bars, v.Bars...)
			}
		}
	}
	return bars
}

// differing lists the bars of a player in which two parts of the same shape differ,
// counted from 0.
func differing(p, q *song.Part, player string) (list []int) {
	a, b := barsOf(p, player), barsOf(q, player)
	for i := range a {
		if !sameBar(&a[i], &b[i]) {
			list = append(list, i)
		}
	}
	return list
}

// differences writes the bars in which a part differs from the one that it is like,
// those that follow one another on a line.
func (w *writer) differences(index, of int) {
	p := &w.song.Parts[index]
	for _, player := range append([]string{""}, p.Players()...) {
		bars := barsOf(p, player)
		last := -2
		for _, i := range differing(p, &w.song.Parts[of], player) {
			b := w.bar(p, &bars[i], nil)
			if i == last+1 {
				l := &w.lines[len(w.lines)-1]
				l.Bars = append(l.Bars, b)
			} else {
				w.lines = append(w.lines, Line{Kind: Music, From: i + 1, Player: player, Times: 1, Part: index, Bars: []Bar{b}})
			}
			last = i
		}
	}
}

// splitter finds the slots of a bar.
type splitter struct {
	memo   map[[3]pitch.Frac]split
	every  bool // every number of slots is tried where the usual ones do not do
	fewest bool // what counts is slots, not signs
}

// split is how a stretch of a bar is typed: shared among so many slots, for a cost in
// signs; the zero split is none that can be typed.
type split struct{ n, cost int }

// bracketCost is what a pair of brackets costs, by how many it stands in: a rhythm is
// rather typed in more slots than in brackets inside brackets.
var bracketCost = [MaxNesting]int{3, 8, 16}

// usualSlots is into how many slots a stretch is shared that does not ask for more,
// fewSlots into how many also where nothing begins with any but the first.
const (
	usualSlots = 16
	fewSlots   = 4
)

// slots are the slots of the time from a to b, inside so many brackets.
func (s *splitter) slots(events []song.Event, a, b pitch.Frac, depth int) []Slot {
	n := max(s.best(events, a, b, depth).n, 1)
	each := b.Sub(a).Div(pitch.Whole(int64(n)))
	list := make([]Slot, n)
	for i := range list {
		from := a.Add(each.Mul(pitch.Whole(int64(i))))
		to := from.Add(each)
		list[i] = Slot{Kind: Sustain}
		for j := range events {
			switch e := &events[j]; {
			case e.Start == from && list[i].Kind != Bracket:
				list[i] = Slot{Event: *e}
			case from.Less(e.Start) && e.Start.Less(to):
				list[i] = Slot{Kind: Bracket}
			}
		}
		switch {
		case list[i].Kind != Bracket:
		case depth == MaxNesting: // of a rhythm that cannot be typed
			list[i] = Slot{Kind: Sustain}
		default:
			list[i].Group = s.slots(events, from, to, depth+1)
		}
	}
	return list
}

// best is the way to share the time from a to b among slots that takes the fewest
// signs, inside so many brackets. events are some of the bar, among them those inside.
func (s *splitter) best(events []song.Event, a, b pitch.Frac, depth int) split {
	first := sort.Search(len(events), func(i int) bool { return a.Less(events[i].Start) })
	events = events[first:]
	events = events[:sort.Search(len(events), func(i int) bool { return !events[i].Start.Less(b) })]
	if len(events) == 0 {
		return split{1, 1}
	}
	key := [3]pitch.Frac{a, b, pitch.Whole(int64(depth))}
	if found, ok := s.memo[key]; ok {
		return found
	}
	flat := int64(1)               // so many slots have something begin with each that begins anything
	var aligned [MaxSlots + 1]bool // so many have anything begin with a slot, but the first
	places := make([]share, len(events))
	for i, e := range events {
		at := e.Start.Sub(a).Div(b.Sub(a))
		places[i] = share{at.Num(), at.Den()}
		for n := at.Den(); n <= MaxSlots; n += at.Den() {
			aligned[n] = true
		}
		if flat <= MaxSlots {
			flat = pitch.LCM(flat, at.Den())
		}
	}
	var best split
	try := func(n int) {
		if best.cost > 0 && (n >= best.cost || s.fewest && best.cost == len(events)+1) {
			return // no fewer
		}
		if cost := s.cost(events, places, a, b, int64(n), depth, best.cost); cost > 0 && (best.cost == 0 || cost < best.cost) {
			best = split{n, cost}
		}
	}
	if flat <= MaxSlots {
		try(int(flat)) // without brackets
	}
	most := usualSlots
	if s.fewest {
		most = MaxSlots
	}
	for n := 2; depth < MaxNesting && n <= most; n++ {
		if n <= fewSlots || aligned[n] {
			try(n)
		}
	}
	for n := 2; depth < MaxNesting && n <= MaxSlots && s.every && best.cost == 0; n++ {
		try(n)
	}
	s.memo[key] = best
	return best
}

// share is where in a stretch something begins, as a share of it in lowest terms.
type share struct{ num, den int64 }

// among is the slot of n that a place lies in, and the denominator of where in that slot.
func (p share) among(n int64) (slot, den int64) {
	return p.num/p.den*n + p.num%p.den*n/p.den, p.den / pitch.GCD(p.den, n)
}

// room tells whether a stretch can be shared among n slots at all, as far as is seen without
// looking into them: in each what begins off its start needs slots of its own.
func room(places []share, n int64, depth int) bool {
	all, last, inside := int(n), int64(-1), 0
	for _, p := range places {
		slot, den := p.among(n)
		if den == 1 {
			continue
		}
		least := leastSlots(den, MaxNesting-depth)
		if slot != last {
			last, inside = slot, 1
		}
		if least == 0 {
			return false
		}
		if least > inside {
			all, inside = all+least-inside, least
		}
		if all > MaxSlots {
			return false
		}
	}
	return true
}

// leastSlots is how many slots it takes at least that something begins with one of them at a
// place of this denominator, inside so many brackets at most; 0 where that cannot be. Whatever the
// brackets, each prime of the denominator divides what one of them has.
func leastSlots(den int64, brackets int) int {
	least, most := 1, int64(1)
	for range brackets {
		most *= MaxSlots
	}
	if den > most {
		return 0
	}
	for p := int64(2); p <= MaxSlots && den > 1; p++ {
		for ; den%p == 0; den /= p {
			least += int(p) - 1
		}
	}
	if den > 1 {
		return 0
	}
	return least
}

// cost is what it takes to share the time from a to b among n slots; 0 where that
// cannot be typed, or not for less than under, where that is given. events are those inside.
func (s *splitter) cost(events []song.Event, places []share, a, b pitch.Frac, n int64, depth, under int) int {
	if !room(places, n, depth) {
		return 0
	}
	each := b.Sub(a).Div(pitch.Whole(n))
	cost, last := int(n), int64(-1)
	for _, p := range places {
		slot, den := p.among(n)
		if den == 1 || slot == last {
			continue
		}
		if depth == MaxNesting {
			return 0
		}
		brackets := bracketCost[depth]
		if s.fewest {
			brackets = 0
		}
		if under > 0 && cost+brackets+1 >= under {
			return 0
		}
		last = slot
		from := a.Add(each.Mul(pitch.Whole(slot)))
		inner := s.best(events, from, from.Add(each), depth+1)
		if inner.cost == 0 {
			return 0
		}
		cost += inner.cost - 1 + brackets
	}
	return cost
}
