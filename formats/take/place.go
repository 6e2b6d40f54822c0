package take

import (
	"slices"
	"strconv"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// place puts the notes of the voices whose places are not known on the neck: where the
// work of both hands is least from the first note to the last, by the arranger's search.
func (b *builder) place() {
	for i := range b.voices {
		v := &b.voices[i]
		if !v.unplaced {
			continue
		}
		if i == 0 {
			b.tune(v)
		}
		in := neck.Instrument{Tuning: b.song.Tuning}
		in.Capo = b.song.Capo
		low, high := in.Compass()
		p := placer{builder: b, in: in, low: low, high: high, name: v.of.Name}
		p.octaves(v)
		b.eachEvent(v.player, p.first)
		if !b.spend(v.player, 1) {
			b.problems.Say(v.of.Name, "split the song to have them looked for", "it has so many notes that they are put where they lie closest together, not where the hand has least to do")
			continue
		}
		b.search(v.player)
	}
}

// mostArranged is how many events of a file are arranged, each time counted: what a long song with
// two players takes, in about two seconds; mostArrangedOwn of one that this program wrote, whose
// decisions are looked at several times.
const mostArranged, mostArrangedOwn = 12_000, 60_000

// spend tells whether what a player strikes may be arranged so often, and counts it.
func (b *builder) spend(player string, times int) bool {
	n := 0
	b.eachStruck(player, func(int, *song.Event) { n++ })
	if b.ctx.Err() != nil || n*times > b.left {
		return false
	}
	b.left -= n * times
	return true
}

// lower are the tunings that are tried, in this order, for music without a tuning of its
// own that goes below the standard one.
var lower = []string{"standard", "drop D", "half step down", "whole step down", "drop C"}

// tune finds a tuning for a first voice that has none: the first of lower on which all its
// notes lie.
func (b *builder) tune(v *voice) {
	if !v.unplaced || len(v.of.Sounds) == 0 {
		return
	}
	low := slices.MinFunc(v.of.Sounds, func(x, y Sound) int { return int(x.Pitch - y.Pitch) }).Pitch
	for _, name := range lower {
		t, err := neck.Parse(name)
		if err != nil || low < t.Pitch(neck.Strings, 0) {
			continue
		}
		if b.song.Tuning = t; t != neck.Standard {
			b.problems.Say(v.of.Name, "set another tuning if it is played in one", "its lowest note is %s; %s is taken as its tuning", pitch.Key{}.Spell(low), name)
		}
		return
	}
}

// barsOf are the bars of a player on a line; nil where that player has none.
func barsOf(l *song.Line, player string) []song.Bar {
	if player == "" {
		return l.Bars
	}
	for _, v := range l.Beside {
		if v.Player == player {
			return v.Bars
		}
	}
	return nil
}

// eachEvent does something with all events of a player that have notes.
func (b *builder) eachEvent(player string, do func(part *song.Part, bar int, e *song.Event)) {
	for i := range b.song.Parts {
		p := &b.song.Parts[i]
		bar := 0
		for j := range p.Lines {
			bars := barsOf(&p.Lines[j], player)
			for k := range bars {
				for n := range bars[k].Events {
					if e := &bars[k].Events[n]; e.Kind == song.Notes && len(e.Notes) > 0 {
						do(p, bar+k+1, e)
					}
				}
			}
			bar += len(p.Lines[j].Bars)
		}
	}
}

// placer gives notes a first place, from which the search starts.
type placer struct {
	*builder
	in        neck.Instrument
	low, high pitch.Pitch
	name      string
	shift     int // octaves, of all that is played
}

// octaves finds by how many octaves the player has to be moved so that most notes lie on
// the neck.
func (p *placer) octaves(v *voice) {
	best := 0
	for _, shift := range []int{0, 1, -1, 2, -2, 3, -3, 4, -4} {
		inside := 0
		for i := range v.of.Sounds {
			if s := &v.of.Sounds[i]; !s.Dead && s.Pitch+pitch.Pitch(12*shift) >= p.low && s.Pitch+pitch.Pitch(12*shift) <= p.high {
				inside++
			}
		}
		if inside > best {
			best, p.shift = inside, shift
		}
	}
	if p.shift != 0 {
		p.problems.Say(p.name, "", "its notes do not lie on the neck; all are moved by %s", octaves(p.shift))
	}
}

func octaves(n int) string {
	return map[int]string{1: "an octave up", -1: "an octave down", 2: "two octaves up", -2: "two octaves down", 3: "three octaves up", -3: "three octaves down", 4: "four octaves up", -4: "four octaves down"}[n]
}

// first gives the notes of an event strings and frets: those closest together. What does
// not fit on six strings is left out, the inner notes first.
func (p *placer) first(part *song.Part, bar int, e *song.Event) {
	where := barName(part, bar)
	var notes []song.Note // their pitches in the place of the frets
	dead := false
	for _, n := range e.Notes {
		if n.Dead {
			dead = true
			continue
		}
		at := pitch.Pitch(n.Fret + 12*p.shift)
		for at < p.low {
			at += 12
		}
		for at > p.high {
			at -= 12
		}
		if at != pitch.Pitch(n.Fret+12*p.shift) {
			p.problems.Say(where, "", "a note that is not on the neck is moved by octaves")
		}
		n.Fret = int(at)
		notes = append(notes, n)
	}
	if len(notes) == 0 {
		if dead {
			e.Notes = []song.Note{{String: 5, Dead: true}}
		}
		return
	}
	slices.SortFunc(notes, func(x, y song.Note) int { return x.Fret - y.Fret })
	if len(notes) > neck.Strings {
		notes = p.few(where, notes)
	}
	twice := func() int {
		for i := range notes[1:] {
			if notes[i].Fret == notes[i+1].Fret {
				return i
			}
		}
		return -1
	}
	for {
		if frets, ok := p.lay(notes); ok {
			for i := range notes {
				notes[i].String, notes[i].Fret = frets[i].String, frets[i].Fret
			}
			e.Notes = notes // the old ones are those of other passes as well
			return
		}
		if i := twice(); i >= 0 { // a unison for which there is no second string
			notes = slices.Delete(notes, i, i+1)
			continue
		}
		p.problems.Say(where, "choose another voicing", innerOut)
		notes = slices.Delete(notes, len(notes)/2, len(notes)/2+1)
	}
}

// few leaves six of more notes, which are sorted: of unisons one, and then the outer ones.
func (p *placer) few(where string, notes []song.Note) []song.Note {
	more := len(notes) - neck.Strings
	kept := notes[:1]
	for _, n := range notes[1:] {
		if more > 0 && n.Fret == kept[len(kept)-1].Fret {
			more--
			continue
		}
		kept = append(kept, n)
	}
	if more > 0 {
		p.problems.Say(where, "choose another voicing", innerOut)
		kept = slices.Delete(kept, neck.Strings/2, neck.Strings/2+more)
	}
	return kept
}

const innerOut = "so many notes at once do not fit on six strings; inner ones are left out"

func barName(part *song.Part, bar int) string { return part.Name + ", bar " + strconv.Itoa(bar) }

// lay lays notes, the lowest first, on strings as close together as they can be; ok is
// false where there is no way.
func (p *placer) lay(notes []song.Note) (best []song.Note, ok bool) {
	if len(notes) > neck.Strings {
		return nil, false
	}
	cost := 0
	now := make([]song.Note, len(notes))
	var lay func(k int, below neck.String)
	lay = func(k int, below neck.String) {
		if k == len(notes) {
			low, high := neck.MaxFret, 0
			for _, n := range now {
				if n.Fret > 0 {
					low, high = min(low, n.Fret), max(high, n.Fret)
				}
			}
			if c := 100*max(high-low, 0) + high + 1; best == nil || c < cost {
				best, cost = slices.Clone(now), c
			}
			return
		}
		for s := below - 1; s >= 1; s-- {
			if at := pitch.Pitch(notes[k].Fret); p.in.Has(s, at) {
				now[k] = song.Note{String: s, Fret: p.in.Fret(s, at)}
				lay(k+1, s)
			}
		}
	}
	lay(0, neck.Strings+1)
	return best, best != nil
}

// search finds the places of least work for what a player plays, part by part. What one
// hand cannot hold together keeps its first place.
func (b *builder) search(player string) {
	alone := b.alone(player)
	a := arrange.New(alone, arrange.Options{Unplaced: true})
	for i := range alone.Parts {
		p := &b.song.Parts[i]
		if player != "" && !slices.Contains(p.Players(), player) {
			continue
		}
		v := a.Version(i, arrange.AsWritten, arrange.Way{FullRhythm: true})
		at := 0
		for j := range p.Lines {
			bars := barsOf(&p.Lines[j], player)
			for k := range bars {
				b.take(barName(p, at+k+1), &bars[k], &v.Bars[at+k])
			}
			at += len(alone.Parts[i].Lines[j].Bars)
		}
	}
}

// samePitches tells whether two lists of notes sound the same pitches: what a version plays
// in the place of what no hand can hold does not.
func (b *builder) samePitches(x, y []song.Note) bool {
	open := b.song.Open()
	pitches := func(notes []song.Note) (list []pitch.Pitch) {
		for _, n := range notes {
			list = append(list, open.Pitch(n.String, n.Fret))
		}
		slices.Sort(list)
		return list
	}
	return slices.Equal(pitches(x), pitches(y))
}

// take takes the places of a bar's notes over from a version.
func (b *builder) take(where string, bar *song.Bar, from *arrange.Bar) {
	next := 0
	for i := range bar.Events {
		e := &bar.Events[i]
		for next < len(from.Events) && from.Events[next].Start.Less(e.Start) {
			next++
		}
		if next == len(from.Events) || from.Events[next].Start != e.Start || e.Kind != song.Notes || e.Dead() {
			continue
		}
		placed := from.Events[next].Placed().Notes
		if !b.samePitches(placed, e.Notes) {
			b.problems.Say(where, "choose an easier voicing, or leave it to the easier versions", "no hand can hold these notes together; they are written as they stand")
			continue
		}
		placed = slices.Clone(placed)
		if len(placed) == 1 { // its ornaments stay
			n := e.Notes[0]
			n.String, n.Fret = placed[0].String, placed[0].Fret
			placed[0] = n
		}
		slices.SortFunc(placed, func(x, y song.Note) int { return int(y.String) - int(x.String) })
		e.Notes = placed
	}
}

// possible takes from notes what cannot be done where they lie: an open string is neither
// bent nor slid, and over a capo the neck is shorter.
func (b *builder) possible() {
	last := neck.MaxFret - b.song.Capo
	for i := range b.voices {
		b.eachStruck(b.voices[i].player, func(part int, e *song.Event) {
			beyond := slices.ContainsFunc(e.Notes, func(n song.Note) bool { return n.Fret > last })
			if e.Kind == song.Chord && slices.ContainsFunc(e.Frets[:], func(f int8) bool { return int(f) > last }) {
				e.Frets, e.Fingers, beyond = neck.NoFrets, [neck.Strings]song.Finger{}, true
			}
			if !beyond {
				return
			}
			e.Notes = slices.Clone(e.Notes)
			for k := range e.Notes {
				if n := &e.Notes[k]; n.Fret > last {
					n.Fret -= 12
					n.Finger = 0
				}
			}
			b.problems.Say(b.song.Parts[part].Name, "look at it", "over the capo the neck ends at fret %d; what lies beyond is played an octave lower", last)
		})
		b.eachEvent(b.voices[i].player, func(part *song.Part, bar int, e *song.Event) {
			for k := range e.Notes {
				n := &e.Notes[k]
				if n.Finger != 0 && (n.Fret == 0 || n.Dead) {
					e.Notes = slices.Clone(e.Notes)
					n = &e.Notes[k]
					n.Finger = 0
				}
				if n.Bend == 0 && n.In == song.NoGlide && n.Off == song.NoGlide || n.Fret > 0 && !n.Dead && n.Bend <= mostBend {
					continue
				}
				e.Notes = slices.Clone(e.Notes) // they may be those of another pass as well
				n = &e.Notes[k]
				n.Bend, n.In, n.Off = min(n.Bend, mostBend), song.NoGlide, song.NoGlide
				if n.Fret == 0 || n.Dead {
					n.Bend = 0
				}
				b.problems.Say(barName(part, bar), "give it a place where it can", "a note on an open string cannot be bent or slid; it is played without")
			}
		})
	}
}

// mostBend is how far a sheet bends a note, in cents.
const mostBend = 400
