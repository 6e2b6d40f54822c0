// Package rhythm puts moments that somebody has played or tapped on the grid of a
// meter.
package rhythm

import "math"

// OffHand is how far a good player's notes are from where they are meant, as a share of a
// quarter note.
const OffHand = 0.035

// division is a way to divide a beat, and how much it has to fit better than a plainer
// one.
type division struct {
	n    int64
	cost float64
}

// divisions that are played, and those that machines write besides.
var (
	played  = []division{{1, 0}, {2, 1}, {3, 2.5}, {4, 2}, {6, 5}, {8, 5.5}}
	written = append(append([]division{}, played...), division{5, 6}, division{7, 8}, division{12, 7}, division{9, 9}, division{10, 9}, division{16, 8}, division{24, 10}, division{32, 10})
)

// compound are the divisions of a beat of three, where thirds are plain.
var compound = map[int64]float64{3: 1, 6: 2, 12: 4, 9: 8, 24: 9}

// Beat is a beat whose notes are to be divided.
type Beat struct {
	Off      float64 // how far its notes are usually off, as a share of the beat
	Compound bool    // it is a dotted quarter
	Exact    bool    // it was written by a machine, which divides beats as no hand does
}

// Divide says into how many equal slots a beat is divided, given where in it something
// begins, from 0 to 1, and how badly that fits: 1 for a note that is off as usual, and
// more for a division that is less plain.
func (b Beat) Divide(at []float64) (slots int64, cost float64) {
	list := played
	if b.Exact {
		list = written
	}
	slots, cost = 1, math.Inf(1)
	for _, d := range list {
		c := d.cost
		if b.Compound && d.n%3 == 0 {
			c = compound[d.n]
		}
		taken := map[int64]float64{}
		for _, x := range at {
			slot := math.Round(x * float64(d.n))
			e := (x - slot/float64(d.n)) / b.Off
			c += e * e
			// Two notes of one slot that are not struck together do not fit it.
			if before, ok := taken[int64(slot)]; ok && math.Abs(before-x) > 2*b.Off {
				c += 20
			}
			taken[int64(slot)] = x
		}
		if c < cost {
			slots, cost = d.n, c
		}
	}
	return slots, cost
}

// Straighten is a place in beats as it would be without swing, where the first eighth of
// a beat takes so large a share of it.
func Straighten(beats, share float64) float64 {
	if share == 0.5 {
		return beats
	}
	whole := math.Floor(beats + 1e-6)
	at := beats - whole
	if at < share {
		return whole + at/share/2
	}
	return whole + 0.5 + (at-share)/(1-share)/2
}
