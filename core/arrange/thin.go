package arrange

import (
	"slices"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// thinned is the score with a rhythm that the player can pick. Where the strokes
// of a beat come faster than is comfortable over the whole of it, what stands
// between its beats goes, the finest subdivision first and all of it in that
// beat, so that what remains is even and a bar and its repeat keep one rhythm:
// dead strokes, repeated notes, passing notes, then turns of the line. Beats,
// accents and changes of chord stay, however fast. What stays sounds on over
// what is left out.
func (s *score) thinned(set setup) *score {
	const leeway = 1.03
	pace := set.at.Pace() * leeway
	beat := s.part.Meter.Beat()
	if beat.Less(pitch.F(1, 4)) {
		beat = pitch.F(1, 4)
	}
	seconds := s.clock.Seconds(beat.Float())
	may := s.mayGoAlike()
	gone := make([]bool, len(s.events))
	any := false
	for first := 0; first < len(s.events); {
		// The strokes of one beat, in the bar.
		place := s.events[first].from.Start.Div(beat).Floor()
		end := first
		for end < len(s.events) && s.events[end].bar == s.events[first].bar && s.events[end].from.Start.Div(beat).Floor() == place {
			end++
		}
		for n := end - first; float64(n)/seconds > pace; {
			fewer := s.thinBeat(first, end, beat, may, gone)
			if fewer == n {
				break
			}
			n, any = fewer, true
		}
		first = end
	}
	if !any {
		return s
	}
	t := s.without(gone)
	t.strike(set.at.Picking)
	return t
}

// certain is the score without what not everybody plays, unless nothing would be left.
func (s *score) certain(set setup) *score {
	gone := make([]bool, len(s.events))
	optional := 0
	for i := range s.events {
		if gone[i] = s.events[i].from.Optional; gone[i] {
			optional++
		}
	}
	if optional == 0 || optional == len(s.events) {
		return s
	}
	t := s.without(gone)
	t.strike(set.at.Picking)
	return t
}

// thinBeat leaves out the finest subdivision of a beat that may go and returns
// how many strokes remain.
func (s *score) thinBeat(first, end int, beat pitch.Frac, may, gone []bool) int {
	finest := int64(1)
	in := func(i int) pitch.Frac {
		at := s.events[i].from.Start.Div(beat)
		return at.Sub(pitch.Whole(at.Floor()))
	}
	for i := first; i < end; i++ {
		if !gone[i] && may[i] {
			finest = max(finest, in(i).Den())
		}
	}
	left := 0
	for i := first; i < end; i++ {
		if !gone[i] && finest > 1 && may[i] && in(i).Den() == finest {
			gone[i] = true
		}
		if !gone[i] {
			left++
		}
	}
	return left
}

// mayGoAlike tells of every event whether thinning may leave it out, in its bar and
// in every one that is written alike: what is new at the beginning of a bar the first
// time stays in all of them.
func (s *score) mayGoAlike() []bool {
	may := make([]bool, len(s.events))
	begins := make([]int, len(s.same)) // by bar: its first event
	for i := len(s.events) - 1; i >= 0; i-- {
		begins[s.events[i].bar] = i
		may[i] = s.mayGo(i)
	}
	twin := func(i int) int { // the same event of the first bar that is alike
		bar := s.events[i].bar
		t := begins[s.same[bar]] + i - begins[bar]
		if t >= len(s.events) || s.events[t].bar != s.same[bar] || s.events[t].from.Start != s.events[i].from.Start {
			return i
		}
		return t
	}
	for i := range may {
		may[twin(i)] = may[twin(i)] && may[i]
	}
	for i := range may {
		may[i] = may[twin(i)]
	}
	return may
}

// mayGo tells whether thinning may leave out an event: it is not on a beat, not
// accented, and no chord changes there.
func (s *score) mayGo(i int) bool {
	e := &s.events[i]
	if e.count.Num() == 0 || e.from.Accent {
		return false
	}
	if e.from.Dead() {
		return true
	}
	back := s.sounding(i, -1)
	if back < 0 {
		return false
	}
	h := s.contents[e.content].harmony
	return s.contents[s.events[back].content].harmony.same(h) || e.from.Kind != song.Chord && !h.chord
}

// what says what kind of event is left out.
func (s *score) what(i int) DroppedKind {
	if s.events[i].from.Optional {
		return OptionalNote
	}
	if s.events[i].from.Dead() {
		return DeadStroke
	}
	h := s.contents[s.events[i].content].harmony
	back, ahead := s.sounding(i, -1), s.sounding(i, 1)
	if back >= 0 && s.contents[s.events[back].content].harmony.same(h) {
		return RepeatedNote
	}
	if back >= 0 && ahead >= 0 {
		a, b, c := s.contents[s.events[back].content].harmony.root, h.root, s.contents[s.events[ahead].content].harmony.root
		if a <= b && b <= c || a >= b && b >= c {
			return PassingNote
		}
	}
	return TurnOfLine
}

// sounding is the nearest event with a pitch before or after event i, −1 where
// there is none.
func (s *score) sounding(i, step int) int {
	for i += step; i >= 0 && i < len(s.events); i += step {
		if !s.events[i].from.Dead() {
			return i
		}
	}
	return -1
}

// without is a copy of the score that leaves some events out.
func (s *score) without(gone []bool) *score {
	t := *s
	t.events = make([]event, 0, len(s.events))
	t.lines = slices.Clone(s.lines)
	t.dropped = map[int][]Dropped{}
	for bar, list := range s.dropped {
		t.dropped[bar] = slices.Clone(list)
	}
	for l := range t.lines {
		t.lines[l].start = len(t.events)
		for i := s.lines[l].start; i < s.lines[l].end; i++ {
			e := s.events[i]
			if !gone[i] {
				t.events = append(t.events, e)
				continue
			}
			t.dropped[e.bar] = append(t.dropped[e.bar], Dropped{Start: e.from.Start, Beat: e.beat, What: s.what(i)})
			if last := len(t.events) - 1; last >= 0 {
				kept := &t.events[last]
				if kept.place+kept.length.Float() >= e.place-1e-9 && !kept.from.Short {
					end := e.from.Start.Add(e.length).Add(s.origin(e.bar)).Sub(s.origin(kept.bar))
					kept.length = end.Sub(kept.from.Start)
				}
			}
		}
		t.lines[l].end = len(t.events)
	}
	t.time()
	return &t
}
