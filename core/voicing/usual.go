package voicing

import (
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// The usual shapes are what everybody is shown for a chord's name: an open
// shape where there is one, else the form of E or of A with the root on string
// 6 or 5, at the lower place, else the form of D. They are held by the shapes of
// docs/judgement.md.

// openShapes are the open shapes of the usual tuning.
var openShapes = table(openText)

const openText = `
	C x32010  A x02220  G 320003  E 022100  D xx0232
	Am x02210  Em 022000  Dm xx0231
	A7 x02020  D7 xx0212  E7 020100  B7 x21202  G7 320001  C7 x32310
	Cmaj7 x32000  Fmaj7 xx3210  Amaj7 x02120  Dmaj7 xx0222  Emaj7 021100  Gmaj7 320002
	Am7 x02010  Em7 022030  Dm7 xx0211
	Cadd9 x32030  Gadd9 320203  Eadd9 024100  Aadd9 x02420
	Asus2 x02200  Dsus2 xx0230  Gsus2 300033  Csus2 x30033  Fsus2 xx3011
	Asus4 x02230  Dsus4 xx0233  Esus4 022200  Gsus4 330013  Csus4 x33011
	A6 x02222  C6 x32210  D6 xx0202  E6 022120  G6 320000
	Am6 x02212  Em6 022020  Dm6 xx0201
	E9 020102  A9 x02423  Em9 020002  Am9 x02413  Cmaj9 x32430
	A7sus4 x02030  D7sus4 xx0213  E7sus4 020200  G7sus4 330011
	E5 022xxx  A5 x022xx  D5 xx023x
	C+ x32110  E+ 032110  A+ x03221  D+ xx0332  B7#5 x21203
	Dm(maj7) xx0221  Bm6 x20102
	Ddim7 xx0101  Em7b5 010030
	D/F# 200232  G/B x20003  C/E 032010  C/G 332010  Am/E 002210  Am/G 302210  Am/C x32210  Am/F# 2x2210  D/A x00232  D/C x30232
	F/C x33211  F/A x03211  F/G 3x3211  C/D xx0010  C/B x22010  Em/B x22000  Em/G 322000  Em/D xx0000  G/D xx0003  G/F# 2x0003
	A/C# x42220  A/E 002220  E/G# 422100  E/B x22100  Dm/F xx3231  Dm/A x00231  Dm/C x30231  Cadd9/E 032030
`

// form is a shape that moves: its frets from that of its root.
type form struct {
	root  neck.String
	frets neck.Frets // of a shape whose root is at fret formAt
}

// formAt is the fret at which the roots of the forms below stand, so that what
// lies below the root can be written.
const formAt = 5

// forms are the movable shapes of each quality, the forms of E, A and D.
var forms = func() map[string][]form {
	m := map[string][]form{}
	for _, line := range strings.Split(strings.TrimSpace(`
		maj 577655 x57775 xx5787
		m 577555 x57765 xx5786
		7 575655 x57575 xx5767
		maj7 5x665x x57675 xx5777
		m7 575555 x57565 xx5766
		5 577xxx x577xx xx578x
		sus2 x57755 xx5785
		sus4 577755 x57785 xx5788
		7sus4 575755 x57585 xx5768
		6 5x465x x57777 xx5757
		m6 5x455x x5x465 xx5756
		add9 577657 xx5435 x5425x
		madd9 577557
		9 575657 x5455x
		m9 575557 x5355x
		maj9 x5465x
		7b9 575656 x54545
		7#9 x5456x
		7b5 5x564x x5657x
		aug7 5x566x x545x6
		13 5x567x x54557
		6/9 x54455
		11 555655
		7alt x54566
		m11 5x553x
		dim 5675xx x5676x xx5686
		dim7 5x454x x5646x xx5656
		m7b5 5x554x x5656x xx5666
		aug 5x766x x5433x xx5887
		m(maj7) 576555 x57665 xx5776
		7#11 5x564x x5657x
		maj7#11 5x664x
		13sus4 5x577x
		9sus4 x55555
		7sus2 x57555
		maj7sus2 x57655
	`), "\n") {
		fields := strings.Fields(line)
		for _, shape := range fields[1:] {
			f, err := neck.ParseFrets(shape)
			if err != nil {
				panic(err)
			}
			low := hand.Fingering{Frets: f}.Lowest()
			m[fields[0]] = append(m[fields[0]], form{low, f})
		}
	}
	return m
}()

// table reads names and shapes in turn.
func table(text string) map[string]neck.Frets {
	m := map[string]neck.Frets{}
	fields := strings.Fields(text)
	for i := 0; i < len(fields); i += 2 {
		c, err := chord.Parse(fields[i])
		if err != nil {
			panic(err)
		}
		f, err := neck.ParseFrets(fields[i+1])
		if err != nil {
			panic(err)
		}
		m[nameOf(c)] = f
	}
	return m
}

// nameOf is a name of a chord by what sounds, however its notes are spelled.
func nameOf(c chord.Chord) string {
	name := c.Suffix() + " " + string(rune('a'+c.Root.Class()))
	if c.Bass.Valid() {
		name += "/" + string(rune('a'+c.Bass.Class()))
	}
	return name
}

// lowered is how many semitones below the usual tuning most strings of an
// instrument stand, its capo counted in; all tells whether that is all of them.
func lowered(in neck.Instrument) (semitones int, all bool) {
	counts := map[int]int{}
	for s := neck.String(1); s <= neck.Strings; s++ {
		d := int(neck.Standard.Open(s) - in.Open().Open(s))
		counts[d]++
		if counts[d] > counts[semitones] {
			semitones = d
		}
	}
	return semitones, counts[semitones] == neck.Strings
}

// lowPlace is the highest fret of a shape that is still at the lower end of the
// neck.
const lowPlace = 5

// usualShapes lists the usual shapes of a chord, the first one first. Where some
// strings are tuned otherwise, they are those that hold all the same, low on the
// neck. A power chord follows from the tuning. The list is empty where no form
// of the chord is known.
func usualShapes(c chord.Chord, in neck.Instrument) []neck.Frets {
	down, all := lowered(in)
	if len(c.Tones) == 2 && c.Has(7) && !c.Bass.Valid() {
		return powerShapes(c, in)
	}
	list := standardShapes(c.Transposed(down, pitch.Key{}), in)
	if all {
		return list
	}
	return slices.DeleteFunc(list, func(f neck.Frets) bool {
		set, low := in.Classes(f)
		missing := c.Classes().Minus(set)
		return low != c.Lowest().Class() || !set.Without(low).In(c.Classes()) || missing != 0 && missing != pitch.SetOf(c.Root.Class().Up(7)) ||
			top(f) > lowPlace
	})
}

// powerShapes lists the power chords of three notes on string 6, 5 and the open
// 4th, the lower place first.
func powerShapes(c chord.Chord, in neck.Instrument) []neck.Frets {
	f := finder{chord: c, cfg: Config{In: in}.usual()}
	var list []neck.Frets
	for _, s := range []neck.String{6, 5, 4} {
		for _, fret := range f.roots(s) {
			shape := f.lay(s, fret, 1, 0, 7, 12)
			if s == 4 && fret > 0 || shape == neck.NoFrets || fret > highest-3 {
				continue
			}
			list = append(list, shape)
		}
	}
	for _, f := range list { // a drop tuning's own, under one finger, all along the neck
		if f[0] >= 0 && f[0] == f[1] && f[1] == f[2] && f[0] <= highestFlat {
			return []neck.Frets{f}
		}
	}
	slices.SortStableFunc(list, func(a, b neck.Frets) int { return top(a) - top(b) })
	return list
}

// highestFlat is the fret up to which a power chord is taken under one finger in a
// drop tuning.
const highestFlat = 9

// standardShapes lists the usual shapes of a chord as it is fingered in the usual
// tuning.
func standardShapes(as chord.Chord, in neck.Instrument) []neck.Frets {
	var list []neck.Frets
	if f, ok := openShapes[nameOf(as)]; ok {
		list = append(list, f)
	}
	if as.Bass.Valid() && as.Bass.Class() != as.Root.Class() {
		return append(list, overBass(as, in)...)
	}
	suffix := as.Suffix()
	if suffix == "" {
		suffix = "maj"
	}
	type placed struct {
		frets neck.Frets
		at    int // the lowest fret
		root  neck.String
	}
	var moved []placed
	for _, fm := range forms[suffix] {
		root := as.Root.Class().Above(neck.Standard.Open(fm.root).Class())
		for _, fret := range []int{root, root + 12} {
			f, at := fm.frets, neck.MaxFret
			for i := range f {
				if f[i] >= 0 {
					f[i] += int8(fret - formAt)
					at = min(at, int(f[i]))
					if f[i] < 0 {
						at = -1
						break
					}
				}
			}
			if at >= 0 && (fret < 12 || len(moved) == 0) && in.LastFret() > 12 {
				moved = append(moved, placed{f, at, fm.root})
				break
			}
		}
	}
	slices.SortStableFunc(moved, func(a, b placed) int {
		if d := (a.root == 4) != (b.root == 4); d && suffix != "dim7" { // the form of D comes last, but of a dim7 they are all one
			return map[bool]int{true: 1, false: -1}[a.root == 4]
		}
		return a.at - b.at
	})
	for _, p := range moved {
		if !slices.Contains(list, p.frets) {
			list = append(list, p.frets)
		}
	}
	return list
}

// overBass puts the bass that a chord names below the usual shape of the chord
// above it: on a thicker string that is free, or on one whose note the chord
// can spare, near the hand.
func overBass(c chord.Chord, in neck.Instrument) []neck.Frets {
	upper := c
	upper.Bass = pitch.Note{}
	var list []neck.Frets
	std := neck.Instrument{Tuning: neck.Standard, Neck: in.Neck}
	std.Capo = 0
	for _, shape := range standardShapes(upper, neck.Instrument{Tuning: neck.Standard}) {
		for s := neck.String(neck.Strings); s >= 4; s-- {
			fret := c.Bass.Class().Above(neck.Standard.Open(s).Class())
			f := shape
			for t := neck.String(neck.Strings); t > s; t-- {
				f[t.Index()] = neck.Silent
			}
			f[s.Index()] = int8(fret)
			low, high := neck.MaxFret, 0
			for _, n := range f {
				if n > 0 {
					low, high = min(low, int(n)), max(high, int(n))
				}
			}
			set, bass := std.Classes(f)
			if bass == c.Bass.Class() && high-low <= 3 && upper.Classes().In(set.With(c.Bass.Class())) && hand.Silenceable(f) && !slices.Contains(list, f) {
				list = append(list, f)
			}
		}
	}
	slices.SortStableFunc(list, func(a, b neck.Frets) int { return top(a) - top(b) })
	return list
}

func top(f neck.Frets) int { return int(slices.Max(f[:])) }
