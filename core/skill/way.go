package skill

import (
	"cmp"
	"maps"
	"slices"
)

// Song is a song on a shelf: what it asks for on the rungs on which it is learnt, the fullest
// first, of which there is one at least.
type Song struct {
	ID    int64
	Grade float64 // as written, 1 to 10
	On    [][]Need
}

// Nearest is the rung on which a song is nearest to somebody, the fullest of several that are, and
// how near.
func (h *Has) Nearest(s *Song) (on int, ready Ready, missing []Need) {
	for i, needs := range s.On {
		r, m := h.Compare(needs)
		if i == 0 || slices.Index(ways, r) < slices.Index(ways, ready) {
			on, ready, missing = i, r, m
		}
		if ready == Now {
			break
		}
	}
	return on, ready, missing
}

// ways are how far away songs are, the nearest first.
var ways = []Ready{Now, First, Later}

// Stop is a song on the way to another.
type Stop struct {
	Song    int // index into the shelf
	On      int // the rung on which it is learnt, an index into Song.On
	Teaches []Need
}

// searched is how many songs are tried at each stop of a way; a shelf has that many which lead
// nearer, and all of them are hardly ever needed.
const searched = 24

// longestWay is how many songs a way has at most before the wish.
const longestWay = 6

// Way finds the shortest way of songs from a shelf to a wish, an index into it: each is ready or
// one thing away once those before it are learnt, and teaches something that is missing further on.
// The wish itself is the last stop; ok is false where no way of so few songs leads there. Of ways
// of the same length the easiest songs are taken. Shortest is meant among the songs that teach
// what the wish or a song that leads to it lacks, the easiest of them at each stop.
func (h *Has) Way(shelf []Song, wish int) (way []Stop, ok bool) {
	w := wayfinder{shelf: shelf, wish: wish}
	for most := 0; most <= longestWay; most++ {
		w.tries = mostTries
		if way, ok = w.within(*h, most, nil); ok {
			return way, true
		}
	}
	return nil, false
}

// mostTries is how many songs are compared for a way of one length.
const mostTries = 20_000

type wayfinder struct {
	shelf []Song
	wish  int
	tries int
}

// within finds a way of at most so many songs before the wish.
func (w *wayfinder) within(has Has, most int, before []Stop) ([]Stop, bool) {
	if on, ready, missing := has.Nearest(&w.shelf[w.wish]); ready != Later {
		return append(slices.Clone(before), Stop{w.wish, on, missing}), true
	}
	if most == 0 {
		return nil, false
	}
	for _, s := range w.nexts(&has, before) {
		if w.tries--; w.tries < 0 {
			return nil, false
		}
		after := has.after(w.shelf[s.Song].On[s.On])
		if way, ok := w.within(after, most-1, append(slices.Clone(before), s)); ok {
			return way, true
		}
	}
	return nil, false
}

// after is somebody once they have learnt something.
func (h *Has) after(needs []Need) Has {
	is := *h
	is.Learnt = maps.Clone(h.Learnt)
	is.With(needs)
	return is
}

// nexts are the songs that can be learnt next and lead nearer, the most useful first.
func (w *wayfinder) nexts(has *Has, before []Stop) (list []Stop) {
	wanted := w.wanted(has)
	type option struct {
		Stop
		of    int // of what is wanted
		grade float64
	}
	var options []option
	for i := range w.shelf {
		if i == w.wish || slices.ContainsFunc(before, func(s Stop) bool { return s.Song == i }) {
			continue
		}
		for on, needs := range w.shelf[i].On {
			ready, missing := has.Compare(needs)
			if ready == Later {
				continue
			}
			teaches := slices.DeleteFunc(slices.Clone(missing), func(n Need) bool { return !wanted[n.ID] })
			of := len(teaches)
			for k := range needs { // a pace or a reach that is shown carries further
				if n := &needs[k]; n.Level > 0 && wanted[n.ID] && n.Level > has.shown(n.Kind) && !slices.ContainsFunc(teaches, func(t Need) bool { return t.ID == n.ID }) {
					teaches = append(teaches, *n)
					of++
				}
			}
			if of > 0 {
				options = append(options, option{Stop{i, on, teaches}, of, w.shelf[i].Grade})
				break
			}
		}
	}
	slices.SortStableFunc(options, func(a, b option) int { return cmp.Or(b.of-a.of, cmp.Compare(a.grade, b.grade)) })
	for _, o := range options[:min(len(options), searched)] {
		list = append(list, o.Stop)
	}
	return list
}

// shown is the pace or the reach that somebody has shown.
func (h *Has) shown(k Kind) float64 {
	if k == Pace {
		return max(h.Pace, h.Player.Pace()*paceLeeway)
	}
	return max(h.Reach, h.Player.Usual().Reach)
}

// wanted is what is missing of the wish, and of songs that would teach it and are too far
// themselves, and so on.
func (w *wayfinder) wanted(has *Has) map[ID]bool {
	wanted := map[ID]bool{}
	lacks := make([][]Need, len(w.shelf))
	for i := range w.shelf {
		_, lacks[i] = has.Compare(w.shelf[i].On[0])
	}
	in := make([]bool, len(w.shelf))
	take := func(i int) {
		in[i] = true
		for _, n := range lacks[i] {
			wanted[n.ID] = true
		}
	}
	take(w.wish)
	for grown := true; grown; {
		grown = false
		for i := range lacks {
			if !in[i] && slices.ContainsFunc(lacks[i], func(n Need) bool { return wanted[n.ID] }) {
				take(i)
				grown = true
			}
		}
	}
	return wanted
}

// Placed is a song of a series, and how far away it is for somebody.
type Placed struct {
	Song    int // index into the songs
	On      int
	Ready   Ready
	Missing []Need
}

// Series puts songs that share a skill in the order in which somebody learns them: those that are
// ready from easy to hard, then those that are one thing away, then the others, what lacks least
// first.
func (h *Has) Series(songs []Song) []Placed {
	list := make([]Placed, len(songs))
	for i := range songs {
		on, ready, missing := h.Nearest(&songs[i])
		list[i] = Placed{i, on, ready, missing}
	}
	slices.SortStableFunc(list, func(a, b Placed) int {
		far := func(p *Placed) int {
			if p.Ready == Later {
				return len(p.Missing)
			}
			return 0
		}
		return cmp.Or(slices.Index(ways, a.Ready)-slices.Index(ways, b.Ready), far(&a)-far(&b), cmp.Compare(songs[a.Song].Grade, songs[b.Song].Grade))
	})
	return list
}
