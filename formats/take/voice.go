package take

import (
	"cmp"
	"slices"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// voice makes the events of a player: whatever begins together is one; where everything
// has ended there is silence; what sounds on beyond the next event rings.
func (b *builder) voice(p *Player, name string) voice {
	v := voice{player: name, of: p, bars: make([]song.Bar, len(b.score.Bars)), unplaced: !p.Placed && len(p.Sounds) > 0}
	for i := range v.bars {
		v.bars[i].Lead = b.measures[i].Lead
	}
	for _, i := range p.Same {
		if i > 0 && i < len(v.bars) {
			v.bars[i].Same = true
		}
	}
	for _, i := range p.Unsure {
		if i < len(v.bars) {
			v.bars[i].Unsure = true
		}
	}
	w := weaver{builder: b, voice: &v}
	if len(p.Sounds) == 0 {
		w.chords()
	} else {
		struck := b.struck(p)
		w.sounds(struck)
		v.silent = b.silent(struck)
	}
	for i := range v.bars {
		b.typable(i, &v.bars[i])
	}
	return v
}

// absolute is a moment in whole notes from the start of the score.
func (b *builder) absolute(at At) pitch.Frac { return b.begins[at.Bar].Add(at.Start) }

// struck are the sounds of a player in the order of time, those that go on with one
// before them added to it.
func (b *builder) struck(p *Player) []Sound {
	all := slices.Clone(p.Sounds)
	slices.SortStableFunc(all, func(x, y Sound) int {
		return cmp.Or(cmp.Compare(x.Bar, y.Bar), x.Start.Cmp(y.Start), cmp.Compare(y.String, x.String), cmp.Compare(x.Pitch, y.Pitch))
	})
	type key struct {
		pitch  pitch.Pitch
		string neck.String
	}
	last := map[key]int{}
	list := make([]Sound, 0, len(all))
	for _, s := range all {
		k := key{s.Pitch, s.String}
		if i, ok := last[k]; ok && s.OnWith && b.absolute(list[i].At).Add(list[i].Length) == b.absolute(s.At) {
			list[i].Length = list[i].Length.Add(s.Length)
			continue
		}
		last[k] = len(list)
		list = append(list, s)
	}
	return list
}

// silent tells of every bar whether nothing sounds when it begins.
func (b *builder) silent(sounds []Sound) []bool {
	silent := make([]bool, len(b.score.Bars))
	next, end := 0, pitch.Whole(0)
	for i := range silent {
		for ; next < len(sounds) && !b.begins[i].Less(b.absolute(sounds[next].At)); next++ {
			if until := b.absolute(sounds[next].At).Add(sounds[next].Length); end.Less(until) {
				end = until
			}
		}
		silent[i] = !b.begins[i].Less(end)
	}
	return silent
}

// weaver puts the events of a voice into its bars.
type weaver struct {
	*builder
	*voice
}

// put adds an event at a moment of the score.
func (w *weaver) put(at At, e song.Event) {
	e.Start = at.Start.Add(w.measures[at.Bar].Lead)
	bar := &w.voice.bars[at.Bar]
	bar.Events = append(bar.Events, e)
}

// where is the moment of a time in whole notes from the start; ok is false after the end.
func (w *weaver) where(time pitch.Frac) (At, bool) {
	i, found := slices.BinarySearchFunc(w.begins, time, pitch.Frac.Cmp)
	if !found {
		i--
	}
	if i >= len(w.voice.bars) {
		return At{}, false
	}
	return At{i, time.Sub(w.begins[i])}, true
}

// silence puts a rest at a time, the end of all that sounds.
func (w *weaver) silence(time pitch.Frac) {
	if at, ok := w.where(time); ok {
		w.put(at, song.Event{Kind: song.Rest})
	}
}

// strums are the chords that are struck by their names between the sounds, and when each ends: with
// the next, or with the bars in which chords are struck.
func (w *weaver) strums() (list []Chord, ends []pitch.Frac) {
	for _, n := range w.names() {
		if w.of.Strums[n.Bar] {
			list = append(list, n)
		}
	}
	for i, n := range list {
		bar := n.Bar
		for w.of.Strums[bar+1] {
			bar++
		}
		until := w.begins[bar+1]
		if i+1 < len(list) && w.absolute(list[i+1].At).Less(until) {
			until = w.absolute(list[i+1].At)
		}
		ends = append(ends, until)
	}
	return list, ends
}

// sounds puts notes into the bars.
func (w *weaver) sounds(list []Sound) {
	names := slices.DeleteFunc(w.names(), func(n Chord) bool { return w.of.Strums[n.Bar] })
	strums, ends := w.strums()
	end := pitch.Whole(0) // of all that has sounded so far
	next := 0             // of the names
	silent := func(until pitch.Frac) {
		if end.Less(until) {
			w.silence(end)
		}
		for ; next < len(names) && !until.Less(w.absolute(names[next].At)); next++ {
			if n := names[next]; n.None && w.absolute(n.At).Less(until) && !w.absolute(n.At).Less(end) {
				w.none(n.At)
			}
		}
	}
	strum := func(until pitch.Frac) {
		for ; len(strums) > 0 && w.absolute(strums[0].At).Less(until); strums, ends = strums[1:], ends[1:] {
			n := &strums[0]
			silent(w.absolute(n.At))
			if c, ok := w.parse(n); n.None {
				w.none(n.At)
			} else if ok {
				w.put(n.At, song.Event{Kind: song.Chord, Chord: c, Frets: n.Frets})
			}
			end = ends[0]
		}
	}
	all := moments(list)
	for i, m := range all {
		now := w.absolute(m[0].At)
		strum(now)
		if now.Less(end) && i > 0 {
			w.ring(all[i-1], now)
		}
		silent(now)
		for _, s := range m {
			if until := now.Add(s.Length); end.Less(until) {
				end = until
			}
		}
		w.put(m[0].At, w.event(m, names))
	}
	strum(w.begins[len(w.begins)-1])
	silent(w.begins[len(w.begins)-1])
}

// none ends the harmony where there is silence.
func (w *weaver) none(at At) {
	bar := &w.voice.bars[at.Bar]
	start := at.Start.Add(w.measures[at.Bar].Lead)
	if n := len(bar.Events); n > 0 && bar.Events[n-1].Start == start {
		bar.Events[n-1].Kind = song.NoChord
		return
	}
	w.put(at, song.Event{Kind: song.NoChord})
}

// ring marks the event of some sounds as ringing where one of them goes on after the next
// event has begun.
func (w *weaver) ring(sounds []Sound, next pitch.Frac) {
	bar := &w.voice.bars[sounds[0].Bar]
	for _, s := range sounds {
		if next.Less(w.absolute(s.At).Add(s.Length)) && !s.Dead && !w.score.Own {
			bar.Events[len(bar.Events)-1].Ring = true
		}
	}
}

// names are the chords of the player in the order of time.
func (w *weaver) names() []Chord {
	names := slices.Clone(w.of.Chords)
	slices.SortStableFunc(names, func(x, y Chord) int { return cmp.Or(cmp.Compare(x.Bar, y.Bar), x.Start.Cmp(y.Start)) })
	return names
}

// givenShape stands in the place of an event's line while a song is made: the shape of the
// chord was given, and stays.
const givenShape = 1

// event is what some sounds are that begin together.
func (w *weaver) event(sounds []Sound, names []Chord) song.Event {
	e := song.Event{Kind: song.Notes, Frets: neck.NoFrets}
	taken := map[neck.String]bool{}
	frets, dead := neck.NoFrets, neck.NoFrets
	for _, s := range sounds {
		e.Marks = merge(e.Marks, s.Marks)
		if w.unplaced {
			e.Notes = append(e.Notes, note(s))
			continue
		}
		if taken[s.String] {
			w.problems.Say("bar "+w.score.Bars[s.Bar].Name, "put it on another string", "two notes at once on string %d; the first is kept", s.String)
			continue
		}
		taken[s.String] = true
		e.Notes = append(e.Notes, s.Note)
		if s.Dead {
			dead[s.String.Index()] = 0
		} else {
			frets[s.String.Index()] = int8(s.Fret)
		}
	}
	if w.unplaced {
		return e
	}
	slices.SortFunc(e.Notes, func(x, y song.Note) int { return cmp.Compare(y.String, x.String) })
	if frets == neck.NoFrets {
		if held(dead) == neck.Strings {
			return song.Event{Kind: song.Strum, Frets: neck.NoFrets, Marks: e.Marks}
		}
		return e
	}
	if c, given, ok := w.chord(sounds[0].At, frets, names); ok && held(dead) == 0 && plainNotes(unplucked(&e)) {
		named := song.Event{Kind: song.Chord, Chord: c, Frets: frets, Marks: e.Marks, Line: given}
		for _, n := range e.Notes {
			named.Fingers[n.String.Index()] = n.Finger
		}
		if !allFingered(&named) {
			named.Fingers = [neck.Strings]song.Finger{}
		}
		return named
	}
	return e
}

// unplucked are the notes of an event without the letters of the fingers that pluck them,
// where those are what anybody would take.
func unplucked(e *song.Event) []song.Note {
	notes := slices.Clone(e.Notes)
	for i, by := range hand.Pluck(e.Strings(), nil) {
		if i < len(notes) && notes[i].Pluck == by {
			notes[i].Pluck = song.NoPluck
		}
	}
	return notes
}

// note is a sound whose place is not known, its pitch in the place of the fret: a finger that was
// given to another place says nothing of it.
func note(s Sound) song.Note {
	n := s.Note
	n.String, n.Fret, n.Finger = 0, int(s.Pitch), 0
	return n
}

// allFingered tells whether every fretted string of a voicing has a finger.
func allFingered(e *song.Event) bool {
	for i, fret := range e.Frets {
		if (fret > 0) != (e.Fingers[i] > 0) {
			return false
		}
	}
	return true
}

// held counts the strings of a shape.
func held(f neck.Frets) (n int) {
	for _, fret := range f {
		if fret >= 0 {
			n++
		}
	}
	return n
}

// plainNotes tells whether notes are without ornaments, as those of a chord are.
func plainNotes(notes []song.Note) bool {
	return !slices.ContainsFunc(notes, func(n song.Note) bool { return n != song.Note{String: n.String, Fret: n.Fret, Finger: n.Finger} })
}

// chord is the chord by whose name a shape goes: one that is named where it is struck
// and has that diagram, and of music from elsewhere also one that is named before it and
// has just these notes, three strings at least.
func (w *weaver) chord(at At, frets neck.Frets, names []Chord) (c chord.Chord, given int, ok bool) {
	i, found := slices.BinarySearchFunc(names, at, func(n Chord, at At) int { return cmp.Or(cmp.Compare(n.Bar, at.Bar), n.Start.Cmp(at.Start)) })
	if w.score.Own {
		if !found || names[i].None || names[i].Frets != frets {
			return c, 0, false
		}
		c, ok = w.parse(&names[i])
		if names[i].Given {
			given = givenShape
		}
		return c, given, ok
	}
	if !found {
		i--
	}
	if i < 0 || names[i].None || held(frets) < 3 {
		return c, 0, false
	}
	if c, ok = w.parse(&names[i]); !ok {
		return c, 0, false
	}
	// Over a capo it is the sound that is named, or the shape.
	in := neck.Instrument{Tuning: w.of.Tuning}
	shape, _ := in.Classes(frets)
	in.Capo = w.of.Capo
	sound, _ := in.Classes(frets)
	return c, 0, shape == c.Classes() || sound == c.Classes()
}

// chords puts the chords of a player that has nothing else into the bars.
func (w *weaver) chords() {
	names := w.names()
	if len(names) == 0 || w.absolute(names[0].At).Num() > 0 {
		w.silence(pitch.Whole(0))
	}
	for i := range names {
		n := &names[i]
		if n.None {
			w.none(n.At)
		} else if c, ok := w.parse(n); ok && !(i > 0 && names[i-1].At == n.At) {
			w.put(n.At, song.Event{Kind: song.Chord, Chord: c, Frets: n.Frets})
		}
	}
}

// merge joins the marks of notes that begin together.
func merge(a, b song.Marks) song.Marks {
	if a.Stroke == song.NoStroke {
		a.Stroke = b.Stroke
	}
	a.Accent, a.PalmMute, a.Short = a.Accent || b.Accent, a.PalmMute || b.PalmMute, a.Short || b.Short
	a.Vibrato, a.Ring, a.Optional = a.Vibrato || b.Vibrato, a.Ring || b.Ring, a.Optional || b.Optional
	return a
}

// typable makes a rhythm that no sheet can say one that it can: every event goes to the
// nearest of the slots that fit best.
func (b *builder) typable(i int, bar *song.Bar) {
	m := b.measures[i]
	slices.SortStableFunc(bar.Events, func(x, y song.Event) int { return x.Start.Cmp(y.Start) })
	if k := slices.IndexFunc(bar.Events, func(e song.Event) bool { return !e.Start.Less(m.Meter.Bar()) }); k >= 0 {
		b.problems.Say("bar "+b.score.Bars[i].Name, "look at its rhythm", "what is behind its %s is left out", m.Meter)
		bar.Events = bar.Events[:k]
	}
	if sheet.Typable(m, bar.Events) {
		return
	}
	best, error := int64(0), 0.0
	for _, n := range []int64{64, 48, 60, 40, 56} {
		sum := 0.0
		for _, e := range bar.Events {
			d := e.Start.Sub(snap(m, e.Start, n)).Float()
			sum += d * d
		}
		if best == 0 || sum < error {
			best, error = n, sum
		}
	}
	kept := bar.Events[:0]
	for _, e := range bar.Events {
		e.Start = snap(m, e.Start, best)
		if n := len(kept); n > 0 && kept[n-1].Start == e.Start {
			if kept[n-1].Sounds() && e.Sounds() {
				b.problems.Say("bar "+b.score.Bars[i].Name, "type the bar again", "its notes are too close together; one is left out")
			}
			if !kept[n-1].Sounds() {
				kept[n-1] = e
			}
			continue
		}
		kept = append(kept, e)
	}
	bar.Events = kept
	b.problems.Say("bar "+b.score.Bars[i].Name, "listen to it and type it as it should be", "its rhythm is finer than a sheet can say; the nearest is taken")
}

// snap is the nearest of n slots of a bar, of those in it.
func snap(m song.Measure, at pitch.Frac, n int64) pitch.Frac {
	each := m.Length().Div(pitch.Whole(n))
	k := at.Sub(m.Lead).Div(each).Add(pitch.F(1, 2)).Floor()
	return m.Lead.Add(each.Mul(pitch.Whole(min(max(k, 0), n-1))))
}
