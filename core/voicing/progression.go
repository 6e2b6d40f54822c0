package voicing

import (
	"cmp"
	"math"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/path"
)

// Chosen is a chord of a progression with its voicing, and the change that
// leads to it.
type Chosen struct {
	Chord chord.Chord
	Voicing
	Link Change
	// Others are the next best voicings for this chord, the rest staying.
	Others []Voicing
}

// Link is what leads from one voicing to the next.
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
const weighed = 24

// Progression chooses voicings for chords together: of all choices the one of
// least work, for holding the shapes, for the changes in the time that each
// chord has, for what is lost of the harmony, and for a register and a texture
// that hold. The same chord is the same shape wherever it stands. Chords for
// which nothing can be played come out with hand.Lifted.
func (b *Book) Progression(slots []Slot, cfg Config) []Chosen {
	cfg = cfg.usual()
	p := newProgression(b, slots, cfg)
	picked := p.graph.Solve().States
	fingers := p.fingers(picked, slots)
	chosen := make([]Chosen, len(slots))
	for i, s := range slots {
		f := finder{chord: s.Chord, cfg: cfg}
		v := p.lists[p.node[i]][picked[p.node[i]]]
		v.Fingering = fingers[p.node[i]]
		f.describe(&v)
		chosen[i] = Chosen{Chord: s.Chord, Voicing: v, Link: Change{Ease: 1}}
		if i > 0 {
			chosen[i].Link = changeTo(&chosen[i-1].Voicing, &chosen[i].Voicing, s, slots[i-1], cfg)
		}
		if cfg.Max > 0 {
			chosen[i].Others = p.others(picked, p.node[i], f)
		}
	}
	return chosen
}

// progression is a graph of chords with a node for each that differs.
type progression struct {
	cfg   Config
	graph path.Graph
	node  []int       // by slot
	lists [][]Voicing // by node
	stops [][]Stop
}

func newProgression(b *Book, slots []Slot, cfg Config) *progression {
	p := &progression{cfg: cfg, node: make([]int, len(slots))}
	type key struct {
		chord string
		pin   neck.Frets
	}
	known := map[key]int{}
	for i, s := range slots {
		k := key{s.Chord.Canonical(), s.Pin}
		n, ok := known[k]
		if !ok {
			list := b.choices(s, cfg)
			stops := make([]Stop, len(list))
			own := make([]float64, len(list))
			for j := range list {
				stops[j] = StopOf(&list[j])
			}
			n = p.graph.Node(own)
			known[k] = n
			p.lists, p.stops = append(p.lists, list), append(p.stops, stops)
		}
		p.node[i] = n
		for j := range p.lists[n] {
			cost := p.stops[n][j].Taste
			if i == 0 {
				cost += grade.Work(p.stops[n][j].Hold)
			}
			p.graph.Add(n, j, cost)
		}
		if i > 0 {
			from, to := p.stops[p.node[i-1]], p.stops[n]
			gap := grade.Over(slots[i-1].Seconds)
			p.graph.Link(p.node[i-1], n, 1, func(k int, row []float64) {
				for j := range to {
					row[j] = from[k].To(&to[j], gap, cfg.In.Neck, cfg.Player.Picking)
				}
			})
		}
	}
	return p
}

// fingers chooses the fingers of the shapes that are picked together: the taught ones or
// nearly so, where a finger that could stay does.
func (p *progression) fingers(picked []int, slots []Slot) []hand.Fingering {
	var g path.Graph
	forms := make([][]hand.Held, len(p.lists))
	at := p.cfg.at()
	for n, list := range p.lists {
		v := &list[picked[n]]
		forms[n] = at.Forms(nil, v.Frets)
		if len(forms[n]) == 0 {
			forms[n] = []hand.Held{{Fingering: v.Fingering}}
		}
		least := slices.MinFunc(forms[n], func(a, b hand.Held) int { return cmp.Compare(a.Form, b.Form) }).Form
		own := make([]float64, len(forms[n]))
		for k := range own {
			own[k] = grade.OffForm(forms[n][k].Form - least)
		}
		g.Node(own)
	}
	for i := 1; i < len(slots); i++ {
		from, to := forms[p.node[i-1]], forms[p.node[i]]
		gap := grade.Over(slots[i-1].Seconds)
		g.Link(p.node[i-1], p.node[i], 1, func(k int, row []float64) {
			for j := range to {
				c := hand.Between(from[k].Fingering, to[j].Fingering)
				row[j] = grade.Work(gap.Total(0, grade.Placing(c), 0)) + grade.LettingGo(hand.LetGo(&from[k].Fingering, &to[j].Fingering))
			}
		})
	}
	chosen := g.Solve().States
	list := make([]hand.Fingering, len(forms))
	for n := range forms {
		list[n] = forms[n][chosen[n]].Fingering
	}
	return list
}

// others lists the next best voicings of one chord, the rest staying.
func (p *progression) others(picked []int, node int, f finder) []Voicing {
	states := slices.Clone(picked)
	order := make([]int, len(p.lists[node]))
	cost := make([]float64, len(order))
	for j := range order {
		states[node] = j
		order[j], cost[j] = j, p.graph.Total(states)
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(cost[a], cost[b]) })
	var list []Voicing
	for _, j := range order {
		if j != picked[node] && len(list) < p.cfg.Max {
			v := p.lists[node][j]
			f.describe(&v)
			list = append(list, v)
		}
	}
	return list
}

// Stop is a voicing with what going to it or from it costs.
type Stop struct {
	Grip  hand.Grip
	Base  int
	Hold  float64
	Taste float64
	Voice grade.Voice
	Named bool // the chord names its bass, which is a line with its neighbours'
}

// StopOf is the stop of a voicing.
func StopOf(v *Voicing) Stop {
	return Stop{v.Grip(), v.Base(), v.Hold, v.Taste() + grade.Place(v.Base()),
		grade.Voice{Strings: int8(v.Sounding()), Low: int16(v.low), High: int16(v.high)}, v.slash}
}

// To is what it costs to go on to the next stop in a gap of time, its own taste
// left out.
func (s *Stop) To(next *Stop, gap grade.Gap, n neck.Neck, way hand.Picking) float64 {
	c := s.Grip.To(&next.Grip)
	mm := 0.0
	if s.Base > 0 && next.Base > 0 { // a shape without fingers leaves the hand free
		mm = n.Along(s.Base, next.Base)
	}
	cost := grade.Work(next.Hold+gap.Total(mm, grade.Placing(c), grade.Strings(c, way))) + grade.Way(mm) + grade.Leap(s.Voice, next.Voice)
	if s.Named || next.Named {
		cost += grade.BassLine(s.Voice, next.Voice)
	}
	return cost
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
	f := finder{chord: s.Chord, cfg: cfg}
	if s.Pin != neck.NoFrets {
		if v, ok := f.measure(s.Pin, All); ok {
			return []Voicing{v}
		}
	}
	cfg.Max, cfg.Dominated = 0, false // what is shown does not change what there is
	key := listKey{s.Chord.Symbol + " " + s.Chord.Canonical(), cfg}
	b.open()
	list, ok := b.lists.Get(key)
	if ok {
		return list
	}
	list = b.weigh(f)
	b.lists.Add(key, list)
	return list
}

// weigh works out choices: those of the school, or, where it has none there,
// any.
func (b *Book) weigh(f finder) []Voicing {
	list := f.choices(b)
	if len(list) == 0 && f.cfg.School != All {
		f.cfg.School = All
		list = f.choices(b)
	}
	if len(list) == 0 {
		f.cfg.Low, f.cfg.High = 0, 0
		list = f.choices(b)
	}
	if len(list) == 0 {
		return []Voicing{{Fingering: hand.Lifted}}
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

// choices lists the candidates that a progression may use: where a chord is to
// sound whole, no scrap of it, and on its own bass.
func (f *finder) choices(b *Book) []Voicing {
	if f.cfg.School != All && f.cfg.School != Open {
		return f.candidates(b)
	}
	list := f.full(b)
	barre := len(list) > 0 && HardBarre(list[0].Fingering)
	least := 4
	if f.cfg.High > 0 || len(f.chord.Tones) < 3 {
		least = 3
	}
	bass := f.chord.Lowest().Class()
	kept := list[:0]
	for _, v := range list {
		if v.Role != Shown && v.School == Few {
			v.School = All
		}
		if v.Thinned && !barre { // a full easy chord is not thinned for its neighbours
			continue
		}
		onBass := v.low.Class() == bass || v.Thinned && barre || f.cfg.High > 0 && !f.chord.Bass.Valid()
		if f.inRegion(&v) && onBass && v.Sounding() >= least {
			kept = append(kept, v)
		}
	}
	return kept
}

// cost is the work of a voicing by itself.
func (v *Voicing) cost() float64 {
	return grade.Work(v.Hold) + v.Taste() + grade.Place(v.Base())
}

// What speaks against a voicing beside the work. Held by the progressions of
// docs/judgement.md.
const (
	harmonyWeight = 3.0  // the work that is worth a whole chord
	thinner       = 0.3  // one string less than five, where a chord is to sound full
	unusual       = 2.0  // a shape that nobody is shown
	thinnedFull   = 1.3  // a usual one with its thick strings left out, where a chord is to sound full
	smallest      = 4    // strings of a small shape, at most
	upTheNeck     = 0.25 // for each fret above the fifth of a small shape that could lie lower
	onThinStrings = 0.6  // for each string that two notes lie above the fourth
	alsoUsual     = 0.25 // another form than the first
	alsoHigher    = 0.2  // for each fret that it lies above that one
	inside        = 0.5  // a silent string between sounding ones
	turned        = 0.4  // few strings that do not stand on the root
	thinnedShape  = 0.1  // a usual shape with its thick strings left out
	scrap         = 2.5  // few strings of a chord whose usual shape is easy already
	notUsual      = 2.2  // few strings that are no part of a usual shape
	three         = 0.12 // three of them where there may be four
	regionTurned  = 1.5  // another note than the root lowest, where frets are given to stay between
	loose         = 0.06 // a string beside the shape that no hand can stop
)

// Taste is what speaks against a voicing beside the work: what is lost of the
// harmony, and of the sound and the custom where a chord is to sound full.
func (v *Voicing) Taste() float64 {
	taste := harmonyWeight*(1-v.Fidelity) + inside*float64(v.Inside())
	if v.Sounding() <= smallest {
		taste += upTheNeck * math.Max(float64(v.Base()-openUpTo), 0)
	}
	if v.scrap {
		taste += scrap
	}
	if v.inRegion && !v.onBass {
		taste += regionTurned
	}
	switch {
	case v.Thinned && v.School != Few:
		return taste - harmonyWeight*(v.lostByBass()) + thinnedFull
	case v.Thinned && !v.onBass:
		return taste - harmonyWeight*v.lostByBass() + thinnedShape // its bass belongs to its register
	case v.Thinned:
		return taste + thinnedShape
	case v.Role == Shown:
		return taste
	case v.Role == AlsoUsual:
		return taste + alsoUsual + alsoHigher*float64(v.above)
	case v.School == Few:
		for _, m := range v.Mutes(0, false) {
			if m.Stop == hand.NotStruck {
				taste += loose
			}
		}
		if v.Sounding() < fewStrings {
			taste += three
		}
		if v.onBass {
			return taste + notUsual
		}
		return taste + notUsual + turned
	case v.School == Letter || v.School == Drone:
		return taste
	case v.School == Third:
		return taste + onThinStrings*math.Max(float64(4-v.Lowest()), 0)
	case v.School == Open || v.School == All:
		return taste + unusual + thinner*math.Max(float64(5-v.Sounding()), 0)
	}
	return taste
}

// lostByBass is what a voicing of all tones has lost by its bass alone.
func (v *Voicing) lostByBass() float64 {
	if v.onBass {
		return 0
	}
	return math.Min(1-v.Fidelity, turnsBass)
}

// changeTo describes the change to a chord.
func changeTo(from, to *Voicing, s, before Slot, cfg Config) Change {
	c := Change{Seconds: before.Seconds}
	if a, b := from.Base(), to.Base(); a > 0 && b > 0 { // a shape without fingers leaves the hand free
		c.Shift = cfg.In.Along(a, b)
	}
	c.Anchors, c.Guides = hand.Anchors(from.Fingering, to.Fingering)
	between := hand.Between(from.Fingering, to.Fingering)
	c.Ease = 1 / (1 + grade.Over(before.Seconds).Total(c.Shift, grade.Placing(between), grade.Strings(between, cfg.Player.Picking)))
	for i := range to.Frets {
		if to.Frets[i] >= 0 && to.Frets[i] == from.Frets[i] {
			class := cfg.In.Pitch(neck.StringAt(i), int(to.Frets[i])).Class()
			for _, t := range s.Chord.Tones {
				if t.Class() == class {
					c.Common = append(c.Common, t.Note.String())
				}
			}
		}
	}
	return c
}
