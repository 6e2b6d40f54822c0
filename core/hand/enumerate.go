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
	return enumerate(frets, true)
}

// Fingerings lists the ways in which p can hold a shape.
func (p Player) Fingerings(frets neck.Frets) []Fingering {
	all := enumerate(frets, p.Thumb)
	playable := all[:0]
	for _, f := range all {
		if f.Playable(p) {
			playable = append(playable, f)
		}
	}
	return playable
}

func enumerate(frets neck.Frets, thumb bool) []Fingering {
	e := enumeration{frets: frets}
	for fret := int8(1); fret <= neck.MaxFret; fret++ {
		for i, f := range frets {
			if f == fret {
				e.order[e.n] = i
				e.n++
			}
		}
	}
	e.assign(0, Fingering{Frets: frets})
	if thumb && frets[0] > 0 && e.n > 1 {
		e.thumbed()
	}
	return e.found
}

// enumeration lists fingerings. order holds the fretted strings by fret, then
// from the thick side.
type enumeration struct {
	frets neck.Frets
	order [neck.Strings]int
	n     int
	found []Fingering
}

// assign gives the strings from the k-th on their fingers.
func (e *enumeration) assign(k int, f Fingering) {
	if k == e.n {
		e.found = append(e.found, f)
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

// thumbed adds the fingerings in which the thumb stops the thickest string.
func (e *enumeration) thumbed() {
	rest := e.frets
	rest[0] = neck.Silent
	for _, f := range enumerate(rest, false) {
		if d := int(e.frets[0]) - f.Base(); d >= -1 && d <= 1 {
			f.Frets[0], f.Fingers[0] = e.frets[0], Thumb
			e.found = append(e.found, f)
		}
	}
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
