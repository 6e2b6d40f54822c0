package arrange

import (
	"slices"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Dropped is an event that thinning has left out of a version.
type Dropped struct {
	Beat string // the count syllable
	// What was left out: a repeated note, a passing note, a turn of the line or
	// a dead stroke.
	What string
}

// thinned is the score with a rhythm that the player can pick: where strokes
// follow one another faster than is comfortable, what stands between the beats
// goes, repeated notes and dead strokes first, then passing notes, then turns
// of the line; within each, the smallest subdivision first. Beats, accents and
// changes of chord stay, however fast. What stays sounds on over what is left
// out. The score itself is not changed, and remembers it.
func (w *work) thinned() *score {
	if w.score.thin == nil {
		w.score.thin = w.thin()
	}
	return w.score.thin
}

func (w *work) thin() *score {
	least := 0.97 / w.options.Player.NotesPerSecond
	if !slices.ContainsFunc(w.events, func(e event) bool { return e.gap > 0 && e.gap < least }) {
		return w.score
	}
	worth := make([]int, len(w.events))
	what := make([]string, len(w.events))
	for i := range w.events {
		worth[i], what[i] = w.worth(i)
	}
	next, before := chain(len(w.events))
	gone := make([]bool, len(w.events))
	for level := range keep {
		for i := range w.events {
			if worth[i] != level {
				continue
			}
			quick := before[i] >= 0 && w.events[i].at-w.events[before[i]].at < least ||
				next[i] < len(w.events) && w.events[next[i]].at-w.events[i].at < least
			if !quick || before[i] < 0 {
				continue // the first note of a part stays
			}
			gone[i] = true
			next[before[i]] = next[i]
			if next[i] < len(w.events) {
				before[next[i]] = before[i]
			}
		}
	}
	t := w.without(gone, what)
	t.strike(w.options.Player.Picking)
	return t
}

// chain links each of n items to the one before and the one after it.
func chain(n int) (next, before []int) {
	next, before = make([]int, n), make([]int, n)
	for i := range n {
		next[i], before[i] = i+1, i-1
	}
	return next, before
}

// keep is the worth of what is never left out; below it three kinds of events
// have four subdivisions each.
const keep = 12

// worth ranks event i among those that thinning may leave out.
func (w *work) worth(i int) (int, string) {
	e := &w.events[i]
	on := e.count.Num() == 0
	kind, what := 2, "turn of the line"
	switch h, back := w.contents[e.content].harmony, w.sounding(i, -1); {
	case on || e.from.Accent:
		return keep, ""
	case e.from.Dead():
		kind, what = 0, "dead stroke"
	case back < 0:
		return keep, ""
	case w.contents[w.events[back].content].harmony.same(h):
		kind, what = 0, "repeated note"
	case e.from.Kind == song.Chord || h.chord:
		return keep, "" // the chord changes here
	default:
		if ahead := w.sounding(i, 1); ahead >= 0 {
			a, b, c := w.contents[w.events[back].content].harmony.root, h.root, w.contents[w.events[ahead].content].harmony.root
			if a <= b && b <= c || a >= b && b >= c {
				kind, what = 1, "passing note"
			}
		}
	}
	fine := 0
	switch den := e.count.Den(); {
	case den <= 2:
		fine = 3
	case den <= 3:
		fine = 2
	case den <= 4:
		fine = 1
	}
	return kind*4 + fine, what
}

// sounding is the nearest event with a pitch before or after event i, −1 where
// there is none.
func (w *work) sounding(i, step int) int {
	for i += step; i >= 0 && i < len(w.events); i += step {
		if !w.events[i].from.Dead() {
			return i
		}
	}
	return -1
}

// same tells whether two events mean the same notes.
func (h harmony) same(g harmony) bool {
	return h.root == g.root && h.bass == g.bass && h.fifth == g.fifth && slices.Equal(h.pitches, g.pitches)
}

// without is a copy of the score that leaves some events out.
func (s *score) without(gone []bool, what []string) *score {
	t := *s
	t.events = make([]event, 0, len(s.events))
	t.lines = slices.Clone(s.lines)
	t.dropped = map[int][]Dropped{}
	for l := range t.lines {
		t.lines[l].start = len(t.events)
		for i := s.lines[l].start; i < s.lines[l].end; i++ {
			e := s.events[i]
			if !gone[i] {
				t.events = append(t.events, e)
				continue
			}
			t.dropped[e.bar] = append(t.dropped[e.bar], Dropped{Beat: e.beat, What: what[i]})
			if last := len(t.events) - 1; last >= 0 {
				kept := &t.events[last]
				if kept.place+kept.length.Float() >= e.place-1e-9 && !kept.from.Short {
					end := e.from.Start.Add(e.length).Add(s.part.Meter.Bar().Mul(pitch.Whole(int64(e.bar - kept.bar))))
					kept.length = end.Sub(kept.from.Start)
				}
			}
		}
		t.lines[l].end = len(t.events)
	}
	t.time()
	return &t
}
