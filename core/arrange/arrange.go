// Package arrange makes versions of a part that a student can play now: one
// finger, two notes, octaves, three notes, and the part as written with its
// fingers. The rhythm, the order and the root of every harmony stay; every
// choice carries its reason.
package arrange

import (
	"fmt"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Rung is a step of the ladder from the easiest version to the part as it is
// written.
type Rung string

// The rungs, from the bottom of the ladder.
const (
	OneFinger Rung = "one-finger"
	TwoNote   Rung = "two-note"
	Octave    Rung = "octave"
	ThreeNote Rung = "three-note"
	AsWritten Rung = "as-written"
)

// Rungs lists all rungs from the bottom of the ladder.
var Rungs = []Rung{OneFinger, TwoNote, Octave, ThreeNote, AsWritten}

// ParseRung reads the name of a rung.
func ParseRung(s string) (Rung, error) {
	for _, r := range Rungs {
		if string(r) == s {
			return r, nil
		}
	}
	return "", fmt.Errorf("%q is not a rung; use one-finger, two-note, octave, three-note or as-written", s)
}

// Title is what the rung is called on a page.
func (r Rung) Title() string {
	return map[Rung]string{
		OneFinger: "One finger", TwoNote: "Two notes", Octave: "Octaves",
		ThreeNote: "Three notes", AsWritten: "As written",
	}[r]
}

// Prefer is how a one-finger version uses the strings.
type Prefer string

// The ways of using the strings. The zero Prefer is Nearest.
const (
	Nearest   Prefer = "nearest"    // least movement, strings may change
	OneString Prefer = "one-string" // the whole part on one string where it fits
)

// Thicken is which notes of a line become chords.
type Thicken string

// The ways of thickening. The zero Thicken is All.
const (
	All     Thicken = "all"     // every note
	Accents Thicken = "accents" // the first and the longest of the bar, and accents
)

// Options say for whom and how versions are made. The zero Options make them
// for a usual player at the tempo of the part.
type Options struct {
	Player  hand.Player
	Tempo   float64 // beats per minute; 0 means that of the part
	Prefer  Prefer
	Thicken Thicken
	// Tuning rewrites the part for another tuning; nil keeps that of the song.
	Tuning *neck.Tuning
}

// Version is a part made easier, or with its fingers, for one player.
type Version struct {
	Part   int // index into Song.Parts
	Rung   Rung
	Tempo  float64
	Grade  float64  // 1.0 to 10.0
	Travel float64  // sum of hand shifts, mm
	Why    []string // what holds for the whole version
	Bars   []Bar    // the written bars
}

// Bar is one written bar of a version.
type Bar struct {
	Number int     // from 1 in the part
	Demand float64 // from 0
	Hard   string  // the hardest thing in the bar, in words
	Why    []string
	Events []Event // without rests
}

// Event is something the student plays.
type Event struct {
	Start  pitch.Frac // in whole notes from the start of the bar
	Length pitch.Frac
	Beat   string // the count syllable
	Notes  []Note // thick strings first; empty for a dead strum
	// Dead lists the strings that are struck without a pitch.
	Dead      []neck.String
	Fingering hand.Fingering
	Stroke    song.Stroke
	Muted     bool // by the palm
	Mutes     []hand.Mute
	Why       string
	Demand    float64
	// From is the event of the sheet.
	From *song.Event
}

// Note is a note of a version.
type Note struct {
	String neck.String
	Fret   int
	Finger hand.Finger
	Pitch  pitch.Spelled
}

// Arranger makes the versions of one song.
type Arranger struct {
	song    *song.Song
	options Options
	tuning  neck.Tuning // with the capo on
	written neck.Tuning // the song's own, with the capo on
	// voicings found so far, by chord symbol
	voicings map[string][]voicing.Voicing
}

// New prepares the versions of a song.
func New(s *song.Song, o Options) *Arranger {
	a := &Arranger{song: s, options: o, tuning: s.Open(), written: s.Open(), voicings: map[string][]voicing.Voicing{}}
	a.options.Player = o.Player.Usual()
	a.options.Player.Capo = s.Capo
	if o.Tuning != nil {
		// The other tuning is played without the capo.
		a.tuning = *o.Tuning
		a.options.Player.Capo = 0
	}
	return a
}

// Version makes one version of a part.
func (a *Arranger) Version(part int, rung Rung) Version {
	p := &a.song.Parts[part]
	tempo := a.options.Tempo
	if tempo <= 0 {
		tempo = p.Tempo
	}
	v := Version{Part: part, Rung: rung, Tempo: tempo}
	w := work{Arranger: a, part: p, rung: rung, clock: p.Clock(tempo), version: &v}
	w.moments()
	if rung == OneFinger && a.options.Prefer == OneString {
		w.oneString()
	} else {
		w.path = w.search(w.needs)
	}
	w.write()
	return v
}

// Ladder makes all rungs of a part, from the bottom.
func (a *Arranger) Ladder(part int) []Version {
	versions := make([]Version, len(Rungs))
	for i, r := range Rungs {
		versions[i] = a.Version(part, r)
	}
	return versions
}

// work is a version being made.
type work struct {
	*Arranger
	part    *song.Part
	rung    Rung
	clock   song.Clock
	version *Version
	bars    []song.Bar
	needs   []need // one for each event that is played, in order
	path    []place
	needsOn []need // the needs on the string that one-string has chosen
}

// need is an event and the ways in which it can be played.
type need struct {
	bar     int // index of the written bar
	from    *song.Event
	at      float64 // seconds from the start of the part
	stroke  song.Stroke
	choices []choice // never empty
	dead    []neck.String
	why     reason
}

// choice is one way to play an event.
type choice struct {
	hand.Fingering
	cost float64 // of holding it
	why  string  // what speaks for or against it, beside the need's reason
	base int     // Fingering.Base, kept at hand for the search
}

// place is a choice and where the hand is while it sounds.
type place struct {
	choice int
	base   int // fret of the index finger
}

// moments lists what is played, with its times and choices.
func (w *work) moments() {
	w.bars = w.part.Bars()
	length := w.part.Meter.Bar().Float()
	for b := range w.bars {
		strokes := hand.Strokes(w.bars[b], w.part.Meter)
		main := w.mainNotes(w.bars[b])
		for i := range w.bars[b].Events {
			e := &w.bars[b].Events[i]
			if !e.Sounds() {
				continue
			}
			n := need{bar: b, from: e, stroke: strokes[i],
				at: w.clock.At(float64(b)*length + e.Start.Float())}
			if w.rung != AsWritten && n.stroke == song.NoStroke {
				n.stroke = unwritten(e, w.part.Meter)
			}
			w.choose(&n, main[i])
			w.needs = append(w.needs, n)
		}
	}
}

// unwritten is the stroke of an event whose ornament becomes a picked note.
func unwritten(e *song.Event, m song.Meter) song.Stroke {
	picked := *e
	picked.Kind, picked.Notes = song.Strum, nil
	return hand.Strokes(song.Bar{Events: []song.Event{picked}}, m)[0]
}

// mainNotes tells, for each event of a bar, whether it is one that a
// thickened version makes big.
func (w *work) mainNotes(b song.Bar) []bool {
	main := make([]bool, len(b.Events))
	first, longest := -1, -1
	for i := range b.Events {
		e := &b.Events[i]
		main[i] = w.options.Thicken != Accents || e.Accent || e.Kind == song.Chord
		if !e.Sounds() || e.Dead() {
			continue
		}
		if first < 0 {
			first = i
		}
		if longest < 0 || b.Events[longest].Length.Less(e.Length) {
			longest = i
		}
	}
	if first >= 0 {
		main[first], main[longest] = true, true
	}
	return main
}

// write turns the path that was found into the bars of the version.
func (w *work) write() {
	v := w.version
	v.Bars = make([]Bar, len(w.bars))
	for b := range v.Bars {
		v.Bars[b].Number = b + 1
	}
	player := w.options.Player
	neckOf := player.Neck()
	previous := hand.Silent
	var all []float64
	moments := make([][]float64, len(w.bars))
	hardest := make([]float64, len(w.bars))
	linked := make([]links, len(w.bars))
	said := make([]grouped, len(w.bars))
	for i := range w.needs {
		n := &w.needs[i]
		at := w.path[i]
		c := n.choices[at.choice]
		profile := grade.Hold(c.Fingering, player)
		mm, seconds, pace := 0.0, 0.0, 0.0
		if i > 0 {
			seconds = n.at - w.needs[i-1].at
			mm = neckOf.Along(at.base, w.path[i-1].base)
			profile = profile.Plus(grade.Move(previous, c.Fingering, mm, seconds))
			if n.stroke != song.NoStroke {
				pace = w.pace(i)
				profile = profile.Plus(grade.Strokes(pace, player))
			}
			v.Travel += mm
		}
		total := profile.Total()
		all = append(all, total)
		moments[n.bar] = append(moments[n.bar], total)
		bar := &v.Bars[n.bar]
		if total > hardest[n.bar] {
			hardest[n.bar] = total
			if profile.Worst() == grade.Speed {
				seconds = pace
			}
			bar.Hard = fmt.Sprintf("on %s: %s", w.part.Meter.Syllable(n.from.Start, ""),
				grade.Words(profile.Worst(), previous, c.Fingering, mm, seconds, player))
		}
		bar.Events = append(bar.Events, w.event(n, c, total))
		said[n.bar].add(n.why)
		said[n.bar].add(reason{n.why.what, c.why})
		if c.Frets != neck.NoFrets {
			linked[n.bar].change(previous, c.Fingering)
			previous = c.Fingering
		}
	}
	for b := range v.Bars {
		v.Bars[b].Demand = grade.Of(moments[b])
		v.Bars[b].Why = w.reasons(b, &v.Bars[b], said[b], linked[b])
	}
	v.Grade = grade.Scale(grade.Of(all))
	v.Why = append(v.Why, w.overall()...)
}

// pace is the time from stroke to stroke around event i, in seconds: the mean
// of the last three intervals, since two quick notes alone are no run.
func (w *work) pace(i int) float64 {
	first := max(i-3, 0)
	return (w.needs[i].at - w.needs[first].at) / float64(i-first)
}

// event writes one event of the version.
func (w *work) event(n *need, c choice, demand float64) Event {
	e := Event{
		Start: n.from.Start, Length: n.from.Length,
		Beat:      w.part.Meter.Syllable(n.from.Start, ""),
		Fingering: c.Fingering, Stroke: n.stroke,
		Muted: n.from.Muted(w.part), Mutes: c.Mutes(),
		Dead: n.dead, Why: n.why.String(), Demand: demand, From: n.from,
	}
	if c.why != "" {
		e.Why += "; " + c.why
	}
	names := w.names(n.from)
	for i, fret := range c.Frets {
		if fret < 0 {
			continue
		}
		s := neck.StringAt(i)
		p := w.tuning.Pitch(s, int(fret))
		if w.rung == AsWritten {
			p += w.bent(n.from, s)
		}
		e.Notes = append(e.Notes, Note{String: s, Fret: int(fret), Finger: c.Fingers[i], Pitch: names.At(p)})
	}
	return e
}

// bent is how much higher than its fret a written note sounds.
func (w *work) bent(e *song.Event, s neck.String) pitch.Pitch {
	for _, n := range e.Notes {
		if n.String == s && w.options.Tuning == nil {
			return n.Pitch(w.written) - w.written.Pitch(s, n.Fret)
		}
	}
	return 0
}
