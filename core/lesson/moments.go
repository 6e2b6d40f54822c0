package lesson

import (
	"slices"
	"strings"

	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/drill"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// view is a version as its lesson sees it.
type view struct {
	index   int
	part    *song.Part
	version *arrange.Version
	stages  []float64
	byPace  bool
	asks    float64 // strokes a second at the goal
	keys    []string
	holds   []hold
	has     Touches
	later   Touches // of those, what is left for the finish
	seconds []float64
}

// hold is a shape that is held from one event on.
type hold struct {
	Held
	event   *arrange.Event
	bar     int     // from 0
	at      int     // index of the event in its bar
	seconds float64 // since the stroke before it, 0 at first
}

// view looks at the version of a part, once.
func (b *builder) view(i int) *view {
	if b.views == nil {
		b.views = make([]*view, len(b.song.Parts))
	}
	if b.views[i] == nil {
		b.views[i] = b.look(i, b.chosen[i].Version)
	}
	return b.views[i]
}

func (b *builder) look(i int, version *arrange.Version) *view {
	v := &view{index: i, part: &b.song.Parts[i], version: version}
	clock := v.part.Clock(version.Tempo)
	for j := range version.Bars {
		bar := &version.Bars[j]
		v.keys = append(v.keys, barKey(bar))
		v.seconds = append(v.seconds, clock.In(bar.Measure, bar.Measure.Meter.Bar()))
	}
	v.asks = v.asksFor()
	v.stages, v.byPace = stages(version.Tempo, v.asks, b.student.Player.Pace(), v.least())
	v.holds = b.holdsOf(v)
	v.has = touchesOf(version, v.part)
	for _, t := range v.has.List() {
		if skillOf[t] == 0 || b.student.lacks(skillOf[t]) {
			v.later |= 1 << t
		}
	}
	return v
}

// lasts is how long the written bars from to to take at the goal, in seconds.
func (v *view) lasts(from, to int) (sum float64) {
	for _, s := range v.seconds[from-1 : to] {
		sum += s
	}
	return sum
}

// tries is how often a bar is played for one that is clean: the harder the more.
func (v *view) tries(from, to int) float64 {
	worst := 0.0
	for i := from - 1; i < to; i++ {
		worst = max(worst, v.version.Bars[i].Demand)
	}
	return 1.3 + min(worst, 1.7)
}

// barKey is the same for bars that are played alike, fingers and all.
func barKey(b *arrange.Bar) string {
	var k strings.Builder
	k.WriteString(b.Measure.Meter.String())
	for i := range b.Events {
		e := &b.Events[i]
		k.WriteByte('|')
		k.WriteString(e.Start.String())
		k.WriteByte('+')
		k.WriteString(e.Length.String())
		for j, fret := range e.Fingering.Frets {
			k.WriteByte(byte(fret + 2))
			k.WriteByte(byte(e.Fingering.Fingers[j]))
		}
		for _, s := range e.Dead {
			k.WriteByte('x')
			k.WriteByte(byte(s))
		}
		if e.Muted {
			k.WriteByte('*')
		}
	}
	return k.String()
}

// rhythmKey is the same for bars of one rhythm.
func rhythmKey(b *arrange.Bar) string {
	var k strings.Builder
	k.WriteString(b.Measure.Meter.String())
	for i := range b.Events {
		k.WriteByte('|')
		k.WriteString(b.Events[i].Start.String())
	}
	return k.String()
}

// holdsOf lists what is held one after the other: the shapes, and of an arpeggio the
// shape that its notes are picked from. Dead strokes change nothing.
func (b *builder) holdsOf(v *view) (list []hold) {
	clock := v.part.Clock(v.version.Tempo)
	begin, before := 0.0, -1.0
	spelled := ""
	for i := range v.version.Bars {
		bar := &v.version.Bars[i]
		for j := range bar.Events {
			e := &bar.Events[j]
			now := begin + clock.In(bar.Measure, e.Start)
			gap := 0.0
			if before >= 0 {
				gap = now - before
			}
			before = now
			if len(e.Notes) == 0 {
				continue
			}
			of := heldOf(e)
			last := len(list) - 1
			if last >= 0 && of != "" && of == spelled && list[last].join(e.Fingering) {
				continue
			}
			if last >= 0 && of == "" && spelled == "" && list[last].Fingering == e.Fingering {
				continue
			}
			spelled = of
			h := hold{event: e, bar: i, at: j, seconds: gap, Held: Held{Shape: drill.ShapeOf(e), Mutes: e.Mutes, Bar: bar.Number}}
			if h.Name = of; of == "" {
				h.Name = b.nameOf(v, e)
			}
			list = append(list, h)
		}
		begin += v.seconds[i]
	}
	return list
}

// join adds the strings of a fingering to a shape that is held; ok is false where they
// are another shape's.
func (h *hold) join(f hand.Fingering) bool {
	for i, fret := range f.Frets {
		if fret >= 0 && h.Frets[i] >= 0 && h.Frets[i] != fret {
			return false
		}
	}
	for i, fret := range f.Frets {
		if fret >= 0 {
			h.Frets[i], h.Fingers[i] = fret, f.Fingers[i]
		}
	}
	return true
}

// heldOf is the chord whose shape is held while its notes are picked; empty for none.
func heldOf(e *arrange.Event) string {
	for _, f := range e.Why {
		if r, ok := f.(arrange.Reason); ok && r.Why == arrange.HeldShape {
			return r.Of
		}
	}
	return ""
}

// nameOf is what a shape is called: the chord of the sheet, or what its notes are.
func (b *builder) nameOf(v *view, e *arrange.Event) string {
	if len(e.Notes) < 2 {
		return ""
	}
	if e.From.Kind == song.Chord {
		if c, ok := e.Name(); ok {
			return c.Symbol
		}
	}
	var set pitch.Set
	for _, n := range e.Notes {
		set = set.With(n.Name.Class())
	}
	root := e.Notes[0].Name
	if set == (pitch.Set(0)).With(root.Class()) {
		return root.String() + " octave"
	}
	for _, f := range e.Why {
		if altered, ok := f.(arrange.AlteredFor); ok {
			return root.String() + "(" + altered.Fifth.String() + ")"
		}
		of := arrange.About(f)
		if c, err := chord.Parse(of); err == nil && len(c.Tones) > 1 {
			return of
		}
	}
	names := chord.Names(set, root.Class(), v.part.Key.Transposed(-b.song.Above()))
	if len(names) == 0 {
		return ""
	}
	return names[0].Name
}

// isShape tells whether a fingering is something to be taught as a shape: several
// strings, and more than one finger or more than two strings.
func isShape(f hand.Fingering) bool {
	n := f.Sounding()
	return n >= 2 && f.Fretted() && (f.Count() >= 2 || n >= 3)
}

// profile measures a change at the goal: more than it asks of everybody where a shape is
// new to the student, or the student's pace is slow.
func (b *builder) profile(from, to *hold) (total float64, m grade.Moment) {
	base, next := from.Fingering.Base(), to.Fingering.Base()
	m = grade.Moment{From: from.Fingering, To: to.Fingering, Seconds: to.seconds}
	if base > 0 && next > 0 {
		m.Shift, m.Frets = b.at.Neck.Along(base, next), max(base-next, next-base)
	}
	p := m.Profile(b.at)
	total = (p[grade.Shift] + p[grade.Change] + p[grade.Crossing]) * hand.UsualNotesPerSecond / b.at.Pace()
	for _, h := range []*hold{from, to} {
		if !b.has(h) {
			total *= newShapeAsks
		}
	}
	return total, m
}

// touchesOf lists what a version has beside its notes.
func touchesOf(v *arrange.Version, p *song.Part) (t Touches) {
	for i := range v.Bars {
		for j := range v.Bars[i].Events {
			e := &v.Bars[i].Events[j]
			for one := NoTouch + 1; one < touches; one++ {
				if touched(v, p, e, one) {
					t |= 1 << one
				}
			}
		}
	}
	return t
}

// touched tells whether an event of a version has a touch.
func touched(v *arrange.Version, p *song.Part, e *arrange.Event, t Touch) bool {
	from := e.From
	if from.Dead() {
		return false
	}
	legato := func(by song.Technique) bool {
		return v.Rung.Literal() && slices.ContainsFunc(e.Placed().Notes, func(n song.Note) bool { return n.By == by })
	}
	switch t {
	case PalmMuting:
		return e.Muted
	case Stops:
		return from.Short
	case Accents:
		return from.Accent
	case HammerOns:
		return legato(song.Hammered)
	case PullOffs:
		return legato(song.PulledOff)
	case Slides:
		return legato(song.Slid) || v.Rung.Literal() && slices.ContainsFunc(from.Notes, func(n song.Note) bool { return n.In != song.NoGlide || n.Off != song.NoGlide })
	case Vibrato:
		return v.Rung.Literal() && from.Vibrato
	}
	return false
}

// stringOf is the first of some strings, 0 where there is none.
func stringOf(list []neck.String) neck.String {
	if len(list) == 0 {
		return 0
	}
	return list[0]
}

// Shapes lists the shapes of a part as it is learnt, each once, in the order in which they
// come; none where it is left out.
func (l *Lesson) Shapes(part int) (list []Held) {
	version := l.Chosen[part].Version
	if version == nil {
		return nil
	}
	b := builder{song: l.Song}
	seen := map[neck.Frets]bool{}
	for _, h := range b.look(part, version).holds {
		if isShape(h.Fingering) && !seen[h.Frets] {
			seen[h.Frets] = true
			list = append(list, h.Held)
		}
	}
	return list
}
