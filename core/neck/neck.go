package neck

import "math"

// Neck is the size of an instrument. The zero Neck measures as Usual does.
type Neck struct {
	Scale float64 // from nut to bridge, mm; 0 means 648
	// Capo is the fret at which a capo sits. Frets are counted from it, as
	// the player does, but distances are those of the real neck.
	Capo int
}

// Scale lengths in mm.
const (
	UsualScale = 648.0
	ShortScale = 620.0
	ChildScale = 578.0
)

// String spacing in mm, centre to centre; in between it grows in proportion.
const (
	nutSpacing    = 7.0
	bridgeSpacing = 10.4
)

func (n Neck) scale() float64 {
	if n.Scale == 0 {
		return UsualScale
	}
	return n.Scale
}

// Position is the distance from the nut to a fret, in mm: L·(1 − 2^(−n/12)).
// Frets are counted from the capo.
func (n Neck) Position(fret int) float64 {
	if at := fret + n.Capo; at >= 0 && at < len(fretShare) {
		return n.scale() * fretShare[at]
	}
	return n.scale() * share(fret+n.Capo)
}

func share(fret int) float64 { return 1 - math.Exp2(-float64(fret)/12) }

// fretShare holds the position of each fret as a share of the scale length;
// the arranger asks for it millions of times.
var fretShare = func() (table [2*MaxFret + 1]float64) {
	for i := range table {
		table[i] = share(i)
	}
	return table
}()

// Across is how far string s lies from the middle of the neck at a fret, in
// mm, positive towards the thick strings.
func (n Neck) Across(s String, fret int) float64 {
	spacing := nutSpacing + (bridgeSpacing-nutSpacing)*n.Position(fret)/n.scale()
	return (float64(s) - 3.5) * spacing
}

// Distance is how far apart two fretted places are, in mm, on a straight line.
func (n Neck) Distance(s1 String, fret1 int, s2 String, fret2 int) float64 {
	return math.Hypot(n.Position(fret1)-n.Position(fret2), n.Across(s1, fret1)-n.Across(s2, fret2))
}

// Along is the distance between two frets along the neck, in mm.
func (n Neck) Along(fret1, fret2 int) float64 {
	return math.Abs(n.Position(fret1) - n.Position(fret2))
}

// LastFret is the highest fret that can be played above the capo.
func (n Neck) LastFret() int { return MaxFret - n.Capo }
