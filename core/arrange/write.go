package arrange

import (
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// approach is a way to come to an event: from the event before it, or over a
// seam.
type approach struct {
	from    int // index of the event before, −1 where nothing came before
	seconds float64
	over    Over
}

// writer turns a solution into a version.
type writer struct {
	*solution
	changes *changes
	grips   map[[2]int32]*Grip // by offer and choice
	hards   map[Hard]*Hard     // those that differ
	mutes   map[muteKey][]hand.Mute
	apart   map[Fact]parted
	said    []Said     // of one bar, before it is written
	ways    []approach // to one event
}

// write writes a version down: its notes with their fingers, strokes and mutes,
// what it asks of the hands, and why it is as it is.
func (a *Arranger) write(sol *solution, why []Fact) Version {
	p := sol.search
	w := &writer{solution: sol, changes: newChanges(p), grips: map[[2]int32]*Grip{}, hards: map[Hard]*Hard{}, mutes: map[muteKey][]hand.Mute{}, apart: map[Fact]parted{}}
	s := p.score
	v := Version{Part: s.index, Rung: p.rung.rung, Tempo: p.set.tempo(s.part), Lift: p.set.lift, Work: sol.cost, Exact: sol.exact, Unmet: p.unmet, Why: why, Bars: make([]Bar, len(s.bars))}
	totals := make([]float64, len(p.need))
	begins := make([]int, len(s.bars)) // by bar: its first event
	for b := range v.Bars {
		v.Bars[b].Number, v.Bars[b].Measure, v.Bars[b].Dropped = s.of[b].bar+1, s.measures[b], s.dropped[b]
	}
	for first := 0; first < len(p.need); {
		end := first
		b := s.events[first].bar
		for end < len(p.need) && s.events[end].bar == b {
			end++
		}
		bar := &v.Bars[b]
		if a := s.same[b]; a < b && w.again(begins[a], first, end) {
			bar.Events = v.Bars[a].Events
			for i := range bar.Events {
				v.Travel += bar.Events[i].Shift
			}
			copy(totals[first:end], totals[begins[a]:])
			bar.Demand, bar.hardest, bar.Why = v.Bars[a].Demand, v.Bars[a].hardest, slices.Clip(v.Bars[a].Why)
			begins[b], first = first, end
			continue
		}
		bar.Events = make([]Event, 0, end-first)
		for i := first; i < end; i++ {
			by, total := w.hardestWay(i)
			totals[i] = total
			if total > totals[first+bar.hardest] {
				bar.hardest = i - first
			}
			e := w.event(i, total)
			e.Hard = w.hard(i, by)
			v.Travel += e.Shift
			bar.Events = append(bar.Events, e)
		}
		w.strike(bar, first)
		bar.Demand = grade.Of(totals[first:end])
		bar.Why = w.reasons(bar, first, end)
		begins[b], first = first, end
	}
	for b := range v.Bars {
		if bar := &v.Bars[b]; len(bar.Events) == 0 {
			kind := Silence
			if len(s.bars[b].Events) == 0 {
				kind = GoesOn
			}
			bar.Why = []Said{{Fact: kind}}
		}
	}
	v.fold(s)
	alike(v.Bars)
	v.Grade = grade.Scale(grade.Of(totals))
	v.Why = append(v.Why, a.overall(w, &v)...)
	return v
}

// again tells whether the events from first to before end are written and played
// as those of an earlier bar that begin at a, and come after the same.
func (w *writer) again(a, first, end int) bool {
	s := w.score
	if a == 0 || s.lines[s.events[a].line].start == a || s.lines[s.events[first].line].start == first ||
		!slices.Equal(s.dropped[s.events[a].bar], s.dropped[s.events[first].bar]) || a+end-first > len(s.events) {
		return false
	}
	before, earlier := s.events[first].before, s.events[a].before
	if before < 0 || earlier < 0 || first-before != a-earlier || s.same[s.events[earlier].bar] != s.same[s.events[before].bar] ||
		s.events[a].bar-s.events[earlier].bar != s.events[first].bar-s.events[before].bar {
		return false
	}
	for i := before; i < end; i++ {
		j := a + i - first
		x, y := &s.events[i], &s.events[j]
		if w.need[i] != w.need[j] || w.states[i] != w.states[j] || x.slot != y.slot || x.gap != y.gap || x.pace != y.pace || x.held < 0 != (y.held < 0) || x.length != y.length {
			return false
		}
	}
	return a+end-first == len(s.events) || s.events[a+end-first].bar != s.events[a].bar
}

func (w *writer) offerAt(i int) *offer { return &w.offers[w.need[i].offer] }

func (w *writer) choiceAt(i int) *choice { return &w.offerAt(i).choices[w.states[i].choice] }

// hard is what asks most of the hands at event i.
func (w *writer) hard(i int, by approach) *Hard {
	m := w.momentBy(i, by)
	worst := m.Asks(w.set.at)
	h := Hard{Spot: m.Spot(worst, w.set.at), To: w.short(i), Over: by.over}
	if by.from >= 0 && (worst == grade.Shift || worst == grade.Change) {
		h.From = w.short(by.from)
	}
	return shared(w.hards, h)
}

// shared is the one copy that is kept of what is alike.
func shared[T comparable](kept map[T]*T, value T) *T {
	if same, ok := kept[value]; ok {
		return same
	}
	same := new(T)
	*same = value
	kept[value] = same
	return same
}

// short is what is played at an event, in short: a chord or a note.
func (w *writer) short(i int) string {
	e := &w.score.events[i]
	if e.from.Dead() {
		return ""
	}
	c := &w.score.contents[e.content]
	ch := w.choiceAt(i)
	root := c.names.At(c.harmony.root).Note.String()
	for _, f := range w.offerAt(i).why {
		if b, ok := f.(Below); ok {
			return b.Of
		}
	}
	switch {
	case ch.voice.Strings > 1 && w.rung.literal && e.from.Kind == song.Chord:
		return e.from.Chord.Symbol
	case ch.voice.Strings > 1 && c.harmony.power && w.rung.rung != Octave:
		return root + "5"
	case ch.voice.Strings == 1:
		for j, fret := range ch.Frets {
			if fret >= 0 {
				return c.names.At(w.set.in.Pitch(neck.StringAt(j), int(fret))).Note.String()
			}
		}
	}
	return root
}

// momentBy is the moment of event i when it is come to in one of the ways.
func (w *writer) momentBy(i int, a approach) grade.Moment {
	m := w.moment(i)
	to := w.choiceAt(i)
	m.To, m.Seconds, m.From = to.Fingering, a.seconds, hand.Lifted
	if e := w.score.events[i]; e.held >= 0 && w.offerAt(i).holds() {
		m.To = w.score.held[e.held].Fingering
	}
	if a.from >= 0 {
		m.From = w.choiceAt(a.from).Fingering
		if e := w.score.events[a.from]; e.held >= 0 && w.offerAt(a.from).holds() {
			m.From = w.score.held[e.held].Fingering
		}
		from, base := w.states[a.from].base, w.states[i].base
		m.Shift = w.along(from, base)
		m.Frets = int(max(from-base, base-from))
	}
	return m
}

// hardestWay is the hardest of the ways to event i, with its total demand.
func (w *writer) hardestWay(i int) (by approach, total float64) {
	total = -1
	for _, a := range w.approaches(i) {
		demand := w.need[i].fixed + w.choiceAt(i).hold
		if a.from >= 0 {
			demand = w.changes.demandOf(w.offerAt(a.from), w.offerAt(i), w.states[a.from], w.states[i], w.need[i].fixed, a.seconds)
		}
		if demand > total {
			total, by = demand, a
		}
	}
	return by, total
}

// approaches lists the ways to event i within the part. The list holds until the
// next call.
func (w *writer) approaches(i int) []approach {
	e := &w.score.events[i]
	if e.from.Dead() {
		return append(w.ways[:0], approach{from: -1})
	}
	w.ways = append(w.ways[:0], approach{from: e.before, seconds: e.gap})
	line := w.score.lines[e.line]
	if i != line.first {
		return w.ways
	}
	if line.times > 1 {
		w.ways = append(w.ways, approach{line.last, line.back, LineAgain})
	}
	if first, last := w.score.ends(); i == first && w.score.ways.loop > 0 {
		w.ways = append(w.ways, approach{last, w.score.ways.back, PartAgain})
	}
	return w.ways
}

// event writes one event of the version.
func (w *writer) event(i int, demand float64) Event {
	from, s, c, k := &w.score.events[i], w.states[i], w.choiceAt(i), w.offerAt(i)
	key := [2]int32{int32(w.need[i].offer), s.choice}
	grip, known := w.grips[key]
	if !known {
		grip = &Grip{Notes: w.sounds(i, c), Dead: k.dead, Fingering: c.Fingering, Why: slices.Concat(k.why, c.why), Remarks: c.remarks}
		w.grips[key] = grip
	}
	e := Event{Grip: grip, Start: from.from.Start, Length: from.length, Beat: from.beat, Base: int(s.base),
		Muted: from.from.Muted(w.score.part), Mutes: w.mutesOf(c, w.ringing(i)), Demand: demand, Pinned: w.need[i].pinned, From: from.from}
	if i > 0 {
		e.Shift = w.along(w.states[i-1].base, s.base)
	}
	return e
}

// muteKey is what mutes depend on.
type muteKey struct {
	hand.Fingering
	ringing neck.StringSet
}

// mutesOf keeps the strings beside a choice silent, and those that still ring.
func (w *writer) mutesOf(c *choice, ringing neck.StringSet) []hand.Mute {
	key := muteKey{c.Fingering, ringing}
	list, known := w.mutes[key]
	if !known {
		list = c.Mutes(ringing, w.set.at.Thumb)
		w.mutes[key] = list
	}
	return list
}

// ringing are the strings that still sound when event i is struck, of which it
// does not go on: the open strings of the event before, where nothing has
// stopped them. What is picked from a held shape rings on as it should.
func (w *writer) ringing(i int) neck.StringSet {
	if i == 0 || w.score.events[i].held >= 0 && w.rung.literal {
		return 0
	}
	before := &w.score.events[i-1]
	e := &w.score.events[i]
	if before.from.Muted(w.score.part) || before.from.Short || before.from.Rings(w.score.part) || before.place+before.length.Float() < e.place-1e-9 {
		return 0
	}
	return w.choiceAt(i - 1).Frets.Open()
}

// sounds lists what the events of a choice sound.
func (w *writer) sounds(i int, c *choice) []Note {
	content := &w.score.contents[w.score.events[i].content]
	var notes []Note
	for j, fret := range c.Frets {
		if fret < 0 {
			continue
		}
		s := neck.StringAt(j)
		p := w.set.in.Pitch(s, int(fret)) + w.bent(content.from, s, int(fret))
		note := Note{String: s, Fret: int(fret), Finger: c.Fingers[j], Pitch: content.heard.At(p + pitch.Pitch(w.set.above()))}
		if note.Name = note.Pitch.Note; w.set.above() != 0 {
			note.Name = content.names.At(p).Note
		}
		notes = append(notes, note)
	}
	w.pluck(notes, content.from)
	return notes
}

// pluck gives notes their fingers of the picking hand: all of them where the part is
// played without a pick and no stroke is typed, else those that are typed.
func (w *writer) pluck(notes []Note, from *song.Event) {
	if (!w.score.part.Plucked || from.Stroke != song.NoStroke) && !slices.ContainsFunc(from.Notes, func(n song.Note) bool { return n.Pluck != song.NoPluck }) {
		return
	}
	strings := make([]neck.String, len(notes))
	for i := range notes {
		strings[i] = notes[i].String
	}
	for i, by := range hand.Pluck(strings, from.Notes) {
		notes[i].Pluck = by
	}
}

// bent is how much higher than its fret a note sounds that is played as it is
// written.
func (w *writer) bent(e *song.Event, s neck.String, fret int) pitch.Pitch {
	open := w.set.written.Open()
	for _, n := range e.Notes {
		if n.String == s && n.Fret == fret && (w.rung.literal || n.Harmonic) {
			return n.Pitch(open) - open.Pitch(s, n.Fret)
		}
	}
	if n, ok := single(e); ok && w.rung.literal {
		return bentBy(n)
	}
	return 0
}

// strike gives the events of a bar their strokes. Only economy picking looks
// at the strings; otherwise they are the same for all versions of a rhythm.
func (w *writer) strike(bar *Bar, first int) {
	known := w.score.strokes[w.picking()][first:]
	if w.set.at.Picking == hand.Economy {
		known = w.strokesOf(bar, first+len(bar.Events))
	}
	for i := range bar.Events {
		e := &bar.Events[i]
		if w.score.part.Plucked && e.From.Stroke == song.NoStroke && !e.From.Dead() {
			continue // with the fingers
		}
		e.Stroke = known[i]
	}
}

// strokesOf works out the strokes of a bar, with an eye on the event after it.
func (w *writer) strokesOf(bar *Bar, after int) []song.Stroke {
	moments := make([]hand.Strike, len(bar.Events), len(bar.Events)+1)
	for i := range bar.Events {
		e := &bar.Events[i]
		moments[i] = hand.Strike{Beats: e.Start.Div(bar.Measure.Meter.Pulse()), Picked: !w.rung.literal || hand.Picked(e.From), Written: e.From.Stroke,
			Low: e.Fingering.Lowest(), High: e.Fingering.Highest()}
		if len(e.Dead) > 0 && moments[i].Low == 0 {
			moments[i].Low, moments[i].High = e.Dead[0], e.Dead[len(e.Dead)-1]
		}
	}
	if after < len(w.need) {
		e, c := &w.score.events[after], w.choiceAt(after)
		begins := w.score.origin(e.bar).Sub(w.score.origin(w.score.events[after-1].bar))
		moments = append(moments, hand.Strike{Beats: begins.Add(e.from.Start).Div(bar.Measure.Meter.Pulse()), Picked: !w.rung.literal || hand.Picked(e.from), Low: c.Lowest(), High: c.Highest()})
	}
	return hand.Strokes(moments, w.set.at.Picking)
}

// worthSaying is the demand from which a bar's hardest place is named.
const worthSaying = 0.55

// reasons says what the student gets in one bar, and why.
func (w *writer) reasons(bar *Bar, first, end int) []Said {
	list := w.said[:0]
	for i := first; i < end; i++ {
		list = w.group(list, w.offerAt(i).why, subject(w.offerAt(i).why))
		list = w.group(list, w.choiceAt(i).why, subject(w.offerAt(i).why))
		for _, r := range w.choiceAt(i).remarks {
			if told := (Remarked{r}); said(list, told) < 0 {
				list = append(list, Said{Fact: told})
			}
		}
	}
	for _, d := range bar.Dropped {
		list = tell(list, LeftOut{d.What, int(w.set.at.Pace()*10 + 0.5)}, d.Beat)
	}
	if f := where(bar); f != nil {
		list = append(list, Said{Fact: f})
	}
	list = w.links(list, first, end)
	if bar.Demand > worthSaying && bar.Hardest().Hard.Telling() {
		list = append(list, Said{Fact: Hardest})
	}
	w.said = list
	return slices.Clone(list)
}

// Telling tells whether a hard place is worth a sentence: two fingers to hold
// are nothing, nor is a pace that leaves time.
func (h *Hard) Telling() bool {
	switch s := &h.Spot; s.Demand {
	case grade.Fingers:
		return s.Count > 2
	case grade.Speed:
		return s.PerSecond > 0.7*s.Comfortable
	}
	return true
}

// said is where a fact is among those that are told already, below 0 for nowhere.
func said(list []Said, f Fact) int {
	return slices.IndexFunc(list, func(s Said) bool { return s.Fact == f })
}

// tell adds a fact of one thing to those that are told, alike ones together.
func tell(list []Said, f Fact, what string) []Said {
	at := said(list, f)
	if at < 0 {
		at = len(list)
		list = append(list, Said{Fact: f})
	}
	if what != "" && !slices.Contains(list[at].What, what) {
		list[at].What = append(list[at].What, what)
	}
	return list
}

// parted is a fact without what it is said of, and that.
type parted struct {
	rest Fact
	of   string
	tell bool
}

// part takes a fact of an event apart, once for all its like.
func (w *writer) part(f Fact) parted {
	p, ok := w.apart[f]
	if !ok {
		p.of, p.rest = Apart(f)
		r, reason := p.rest.(Reason)
		p.tell = !reason || r.Why != TypedNotes && r.Why != TheLine && r.Why != Chosen // nothing to explain
		w.apart[f] = p
	}
	return p
}

// group adds the facts of an event to those that are told of its bar. Those that name
// nothing themselves speak of what the event is.
func (w *writer) group(list []Said, facts []Fact, of string) []Said {
	for _, f := range facts {
		p := w.part(f)
		if p.of == "" {
			p.of = of
		}
		if p.tell {
			list = tell(list, p.rest, p.of)
		}
	}
	return list
}

// where says on which strings and frets a bar lies, where that is worth a word.
func where(bar *Bar) Fact {
	var used neck.StringSet
	var only neck.String
	count := 0
	low, high := neck.MaxFret+1, 0
	for i := range bar.Events {
		for _, n := range bar.Events[i].Notes {
			if !used.Has(n.String) {
				used, only = used.With(n.String), n.String
				count++
			}
			if n.Fret > 0 {
				low, high = min(low, n.Fret), max(high, n.Fret)
			}
		}
	}
	switch {
	case count == 0:
		return nil
	case count == 1 && high == 0:
		return OnlyOpen{only}
	case count == 1 && low == high:
		return StaysAt{only, low}
	case count == 1:
		return OneStringOf{only, low, high}
	case high == 0:
		return nil
	}
	return Between{low, high}
}

// links names the changes of a bar that a finger makes easy: the first of each
// kind.
func (w *writer) links(list []Said, first, end int) []Said {
	stays, slides := false, false
	for i := first; i < end; i++ {
		before := w.score.events[i].before
		if before < 0 || w.score.events[i].from.Dead() {
			continue
		}
		from, to := w.choiceAt(before), w.choiceAt(i)
		if from.Frets == to.Frets || from.voice.Strings < 2 || to.voice.Strings < 2 {
			continue
		}
		anchors, guides := hand.Anchors(from.Fingering, to.Fingering)
		was, is := w.short(before), w.short(i)
		switch {
		case was == is:
		case len(anchors) > 0:
			if !stays {
				list, stays = append(list, Said{Fact: AnchorStays{anchors[0], was, is}}), true
			}
		case len(guides) > 0 && !slides:
			list, slides = append(list, Said{Fact: GuideSlides{guides[0], was, is}}), true
		}
	}
	return list
}

// overall says what holds for the whole version.
func (a *Arranger) overall(w *writer, v *Version) []Fact {
	var why []Fact
	for _, player := range w.score.part.Players() {
		why = append(why, SecondPlayer{player})
	}
	if f := w.naming(); f != nil {
		why = append(why, f)
	}
	if w.set.options.Tuning != nil {
		why = append(why, InTuning{w.set.options.Tuning.String()})
		why = append(why, w.lost()...)
	}
	if w.score.gallops > 0 {
		why = append(why, GallopPicked)
	}
	if same := a.likeAnother(w.score.index); same != nil {
		why = append(why, same)
	}
	if v.Travel == 0 && len(w.need) > 1 {
		why = append(why, HandStays)
	}
	return why
}

// naming says by its first chord what the names of the part are, where what is fingered
// and what sounds have different ones.
func (w *writer) naming() Fact {
	key := w.set.heard.Parts[w.score.index].Key
	for i := range w.score.events {
		e := w.score.events[i].from
		switch {
		case e.Kind != song.Chord || !w.set.lift.Any() || w.set.rewrites():
		case w.set.lift.Shapes():
			return NamesAreShapes{e.Chord.Symbol, w.set.lift.Sounds(e.Chord, key).Symbol}
		default:
			return NamesSound{e.Chord.Symbol, w.set.lift.Shape(e.Chord, key).Symbol}
		}
	}
	return nil
}

// lost counts what the other tuning does not give.
func (w *writer) lost() []Fact {
	var octave, thinner, open, legato int
	for i := range w.need {
		c, k := w.choiceAt(i), w.offerAt(i)
		from := w.score.events[i].from
		if slices.ContainsFunc(k.why, func(f Fact) bool { _, moved := f.(Moved); return moved }) {
			octave++
		}
		if !w.rung.literal || from.Kind != song.Notes || from.Dead() {
			continue
		}
		if c.Sounding() < len(w.score.contents[w.score.events[i].content].harmony.pitches) {
			thinner++
		}
		for _, note := range from.Notes {
			if note.Fret == 0 && !note.Dead && c.Frets != neck.NoFrets && c.Frets.On(note.String) != 0 {
				open++
				break
			}
		}
		if n, ok := single(from); ok && i > 0 && (n.By == song.Hammered || n.By == song.PulledOff || n.By == song.Slid) && c.Lowest() != w.choiceAt(i-1).Lowest() {
			legato++
		}
	}
	var list []Fact
	if octave > 0 {
		list = append(list, OctavesMoved(octave))
	}
	if thinner > 0 {
		list = append(list, ThinnerChords(thinner))
	}
	if open > 0 {
		list = append(list, OpenLost(open))
	}
	if legato > 0 {
		list = append(list, LegatoLost(legato))
	}
	return list
}
