// Package arrange makes versions of a part that a student can play now: one
// finger, two notes, octaves, three notes, and the part as written with its
// fingers. The rhythm, the order and the root of every harmony stay; of all
// versions that keep them it gives the one of least work for the player, and
// every choice carries its reason.
//
// A version is made in steps, a file each: what is played and when (score.go),
// the rhythm thinned where it is too fast (thin.go), the fingerings that each
// event may have (choices.go), the teacher's pins (pins.go), the way through
// them (search.go), and the words for it (write.go, explain.go, alike.go).
package arrange

import (
	"fmt"
	"slices"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// Rung is a kind of version: a step of the ladder from the easiest to the part
// as it is written.
type Rung string

// The rungs, roughly from the bottom of the ladder; which is easier than which
// in a part is measured, not assumed.
const (
	OneFinger Rung = "one-finger"
	TwoNote   Rung = "two-note"
	Octave    Rung = "octave"
	ThreeNote Rung = "three-note"
	// EasyChords plays chords by easier voicings that are chosen together, and
	// what is written in notes as it is written.
	EasyChords Rung = "easy-chords"
	AsWritten  Rung = "as-written"
)

// Rungs lists all rungs.
var Rungs = []Rung{OneFinger, TwoNote, Octave, ThreeNote, EasyChords, AsWritten}

// ParseRung reads the name of a rung.
func ParseRung(s string) (Rung, error) {
	for _, r := range Rungs {
		if string(r) == s {
			return r, nil
		}
	}
	return "", fmt.Errorf("%q is not a rung; use one-finger, two-note, octave, three-note, easy-chords or as-written", s)
}

// Title is what the rung is called on a page.
func (r Rung) Title() string {
	return map[Rung]string{
		OneFinger: "One finger", TwoNote: "Two notes", Octave: "Octaves",
		ThreeNote: "Three notes", EasyChords: "Easier chords", AsWritten: "As written",
	}[r]
}

// Options say for whom versions are made. The zero Options make them for a
// usual player at the tempo of the part.
type Options struct {
	Player hand.Player
	Tempo  float64 // beats per minute; 0 means that of the part
	// Tuning rewrites the part for another tuning, without a capo; nil keeps
	// that of the song.
	Tuning *neck.Tuning
	// Book remembers the voicings of chords between arrangers; nil is a new
	// one.
	Book *voicing.Book
	// School is where easier chords come from; empty is Few.
	School voicing.School
}

// Version is a part made easier, or with its fingers, for one player.
type Version struct {
	Part   int // index into Song.Parts
	Rung   Rung
	Tempo  float64
	Grade  float64 // 1.0 to 10.0
	Work   float64 // what the search made as small as it can be
	Travel float64 // sum of hand shifts over the written bars, mm
	Why    []string
	// Unmet lists the pins that cannot be kept, and what is played instead.
	Unmet []Unmet
	// Even lists the rungs of a ladder that come out at the same grade.
	Even []Rung
	Bars []Bar // the written bars
}

// Bar is one written bar of a version.
type Bar struct {
	Number int     // from 1 in the part
	Demand float64 // from 0
	Hard   string  // the hardest thing in the bar, in words
	Why    []string
	Events []Event // without rests
	// Dropped lists what thinning has left out.
	Dropped []Dropped
	// Alternatives are the next best ways to finger the bar. Only
	// Arranger.Explore gives them.
	Alternatives []Alternative
}

// Event is something the student plays. Slices are shared between events
// that are alike and must not be changed.
type Event struct {
	Start  pitch.Frac // in whole notes from the start of the bar
	Length pitch.Frac
	Beat   string // the count syllable
	Notes  []Note // thick strings first; empty for a dead strum
	// Dead lists the strings that are struck without a pitch.
	Dead      []neck.String
	Fingering hand.Fingering
	Base      int     // fret of the index finger, or where it waits
	Shift     float64 // of the hand since the event before, mm
	Stroke    song.Stroke
	Muted     bool // by the palm
	Mutes     []hand.Mute
	Why       string
	Demand    float64
	Hard      string // what asks most of the hands, in words
	Pinned    bool
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

// Arranger makes the versions of one song. It remembers what they have in
// common and is not safe for use by several goroutines.
type Arranger struct {
	song     *song.Song
	options  Options
	neck     neck.Neck
	tuning   neck.Tuning // with the capo on
	written  neck.Tuning // the song's own, with the capo on
	along    [neck.MaxFret + 2][neck.MaxFret + 2]float64
	scores   map[int]*score
	melodies map[int]melody
}

// New prepares the versions of a song.
func New(s *song.Song, o Options) *Arranger {
	a := &Arranger{song: s, options: o, tuning: s.Open(), written: s.Open(), scores: map[int]*score{}, melodies: map[int]melody{}}
	a.options.Player = o.Player.Usual()
	a.options.Player.Capo = s.Capo
	if o.Tuning != nil {
		a.tuning = *o.Tuning
		a.options.Player.Capo = 0
	}
	if o.Book == nil {
		a.options.Book = new(voicing.Book)
	}
	if o.School == "" {
		a.options.School = voicing.Few
	}
	a.neck = a.options.Player.Neck()
	for i := range a.along {
		for j := range a.along {
			a.along[i][j] = a.neck.Along(i, j)
		}
	}
	return a
}

// Version makes one version of a part the way the teacher wants it.
func (a *Arranger) Version(part int, rung Rung, way Way) Version {
	w := a.solve(part, rung, way)
	w.write()
	return *w.version
}

// Explore makes a version together with the alternatives for each bar.
func (a *Arranger) Explore(part int, rung Rung, way Way) Version {
	w := a.solve(part, rung, way)
	w.write()
	w.detail()
	for b := range w.version.Bars {
		w.version.Bars[b].Alternatives = w.alternatives(b)
	}
	return *w.version
}

// HasChords tells whether a part has chords by name; without any there is
// nothing that easier chords could change.
func (a *Arranger) HasChords(part int) bool {
	bars := a.song.Parts[part].Bars()
	for b := range bars {
		for i := range bars[b].Events {
			if bars[b].Events[i].Kind == song.Chord {
				return true
			}
		}
	}
	return false
}

// Ladder makes all rungs of a part, the easiest first, each the way that ways
// has for it. Rungs of the same grade know of each other.
func (a *Arranger) Ladder(part int, ways map[Rung]Way) []Version {
	versions := make([]Version, 0, len(Rungs))
	for _, r := range Rungs {
		if r != EasyChords || a.HasChords(part) {
			versions = append(versions, a.Version(part, r, ways[r]))
		}
	}
	Order(versions)
	return versions
}

// Order puts the versions of a part in the order of their grades, and where
// those are equal of their work, and tells each which others it equals.
func Order(versions []Version) {
	slices.SortStableFunc(versions, func(a, b Version) int {
		switch {
		case a.Grade < b.Grade, a.Grade == b.Grade && a.Work < b.Work:
			return -1
		case a.Grade > b.Grade, a.Work > b.Work:
			return 1
		}
		return 0
	})
	for i := range versions {
		versions[i].Even = nil
		for j := range versions {
			if i != j && versions[i].Grade == versions[j].Grade {
				versions[i].Even = append(versions[i].Even, versions[j].Rung)
			}
		}
	}
}

// work is a version being made.
type work struct {
	*Arranger
	*score
	rung    Rung
	way     Way
	version *Version
	whole   int // octaves by which the whole part moves, for one string
	kinds   map[kindKey]*kind
	count   int32 // kinds made so far
	pairs   map[[2]int32]*pair
	needs   []need // one for each event that is played, in order
	bases   []int8 // where the hand may wait while nothing is fretted
	path    []int  // index of the state of each need
	cost    float64
}

// literal tells whether notes are played as they are written, with their
// ornaments.
func (w *work) literal() bool { return w.rung == AsWritten || w.rung == EasyChords }

// need is an event and the ways in which it can be played.
type need struct {
	*event
	*kind
	fixed  float64 // the demand that does not depend on the fingering
	pinned bool
}

// solve finds the version of least work.
func (a *Arranger) solve(part int, rung Rung, way Way) *work {
	p := &a.song.Parts[part]
	tempo := a.options.Tempo
	if tempo <= 0 {
		tempo = p.Tempo
	}
	w := &work{Arranger: a, rung: rung, way: way, version: &Version{Part: part, Rung: rung, Tempo: tempo}}
	w.score = a.scoreOf(part)
	if !w.literal() && !way.FullRhythm {
		w.score = w.thinned()
	}
	w.prepare()
	switch {
	case rung == OneFinger && way.Prefer == OneString:
		w.oneString()
	default:
		w.search()
	}
	w.version.Work = w.cost
	return w
}

// prepare gives every event its choices.
func (w *work) prepare() {
	w.kinds, w.pairs, w.count = map[kindKey]*kind{}, map[[2]int32]*pair{}, 0
	w.needs = make([]need, len(w.events))
	moved := w.movePhrases()
	main := w.mainEvents()
	for i := range w.events {
		e := &w.events[i]
		n := &w.needs[i]
		n.event = e
		n.kind = w.kindOf(kindKey{e.content, main[i], moved[i] + int8(w.whole)})
		m := w.moment(i)
		n.fixed = m.Fixed(w.options.Player)
	}
	w.rests()
	w.pin()
}
