package sheet

import (
	"slices"
	"strings"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// mostPatterns is how many bars a stroke pattern may take before it begins anew.
const mostPatterns = 4

// nextStrokes stands between the bars of a stroke pattern.
const nextStrokes = " | "

// strokesOf reads a stroke pattern of one bar, or of some with | between.
func strokesOf(text string) (string, *pitch.Malformed) {
	bars := strings.Split(strings.Trim(strings.TrimSpace(text), "|"), "|")
	if len(bars) > mostPatterns {
		return text, pitch.Malformedf("write the bars themselves where they differ so much", "the pattern has %d bars, the limit is %d", len(bars), mostPatterns)
	}
	for i, bar := range bars {
		strokes, err := strokesOfBar(bar)
		if err != nil {
			return text, err
		}
		bars[i] = strokes
	}
	return strings.Join(bars, nextStrokes), nil
}

// strokesOfBar reads the strokes of a bar: d and u for strokes, x for a dead one, - for
// what goes on and . for silence; they share the bar equally. It is written back with
// blanks between.
func strokesOfBar(text string) (string, *pitch.Malformed) {
	const mend = "write each slot of a bar: d and u for strokes, - where nothing is struck, x for a dead stroke, . for silence; like d - d u - u d u"
	list := strings.Fields(strings.NewReplacer("D", "d", "U", "u", "v", "d", "^", "u", "↓", "d", "↑", "u", "–", "-", "—", "-").Replace(text))
	if len(list) == 1 {
		list = strings.Split(list[0], "")
	}
	struck := false
	for _, s := range list {
		switch {
		case len(s) > 1:
			return text, pitch.Malformedf(mend, "%q is not one slot of a stroke pattern", s)
		case !strings.Contains("du-x.", s):
			return text, pitch.Malformedf(mend, "%q is no stroke", s)
		}
		struck = struck || s == "d" || s == "u"
	}
	switch {
	case !struck:
		return text, pitch.Malformedf(mend, "the pattern has no stroke")
	case len(list) > MaxSlots:
		return text, pitch.Malformedf("write it for one bar", "the pattern has %d slots, the limit is %d", len(list), MaxSlots)
	}
	return strings.Join(list, " "), nil
}

// strummed gives the bars of the first player in which chords are only named, each where
// it comes in, the strokes of the part's pattern, bar by bar; one of several bars begins
// anew with each line. A bar in which a chord is
// named twice in a row, or that has notes, strokes or marks of its own, is played as it
// is typed. A chord that no stroke would reach is struck where it stands. Of bars that
// have been given the strokes it changes nothing. unfit are the first events of the bars
// into which the pattern does not go, which are played as they are typed.
func strummed(p *song.Part) (unfit []song.Event) {
	if p.Strum == "" {
		return nil
	}
	s := strummer{part: p}
	var patterns [][]string
	for _, bar := range strings.Split(p.Strum, nextStrokes) {
		patterns = append(patterns, strings.Fields(bar))
	}
	var before *song.Bar
	for i := range p.Lines {
		for j := range p.Lines[i].Bars {
			b := &p.Lines[i].Bars[j]
			s.pattern = patterns[j%len(patterns)]
			s.step = p.Meter.Bar().Div(pitch.Whole(int64(len(s.pattern))))
			s.bar(b)
			// One that goes on with another chord than the bar before is not the same any more.
			b.Same = b.Same && (before == nil || sameBar(before, b))
			before = b
		}
	}
	return s.unfit
}

// strummer goes through the bars of a part.
type strummer struct {
	part    *song.Part
	pattern []string     // of the bar
	step    pitch.Frac   // from one slot of the pattern to the next, in whole notes
	at      pitch.Frac   // where the bar begins, from the start of the part
	last    *song.Event  // before the bar, nil where there is none
	began   pitch.Frac   // where last begins, from the start of the part
	unfit   []song.Event // the first of each bar in which the strokes cannot be typed
}

func (s *strummer) bar(b *song.Bar) {
	m := s.part.Measure(b)
	if s.names(b.Events) {
		struck := s.struck(b.Events, m)
		if !typable(struck, m) {
			s.unfit = append(s.unfit, struck[0])
			struck = b.Events
		}
		b.Events = struck
		if s.last != nil {
			until := m.Meter.Bar()
			if len(b.Events) > 0 {
				until = b.Events[0].Start
			}
			s.last.Length = s.at.Add(until.Sub(m.Lead)).Sub(s.began)
		}
	}
	if n := len(b.Events); n > 0 {
		s.last = &b.Events[n-1]
		s.began = s.at.Add(s.last.Start.Sub(m.Lead))
	}
	s.at = s.at.Add(m.Length())
}

// typable tells whether what is in a bar fits slots that share it equally.
func typable(events []song.Event, m song.Measure) bool {
	slots := int64(1)
	for i := range events {
		slots = pitch.LCM(slots, events[i].Start.Sub(m.Lead).Div(m.Length()).Den())
		if slots > MaxSlots {
			return false
		}
	}
	return true
}

// names tells whether a bar only names chords, or goes on with one that is.
func (s *strummer) names(events []song.Event) bool {
	before, chords := "", false
	for i := range events {
		switch e := &events[i]; e.Kind {
		case song.Rest, song.NoChord:
			before = ""
		case song.Chord:
			if e.Chord.Symbol == before || e.Stroke != song.NoStroke || e.Accent || e.Short {
				return false
			}
			before, chords = e.Chord.Symbol, true
		default:
			return false
		}
	}
	return chords || len(events) == 0 && s.last != nil && s.last.Kind == song.Chord
}

// struck are the events of a bar with the strokes of the pattern.
func (s *strummer) struck(events []song.Event, m song.Measure) []song.Event {
	var out []song.Event
	end := func(i int) pitch.Frac {
		if i < len(events) {
			return events[i].Start
		}
		return m.Meter.Bar()
	}
	if s.last != nil && s.last.Kind == song.Chord {
		out, _ = s.strike(out, s.last, m.Lead, end(0))
	}
	for i := range events {
		e := &events[i]
		before, struck := len(out), false
		if e.Kind == song.Chord {
			out, struck = s.strike(out, e, e.Start, end(i+1))
		}
		if !struck {
			out = append(out[:before], *e)
		}
	}
	if s.last == nil && len(out) > 0 && m.Lead.Less(out[0].Start) {
		out = slices.Insert(out, 0, song.Event{Start: m.Lead, Kind: song.Rest, Line: out[0].Line, Column: out[0].Column})
	}
	for i := range out {
		until := m.Meter.Bar()
		if i+1 < len(out) {
			until = out[i+1].Start
		}
		out[i].Length = until.Sub(out[i].Start)
	}
	return out
}

// strike adds what the pattern has for a chord between two moments of a bar, and tells
// whether it sounds.
func (s *strummer) strike(out []song.Event, e *song.Event, from, to pitch.Frac) ([]song.Event, bool) {
	sounds := false
	for i := -int(pitch.Frac{}.Sub(from).Div(s.step).Floor()); ; i++ {
		at := s.step.Mul(pitch.Whole(int64(i)))
		if !at.Less(to) {
			return out, sounds
		}
		one := song.Event{Start: at, Line: e.Line, Column: e.Column}
		switch s.pattern[i%len(s.pattern)] {
		case "d", "u":
			one = *e
			one.Start, one.Stroke = at, map[string]song.Stroke{"d": song.Down, "u": song.Up}[s.pattern[i%len(s.pattern)]]
			sounds = true
		case "x":
			one.Kind = song.Strum
		case ".":
			one.Kind = song.Rest
		default:
			continue
		}
		out = append(out, one)
	}
}

// isStrummed tells whether reading the bars of a part gives them no more strokes than they
// have.
func isStrummed(p *song.Part) bool {
	again := *p
	again.Lines = make([]song.Line, len(p.Lines))
	for i, l := range p.Lines {
		l.Bars = slices.Clone(l.Bars)
		for j := range l.Bars {
			l.Bars[j].Events = slices.Clone(l.Bars[j].Events)
		}
		again.Lines[i] = l
	}
	strummed(&again)
	for i, l := range p.Lines {
		for j := range l.Bars {
			if !slices.EqualFunc(l.Bars[j].Events, again.Lines[i].Bars[j].Events, func(a, b song.Event) bool {
				return a.Start == b.Start && a.Length == b.Length && a.Kind == b.Kind && a.Stroke == b.Stroke
			}) {
				return false
			}
		}
	}
	return true
}
