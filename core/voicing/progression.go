package voicing

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Chosen is a chord of a progression with its voicing, and the change that
// leads to it.
type Chosen struct {
	Chord chord.Chord
	Voicing
	Change Change
	// Others are the next best voicings for this chord, the rest staying.
	Others []Voicing
}

// Change is what leads from one voicing to the next.
type Change struct {
	Ease    float64 // 0 to 1; the first chord has 1
	Shift   float64 // of the hand along the neck, mm
	Seconds float64
	Anchors []neck.String // strings on which a finger stays
	Guides  []neck.String // strings along which one slides
	Common  []string      // tones that both chords sound at the same pitch
}

// Slot is a chord and the time it has, in seconds. A Pin fixes its shape;
// NoFrets leaves it open.
type Slot struct {
	Chord   chord.Chord
	Seconds float64
	Pin     neck.Frets
}

// weighed is how many voicings of each chord a progression chooses among: the
// best by themselves. The choice among them is exact.
const weighed = 40

// Progression chooses voicings for chords together: of all sequences the one
// of least work, for holding the shapes, for the changes in the time that each
// chord has, and for what is lost of the harmony. Chords for which nothing can
// be played come out with Silent.
func (b *Book) Progression(slots []Slot, cfg Config) []Chosen {
	cfg = cfg.usual()
	lists := make([][]Voicing, len(slots))
	for i, s := range slots {
		lists[i] = b.choices(s, cfg)
	}
	path := cheapest(slots, lists, cfg.Player)
	chosen := make([]Chosen, len(slots))
	for i, s := range slots {
		f := finder{chord: s.Chord, cfg: cfg}
		v := lists[i][path[i]]
		f.describe(&v)
		chosen[i] = Chosen{Chord: s.Chord, Voicing: v, Change: Change{Ease: 1}}
		if i > 0 {
			chosen[i].Change = changeTo(&chosen[i-1].Voicing, &chosen[i].Voicing, s, slots[i-1], cfg)
		}
		if cfg.Max > 0 {
			chosen[i].Others = others(slots, lists, path, i, f, cfg)
		}
	}
	return chosen
}

// Choices lists the voicings of a chord that are least work by themselves, what
// is lost of the harmony weighed in, at most so many.
func (b *Book) Choices(c chord.Chord, cfg Config, most int) []Voicing {
	cfg = cfg.usual()
	list := b.choices(Slot{Chord: c, Pin: neck.NoFrets}, cfg)
	if list[0].Frets == neck.NoFrets {
		return nil
	}
	list = slices.Clone(list[:min(most, len(list))])
	f := finder{chord: c, cfg: cfg}
	for i := range list {
		f.describe(&list[i])
	}
	return list
}

// choices lists what a slot chooses among. The list is the book's own: it is
// read, not changed.
func (b *Book) choices(s Slot, cfg Config) []Voicing {
	cfg.Max, cfg.Dominated = 0, false // what is shown does not change what there is
	key := choiceKey{s.Chord.Symbol + " " + s.Chord.Canonical(), s.Pin, cfg}
	b.mu.Lock()
	list, ok := b.chosen[key]
	b.mu.Unlock()
	if !ok {
		list = b.weigh(s, cfg)
		b.mu.Lock()
		if b.chosen == nil || len(b.chosen) >= mostRemembered {
			b.chosen = map[choiceKey][]Voicing{}
		}
		b.chosen[key] = list
		b.mu.Unlock()
	}
	return list
}

// weigh works out choices.
func (b *Book) weigh(s Slot, cfg Config) []Voicing {
	f := finder{chord: s.Chord, cfg: cfg}
	if s.Pin != neck.NoFrets {
		if v, ok := f.measure(s.Pin, All); ok {
			return []Voicing{v}
		}
	}
	list := f.candidates(b, false)
	if len(list) == 0 { // nothing of this school, or not in this region
		f.cfg.School, f.cfg.Low, f.cfg.High = All, 0, 0
		list = f.candidates(b, false)
	}
	if len(list) == 0 {
		return []Voicing{{Fingering: hand.Silent}}
	}
	order := make([]int, len(list))
	cost := make([]float64, len(list))
	for i := range list {
		order[i], cost[i] = i, list[i].cost()
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Or(cmp.Compare(cost[a], cost[b]), cmp.Compare(a, b)) })
	best := make([]Voicing, 0, weighed)
	for _, i := range order[:min(weighed, len(order))] {
		best = append(best, list[i])
	}
	return best
}

// cost is the work of a voicing by itself.
func (v *Voicing) cost() float64 { return grade.Work(v.Hold) + v.Taste() + place(v.Fingering) }

// Taste is what speaks against a voicing beside the work: what is lost of the
// harmony, and of the sound where the school means to keep it full.
func (v *Voicing) Taste() float64 {
	taste := harmonyWeight * (1 - v.Fidelity)
	if v.School == Open || v.School == All {
		taste += thinner * float64(max(5-v.Sounding(), 0))
	}
	return taste
}

// harmonyWeight is the work that is worth a whole chord, thinner what is worth
// one more string.
const (
	harmonyWeight = 3
	thinner       = 0.08
)

// place is the taste against a place of the hand, as in ease.
func place(g hand.Fingering) float64 {
	base := float64(g.Base())
	high := max(base-7, 0)
	return 0.02*base + 0.006*high*high
}

// stop is a voicing with what a step to or from it needs.
type stop struct {
	grip  hand.Grip
	base  int
	hold  float64
	taste float64
}

func stopOf(v *Voicing) stop {
	return stop{v.Grip(), v.Base(), v.Hold, v.Taste() + place(v.Fingering)}
}

// step is the work of going from one voicing to the next in a gap of time.
func step(from, to *stop, gap grade.Gap, n neck.Neck, school hand.School) float64 {
	c := from.grip.To(&to.grip)
	mm := 0.0
	if from.base > 0 && to.base > 0 { // a shape without fingers leaves the hand free
		mm = n.Along(from.base, to.base)
	}
	return grade.Work(to.hold+gap.Total(mm, grade.Placing(c), grade.Strings(c, school))) + to.taste + mm/400
}

// shift is how far the hand moves; a shape without fingers leaves it free.
func shift(from, to *Voicing, n neck.Neck) float64 {
	a, b := from.Base(), to.Base()
	if a == 0 || b == 0 {
		return 0
	}
	return n.Along(a, b)
}

// cheapest finds the path of least work through the choices of all slots.
func cheapest(slots []Slot, lists [][]Voicing, p hand.Player) []int {
	if len(lists) == 0 {
		return nil
	}
	n := p.Neck()
	cost := make([]float64, len(lists[0]))
	for i := range lists[0] {
		cost[i] = lists[0][i].cost()
	}
	back := make([][]int, len(lists))
	stops := map[*Voicing][]stop{} // of a list, by its first voicing
	of := func(list []Voicing) []stop {
		if stops[&list[0]] == nil {
			for i := range list {
				stops[&list[0]] = append(stops[&list[0]], stopOf(&list[i]))
			}
		}
		return stops[&list[0]]
	}
	for k := 1; k < len(lists); k++ {
		before, after, gap := of(lists[k-1]), of(lists[k]), grade.Over(slots[k-1].Seconds)
		next := make([]float64, len(lists[k]))
		back[k] = make([]int, len(lists[k]))
		for j := range lists[k] {
			next[j] = math.Inf(1)
			for i := range lists[k-1] {
				if cost[i] >= next[j] {
					continue // a step costs at least nothing
				}
				if c := cost[i] + step(&before[i], &after[j], gap, n, p.Picking); c < next[j] {
					next[j], back[k][j] = c, i
				}
			}
		}
		cost = next
	}
	path := make([]int, len(lists))
	best := 0
	for i := range cost {
		if cost[i] < cost[best] {
			best = i
		}
	}
	for k := len(lists) - 1; k >= 0; k-- {
		path[k] = best
		if k > 0 {
			best = back[k][best]
		}
	}
	return path
}

// changeTo describes the change to a chord.
func changeTo(from, to *Voicing, s, before Slot, cfg Config) Change {
	n := cfg.Player.Neck()
	c := Change{Shift: shift(from, to, n), Seconds: before.Seconds}
	c.Anchors, c.Guides = hand.Anchors(from.Fingering, to.Fingering)
	between := hand.Between(from.Fingering, to.Fingering)
	c.Ease = 1 / (1 + grade.Over(before.Seconds).Total(c.Shift, grade.Placing(between), grade.Strings(between, cfg.Player.Picking)))
	for i := range to.Frets {
		if to.Frets[i] >= 0 && to.Frets[i] == from.Frets[i] {
			class := cfg.Tuning.Pitch(neck.StringAt(i), int(to.Frets[i])).Class()
			for _, t := range s.Chord.Tones {
				if t.Note.Class() == class {
					c.Common = append(c.Common, t.Note.String())
				}
			}
		}
	}
	return c
}

// others lists the next best voicings of one chord between neighbours that
// stay as they are.
func others(slots []Slot, lists [][]Voicing, path []int, i int, f finder, cfg Config) []Voicing {
	n := cfg.Player.Neck()
	cost := make([]float64, len(lists[i]))
	order := make([]int, len(lists[i]))
	for j := range lists[i] {
		order[j] = j
		here := stopOf(&lists[i][j])
		if i > 0 {
			before := stopOf(&lists[i-1][path[i-1]])
			cost[j] += step(&before, &here, grade.Over(slots[i-1].Seconds), n, cfg.Player.Picking)
		} else {
			cost[j] += lists[i][j].cost()
		}
		if i+1 < len(lists) {
			after := stopOf(&lists[i+1][path[i+1]])
			cost[j] += step(&here, &after, grade.Over(slots[i].Seconds), n, cfg.Player.Picking)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(cost[a], cost[b]) })
	var list []Voicing
	for _, j := range order {
		if j != path[i] && len(list) < cfg.Max {
			v := lists[i][j]
			f.describe(&v)
			list = append(list, v)
		}
	}
	return list
}

// Capo is a place for the capo and what a progression takes there.
type Capo struct {
	Fret   int
	Shapes []chord.Chord // as they are fingered, seen from the capo
	Key    string        // of the shapes, empty where none is given
	Barres int
	New    int     // shapes that the player has not learnt yet
	Ease   float64 // mean of the shapes
	Work   float64
}

// needsBarre tells whether a shape cannot be held without a finger across
// several strings.
func needsBarre(frets neck.Frets, p hand.Player) bool {
	p.NoBarre = true
	return len(p.Fingerings(frets)) == 0
}

// capoTaste is what speaks against each fret that the capo goes up: the sound
// gets thinner.
const capoTaste = 0.15

// usualCapo is the highest fret that a capo is put at.
const usualCapo = 9

// Capos weighs all places for a capo: fewest barres, then fewest new shapes,
// then least work. The chords are those that sound.
func (b *Book) Capos(chords []chord.Chord, cfg Config) []Capo {
	cfg = cfg.usual()
	var list []Capo
	for fret := 0; fret <= usualCapo; fret++ {
		at := Capo{Fret: fret, Work: capoTaste * float64(fret)}
		open := cfg
		open.Player.Capo = fret
		known := map[string][]Voicing{}
		for _, c := range chords {
			shape := c.Transposed(-fret, shapeKey(cfg.Key, fret))
			at.Shapes = append(at.Shapes, shape)
			key := shape.Canonical()
			best, seen := known[key]
			if !seen {
				best = b.Usual(shape, cfg.Tuning, open.Player, 1)
				known[key] = best
			}
			if len(best) == 0 {
				at.Work += 3
				continue
			}
			v := best[0]
			at.Work += v.cost()
			at.Ease += v.Ease / float64(len(chords))
			if !seen {
				if needsBarre(v.Frets, open.Player) {
					at.Barres++
				}
				if cfg.Player.New&grade.ShapeSkills(v.Fingering) != 0 {
					at.New++
				}
			}
		}
		if cfg.Key.Valid() {
			at.Key = shapeKey(cfg.Key, fret).String()
		}
		list = append(list, at)
	}
	slices.SortStableFunc(list, func(a, b Capo) int {
		return cmp.Or(cmp.Compare(a.Barres, b.Barres), cmp.Compare(a.New, b.New), cmp.Compare(a.Work, b.Work))
	})
	return list
}

// shapeKey is the key of the shapes below a capo.
func shapeKey(k pitch.Key, fret int) pitch.Key {
	if !k.Valid() {
		return k
	}
	return k.Transposed(-fret)
}
