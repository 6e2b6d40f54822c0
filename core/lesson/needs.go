package lesson

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// Needs is what a version of a part asks of whoever plays it, whatever they have.
type Needs struct {
	Shapes  []Held       // each once, in the order in which they come
	Changes [][2]Held    // that are hard, the hardest first
	Rhythm  []ReasonKind // what is not plain about its rhythm, each once: OffBeat to OddTime
	Skills  hand.Skills  // techniques of both hands
	Pace    float64      // strokes a second, over the bar in which they come fastest
	Reach   float64      // mm, of the widest shape
}

// NeedsOf measures what a version of a part of a song asks of a player.
func NeedsOf(s *song.Song, v *arrange.Version, p hand.Player) (n Needs) {
	chosen := make([]Chosen, len(s.Parts))
	chosen[v.Part].Version = v
	b := newBuilder(s, chosen, Student{Player: p}, v.Tempo)
	view := b.view(v.Part)
	for j := range view.holds {
		h := &view.holds[j]
		if key := keyOf(h.Frets); isShape(h.Fingering) && !b.shapes[key] {
			b.shapes[key] = true
			n.Shapes = append(n.Shapes, h.Held)
		}
	}
	for _, c := range hardOf(b.changesOf(view)) {
		n.Changes = append(n.Changes, [2]Held{c.from.Held, c.to.Held})
	}
	for i := range v.Bars {
		bar := &v.Bars[i]
		for _, r := range hard(bar, view.part) {
			if !slices.Contains(n.Rhythm, r.Kind) {
				n.Rhythm = append(n.Rhythm, r.Kind)
			}
		}
		for j := range bar.Events {
			e := &bar.Events[j]
			written := e.From
			if !v.Rung.Literal() {
				written = nil
			}
			if len(e.Notes) > 0 {
				n.Skills |= grade.TechniqueSkills(written, e.Muted) | grade.ShapeSkills(e.Fingering)
			}
			n.Reach = max(n.Reach, e.Fingering.Reach(b.at.Neck))
		}
		inBar, _ := view.strokes(i)
		n.Pace = max(n.Pace, inBar)
	}
	slices.Sort(n.Rhythm)
	return n
}

// Holds tells whether somebody has a shape as it is called, or one of which it is a part.
func (k Known) Holds(name string, f neck.Frets) bool {
	return k.Has(f) || name != "" && k.names[name] || k.covers(f)
}

// ShapeKey is the same for shapes that are learnt as one: a shape without open strings is the same
// along the neck, one of up to three strings across it as well.
func ShapeKey(f neck.Frets) neck.Frets { return neck.Frets(keyOf(f)) }

// FamilyOf is the family to which a shape belongs, as Families names them; empty for none.
func FamilyOf(f neck.Frets) string {
	key := keyOf(f)
	for _, name := range Families() {
		for _, text := range families[name] {
			if of, err := neck.ParseFrets(text); err == nil && keyOf(of) == key {
				return name
			}
		}
	}
	return ""
}
