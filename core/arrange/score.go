package arrange

import (
	"math"
	"slices"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// score is what is played in a part: its events with their times, and how the
// part goes on.
type score struct {
	index    int // of the part
	part     *song.Part
	bars     []song.Bar
	clock    song.Clock
	contents []content
	events   []event
	lines    []span
	ways     seams
	dropped  map[int][]Dropped // by bar
	gallops  int
	thin     *score // made when it is first asked for
	// strokes of the events, by whether ornaments are played as written. In
	// economy picking they depend on the strings as well.
	strokes map[bool][]song.Stroke
}

// content is what events that sound alike have in common.
type content struct {
	from    *song.Event // one of them
	harmony harmony
	names   spelling
}

// contentKey tells contents apart.
type contentKey struct {
	kind   song.Kind
	notes  [neck.Strings]song.Note
	chord  string
	frets  neck.Frets
	shaken bool // vibrato
}

// event is something that sounds, in its time.
type event struct {
	from    *song.Event
	content int
	bar     int
	line    int     // index of the written line
	place   float64 // whole notes from the start of the part
	at      float64 // seconds from there
	gap     float64 // seconds since the event before, 0 for the first
	pace    float64 // mean seconds from stroke to stroke
	length  pitch.Frac
	beats   pitch.Frac // from the start of the bar
	count   pitch.Frac // place in the beat
	tied    bool
	beat    string // the count syllable
}

// span is a written line: events from start to before end, played times
// times; back is the time in seconds from its last event to its first.
type span struct {
	start, end, times int
	back              float64
}

// seams are the ways into a part and out of it, as the roadmap has them. Each
// has its share of all ways in or out.
type seams struct {
	in, out   []seam
	loop      float64 // share of the ways in that come from the part's own end
	back      float64 // seconds from its last event to its first
	beginning float64 // share of the ways in before which nothing sounds
}

// seam is a neighbour in the roadmap.
type seam struct {
	content int // what sounds on the other side
	seconds float64
	share   float64
}

// scoreOf lists what is played in a part.
func (a *Arranger) scoreOf(index int) *score {
	if s := a.scores[index]; s != nil {
		return s
	}
	p := &a.song.Parts[index]
	s := &score{index: index, part: p, clock: p.Clock(a.tempoOf(p))}
	known := map[contentKey]int{}
	length := p.Meter.Bar()
	for l := range p.Lines {
		first := len(s.events)
		for i := range p.Lines[l].Bars {
			b := len(s.bars)
			s.bars = append(s.bars, p.Lines[l].Bars[i])
			start := float64(b) * length.Float()
			events := s.bars[b].Events
			for j := range events {
				e := &events[j]
				if !e.Sounds() {
					continue
				}
				s.events = append(s.events, event{from: e, bar: b, line: l, content: a.contentOf(s, known, e),
					place: start + e.Start.Float(), length: e.Length})
			}
		}
		s.lines = append(s.lines, span{start: first, end: len(s.events), times: p.Lines[l].Times})
	}
	s.time()
	s.ways = a.seamsOf(index, s, known)
	s.strike(a.options.Player.Picking)
	a.scores[index] = s
	return s
}

func (a *Arranger) tempoOf(p *song.Part) float64 {
	if a.options.Tempo > 0 {
		return a.options.Tempo
	}
	return p.Tempo
}

// contentOf finds or adds the content of an event.
func (a *Arranger) contentOf(s *score, known map[contentKey]int, e *song.Event) int {
	key := contentKey{kind: e.Kind, chord: e.Chord.Symbol, frets: e.Frets, shaken: e.Vibrato}
	copy(key.notes[:], e.Notes)
	if e.Kind != song.Chord {
		key.frets = neck.NoFrets
	}
	if i, ok := known[key]; ok {
		return i
	}
	c := content{from: e}
	if !e.Dead() {
		c.harmony = a.harmonyOf(e)
		c.names = namesOf(s.part.Key, e, c.harmony)
	}
	known[key] = len(s.contents)
	s.contents = append(s.contents, c)
	return known[key]
}

// time works out when everything happens.
func (s *score) time() {
	beat := s.part.Meter.Beat()
	length := s.part.Meter.Bar().Float()
	for i := range s.events {
		e := &s.events[i]
		e.at = s.clock.At(e.place)
		e.gap = 0
		if i > 0 {
			e.gap = e.at - s.events[i-1].at
		}
		// The mean of the last three intervals: two quick notes alone are no
		// run.
		e.pace = 0
		if first := max(i-3, 0); i > 0 {
			e.pace = (e.at - s.events[first].at) / float64(i-first)
		}
		e.beats = e.from.Start.Div(beat)
		e.count = e.beats.Sub(pitch.Whole(e.beats.Floor()))
		e.beat = s.part.Meter.Syllable(e.from.Start, "")
		next := pitch.Whole(e.beats.Floor() + 1)
		e.tied = e.count.Num() != 0 && next.Less(e.beats.Add(e.length.Div(beat)))
	}
	bar := 0
	for l := range s.lines {
		line := &s.lines[l]
		end := bar + len(s.part.Lines[l].Bars)
		if line.end > line.start {
			line.back = s.clock.At(float64(end)*length) - s.events[line.end-1].at +
				s.events[line.start].at - s.clock.At(float64(bar)*length)
		}
		bar = end
	}
}

// strike works out the strokes and counts the gallops.
func (s *score) strike(school hand.School) {
	s.gallops = 0
	s.strokes = map[bool][]song.Stroke{true: make([]song.Stroke, 0, len(s.events)), false: make([]song.Stroke, 0, len(s.events))}
	var moments []hand.Moment
	for first := 0; first < len(s.events); {
		end := first
		for end < len(s.events) && s.events[end].bar == s.events[first].bar {
			end++
		}
		for _, written := range []bool{true, false} {
			moments = moments[:0]
			for _, e := range s.events[first:end] {
				moments = append(moments, hand.Moment{Beats: e.beats, Picked: !written || hand.Picked(e.from), Written: e.from.Stroke})
			}
			s.strokes[written] = append(s.strokes[written], hand.Strokes(moments, school)...)
		}
		s.gallops += hand.Gallops(moments)
		first = end
	}
}

// total is how long the part lasts as it is written, in seconds.
func (s *score) total() float64 {
	return s.clock.At(float64(len(s.bars)) * s.part.Meter.Bar().Float())
}

// first and last sounding events, nil where there are none.
func edges(p *song.Part) (first, last *song.Event, lead, tail float64) {
	bars := p.Bars()
	length := p.Meter.Bar().Float()
	for b := range bars {
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			if !e.Sounds() || e.Dead() {
				continue
			}
			at := float64(b)*length + e.Start.Float()
			if first == nil {
				first, lead = e, at
			}
			last, tail = e, float64(len(bars))*length-at
		}
	}
	return first, last, lead, tail
}

// seamsOf reads the roadmap for the neighbours of a part.
func (a *Arranger) seamsOf(index int, s *score, known map[contentKey]int) seams {
	var w seams
	if len(s.events) == 0 {
		return w
	}
	start, end := s.events[0].at, s.total()-s.events[len(s.events)-1].at
	w.back = start + end
	type counted struct{ before, after map[int]float64 }
	c := counted{map[int]float64{}, map[int]float64{}}
	before := -1
	ins, outs := 0.0, 0.0
	for _, step := range a.song.Order {
		for range step.Times {
			if step.Part == index {
				c.before[before]++
				ins++
			}
			if before == index {
				c.after[step.Part]++
				outs++
			}
			before = step.Part
		}
	}
	for _, other := range sorted(c.before) {
		share := c.before[other] / ins
		switch {
		case other == index:
			w.loop = share
		case other < 0:
			w.beginning += share
		default:
			p := &a.song.Parts[other]
			_, last, _, tail := edges(p)
			if last == nil {
				w.beginning += share
				continue
			}
			w.in = append(w.in, seam{a.contentOf(s, known, last), a.secondsOf(p, tail) + start, share})
		}
	}
	if ins == 0 {
		w.beginning = 1
	}
	for _, other := range sorted(c.after) {
		share := c.after[other] / outs
		if other == index {
			continue // counted as a way in
		}
		p := &a.song.Parts[other]
		if first, _, lead, _ := edges(p); first != nil {
			w.out = append(w.out, seam{a.contentOf(s, known, first), end + a.secondsOf(p, lead), share})
		}
	}
	return w
}

// secondsOf is how long a stretch of whole notes lasts in a part.
func (a *Arranger) secondsOf(p *song.Part, whole float64) float64 {
	return p.Clock(a.tempoOf(p)).At(whole)
}

func sorted(m map[int]float64) []int {
	keys := make([]int, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// moment is what is known of event i before its fingering is.
func (w *work) moment(i int) grade.Moment {
	e := &w.events[i]
	m := grade.Moment{Seconds: e.gap, Count: e.count, Tied: e.tied, Palm: e.from.Muted(w.part)}
	if w.literal() {
		m.Written = e.from
	}
	if w.picked(e.from) {
		m.Pace = e.pace
	}
	return m
}

// picked tells whether an event takes a stroke of the pick: on the easier
// rungs everything does, since ornaments become picked notes.
func (w *work) picked(e *song.Event) bool { return !w.literal() || hand.Picked(e) }

// mainEvents tells, for each event, whether it is one that a thickened version
// makes big: all, or with Accents the first and the longest of each bar, what
// is accented, and chords.
func (w *work) mainEvents() []bool {
	main := make([]bool, len(w.events))
	for first := 0; first < len(w.events); {
		end := first
		longest, sounding := -1, -1
		for ; end < len(w.events) && w.events[end].bar == w.events[first].bar; end++ {
			e := &w.events[end]
			main[end] = w.way.Thicken != Accents || e.from.Accent || e.from.Kind == song.Chord
			if e.from.Dead() {
				continue
			}
			if sounding < 0 {
				sounding = end
			}
			if longest < 0 || w.events[longest].length.Less(e.length) {
				longest = end
			}
		}
		if sounding >= 0 {
			main[sounding], main[longest] = true, true
		}
		first = end
	}
	return main
}

// movePhrases is by how many octaves each event moves so that it lies on the
// neck: whole phrases move, never a note alone. A phrase ends with its line and
// where a beat of silence follows.
func (w *work) movePhrases() []int8 {
	moved := make([]int8, len(w.events))
	low, high := w.compass()
	low, high = low-pitch.Pitch(12*w.whole), high-pitch.Pitch(12*w.whole)
	beat := w.part.Meter.Beat().Float()
	for first := 0; first < len(w.events); {
		end := first
		lowest, highest := pitch.Pitch(math.MaxInt32), pitch.Pitch(math.MinInt32)
		for ; end < len(w.events); end++ {
			e := &w.events[end]
			if end > first && (e.line != w.events[end-1].line ||
				e.place-w.events[end-1].place-w.events[end-1].length.Float() >= beat-1e-9) {
				break
			}
			if !e.from.Dead() {
				p, q := w.span(&w.contents[e.content].harmony)
				lowest, highest = min(lowest, p), max(highest, q)
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

// compass is the lowest and the highest note of the neck.
func (a *Arranger) compass() (low, high pitch.Pitch) {
	low, high = a.tuning.Open(6), a.tuning.Open(1)
	for s := neck.String(1); s <= neck.Strings; s++ {
		low, high = min(low, a.tuning.Open(s)), max(high, a.tuning.Open(s))
	}
	return low, high + pitch.Pitch(a.neck.LastFret())
}

// span is what an event needs to have on the neck.
func (w *work) span(h *harmony) (low, high pitch.Pitch) {
	if w.literal() && len(h.pitches) > 0 {
		return h.pitches[0], h.pitches[len(h.pitches)-1]
	}
	if w.rung == OneFinger || w.rung == Octave {
		return h.bass, h.bass
	}
	return h.root, h.root
}
