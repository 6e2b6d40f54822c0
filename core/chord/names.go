package chord

import (
	"cmp"
	"math/bits"
	"slices"

	"valleyside/core/pitch"
)

// Name is what a set of notes can be called.
type Name struct {
	Name    string       `json:"name"`
	Root    pitch.Note   `json:"root"`
	Bass    pitch.Note   `json:"bass"`
	Tones   []pitch.Note `json:"tones"`   // of the chord that is named
	Missing []string     `json:"missing"` // degrees of it that do not sound
	Extra   []pitch.Note `json:"extra"`   // what sounds beside it
	// Cost is how far the name is fetched: least is a triad on its root.
	Cost float64 `json:"-"`
}

// Exact tells whether the notes are those of the name, no more and no fewer.
func (n Name) Exact() bool { return len(n.Missing) == 0 && len(n.Extra) == 0 }

// What a name costs. A missing third or seventh says another chord, a missing
// fifth hardly anything; a note too many is worse than one too few.
const (
	costExtra     = 6.0
	costRoot      = 5.0
	costThird     = 3.5
	costSeventh   = 3.0
	costAltered   = 3.0
	costTension   = 2.2
	costFifth     = 0.6
	costFifthRich = 1.2 // of a chord of five tones or more
	costFifthSus  = 1.5 // of a chord without a third
	costRare      = 2.0
	costLoose     = 2.0 // a slash below a chord that is not whole
	costNinth     = 1.0 // below an eleventh or thirteenth
	costInverted  = 2.0 // a tone of the chord in the bass
	costDeep      = 0.9 // and it is neither the third nor the fifth
	costSlash     = 3.2 // another note in the bass
	costSlashed   = 1.7 // the same, below a triad
	costTone      = 0.3 // for each tone beyond a triad
	costAccident  = 0.35
	costOutOfKey  = 0.5
	bonusWhole    = 1.0 // the whole chord on its root
	mostNames     = 12
	farther       = 2.4 // than the best is not worth saying of a name that does not fit exactly
	costFarAtMost = 14
)

// Names lists what notes can be called, given as pitch classes (bit n is the
// class n) and the class that sounds lowest, the best name first, one for each
// root: one that says exactly what sounds where there is any. A bass that
// somebody else plays is the lowest note. key spells the roots and breaks ties
// in favour of its own chords; the zero Key does neither.
func Names(classes uint16, bass int, key pitch.Key) []Name {
	classes |= 1 << bass
	found := make([]candidate, 0, 64)
	for root := range 12 {
		rooted := rotate(classes, root)
		low := (bass - root + 12) % 12
		sounds := rooted&1 != 0
		for i := range qualities {
			q := &qualities[i]
			if c, ok := q.fit(rooted, low, false); ok {
				found = append(found, candidate{c, root, i, false, rooted == q.mask})
			}
			// The bass may be a note beside the chord.
			if sounds && low != 0 && q.mask&(1<<low) == 0 {
				if c, ok := q.fit(rooted&^(1<<low), low, true); ok {
					found = append(found, candidate{c, root, i, true, rooted&^(1<<low) == q.mask})
				}
			}
		}
	}
	for i := range found {
		if key.Valid() && !key.Contains(found[i].root) {
			found[i].cost += costOutOfKey
		}
	}
	slices.SortStableFunc(found, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	names := make([]Name, 0, mostNames)
	for i, c := range found {
		if len(names) == mostNames {
			break
		}
		if (c.exact || c.cost <= found[0].cost+farther) && c.bestOf(found, i) {
			names = append(names, c.name(classes, bass, key))
		}
	}
	return names
}

// candidate is a name that has not been spelled yet.
type candidate struct {
	cost    float64
	root    int
	quality int
	slash   bool
	exact   bool
}

// bestOf tells whether the candidate at an index, of those in the order of
// their costs, is worth saying beside the others with its root: one that is not
// exact only where none is, one with a slash only before the one without.
func (c candidate) bestOf(found []candidate, at int) bool {
	for i, other := range found {
		if other.root != c.root || i == at {
			continue
		}
		switch {
		case c.exact && !c.slash && (!other.exact || other.slash || i > at):
		case c.exact && c.slash && (!other.exact || i > at && other.cost > c.cost):
		case !c.exact && !other.exact && i > at:
		default:
			return false
		}
	}
	return true
}

// rotate turns classes so that root is bit 0.
func rotate(classes uint16, root int) uint16 {
	return (classes>>root | classes<<(12-root)) & 0xfff
}

// fit is what it costs to call notes by a quality; ok is false where that is
// too far fetched.
func (q *Quality) fit(rooted uint16, low int, slash bool) (cost float64, ok bool) {
	missing, extra := q.mask&^rooted, rooted&^q.mask
	if extra&(extra-1) != 0 || bits.OnesCount16(missing) > 2 {
		return 0, false
	}
	cost = q.cost
	if slash && missing != 0 {
		cost += costLoose
	}
	if extra != 0 {
		cost += costExtra
	}
	for m := missing; m != 0; m &= m - 1 {
		cost += q.worth[bits.TrailingZeros16(m)]
	}
	switch {
	case low == 0 && missing == 0 && extra == 0:
		cost -= bonusWhole
	case slash && q.mask == majorTriad || slash && q.mask == minorTriad:
		cost += costSlashed
	case slash:
		cost += costSlash
	case low != 0:
		cost += costInverted
		if low != 3 && low != 4 && low != 7 {
			cost += costDeep
		}
	}
	return cost, cost < costFarAtMost
}

// The triads that a slash is most often written below.
const (
	majorTriad = 1 | 1<<4 | 1<<7
	minorTriad = 1 | 1<<3 | 1<<7
)

// weigh works out what a quality costs by itself, and what each of its tones
// is worth.
func (q *Quality) weigh() {
	q.cost = costTone * float64(max(len(q.tones)-3, 0))
	if q.rare {
		q.cost += costRare
	}
	for _, t := range q.tones {
		if d := t.Degree; len(d) > 1 && (d[0] == 'b' || d[0] == '#') && d != "b3" && d != "b7" {
			q.cost += costAccident
		}
		q.worth[t.Semitones] = t.worth(q)
	}
}

// worth is what is lost with a tone of a chord.
func (t *Tone) worth(q *Quality) float64 {
	switch t.Degree {
	case "1":
		return costRoot
	case "3", "b3", "4", "2":
		return costThird
	case "7", "b7", "bb7", "6":
		return costSeventh
	case "5":
		if len(q.tones) == 2 {
			return costThird // all that a power chord has
		}
		switch {
		case q.mask&(1<<3|1<<4) == 0:
			return costFifthSus
		case len(q.tones) > 4 || q.rare:
			return costFifthRich
		}
		return costFifth
	case "b5", "#5":
		return costAltered
	case "9":
		if q.tones[len(q.tones)-1].Degree != "9" {
			return costNinth
		}
	}
	return costTension
}

// name spells a candidate.
func (c candidate) name(classes uint16, bass int, key pitch.Key) Name {
	q := &qualities[c.quality]
	root := c.spell(key)
	n := Name{Name: root.String() + q.Suffix, Root: root, Cost: c.cost, Missing: []string{}, Extra: []pitch.Note{}, Tones: make([]pitch.Note, len(q.tones))}
	rooted := rotate(classes, c.root)
	low := (bass - c.root + 12) % 12
	n.Bass = root
	for i, t := range q.tones {
		n.Tones[i] = root.Up(degreeNumber(t.Degree), t.Semitones)
		if rooted&(1<<t.Semitones) == 0 {
			n.Missing = append(n.Missing, t.Degree)
		}
		if t.Semitones == low {
			n.Bass = n.Tones[i]
		}
	}
	if c.slash {
		n.Bass = near(root, bass)
		rooted &^= 1 << low
	}
	for s := range 12 {
		if rooted&^q.mask&(1<<s) != 0 {
			n.Extra = append(n.Extra, near(root, c.root+s))
		}
	}
	if low != 0 {
		n.Name += "/" + n.Bass.String()
	}
	return n
}

// spell names the root: by the key where it has one, and else so that the
// tones need the fewest signs.
func (c candidate) spell(key pitch.Key) pitch.Note {
	if key.Valid() {
		return key.SpellClass(c.root)
	}
	sharp, flat := pitch.Note{}, pitch.Note{}
	for _, letter := range []byte("CDEFGAB") {
		for _, sign := range []int8{0, 1, -1} {
			n := pitch.Note{Letter: letter, Accidental: sign}
			switch {
			case n.Class() != c.root:
			case sign == 0:
				return n
			case sign > 0:
				sharp = n
			default:
				flat = n
			}
		}
	}
	if c.signs(sharp) <= c.signs(flat) {
		return sharp
	}
	return flat
}

func (c candidate) signs(root pitch.Note) int {
	n := 0
	for _, t := range qualities[c.quality].tones {
		a := int(root.Up(degreeNumber(t.Degree), t.Semitones).Accidental)
		n += a * a
	}
	return n
}

// near names a note that is no tone of a chord, in the signs of its root.
func near(root pitch.Note, class int) pitch.Note {
	return pitch.Key{Tonic: root, Mode: pitch.Mixolydian}.SpellClass(class)
}
