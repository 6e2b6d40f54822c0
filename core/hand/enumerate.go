package hand

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/neck"
)

// Fingerings lists every way in which a hand can stop a shape. A fingering is
// one of a hand where
//
//   - exactly the fretted strings have a finger, and a finger lies at one fret;
//   - a finger stops several strings only as a barre: no string between them
//     is open, silent or stopped below it;
//   - higher fingers lie at higher frets, and at one fret on thinner strings;
//   - the next finger is at most one place further than its fret (fingers that
//     are crowded on one fret lie side by side);
//   - behind a finger that lies across three strings or more no other but the index
//     stops a thinner string: the flat finger is in its way;
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

// Held is a fingering that a player can hold, with its Span and its Form.
type Held struct {
	Fingering
	Reach, Needed float64
	Form          float64
}

// Fingerings lists the ways in which p can hold a shape, the ones that are
// taught first.
func (p At) Fingerings(frets neck.Frets) []Fingering {
	held := p.AppendHeld(nil, frets)
	slices.SortStableFunc(held, func(a, b Held) int { return cmp.Compare(a.Form, b.Form) })
	return fingeringsOf(held)
}

func fingeringsOf(held []Held) []Fingering {
	list := make([]Fingering, len(held))
	for i := range held {
		list[i] = held[i].Fingering
	}
	return list
}

// AppendHeld appends the ways in which p can hold a shape, with their spans and
// forms.
func (p At) AppendHeld(list []Held, frets neck.Frets) []Held {
	e := enumeration{frets: frets, found: list, player: p, bound: true}
	e.ruler.measure(p.Neck, frets)
	e.all(p.Thumb)
	return e.found
}

// Taught is the way to hold a shape that is taught of those that p can. ok is
// false where there is none.
func (p At) Taught(frets neck.Frets) (best Held, ok bool) {
	e := enumeration{frets: frets, player: p, bound: true, taught: true, least: math.Inf(1)}
	e.ruler.measure(p.Neck, frets)
	e.all(p.Thumb)
	return e.best, e.least < math.Inf(1)
}

// How far a form of a chord may be from the taught one to be worth a thought for the
// sake of the shapes beside it: two fingers may change places. A barre of four strings
// has its fingers.
const (
	nearTaught = 0.33
	barreStays = 0.005
	wholeBarre = 4
)

// Forms appends the ways to hold a chord that are taught or nearly so, with no finger
// flat that is not in the taught one.
func (p At) Forms(list []Held, frets neck.Frets) []Held {
	from := len(list)
	list = p.AppendHeld(list, frets)
	if len(list) == from {
		return list
	}
	best := slices.MinFunc(list[from:], func(a, b Held) int { return cmp.Compare(a.Form, b.Form) })
	margin, barres := nearTaught, best.Build()
	if barres.BarreStrings >= wholeBarre {
		margin = barreStays
	}
	kept := slices.DeleteFunc(list[from:], func(h Held) bool {
		return h.Form > best.Form+margin || h.Form > best.Form && h.Build().Barres > barres.Barres
	})
	return list[:from+len(kept)]
}

// LetGo counts the strings that two fingerings stop at one fret with different fingers:
// what could stay and does not.
func LetGo(a, b *Fingering) (n int) {
	for i, by := range a.Fingers {
		if by != None && b.Fingers[i] != None && a.Frets[i] == b.Frets[i] && by != b.Fingers[i] {
			n++
		}
	}
	return n
}

// enumeration lists fingerings: all, or those that a player can hold. order
// holds the fretted strings by fret, then from the thick side; more is how many
// fingers the strings from the k-th on need, beyond the one before.
type enumeration struct {
	frets  neck.Frets
	order  [neck.Strings]int
	more   [neck.Strings + 1]int
	n      int
	found  []Held
	player At
	bound  bool // to what the player can hold
	ruler  ruler
	thumb  bool // stops the thickest string
	// Where only the one that is taught is wanted: which it is so far.
	taught bool
	best   Held
	least  float64
}

func (e *enumeration) all(thumb bool) {
	e.from(0, 0)
	if thumb && e.frets[0] > 0 && e.n > 1 {
		e.thumb = true
		e.from(1, 1)
	}
}

// from lists what stops the strings from index first on, where n fingers are
// down already.
func (e *enumeration) from(first, n int) {
	e.sort(first)
	h := Held{Fingering: Fingering{Frets: e.frets}}
	if e.bound && e.n > 0 { // whichever fingers they are, they are that far apart
		h.Needed = e.ruler.x[e.order[e.n-1]] - e.ruler.x[e.order[0]]
	}
	if e.more[0] <= int(Little) && h.Needed <= e.player.Reach {
		e.assign(0, n, h)
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
	e.more[e.n] = 0
	for k := e.n - 1; k >= 0; k-- {
		e.more[k] = e.more[k+1]
		if !e.shares(k) {
			e.more[k]++
		}
	}
}

// shares tells whether the k-th string can have the finger of the one before.
func (e *enumeration) shares(k int) bool {
	if k == 0 {
		return false
	}
	before, i := e.order[k-1], e.order[k]
	return e.frets[before] == e.frets[i] && barreFits(e.frets, before, i)
}

// assign gives the strings from the k-th on their fingers, n of them so far, as
// long as the hand spans them and they may still be the easiest.
func (e *enumeration) assign(k, n int, h Held) {
	if k == e.n {
		e.keep(h)
		return
	}
	i := e.order[k]
	lowest, highest := Index, Little
	if e.taught && !e.thumb && e.frets[i] > 3 {
		highest = Middle // only near the nut does a shape begin with the ring finger
	}
	if k > 0 {
		before := e.order[k-1]
		last := h.Fingers[before]
		if e.shares(k) {
			e.give(k, n, last, h)
		}
		lowest = last + 1
		highest = min(Little, last+Finger(e.frets[i]-e.frets[before])+1)
	}
	highest = min(highest, Little-Finger(e.more[k+1])) // so that fingers are left
	for finger := lowest; finger <= highest; finger++ {
		e.give(k, n+1, finger, h)
	}
}

// give stops the k-th string with a finger and goes on.
func (e *enumeration) give(k, n int, finger Finger, h Held) {
	i := e.order[k]
	h.Fingers[i] = finger
	if e.bound {
		for _, j := range e.order[:k] {
			if by := h.Fingers[j]; by != finger {
				e.ruler.widen(&h, i, j, by, finger)
			}
		}
		if h.Reach > e.player.Reach || h.Needed > e.player.Reach {
			return
		}
	}
	e.assign(k+1, n, h)
}

// keep keeps a fingering of a hand, where there is a player only one that they
// use. With the thumb it has to be near the index.
func (e *enumeration) keep(h Held) {
	if e.thumb {
		if d := int(e.frets[0]) - h.Base(); d < -1 || d > 1 {
			return
		}
		h.Fingers[0] = Thumb
	}
	switch {
	case h.Fingering.inItsOwnWay():
	case e.bound && !e.player.uses(&h.Fingering):
	case !e.taught:
		h.Form = h.Fingering.form()
		e.found = append(e.found, h)
	default:
		if h.Form = h.Fingering.form(); h.Form < e.least {
			e.best, e.least = h, h.Form
		}
	}
}

// inItsOwnWay tells whether a finger stops a thinner string below one that lies across
// three or more, as the middle finger would in x13332. The index can, which lies across
// all of them anyway.
func (f *Fingering) inItsOwnWay() bool {
	var first, last [fingers]int
	for i, by := range f.Fingers {
		if by == None || by == Thumb {
			continue
		}
		if first[by] == 0 {
			first[by] = i + 1
		}
		last[by] = i + 1
	}
	for flat := Ring; flat <= Little; flat++ {
		if first[flat] == 0 || last[flat]-first[flat] < 2 {
			continue
		}
		for by := Middle; by < flat; by++ {
			if last[by] > last[flat] {
				return true
			}
		}
	}
	return false
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
