package lesson

import (
	"fmt"
	"hash/fnv"
	"io"
	"slices"
	"strconv"

	"valleyside/core/drill"
	"valleyside/core/song"
)

// Music is what is played in a step, as a song of its own at its goal: it can be seen,
// heard, played along to and printed like any other; nil for a step of the teacher's
// that has none.
func (l *Lesson) Music(s *Step) *song.Song {
	switch s.Kind {
	case ByTeacher:
		return s.Own.at(s.Goal)
	case Rhythm:
		part := l.piece(s.Part, s.From, s.To, s.Without)
		if s.Full {
			part = cutOut(l.Song.Parts[s.Part], s.From, s.To)
		}
		part.PalmMute, part.Ring = false, false
		for i := range part.Lines {
			for j := range part.Lines[i].Bars {
				part.Lines[i].Bars[j] = drill.Dead(part.Lines[i].Bars[j])
			}
		}
		return l.song(s, part)
	case Shape:
		return l.exercise(s, drill.Take(s.Shapes[0].Shape))
	case Change:
		return l.exercise(s, drill.Change(s.Shapes[0].Shape, s.Shapes[1].Shape))
	case Piece:
		return l.song(s, l.piece(s.Part, s.From, s.To, s.Without))
	case Seam:
		return l.seam(s)
	case Form:
		return l.form(s)
	}
	return l.song(s, l.part(s.Part, s))
}

// Title is what a step's sheet is called.
func (l *Lesson) title(s *Step) string {
	name := func(i int) string { return l.Song.Parts[i].Name }
	switch {
	case s.Kind == Form && s.Part < 0:
		return l.Song.Title
	case s.Into >= 0:
		return fmt.Sprintf("%s: %s into %s", l.Song.Title, name(s.Part), name(s.Into))
	case s.Kind == Shape:
		return fmt.Sprintf("%s: %s", l.Song.Title, s.Shapes[0].Name)
	case s.Kind == Change:
		return fmt.Sprintf("%s: %s and %s", l.Song.Title, s.Shapes[0].Name, s.Shapes[1].Name)
	case s.Kind == Piece || s.Kind == Rhythm:
		if s.From == s.To {
			return fmt.Sprintf("%s: %s, bar %d", l.Song.Title, name(s.Part), s.From)
		}
		return fmt.Sprintf("%s: %s, bars %d to %d", l.Song.Title, name(s.Part), s.From, s.To)
	}
	return fmt.Sprintf("%s: %s", l.Song.Title, name(s.Part))
}

// song is a song of some parts that are played once each, at the goal of a step.
func (l *Lesson) song(s *Step, parts ...song.Part) *song.Song {
	out := *l.Song
	out.Title, out.By, out.Names = l.title(s), "", l.Song.Lift().Names
	out.Parts, out.Order = parts, nil
	first := &parts[0]
	out.Key, out.Meter, out.Feel, out.Tempo = first.Key, first.Meter, first.Feel, s.Goal
	share := s.Goal / first.Tempo
	for i := range parts {
		parts[i].Tempo = playable(parts[i].Tempo * share)
		out.Order = append(out.Order, song.Leg{Part: i, Times: 1})
	}
	return &out
}

// playable is a tempo that a sheet can have.
func playable(tempo float64) float64 { return min(max(tempo, slowest), fastest) }

// exercise is a song of the exercise of a shape or a change.
func (l *Lesson) exercise(s *Step, list []drill.Exercise) *song.Song {
	p := &l.Song.Parts[s.Part]
	e := &list[0]
	return l.song(s, song.Part{Name: p.Name, Key: p.Key, Meter: e.Meter, Tempo: s.Goal, Lines: []song.Line{{Bars: e.Bars, Times: 1}}})
}

// piece is some written bars of a part, each once, without some touches.
func (l *Lesson) piece(i, from, to int, off Touches) song.Part {
	return strip(cutOut(l.typed[i](), from, to), off)
}

// cutOut is a part with some of its bars alone, each once.
func cutOut(part song.Part, from, to int) song.Part {
	bars := slices.Clone(part.Bars()[from-1 : to])
	bars[0].Events = begun(&bars[0])
	part.Lines = nil
	for len(bars) > 0 {
		n := min(rhythmBars, len(bars))
		part.Lines = append(part.Lines, song.Line{Bars: bars[:n:n], Times: 1})
		bars = bars[n:]
	}
	return part
}

// begun are the events of a bar with silence where a sound would go on from before.
func begun(b *song.Bar) []song.Event {
	if len(b.Events) > 0 && b.Events[0].Start == b.Lead {
		return b.Events
	}
	return slices.Insert(slices.Clone(b.Events), 0, song.Event{Kind: song.Rest, Start: b.Lead})
}

// part is a whole part as its step plays it.
func (l *Lesson) part(i int, s *Step) song.Part {
	v := l.Chosen[i].Version
	if next := l.Chosen[i].Next; next != nil && s.Rung == next.Rung {
		v = next
	}
	return strip(v.Typed(&l.Song.Parts[i]), s.Without)
}

// seam is the last bar of a part and the beginning of the one that it leads into.
func (l *Lesson) seam(s *Step) *song.Song {
	from := l.piece(s.Part, s.From, s.To, s.Without)
	into := l.piece(s.Into, 1, Opening(&l.Song.Parts[s.Into]), s.Without)
	if s.Part == s.Into && into.Lines[0].Bars[0].Lead.Num() == 0 {
		last := &from.Lines[len(from.Lines)-1]
		last.Bars = append(last.Bars, into.Lines[0].Bars[0])
		return l.song(s, from)
	}
	if s.Part == s.Into {
		into.Name += " again"
	}
	return l.song(s, from, into)
}

// form is two parts in a row, or the whole way.
func (l *Lesson) form(s *Step) *song.Song {
	out := *l.Song
	out.Title, out.By, out.Names = l.title(s), "", l.Song.Lift().Names
	out.Parts, out.Order = nil, nil
	index := map[int]int{}
	add := func(i, times int) {
		if _, ok := index[i]; !ok {
			index[i] = len(out.Parts)
			part := l.part(i, &Step{Without: s.Without})
			part.Tempo = playable(part.Tempo * s.Goal / l.Song.Tempo)
			out.Parts = append(out.Parts, part)
		}
		out.Order = append(out.Order, song.Leg{Part: index[i], Times: times})
	}
	if s.Part >= 0 {
		add(s.Part, 1)
		add(s.Into, 1)
	} else {
		for _, leg := range l.Song.Order {
			add(leg.Part, leg.Times)
		}
	}
	out.Tempo = s.Goal
	return &out
}

// strip takes touches off a part.
func strip(p song.Part, off Touches) song.Part {
	if off == 0 {
		return p
	}
	if off.has(PalmMuting) {
		p.PalmMute = false
	}
	p.Lines = slices.Clone(p.Lines)
	for i := range p.Lines {
		l := &p.Lines[i]
		l.Bars = slices.Clone(l.Bars)
		for j := range l.Bars {
			b := &l.Bars[j]
			b.Events = slices.Clone(b.Events)
			for k := range b.Events {
				b.Events[k] = plainer(b.Events[k], off)
			}
		}
	}
	return p
}

// plainer is an event without some touches.
func plainer(e song.Event, off Touches) song.Event {
	e.PalmMute = e.PalmMute && !off.has(PalmMuting)
	e.Short = e.Short && !off.has(Stops)
	e.Accent = e.Accent && !off.has(Accents)
	e.Vibrato = e.Vibrato && !off.has(Vibrato)
	e.Notes = slices.Clone(e.Notes)
	for i := range e.Notes {
		n := &e.Notes[i]
		if n.By == song.Hammered && off.has(HammerOns) || n.By == song.PulledOff && off.has(PullOffs) || n.By == song.Slid && off.has(Slides) {
			n.By = song.Picked
		}
		if off.has(Slides) {
			n.In, n.Off = song.NoGlide, song.NoGlide
		}
	}
	return e
}

// Mark is the same for steps in which the same is played, at whatever tempo; empty where nothing is.
func (l *Lesson) Mark(s *Step) string {
	music := l.Music(s)
	if music == nil {
		return ""
	}
	h := fnv.New64a()
	for i := range music.Parts {
		io.WriteString(h, played(music.Parts[i].Bars()))
	}
	return strconv.FormatUint(h.Sum64(), 36)
}
