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

// nearest is the rung on which a song is nearest to somebody, the fullest of several that are, and
// how many things are missing there.
func (h *Has) nearest(s *Song) (on, things int, missing []Need) {
	for i, needs := range s.On {
		n, m := h.Things(needs)
		if i == 0 || n < things {
			on, things, missing = i, n, m
		}
	}
	return on, things, missing
}

// Stop is a song on the way to another, or that itself.
type Stop struct {
	Song   int    // index into the shelf
	On     int    // the rung on which it is learnt, an index into Song.On
	Things int    // how many are new in it
	New    []Need // what they are
}

// largestStep is how many new things a song on a way has at most: more at once is no step.
const largestStep = 4

// Way finds a way of songs from a shelf to a wish, an index into it. Its largest step, the most new
// things in any one song, and the number of its songs are both to be small: a thing less in the
// largest step is worth two songs more. Every song teaches something that is missing further on;
// the wish is the last stop, and the only one where no song is worth it.
//
// Whoever has learnt more is never farther away from anything: so all songs that are near enough
// can be learnt at once to see whether the wish is reached, how many songs it takes at least, and
// which of them can be left out again.
func (h *Has) Way(shelf []Song, wish int) []Stop {
	w := wayfinder{shelf: shelf, wish: wish}
	w.find(h)
	on, things, missing := h.nearest(&shelf[wish])
	best, cost := []Stop{{wish, on, things, missing}}, wayCost(things, 0)
	for w.step = 1; w.step <= largestStep && w.step < things; w.step++ {
		if way, ok := w.way(h); ok && wayCost(w.step, len(way)-1) < cost {
			best, cost = way, wayCost(w.step, len(way)-1)
		}
	}
	return best
}

// wayCost is what a way with a largest step and so many songs before the wish costs.
func wayCost(step, songs int) int { return 2*step + songs }

// wayfinder looks for a way of steps of a size.
type wayfinder struct {
	shelf  []Song
	wish   int
	step   int         // new things in a song, at most
	wanted map[ID]bool // what is missing of the wish, and of songs that would teach it
	tries  int         // songs that may still be compared
}

// find finds what is wanted: what is missing of the wish, and of songs that would teach it, and so
// on.
func (w *wayfinder) find(h *Has) {
	w.wanted = map[ID]bool{}
	lacks := make([][]Need, len(w.shelf))
	for i := range w.shelf {
		for _, needs := range w.shelf[i].On {
			_, missing := h.Things(needs)
			lacks[i] = append(lacks[i], missing...)
		}
	}
	in := make([]bool, len(w.shelf))
	take := func(i int) {
		in[i] = true
		for _, n := range lacks[i] {
			w.wanted[n.ID] = true
		}
	}
	take(w.wish)
	for grown := true; grown; {
		grown = false
		for i := range lacks {
			if !in[i] && slices.ContainsFunc(lacks[i], func(n Need) bool { return w.wanted[n.ID] }) {
				take(i)
				grown = true
			}
		}
	}
}

// way is a way of steps of the size, where there is one.
func (w *wayfinder) way(h *Has) (way []Stop, ok bool) {
	songs, least, ok := w.all(h)
	if !ok {
		return nil, false
	}
	for i := len(songs) - 1; i >= 0; i-- { // the last ones were hardly needed
		if without := slices.Delete(slices.Clone(songs), i, i+1); w.walk(h, without) != nil {
			songs = without
		}
	}
	const mostTries = 60_000
	w.tries = mostTries
	for ; least < len(songs); least++ { // there may be a shorter one
		if shorter := w.search(h, least, nil); shorter != nil {
			songs = shorter
		}
	}
	return w.walk(h, songs), true
}

// all learns whatever is near enough and teaches something that is wanted, until the wish is near
// enough: it takes at least so many songs.
func (w *wayfinder) all(h *Has) (songs []int, least int, ok bool) {
	has := *h
	left := make([]int, 0, len(w.shelf))
	for i := range w.shelf {
		if i != w.wish {
			left = append(left, i)
		}
	}
	slices.SortStableFunc(left, func(a, b int) int { return cmp.Compare(w.shelf[a].Grade, w.shelf[b].Grade) })
	for ; ; least++ {
		if _, things, _ := has.nearest(&w.shelf[w.wish]); things <= w.step {
			return songs, least, true
		}
		after, before := has.after(nil), len(songs)
		left = slices.DeleteFunc(left, func(i int) bool {
			on, things, _ := has.nearest(&w.shelf[i])
			if things > w.step || !w.teaches(&after, w.shelf[i].On[on]) {
				return false
			}
			after.With(w.shelf[i].On[on])
			songs = append(songs, i)
			return true
		})
		if len(songs) == before {
			return nil, 0, false
		}
		has = after
	}
}

// teaches tells whether something has anything that is wanted and that somebody lacks.
func (w *wayfinder) teaches(h *Has, needs []Need) bool {
	return slices.ContainsFunc(needs, func(n Need) bool {
		if !w.wanted[n.ID] {
			return false
		}
		switch n.Kind {
		case Pace:
			return n.Level > max(h.Pace, h.Player.Pace()*paceLeeway)
		case Reach:
			return n.Level > max(h.Reach, h.Player.Usual().Reach)
		}
		return !h.Learnt[n.ID] && !h.Of(&n)
	})
}

// walk goes a way of some songs to the wish, each after those before it; nil where it cannot be
// gone.
func (w *wayfinder) walk(h *Has, songs []int) (way []Stop) {
	has := h.after(nil)
	for _, i := range append(slices.Clone(songs), w.wish) {
		on, things, missing := has.nearest(&w.shelf[i])
		if things > w.step {
			return nil
		}
		way = append(way, Stop{i, on, things, missing})
		has.With(w.shelf[i].On[on])
	}
	return way
}

// search finds a way of so many songs before the wish that begins with some; nil where there is
// none, or where it takes too long to tell.
func (w *wayfinder) search(h *Has, most int, songs []int) []int {
	if _, things, _ := h.nearest(&w.shelf[w.wish]); things <= w.step {
		return append([]int{}, songs...)
	}
	if most == len(songs) {
		return nil
	}
	for i := range w.shelf {
		if i == w.wish || slices.Contains(songs, i) {
			continue
		}
		if w.tries--; w.tries < 0 {
			return nil
		}
		on, things, _ := h.nearest(&w.shelf[i])
		if things > w.step || !w.teaches(h, w.shelf[i].On[on]) {
			continue
		}
		after := h.after(w.shelf[i].On[on])
		if found := w.search(&after, most, append(slices.Clone(songs), i)); found != nil {
			return found
		}
	}
	return nil
}

// after is somebody once they have learnt something.
func (h *Has) after(needs []Need) Has {
	is := *h
	is.Learnt = maps.Clone(h.Learnt)
	is.With(needs)
	return is
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
	list, far := make([]Placed, len(songs)), make([]int, len(songs))
	for i := range songs {
		on, things, _ := h.nearest(&songs[i])
		ready, missing := h.Compare(songs[i].On[on])
		list[i], far[i] = Placed{i, on, ready, missing}, things
	}
	slices.SortStableFunc(list, func(a, b Placed) int {
		return cmp.Or(far[a.Song]-far[b.Song], cmp.Compare(songs[a.Song].Grade, songs[b.Song].Grade))
	})
	return list
}
