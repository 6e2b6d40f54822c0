package musicxml

import (
	"slices"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// piece is a stretch of a bar that one note or rest stands for; several tied ones may
// be needed for what sounds on.
type piece struct {
	from, to pitch.Frac
	kind     string // the note's type; empty where none is so short
	dots     int
	mod      timeMod // of 1 in the time of 1 where it stands in no tuplet
	begins   bool    // a tuplet
	ends     bool
}

// noteTypes are the lengths of notes without dots, from two whole notes down, each half
// of the one before.
var noteTypes = []string{"breve", "whole", "half", "quarter", "eighth", "16th", "32nd", "64th", "128th", "256th", "512th", "1024th"}

// notate shares a bar among notes, given where in it something begins, in order: whole
// and dotted values tied together, tuplets inside the smallest beat, half bar or bar that
// they fill.
func notate(m song.Measure, onsets []pitch.Frac) []piece {
	n := notator{onsets: onsets}
	if m.Lead.Num() == 0 {
		n.region(pitch.Whole(0), m.Meter.Bar(), children(m.Meter))
		return n.pieces
	}
	// A pickup: beat by beat from where it begins.
	beat := m.Meter.Beat()
	for at := m.Lead; at.Less(m.Meter.Bar()); {
		next := beat.Mul(pitch.Whole(at.Div(beat).Floor() + 1))
		if m.Meter.Bar().Less(next) {
			next = m.Meter.Bar()
		}
		n.region(at, next, nil)
		at = next
	}
	return n.pieces
}

// children is into how many equal shares a bar is divided first, and those again.
func children(m song.Meter) []int64 {
	if m.Compound() {
		return []int64{int64(m.Count / 3), 3}
	}
	if m.Count&(m.Count-1) == 0 {
		return nil // halves all the way
	}
	return []int64{int64(m.Count)}
}

type notator struct {
	onsets []pitch.Frac
	pieces []piece
}

// inside lists the onsets between two moments, without them.
func (n *notator) inside(a, z pitch.Frac) []pitch.Frac {
	from, found := slices.BinarySearchFunc(n.onsets, a, pitch.Frac.Cmp)
	if found {
		from++
	}
	to, _ := slices.BinarySearchFunc(n.onsets, z, pitch.Frac.Cmp)
	return n.onsets[from:max(from, to)]
}

// region notates the time from a to z; shares is how it is divided where it has to be.
func (n *notator) region(a, z pitch.Frac, shares []int64) {
	inside := n.inside(a, z)
	length := z.Sub(a)
	grid := int64(1) // of the onsets, in equal slots of the region
	plain := power(length.Den())
	for _, at := range inside {
		grid = pitch.LCM(grid, at.Sub(a).Div(length).Den())
		plain = plain && power(at.Sub(a).Den())
		if grid > most {
			grid = most
			break
		}
	}
	if plain {
		n.values(a, z, inside, timeMod{1, 1})
		return
	}
	parts := int64(2)
	if len(shares) > 0 {
		parts, shares = shares[0], shares[1:]
	}
	if each := length.Div(pitch.Whole(parts)); grid%parts == 0 && each.Den() <= shortest && (parts > 2 || power(each.Den())) {
		for i := range parts {
			from := a.Add(each.Mul(pitch.Whole(i)))
			n.region(from, from.Add(each), shares)
		}
		return
	}
	// A tuplet of grid slots, each written as the shortest plain note that is not shorter.
	slot := length.Div(pitch.Whole(grid))
	written := pitch.Whole(2)
	for half := written; !half.Less(slot); half = half.Div(pitch.Whole(2)) {
		written = half
	}
	ratio := slot.Div(written)
	first := len(n.pieces)
	n.values(a, z, inside, timeMod{ratio.Den(), ratio.Num()})
	n.pieces[first].begins, n.pieces[len(n.pieces)-1].ends = true, true
}

// Limits of what is divided: slots of a tuplet, and the smallest region.
const (
	most     = 1 << 20
	shortest = 256
)

// values notates what is between onsets with notes whose lengths are changed by mod.
func (n *notator) values(a, z pitch.Frac, inside []pitch.Frac, mod timeMod) {
	up, plain := pitch.F(mod.Actual, mod.Normal), mod.Actual == mod.Normal
	for i := 0; i <= len(inside); i++ {
		to := z
		if i < len(inside) {
			to = inside[i]
		}
		for a.Less(to) {
			length := to.Sub(a)
			if !plain {
				length = length.Mul(up)
			}
			kind, dots, value := longest(length)
			if !plain {
				value = value.Div(up)
			}
			next := a.Add(value)
			if kind == "" {
				next = to
			}
			n.pieces = append(n.pieces, piece{from: a, to: next, kind: kind, dots: dots, mod: mod})
			a = next
		}
	}
}

// plainValues are the lengths of noteTypes, without and with a dot.
var plainValues = func() (list [][2]pitch.Frac) {
	value := pitch.Whole(2)
	for range noteTypes {
		list = append(list, [2]pitch.Frac{value, value.Mul(pitch.F(3, 2))})
		value = value.Div(pitch.Whole(2))
	}
	return list
}()

// longest is the longest note of at most a length, with a dot where that fits just as
// well; no kind where even the shortest is too long, or does not fit.
func longest(length pitch.Frac) (kind string, dots int, value pitch.Frac) {
	if !power(length.Den()) {
		return "", 0, length
	}
	for i, v := range plainValues {
		switch {
		case length.Less(v[0]):
		case !length.Less(v[1]) && i+1 < len(plainValues):
			return noteTypes[i], 1, v[1]
		default:
			return noteTypes[i], 0, v[0]
		}
	}
	return "", 0, length
}

// power tells whether n is a power of two.
func power(n int64) bool { return n&(n-1) == 0 }
