package hand

import "valleyside/core/neck"

// Fingerings lists every way in which a hand can stop a shape. A fingering is
// one of a hand where
//
//   - exactly the fretted strings have a finger, and a finger lies at one fret;
//   - a finger stops several strings only as a barre: no string between them
//     is open, silent or stopped below it;
//   - higher fingers lie at higher frets, and at one fret on thinner strings;
//   - the next finger is at most one place further than its fret (fingers that
//     are crowded on one fret lie side by side);
//   - the thumb, over the top, stops only the thickest string, beside other
//     fingers and within a fret of the index.
//
// The list is empty where a hand is not enough. Which of them a player can
// hold is what Playable tells.
func Fingerings(frets neck.Frets) []Fingering {
	e := enumeration{frets: frets}
	e.all(true)
	return fingeringsOf(e.found)
}

// Held is a fingering that a player can hold, with its Span.
type Held struct {
	Fingering
	Reach, Needed float64
}

// Fingerings lists the ways in which p can hold a shape.
func (p Player) Fingerings(frets neck.Frets) []Fingering {
	return fingeringsOf(p.AppendHeld(nil, frets))
}

func fingeringsOf(held []Held) []Fingering {
	list := make([]Fingering, len(held))
	for i := range held {
		list[i] = held[i].Fingering
	}
	return list
}

// AppendHeld appends the ways in which p can hold a shape, with their spans.
func (p Player) AppendHeld(list []Held, frets neck.Frets) []Held {
	e := enumeration{frets: frets, found: list, player: p, bound: true}
	e.ruler.measure(p.Neck(), frets)
	e.all(p.Thumb)
	return e.found
}

// enumeration lists fingerings: all, or those that a player can hold. order
// holds the fretted strings by fret, then from the thick side.
type enumeration struct {
	frets  neck.Frets
	order  [neck.Strings]int
	n      int
	found  []Held
	player Player
	bound  bool // to what the player can hold
	ruler  ruler
	thumb  bool // stops the thickest string
}

func (e *enumeration) all(thumb bool) {
	e.sort(0)
	e.assign(0, Fingering{Frets: e.frets})
	if thumb && e.frets[0] > 0 && e.n > 1 {
		e.thumb = true
		e.sort(1)
		e.assign(0, Fingering{Frets: e.frets})
	}
}

// sort puts the fretted strings from index first on in order.
func (e *enumeration) sort(first int) {
	e.n = 0
	for i := first; i < neck.Strings; i++ {
		fret := e.frets[i]
		if fret <= 0 {
			continue
		}
		at := e.n
		for ; at > 0 && e.frets[e.order[at-1]] > fret; at-- {
			e.order[at] = e.order[at-1]
		}
		e.order[at] = i
		e.n++
	}
}

// assign gives the strings from the k-th on their fingers.
func (e *enumeration) assign(k int, f Fingering) {
	if k == e.n {
		e.keep(f)
		return
	}
	i := e.order[k]
	lowest, highest := Index, Little
	if k > 0 {
		before := e.order[k-1]
		last := f.Fingers[before]
		if e.frets[before] == e.frets[i] && barreFits(e.frets, before, i) {
			g := f
			g.Fingers[i] = last
			e.assign(k+1, g)
		}
		lowest = last + 1
		highest = min(Little, last+Finger(e.frets[i]-e.frets[before])+1)
	}
	for finger := lowest; finger <= highest; finger++ {
		g := f
		g.Fingers[i] = finger
		e.assign(k+1, g)
	}
}

// keep keeps a fingering of a hand, where there is a player only one that they
// can hold. With the thumb it has to be near the index.
func (e *enumeration) keep(f Fingering) {
	if e.thumb {
		if d := int(e.frets[0]) - f.Base(); d < -1 || d > 1 {
			return
		}
		f.Fingers[0] = Thumb
	}
	h := Held{Fingering: f}
	if e.bound {
		if !e.player.uses(&f) {
			return
		}
		h.Reach, h.Needed = e.ruler.span(&f)
		if h.Reach > e.player.Reach || h.Needed > e.player.Reach {
			return
		}
	}
	e.found = append(e.found, h)
}

// barreFits tells whether one finger can lie across the strings from i to j:
// those between must sound at its fret or above.
func barreFits(frets neck.Frets, i, j int) bool {
	for k := i + 1; k < j; k++ {
		if frets[k] < frets[i] {
			return false
		}
	}
	return true
}
