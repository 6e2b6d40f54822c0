package voicing

import (
	"cmp"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Capo is a place for the capo and what a progression takes there.
type Capo struct {
	Fret   int
	Shapes []chord.Chord // as they are fingered, seen from the capo
	Usual  []neck.Frets  // the usual shape of each; NoFrets where there is none
	Key    string        // of the shapes, empty where none is given
	Barres int           // of the shapes that differ
	New    int           // shapes that the player has not learnt yet
	Ease   float64       // mean of the shapes
	Cost   float64
}

// What speaks against a place for the capo. Held by the capos of
// docs/judgement.md: a low place with one barre more may beat a high one.
const (
	capoFret   = 0.16 // for each fret: the sound gets thinner
	capoHigh   = 0.35 // more for each above the fifth
	capoOn     = 0.1  // a capo at all
	capoBarre  = 1.0
	capoNew    = 0.8
	capoNone   = 3.0 // a chord that has no shape there
	usualCapo  = 9   // the highest fret that a capo is put at
	highCapo   = 5
	shapeWorth = 0.6 // of the work of the shapes
)

// Capos weighs all places for a capo, the best first: by the barres and the new
// shapes among the usual shapes of the chords, the work of them, and how far up
// the capo sits. The chords are those that sound. Without a capo they are as
// typed.
func (b *Book) Capos(chords []chord.Chord, cfg Config) []Capo {
	cfg = cfg.usual()
	var list []Capo
	for fret := 0; fret <= usualCapo; fret++ {
		at := Capo{Fret: fret, Cost: capoFret*float64(fret) + capoHigh*float64(max(fret-highCapo, 0))}
		if fret > 0 {
			at.Cost += capoOn
		}
		in := cfg.In
		in.Capo = fret
		key := shapeKey(cfg.Key, fret)
		known := map[string]Voicing{}
		for _, c := range chords {
			shape := c
			if fret > 0 {
				shape = c.Transposed(-fret, key)
			}
			at.Shapes = append(at.Shapes, shape)
			name := shape.Canonical()
			v, seen := known[name]
			if !seen {
				v = Voicing{}
				v.Frets = neck.NoFrets
				if best := b.Usual(c, in, cfg.Player, 1); len(best) > 0 {
					v = best[0]
				}
				known[name] = v
			}
			at.Usual = append(at.Usual, v.Frets)
			at.Ease += v.Ease / float64(len(chords))
			if seen {
				continue
			}
			switch {
			case v.Frets == neck.NoFrets:
				at.Cost += capoNone
			case HardBarre(v.Fingering):
				at.Barres++
			}
			if cfg.Player.New&grade.ShapeSkills(v.Fingering) != 0 {
				at.New++
			}
			at.Cost += shapeWorth * grade.Work(v.Hold) / float64(len(chords))
		}
		at.Cost += capoBarre*float64(at.Barres) + capoNew*float64(at.New)
		if cfg.Key.Valid() {
			at.Key = key.String()
		}
		list = append(list, at)
	}
	slices.SortStableFunc(list, func(a, b Capo) int { return cmp.Compare(a.Cost, b.Cost) })
	return list
}

// shapeKey is the key of the shapes below a capo: the sounding key as it is
// typed without one.
func shapeKey(k pitch.Key, fret int) pitch.Key {
	if fret == 0 {
		return k
	}
	return k.Transposed(-fret)
}
