package lesson

import (
	"cmp"
	"slices"
	"strings"

	"valleyside/core/drill"
	"valleyside/core/grade"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

func (b *builder) place(v *view, bar, event int, what grade.Demand) drill.Place {
	return drill.Place{Song: b.song, Version: v.version, Bar: bar, Event: event, For: what}
}

// places lists the hard places of a part, the hardest first, each for something else.
func (b *builder) places(v *view) (list []drill.Place) {
	type spot struct {
		bar, event int
		demand     float64
		what       grade.Demand
	}
	var spots []spot
	for j := range v.version.Bars {
		for k := range v.version.Bars[j].Events {
			if e := &v.version.Bars[j].Events[k]; e.Demand >= hardPlace && e.Hard != nil {
				spots = append(spots, spot{j, k, e.Demand, e.Hard.Spot.Demand})
			}
		}
	}
	slices.SortStableFunc(spots, func(x, y spot) int { return cmp.Compare(y.demand, x.demand) })
	had := map[grade.Demand]bool{}
	for _, s := range spots {
		if !had[s.what] && len(list) < mostPlaces {
			had[s.what] = true
			list = append(list, b.place(v, s.bar, s.event, s.what))
		}
	}
	return list
}

// drills gives a change that has a step of its own the drill for its way along the neck;
// the change itself is what is played in it.
func (b *builder) drills(v *view, places []drill.Place) {
	for i := range b.steps {
		s := &b.steps[i]
		if s.Kind != Change || s.Part != v.index {
			continue
		}
		for _, p := range places {
			if e := &v.version.Bars[p.Bar].Events[p.Event]; e == s.Why[0].Event && p.For == grade.Shift {
				s.places = append(s.places, p)
			}
		}
	}
}

// muted tells whether a string between two that sound is silent.
func muted(f neck.Frets) bool {
	gap := false
	sounds := false
	for _, fret := range f {
		switch {
		case fret < 0:
			gap = gap || sounds
		case gap:
			return true
		default:
			sounds = true
		}
	}
	return false
}

// setDrills makes the drills for the hard places of the steps, without what is played in the
// step itself; an exercise is left to the first step that has it.
func (b *builder) setDrills() {
	had := map[string]bool{}
	for i := range b.steps {
		s := &b.steps[i]
		for _, p := range s.places {
			d, _ := drill.Of(p)
			d.Exercises = slices.DeleteFunc(d.Exercises, func(e drill.Exercise) bool {
				key := exerciseKey(&e)
				again := had[key] || s.Kind == Shape && e.How == drill.OneByOne
				had[key] = true
				return again
			})
			if len(d.Exercises) > 0 {
				s.Drills = append(s.Drills, d)
			}
		}
	}
}

// exerciseKey is the same for exercises of which the same is played.
func exerciseKey(e *drill.Exercise) string {
	return e.Meter.String() + played(e.Bars)
}

// played is the same for bars in which the same is played.
func played(bars []song.Bar) string {
	var k strings.Builder
	for i := range bars {
		k.WriteString(" |")
		for j := range bars[i].Events {
			k.WriteByte(' ')
			k.WriteString(bars[i].Events[j].Start.String())
			k.WriteByte(' ')
			k.WriteString(sheet.FormatEvent(&bars[i].Events[j]))
		}
	}
	return k.String()
}
