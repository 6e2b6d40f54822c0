package drill

import (
	"math"
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

var (
	four  = song.Meter{Count: 4, Unit: 4}
	three = song.Meter{Count: 3, Unit: 4}
)

// sounding lists the strings that sound in a fingering, thick ones first.
func sounding(f hand.Fingering) []neck.String {
	var list []neck.String
	for i, fret := range f.Frets {
		if fret >= 0 {
			list = append(list, neck.StringAt(i))
		}
	}
	return list
}

// note is one note; by is how it begins.
func note(s neck.String, fret int, by song.Technique) slot {
	return slot{song.Event{Notes: []song.Note{{String: s, Fret: fret, By: by}}}, true}
}

// struck is a dead note on one string.
func struck(s neck.String) slot {
	return slot{song.Event{Notes: []song.Note{{String: s, Dead: true}}}, true}
}

// slideBack slides a shift on one string and back: the string of the thickest note
// that a finger stops at the place.
func slideBack(m *spot) []Exercise {
	s, to := fretted(m.to.Fingering)
	if s == 0 || m.from == nil || m.to.Base == m.from.Base {
		return nil
	}
	from := max(to-(m.to.Base-m.from.Base), 1)
	if on := m.from.Fingering.Frets.On(s); on > 0 {
		from = on
	}
	if from == to {
		return nil
	}
	way := func(to int) []song.Bar {
		a, up, back := note(s, from, song.Picked), note(s, to, song.Slid), note(s, from, song.Slid)
		return []song.Bar{bar(four, a, goOn, up, goOn), bar(four, a, up, back, up)}
	}
	a, b := ShapeOf(m.from).slot(), ShapeOf(m.to).slot()
	whole := append(way(to), bar(four, a, goOn, b, goOn), bar(four, a, b, rest, goOn))
	list := []Exercise{{How: SlideBack, Bars: whole, Meter: four}}
	if half := from + (to-from)/2; half != from && half != to {
		list = append(list, Exercise{How: SlideHalf, Bars: way(half), Meter: four})
	}
	return list
}

// fretted is the thickest string that a finger stops, and its fret.
func fretted(f hand.Fingering) (s neck.String, fret int) {
	for i, by := range f.Fingers {
		if by != hand.None {
			return neck.StringAt(i), int(f.Frets[i])
		}
	}
	return 0, 0
}

// takeAndLetGo takes the two shapes of a change in turn and lets them go.
func takeAndLetGo(m *spot) []Exercise {
	if m.from == nil || m.from.Fingering == m.to.Fingering {
		return nil
	}
	return Change(ShapeOf(m.from), ShapeOf(m.to))
}

// Change is the practice of going from one shape to another and back: taken and let
// go in time, then without a gap; and with a bar for each.
func Change(from, to Shape) []Exercise {
	a, b := from.slot(), to.slot()
	if !a.plays || !b.plays {
		return nil
	}
	return []Exercise{
		{How: TakeAndLetGo, Meter: four, Bars: []song.Bar{bar(four, a, rest, b, rest), bar(four, a, rest, b, rest), bar(four, a, goOn, b, goOn), bar(four, a, b, a, b)}},
		{How: TakeSlowly, Meter: four, Bars: []song.Bar{bar(four, a, goOn, goOn, rest), bar(four, b, goOn, goOn, rest)}},
	}
}

// higher is how far up a stretch is played first, down to its place.
var higher = [...]int{7, 5, 3, 1, 0}

// lastEasy is the highest fret that a shape is moved to.
const lastEasy = 14

// bringDown plays a stretch or a barre first where frets lie closer and strings are
// softer, and brings it down. Open strings stay out of it, since they do not move.
func bringDown(m *spot) []Exercise {
	f := m.to.Fingering
	high := 0
	for i, by := range f.Fingers {
		if by == hand.None {
			f.Frets[i] = neck.Silent
		}
		high = max(high, int(f.Frets[i]))
	}
	if high == 0 {
		return nil
	}
	var down, up []song.Bar
	for _, by := range higher {
		if high+by > lastEasy && by > 0 {
			continue
		}
		moved := f
		for i := range moved.Frets {
			if moved.Fingers[i] != hand.None {
				moved.Frets[i] += int8(by)
			}
		}
		b := bar(four, Shape{Fingering: moved}.slot(), goOn, goOn, rest)
		if down = append(down, b); by >= 3 {
			up = append(up, b)
		}
	}
	list := []Exercise{{How: BringDown, Bars: down, Meter: four}}
	if len(up) > 0 && len(up) < len(down) {
		list = append(list, Exercise{How: StayUp, Bars: up, Meter: four})
	}
	return list
}

// stringByString holds a shape and plucks every string alone: those that must not
// sound are heard not to.
func stringByString(m *spot) []Exercise {
	f := m.to.Fingering
	if len(sounding(f)) == 0 || len(sounding(f)) == neck.Strings {
		return nil
	}
	var all, silent []slot
	for i := range f.Frets {
		s := neck.StringAt(i)
		if fret := f.Frets[i]; fret >= 0 {
			all = append(all, note(s, int(fret), song.Picked))
		} else {
			all = append(all, struck(s))
			silent = append(silent, struck(s))
		}
	}
	whole := ShapeOf(m.to).slot()
	once := bar(four, whole, goOn, goOn, rest)
	quiet := []song.Bar{bar(four, silent...), once}
	return []Exercise{
		{How: StringByString, Bars: []song.Bar{bar(three, all[:3]...), bar(three, all[3:]...), bar(three, whole, goOn, rest)}, Meter: three},
		{How: SilentStrings, Bars: quiet, Meter: four},
	}
}

// oneByOne sounds the strings of a shape one by one, then together.
func oneByOne(m *spot) []Exercise { return Take(ShapeOf(m.to)) }

// Take is the practice of taking a shape: its strings one by one, then together, let
// go and taken again; and with its thickest strings alone.
func Take(s Shape) []Exercise {
	f := s.Fingering
	if len(sounding(f)) < 2 {
		return nil
	}
	list := []Exercise{{How: OneByOne, Bars: take(s), Meter: four}}
	fewer := f
	const few = 3
	for _, str := range sounding(f)[min(few, len(sounding(f))):] {
		fewer.Frets[str.Index()], fewer.Fingers[str.Index()] = neck.Silent, hand.None
	}
	if fewer != f && fewer.Fretted() {
		list = append(list, Exercise{How: FewerStrings, Bars: take(Shape{Fingering: fewer}), Meter: four})
	}
	return list
}

func take(s Shape) []song.Bar {
	var slots []slot
	for _, str := range sounding(s.Fingering) {
		slots = append(slots, note(str, s.Frets.On(str), song.Picked))
	}
	for len(slots)%4 != 0 {
		slots = append(slots, goOn)
	}
	g := s.slot()
	return []song.Bar{bar(four, slots...), bar(four, g, goOn, goOn, rest), bar(four, rest, goOn, g, rest), bar(four, g, rest, g, rest)}
}

// onOpenStrings plays the strings of a bar without the fretting hand.
func onOpenStrings(m *spot) []Exercise {
	b := m.written()
	for i := range b.Events {
		e := &b.Events[i]
		e.Marks = song.Marks{Stroke: e.Stroke}
		if e.Kind == song.Chord {
			notes := Shape{Fingering: hand.Fingering{Frets: e.Frets}}.slot().event.Notes
			*e = song.Event{Start: e.Start, Length: e.Length, Notes: notes}
		}
		for j := range e.Notes {
			if !e.Notes[j].Dead {
				e.Notes[j] = song.Note{String: e.Notes[j].String}
			}
		}
	}
	list := []Exercise{{How: OnOpenStrings, Bars: []song.Bar{b}, Meter: m.meter(), Feel: m.part.Feel}}
	if m.from != nil {
		x, y := m.from.Fingering.Lowest(), m.to.Fingering.Lowest()
		if x != y && x != 0 && y != 0 {
			back := bar(four, note(x, 0, song.Picked), note(y, 0, song.Picked), note(x, 0, song.Picked), note(y, 0, song.Picked))
			list = append(list, Exercise{How: TwoStrings, Bars: []song.Bar{back}, Meter: four})
		}
	}
	return list
}

// meter is the time of the bar of the place.
func (m *spot) meter() song.Meter { return m.Version.Bars[m.Bar].Measure.Meter }

// written is the bar of the place, typed out as the version plays it, as a whole bar
// that no sound is held into.
func (m *spot) written() song.Bar {
	typed := m.Version.Typed(m.part)
	b := typed.Bars()[m.Bar]
	b.Meter, b.Lead, b.Same = song.Meter{}, pitch.Frac{}, false
	b.Events = slices.Clone(b.Events)
	for i := range b.Events {
		b.Events[i].Notes = slices.Clone(b.Events[i].Notes)
	}
	first := pitch.Whole(0)
	if len(b.Events) > 0 && b.Events[0].Start != first {
		silence := song.Event{Kind: song.Rest, Length: b.Events[0].Start}
		b.Events = slices.Insert(b.Events, 0, silence)
	}
	return b
}

// burstNotes are how many notes are played at a time.
var burstNotes = [...]int{2, 4, 8}

// bursts plays what is fast in bursts, each followed by silence.
func bursts(m *spot) []Exercise {
	run, gap := m.run()
	if len(run) < 2 {
		return nil
	}
	gap = plainest(gap)
	burst := func(gap pitch.Frac) (bars []song.Bar) {
		for _, n := range burstNotes {
			length := gap.Mul(pitch.Whole(int64(n)))
			if n > len(run) || four.Bar().Less(length) {
				break
			}
			b := song.Bar{}
			for i := range n {
				e := ShapeOf(run[i]).slot().event
				e.Start, e.Length = gap.Mul(pitch.Whole(int64(i))), gap
				b.Events = append(b.Events, e)
			}
			if length.Less(four.Bar()) {
				b.Events = append(b.Events, song.Event{Kind: song.Rest, Start: length, Length: four.Bar().Sub(length)})
			}
			bars = append(bars, b, b)
		}
		return bars
	}
	list := []Exercise{{How: Bursts, Bars: burst(gap), Meter: four, Feel: m.part.Feel}}
	if slow := burst(gap.Mul(pitch.Whole(2))); len(slow) > 0 {
		list = append(list, Exercise{How: SlowBursts, Bars: slow, Meter: four, Feel: m.part.Feel})
	}
	return list
}

// paces are the gaps in which a burst is played, as a part of a whole note.
var paces = [...]int64{4, 6, 8, 12, 16, 24, 32}

// plainest is the gap of a plain rhythm that is nearest.
func plainest(gap pitch.Frac) pitch.Frac {
	best := pitch.F(1, paces[0])
	for _, n := range paces[1:] {
		if f := pitch.F(1, n); math.Abs(math.Log(f.Float()/gap.Float())) < math.Abs(math.Log(best.Float()/gap.Float())) {
			best = f
		}
	}
	return best
}

// run is what is struck from the place on, bar after bar, as many as the longest burst
// has; and how quickly the strokes follow one another at their fastest, there.
func (m *spot) run() (list []*arrange.Event, gap pitch.Frac) {
	bars := m.Version.Bars
	b := &bars[m.Bar]
	gap = m.gap
	for i := 1; i < len(b.Events); i++ {
		if d := b.Events[i].Start.Sub(b.Events[i-1].Start); d.Less(gap) {
			gap = d
		}
	}
	for n := range len(bars) {
		b := &bars[(m.Bar+n)%len(bars)]
		for i := range b.Events {
			if (n > 0 || i >= max(m.Event-1, 0)) && len(b.Events[i].Notes) > 0 {
				list = append(list, &b.Events[i])
			}
		}
		if len(list) >= burstNotes[len(burstNotes)-1] {
			break
		}
	}
	return list, gap
}

// mutedFirst plays a rhythm dead, then as it is with a ghost stroke on each beat where
// there is none.
func mutedFirst(m *spot) []Exercise {
	b := m.written()
	meter := m.meter()
	with := ghosts(b, meter)
	return []Exercise{
		{How: MutedFirst, Bars: []song.Bar{Dead(b), Dead(with), with}, Meter: meter, Feel: m.part.Feel},
		{How: Subdivided, Bars: []song.Bar{subdivided(b, meter)}, Meter: meter, Feel: m.part.Feel},
	}
}

// Dead is a bar with every stroke of it struck dead: on its string where it is one, on
// all of them where it is a chord.
func Dead(b song.Bar) song.Bar {
	b.Events = slices.Clone(b.Events)
	for i := range b.Events {
		e := &b.Events[i]
		if !e.Sounds() {
			continue
		}
		marks := song.Marks{Stroke: e.Stroke, Accent: e.Accent}
		if e.Kind == song.Notes && len(e.Notes) == 1 {
			e.Notes = struck(e.Notes[0].String).event.Notes
		} else {
			*e = song.Event{Start: e.Start, Length: e.Length, Kind: song.Strum}
		}
		e.Marks = marks
	}
	return b
}

// ghosts strikes the beats of a bar dead on which nothing begins.
func ghosts(b song.Bar, m song.Meter) song.Bar {
	var events []song.Event
	next := 0
	for at := pitch.Whole(0); at.Less(m.Bar()); at = at.Add(m.Beat()) {
		for ; next < len(b.Events) && b.Events[next].Start.Less(at); next++ {
			events = append(events, b.Events[next])
		}
		if next < len(b.Events) && b.Events[next].Start == at && b.Events[next].Sounds() {
			continue
		}
		ghost := dead.event
		ghost.Start = at
		events = append(events, ghost)
		if next < len(b.Events) && b.Events[next].Start == at {
			next++ // the silence that began there
		}
	}
	b.Events = append(events, b.Events[next:]...)
	for i := range b.Events {
		end := m.Bar()
		if i+1 < len(b.Events) {
			end = b.Events[i+1].Start
		}
		b.Events[i].Length = end.Sub(b.Events[i].Start)
	}
	return b
}

// subdivided is a bar in which the hand strikes every subdivision that the rhythm needs,
// dead, and its own strokes louder.
func subdivided(b song.Bar, m song.Meter) song.Bar {
	n := int64(m.Bar().Div(m.Beat()).Floor()) * 2
	if m.Compound() || m.Unit > 4 {
		n = int64(m.Count)
	}
	const most = 24
	for i := range b.Events {
		if d := b.Events[i].Start.Div(m.Bar()).Mul(pitch.Whole(n)).Den(); n*d <= most {
			n *= d
		}
	}
	slots := make([]slot, n)
	for i := range slots {
		slots[i] = dead
		at := m.Bar().Mul(pitch.F(int64(i), n))
		slots[i].event.Accent = slices.ContainsFunc(b.Events, func(e song.Event) bool { return e.Start == at && e.Sounds() })
	}
	return bar(m, slots...)
}

// alone plays an ornament again and again, from the note that it comes from.
func alone(m *spot) []Exercise {
	e := m.to.Placed()
	if !m.Version.Rung.Literal() || len(e.Notes) != 1 || e.Notes[0].Dead {
		return nil
	}
	n := e.Notes[0]
	own := slot{song.Event{Notes: []song.Note{n}, Marks: song.Marks{Vibrato: e.Vibrato}}, true}
	first := goOn
	switch {
	case n.Bend > 0: // the ear first: the note that the bend is to reach
		first = note(n.String, n.Fret+(n.Bend+50)/100, song.Picked)
	case n.By == song.Released && m.from != nil:
		if before := m.from.Placed(); len(before.Notes) == 1 {
			first = slot{song.Event{Notes: before.Notes}, true}
		}
	case n.By != song.Picked && m.from != nil && m.from.Fingering.Frets.On(n.String) >= 0:
		first = note(n.String, m.from.Fingering.Frets.On(n.String), song.Picked)
	}
	if !first.plays {
		return []Exercise{{How: Alone, Bars: []song.Bar{bar(four, own, goOn, own, goOn), bar(four, own, own, own, rest)}, Meter: four}}
	}
	list := []Exercise{{How: Alone, Bars: []song.Bar{bar(four, first, own, first, own), bar(four, first, own, rest, goOn)}, Meter: four}}
	plain := note(n.String, n.Fret+(n.Bend+50)/100, song.Picked)
	return append(list, Exercise{How: Target, Bars: []song.Bar{bar(four, first, plain, first, plain)}, Meter: four})
}

// unlearnt practises what is new: an ornament alone, a shape string by string.
func unlearnt(m *spot) []Exercise {
	if list := alone(m); ornate(m.to.From) && list != nil {
		return list
	}
	return oneByOne(m)
}

func ornate(e *song.Event) bool {
	return e.Vibrato || slices.ContainsFunc(e.Notes, func(n song.Note) bool { return n.By != song.Picked || n.Bend > 0 })
}
