package take

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// decided is what a player may decide about an event: the stroke, the shape of a chord by
// name, and the fingers of notes.
type decided struct {
	stroke  song.Stroke
	frets   neck.Frets
	fingers [neck.Strings]song.Finger
}

// mostRounds is how often fingers are looked at again after one of each part was kept.
const mostRounds = 8

// fingersOf are the fingers that an event was given.
func fingersOf(e *song.Event) (fingers [neck.Strings]song.Finger) {
	if e.Kind == song.Chord {
		return e.Fingers
	}
	for _, n := range e.Notes {
		fingers[n.String.Index()] = n.Finger
	}
	return fingers
}

// finger gives an event its fingers.
func finger(e *song.Event, fingers [neck.Strings]song.Finger) {
	if e.Kind == song.Chord {
		e.Fingers = fingers
		return
	}
	notes := slices.Clone(e.Notes)
	for k := range notes {
		notes[k].Finger = fingers[notes[k].String.Index()]
	}
	e.Notes = notes
}

// otherwise tells whether of the fingers that an event was given some are others than
// what is decided.
func (d decided) otherwise(than decided) bool {
	for i, by := range d.fingers {
		if by != 0 && than.fingers[i] != by {
			return true
		}
	}
	return false
}

// anyway leaves out what the arranger would decide anyway of a part in which nothing is
// decided: strokes and fingers, and in a song that this program wrote the shapes of its
// chords. Where leaving something out would change anything else of the part, all of it
// stays, as it does where there is more than can be looked at.
func (b *builder) anyway() {
	b.plucked()
	for i := range b.voices {
		player := b.voices[i].player
		if b.ctx.Err() != nil {
			return
		}
		marked := map[*song.Event]decided{}
		b.eachStruck(player, func(_ int, e *song.Event) {
			d := decided{e.Stroke, neck.NoFrets, fingersOf(e)}
			if e.Kind == song.Chord && e.Line != givenShape && b.score.Own {
				d.frets = e.Frets
			}
			e.Line = 0
			if d == (decided{frets: neck.NoFrets}) {
				return
			}
			marked[e] = d
			e.Stroke = song.NoStroke
			finger(e, [neck.Strings]song.Finger{})
			if d.frets != neck.NoFrets {
				e.Frets = neck.NoFrets
			}
		})
		if len(marked) == 0 {
			continue
		}
		if !b.spend(player, 2) {
			for e, d := range marked {
				e.Stroke = d.stroke
				if d.frets != neck.NoFrets {
					e.Frets = d.frets
				}
				finger(e, d.fingers)
			}
			continue
		}
		keep := func(e *song.Event, stroke, frets, fingers bool) {
			d, ok := marked[e]
			if ok && stroke {
				e.Stroke = d.stroke
			}
			if ok && (frets || fingers && d.fingers != [neck.Strings]song.Finger{}) && d.frets != neck.NoFrets {
				e.Frets = d.frets
			}
			if ok && fingers {
				finger(e, d.fingers)
			}
		}
		without := b.decides(player)
		b.eachStruck(player, func(_ int, e *song.Event) {
			d, was := without[e], marked[e]
			keep(e, d.stroke != was.stroke, d.frets != was.frets, false)
		})
		again := b.decides(player)
		for round, more := 0, true; more && round <= mostRounds && b.spend(player, 1); round++ {
			// What is kept decides over what comes after it: one at a time, and at last all.
			more = false
			had := -1
			b.eachStruck(player, func(part int, e *song.Event) {
				if d, ok := marked[e]; ok && d.otherwise(again[e]) && fingersOf(e) != d.fingers && (had < part || round == mostRounds) {
					keep(e, false, false, true)
					more, had = true, part
				}
			})
			if more {
				again = b.decides(player)
			}
		}
		changed := make([]bool, len(b.song.Parts))
		b.eachStruck(player, func(part int, e *song.Event) {
			d, ok := marked[e]
			changed[part] = changed[part] || ok && (d.stroke != song.NoStroke && again[e].stroke != d.stroke || d.frets != neck.NoFrets && again[e].frets != d.frets || d.otherwise(again[e]))
		})
		b.eachStruck(player, func(part int, e *song.Event) { keep(e, changed[part], changed[part], changed[part]) })
	}
}

// plucked reads a part in which every note is plucked as its string has it as one that is
// played without a pick, and leaves out what its strings say anyway.
func (b *builder) plucked() {
	each := func(do func(p *song.Part, n *song.Note, usual song.Pluck)) {
		for _, v := range b.voices {
			b.eachStruck(v.player, func(part int, e *song.Event) {
				e.Notes = slices.Clone(e.Notes)
				strings := e.Strings()
				for k, by := range hand.Pluck(strings, nil) {
					if at := slices.IndexFunc(e.Notes, func(n song.Note) bool { return n.String == strings[k] }); at >= 0 {
						do(&b.song.Parts[part], &e.Notes[at], by)
					}
				}
			})
		}
	}
	plucks, otherwise := map[*song.Part]bool{}, map[*song.Part]bool{}
	each(func(p *song.Part, n *song.Note, usual song.Pluck) {
		plucks[p] = plucks[p] || n.Pluck == usual
		otherwise[p] = otherwise[p] || n.Pluck != usual
	})
	for i := range b.song.Parts {
		p := &b.song.Parts[i]
		p.Plucked = p.Plucked || plucks[p] && !otherwise[p]
	}
	each(func(p *song.Part, n *song.Note, usual song.Pluck) {
		if p.Plucked && n.Pluck == usual {
			n.Pluck = song.NoPluck
		}
	})
}

// eachStruck does something with everything that a player strikes.
func (b *builder) eachStruck(player string, do func(part int, e *song.Event)) {
	for i := range b.song.Parts {
		p := &b.song.Parts[i]
		for j := range p.Lines {
			bars := barsOf(&p.Lines[j], player)
			for k := range bars {
				for n := range bars[k].Events {
					if e := &bars[k].Events[n]; e.Sounds() {
						do(i, e)
					}
				}
			}
		}
	}
}

// decides is what is played of a player's events as they stand.
func (b *builder) decides(player string) map[*song.Event]decided {
	alone := b.alone(player)
	a := arrange.New(alone, arrange.Options{})
	list := map[*song.Event]decided{}
	for i := range b.song.Parts {
		p := &b.song.Parts[i]
		if player != "" && !slices.Contains(p.Players(), player) {
			continue
		}
		v := a.Version(i, arrange.AsWritten, arrange.Way{FullRhythm: true})
		at := 0
		for j := range p.Lines {
			bars := barsOf(&p.Lines[j], player)
			for k := range bars {
				next := 0
				for n := range bars[k].Events {
					e := &bars[k].Events[n]
					for events := v.Bars[at+k].Events; next < len(events) && !e.Start.Less(events[next].Start); next++ {
						if events[next].Start != e.Start {
							continue
						}
						d := decided{stroke: events[next].Stroke, frets: neck.NoFrets}
						for i, by := range events[next].Fingering.Fingers {
							d.fingers[i] = song.Finger(by)
						}
						if e.Kind == song.Chord {
							d.frets = events[next].Fingering.Frets
						}
						list[e] = d
					}
				}
			}
			at += len(alone.Parts[i].Lines[j].Bars)
		}
	}
	return list
}

// alone is the song as if a player were the only one.
func (b *builder) alone(player string) *song.Song {
	alone := *b.song
	alone.Parts = slices.Clone(b.song.Parts)
	for i := range alone.Parts {
		if player != "" {
			alone.Parts[i] = alone.Parts[i].Of(player)
		}
	}
	return &alone
}
