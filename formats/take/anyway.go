package take

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// decided is what a player may decide about an event: the stroke, and the shape of a
// chord by name.
type decided struct {
	stroke song.Stroke
	frets  neck.Frets
}

// anyway leaves out what the arranger would decide anyway of a part in which nothing is
// decided: strokes, and in a song that this program wrote the shapes of its chords. Where
// leaving something out would change anything else of the part, all of it stays.
func (b *builder) anyway() {
	for i := range b.voices {
		player := b.voices[i].player
		marked := map[*song.Event]decided{}
		b.eachStruck(player, func(_ int, e *song.Event) {
			d := decided{e.Stroke, neck.NoFrets}
			if e.Kind == song.Chord && e.Line != givenShape && b.score.Own {
				d.frets = e.Frets
			}
			e.Line = 0
			if d == (decided{frets: neck.NoFrets}) {
				return
			}
			marked[e] = d
			e.Stroke = song.NoStroke
			if d.frets != neck.NoFrets {
				e.Frets = neck.NoFrets
			}
		})
		if len(marked) == 0 {
			continue
		}
		keep := func(e *song.Event, stroke, frets bool) {
			d, ok := marked[e]
			if ok && stroke {
				e.Stroke = d.stroke
			}
			if ok && frets && d.frets != neck.NoFrets {
				e.Frets = d.frets
			}
		}
		without := b.decides(player)
		b.eachStruck(player, func(_ int, e *song.Event) {
			keep(e, without[e].stroke != marked[e].stroke, without[e].frets != marked[e].frets)
		})
		again := b.decides(player)
		changed := make([]bool, len(b.song.Parts))
		b.eachStruck(player, func(part int, e *song.Event) {
			d, ok := marked[e]
			changed[part] = changed[part] || ok && (d.stroke != song.NoStroke && again[e].stroke != d.stroke || d.frets != neck.NoFrets && again[e].frets != d.frets)
		})
		b.eachStruck(player, func(part int, e *song.Event) { keep(e, changed[part], changed[part]) })
	}
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
						d := decided{events[next].Stroke, neck.NoFrets}
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
