package hand

import "valleyside/core/neck"

// What speaks against a form of the hand, in the measure of a finger that is
// one place from where it falls by itself counting 0.2. Held by TestForms and
// the fingers of docs/judgement.md.
const (
	formAway    = 0.2  // for each place that a finger is from its own fret
	formBack    = 0.21 // the same, where the index's own fret lies below it
	formSpread  = 0.45 // and another finger's, which has to spread for it
	formLittle  = 0.15 // the little finger, where another would do
	formThumb   = 0.5
	formFlat    = 0.1  // one finger across all of a small shape that lies at one fret
	formIndex   = 0.25 // an index barre below other fingers, on neighbours, on three strings, or because fingers run out
	formApart   = 0.9  // the same on two strings with others between them
	formWithout = 0.9  // an index barre with no other finger above it
	formTop     = 0.3  // ring or little finger across neighbours at the highest fret
	formSpare   = 0.65 // the same across two, where there is a finger for each string; in a power chord there is none to spare
	formOther   = 1.2  // any other barre
	formSecond  = 0.6  // a second barre, but for the ring across three strings above the index
	formShared  = 3.0  // another finger at the fret of the index barre
	formSkewed  = 0.05 // a base of the hand other than the first among open strings
)

// form tells how far a fingering is from what is taught: a finger for each
// fretted string and for each fret, the thicker string having the lower finger
// at one fret; a barre where fingers run out, where the index lies below the
// rest, or on neighbours at the highest fret. 0 is a form where every finger
// falls by itself.
func (f *Fingering) form() float64 {
	var first, last [fingers]int8 // index of the strings, from 1
	var fret [fingers]int8
	var strings [fingers]int8
	low, high := int8(neck.MaxFret+1), int8(0)
	open, sounding, fretted := false, 0, 0
	for i, by := range f.Fingers {
		if f.Frets[i] >= 0 {
			sounding++
		}
		open = open || f.Frets[i] == 0
		if by == None {
			continue
		}
		fretted++
		if first[by] == 0 {
			first[by] = int8(i + 1)
		}
		last[by] = int8(i + 1)
		strings[by]++
		fret[by] = f.Frets[i]
		if by != Thumb {
			low, high = min(low, f.Frets[i]), max(high, f.Frets[i])
		}
	}
	if fretted == 0 {
		return 0
	}
	cost := 0.0
	if first[Thumb] != 0 {
		cost += formThumb
	}
	if first[Little] != 0 {
		cost += formLittle
	}
	// Where each finger falls by itself: from the lowest fret on, or, among
	// open strings near the nut, from the first.
	away := func(base int8) float64 {
		sum := 0.0
		for by := Index; by <= Little; by++ {
			if first[by] == 0 {
				continue
			}
			d := int(fret[by]-base) + 1 - int(by)
			back := formSpread
			if by == Index {
				back = formBack
			}
			sum += max(back*float64(d), -formAway*float64(d))
		}
		return sum
	}
	best := away(low)
	if fretted == 2 && !open { // two notes have their fingers by the place of the hand
		for back := int8(1); back <= 2 && low > back; back++ {
			best = min(best, away(low-back)+formSkewed*float64(back))
		}
	}
	if !open || low == 1 || high > 3 {
		cost += best
	} else {
		cost += min(best+formSkewed, away(1))
	}
	barres := 0
	for by := Index; by <= Little; by++ {
		if strings[by] < 2 {
			continue
		}
		barres++
		neighbours := last[by]-first[by] == strings[by]-1
		switch above := high > fret[by]; {
		case by == Index && low == high && sounding <= 3 && neighbours:
			cost += formFlat
		case by == Index && !above:
			cost += formWithout
		case by == Index && (strings[by] > 2 || neighbours || fretted > int(Little)):
			cost += formIndex
		case by == Index:
			cost += formApart
		case by >= Ring && low < high && !above && neighbours && strings[by] == 2 && (fretted == int(Little) || fretted < int(Little) && !f.side()):
			cost += formSpare
		case by >= Ring && low < high && !above && neighbours:
			cost += formTop
		default:
			cost += formOther
		}
		if barres > 1 && !(by == Ring && strings[by] > 2) {
			cost += formSecond
		}
	}
	if strings[Index] > 1 {
		for by := Middle; by <= Little; by++ {
			if first[by] != 0 && fret[by] == fret[Index] {
				cost += formShared
			}
		}
	}
	return cost
}

// side tells whether all fretted strings lie side by side, as those of a power chord do.
func (f *Fingering) side() bool {
	first, last, n := -1, -1, 0
	for i, by := range f.Fingers {
		if by == None {
			continue
		}
		if first < 0 {
			first = i
		}
		last = i
		n++
	}
	return last-first == n-1
}
