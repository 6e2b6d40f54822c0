package arrange

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Typed is the part of the song that the version was made of, with what the version
// plays in the place of what is written, as if the teacher had typed it: on the strings
// and frets of the version, its chords with their voicings. Where a pass of a line
// differs, the passes are lines of their own. What other players have is left out.
func (v *Version) Typed(p *song.Part) song.Part {
	typed := *p
	typed.Lines = nil
	at := 0
	for i := range p.Lines {
		l := &p.Lines[i]
		if !v.differ(at, len(l.Bars)) {
			typed.Lines = append(typed.Lines, song.Line{Bars: v.typedBars(p, l.Bars, at, 1), Times: l.Times, Words: l.Words})
		} else {
			for pass := 1; pass <= l.Times; pass++ {
				typed.Lines = append(typed.Lines, song.Line{Bars: v.typedBars(p, l.Bars, at, pass), Times: 1, Words: l.Words})
			}
		}
		at += len(l.Bars)
	}
	return typed
}

// Rewritten is the whole song in the tuning that it is arranged for, each part as written
// with nothing left out, and the versions that say what that costs. What other players
// have is left out.
func (a *Arranger) Rewritten() (*song.Song, []Version) {
	there := *a.set.song
	there.Tuning, there.Capo, there.Names = a.set.in.Tuning, a.set.in.Capo, song.Sounding
	there.Parts = slices.Clone(there.Parts)
	versions := make([]Version, len(there.Parts))
	for i := range there.Parts {
		versions[i] = a.Version(i, AsWritten, Way{FullRhythm: true})
		there.Parts[i] = versions[i].Typed(&a.set.song.Parts[i])
	}
	return &there, versions
}

// TypedBars says of each bar of Typed which written bar it is, from 1, and for which pass
// of its line alone; 0 is every pass.
func (v *Version) TypedBars(p *song.Part) (of [][2]int) {
	at := 0
	for i := range p.Lines {
		l := &p.Lines[i]
		passes := []int{0}
		if v.differ(at, len(l.Bars)) {
			passes = passes[:0]
			for pass := 1; pass <= l.Times; pass++ {
				passes = append(passes, pass)
			}
		}
		for _, pass := range passes {
			for j := range l.Bars {
				of = append(of, [2]int{at + j + 1, pass})
			}
		}
		at += len(l.Bars)
	}
	return of
}

// differ tells whether any pass differs of so many written bars.
func (v *Version) differ(from, bars int) bool {
	return slices.ContainsFunc(v.Passes, func(p Pass) bool { return p.Number > from && p.Number <= from+bars })
}

func (v *Version) typedBars(p *song.Part, written []song.Bar, at, pass int) []song.Bar {
	bars := make([]song.Bar, len(written))
	for i := range written {
		bars[i] = song.Bar{Meter: written[i].Meter, Lead: written[i].Lead, Same: written[i].Same, Unsure: written[i].Unsure, Events: v.typedEvents(p, &written[i], v.In(at+i, pass))}
	}
	return bars
}

// typedEvents are the events of a bar: those that the version plays, and the silences
// that are written. What thinning has left out is held over.
func (v *Version) typedEvents(p *song.Part, written *song.Bar, b *Bar) []song.Event {
	events := make([]song.Event, 0, len(written.Events))
	next := 0
	rests := func(until pitch.Frac) {
		for ; next < len(written.Events) && written.Events[next].Start.Less(until); next++ {
			if e := &written.Events[next]; !e.Sounds() {
				events = append(events, *e)
			}
		}
	}
	for i := range b.Events {
		rests(b.Events[i].Start)
		events = append(events, v.typedEvent(&b.Events[i]))
	}
	rests(p.Measure(written).Meter.Bar())
	return events
}

// typedEvent is one event as it would be typed.
func (v *Version) typedEvent(e *Event) song.Event {
	typed := *e.From
	if e.From.Kind == song.Notes && v.Rung.row().literal {
		typed = *e.Placed()
	}
	typed.Start, typed.Length = e.Start, e.Length
	switch {
	case len(e.Notes) == 0 || v.Rung.row().literal && e.From.Kind == song.Notes:
	case e.From.Kind == song.Chord:
		if c, ok := e.Name(); ok {
			typed.Chord, typed.Frets = c, e.Fingering.Frets
			if typed.Frets != e.From.Frets {
				typed.Fingers = [neck.Strings]song.Finger{}
			}
			break
		}
		typed.Kind, typed.Chord, typed.Frets, typed.Fingers, typed.Notes = song.Notes, chord.Chord{}, neck.NoFrets, [neck.Strings]song.Finger{}, e.plain()
	default:
		typed.Vibrato, typed.Notes = false, e.plain()
	}
	return typed
}

// plain are the notes of an event without ornaments.
func (e *Event) plain() []song.Note {
	notes := make([]song.Note, 0, len(e.Notes))
	for _, n := range e.Notes {
		harmonic := slices.ContainsFunc(e.From.Notes, func(w song.Note) bool { return w.Harmonic && w.String == n.String && w.Fret == n.Fret })
		notes = append(notes, song.Note{String: n.String, Fret: n.Fret, Harmonic: harmonic})
	}
	return notes
}

// saysItself tells whether what sounds is heard as a chord: all of it, or all but a perfect
// fifth and the ninth or eleventh below its highest extension, of three notes at least.
func saysItself(c chord.Chord, sounds pitch.Set) bool {
	if !sounds.In(c.Classes()) {
		return false
	}
	highest := int8(0)
	for _, t := range c.Tones {
		highest = max(highest, t.Degree.Number)
	}
	missing := c.Classes().Minus(sounds)
	for _, t := range c.Tones {
		d := t.Degree
		usual := d == chord.Degree{Number: 5} || (d.Number == 9 || d.Number == 11) && d.Number < highest
		if missing.Has(t.Class()) && !usual {
			return false
		}
	}
	return missing == 0 || sounds.Len() >= 3
}

// Name is the chord that a shape for a chord's name is honestly called: the one that
// is written, whose fifth and whose inner ninths are usually left out, or one that stands
// for it and has just the notes that sound. ok is false where neither has.
func (e *Event) Name() (c chord.Chord, ok bool) {
	var sounds pitch.Set
	for _, n := range e.Notes {
		sounds = sounds.With(n.Name.Class())
	}
	if e.From.Kind == song.Chord && saysItself(e.From.Chord, sounds) {
		return e.From.Chord, true
	}
	for _, f := range e.Why {
		if c, err := chord.Parse(About(f)); err == nil && c.Classes() == sounds {
			return c, true
		}
	}
	return chord.Chord{}, false
}
