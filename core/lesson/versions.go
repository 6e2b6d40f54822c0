package lesson

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// A step shows the bars of the version that is learnt, with its own fingers and strokes:
// a bar that comes again is played again in the same way.

// Version is the version that a step plays of a part, and the part, both without what is
// left for later; nil where the part is left out.
func (l *Lesson) Version(s *Step, part int) (*arrange.Version, *song.Part) {
	v, p := l.Chosen[part].Version, l.Song.Parts[part]
	if next := l.Chosen[part].Next; next != nil && s.Rung == next.Rung {
		v = next
	}
	if v == nil || s.Without == 0 {
		return v, &p
	}
	p = strip(p, s.Without)
	plain := *v
	plain.Bars = slices.Clone(v.Bars)
	for i := range plain.Bars {
		plainBar(&plain.Bars[i], &p, s.Without)
	}
	plain.Passes = slices.Clone(v.Passes)
	for i := range plain.Passes {
		plainBar(&plain.Passes[i].Bar, &p, s.Without)
	}
	return &plain, &p
}

// plainBar takes touches off the events of a bar of a version. What is not hammered, pulled
// or slid any more is picked, up where it stands between two beats.
func plainBar(b *arrange.Bar, p *song.Part, off Touches) {
	b.Events = slices.Clone(b.Events)
	for i := range b.Events {
		e := &b.Events[i]
		from := plainer(*e.From, off)
		e.From = &from
		e.Muted = from.Muted(p)
		if e.Stroke == song.NoStroke && hand.Picked(&from) {
			e.Stroke = song.Down
			if e.Start.Div(b.Measure.Meter.Pulse()).Den() > 1 {
				e.Stroke = song.Up
			}
		}
	}
}

// Fingers are those of the shapes and places of the versions of a lesson, wherever they
// are always the same: what is practised out of them is fingered as it is there.
func (l *Lesson) Fingers(s *Step) map[neck.Frets]hand.Fingering {
	known := map[neck.Frets]hand.Fingering{}
	several := map[neck.Frets]bool{}
	for i := range l.Chosen {
		v := l.Chosen[i].Version
		if v == nil {
			continue
		}
		for j := range v.Bars {
			for k := range v.Bars[j].Events {
				f := v.Bars[j].Events[k].Fingering
				if had, ok := known[f.Frets]; ok && had != f {
					several[f.Frets] = true
				}
				known[f.Frets] = f
			}
		}
	}
	for frets := range several {
		delete(known, frets)
	}
	for _, h := range s.Shapes {
		known[h.Frets] = h.Fingering
		for i, fret := range h.Frets { // its strings one by one
			if fret > 0 {
				one := hand.Single(neck.StringAt(i), int(fret), h.Fingers[i])
				known[one.Frets] = one
			}
		}
	}
	return known
}
