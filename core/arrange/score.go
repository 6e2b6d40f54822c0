package arrange

import (
	"math"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/path"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// setup is what versions are made for, the same for all parts of a song.
type setup struct {
	song    *song.Song // in the pitches of which the names of its chords speak
	heard   *song.Song // the same in those that sound
	lift    song.Lift
	written neck.Instrument // the song's own
	in      neck.Instrument // the one that is played
	at      hand.At
	options Options
	bench   *bench
}

// bench is where versions are found, one after the other, in the same memory.
type bench struct {
	graph   path.Graph
	nodes   map[node]int
	ways    []passage
	weights map[passage]float64
	changes map[[2]int][]uint16 // as changes has them
	zeros   []float64
}

// clear makes room for the next version, of so many events.
func (b *bench) clear(events int) {
	b.graph.Reset()
	b.ways = b.ways[:0]
	if b.nodes == nil {
		b.nodes, b.weights = make(map[node]int, events), make(map[passage]float64, events)
	}
	clear(b.nodes)
	clear(b.weights)
	b.graph.Room(events)
}

// rewrites tells whether the part is placed anew: in another tuning, or for the first
// time.
func (set *setup) rewrites() bool { return set.options.Tuning != nil || set.options.Unplaced }

// tempo is the tempo of a part: parts with a tempo of their own keep their
// relation to the song's.
func (set *setup) tempo(p *song.Part) float64 {
	if set.options.Tempo > 0 {
		return p.Tempo * set.options.Tempo / set.song.Tempo
	}
	return p.Tempo
}

// score is what is played in a part: its events with their times, and how the
// part goes on. It is made by one stage and read by the next.
type score struct {
	index    int // of the part
	part     *song.Part
	bars     []song.Bar
	measures []song.Measure // by bar
	begins   []pitch.Frac   // by bar: where it begins, whole notes from the start of the part; and where the last one ends
	bent     []float64      // by bar, and for the end: seconds beside those notes
	clock    song.Clock
	contents []content
	events   []event
	lines    []span
	ways     seams
	same     []int             // by bar: the first bar that is written alike
	of       []stretchOf       // by bar: what it stands for
	held     []heldShape       // shapes whose notes are picked one by one
	dropped  map[int][]Dropped // by bar
	gallops  int
	open     bool             // some note is an open string
	strokes  [2][]song.Stroke // of the events: with ornaments as written, and all picked
}

// content is what events that sound alike have in common.
type content struct {
	from    *song.Event // one of them
	harmony harmony
	names   spelling
	heard   spelling   // of what sounds
	picked  neck.Frets // the shape whose notes were picked, where they are struck at once
}

// contentKey tells contents apart.
type contentKey struct {
	kind   song.Kind
	notes  [neck.Strings]song.Note
	chord  string
	frets  neck.Frets
	given  [neck.Strings]song.Finger
	shaken bool // vibrato
	figure bool // a moving note over a bass that stays
	tune   voice
	run    pitch.Pitch
}

// event is something that sounds, in its time.
type event struct {
	from    *song.Event
	content int
	bar     int
	slot    int // which one of its bar
	cell    int // the slot of the same event of a cell that it repeats; its own slot where it repeats none
	line    int // index of the written line
	place   float64
	at      float64 // seconds from the start of the part
	before  int     // the last event before that sounds a pitch, −1 for none
	gap     float64 // seconds since it, 0 where there is none
	pace    float64 // mean seconds from stroke to stroke, over a beat at least
	length  pitch.Frac
	beats   pitch.Frac // from the start of the bar
	count   pitch.Frac // place in the beat
	tied    bool
	beat    string // the count syllable
	held    int    // index of its held shape, −1 for none
	keeps   bool   // stays on the string where it is written
}

// span is a written line: events from start to before end, played times times.
// First and last are those that sound a pitch, −1 where none does; back is the
// time in seconds from the last to the first.
type span struct {
	start, end, times int
	first, last       int
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

// reader makes a score.
type reader struct {
	set   setup
	known map[contentKey]int
	*score
}

// readScore lists what is played in a part.
func readScore(set setup, index int) *score {
	p := &set.song.Parts[index]
	r := reader{set: set, known: map[contentKey]int{}, score: &score{index: index, part: p, clock: p.Clock(set.tempo(p))}}
	r.bars, r.of, r.events = room(p)
	r.begins = append(make([]pitch.Frac, 0, cap(r.bars)+1), pitch.Whole(0))
	r.bent = append(make([]float64, 0, cap(r.bars)+1), 0)
	voices := voicesOf(p, set.written.Open())
	holds := holding(p)
	for l := range p.Lines {
		first := len(r.events)
		for i := range p.Lines[l].Bars {
			b := len(r.bars)
			r.bars = append(r.bars, p.Lines[l].Bars[i])
			r.of = append(r.of, stretchOf{bar: b, from: 1, to: p.Lines[l].Times})
			r.measures = append(r.measures, p.Measure(&r.bars[b]))
			r.begins = append(r.begins, r.begins[b].Add(r.measures[b].Length()))
			r.bent = append(r.bent, r.bent[b]+r.clock.Bent(r.measures[b]))
			origin := r.origin(b).Float()
			events := r.bars[b].Events
			moving, runs := figures(events), tappedRuns(events, set.written)
			slot := 0
			for j := range events {
				e := holds.of(&events[j])
				if !e.Sounds() {
					continue
				}
				for _, n := range e.Notes {
					r.open = r.open || n.Fret == 0 && !n.Dead
				}
				r.events = append(r.events, event{from: e, bar: b, slot: slot, line: l, content: r.contentOf(e, moving[j], runs[j], voices),
					place: origin + e.Start.Float(), length: e.Length, held: -1})
				slot++
			}
		}
		r.lines = append(r.lines, span{start: first, end: len(r.events), times: p.Lines[l].Times})
	}
	s := r.score
	s.same = sameBars(s.bars)
	s.time()
	s.ways = r.seamsOf(index)
	s.strike(set.at.Picking)
	s.hold(set)
	s.pedals()
	return s
}

// room makes room for the bars of a part and for what sounds in them.
func room(p *song.Part) ([]song.Bar, []stretchOf, []event) {
	bars, events := 0, 0
	for l := range p.Lines {
		bars += len(p.Lines[l].Bars)
		for b := range p.Lines[l].Bars {
			events += len(p.Lines[l].Bars[b].Events)
		}
	}
	return make([]song.Bar, 0, bars), make([]stretchOf, 0, bars), make([]event, 0, events)
}

// origin is where a bar would begin if it were whole, in whole notes from the start
// of the part.
func (s *score) origin(bar int) pitch.Frac { return s.begins[bar].Sub(s.measures[bar].Lead) }

// moment is when a bar begins, in seconds from the start of the part.
func (s *score) moment(bar int) float64 { return s.clock.Seconds(s.begins[bar].Float()) + s.bent[bar] }

// contentOf finds or adds the content of an event.
func (r *reader) contentOf(e *song.Event, figure bool, run pitch.Pitch, tune voice) int {
	if !pair(e) {
		figure, tune = false, rootVoice
	}
	key := contentKey{kind: e.Kind, chord: e.Chord.Symbol, frets: e.Frets, given: e.Fingers, shaken: e.Vibrato, figure: figure, tune: tune, run: run}
	copy(key.notes[:], e.Notes)
	if e.Kind != song.Chord {
		key.frets = neck.NoFrets
	}
	if i, ok := r.known[key]; ok {
		return i
	}
	c := content{from: e}
	if !e.Dead() {
		c.harmony = harmonyOf(e, r.set.written, key.figure, run, tune)
		c.names, c.heard = r.set.namesOf(r.index, e, c.harmony)
	}
	r.known[key] = len(r.contents)
	r.contents = append(r.contents, c)
	return r.known[key]
}

// sameBars finds for each bar the first that is written alike: the same events
// at the same times with the same marks.
func sameBars(bars []song.Bar) []int {
	same := make([]int, len(bars))
	known := map[uint64][]int{} // by what a bar begins with
	for b := range bars {
		key := uint64(len(bars[b].Events))
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			key = key*31 + uint64(e.Start.Num()<<8+e.Start.Den()) + uint64(e.Kind)
			for _, n := range e.Notes {
				key = key*31 + uint64(n.Fret)<<3 + uint64(n.String)
			}
			for _, c := range e.Chord.Symbol {
				key = key*31 + uint64(c)
			}
		}
		same[b] = b
		for _, a := range known[key] {
			if bars[a].Meter == bars[b].Meter && bars[a].Lead == bars[b].Lead && slices.EqualFunc(bars[a].Events, bars[b].Events, sameEvent) {
				same[b] = a
				break
			}
		}
		if same[b] == b {
			known[key] = append(known[key], b)
		}
	}
	return same
}

func sameEvent(a, b song.Event) bool {
	return a.Start == b.Start && a.Length == b.Length && a.Kind == b.Kind && a.Chord.Symbol == b.Chord.Symbol &&
		(a.Kind != song.Chord || a.Frets == b.Frets && a.Fingers == b.Fingers) && a.Marks == b.Marks && slices.Equal(a.Notes, b.Notes)
}

// time works out when everything happens.
func (s *score) time() {
	oneBeat := s.clock.Seconds(max(s.part.Meter.Beat().Float(), 0.25))
	first, before := 0, -1
	for i := range s.events {
		e := &s.events[i]
		m := s.measures[e.bar]
		beat := m.Meter.Beat()
		e.at = s.moment(e.bar) + s.clock.In(m, e.from.Start)
		e.before, e.gap = before, 0
		if before >= 0 {
			e.gap = nano(e.at - s.events[before].at)
		}
		if !e.from.Dead() {
			before = i // a dead stroke leaves the hand where it is
		}
		// The strokes since a beat ago at least: the short half of a swung
		// beat and the two quick strokes of a gallop are no run.
		for first+1 < i && e.at-s.events[first+1].at >= oneBeat-1e-9 {
			first++
		}
		e.pace = 0
		if i > 0 {
			e.pace = nano(max(e.at-s.events[first].at, min(oneBeat, e.at)) / float64(i-first))
		}
		e.beats = e.from.Start.Div(beat)
		e.count = e.beats.Sub(pitch.Whole(e.beats.Floor()))
		e.beat = m.Meter.Syllable(e.from.Start, "")
		next := pitch.Whole(e.beats.Floor() + 1)
		e.tied = e.count.Num() != 0 && next.Less(e.beats.Add(e.length.Div(beat)))
	}
	s.cells()
	bar := 0
	for l := range s.lines {
		line := &s.lines[l]
		end := bar + len(s.part.Lines[l].Bars)
		line.first, line.last = s.sounding(line.start-1, 1), s.sounding(line.end, -1)
		if line.first < 0 || line.first >= line.end {
			line.first, line.last = -1, -1
		} else {
			line.back = nano(s.moment(end) - s.moment(bar) - s.events[line.last].at + s.events[line.first].at)
		}
		bar = end
	}
}

// Cells are three or four notes that come again at once within a bar.
const (
	leastCell = 3
	mostCell  = 4
)

// cells finds the cells of every bar: events that are those so many before them, for at
// least as long as the cell is.
func (s *score) cells() {
	for first := 0; first < len(s.events); {
		end := first
		for ; end < len(s.events) && s.events[end].bar == s.events[first].bar; end++ {
			s.events[end].cell = s.events[end].slot
		}
		for length := leastCell; length <= mostCell; length++ {
			for i := first + length; i < end; {
				run := i
				for run < end && s.repeats(run, length) {
					run++
				}
				if run-i >= length {
					for j := i; j < run; j++ {
						s.events[j].cell = s.events[j-length].cell
					}
				}
				i = max(run, i+1)
			}
		}
		first = end
	}
}

// repeats tells whether an event is the one so many before it, as long and as far from
// its neighbour.
func (s *score) repeats(i, before int) bool {
	a, b := &s.events[i-before], &s.events[i]
	return a.content == b.content && a.from.Marks == b.from.Marks && a.keeps == b.keeps && a.length == b.length
}

// nano rounds seconds to billionths, so that what is equally long wherever it
// stands is equal.
func nano(seconds float64) float64 { return math.Round(seconds*1e9) / 1e9 }

// strike works out the strokes and counts the gallops.
func (s *score) strike(picking hand.Picking) {
	s.gallops = 0
	s.strokes = [2][]song.Stroke{}
	var moments []hand.Strike
	for first := 0; first < len(s.events); {
		end := first
		for end < len(s.events) && s.events[end].bar == s.events[first].bar {
			end++
		}
		for which := range s.strokes {
			moments = moments[:0]
			pulse := s.measures[s.events[first].bar].Meter.Pulse()
			for i := range s.events[first:end] {
				e := &s.events[first+i]
				moments = append(moments, hand.Strike{Beats: e.from.Start.Div(pulse), Picked: which == 1 || hand.Picked(e.from), Written: e.from.Stroke})
			}
			s.strokes[which] = append(s.strokes[which], hand.Strokes(moments, picking)...)
		}
		s.gallops += hand.Gallops(moments)
		first = end
	}
}

// total is how long the part lasts as it is written, in seconds.
func (s *score) total() float64 {
	return s.moment(len(s.bars))
}

// hasChords tells whether a part has chords by name.
func (s *score) hasChords() bool {
	return slices.ContainsFunc(s.events, func(e event) bool { return e.from.Kind == song.Chord })
}

// ends are the first and the last event that sounds a pitch, −1 where none does.
func (s *score) ends() (first, last int) {
	return s.sounding(-1, 1), s.sounding(len(s.events), -1)
}

// edges are the first and the last sounding event of a part, nil where there
// are none, and how many seconds they lie from its ends.
func edges(p *song.Part, clock song.Clock) (first, last *song.Event, lead, tail float64) {
	bars := p.Bars()
	begin, at := 0.0, 0.0
	for b := range bars {
		m := p.Measure(&bars[b])
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			if !e.Sounds() || e.Dead() {
				continue
			}
			at = begin + clock.In(m, e.Start)
			if first == nil {
				first, lead = e, at
			}
			last = e
		}
		begin += clock.Seconds(m.Length().Float()) + clock.Bent(m)
	}
	return first, last, lead, begin - at
}

// seamsOf reads the roadmap for the neighbours of a part.
func (r *reader) seamsOf(index int) seams {
	var w seams
	first, last := r.ends()
	if first < 0 {
		return w
	}
	start, end := r.events[first].at, r.total()-r.events[last].at
	w.back = start + end
	in, out := neighbours(r.set.song.Order, index)
	for _, n := range in {
		switch {
		case n.part == index:
			w.loop = n.share
		case n.part == nowhere:
			w.beginning += n.share
		default:
			p := &r.set.song.Parts[n.part]
			_, e, _, tail := edges(p, p.Clock(r.set.tempo(p)))
			if e == nil {
				w.beginning += n.share
				continue
			}
			w.in = append(w.in, seam{r.contentOf(e, false, 0, rootVoice), tail + start, n.share})
		}
	}
	for _, n := range out {
		p := &r.set.song.Parts[n.part]
		if e, _, lead, _ := edges(p, p.Clock(r.set.tempo(p))); e != nil {
			w.out = append(w.out, seam{r.contentOf(e, false, 0, rootVoice), end + lead, n.share})
		}
	}
	return w
}

// neighbour is a part from which a roadmap comes to another, or to which it goes from
// there, and its share of all ways in or out.
type neighbour struct {
	part  int // nowhere at the beginning of the song
	share float64
}

const nowhere = -1

// neighbours are the ways into a part and out of it, by the index of the neighbour. A
// part that comes after itself is a way in alone.
func neighbours(order []song.Leg, index int) (in, out []neighbour) {
	before, after := map[int]float64{}, map[int]float64{}
	last := nowhere
	ins, outs := 0.0, 0.0
	for _, leg := range order {
		for range leg.Times {
			if leg.Part == index {
				before[last]++
				ins++
			}
			if last == index {
				after[leg.Part]++
				outs++
			}
			last = leg.Part
		}
	}
	for _, other := range sorted(before) {
		in = append(in, neighbour{other, before[other] / ins})
	}
	if ins == 0 {
		in = []neighbour{{nowhere, 1}}
	}
	for _, other := range sorted(after) {
		if other != index {
			out = append(out, neighbour{other, after[other] / outs})
		}
	}
	return in, out
}

func sorted(m map[int]float64) []int {
	keys := make([]int, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// strummed is the score with every held shape struck once, as the chord that it
// spells, for as long as its notes are picked.
func (s *score) strummed(set setup) *score {
	t := *s
	t.events = make([]event, 0, len(s.events))
	t.contents = slices.Clone(s.contents)
	t.lines = slices.Clone(s.lines)
	t.held = nil
	for l := range t.lines {
		t.lines[l].start = len(t.events)
		for i := s.lines[l].start; i < s.lines[l].end; i++ {
			e := s.events[i]
			h := e.held
			e.held = -1
			if h < 0 {
				t.events = append(t.events, e)
				continue
			}
			shape := s.held[h]
			if i > s.lines[l].start && s.events[i-1].held == h {
				last := &t.events[len(t.events)-1]
				last.length = e.from.Start.Add(e.length).Add(s.origin(e.bar)).Sub(s.origin(last.bar)).Sub(last.from.Start)
				continue
			}
			symbol := shape.chord
			from := &song.Event{Start: e.from.Start, Length: e.length, Kind: song.Chord, Chord: symbol, Frets: neck.NoFrets,
				Line: e.from.Line, Column: e.from.Column}
			c := content{from: from, harmony: harmonyOf(from, set.written, false, 0, rootVoice), picked: shape.Frets}
			c.names, c.heard = set.namesOf(s.index, from, c.harmony)
			e.from, e.content = from, len(t.contents)
			for k := range t.contents { // the same chord is the same content
				if old := &t.contents[k]; k >= len(s.contents) && old.from.Chord.Symbol == symbol.Symbol && old.picked == shape.Frets {
					e.content = k
				}
			}
			if e.content == len(t.contents) {
				t.contents = append(t.contents, c)
			}
			t.events = append(t.events, e)
		}
		t.lines[l].end = len(t.events)
	}
	slot := 0
	for i := range t.events {
		if i > 0 && t.events[i].bar != t.events[i-1].bar {
			slot = 0
		}
		t.events[i].slot = slot
		slot++
	}
	t.time()
	t.strike(set.at.Picking)
	return &t
}

// chordOf names a shape whose notes are picked one by one, in a key.
func chordOf(in neck.Instrument, frets neck.Frets, key pitch.Key) (chord.Chord, bool) {
	set, bass := in.Classes(frets)
	for _, n := range chord.Names(set, bass, key) {
		if c, err := chord.Parse(n.Name); err == nil {
			return c, true
		}
	}
	return chord.Chord{}, false
}
